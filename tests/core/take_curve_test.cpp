// What is drawn somewhere else becomes something of the instrument: each as it lies, and what cannot be is a sentence.
#include <numbers>

#include "exchange/trace_in.hpp"
#include "core/parts/neck/part.hpp"
#include "support/made.hpp"
#include "support/random.hpp"

namespace wren {
namespace {

Polygon circle(Vec2 middle, double r, int n = 90) {
  Polygon out;
  for (int k = 0; k < n; ++k) {
    const double a = 2 * std::numbers::pi * k / n;
    out.push_back(middle + Vec2{std::cos(a), std::sin(a)} * r);
  }
  return out;
}
Polygon box(Vec2 low, Vec2 high) { return {low, {high.x, low.y}, high, {low.x, high.y}}; }

Expected<Project> taken(const Polygon& points, bool closed, const std::string& as, double at = 0) {
  auto how = take_as(as);
  REQUIRE(how);
  how->station = at;
  return with_curve(*project_from("reedling"), points, closed, *how);
}

}  // namespace

TEST_CASE("a curve becomes a cavity, on either side, and a scratch plate", "[take]") {
  for (const bool back : {false, true}) {
    const auto p = taken(circle({560, 20}, 14), true, back ? "cavity-back" : "cavity");
    REQUIRE(p);
    const auto& drawn = body_of(*p).body.drawn;
    REQUIRE(drawn.size() == 1);
    CHECK(drawn.front().from_back == back);
    CHECK(std::abs(signed_area(flatten(to_contour(drawn.front().outline, 0.004), 0.002))) ==
          Approx(std::numbers::pi * 196).epsilon(0.01));
    const Followed f = followed_of(*p);
    CHECK(f.problems.empty());
  }
  const auto plate = taken(box({540, -40}, {640, 40}), true, "plate");
  REQUIRE(plate);
  CHECK(body_of(*plate).body.plate.thickness == 2.5);
  const Followed f = followed_of(*plate);
  REQUIRE(f.problems.empty());
  CHECK(f.designs.find("scratch-plate")->present);
  CHECK(bounds(f.designs.shape<BodyDesign>().shape.scratch_plate).size().x == Approx(100).margin(0.05));
}

TEST_CASE("a curve becomes a pickup's shape: its size, and its corners by what the box has more", "[take]") {
  const Polygon round = rounded_rectangle({0, 0}, {0, 1}, 68.4, 36.2, 4);
  const auto p = taken(round, true, "pickup-middle");
  REQUIRE(p);
  const PickupNumbers& pickup = body_of(*p).body.pickups[1];
  CHECK(pickup.name != "none");
  CHECK(pickup.length == Approx(68.4).margin(0.02));
  CHECK(pickup.width == Approx(36.2).margin(0.02));
  CHECK(pickup.corner == Approx(4).margin(0.1));
  CHECK(taken(box({0, 0}, {70, 20}), true, "pickup-neck"));
  CHECK(body_of(*taken(box({0, 0}, {70, 20}), true, "pickup-neck")).body.pickups[0].corner == Approx(0).margin(0.01));
}

TEST_CASE("an arc becomes the heel's radius, open or closed", "[take]") {
  Polygon arc;
  for (int k = 0; k <= 20; ++k) {
    const double a = 0.2 + 1.1 * k / 20;
    arc.push_back(Vec2{400, -30} + Vec2{std::cos(a), std::sin(a)} * 38.5);
  }
  const auto p = taken(arc, false, "heel-arc");
  REQUIRE(p);
  CHECK(neck_of(*p).neck.heel.radius == Approx(38.5).margin(0.01));
  CHECK(neck_of(*p).neck.heel.transition == Transition::arc);
  const auto straight = taken({{0, 0}, {10, 0}, {20, 0}, {30, 0}}, false, "heel-arc");
  REQUIRE_FALSE(straight);
  CHECK(straight.error().text().find("straight") != std::string::npos);
  CHECK_FALSE(taken(circle({0, 0}, 900), true, "heel-arc"));
  CHECK_FALSE(taken(box({0, 0}, {68, 36}), true, "heel-arc"));  // its corners lie on a circle, its edges do not
}

TEST_CASE("a closed trace of a section keeps the side away from the strings; a second one there takes its place",
          "[take]") {
  // Half an ellipse closed by the glue plane.
  const auto half = [](double deep) {
    Polygon out{{-20, 0}};
    for (int k = 1; k < 60; ++k) {
      const double a = std::numbers::pi * k / 60;
      out.push_back({-20 * std::cos(a), -deep * std::sin(a)});
    }
    out.push_back({20, 0});
    return out;
  };
  auto how = *take_as("section");
  how.station = 100;
  auto p = with_curve(*project_from("reedling"), half(19), true, how);
  INFO((p ? "" : p.error().text()));
  REQUIRE(p);
  how.station = 300;
  p = with_curve(*p, half(21), true, how);
  REQUIRE(p);
  how.station = 100;
  p = with_curve(*p, half(20), true, how);
  INFO((p ? "" : p.error().text()));
  REQUIRE(p);
  const auto& sections = neck_of(*p).neck.back.sections;
  REQUIRE(sections.size() == 2);
  CHECK(sections[0].x == 100);
  double deepest = 0;
  for (const Vec2 q : sections[0].points) {
    CHECK(q.y >= -1e-9);
    deepest = std::max(deepest, q.y);
  }
  CHECK(deepest == Approx(20).margin(0.05));
  CHECK(std::abs(sections[0].points.front().x - sections[0].points.back().x) == Approx(40).margin(0.01));
}

TEST_CASE("a curve becomes the marks' shape about its own middle", "[take]") {
  const auto p = taken(box({100, 100}, {106, 112}), true, "mark");
  REQUIRE(p);
  const Marks& marks = board_of(*p).instrument.marks;
  CHECK(marks.shape == MarkShape::outline);
  CHECK(bounds(marks.outline).middle().x == Approx(0).margin(1e-9));
  CHECK(bounds(marks.outline).size().y == Approx(12));
}

TEST_CASE("places along the neck are a list in any unit, or a first and a step", "[take]") {
  const auto places = [](const std::string& text, std::size_t count) {
    return places_from(text, count, UnitSystem::millimetre);
  };
  CHECK(*places("25, 30, 35", 3) == std::vector<double>{25, 30, 35});
  CHECK(*places("25;30 ; 35 mm", 3) == std::vector<double>{25, 30, 35});
  CHECK(*places("-5, 60", 2) == std::vector<double>{-5, 60});
  CHECK(*places("25 by 5", 4) == std::vector<double>{25, 30, 35, 40});
  CHECK(*places("300 by -2.5", 3) == std::vector<double>{300, 297.5, 295});
  const auto inches = places("1, 1 1/2, 2 in", 3);
  REQUIRE(inches);
  CHECK((*inches)[1] == Approx(38.1));
  CHECK(places_from("1, 2", 2, UnitSystem::inch)->back() == Approx(50.8));
  for (const auto& [text, count] : std::vector<std::pair<std::string, std::size_t>>{{"25, 30", 3},
                                                                                    {"", 1},
                                                                                    {"25,,30", 3},
                                                                                    {"25, 25.01", 2},
                                                                                    {"25 by 0", 2},
                                                                                    {"25 by", 2},
                                                                                    {"here", 1},
                                                                                    {"nan", 1},
                                                                                    {"25 by here", 2}}) {
    INFO(text);
    const auto refused = places(text, count);
    REQUIRE_FALSE(refused);
    CHECK_FALSE(refused.error().todo.empty());
  }
}

TEST_CASE("a sheet of curves is read like a page", "[take]") {
  // Two rows; within a row they stand higher and lower, as a hand puts a gauge down.
  std::vector<DrawnCurve> sheet;
  for (const Vec2 at : {Vec2{120, 4}, Vec2{0, 100}, Vec2{60, -5}, Vec2{60, 106}, Vec2{0, 0}, Vec2{120, 95}})
    sheet.push_back({box(at, at + Vec2{40, 21}), true});
  CHECK(reading_order(sheet) == std::vector<std::size_t>{1, 3, 5, 4, 2, 0});
  CHECK(reading_order({}).empty());
}

TEST_CASE("two dozen gauge traces on one sheet come back as the neck that they were taken from", "[take]") {
  const Project project = *project_from("reedling");
  const NeckShape made = followed_of(project).designs.shape<NeckDesign>().shape;
  Random random(20261127);
  std::vector<double> places;
  std::vector<DrawnCurve> sheet;
  for (int k = 0; k < 24; ++k) {
    const double x = 20 + 15 * k;
    places.push_back(x);
    // Anywhere in its field of the sheet: only its form counts.
    const Vec2 at{90.0 * (k % 6) + random.between(-6, 6), -60.0 * (k / 6) + random.between(-4, 4)};
    DrawnCurve trace{{}, k % 3 == 0};
    const double half = made.taper(x).half;
    for (int i = 0; i <= 80; ++i) {
      const double y = -half + 2 * half * i / 80;
      trace.points.push_back(at + Vec2{y, -made.depth({x, y + made.taper(x).middle})});
    }
    // A gauge's line ends at the board's edge, a closed one runs back along the glue plane.
    trace.points.insert(trace.points.begin(), at + Vec2{-half, 0});
    trace.points.push_back(at + Vec2{half, 0});
    sheet.push_back(std::move(trace));
  }
  const auto taken = with_sections(project, sheet, places);
  INFO((taken ? "" : taken.error().text()));
  REQUIRE(taken);
  REQUIRE(neck_of(*taken).neck.back.sections.size() == 24);
  const Followed f = followed_of(*taken);
  REQUIRE(f.problems.empty());
  const NeckShape& again = f.designs.shape<NeckDesign>().shape;
  for (double x = 25; x < 360; x += 7.3)
    for (const double share : {-0.7, -0.3, 0.0, 0.4, 0.75}) {
      INFO("at " << x << ", " << share);
      const Vec2 q{x, made.taper(x).middle + share * made.taper(x).half};
      CHECK(std::abs(again.depth(q) - made.depth(q)) < 0.1 + 0.2);  // and what fairing may leave them by
    }
  // One that crosses itself stops all of them, and says which.
  sheet[17].points = {{0, -240}, {40, -220}, {40, -240}, {0, -220}};
  sheet[17].closed = true;
  for (Vec2& q : sheet[17].points) q = q + Vec2{90.0 * 5, 60};
  const auto refused = with_sections(project, sheet, places);
  REQUIRE_FALSE(refused);
  CHECK(refused.error().text().find("275") != std::string::npos);
  CHECK(refused.error().text().find("crosses itself") != std::string::npos);
  CHECK_FALSE(with_sections(project, sheet, {25, 30}));
  CHECK_FALSE(with_sections(project, {}, {}));
}

TEST_CASE("curves that cannot become anything are sentences, and nothing is taken", "[take]") {
  const Project before = *project_from("reedling");
  const Polygon bow{{500, 0}, {600, 60}, {600, 0}, {500, 60}};
  for (const auto& [points, closed, as] : std::vector<std::tuple<Polygon, bool, std::string>>{
           {bow, true, "cavity"},
           {bow, true, "section"},
           {circle({560, 0}, 20), false, "cavity"},
           {{{0, 0}, {1, 1}}, true, "head"},
           {{}, true, "mark"},
           {box({0, 0}, {1, 1}), true, "pickup-bridge"},
           {box({0, 0}, {900, 2}), true, "pickup-bridge"},
           {circle({1e9, 0}, 5), true, "cavity"},
           {{{0, 0}, {std::nan(""), 4}, {4, 4}, {8, 1}}, true, "cavity"},
           {box({0, 0}, {3, 3}), true, "body-outline"}}) {
    INFO(as << " of " << points.size());
    const auto refused = taken(points, closed, as);
    if (as == "body-outline" && refused) continue;  // small, and yet an outline: the body's own judgement says so
    REQUIRE_FALSE(refused);
    CHECK(refused.error().text().size() > 25);
    CHECK_FALSE(refused.error().todo.empty());
  }
  for (const char* as : {"", "neck", "pickup-", "pickup-front", "Section", "body.outline"}) CHECK_FALSE(take_as(as));
  CHECK(before == *project_from("reedling"));
}

TEST_CASE("a head drawn elsewhere becomes the neck's", "[take]") {
  // Our own head, taken out and given back as a curve.
  const Followed f = followed_of(*project_from("reedling"));
  const NeckShape& n = f.designs.shape<NeckDesign>().shape;
  Polygon head;
  for (const Vec2 q : n.corners)
    if (q.x <= 1) head.push_back(q);
  const auto p = taken(head, true, "head");
  INFO((p ? "" : p.error().text()));
  REQUIRE(p);
  CHECK(neck_of(*p).neck.head.shape == HeadShape::drawn);
  CHECK(neck_of(*p).neck.head.drawn.size() == head.size());
}

}  // namespace wren
