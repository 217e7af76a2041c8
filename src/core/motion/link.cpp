#include "core/motion/link.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wren {
namespace {

Vec3 to_work(const Setup& setup, Vec3 p) {
  const Vec2 q = setup.to_work.apply({p.x, p.y});
  return {q.x, q.y, setup.to_work.apply_z(p.z)};
}

bool passes_clamp(const Setup& setup, Vec2 a, Vec2 b, double nut_radius, double z) {
  for (const auto& box : setup.solids()) {
    if (z > box.high.z) continue;
    // Separating test of the segment against the box grown by the collet nut (a square nut is the cautious one).
    const Vec2 low{box.low.x - nut_radius, box.low.y - nut_radius};
    const Vec2 high{box.high.x + nut_radius, box.high.y + nut_radius};
    double t0 = 0;
    double t1 = 1;
    const Vec2 d = b - a;
    const auto clip = [&](double from, double dir, double lo, double hi) {
      if (dir == 0) return from >= lo && from <= hi;
      double u = (lo - from) / dir;
      double v = (hi - from) / dir;
      if (u > v) std::swap(u, v);
      t0 = std::max(t0, u);
      t1 = std::min(t1, v);
      return t0 <= t1;
    };
    if (clip(a.x, d.x, low.x, high.x) && clip(a.y, d.y, low.y, high.y)) return true;
  }
  return false;
}

/// The feed in mm/min at which a move keeps every axis within its own.
double held_feed(Vec3 from, const Move& m, Vec3 most) {
  const double plane = std::min(most.x, most.y);
  if (m.kind == MoveKind::arc_cw || m.kind == MoveKind::arc_ccw) {
    const double dz = std::abs(m.to.z - from.z);
    if (dz < 1e-9) return plane;
    const bool ccw = m.kind == MoveKind::arc_ccw;
    double turn =
        std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - std::atan2(from.y - m.centre.y, from.x - m.centre.x);
    if (!ccw) turn = -turn;
    if (turn <= 1e-12) turn += 2 * std::numbers::pi;
    const double run = distance(m.centre, flat(from)) * turn;
    const double l = std::hypot(run, dz);
    return std::min(most.z * l / dz, run > 1e-9 ? plane * l / run : most.z);
  }
  const Vec3 d{m.to.x - from.x, m.to.y - from.y, m.to.z - from.z};
  const double l = distance(m.to, from);
  double out = std::max(most.x, most.y);
  const auto axis = [&](double along, double limit) {
    if (std::abs(along) > 1e-9) out = std::min(out, limit * l / std::abs(along));
  };
  axis(d.x, most.x);
  axis(d.y, most.y);
  axis(d.z, most.z);
  return out;
}

class Linker {
 public:
  Linker(const Setup& setup, const Cutter& cutter, LinkHeights heights, Toolpath& path)
      : setup_(setup), cutter_(cutter), heights_(heights), path_(path) {}

  void strand(const Strand& strand, std::uint16_t cut) {
    const Vec3 start = to_work(setup_, strand.start);
    if (path_.moves.empty()) path_.start = {start.x, start.y, heights_.safe};  // the machine comes from above
    const double wood = std::max(setup_.to_work.apply_z(strand.free_z), start.z);
    const Vec3 here = path_.moves.empty() ? path_.start : path_.moves.back().to;
    const bool close = !path_.moves.empty() && distance(flat(here), flat(start)) <= heights_.short_link &&
                       !passes_clamp(setup_, flat(here), flat(start), cutter_.nut_diameter / 2, heights_.hop);
    const double over = close ? std::min(heights_.safe, std::max(heights_.hop, wood + heights_.near)) : heights_.safe;
    rapid({here.x, here.y, over}, cut);
    rapid({start.x, start.y, over}, cut);
    const double near = std::min(over, wood + heights_.near);
    rapid({start.x, start.y, near}, cut);
    feed({start, {}, static_cast<float>(strand.plunge_feed), cut, MoveKind::plunge});
    for (const Step& step : strand.steps) {
      const MoveKind kind = step.kind == StepKind::line     ? MoveKind::feed
                            : step.kind == StepKind::arc_cw ? MoveKind::arc_cw
                                                            : MoveKind::arc_ccw;
      feed({to_work(setup_, step.to), setup_.to_work.apply(step.centre), static_cast<float>(step.feed), cut, kind});
    }
  }
  void lift(std::uint16_t cut) {
    if (path_.moves.empty()) return;
    const Vec3 here = path_.moves.back().to;
    rapid({here.x, here.y, heights_.safe}, cut);
  }

 private:
  /// No axis goes faster than it may, and no feed is above the machine's: whole numbers, so that F words stay few.
  void feed(Move m) {
    // What counts is what the program will say.
    const auto said = [per_mm = 1 / heights_.digit](Vec3 p) {  // not p / digit: halves have to go the writer's way
      return Vec3{std::round(p.x * per_mm) / per_mm, std::round(p.y * per_mm) / per_mm,
                  std::round(p.z * per_mm) / per_mm};
    };
    const Vec3 from = said(path_.moves.empty() ? path_.start : path_.moves.back().to);
    Move written = m;
    written.to = said(m.to);
    const double most = held_feed(from, written, setup_.machine.max_feed);
    if (static_cast<double>(m.feed) > most) m.feed = static_cast<float>(std::max(1.0, std::floor(most)));
    path_.moves.push_back(m);
  }
  void rapid(Vec3 to, std::uint16_t cut) {
    const Vec3 here = path_.moves.empty() ? path_.start : path_.moves.back().to;
    if (here == to) return;
    path_.moves.push_back({to, {}, 0, cut, MoveKind::rapid});
  }
  const Setup& setup_;
  const Cutter& cutter_;
  LinkHeights heights_;
  Toolpath& path_;
};

}  // namespace

std::vector<Toolpath> link_cuts(const std::vector<Cut>& cuts, const Setup& setup, const Rack& rack,
                                LinkHeights heights) {
  std::vector<Toolpath> out;
  for (const Cut& cut : cuts) {
    if (cut.strands.empty()) continue;
    const Cutter* cutter = find_cutter(rack, cut.cutter);
    if (cutter == nullptr) continue;
    if (out.empty() || out.back().cutter != cut.cutter || cut.stop_before) {
      Toolpath path;
      path.cutter = cut.cutter;
      path.rpm = cut.rpm;
      path.safe_z = heights.safe;
      path.start = {0, 0, heights.safe};
      out.push_back(std::move(path));
    }
    Toolpath& path = out.back();
    const auto index = static_cast<std::uint16_t>(path.cuts.size());
    path.cuts.push_back(cut.id);
    if (cut.stop_before) path.stops.push_back({path.moves.size(), cut.stop_text});
    Linker linker(setup, *cutter, heights, path);
    for (const Strand& strand : cut.strands) linker.strand(strand, index);
    linker.lift(index);
  }
  return out;
}

}  // namespace wren
