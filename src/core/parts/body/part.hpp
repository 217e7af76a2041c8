// The body as a part: its design, its judgement, and what is cut of it, layer by layer on the same pins, then glued
// from both sides. Frames: body (x along its centre line, z = 0 on the face), side; lengths mm.
#pragma once

#include "core/instrument/body_remarks.hpp"
#include "core/parts/body/numbers.hpp"
#include "core/parts/neck/part.hpp"

namespace wren {

/// A stretch of the outline (distances along its contour) by how a cut runs to the grain, which lies along the body.
enum class GrainRun { along, with, against, end };  // with and against: of a cutter that goes round conventionally
struct GrainSpan {
  double from = 0;
  double to = 0;
  GrainRun run = GrainRun::along;
};

struct BodyDesign {
  static constexpr const char* part = "body";
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

/// Refused where no body follows; the Problem's place is a ledger key. `board_g`: weight of the fretboard.
[[nodiscard]] Expected<BodyDesign> design_body(const Project& project, const NeckDesign& neck, double board_g);

[[nodiscard]] Pieces body_pieces(const Project& project, const BodyDesign& design);

/// An outline's plan with the school's numbers, without tabs' places.
[[nodiscard]] OutlinePlan body_outline_plan(const BodyWork& work);
/// Tolerances of the body's pieces, from the numbers alone.
void body_tolerances(const BodyWork& work, PieceRequest& request);

/// Chambers and channels under a glued top are inside and do not show. `pace`: distance between points where the skins
/// bend. Skins within 0.05 mm of the design, walls where the design has them.
[[nodiscard]] Mesh body_mesh(const BodyShape& body, double within);

void body_to_json(const Project& project, nlohmann::ordered_json& group);
[[nodiscard]] std::optional<Problem> body_from_json(const nlohmann::ordered_json& group, const std::string& where,
                                                    Project& project);
[[nodiscard]] std::vector<Field> body_fields();
[[nodiscard]] PartKind body_part();

}  // namespace wren
