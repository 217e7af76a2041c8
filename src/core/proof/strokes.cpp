#include "core/proof/strokes.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "core/proof/clearance.hpp"

namespace wren {
namespace {

constexpr double judged_over = 5;        // mm of way that a pass is judged over: beside a tab less is twice as deep
constexpr double far_too_deep = 1.6;     // of what a pass may be deep: half as much way is enough to say so
constexpr double plunge_share = 0.25;    // of the diameter, straight down (M1)
constexpr double dead_centre = 0.05;     // of the diameter, where no edge reaches the centre
constexpr double one_place = 0.1;        // of the diameter: a way down that strays no further is straight
constexpr double full_wood = 0.8;        // of the cutter's own volume on its way down
constexpr double pecks_after = 4;        // diameters that a drill goes before it comes out
constexpr double fastest_rim = 40;       // m/s (common practice: 25 mm at 24000 1/min, 38 mm at 20000)
constexpr double moment = 3;             // s of rubbing that do no harm
constexpr double least_share = 0.11;     // of the chip that a cutter bears: under it a tooth rubs
constexpr double least_creeping = 0.02;  // the same on the way down, where feeds are low

/// As wide as the cutter, a pass goes half its diameter deep (common practice), thin cutters a third; half as much
/// again is too much.
double deepest_pass(double d) { return (d < 1 ? 0.5 : 0.75) * d; }

/// What a pass of full width takes, seen along its way, mm²: under a ball it is narrower.
double section_of(const Cutter& c, double deep) {
  constexpr int parts = 16;
  const double step = c.radius() / parts;
  double out = 0;
  for (int k = 0; k < parts; ++k) out += 2 * step * std::max(0.0, deep - c.profile((k + 0.5) * step));
  return out;
}

/// What it takes straight down into whole wood, mm³.
double plunge_of(const Cutter& c, double deep) {
  constexpr int parts = 16;
  const double step = c.radius() / parts;
  double out = 0;
  for (int k = 0; k < parts; ++k) {
    const double rho = (k + 0.5) * step;
    out += 2 * std::numbers::pi * rho * step * std::max(0.0, deep - c.profile(rho));
  }
  return out;
}

double chip_of(const Motion& p, const Cutter& c) {
  return static_cast<double>(p.feed) / (static_cast<double>(p.rpm) * c.flutes);
}

}  // namespace

int Strokes::pieces(const Motion& p, const Cutter& c, const TileGrid& stock) {
  constexpr double sample = 0.5;  // mm
  const double l = distance(p.a, p.b);
  if (p.rapid || c.kind == CutterKind::drill || l < judged_over) return 1;
  const int whole = static_cast<int>(std::ceil(l / (c.kind == CutterKind::slot ? judged_over / 2 : 1)));
  if (c.kind == CutterKind::slot) return whole;
  const double deep = deepest_pass(c.effective_diameter()) + 0.03;
  const int n = static_cast<int>(std::ceil(l / sample));
  int run = 0;
  for (int k = 0; k <= n; ++k) {
    const Vec3 q = lerp(p.a, p.b, static_cast<double>(k) / n);
    const bool too_deep = height_at(stock, flat(q)) - q.z > deep;
    run = too_deep ? run + 1 : 0;
    if (run * sample >= judged_over / 2) return whole;
  }
  return 1;
}

void Strokes::after(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell) {
  if (c.kind == CutterKind::drill)
    pecks(p, c, removed, tell);
  else
    sinks(p, c, removed, tell);
  // Of many short pieces some pass between two cells and take nothing: that does not end a pass.
  const bool took = removed.any && removed.volume_mm3 >= 1e-6;
  // Nor does a hop: only in plan it comes away from its cut.
  const double way = distance(flat(p.a), flat(p.b));
  idle_ = took ? 0 : idle_ + way;
  if (idle_ > 2 * cell_ + 0.1) pass_ = {};
  if (p.rapid || idle_ > 2 * cell_ + 0.1) taken_ = 0;
  if (p.rapid || !took) {
    if (pass_.run > 0) pass_.run += way;
    return;
  }
  taken_ += removed.volume_mm3;
  if (p.rpm <= 0) return;
  const double rim = std::numbers::pi * c.effective_diameter() * static_cast<double>(p.rpm) / 60e3;
  if (rim > fastest_rim)
    tell("M5", "rim_fast", rim, fastest_rim,
         worded("The rim of '{}' runs at {:.0f} m/s at {:.0f} 1/min; {:.0f} are the most, or what is marked on the "
                "cutter.",
                c.id, rim, static_cast<double>(p.rpm), fastest_rim));
  // What rounding leaves at a wall is no cut; what many short pieces take together is one.
  if (taken_ > 0.01) {
    chips(p, c, tell);
    rubs(p, c, tell);
  }
  passes(p, c, removed, tell);
}

void Strokes::passes(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell) {
  const double l = distance(flat(p.a), flat(p.b));
  // A way down is none; one that rises through wood is.
  if (l < (p.b.z > p.a.z ? 0.1 : 0.8) * distance(p.a, p.b)) {
    aside_ += distance(p.a, p.b);
    if (aside_ > 0.5) pass_ = {};
    return;
  }
  aside_ = 0;
  const double d = c.effective_diameter();
  const double deepest_full = deepest_pass(d);
  // Cells at the walls count for more than they are; but a full width is one, however coarse they are for it. A cutter
  // of a few cells loses or gains one by where it lies on the grid, and never cuts deep with a part of its width.
  const double full_width = d < 13 * cell_ ? 0.75 : std::min(0.95, 0.85 + 2 * cell_ / d);
  // What begins to be too deep begins a pass of its own: what was shallow before it is no excuse.
  // It begins where the cutter stands in it with its full width.
  if (removed.deepest > deepest_full + 0.03 && pass_.deepest <= deepest_full + 0.03) {
    pass_ = {};
    if (l > cell_ && removed.volume_mm3 < 0.85 * full_width * section_of(c, removed.deepest) * l) return;
  }
  pass_.run += l;
  pass_.volume += removed.volume_mm3;
  pass_.deepest = std::max(pass_.deepest, removed.deepest);
  pass_.side += removed.deepest * l;
  pass_.full += section_of(c, removed.deepest) * l;
  if (pass_.run < (pass_.deepest > far_too_deep * deepest_full ? judged_over / 2 : judged_over)) return;
  // One that comes up or goes down on its way is as deep as it is all along.
  if (pass_.side > (deepest_full + 0.03) * pass_.run && pass_.volume > full_width * pass_.full)
    tell("M12", "pass_deep", pass_.deepest, deepest_full,
         worded("'{}' goes its full width through {} of wood at once; {} are for it.", c.id, mm(pass_.deepest),
                mm(deepest_full)));
  if (c.kind == CutterKind::slot && p.feed > 0) {
    // Mean force from the wood really taken: power over the speed at the rim.
    const double per_minute = pass_.volume / pass_.run * static_cast<double>(p.feed);
    const double force = material_.cutting_force * per_minute / (std::numbers::pi * d * static_cast<double>(p.rpm));
    const double bent = cutter_bending(c, force);
    if (bent > slot_bending_)
      tell("M12", "slot_bent", bent, slot_bending_,
           worded("'{}' is bent {} in its slot; {:.3f} are allowed.", c.id, mm(bent, 3), slot_bending_));
  }
  pass_ = {};
}

/// A way down that hardly leaves its place is a plunge, however small its turns or its ways to and fro.
void Strokes::sinks(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell) {
  const double d = c.effective_diameter();
  if (sank_ && distance(sank_->at, flat(p.b)) > one_place * d) sank_.reset();
  if (p.b.z > p.a.z) {
    // Out of the hole it may begin again; without an edge at its centre it may not.
    if (sank_ && c.centre_cutting && p.b.z > sank_->mouth - 0.05) {
      sank_->from = sank_->bottom;
      sank_->volume = 0;
    }
    return;
  }
  if (p.rapid || !removed.any) return;
  if (!sank_) {
    // What it fell through air is free, and so is what a way over has cut.
    const bool here = distance(flat(p.a), flat(p.b)) <= one_place * d;
    const double top = here ? std::min(p.a.z, p.b.z + removed.deepest) : p.b.z;
    sank_ = Sank{flat(here ? p.a : p.b), top, top, top, 0};
    if (!here) return;
  }
  sank_->bottom = std::min(sank_->bottom, p.b.z);
  sank_->volume += removed.volume_mm3;
  const double deep = sank_->from - p.b.z;
  // A good ramp goes on from where a good plunge has ended, and adds a little within that place.
  const double most = (c.centre_cutting ? plunge_share + 0.06 : dead_centre) * d + 0.02;
  // What finishing takes off beside a wall is free, of a ball too, though so much is soon as much as its tip alone
  // takes: only where the cutter stands in full wood it is one.
  const double full = std::min(std::numbers::pi / 4 * d * d * most, plunge_of(c, deep));
  if (deep > std::max(most, 0.1) && sank_->volume > full_wood * full)
    tell("M1", "way_down", deep, most,
         worded("'{}' goes {} down into wood within {} of one place; {} are for it.", c.id, mm(deep), mm(one_place * d),
                mm(c.centre_cutting ? plunge_share * d : 0)));
}

/// Chips of a drill come out with it. Only a way back up to near its hole's mouth is one.
void Strokes::pecks(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell) {
  const double d = c.effective_diameter();
  if (hole_ && distance(flat(*hole_), flat(p.b)) > 0.02) {
    if (!p.rapid && removed.any && removed.volume_mm3 > 1e-4 && p.b.z < hole_->z - 0.05)
      tell("M2", "drill_sideways", distance(flat(*hole_), flat(p.b)), 0, "A drill goes sideways in wood.");
    if (p.b.z > hole_->z - 0.05) hole_.reset();
  }
  if (!hole_) since_out_ = 0;
  if (p.b.z >= p.a.z) {
    if (hole_ && p.b.z > hole_->z - d) since_out_ = 0;
    return;
  }
  if (!removed.any || removed.deepest < 0.01) return;
  if (!hole_) hole_ = Vec3{p.b.x, p.b.y, p.b.z + removed.deepest};
  since_out_ += removed.deepest;
  if (since_out_ > pecks_after * d + 0.02)
    tell("M1", "peck_long", since_out_, pecks_after * d,
         worded("'{}' goes {} down without coming out; chips want it out every {}.", c.id, mm(since_out_, 1),
                mm(pecks_after * d, 1)));
}

/// No tooth takes half as much again as its cutter bears.
void Strokes::chips(const Motion& p, const Cutter& c, const Tell& tell) {
  const double chip = chip_of(p, c);
  const double most = 1.5 * chip_load(c.effective_diameter(), material_);
  if (chip > most)
    tell("M5", "tooth_overloaded", chip, most,
         worded("Each tooth of '{}' takes {}; {:.3f} are the most.", c.id, mm(chip, 3), most));
}

/// Under a ninth of its chip a tooth no longer cuts: it rubs, gets hot, and burns the wood. On the way down feeds are
/// low, and a moment of it does no harm.
void Strokes::rubs(const Motion& p, const Cutter& c, const Tell& tell) {
  const double l = distance(p.a, p.b);
  const bool down = p.b.z < p.a.z - 0.2 * l;
  const double chip = chip_of(p, c);
  const double least = (down ? least_creeping : least_share) * chip_load(c.effective_diameter(), material_);
  if (chip >= least || p.feed <= 0) return;
  double& rubbed = (down ? crept_ : rubbed_)[p.program];
  rubbed += l / static_cast<double>(p.feed) * 60;
  if (rubbed > moment)
    tell("M5", "tooth_rubs", chip, least,
         worded("Each tooth of '{}' takes only {}, for more than {:.0f} s: under {} it rubs and burns instead of "
                "cutting.",
                c.id, mm(chip, 4), moment, mm(least, 4)));
}

}  // namespace wren
