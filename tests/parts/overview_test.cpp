// What the bench and the folded heads say: sections, states on two axes, what waits for what, what is next; the search;
// the step beside the machine; and the words numbers and choices have on a screen.
#include <set>

#include "core/job/hand_step.hpp"
#include "core/job/number_words.hpp"
#include "core/job/overview.hpp"
#include "core/report/duration.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

struct Seen {
  std::vector<BuildLine> sheet;
  Overview overview;
  [[nodiscard]] const SectionState& section(const std::string& id) const {
    for (const SectionState& s : overview.sections)
      if (s.id == id) return s;
    throw std::runtime_error("no section " + id);
  }
};

Seen seen(const Project& project, const std::vector<const Planned*>& planned = {},
          const std::set<std::string>& refused = {}) {
  Cache cache;
  const Followed f = follow(all_parts(), project, cache);
  Seen out;
  out.sheet = build_sheet(all_parts(), f, cache, planned);
  out.overview = overview_of(all_parts(), f, planned, out.sheet, refused);
  return out;
}

/// The Reedling with its neck measured as designed, and its test slot.
Project measured_reedling() {
  Project p = *project_from("reedling");
  const auto told = with_edits(p, {{"slot.measured_width", "0.56"},
                                   {"measured.neck.heel_width", "56.4"},
                                   {"measured.neck.heel_length_made", "66"},
                                   {"measured.neck.heel_in_all", "25.4"}});
  INFO((told ? "" : told.error().text()));
  REQUIRE(told);
  return *told;
}

void cut_everything(Project& p, const Planned& planned) {
  for (const Placement& side : planned.cuts.sides)
    for (const CutFacts& f : side.facts)
      note_fact(all_parts(), p, planned.part + ".cut." + side.id + "." + f.id, "2026-11-26");
}

}  // namespace

TEST_CASE("every line of the sheet stands in one section, in one run, and each part has its own", "[overview]") {
  for (const char* from : {"reedling", "sedge", "bass", "plain"}) {
    INFO(from);
    const Seen s = seen(*project_from(from));
    std::set<std::string> finished;
    std::string now;
    for (const BuildLine& l : s.sheet) {
      INFO(l.id << " " << l.title);
      REQUIRE(!l.section.empty());
      if (l.section == now) continue;
      CHECK(finished.insert(now).second);
      CHECK(finished.count(l.section) == 0);
      now = l.section;
    }
    CHECK(s.sheet.front().section == section::instrument);
    CHECK(s.sheet.back().section == section::shop);
    CHECK(s.overview.sections.front().title == "Instrument");
    CHECK(s.section("fretboard").title == "Fretboard");
    CHECK(s.section("neck").title == "Neck");
    CHECK(s.section("body").title == "Body");
    CHECK(s.section(section::small_parts).title == "Small parts");
    CHECK(s.section(section::assembly).title == "Assembly");
    for (const SectionState& one : s.overview.sections) {
      CHECK(one.done <= one.of);
      CHECK(one.cuts_done <= one.cuts);
    }
  }
}

TEST_CASE("the pocket waits for the measured neck by name; the board's programs do not", "[overview]") {
  const Seen s = seen(*project_from("reedling"));
  REQUIRE(s.overview.waits.size() == 1);
  CHECK(s.overview.waits[0].line == "body.pocket");
  CHECK(s.overview.waits[0].on == "neck.measure");
  CHECK(s.overview.waits[0].fact.find("Heel") != std::string::npos);
  // The line waited for is there to be gone to.
  CHECK(std::any_of(s.sheet.begin(), s.sheet.end(), [](const BuildLine& l) { return l.id == "neck.measure"; }));
  CHECK(s.section("body").standing == Standing::waits);
  CHECK(s.section("neck").standing != Standing::waits);
  // Measured, nothing waits any more.
  const Seen after = seen(measured_reedling());
  CHECK(after.overview.waits.empty());
  CHECK(after.section("body").standing != Standing::waits);
}

TEST_CASE("what is next is said with the question it asks, and moves on when it is answered", "[overview]") {
  const Seen before = seen(*project_from("reedling"));
  REQUIRE(before.overview.next);
  CHECK(before.overview.next->line.id == "fretboard.test_slot");
  CHECK(before.overview.next->section == "Fretboard");
  CHECK(before.overview.next->why.find("test slot") != std::string::npos);
  CHECK(before.section("fretboard").has_next);
  CHECK(!before.section("neck").has_next);
  CHECK(before.section("fretboard").standing == Standing::open);
  const Seen after = seen(measured_reedling());
  REQUIRE(after.overview.next);
  CHECK(after.overview.next->line.id == "fretboard.rehearsal");
  CHECK(after.section("fretboard").standing == Standing::ready);
}

TEST_CASE("verdict and wood are two axes: a part can be cut from older numbers and proved for those of now",
          "[overview]") {
  Project p = measured_reedling();
  Made m = made(p);
  const auto fretboard = [&](const Project& project, const std::set<std::string>& refused = {}) {
    return seen(project, {&m.planned}, refused).section("fretboard");
  };
  SectionState s = fretboard(p);
  CHECK(s.made);
  CHECK(s.standing == Standing::ready);
  CHECK(s.wood == WoodState::none);
  CHECK(s.cuts > 2);
  CHECK(s.cuts_done == 0);
  double all = 0;
  for (const Placement& side : m.planned.cuts.sides)
    for (const CutFacts& f : side.facts) all += f.seconds;
  CHECK(s.seconds_left == Approx(all));
  // Refused, and then proved: the wood knows nothing of it.
  s = fretboard(p, {"fretboard"});
  CHECK(s.standing == Standing::refused);
  CHECK(s.wood == WoodState::none);
  note_fact(all_parts(), p, "fretboard.proof", "2026-11-26");
  s = fretboard(p);
  CHECK(s.standing == Standing::proved);
  CHECK(s.wood == WoodState::none);
  CHECK(s.done == 2);  // the rehearsal, and the slot that was measured
  // One cut made: begun, and its minutes are no longer left.
  const CutFacts& first = m.planned.cuts.sides.front().facts.front();
  Project begun = p;
  note_fact(all_parts(), begun, "fretboard.cut." + m.planned.cuts.sides.front().id + "." + first.id, "2026-11-26");
  s = fretboard(begun);
  CHECK(s.wood == WoodState::begun);
  CHECK(s.seconds_left == Approx(all - first.seconds));
  Project cut = p;
  cut_everything(cut, m.planned);
  s = fretboard(cut);
  CHECK(s.wood == WoodState::cut);
  CHECK(s.seconds_left == 0);
  // Another number: proved for older numbers, the wood stays cut, and the head counts what is of older numbers.
  const auto thinner = with_edits(cut, {{"board.overhang", "10"}});
  REQUIRE(thinner);
  m = made(*thinner);
  s = seen(*thinner, {&m.planned}).section("fretboard");
  CHECK(s.standing == Standing::older);
  CHECK(s.wood == WoodState::cut);
  CHECK(s.older == s.cuts);
}

TEST_CASE("a spoiled blank shows as spoiled until something is cut again", "[overview]") {
  Project p = measured_reedling();
  const Made m = made(p);
  cut_everything(p, m.planned);
  REQUIRE(begin_anew(all_parts(), p, m.planned, m.planned.made.pieces.front().id, "2026-11-26"));
  SectionState s = seen(p, {&m.planned}).section("fretboard");
  CHECK(s.wood == WoodState::spoiled);
  CHECK(s.cuts_done == 0);
  note_fact(all_parts(), p,
            "fretboard.cut." + m.planned.cuts.sides.front().id + "." + m.planned.cuts.sides.front().facts.front().id,
            "2026-11-27");
  s = seen(p, {&m.planned}).section("fretboard");
  CHECK(s.wood == WoodState::begun);
}

TEST_CASE("what stops the work is counted where its number stands", "[overview]") {
  const auto bad = with_edits(*project_from("reedling"), {{"head.tuners_bass", "3"}});
  REQUIRE(bad);
  const Seen s = seen(*bad);
  CHECK(s.section("neck").stops > 0);
  CHECK(s.section("fretboard").stops == 0);
  CHECK(s.section("neck").standing == Standing::open);
}

TEST_CASE("lines and numbers are found by their words and by their key, the nearest first", "[overview]") {
  const Project p = *project_from("reedling");
  Cache cache;
  const Followed f = follow(all_parts(), p, cache);
  const auto sheet = build_sheet(all_parts(), f, cache, {});
  const auto numbers = ledger(all_parts(), f, cache, {});
  const auto find = [&](const char* text, std::size_t most = 40) {
    return find_in_job(sheet, numbers, text, {}, most);
  };
  REQUIRE(!find("pocket depth").empty());
  CHECK(find("pocket depth")[0].key == "body.pocket_depth");
  CHECK(find("POCKET   Depth")[0].key == "body.pocket_depth");
  CHECK(find("pocket depth")[0].line == "body.pocket");
  CHECK(find("pocket depth")[0].value == "16 mm");
  CHECK(find("strings.bridge_spread")[0].key == "strings.bridge_spread");
  CHECK(find("tuners")[0].title == "Tuners");
  CHECK(find("tuners")[0].key.empty());
  CHECK(find("").empty());
  CHECK(find("   ").empty());
  CHECK(find("no such thing anywhere").empty());
  CHECK(find("e", 5).size() == 5);
  // Whatever is found can be gone to.
  for (const FoundPlace& one : find("s", 1000)) {
    INFO(one.title);
    CHECK(std::any_of(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == one.line; }));
    if (!one.key.empty())
      CHECK(std::any_of(numbers.begin(), numbers.end(), [&](const LedgerLine& l) { return l.key == one.key; }));
  }
}

TEST_CASE("the steps at the machine are the programs in their order, with all their cuts", "[overview][hand]") {
  const Project p = measured_reedling();
  for (const char* part : {"fretboard", "neck", "cover"}) {
    INFO(part);
    Made m = made(p, part);
    const auto steps = [&] {
      return hand_steps(*m.kind, m.followed, *m.cache, m.planned, m.lines(), "2026-11-26", {});
    };
    const auto all = steps();
    std::size_t paths = 0;
    std::size_t k = 0;
    for (const Placement& side : m.planned.cuts.sides) {
      for (std::size_t i = 0; i < side.paths.size(); ++i, ++k) {
        REQUIRE(k < all.size());
        const HandStep& s = all[k];
        INFO(s.title);
        CHECK(s.side == side.id);
        CHECK(s.lines.size() == side.paths[i].cuts.size());
        CHECK(s.seconds == Approx(side.path_seconds[i]));
        CHECK(s.cutter == side.paths[i].cutter);
        const Cutter* c = find_cutter(m.planned.rack, s.cutter);
        REQUIRE(c != nullptr);
        CHECK(s.tool == c->number);
        CHECK(!s.stickout.empty());
        CHECK(!s.place.empty());  // where z is found stands on every step
        CHECK(!s.title.empty());
        CHECK(std::isdigit(static_cast<unsigned char>(s.title[0])) == 0);
        CHECK(!s.cut);
        const bool named = std::any_of(m.programs.begin(), m.programs.end(),
                                       [&](const PlacedProgram& f) { return f.file.file == s.file; });
        CHECK(named);
      }
      paths += side.paths.size();
    }
    CHECK(all.size() == paths);
    // Cut are those whose every cut is.
    for (const std::string& line : all[0].lines) note_fact(all_parts(), m.followed.project, line, "2026-11-26");
    const auto after = steps();
    CHECK(after[0].cut);
    if (after.size() > 1) CHECK(!after[1].cut);
  }
}

TEST_CASE("no choice reaches a screen as the program's own id", "[overview][words]") {
  const Project p = *project_from("reedling");
  std::size_t seen_choices = 0;
  all_parts().book().each([&](const Field& f) {
    std::set<std::string> words;
    for (const std::string& id : f.choices) {
      INFO(f.key << " " << id);
      const std::string said = choice_words(f.key, id);
      CHECK(!said.empty());
      CHECK(said.find('_') == std::string::npos);
      CHECK(words.insert(said).second);  // two choices of one field are never called the same
      ++seen_choices;
    }
  });
  CHECK(seen_choices > 60);
  CHECK(choice_words("neck.build", "separate_board") == "separate board");
  CHECK(choice_words("neck.shape_a", "soft_v") == "soft V");
  CHECK(choice_words("body.blank.lie", "x") != choice_words("body.blank.lie", "y"));
}

TEST_CASE("every number stands under a head of its own, cutters and woods by name", "[overview][words]") {
  all_parts().book().each([&](const Field& f) {
    INFO(f.key);
    CHECK(number_group(f.key) != "Other numbers");
  });
  CHECK(number_group("neck.heel_thickness") == "Heel");
  CHECK(number_group("neck.thickness_a") == "Neck");
  CHECK(number_group("rack.ball-6.measured") == "Cutter ball-6");
  CHECK(number_group("material.bog-oak.density") == "Material bog-oak");
  CHECK(number_group("pickup.bridge.depth") == "Pickup at the bridge");
  CHECK(number_group("surprise") == "Other numbers");
}

TEST_CASE("durations as a maker says them", "[overview][words]") {
  CHECK(duration_text(0) == "0 s");
  CHECK(duration_text(-5) == "0 s");
  CHECK(duration_text(std::nan("")) == "0 s");
  CHECK(duration_text(1e300) == "0 s");
  CHECK(duration_text(48.4) == "48 s");
  CHECK(duration_text(89.6) == "1 min 30 s");
  CHECK(duration_text(185) == "3 min 05 s");
  CHECK(duration_text(599.7) == "10 min");
  CHECK(duration_text(3570) == "1 h 00 min");
  CHECK(duration_text(10962) == "3 h 03 min");
  CHECK(duration_text(36000) == "10 h 00 min");
}

TEST_CASE("what a number was before is in the history, step by step", "[overview][history]") {
  Project p = *project_from("reedling");
  History h(p);
  CHECK(h.present() == 0);
  CHECK(h.name_at(0).empty());
  for (const char* scale : {"640", "645"}) {
    const auto next = with_edits(h.now(), {{"strings.scale", scale}});
    REQUIRE(next);
    REQUIRE(h.change(*next, std::string("Scale ") + scale));
  }
  REQUIRE(h.present() == 2);
  CHECK(board_of(h.project_at(0)).instrument.strings.scale_bass == 635);
  CHECK(board_of(h.project_at(1)).instrument.strings.scale_bass == 640);
  CHECK(h.name_at(2) == "Scale 645");
  REQUIRE(h.undo());
  CHECK(h.present() == 1);
  CHECK(h.steps() == 3);
}

}  // namespace wren
