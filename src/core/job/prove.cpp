#include "core/job/prove.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include "core/report/parallel.hpp"
#include "core/report/shared_progress.hpp"

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
          f.program.empty() ? "the rehearsal" : f.program + (f.line > 0 ? ", line " + fmt::to_string(f.line) : ""),
          place,
          std::pair{q.x, q.y},
          {},
          {}};
}

/// The cutters of a program's T words are those that its set names for it (P2).
void hold_words(const ProgramFacts& facts, const std::vector<PlacedProgram>& programs, std::vector<Finding>& out) {
  const auto named = std::find_if(programs.begin(), programs.end(),
                                  [&](const PlacedProgram& p) { return p.sealed && p.file.file == facts.name; });
  if (named == programs.end() || named->file.cutters.empty()) return;
  const auto list = [](std::vector<std::string> ids) {
    std::sort(ids.begin(), ids.end());
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
    return ids;
  };
  if (list(facts.cutters) == list(named->file.cutters)) return;
  std::string own;
  for (const std::string& c : facts.cutters) own += (own.empty() ? "" : ", ") + c;
  out.push_back({"manifest_cutter",
                 Weight::stop,
                 worded("{} cuts with {}, and is not said to.", facts.name, own.empty() ? "nothing" : own),
                 facts.name,
                 0,
                 {},
                 0,
                 0,
                 "P2",
                 1});
}

/// Wood that was on the machine before must be found again by something.
void hold_registers(const Piece& piece, std::vector<Finding>& out) {
  for (std::size_t k = 0; k < piece.sides.size(); ++k)
    if ((k > 0 || !piece.after.empty()) && piece.sides[k].setup.found_by.kind == RegisterKind::first)
      out.push_back(
          {"no_register",
           Weight::stop,
           worded("Nothing finds the place of '{}': it was cut before, and lies there anew.", piece.sides[k].title),
           "",
           0,
           {},
           0,
           0,
           "P6",
           1});
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

ErrorCase PartProof::off(ErrorLevel level) const {
  ErrorCase out;
  out.level = level;
  for (const PieceProof& p : pieces)
    for (const ErrorCase& c : p.result.under_error) {
      if (c.level != level) continue;
      out.least_tab = std::min(out.least_tab, c.least_tab);
      out.least_skin = std::min(out.least_skin, c.least_skin);
      out.least_wall = std::min(out.least_wall, c.least_wall);
      if (c.least_thickness >= out.least_thickness) continue;
      out.least_thickness = c.least_thickness;
      out.least_at = c.least_at;
    }
  return out;
}

std::vector<std::pair<std::string, Words>> error_lines(const PartProof& proof) {
  const ErrorCase drawn = proof.off(ErrorLevel::drawn);
  const ErrorCase likely = proof.off(ErrorLevel::likely);
  const ErrorCase worst = proof.off(ErrorLevel::worst);
  std::vector<std::pair<std::string, Words>> out;
  const auto line = [&](const char* label, double ErrorCase::*figure) {
    if (drawn.*figure > 1e8) return;
    const auto or_drawn = [&](const ErrorCase& c) { return c.*figure > 1e8 ? drawn.*figure : c.*figure; };
    out.push_back(
        {label, {"as drawn {}, likely worst {}, worst {}", {drawn.*figure, or_drawn(likely), or_drawn(worst)}}});
  };
  line("Thinnest tab", &ErrorCase::least_tab);
  line("Thinnest wood", &ErrorCase::least_thickness);
  line("Wood over the rod", &ErrorCase::least_skin);
  line("Wall to the edge", &ErrorCase::least_wall);
  return out;
}

std::string verdict_text(const PartProof& proof) {
  std::string assumed;
  for (const std::string& c : proof.assumed) assumed += (assumed.empty() ? ", for assumed lengths of " : ", ") + c;
  return verdict_words(proof.verdict()) + assumed;
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
    s.material = side.wood;
    area_mm2 = std::max(area_mm2, side.setup.blank_size.x * side.setup.blank_size.y);
    request.sides.push_back(std::move(s));
  }
  piece.target(request);
  for (std::size_t k = 0; k < piece.sides.size() && k < request.sides.size(); ++k)
    request.sides[k].design.pinned = std::any_of(piece.sides[k].operations.begin(), piece.sides[k].operations.end(),
                                                 [](const Operation& op) { return op.id == "pins"; });
  for (const Side& side : piece.sides)
    for (const Operation& op : side.operations)
      if (const auto* o = std::get_if<Outline>(&op.shape); o != nullptr && !o->plug && o->plan.tab_height > 0)
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
  const auto there = [&](const Side& s) {
    return std::any_of(programs.begin(), programs.end(), [&](const PlacedProgram& p) { return p.side == s.id; });
  };
  std::vector<const Piece*> proved;
  for (const Piece& piece : pieces) {
    for (const Side& s : piece.sides)
      if (!s.operations.empty() && !there(s))
        out.missing.push_back("There is no program for the side '" + s.title + "'.");
    if (std::any_of(piece.sides.begin(), piece.sides.end(), there)) proved.push_back(&piece);
  }
  // Pieces that are cut from wood of their own are proved side by side; what is glued of them begins with what their
  // programs left.
  SharedProgress shared(progress, proved.size(), 1);
  std::vector<PieceRequest> requests(proved.size());
  std::vector<Expected<PieceResult>> results(proved.size());
  std::vector<std::size_t> waiting(proved.size());
  std::iota(waiting.begin(), waiting.end(), std::size_t{0});
  while (!waiting.empty()) {
    std::vector<std::size_t> now;
    std::vector<std::size_t> later;
    for (const std::size_t k : waiting) {
      const auto& after = proved[k]->after;
      const bool glued = std::any_of(waiting.begin(), waiting.end(), [&](std::size_t o) {
        return o != k && std::find(after.begin(), after.end(), proved[o]->id) != after.end();
      });
      (glued ? later : now).push_back(k);
    }
    in_parallel(static_cast<int>(now.size()), [&](int i) {
      const std::size_t k = now[static_cast<std::size_t>(i)];
      requests[k] = request_for(*proved[k], planned, programs, cell);
      if (proved[k]->glue) {
        std::vector<GluedLayer> layers;
        for (const std::string& id : proved[k]->after)
          for (std::size_t o = 0; o < proved.size(); ++o)
            if (proved[o]->id == id && results[o]) layers.push_back({&requests[o], &*results[o]});
        if (layers.size() == proved[k]->after.size()) proved[k]->glue(layers, requests[k]);
      }
      results[k] = prove_piece(requests[k], shared.of(k));
    });
    waiting = now.empty() ? std::vector<std::size_t>{} : later;
  }
  for (std::size_t k = 0; k < proved.size(); ++k) {
    const Piece& piece = *proved[k];
    if (!results[k]) return tl::unexpected(results[k].error());
    out.coarse = out.coarse || requests[k].cell > piece.cell * 1.0001;
    PieceProof proof{piece.id, piece.title, piece.hidden, {}, {}, std::move(*results[k])};
    for (const PieceSide& s : requests[k].sides) {
      proof.sides.push_back(s.name);
      proof.setups.push_back(s.setup);
    }
    out.seconds += proof.result.seconds;
    hold_registers(piece, out.findings);
    out.worst_loose = std::max(out.worst_loose, proof.result.worst_loose);
    if (!piece.hidden) {
      out.worst_gouge = std::max(out.worst_gouge, proof.result.worst_gouge);
      out.worst_left = std::max(out.worst_left, proof.result.worst_left);
    }
    for (const ProofResult& side : proof.result.sides)
      for (const ProgramFacts& facts : side.programs) hold_words(facts, programs, out.findings);
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
