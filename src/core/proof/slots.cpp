// Slot by slot, exactly, from the cutting pieces that run along it, and all others between its ends: place, width,
// depth.
#include <algorithm>
#include <array>

#include <fmt/format.h>

#include "core/proof/piece.hpp"

namespace wren {
namespace {

constexpr double slot_end = 0.1;  // mm that a blind slot may end beside its place

Vec3 work_point(const Setup& setup, Vec2 p, double z) {
  const Vec2 q = setup.to_work.apply(p);
  return {q.x, q.y, setup.to_work.apply_z(z)};
}

}  // namespace

void check_slots(const PieceSide& side, const ProofTolerances& tol, const Score& score, ProofResult& result) {
  const Setup& setup = side.setup;
  const double up = -setup.to_work.shift.z;
  for (const SlotDesign& slot : side.design.slots) {
    const Vec2 a = setup.to_work.apply(slot.a);
    const Vec2 b = setup.to_work.apply(slot.b);
    const Vec2 u = unit(b - a);
    const double l = distance(a, b);
    constexpr double beyond = 4;  // mm past a blind slot's ends that are looked at
    constexpr int marks = 64;     // depth is read at these places along the slot
    std::array<double, marks + 1> lowest;
    lowest.fill(1e300);
    double left = -1e300;
    double right = 1e300;
    std::array<double, marks + 1> left_at;  // the same at each of them, of what is as deep there as it should be
    std::array<double, marks + 1> right_at;
    left_at.fill(-1e300);
    right_at.fill(1e300);
    const auto floor_at = [&](int k) {
      const Vec2 at = lerp(slot.a, slot.b, static_cast<double>(k) / marks);
      return std::min(slot.floor(at), side.design.crowned(at));
    };
    double begins = 1e300;  // of what is cut, along the slot
    double ends = -1e300;
    for (const Motion& p : score.motions) {
      if (p.rapid || p.cutter < 0) continue;
      const Cutter& c = score.cutters[static_cast<std::size_t>(p.cutter)];
      const double r = c.radius();
      if (2 * r > slot.width + 1) continue;  // not a slot's cutter
      const Vec2 d = flat(p.b) - flat(p.a);
      const double run = length(d);
      const bool along = run >= 0.2 && std::abs(cross(u, d)) <= 0.02 * run;
      const double sa = cross(u, flat(p.a) - a);  // offset to the left of the slot's line
      const double sb = cross(u, flat(p.b) - a);
      if (std::abs(sa) > 1 || std::abs(sb) > 1) continue;
      double ta = dot(u, flat(p.a) - a);
      double tb = dot(u, flat(p.b) - a);
      double za = p.a.z + up;
      double zb = p.b.z + up;
      double oa = sa;
      double ob = sb;
      if (ta > tb) {
        std::swap(ta, tb);
        std::swap(za, zb);
        std::swap(oa, ob);
      }
      const auto below = [&] {
        const Vec2 middle = lerp(slot.a, slot.b, std::clamp((ta + tb) / 2 / l, 0.0, 1.0));
        return std::min(za, zb) <= side.design.crowned(middle) - 0.05;  // else over the finished wood
      };
      if (slot.blind && tb > -beyond && ta < l + beyond && below()) {
        begins = std::min(begins, ta - r);
        ends = std::max(ends, tb + r);
      }
      if (tb < 0 || ta > l) continue;
      if (!along && (ta < 0 || tb > l)) continue;  // beyond its ends it may come from anywhere
      if (!below()) continue;
      left = std::max(left, std::max(sa, sb) + r);
      right = std::min(right, std::min(sa, sb) - r);
      constexpr double end_slack = 0.01;  // mm: rounding of a slot's end to whole micrometres and a little more
      const int k0 = std::max(0, static_cast<int>(std::ceil((ta - r - end_slack) / l * marks)));
      const int k1 = std::min(marks, static_cast<int>(std::floor((tb + r + end_slack) / l * marks)));
      for (int k = k0; k <= k1; ++k) {
        const auto i = static_cast<std::size_t>(k);
        const double along_it = l * k / marks - ta;
        double z = 1e300;
        for (const double edge : {-r, r})  // the tip is as wide as the cutter: its lowest stand over a place counts
          z = std::min(z, za + (zb - za) * std::clamp((along_it + edge) / std::max(tb - ta, 1e-9), 0.0, 1.0));
        lowest[i] = std::min(lowest[i], z);
        if (along_it < -end_slack || along_it > tb - ta + end_slack) continue;
        const double share = std::clamp(along_it / std::max(tb - ta, 1e-9), 0.0, 1.0);
        // Over a floor that slopes its middle stands higher by what its lower rim reaches down to.
        const double tilt = tb > ta ? std::min(1.0, std::abs(zb - za) / (tb - ta)) * r : 0;
        if (za + (zb - za) * share - tilt > floor_at(k) + tol.slot_depth) continue;
        const double off = oa + (ob - oa) * share;
        left_at[i] = std::max(left_at[i], off + r);
        right_at[i] = std::min(right_at[i], off - r);
      }
    }
    SlotResult out;
    out.name = slot.name;
    out.found = left > -1e299;
    const auto tell = [&](const char* kind, double number, double limit, Words text) {
      result.findings.push_back(
          {kind, Weight::stop, std::move(text), "", 0, work_point(setup, lerp(slot.a, slot.b, 0.5), 0), number, limit});
    };
    if (!out.found) {
      tell("slot_missing", 0, 0, worded("The slot of {} is not cut.", slot.name));
      result.slots.push_back(out);
      continue;
    }
    out.width = left - right;
    // A slot as wide as it should be lies right when both its walls do; a tilted one shows as too wide or at a wall.
    out.place_error = std::abs((left + right) / 2);
    int deep = 0;
    for (int k = 0; k <= marks; ++k) {
      // The rounded ends of a blind slot are as deep as the cutter gets there without cutting below the floor beside
      // them.
      if (slot.blind && std::min(k, marks - k) * l / marks < slot.width) {
        ++deep;
        continue;
      }
      const double error = floor_at(k) - lowest[static_cast<std::size_t>(k)];
      if (std::abs(error) > std::abs(out.depth_error)) out.depth_error = std::clamp(error, -99.0, 99.0);
      if (error > -tol.slot_depth) ++deep;
    }
    out.covered = static_cast<double>(deep) / (marks + 1);
    // A lane of a wide slot that ends too soon leaves it narrow there. At its ends it is as wide as the cutter gets it.
    double narrowest = out.width;
    for (int k = 0; k <= marks; ++k)
      if (const double wide = left_at[static_cast<std::size_t>(k)] - right_at[static_cast<std::size_t>(k)];
          wide > -1e299 && std::min(k, marks - k) * l / marks > slot.width)
        narrowest = std::min(narrowest, wide);
    if (std::abs(out.width - slot.width) <= tol.slot_width && slot.width - narrowest > tol.slot_width)
      out.width = narrowest;
    if (out.place_error > tol.slot_place)
      tell("slot_place", out.place_error, tol.slot_place,
           worded("The slot of {} lies {} beside its fret line.", slot.name, mm(out.place_error, 4)));
    if (std::abs(out.width - slot.width) > tol.slot_width)
      tell("slot_width", out.width, slot.width,
           worded("The slot of {} comes out {} wide; {} are wanted.", slot.name, mm(out.width, 3), mm(slot.width, 3)));
    if (const double off = std::max(std::abs(begins), std::abs(ends - l)); slot.blind && off > slot_end)
      tell("slot_length", off, slot_end, worded("The slot of {} ends {} beside where it should.", slot.name, mm(off)));
    if (out.covered < 1 || out.depth_error > tol.slot_depth)
      tell("slot_depth", out.depth_error, tol.slot_depth,
           out.depth_error <= -99
               ? worded("The slot of {} is not cut all along.", slot.name)
               : worded("The slot of {} is off its depth by {}.", slot.name, mm(out.depth_error, 3)));
    result.slots.push_back(out);
  }
}

}  // namespace wren
