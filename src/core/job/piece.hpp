// Piece: one piece of wood and everything that is cut of it, on one side or, turned over, on two; with what the proof
// holds it against. A part is made of pieces.
#pragma once

#include "core/job/operation.hpp"
#include "core/proof/piece.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

/// One placement on the machine.
struct Side {
  std::string id;  // "top", "front", "back", "layer-2", …: unique within the part
  Words title;
  Setup setup;
  Material wood;     // what bears the cut: the hardest of a glued piece
  std::string zero;  // where x, y and z are zero, for headers: "first pin's hole, z = 0 on top of the blank"
  std::string seat;  // how it lies, for the manifest: "front side up, pins"
  std::vector<Operation> operations;
  std::vector<Words> alignment;    // for the sheet, in order
  std::vector<std::string> after;  // before the next placement: glue, saw, mask
  double reach_slack = 0.02;       // mm of flutes that may be missing
  std::string clamps_key;          // ledger key of its clamps
};

/// A piece that has been proved, for what is glued of it.
struct GluedLayer {
  const PieceRequest* request;
  const PieceResult* result;
};

struct Piece {
  std::string id;  // "fretboard", "layer-2", "body", "cover"
  Words title;     // for a verdict: "The glued body, both sides"
  std::vector<Side> sides;
  double cell = 0.1;    // of the proof
  bool hidden = false;  // its walls go into the glue: its figures are not among the worst
  /// Fills in the designs of the request's sides (same order), tolerances, holes, …: from the design alone.
  std::function<void(PieceRequest&)> target;
  /// Pieces whose wood this one is: cut before it, and found again by each side's register.
  std::vector<std::string> after{};
  /// Lines of the build sheet that its cuts wait for: what a hand does first ("neck.hand.on").
  std::vector<std::string> waits_for{};
  /// Of a piece glued of all those: its request's stack and what wood its sides begin with, from what their programs
  /// left.
  std::function<void(const std::vector<GluedLayer>&, PieceRequest&)> glue{};
  /// Keys whose measured values are of this piece; empty: all of its part.
  std::vector<std::string> measured{};
};

}  // namespace wren
