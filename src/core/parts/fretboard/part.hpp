// The fretboard as a part: its design from the numbers, its judgement, and what is cut of it. Frame: instrument (the
// board lies on z = 0), lengths mm.
#pragma once

#include "core/instrument/fretboard.hpp"
#include "core/job/part.hpp"
#include "core/parts/fretboard/numbers.hpp"

namespace wren {

/// The board as designed and as it lies on the machine.
struct BoardDesign {
  static constexpr const char* part = "fretboard";
  Fretboard board;
  Setup setup;
  Rack rack;
  Material wood;
  std::vector<Remark> remarks;  // of the design, the blank and the choice of cutters
  double volume_mm3 = 0;
  double weight_g = 0;
};

/// Refused where no board follows from the numbers; the Problem's place is a ledger key.
[[nodiscard]] Expected<BoardDesign> design_board(const Project& project);

/// Width the slots will come out at: the cutter's, grown by runout unless it was measured; never under the wanted width
/// where side-by-side passes make it.
[[nodiscard]] double expected_slot_width(const Project& project, const Cutter& cutter);

/// The board as its mark cutter leaves it: inner corners of marks as round as that.
[[nodiscard]] std::shared_ptr<const Fretboard> board_as_cut(const Project& project, const Fretboard& board,
                                                            const Rack& rack);

/// Slots, marks and ticks of the face that bears them, as the proof holds them; side frame.
void face_target(const std::shared_ptr<const Fretboard>& made, SideDesign& design);

/// The board's shape as the proof wants it, side frame.
[[nodiscard]] SideDesign board_target(const Project& project, const BoardDesign& design);

/// Round marks are bored, all others cleared; floors are level. Nothing where there are none. Instrument frame.
[[nodiscard]] std::optional<Shape> marks_shape(const Fretboard& board, const Height& wood_top);

/// Troughs from the waste over the edge into the face; nothing where there are none.
[[nodiscard]] std::optional<Shape> ticks_shape(const Fretboard& board, const Height& wood_top);

/// What a hand fills the marks with, how much of it, and in how many goes.
[[nodiscard]] Words filling_words(const Fretboard& board);

[[nodiscard]] Pieces board_pieces(const Project& project, const BoardDesign& design, Cache& cache);

/// One line of the crown's table: what a cutter and direction cost and leave.
struct CrownChoice {
  std::string cutter;
  Direction direction = Direction::along;
  double stepover = 0;
  double minutes = 0;  // roughing and finishing
  double left_over = 0;
  std::string cost;     // what else it asks for, one short sentence
  bool reaches = true;  // without touching a clamp
};

/// All cutters of the rack that can, along and across, at the chosen scallop; quickest first. On a stop: what was done.
[[nodiscard]] std::vector<CrownChoice> crown_table(const Project& project, const BoardDesign& design, Cache& cache,
                                                   Progress* progress = nullptr);

/// The finished board with its slots and marks, true walls; skins within 0.02 mm of the design.
[[nodiscard]] Mesh board_mesh(const Fretboard& board);

void fretboard_to_json(const Project& project, nlohmann::ordered_json& group);
[[nodiscard]] std::optional<Problem> fretboard_from_json(const nlohmann::ordered_json& group, const std::string& where,
                                                         Project& project);
[[nodiscard]] std::vector<Field> fretboard_fields();
[[nodiscard]] PartKind fretboard_part();

}  // namespace wren
