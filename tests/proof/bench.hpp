// A small plate in a small blank, with every program written by hand: the proof's rules are tried on it without any
// planner. The plate is 40 × 30 × 10 in a blank of 80 × 60, with a pocket of 12 × 10 × 3, a hole of 3 through it, and
// two tabs; its side frame's z is 0 on the bed.
#pragma once

#include <catch2/catch.hpp>

#include <cmath>

#include <fmt/format.h>

#include "core/proof/piece.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren::bench {

constexpr double thick = 10;
constexpr double through = 0.2;
constexpr Vec2 low{20, 15};
constexpr Vec2 high{60, 45};
constexpr Vec2 pocket_low{26, 22};
constexpr Vec2 pocket_high{38, 32};
constexpr double pocket_deep = 3;
constexpr Vec2 hole_at{50, 36};
constexpr double tab_high = 2;
constexpr double tab_long = 5;

inline Rack rack() {
  Cutter flat;
  flat.id = "flat-4";
  flat.number = 1;
  flat.kind = CutterKind::flat;
  flat.diameter = 4;
  flat.cutting_length = 12;
  flat.overall = 50;
  flat.stickout = 25;
  flat.nut_diameter = 20;
  Cutter drill = flat;
  drill.id = "drill-3";
  drill.number = 2;
  drill.kind = CutterKind::drill;
  drill.diameter = 3;
  drill.cutting_length = 20;
  Cutter facer = flat;
  facer.id = "facer-4";
  facer.number = 3;
  facer.kind = CutterKind::facing;
  facer.centre_cutting = false;
  Cutter stubby = flat;
  stubby.id = "stubby-4";
  stubby.number = 4;
  stubby.cutting_length = 4;
  stubby.shank_diameter = 6;
  Cutter low_nut = flat;
  low_nut.id = "low-4";
  low_nut.number = 5;
  low_nut.stickout = 9;
  low_nut.overall = 40;
  return {flat, drill, facer, stubby, low_nut};
}

/// One more for a test of its own, in all else like the flat one.
inline Cutter cutter(const char* id, int number, CutterKind kind, double diameter) {
  Cutter out = rack().front();
  out.id = id;
  out.number = number;
  out.kind = kind;
  out.diameter = diameter;
  return out;
}

inline Setup setup() {
  Setup s;
  s.blank.length = 80;
  s.blank.width = 60;
  s.blank.thickness = thick;
  s.blank_size = {80, 60};
  s.to_work.shift = {0, 0, -thick};
  s.zero_in_machine = {200, 300, thick};
  s.board_low = {low.x, low.y, -thick};
  s.board_high = {high.x, high.y, 0};
  s.probe = Setup::Probe{{8, 8}, false};
  return s;
}

inline std::string at(double x, double y) { return fmt::format("X{:.3f}Y{:.3f}", x, y); }

/// The programs' numbers, each of which a test may spoil.
struct Numbers {
  double feed = 1200;
  double plunge = 300;
  double rpm = 18000;
  double level = 1;  // mm of the outline's passes
  double ramp = 10;  // mm of way for a level's ramp
  double bottom = -(thick + through);
  double aside_x = 0, aside_y = 0;  // of the outline
  double grown = 0;                 // all round
  double tab = tab_high;
  int tabs = 2;
  double tab_length = tab_long;
  double pocket_aside = 0;
  double pocket_grown = 0;
  double pocket_floor = -pocket_deep;
  bool pocket = true;
  double hole_aside = 0;
  double peck = 2;
  double hole_bottom = -(thick + 1.1);  // its point comes through
  bool hole = true;
  bool outline = true;
  double lift = 5;                  // over the blank, of rapids
  std::string outline_tool = "T1";  // words
  std::string between{};            // lines between pocket and outline
  std::string before_end{};         // lines before the last retract of the outline
};

inline std::string head(const std::string& tool, const Numbers& n) {
  return "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G61\nG53 G0 Z0\n" + tool + " M6\nG53 G0 Z0\n" +
         fmt::format("S{:.0f} M3\nG4 P3\n", n.rpm);
}
inline std::string tail() { return "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nM30\n"; }

/// The pocket: down by a ramp, back and forth, then once round its walls. Corners stay as round as the cutter.
inline std::string pocket(const Numbers& n) {
  const double r = 2 - n.pocket_grown;
  const double x0 = pocket_low.x + r + n.pocket_aside;
  const double x1 = pocket_high.x - r + n.pocket_aside;
  const double y0 = pocket_low.y + r;
  const double y1 = pocket_high.y - r;
  std::string out = "G0" + at(x0, y0) + fmt::format("\nZ{:.3f}\nG1Z0.000F{:.0f}\n", n.lift, n.plunge);
  for (double z = 0; z > n.pocket_floor + 1e-9;) {
    z = std::max(n.pocket_floor, z - 1.5);
    out += "G1" + at(x1, y0) + fmt::format("Z{:.3f}F{:.0f}\n", z, n.feed) + at(x0, y0) + "\n";
    for (double y = y0; y <= y1 + 1e-9; y += (y1 - y0) / 4)
      out += at(x0, y) + "\n" + at(x1, y) + "\n" + at(x0, y) + "\n";
    out += at(x1, y1) + "\n" + at(x1, y0) + "\n" + at(x0, y0) + "\n";
  }
  return out + fmt::format("G0Z{:.3f}\n", n.lift);
}

/// Round the plate, level by level down a ramp, over its tabs at the middle of the long sides.
inline std::string outline(const Numbers& n) {
  const double r = 2 + n.grown;
  const double x0 = low.x - r + n.aside_x;
  const double x1 = high.x + r + n.aside_x;
  const double y0 = low.y - r + n.aside_y;
  const double y1 = high.y + r + n.aside_y;
  std::string out = "G0" + at(x0, y0) + fmt::format("\nZ{:.3f}\nG1Z0.000F{:.0f}\n", n.lift, n.plunge);
  const double middle = (x0 + x1) / 2;
  const double half = (n.tab_length + 4) / 2;  // the way over it: its length and the cutter
  for (double z = 0; z > n.bottom + 1e-9;) {
    const double to = std::max(n.bottom, z - n.level);
    out += "G1" + at(x0, y0 + n.ramp) + fmt::format("Z{:.3f}F{:.0f}\n", to, n.ramp > 0 ? n.feed : n.plunge) +
           at(x0, y0) + fmt::format("F{:.0f}\n", n.feed);
    const double top = -thick + n.tab;
    const auto side = [&](double y, double from, double end, bool tab) {
      if (tab && to < top) {
        const double d = from < end ? 1 : -1;
        out += at(middle - d * half, y) + "\n" + fmt::format("Z{:.3f}\n", top) + at(middle + d * half, y) + "\n";
        // Down again beside it, along the way that is cut already on the level above.
        out += at(middle + d * (half + 8), y) + fmt::format("Z{:.3f}\n", to) + at(middle + d * half, y) + "\n";
      }
      out += at(end, y) + "\n";
    };
    side(y0, x0, x1, n.tabs > 0);
    out += at(x1, y1) + "\n";
    side(y1, x1, x0, n.tabs > 1);
    out += at(x0, y0) + "\n";
    z = to;
  }
  return out + n.before_end + fmt::format("G0Z{:.3f}\n", n.lift);
}

inline std::string hole(const Numbers& n) {
  std::string out = "G0" + at(hole_at.x + n.hole_aside, hole_at.y) + fmt::format("\nZ{:.3f}\n", n.lift);
  double z = 0;
  while (z > n.hole_bottom + 1e-9) {
    const double to = std::max(n.hole_bottom, z - n.peck);
    out += fmt::format("G0Z{:.3f}\nG1Z{:.3f}F{:.0f}\nG0Z2.500\n", z >= 0 ? 2.5 : std::min(2.5, z + 1.3), to, n.plunge);
    z = to;
  }
  return out + fmt::format("G0Z{:.3f}\n", n.lift);
}

inline std::vector<ProgramText> programs(const Numbers& n) {
  std::vector<ProgramText> out;
  if (n.hole) out.push_back({"hole.ngc", head("T2", n) + hole(n) + tail(), {}, false});
  std::string cuts;
  if (n.pocket) cuts += pocket(n);
  cuts += n.between;
  if (!cuts.empty()) out.push_back({"pocket.ngc", head("T1", n) + cuts + tail(), {}, false});
  if (n.outline) out.push_back({"outline.ngc", head(n.outline_tool, n) + outline(n) + tail(), {}, false});
  return out;
}

inline Polygon box(Vec2 a, Vec2 b) { return {a, {b.x, a.y}, b, {a.x, b.y}}; }

inline PieceRequest request(const Numbers& n = {}, double cell = 0.1) {
  PieceRequest r;
  PieceSide side;
  side.name = "top";
  side.programs = programs(n);
  side.setup = setup();
  side.design.outline = box(low, high);
  side.design.cut_free = true;
  const Region opened = offset(offset({box(pocket_low, pocket_high)}, -2), 2);
  side.design.finished = [opened](Vec2 p) {
    const double rho = distance(p, hole_at);
    if (rho <= 1.5) return -1e6;
    return contains(opened, p) ? thick - pocket_deep : thick;
  };
  add_walls(side.design.walls, "Pocket", {box(pocket_low, pocket_high)}, [](Vec2) { return thick - pocket_deep; });
  side.design.walls.push_back(round_wall("Hole", hole_at, 3, -1e6));
  r.sides.push_back(std::move(side));
  r.rack = rack();
  r.cell = cell;
  r.tolerances.below = 1.2;  // the drill's point goes through
  r.holes = {{"hole", hole_at, 3}};
  r.tabs = {{{(low.x + high.x) / 2, low.y}, tab_high, tab_long}, {{(low.x + high.x) / 2, high.y}, tab_high, tab_long}};
  return r;
}

inline PieceResult prove(const PieceRequest& r) {
  auto out = prove_piece(r);
  INFO((out ? "" : out.error().text()));
  REQUIRE(out);
  return std::move(*out);
}

inline std::vector<std::string> kinds(const PieceResult& r) {
  std::vector<std::string> out;
  const auto take = [&](const std::vector<Finding>& all) {
    for (const Finding& f : all)
      if (std::find(out.begin(), out.end(), f.kind) == out.end()) out.push_back(f.kind);
  };
  take(r.findings);
  for (const ProofResult& s : r.sides) {
    take(s.findings);
    for (const ProgramFacts& p : s.programs) take(p.findings);
  }
  std::sort(out.begin(), out.end());
  return out;
}
inline std::vector<std::string> kinds(const Numbers& n) { return kinds(prove(request(n))); }
inline bool has(const std::vector<std::string>& all, const std::string& kind) {
  for (const auto& k : all) UNSCOPED_INFO(k);
  return std::find(all.begin(), all.end(), kind) != all.end();
}
inline const Finding* find(const PieceResult& r, const std::string& kind) {
  for (const Finding& f : r.findings)
    if (f.kind == kind) return &f;
  for (const ProofResult& s : r.sides)
    for (const Finding& f : s.findings)
      if (f.kind == kind) return &f;
  return nullptr;
}

/// Spoils one number of the good programs.
template <class Change>
Numbers with(Change change) {
  Numbers n;
  change(n);
  return n;
}

}  // namespace wren::bench
