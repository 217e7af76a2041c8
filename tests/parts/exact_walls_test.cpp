// Every upright wall of what a part's design wants is held exactly, from the moves: what is left to cells is held to
// their size, which is coarser than the plan's tolerance.
#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

constexpr double upright = 0.8;  // mm that it falls at once

/// Places where the finished surface falls off upright along `from` to `to`.
std::vector<Vec2> falls(const Height& finished, Vec2 from, Vec2 to) {
  constexpr double step = 0.2;
  std::vector<Vec2> out;
  const int n = static_cast<int>(distance(from, to) / step);
  const auto at = [&](double k) { return lerp(from, to, k / n); };
  double before = finished(from);
  for (int k = 1; k <= n; ++k) {
    const double here = finished(at(k));
    if (std::abs(here - before) > upright) {
      double a = k - 1;
      double b = k;
      double high = before;
      for (int halved = 0; halved < 12; ++halved) {
        const double middle = (a + b) / 2;
        const double now = finished(at(middle));
        (std::abs(now - high) > std::abs(here - high) / 2 ? b : a) = middle;
        if (a == middle) high = now;
      }
      if (std::abs(finished(at(b)) - finished(at(a))) > upright) out.push_back(at(b));
    }
    before = here;
  }
  return out;
}

/// Upright walls of a side that no exact wall and no slot stands for, as "side: x, y".
/// `through`: walls of what the other side has cut through.
std::vector<std::string> left_to_cells(const PieceSide& side, const Region& through, const Region& plugs,
                                       std::size_t& walls) {
  constexpr double beside_outline = 1.2;  // mm: the outline's own
  constexpr double pace = 4.3;            // mm
  Region exact;
  for (const WallDesign& w : side.design.walls) exact.push_back(w.loop);
  const Nearness near(exact, 0.5);
  const Nearness open(through, 0.5);
  const Nearness plug(plugs, 0.5);  // a hand takes them out
  const Nearness edge(side.design.outline, 2);
  const Box2 box = bounds(side.design.outline);
  std::vector<std::string> out;
  const auto look = [&](Vec2 from, Vec2 to) {
    for (const Vec2 p : falls(side.design.finished, from, to)) {
      if (!contains(side.design.outline, p) || edge.distance_within(p) < beside_outline) continue;
      // In the glue, where nothing is fitted, more may stand than cells overlook.
      if (side.design.loose && side.design.loose(p) > 0) continue;
      if (plug.distance_within(p) < 0.3) continue;
      ++walls;
      const bool slot = std::any_of(side.design.slots.begin(), side.design.slots.end(), [&](const SlotDesign& s) {
        return distance_to(p, {s.a, s.b}) < s.width / 2 + 0.05;
      });
      if (!slot && open.distance_within(p) > 0.06 && near.distance_within(p) > 0.06)
        out.push_back(fmt::format("{}: x {:.2f}, y {:.2f}", side.name, p.x, p.y));
    }
  };
  for (double y = box.low.y + 0.37; y < box.high.y; y += pace) look({box.low.x, y}, {box.high.x, y});
  for (double x = box.low.x + 0.37; x < box.high.x; x += pace) look({x, box.low.y}, {x, box.high.y});
  return out;
}

/// A place within a ring, beside its first edge.
Vec2 inside(const Polygon& ring) {
  const Vec2 way = unit(ring[1] - ring[0]);
  return lerp(ring[0], ring[1], 0.5) + left_of(way) * 0.05;
}

struct Shop {
  const char* start;
  Edits edits;
  std::vector<std::string> parts;
};

}  // namespace

TEST_CASE("every upright wall of a part is held from the moves, none by cells alone") {
  const std::vector<std::string> large{"coupon", "cover", "fretboard", "neck", "body"};
  const std::vector<Shop> shops{
      {"reedling", {{"nut.seat", "slot"}, {"bridge.string_through", "yes"}}, large},
      {"sedge", {{"nut.seat", "slot"}, {"marks.side", "ticks"}}, large},
      {"plain", {{"neck.build", "one_piece"}, {"marks.shape", "block"}}, {"neck"}},
      {"plain", {{"slot.ends", "blind"}}, {"coupon", "fretboard"}},
      {"reedling",
       {{"frets.when", "board_loose"},
        {"bridge.holes", "held_back"},
        {"control.floor_edges", "rounded"},
        {"plate.thickness", "2.5"},
        {"body.pocket_from", "sample"},
        {"wire.jack_when", "body_finished"},
        {"neck.holding", "cradle"}},
       {"body", "heel-sample", "jack-guide", "caul", "waste-board", "scratch-plate"}},
      {"reedling",
       {{"body.layers", "top ash 6.5; core pine 25; back ash 9.5"},
        {"control.by_layer", "yes"},
        {"control.face_left", "6.5"}},
       {"body"}},
      {"reedling",
       {{"body.top_oversize", "6"}, {"body.top_register", "holes"}, {"body.blank.length", "500"}},
       {"body"}},
      {"bass", {}, {"neck", "body"}},
  };
  for (const Shop& shop : shops) {
    const Project p = edited(*project_from(shop.start), shop.edits);
    const bool layered = !shop.edits.empty() && shop.edits.front().first == "body.layers";
    for (const std::string& part : shop.parts) {
      const Made m = made(p, part);
      std::size_t walls = 0;
      for (const Piece& piece : m.planned.made.pieces) {
        // What is drilled later into the finished body finds its cavities there, and what is glued of layers theirs.
        if (piece.id == "bridge" || (layered && piece.id == "body")) continue;
        const PieceRequest r = m.request(0, piece.id);
        Region plugs;
        for (const WindowDesign& w : r.windows) plugs.push_back(turned(r.sides.front().setup.turn, w.plug));
        std::erase_if(plugs, [](const Polygon& plug) { return plug.empty(); });
        for (const PieceSide& side : r.sides) {
          Region through;
          for (const PieceSide& other : r.sides)
            for (const WallDesign& w : other.design.walls)
              if (&other != &side && other.design.finished(inside(w.loop)) < -1e5)
                through.push_back(turned(side.setup.turn, turned(other.setup.turn, w.loop)));
          for (const std::string& wall : left_to_cells(side, through, plugs, walls)) {
            INFO(shop.start << ' ' << part << ' ' << wall);
            CHECK(false);
          }
        }
      }
      INFO(shop.start << ' ' << part);
      if (std::find(large.begin() + 2, large.end(), part) != large.end()) CHECK(walls > 20);
    }
  }
}

}  // namespace wren
