// What the strings pull and how the neck gives way: tensions, bending stiffness along the neck, relief. Units: N, mm,
// MPa (N/mm²).
//
// String tension T = μ·(2·L·f)² (ideal string; Fletcher & Rossing, ch. 2). Bending w″ = M/EI of a composite section
// about its common neutral axis (Roark's Formulas; textbook statics). The rod itself is left out: it is there to undo
// what this shows.
#pragma once

#include <functional>

#include "core/instrument/neck_shape.hpp"

namespace wren {

struct NeckWoods {
  double neck_gpa = 10;
  double board_gpa = 8;
  double bar_gpa = 120;       // carbon bars along their fibres (common practice)
  double neck_density = 610;  // kg/m³
  /// Where the neck is glued of strips: stiffness at a y of the plan; empty: neck_gpa everywhere.
  std::function<double(double y)> neck_gpa_at{};
};

struct StringPull {
  std::vector<double> frequency;  // Hz
  std::vector<double> tension;    // N, bass first
  double total = 0;
};

/// Mass per length in kg/m: plain steel up to 0.55 mm, wound above, whose windings leave air (0.86 of solid; common
/// practice).
[[nodiscard]] double string_mass(double gauge_mm);
[[nodiscard]] StringPull string_pull(const Fretboard& board, const std::string& tuning);

struct SectionStiffness {
  double x = 0;
  double ei = 0;         // N·mm²
  double neutral_z = 0;  // of the common neutral axis, instrument z
  double area = 0;       // mm² of neck wood
};
[[nodiscard]] SectionStiffness section_stiffness(const NeckShape& neck, double x, const NeckWoods& woods);

struct NeckBend {
  std::vector<SectionStiffness> along;  // nut to heel
  std::vector<double> moment;           // N·mm, as many
  double relief = 0;                    // greatest gap under a straightedge from nut to heel, mm
  double relief_x = 0;
  double nut_rise = 0;  // of the nut against the heel, mm
};
[[nodiscard]] NeckBend neck_bend(const NeckShape& neck, const StringPull& pull, const NeckWoods& woods);

struct NeckWeight {
  double volume_mm3 = 0;
  double grams = 0;
  Vec2 balance;  // plan
};
/// `density` in kg/m³. For a neck of strips their mean over the neck's width will do: they run along it.
[[nodiscard]] NeckWeight neck_weight(const NeckShape& neck, double density);

}  // namespace wren
