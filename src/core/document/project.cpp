#include "core/document/project.hpp"

#include <fmt/format.h>

namespace wren {
namespace {

Project reedling() {
  Project p;
  p.name = "Reedling";
  p.notes = "Six strings, cherry body with an ash top, sycamore neck, pear fretboard.";
  p.instrument.strings.gauges = {1.168, 0.914, 0.66, 0.432, 0.33, 0.254};
  return p;
}

Project sedge() {
  Project p;
  p.name = "Sedge";
  p.notes = "Fanned five-string, the Reedling's sibling.";
  Instrument& in = p.instrument;
  in.strings.count = 5;
  in.strings.scale_bass = 710;
  in.strings.scale_treble = 660;
  in.strings.square_fret = 7;
  in.strings.nut_spread = 42;
  in.strings.bridge_spread = 66;
  in.strings.gauges = {2.667, 2.032, 1.524, 1.143, 0.813};
  in.frets.count = 24;
  in.crown.radius_nut = 305;
  in.crown.radius_last = 508;
  in.board.end = EndShape::slanted;
  in.board.overhang = 10;
  p.blank.length = 600;
  p.blank.width = 90;
  p.blank.clamps = {};
  return p;
}

Project bass() {
  Project p;
  p.name = "Four-string bass";
  Instrument& in = p.instrument;
  in.strings.count = 4;
  in.strings.scale_bass = in.strings.scale_treble = 864;
  in.strings.nut_spread = 31;
  in.strings.bridge_spread = 57;
  in.strings.gauges = {2.667, 2.159, 1.651, 1.143};
  in.frets.count = 20;
  in.crown.radius_nut = 254;
  in.crown.radius_last = 305;
  p.blank.length = 640;
  p.blank.width = 82;
  return p;
}

}  // namespace

std::vector<std::string> starting_points() { return {"reedling", "sedge", "bass", "plain"}; }

Expected<Project> project_from(const std::string& name) {
  if (name == "reedling") return reedling();
  if (name == "sedge") return sedge();
  if (name == "bass") return bass();
  if (name == "plain") return Project{};
  return fail(ProblemKind::input, fmt::format("there is no starting point called '{}'", name), "--from", "Choose reedling, sedge, bass or plain");
}

}  // namespace wren
