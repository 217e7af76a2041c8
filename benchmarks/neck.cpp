// The neck's whole steps: an edit to its solid, all paths of both sides, the rehearsal of both sides as one piece.
#include <benchmark/benchmark.h>

#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"

namespace {

using namespace wren;

Project demo() { return *project_from("reedling"); }

/// Thickness typed in: design, judgement and the picture's mesh. The numbers differ each time, so that nothing is
/// remembered.
void neck_edit_to_solid(benchmark::State& state) {
  Project p = demo();
  Cache cache;
  const Fretboard board = *make_fretboard(board_of(p).instrument);
  for (auto _ : state) {
    neck_of(p).neck.back.thickness_a += 1e-5;
    const NeckDesign d = *design_neck(p, board, cache);
    benchmark::DoNotOptimize(neck_mesh(d.shape, mesh_for_picture).triangles.size());
  }
}
BENCHMARK(neck_edit_to_solid)->Unit(benchmark::kMillisecond);

void neck_all_paths(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), demo(), cache);
  for (auto _ : state) benchmark::DoNotOptimize(plan(*all_parts().find("neck"), f, cache)->cuts.seconds);
}
BENCHMARK(neck_all_paths)->Unit(benchmark::kMillisecond);

void neck_rehearsal(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), demo(), cache);
  const auto planned = plan(*all_parts().find("neck"), f, cache);
  const auto programs = programs_of(demo(), *planned, "2026-11-25");
  for (auto _ : state) benchmark::DoNotOptimize(prove_part(*planned, programs)->passed());
}
BENCHMARK(neck_rehearsal)->Unit(benchmark::kMillisecond)->Iterations(2);

}  // namespace
