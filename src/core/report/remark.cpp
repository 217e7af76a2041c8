#include "core/report/remark.hpp"

#include <algorithm>

namespace wren {

const char* weight_name(Weight weight) {
  switch (weight) {
    case Weight::stop: return "stop";
    case Weight::think_again: return "think again";
    case Weight::worth_knowing: return "worth knowing";
    case Weight::caution: return "caution";
  }
  return "";
}

bool stops_work(const std::vector<Remark>& remarks) {
  return std::any_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.weight == Weight::stop; });
}

}  // namespace wren
