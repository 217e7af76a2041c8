#include "core/proof/proof.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr std::size_t most_of_a_kind = 12;  // findings of one kind that are told one by one

class Watch {
 public:
  Watch(const ProofRequest& request, const Score& score, ProofResult& result)
      : request_(request), score_(score), result_(result), boxes_(request.setup.clamp_boxes()) {}

  void tell(const char* kind, Weight weight, const Motion& piece, Vec3 at, double number, double limit,
            std::string text) {
    auto& seen = seen_[kind];
    if (seen++ >= most_of_a_kind) return;
    result_.findings.push_back(
        {kind, weight, std::move(text), score_.programs[piece.program].name, piece.line, at, number, limit});
  }

  void before(const Motion& p) {
    const Setup& setup = request_.setup;
    const double low = std::min(p.a.z, p.b.z);
    result_.deepest = std::min(result_.deepest, low);
    double allowed = setup.bed_z() - request_.tolerances.below;
    // Where a pin stands the waste board has a hole: straight down into it a cutter may go.
    if (p.cutter >= 0)
      for (const BedHole& hole : setup.bed_holes)
        if (std::max(distance(flat(p.a), hole.at), distance(flat(p.b), hole.at)) +
                score_.cutters[static_cast<std::size_t>(p.cutter)].radius() <
            hole.radius + 0.02)
          allowed = std::min(allowed, setup.bed_z() - hole.depth - 0.001);
    if (low < allowed - 0.0011)
      tell("below_allowance", Weight::stop, p, p.b, setup.bed_z() - low, request_.tolerances.below,
           fmt::format("The cutter goes {:.3f} mm under the blank; {:.3f} mm are allowed.", setup.bed_z() - low,
                       request_.tolerances.below));
    if (p.cutter < 0) {
      if (!p.rapid && low < 0)
        tell("unknown_cutter", Weight::stop, p, p.b, 0, 0, "A cut is made with a cutter that is not in the rack.");
      return;
    }
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    travels(p, c);
    clamps(p, c);
  }

  void after(const Motion& p, const Removed& removed) {
    if (!removed.any || removed.volume_mm3 < 1e-6) return;
    result_.removed_mm3 += removed.volume_mm3;
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    // Straight up out of its own cut the cutter can only touch what rounding left.
    const bool lift = p.b.z >= p.a.z && distance(flat(p.a), flat(p.b)) < 1e-6;
    if (p.rapid && !lift && removed.volume_mm3 > 1e-4)
      tell("rapid_in_wood", Weight::stop, p, p.b, removed.volume_mm3, 0, "A rapid move goes through wood.");
    if (!p.spindle)
      tell("spindle_still", Weight::stop, p, p.b, 0, 0, "The cutter meets wood while the spindle stands still.");
    if (removed.deepest > c.cutting_length + 0.001)
      tell("beyond_cutting_length", Weight::stop, p, p.b, removed.deepest, c.cutting_length,
           fmt::format("'{}' is {:.2f} mm deep in wood and cuts only over {:.2f} mm.", c.id, removed.deepest,
                       c.cutting_length));
  }

  void holder(const Motion& p, const TileGrid& stock) {
    if (p.cutter < 0) return;
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    const double nut = std::min(p.a.z, p.b.z) + c.stickout;
    if (nut >= 0) return;  // no wood stands above the blank's top
    const double r = c.nut_diameter / 2;
    const Vec3 at = p.a.z < p.b.z ? p.a : p.b;
    const double cell = stock.cell();
    const int i0 = static_cast<int>((at.x - r - stock.origin().x) / cell);
    const int j0 = static_cast<int>((at.y - r - stock.origin().y) / cell);
    const int n = static_cast<int>(2 * r / cell) + 1;
    for (int j = j0; j <= j0 + n; j += 4)
      for (int i = i0; i <= i0 + n; i += 4)
        if (stock.holds(i, j) && static_cast<double>(stock.at(i, j)) > nut &&
            distance(stock.centre(i, j), flat(at)) < r) {
          tell("holder_in_wood", Weight::stop, p, at, static_cast<double>(stock.at(i, j)) - nut, 0,
               fmt::format("The collet nut over '{}' touches wood; it needs {:.1f} mm more stickout.", c.id,
                           static_cast<double>(stock.at(i, j)) - nut));
          return;
        }
  }

 private:
  void travels(const Motion& p, const Cutter& c) {
    const Setup& setup = request_.setup;
    const Vec3& travel = setup.machine.travel;
    const double tip_home = setup.machine.clear_under_nut - c.stickout;
    for (const Vec3& at : {p.a, p.b}) {
      const double x = setup.zero_in_machine.x + at.x;
      const double y = setup.zero_in_machine.y + at.y;
      const double z = at.z + setup.blank.thickness - tip_home;
      const auto axis = [&](char name, double v, double low, double high) {
        if (v >= low - 1e-6 && v <= high + 1e-6) return;
        tell("outside_travel", Weight::stop, p, at, v < low ? low - v : v - high, 0,
             fmt::format("{} goes {:.1f} mm beyond the machine's travel with '{}'.", name, v < low ? low - v : v - high,
                         c.id));
      };
      axis('x', x, 0, travel.x);
      axis('y', y, 0, travel.y);
      axis('z', z, -travel.z, 0);
    }
  }

  void clamps(const Motion& p, const Cutter& c) {
    for (const auto& box : boxes_) {
      const auto hits = [&](double radius, double lift) {
        if (std::min(p.a.z, p.b.z) + lift >= box.high.z) return false;
        // Places along the piece where it is low enough, then the distance of that part to the box.
        double t0 = 0;
        double t1 = 1;
        const double za = p.a.z + lift - box.high.z;
        const double zb = p.b.z + lift - box.high.z;
        if (za >= 0) t0 = za / (za - zb);
        if (zb >= 0) t1 = za / (za - zb);
        const Vec2 a = flat(lerp(p.a, p.b, t0));
        const Vec2 b = flat(lerp(p.a, p.b, t1));
        return reach(a, b, box) < radius - 1e-9;
      };
      if (hits(c.radius(), 0))
        tell("into_clamp", Weight::stop, p, p.b, 0, 0, fmt::format("'{}' runs into the clamp '{}'.", c.id, box.name));
      else if (hits(c.nut_diameter / 2, c.stickout))
        tell("holder_into_clamp", Weight::stop, p, p.b, 0, 0,
             fmt::format("The collet nut over '{}' runs into the clamp '{}'.", c.id, box.name));
    }
  }

  /// Distance in plan between a segment and a box; 0 when they overlap.
  static double reach(Vec2 a, Vec2 b, const Setup::Box& box) {
    const auto inside = [&](Vec2 p) {
      return p.x >= box.low.x && p.x <= box.high.x && p.y >= box.low.y && p.y <= box.high.y;
    };
    if (inside(a) || inside(b)) return 0;
    const Vec2 corner[4]{
        {box.low.x, box.low.y}, {box.high.x, box.low.y}, {box.high.x, box.high.y}, {box.low.x, box.high.y}};
    double best = 1e300;
    for (int i = 0; i < 4; ++i) {
      const Vec2 u = corner[i];
      const Vec2 v = corner[(i + 1) % 4];
      if (const auto x = meet(a, b - a, u, v - u)) {
        const double t = dot(*x - a, b - a) / std::max(1e-300, dot(b - a, b - a));
        const double s = dot(*x - u, v - u) / dot(v - u, v - u);
        if (t >= 0 && t <= 1 && s >= 0 && s <= 1) return 0;
      }
      best = std::min({best, distance_to(a, {u, v}), distance_to(b, {u, v}), distance_to(u, {a, b})});
    }
    return best;
  }

  const ProofRequest& request_;
  const Score& score_;
  ProofResult& result_;
  std::vector<Setup::Box> boxes_;
  std::map<std::string, std::size_t> seen_;
};

}  // namespace

bool ProofResult::passed() const {
  return std::none_of(findings.begin(), findings.end(), [](const Finding& f) { return f.weight == Weight::stop; });
}

Expected<ProofResult> rehearse_side(const ProofRequest& request, Score* kept, Progress* progress) {
  const auto stopped = [] {
    return fail(ProblemKind::stopped, "the rehearsal was stopped", "", "Start it again when you like");
  };
  if (progress != nullptr && !progress->go_on(0, "reading")) return stopped();
  auto read = read_score(request.programs, request.rack, request.setup);
  if (!read) return tl::unexpected(read.error());
  const Score& score = *read;
  ProofResult result;
  result.programs = score.programs;
  result.seconds = score.seconds;
  for (const ProgramFacts& facts : score.programs)
    for (const int tool : facts.unknown_tools)
      result.findings.push_back({"unknown_cutter",
                                 Weight::stop,
                                 fmt::format("T{} is not in the rack, so what it cuts cannot be shown.", tool),
                                 facts.name,
                                 0,
                                 {},
                                 static_cast<double>(tool),
                                 0});
  TileGrid stock = fresh_stock(request.setup, request.cell);
  std::vector<Remover> removers;
  for (const Cutter& c : score.cutters) removers.emplace_back(c);
  Watch watch(request, score, result);
  for (std::size_t i = 0; i < score.motions.size(); ++i) {
    if (progress != nullptr && i % 128 == 0 &&
        !progress->go_on(0.9 * static_cast<double>(i) / static_cast<double>(score.motions.size()),
                         "cutting virtual wood"))
      return stopped();
    const Motion& piece = score.motions[i];
    watch.before(piece);
    if (piece.cutter < 0) continue;
    watch.after(piece, removers[static_cast<std::size_t>(piece.cutter)].sweep(stock, piece.a, piece.b));
    watch.holder(piece, stock);
  }
  result.stock = std::move(stock);
  if (kept != nullptr) *kept = std::move(*read);
  if (progress != nullptr && !progress->go_on(1, "done")) return stopped();
  return result;
}

}  // namespace wren
