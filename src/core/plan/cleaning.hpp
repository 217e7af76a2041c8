// Cleaning a drawing: doubles dropped, ends joined, short segments turned back into arcs, circles and curves, and what
// stayed open or crosses itself told with its place. Lengths in mm, the frame is the drawing's.
#pragma once

#include <string>

#include "core/plan/recover.hpp"

namespace wren {

/// One path as a file has it: arcs and curves already as chords.
struct DrawnPath {
  std::string layer;
  double elevation = 0;
  bool closed = false;
  Polygon points;
};

struct CleaningOptions {
  double join = 0.05;  // ends within this are one place
  RecoverOptions recover;
};

struct CleanedPath {
  std::string layer;
  bool closed = false;
  Polygon points;  // before recovery, joined
  Recovered shape;
  std::optional<Vec2> crosses;  // where it crosses itself
};

struct Cleaned {
  std::vector<CleanedPath> paths;  // closed ones first, the largest first
  std::size_t segments_before = 0;
  std::size_t doubles = 0;
  std::size_t zero_length = 0;
  std::size_t joined = 0;  // ends that were brought together
  double worst = 0;        // mm: farthest corner of the drawing from the result
  std::vector<Vec2> open_ends;
  /// Between open ends of one layer that lie nearest one another, up to 5 mm: what a wider `join` would close. The
  /// narrowest first.
  struct Gap {
    Vec2 a, b;
    [[nodiscard]] double size() const { return distance(a, b); }
  };
  std::vector<Gap> gaps;
  std::vector<Vec2> crossings;
};

/// Open paths of one layer and elevation whose ends lie within `join` become one; linear in their number.
[[nodiscard]] std::vector<DrawnPath> join_ends(std::vector<DrawnPath> paths, double join, std::size_t* joins = nullptr);

[[nodiscard]] Cleaned clean(std::vector<DrawnPath> paths, const CleaningOptions& options = {});

}  // namespace wren
