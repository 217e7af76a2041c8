#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <csignal>
#include <filesystem>
#include <fstream>
#include <sys/resource.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

#include "support/made.hpp"
#include "core/document/history.hpp"

using namespace wren;
using Catch::Matchers::Contains;
namespace fs = std::filesystem;

namespace {
struct Folder {
  fs::path path = fs::temp_directory_path() / ("wren-test-" + fmt::to_string(::getpid()));
  Folder() { fs::create_directories(path); }
  ~Folder() { fs::remove_all(path); }
};
Problem refused(const std::string& text) {
  const auto p = project_from_json(text, "x.wren");
  REQUIRE_FALSE(p);
  return p.error();
}
std::string with(const std::string& pointer, const nlohmann::json& value) {
  auto doc = nlohmann::json::parse(project_to_json(*project_from("reedling")));
  doc[nlohmann::json::json_pointer(pointer)] = value;
  return doc.dump();
}
std::vector<Field> all_fields() {
  std::vector<Field> out;
  all_parts().book().each([&](const Field& f) { out.push_back(f); });
  return out;
}
}  // namespace

TEST_CASE("every starting point survives the file") {
  for (const auto& name : starting_points()) {
    Project p = *project_from(name);
    p.rack[3].measured = 3.162;
    measure_slot(p, 0.57);
    board_of(p).instrument.marks.outline = {{-3, -1}, {3, -1}, {0, 4}};
    note_fact(all_parts(), p, "fretboard.cut.top.slots", "2026-11-24");
    p.record.folder = "/tmp/x";
    const auto back = project_from_json(project_to_json(p), name);
    REQUIRE(back);
    CHECK(*back == p);
    CHECK(project_to_json(*back) == project_to_json(p));
  }
}

TEST_CASE("every field parses what it prints, in both systems, and is found by its key") {
  const Project p = *project_from("reedling");
  for (const Field& f : all_fields())
    for (const UnitSystem system : {UnitSystem::millimetre, UnitSystem::inch}) {
      const FieldValue v = f.get(p);
      const auto back = parse_field(f, field_text(f, v, system), system);
      INFO(f.key << " " << field_text(f, v, system));
      REQUIRE(back);
      if (const double* d = std::get_if<double>(&v))
        CHECK(std::abs(std::get<double>(*back) - *d) < 0.002);
      else if (!std::holds_alternative<std::vector<double>>(v))
        CHECK(*back == v);
      CHECK(all_parts().book().find(p, f.key));
    }
  CHECK(all_parts().book().find(p, "rack.slot-0.58.measured"));
  CHECK(!all_parts().book().find(p, "no.such.key"));
}

TEST_CASE("unknown keys are kept and written back where they stood") {
  auto doc = nlohmann::json::parse(project_to_json(*project_from("plain")));
  doc["parts"]["fretboard"]["strings"]["tuning"] = {"E", "A"};
  doc["parts"]["neck"]["neck"]["angle"] = 3;
  doc["parts"]["lute"] = {{"ribs", 11}};
  doc["rack"][2]["bought"] = "spring";
  auto p = project_from_json(doc.dump(), "x");
  REQUIRE(p);
  auto edited = with_edits(*p, {{"strings.count", "7"}});
  REQUIRE(edited);
  const auto again = nlohmann::json::parse(project_to_json(*edited));
  CHECK(again["parts"]["fretboard"]["strings"]["tuning"][1] == "A");
  CHECK(again["parts"]["neck"]["neck"]["angle"] == 3);
  CHECK(again["parts"]["fretboard"]["strings"]["count"] == 7);
  CHECK(again["parts"]["lute"]["ribs"] == 11);
  CHECK(again["rack"][2]["bought"] == "spring");
}

TEST_CASE("nonsense in a file is refused with its JSON path, and never crashes") {
  CHECK_THAT(refused(with("/parts/fretboard/strings/scale_bass", -635)).where,
             Contains("/parts/fretboard/strings/scale_bass"));
  CHECK_THAT(refused(with("/parts/fretboard/frets/count", 400)).where, Contains("/parts/fretboard/frets/count"));
  CHECK_THAT(refused(with("/parts/fretboard/strings/scale_bass", "635")).what, Contains("a number is expected"));
  CHECK_THAT(refused(with("/parts/fretboard/strings/count", 6.5)).what, Contains("whole number"));
  CHECK_THAT(refused(with("/parts/fretboard/strings/gauges", std::vector<double>(1000000, 0.3))).text(),
             Contains("bytes") || Contains("list"));
  CHECK_THAT(refused(with("/parts/fretboard/crown/kind", "banana")).what, Contains("banana"));
  CHECK_THAT(refused(with("/parts/fretboard/strings", 3)).what, Contains("group"));
  CHECK_THAT(refused(with("/rack/0/kind", "hammer")).where, Contains("/rack/0/kind"));
  CHECK_THAT(refused(with("/rack/0/diameter", 1e9)).where, Contains("/rack/0/diameter"));
  CHECK_THAT(refused(with("/rack/1/id", "slot-0.58")).what, Contains("twice"));
  CHECK(refused(with("/version", 99)).kind == ProblemKind::version);
  CHECK(refused(with("/version", 0)).kind == ProblemKind::version);
  CHECK_THAT(refused(with("/format", "other")).what, Contains("not an Upland Wren project"));
  CHECK(refused("{\"format\": \"upland-wren-project\", \"version\": 1, \"strings\": {\"scale_bass\": NaN}}").kind ==
        ProblemKind::format);
  CHECK(refused(std::string(100000, '[')).kind == ProblemKind::format);
  CHECK(refused("\xff\xfe\x00\x01").kind == ProblemKind::format);
  CHECK(refused("").kind == ProblemKind::format);
  CHECK(refused("[1, 2]").kind == ProblemKind::format);
}

TEST_CASE("a project cut short at any length is refused, and says so") {
  const std::string whole = project_to_json(*project_from("reedling"));
  for (std::size_t n = 1; n + 3 < whole.size(); n += 97) {
    const auto p = project_from_json(whole.substr(0, n), "x.wren");
    REQUIRE_FALSE(p);
    CHECK_THAT(p.error().what, Contains("cut short"));
  }
}

TEST_CASE("a full disk at any byte leaves the old file whole and nothing beside it") {
  const Folder folder;
  const fs::path file = folder.path / "a.wren";
  REQUIRE(save_project(file, *project_from("plain")));
  const std::string before = *read_file(file, 1 << 20);
  Project bigger = *project_from("reedling");
  std::signal(SIGXFSZ, SIG_IGN);
  rlimit old{};
  getrlimit(RLIMIT_FSIZE, &old);
  for (const rlim_t most : {0UL, 1UL, 100UL, 4096UL}) {
    const rlimit tight{most, old.rlim_max};
    setrlimit(RLIMIT_FSIZE, &tight);
    const auto saved = save_project(file, bigger);
    setrlimit(RLIMIT_FSIZE, &old);
    REQUIRE_FALSE(saved);
    CHECK_THAT(saved.error().text(), Contains("cannot be written") && Contains("Nothing was changed"));
    CHECK(*read_file(file, 1 << 20) == before);
    CHECK(std::distance(fs::directory_iterator(folder.path), fs::directory_iterator()) == 1);
  }
  REQUIRE(save_project(file, bigger));
  CHECK(*load_project(file) == bigger);
}

TEST_CASE("a folder that is not there, or is a file, is a clear problem") {
  const Folder folder;
  CHECK_THAT(save_project(folder.path / "none" / "a.wren", *project_from("plain")).error().text(),
             Contains("cannot be made"));
  CHECK_THAT(load_project(folder.path / "none.wren").error().text(), Contains("cannot be opened"));
  CHECK_THAT(load_project(folder.path).error().text(), Contains("folder"));
  std::ofstream(folder.path / "file") << "x";
  CHECK_FALSE(write_folder(folder.path / "file" / "programs", "fretboard", {}, "{}", "", {"a test", "now"}));
}

TEST_CASE("a gesture that is given up, or leads back to where it began, is no step") {
  Project start = *project_from("plain");
  const auto named = [&](const std::string& name) {
    Project p = start;
    p.name = name;
    return p;
  };
  History h(start);
  CHECK_FALSE(h.give_up());  // nothing was done
  REQUIRE(h.change(named("typed"), "typing"));
  CHECK_FALSE(h.give_up());  // a step, and no gesture
  CHECK(h.now().name == "typed");
  REQUIRE(h.change(named("a"), "drag", "m"));
  REQUIRE(h.change(named("b"), "drag", "m"));
  CHECK(h.give_up());
  CHECK(h.now().name == "typed");
  CHECK_FALSE(h.can_redo());
  CHECK_FALSE(h.give_up());
  // Back to its beginning, and on again.
  REQUIRE(h.change(named("a"), "drag", "n"));
  REQUIRE(h.change(named("typed"), "drag", "n"));
  CHECK(h.undo_name() == "typing");
  REQUIRE(h.change(named("c"), "drag", "n"));
  CHECK(h.undo_name() == "drag");
  h.settle();
  CHECK_FALSE(h.give_up());  // released: a step like any other
  CHECK(h.undo());
  CHECK(h.now().name == "typed");
  REQUIRE(h.redo());
  CHECK(h.now().name == "c");
}

TEST_CASE("undo is a list of whole projects; a drag is one step; no change is no step") {
  const Project start = *project_from("reedling");
  History h(start);
  CHECK_FALSE(h.modified());
  CHECK_FALSE(h.change(start, "nothing"));
  CHECK_FALSE(h.can_undo());
  for (int i = 0; i < 20; ++i)
    h.change(*with_edits(start, {{"board.overhang", fmt::to_string(10 + i)}}), "Drag the end", "drag");
  h.settle();
  h.change(*with_edits(h.now(), {{"frets.count", "24"}}), "Change Frets");
  CHECK(h.undo_name() == "Change Frets");
  CHECK(h.undo());
  CHECK(board_of(h.now()).instrument.board.overhang == 29);
  CHECK(h.undo());
  CHECK(h.now() == start);
  CHECK_FALSE(h.undo());
  CHECK_FALSE(h.modified());
  CHECK(h.redo());
  CHECK(h.redo());
  CHECK_FALSE(h.redo());
  CHECK(board_of(h.now()).instrument.frets.count == 24);
}

TEST_CASE("edits are all or nothing, and say which key was wrong") {
  const Project p = *project_from("reedling");
  const auto bad = with_edits(p, {{"frets.count", "24"}, {"strings.count", "two"}});
  REQUIRE_FALSE(bad);
  CHECK_THAT(bad.error().where, Contains("strings.count"));
  CHECK_FALSE(with_edits(p, {{"board.length", "3"}}));
  CHECK_FALSE(with_edits(p, {{"frets.count", "400"}}));
  CHECK_FALSE(with_edits(p, {{"strings.scale_bass", "-5"}}));
  CHECK_FALSE(with_edits(p, {{"board.clamps", "left 1 2 3"}}));
  CHECK_FALSE(with_edits(p, {{"board.blank.wood", "unobtainium"}}));
  const auto both = with_edits(p, {{"strings.scale", "25 1/2 in"}});
  REQUIRE(both);
  CHECK(std::abs(board_of(*both).instrument.strings.scale_treble - 647.7) < 1e-9);
}

TEST_CASE("the project's own mistakes have their remarks, with repairs that take them away") {
  struct Mistake {
    const char* kind;
    std::vector<std::pair<std::string, std::string>> edits;
    bool mended;
  };
  const std::vector<Mistake> mistakes{{"blank.short", {{"board.blank.length", "450"}}, true},
                                      {"blank.narrow", {{"board.blank.width", "50"}}, true},
                                      {"blank.thin", {{"board.blank.thickness", "5"}}, true},
                                      {"blank.thick", {{"board.blank.thickness", "12"}}, false},
                                      {"machine.short", {{"machine.travel_x", "400"}}, true},
                                      {"clamp.on_board", {{"board.clamps", "mid 200 20 240 50 18"}}, true},
                                      {"clamp.in_path", {{"board.clamps", "left -30 18 15 57 18"}}, true},
                                      {"cutter.missing", {{"crown.cutter", "nothing"}}, true},
                                      {"slot.too_wide", {{"slot.cutter", "slot-0.79"}}, true},
                                      {"slot.cutter_wide", {{"slot.cutter", "slot-0.79"}}, false},
                                      {"slot.cutter_short", {{"slot.depth", "3.6"}}, true},
                                      {"slot.widened", {{"slot.measured_width", "0.5"}}, false},
                                      {"marks.cutter_wide", {{"marks.cutter", "flat-6.35"}}, true},
                                      {"crown.cutter_kind", {{"crown.cutter", "drill-4"}}, true},
                                      {"outline.cutter_short", {{"outline.cutter", "flat-1.5"}}, true},
                                      {"outline.cutter_kind", {{"outline.cutter", "ball-6.35"}}, true},
                                      {"board.skin", {{"board.through", "0"}}, true},
                                      {"board.through_deep", {{"board.through", "2"}}, true},
                                      {"board.tabs_few", {{"board.tabs", "1"}}, true},
                                      {"board.tabs_high", {{"board.tab_height", "5"}}, true},
                                      {"machine.low", {{"machine.clear_under_nut", "30"}}, false},
                                      {"machine.high", {{"machine.clear_under_nut", "150"}}, false}};
  const auto remarks_of = [](const Project& p) { return made(p).remarks(); };
  const auto find = [](const std::vector<Remark>& remarks, const char* kind) -> const Remark* {
    for (const Remark& r : remarks)
      if (r.kind == kind) return &r;
    return nullptr;
  };
  Project clean = *project_from("reedling");
  measure_slot(clean, 0.58);
  const auto none = remarks_of(clean);
  CHECK_FALSE(stops_work(none));
  for (const Mistake& m : mistakes) {
    INFO(m.kind);
    const auto p = with_edits(clean, m.edits);
    REQUIRE(p);
    CHECK(find(none, m.kind) == nullptr);
    const auto remarks = remarks_of(*p);
    const Remark* r = find(remarks, m.kind);
    REQUIRE(r != nullptr);
    CHECK_FALSE(r->sentence.empty());
    CHECK_FALSE(r->source.empty());
    CHECK_FALSE(r->place.empty());
    CHECK(r->repair.has_value() == m.mended);
    if (r->repair) {
      const auto mended = with_edits(*p, r->repair->edits);
      REQUIRE(mended);
      // The thinnest cutter of the rack may still be a little too wide until a test slot was measured; all else is
      // gone.
      const auto after = remarks_of(*mended);
      const Remark* left = find(after, m.kind);
      CHECK((left == nullptr ||
             (r->kind == "slot.too_wide" && left->number < r->number && left->weight != Weight::stop)));
    }
  }
}

TEST_CASE("the build sheet knows what is next, and a changed number makes what was written old") {
  Project p = *project_from("reedling");
  measure_slot(p, 0.58);
  const auto next = [](const Project& q) {
    for (const BuildLine& l : made(q).lines())
      if (l.next) return l.id;
    return std::string();
  };
  CHECK(next(p) == "fretboard.rehearsal");
  note_fact(all_parts(), p, "fretboard.proof", "2026-11-24");
  CHECK(next(p) == "fretboard.programs");
  const std::string print = print_of(p, "fretboard");
  WrittenSets written{{"fretboard", {"/tmp/x/fretboard", "Reedling", "2026-11-24", print, true, 6, {}}}};
  const auto next_written = [&](const Project& q) {
    const Made m = made(q);
    for (const BuildLine& l : build_sheet(all_parts(), m.followed, *m.cache, {&m.planned}, written))
      if (l.next) return l.id;
    return std::string();
  };
  CHECK(next_written(p) == "fretboard.sheet");
  note_fact(all_parts(), p, "fretboard.sheet", "2026-11-24");
  CHECK(next_written(p) == "fretboard.cut.top.slots");
  note_fact(all_parts(), p, "fretboard.cut.top.slots", "2026-11-24");
  CHECK(next_written(p) == "fretboard.cut.top.marks");
  const auto line = [&](const Project& q, const std::string& id) {
    const Made m = made(q);
    for (const BuildLine& l : build_sheet(all_parts(), m.followed, *m.cache, {&m.planned}, written))
      if (l.id == id) return l;
    return BuildLine{};
  };
  CHECK(line(p, "fretboard.programs").state == LineState::written);
  // A name and notes are cut nowhere, and a measure that the board does not follow is none of its business.
  Project renamed = *with_edits(p, {{"project.name", "Another"}, {"project.notes", "on Tuesday"}});
  renamed = *with_edits(renamed, {{"measured.neck.thickness_at_a", "21.2"}});
  CHECK(line(renamed, "fretboard.programs").state == LineState::written);
  CHECK(line(renamed, "fretboard.rehearsal").state == LineState::proved);
  CHECK(line(renamed, "fretboard.cut.top.slots").state == LineState::cut);
  // Other numbers: the programs are old, and the wood stays what it is.
  Project later = p;
  board_of(later).instrument.board.overhang = 10;
  CHECK(line(later, "fretboard.programs").state == LineState::ready);
  CHECK_THAT(line(later, "fretboard.programs").note, Contains("older numbers"));
  const BuildLine cut = line(later, "fretboard.cut.top.slots");
  CHECK(cut.state == LineState::cut);
  CHECK_THAT(cut.note,
             Contains("2026-11-24") && Contains("older numbers") && Contains("9 mm") && Contains("(now 10 mm)"));
  // A file that is gone or changed, and another project's set, are never current.
  written.at("fretboard").faults = {"reedling-fretboard-01.ngc is gone."};
  CHECK(line(p, "fretboard.programs").state != LineState::written);
  CHECK_THAT(line(p, "fretboard.programs").note, Contains("is gone"));
  written.at("fretboard") = {"/tmp/x/fretboard", "Sedge", "2026-11-24", "0123", true, 6, {}};
  CHECK(line(p, "fretboard.programs").state != LineState::written);
  CHECK_THAT(line(p, "fretboard.programs").note, Contains("another project: Sedge"));
}

TEST_CASE("a part that no design follows of has its fingerprint all the same") {
  Project p = *project_from("plain");
  Cache cache;
  const Followed well = follow(all_parts(), p, cache);
  board_of(p).instrument.strings.scale_treble = 100;
  const Followed broken = follow(all_parts(), p, cache, &well);
  REQUIRE(broken.problems.contains("neck"));  // it waits for the board
  for (const PartKind& kind : all_parts().kinds())
    CHECK(broken.fingerprints.at(kind.id()) == fingerprint(all_parts(), kind, p));
}

TEST_CASE("facts are kept with the numbers they were made from, and there is an end to both") {
  Project p = *project_from("plain");
  const PartKind& board = *all_parts().find("fretboard");
  const std::string first = print_of(p, "fretboard");
  note_fact(all_parts(), p, "fretboard.cut.top.slots", "2026-11-01");
  note_fact(all_parts(), p, "fretboard.cut.top.slots", "2026-11-02");
  CHECK(p.record.facts.size() == 1);  // the same wood from the same numbers
  CHECK(changed_since(all_parts(), board, p, first) == "drawings, machine or cutters");
  for (int k = 0; k < 100; ++k) {
    board_of(p).instrument.board.overhang = 5.05 + 0.1 * k;
    note_fact(all_parts(), p, "fretboard.cut.top.slots", "2026-11-03");
  }
  CHECK(p.record.facts.size() == 101);
  CHECK(p.record.numbers.size() <= most_numbers_kept);
  CHECK(changed_since(all_parts(), board, p, first).empty());  // of then nothing is known any more
  const auto last = happened(p.record, "fretboard.cut.top.slots", print_of(p, "fretboard"));
  REQUIRE(last.fact != nullptr);
  CHECK(last.current);
  const std::string print = print_of(p, "fretboard");
  board_of(p).instrument.strings.count = 7;
  board_of(p).instrument.board.overhang = 4;
  board_of(p).instrument.frets.count = 23;
  const std::string told = changed_since(all_parts(), board, p, print);
  CHECK_THAT(told, Contains("(now 7)") && Contains("and 1 more"));
  const auto back = project_from_json(project_to_json(p), "x");
  REQUIRE(back);
  CHECK(*back == p);
}

TEST_CASE("a project of format 1 opens, keeps its numbers, and is kept beside before it is saved anew") {
  const Folder folder;
  const fs::path file = folder.path / "old.wren";
  const std::string old = R"({"format": "upland-wren-project", "version": 1,
    "project": {"name": "Old"}, "strings": {"count": 7, "tuning": "low"}, "slot": {"cutter": "slot-0.58", "measured_width": 0.57},
    "neck": {"thickness_a": 21.5}, "rod": {"width": 5}, "body": {"tail": 117}, "control": {"pots": 3},
    "rack": [{"id": "slot-0.58", "number": 1, "kind": "slot", "diameter": 0.58, "cutting_length": 4, "stickout": 15}],
    "written": [{"kind": "programs", "path": "/tmp/x"}, {"kind": "neckcut.front.rod", "path": "n"},
                {"kind": "bodycut.cover.outline", "path": "c"}, {"kind": "cut:slots", "path": "s"}, {"kind": "neck-proof", "path": "p"}]})";
  std::ofstream(file) << old;
  const auto p = load_project(file);
  REQUIRE(p);
  CHECK(p->name == "Old");
  CHECK(board_of(*p).instrument.strings.count == 7);
  CHECK(p->rack.front().measured == 0.57);  // a test slot measures its cutter
  CHECK(neck_of(*p).neck.back.thickness_a == 21.5);
  CHECK(neck_of(*p).neck.rod.width == 5);
  CHECK(body_of(*p).body.outline.tail == 117);
  CHECK(body_of(*p).body.controls.pots == 3);
  std::vector<std::string> kinds;
  for (const Fact& f : p->record.facts) kinds.push_back(f.what);
  CHECK(kinds == std::vector<std::string>{"neck.cut.front.rod", "cover.cut.cover.outline", "fretboard.cut.top.slots",
                                          "neck.proof"});
  CHECK(p->record.folder == "/tmp/x");
  REQUIRE(save_project(file, *p));
  CHECK(*read_file(folder.path / "old.wren.bak", 1 << 20) == old);
  const auto again = load_project(file);
  REQUIRE(again);
  CHECK(*again == *p);
  CHECK_THAT(*read_file(file, 1 << 20), Contains("\"tuning\": \"low\""));  // unknown then, unknown now, kept
  // Saved again it is of the present format: the copy of the old one stays what it was.
  REQUIRE(save_project(file, *again));
  CHECK(*read_file(folder.path / "old.wren.bak", 1 << 20) == old);
}

TEST_CASE("an unknown part, a part's missing values and a part that stands twice: a sentence each") {
  auto doc = nlohmann::json::parse(project_to_json(*project_from("reedling")));
  doc["parts"]["lute"] = {{"ribs", 11}};
  doc["parts"].erase("neck");
  std::vector<std::string> notes;
  const auto p = project_from_json(doc.dump(), "x", &notes);
  REQUIRE(p);
  REQUIRE(notes.size() == 2);
  CHECK_THAT(notes[0], Contains("Neck"));
  CHECK_THAT(notes[1], Contains("lute"));
  CHECK(neck_of(*p) == NeckNumbers{});
  CHECK_THAT(refused(R"({"format": "upland-wren-project", "version": 2, "parts": {"neck": {}, "neck": {}}})").what,
             Contains("'neck' stands twice"));
  CHECK_THAT(refused(R"({"format": "upland-wren-project", "version": 2, "parts": 3})").what, Contains("group"));
}

TEST_CASE("numbers are shared until they are changed, and the usual ones need no keeping") {
  Project a;
  Project b = a;
  CHECK(a == b);
  neck_of(b).neck.rod.width += 1;
  CHECK_FALSE(a == b);
  CHECK(neck_of(a).neck.rod.width == NeckNumbers{}.neck.rod.width);
  neck_of(b).neck.rod.width -= 1;
  CHECK(a == b);  // touched, but the usual ones again
  CHECK(a.parts.same(b.parts, "neck"));
  const Project c = b;
  body_of(b).body.outline.tail = 99;
  CHECK(body_of(c).body.outline.tail != 99);
}
