#include "core/document/project.hpp"

namespace wren {

const Measured* measured_in_use(const std::vector<Measured>& all, const std::string& key) {
  const Measured* last = nullptr;
  for (const Measured& m : all)
    if (m.key == key && m.in_use) last = &m;
  return last;
}

std::size_t weight_beside(const Project& p, const Project& other) {
  std::size_t bytes = sizeof p + p.parts.weight_beside(other.parts);
  bytes += p.name.size() + p.notes.size() + p.unknown.size() + p.rack.size() * (sizeof(Cutter) + 32) +
           p.materials.size() * (sizeof(Material) + 32) + p.pictures.size() * (sizeof(PlacedPicture) + 96);
  return bytes;
}

void give_id(Project& project, const std::string& random) {
  if (!project.record.id.empty() || random.size() < 32) return;
  std::string id = random.substr(0, 32);
  id[12] = '4';  // version and variant, RFC 4122, 4.4
  id[16] = "89ab"[static_cast<std::size_t>(id[16]) % 4];
  project.record.id =
      id.substr(0, 8) + "-" + id.substr(8, 4) + "-" + id.substr(12, 4) + "-" + id.substr(16, 4) + "-" + id.substr(20);
}

Project without_facts(Project p) {
  p.pictures.clear();  // they stand beside the other's file
  p.record = {};       // what a cutter measures is the cutter's, and stays with the rack
  return p;
}

double in_use(const Project& p, const std::string& key, double designed) {
  const Measured* m = measured_in_use(p.record.measured, key);
  return m != nullptr ? m->value : designed;
}

}  // namespace wren
