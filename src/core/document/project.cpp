#include "core/document/project.hpp"

namespace wren {

const Measured* measured_in_use(const std::vector<Measured>& all, const std::string& key) {
  const Measured* last = nullptr;
  for (const Measured& m : all)
    if (m.key == key && m.in_use) last = &m;
  return last;
}

double in_use(const Project& p, const std::string& key, double designed) {
  const Measured* m = measured_in_use(p.measured, key);
  return m != nullptr ? m->value : designed;
}

}  // namespace wren
