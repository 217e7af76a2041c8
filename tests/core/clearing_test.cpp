// Clearing of cavities: what is cut and what never is, and how much wood the cutter has beside it at most.
#include <catch2/catch.hpp>

#include <algorithm>

#include "core/cutting/clearing.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

/// The wood of one level, cell by cell; tells how much a move takes away per mm of way.
class OneLevel {
 public:
  OneLevel(Box2 box, double cell)
      : low_(box.low),
        cell_(cell),
        columns_(static_cast<int>(box.size().x / cell) + 1),
        rows_(static_cast<int>(box.size().y / cell) + 1),
        wood_(static_cast<std::size_t>(columns_ * rows_), 1) {}
  double cut(Vec2 p, double r) {
    double taken = 0;
    for (int j = std::max(0, row(p.y - r)); j <= std::min(rows_ - 1, row(p.y + r)); ++j)
      for (int i = std::max(0, column(p.x - r)); i <= std::min(columns_ - 1, column(p.x + r)); ++i) {
        auto& w = wood_[static_cast<std::size_t>(j * columns_ + i)];
        if (w != 0 && distance(at(i, j), p) <= r) {
          w = 0;
          taken += cell_ * cell_;
        }
      }
    return taken;
  }
  template <class Each>
  void each(const Each& f) const {
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i) f(at(i, j), wood_[static_cast<std::size_t>(j * columns_ + i)] != 0);
  }
  [[nodiscard]] Vec2 at(int i, int j) const { return {low_.x + (i + 0.5) * cell_, low_.y + (j + 0.5) * cell_}; }

 private:
  [[nodiscard]] int column(double x) const { return static_cast<int>((x - low_.x) / cell_); }
  [[nodiscard]] int row(double y) const { return static_cast<int>((y - low_.y) / cell_); }
  Vec2 low_;
  double cell_;
  int columns_, rows_;
  std::vector<char> wood_;
};

template <class Visit>
void walk(const Strand& s, double pace, const Visit& visit) {
  Vec3 at = s.start;
  visit(at, 0.0, false);
  for (const Step& step : s.steps) {
    std::vector<Vec3> way;
    if (step.kind == StepKind::line) {
      const int n = std::max(1, static_cast<int>(distance(at, step.to) / pace));
      for (int k = 1; k <= n; ++k) way.push_back(lerp(at, step.to, static_cast<double>(k) / n));
    } else {
      const double r = distance(flat(at), step.centre);
      const Vec2 a = flat(at) - step.centre;
      const Vec2 b = flat(step.to) - step.centre;
      double sweep = std::atan2(cross(a, b), dot(a, b));
      if (step.kind == StepKind::arc_ccw && sweep <= 1e-9) sweep += 2 * 3.14159265358979;
      if (step.kind == StepKind::arc_cw && sweep >= -1e-9) sweep -= 2 * 3.14159265358979;
      const int n = std::max(1, static_cast<int>(std::abs(sweep) * r / pace));
      const double from = std::atan2(a.y, a.x);
      for (int k = 1; k <= n; ++k) {
        const double angle = from + sweep * k / n;
        const Vec2 q = step.centre + Vec2{std::cos(angle), std::sin(angle)} * r;
        way.push_back({q.x, q.y, at.z + (step.to.z - at.z) * k / n});
      }
    }
    for (const Vec3 p : way) {
      visit(p, distance(flat(at), flat(p)), step.kind != StepKind::line);
      at = p;
    }
    at = step.to;
  }
}

ClearPlan plan_for(const Region& region, double diameter) {
  ClearPlan plan;
  plan.cutter.id = "flat";
  plan.cutter.diameter = diameter;
  plan.cutter.cutting_length = 25;
  plan.feeds.feed = 1500;
  plan.feeds.plunge = 300;
  plan.entry = plan.feeds;
  plan.region = region;
  plan.floor = [](Vec2) { return -3.0; };
  plan.lowest_floor = -3;
  plan.bite = 5;  // one level
  return plan;
}

Box2 around(const Region& region) {
  Box2 box;
  for (const Polygon& p : region)
    for (const Vec2 q : p) box.add(q);
  box.add(box.low - Vec2{8, 8});
  box.add(box.high + Vec2{8, 8});
  return box;
}

const Region shapes[] = {
    {rounded_rectangle({0, 0}, {1, 0}, 90, 40, 4)},
    {buffer_of({{0, 0}, {60, 0}, {60, 50}, {120, 70}}, 14)},
    subtracted({rounded_rectangle({0, 0}, {1, 0.3}, 110, 60, 8)}, {circle_polygon({8, 2}, 11)}),
    united({rounded_rectangle({0, 0}, {1, 0}, 40, 40, 5), rounded_rectangle({60, 0}, {1, 0}, 40, 40, 5),
            rounded_rectangle({30, 0}, {1, 0}, 30, 9, 1)}),
    {{{0, 0}, {70, 0}, {70, 30}, {40, 30}, {40, 12}, {30, 12}, {30, 30}, {0, 30}}},
};

}  // namespace

TEST_CASE("a cavity is cleared to its walls and never beyond them") {
  for (const Region& shape : shapes) {
    const ClearPlan plan = plan_for(shape, 6.35);
    const auto cleared = clear_region(plan);
    REQUIRE(cleared);
    OneLevel wood(around(shape), 0.2);
    const double r = plan.cutter.radius();
    const Region inner = offset(shape, -(r - 0.004));
    for (const auto* strands : {&cleared->rough, &cleared->floor, &cleared->walls})
      for (const Strand& s : *strands)
        walk(s, 0.2, [&](Vec3 p, double, bool) {
          if (!contains(inner, flat(p))) {
            double off = 1e9;
            for (const Polygon& ring : inner) off = std::min(off, distance_to(ring, flat(p)));
            CHECK(off < 1e-3);
          }
          CHECK(p.z >= -3 - 1e-9);
          if (p.z < -2.99) wood.cut(flat(p), r);
        });
    // Everything the cutter's rim can reach is gone at the floor.
    const Region reached = offset(offset(shape, -r), r - 0.15);
    std::size_t left = 0;
    wood.each([&](Vec2 p, bool there) { left += there && contains(reached, p) ? 1 : 0; });
    CHECK(left == 0);
  }
}

TEST_CASE("nearly all the way the cutter has no more wood beside it than its step") {
  for (const Region& shape : shapes) {
    const ClearPlan plan = plan_for(shape, 6.35);
    const auto cleared = clear_region(plan);
    REQUIRE(cleared);
    const double r = plan.cutter.radius();
    const double step = plan.step * 2 * r;
    OneLevel wood(around(shape), 0.1);
    double way = 0, over = 0, far_over = 0;
    for (const Strand& s : cleared->rough) {
      const bool helix = !s.steps.empty() && s.steps.front().kind != StepKind::line && s.start.z > -1;
      double window = 0, taken = 0;
      bool first = true;
      walk(s, 0.1, [&](Vec3 p, double moved, bool) {
        const double volume = wood.cut(flat(p), r);
        if (helix || p.z > -2.8) return;  // the way in, and lifted over what is clear
        if (first) {
          first = false;  // where it comes down
          return;
        }
        window += moved;
        taken += volume;
        if (window < 2) return;
        const double wide = taken / window;
        way += window;
        if (wide > 1.35 * step) over += window;
        if (wide > 2.3 * step) far_over += window;
        window = taken = 0;
      });
    }
    INFO("over " << over << ", far over " << far_over << " of " << way);
    CHECK(over < 0.2 * way);  // coming over to a new front, one step long at half the feed, and corners
    CHECK(far_over < 0.025 * way);
  }
}

TEST_CASE("a thinner cutter takes only what a wider one has left") {
  const Region shape{rounded_rectangle({0, 0}, {1, 0}, 80, 40, 1)};
  const auto wide = clear_region(plan_for(shape, 12));
  REQUIRE(wide);
  CHECK_THAT(area(left_by(shape, 6)), WithinAbs(4 * (36 - 3.14159265 * 36 / 4) - 4 * (1 - 3.14159265 / 4), 0.5));
  ClearPlan fine = plan_for(shape, 3);
  const auto all = clear_region(fine);
  fine.cleared = wide->reached;
  const auto rest = clear_region(fine);
  REQUIRE(all);
  REQUIRE(rest);
  const auto run = [](const std::vector<Strand>& strands) {
    double sum = 0;
    for (const Strand& s : strands) walk(s, 1, [&](Vec3, double moved, bool) { sum += moved; });
    return sum;
  };
  CHECK(run(rest->rough) < 0.3 * run(all->rough));
  for (const Strand& s : rest->rough)
    for (const Step& step : s.steps) CHECK(std::abs(step.to.x) < 40);
}

TEST_CASE("a cavity narrower than the cutter is refused, one as wide is ramped into") {
  const auto no = clear_region(plan_for({rounded_rectangle({0, 0}, {1, 0}, 60, 6, 3)}, 6.35));
  REQUIRE_FALSE(no);
  CHECK(no.error().what.find("does not go into") != std::string::npos);
  const auto yes = clear_region(plan_for({rounded_rectangle({0, 0}, {1, 0}, 60, 6.6, 3.3)}, 6.35));
  REQUIRE(yes);
  REQUIRE_FALSE(yes->rough.empty());
  // Down a ramp, not straight.
  const Strand& s = yes->rough.front();
  for (std::size_t k = 0; k < s.steps.size(); ++k) {
    const Vec3 from = k == 0 ? s.start : s.steps[k - 1].to;
    const double way = distance(flat(from), flat(s.steps[k].to));
    if (from.z - s.steps[k].to.z > 1e-6) CHECK((from.z - s.steps[k].to.z) / way < 0.0601);
  }
}

TEST_CASE("a tilted floor is cut as a true slope") {
  ClearPlan plan = plan_for({rounded_rectangle({0, 0}, {1, 0}, 60, 50, 5)}, 6.35);
  plan.slope = 0.035;  // 2°
  plan.floor = [](Vec2 q) { return -16 + 0.035 * q.x; };
  plan.lowest_floor = -16 - 0.035 * 30;
  plan.bite = 4;
  const auto cleared = clear_region(plan);
  REQUIRE(cleared);
  // Lowest cut at each place away from the side walls: the flat bottom swept along the slope.
  std::vector<double> lowest(49 * 49, 1e9);
  for (const auto* strands : {&cleared->rough, &cleared->floor, &cleared->walls})
    for (const Strand& s : *strands)
      walk(s, 0.25, [&](Vec3 p, double, bool) {
        for (int j = 0; j < 49; ++j)
          for (int i = 0; i < 49; ++i) {
            const Vec2 q{-24.0 + i, -24.0 + j};
            if (distance(q, flat(p)) <= 3.175)
              lowest[static_cast<std::size_t>(j * 49 + i)] =
                  std::min(lowest[static_cast<std::size_t>(j * 49 + i)], p.z);
          }
      });
  for (int j = 4; j < 45; ++j)
    for (int i = 0; i < 49; ++i) {
      const double want = -16 + 0.035 * (-24.0 + i);
      const double got = lowest[static_cast<std::size_t>(j * 49 + i)];
      INFO(i << " " << j);
      CHECK(got >= want - 1e-6);
      CHECK(got < want + 0.02);
    }
}

TEST_CASE("however narrow the cavity, neither the way in nor the fronts touch its walls") {
  const double diameter = 3.175;
  for (double width = diameter + 0.05; width < 3.2 * diameter; width += 0.19)
    for (const double turn : {0.0, 0.31, 1.2})
      for (const bool finish : {false, true}) {
        INFO("width " << width << ", turned " << turn << ", skimmed " << finish);
        const Region shape{rounded_rectangle({2, 1}, {std::cos(turn), std::sin(turn)}, 2.4 * width, width, 0)};
        ClearPlan plan = plan_for(shape, diameter);
        plan.finish = finish;
        const auto cleared = clear_region(plan);
        REQUIRE(cleared);
        double beyond = 0;
        const Region inner = offset(shape, -plan.cutter.radius());
        for (const auto* strands : {&cleared->rough, &cleared->floor, &cleared->walls})
          for (const Strand& s : *strands)
            walk(s, 0.05, [&](Vec3 p, double, bool) {
              for (const Polygon& ring : inner)
                if (!contains(inner, flat(p))) beyond = std::max(beyond, distance_to(ring, flat(p)));
            });
        CHECK(beyond < 0.006);
      }
}
