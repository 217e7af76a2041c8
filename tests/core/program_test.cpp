#include <catch2/catch.hpp>

#include <malloc.h>

#include <random>
#include <tuple>

#include "core/report/names.hpp"
#include "support/made.hpp"
#include "core/program/reader.hpp"
#include "core/proof/rehearsal.hpp"
#include "core/program/writer.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {
/// As the proof reads: the machine's origin is somewhere, its top over everything.
ReadOptions on_a_machine() {
  ReadOptions options;
  options.machine_origin = [](int) { return Vec3{-300, -400, 90}; };
  options.start = {50, 590, 90};
  return options;
}
ReadProgram read(const std::string& text) {
  auto p = read_program(text, "program", on_a_machine());
  INFO((p ? "" : p.error().text()));
  REQUIRE(p);
  return *p;
}
std::string refusal(const std::string& text) {
  const auto p = read_program(text, "p.ngc", on_a_machine());
  REQUIRE_FALSE(p);
  return p.error().text();
}
std::vector<ProgramFile> demo_files(ProgramStyle style = {}) {
  Project p = *project_from("reedling");
  p.programs.units = style.units;
  p.programs.arcs = style.arcs;
  std::vector<ProgramFile> out;
  for (const PlacedProgram& one : made(p).programs) out.push_back(one.file);
  return out;
}
}  // namespace

TEST_CASE("what was written is read back to the micrometre, in mm and inch, with arcs and without") {
  const Project p = *project_from("reedling");
  const Made whole = made(p);
  const BoardDesign& d = whole.board();
  const Placement& cuts = whole.side("top");
  for (const UnitSystem units : {UnitSystem::millimetre, UnitSystem::inch}) {
    for (const Toolpath& path : cuts.paths) {
      const std::string text = write_program({&path}, {"fretboard", "test", "blank", "zero", "probe", "2026-11-24"},
                                             d.rack, {units, true, 0.002}, p.machine);
      const ReadProgram back = read(text);
      CHECK(back.sealed);
      std::size_t k = 0;
      for (const ReadMove& m : back.moves) {
        // From the machine's top and back to it: what every program begins and ends with.
        if (m.machine != 0 || m.to.z > 80 || distance(m.to, path.start) < 0.0011) continue;
        // Moves of no length are left out of the text, so each read move is found at or after the place of the last.
        while (k < path.moves.size() && distance(path.moves[k].to, m.to) > 0.0011) ++k;
        REQUIRE(k < path.moves.size());
        if (m.kind != ReadKind::rapid)
          CHECK_THAT(static_cast<double>(m.feed), WithinAbs(static_cast<double>(path.moves[k].feed), 0.01));
      }
    }
  }
}

TEST_CASE("a byte changed, a line lost, a tail cut off: each is refused") {
  const std::string text = demo_files()[1].text;
  REQUIRE(read_program(text, "program", on_a_machine()));
  std::string changed = text;
  changed[changed.size() / 2] = changed[changed.size() / 2] == '1' ? '2' : '1';
  CHECK_FALSE(read_program(changed));
  CHECK_THAT(refusal(text.substr(0, text.size() / 2)),
             Contains("cut short") || Contains("damaged") || Contains("number"));
  std::string lost = text;
  const auto line = lost.find('\n', lost.size() / 2);
  lost.erase(line, lost.find('\n', line + 1) - line);
  CHECK_THAT(refusal(lost), Contains("checksum"));
  CHECK_THAT(refusal(text.substr(0, text.rfind("(end"))), Contains("cut short"));
}

TEST_CASE("every program states its modal groups once before it moves") {
  for (const ProgramFile& f : demo_files({UnitSystem::inch, true, 0.002})) {
    const auto modal = f.text.str().find("G20 G17 G90 G91.1 G94 G54 G40 G49 G80");
    CHECK(modal != std::string::npos);
    CHECK(modal < f.text.str().find("\nG0"));
    CHECK_THAT(f.text, Contains("(part: fretboard, ") && Contains("(date: 2026-11-24)") && Contains("(blank: ") &&
                           Contains("(cutter: T") && Contains("(zero: "));
  }
  for (const ProgramFile& f : demo_files({UnitSystem::millimetre, false, 0.002})) {
    CHECK(f.text.str().find("\nG2X") == std::string::npos);
    CHECK(f.text.str().find("\nG3X") == std::string::npos);
  }
}

TEST_CASE("programs keep to the words of the machine's controller") {
  Project p = *project_from("reedling");
  Controller& knows = p.machine.controller;
  knows = {false, false, false, true, false, false, false, DwellUnit::milliseconds};
  const Made m = made(p);
  REQUIRE_FALSE(m.programs.empty());
  for (const PlacedProgram& one : m.programs) {
    const std::string text = one.file.text.str();
    CHECK_THAT(text, Contains("G80 G64 P0.01\n") && Contains("M0 (home the machine first") &&
                         Contains("\nG4 P3000 (") && !Contains("G53") && !Contains("G43") && !Contains("G61") &&
                         !Contains("\nG2X") && !Contains("\nG3X"));
  }
  CHECK(m.proof(0.25).faultless());
  // Read as another controller would, they wait fifty minutes, or hardly at all: the proof of the other machine says
  // no.
  Project other = p;
  other.machine.controller.dwell = DwellUnit::seconds;
  Made swapped = made(other);
  swapped.programs = m.programs;
  CHECK(swapped.proof(0.25).faultless());  // too long a wait over the work burns nothing
  for (PlacedProgram& one : swapped.programs) {
    std::string text = one.file.text.str();
    for (auto at = text.find("G4 P3000"); at != std::string::npos; at = text.find("G4 P3000", at + 1))
      text.replace(at, 8, "G4 P0.03");
    text.erase(text.rfind("(end: "));
    one.file.text = text.substr(text.find('\n') + 1);  // as a program of somebody else: no seal is asked for
    one.sealed = false;
  }
  CHECK_FALSE(swapped.proof(0.25).faultless());
}

TEST_CASE("before anything else a program goes up in machine coordinates, then over, then down") {
  for (const ProgramFile& f : demo_files()) {
    const ReadProgram p = read(f.text);
    REQUIRE(p.moves.size() > 4);
    CHECK(p.moves[0].machine == 4);
    CHECK(p.moves[0].to.z == 90);
    CHECK(p.moves[1].machine == 4);  // again once the cutter is in
    CHECK(p.moves[1].to.z == 90);
    CHECK(p.moves[2].to.z == 90);  // over
    CHECK(p.moves[2].known == 7);
    CHECK(p.moves[3].to.x == p.moves[2].to.x);  // down
    CHECK(p.moves[3].to.z < 90);
    CHECK(p.ends);
    CHECK_FALSE(p.turning_at_end);
    CHECK(p.moves.back().machine == 3);  // parked
    CHECK(p.path_mode == PathMode::exact);
  }
}

TEST_CASE("a text from a user is safe inside a comment") {
  CHECK(comment_safe("a (b) [c]\n\x01z") == "a <b> <c>??z");
  CHECK(comment_safe("halt! ~3 mm") == "halt. -3 mm");
  CHECK(comment_safe(std::string(500, 'x')).size() == 180);
}

TEST_CASE("the reader refuses what it does not know, with the line") {
  struct Bad {
    const char* text;
    const char* says;
  };
  for (const Bad& bad : {Bad{"G21\nG1 X1\n", "without a feed"},
                         {"G21\nG28\n", "G28 is not known"},
                         {"G21\nG41 D1\n", "not known"},
                         {"X1 Y2\n", "no way to go"},
                         {"G0 X1\nG49 G43 H1\n", "one modal group"},
                         {"G1 X1 F10 I2\n", "uses the word I"},
                         {"G17\nJ2\n", "uses the word J"},
                         {"G4 P1 K2\n", "uses the word K"},
                         {"G1 X1 F10 R2\n", "uses the word R"},
                         {"G1 X1 F10 L2\n", "uses the word L"},
                         {"G1 X1 F10 P2\n", "uses the word P"},
                         {"G1 X1 F10 Q2\n", "uses the word Q"},
                         {"G1 X1 F10 H2\n", "uses the word H"},
                         {"G0 X0 Y0 Z5\nG81 X1 Y1 Z-1 R2 F100 Q1\n", "uses the word Q"},
                         {"G0 X1\n%\nX2\n", "ends the program there"},
                         {"(a comment)\n%\nG0 X2\n", "ends the program there"},
                         {"%\nG0 X1\n%\nX2\n", "after the program's end"},
                         {"%G0 X1\n", "does not stand alone"},
                         {"%%\n", "not understood"},
                         {"G0 X1\rX2\n", "a line's end within a line"},
                         {"; all well\rG0 Z-9\nG0 X1\n", "byte 13 in a comment"},
                         {"(all well\rG0 Z-9)\nG0 X1\n", "byte 13 in a comment"},
                         {"(wait \x18)\nG0 X1\n", "byte 24 in a comment"},
                         {"G53 G0 Z0 I1\n", "uses the word I"},
                         {"G0 X1 X2\n", "twice"},
                         {"G0 G1 X1 F10\n", "one modal group"},
                         {"G2 X1 Y1 F10\n", "without a centre"},
                         {"T3\nG0 X0 Y0\nM30\n", "does not come in"},
                         {"T3\nT4 M6\nG0 X0 Y0\nM30\n", "does not come in"},
                         {"T3 M6\nG0 X0 Y0\nT4\nX1\nM6\nX2\nM30\n", "does not come in"},
                         {"G0 X0 Y0\nG3 X0 Y0.001 I-20 J0 F100\n", "all the way round"},
                         {"G0 X0 Y0\nG2 X0 Y0.005 R20 F100\n", "all the way round"},
                         {"G0 X0 Y0\nG2 X10 Y0 I4 J0 F100\n", "different distances"},
                         // a long arc leaves no more room than a short one: 0.1 mm of 300 are 0.1 mm on the wood
                         {"G0 X0 Y0\nG2 X10 Y0 I5 J-300.1 F100\nX20 Y0 I7 J-300\n", "different distances"},
                         {"G0 X0 Y0\nG2 X10 Y0 I5 J-10001 F100\n", "single precision"},
                         {"G0 X0 Y0\nG3 X10 Y0 R10001 F100\n", "single precision"},
                         {"G21 G90\nG0 X1\nG91\nM30\n", "ends in other modes"},
                         {"G21 G90\nG0 X1\nG20\nM2\n", "ends in other modes"},
                         {"G17\nG0 X1\nG18\nM30\n", "ends in other modes"},
                         {"G21\nG0 X1\nG61\nM30\n", "ends in other modes"},
                         {"G61\nG0 X1\nG64\nM30\n", "ends in other modes"},
                         {"G91.1\nG0 X1\nG90.1\nM30\n", "ends in other modes"},
                         {"G0 X0 N5\n", "does not begin its line"},
                         {"N5 N6 G0 X0\n", "does not begin its line"},
                         {"N-1 G0 X0\n", "no line number"},
                         {"N1.5 G0 X0\n", "no line number"},
                         {"N100000 G0 X0\n", "no line number"},
                         {"G0 X1 (halt!)\n", "hold or go on"},
                         {"G0 X1 ; ~ 3 mm\n", "hold or go on"},
                         {"G0 X1 (gr\xc3\xbcn)\n", "beyond ASCII"},
                         {"G0 X1 ; 3\xc2\xb0 of slope\n", "byte 194"},
                         {"G0 X1\n(end: -2 lines, crc32 0)\n", "last line is damaged"},
                         {"G0 X1\n(end: 2 lines, crc32 0x12)\n", "last line is damaged"},
                         {"G0 X1\n(end: 2 lines, crc32 00000012 and more)\n", "last line is damaged"},
                         {"G0 X1\n(end:  lines, crc32 00000012)\n", "last line is damaged"},
                         {"G0 X1\n(end: lines, crc32 00000012)\n", "last line is damaged"},
                         {"G0 X1\n(end: 2 lines, crc32 00000012)\n", "should be 00000012"},
                         {"M66\n", "M66"},
                         {"M3 M5\n", "one modal group"},
                         {"M5 M3\n", "one modal group"},
                         {"M3 M4 S9000\n", "one modal group"},
                         {"M0 M1\n", "one modal group"},
                         {"M0 M30\n", "one modal group"},
                         {"T1 M6 M6\n", "one modal group"},
                         {"M8 M9\n", "one modal group"},
                         // what a feed was in the other units, controllers do not agree on
                         {"G21 F1000\nG0 X1\nG20\nG1 X2\n", "without a feed"},
                         {"G20 G0 X1\nF40\nG21\nG1 X2\n", "without a feed"},
                         {"G21 G1\nG20 F40\n", "changes the units"},
                         {"F1000 G20\n", "changes the units"},
                         {"G0 X#1\n", "no number"},
                         {"G55 G0 X1\n", "offset is not known"},
                         {"G0 X1 (open\n", "not closed"},
                         {"G81 X1 Y1 Z-1 F100\n", "without R"},
                         {"G93 G1 X1 F1\n", "G93"},
                         {"G0 Xabc\n", "no number"},
                         {"O100\n", "word O is not known"},
                         {"G17 G2 X1 Y1 I1 J0 K2 F10", "does not belong"},
                         {"G1 X1 F0\n", "not above zero"}}) {
    const auto p = read_program(bad.text, "p.ngc");
    INFO(bad.text);
    REQUIRE_FALSE(p);
    CHECK_THAT(p.error().text(), Contains(bad.says));
    CHECK_THAT(p.error().where, Contains("line "));
  }
  for (const char* good :
       {"M3 S9000 M8\n", "M5 M9\n", "M7 M8\n", "T1 M6 M3 S1\n", "G21 F1000\nG21\nG1 X1\n",
        "G0 X0 Y0\nG2 X10 Y0 I5 J-9990 F100\n", "G21 G90\nG0 X1\nG91\nX1\nG90\nM30\n", "G20\nG21\nG0 X1\nM30\n",
        "N99999 G0 X1 (why?)\nN0 X2\n", "G20\nF40\nG20 G1 X1\n", "G21 F1000\nG20\nG0 X1\nG1 F40 X2\n"}) {
    INFO(good);
    CHECK(read_program(good, "p.ngc"));
  }
  CHECK_FALSE(read_program(""));
  CHECK_FALSE(read_program(std::string(1000, 'X')));
  CHECK_FALSE(read_program(std::string("G0 X1\0Y2", 8)));
}

TEST_CASE("what a hand goes by is read however far down it stands") {
  std::string many;
  for (int k = 0; k < 300; ++k) many += "(mind the dust)\n";
  const auto comments = [&](const std::string& last) { return read(many + last + "G53 G0 Z0\n").comments; };
  for (const char* key : {"part: neck", "blank: 3 mm", "zero: anywhere", "probe z on: the wall", "cutter: T9"}) {
    CAPTURE(key);
    CHECK(comments(fmt::format("({})\n", key)).back() == key);
    CHECK(comments(fmt::format("; {}\n", key)).size() == 101);
    CHECK(comments(fmt::format("(no {})\n", key)).size() == 100);  // said in passing
    CHECK(comments(fmt::format(";{}\n", key)).back() == key);
  }
  CHECK(comments("(and the noise)\n").size() == 100);
  // A header's words are those: what is held against the project is read.
  ProgramHeader header;
  header.part = "neck";
  header.probe = "blank top";
  for (const std::string& word : header_words(header)) CHECK(comments("(" + word + ")\n").back() == word);
  CHECK(comments("(" + cutter_words({}) + ")\n").back() == cutter_words({}));
  // Twenty thousand of them nobody reads.
  std::string zeros;
  for (int k = 0; k < 20000; ++k) zeros += "(zero: here)\n";
  CHECK_THAT(refusal(zeros + "G53 G0 Z0\n"), Contains("more is said to a hand"));
}

TEST_CASE("one file with stops carries every cutter and changes by hand") {
  Project p = *project_from("reedling");
  p.programs.files = ProgramFiles::one;
  const Made m = made(p);
  REQUIRE(m.programs.size() == 1);
  const ReadProgram back = read(m.programs[0].file.text.str());
  CHECK(back.tools.size() == 5);  // what was in the spindle, and four changes
  CHECK(back.pauses.size() == 3);
  CHECK(m.proof(0.25).faultless());
}

TEST_CASE("moves and motions come back from their small form as they went in") {
  std::mt19937 random(17);
  const auto whole = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
  std::vector<ReadMove> in;
  ReadMoves kept;
  for (int k = 0; k < 4000; ++k) {
    ReadMove m;
    m.to = {whole(-900, 900) / 7.0, whole(-900, 900) / 9.0, whole(-90, 90) / 11.0};
    m.line = static_cast<std::uint32_t>(k * 3 + 1);
    m.kind = static_cast<ReadKind>(whole(0, 2));
    if (m.kind == ReadKind::arc) m.centre = {whole(-50, 50) / 3.0, whole(-50, 50) / 3.0, 0};
    if (m.kind != ReadKind::rapid) m.feed = static_cast<float>(whole(1, 40) * 50);
    m.rpm = static_cast<float>(whole(0, 2) * 9000);
    m.spindle = whole(0, 9) > 0;
    m.waited = whole(0, 1) == 1;
    m.clockwise = whole(0, 1) == 1;
    m.backwards = whole(0, 4) == 0;
    m.plane = static_cast<Plane>(whole(0, 2));
    m.machine = static_cast<std::uint8_t>(whole(0, 9) == 0 ? whole(1, 8) : 0);
    m.known = static_cast<std::uint8_t>(whole(0, 7));
    m.tool = static_cast<std::uint16_t>(whole(0, 5));
    in.push_back(m);
    kept.push_back(m);
  }
  REQUIRE(kept.size() == in.size());
  std::size_t i = 0;
  for (const ReadMove& m : kept) {
    const ReadMove& was = in[i++];
    const auto all = [](const ReadMove& r) {
      return std::tuple(r.to, r.centre, r.feed, r.rpm, r.line, r.kind, r.plane, r.clockwise, r.spindle, r.backwards,
                        r.waited, r.machine, r.known, r.tool);
    };
    CHECK(all(m) == all(was));
  }
  CHECK(i == in.size());
  Motions motions;
  std::vector<Motion> wanted;
  Vec3 at{1, 2, 3};
  double clock = 0;
  for (int k = 0; k < 4000; ++k) {
    Motion m;
    if (whole(0, 300) == 0) at = {at.x + 1, 0, 50};  // another program begins where it likes
    m.a = at;
    m.b = at = {whole(-900, 900) / 7.0, whole(-900, 900) / 9.0, whole(-90, 90) / 11.0};
    m.begin = clock;
    m.end = clock += whole(0, 9) / 7.0;
    m.feed = static_cast<float>(whole(0, 30) * 100);
    m.rapid = whole(0, 1) == 1;
    m.cutter = static_cast<std::int16_t>(whole(-1, 4));
    m.program = static_cast<std::uint16_t>(k / 1000);
    m.line = static_cast<std::uint32_t>(k);
    wanted.push_back(m);
    motions.push_back(m);
    motions.set_end(motions.size() - 1, m.end);
  }
  REQUIRE(motions.size() == wanted.size());
  for (std::size_t k = 0; k < wanted.size(); ++k) {
    const auto all = [](const Motion& m) {
      return std::tuple(m.a, m.b, m.begin, m.end, m.feed, m.rapid, m.cutter, m.program, m.line);
    };
    CHECK(all(motions[k]) == all(wanted[k]));
  }
}

TEST_CASE("of a long program little is kept a line") {
  // A million lines of there and back in one slot.
  std::string text =
      "G21 G17 G90 G91.1 G94 G54 G61\nG53 G0 Z0\nT1 M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X30 Y30\nZ2\nG1 Z0 F500\n";
  for (int k = 0; k < 500'000; ++k) text += k % 2 == 0 ? "X60\nX30.5\n" : "X59.5\nX30\n";
  text += "G53 G0 Z0\nM5\nM30\n";
  const auto taken = [] {
    const auto heap = mallinfo2();
    return heap.uordblks + heap.hblkhd;
  };
  const std::size_t before = taken();
  const ReadProgram p = read(text);
  REQUIRE(p.moves.size() > 1'000'000);
  CHECK((taken() - before) / p.moves.size() < 48);  // bytes
  CHECK(p.moves[500'000].line == p.moves[499'999].line + 1);
  CHECK(p.moves.back().machine == 4);
}
