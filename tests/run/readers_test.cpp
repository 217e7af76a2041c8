// Two readers of the same language that share no source: the proof's and the stand-in's. They must come to the same
// places with the same feeds, line by line, whatever part, units or arcs a program has; and refuse the same nonsense
// (NISTIR 6556).
#include "core/program/reader.hpp"
#include "run/bench.hpp"
#include "support/random.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

const standin::Place zero{123.4, 210.7, -61.25};

struct Apart {
  std::size_t lines = 0;
  double place = 0, feed = 0;
  std::string where;
};

/// Where both stand after every line that moves.
Apart compare(const std::string& text, const std::string& name) {
  ReadOptions options;
  options.start = {-zero.x, -zero.y, -zero.z};
  options.machine_origin = [](int) { return Vec3{-zero.x, -zero.y, -zero.z}; };
  const auto read = read_program(text, name, options);
  INFO((read ? "" : read.error().text()));
  REQUIRE(read);
  standin::Reader other;
  other.zero = zero;
  other.stand_at({0, 0, 0});
  Apart out;
  std::size_t at = 0;
  std::uint32_t n = 0;
  for (const std::string_view line : lines_to_send(text)) {
    ++n;
    const standin::Understood deeds = other.read(line);
    INFO(name << " line " << n << ": " << line);
    REQUIRE(deeds.refused.empty());
    const standin::Deed* last = nullptr;
    for (const standin::Deed& d : deeds.deeds)
      if (d.kind == standin::Deed::Kind::go) last = &d;
    std::optional<ReadMove> move;
    for (; at < read->moves.size() && read->moves[at].line <= n; ++at)
      if (read->moves[at].line == n && read->moves[at].machine != tip_changed) move = read->moves[at];
    REQUIRE((last != nullptr) == move.has_value());
    if (last == nullptr) continue;
    ++out.lines;
    const double off = std::abs(last->to.x - zero.x - move->to.x) + std::abs(last->to.y - zero.y - move->to.y) +
                       std::abs(last->to.z - zero.z - move->to.z);
    if (off > out.place) out.where = std::string(line);
    out.place = std::max(out.place, off);
    REQUIRE(last->rapid == (move->kind == ReadKind::rapid));
    if (!last->rapid) out.feed = std::max(out.feed, std::abs(last->feed - static_cast<double>(move->feed)));
  }
  return out;
}

}  // namespace

TEST_CASE("both readers stand at the same places after every line of every part's programs") {
  std::size_t lines = 0;
  for (const char* part : {"coupon", "fretboard", "cover"})
    for (const bool inch : {false, true}) {
      Project project = *project_from("reedling");
      project.programs.units = inch ? UnitSystem::inch : UnitSystem::millimetre;
      project.programs.arcs = !inch || std::string(part) != "fretboard";
      const Made m = made(project, part);
      for (const PlacedProgram& p : m.programs) {
        const Apart apart = compare(p.file.text.str(), p.file.file);
        INFO(p.file.file << ": " << apart.where);
        CHECK(apart.place < 1e-6);
        CHECK(apart.feed < 0.02);  // single precision there
        lines += apart.lines;
      }
    }
  CHECK(lines > 10000);
}

TEST_CASE("both readers stand at the same places after random programs") {
  std::mt19937 random(99);
  const auto number = [&](double low, double high) {
    return std::round((low + (high - low) * (static_cast<double>(random() % 100000) / 1e5)) * 1000) / 1000;
  };
  for (int program = 0; program < 60; ++program) {
    std::string text = program % 3 == 0 ? "G20 G17 G90 G91.1 G94 G54\nF20\n" : "G21 G17 G90 G91.1 G94 G54 F900\n";
    double x = 0, y = 0;
    text += "G0 X0 Y0 Z5\n";
    for (int k = 0; k < 40; ++k) {
      switch (random() % 7) {
        case 0: text += fmt::format("G0 X{} Y{}\n", x = number(-50, 50), y = number(-50, 50)); break;
        case 1: text += fmt::format("G1 Z{} F{}\n", number(-9, 9), number(100, 2000)); break;
        case 2: text += fmt::format("G1 X{}\n", x = number(-50, 50)); break;
        case 3: {
          // Half a circle to a place: its middle is half way.
          const double nx = number(-50, 50), ny = number(-50, 50);
          text += fmt::format("G{} X{} Y{} I{:.4f} J{:.4f} Z{}\n", random() % 2 == 0 ? 2 : 3, nx, ny, (nx - x) / 2,
                              (ny - y) / 2, number(-5, 5));
          x = nx;
          y = ny;
          break;
        }
        case 4: {
          const double nx = number(-50, 50), ny = number(-50, 50), d = std::hypot(nx - x, ny - y);
          if (d < 1) break;
          text += fmt::format("G{} X{} Y{} R{:.4f}\n", random() % 2 == 0 ? 2 : 3, nx, ny,
                              (random() % 2 == 0 ? 1 : -1) * (d / 2 + number(0.5, 30)));
          x = nx;
          y = ny;
          break;
        }
        case 5:
          text += random() % 2 == 0 ? "G0 Z6\nG98 G83 Q1.5" : "G0 Z6\nG99 G81";
          text +=
              fmt::format(" X{} Y{} R2 Z{}\nG80\nG0 Z6\n", x = number(-50, 50), y = number(-50, 50), number(-8, -1));
          break;
        default: {
          const double dx = number(-5, 5), dy = number(-5, 5);
          text += fmt::format("G91 G1 X{} Y{} (along)\nG90 ; and back\n", dx, dy);
          x += dx;
          y += dy;
        }
      }
    }
    text += "G53 G0 Z0\nM30\n";
    const Apart apart = compare(text, fmt::format("random {}", program));
    INFO(apart.where << "\n" << text);
    REQUIRE(apart.place < 1e-4);
  }
}

TEST_CASE("both readers refuse what is no program") {
  ReadOptions options;
  options.machine_origin = [](int) { return Vec3{}; };
  const std::string head = "G21 G90 G94 G17 G54 F100\n";
  for (const char* line : {"G1 X",
                           "G1 X1 X2",
                           "G0 G1 X1",
                           "X1 (open",
                           "G1 X--1",
                           "G1 Xabc",
                           "G2 X10 Y0 R1",
                           "G2 X10 Y0",
                           "G2 X10 Y0 I3 J0",
                           "G999 X1",
                           "M99",
                           "G1 X1e999",
                           "#1=3",
                           "G4",
                           "G4 P-1",
                           "G83 Z-5 R1",
                           "G1 X1 F0",
                           "T1.5 M6",
                           "G1 X1 I2",
                           "J1",
                           "G4 P1 K1",
                           "G0 X1 R2",
                           "G1 X1 L2",
                           "G1 X1 P1",
                           "G1 X1 Q1",
                           "G1 X1 H1",
                           "G81 X1 Z-1 R2 Q1",
                           "G53 G0 Z0 I1",
                           "G20 F40",
                           "M3 M5",
                           "M5 M3",
                           "M3 M4 S9",
                           "M0 M30",
                           "M1 M0",
                           "T1 M6 M6",
                           "M8 M9",
                           "G20 G1 X1",
                           "G20 G2 X2 Y0 I1 J0"}) {
    INFO(line);
    standin::Reader other;
    REQUIRE(other.read("G21 G90 G94 G17 G54 F100").refused.empty());
    CHECK_FALSE(other.read(line).refused.empty());
    CHECK_FALSE(read_program(head + line + "\nM30\n", "x", options));
  }
  // A refused line changes nothing: what comes after it goes on from before.
  standin::Reader other;
  (void)other.read("G21 G90 G94 G17 G54 F100 G1 X10");
  CHECK_FALSE(other.read("G91 G20 X5 G999").refused.empty());
  const auto next = other.read("X20");
  REQUIRE(next.refused.empty());
  CHECK(next.deeds.front().to.x == 20);
}

TEST_CASE("an arc's chords stay within half a micrometre of the circle") {
  standin::Reader reader;
  reader.stand_at({10, 0, 0});
  const auto arc = reader.read("G21 G17 G90 G91.1 G94 G54 F600 G3 X-10 Y0 I-10 J0");
  REQUIRE(arc.refused.empty());
  standin::Place before{10, 0, 0};
  double worst = 0;
  for (const auto& d : arc.deeds) {
    const standin::Place middle = (before + d.to) * 0.5;
    worst = std::max(worst, std::abs(10 - std::hypot(middle.x, middle.y)));
    CHECK_THAT(std::hypot(d.to.x, d.to.y), WithinAbs(10, 1e-9));
    before = d.to;
  }
  CHECK(worst < 0.0006);
  CHECK(before.x == -10);
}
