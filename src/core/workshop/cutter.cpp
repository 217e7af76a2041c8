#include "core/workshop/cutter.hpp"

#include <cmath>
#include <numbers>

#include <fmt/format.h>

namespace wren {

const char* cutter_kind_name(CutterKind kind) {
  switch (kind) {
    case CutterKind::flat: return "flat";
    case CutterKind::ball: return "ball";
    case CutterKind::round_nose: return "round_nose";
    case CutterKind::slot: return "slot";
    case CutterKind::drill: return "drill";
    case CutterKind::facing: return "facing";
    case CutterKind::round_over: return "round_over";
  }
  return "";
}

double Cutter::rounding() const {
  if (kind == CutterKind::ball) return radius();
  if (kind == CutterKind::round_nose) return std::fmin(corner_radius, radius());
  return 0;
}

double Cutter::flat_radius() const {
  if (kind == CutterKind::drill) return 0;
  if (kind == CutterKind::round_over) return radius() - corner_radius;
  return radius() - rounding();
}

double Cutter::profile(double rho) const {
  if (kind == CutterKind::drill) return rho / std::tan(point_angle_deg / 2 * std::numbers::pi / 180);
  const double beyond = rho - flat_radius();
  if (beyond <= 0) return 0;
  if (kind == CutterKind::round_over) {
    // The wood's rounding has its middle over the rim, `corner_radius` outside the pilot and level with the tip.
    const double in = corner_radius - beyond;
    return std::sqrt(std::fmax(0.0, corner_radius * corner_radius - in * in));
  }
  const double r = rounding();
  return r - std::sqrt(std::fmax(0.0, r * r - beyond * beyond));
}

Rack default_rack() {
  const auto cutter = [](const char* id, int number, CutterKind kind, double diameter, int flutes,
                         double cutting_length, double overall, double stickout) {
    Cutter c;
    c.id = id;
    c.number = number;
    c.kind = kind;
    c.diameter = diameter;
    c.flutes = flutes;
    c.cutting_length = cutting_length;
    c.overall = overall;
    c.stickout = stickout;
    c.centre_cutting = kind != CutterKind::facing && kind != CutterKind::round_over;
    return c;
  };
  Rack rack{
      cutter("slot-0.58", 1, CutterKind::slot, 0.58, 2, 4.0, 38, 15),
      cutter("slot-0.79", 2, CutterKind::slot, 0.79, 2, 4.5, 38, 15),
      cutter("flat-1.5", 3, CutterKind::flat, 1.5, 2, 6, 38, 18),
      cutter("flat-3.175", 4, CutterKind::flat, 3.175, 2, 12, 38, 20),
      cutter("flat-6.35", 5, CutterKind::flat, 6.35, 2, 25, 63, 30),
      cutter("flat-6.35-long", 6, CutterKind::flat, 6.35, 2, 51, 100, 54),
      cutter("ball-3.175", 7, CutterKind::ball, 3.175, 2, 12, 38, 20),
      cutter("ball-6.35", 8, CutterKind::ball, 6.35, 2, 25, 63, 30),
      cutter("round-12.7", 9, CutterKind::round_nose, 12.7, 2, 19, 60, 28),
      cutter("facing-25", 10, CutterKind::facing, 25, 3, 8, 50, 22),
      cutter("drill-1.6", 11, CutterKind::drill, 1.6, 2, 16, 38, 22),
      cutter("drill-3.2", 12, CutterKind::drill, 3.2, 2, 30, 60, 35),
      cutter("drill-4", 13, CutterKind::drill, 4.0, 2, 35, 65, 40),
      cutter("facing-38", 14, CutterKind::facing, 38, 3, 8, 55, 24),
      cutter("ball-6.35-long", 15, CutterKind::ball, 6.35, 2, 51, 100, 54),
      cutter("round-over-3", 16, CutterKind::round_over, 10, 2, 14, 50, 24),
  };
  rack[8].corner_radius = 3.175;
  rack[15].corner_radius = 3;
  return rack;
}

std::vector<Problem> check_cutter(const Cutter& c) {
  std::vector<Problem> out;
  const std::string where = fmt::format("cutter '{}'", c.id);
  const auto bad = [&](Words what, Words todo) {
    out.push_back({ProblemKind::range, std::move(what), where, std::move(todo)});
  };
  if (!(c.diameter >= 0.1 && c.diameter <= 100))
    bad(worded("a diameter of {}", exact_mm(c.diameter)), worded("Give {} to {}", mm(0.1), mm(100)));
  if (c.measured && !(*c.measured >= 0.5 * c.diameter && *c.measured <= 1.5 * c.diameter))
    bad(worded("measured {}, far from the nominal {}", exact_mm(*c.measured), exact_mm(c.diameter)),
        "Measure it again, or correct the nominal diameter");
  if (c.flutes < 1 || c.flutes > 12) bad(worded("{} flutes", c.flutes), "Give 1 to 12");
  if (!(c.cutting_length > 0 && c.cutting_length <= c.overall))
    bad(worded("a cutting length of {} in {} overall", exact_mm(c.cutting_length), exact_mm(c.overall)),
        "Give a cutting length within the overall length");
  if (!(c.stickout > 0 && c.stickout < c.overall))
    bad(worded("a stickout of {} of {} overall", exact_mm(c.stickout), exact_mm(c.overall)),
        "Leave part of the shank in the collet");
  if (c.shank_diameter && !(*c.shank_diameter >= 1 && *c.shank_diameter <= 50))
    bad(worded("a shank of {}", exact_mm(*c.shank_diameter)), worded("Give {} to {}", mm(1), mm(50)));
  if (c.collet && !(*c.collet >= 1 && *c.collet <= 50))
    bad(worded("a collet of {}", exact_mm(*c.collet)), worded("Give {} to {}", mm(1), mm(50)));
  if (c.collet && c.shank_diameter && (*c.shank_diameter > *c.collet || *c.shank_diameter < *c.collet - 1))
    bad(worded("a shank of {} in a collet of {}", exact_mm(*c.shank_diameter), exact_mm(*c.collet)),
        worded("Collets close by at most {}, and none opens: take one of the shank's size", mm(1)));
  if (c.kind == CutterKind::round_over && !(c.corner_radius > 0 && c.corner_radius < c.diameter / 2))
    bad(worded("a rounding of {} on a cutter of {}", exact_mm(c.corner_radius), exact_mm(c.diameter)),
        "Give more than 0 and less than half the diameter");
  if (c.kind == CutterKind::round_nose && !(c.corner_radius > 0 && c.corner_radius <= c.diameter / 2))
    bad(worded("a corner radius of {}", exact_mm(c.corner_radius)), "Give more than 0 and at most half the diameter");
  return out;
}

const Cutter* find_cutter(const Rack& rack, const std::string& id) {
  for (const Cutter& c : rack)
    if (c.id == id) return &c;
  return nullptr;
}

Problem missing_cutter(const Rack& rack, const std::string& id, const std::string& key) {
  std::string all;
  for (const Cutter& c : rack) all += (all.empty() ? "" : ", ") + c.id;
  return {ProblemKind::range, fmt::format("the cutter '{}' is not in the rack", id), key,
          all.empty() ? "Put a cutter into the rack" : "Choose one of " + all + ", or put it into the rack"};
}

}  // namespace wren
