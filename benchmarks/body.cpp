// The body's whole steps: cleaning a plan of 50 000 segments, an edit to its judged design, all paths, the rehearsal of
// every layer and side; and the polygon kernels against their references.
#include <benchmark/benchmark.h>

#include <cmath>

#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"
#include "core/plan/cleaning.hpp"

namespace {

using namespace wren;

struct Job {
  Project project = *project_from("reedling");
  BoardDesign board = *design_board(project);
  Cache cache;
  NeckDesign neck = *design_neck(project, board.board, cache);
  BodyDesign body = *design_body(project, neck, board.weight_g);
};
const Job& job() {
  static const Job one;
  return one;
}

std::vector<DrawnPath> chopped_plan(int segments) {
  std::vector<DrawnPath> out;
  Vec2 before{170, 0};
  for (int k = 1; k <= segments; ++k) {
    const double a = 2 * 3.14159265358979 * k / segments;
    const Vec2 p = Vec2{std::cos(a), std::sin(a)} * (150 + 20 * std::cos(3 * a));
    out.push_back({"0", 0, false, {before, p}});
    before = p;
  }
  return out;
}

/// Goal: under 1 s. Loose segments, joined, doubles looked for, arcs and curves recovered.
void clean_50000_segments(benchmark::State& state) {
  const auto plan = chopped_plan(50'000);
  for (auto _ : state) benchmark::DoNotOptimize(clean(plan).paths.size());
}
BENCHMARK(clean_50000_segments)->Unit(benchmark::kMillisecond);

void body_edit_to_design(benchmark::State& state) {
  Project p = job().project;
  for (auto _ : state) {
    body_of(p).body.outline.tail += 1e-4;
    benchmark::DoNotOptimize(design_body(p, job().neck, job().board.weight_g)->remarks.size());
  }
}
BENCHMARK(body_edit_to_design)->Unit(benchmark::kMillisecond);

/// Goal: under 3 s.
void body_all_paths(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), job().project, cache);
  for (auto _ : state) benchmark::DoNotOptimize(plan(*all_parts().find("body"), f, cache)->cuts.seconds);
}
BENCHMARK(body_all_paths)->Unit(benchmark::kMillisecond)->Iterations(2);

/// Goal: under 20 s at 0.2 mm.
void body_rehearsal(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), job().project, cache);
  const auto planned = plan(*all_parts().find("body"), f, cache);
  const auto programs = programs_of(job().project, *planned, "2026-11-25");
  for (auto _ : state) benchmark::DoNotOptimize(prove_part(*planned, programs)->passed());
}
BENCHMARK(body_rehearsal)->Unit(benchmark::kMillisecond)->Iterations(1);

/// Goal: 40 inward offsets of a body's outline of about 650 points, each from the original, in at most 0.6 s.
void outline_40_offsets(benchmark::State& state) {
  Polygon outline;
  const Contour& c = job().body.shape.outline;
  const double whole = perimeter(c);
  for (int k = 0; k < 650; ++k) outline.push_back(place_along(c, whole * k / 650).at);
  for (auto _ : state)
    for (int k = 1; k <= 40; ++k) benchmark::DoNotOptimize(offset({outline}, -3.0 * k).size());
}
BENCHMARK(outline_40_offsets)->Unit(benchmark::kMillisecond);

MeshPlan points_plan(bool bare) {
  MeshPlan plan;
  plan.outline = flatten(job().body.shape.outline, bare ? 5.0 : 0.05);
  if (!bare)
    for (const Vec2 h : {Vec2{560, 0}, Vec2{620, 40}, Vec2{620, -40}, Vec2{680, 0}, Vec2{520, 60}})
      plan.steps.push_back(circle_polygon(h, 9));
  const Box2 box = bounds(plan.outline);
  for (int k = 0; k < 20'000; ++k) {
    const Vec2 p{box.low.x + box.size().x * std::fmod(k * 0.7548776662466927, 1.0),
                 box.low.y + box.size().y * std::fmod(k * 0.5698402909980532, 1.0)};
    plan.inside.push_back(p);
  }
  plan.region = [](Vec2) { return 0; };
  plan.top = [](Vec2, int) { return 0.0; };
  plan.bottom = [](Vec2, int) { return -1.0; };
  return plan;
}

/// Reference: the same points with next to nothing to keep. Goal: the constrained one takes at most twice as long.
void triangulate_points_only(benchmark::State& state) {
  const MeshPlan plan = points_plan(true);
  for (auto _ : state) benchmark::DoNotOptimize(mesh_piece(plan).triangles.size());
}
BENCHMARK(triangulate_points_only)->Unit(benchmark::kMillisecond);

void triangulate_outline_and_holes(benchmark::State& state) {
  const MeshPlan plan = points_plan(false);
  for (auto _ : state) benchmark::DoNotOptimize(mesh_piece(plan).triangles.size());
}
BENCHMARK(triangulate_outline_and_holes)->Unit(benchmark::kMillisecond);

}  // namespace
