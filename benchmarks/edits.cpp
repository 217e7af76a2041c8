// What follows a typed number at once: designs, remarks, ledger, build sheet, bench. Fifteen named edits, five of each
// part, beside everything worked out from nothing in the same run.
#include <benchmark/benchmark.h>

#include <chrono>
#include <map>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "core/document/edits.hpp"
#include "core/job/overview.hpp"
#include "core/parts/table.hpp"

namespace {

using namespace wren;

struct Edit {
  const char* key;
  double from;
};

const std::map<std::string, std::vector<Edit>>& edits() {
  static const std::map<std::string, std::vector<Edit>> all{{"board",
                                                             {{"strings.nut_spread", 35},
                                                              {"strings.bridge_spread", 52},
                                                              {"board.overhang", 9},
                                                              {"crown.radius_nut", 254},
                                                              {"slot.depth", 2}}},
                                                            {"neck",
                                                             {{"neck.thickness_a", 21},
                                                              {"neck.thickness_b", 22.5},
                                                              {"neck.heel_thickness", 25.4},
                                                              {"rod.length", 420},
                                                              {"head.first_post", 32}}},
                                                            {"body",
                                                             {{"body.action_bass", 2},
                                                              {"body.belly_depth", 8},
                                                              {"control.pitch", 40},
                                                              {"pickup.bridge.from_bridge", 30},
                                                              {"body.lower_width", 330}}}};
  return all;
}

/// All that a window shows of a project, from its designs on.
std::size_t shown(const Followed& f, Cache& cache) {
  const auto sheet = build_sheet(all_parts(), f, cache, {});
  const auto numbers = ledger(all_parts(), f, cache, {});
  return numbers.size() + overview_of(all_parts(), f, {}, sheet).sections.size();
}

/// One number typed again and again; it differs each time, so that nothing is remembered.
class Typed {
 public:
  explicit Typed(const Edit& edit) : key_(edit.key), value_(edit.from) {}
  void once(const DesignMade& made = {}) {
    value_ += 0.001;
    project_ = *with_edits(project_, {{key_, fmt::format("{:.3f}", value_)}});
    followed_ = follow(all_parts(), project_, cache_, &followed_, made);
  }
  [[nodiscard]] std::size_t shown() { return ::shown(followed_, cache_); }

 private:
  std::string key_;
  double value_;
  Cache cache_;
  Project project_ = *project_from("reedling");
  Followed followed_ = follow(all_parts(), project_, cache_);
};

void typed_edit(benchmark::State& state, const Edit& edit) {
  Typed typed(edit);
  for (auto _ : state) {
    typed.once();
    benchmark::DoNotOptimize(typed.shown());
  }
}

/// Until the edited part's own design is there, which is what its picture is drawn from: the rest follows meanwhile.
void typed_to_picture(benchmark::State& state, const Edit& edit, const std::string& part) {
  using clock = std::chrono::steady_clock;
  Typed typed(edit);
  for (auto _ : state) {
    const auto begun = clock::now();
    auto there = begun;
    typed.once([&](const std::string& id, const std::shared_ptr<const Design>&) {
      if (id == part) there = clock::now();
    });
    state.SetIterationTime(std::chrono::duration<double>(there - begun).count());
  }
}

/// What the window's own thread does when all that follows has come: lines, numbers, bench.
void told_after(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("reedling"), cache);
  for (auto _ : state) benchmark::DoNotOptimize(shown(f, cache));
}
BENCHMARK(told_after)->Name("edit_told_in_the_window")->Unit(benchmark::kMillisecond);

void from_nothing(benchmark::State& state) {
  const Project p = *project_from("reedling");
  for (auto _ : state) {
    Cache cache;
    const Followed f = follow(all_parts(), p, cache);
    benchmark::DoNotOptimize(shown(f, cache));
  }
}
BENCHMARK(from_nothing)->Name("edit_reference_from_nothing")->Unit(benchmark::kMillisecond);

void find_a_number(benchmark::State& state) {
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("reedling"), cache);
  const auto sheet = build_sheet(all_parts(), f, cache, {});
  const auto numbers = ledger(all_parts(), f, cache, {});
  for (auto _ : state) benchmark::DoNotOptimize(find_in_job(sheet, numbers, "pocket depth", {}).size());
}
BENCHMARK(find_a_number)->Name("edit_find_a_number")->Unit(benchmark::kMillisecond);

const bool named = [] {
  for (const auto& [part, list] : edits())
    for (const Edit& edit : list)
      benchmark::RegisterBenchmark(("edit_" + part + "/" + edit.key).c_str(), typed_edit, edit)
          ->Unit(benchmark::kMillisecond);
  for (const auto& [part, list] : edits())
    for (const Edit& edit : list)
      benchmark::RegisterBenchmark(("edit_picture_" + part + "/" + edit.key).c_str(), typed_to_picture, edit,
                                   part == "board" ? "fretboard" : part)
          ->UseManualTime()
          ->Unit(benchmark::kMillisecond);
  return true;
}();

}  // namespace
