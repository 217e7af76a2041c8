#include "core/motion/link.hpp"

#include <algorithm>

namespace wren {
namespace {

Vec3 to_work(const Setup& setup, Vec3 p) {
  const Vec2 q = setup.to_work.apply({p.x, p.y});
  return {q.x, q.y, setup.to_work.apply_z(p.z)};
}

bool passes_clamp(const Setup& setup, Vec2 a, Vec2 b, double nut_radius, double z) {
  for (const auto& box : setup.clamp_boxes()) {
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

class Linker {
 public:
  Linker(const Setup& setup, const Cutter& cutter, LinkHeights heights, Toolpath& path)
      : setup_(setup), cutter_(cutter), heights_(heights), path_(path) {}

  void strand(const Strand& strand, std::uint16_t cut) {
    const Vec3 start = to_work(setup_, strand.start);
    const double wood = std::max(setup_.to_work.apply_z(strand.free_z), start.z);
    const Vec3 here = path_.moves.empty() ? path_.start : path_.moves.back().to;
    const bool close = !path_.moves.empty() && distance(flat(here), flat(start)) <= heights_.short_link &&
                       !passes_clamp(setup_, flat(here), flat(start), cutter_.nut_diameter / 2, heights_.hop);
    const double over = close ? std::min(heights_.safe, std::max(heights_.hop, wood + heights_.near)) : heights_.safe;
    rapid({here.x, here.y, over}, cut);
    rapid({start.x, start.y, over}, cut);
    const double near = std::min(over, wood + heights_.near);
    rapid({start.x, start.y, near}, cut);
    path_.moves.push_back({start, {}, static_cast<float>(strand.plunge_feed), cut, MoveKind::plunge});
    for (const Step& step : strand.steps) {
      const MoveKind kind = step.kind == StepKind::line     ? MoveKind::feed
                            : step.kind == StepKind::arc_cw ? MoveKind::arc_cw
                                                            : MoveKind::arc_ccw;
      path_.moves.push_back(
          {to_work(setup_, step.to), setup_.to_work.apply(step.centre), static_cast<float>(step.feed), cut, kind});
    }
  }
  void lift(std::uint16_t cut) {
    if (path_.moves.empty()) return;
    const Vec3 here = path_.moves.back().to;
    rapid({here.x, here.y, heights_.safe}, cut);
  }

 private:
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
