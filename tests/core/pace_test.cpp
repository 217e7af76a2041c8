// What runs have really taken corrects the minutes that are told, by cutter and kind of cut.
#include "core/job/pace.hpp"

#include <catch2/catch.hpp>

using namespace wren;
using Catch::Matchers::WithinAbs;

TEST_CASE("the runs of a cutter at a cut are added up, whatever else their programs cut") {
  const std::vector<Pace> paces{{"flat-6", "rod", 2, 100, 130},
                                {"flat-6", "rod, pocket", 1, 300, 270},
                                {"flat-6", "pocket", 4, 50, 50},
                                {"flat-3", "rod", 1, 10, 90}};
  const auto rod = pace_of(paces, "flat-6", "rod");
  REQUIRE(rod);
  CHECK(rod->runs == 3);
  CHECK_THAT(rod->ratio(), WithinAbs(1.0, 1e-12));
  CHECK_THAT(pace_of(paces, "flat-3", "rod")->ratio(), WithinAbs(9, 1e-12));
  // Not by a piece of a word, nor by another cutter.
  CHECK_FALSE(pace_of(paces, "flat-6", "ro"));
  CHECK_FALSE(pace_of(paces, "flat-6", "outline"));
  CHECK_FALSE(pace_of(paces, "flat-9", "rod"));
  CHECK_FALSE(pace_of({}, "flat-6", "rod"));
}

TEST_CASE("runs that say nothing correct nothing") {
  CHECK_FALSE(pace_of({{"flat-6", "rod", 1, 0, 100}}, "flat-6", "rod"));
  CHECK_FALSE(pace_of({{"flat-6", "rod", 1, 100, 0}}, "flat-6", "rod"));
  CHECK_FALSE(pace_of({{"flat-6", "rod", 0, 100, 100}}, "flat-6", "rod"));
}

TEST_CASE("only the lines that are cuts get other minutes, and say on how many runs they rest") {
  std::vector<BuildLine> lines(4);
  lines[0] = {"neck.cut.front.rod", "Rod channel"};
  lines[0].seconds = 60;
  lines[0].cutter = "flat-6";
  lines[1] = lines[0];
  lines[1].id = "neck.cut.front.pocket";
  lines[2] = {"neck.rod", "Rod"};
  lines[3] = lines[0];
  lines[3].cutter = "";
  by_pace(lines, {{"flat-6", "rod", 2, 100, 150}});
  CHECK_THAT(lines[0].seconds, WithinAbs(90, 1e-12));
  CHECK(lines[0].paced_by == 2);
  CHECK(lines[1].seconds == 60);
  CHECK(lines[1].paced_by == 0);
  CHECK(lines[2].seconds == 0);
  CHECK(lines[3].seconds == 60);
}
