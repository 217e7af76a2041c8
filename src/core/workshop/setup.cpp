#include "core/units/plain_number.hpp"
#include "core/workshop/setup.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {
namespace {

std::string up(double v) { return format_mm(std::ceil(v * 10 - 1e-6) / 10, 1); }

}  // namespace

Polygon turned(Turn turn, const Polygon& polygon) {
  if (turn == Turn::none) return polygon;
  Polygon out(polygon.rbegin(), polygon.rend());
  for (Vec2& p : out) p = turned(turn, p);
  return out;
}

std::vector<Polygon> turned(Turn turn, const std::vector<Polygon>& region) {
  std::vector<Polygon> out;
  for (const Polygon& p : region) out.push_back(turned(turn, p));
  return out;
}

Contour turned(Turn turn, const Contour& contour) {
  if (turn == Turn::none) return contour;
  // Mirroring turns the sense, reading backwards turns it again; a bulge belongs to the edge that starts at its vertex.
  Contour out;
  const std::size_t n = contour.size();
  for (std::size_t i = n; i-- > 0;) out.push_back({turned(turn, contour[i].at), contour[(i + n - 1) % n].bulge});
  return out;
}

std::array<double, 16> Setup::matrix() const {
  const double mx = turn == Turn::about_width ? -1 : 1;
  const double my = turn == Turn::about_length ? -1 : 1;
  const double mz = turn == Turn::none ? 1 : -1;
  const Vec3& s = to_work.shift;
  if (to_work.quarter) return {0, -my, 0, s.x, mx, 0, 0, s.y, 0, 0, mz, s.z, 0, 0, 0, 1};
  return {mx, 0, 0, s.x, 0, my, 0, s.y, 0, 0, mz, s.z, 0, 0, 0, 1};
}

double TopProfile::at(Vec2 p) const {
  const double t = dot(along, p);
  if (points.empty()) return 0;
  if (t <= points.front().x) return points.front().y;
  for (std::size_t i = 1; i < points.size(); ++i)
    if (t <= points[i].x) {
      const double run = points[i].x - points[i - 1].x;
      return run <= 0 ? points[i].y : points[i - 1].y + (points[i].y - points[i - 1].y) * (t - points[i - 1].x) / run;
    }
  return points.back().y;
}

void place_blank(Setup& setup, Vec2 middle, Vec2 at, double top_z) {
  setup.to_work.quarter = setup.blank.lie == Lie::along_y;
  setup.to_work.shift = {};
  setup.blank_size =
      setup.to_work.quarter ? Vec2{setup.blank.width, setup.blank.length} : Vec2{setup.blank.length, setup.blank.width};
  const Vec2 move = at - setup.to_work.apply(middle);
  setup.to_work.shift = {move.x, move.y, -top_z};
  const Vec2 corner = at - setup.blank_size * 0.5;
  setup.blank_corner = {corner.x, corner.y, 0};
}

std::vector<Setup::Box> Setup::clamp_boxes() const {
  std::vector<Box> out;
  for (const Clamp& c : blank.clamps)
    out.push_back({c.name,
                   {blank_corner.x + c.low.x, blank_corner.y + c.low.y, bed_z()},
                   {blank_corner.x + c.high.x, blank_corner.y + c.high.y, bed_z() + c.height}});
  return out;
}

std::vector<Setup::Box> Setup::solids() const {
  std::vector<Box> out = clamp_boxes();
  out.insert(out.end(), standing.begin(), standing.end());
  return out;
}

Setup make_setup(const Machine& machine, const Blank& blank, const Polygon& outline) {
  Setup setup;
  setup.machine = machine;
  setup.blank = blank;
  const Vec2 size = blank.lie == Lie::along_y ? Vec2{blank.width, blank.length} : Vec2{blank.length, blank.width};
  place_blank(setup, bounds(outline).middle(), blank.zero == ZeroPlace::corner ? size * 0.5 : Vec2{}, blank.thickness);
  Box2 box;
  for (const Vec2 p : outline) box.add(setup.to_work.apply(p));
  setup.board_low = {box.low.x, box.low.y, -blank.thickness};
  setup.board_high = {box.high.x, box.high.y, 0};

  // The ticks on the blank's four edges lie on the crossed lines through the middle of the work area.
  const Vec2 centre{machine.travel.x / 2, machine.travel.y / 2};
  const Vec2 to_zero = blank.zero == ZeroPlace::corner ? setup.blank_size * -0.5 : Vec2{};
  setup.zero_in_machine = {centre.x + to_zero.x, centre.y + to_zero.y, blank.thickness};
  setup.jogs = {{"From home to the crossed lines", centre.x, centre.y}};
  if (blank.zero == ZeroPlace::corner)
    setup.jogs.push_back({"From the crossed lines back to the blank's lower-left corner", to_zero.x, to_zero.y});
  return setup;
}

std::vector<Remark> setup_remarks(const Setup& setup, double part_thickness, double beside) {
  std::vector<Remark> out;
  const Blank& blank = setup.blank;
  const Vec3 size{setup.board_high.x - setup.board_low.x, setup.board_high.y - setup.board_low.y, 0};
  const double part_length = setup.to_work.quarter ? size.y : size.x;
  const double part_width = setup.to_work.quarter ? size.x : size.y;
  const auto small = [&](const char* kind, const char* key, const char* way, double have, double part) {
    const double need = part + 2 * beside;
    if (have >= need - 1e-9) return;
    out.push_back(
        {kind,
         have < part ? Weight::stop : Weight::think_again,
         have < part ? worded("The blank is {} {}, and the board needs {}.", mm(have), way, mm(part))
                     : worded("The blank is {} {}; the board and its outline cutter need {}.", mm(have), way, mm(need)),
         have,
         need,
         "mm",
         "the board and the outline cutter's width",
         key,
         {},
         Repair{worded("Take a blank of {}", as_mm(up(need))), {{key, up(need)}}}});
  };
  small("blank.short", "board.blank.length", "long", blank.length, part_length);
  small("blank.narrow", "board.blank.width", "wide", blank.width, part_width);
  if (blank.thickness < part_thickness - 1e-9)
    out.push_back({"blank.thin",
                   Weight::stop,
                   worded("The blank is {} thick, thinner than the board's {} at the top of the crown.",
                          mm(blank.thickness), mm(part_thickness)),
                   blank.thickness,
                   part_thickness,
                   "mm",
                   "the board's thickness",
                   "board.blank.thickness",
                   {},
                   Repair{worded("Make the board {} thick", mm(blank.thickness)),
                          {{"board.thickness", format_mm(blank.thickness)}}}});
  else if (blank.thickness - part_thickness > 3)
    out.push_back({"blank.thick",
                   Weight::worth_knowing,
                   worded("{} of thickness will be turned to dust; plane the blank first, or resaw it.",
                          mm(blank.thickness - part_thickness)),
                   blank.thickness - part_thickness,
                   3,
                   "mm",
                   "common practice",
                   "board.blank.thickness",
                   {},
                   {}});
  const Vec3& travel = setup.machine.travel;
  if (setup.blank_size.x > travel.x || setup.blank_size.y > travel.y) {
    const bool turned_fits = setup.blank_size.y <= travel.x && setup.blank_size.x <= travel.y;
    const bool y_way = blank.lie == Lie::along_y;
    out.push_back(
        {"machine.short",
         size.x + 2 * beside > travel.x || size.y + 2 * beside > travel.y ? Weight::stop : Weight::think_again,
         worded("The blank covers {} × {} and the machine travels {} × {}.", format_mm(setup.blank_size.x, 1),
                mm(setup.blank_size.y, 1), format_mm(travel.x, 1), mm(travel.y, 1)),
         std::max(setup.blank_size.x - travel.x, setup.blank_size.y - travel.y),
         0,
         "mm",
         "the machine's travels",
         "board.blank.lie",
         {},
         turned_fits ? std::optional(Repair{y_way ? "Lay the board along x" : "Lay the board along y",
                                            {{"board.blank.lie", y_way ? "x" : "y"}}})
                     : std::nullopt});
  }
  for (const auto& box : setup.clamp_boxes()) {
    const bool over = box.high.x > setup.board_low.x && box.low.x < setup.board_high.x &&
                      box.high.y > setup.board_low.y && box.low.y < setup.board_high.y;
    if (over)
      out.push_back({"clamp.on_board",
                     Weight::stop,
                     worded("The clamp '{}' sits on the board itself.", box.name),
                     0,
                     0,
                     "mm",
                     "the clamp's place",
                     "board.clamps",
                     {},
                     Repair{"Hold it with tape, no clamps", {{"board.clamps", "none"}}}});
  }
  return out;
}

std::optional<Remark> z_travel_remark(const Setup& setup, const Cutter& cutter, double clear, double deepest) {
  // With z at home the tip stands clear_under_nut − stickout above the waste board.
  const double tip_home = setup.machine.clear_under_nut - cutter.stickout;
  const double highest = setup.blank.thickness + clear;
  const double lowest = setup.blank.thickness + deepest;
  if (highest > tip_home + 1e-9)
    return Remark{"machine.low",
                  Weight::stop,
                  worded("With {} of stickout the tip of '{}' cannot be lifted {} clear of the blank.",
                         mm(cutter.stickout), cutter.id, mm(clear)),
                  highest,
                  tip_home,
                  "mm",
                  "the machine's data",
                  "machine.clear_under_nut",
                  {},
                  {}};
  if (tip_home - setup.machine.travel.z > lowest + 1e-9)
    return Remark{"machine.high",
                  Weight::stop,
                  worded("The z travel ends {} above the depth that '{}' has to reach; let it stand out further or "
                         "raise the waste board.",
                         mm(tip_home - setup.machine.travel.z - lowest), cutter.id),
                  lowest,
                  tip_home - setup.machine.travel.z,
                  "mm",
                  "the machine's data",
                  "machine.travel_z",
                  {},
                  {}};
  return {};
}

}  // namespace wren
