// Strand: one unbroken piece of cutting, from the plunge to the retract. Strategies make strands and nothing else; safe
// heights, links and order belong to motion/. Frame: instrument (z = 0 on the underside of the part). Lengths mm, feeds
// mm/min.
#pragma once

#include <string>
#include <vector>

#include "core/plan/polyline.hpp"
#include "core/words/words.hpp"

namespace wren {

enum class StepKind : unsigned char { line, arc_cw, arc_ccw };  // arcs in plan, z running evenly along them

struct Step {
  Vec3 to;
  Vec2 centre;  // arcs only
  double feed = 0;
  StepKind kind = StepKind::line;
};

struct Strand {
  Vec3 start;         // reached from above at plunge feed, from no further than `free_z` at rapid
  double free_z = 0;  // no wood stands above this z at the start
  double plunge_feed = 0;
  std::vector<Step> steps;
  [[nodiscard]] Vec3 end() const { return steps.empty() ? start : steps.back().to; }
};

struct Cut {
  std::string id;      // "slots", "marks", "crown", "crown-again", "outline"
  Words title;         // for people: "Fret slots"
  std::string cutter;  // rack identity
  double rpm = 0;
  double feed = 0;  // the main cutting feed, for the sheet
  double plunge = 0;
  Words feed_reason;         // what limited it
  double deepest = 0;        // lowest tip z
  bool stop_before = false;  // the operator does something first (fills the marks)
  std::string stop_text;
  std::vector<Strand> strands;
};

/// Appends lines to the strand's steps. A strand without a start yet must be given one first.
void append_lines(Strand& strand, const std::vector<Vec3>& points, std::size_t from, double feed);

}  // namespace wren
