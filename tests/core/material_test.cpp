// Materials of a project: made like others, kept in its file, followed by weight, feeds, grain and cautions.
#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

#include <nlohmann/json.hpp>

#include "core/cutting/feeds.hpp"
#include "core/job/run_sheet.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinRel;

namespace {

Project with_own(const char* name, const char* like) {
  Project p = *project_from("reedling");
  p.materials.push_back(*material_like({}, name, like));
  return p;
}

Project edited(const Project& p, const std::string& key, const std::string& text) {
  auto out = with_edits(p, {{key, text}});
  INFO((out ? std::string() : out.error().what.str()));
  REQUIRE(out);
  return *out;
}

}  // namespace

TEST_CASE("like cherry is enough to start") {
  const auto m = material_like({}, "bog-cherry", "cherry");
  REQUIRE(m);
  CHECK(m->density == find_material({}, "cherry")->density);
  CHECK(m->source == "like cherry");
  CHECK_FALSE(material_like({}, "bog cherry", "cherry"));  // one word
  CHECK_FALSE(material_like({}, "", "cherry"));
  CHECK_FALSE(material_like({}, "bog", "no-such"));
  CHECK_FALSE(material_like({*m}, "bog-cherry", "ash"));  // twice
  CHECK_FALSE(material_like({}, "ash", "cherry"));        // another's name of the table
  CHECK(material_like({}, "ash", "ash"));                 // the table's own, to be measured
}

TEST_CASE("a misspelt material is answered with what is near") {
  const auto bad = find_material({}, "chery");
  REQUIRE_FALSE(bad);
  CHECK_THAT(bad.error().todo, Contains("cherry"));
  CHECK_THAT(find_material({}, "spruse").error().todo, Contains("spruce"));
  CHECK_THAT(find_material({}, "plywood").error().todo, Contains("plywood-birch"));
  CHECK_THAT(find_material({}, "").error().what, Contains("''"));
}

TEST_CASE("figures that no material has are a sentence") {
  const auto refused = [](auto member, double value, const char* word) {
    Material m = *find_material({}, "ash");
    m.*member = value;
    const auto bad = check_material(m);
    REQUIRE(bad.size() == 1);
    CHECK_THAT(bad.front().what, Contains(word));
    CHECK_THAT(bad.front().todo, Contains("between"));
  };
  refused(&Material::density, 0, "density");
  refused(&Material::density, std::nan(""), "density");
  refused(&Material::modulus, -1, "modulus");
  refused(&Material::cutting_force, 1e9, "cutting force");
  refused(&Material::shrink_tangential, 40, "tangential");
  Project p = with_own("bog", "oak-white");
  for (const char* text : {"0", "-5", "1e9", "heavy"}) CHECK_FALSE(with_edits(p, {{"material.bog.density", text}}));
  CHECK_FALSE(with_edits(p, {{"material.bog.melts", "perhaps"}}));
  CHECK_FALSE(with_edits(p, {{"material.none.density", "700"}}));
}

TEST_CASE("a project keeps its own materials and copies of those it uses") {
  Project p = with_own("bog", "oak-white");
  p = edited(p, "material.bog.density", "910");
  p = edited(p, "board.blank.wood", "bog");
  const std::string text = project_to_json(p);
  const auto back = project_from_json(text, "p.wren");
  REQUIRE(back);
  CHECK(*back == p);
  const auto doc = nlohmann::json::parse(text);
  std::vector<std::string> names;
  for (const auto& e : doc["materials"]) names.push_back(e["id"].get<std::string>() + "/" + e["of"].get<std::string>());
  CHECK(std::find(names.begin(), names.end(), "bog/project") != names.end());
  CHECK(std::find(names.begin(), names.end(), "sycamore/table") != names.end());  // the neck's
  CHECK(std::find(names.begin(), names.end(), "bubinga/table") == names.end());   // nothing is of it

  SECTION("a copy that the table of today says otherwise stays what it was") {
    auto old = doc;
    for (auto& e : old["materials"])
      if (e["id"] == "sycamore") e["density"] = 580;
    const auto kept = project_from_json(old.dump(), "p.wren");
    REQUIRE(kept);
    CHECK(find_material(kept->materials, "sycamore")->density == 580);
    CHECK(kept->materials.size() == 2);
    // And goes on staying so.
    CHECK(*project_from_json(project_to_json(*kept), "p.wren") == *kept);
  }
  SECTION("an older file has none, and opens as before") {
    auto old = doc;
    old.erase("materials");
    old["parts"]["fretboard"]["board"]["blank"]["wood"] = "pear";
    const auto kept = project_from_json(old.dump(), "p.wren");
    REQUIRE(kept);
    CHECK(kept->materials.empty());
  }
  SECTION("damaged entries are a sentence with their place") {
    const auto refuse = [&](const char* name, const nlohmann::json& value) {
      auto bad = doc;
      bad["materials"][0][name] = value;
      const auto r = project_from_json(bad.dump(), "p.wren");
      REQUIRE_FALSE(r);
      CHECK_THAT(r.error().where, Contains("/materials/0"));
    };
    refuse("density", "heavy");
    refuse("density", 0);
    refuse("melts", 3);
    refuse("grain", "round");
    refuse("dust", nullptr);
    refuse("id", "two words");
    refuse("id", "");
    auto twice = doc;
    twice["materials"].push_back(doc["materials"][0]);
    CHECK_FALSE(project_from_json(twice.dump(), "p.wren"));
    auto many = doc;
    for (std::size_t i = 0; i <= most_materials; ++i) many["materials"].push_back(doc["materials"][0]);
    CHECK_FALSE(project_from_json(many.dump(), "p.wren"));
  }
}

TEST_CASE("weight follows the material, and so does whether a program is still of these numbers") {
  Project p = with_own("bog", "pear");
  const auto weight = [](const Project& q) { return followed_of(q).designs.shape<BoardDesign>().weight_g; };
  const double as_pear = weight(p);
  const auto print = [](const Project& q) { return followed_of(q).fingerprints.at("fretboard"); };
  const std::string before = print(p);
  // One of its own that nothing is made of ends no program.
  CHECK(print(edited(p, "material.bog.density", "900")) == before);
  const Project of_it = edited(p, "board.blank.wood", "bog");
  CHECK_THAT(weight(of_it), WithinRel(as_pear, 1e-9));
  const Project heavier = edited(of_it, "material.bog.density", "1035");
  CHECK_THAT(weight(heavier), WithinRel(as_pear * 1035 / 690, 1e-9));
  CHECK(print(heavier) != print(of_it));
}

TEST_CASE("a material that is not known is refused when typed, and a sentence when a file has it") {
  const Project p = *project_from("reedling");
  for (const char* key : {"board.blank.wood", "neck.blank.wood", "cover.wood", "coupon.wood"}) {
    const auto bad = with_edits(p, {{key, "unobtainium"}});
    INFO(key);
    REQUIRE_FALSE(bad);
    CHECK_THAT(bad.error().what, Contains("unobtainium"));
  }
  auto doc = nlohmann::json::parse(project_to_json(p));
  doc["parts"]["fretboard"]["board"]["blank"]["wood"] = "unobtainium";
  const auto opened = project_from_json(doc.dump(), "p.wren");
  REQUIRE(opened);
  const auto followed = followed_of(*opened);
  REQUIRE(followed.problems.contains("fretboard"));
  CHECK(followed.problems.at("fretboard").where == "board.blank.wood");
}

TEST_CASE("what melts gets a thicker chip and a slower spindle") {
  Machine m;
  m.max_feed = {9000, 9000, 3000};
  const Cutter c = *find_cutter(default_rack(), "flat-3.175");
  Material acrylic = *find_material({}, "acrylic");
  const Feeds melting = work_out_feeds(c, acrylic, m, {0.2, 1, 1.0});
  acrylic.melts = false;
  const Feeds other = work_out_feeds(c, acrylic, m, {0.2, 1, 1.0});
  CHECK(melting.rpm < other.rpm);
  CHECK_THAT(melting.chip_load, WithinRel(1.4 * other.chip_load, 0.01));
}

TEST_CASE("what has no grain gets no advice of grain; one layer with fibres brings it back") {
  Project p = *project_from("reedling");
  CHECK_FALSE(followed_of(p).designs.shape<BodyDesign>().grain.empty());
  p = edited(p, "body.layers", "top fibreboard 6.5; core fibreboard 37.5");
  CHECK(followed_of(p).designs.shape<BodyDesign>().grain.empty());
  p = edited(p, "body.layers", "top plywood-birch 6.5; core pine 37.5");
  CHECK_FALSE(followed_of(p).designs.shape<BodyDesign>().grain.empty());
}

TEST_CASE("dust that harms, and what melts, has its caution on the sheet; plain wood has none") {
  const auto cautions = [](const char* wood) {
    std::string all;
    for (const std::string& c : general_cautions({*find_material({}, wood)})) all += c + "\n";
    return all;
  };
  CHECK_THAT(cautions("wenge"), Contains("wenge") && Contains("irritate"));
  CHECK_THAT(cautions("fibreboard"), Contains("very fine"));
  CHECK_THAT(cautions("acrylic"), Contains("melts") && Contains("fumes"));
  CHECK_THAT(cautions("ash"), !Contains("irritate") && !Contains("melts"));
}
