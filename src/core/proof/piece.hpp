// Piece: both sides of one piece of wood, rehearsed one after the other and judged as a solid. The programs of each
// side are read back from their text; what the first side left is the underside of the second. Findings' places are in
// the work frame of their side.
//
// Invariants (tested by number):
//  1. Nothing that a strategy or the writer knows reaches this file.
//  2. A finding of weight stop means the programs must not run.
#pragma once

#include <memory>

#include "core/plan/region.hpp"
#include "core/proof/layer_stack.hpp"
#include "core/proof/proof.hpp"

namespace wren {

/// One slot the finished piece must have. Side frame.
struct SlotDesign {
  std::string name;  // "fret 7"
  Vec2 a, b;         // ends of the slot
  double width = 0;
  Height floor;        // z of the floor
  bool blind = false;  // ends within the board: a round cutter leaves them round, so they are not compared by cells
};

/// A wall that stands square to the side's plane: of a cavity, or of a round hole. Side frame.
struct WallDesign {
  std::string name;   // "Neck pocket"
  Polygon loop;       // the cut lies to its left: an outer ring runs counter-clockwise, an island clockwise
  Height floor;       // z of the cavity's floor
  double corner = 0;  // mm: corners that turn into the cavity may stay as round as this
};

struct SideDesign {
  Polygon outline;        // side frame, counter-clockwise
  Height finished;        // z of the surface that this side is to have, holes and channels included (−1e6: through)
  bool cut_free = false;  // this side cuts the piece out of its blank
  bool pinned = false;    // it bores the holes of the pins that what comes after it is found by
  Height crowned;         // the top without slots and pockets, where there are any; may be empty
  std::vector<SlotDesign> slots;
  std::vector<WallDesign> walls;
  /// How much may stand at a place that is hidden in the glue and where nothing is fitted; 0: the tolerance for what is
  /// left over holds. Empty: nothing is hidden.
  Height loose;
};

struct PieceSide {
  std::string name;  // "front", "back"
  std::vector<ProgramText> programs;
  Setup setup;
  SideDesign design;
  Material material;  // what bears the cut
};

struct ThroughHole {
  std::string name;
  Vec2 at;  // instrument frame
  double diameter = 0;
};

/// A tab that is to hold the piece. Instrument frame.
struct TabDesign {
  Vec2 at;            // on the outline
  double height = 0;  // of the wood that stands
  double length = 0;  // along the outline
};

/// A window through a piece: cleared, or cut round a plug that tabs hold until a hand cuts it out. Instrument frame.
struct WindowDesign {
  std::string name;
  Region open;   // no wood is left here but tabs
  Polygon plug;  // empty: cleared
  std::vector<TabDesign> tabs;
};

/// A chamber that was cut before the glue-up and stays closed. Instrument frame.
struct ChamberDesign {
  std::string name;
  Region region;
};

struct PieceRequest {
  std::vector<PieceSide> sides;  // the first with Turn::none, the second turned
  Rack rack;
  ProofTolerances tolerances;
  double cell = 0.1;
  std::vector<Vec2> rod;       // instrument frame: places over which the skin is read
  bool rod_from_back = false;  // then it is read straight through, towards the strings
  std::vector<ThroughHole> holes;
  std::vector<TabDesign> tabs;  // all that are to be there; empty: what is found is not compared
  std::vector<WindowDesign> windows;
  std::vector<ChamberDesign> chambers;
  /// What the layers' programs left of the wood that this piece is glued of; none: a solid block.
  std::shared_ptr<const LayerStack> stack;
  double misfit = 0;        // mm: how far the sides may miss each other in plan
  double skin_least = 1.5;  // mm: thinner stops the work
  bool board_only = false;  // the waste board itself: its holes are the design, there is no piece to come free
  bool held = false;        // fixed by itself, not by its waste: no tab is asked for
  bool taped = false;       // thin and flat: without tabs tape or vacuum may hold all of it
};

/// P7: the same programs, with what the set-up cannot know exactly off by so much. Likely: the root of all errors'
/// squares; worst: all of them added up.
enum class ErrorLevel { drawn, likely, worst };
struct ErrorCase {
  std::string what;  // "z 0.08 mm too low"
  ErrorLevel level = ErrorLevel::drawn;
  double least_tab = 1e9;  // height of the thinnest tab that holds
  double least_thickness = 1e9;
  Vec2 least_at;            // instrument frame
  double least_skin = 1e9;  // over the rod
  double least_wall = 1e9;  // between a cavity and the outline
};

struct PieceResult {
  std::vector<ProofResult> sides;
  std::vector<Finding> findings;  // of the solid
  double seconds = 0;
  double worst_gouge = 0;  // mm, square to the surface
  double worst_left = 0;
  double worst_loose = 0;          // the same where it is hidden in the glue and nothing is fitted
  double least_thickness = 1e9;    // of the solid inside its outline, away from channels
  Vec2 least_at;                   // instrument frame
  double least_skin = 1e9;         // over the rod
  double least_skin_misfit = 1e9;  // the same, with the sides missing each other
  Vec2 skin_at;
  int holes_open = 0;
  int tabs = 0;
  double plan_inside = 0;   // mm that the outline's wall was cut too far in, at most
  double plan_outside = 0;  // and left too far out
  double cavity_wide = 0;   // mm that a cavity's or hole's wall was cut too far into the wood, at most
  double cavity_tight = 0;  // and left standing
  bool free = false;        // cut out of its blank but for the tabs
  std::vector<ErrorCase> under_error;
  double wall_beside = 1e9;  // wood between a cavity and the outline, at its thinnest
  Vec2 wall_beside_at;       // instrument frame
  double volume_mm3 = 0;     // of the piece as cut
  std::string programs_hash;
  [[nodiscard]] bool passed() const;
};

/// What the first side left, seen from the second: the wood's underside in the second set-up's work frame, cell by cell
/// like `grid`. Where the second side's wood is no higher than this there is none left.
[[nodiscard]] TileGrid underside_for(const Setup& second, const TileGrid& grid, const Setup& first,
                                     const TileGrid& first_stock);

/// Exact place, width and depth of every slot, from the straight cutting pieces that run along it.
void check_slots(const PieceSide& side, const ProofTolerances& tolerances, const Score& score, ProofResult& result);

/// Walls in plan, both ways, from the moves: the outline's by all sides, cavities' and holes' by their own. Where a tab
/// stands beside the outline at its height (`stands`, of a place in the kerf's middle; instrument frame) others judge.
void check_walls(const PieceRequest& request, const std::vector<Score>& scores,
                 const std::function<bool(Vec2 at, double z)>& stands, PieceResult& result);

/// Refused where a program cannot be read or the stop was asked for.
[[nodiscard]] Expected<PieceResult> prove_piece(const PieceRequest& request, Progress* progress = nullptr);

}  // namespace wren
