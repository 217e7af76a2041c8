// Blanks glued of strips, by hand: where the joints lie, what they weigh, how stiff they are, how they move. Arithmetic
// beside each check; wood movement after the Wood Handbook, ch. 13.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "core/workshop/strips.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

Expected<Material> table(const std::string& name) { return find_material({}, name); }

}  // namespace

TEST_CASE("five strips: joints, width, what lies where") {
  const auto s = strips_from("maple 22; walnut 4; maple 24; walnut 4; maple 22", "neck.strips");
  REQUIRE(s);
  CHECK(s->width() == 76);
  CHECK(s->joints() == std::vector<double>{-16, -12, 12, 16});
  CHECK(s->at(-14).wood == "walnut");
  CHECK(s->at(0).wood == "maple");
  CHECK(s->at(-500).wood == "maple");
  CHECK(s->at(15.99).wood == "walnut");
}

TEST_CASE("means over a width: the parts of each strip that lie in it") {
  const auto s = strips_from("maple 20; walnut 10; maple 20", "");
  REQUIRE(s);
  // From −15 to 5: 10 of maple, 10 of walnut.
  CHECK_THAT(mean_density(*s, table, -15, 5), WithinAbs((705 + 615) / 2.0, 1e-9));
  CHECK_THAT(mean_modulus(*s, table, -15, 5), WithinAbs((12.6 + 11.6) / 2.0, 1e-9));
  // The outer strips go on beyond the stack.
  CHECK_THAT(mean_density(*s, table, 30, 60), WithinAbs(705, 1e-9));
}

TEST_CASE("a stack moves by the sum of its strips; plywood is still") {
  const auto s = strips_from("maple 60; plywood-birch 20; walnut 40", "");
  REQUIRE(s);
  const double by_hand = 60.0 * 6 / (3000 / 9.9 - 30 + 6) + 40.0 * 6 / (3000 / 7.8 - 30 + 6);
  CHECK_THAT(stack_moves(*s, table, 6, 12), WithinAbs(by_hand, 1e-9));
  CHECK_THAT(stack_moves(*s, table, 12, 6), WithinRel(-by_hand, 0.1));  // back again, from the other end
}

TEST_CASE("a laminated neck weighs and bends as its strips do") {
  const Project plain = edited(*project_from("reedling"), {{"neck.blank.wood", "maple"}});
  // All of one wood, whatever the joints: the same neck.
  const Project same = edited(plain, {{"neck.strips", "maple 40; maple 36; maple 40"}});
  const auto one = followed_of(plain);
  const auto three = followed_of(same);
  const auto& a = one.designs.shape<NeckDesign>();
  const auto& b = three.designs.shape<NeckDesign>();
  CHECK_THAT(b.weight.grams, WithinRel(a.weight.grams, 1e-9));
  CHECK_THAT(b.bend.relief, WithinRel(a.bend.relief, 1e-9));
  // A middle as wide as the neck decides both.
  const auto wide = followed_of(edited(plain, {{"neck.strips", "maple 8; walnut 100; maple 8"}}));
  const auto walnut = followed_of(edited(plain, {{"neck.blank.wood", "walnut"}}));
  CHECK_THAT(wide.designs.shape<NeckDesign>().weight.grams,
             WithinRel(walnut.designs.shape<NeckDesign>().weight.grams, 1e-9));
  CHECK_THAT(wide.designs.shape<NeckDesign>().bend.relief,
             WithinRel(walnut.designs.shape<NeckDesign>().bend.relief, 1e-9));
  // The hardest strip bears the cut.
  CHECK(wide.designs.shape<NeckDesign>().wood.name == "maple");
}

TEST_CASE("a section of two strips: EI of a composite (Roark's Formulas, textbook statics)") {
  const Project p = edited(*project_from("reedling"), {{"neck.blank.wood", "maple"}});
  const auto followed = followed_of(p);
  const NeckDesign& d = followed.designs.shape<NeckDesign>();
  NeckWoods woods = d.woods;
  woods.board_gpa = 0;
  const double x = 200;
  const auto ei = [&](double bass, double treble) {
    woods.neck_gpa_at = [bass, treble](double y) { return y < 0 ? bass : treble; };
    return section_stiffness(d.shape, x, woods).ei;
  };
  // Proportional to a common modulus, and between the two where they differ.
  CHECK_THAT(ei(20, 20), WithinRel(2 * ei(10, 10), 1e-9));
  CHECK(ei(10, 20) > ei(10, 10));
  CHECK(ei(10, 20) < ei(20, 20));
  // A neck that is alike on both sides does not care which half is the stiff one.
  CHECK_THAT(ei(10, 20), WithinRel(ei(20, 10), 0.02));
}

TEST_CASE("a body of two halves of different woods: weight and balance by hand") {
  const Project p = edited(*project_from("reedling"), {{"body.layers", "body cherry 40"}, {"chamber.sides", "none"}});
  const double width = body_of(p).work.blank_width;
  const auto grams = [&](const std::string& strips) {
    const auto f = followed_of(edited(p, {{"body.strips_1", strips}}));
    REQUIRE_FALSE(f.problems.contains("body"));
    return f.designs.shape<BodyDesign>().balance;
  };
  const std::string half = fmt::to_string(width / 2);
  const auto at = [&](const char* bass, const char* treble) {
    return grams(std::string(bass) + " " + half + "; " + treble + " " + half);
  };
  const BodyBalance cherry = at("cherry", "cherry");
  const BodyBalance ash = at("ash", "ash");
  CHECK_THAT(ash.body_g / cherry.body_g, WithinAbs(670.0 / 560, 1e-6));
  const BodyBalance mixed = at("ash", "cherry");
  const BodyBalance other = at("cherry", "ash");
  // Both halves once of each wood: together they are one body of each.
  CHECK_THAT(mixed.body_g + other.body_g, WithinRel(cherry.body_g + ash.body_g, 1e-9));
  // The heavier half draws the balance to its side.
  CHECK(mixed.body_centre.y < cherry.body_centre.y);
  CHECK(other.body_centre.y > cherry.body_centre.y);
  // Moments add up as well: m₁y₁ + m₂y₂ is the same both ways.
  CHECK_THAT(mixed.body_g * mixed.body_centre.y + other.body_g * other.body_centre.y,
             WithinAbs(cherry.body_g * cherry.body_centre.y + ash.body_g * ash.body_centre.y, 1e-3));
}
