#include "core/instrument/fret_work.hpp"

#include <algorithm>
#include <cmath>

namespace wren {
namespace {

/// Volume under the crown and over a level floor inside a ring: the trapezoid rule on rows across it, exact in x for
/// straight edges.
double room_over(const Fretboard& board, const Polygon& ring, double floor) {
  constexpr int rows = 64;
  constexpr int columns = 32;
  const Box2 box = bounds(ring);
  const double pace = box.size().y / rows;
  double sum = 0;
  for (int j = 0; j < rows; ++j) {
    const double y = box.low.y + (j + 0.5) * pace;
    const auto cuts = crossings(ring, {0, y}, {1, 0});
    for (std::size_t k = 0; k + 1 < cuts.size(); k += 2) {
      const double wide = cuts[k + 1] - cuts[k];
      for (int i = 0; i < columns; ++i)
        sum += std::max(0.0, board.crown_height({cuts[k] + wide * (i + 0.5) / columns, y}) - floor) * wide / columns *
               pace;
    }
  }
  return sum;
}

}  // namespace

SlotPlay slot_play(FretsHeld held) {
  switch (held) {
    case FretsHeld::pressed: return {0.02, 0.06};
    case FretsHeld::pressed_glue: return {0.02, 0.10};
    case FretsHeld::glued: return {0.05, 0.28};
  }
  return {};
}

double slot_spread(const Instrument& in) {
  if (in.frets.held == FretsHeld::glued) return 0;
  return practice::wedge_share * std::max(0.0, in.frets.barb_width - in.slot.width);
}

double back_bow(const Fretboard& board) {
  const std::size_t n = board.frets.size();
  if (n < 2) return 0;
  const double between = board.frets.back().middle().x - board.frets.front().middle().x;
  const double strain = slot_spread(board.given) * static_cast<double>(n - 1) / between;
  const double h = board.given.board.thickness;
  const double h1 = std::min(board.given.slot.depth, h);
  return 6 * strain * h1 * (h - h1) / (h * h * h) * between * between / 8;
}

double filling_volume(const Fretboard& board) {
  double sum = 0;
  for (const Mark& m : board.marks) sum += room_over(board, m.outline, m.floor);
  for (const EdgeTick& t : board.ticks) {
    const Vec2 u = unit(t.outer - t.inner);
    const Vec2 side = left_of(u) * (t.width / 2);
    const Vec2 edge = t.edge;
    // A half circle at its inner end, straight to the edge.
    sum += room_over(board, {t.inner - side, edge - side, edge + side, t.inner + side}, t.floor);
    Polygon half;
    for (int k = 0; k <= 24; ++k) {
      const double a = 1.5707963267948966 + 3.141592653589793 * k / 24;
      half.push_back(t.inner + u * (std::cos(a) * t.width / 2) + side * std::sin(a));
    }
    if (signed_area(half) < 0) std::reverse(half.begin(), half.end());
    sum += room_over(board, half, t.floor);
  }
  return sum;
}

double deepest_filling(const Fretboard& board) {
  double deep = 0;
  for (const Mark& m : board.marks)
    for (const Vec2 p : m.outline) deep = std::max(deep, board.crown_height(p) - m.floor);
  for (const Mark& m : board.marks) deep = std::max(deep, board.crown_height(m.centre) - m.floor);
  for (const EdgeTick& t : board.ticks) deep = std::max(deep, board.crown_height(t.inner) - t.floor);
  return deep;
}

int pours_of(const Fretboard& board) {
  const double deep = deepest_filling(board);
  if (deep <= 0 || board.given.marks.filling != Filling::resin) return 0;
  return static_cast<int>(std::ceil(deep / std::max(0.1, board.given.marks.pour) - 1e-9));
}

}  // namespace wren
