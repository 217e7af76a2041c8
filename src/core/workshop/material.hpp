// Materials: what a blank is of, woods and sheets alike, with what a cutter, a scale and a lung need to know of it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/report/problem.hpp"

namespace wren {

enum class Hardness { soft, medium, hard };
enum class Grain { along, crossed, none };                // of a board; of plywood; none at all
enum class Dust { wood, fine, harmful, plastic, fumes };  // fine: fibreboard; harmful: irritates or sensitises
enum class MaterialKind { hardwood, softwood, sheet, plastic };

/// Figures at 12 % moisture. `source` says where they are from.
struct Material {
  std::string name;  // one word, as it is typed: letters, digits, hyphens
  MaterialKind kind = MaterialKind::hardwood;
  double density = 700;                  // kg/m³
  Hardness hardness = Hardness::medium;  // class, for chip loads
  double cutting_force = 25;             // specific, N per mm² of chip; common practice
  double modulus = 11;                   // GPa along the grain
  double side_hardness = 0;              // N, a ball of 11.28 mm pressed in by half (ASTM D143); 0: not known
  double shrink_radial = 0;              // % from green to oven-dry; 0: not known
  double shrink_tangential = 0;          // %
  Grain grain = Grain::along;
  bool melts = false;
  Dust dust = Dust::wood;
  std::string source;
  friend bool operator==(const Material&, const Material&) = default;
};
using Materials = std::vector<Material>;

constexpr std::size_t most_materials = 200;  // of a project's own
constexpr std::size_t longest_material_name = 30;

/// The table that ships with the program, by name.
[[nodiscard]] const Materials& known_materials();

/// The project's own entry first, then the table's. An unknown name is a Problem that names what is near.
[[nodiscard]] Expected<Material> find_material(const Materials& own, const std::string& name);

/// A new entry with another's figures: "like cherry" is enough to start.
[[nodiscard]] Expected<Material> material_like(const Materials& own, const std::string& name, const std::string& like);

/// The entry among those, in place of one of its name. Refused where there are too many.
[[nodiscard]] std::optional<Problem> take_material(Materials& own, const Material& material);

/// What is wrong with an entry: its name, or a figure outside what any wood or sheet has.
[[nodiscard]] std::vector<Problem> check_material(const Material& material);

/// Change of a width in mm as its moisture goes from one percentage to another (both under 30, fibre saturation):
/// ΔD = D·(M₁ − M₀) / (30·100/S − 30 + M₀), S the shrinkage in % along that width (Wood Handbook, FPL-GTR-282, ch. 13).
[[nodiscard]] double moisture_change(double width_mm, double shrink_percent, double moisture, double moisture_later);

[[nodiscard]] const char* dust_words(Dust dust);  // the caution; nullptr for plain wood
[[nodiscard]] std::string kind_word(MaterialKind kind);
[[nodiscard]] std::string hardness_word(Hardness hardness);
[[nodiscard]] std::string grain_word(Grain grain);
[[nodiscard]] std::string dust_word(Dust dust);

}  // namespace wren
