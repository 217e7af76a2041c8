#include "core/job/prove.hpp"

#include <algorithm>

#include <fmt/format.h>

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

const char* verdict_words(Verdict verdict) {
  const char* const words[] = {"PROVED", "NOT PROVED", "NOT WHOLE", "NOT LOOKED AT"};
  return words[static_cast<int>(verdict)];
}

Verdict PartProof::verdict() const {
  // What is left out: programs, cuts, an outline that is not through.
  const auto leaves_out = [](const Finding& f) { return f.kind == "cut_missing" || f.kind == "outline_not_through"; };
  bool whole = !pieces.empty() && missing.empty();
  bool faultless = true;
  const auto look = [&](const std::vector<Finding>& all) {
    for (const Finding& f : all)
      if (f.weight == Weight::stop) (leaves_out(f) ? whole : faultless) = false;
  };
  look(findings);
  for (const PieceProof& p : pieces) {
    look(p.result.findings);
    for (const ProofResult& side : p.result.sides) look(side.findings);
  }
  return !faultless ? Verdict::not_proved
         : !whole   ? Verdict::not_whole
         : coarse   ? Verdict::not_looked_at
                    : Verdict::proved;
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
  if (!pieces.empty() && !pieces.front().setups.empty())
    for (const Finding& f : findings) out.push_back(told(f, pieces.front().setups.front(), place));
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
  for (const Side& side : piece.sides)
    for (const Operation& op : side.operations)
      if (const auto* o = std::get_if<Outline>(&op.shape); o != nullptr && o->plan.tab_height > 0)
        for (const double s : o->plan.tabs)
          request.tabs.push_back({turned(side.setup.turn, place_along(o->contour, s).at),
                                  o->plan.tab_wood > 0 ? o->plan.tab_wood : o->plan.tab_height, o->plan.tab_length});
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
    out.coarse = out.coarse || request.cell > piece.cell * 1.0001;
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
    for (const ProofResult& side : proof.result.sides)
      for (const ProgramFacts& facts : side.programs)
        for (const std::string& id : facts.cutters)
          if (const Cutter* c = find_cutter(planned.rack, id); c != nullptr && !c->lengths_measured) {
            const std::string name = fmt::format("T{} {}", c->number, c->id);
            if (std::find(out.assumed.begin(), out.assumed.end(), name) == out.assumed.end())
              out.assumed.push_back(name);
          }
    out.pieces.push_back(std::move(proof));
  }
  return out;
}

}  // namespace wren
