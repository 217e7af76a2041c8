// Sending and running: lines checked and acknowledged by the stand-in's session against the checksums of the same bytes
// alone, the state as it is told ten times a second, and a neck's programs run as fast as it goes against their own
// time.
#include <benchmark/benchmark.h>

#include <zlib.h>

#include "core/job/programs.hpp"
#include "core/parts/table.hpp"
#include "run/host.hpp"
#include "run/runner.hpp"
#include "standin/session.hpp"

namespace {

using namespace wren;

std::vector<PlacedProgram> programs(const char* part) {
  const Project project = *project_from("reedling");
  Cache cache;
  const Followed f = follow(all_parts(), project, cache);
  return programs_of(project, *plan(*all_parts().find(part), f, cache), "2026-11-26");
}
const std::vector<PlacedProgram>& neck() {
  static const auto all = programs("neck");
  return all;
}
const std::string& longest() {
  static const std::string text = [] {
    std::string best;
    for (const PlacedProgram& p : neck())
      if (p.file.text.size() > best.size()) best = p.file.text.str();
    return best;
  }();
  return text;
}

standin::Router ready() {
  standin::Router router{standin::Frame{}};
  (void)router.home();
  (void)router.advance(100);
  (void)router.by_hand("G10 L2 P1 X21 Y500 Z-70");
  (void)router.advance(1);
  for (int t = 1; t < 20; ++t) router.put_cutter(t, {});
  return router;
}

/// Goal: 20 000 lines a second, sealed by the host, checked, taken and acknowledged by the machine.
void stream_lines(benchmark::State& state) {
  const auto lines = lines_to_send(longest());
  std::size_t done = 0;
  for (auto _ : state) {
    standin::Router router = ready();
    standin::Session session(router, standin::Session::Mode::checked);
    std::string out;
    (void)session.take(sealed_line("hello 1 bench"), out);
    (void)session.take(sealed_line("do 1 job bench " + std::to_string(lines.size())), out);
    std::size_t sent = 0;
    std::string bytes;
    while (sent < lines.size()) {
      bytes.clear();
      for (std::size_t k = 0; k < 256 && sent < lines.size(); ++k, ++sent)
        bytes += sealed_line("L " + std::to_string(sent + 1) + " " + std::string(lines[sent]));
      out.clear();
      (void)session.take(bytes, out);
      while (!router.room() && router.state() == standin::State::running) (void)router.advance(60);
      (void)session.go_on(out);
    }
    done += lines.size();
    benchmark::DoNotOptimize(out.data());
  }
  state.SetItemsProcessed(static_cast<std::int64_t>(done));
}
BENCHMARK(stream_lines)->Unit(benchmark::kMillisecond);

/// The reference: the same bytes' checksums, twice, as both ends have to work them out.
void stream_reference_checksums(benchmark::State& state) {
  const auto lines = lines_to_send(longest());
  for (auto _ : state) {
    unsigned long all = 0;
    for (const auto& line : lines)
      for (int k = 0; k < 2; ++k) all ^= crc32_z(0, reinterpret_cast<const Bytef*>(line.data()), line.size());
    benchmark::DoNotOptimize(all);
  }
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(lines.size()));
}
BENCHMARK(stream_reference_checksums)->Unit(benchmark::kMillisecond);

/// Told ten times a second; goal: at most 5 % of a core, that is 5 ms.
void status_told_and_read(benchmark::State& state) {
  standin::Router router = ready();
  standin::Session session(router, standin::Session::Mode::checked);
  for (auto _ : state) {
    const std::string line = session.status();
    const auto payload = unsealed_line(std::string_view(line).substr(0, line.size() - 1));
    benchmark::DoNotOptimize(state_from(*payload));
  }
}
BENCHMARK(status_told_and_read)->Unit(benchmark::kMicrosecond);

/// Goal: 200 times real time, wood and all.
void neck_as_fast_as_it_goes(benchmark::State& state) {
  double lived = 0;
  for (auto _ : state) {
    standin::Router router = ready();
    (void)router.lay({640, 90, 20, 21, 455});
    const double begun = router.clock();
    for (const PlacedProgram& p : neck()) {
      const auto lines = lines_to_send(p.file.text.str());
      (void)router.begin("bench", static_cast<std::uint32_t>(lines.size()));
      for (const auto& line : lines) {
        while (!router.room() && router.state() == standin::State::running) (void)router.advance(60);
        if (!router.accept(line).empty()) return state.SkipWithError("the machine refuses a line of the neck");
      }
      while (router.state() == standin::State::running || router.state() == standin::State::waiting) {
        if (router.state() == standin::State::waiting) {
          (void)router.put_cutter(router.wanted() != 0 ? router.wanted() : router.tool(), {});
          (void)router.resume();
        }
        (void)router.advance(60);
      }
    }
    lived += router.clock() - begun;
  }
  state.counters["machine_seconds_per_second"] = benchmark::Counter(lived, benchmark::Counter::kIsRate);
}
BENCHMARK(neck_as_fast_as_it_goes)->Unit(benchmark::kMillisecond);

}  // namespace
