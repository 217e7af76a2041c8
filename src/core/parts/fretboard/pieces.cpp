// What is cut of a fretboard: slots, marks, crown and outline, in one of two orders.
#include <algorithm>
#include <memory>
#include <tuple>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/instrument/fretboard_remarks.hpp"
#include "core/instrument/fret_work.hpp"
#include "core/parts/fretboard/part.hpp"
#include "core/plan/region.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

Polygon crown_area(const FretboardNumbers& n, const BoardDesign& d) {
  if (n.work.crown_extent == CrownExtent::board) return flatten(d.board.outline, 0.05);
  const Setup& s = d.setup;
  Polygon out;
  for (const Vec2 corner : {Vec2{0, 0}, Vec2{1, 0}, Vec2{1, 1}, Vec2{0, 1}})
    out.push_back(
        s.to_work.back({s.blank_corner.x + corner.x * s.blank_size.x, s.blank_corner.y + corner.y * s.blank_size.y}));
  return out;
}

CrownPlan crown_plan(const FretboardNumbers& n, const BoardDesign& d, const Cutter& c, Direction direction,
                     Cache& cache) {
  CrownPlan plan;
  plan.cutter = c;
  plan.direction = direction;
  plan.area = crown_area(n, d);
  plan.wood_top = n.blank.thickness;
  plan.whole_blank = n.work.crown_extent == CrownExtent::blank;
  if (plan.whole_blank) plan.beyond = 0;
  if (n.work.crown_stepover > 0) {
    plan.stepover = std::min(n.work.crown_stepover, 0.9 * c.effective_diameter());
  } else {
    // It costs more than all else here together.
    const auto key = std::tuple(n.instrument.crown, n.instrument.board, n.instrument.strings, n.instrument.frets, c,
                                direction, n.work.crown_scallop, plan.area);
    plan.stepover = cache.get<double>(key, 64, [&] { return stepover_for(d.board, plan, n.work.crown_scallop); });
  }
  return plan;
}

class BoardPieces {
 public:
  BoardPieces(const Project& p, const BoardDesign& d, Cache& cache)
      : p_(p), n_(board_of(p)), w_(n_.work), d_(d), cache_(cache), board_(std::make_shared<const Fretboard>(d.board)) {}

  Pieces run() {
    const double top = n_.blank.thickness;
    const Height flat_top = [top](Vec2) { return top; };
    const Height crown_top = d_.board.crowned().top;
    const bool first = w_.outline_when == BoardOutline::first;
    if (first) outline();
    if (w_.order == CutOrder::flat_first) {
      slots(flat_top);
      marks(flat_top);
      ticks(flat_top);
      crown(false);
    } else {
      crown(false);
      marks(crown_top);
      ticks(crown_top);
      if (!d_.board.marks.empty() || !d_.board.ticks.empty()) crown(true);
      slots(crown_top);
    }
    if (!first) outline();
    side_.id = "top";
    side_.title = "Top";
    side_.setup = d_.setup;
    side_.wood = d_.wood;
    side_.zero = zero_words(n_.blank, "");
    side_.seat = "top side up, centre ticks on the crossed lines, zero: " + side_.zero;
    side_.clamps_key = "board.clamps";
    side_.alignment = alignment();
    Piece piece{"fretboard", "The board", {std::move(side_)}, 0.1, false, {}};
    piece.target = [p = p_, d = d_](PieceRequest& r) {
      const FretboardNumbers& n = board_of(p);
      r.sides.front().design = board_target(p, d);
      r.tolerances.below = n.work.through;
      r.tolerances.left_over = std::max(r.tolerances.left_over, n.work.crown_scallop * 1.5 + 0.01);
      r.taped = true;
    };
    out_.pieces.push_back(std::move(piece));
    out_.numbers = numbers_.take();
    return std::move(out_);
  }

 private:
  Operation& add(std::string id, Words title, const std::string& cutter, Shape shape, std::string key,
                 std::vector<std::string> keys) {
    side_.operations.push_back(
        {std::move(id), std::move(title), cutter, std::move(shape), std::move(key), std::move(keys)});
    side_.operations.back().judge_reach = false;  // judged with the design, before anything is planned
    return side_.operations.back();
  }

  void slots(const Height& top) {
    const Frets& frets = n_.instrument.frets;
    Operation& op = add("slots", "Fret slots", w_.slot_cutter, Slots{board_, w_.slot_entry, top}, "slot.cutter",
                        {"slot.cutter", "slot.entry", "slot.measured_width", "slot.cutter_diameter",
                         "slot.expected_width", "slot.lane_offset"});
    op.check = {{frets.held == FretsHeld::glued
                     ? "Stand an off-cut of wire in a slot: it drops in and stands up by itself, with room for glue. "
                       "Depth at the edge at least {}."
                     : "Stand an off-cut of wire in a slot: it must press in by hand pressure and a tap. Depth at the "
                       "edge at least {}.",
                 {frets.tang_depth + practice::tang_clearance}}};
    if (const Cutter* c = find_cutter(d_.rack, w_.slot_cutter); c != nullptr && !c->measured)
      op.before = {
          {"Cut a test slot in scrap first (the coupon has one); it should measure {} to {}. Enter what it "
           "measures.",
           {frets.tang_width + slot_play(frets.held).least, frets.tang_width + slot_play(frets.held).most}}};
    op.caution = {{"A thin cutter snaps without warning: eyes covered, and nobody in line with it."}};
  }

  void marks(const Height& top) {
    auto shape = marks_shape(d_.board, top);
    if (!shape) return;
    Operation& op = add("marks", "Position marks", w_.mark_cutter, std::move(*shape), "marks.cutter", {"marks.cutter"});
    op.bending = 0.03;
    op.check = {{"Mark pockets {} deep; an inlay drops in without force.", {n_.instrument.marks.depth}}};
  }

  /// Marks that run out over the edge: troughs from the waste into the board.
  void ticks(const Height& top) {
    auto shape = ticks_shape(d_.board, top);
    if (!shape || find_cutter(d_.rack, w_.tick_cutter) == nullptr) return;
    Operation& op = add("ticks", "Ticks over the edge", w_.tick_cutter, std::move(*shape), "marks.tick_cutter",
                        {"marks.tick_cutter", "marks.tick_length", "marks.tick_width", "marks.tick_depth"});
    op.check = {{"Seen from beside the ticks are {} deep at the edge.", {n_.instrument.marks.tick_depth}}};
  }

  void crown(bool again) {
    const Cutter* c = find_cutter(d_.rack, w_.crown_cutter);
    if (c == nullptr || !can_finish_crown(*c)) return;
    if (n_.instrument.crown.kind == CrownKind::flat && n_.blank.thickness <= n_.instrument.board.thickness + 1e-9)
      return;
    const CrownPlan plan = crown_plan(n_, d_, *c, w_.crown_direction, cache_);
    Operation& op = add(again ? "crown-again" : "crown", again ? "Crown again, over the filled marks" : "Crown",
                        w_.crown_cutter, CrownRows{board_, plan, !again}, "crown.cutter",
                        {"crown.cutter", "crown.direction", "crown.scallop", "crown.stepover", "crown.extent",
                         "crown.stepover_used", "crown.left_over"});
    op.check = {
        {"Radius gauge: {} at the nut, {} at the last fret; board {} thick on the centre line.",
         {d_.board.crown_radius(0), d_.board.crown_radius(d_.board.last_fret_x), n_.instrument.board.thickness}}};
    if (again) {
      op.stop_before = filling_words(d_.board).in(UnitSystem::millimetre) +
                       " Check that the blank has not moved; then the machine planes it flush";
      op.caution = {{"Resin and lacquer give off fumes: air the room, gloves on, no flame."}};
      return;
    }
    numbers_.length(
        "crown.stepover_used", "Stepover in use", plan.stepover,
        w_.crown_stepover > 0 ? "pinned" : worded("the widest that leaves {} standing", exact_mm(w_.crown_scallop)),
        "crown.stepover");
    numbers_.length("crown.left_over", "Left between rows", left_over(d_.board, plan),
                    "of this cutter's true shape on this crown");
  }

  void outline() {
    if (find_cutter(d_.rack, w_.outline_cutter) == nullptr) return;
    OutlinePlan plan;
    plan.wood_top = n_.blank.thickness;
    plan.through = w_.through;
    plan.climb = w_.outline_climb;
    plan.skim = w_.outline_skim;
    plan.tab_length = w_.tab_length;
    plan.tab_height = w_.tab_height;
    plan.tabs = w_.tab_places;
    if (plan.tabs.empty()) {
      std::vector<Vec2> slot_ends;
      for (const FretLine& f : d_.board.frets) slot_ends.insert(slot_ends.end(), {f.bass_edge, f.treble_edge});
      plan.tabs = place_tabs(d_.board.outline, w_.tabs, slot_ends);
    }
    const double total = perimeter(d_.board.outline);
    for (double& s : plan.tabs) s = std::fmod(s, total);
    numbers_.list("board.tab_places_used", "Tab places in use", plan.tabs,
                  w_.tab_places.empty() ? "spread over the straight edges, between slots" : "as you moved them",
                  "board.tab_places");
    const std::size_t tabs = plan.tabs.size();
    Operation& op =
        add("outline", "Outline", w_.outline_cutter, Outline{d_.board.outline, std::move(plan)}, "outline.cutter",
            {"outline.", "board.tabs", "board.tab_places", "board.tab_length", "board.tab_height", "board.through",
             "board.tab_places_used"});
    op.check = {{worded("{} tabs hold the board; saw them through, then file. No skin left in the groove.", tabs)}};
    op.caution = {{"Check clamps and tabs before this one: a free board meets a turning cutter and flies."}};
    if (w_.outline_when == BoardOutline::first)
      op.check.push_back(
          worded("From here on {} tabs, {} long and {} high, are all that holds the board: none cracked, none thinner "
                 "than drawn.",
                 tabs, mm(w_.tab_length, 3), mm(w_.tab_height, 3)));
  }

  [[nodiscard]] std::vector<Words> alignment() const {
    const Vec2 size = d_.setup.blank_size;
    std::vector<Words> out{
        {"Check the blank flat and square; measure it again and compare with the figures above."},
        {"Mark the middle of all four edges, {} and {} from the lower-left corner, always measuring "
         "from the same side; "
         "carry the marks down the edges.",
         {size.x / 2, size.y / 2}},
        {n_.blank.clamps.empty()
             ? "Set the four marks on the two crossed lines of the waste board. Fix the blank so that "
               "nothing stands where a cutter goes: no clamp is drawn."
             : "Set the four marks on the two crossed lines of the waste board. Fix the blank as drawn."}};
    const auto& jogs = d_.setup.jogs;
    for (std::size_t i = 0; i < jogs.size(); ++i)
      out.push_back({std::string(i == 0 ? "Home the machine, then jog to the crossed lines: x {}, y {}."
                                        : "Jog back to the blank's corner: x {}, y {}. Set x and y to zero here."),
                     {jogs[i].x, jogs[i].y}});
    if (jogs.size() == 1) out.push_back({"Set x and y to zero here."});
    return out;
  }

  const Project& p_;
  const FretboardNumbers& n_;
  const BoardWork& w_;
  const BoardDesign& d_;
  Cache& cache_;
  std::shared_ptr<const Fretboard> board_;
  Side side_;
  Pieces out_;
  Numbers numbers_;
};

}  // namespace

std::optional<Shape> marks_shape(const Fretboard& board, const Height& top) {
  if (board.marks.empty()) return {};
  const auto highest = [&](const Mark& m) {
    double z = top(m.centre);
    for (const Vec2 q : m.outline) z = std::max(z, top(q));
    return z;
  };
  if (std::all_of(board.marks.begin(), board.marks.end(), [](const Mark& m) { return m.radius > 0; })) {
    Holes round;
    for (const Mark& m : board.marks)
      round.holes.push_back({fmt::format("mark at fret {}", m.fret), m.centre, 2 * m.radius, highest(m), m.floor});
    return round;
  }
  ClearPlan plan;
  plan.top = -1e300;
  plan.lowest_floor = 1e300;
  for (const Mark& m : board.marks) {
    plan.region.push_back(m.outline);
    plan.top = std::max(plan.top, highest(m));
    plan.lowest_floor = std::min(plan.lowest_floor, m.floor);
  }
  plan.floor = [marks = board.marks](Vec2 q) {
    return std::min_element(marks.begin(), marks.end(),
                            [&](const Mark& a, const Mark& b) { return distance(a.centre, q) < distance(b.centre, q); })
        ->floor;
  };
  plan.step = 0.4;
  plan.finish = false;
  const double top_of_wood = plan.top;
  return Clear{std::move(plan), "", "", top_of_wood, {}};
}

std::optional<Shape> ticks_shape(const Fretboard& board, const Height& top) {
  if (board.ticks.empty()) return {};
  Channels shape;
  shape.top = -1e300;
  for (const EdgeTick& t : board.ticks) {
    shape.channels.push_back(
        {fmt::format("tick at fret {}", t.fret), t.outer, t.inner, t.width, [z = t.floor](Vec2) { return z; }});
    for (const Vec2 q : {t.inner, t.edge, t.outer}) shape.top = std::max(shape.top, top(q));
  }
  return shape;
}

Words filling_words(const Fretboard& board) {
  const Marks& m = board.given.marks;
  const int pours = pours_of(board);
  switch (m.filling) {
    case Filling::resin: {
      const double ml = filling_volume(board) / 1000;
      if (pours == 1)
        return worded(
            "Fill the marks with tinted resin: {:.1f} ml in all, and a tenth more for the cup, in one pour; seal open "
            "grain first, or the colour bleeds into it. Let it set.",
            ml);
      return worded(
          "Fill the marks with tinted resin: {:.1f} ml in all, and a tenth more for the cup, in {} pours of at most "
          "{}; seal open grain first, or the colour bleeds into it. Let it set.",
          ml, pours, mm(m.pour, 3));
    }
    case Filling::acrylic:
      return "Fill the marks with acrylic: cut to the marks, glued with what holds acrylic, a hair proud. Let it set.";
    case Filling::shell: return "Fill the marks with shell, glued in a hair proud. Let it set.";
    case Filling::wood: return "Fill the marks with wood, glued in a hair proud. Let it set.";
  }
  return {};
}

Pieces board_pieces(const Project& project, const BoardDesign& design, Cache& cache) {
  return BoardPieces(project, design, cache).run();
}

std::shared_ptr<const Fretboard> board_as_cut(const Project& p, const Fretboard& board, const Rack& rack) {
  auto made = std::make_shared<Fretboard>(board);
  if (const Cutter* c = find_cutter(rack, board_of(p).work.mark_cutter))
    for (Mark& mark : made->marks)
      if (mark.radius <= 0) {
        // In and out again by the cutter's radius: inner corners become as round as the cutter.
        const auto inner = offset({mark.outline}, -c->radius());
        if (const auto rounded = offset(inner, c->radius()); !rounded.empty()) mark.outline = rounded.front();
      }
  return made;
}

void face_target(const std::shared_ptr<const Fretboard>& made, SideDesign& design) {
  for (const FretLine& fret : made->frets)
    design.slots.push_back({fmt::format("fret {}", fret.number), fret.slot_bass, fret.slot_treble,
                            made->given.slot.width, [made](Vec2 q) { return made->slot_floor(q); },
                            made->given.slot.ends == SlotEnds::blind});
  for (const Mark& mark : made->marks) {
    const std::string name = fmt::format("Mark at fret {}", mark.fret);
    if (mark.radius > 0)
      design.walls.push_back(round_wall(name, mark.centre, 2 * mark.radius, mark.floor));
    else
      add_walls(design.walls, name, {mark.outline}, [z = mark.floor](Vec2) { return z; });
  }
  for (const EdgeTick& tick : made->ticks)
    add_walls(design.walls, fmt::format("Tick at fret {}", tick.fret),
              {buffer_of({tick.inner, tick.outer}, tick.width / 2)}, [z = tick.floor](Vec2) { return z; });
}

SideDesign board_target(const Project& p, const BoardDesign& d) {
  const auto made = board_as_cut(p, d.board, d.rack);
  SideDesign design;
  design.outline = flatten(made->outline, 0.001);
  design.cut_free = true;
  design.finished = [made](Vec2 q) { return made->finished_height(q); };
  design.crowned = [made](Vec2 q) { return made->crown_height(q); };
  face_target(made, design);
  return design;
}

std::vector<CrownChoice> crown_table(const Project& p, const BoardDesign& d, Cache& cache, Progress* progress) {
  std::vector<CrownChoice> out;
  FretboardNumbers n = board_of(p);
  n.work.crown_stepover = 0;
  const auto board = std::make_shared<const Fretboard>(d.board);
  std::size_t done = 0;
  for (const Cutter& c : d.rack) {
    ++done;
    if (!can_finish_crown(c)) continue;
    for (const Direction direction : {Direction::along, Direction::across}) {
      if (progress != nullptr && !progress->go_on(static_cast<double>(done) / static_cast<double>(d.rack.size()),
                                                  "comparing cutters for the crown"))
        return out;
      CrownPlan plan = crown_plan(n, d, c, direction, cache);
      CrownChoice choice{c.id, direction, plan.stepover, 0, left_over(d.board, plan), "", true};
      const Box2 box = bounds(plan.area);
      const bool along = direction == Direction::along;
      const double rows = (along ? box.size().y : box.size().x) / plan.stepover;
      const double length = rows * (along ? box.size().x : box.size().y);
      if (length > 1.5e6) {  // more than a kilometre and a half of rows: an hour or many, not worth planning
        choice.minutes = length / p.machine.max_feed.x;
        choice.cost = "far too many rows";
      } else {
        plan.sample = along ? 8 : 3;  // the time hardly feels the sampling
        Side side;
        side.id = "top";
        side.setup = d.setup;
        side.wood = d.wood;
        side.clamps_key = "board.clamps";
        side.operations = {{"crown", "Crown", c.id, CrownRows{board, plan, true}, "crown.cutter"}};
        side.operations.front().judge_reach = false;
        const auto cuts =
            make_cuts({{"crown", "Crown", {side}, 0.1, false, {}}}, {p.machine, d.rack, p.programs.safe, "fretboard"});
        if (cuts) choice.minutes = cuts->seconds / 60;
        choice.cost = !along && c.flat_radius() > 1
                          ? fmt::format("across the grain; spindle square to 0.02 in 100 mm or steps of {:.3f} mm",
                                        0.0002 * c.effective_diameter())
                      : !along              ? "across the grain"
                      : c.flat_radius() > 1 ? "ridges along the strings"
                                            : "with the grain";
      }
      const double r = c.radius();
      const Vec2 a = d.setup.to_work.apply(box.low);
      const Vec2 b = d.setup.to_work.apply(box.high);
      for (const auto& clamp : d.setup.clamp_boxes())
        if (clamp.high.x > std::min(a.x, b.x) - r && clamp.low.x < std::max(a.x, b.x) + r &&
            clamp.high.y > std::min(a.y, b.y) - r && clamp.low.y < std::max(a.y, b.y) + r)
          choice.reaches = false;
      if (!choice.reaches) choice.cost += "; touches a clamp";
      out.push_back(std::move(choice));
    }
  }
  std::sort(out.begin(), out.end(), [](const CrownChoice& a, const CrownChoice& b) { return a.minutes < b.minutes; });
  return out;
}

}  // namespace wren
