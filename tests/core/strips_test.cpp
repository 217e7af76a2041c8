// Strips: what is typed, what is refused, and what lies too near to a joint, by brute force.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <numbers>

#include "support/made.hpp"
#include "support/random.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

TEST_CASE("strips as text: there and back, in inches, and refused with a sentence") {
  for (const char* text : {"none", "cherry 120; walnut 12; cherry 120", "across: pine 90; pine 90"}) {
    const auto s = strips_from(text, "body.strips_1");
    REQUIRE(s);
    CHECK(strips_text(*s) == text);
    CHECK(*strips_from(strips_text(*s), "") == *s);
  }
  CHECK_THAT(strips_from("ash 7 in; ash 7 in", "")->width(), WithinAbs(355.6, 1e-9));
  CHECK(strips_from("along: ash 10; ash 10", "")->across == false);
  CHECK(strips_from("  ", "")->empty());
  const auto refused = [](const char* text, const char* words) {
    const auto bad = strips_from(text, "body.strips_1");
    INFO(text);
    REQUIRE_FALSE(bad);
    CHECK(bad.error().where == "body.strips_1");
    CHECK_THAT(bad.error().what, Contains(words));
    CHECK_THAT(bad.error().todo, Contains("none for one piece"));
  };
  refused("cherry 120", "one strip");
  refused("cherry; walnut 12", "does not give");
  refused("cherry 120; walnut", "does not give");
  refused("cherry 0.1; walnut 12", "is possible");
  refused("cherry 9000; walnut 12", "is possible");
  refused("cherry wide; walnut 12", "not understood");
  refused("slanted: cherry 10; cherry 10", "no way");
  std::string many;
  for (int i = 0; i < 50; ++i) many += "ash 2; ";
  refused((many + "ash 2").c_str(), "more than");
  CHECK_FALSE(with_edits(*project_from("reedling"), {{"body.strips_1", "ash 180; unobtainium 180"}}));
  CHECK_FALSE(with_edits(*project_from("reedling"), {{"neck.strips", "one 10"}}));
}

TEST_CASE("strips that are wider than the blank stop the work; narrower ones are asked about; both have a way out") {
  const Project p = *project_from("reedling");
  const double width = body_of(p).work.blank_width;
  const auto strips = [&](double each) {
    return "cherry " + fmt::to_string(each) + "; cherry " + fmt::to_string(each);
  };
  CHECK_FALSE(design_remark(edited(p, {{"body.strips_2", strips(width / 2)}}), "body", "body.strips_size"));
  for (const double off : {6.0, -6.0}) {
    const Project q = edited(p, {{"body.strips_2", strips((width + off) / 2)}});
    const auto r = design_remark(q, "body", "body.strips_size");
    REQUIRE(r);
    CHECK(r->weight == (off > 0 ? Weight::stop : Weight::think_again));
    REQUIRE(r->repair);
    CHECK_FALSE(design_remark(edited(q, r->repair->edits), "body", "body.strips_size"));
    for (const Repair& way : r->others) CHECK_FALSE(design_remark(edited(q, way.edits), "body", "body.strips_size"));
  }
  const Project neck = edited(p, {{"neck.strips", "maple 60; maple 60"}});
  const auto r = design_remark(neck, "neck", "neck.strips_size");
  REQUIRE(r);
  CHECK(r->weight == Weight::stop);
  CHECK_FALSE(design_remark(edited(neck, r->repair->edits), "neck", "neck.strips_size"));
}

TEST_CASE("a joint beside the pocket's wall is found, and sliding the outline moves it away") {
  Project p = *project_from("reedling");
  Cache cache;
  const auto followed = follow(all_parts(), p, cache);
  const BodyDesign& d = followed.designs.shape<BodyDesign>();
  const Cavity* pocket = d.shape.cavity("pocket");
  REQUIRE(pocket != nullptr);
  double wall = 0;
  for (const Vec2 q : pocket->region.front()) wall = std::max(wall, q.y);
  const double width = body_of(p).work.blank_width;
  // A joint half a millimetre beside it, from the blank's bass edge.
  const double first = width / 2 + wall + 0.5 - d.blank_middle.y;
  p = edited(p, {{"body.strips_1", "ash " + fmt::to_string(first) + "; ash " + fmt::to_string(width - first)}});
  const auto r = design_remark(p, "body", "body.joint_wall");
  REQUIRE(r);
  CHECK_THAT(r->sentence, Contains("ocket"));
  REQUIRE(r->repair);
  const Project slid = edited(p, r->repair->edits);
  CHECK_FALSE(design_remark(slid, "body", "body.joint_wall"));
  // The outline has moved over its blank, and the programs with it.
  Cache other;
  const auto moved = follow(all_parts(), slid, other);
  const BodyDesign& e = moved.designs.shape<BodyDesign>();
  CHECK(distance(e.blank_middle, d.blank_middle) > 0.4);
  CHECK(distance(e.front.to_work.apply({0, 0}), d.front.to_work.apply({0, 0})) > 0.4);
}

TEST_CASE("runs beside a joint against brute force") {
  // A slanted rectangle: its long walls turned by an angle against the joint.
  for (const double degrees : {0.0, 2.0, 4.0, 7.0}) {
    const double a = degrees * 0.017453292519943295;
    const Polygon wall = rounded_rectangle({0, 10.6}, {std::cos(a), std::sin(a)}, 60, 20, 2);
    const Joint joint{{0, 0}, {1, 0}, "ash and ash"};
    const JointBeside found = joint_beside(joint, {wall}, 3.5, 10);
    // By walking along the ring in small steps.
    double run = 0;
    double longest = 0;
    Polygon fine;
    for (std::size_t i = 0; i < wall.size(); ++i)
      for (int k = 0; k < 200; ++k) fine.push_back(lerp(wall[i], wall[(i + 1) % wall.size()], k / 200.0));
    for (std::size_t turn = 0; turn < 2 * fine.size(); ++turn) {
      const Vec2 p = fine[turn % fine.size()];
      const Vec2 q = fine[(turn + 1) % fine.size()];
      const bool beside = std::abs(p.y) <= 3.5 && std::abs((q - p).y) <= 0.0872 * distance(p, q);
      run = beside ? run + distance(p, q) : 0;
      longest = std::max(longest, run);
    }
    INFO(degrees << " " << found.length << " " << longest);
    if (degrees > 5) {
      CHECK(found.length == 0);
    } else {
      CHECK_THAT(found.length, WithinAbs(longest, 0.5));
    }
  }
}

TEST_CASE("a neck of strips slides until no joint runs beside the rod, left-handed too") {
  for (const char* hand : {"no", "yes"}) {
    const Project p =
        edited(*project_from("reedling"), {{"strings.left_handed", hand},
                                           {"neck.blank.width", "116"},
                                           {"neck.strips", "maple 50; walnut 4; maple 8; walnut 4; maple 50"}});
    const auto r = design_remark(p, "neck", "neck.joint_wall");
    INFO(hand);
    REQUIRE(r);
    REQUIRE(r->repair);
    INFO(r->repair->edits.front().second);
    CHECK_FALSE(design_remark(edited(p, r->repair->edits), "neck", "neck.joint_wall"));
  }
}

TEST_CASE("the smallest slide that frees the joints, against brute force") {
  const auto stack = strips_from("ash 30; ash 10; ash 30", "");
  REQUIRE(stack);
  const auto joints = joints_of(*stack, {0, 0});
  const std::vector<Region> walls{{rounded_rectangle({0, 0}, {1, 0}, 80, 10.5, 0)},
                                  {rounded_rectangle({0, 9}, {1, 0}, 80, 4, 0)}};
  const double near = 1;
  const auto found = free_slide(joints, walls, near, 20, 30);
  REQUIRE(found);
  // Walls at y ±5.25, 7 and 11; joints at ±5, moved by −slide.
  const auto free = [&](double slide) {
    for (const double j : {-5.0, 5.0})
      for (const double wall : {-5.25, 5.25, 7.0, 11.0})
        if (std::abs(j - slide - wall) <= near) return false;
    return true;
  };
  CHECK(free(*found));
  for (double less = 0; less < std::abs(*found) - 0.25; less += 0.5) CHECK_FALSE((free(less) || free(-less)));
  CHECK_FALSE(free_slide(joints, walls, 40, 20, 5));
}

TEST_CASE("a horn's tip that hangs on a joint alone is told; a veneer line is not") {
  const Project p = *project_from("reedling");
  Cache cache;
  const auto followed = follow(all_parts(), p, cache);
  const BodyDesign& d = followed.designs.shape<BodyDesign>();
  const Box2 box = bounds(d.shape.corners);
  const double width = body_of(p).work.blank_width;
  // Three millimetres of the body's widest place lie beyond the joint.
  const double first = width / 2 + (box.high.y - 3) - d.blank_middle.y;
  const std::string text = "cherry " + fmt::to_string(first) + "; cherry " + fmt::to_string(width - first);
  const auto r = design_remark(edited(p, {{"body.strips_2", text}}), "body", "body.joint_share");
  REQUIRE(r);
  // By brute force: the area of the body beyond it.
  double area_there = 0;
  for (double x = box.low.x; x < box.high.x; x += 0.25)
    for (double y = box.high.y - 3; y < box.high.y; y += 0.1)
      if (contains(d.shape.corners, Vec2{x, y})) area_there += 0.025;
  CHECK(r->number <= area_there + 5);
  CHECK_FALSE(design_remark(
      edited(p, {{"body.strips_2", "cherry " + fmt::to_string(width / 2) + "; cherry " + fmt::to_string(width / 2)}}),
      "body", "body.joint_share"));
}

TEST_CASE("layers that move differently are told before they are glued") {
  const Project p = *project_from("reedling");
  const auto r =
      design_remark(edited(p, {{"body.layers", "top beech 6.5; body teak 37.5"}}), "body", "body.layers_move");
  REQUIRE(r);
  CHECK_FALSE(design_remark(edited(p, {{"body.layers", "top plywood-birch 6.5; body fibreboard 37.5"}}), "body",
                            "body.layers_move"));
}

TEST_CASE("a left-handed body has its bass strip on the other side, and weighs the same") {
  const Project right =
      edited(*project_from("reedling"), {{"body.layers", "body cherry 40"}, {"body.strips_1", "ash 60; cherry 300"}});
  const Project left = edited(right, {{"strings.left_handed", "yes"}});
  Cache one;
  Cache two;
  const auto a = follow(all_parts(), right, one);
  const auto b = follow(all_parts(), left, two);
  const BodyDesign& r = a.designs.shape<BodyDesign>();
  const BodyDesign& l = b.designs.shape<BodyDesign>();
  REQUIRE(r.joints[0].size() == 1);
  REQUIRE(l.joints[0].size() == 1);
  CHECK_THAT(l.joints[0][0].at.y, WithinAbs(-r.joints[0][0].at.y, 1e-6));
  CHECK_THAT(l.balance.body_g, WithinAbs(r.balance.body_g, 0.5));
}

TEST_CASE("strips turned under the outline: joints, bands and what they must be wide, by hand") {
  const auto stack = strips_from("ash 120; walnut 60; ash 220", "");
  REQUIRE(stack);
  const Vec2 middle{30, -7};
  const double angle = 10 * std::numbers::pi / 180;
  const StackPlace place{middle, angle};
  const auto joints = joints_of(*stack, place);
  REQUIRE(joints.size() == 2);
  // Joints lie −80 and −20 from the stack's middle, square to a way that is turned by 10°.
  for (const auto& [j, from] : {std::pair{joints[0], -80.0}, {joints[1], -20.0}}) {
    CHECK_THAT(std::atan2(j.along.y, j.along.x), WithinAbs(angle, 1e-12));
    CHECK_THAT(dot(j.at - middle, left_of(j.along)), WithinAbs(from, 1e-9));
    CHECK_THAT(place.from_middle(*stack, j.at + j.along * 77), WithinAbs(from, 1e-9));
  }
  // 300 long and 200 wide out of strips turned by 10°: 200·cos 10° + 300·sin 10°.
  CHECK_THAT(width_needed(*stack, {300, 200}, angle), WithinAbs(196.9616 + 52.0945, 1e-3));
  StripStack across = *stack;
  across.across = true;
  CHECK_THAT(width_needed(across, {300, 200}, -angle), WithinAbs(295.4423 + 34.7296, 1e-3));
  CHECK_THAT(joints_of(across, {middle})[0].along.y, WithinAbs(1, 1e-12));
  // The bands cover the blank once, and each place lies in the band of its own strip.
  const Project p = *project_from("reedling");
  for (const StripStack& one : {*stack, across}) {
    const auto bands = bands_of(one, place, {300, 200}, [](const std::string& w) { return find_material({}, w); });
    REQUIRE(bands.size() == 3);
    double all = 0;
    for (const StripBand& b : bands) all += signed_area(b.plan);
    CHECK_THAT(all, WithinAbs(60000, 1));
    Random random(7);
    for (int k = 0; k < 400; ++k) {
      const Vec2 at = middle + Vec2{random.between(-149, 149), random.between(-99, 99)};
      const Strip& strip = one.at(place.from_middle(one, at));
      const StripBand& band = bands[static_cast<std::size_t>(&strip - one.strips.data())];
      CHECK((contains(band.plan, at) || distance_to(band.plan, at) < 0.01));
    }
  }
}

TEST_CASE("an outline turned over its strips: weight, what they must be wide, and how joints are got away from walls") {
  const Project straight =
      edited(*project_from("reedling"), {{"body.layers", "body cherry 40"}, {"body.strips_1", "ash 180; walnut 180"}});
  const auto design = [](const Project& p) { return followed_of(p).designs.shape<BodyDesign>(); };
  const auto weighs = [&](const char* turn) {
    return design(edited(straight, {{"body.over_turn", turn}})).balance.body_g;
  };
  // By brute force over the outline: cm² of walnut more or less than straight.
  const BodyDesign d = design(edited(straight, {{"body.over_turn", "8"}}));
  const double walnut = find_material({}, "walnut")->density;
  const double ash = find_material({}, "ash")->density;
  const auto share = [&](double degrees) {
    const double a = -degrees * std::numbers::pi / 180;
    double cells = 0;
    const Box2 box = bounds(d.shape.corners);
    for (double x = box.low.x; x < box.high.x; x += 0.5)
      for (double y = box.low.y; y < box.high.y; y += 0.5)
        if (const Vec2 q = Vec2{x, y} - d.blank_middle;
            contains(d.shape.corners, Vec2{x, y}) && -q.x * std::sin(a) + q.y * std::cos(a) > 0)
          cells += 0.25;
    return cells;
  };
  const double more = (share(8) - share(0)) * 40 * (walnut - ash) * 1e-6;  // g, of a slab without cavities
  CHECK_THAT(weighs("8") - weighs("0"), WithinAbs(more, std::max(12.0, std::abs(more) * 0.3)));
  CHECK_THAT(weighs("8"), !WithinAbs(weighs("-8"), 1e-6));
  // 360 wide strips are too narrow for a blank that is turned by 8°; the repair makes them wide enough.
  const Project turned = edited(straight, {{"body.over_turn", "8"}});
  const auto narrow = design_remark(turned, "body", "body.strips_size");
  REQUIRE(narrow);
  const BodyWork& work = body_of(turned).work;
  CHECK_THAT(narrow->limit, WithinAbs(work.blank_width * 0.990268 + work.blank_length * 0.139173, 0.01));
  for (const Repair& way : {*narrow->repair, narrow->others.front()}) {
    INFO(way.label);
    CHECK_FALSE(design_remark(edited(turned, way.edits), "body", "body.strips_size"));
  }
  CHECK_FALSE(design_remark(edited(turned, {{"body.strips_1", "ash 300; walnut 300"}}), "body", "body.strips_size"));
  // The sheet says how its blank is sawn, and to which side, left-handed too.
  for (const char* hand : {"no", "yes"}) {
    const Made m = made(edited(turned, {{"strings.left_handed", hand}}), "body");
    const auto& said = m.sheet().by_hand;
    CHECK(std::any_of(said.begin(), said.end(), [](const std::string& w) {
      return w.find("8° aslant") != std::string::npos && w.find("treble") != std::string::npos;
    }));
    const Joint& j = m.body().joints[0][0];
    const double treble = m.body().shape.treble;
    // The outline's tail goes to the treble side, so the joint there goes the other way.
    CHECK(j.along.y / j.along.x * treble < 0);
  }
  // A joint that runs beside a wall: slid square to it, however it is turned.
  for (const char* turn : {"0", "3", "-4"}) {
    const Project p = edited(straight, {{"body.over_turn", turn}, {"body.strips_1", "ash 148; walnut 64; ash 280"}});
    const auto beside = design_remark(p, "body", "body.joint_wall");
    if (!beside || !beside->repair) continue;
    INFO(turn);
    CHECK_FALSE(design_remark(edited(p, beside->repair->edits), "body", "body.joint_wall"));
  }
}

TEST_CASE("a blank whose pins would be bored into the part stops the work, one that is only tight does not") {
  const Project sedge = *project_from("sedge");
  struct Short {
    const char *part, *key, *tight, *then, *bored;
  };
  // A body's outline runs round its end, close by the pin: where its kerf does, that stops the work as well.
  for (const auto& [part, key, tight, then, bored] :
       {Short{"body", "body.blank.length", "505", "stop", "495"},
        Short{"neck", "neck.blank.length", "700", "think again", "685"}}) {
    CAPTURE(part);
    const auto weight = [&, part = part, key = key](const char* length) {
      const auto all = followed_of(edited(sedge, {{key, length}})).designs.find(part)->remarks;
      const auto r = std::find_if(all.begin(), all.end(),
                                  [&](const Remark& one) { return one.kind == std::string(part) + ".blank_short"; });
      return r == all.end() ? std::string("none") : r->weight == Weight::stop ? "stop" : "think again";
    };
    CHECK(weight("760") == "none");
    CHECK(weight(tight) == then);
    CHECK(weight(bored) == "stop");
  }
}

TEST_CASE("an outline slid off its blank is a sentence with a way out") {
  const Project p = *project_from("reedling");
  for (const char* key : {"body.over_across", "body.over_along", "neck.over_across"}) {
    const char* part = std::string(key).starts_with("neck") ? "neck" : "body";
    const Project q = edited(p, {{key, "60"}});
    const auto all = followed_of(q).designs.find(part)->remarks;
    const auto r = std::find_if(all.begin(), all.end(), [&](const Remark& one) {
      return one.kind == std::string(part) + ".blank_narrow" || one.kind == std::string(part) + ".blank_short";
    });
    INFO(key);
    REQUIRE(r != all.end());
    REQUIRE(r->repair);
    const auto mended = followed_of(edited(q, r->repair->edits)).designs.find(part)->remarks;
    CHECK(std::none_of(mended.begin(), mended.end(), [&](const Remark& one) { return one.kind == r->kind; }));
  }
}
