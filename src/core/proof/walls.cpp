// Walls in plan, exactly: at places along the outline the nearest that any cutter's surface came, from the moves
// themselves and not from cells. Too far out is as wrong as too far in (rule P3).
#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/proof/piece.hpp"

namespace wren {
namespace {

constexpr double pace = 1.5;            // mm between places looked at
constexpr double outline_corner = 3.3;  // mm: inner corners of an outline are left as round as a usual outline cutter
constexpr double at_edge = 0.06;        // mm inside the outline: there the wall's height is read
constexpr double beside = 1.0;          // mm outside it, within any outline cutter's kerf
constexpr double thin_wall = 1.2;       // mm: no wall to speak of
constexpr double bin = 10;              // mm

/// Distance from its axis at which a cutter's surface stands `h` over its tip; nothing where it has none there.
std::optional<double> radius_at(const Cutter& c, double h) {
  if (h < 0) return {};
  if (c.kind == CutterKind::drill) return {};
  const double r = c.radius();
  const double round = c.rounding();
  if (c.kind == CutterKind::round_over) {
    double low = 0;
    double high = r;
    if (c.profile(r) <= h) return r;
    for (int k = 0; k < 40; ++k) (c.profile((low + high) / 2) <= h ? low : high) = (low + high) / 2;
    return low;
  }
  if (h >= round) return r;
  return c.flat_radius() + std::sqrt(std::max(0.0, round * round - (round - h) * (round - h)));
}

struct Wall {
  Vec2 at;   // instrument frame, on the outline
  Vec2 in;   // into the piece
  double z;  // instrument
};

/// The moves of one side near a place.
class Moves {
 public:
  Moves(const PieceSide& side, const Score& score) : setup_(side.setup), score_(score) {
    const Vec2 low{setup_.blank_corner.x - 30, setup_.blank_corner.y - 30};
    origin_ = low;
    width_ = static_cast<int>((setup_.blank_size.x + 60) / bin) + 1;
    height_ = static_cast<int>((setup_.blank_size.y + 60) / bin) + 1;
    bins_.resize(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
    for (std::size_t i = 0; i < score.motions.size(); ++i) {
      const Motion& m = score.motions[i];
      if (m.rapid || m.cutter < 0 || std::min(m.a.z, m.b.z) >= 0) continue;
      const double r = score.cutters[static_cast<std::size_t>(m.cutter)].radius() + 1;
      const int x0 = cell(std::min(m.a.x, m.b.x) - r - origin_.x, width_);
      const int x1 = cell(std::max(m.a.x, m.b.x) + r - origin_.x, width_);
      const int y0 = cell(std::min(m.a.y, m.b.y) - r - origin_.y, height_);
      const int y1 = cell(std::max(m.a.y, m.b.y) + r - origin_.y, height_);
      for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x) {
          // A long slanting move passes few of the bins in its box.
          const Vec2 middle{origin_.x + (x + 0.5) * bin, origin_.y + (y + 0.5) * bin};
          if (distance_to(middle, {flat(m.a), flat(m.b)}) < r + bin * 0.7072)
            bins_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)]
                .push_back(static_cast<std::uint32_t>(i));
        }
    }
  }

  /// Gap between a place of the wall and the nearest cutter's surface at its height: negative where the cutter went
  /// into the piece.
  [[nodiscard]] double gap(const Wall& wall) const {
    const Vec2 q = setup_.to_work.apply(turned(setup_.turn, wall.at));
    const double z = setup_.to_work.apply_z(turned_z(setup_.turn, wall.z));
    const int x = static_cast<int>((q.x - origin_.x) / bin);
    const int y = static_cast<int>((q.y - origin_.y) / bin);
    if (x < 0 || y < 0 || x >= width_ || y >= height_) return 1e9;
    double best = 1e9;
    for (const std::uint32_t i :
         bins_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)]) {
      const Motion& m = score_.motions[i];
      if (std::min(m.a.z, m.b.z) > z) continue;
      const Vec2 d = flat(m.b) - flat(m.a);
      const double l2 = dot(d, d);
      const double t = l2 > 0 ? std::clamp(dot(q - flat(m.a), d) / l2, 0.0, 1.0) : (m.a.z < m.b.z ? 0.0 : 1.0);
      const double tip = m.a.z + (m.b.z - m.a.z) * t;
      const auto r = radius_at(score_.cutters[static_cast<std::size_t>(m.cutter)], z - tip);
      if (r) best = std::min(best, distance(q, flat(m.a) + d * t) - *r);
    }
    return best;
  }

 private:
  static int cell(double v, int most) { return std::clamp(static_cast<int>(std::floor(v / bin)), 0, most - 1); }
  const Setup& setup_;
  const Score& score_;
  Vec2 origin_;
  int width_ = 1;
  int height_ = 1;
  std::vector<std::vector<std::uint32_t>> bins_;
};

}  // namespace

void check_walls(const PieceRequest& request, const std::vector<Score>& scores,
                 const std::function<bool(Vec2 at, double z)>& stands, PieceResult& result) {
  if (request.board_only) return;
  if (std::none_of(request.sides.begin(), request.sides.end(), [](const PieceSide& s) { return s.design.cut_free; }))
    return;
  const Polygon outline = turned(request.sides[0].setup.turn, request.sides[0].design.outline);
  const Region rounded = offset(offset({outline}, outline_corner), -outline_corner);
  std::vector<Moves> moves;
  for (std::size_t k = 0; k < request.sides.size(); ++k) moves.emplace_back(request.sides[k], scores[k]);
  const double bed = request.sides[0].setup.bed_z() - request.sides[0].setup.to_work.shift.z;
  const auto front = [&](Vec2 p) {
    const PieceSide& s = request.sides[0];
    return turned_z(s.setup.turn, s.design.finished(turned(s.setup.turn, p)));
  };
  const auto back = [&](Vec2 p) {
    if (request.sides.size() == 1) return bed;
    const PieceSide& s = request.sides[1];
    return turned_z(s.setup.turn, s.design.finished(turned(s.setup.turn, p)));
  };
  struct Worst {
    double gap = 0;
    Wall wall{};
    std::size_t places = 0;
  };
  Worst inside, outside;
  const std::size_t n = outline.size();
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 a = outline[i];
    const Vec2 b = outline[(i + 1) % n];
    const double l = distance(a, b);
    if (l < 1e-9) continue;
    const Vec2 in = left_of((b - a) * (1 / l));
    const Vec2 right = (b - a) * (1 / l);
    const int parts = std::max(1, static_cast<int>(std::ceil(l / pace)));
    for (int k = 0; k < parts; ++k) {
      const Vec2 p = lerp(a, b, (k + 0.5) / parts);
      double off = 1e9;
      for (const Polygon& ring : rounded) off = std::min(off, distance_to(ring, p));
      if (off > 0.004) continue;  // an inner corner: left round
      // A slot that runs out through the edge is no fault of the wall.
      bool slot = false;
      for (const PieceSide& side : request.sides)
        for (const SlotDesign& s : side.design.slots)
          slot = slot || distance_to(turned(side.setup.turn, p), {s.a, s.b}) < s.width / 2 + 0.6;
      if (slot) continue;
      const double top = front(p + in * at_edge);
      const double bottom = back(p + in * at_edge);
      if (!(top - bottom > thin_wall) || top > 1e5 || bottom < -1e5) continue;
      for (const double share : {0.25, 0.5, 0.9}) {
        const Wall wall{p, in, bottom + (top - bottom) * share};
        // Beside a tab its flanks slope over a few millimetres.
        bool tab = false;
        for (const double along : {-6.0, -3.0, 0.0, 3.0, 6.0})
          tab = tab || stands(p - in * beside + right * along, wall.z);
        if (tab) continue;
        double gap = 1e9;
        for (const Moves& m : moves) gap = std::min(gap, m.gap(wall));
        Worst& w = gap < 0 ? inside : outside;
        if (std::abs(gap) > request.tolerances.plan) ++w.places;
        if (std::abs(gap) > std::abs(w.gap)) w = {gap, wall, w.places};
      }
    }
  }
  result.plan_inside = -inside.gap;
  result.plan_outside = std::min(outside.gap, 99.0);
  const auto tell = [&](const Worst& w, const char* kind, const std::string& text) {
    const Setup& setup = request.sides.back().setup;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, w.wall.at));
    result.findings.push_back({kind,
                               Weight::stop,
                               text,
                               "",
                               0,
                               {q.x, q.y, setup.to_work.apply_z(turned_z(setup.turn, w.wall.z))},
                               std::abs(w.gap),
                               request.tolerances.plan,
                               "P3",
                               std::max<std::size_t>(1, w.places)});
  };
  if (-inside.gap > request.tolerances.plan)
    tell(inside, "wall_cut",
         fmt::format("The outline's wall is cut {:.3f} mm too far in at x {:.0f}, y {:.0f}.", -inside.gap,
                     inside.wall.at.x, inside.wall.at.y));
  if (outside.gap > request.tolerances.plan && result.free)
    tell(outside, "wall_proud",
         outside.gap > 50 ? fmt::format("No cutter comes near the outline's wall at x {:.0f}, y {:.0f}.",
                                        outside.wall.at.x, outside.wall.at.y)
                          : fmt::format("The piece is {:.3f} mm too large at x {:.0f}, y {:.0f}.", outside.gap,
                                        outside.wall.at.x, outside.wall.at.y));
}

}  // namespace wren
