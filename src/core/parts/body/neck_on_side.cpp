// The set-up of a body once the neck is on: its bridge holes were held back.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <memory>
#include <utility>

namespace wren {

void BodySides::once_the_neck_is_on(const std::shared_ptr<const Makeable>& made) {
  const bool from_behind =
      std::any_of(s_.holes.begin(), s_.holes.end(), [&](const BodyHole& h) { return held_back(w_, h) && h.from_back; });
  static constexpr double over_bed = 1;
  const auto placed = [&](Turn turn, Vec2 zero) {
    Blank b = d_->blank;
    b.zero = ZeroPlace::centre;
    b.clamps.clear();
    b.thickness = s_.thickness;
    const Box2 box = bounds(s_.corners);
    b.length = 2 * std::max(box.high.x - zero.x, zero.x - box.low.x) + 2;
    b.width = 2 * std::max(box.high.y - zero.y, zero.y - box.low.y) + 2;
    AlignmentNumbers a = w_.alignment;
    a.school = School::ticks;
    Setup s = side_setup(d_->front.machine, b, a, zero, turn, turn == Turn::none ? 0 : -s_.thickness);
    Box2 part;
    for (const Vec2 q : s_.corners) part.add(s.to_work.apply(turned(turn, q)));
    s.board_low = {part.low.x, part.low.y, -b.thickness};
    s.board_high = {part.high.x, part.high.y, 0};
    s.wood_top = [made, d = d_, turn](Vec2 q) {
      const Vec2 p = turned(turn, q);
      if (!d->shape.inside->holds(p)) return turn == Turn::none ? -d->shape.thickness : 0.0;
      return turn == Turn::none ? std::max(made->top(p), over_bed - d->shape.thickness)
                                : std::max(-made->bottom(p), over_bed);
    };
    return s;
  };
  const Vec2 crossing{s_.setup.bridge_middle.x, 0};
  Setup front = placed(Turn::none, crossing);
  neck_stands(front);
  front.found_by = {RegisterKind::lines,
                    {w_.line_error, w_.line_error},
                    w_.line_error / 200,
                    "setting two marks of a line, 400 mm apart, and its crossing under a pointed cutter"};
  begin("bridge", "Bridge and strings, the neck on", front);
  side_.zero = "the crossing of the neck's own centre line and the scale line, z = 0 on the face";
  side_.seat = seat_words(front, "centre line and scale line");
  holes(false, true);
  if (side_.operations.empty()) return;
  side_.operations.front().stop_before = {};
  side_.alignment = {
      {"Screw the neck on, or let its glue set. Lay a straightedge along each of its sides: where both meet the "
       "scale line mark the face (on tape); the middle of the two marks and the middle of the neck are the centre "
       "line. "
       "Equal distances at both sides mean it is centred.",
       {}},
      {"Lay the body on the bed, face up, on something soft, the neck out over it; turn it until the line's two ends "
       "lie under the same y (or x) of a pointed cutter; clamp it at its edges, away from the bridge."},
      {"Set x and y to zero at the crossing of the centre line and the scale line, {} from the nut along the "
       "strings' middle.",
       {s_.neck->board->strings.front().scale / 2 + s_.neck->board->strings.back().scale / 2}}};
  std::vector<Side> sides;
  if (from_behind)
    side_.after.push_back(
        "The strings' holes go on from behind: drill the outer two on through by hand, square to the face, so that "
        "they show there.");
  sides.push_back(std::move(side_));
  if (from_behind) {
    const auto first =
        std::find_if(s_.holes.begin(), s_.holes.end(), [](const BodyHole& h) { return h.id == "string-1"; });
    const Turn turn = w_.alignment.turn;
    Setup back = placed(turn, first != s_.holes.end() ? first->at : crossing);
    back.found_by = {RegisterKind::hole,
                     {w_.line_error, w_.line_error},
                     w_.line_error / 50,
                     "the outer two string holes, each found with a drill of their own width"};
    begin("bridge-back", "Ferrules from behind, the neck on", back);
    side_.zero = "the bass string's hole, z = 0 on the back";
    side_.seat = seat_words(back, "the outer two string holes");
    holes(true, true);
    side_.alignment = {
        {"Turn the body over, its face on blocks more than {} thick so that board and frets hang free; nothing "
         "presses on the neck.",
         {s_.setup.board_over_face + s_.neck->board->given.board.thickness + s_.neck->board->given.frets.crown_height}},
        {"Lower a drill of the holes' width into both outer string holes; turn the body until they lie in the "
         "machine's line; set x and y to zero in the bass string's."}};
    sides.push_back(std::move(side_));
  }
  Piece piece{"bridge", "Bridge and strings, the neck on", std::move(sides), 0.2, false, {}, {}};
  for (const Piece& p : out_.pieces)
    if (p.id == "body" || p.id == "skim") piece.after.push_back(p.id);
  piece.waits_for = {"body.hand.neck-on"};
  piece.target = [w = w_, d = d_, made](PieceRequest& r) { held_target(w, *d, made, r); };
  keep(std::move(piece));
}

void BodySides::neck_stands(Setup& s) const {
  Box2 over;
  for (const Polygon* part : {&s_.neck->corners, &s_.neck->board->corners})
    for (const Vec2 q : *part) {
      const Vec3 p = s_.setup.frame.to_body({q.x, q.y, 0});
      if (p.x > s_.edge_middle.x - 120) over.add({p.x, p.y});
    }
  const double high = std::max(s_.setup.board_over_face, s_.setup.board_end_over_face) +
                      s_.neck->board->given.board.thickness + s_.neck->board->given.frets.crown_height + 2;
  const Vec2 a = s.to_work.apply(over.low);
  const Vec2 b = s.to_work.apply(over.high);
  s.standing.push_back({"neck",
                        {std::min(a.x, b.x), std::min(a.y, b.y), s.bed_z()},
                        {std::max(a.x, b.x), std::max(a.y, b.y), s.to_work.apply_z(high)},
                        true});
}

}  // namespace wren
