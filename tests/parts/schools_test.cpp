// Ways of working between which makers differ: each changes the order and what waits for what, and none changes the
// instrument but for what is listed. What a part cannot have is a sentence with a way out that works.
#include <fmt/format.h>
#include "core/instrument/fret_work.hpp"
#include "core/job/number_words.hpp"
#include "core/job/overview.hpp"
#include "support/covering.hpp"

namespace wren {
namespace {

std::vector<BuildLine> sheet_of(const Project& p, const std::vector<std::string>& planned = {}) {
  Cache cache;
  const Followed f = follow(all_parts(), p, cache);
  std::vector<Planned> plans;
  for (const std::string& id : planned) {
    auto one = plan(*all_parts().find(id), f, cache);
    INFO((one ? "" : one.error().text()));
    REQUIRE(one);
    plans.push_back(std::move(*one));
  }
  std::vector<const Planned*> at;
  for (const Planned& one : plans) at.push_back(&one);
  return build_sheet(all_parts(), f, cache, at);
}

const BuildLine& line(const std::vector<BuildLine>& sheet, const std::string& id) {
  for (const BuildLine& l : sheet)
    if (l.id == id) return l;
  throw std::runtime_error("no line " + id);
}
bool has(const std::vector<BuildLine>& sheet, const std::string& begins) {
  return std::any_of(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id.starts_with(begins); });
}
std::size_t place(const std::vector<BuildLine>& sheet, const std::string& id) {
  for (std::size_t k = 0; k < sheet.size(); ++k)
    if (sheet[k].id == id) return k;
  throw std::runtime_error("no line " + id);
}

void tick(Project& p, const std::string& id) { note_fact(all_parts(), p, id, "2026-11-26"); }

void cut(Project& p, const std::string& part, const std::vector<std::string>& sides = {}) {
  const Made m = made(p, part);
  for (const Placement& side : m.cuts().sides)
    if (sides.empty() || std::find(sides.begin(), sides.end(), side.id) != sides.end())
      for (const CutFacts& f : side.facts) tick(p, part + ".cut." + side.id + "." + f.id);
}

/// What the finished parts are, at many places.
std::vector<double> finished(const Project& p) {
  const Followed f = followed_of(p);
  for (const auto& [part, problem] : f.problems) INFO(part << ": " << problem.text());
  REQUIRE(f.problems.empty());
  const Fretboard& board = f.designs.shape<BoardDesign>().board;
  const NeckShape& neck = f.designs.shape<NeckDesign>().shape;
  const BodyShape& body = f.designs.shape<BodyDesign>().shape;
  std::vector<double> out{static_cast<double>(body.holes.size()), static_cast<double>(body.cavities.size())};
  for (double x = -4; x < 470; x += 3.7)
    for (double y = -27; y <= 27; y += 4.5) {
      if (contains(board.corners, {x, y})) out.push_back(board.finished_height({x, y}));
      if (contains(neck.corners, {x, y})) out.push_back(neck.depth({x, y}));
    }
  const Box2 box = bounds(body.corners);
  for (double x = box.low.x; x < box.high.x; x += 6.1)
    for (double y = box.low.y; y < box.high.y; y += 6.1)
      if (contains(body.corners, {x, y})) {
        out.push_back(body.finished_top({x, y}));
        out.push_back(body.finished_bottom({x, y}));
      }
  return out;
}

double furthest(const std::vector<double>& a, const std::vector<double>& b) {
  REQUIRE(a.size() == b.size());
  double most = 0;
  for (std::size_t k = 0; k < a.size(); ++k)
    if (std::abs(a[k]) < 1e5 || std::abs(b[k]) < 1e5) most = std::max(most, std::abs(a[k] - b[k]));
  return most;
}

Project reedling() { return *project_from("reedling"); }

}  // namespace

TEST_CASE("ways of working change no millimetre of the instrument but what they are about", "[schools]") {
  const std::vector<double> usual = finished(reedling());
  for (const Edits& way : std::vector<Edits>{{{"frets.when", "board_loose"}},
                                             {{"frets.held", "pressing_and_glue"}},
                                             {{"frets.held", "glue"}},
                                             {{"bridge.holes", "held_back"}},
                                             {{"wire.jack_when", "body_finished"}},
                                             {{"body.pocket_from", "numbers"}},
                                             {{"body.pocket_from", "sample"}},
                                             {{"body.outline_school", "full"}, {"body.outline_when", "first"}},
                                             {{"board.outline_when", "first"}},
                                             {{"marks.side", "staggered"}}}) {
    INFO(words_of(way));
    CHECK(furthest(usual, finished(edited(reedling(), way))) < 1e-9);
  }
  // These two are seen in the wood: so far, and no further.
  const double ticks = furthest(usual, finished(edited(reedling(), {{"marks.side", "ticks"}})));
  CHECK(ticks > 0.5);
  CHECK(ticks < 1.2 + 0.4);  // their depth, and the crown's fall over their length
  const double floors = furthest(usual, finished(edited(reedling(), {{"control.floor_edges", "rounded"}})));
  CHECK(floors > 1);
}

TEST_CASE("frets after the glue-up or before it: the sheet has each maker's own order", "[schools]") {
  const auto after = sheet_of(reedling());
  CHECK(place(after, "neck.hand.board") < place(after, "fretboard.hand.frets"));
  CHECK(place(after, "fretboard.hand.frets") < place(after, "fretboard.hand.ends"));
  CHECK_FALSE(has(after, "caul."));

  const Project p = edited(reedling(), {{"frets.when", "board_loose"}});
  const auto before = sheet_of(p);
  CHECK(place(before, "fretboard.hand.frets") < place(before, "neck.hand.board"));
  CHECK(has(before, "caul.shape"));
  CHECK(line(before, "neck.hand.board").title.find("caul") != std::string::npos);
  // Ends and tops wait until the board is on in either school.
  CHECK(place(before, "neck.hand.board") < place(before, "fretboard.hand.ends"));

  const auto rounds = sheet_of(edited(reedling(), {{"frets.held", "glue"}}));
  CHECK(place(rounds, "fretboard.hand.frets-1") < place(rounds, "fretboard.hand.frets-2"));
  CHECK(std::none_of(rounds.begin(), rounds.end(), [](const BuildLine& l) { return l.id == "fretboard.hand.frets"; }));
  CHECK(line(rounds, "fretboard.hand.frets-2").seconds > line(after, "fretboard.hand.frets").seconds);
}

TEST_CASE("a hand's step is held up by what comes before it, and free when that is done", "[schools]") {
  Project p = reedling();
  const auto closed = sheet_of(p, {"fretboard", "neck"});
  CHECK(line(closed, "neck.hand.board").held_up_by.starts_with("fretboard.cut."));
  CHECK(line(closed, "fretboard.hand.frets").note.str().starts_with("After: "));
  cut(p, "fretboard");
  CHECK(line(sheet_of(p, {"fretboard", "neck"}), "neck.hand.board").held_up_by.starts_with("neck.cut.front."));
  cut(p, "neck");
  const auto open = sheet_of(p, {"fretboard", "neck"});
  CHECK(line(open, "neck.hand.board").held_up_by.empty());
  CHECK(line(open, "fretboard.hand.frets").held_up_by == "neck.hand.board");
  tick(p, "neck.hand.board");
  const auto done = sheet_of(p, {"fretboard", "neck"});
  CHECK(line(done, "neck.hand.board").state == LineState::cut);
  CHECK(line(done, "neck.hand.board").note == "Done on 2026-11-26");
  CHECK(line(done, "fretboard.hand.frets").held_up_by.empty());
  // Other numbers: it was done, but from older ones, and it says which.
  const auto older = sheet_of(edited(p, {{"neck.thickness_a", "22.5"}}), {"fretboard", "neck"});
  CHECK(line(older, "neck.hand.board").older);
  CHECK(line(older, "neck.hand.board").note.find("22.5") != std::string::npos);
}

TEST_CASE("steps of a hand count as steps of putting together", "[schools]") {
  Project p = reedling();
  const auto assembly = [&] {
    Cache cache;
    const Followed f = follow(all_parts(), p, cache);
    const auto sheet = build_sheet(all_parts(), f, cache, {});
    for (const SectionState& s : overview_of(all_parts(), f, {}, sheet).sections)
      if (s.id == section::assembly) return s;
    throw std::runtime_error("no assembly");
  };
  const SectionState none = assembly();
  CHECK(none.done == 0);
  CHECK(none.of >= 6);  // board on, frets, ends, jack, neck on, strings
  tick(p, "body.hand.jack");
  CHECK(assembly().done == 1);
  CHECK(assembly().of == none.of);
}

TEST_CASE("sizes of hardware are the list's until a hand says that it measured them", "[schools]") {
  Project p = reedling();
  const auto reason = [&](const std::string& key) {
    Cache cache;
    const Followed f = follow(all_parts(), p, cache);
    for (const LedgerLine& l : ledger(all_parts(), f, cache, {}))
      if (l.key == key) return l.reason;
    throw std::runtime_error("no number " + key);
  };
  CHECK(reason("body.tilt").find("nobody has measured") != std::string::npos);
  CHECK(reason("neck.skin").find("nobody has measured") != std::string::npos);
  CHECK(line(sheet_of(p), "body.hand.bridge-measured").state == LineState::ready);
  tick(p, "body.hand.bridge-measured");
  CHECK(line(sheet_of(p), "body.hand.bridge-measured").state == LineState::measured);
  CHECK(reason("body.tilt").find("nobody has measured") == std::string::npos);
  CHECK(reason("saddle.1.height").find("nobody has measured") == std::string::npos);
  CHECK(reason("neck.skin").find("nobody has measured") != std::string::npos);  // the rod's, still
  // Another number of the body leaves it measured; another size of the bridge does not.
  CHECK_FALSE(line(sheet_of(edited(p, {{"body.tail", "118"}})), "body.hand.bridge-measured").older);
  CHECK(line(sheet_of(edited(p, {{"bridge.low", "14.1"}})), "body.hand.bridge-measured").older);
  // And the run sheet says which are not.
  const Made m = made(p, "body");
  const RunSheet sheet = m.sheet();
  std::string facts;
  for (const auto& [what, words] : sheet.facts)
    if (what == "Sizes from the list") facts = words;
  CHECK(facts ==
        "Not yet done: Pickups at hand, measured; Pots, switch and jack at hand, measured. Measure what you bought "
        "first");
}

TEST_CASE("every size of a bought piece says whether it was measured", "[schools]") {
  Project p = reedling();
  const auto origin = [&](const Project& of, const std::string& key) {
    for (const LedgerLine& l : given_numbers(all_parts().book(), of))
      if (l.key == key) return l.origin;
    throw std::runtime_error("no number " + key);
  };
  // Every line on which a hand says so has sizes of its own, and every size a line.
  std::vector<std::string> lines, used;
  for (const BuildLine& l : sheet_of(p))
    if (l.id.ends_with("-measured")) lines.push_back(l.id);
  all_parts().book().each([&](const Field& f) {
    if (f.at_hand.empty()) return;
    INFO(f.key);
    CHECK((f.kind == FieldKind::length || f.kind == FieldKind::number));
    CHECK(std::find(lines.begin(), lines.end(), f.at_hand) != lines.end());
    CHECK(origin(p, f.key) == Origin::listed);
    if (std::find(used.begin(), used.end(), f.at_hand) == used.end()) used.push_back(f.at_hand);
  });
  CHECK(used.size() == lines.size());
  tick(p, "body.hand.bridge-measured");
  CHECK(origin(p, "bridge.low") == Origin::measured);
  CHECK(origin(p, "bridge.plate_width") == Origin::measured);
  CHECK(origin(p, "pickup.neck.length") == Origin::listed);
  CHECK(origin(p, "tuner.hole") == Origin::listed);
  CHECK(origin(p, "bridge.compensation_bass") == Origin::given);  // no size of the piece
  // One that is typed anew afterwards was not measured with the others; typed back, it was.
  const Project other = edited(p, {{"bridge.low", "14.1"}});
  CHECK(origin(other, "bridge.low") == Origin::listed);
  CHECK(origin(other, "bridge.high") == Origin::measured);
  CHECK(hangs_on(other, all_parts().find("body")->table.fields, "body.hand.bridge-measured", "the bridge") != "");
  CHECK(origin(edited(other, {{"bridge.low", field_text(*all_parts().book().find(p, "bridge.low"),
                                                        FieldValue(body_of(p).body.bridge.low))}}),
               "bridge.low") == Origin::measured);
}

TEST_CASE("the jack's hole stands before the neck or after it, then by a guide", "[schools]") {
  const auto bare = sheet_of(reedling());
  CHECK(place(bare, "body.hand.jack") < place(bare, "body.hand.neck-on"));
  CHECK_FALSE(has(bare, "jack-guide."));
  const Project p = edited(reedling(), {{"wire.jack_when", "body_finished"}});
  const auto late = sheet_of(p);
  CHECK(place(late, "body.hand.jack") > place(late, "body.hand.neck-on"));
  CHECK(has(late, "jack-guide.shape"));
  CHECK(line(late, "body.hand.jack").hint.find("eye") != std::string::npos);
  // No jack, no guide, no step.
  const auto without = sheet_of(edited(p, {{"wire.jack", "0"}}));
  CHECK_FALSE(has(without, "jack-guide."));
  CHECK_FALSE(has(without, "body.hand.jack"));
}

TEST_CASE("the jack's guide lies against the edge, its far side square to the hole", "[schools]") {
  const Made m =
      made(edited(reedling(), {{"wire.jack_when", "body_finished"}, {"wire.jack_angle", "20"}}), "jack-guide");
  const BodyShape& body = m.body().shape;
  const EdgeJob& jack =
      *std::find_if(body.edge_jobs.begin(), body.edge_jobs.end(), [](const EdgeJob& j) { return j.id == "jack"; });
  const auto& outline = std::get<Outline>(m.planned.made.pieces.front().sides.front().operations.back().shape).contour;
  // Two of its corners are furthest out along the axis, and the line between them is square to it.
  double out = 0;
  for (const Vertex& v : outline) out = std::max(out, -dot(v.at - jack.at, jack.inward));
  CHECK(out == Approx(26).margin(0.01));
  double least = 1e9;
  double most = -1e9;
  for (const Vertex& v : outline)
    if (-dot(v.at - jack.at, jack.inward) > out - 0.01) {
      least = std::min(least, cross(jack.inward, v.at - jack.at));
      most = std::max(most, cross(jack.inward, v.at - jack.at));
    }
  CHECK(most - least > 60);
  // Its other side is nowhere inside the body, and close to it for most of its length.
  const Polygon flat_out = flatten(outline, 0.01);
  CHECK(area(intersected({flat_out}, {body.corners})) < 0.5);
  CHECK(area(intersected({flat_out}, offset({body.corners}, 0.3))) > 15);
  CHECK(m.proof(0).verdict() == Verdict::proved);
}

TEST_CASE("what the pocket is cut to decides what it waits for", "[schools]") {
  CHECK(line(sheet_of(reedling()), "body.pocket").waits_on == "neck.measure");
  const auto numbers = sheet_of(edited(reedling(), {{"body.pocket_from", "numbers"}}));
  CHECK_FALSE(line(numbers, "body.pocket").waits);
  CHECK(line(numbers, "body.pocket").state == LineState::ready);
  Project sample = edited(reedling(), {{"body.pocket_from", "sample"}});
  const auto waiting = sheet_of(sample);
  CHECK(line(waiting, "body.pocket").waits);
  CHECK(line(waiting, "body.pocket").waits_on == "heel-sample.measure");
  CHECK(has(waiting, "heel-sample.shape"));
  sample = edited(sample, {{"measured.sample.heel_width", "56.9"}});
  CHECK_FALSE(line(sheet_of(sample), "body.pocket").waits);
}

TEST_CASE("a measured sample makes the pocket so much wider, a measured heel then says nothing", "[schools]") {
  const auto pocket_width = [](const Project& p) {
    const Followed f = followed_of(p);
    const Cavity* c = f.designs.shape<BodyDesign>().shape.cavity("pocket");
    REQUIRE(c != nullptr);
    const double x = f.designs.shape<BodyDesign>().shape.heel.end_x - 12;
    const auto ys = crossings(c->region.front(), {x, 0}, {0, 1});
    return ys.back() - ys.front();
  };
  const Project p = edited(reedling(), {{"body.pocket_from", "sample"}});
  const double designed = followed_of(p).designs.shape<BodyDesign>().shape.heel.designed_width;
  const Project measured = edited(p, {{"measured.sample.heel_width", fmt::to_string(designed + 0.3)}});
  CHECK(pocket_width(measured) - pocket_width(p) == Approx(0.3).margin(0.01));
  const Edits heel{{"measured.neck.heel_width", fmt::to_string(designed - 0.5)}, {"measured.neck.heel_in_all", "25.0"}};
  CHECK(pocket_width(edited(measured, heel)) == Approx(pocket_width(measured)).margin(1e-9));
  const Project numbers = edited(reedling(), {{"body.pocket_from", "numbers"}});
  CHECK(pocket_width(edited(numbers, heel)) == Approx(pocket_width(numbers)).margin(1e-9));
  CHECK(pocket_width(edited(reedling(), heel)) < pocket_width(reedling()) - 0.4);
}

TEST_CASE("held-back holes are in no program of the body, and all in the set-up with the neck on", "[schools]") {
  for (const char* from : {"reedling", "sedge", "bass"}) {
    INFO(from);
    const Project p = edited(*project_from(from), {{"bridge.holes", "held_back"}});
    const Made m = made(p, "body");
    // z is probed on the face where it is flat all round, and not beside its rounded edge.
    for (const Placement& side : m.cuts().sides) {
      REQUIRE(side.setup.probe);
      for (int k = 0; k < 24; ++k)
        CHECK(std::abs(side.setup.untouched(side.setup.probe->at +
                                            Vec2{std::cos(k * 0.2617994), std::sin(k * 0.2617994)} * 3.2)) < 0.01);
    }
    std::map<std::string, int> bored;
    for (const Piece& piece : m.planned.made.pieces)
      for (const Side& side : piece.sides)
        for (const Operation& op : side.operations)
          if (const auto* holes = std::get_if<Holes>(&op.shape))
            for (const Holes::One& h : holes->holes)
              if (h.title.find("ridge") != std::string::npos || h.title == "String hole" || h.title == "Ferrule") {
                CHECK(piece.id == "bridge");
                ++bored[h.title];
              }
    const BodyShape& s = m.body().shape;
    std::map<std::string, int> asked;
    for (const BodyHole& h : s.holes)
      if (held_back(body_of(p).work, h)) ++asked[h.title];
    CHECK_FALSE(asked.empty());
    for (const auto& [title, count] : asked) {
      INFO(title);
      CHECK(bored[title] == count * (title == "String hole" ? 2 : 1));  // from both sides
    }
    // Its place is found by the line that the neck shows, and every sheet says so.
    const Side& bridge = m.planned.made.pieces.back().sides.front();
    CHECK(bridge.setup.found_by.kind == RegisterKind::lines);
    CHECK(bridge.setup.found_by.shift.x == Approx(body_of(p).work.line_error));
    // The neck stands there: a solid that nothing may meet.
    CHECK(std::any_of(bridge.setup.standing.begin(), bridge.setup.standing.end(),
                      [](const Setup::Box& b) { return b.name == "neck"; }));
  }
}

TEST_CASE("cuts that are held back wait for the hand that puts the neck on", "[schools]") {
  Project p = edited(reedling(), {{"bridge.holes", "held_back"}, {"body.pocket_from", "numbers"}});
  cut(p, "fretboard");
  cut(p, "neck");
  tick(p, "neck.hand.board");
  cut(p, "body", {"layer-1", "layer-2", "front", "back"});
  tick(p, "body.hand.jack");
  const auto held = sheet_of(p, {"fretboard", "neck", "body"});
  bool any = false;
  for (const BuildLine& l : held)
    if (l.side == "bridge") {
      any = true;
      CHECK(l.held_up_by == "body.hand.neck-on");
      CHECK_FALSE(l.next);
    }
  CHECK(any);
  CHECK(line(held, "body.hand.neck-on").held_up_by.empty());
  tick(p, "body.hand.neck-on");
  const auto open = sheet_of(p, {"fretboard", "neck", "body"});
  for (const BuildLine& l : open)
    if (l.side == "bridge") CHECK(l.held_up_by.empty());
  CHECK(line(open, "body.hand.strings").held_up_by.starts_with("body.cut.bridge."));
}

TEST_CASE("an outline cut first is first, and its tabs are all that holds the body", "[schools]") {
  const Project p = edited(reedling(), {{"body.outline_school", "full"}, {"body.outline_when", "first"}});
  const Made m = made(p, "body");
  const Placement& front = m.side("front");
  const auto at = [&](const std::string& id) {
    for (std::size_t k = 0; k < front.facts.size(); ++k)
      if (front.facts[k].id == id) return k;
    throw std::runtime_error("no cut " + id);
  };
  CHECK(at("outline") < at("pocket"));
  CHECK(at("outline") < at("pickup-bridge"));
  for (const CutFacts& f : m.side("back").facts) CHECK(f.id != "outline");
  // Last again: the front cuts its cavities out of a whole blank.
  const Made last = made(edited(p, {{"body.outline_when", "last"}}), "body");
  for (const CutFacts& f : last.side("front").facts) CHECK(f.id != "outline");
  CHECK(last.side("back").facts.back().id == "outline");
}

TEST_CASE("the board's outline comes first where it is asked for, its crown and slots after it", "[schools]") {
  for (const char* order : {"flat_first", "crown_first"}) {
    const Made m = made(edited(reedling(), {{"board.order", order}, {"board.outline_when", "first"}}));
    CHECK(m.cuts().sides.front().facts.front().id == "outline");
    CHECK(made(edited(reedling(), {{"board.order", order}})).cuts().sides.front().facts.back().id == "outline");
  }
}

TEST_CASE("ways that a part cannot have are refused with a sentence, and a way out that works", "[schools]") {
  struct Case {
    Edits edits;
    const char* part;
    const char* kind;
  };
  for (const Case& c : std::vector<Case>{
           {{{"neck.build", "one_piece"}, {"frets.when", "board_loose"}}, "neck", "neck.frets_loose_board"},
           {{{"body.outline_school", "guide"}, {"body.outline_when", "first"}}, "body", "body.first_in_one"},
           {{{"body.outline_when", "first"}, {"body.outline_school", "halves"}}, "body", "body.first_in_one"},
           {{{"body.outline_when", "first"}, {"body.outline_school", "full"}, {"body.back_off", "1"}},
            "body",
            "body.first_and_faced"},
           {{{"body.outline_when", "first"},
             {"body.outline_school", "full"},
             {"body.first_tab_height", "4"},
             {"body.first_tab_length", "10"}},
            "body",
            "body.first_tabs"},
           {{{"control.floor_edges", "rounded"}, {"control.by_layer", "yes"}}, "body", "body.floor_layers"},
           {{{"control.floor_edges", "rounded"}, {"control.floor_radius", "2"}}, "body", "body.floor_radius"},
           {{{"control.floor_edges", "rounded"}, {"body.floor_cutter", "flat-6.35"}}, "body", "body.floor_cutter"},
           {{{"bridge.name", "single-pieces"}, {"strings.piece_width", "11.2"}}, "body", "bridge.piece_wide"},
           {{{"pickup.bridge.name", "twin-coil"}, {"pickup.bridge.behind", "yes"}, {"pickup.bridge.depth", "43"}},
            "body",
            "pickup.behind_deep"},
           {{{"pickup.bridge.behind", "yes"}, {"pickup.bridge.by_layer", "yes"}}, "body", "pickup.behind_layers"},
           {{{"marks.side", "ticks"}, {"marks.tick_length", "1"}}, "fretboard", "marks.tick_short"},
           {{{"control.knob_recess", "24"}, {"control.knob_depth", "6.5"}}, "body", "control.knob_deep"}}) {
    INFO(c.kind << words_of(c.edits));
    const Project p = edited(reedling(), c.edits);
    const auto told = design_remark(p, c.part, c.kind);
    REQUIRE(told);
    CHECK(told->weight == Weight::stop);
    CHECK(told->sentence.str().size() > 40);
    REQUIRE_FALSE(ways(*told).empty());
    for (const Repair& way : ways(*told)) {
      INFO(way.label);
      const Followed f = followed_of(edited(p, way.edits));
      if (!f.designs.find(c.part)) continue;  // another thing is in the way by then, and says so
      CHECK_FALSE(design_remark(edited(p, way.edits), c.part, c.kind));
    }
  }
}

TEST_CASE("single pieces stand on their strings' own scale points and decide the spread", "[schools]") {
  const Project p = edited(*project_from("sedge"), {{"bridge.name", "single-pieces"},
                                                    {"strings.spread_from", "pieces"},
                                                    {"strings.piece_width", "16.2"},
                                                    {"strings.piece_gap", "0.3"},
                                                    {"bridge.low", "12"},
                                                    {"bridge.high", "18"}});
  const Followed f = followed_of(p);
  REQUIRE(f.problems.empty());
  const Fretboard& board = f.designs.shape<BoardDesign>().board;
  const BodyShape& body = f.designs.shape<BodyDesign>().shape;
  CHECK(board.strings.back().saddle.y - board.strings.front().saddle.y == Approx(4 * 16.5).margin(1e-9));
  REQUIRE(body.bridge_pieces.size() == 5);
  for (std::size_t i = 0; i + 1 < 5; ++i)
    CHECK(area(intersected({body.bridge_pieces[i]}, {body.bridge_pieces[i + 1]})) < 0.02);
  int screws = 0;
  for (const BodyHole& h : body.holes)
    if (h.id.starts_with("piece-")) ++screws;
  CHECK(screws == 10);
  // The board widened with it.
  const double before = project_from("sedge")->parts.of<FretboardNumbers>().instrument.strings.bridge_spread;
  CHECK(before == 66);
  const Made m = made(p, "body");
  INFO(stopping(m.remarks()));
  CHECK(stopping(m.remarks()).empty());
}

TEST_CASE("the words of every school's choice are words, and none is a key", "[schools]") {
  for (const char* key :
       {"frets.when", "frets.held", "marks.side", "marks.filling", "body.pocket_from", "bridge.holes", "wire.jack_when",
        "body.outline_when", "board.outline_when", "control.floor_edges", "strings.spread_from", "bridge.kind"}) {
    const auto field = all_parts().book().find(reedling(), key);
    REQUIRE(field);
    for (const std::string& id : field->choices) CHECK(choice_words(key, id).find('_') == std::string::npos);
    CHECK(field->reason.str().size() > 20);
  }
}

TEST_CASE("changing a school is one step, and undone in one", "[schools]") {
  const Project p = reedling();
  for (const Edits& way : std::vector<Edits>{{{"bridge.holes", "held_back"}}, {{"frets.when", "board_loose"}}}) {
    const Project there = edited(p, way);
    CHECK_FALSE(there == p);
    const auto field = all_parts().book().find(p, way.front().first);
    CHECK(edited(there, {{way.front().first, field_text(*field, field->get(p))}}) == p);
  }
}

}  // namespace wren
