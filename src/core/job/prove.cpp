#include "core/job/prove.hpp"

#include <algorithm>

namespace wren {
namespace {

/// Where a finding lies, in the instrument frame, as a remark.
Remark told(const Finding& f, const Setup& setup, const std::string& place) {
  const Vec2 q = turned(setup.turn, setup.to_work.back({f.at.x, f.at.y}));
  return {"proof." + f.kind,
          f.weight,
          f.text,
          f.number,
          f.limit,
          "mm",
          f.program.empty() ? "the rehearsal" : f.program + (f.line > 0 ? ", line " + std::to_string(f.line) : ""),
          place,
          std::pair{q.x, q.y},
          {},
          {}};
}

}  // namespace

bool PartProof::passed() const {
  return !pieces.empty() && missing.empty() &&
         std::all_of(pieces.begin(), pieces.end(), [](const PieceProof& p) { return p.result.passed(); });
}

const ProofResult* PartProof::side(const std::string& id) const {
  for (const PieceProof& p : pieces)
    for (std::size_t k = 0; k < p.sides.size(); ++k)
      if (p.sides[k] == id) return &p.result.sides[k];
  return nullptr;
}

std::vector<Remark> PartProof::remarks(const std::string& part) const {
  std::vector<Remark> out;
  const std::string place = "cuts." + part + ".seconds";
  for (const PieceProof& p : pieces) {
    for (std::size_t k = 0; k < p.sides.size(); ++k)
      for (const Finding& f : p.result.sides[k].findings) out.push_back(told(f, p.setups[k], place));
    for (const Finding& f : p.result.findings) out.push_back(told(f, p.setups.back(), place));
  }
  return out;
}

PieceRequest request_for(const Piece& piece, const Planned& planned, const std::vector<PlacedProgram>& programs,
                         double cell) {
  constexpr double most_cells = 30e6;
  PieceRequest request;
  request.rack = planned.rack;
  double area_mm2 = 0;
  for (const Side& side : piece.sides) {
    PieceSide s;
    s.name = side.id;
    s.programs = texts_of(programs, side.id);
    s.setup = side.setup;
    area_mm2 = std::max(area_mm2, side.setup.blank_size.x * side.setup.blank_size.y);
    request.sides.push_back(std::move(s));
  }
  piece.target(request);
  request.cell = std::max(cell > 0 ? cell : piece.cell, std::sqrt(area_mm2 / most_cells));
  return request;
}

Expected<PartProof> prove_part(const Planned& planned, const std::vector<PlacedProgram>& programs, double cell,
                               Progress* progress) {
  PartProof out;
  const auto& pieces = planned.made.pieces;
  for (std::size_t i = 0; i < pieces.size(); ++i) {
    const Piece& piece = pieces[i];
    const auto there = [&](const Side& s) {
      return std::any_of(programs.begin(), programs.end(), [&](const PlacedProgram& p) { return p.side == s.id; });
    };
    for (const Side& s : piece.sides)
      if (!s.operations.empty() && !there(s))
        out.missing.push_back("There is no program for the side '" + s.title + "'.");
    if (std::none_of(piece.sides.begin(), piece.sides.end(), there)) continue;
    Progress inner([&](double share, std::string_view phase) {
      if (progress != nullptr &&
          !progress->go_on((static_cast<double>(i) + share) / static_cast<double>(pieces.size()), phase))
        inner.stop();
    });
    const PieceRequest request = request_for(piece, planned, programs, cell);
    auto result = prove_piece(request, &inner);
    if (!result) return tl::unexpected(result.error());
    PieceProof proof{piece.id, piece.title, piece.hidden, {}, {}, std::move(*result)};
    for (const PieceSide& s : request.sides) {
      proof.sides.push_back(s.name);
      proof.setups.push_back(s.setup);
    }
    out.seconds += proof.result.seconds;
    if (!piece.hidden) {
      out.worst_gouge = std::max(out.worst_gouge, proof.result.worst_gouge);
      out.worst_left = std::max(out.worst_left, proof.result.worst_left);
    }
    out.pieces.push_back(std::move(proof));
  }
  return out;
}

}  // namespace wren
