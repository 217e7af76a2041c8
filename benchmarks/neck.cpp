// The neck's whole steps: an edit to its solid, all paths of both sides, the rehearsal of both sides as one piece.
#include <benchmark/benchmark.h>

#include "core/job/neck_cuts.hpp"
#include "core/job/neck_mesh.hpp"

namespace {

using namespace wren;

Project demo() { return *project_from("reedling"); }

/// Thickness typed in: design, judgement and the picture's mesh. The numbers differ each time, so that nothing is
/// remembered.
void neck_edit_to_solid(benchmark::State& state) {
  Project p = demo();
  const Fretboard board = *make_fretboard(p.instrument);
  for (auto _ : state) {
    p.neck.back.thickness_a += 1e-5;
    const NeckDesign d = *design_neck(p, board);
    benchmark::DoNotOptimize(neck_mesh(d.shape, 3.0).triangles.size());
  }
}
BENCHMARK(neck_edit_to_solid)->Unit(benchmark::kMillisecond);

void neck_all_paths(benchmark::State& state) {
  const Project p = demo();
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  double metres = 0;
  for (auto _ : state) metres = plan_neck(p, d).finish_length / 1000;
  state.counters["finish_m"] = metres;
}
BENCHMARK(neck_all_paths)->Unit(benchmark::kMillisecond);

void neck_rehearsal(benchmark::State& state) {
  const Project p = demo();
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  const NeckCuts cuts = plan_neck(p, d);
  const auto request = neck_proof(p, d, cuts, neck_programs(p, d, cuts, "2026-11-24"), 0.1);
  for (auto _ : state) benchmark::DoNotOptimize(prove_piece(request)->passed());
}
BENCHMARK(neck_rehearsal)->Unit(benchmark::kMillisecond)->Iterations(2);

}  // namespace
