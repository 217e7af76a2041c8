#include "core/proof/compare.hpp"

#include <algorithm>
#include <array>
#include <thread>

#include <fmt/format.h>

namespace wren {
namespace {

struct Cell {
  double error = 0;
  Vec2 at;  // instrument frame
  double stock = 0;
};

/// Results of one band of rows; bands are joined in order, so that the outcome does not depend on the number of
/// threads.
struct Band {
  Cell gouge;
  Cell left;
  std::size_t gouges = 0;
  std::size_t lefts = 0;
  std::array<std::size_t, 512> histogram{};  // of heights left on the open crown, 0.001 mm a bin
};

class Comparer {
 public:
  Comparer(const ProofRequest& request, const TileGrid& stock)
      : request_(request),
        design_(*request.design),
        stock_(stock),
        corners_(flatten(design_.outline, 0.001)),
        box_(bounds(corners_)) {}

  void rows(int j0, int j1, Band& band) const {
    const Setup& setup = request_.setup;
    const double up = setup.blank.thickness;  // work z to instrument z
    for (int j = j0; j < j1; ++j)
      for (int i = 0; i < stock_.width(); ++i) {
        const Vec2 p = setup.to_work.back(stock_.centre(i, j));
        if (p.x < box_.low.x || p.x > box_.high.x || p.y < box_.low.y || p.y > box_.high.y || !contains(corners_, p))
          continue;
        const double z = static_cast<double>(stock_.at(i, j)) + up;
        const double want = design_.finished(p);
        const double error = z - want;
        // On the open crown, away from walls, every micrometre counts; near a wall the neighbourhood decides.
        if (error > -request_.tolerances.gouge && error < request_.tolerances.left_over) {
          if (want > design_.crowned(p) - 1e-9) {
            const auto bin = static_cast<std::size_t>(std::clamp(error * 1000, 0.0, 511.0));
            ++band.histogram[bin];
          }
          keep(band, error, p, z);
          continue;
        }
        double low = want;
        double high = want;
        for (const Vec2 d : {Vec2{wall_, 0}, Vec2{-wall_, 0}, Vec2{0, wall_}, Vec2{0, -wall_}, Vec2{wall_, wall_},
                             Vec2{-wall_, wall_}, Vec2{wall_, -wall_}, Vec2{-wall_, -wall_}}) {
          const double h = contains(corners_, p + d) ? design_.finished(p + d) : -1e9;
          low = std::min(low, h);
          high = std::max(high, h);
        }
        if (rounded_by_cutter(p)) continue;
        const double within = z < low ? z - low : z > high ? z - high : 0;
        if (within < -request_.tolerances.gouge) ++band.gouges;
        if (within > request_.tolerances.left_over) ++band.lefts;
        keep(band, within, p, z);
      }
  }

 private:
  [[nodiscard]] bool rounded_by_cutter(Vec2 p) const {
    return std::any_of(design_.slots.begin(), design_.slots.end(), [&](const SlotDesign& s) {
      return s.blind && (distance(p, s.a) < s.width || distance(p, s.b) < s.width);
    });
  }
  static void keep(Band& band, double error, Vec2 p, double z) {
    if (-error > band.gouge.error) band.gouge = {-error, p, z};
    if (error > band.left.error) band.left = {error, p, z};
  }
  static constexpr double wall_ = 0.04;  // mm: half of what a wall may stand off before the cell counts
  const ProofRequest& request_;
  const Design& design_;
  const TileGrid& stock_;
  Polygon corners_;
  Box2 box_;
};

Vec3 work_point(const Setup& setup, Vec2 p, double z) {
  const Vec2 q = setup.to_work.apply(p);
  return {q.x, q.y, setup.to_work.apply_z(z)};
}

/// Walks the kerf around the outline and reads what is left standing over the waste board.
void walk_kerf(const ProofRequest& request, ProofResult& result) {
  const Setup& setup = request.setup;
  constexpr double outside = 0.5;  // mm beside the outline: well within any outline cutter's kerf
  constexpr double step = 0.5;
  const auto kerf = offset_outside(request.design->outline, outside);
  if (!kerf) return;
  const double total = perimeter(*kerf);
  const int n = static_cast<int>(total / step);
  std::vector<double> standing(static_cast<std::size_t>(n));
  std::size_t open = 0;
  for (int k = 0; k < n; ++k) {
    const Vec2 p = setup.to_work.apply(place_along(*kerf, k * step).at);
    const int i = static_cast<int>(std::floor((p.x - result.stock.origin().x) / result.stock.cell()));
    const int j = static_cast<int>(std::floor((p.y - result.stock.origin().y) / result.stock.cell()));
    const double z = result.stock.holds(i, j) ? static_cast<double>(result.stock.at(i, j)) : setup.bed_z() - 1;
    standing[static_cast<std::size_t>(k)] = std::max(0.0, z - setup.bed_z());
    if (standing[static_cast<std::size_t>(k)] < 0.001) ++open;
  }
  if (open * 2 < standing.size()) {
    result.findings.push_back({"outline_not_through",
                               Weight::think_again,
                               "The outline is not cut through: the piece stays in its blank.",
                               "",
                               0,
                               {},
                               100.0 * static_cast<double>(open) / static_cast<double>(standing.size()),
                               50});
    return;
  }
  result.outline_through = true;
  // Runs of standing wood, taken round from an open place.
  std::size_t first = 0;
  while (standing[first] > 0.001) ++first;
  for (std::size_t k = 0; k < standing.size();) {
    const std::size_t from = (first + k) % standing.size();
    if (standing[from] < 0.001) {
      ++k;
      continue;
    }
    double high = 0;
    std::size_t length = 0;
    while (k < standing.size() && standing[(first + k) % standing.size()] >= 0.001) {
      high = std::max(high, standing[(first + k) % standing.size()]);
      ++length;
      ++k;
    }
    const double run = static_cast<double>(length) * step;
    const Vec2 at = place_along(*kerf, (static_cast<double>(from) + static_cast<double>(length) / 2) * step).at;
    if (high >= request.tolerances.skin_height && run <= request.tolerances.tab_longest) {
      ++result.tabs;
    } else {
      result.findings.push_back(
          {"skin_left", Weight::stop,
           fmt::format("A skin {:.2f} mm thick and {:.1f} mm long is left in the outline.", high, run), "", 0,
           work_point(setup, at, high), high, 0});
      if (result.findings.size() > 200) return;
    }
  }
  if (result.tabs == 0)
    result.findings.push_back(
        {"comes_loose",
         Weight::think_again,
         "No tab is left: the board comes free under a turning cutter. Hold it with tape or vacuum.",
         "",
         0,
         {},
         0,
         1});
}

}  // namespace

void compare_with_design(const ProofRequest& request, ProofResult& result) {
  const Comparer comparer(request, result.stock);
  constexpr int bands = 16;
  std::vector<Band> band(bands);
  const int rows = result.stock.height();
  const auto work = [&](int first) {
    for (int b = first; b < bands; b += 2)
      comparer.rows(rows * b / bands, rows * (b + 1) / bands, band[static_cast<std::size_t>(b)]);
  };
  std::thread other(work, 1);
  work(0);
  other.join();
  Cell gouge;
  Cell left;
  std::size_t gouges = 0;
  std::size_t lefts = 0;
  std::size_t count = 0;
  std::array<std::size_t, 512> histogram{};
  for (const Band& b : band) {
    if (b.gouge.error > gouge.error) gouge = b.gouge;
    if (b.left.error > left.error) left = b.left;
    gouges += b.gouges;
    lefts += b.lefts;
    for (std::size_t i = 0; i < histogram.size(); ++i) {
      histogram[i] += b.histogram[i];
      count += b.histogram[i];
    }
  }
  result.worst_gouge = gouge.error;
  result.worst_left = left.error;
  std::size_t above = count / 1000;
  for (std::size_t i = histogram.size(); i-- > 0;) {
    if (histogram[i] > above) {
      result.surface_left = (static_cast<double>(i) + 1) / 1000;
      break;
    }
    above -= histogram[i];
  }
  const double area = request.cell * request.cell;
  if (gouge.error > request.tolerances.gouge)
    result.findings.push_back(
        {"gouge", Weight::stop,
         fmt::format("Wood is missing: {:.3f} mm below the design at the worst place, over {:.1f} mm² in all.",
                     gouge.error, static_cast<double>(gouges) * area),
         "", 0, work_point(request.setup, gouge.at, gouge.stock), gouge.error, request.tolerances.gouge});
  if (left.error > request.tolerances.left_over)
    result.findings.push_back(
        {"left_over", Weight::stop,
         fmt::format("Wood is left: {:.3f} mm above the design at the worst place, over {:.1f} mm² in all.", left.error,
                     static_cast<double>(lefts) * area),
         "", 0, work_point(request.setup, left.at, left.stock), left.error, request.tolerances.left_over});
  walk_kerf(request, result);
}

void check_slots(const ProofRequest& request, const Score& score, ProofResult& result) {
  const Setup& setup = request.setup;
  const double up = setup.blank.thickness;
  for (const SlotDesign& slot : request.design->slots) {
    const Vec2 a = setup.to_work.apply(slot.a);
    const Vec2 b = setup.to_work.apply(slot.b);
    const Vec2 u = unit(b - a);
    const double l = distance(a, b);
    constexpr int marks = 64;  // depth is read at these places along the slot
    std::array<double, marks + 1> lowest;
    lowest.fill(1e300);
    double left = -1e300;
    double right = 1e300;
    for (const Piece& p : score.pieces) {
      if (p.rapid || p.cutter < 0) continue;
      const Cutter& c = score.cutters[static_cast<std::size_t>(p.cutter)];
      const double r = c.radius();
      if (2 * r > slot.width + 1) continue;  // not a slot's cutter
      const Vec2 d = flat(p.b) - flat(p.a);
      const double run = length(d);
      if (run < 0.2 || std::abs(cross(u, d)) > 0.02 * run) continue;
      const double sa = cross(u, flat(p.a) - a);  // offset to the left of the slot's line
      const double sb = cross(u, flat(p.b) - a);
      if (std::abs(sa) > 1 || std::abs(sb) > 1) continue;
      double ta = dot(u, flat(p.a) - a);
      double tb = dot(u, flat(p.b) - a);
      double za = p.a.z + up;
      double zb = p.b.z + up;
      if (ta > tb) {
        std::swap(ta, tb);
        std::swap(za, zb);
      }
      if (tb < 0 || ta > l) continue;
      const Vec2 middle = lerp(slot.a, slot.b, std::clamp((ta + tb) / 2 / l, 0.0, 1.0));
      if (std::min(za, zb) > request.design->crowned(middle) - 0.05) continue;  // above the finished wood
      left = std::max(left, std::max(sa, sb) + r);
      right = std::min(right, std::min(sa, sb) - r);
      constexpr double end_slack = 0.01;  // mm: rounding of a slot's end to whole micrometres and a little more
      const int k0 = std::max(0, static_cast<int>(std::ceil((ta - r - end_slack) / l * marks)));
      const int k1 = std::min(marks, static_cast<int>(std::floor((tb + r + end_slack) / l * marks)));
      for (int k = k0; k <= k1; ++k)
        for (const double edge : {-r, r}) {  // the tip is as wide as the cutter: its lowest stand over a place counts
          const double t = std::clamp((l * k / marks + edge - ta) / (tb - ta), 0.0, 1.0);
          lowest[static_cast<std::size_t>(k)] = std::min(lowest[static_cast<std::size_t>(k)], za + (zb - za) * t);
        }
    }
    SlotResult out;
    out.name = slot.name;
    out.found = left > -1e299;
    const auto tell = [&](const char* kind, double number, double limit, std::string text) {
      result.findings.push_back(
          {kind, Weight::stop, std::move(text), "", 0, work_point(setup, lerp(slot.a, slot.b, 0.5), 0), number, limit});
    };
    if (!out.found) {
      tell("slot_missing", 0, 0, fmt::format("The slot of {} is not cut.", slot.name));
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
      const Vec2 at = lerp(slot.a, slot.b, static_cast<double>(k) / marks);
      const double want = std::min(slot.floor(at), request.design->crowned(at));
      const double error = want - lowest[static_cast<std::size_t>(k)];
      if (std::abs(error) > std::abs(out.depth_error)) out.depth_error = std::clamp(error, -99.0, 99.0);
      if (error > -request.tolerances.slot_depth) ++deep;
    }
    out.covered = static_cast<double>(deep) / (marks + 1);
    const ProofTolerances& tol = request.tolerances;
    if (out.place_error > tol.slot_place)
      tell("slot_place", out.place_error, tol.slot_place,
           fmt::format("The slot of {} lies {:.4f} mm beside its fret line.", slot.name, out.place_error));
    if (std::abs(out.width - slot.width) > tol.slot_width)
      tell("slot_width", out.width, slot.width,
           fmt::format("The slot of {} comes out {:.3f} mm wide; {:.3f} mm are wanted.", slot.name, out.width,
                       slot.width));
    if (out.covered < 1 || out.depth_error > tol.slot_depth)
      tell("slot_depth", out.depth_error, tol.slot_depth,
           fmt::format("The slot of {} is off its depth by {:.3f} mm.", slot.name, out.depth_error));
    result.slots.push_back(out);
  }
}

}  // namespace wren
