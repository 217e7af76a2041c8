#include <catch2/catch.hpp>

#include "core/units/length.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {
double mm(const char* text, UnitSystem field = UnitSystem::millimetre) {
  const auto v = parse_length(text, field);
  INFO(text << ": " << (v ? "" : v.error().text()));
  REQUIRE(v);
  return *v;
}
}  // namespace

TEST_CASE("lengths are read as makers write them") {
  CHECK_THAT(mm("1 5/8 in"), WithinAbs(41.275, 1e-12));
  CHECK_THAT(mm("41.3"), WithinAbs(41.3, 1e-12));
  CHECK_THAT(mm("1.625\""), WithinAbs(41.275, 1e-12));
  CHECK_THAT(mm("25.4/2"), WithinAbs(12.7, 1e-12));
  CHECK_THAT(mm("610 - 3"), WithinAbs(607, 1e-12));
  CHECK_THAT(mm("=25.4/2"), WithinAbs(12.7, 1e-12));
  CHECK_THAT(mm("1 5/8 in - 2 mil"), WithinAbs(41.275 - 0.0508, 1e-12));
  CHECK_THAT(mm("2 ft 1 1/2 in"), WithinAbs(647.7, 1e-9));
  CHECK_THAT(mm("41,3"), WithinAbs(41.3, 1e-12));
  CHECK_THAT(mm("25½\""), WithinAbs(647.7, 1e-9));
  CHECK_THAT(mm("(10 + 2) * 3"), WithinAbs(36, 1e-12));
  CHECK_THAT(mm("-3"), WithinAbs(-3, 1e-12));
  CHECK_THAT(mm("1/2 in"), WithinAbs(12.7, 1e-12));
  CHECK_THAT(mm("1 in / 2"), WithinAbs(12.7, 1e-12));
  CHECK_THAT(mm("4 cm"), WithinAbs(40, 1e-12));
}

TEST_CASE("a bare number is in the field's own system, and follows a unit named beside it") {
  CHECK_THAT(mm("25.5", UnitSystem::inch), WithinAbs(647.7, 1e-9));
  CHECK_THAT(mm("25.4/2", UnitSystem::inch), WithinAbs(322.58, 1e-9));
  CHECK_THAT(mm("3/4 + 1/8 in"), WithinAbs(22.225, 1e-9));
  CHECK_THAT(mm("10 mm + 1", UnitSystem::inch), WithinAbs(11, 1e-9));
}

TEST_CASE("a text that is no length is refused with its place") {
  struct Bad {
    const char* text;
    const char* where;
  };
  for (const Bad& bad : {Bad{"", "column 1"},
                         {"12 apples", "column 4"},
                         {"1..2", "column 3"},
                         {"3 in * 2 in", "column 10"},
                         {"5/0", "column 3"},
                         {"(3 + 4", "column 1"},
                         {"3 +", "column 4"},
                         {"2 / 3 in / 4 in / 1 mm", "column 14"},
                         {"9999999", "column 1"}}) {
    const auto v = parse_length(bad.text);
    INFO(bad.text);
    REQUIRE_FALSE(v);
    CHECK(v.error().where == bad.where);
    CHECK_FALSE(v.error().what.empty());
  }
  CHECK_FALSE(parse_length(std::string(300, '1')));
  CHECK_FALSE(parse_length(std::string(150, '(') + "1" + std::string(40, ')')));
  CHECK_FALSE(parse_count("2.5"));
  CHECK_FALSE(parse_number("3 mm"));
}

TEST_CASE("what is printed reads back as it was") {
  for (double v : {0.0, 635.0, 41.275, -12.7, 0.0254, 647.7, 1.5875, -41.275, 123.456}) {
    CHECK_THAT(mm(format_length(v, UnitSystem::millimetre).c_str()), WithinAbs(v, 0.0005));
    CHECK_THAT(mm(format_length(v, UnitSystem::inch).c_str()), WithinAbs(v, 0.0015));
  }
  CHECK(format_inch(41.275) == "1 5/8");
  CHECK(format_inch(12.7) == "1/2");
  CHECK(format_mm(-0.0001) == "0");
}

TEST_CASE("a mixed number with a hyphen is asked about, not taken for a difference") {
  for (const char* text : {"25-1/2 in", "25-1/2", "3-5/8\"", "=25-1/2 in", "(25-1/2) in", "2 ft 3-1/2 in"}) {
    const auto read = parse_length(text, UnitSystem::inch);
    INFO(text);
    REQUIRE_FALSE(read);
    CHECK(read.error().what.find("25 - 1/2") != std::string::npos);
  }
  CHECK(*parse_length("25 1/2 in") == Approx(647.7));
  CHECK(*parse_length("25 - 1/2 in") == Approx(622.3));
  CHECK(*parse_length("610-3") == Approx(607));
  CHECK(*parse_length("610-3.5/2") == Approx(608.25));
}
