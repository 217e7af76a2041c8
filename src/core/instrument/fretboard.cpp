#include "core/instrument/fretboard.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

namespace wren {
namespace {

/// Share of the way from the bass to the treble string for each string, at a place where the outer centres stand
/// `spread` apart. Equal gaps leave the same air between neighbours' sides.
std::vector<double> shares(const Strings& strings, double spread) {
  const auto n = static_cast<std::size_t>(strings.count);
  std::vector<double> share(n);
  if (strings.spacing == Spacing::centres) {
    for (std::size_t i = 0; i < n; ++i) share[i] = static_cast<double>(i) / static_cast<double>(n - 1);
    return share;
  }
  const std::vector<double> gauge = string_gauges(strings);
  double solid = 0;
  for (std::size_t i = 0; i + 1 < n; ++i) solid += (gauge[i] + gauge[i + 1]) / 2;
  const double gap = (spread - solid) / static_cast<double>(n - 1);
  double y = 0;
  for (std::size_t i = 0; i < n; ++i) {
    share[i] = y / spread;
    if (i + 1 < n) y += gap + (gauge[i] + gauge[i + 1]) / 2;
  }
  return share;
}

Problem contradiction(Words what, const char* key, Words todo) {
  return {ProblemKind::range, std::move(what), key, std::move(todo)};
}

Polygon rectangle(Vec2 centre, Vec2 along, double size_along, double size_across) {
  const Vec2 u = along * (size_along / 2);
  const Vec2 v = left_of(along) * (size_across / 2);
  return {centre - u - v, centre + u - v, centre + u + v, centre - u + v};
}

}  // namespace

std::vector<double> string_gauges(const Strings& strings) {
  const auto n = static_cast<std::size_t>(std::max(0, strings.count));
  if (strings.gauges.size() == n) return strings.gauges;
  std::vector<double> gauge(n);
  double g = 0.254;
  for (std::size_t i = n; i-- > 0; g = std::min(g * 1.36, 4.0)) gauge[i] = g;
  return gauge;
}

double fret_fraction(double n) { return 1 - std::exp2(-n / 12); }

double crown_drop(double radius, double y) {
  // R − √(R² − y²), written so that nothing cancels for a large radius.
  return y * y / (radius + std::sqrt(radius * radius - y * y));
}

Vec2 FretLine::middle() const {
  const double d = treble_edge.y - bass_edge.y;
  return lerp(bass_edge, treble_edge, d != 0 ? -bass_edge.y / d : 0.5);
}

double Fretboard::crown_radius(double x) const {
  const Crown& crown = given.crown;
  switch (crown.kind) {
    case CrownKind::flat: return 0;
    case CrownKind::cylinder: return crown.radius_nut;
    case CrownKind::cone: return crown.radius_nut + (crown.radius_last - crown.radius_nut) * x / last_fret_x;
  }
  return 0;
}

double Fretboard::crown_height(Vec2 p) const {
  const double r = crown_radius(p.x);
  if (r == 0) return given.board.thickness;
  // Far outside the board the circle ends; the crown goes on level there, so that a cutter's rim always finds a height.
  const double y = std::min(std::abs(p.y), 0.98 * std::abs(r));
  return given.board.thickness - crown_drop(std::abs(r), y);
}

double Fretboard::slot_floor(Vec2 p) const {
  return given.slot.bottom == SlotBottom::flat ? given.board.thickness - given.slot.depth
                                               : crown_height(p) - given.slot.depth;
}

double Fretboard::finished_height(Vec2 p) const {
  double z = crown_height(p);
  for (const FretLine& fret : frets) {
    const Vec2 u = fret.along();
    const Vec2 from = p - fret.slot_bass;
    if (std::abs(cross(u, from)) > given.slot.width / 2) continue;
    const double t = dot(u, from);
    const double l = distance(fret.slot_bass, fret.slot_treble);
    if (t < 0 || t > l) continue;
    z = std::min(z, slot_floor(p));
  }
  for (const Mark& mark : marks)
    if (mark.radius > 0 ? distance(p, mark.centre) <= mark.radius
                        : std::abs(p.x - mark.centre.x) < 80 && contains(mark.outline, p))
      z = std::min(z, mark.floor);
  for (const EdgeTick& tick : ticks)
    if (tick.holds(p)) z = std::min(z, tick.floor);
  return z;
}

bool EdgeTick::holds(Vec2 p) const { return distance_to(p, {inner, outer}) <= width / 2; }

TwoSkin Fretboard::crowned() const {
  // The function outlives this Fretboard, so it carries the few numbers it needs by value.
  Fretboard shape;
  shape.given = given;
  shape.last_fret_x = last_fret_x;
  return {outline, [shape = std::move(shape)](Vec2 p) { return shape.crown_height(p); }, [](Vec2) { return 0.0; }};
}

double Fretboard::volume() const {
  double volume = mass_properties(crowned(), 4.0).volume_mm3;
  for (const FretLine& fret : frets) {
    constexpr int steps = 16;  // Simpson's rule on a parabola-like depth
    const double l = distance(fret.slot_bass, fret.slot_treble);
    double sum = 0;
    for (int i = 0; i <= steps; ++i) {
      const double w = i == 0 || i == steps ? 1 : i % 2 == 1 ? 4 : 2;
      sum += w * slot_depth(lerp(fret.slot_bass, fret.slot_treble, static_cast<double>(i) / steps));
    }
    volume -= given.slot.width * l * sum / (3 * steps);
  }
  for (const Mark& mark : marks) {
    const double area =
        mark.radius > 0 ? std::numbers::pi * mark.radius * mark.radius : std::abs(signed_area(mark.outline));
    volume -= area * std::max(0.0, crown_height(mark.centre) - mark.floor);
  }
  for (const EdgeTick& tick : ticks)
    volume -= (distance(tick.inner, tick.edge) * tick.width + std::numbers::pi * tick.width * tick.width / 8) *
              std::max(0.0, crown_height(lerp(tick.inner, tick.edge, 0.5)) - tick.floor);
  return volume;
}

namespace {

/// Ranges that hold for any part made from these numbers; the ledger enforces narrower ones on entry.
std::optional<Problem> contradictions(const Instrument& in) {
  const Strings& s = in.strings;
  if (s.count < 3 || s.count > 12)
    return contradiction(worded("{} strings cannot be laid out", s.count), "strings.count", "Give 3 to 12");
  if (in.frets.count < 12 || in.frets.count > 36)
    return contradiction(worded("{} frets cannot be laid out", in.frets.count), "frets.count", "Give 12 to 36");
  const double lean = std::abs(s.spread_at_bridge() - s.nut_spread) / 2;
  if (!(s.scale_bass > 100 && s.scale_treble > 100) || lean > 0.2 * std::min(s.scale_bass, s.scale_treble))
    return contradiction("the strings are further apart than their length allows", "strings.scale_bass",
                         "Check scale lengths and spreads");
  if (std::max(s.scale_bass, s.scale_treble) > 1.35 * std::min(s.scale_bass, s.scale_treble))
    return contradiction(worded("scale lengths of {} and {} fan out so far that frets would cross", mm(s.scale_bass, 1),
                                mm(s.scale_treble, 1)),
                         "strings.scale_treble", "Keep them within 35 % of each other");
  if (s.spacing == Spacing::gaps) {
    const auto gauge = string_gauges(s);
    double solid = 0;
    for (const double g : gauge) solid += g;
    if (solid >= std::min(s.nut_spread, s.spread_at_bridge()))
      return contradiction("the strings are thicker than the spread between them", "strings.nut_spread",
                           "Widen the spread or give thinner gauges");
  }
  return {};
}

std::vector<StringLine> lay_strings(const Strings& s) {
  const double lean = (s.spread_at_bridge() - s.nut_spread) / 2;
  const double bass_run = std::sqrt(s.scale_bass * s.scale_bass - lean * lean);  // scale length is along the string
  const double treble_run = std::sqrt(s.scale_treble * s.scale_treble - lean * lean);
  // At the square fret both outer strings have the same x; the nut line crosses the centre line at x = 0.
  const double bass_nut = fret_fraction(s.square_fret) * (treble_run - bass_run) / 2;
  const StringLine bass{
      {bass_nut, -s.nut_spread / 2}, {bass_nut + bass_run, -s.spread_at_bridge() / 2}, s.scale_bass, 0};
  const StringLine treble{
      {-bass_nut, s.nut_spread / 2}, {-bass_nut + treble_run, s.spread_at_bridge() / 2}, s.scale_treble, 0};
  const auto at_nut = shares(s, s.nut_spread);
  const auto at_bridge = shares(s, s.spread_at_bridge());
  const auto gauge = string_gauges(s);
  std::vector<StringLine> lines;
  for (std::size_t i = 0; i < at_nut.size(); ++i) {
    StringLine line{lerp(bass.nut, treble.nut, at_nut[i]), lerp(bass.saddle, treble.saddle, at_bridge[i]), 0, gauge[i]};
    line.scale = distance(line.nut, line.saddle);
    lines.push_back(line);
  }
  return lines;
}

FretLine lay_fret(const Instrument& in, const StringLine& bass, const StringLine& treble, int number) {
  FretLine fret;
  fret.number = number;
  fret.bass_string = lerp(bass.nut, bass.saddle, fret_fraction(number));
  fret.treble_string = lerp(treble.nut, treble.saddle, fret_fraction(number));
  // Edges run beside the outer strings, a margin away across the centre line.
  const Vec2 u = fret.treble_string - fret.bass_string;
  const Vec2 shift{0, in.board.edge_margin};
  fret.bass_edge = meet(fret.bass_string, u, bass.nut - shift, bass.saddle - bass.nut).value();
  fret.treble_edge = meet(fret.bass_string, u, treble.nut + shift, treble.saddle - treble.nut).value();
  const double stop = in.slot.ends == SlotEnds::blind ? in.slot.blind_margin : 0;
  fret.slot_bass = fret.bass_edge + fret.along() * stop;
  fret.slot_treble = fret.treble_edge - fret.along() * stop;
  return fret;
}

/// A line across the board through `p` along `u`, from edge to edge.
Segment2 across(const Instrument& in, const StringLine& bass, const StringLine& treble, Vec2 p, Vec2 u) {
  const Vec2 shift{0, in.board.edge_margin};
  return {meet(p, u, bass.nut - shift, bass.saddle - bass.nut).value(),
          meet(p, u, treble.nut + shift, treble.saddle - treble.nut).value()};
}

Contour lay_outline(const Instrument& in, const Fretboard& board, const FretLine& last) {
  const StringLine& bass = board.strings.front();
  const StringLine& treble = board.strings.back();
  const FretLine& nut = board.nut_line;
  const Vec2 nut_along = nut.along();
  Segment2 head{nut.bass_edge, nut.treble_edge};
  if (in.frets.zero_fret) head = across(in, bass, treble, nut.middle() - Vec2{in.board.nut_extension, 0}, nut_along);
  const Vec2 end_middle = last.middle() + Vec2{in.board.overhang, 0};
  if (in.board.end == EndShape::round) {
    const Segment2 tail = across(in, bass, treble, end_middle - Vec2{in.board.end_rise, 0}, {0, 1});
    const double half = distance(tail.a, tail.b) / 2;
    // An arc of height h over a half chord c turns by 4·atan(h/c), so its bulge is h/c.
    return {{head.a}, {tail.a, in.board.end_rise / half}, {tail.b}, {head.b}};
  }
  const Segment2 tail =
      across(in, bass, treble, end_middle, in.board.end == EndShape::slanted ? last.along() : Vec2{0, 1});
  return {{head.a}, {tail.a}, {tail.b}, {head.b}};
}

/// Half the distance of a double's middles.
double half_pair(const Marks& marks, int place, double width) {
  const double apart = place % 24 == 0 ? marks.pair_narrow : marks.pair_wide;
  return apart > 0 ? apart / 2 : width / 4;
}

void lay_marks(Fretboard& board) {
  const Marks& marks = board.given.marks;
  const auto line = [&](int n) -> const FretLine& {
    if (n == 0) return board.nut_line;
    return board.frets[static_cast<std::size_t>(n - board.frets.front().number)];
  };
  for (const int place : marks.places) {
    if (place < 1 || place > board.given.frets.count) continue;
    const FretLine& before = line(place - 1);
    const FretLine& after = line(place);
    const Vec2 u = unit(before.along() + after.along());  // across the board, between the two frets
    const Vec2 middle = lerp(before.middle(), after.middle(), 0.5);
    const double width = (before.width() + after.width()) / 2;
    if (marks.side == SideMarks::ticks) {
      const Vec2 edge = middle - u * (width / 2);
      EdgeTick tick{place,
                    edge + u * (marks.tick_length - marks.tick_width / 2),
                    edge,
                    edge - u * 3,
                    marks.tick_width,
                    board.crown_height(edge) - marks.tick_depth};
      board.ticks.push_back(tick);
      // Doubled like the marks: two beside each other.
      if (place % 12 == 0) {
        const Vec2 beside = left_of(u) * (1.25 * marks.tick_width);
        EdgeTick& first = board.ticks.back();
        for (Vec2* p : {&first.inner, &first.edge, &first.outer}) *p = *p - beside;
        for (Vec2* p : {&tick.inner, &tick.edge, &tick.outer}) *p = *p + beside;
        board.ticks.push_back(tick);
      }
    }
    const auto own = std::find_if(marks.at.begin(), marks.at.end(), [&](const MarkAt& m) { return m.fret == place; });
    const MarkShape shape = own != marks.at.end() ? own->shape : marks.shape;
    if (shape == MarkShape::none) continue;
    std::vector<Vec2> centres{middle};
    if (shape == MarkShape::tick) {
      // Ticks stand in from the bass edge, where the player looks.
      centres = {middle - u * (width / 2 - marks.length / 2 - 1)};
      if (place % 12 == 0) centres.push_back(middle + u * (width / 2 - marks.length / 2 - 1));
    } else if (place % 12 == 0 && shape != MarkShape::block) {
      const double half = half_pair(marks, place, width);
      centres = {middle - u * half, middle + u * half};
    }
    for (const Vec2 centre : centres) {
      Mark mark{place, centre, board.crown_height(centre) - marks.depth, 0, {}};
      const Vec2 along = left_of(u) * -1.0;
      if (shape == MarkShape::dot) {
        mark.radius = marks.size / 2;
        for (int k = 0; k < 48; ++k) {
          const double a = 2 * std::numbers::pi * k / 48;
          mark.outline.push_back(centre + Vec2{std::cos(a), std::sin(a)} * mark.radius);
        }
      } else if (shape == MarkShape::outline) {
        for (const Vec2 p : marks.outline) mark.outline.push_back(centre + along * p.x + u * p.y);
      } else {
        mark.outline = rectangle(centre, along, marks.size, marks.length);
      }
      if (signed_area(mark.outline) < 0) std::reverse(mark.outline.begin(), mark.outline.end());
      board.marks.push_back(std::move(mark));
    }
  }
}

void mirror(Vec2& p) { p.y = -p.y; }
void mirror(FretLine& f) {
  for (Vec2* p : {&f.bass_string, &f.treble_string, &f.bass_edge, &f.treble_edge, &f.slot_bass, &f.slot_treble})
    mirror(*p);
}

/// A left-handed instrument is the mirror image of the right-handed one.
void mirror(Fretboard& board) {
  for (auto& s : board.strings) {
    mirror(s.nut);
    mirror(s.saddle);
  }
  for (auto& f : board.frets) mirror(f);
  mirror(board.nut_line);
  for (auto& m : board.marks) {
    mirror(m.centre);
    for (Vec2& p : m.outline) mirror(p);
    std::reverse(m.outline.begin(), m.outline.end());
  }
  for (auto& t : board.ticks)
    for (Vec2* p : {&t.inner, &t.edge, &t.outer}) mirror(*p);
  const Contour before = board.outline;
  const std::size_t n = before.size();
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t k = n - 1 - i;
    board.outline[i] = {{before[k].at.x, -before[k].at.y}, before[(k + n - 1) % n].bulge};
  }
  board.corners = flatten(board.outline, 0.001);
}

}  // namespace

Expected<Fretboard> make_fretboard(const Instrument& in) {
  if (auto problem = contradictions(in)) return tl::unexpected(*problem);
  Fretboard board;
  board.given = in;
  board.strings = lay_strings(in.strings);
  const StringLine& bass = board.strings.front();
  const StringLine& treble = board.strings.back();
  board.nut_line = lay_fret(in, bass, treble, 0);
  for (int n = in.frets.zero_fret ? 0 : 1; n <= in.frets.count; ++n)
    board.frets.push_back(lay_fret(in, bass, treble, n));
  const FretLine last = board.frets.back();
  board.last_fret_x = last.middle().x;
  board.outline = lay_outline(in, board, last);
  board.corners = flatten(board.outline, 0.001);

  double widest = 0;
  double low_x = 0;
  double high_x = 0;
  for (const Vec2 p : board.corners) {
    widest = std::max(widest, 2 * std::abs(p.y));
    low_x = std::min(low_x, p.x);
    high_x = std::max(high_x, p.x);
  }
  if (in.crown.kind != CrownKind::flat)
    for (const double x : {low_x, high_x})
      if (!(board.crown_radius(x) > 0.75 * widest))
        return tl::unexpected(contradiction(
            worded("a crown radius of {} cannot lie on a board {} wide", mm(board.crown_radius(x), 1), mm(widest, 1)),
            in.crown.kind == CrownKind::cone && x > 0 ? "crown.radius_last" : "crown.radius_nut",
            "Give a larger radius"));
  if (signed_area(board.corners) <= 0 || !is_simple(board.corners))
    return tl::unexpected(contradiction("the board's outline crosses itself", "board.overhang",
                                        "Check overhang, end shape and the two scale lengths"));
  if (in.board.end == EndShape::round && in.board.end_rise > widest / 2)
    return tl::unexpected(contradiction("the round end is more than half a circle", "board.end_rise",
                                        worded("Give at most {}", mm(widest / 2, 1))));
  if (in.slot.ends == SlotEnds::blind && 2 * in.slot.blind_margin > 0.8 * board.nut_line.width())
    return tl::unexpected(
        contradiction("blind slots with this margin leave no slot", "slot.blind_margin", "Give a smaller margin"));
  const bool outlines = in.marks.shape == MarkShape::outline ||
                        std::any_of(in.marks.at.begin(), in.marks.at.end(),
                                    [](const MarkAt& m) { return m.shape == MarkShape::outline; });
  if (outlines && (in.marks.outline.size() < 3 || !is_simple(in.marks.outline)))
    return tl::unexpected(contradiction("the mark's outline is missing or crosses itself", "marks.outline",
                                        "Give at least three corners of a simple outline, or choose another shape"));

  lay_marks(board);
  if (in.strings.left_handed) mirror(board);
  for (const FretLine& fret : board.frets) {
    const double cosine = std::abs(fret.along().y);
    const double r = board.crown_radius(fret.middle().x);
    // Along a slanted fret the crown is flatter: the radius of an oblique section at its top is R/cos².
    FretWire wire{fret.number, fret.width(), distance(fret.slot_bass, fret.slot_treble),
                  fret.width() + 2 * in.frets.wire_overhang, r > 0 ? bend_ratio * r / (cosine * cosine) : 0};
    board.total_wire += wire.cut_length;
    board.wire.push_back(wire);
  }
  return board;
}

}  // namespace wren
