// A plan's curves taken over as outline, cavities and holes; gaps offered; what reads pages and answers takes nothing
// on trust.
#include <cmath>
#include <numbers>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "core/parts/body/part.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/plan_in.hpp"
#include "support/made.hpp"
#include "support/random.hpp"

using namespace wren;

namespace {

/// A closed circle as a drawing has it, its chords within 0.005 mm.
DrawnPath circle(Vec2 c, double r, const std::string& layer = "0") {
  const int n = std::max(24, static_cast<int>(std::ceil(std::numbers::pi / std::acos(1 - 0.005 / r))));
  DrawnPath p{layer, 0, true, {}};
  for (int k = 0; k < n; ++k)
    p.points.push_back(c + Vec2{std::cos(2 * std::numbers::pi * k / n), std::sin(2 * std::numbers::pi * k / n)} * r);
  return p;
}

DrawnPath box(Vec2 low, Vec2 high, const std::string& layer = "0") {
  return {layer, 0, true, {low, {high.x, low.y}, high, {low.x, high.y}}};
}

Body usual() { return body_of(*project_from("reedling")).body; }

}  // namespace

TEST_CASE("each curve becomes what it most likely is") {
  const Cleaned plan = clean({circle({60, 10}, 4), box({0, -150}, {420, 150}), box({100, -20}, {190, 20}, "PICKUP"),
                              circle({600, 0}, 5), DrawnPath{"0", 0, false, {{0, 0}, {50, 0}}}, circle({300, 40}, 30)});
  const auto uses = usual_uses(plan);
  REQUIRE(uses.size() == plan.paths.size());
  std::map<Becomes, int> count;
  for (std::size_t i = 0; i < uses.size(); ++i) {
    ++count[uses[i].as];
    if (!plan.paths[i].closed) CHECK(uses[i].as == Becomes::nothing);
    if (plan.paths[i].layer == "PICKUP") CHECK(uses[i].name == "PICKUP");
  }
  CHECK(uses[0].as == Becomes::outline);
  CHECK(count[Becomes::cavity] == 2);  // the box, and a circle too wide to be a hole
  CHECK(count[Becomes::hole] == 1);
  CHECK(count[Becomes::nothing] == 2);  // the open line, and the circle outside
}

TEST_CASE("holes and cavities of one plan keep their places to one another, however it is laid") {
  Random dice(41);
  for (int k = 0; k < 60; ++k) {
    const Vec2 at{dice.between(40, 380), dice.between(-100, 100)};
    const double r = dice.between(1, 15);
    const Cleaned plan = clean({box({0, -150}, {420, 150}), circle(at, r)});
    REQUIRE(plan.paths.size() == 2);
    PlanPlacement lies;
    lies.scale = dice.between(0.3, 3);
    lies.turn_deg = dice.between(-360, 360);
    lies.mirror = dice.between(0, 1) < 0.5;
    lies.centre = {dice.between(-50, 500), dice.between(-50, 50)};
    lies.body_x = dice.between(0, 900);
    const auto hole = with_curves(usual(), plan, {{}, {Becomes::back_hole, "a", 12}}, lies, true);
    const auto cavity = with_curves(usual(), plan, {{}, {Becomes::back_cavity, "a", 12}}, lies, true);
    REQUIRE(hole);
    REQUIRE(cavity);
    REQUIRE(hole->holes.size() == 1);
    REQUIRE(cavity->drawn.size() == 1);
    const Polygon ring = flatten(to_contour(cavity->drawn.front().outline, 0.001), 0.001);
    const Box2 size = bounds(ring);
    CHECK(distance(size.middle(), hole->holes.front().at) < 0.03 * lies.scale);
    CHECK(std::abs(size.size().x - hole->holes.front().diameter) < 0.05 * lies.scale);
    CHECK(hole->holes.front().from_back);
    CHECK(hole->holes.front().depth == 12);
  }
}

TEST_CASE("what cannot be taken over is said with its curve, and nothing is taken") {
  const Cleaned plan = clean({box({0, -150}, {420, 150}), circle({100, 0}, 5), box({200, -20}, {260, 20}),
                              DrawnPath{"0", 0, false, {{0, 0}, {50, 0}}}});
  const PlanPlacement lies;
  const auto why = [&](std::vector<CurveUse> uses) {
    const auto body = with_curves(usual(), plan, uses, lies, false);
    return body ? std::string() : body.error().text();
  };
  const CurveUse none;
  CHECK(why({none, none, none, none}).find("no curve becomes anything") != std::string::npos);
  CHECK(why({none, {Becomes::hole, "square", 5}, none, none}).find("no") !=
        std::string::npos);  // the box is the second largest
  CHECK(why({none, none, none, {Becomes::cavity, "open one", 5}}).find("open one: the curve is open") !=
        std::string::npos);
  CHECK(why({none, none, {Becomes::hole, "bore", -1}, none}).find("depth") != std::string::npos);
  CHECK(why({none, none, {Becomes::hole, "bore", std::nan("")}, none}).find("depth") != std::string::npos);
  CHECK(why({{Becomes::outline, "a", 0}, {Becomes::outline, "b", 0}, none, none}).find("two curves") !=
        std::string::npos);
  Body full = usual();
  full.holes.assign(most_drawn_holes, {"x", {0, 0}, 3, false, 4});
  CHECK_FALSE(with_curves(full, plan, {none, none, {Becomes::hole, "one more", 5}, none}, lies, false));
  CHECK(with_curves(full, plan, {none, none, {Becomes::hole, "one more", 5}, none}, lies, true));
}

TEST_CASE("gaps beyond the tolerance are told with their size, and a wider one closes them") {
  const std::vector<DrawnPath> open{{"0", 0, false, {{0, 0}, {100, 0}, {100, 50}}},
                                    {"0", 0, false, {{100, 50.4}, {0, 50}, {0, 0.2}}}};
  const Cleaned first = clean(open);
  REQUIRE(first.gaps.size() == 2);
  CHECK(first.gaps[0].size() == Approx(0.2));
  CHECK(first.gaps[1].size() == Approx(0.4));
  CHECK(first.open_ends.size() == 4);
  CleaningOptions wider;
  wider.join = first.gaps.back().size() * 1.001;
  const Cleaned second = clean(open, wider);
  CHECK(second.gaps.empty());
  REQUIRE(second.paths.size() == 1);
  CHECK(second.paths.front().closed);
  // Ends far apart, or of layers that have nothing to do with each other, are no gap.
  CHECK(clean({{"0", 0, false, {{0, 0}, {100, 0}}}}).gaps.empty());
  CHECK(clean({{"A", 0, false, {{0, 0}, {100, 0}}}, {"B", 0, false, {{100.1, 0}, {100, 90}}}}).gaps.empty());
}

TEST_CASE("drawn holes are cut, kept in the file, and refused where no wood is under them") {
  Project p = *project_from("reedling");
  Body& body = body_of(p).body;
  Cache cache;
  const auto design = [&] {
    const Followed f = follow(all_parts(), p, cache);
    const auto it = f.problems.find("body");
    return it == f.problems.end() ? std::string() : it->second.text();
  };
  REQUIRE(design().empty());
  body.holes = {{"pilot", {560, 60}, 2.5, false, 12}, {"wide", {600, -90}, 14, true, 9}};
  REQUIRE(design().empty());
  const auto back = project_from_json(project_to_json(p), "holes");
  REQUIRE(back);
  CHECK(*back == p);
  const Followed f = follow(all_parts(), p, cache);
  const BodyShape& shape = f.designs.shape<BodyDesign>().shape;
  CHECK(shape.finished_top({560, 60}) == Approx(-12));
  CHECK(shape.finished_bottom({600, -90}) == Approx(-shape.thickness + 9));
  const auto planned = plan(*all_parts().find("body"), f, cache);
  REQUIRE(planned);
  std::size_t found = 0;
  for (const Piece& piece : planned->made.pieces)
    for (const Side& side : piece.sides)
      for (const Operation& o : side.operations)
        if (const auto* holes = std::get_if<Holes>(&o.shape))
          for (const auto& h : holes->holes) found += h.title == "pilot" || h.title == "wide" ? 1 : 0;
  CHECK(found == 2);
  body.holes.front().at = {2000, 0};
  CHECK(design().find("outside the outline") != std::string::npos);
  // The proof would find a floor of nothing over what is cut from the other side; the sentence comes first.
  body.holes.front() = {"into the pots", {680, 90}, 8, false, 20};
  CHECK(design().find("'into the pots' leaves") != std::string::npos);
  body.holes.front().depth = 2;  // over it, with wood left between
  CHECK(design().empty());
  body.holes.front() = {"deep", {560, 60}, 2.5, false, shape.thickness};
  CHECK(design().find("deep in a body") != std::string::npos);
}

TEST_CASE("what a converter says of a PDF is taken for what it is") {
  CHECK(pages_from("Pages:           3\nPage size:       595.276 x 841.89 pts (A4)\n").count == 3);
  CHECK(pages_from("Pages:           3\nPage size:       595.276 x 841.89 pts (A4)\n").size.x ==
        Approx(210).margin(0.01));
  CHECK(pages_from("Page size:       595.276 x 841.89 pts (A4)\nPages: 7").size.y == Approx(297).margin(0.01));
  for (const char* odd : {"", "Pages:", "Pages: -4", "Pages: 99999999999999", "Pages:\nPage size: 4", "Page size: 1 x",
                          "Page size: 0 x 0", "Page size: 1e300 x 5", "Page size: nan x 5", "Pages: 3Page size:"}) {
    const PdfPages p = pages_from(odd);
    CHECK(p.count >= 1);
    CHECK(p.count <= 100'000);
    CHECK(p.size.x >= 0);
    CHECK(p.size.x < 1e6);
  }
}

TEST_CASE("an answer of the walled-in reader is believed only where it is one") {
  const auto good = drawing_from_answer(
      R"({"unit_known":true,"left":{"text":2},"paths":[{"layer":"A","z":0,"closed":true,"xy":[0,0,10,0,10,5]}]})", "x");
  REQUIRE(good);
  CHECK(good->unit_known);
  CHECK(good->left.at("text") == 2);
  CHECK(good->paths.front().points.size() == 3);
  for (const char* odd : {"", "[]", "{}", R"({"problem":5})", R"({"paths":{}})", R"({"paths":[5]})",
                          R"({"paths":[{"xy":5}]})", R"({"paths":[{"xy":[1,"a"]}]})", R"({"paths":[{"layer":"A"}]})"})
    CHECK_FALSE(drawing_from_answer(odd, "x"));
  CHECK(drawing_from_answer(R"({"problem":{"what":"no drawing","todo":"draw"}})", "x").error().what == "no drawing");
  // Odd kinds beside the points are left aside.
  CHECK(drawing_from_answer(R"({"unit_known":"yes","left":[1],"paths":[{"layer":7,"z":"up","closed":1,"xy":[1,2,3]}]})",
                            "x"));
}

TEST_CASE("a page's own unit is taken where every page has the same") {
  CHECK(user_unit_of("<</Type/Page/UserUnit 10/Parent 2 0 R>>") == 10);
  CHECK(user_unit_of("<</UserUnit 2.5>> <</UserUnit\n2.5>>") == 2.5);
  for (const char* none : {"", "<</Type/Page>>", "/UserUnit", "/UserUnit x", "<</UserUnit 2>> <</UserUnit 3>>",
                           "/UserUnit 0", "/UserUnit -4", "/UserUnit 1e9", "/UserUnit nan"})
    CHECK(user_unit_of(none) == 1);
}
