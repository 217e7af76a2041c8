// The body as designed and as its layers lie on the machine: everything that follows from the numbers without planning
// a cut.
#pragma once

#include "core/instrument/body_remarks.hpp"
#include "core/job/neck_design.hpp"

namespace wren {

/// A stretch of the outline (distances along its contour) by how a cut runs to the grain, which lies along the body.
enum class GrainRun { along, with, against, end };  // with and against: of a cutter that goes round conventionally
struct GrainSpan {
  double from = 0;
  double to = 0;
  GrainRun run = GrainRun::along;
};

struct BodyDesign {
  BodyShape shape;
  Rack rack;                // measured diameters taken over
  std::vector<Wood> woods;  // of the layers
  Blank blank;              // the glued body
  Vec2 blank_middle;        // body frame
  double face_top = 0;      // z of the blank's upper face: over 0 where it is faced off
  Setup front, back;
  std::vector<Setup> layers;  // each layer by itself, its top up
  PinPlan pins;
  RegisterError misfit;
  BodyBalance balance;
  std::vector<GrainSpan> grain;
  std::vector<Vec2> tabs;  // on the outline, body frame
  std::vector<Remark> remarks;
};

/// The heel and the layers in use: measured ones where they were measured.
[[nodiscard]] HeelInUse heel_in_use(const Project& project, const NeckShape& neck);
[[nodiscard]] std::vector<BodyLayer> layers_in_use(const Project& project);

/// How a conventional cut round the outside runs to the grain at a direction of travel (unit): fibres along x. A tooth
/// that meets fibres rising out of the wood ahead of it lifts them (common practice).
[[nodiscard]] GrainRun grain_at(Vec2 along);
[[nodiscard]] std::vector<GrainSpan> grain_spans(const Contour& contour);

/// Tab places on an outline: where it is straight, along the grain, away from horns and from `avoid`, one in each of
/// `count` parts.
[[nodiscard]] std::vector<Vec2> place_body_tabs(const Contour& contour, int count, const std::vector<Vec2>& avoid);

/// The drill that makes a hole: the widest of the rack that is no wider; nullptr where there is none.
[[nodiscard]] const Cutter* drill_in_use(const Rack& rack, double diameter);

/// Refused where no body follows; the Problem's place is a ledger key. `board_g`: weight of the fretboard.
[[nodiscard]] Expected<BodyDesign> design_body(const Project& project, const NeckDesign& neck, double board_g);

}  // namespace wren
