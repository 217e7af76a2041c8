// The neck as a part: its design, its judgement, and what is cut of it on both sides. Frames: instrument, and the side
// frame of the turned set-up; lengths mm.
#pragma once

#include "core/workshop/strips.hpp"
#include "core/instrument/neck_remarks.hpp"
#include "core/instrument/neck_strength.hpp"
#include "core/parts/fretboard/part.hpp"
#include "core/parts/neck/numbers.hpp"

namespace wren {

struct NeckDesign {
  static constexpr const char* part = "neck";
  NeckShape shape;
  Rack rack;  // with measured diameters taken over
  Material wood;
  NeckWoods woods;
  Blank blank;           // as used: a scarfed blank is as thick as the glued-up piece
  Vec2 blank_middle;     // instrument frame
  double front_top = 0;  // instrument z of the blank's front face
  Setup front;           // front up
  Setup back;            // turned over
  PinPlan pins;
  std::vector<Joint> joints;     // of a blank glued of strips
  std::vector<StripBand> bands;  // its strips, for pictures
  RegisterError misfit;
  double trough = 0;    // width of the trough round the neck
  Polygon cut_outline;  // instrument frame: the outline with what is left for sanding, counter-clockwise
  Contour cut_contour;
  NeckWeight weight;
  StringPull pull;
  NeckBend bend;
  Skin skin;
  Skin skin_with_misfit;  // the worst of the shifts that turning over may cause
  Lump lump;
  std::optional<Scarf> scarf;
  std::vector<Remark> remarks;

  /// Heights of the piece as it is cut, sanding allowances included. Side frame of the turned set-up: up is away from
  /// the strings.
  [[nodiscard]] double back_height(Vec2 side) const { return cut_depth(turned(back.turn, side)); }
  /// Depth of the back as it is cut, instrument frame: with wood left at the sides the sections are as much wider.
  [[nodiscard]] double cut_depth(Vec2 p) const {
    if (sand_sides > 0) {
      const NeckShape::Taper t = shape.taper(p.x);
      p.y = t.middle + (p.y - t.middle) * t.half / (t.half + sand_sides);
    }
    return shape.depth(p) + sand_back;
  }
  [[nodiscard]] double back_under(Vec2 side) const { return -cut_front(turned(back.turn, side)); }
  /// Front without channels, instrument frame.
  [[nodiscard]] double cut_front(Vec2 p) const {
    return shape.front(p) + (shape.behind_nut(p) > shape.given.head.shelf ? sand_face : 0);
  }
  double sand_back = 0;
  double sand_face = 0;
  double sand_sides = 0;
};

/// Refused where no neck follows; the Problem's place is a ledger key.
[[nodiscard]] Expected<NeckDesign> design_neck(const Project& project, const Fretboard& board, Cache& cache);

/// Whether a hole may come out at the glue face: under the glued board, with wood all round it.
[[nodiscard]] bool may_open_at_face(const NeckDesign& neck, const Hole& hole);

/// Values that others wait for: each with where it is used and the measure in use, if any.
struct WaitingFor {
  std::string key;  // of the designed number
  Words title;      // "Heel width"
  double designed = 0;
  Words used_by;  // "the body's neck pocket"
  const Measured* measured = nullptr;
};
[[nodiscard]] std::vector<WaitingFor> waiting_for(const Project& project, const NeckDesign& neck);

/// Places of the side dots along the board's edge, from the nut line, by fret.
[[nodiscard]] std::vector<std::pair<int, double>> side_dots(const NeckShape& neck);

[[nodiscard]] Pieces neck_pieces(const Project& project, const NeckDesign& design);

/// `pace` is the distance between sections along the neck in mm; across, points follow the section's own bend.
[[nodiscard]] Mesh neck_mesh(const NeckShape& neck, double within);

void neck_to_json(const Project& project, nlohmann::ordered_json& group);
[[nodiscard]] std::optional<Problem> neck_from_json(const nlohmann::ordered_json& group, const std::string& where,
                                                    Project& project);
[[nodiscard]] std::vector<Field> neck_fields();
[[nodiscard]] PartKind neck_part();

}  // namespace wren
