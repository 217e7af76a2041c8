// The core's parallel work, for the thread sanitizer (scripts/check-more tsan); also run as it is, where it asserts
// that the outcome is the same at any number of threads. Coarse cells: what is looked for is who touches what, not
// fits.
#include <cstdlib>
#include <thread>

#include <fmt/format.h>

#include "support/made.hpp"

using namespace wren;

namespace {

/// What a proof measured, to the last bit.
std::string told(const PartProof& proof) {
  std::string out = verdict_words(proof.verdict());
  for (const PieceProof& p : proof.pieces)
    out += fmt::format(" {} {:a} {:a} {:a} {} {:a}", p.id, p.result.worst_gouge, p.result.worst_left,
                       p.result.least_thickness, p.result.tabs, p.result.volume_mm3);
  return out;
}

std::string proved(const Planned& planned, const std::vector<PlacedProgram>& programs, const char* threads) {
  ::setenv("WREN_THREADS", threads, 1);
  const auto proof = prove_part(planned, programs, 0.8);
  REQUIRE(proof);
  return told(*proof);
}

}  // namespace

TEST_CASE("a proof is the same at any number of threads") {
  for (const char* part : {"coupon", "fretboard", "neck"}) {
    const Made m = made(*project_from("sedge"), part);
    const std::string one = proved(m.planned, m.programs, "1");
    CHECK(proved(m.planned, m.programs, "5") == one);
  }
}

TEST_CASE("parts are planned side by side from one follow-up and one cache, as the window does") {
  ::setenv("WREN_THREADS", "3", 1);
  Cache cache;
  const Followed followed = follow(all_parts(), *project_from("reedling"), cache);
  std::vector<std::thread> workers;
  std::atomic<int> planned{0};
  for (const char* part : {"fretboard", "neck", "fretboard", "coupon"})
    workers.emplace_back([&, part] {
      if (plan(*all_parts().find(part), followed, cache)) ++planned;
    });
  for (std::thread& w : workers) w.join();
  CHECK(planned == 4);
}

TEST_CASE("a proof that is stopped from another thread leaves nothing half done") {
  ::setenv("WREN_THREADS", "4", 1);
  const Made m = made(*project_from("plain"), "fretboard");
  for (const int after : {0, 3, 20, 60}) {
    std::atomic<int> calls{0};
    Progress* told = nullptr;
    Progress progress([&](double, std::string_view) {
      if (++calls > after) told->stop();
    });
    told = &progress;
    const auto proof = prove_part(m.planned, m.programs, 0.8, &progress);
    if (!proof) CHECK(proof.error().kind == ProblemKind::stopped);
  }
  // And from outside, whenever.
  Progress progress;
  std::thread other([&] { progress.stop(); });
  const auto proof = prove_part(m.planned, m.programs, 0.8, &progress);
  other.join();
  if (!proof) CHECK(proof.error().kind == ProblemKind::stopped);
}
