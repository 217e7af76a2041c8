// Parallel work over numbered bands. Each band writes only what is its own; whoever joins the results does so in the
// order of the bands, so that the outcome is the same at any number of threads.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstdlib>
#include <thread>
#include <vector>

namespace wren {

/// How many threads work: the machine's cores, at most 8; the environment's WREN_THREADS, 1 to 64, says otherwise.
[[nodiscard]] inline int working_threads() {
  if (const char* asked = std::getenv("WREN_THREADS"))
    if (const int n = std::atoi(asked); n >= 1) return std::min(n, 64);
  return static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1U, 8U));
}

/// Calls work(band) for each band 0 … count − 1, each once, on any thread. Returns when all are done.
template <class Work>
void in_parallel(int count, const Work& work) {
  std::atomic<int> next{0};
  const auto run = [&] {
    for (int band = next++; band < count; band = next++) work(band);
  };
  std::vector<std::thread> others;
  for (int k = 1; k < std::min(working_threads(), count); ++k) others.emplace_back(run);
  run();
  for (std::thread& t : others) t.join();
}

/// The same over the numbers 0 … count − 1 in bands of some length: for rows of a grid.
template <class Work>
void for_rows(int count, const Work& row) {
  constexpr int bands = 32;
  in_parallel(std::min(bands, count), [&](int band) {
    const int n = std::min(bands, count);
    for (int j = count * band / n; j < count * (band + 1) / n; ++j) row(j);
  });
}

}  // namespace wren
