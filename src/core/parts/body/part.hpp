// The body as a part: its design, its judgement, and what is cut of it, layer by layer on the same pins, then glued
// from both sides. Frames: body (x along its centre line, z = 0 on the face), side; lengths mm.
#pragma once

#include <algorithm>

#include "core/instrument/body_remarks.hpp"
#include "core/workshop/strips.hpp"
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

/// A strip of waste between the outline and an end of the blank that keeps a pin's hole, or a tick.
struct Ear {
  Vec2 pin;
  Vec2 outward;  // along the blank, away from the body
  double width = 0;
  double end = 0;      // x of the blank's end
  double foot = 0;     // x where it stands on the body
  bool meets = false;  // the outline is there over its whole width
};

/// What is cut of a cavity in one layer before the glue-up.
struct LayerCut {
  std::size_t cavity = 0;  // in the shape's list
  Region region;
  double from = 0;   // z of the face it is cut from
  double floor = 0;  // z; of a window the layer's other face
  bool from_below = false;
  bool through = false;
  bool hidden = false;     // closed by the glue-up, and nothing is fitted into it
  Polygon plug;            // a window cut round, what is inside held by tabs; empty: cleared
  std::vector<Vec2> tabs;  // on the plug
  [[nodiscard]] Region open() const { return plug.empty() ? region : subtracted(region, {plug}); }
};

class DesignedStack;

struct BodyDesign {
  static constexpr const char* part = "body";
  BodyShape shape;
  Rack rack;                    // measured diameters taken over
  std::vector<Material> woods;  // of the layers
  Blank blank;                  // the glued body
  Vec2 blank_middle;            // body frame
  double face_top = 0;          // z of the blank's upper face: over 0 where it is faced off
  Setup front, back;
  std::vector<Setup> layers;                // each layer by itself, its top up
  std::vector<Setup> under;                 // and turned over
  std::vector<std::vector<LayerCut>> cuts;  // of each layer
  std::shared_ptr<const DesignedStack> stack;
  [[nodiscard]] bool worked_below(std::size_t k) const {
    return std::any_of(cuts[k].begin(), cuts[k].end(), [](const LayerCut& c) { return c.from_below; });
  }
  PinPlan pins;
  std::vector<Ear> ears;  // where the outline is sawn, or an oversize top keeps them
  RegisterError misfit;
  BodyBalance balance;
  std::vector<GrainSpan> grain;
  std::vector<Vec2> tabs;                     // on the outline, body frame
  std::vector<std::vector<Joint>> joints;     // of each layer's blank
  std::vector<std::vector<StripBand>> bands;  // its strips, for pictures
  std::vector<Remark> remarks;
};

/// Whether a hole waits until the neck is on.
[[nodiscard]] bool held_back(const BodyWork& work, const BodyHole& hole);

/// The heel and the layers in use: measured ones where they were measured.
[[nodiscard]] HeelInUse heel_in_use(const Project& project, const NeckShape& neck);
[[nodiscard]] std::vector<BodyLayer> layers_in_use(const Project& project);

/// The strips that a layer's blank is glued of; empty for one piece.
[[nodiscard]] const StripStack& stack_of(const BodyWork& work, std::size_t layer);
/// Joints of a layer's blank in the body's plan.
[[nodiscard]] std::vector<Joint> layer_joints(const BodyWork& work, const BodyDesign& design, std::size_t layer);
/// Its strips in the plan, for pictures.
[[nodiscard]] std::vector<StripBand> layer_bands(const Project& project, const BodyDesign& design, std::size_t layer);
[[nodiscard]] DensityAt density_of(const Project& project, const BodyDesign& design);
/// Strips that do not make up the blank, joints that lie against walls, holes and horns, layers that move differently.
[[nodiscard]] std::vector<Remark> stack_remarks(const Project& project, const BodyDesign& design);
/// How far a layer moves across the body between two moistures, mm.
[[nodiscard]] double layer_moves(const Project& project, const BodyDesign& design, std::size_t layer, double moisture,
                                 double moisture_later);
constexpr double dry_room = 6;    // % moisture of wood in a heated room in winter (Wood Handbook ch. 13, from memory)
constexpr double damp_room = 12;  // in summer

/// How a conventional cut round the outside runs to the grain at a direction of travel (unit): fibres along x. A tooth
/// that meets fibres rising out of the wood ahead of it lifts them (common practice).
[[nodiscard]] GrainRun grain_at(Vec2 along);
/// Whether any of the layers has fibres along the body: sheets and plastics have none that a cut could run against.
[[nodiscard]] bool has_grain(const Materials& layers);
[[nodiscard]] std::vector<GrainSpan> grain_spans(const Contour& contour);

/// Tab places on an outline: where it is straight, along the grain, away from horns and from `avoid`, one in each of
/// `count` parts.
[[nodiscard]] std::vector<Vec2> place_body_tabs(const Contour& contour, int count, const std::vector<Vec2>& avoid);

/// Refused where no body follows; the Problem's place is a ledger key. `board_g`: weight of the fretboard.
[[nodiscard]] Expected<BodyDesign> design_body(const Project& project, const NeckDesign& neck, double board_g);

[[nodiscard]] Pieces body_pieces(const Project& project, const BodyDesign& design);

/// An outline's plan with the school's numbers, without tabs' places.
[[nodiscard]] OutlinePlan body_outline_plan(const BodyWork& work, const Materials& layers);
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
