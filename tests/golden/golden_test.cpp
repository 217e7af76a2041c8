// Both demos, the plain and the bass beginnings and twelve random instruments lead to what they led to before. The kept
// results stand in tests/golden/kept; WREN_GOLDEN_WRITE=1 renews them, and a commit that does so says what was mended.
#include <catch2/catch.hpp>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <random>

#include <fmt/format.h>

#include "core/parts/table.hpp"
#include "golden/sample.hpp"
#include "golden/walk.hpp"

using namespace wren;
using golden::Json;

namespace {

/// A random instrument by ledger edits, so that it is told like a maker's.
Project random_instrument(int seed) {
  std::mt19937 random(static_cast<unsigned>(seed));
  const auto real = [&](double a, double b) {
    return a + (b - a) * static_cast<double>(random() >> 8) / static_cast<double>(1U << 24);
  };
  const auto pick = [&](std::initializer_list<const char*> of) {
    return std::string(*(of.begin() + static_cast<std::ptrdiff_t>(random() % of.size())));
  };
  const auto mm = [](double v) { return fmt::format("{:.3f}", v); };
  const double bass = real(620, 660);
  const double treble = bass - (random() % 2 == 0 ? 0 : real(5, 30));
  const double thick = real(40, 46);
  const std::string layers = random() % 2 == 0 ? fmt::format("body cherry {:.2f}", thick)
                                               : fmt::format("top ash 6.5; body cherry {:.2f}", thick - 6.5);
  std::vector<std::pair<std::string, std::string>> edits{{"project.name", fmt::format("Random {}", seed)},
                                                         {"strings.scale_bass", mm(bass)},
                                                         {"strings.scale_treble", mm(treble)},
                                                         {"strings.left_handed", pick({"yes", "no"})},
                                                         {"board.overhang", mm(real(9, 14))},
                                                         {"board.order", pick({"flat_first", "crown_first"})},
                                                         {"crown.kind", pick({"cylinder", "cone"})},
                                                         {"crown.radius_nut", mm(real(220, 300))},
                                                         {"marks.shape", pick({"dot", "block"})},
                                                         {"neck.thickness_a", mm(real(20.5, 22.5))},
                                                         {"neck.thickness_b", mm(real(22.5, 24))},
                                                         {"neck.shape_a", pick({"round", "oval", "d"})},
                                                         {"neck.turn", pick({"length", "width"})},
                                                         {"neck.alignment", pick({"ticks", "pins", "fence"})},
                                                         {"neck.blank.length", "740"},
                                                         {"neck.blank.width", "130"},
                                                         {"neck.blank.lie", "y"},
                                                         {"body.layers", layers},
                                                         {"body.form", pick({"two horns", "one horn", "leaning"})},
                                                         {"body.lower_width", mm(real(310, 345))},
                                                         {"body.waist_width", mm(real(205, 240))},
                                                         {"body.upper_width", mm(real(255, 290))},
                                                         {"body.tail", mm(real(104, 125))},
                                                         {"body.round_face", mm(real(1.5, 5))},
                                                         {"body.round_back", mm(real(1.5, 5))},
                                                         {"body.outline_school", pick({"full", "halves", "guide"})},
                                                         {"body.turn", pick({"length", "width"})},
                                                         {"body.alignment", pick({"ticks", "pins", "fence"})},
                                                         {"control.hold", pick({"screws", "magnets"})},
                                                         {"body.blank.length", "540"},
                                                         {"body.blank.width", "400"}};
  const auto made = with_edits(*project_from("plain"), edits);
  if (!made) FAIL(made.error().text());
  return *made;
}

void hold_against_kept(const std::string& name, const Project& project) {
  const std::filesystem::path file = std::filesystem::path(WREN_GOLDEN) / (name + ".json");
  const Json now = golden::walk(project);
  if (std::getenv("WREN_GOLDEN_WRITE") != nullptr) {
    std::filesystem::create_directories(file.parent_path());
    std::ofstream(file) << now.dump() << "\n";
    return;
  }
  std::ifstream in(file);
  REQUIRE(in.good());
  const Json kept = Json::parse(in);
  for (const std::string& d : golden::differences(kept, now)) FAIL_CHECK(name << d);
}

}  // namespace

TEST_CASE("the demos and the plain and bass beginnings lead to what they led to before", "[demos]") {
  for (const std::string& name : starting_points()) hold_against_kept(name, *project_from(name));
}

TEST_CASE("six random instruments lead to what they led to before", "[random-a]") {
  for (int seed = 1; seed <= 6; ++seed) hold_against_kept(fmt::format("random-{}", seed), random_instrument(seed));
}

TEST_CASE("six more random instruments lead to what they led to before", "[random-b]") {
  for (int seed = 7; seed <= 12; ++seed) hold_against_kept(fmt::format("random-{}", seed), random_instrument(seed));
}

TEST_CASE("a shift of 0.002 mm is told, and so is a remark that is gone") {
  const Json kept = {{"board", {{"skin", {-6612, 0}}, {"path_mean", {100, 200, 300}}, {"seconds", 100.0}}},
                     {"remarks", {"a", "b"}}};
  Json now = kept;
  CHECK(golden::differences(kept, now).empty());
  now["board"]["skin"][0] = -6614;
  CHECK(golden::differences(kept, now).size() == 1);
  now = kept;
  now["board"]["path_mean"][1] = 220;  // in 0.1 µm
  CHECK(golden::differences(kept, now).size() == 1);
  now = kept;
  now["board"]["seconds"] = 101.5;
  CHECK(golden::differences(kept, now).size() == 1);
  now["board"]["seconds"] = 100.5;
  CHECK(golden::differences(kept, now).empty());
  now = kept;
  now["remarks"] = {"a"};
  CHECK(golden::differences(kept, now).size() == 1);
}
