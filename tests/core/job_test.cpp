#include <catch2/catch.hpp>

#include <filesystem>
#include <fstream>
#include <random>

#include <nlohmann/json.hpp>

#include "support/made.hpp"
#include "core/program/reader.hpp"
#include "exchange/fret_table.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {
using Job = Made;
Job job(const Project& p) { return made(p); }
const LedgerLine* line(const std::vector<LedgerLine>& ledger, const std::string& key) {
  for (const LedgerLine& l : ledger)
    if (l.key == key) return &l;
  return nullptr;
}
}  // namespace

TEST_CASE("every ledger number has an origin and a reason, and keys are unique") {
  const Job j = job(*project_from("sedge"));
  const auto all = j.ledger();
  std::vector<std::string> keys;
  for (const LedgerLine& l : all) {
    INFO(l.key);
    CHECK_FALSE(l.reason.empty());
    CHECK_FALSE(l.label.empty());
    keys.push_back(l.key);
  }
  std::sort(keys.begin(), keys.end());
  CHECK(std::adjacent_find(keys.begin(), keys.end()) == keys.end());
  CHECK(line(all, "board.length")->origin == Origin::derived);
  CHECK(line(all, "board.blank.width")->origin == Origin::measured);
  CHECK(line(all, "strings.count")->origin == Origin::given);
  CHECK(line(all, "crown.stepover_used")->pin == "crown.stepover");
  CHECK_THAT(std::get<double>(line(all, "strings.1.scale")->value), WithinAbs(710, 1e-9));
  CHECK_THAT(std::get<double>(line(all, "board.width_nut")->value),
             WithinAbs(distance(j.board().board.nut_line.bass_edge, j.board().board.nut_line.treble_edge), 1e-9));
  CHECK(ledger_text(*line(all, "strings.scale_bass"), {UnitSystem::inch}) == "27.9528 in");
  // Without cuts the path numbers are left out and nothing else changes.
  const auto early = ledger(all_parts(), j.followed, *j.cache, {});
  CHECK(line(early, "cuts.fretboard.seconds") == nullptr);
  CHECK(line(all, "cuts.fretboard.seconds") != nullptr);
  CHECK(line(early, "board.length") != nullptr);
}

TEST_CASE("every line of the build sheet has its numbers, and a remark's place leads to a line") {
  const Job j = job(*project_from("reedling"));
  const auto sheet = j.lines();
  const auto all = j.ledger();
  int next = 0;
  for (const BuildLine& l : sheet) {
    next += l.next ? 1 : 0;
    if (l.state == LineState::heading || l.id.ends_with(".sheet") || l.look == Look::runs) continue;  // the shop's own
    // Times of parts that are not planned are not there yet.
    if (l.id.ends_with(".rehearsal") && l.id != "fretboard.rehearsal") continue;
    INFO(l.id);
    CHECK_FALSE(lines_of(l, all).empty());
  }
  CHECK(next == 1);
  for (const Remark& r : j.remarks()) CHECK_FALSE(line_for_key(sheet, r.place).empty());
}

TEST_CASE("weight follows the wood and the volume") {
  Project p = *project_from("reedling");
  const double pear = design_board(p)->weight_g;
  board_of(p).blank.wood = "ebony";
  const auto heavy = design_board(p);
  CHECK_THAT(heavy->weight_g / pear, WithinAbs(1050.0 / 690.0, 1e-9));
  CHECK(heavy->volume_mm3 < mass_properties(heavy->board.crowned()).volume_mm3);
  CHECK(heavy->volume_mm3 > 0.97 * mass_properties(heavy->board.crowned()).volume_mm3);
}

TEST_CASE("the run sheet carries what a stranger needs") {
  const Job j = job(*project_from("reedling"));
  const RunSheet whole = j.sheet();
  REQUIRE(whole.sides.size() == 1);
  const RunSide& s = whole.sides.front();
  CHECK(s.steps.size() == j.side("top").paths.size());
  std::string all;
  for (const auto& [a, b] : whole.facts) all += a + " " + b + "\n";
  for (const auto& a : s.alignment) all += a + "\n";
  CHECK_THAT(all, Contains("510 mm × 75 mm × 6.6 mm pear") && Contains("x 350 mm, y 500 mm") &&
                      Contains("x -255 mm, y -37.5 mm") && Contains("Probe z"));
  CHECK_THAT(s.steps[0].cutter, Contains("slot-0.58") && Contains("stick out 15 mm"));
  CHECK_FALSE(s.steps[0].caution.empty());
  CHECK_FALSE(s.steps.back().check.empty());
  CHECK(whole.cautions.size() >= 5);
  CHECK(whole.boxes.size() >= 5);
  Project exotic = j.project;
  board_of(exotic).blank.wood = "rosewood";
  CHECK(made(exotic).sheet().cautions.size() == whole.cautions.size() + 1);
  CHECK(path_seconds_text(185) == "3 min 05 s");
  CHECK(path_seconds_text(48) == "48 s");
  Project crown = j.project;
  board_of(crown).work.order = CutOrder::crown_first;
  const Job k = job(crown);
  const RunSheet t = k.sheet(UnitSystem::inch);
  bool fill = false;
  for (const RunStep& step : t.sides.front().steps)
    for (const auto& b : step.before) fill = fill || b.find("Fill the marks") != std::string::npos;
  CHECK(fill);
}

TEST_CASE("both orders cut the same board in their own sequence") {
  Project p = *project_from("reedling");
  const auto ids = [](const Job& m) {
    std::vector<std::string> out;
    for (const Cut& cut : m.side("top").cuts) out.push_back(cut.id);
    return out;
  };
  CHECK(ids(job(p)) == std::vector<std::string>{"slots", "marks", "crown", "outline"});
  board_of(p).work.order = CutOrder::crown_first;
  CHECK(ids(job(p)) == std::vector<std::string>{"crown", "marks", "crown-again", "slots", "outline"});
  board_of(p).instrument.marks.shape = MarkShape::none;
  CHECK(ids(job(p)) == std::vector<std::string>{"crown", "slots", "outline"});
}

TEST_CASE("the fret list as CSV has one line a fret and the same numbers as the board") {
  const auto b = make_fretboard({});
  const std::string csv = fret_table_csv(*b);
  CHECK(std::count(csv.begin(), csv.end(), '\n') == 23);
  CHECK_THAT(csv, Contains("\r\n12,") && Contains(",317."));
  CHECK_THAT(fret_table_text(*b), Contains("wire in all"));
}

TEST_CASE("clamps at the far end go with the blank, and turn with it") {
  const auto p = with_edits(*project_from("reedling"), {{"board.clamps", "near -30 18 6 57 18; far 504 18 540 57 18"},
                                                        {"board.blank.length", "560"}});
  REQUIRE(p);
  CHECK(board_of(*p).blank.clamps[0].high.x == 6);
  CHECK(board_of(*p).blank.clamps[1].low.x == 554);
  const auto turned = with_edits(*p, {{"board.blank.lie", "y"}, {"board.blank.length", "550"}});
  REQUIRE(turned);
  CHECK(board_of(*turned).blank.clamps[1].low == Vec2{18, 544});
  CHECK(board_of(*with_edits(*turned, {{"board.blank.lie", "x"}, {"board.blank.length", "560"}})).blank.clamps ==
        board_of(*p).blank.clamps);
}

TEST_CASE("a cache keeps its last results and works each out once") {
  Cache cache;
  int made = 0;
  const auto twice = [&](int k) {
    return cache.get<int>(k, 2, [&] {
      ++made;
      return 2 * k;
    });
  };
  CHECK(twice(1) == 2);
  CHECK(twice(1) == 2);
  CHECK(made == 1);
  twice(2);
  twice(3);
  twice(1);
  CHECK(made == 4);
}

TEST_CASE("ten thousand damaged projects and programs are refused or read, and never crash") {
  std::mt19937 random(5);
  const std::string project = project_to_json(*project_from("reedling"));
  const Job j = job(*project_from("reedling"));
  const std::string program = j.programs[1].file.text.str();
  // Without its seal a damaged program gets as far as the words themselves.
  const std::string open = program.substr(program.find("G21"), program.rfind("(end") - program.find("G21"));
  const auto damage = [&](std::string text) {
    const int wounds = 1 + static_cast<int>(random() % 6);
    for (int k = 0; k < wounds && !text.empty(); ++k) {
      const std::size_t at = random() % text.size();
      switch (random() % 5) {
        case 0: text[at] = static_cast<char>(random() % 256); break;
        case 1: text.erase(at, 1 + random() % 20); break;
        case 2: text.insert(at, text.substr(random() % text.size(), random() % 40)); break;
        case 3: text.resize(at); break;
        default: text[at] = "0123456789.-GXYZIJKRFMTS#%("[random() % 27]; break;
      }
    }
    return text;
  };
  int refused = 0;
  for (int k = 0; k < 2500; ++k) {
    const auto p = project_from_json(damage(project), "x");
    if (!p) {
      ++refused;
      CHECK_FALSE(p.error().what.empty());
    } else if (const auto d = design_board(*p); !d) {
      CHECK_FALSE(d.error().what.empty());
    }
  }
  CHECK(refused > 500);
  for (int k = 0; k < 7500; ++k) {
    const auto p = read_program(damage(open), "x");
    if (!p)
      CHECK_THAT(p.error().where, Contains("x"));
    else
      for (const ReadMove& m : p->moves) REQUIRE(std::isfinite(m.to.x + m.to.y + m.to.z));
  }
}

TEST_CASE("awkward instruments: a bass, eight fanned left-handed strings, 36 frets, a machine too short") {
  for (const auto& edits :
       std::vector<std::vector<std::pair<std::string, std::string>>>{{{"strings.count", "4"},
                                                                      {"strings.scale", "34 in"},
                                                                      {"frets.count", "20"},
                                                                      {"board.blank.length", "640"},
                                                                      {"board.blank.lie", "y"},
                                                                      {"board.clamps", "none"}},
                                                                     {{"strings.count", "8"},
                                                                      {"strings.scale_bass", "27 in"},
                                                                      {"strings.scale_treble", "25.5 in"},
                                                                      {"strings.left_handed", "yes"},
                                                                      {"strings.nut_spread", "48"},
                                                                      {"strings.bridge_spread", "74"},
                                                                      {"rack.slot-0.58.cutting_length", "5"},
                                                                      {"frets.count", "24"},
                                                                      {"board.end", "slanted"},
                                                                      {"board.blank.length", "560"},
                                                                      {"board.blank.width", "100"},
                                                                      {"board.clamps", "none"}},
                                                                     {{"frets.count", "36"},
                                                                      {"board.blank.length", "620"},
                                                                      {"board.clamps", "none"},
                                                                      {"marks.size", "3"},
                                                                      {"marks.cutter", "flat-1.5"},
                                                                      {"marks.places", "3 5 7 9 12 24"}},
                                                                     {{"strings.count", "12"},
                                                                      {"strings.nut_spread", "48"},
                                                                      {"strings.spacing", "gaps"},
                                                                      {"strings.gauges", "none"},
                                                                      {"board.blank.width", "95"}}}) {
    const auto p = with_edits(*project_from("reedling"), edits);
    INFO(edits.front().first << " " << edits.front().second << (p ? "" : p.error().text()));
    REQUIRE(p);
    const Job j = job(*p);
    const PartProof r = j.proof(0.25);
    for (const Remark& f : r.remarks("fretboard")) UNSCOPED_INFO(f.sentence);
    CHECK(r.faultless());
  }
  const auto small = with_edits(*project_from("reedling"), {{"machine.travel_x", "450"}, {"machine.travel_y", "300"}});
  const Job j = job(*small);
  CHECK(stops_work(j.board().remarks));
  CHECK_FALSE(j.proof(0.5).faultless());
}
