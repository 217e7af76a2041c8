#include "core/document/project.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace wren {
namespace {

Project reedling() {
  Project p;
  p.name = "Reedling";
  p.notes = "Six strings, cherry body with an ash top, sycamore neck, pear fretboard.";
  p.neck.head.tuners_bass = 4;
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
  Neck& neck = p.neck;
  neck.head.tuners_bass = 3;
  neck.head.shape = HeadShape::slanted;
  neck.head.first_post = 40;
  neck.head.tip_margin = 24;
  neck.tuner = *std::find_if(known_tuners().begin(), known_tuners().end(), [](const TunerNumbers& t) { return t.name == "bass-14"; });
  neck.back.shape_a = BackShape::d;
  neck.back.thickness_a = 21.5;
  neck.back.thickness_b = 23.5;
  neck.rod.length = 450;
  neck.heel.hole_across = 44;
  neck.tuning = "E1 A1 D2 G2 C3";
  p.neck_work.blank.length = 760;
  p.neck_work.blank.width = 140;
  p.neck_work.blank.lie = Lie::along_y;
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
  p.neck.tuner = *std::find_if(known_tuners().begin(), known_tuners().end(), [](const TunerNumbers& t) { return t.name == "bass-17"; });
  p.neck.head.tuners_bass = 4;
  p.neck.head.first_post = 45;
  p.neck.head.tip_margin = 30;
  p.neck.back.thickness_a = 22;
  p.neck.back.thickness_b = 24;
  p.neck.rod.length = 520;
  p.neck_work.blank.length = 870;
  p.neck_work.blank.width = 130;
  p.neck_work.blank.lie = Lie::along_y;
  return p;
}

}  // namespace

Blank usual_neck_blank() {
  Blank blank;
  blank.length = 680;
  blank.width = 116;
  blank.thickness = 25;
  blank.wood = "sycamore";
  return blank;
}

const Measured* measured_in_use(const std::vector<Measured>& all, const std::string& key) {
  const Measured* last = nullptr;
  for (const Measured& m : all)
    if (m.key == key && m.in_use) last = &m;
  return last;
}

std::vector<std::string> starting_points() { return {"reedling", "sedge", "bass", "plain"}; }

Expected<Project> project_from(const std::string& name) {
  if (name == "reedling") return reedling();
  if (name == "sedge") return sedge();
  if (name == "bass") return bass();
  if (name == "plain") return Project{};
  return fail(ProblemKind::input, fmt::format("there is no starting point called '{}'", name), "--from", "Choose reedling, sedge, bass or plain");
}

}  // namespace wren
