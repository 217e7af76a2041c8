// Kernels and whole steps, each beside its reference in the same run; the ratios are what counts (docs/speed.md).
//   build/release/bin/wren_benchmarks --benchmark_min_time=0.5
#include <cstring>
#include <random>
#include <thread>

#include <benchmark/benchmark.h>
#include <embree3/rtcore.h>

#include "core/cutting/drop_grid.hpp"
#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"
#include "core/plan/polyline.hpp"
#include "core/program/reader.hpp"
#include "core/program/writer.hpp"
#include "core/proof/removal.hpp"

using namespace wren;

namespace {

constexpr int side = 600;  // cells: 60 × 60 mm at 0.1 mm
constexpr double cell = 0.1;

double wave(Vec2 p) { return 2.5 * std::sin(p.x * 0.15) * std::cos(p.y * 0.11); }  // slopes to about 25°

const TileGrid& hills() {
  static const TileGrid grid = [] {
    TileGrid g({0, 0}, cell, side, side, 0);
    for (int j = 0; j < side; ++j)
      for (int i = 0; i < side; ++i) g.at(i, j) = static_cast<float>(wave(g.centre(i, j)));
    g.refresh_all();
    return g;
  }();
  return grid;
}

Cutter ball() { return *find_cutter(default_rack(), "ball-6.35"); }

constexpr int rows = 130;
constexpr int per_row = 500;

void drop_rows(const GridDropper& dropper, int first, int step, std::vector<float>& tips) {
  for (int r = first; r < rows; r += step)
    dropper.drop_row({4, 4 + r * 0.4}, {0.1, 0}, per_row, &tips[static_cast<std::size_t>(r * per_row)]);
}

void CutterDrop(benchmark::State& state) {
  const GridDropper dropper(ball(), hills());
  std::vector<float> tips(rows * per_row);
  const bool two = state.range(0) == 2;
  for (auto _ : state) {
    if (two) {
      std::thread other([&] { drop_rows(dropper, 1, 2, tips); });
      drop_rows(dropper, 0, 2, tips);
      other.join();
    } else {
      drop_rows(dropper, 0, 1, tips);
    }
    benchmark::DoNotOptimize(tips.data());
  }
  state.SetItemsProcessed(state.iterations() * rows * per_row);
}
BENCHMARK(CutterDrop)->Arg(1)->Arg(2)->UseRealTime();

void ReferenceRayCast(benchmark::State& state) {
  RTCDevice device = rtcNewDevice("threads=1");
  RTCScene scene = rtcNewScene(device);
  RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  auto* v = static_cast<float*>(
      rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 3 * sizeof(float), side * side));
  for (int j = 0; j < side; ++j)
    for (int i = 0; i < side; ++i) {
      const Vec2 c = hills().centre(i, j);
      const std::size_t k = static_cast<std::size_t>(j * side + i) * 3;
      v[k] = static_cast<float>(c.x);
      v[k + 1] = static_cast<float>(c.y);
      v[k + 2] = hills().at(i, j);
    }
  auto* t = static_cast<unsigned*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                                           3 * sizeof(unsigned), (side - 1) * (side - 1) * 2));
  for (unsigned j = 0; j + 1 < side; ++j)
    for (unsigned i = 0; i + 1 < side; ++i) {
      const unsigned a = j * side + i;
      for (const unsigned n : {a, a + 1, a + side, a + 1, a + side + 1, a + side}) *t++ = n;
    }
  rtcCommitGeometry(mesh);
  rtcAttachGeometry(scene, mesh);
  rtcCommitScene(scene);
  for (auto _ : state) {
    float sum = 0;
    for (int r = 0; r < rows; ++r)
      for (int k = 0; k < per_row; ++k) {
        RTCRayHit ray{};
        ray.ray.org_x = 4 + static_cast<float>(k) * 0.1F;
        ray.ray.org_y = 4 + static_cast<float>(r) * 0.4F;
        ray.ray.org_z = 10;
        ray.ray.dir_z = -1;
        ray.ray.tfar = 100;
        ray.ray.mask = ~0U;
        ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
        RTCIntersectContext context;
        rtcInitIntersectContext(&context);
        rtcIntersect1(scene, &context, &ray);
        sum += ray.ray.tfar;
      }
    benchmark::DoNotOptimize(sum);
  }
  state.SetItemsProcessed(state.iterations() * rows * per_row);
  rtcReleaseGeometry(mesh);
  rtcReleaseScene(scene);
  rtcReleaseDevice(device);
}
BENCHMARK(ReferenceRayCast)->UseRealTime();

/// A raster of 0.2 mm moves with 0.4 mm between rows over the hills.
std::vector<Vec3> raster() {
  std::vector<Vec3> path;
  for (int r = 0; r < 120; ++r)
    for (int k = 0; k < 250; ++k) {
      const Vec2 p{5 + (r % 2 == 0 ? k : 249 - k) * 0.2, 5 + r * 0.4};
      path.push_back({p.x, p.y, wave(p) - 3});
    }
  return path;
}

void Removal(benchmark::State& state, const char* id) {
  const Remover remover(*find_cutter(default_rack(), id));
  // As in a rehearsal: collinear moves are merged first (0.001 mm), and that is part of the work.
  const auto moves = raster();
  for (auto _ : state) {
    state.PauseTiming();
    TileGrid stock({0, 0}, cell, side, side, 0);
    state.ResumeTiming();
    const auto path = thinned(moves, 0.001);
    for (std::size_t i = 1; i < path.size(); ++i) remover.sweep(stock, path[i - 1], path[i]);
    benchmark::DoNotOptimize(stock.block(0));
  }
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(moves.size() - 1));
}
BENCHMARK_CAPTURE(Removal, ball_6_35, "ball-6.35");
BENCHMARK_CAPTURE(Removal, slot_0_58, "slot-0.58");

/// The reference: the cutter's shape stamped at each step on a plain grid, every cell under it looked at.
void ReferenceStamp(benchmark::State& state, const char* id) {
  const Cutter c = *find_cutter(default_rack(), id);
  const auto path = raster();
  const double r = c.radius();
  // A swept move of 0.2 mm is as exact as stamps no further apart than a quarter of a cell.
  const int stamps = 8;
  const std::size_t moves = 2000;
  const int n = static_cast<int>(r / cell) + 1;
  std::vector<float> shape(static_cast<std::size_t>((2 * n + 1) * (2 * n + 1)));
  for (int j = -n; j <= n; ++j)
    for (int i = -n; i <= n; ++i)
      shape[static_cast<std::size_t>((j + n) * (2 * n + 1) + i + n)] =
          std::hypot(i, j) * cell <= r ? static_cast<float>(c.profile(std::min(r, std::hypot(i, j) * cell))) : 1e9F;
  std::vector<float> grid(side * side, 0);
  for (auto _ : state)
    for (std::size_t m = 1; m <= moves; ++m)
      for (int s = 0; s < stamps; ++s) {
        const Vec3 p = lerp(path[m - 1], path[m], static_cast<double>(s) / stamps);
        const int ci = static_cast<int>(p.x / cell);
        const int cj = static_cast<int>(p.y / cell);
        const auto z = static_cast<float>(p.z);
        for (int j = -n; j <= n; ++j)
          for (int i = -n; i <= n; ++i) {
            float& h = grid[static_cast<std::size_t>((cj + j) * side + ci + i)];
            const float low = z + shape[static_cast<std::size_t>((j + n) * (2 * n + 1) + i + n)];
            h = low < h ? low : h;
          }
      }
  benchmark::DoNotOptimize(grid.data());
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(moves));
}
BENCHMARK_CAPTURE(ReferenceStamp, ball_6_35, "ball-6.35");
BENCHMARK_CAPTURE(ReferenceStamp, slot_0_58, "slot-0.58");

const Toolpath& long_path() {
  static const Toolpath path = [] {
    Toolpath t;
    t.start = {0, 0, 10};
    std::mt19937 random(3);
    std::uniform_real_distribution<double> step(0.05, 0.6);
    double x = 0;
    double y = 0;
    for (int i = 0; i < 400000; ++i) {
      x = x > 600 ? 0 : x + step(random);
      y += i % 1000 == 0 ? 0.4 : 0;
      t.moves.push_back({{x, y, -1 - 0.5 * std::sin(x)}, {}, 1800, 0, MoveKind::feed});
    }
    return t;
  }();
  return path;
}

void WriteProgram(benchmark::State& state) {
  std::string text;
  for (auto _ : state) {
    text.clear();
    write_moves(text, long_path(), {});
    benchmark::DoNotOptimize(text.data());
  }
  state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(text.size()));
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(long_path().moves.size()));
}
BENCHMARK(WriteProgram);

const std::string& long_text() {
  static const std::string text = [] {
    Toolpath path = long_path();
    path.cutter = "ball-6.35";
    path.rpm = 18000;
    path.cuts = {"crown"};
    return write_program({&path}, {"fretboard", "benchmark", "blank", "zero", "", "2026-11-24"}, default_rack(), {},
                         Machine{});
  }();
  return text;
}

void ReferenceCopy(benchmark::State& state) {
  std::string to(long_text().size(), ' ');
  for (auto _ : state) {
    std::memcpy(to.data(), long_text().data(), to.size());
    benchmark::DoNotOptimize(to.data());
    benchmark::ClobberMemory();
  }
  state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(to.size()));
}
BENCHMARK(ReferenceCopy);

void ReadProgramChecked(benchmark::State& state) {
  for (auto _ : state) {
    auto p = read_program(long_text());
    if (!p || !p->sealed) state.SkipWithError("not read");
    benchmark::DoNotOptimize(p->moves.size());
  }
  state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(long_text().size()));
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(long_path().moves.size()));
}
BENCHMARK(ReadProgramChecked);

void ReferenceCountLines(benchmark::State& state) {
  for (auto _ : state) {
    std::size_t lines = 0;
    for (const char c : long_text()) lines += c == '\n' ? 1 : 0;
    benchmark::DoNotOptimize(lines);
  }
  state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(long_text().size()));
}
BENCHMARK(ReferenceCountLines);

void TimeEstimate(benchmark::State& state) {
  const MotionLimits limits;
  const Segments s = segments(long_path(), limits);
  EstimateScratch scratch;
  for (auto _ : state) benchmark::DoNotOptimize(estimate_seconds(s, limits, scratch));
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(s.pieces()));
}
BENCHMARK(TimeEstimate);

void ReferencePathLength(benchmark::State& state) {
  const Segments s = segments(long_path(), MotionLimits{});
  for (auto _ : state) {
    double sum = 0;
    for (std::size_t i = 1; i < s.x.size(); ++i) {
      const float dx = s.x[i] - s.x[i - 1];
      const float dy = s.y[i] - s.y[i - 1];
      const float dz = s.z[i] - s.z[i - 1];
      sum += static_cast<double>(std::sqrt(dx * dx + dy * dy + dz * dz));
    }
    benchmark::DoNotOptimize(sum);
  }
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(s.pieces()));
}
BENCHMARK(ReferencePathLength);

/// What follows an edit at once, without drawing: designs of all parts, remarks, ledger, build sheet.
void EditFollowed(benchmark::State& state) {
  Project p = *project_from("reedling");
  Cache cache;
  Followed f = follow(all_parts(), p, cache);
  double nudge = 0;
  for (auto _ : state) {
    board_of(p).instrument.strings.nut_spread = 35 + (nudge += 1e-6);
    benchmark::DoNotOptimize(design_board(p)->remarks.size());
  }
}
BENCHMARK(EditFollowed)->Unit(benchmark::kMillisecond);

/// The same for a number of the body: board and neck keep their designs.
void BodyEditFollowed(benchmark::State& state) {
  Project p = *project_from("reedling");
  Cache cache;
  Followed f = follow(all_parts(), p, cache);
  for (auto _ : state) {
    body_of(p).body.outline.tail += 1e-4;
    f = follow(all_parts(), p, cache, &f);
    benchmark::DoNotOptimize(ledger(all_parts(), f, cache, {}).size());
    benchmark::DoNotOptimize(build_sheet(all_parts(), f, cache, {}).size());
  }
}
BENCHMARK(BodyEditFollowed)->Unit(benchmark::kMillisecond);

void CutsPlanned(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("reedling"), cache);
  for (auto _ : state) benchmark::DoNotOptimize(plan(*all_parts().find("fretboard"), f, cache)->cuts.seconds);
}
BENCHMARK(CutsPlanned)->Unit(benchmark::kMillisecond);

void BoardProved(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("reedling"), cache);
  const auto planned = plan(*all_parts().find("fretboard"), f, cache);
  const auto programs = programs_of(f.project, *planned, "2026-11-24");
  for (auto _ : state) benchmark::DoNotOptimize(prove_part(*planned, programs)->seconds);
}
BENCHMARK(BoardProved)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
