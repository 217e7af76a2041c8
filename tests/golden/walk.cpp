#include "golden/walk.hpp"

#include <cmath>

#include "core/job/board_programs.hpp"
#include "core/job/body_cuts.hpp"
#include "core/job/ledger.hpp"
#include "core/job/neck_cuts.hpp"
#include "golden/sample.hpp"

namespace wren::golden {
namespace {

Json remarks_of(const std::vector<Remark>& all) {
  Json out = Json::array();
  std::vector<std::string> words;
  for (const Remark& r : all) words.push_back(r.kind + " " + std::to_string(std::lround(r.number * 1000)));
  std::sort(words.begin(), words.end());
  for (const auto& w : words) out.push_back(w);
  return out;
}

Json outline_of(const Polygon& p) {
  const Box2 box = bounds(p);
  return {std::lround(std::abs(signed_area(p)) * 10), std::lround(box.low.x * 1e4), std::lround(box.low.y * 1e4),
          std::lround(box.high.x * 1e4), std::lround(box.high.y * 1e4)};
}

void numbers(const std::vector<LedgerLine>& lines, Json& out) {
  for (const LedgerLine& l : lines)
    if (l.origin == Origin::derived && l.key.find("cuts.") == std::string::npos)
      if (const double* v = std::get_if<double>(&l.value)) out[l.key] = std::round(*v * 1e6) / 1e6;
}

}  // namespace

Json walk(const Project& p) {
  Json out;
  const auto board = design_board(p);
  if (!board) return board.error().text();
  const BoardCuts cuts = plan_cuts(p, *board);
  out["fretboard"]["top"] = skin_after(program_texts(board_programs(p, *board, cuts, "")), board->rack, board->setup);
  out["fretboard"]["outline"] = outline_of(board->board.corners);
  out["fretboard"]["remarks"] = remarks_of(all_remarks(*board, cuts));
  const auto neck = design_neck(p, board->board);
  std::optional<NeckCuts> nc;
  std::optional<BodyCuts> bc;
  Expected<BodyDesign> body = fail(ProblemKind::input, "");
  const auto placed = [&](const std::vector<Placement>& sides, const std::vector<PlacedProgram>& programs,
                          const Rack& rack, Json& to) {
    for (const Placement& s : sides)
      if (s.id != "waste-board" && s.id != "cradle" && !s.paths.empty())
        to[s.id] = skin_after(texts_of(programs, s.id), rack, s.setup);
  };
  if (neck) {
    nc = plan_neck(p, *neck);
    placed(nc->sides, neck_programs(p, *neck, *nc, ""), neck->rack, out["neck"]);
    out["neck"]["outline"] = outline_of(neck->cut_outline);
    out["neck"]["remarks"] = remarks_of(all_remarks(*neck, *nc));
    Json holes = Json::array();
    for (const Hole& h : neck->shape.holes)
      holes.push_back({std::lround(h.at.x * 1e4), std::lround(h.at.y * 1e4), std::lround(h.diameter * 1e4)});
    out["neck"]["holes"] = holes;
    body = design_body(p, *neck, board->weight_g);
  } else {
    out["neck"] = neck.error().text();
  }
  if (neck && body) {
    bc = plan_body(p, *body);
    placed(bc->sides, body_programs(p, *body, *bc, ""), body->rack, out["body"]);
    out["body"]["outline"] = outline_of(body->shape.corners);
    out["body"]["remarks"] = remarks_of(all_remarks(*body, *bc));
    Json holes = Json::array();
    for (const BodyHole& h : body->shape.holes)
      holes.push_back({std::lround(h.at.x * 1e4), std::lround(h.at.y * 1e4), std::lround(h.diameter * 1e4)});
    out["body"]["holes"] = holes;
  } else if (neck) {
    out["body"] = body.error().text();
  }
  numbers(ledger(p, &*board, &cuts, neck ? &*neck : nullptr, nc ? &*nc : nullptr, neck && body ? &*body : nullptr,
                 bc ? &*bc : nullptr),
          out["numbers"]);
  return out;
}

}  // namespace wren::golden
