// Programs of random small parts, read back: wherever the machine stands when they start, they begin upwards; no axis
// is asked for more than it can; whatever stands on the bed is cleared on the way to the first cut.
#include <catch2/catch.hpp>

#include <fmt/format.h>

#include "core/program/reader.hpp"
#include "core/proof/text_rules.hpp"
#include "support/made.hpp"
#include "support/random.hpp"

using namespace wren;

namespace {

Project random_project(Random& random) {
  const std::vector<std::pair<std::string, std::string>> edits{
      {"frets.count", random.pick({"20", "22", "24"})},
      {"board.overhang", fmt::format("{:.2f}", random.between(5, 14))},
      {"crown.radius_last", fmt::format("{:.1f}", random.between(300, 480))},
      {"marks.shape", random.pick({"dot", "block", "tick"})},
      {"board.tab_height", random.pick({"1", "1.5", "2"})},
      {"coupon.thickness", fmt::format("{:.2f}", random.between(10, 22))},
      {"programs.files", random.pick({"one", "per_cutter"})},
      {"programs.units", random.pick({"mm", "inch"})},
      {"programs.arcs", random.pick({"yes", "no"})},
      {"machine.change", random.pick({"by_hand", "magazine"})},
      {"machine.max_feed_z", random.pick({"600", "1500", "2500"})},
      {"board.blank.lie", random.pick({"x", "y"})}};
  auto p = with_edits(*project_from(random.pick({"plain", "bass", "reedling", "sedge"})), edits);
  INFO((p ? "" : p.error().text()));
  REQUIRE(p);
  return *p;
}

}  // namespace

TEST_CASE("from any place of the machine a program begins upwards and keeps every axis within its speed") {
  Random random(2027);
  for (int round = 0; round < 6; ++round) {
    const Project p = random_project(random);
    for (const char* part : {"coupon", "cover", "fretboard"}) {
      CAPTURE(round, part, p.name);
      const Made m = made(p, part);
      for (const PlacedProgram& program : m.programs) {
        CAPTURE(program.file.file);
        const Setup& setup = m.side(program.side).setup;
        const auto origin = [&](int number) {
          double stickout = 0;
          for (const Cutter& c : m.planned.rack)
            if (c.number == number && number != 0) stickout = c.stickout;
          return machine_origin(setup, stickout);
        };
        for (int place = 0; place < 8; ++place) {
          ReadOptions options;
          options.machine_origin = origin;
          const Vec3 home = origin(0);
          options.start = {home.x + random.between(0, setup.machine.travel.x),
                           home.y + random.between(0, setup.machine.travel.y), home.z - random.between(0, 90)};
          const auto read = read_program(program.file.text.str(), program.file.file, options);
          INFO((read ? "" : read.error().text()));
          REQUIRE(read);
          // Up before anything else, and over only from the top, until the first cut.
          Vec3 at = read->start;
          bool up = false;
          for (const ReadMove& move : read->moves) {
            if (move.machine == tip_changed) {
              at = move.to;
              continue;
            }
            const double aside = std::hypot(move.to.x - at.x, move.to.y - at.y);
            if (!up) {
              REQUIRE(aside < 1e-6);
              REQUIRE(move.to.z >= at.z - 1e-6);
              up = true;
            } else if (aside > 1e-6) {
              REQUIRE(std::abs(move.to.z - at.z) < 1e-6);
              // Nothing that stands on the bed is higher than where it goes over.
              for (const Setup::Box& box : setup.solids()) REQUIRE(at.z > box.high.z + 2);
              REQUIRE(at.z > 2);
            }
            at = move.to;
            if (move.kind != ReadKind::rapid || (move.machine == 0 && at.z < 3)) break;
          }
          REQUIRE(up);
          if (place > 0) continue;
          CHECK(text_findings(*read, program.file.file, setup.machine, origin).empty());
          at = read->start;
          for (const ReadMove& move : read->moves) {
            const Vec3 limit = setup.machine.max_feed;
            if (move.kind == ReadKind::line) {
              const double l = distance(at, move.to);
              if (l > 1e-3) {
                REQUIRE(std::abs(move.to.z - at.z) / l * static_cast<double>(move.feed) <= limit.z * 1.002);
                REQUIRE(std::abs(move.to.x - at.x) / l * static_cast<double>(move.feed) <= limit.x * 1.002);
              }
              REQUIRE(static_cast<double>(move.rpm) >= setup.machine.spindle_low - 1);
              REQUIRE(static_cast<double>(move.rpm) <= setup.machine.spindle_high + 1);
              REQUIRE(move.spindle);
              REQUIRE(move.waited);
            }
            at = move.to;
          }
          CHECK(read->ends);
          CHECK_FALSE(read->turning_at_end);
          CHECK(read->sealed);
        }
      }
    }
  }
}
