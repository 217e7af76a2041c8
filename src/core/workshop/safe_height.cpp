#include "core/workshop/safe_height.hpp"

#include <algorithm>

namespace wren {

double safe_height(const Setup& setup, double clear) {
  double z = clear;
  for (const auto& box : setup.solids())
    if (!box.beside) z = std::max(z, box.high.z + clear);
  return z;
}

}  // namespace wren
