// Layers worked while they are thin: from the numbers to proved programs, and refused where a layer is not what the
// glued body counts on.
#include "core/job/compare.hpp"
#include "core/parts/body/layers.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// Three layers, the control cavity through the core: as deep as the joint under the top, thinned from inside it.
Edits three(Edits more = {}) {
  Edits all{{"body.layers", "top ash 6.5; core pine 25; back ash 9.5"},
            {"control.by_layer", "yes"},
            {"control.face_left", "6.5"}};
  all.insert(all.end(), more.begin(), more.end());
  return all;
}

std::vector<std::string> sides_of(const Made& m) {
  std::vector<std::string> out;
  for (const Placement& s : m.cuts().sides) out.push_back(s.id);
  return out;
}

bool cuts(const Made& m, const std::string& side, const std::string& id) {
  for (const CutFacts& f : m.side(side).facts)
    if (f.id == id) return true;
  return false;
}

}  // namespace

TEST_CASE("a control cavity is cut layer by layer, from either face, and nothing of it is left for the glued body") {
  const Made m = made(edited(*project_from("reedling"), three()), "body");
  const auto all = sides_of(m);
  CHECK(all ==
        std::vector<std::string>{"layer-1", "layer-1-under", "layer-2", "layer-3", "layer-3-under", "front", "back"});
  CHECK(cuts(m, "layer-1-under", "thin-1"));
  CHECK(cuts(m, "layer-2", "control"));
  CHECK(cuts(m, "layer-3", "control"));
  CHECK(cuts(m, "layer-3-under", "ledge"));
  for (const char* gone : {"control", "ledge", "thin-1"}) CHECK_FALSE(cuts(m, "back", gone));
  // Holes of the hardware follow the glue-up: they go through wood that is together by then.
  CHECK(cuts(m, "back", "hold-back"));
  CHECK(m.side("layer-1-under").setup.found_by.kind == RegisterKind::pins);

  const PartProof proof = proof_of(m, m, {}, 0.4);
  const std::string told = stops(proof);
  INFO(told);
  CHECK(told.empty());
  CHECK(proof.missing.empty());
}

TEST_CASE("the proof of the glued body begins with the layers as they were cut") {
  const Made by_layer = made(edited(*project_from("reedling"), three()), "body");
  SECTION("a window in the wrong place is seen in the layer and in the body") {
    // The core's programs are those of a body whose controls stand elsewhere.
    const Made elsewhere = made(edited(*project_from("reedling"), three({{"control.first_behind", "-30"}})), "body");
    Made cut = by_layer;
    std::erase_if(cut.programs, [](const PlacedProgram& p) { return p.side == "layer-2"; });
    for (const PlacedProgram& p : elsewhere.programs)
      if (p.side == "layer-2") cut.programs.push_back(p);
    const std::string told = stops(proof_of(by_layer, cut, {}, 0.5));
    INFO(told);
    CHECK_THAT(told, Contains("window_closed"));
    CHECK_THAT(told, Contains("left_over"));
  }
  SECTION("a thinned place that is too shallow") {
    const Made thick = made(edited(*project_from("reedling"), three({{"control.bushing_left", "3.5"}})), "body");
    const std::string told = stops(proof_of(by_layer, thick, {}, 0.4));
    INFO(told);
    CHECK_THAT(told, Contains("left_over"));
  }
  SECTION("a solid block is not that stack: the body's own programs alone do not make the cavity") {
    const std::string told = stops(proof_of(by_layer, by_layer, {"front", "back"}, 0.35));
    INFO(told);
    CHECK(told.empty());  // the layers are looked at by themselves; this set is not whole
    CHECK(proof_of(by_layer, by_layer, {"front", "back"}, 0.35).verdict() == Verdict::not_whole);
  }
}

TEST_CASE("a chamber that the glue hides may stand a little proud, and the proof says by how much") {
  // Cut by the programs of a body whose chambers are shallower, held against the one that is wanted.
  const Project wanted = edited(*project_from("reedling"), {{"chamber.floor", "9"}});
  const Made m = made(wanted, "body");
  const auto proved = [&](const char* floor) {
    return proof_of(m, made(edited(wanted, {{"chamber.floor", floor}}), "body"), {"layer-2"}, 0.4);
  };
  const PartProof shallow = proved("9.4");
  INFO(stops(shallow));
  CHECK(stops(shallow).empty());
  CHECK_THAT(shallow.worst_loose, WithinAbs(0.4, 0.01));
  CHECK(shallow.worst_left < 0.1);  // what is fitted is no worse for it
  CHECK(proved("9").worst_loose < 0.1);
  CHECK_THAT(stops(proved("9.7")), Contains("left_over"));
  // Too deep is too deep wherever it is.
  CHECK_THAT(stops(proved("8.7")), Contains("gouge"));
}

TEST_CASE("plugs are held by their tabs, or nothing is proved") {
  const Made round = made(edited(*project_from("reedling"), three()), "body");
  const auto& cut = round.body().cuts[1];
  const auto window = std::find_if(cut.begin(), cut.end(), [](const LayerCut& c) { return c.through; });
  REQUIRE(window != cut.end());
  REQUIRE(!window->plug.empty());
  CHECK(window->tabs.size() >= 2);
  const double wide = find_cutter(round.body().rack, body_of(round.project).work.outline_cutter)->effective_diameter();
  for (const Vec2 q : window->plug) CHECK_THAT(distance_to(window->region.front(), q), WithinAbs(wide, 0.02));
  const Made low = made(edited(*project_from("reedling"), three({{"body.tab_height", "0.8"}})), "body");
  CHECK_THAT(stops(proof_of(round, low, {"layer-2"}, 0.3)), Contains("tab_"));
  const Made short_tabs = made(edited(*project_from("reedling"), three({{"body.tab_length", "3"}})), "body");
  CHECK_THAT(stops(proof_of(round, short_tabs, {"layer-2"}, 0.3)), Contains("tab_"));
  // Cleared away, no plug is left, and nothing has to hold it.
  const Made cleared = made(edited(*project_from("reedling"), three({{"body.plugs", "no"}})), "body");
  const std::string told = stops(proof_of(cleared, cleared, {"layer-2"}, 0.3));
  INFO(told);
  CHECK(told.empty());
  CHECK_THAT(stops(proof_of(round, cleared, {"layer-2"}, 0.3)), Contains("comes_loose"));
  CHECK_THAT(stops(proof_of(cleared, round, {"layer-2"}, 0.3)), Contains("window_closed"));
  CHECK(cleared.side("layer-2").seconds > round.side("layer-2").seconds);
}

TEST_CASE("pickups by layer: a window in the top, the rest in the core; a skin at the joint stops the work") {
  const Project p = edited(*project_from("reedling"), {{"body.layers", "top ash 6.5; core pine 25; back ash 9.5"},
                                                       {"pickup.bridge.by_layer", "yes"},
                                                       {"pickup.neck.by_layer", "yes"}});
  const Made m = made(p, "body");
  CHECK(cuts(m, "layer-1", "pickup-bridge"));
  CHECK(cuts(m, "layer-2", "pickup-bridge"));
  CHECK_FALSE(cuts(m, "front", "pickup-bridge"));
  const std::string told = stops(proof_of(m, m, {}, 0.4));
  INFO(told);
  CHECK(told.empty());

  // 31 deep leaves 0.5 of the core over the joint.
  const Project thin = edited(p, {{"pickup.bridge.depth", "31"}});
  const auto r = design_remark(thin, "body", "body.layer_skin");
  REQUIRE(r);
  CHECK(r->weight == Weight::stop);
  CHECK_THAT(r->number, WithinAbs(0.5, 1e-6));
  REQUIRE(ways(*r).size() == 2);
  for (const Repair& way : ways(*r)) {
    INFO(way.label);
    CHECK_FALSE(design_remark(edited(thin, way.edits), "body", "body.layer_skin"));
  }
}

TEST_CASE("a body of one piece is cut whole, whatever was asked for, and says so") {
  const Project p = edited(*project_from("reedling"), {{"body.layers", "body cherry 44"},
                                                       {"chamber.sides", "none"},
                                                       {"wire.width", "0"},
                                                       {"control.by_layer", "yes"},
                                                       {"pickup.neck.by_layer", "yes"}});
  const auto r = design_remark(p, "body", "body.by_layer_alone");
  REQUIRE(r);
  REQUIRE(r->repair);
  CHECK_FALSE(design_remark(edited(p, r->repair->edits), "body", "body.by_layer_alone"));
  const Made m = made(p, "body");
  CHECK(sides_of(m) == std::vector<std::string>{"front", "back"});
  CHECK(cuts(m, "back", "control"));
}

TEST_CASE("both ways side by side: what each costs") {
  const Project whole = edited(*project_from("reedling"), {{"body.layers", "top ash 6.5; core pine 25; back ash 9.5"},
                                                           {"control.face_left", "6.5"}});
  const Made a = made(whole, "body");
  const Made b = made(edited(whole, {{"control.by_layer", "yes"}}), "body");
  const WayCost now = cost_of(a.planned, a.remarks());
  const WayCost then = cost_of(b.planned, b.remarks());
  CHECK(then.set_ups == now.set_ups + 2);
  CHECK(now.seconds == a.cuts().seconds);
  const auto differ = differences(a.planned, b.planned);
  const auto control =
      std::find_if(differ.begin(), differ.end(), [](const CutDifference& d) { return d.cut == "Control cavity"; });
  REQUIRE(control != differ.end());
  CHECK(control->seconds[0] > 0);
  CHECK(control->seconds[1] == 0);
  // From behind it is as deep as core and back together.
  CHECK_THAT(control->depth[0], WithinAbs(41 - 6.5, 0.01));
  for (const CutDifference& d : differ)
    if (d.set_up.starts_with("Layer") && d.seconds[0] == 0)
      CHECK(d.depth[1] <= 25 + body_of(whole).work.through + 1e-6);
  CHECK(differences(a.planned, a.planned).empty());
}

TEST_CASE("the stack of layers, read by hand") {
  const auto flat_grid = [](double z) { return TileGrid({-10, -10}, 1, 20, 20, static_cast<float>(z)); };
  const auto setup = [](double top, double thick) {
    Setup s;
    s.blank.thickness = thick;
    s.to_work.shift = {0, 0, -top};
    return s;
  };
  // A top of 6 over a core of 20 with a hollow 12 deep in its upper face, and a window where a plug was.
  LayerStack::Layer top{-6, setup(0, 6), flat_grid(0), {}, {}, {}, {}};
  LayerStack::Layer core{-26, setup(-6, 20), flat_grid(0), {}, {}, {}, {{{2, 2}, {6, 2}, {6, 6}, {2, 6}}}};
  for (int j = 5; j < 8; ++j)
    for (int i = 5; i < 8; ++i) core.from_top.at(i, j) = -12;  // x and y from −5 to −2
  const LayerStack stack({top, core});
  CHECK_THAT(stack.top({-3.5, -3.5}, 9), WithinAbs(0, 1e-6));
  CHECK_THAT(stack.bottom({-3.5, -3.5}, 9), WithinAbs(-26, 1e-6));
  CHECK_THAT(stack.wood_between({-3.5, -3.5}, -26, 0), WithinAbs(6 + 8, 1e-6));
  CHECK_THAT(stack.wood_between({-3.5, -3.5}, -20, -3), WithinAbs(3 + 2, 1e-6));
  CHECK_THAT(stack.void_at({-3.5, -3.5}).first, WithinAbs(-6, 1e-6));
  CHECK_THAT(stack.void_at({-3.5, -3.5}).second, WithinAbs(-18, 1e-6));
  CHECK(stack.void_at({8, 8}).first == stack.void_at({8, 8}).second);
  CHECK_THAT(stack.bottom({4, 4}, 9), WithinAbs(-6, 1e-6));  // the plug is out
  CHECK_THAT(stack.wood_between({8, 8}, -26, 0), WithinAbs(26, 1e-6));
  CHECK(stack.top({100, 100}, 9) == 9);
}

TEST_CASE("a belly that breaks into a chamber is not proved") {
  // Chambers with 8 mm under them, and a belly's cut of 15 over one of them: planned by a body without chambers there.
  const Edits base{{"chamber.sides", "both"}, {"chamber.floor", "8"}};
  const Made chambered = made(edited(*project_from("reedling"), base), "body");
  const Made belly = made(
      edited(
          *project_from("reedling"),
          {{"chamber.sides", "both"}, {"chamber.floor", "8"}, {"body.belly_depth", "15"}, {"body.belly_reach", "110"}}),
      "body");
  const auto remarks = belly.remarks();
  const auto remark =
      std::any_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.weight == Weight::stop; });
  const std::string told = stops(proof_of(belly, belly, {}, 0.35));
  INFO(told);
  CHECK(remark);
  CHECK_THAT(told, Contains("chamber_open"));
  CHECK_THAT(stops(proof_of(chambered, chambered, {}, 0.5)), !Contains("chamber_open"));
}
