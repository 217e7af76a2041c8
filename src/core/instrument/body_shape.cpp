#include "core/instrument/body_shape.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/report/names.hpp"
#include "core/units/length.hpp"
#include "core/units/plain_number.hpp"

namespace wren {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double opening = 14;  // mm: how far the neck pocket runs out of the body's edge
// Work is bounded, not nodes alone: planning takes seconds for each thousand of these.
constexpr std::size_t most_outline_chords = 8000;
constexpr std::size_t most_cavity_chords = 25'000;
constexpr double carve_blend = 26;  // mm: from what stays flat to the full carve

/// Share of a bevel's depth at u = distance over reach: bends in over the first third, then straight.
double bevel_share(double u) {
  constexpr double bend = 0.3;
  if (u <= 0) return 0;
  return (u < bend ? u * u / (2 * bend) : u - bend / 2) / (1 - bend / 2);
}

double rounding(double radius, double in) {
  if (radius <= 0 || in >= radius) return 0;
  const double u = radius - std::max(0.0, in);
  return radius - std::sqrt(std::max(0.0, radius * radius - u * u));
}

class BodyMaker {
 public:
  BodyMaker(std::shared_ptr<const NeckShape> neck, const HeelInUse& heel, const Body& body,
            const std::vector<BodyLayer>& layers)
      : b_(body) {
    s_.given = body;
    s_.neck = std::move(neck);
    s_.heel = heel;
    s_.treble = s_.neck->board->given.strings.left_handed ? -1 : 1;
    double z = 0;
    for (const BodyLayer& l : layers) {
      s_.layers.push_back({l, z, z - l.thickness});
      z -= l.thickness;
    }
    s_.thickness = -z;
  }

  Expected<BodyShape> make() {
    if (s_.layers.empty())
      return fail(ProblemKind::range, "the body has no layer", "body.layers", "Give at least one: body cherry 44");
    auto setup = work_out_setup(*s_.neck->board, s_.heel, b_);
    if (!setup) return tl::unexpected(setup.error());
    s_.setup = std::move(*setup);
    const double edge_x = s_.heel.end_x - b_.outline.pocket;
    s_.edge_middle = {edge_x, 0};
    s_.path = b_.outline.form == BodyForm::drawn && b_.outline.drawn.size() >= 2
                  ? b_.outline.drawn
                  : starting_outline(b_.outline, edge_x, s_.setup.bridge_middle.x, s_.heel.width / 2, s_.treble < 0);
    if (auto bad = check_outline(s_.path); !bad.empty()) return tl::unexpected(bad.front());
    s_.outline = to_contour(s_.path, 0.004);
    s_.corners = flatten(s_.outline, 0.002);
    if (s_.corners.size() > most_outline_chords)
      return fail(ProblemKind::range,
                  worded("the outline has {} short edges, and no more than {} can be planned", s_.corners.size(),
                         most_outline_chords),
                  "body.form", "Simplify it: fewer nodes, or curves in place of many short pieces");
    if (s_.setup.depth_end < 1 || s_.setup.depth_edge < 1)
      return fail(ProblemKind::range,
                  worded("the neck pocket would be {} deep at its end and {} at the edge",
                         format_mm(s_.setup.depth_end, 2), format_mm(s_.setup.depth_edge, 2)),
                  "body.pocket_depth", "Choose a lower bridge, a thicker heel, or let the tilt follow");
    s_.inside = std::make_shared<const RegionMask>(Region{s_.corners});
    s_.edge = Nearness(s_.corners, std::max({b_.comfort.round_face, b_.comfort.round_back, 1.0}) + 0.5);
    pocket();
    pickups();
    bridge();
    for (const DrawnCavity& d : b_.drawn)
      if (auto bad = drawn(d)) return tl::unexpected(*bad);
    std::size_t chords = 0;
    for (const Cavity& c : s_.cavities)
      for (const Polygon& ring : c.region) chords += ring.size();
    if (chords > most_cavity_chords)
      return fail(
          ProblemKind::range,
          worded("the cavities have {} short edges, and no more than {} can be planned", chords, most_cavity_chords),
          "body.cavities", "Simplify those that are drawn, or take some out");
    for (std::size_t i = 0; i < b_.holes.size(); ++i)
      if (auto bad = drawn_hole(b_.holes[i], i + 1)) return tl::unexpected(*bad);
    comfort();
    controls();
    covers_behind();
    rounded_floors();
    if (auto bad = scratch_plate()) return tl::unexpected(*bad);
    chambers();
    wires();
    by_layer();
    edges();
    if (auto bad = drawn_holes_met()) return tl::unexpected(*bad);
    return std::move(s_);
  }

 private:
  Cavity& add(std::string id, std::string title, std::string group, Region region, double floor, bool from_back,
              double corner, int layer = -1) {
    Cavity c;
    c.id = std::move(id);
    c.title = std::move(title);
    c.group = std::move(group);
    c.mask = std::make_shared<const RegionMask>(region);
    c.region = std::move(region);
    c.from_back = from_back;
    c.floor = floor;
    c.corner = corner;
    c.layer = layer;
    s_.cavities.push_back(std::move(c));
    return s_.cavities.back();
  }

  void pocket() {
    const NeckShape& n = *s_.neck;
    const double under = s_.heel.under();
    // The neck's own plan, laid on the sloping floor and seen from above; scaled to the measured width.
    Polygon plan;
    const double wide = s_.heel.designed_width > 0 ? s_.heel.width / s_.heel.designed_width : 1;
    for (const Vec2 p : n.corners) {
      const Vec3 q = s_.setup.frame.to_body({p.x, p.y * wide, -under});
      plan.push_back({q.x, q.y});
    }
    const double from = s_.edge_middle.x - opening;
    const Polygon window{{from, -400}, {s_.heel.end_x + 400, -400}, {s_.heel.end_x + 400, 400}, {from, 400}};
    // A pocket's end carries the cutter's radius; the heel is rounded to match.
    Region region = offset(intersected({plan}, {window}), b_.setup.fit + b_.setup.finish);
    // The open end, out in the waste, gets corners that any cutter goes round.
    constexpr double open_corner = 4;
    const Polygon within{{s_.edge_middle.x - 2, -400},
                         {s_.heel.end_x + 400, -400},
                         {s_.heel.end_x + 400, 400},
                         {s_.edge_middle.x - 2, 400}};
    region = joined(offset(offset(region, -open_corner), open_corner), intersected(region, {within}));
    Cavity& c = add("pocket", "Neck pocket", "pocket", std::move(region), -s_.setup.depth_end - b_.setup.finish, false,
                    n.given.heel.corner);
    c.slope = std::tan(s_.setup.tilt);
    c.slope_x = s_.heel.end_x;
    if (b_.setup.bolt_hole > 0 && n.given.joint == NeckJoint::bolted)
      for (const Hole& h : n.holes) {
        if (h.id.rfind("heel", 0) != 0) continue;
        const Vec3 q = s_.setup.frame.to_body({h.at.x, h.at.y * wide, -under});
        const std::string number = h.id.substr(h.id.rfind('-') + 1);
        if (b_.setup.bolt_sink_depth > 0)
          s_.holes.push_back({"sink-" + number,
                              "Sunk ring",
                              {q.x, q.y},
                              b_.setup.bolt_sink,
                              -s_.thickness,
                              b_.setup.bolt_sink_depth,
                              true,
                              false});
        s_.holes.push_back(
            {"bolt-" + number, "Neck bolt", {q.x, q.y}, b_.setup.bolt_hole, -s_.thickness, 0, true, true});
      }
  }

  void pickups() {
    const char* const names[] = {"neck", "middle", "bridge"};
    // Whole each, so that a catalogue has them.
    const char* const titles[] = {"Neck pickup", "Middle pickup", "Bridge pickup"};
    const char* const from_behind[] = {"Neck pickup, from behind", "Middle pickup, from behind",
                                       "Bridge pickup, from behind"};
    const char* const windows[] = {"Neck pickup's window", "Middle pickup's window", "Bridge pickup's window"};
    const char* const ears[] = {"Neck pickup, ears", "Middle pickup, ears", "Bridge pickup, ears"};
    const int last = static_cast<int>(s_.setup.strings.size());
    for (int k = 0; k < 3; ++k) {
      const PickupNumbers& size = b_.pickups[k];
      if (size.name == "none") continue;
      const Vec2 nut = (s_.setup.string_at(1, 1) + s_.setup.string_at(last, 1)) * 0.5;
      const double share = size.from_bridge / (s_.setup.bridge_middle.x - nut.x);
      const Vec2 bass = s_.setup.string_at(1, share);
      const Vec2 treble = s_.setup.string_at(last, share);
      BodyShape::Pickup p{
          names[k], size, (bass + treble) * 0.5, last > 1 ? unit(treble - bass) : Vec2{0, 1}, distance(bass, treble),
          0,        0};
      p.string_low = p.string_high = s_.setup.string_over_face(1, bass.x);
      for (int i = 2; i <= last; ++i) {
        const double z = s_.setup.string_over_face(i, s_.setup.string_at(i, share).x);
        p.string_low = std::min(p.string_low, z);
        p.string_high = std::max(p.string_high, z);
      }
      const std::string id = std::string("pickup-") + names[k];
      constexpr double c = pickup_clearance;
      if (size.behind) {
        // What shows goes through a window; the rest is screwed against the wood round it, from behind.
        const double length = std::max(size.length, size.ear_length) + 2 * size.seat;
        const double width = std::max(size.width, size.ear_length > size.length ? size.ear_width : 0) + 2 * size.seat;
        add(id, from_behind[k], id, {rounded_rectangle(p.middle, p.across, length, width, 6)}, -size.front_left, true,
            6);
        add(id + "-window", windows[k], id,
            {rounded_rectangle(p.middle, p.across, size.length + 2 * c, size.width + 2 * c, size.corner)},
            -size.front_left - 0.5, false, size.corner);
        s_.pickups.push_back(std::move(p));
        continue;
      }
      if (size.ear_length > size.length)
        add(id + "-ears", ears[k], id,
            {rounded_rectangle(p.middle, p.across, size.ear_length + 2 * c, size.ear_width + 2 * c,
                               size.ear_width / 2)},
            -size.ear_depth, false, size.ear_width / 2);
      add(id, titles[k], id,
          {rounded_rectangle(p.middle, p.across, size.length + 2 * c, size.width + 2 * c, size.corner)}, -size.depth,
          false, size.corner);
      s_.pickups.push_back(std::move(p));
    }
  }

  void bridge() {
    const BridgeNumbers& br = b_.bridge;
    const Vec2 across = s_.setup.bridge_across;
    Vec2 behind = left_of(across);
    if (behind.x < 0) behind = behind * -1.0;
    const Vec2 m = s_.setup.bridge_middle;
    if (br.kind == BridgeKind::posts) {
      for (const int side : {-1, 1})
        s_.holes.push_back({fmt::format("post-{}", side < 0 ? 1 : 2), "Bridge post",
                            m + behind * br.post_behind + across * (side * br.post_spacing / 2), br.post_diameter, 0,
                            br.post_depth, false, false});
      s_.bridge_plate =
          rounded_rectangle(m + behind * br.post_behind, across, br.post_spacing + br.post_diameter, 14, 6);
    } else if (br.kind == BridgeKind::pieces) {
      Polygon all;
      int number = 0;
      for (std::size_t i = 0; i < s_.setup.strings.size(); ++i) {
        // Each on its own scale point and along its own string.
        const Vec2 at = flat(s_.setup.strings[i].second);
        const Vec2 along = unit(at - flat(s_.setup.strings[i].first));
        const double wide = s_.neck->board->given.strings.piece_width;
        s_.bridge_pieces.push_back(rounded_rectangle(at + along * (br.piece_length / 2 - br.piece_ahead),
                                                     left_of(along), wide, br.piece_length, 1.5));
        all.insert(all.end(), s_.bridge_pieces.back().begin(), s_.bridge_pieces.back().end());
        for (int k = 0; k < br.piece_screws; ++k)
          s_.holes.push_back({fmt::format("piece-{}", ++number), "Bridge piece screw pilot",
                              at + along * (br.screw_behind + k * br.piece_pitch), br.screw_diameter, 0, br.screw_depth,
                              false, true});
        if (!br.string_through) continue;
        const Vec2 down = at + along * br.anchor_behind;
        s_.holes.push_back({fmt::format("string-{}", i + 1), "String hole", down, br.string_hole, 0, 0, false, true});
        s_.holes.push_back({fmt::format("ferrule-{}", i + 1), "Ferrule", down, br.ferrule, -s_.thickness,
                            br.ferrule_depth, true, false});
      }
      s_.bridge_plate = hull_of(all);
      return;
    } else {
      const double middle = br.plate_length / 2 - br.plate_ahead;
      s_.bridge_plate = rounded_rectangle(m + behind * middle, across, br.plate_width, br.plate_length, 3);
      for (int i = 0; i < br.screws; ++i) {
        const double t = br.screws > 1 ? static_cast<double>(i) / (br.screws - 1) - 0.5 : 0;
        s_.holes.push_back({fmt::format("plate-{}", i + 1), "Bridge screw pilot",
                            m + behind * br.screw_behind + across * (t * (br.plate_width - 14)), br.screw_diameter, 0,
                            br.screw_depth, false, true});
      }
    }
    if (!br.string_through) return;
    for (std::size_t i = 0; i < s_.setup.strings.size(); ++i) {
      // Where the string's line, carried on, meets the one straight row.
      const Vec2 nut = flat(s_.setup.strings[i].first);
      const Vec2 saddle = flat(s_.setup.strings[i].second);
      const auto at = meet(saddle, saddle - nut, m + behind * br.anchor_behind, across);
      if (!at) continue;
      s_.holes.push_back({fmt::format("string-{}", i + 1), "String hole", *at, br.string_hole, 0, 0, false, true});
      s_.holes.push_back(
          {fmt::format("ferrule-{}", i + 1), "Ferrule", *at, br.ferrule, -s_.thickness, br.ferrule_depth, true, false});
    }
  }

  /// Lowest place of the carved face over a region, looked at along its rings and inside.
  [[nodiscard]] double lowest_face(const Region& region) const {
    if (!s_.carved_face()) return 0;
    double z = 0;
    Box2 box;
    for (const Polygon& p : region)
      for (const Vec2 q : p) {
        z = std::min(z, s_.carved_top(q));
        box.add(q);
      }
    for (double x = box.low.x; x < box.high.x; x += 4)
      for (double y = box.low.y; y < box.high.y; y += 4)
        if (contains(region, {x, y})) z = std::min(z, s_.carved_top({x, y}));
    return z;
  }

  void controls() {
    const ControlNumbers& c = b_.controls;
    if (c.pots <= 0) return;
    const Vec2 m{s_.setup.bridge_middle.x, 0};
    const double side = s_.treble;
    const Vec2 along{std::cos(c.angle_deg * degree), std::sin(c.angle_deg * degree) * side};
    const Vec2 first = m + Vec2{c.first_behind, c.first_aside * side};
    std::vector<Vec2> row;
    if (c.switch_kind != SwitchKind::none) row.push_back(first + Vec2{-c.switch_ahead, c.switch_aside * side});
    for (int i = 0; i < c.pots; ++i) row.push_back(first + along * (i * c.pitch));
    const Vec2 switch_at = row.front();
    const Vec2 slot_way = unit(row.size() > 1 ? row[1] - row[0] : along);
    const double half_slot = c.switch_kind == SwitchKind::blade ? c.switch_length / 2 : 0;
    if (half_slot > 0) row.insert(row.begin(), switch_at - slot_way * half_slot);  // room for a blade switch's far end
    const double back = -s_.thickness;
    const Polygon hole = buffer_of(row, c.round);
    const Polygon ledge = buffer_of(row, c.round + c.ledge);
    add("ledge", "Cover's ledge", "control", {ledge}, back + c.ledge_depth, true, c.round + c.ledge);
    // Wood left in front is measured from the face as it is carved, where it is lowest over each place.
    const double face = lowest_face({hole});
    add("control", "Control cavity", "control", {hole}, face - c.face_left, true, c.round);
    const double sunk = c.knob_recess > 0 ? c.knob_depth : 0;
    const double at_shaft = std::min(c.face_left, c.bushing_left + sunk);  // from the face to the cavity
    const auto first_pot = row.begin() + (c.switch_kind == SwitchKind::none ? 0 : half_slot > 0 ? 2 : 1);
    s_.controls.assign(first_pot, row.end());
    int number = 0;
    for (const Vec2 at : s_.controls) {
      ++number;
      if (at_shaft < c.face_left)
        add(fmt::format("thin-{}", number), worded("Thinned at shaft {}", number), "control",
            {circle_polygon(at, c.thin_round / 2)}, lowest_face({circle_polygon(at, c.thin_round / 2)}) - at_shaft,
            true, c.thin_round / 2);
      if (sunk > 0)
        add(fmt::format("knob-{}", number), worded("Knob {}'s recess", number), "control",
            {circle_polygon(at, c.knob_recess / 2)}, lowest_face({circle_polygon(at, c.knob_recess / 2)}) - sunk, false,
            c.knob_recess / 2);
      s_.holes.push_back(
          {fmt::format("shaft-{}", number), "Shaft hole", at, c.shaft, 0, at_shaft + 0.5 - face, false, false});
    }
    if (c.switch_kind != SwitchKind::none) {
      const Vec2 at = switch_at;
      s_.controls.push_back(at);
      const Polygon thin =
          half_slot > 0 ? buffer_of({at - slot_way * half_slot, at + slot_way * half_slot}, std::min(8.0, c.round - 1))
                        : circle_polygon(at, std::min(c.thin_round / 2, c.round - 0.5));
      // Only what lies within the cavity can be thinned.
      const Region thin_place = offset(offset(intersected({thin}, offset({hole}, -0.5)), -3.4), 3.4);
      if (c.bushing_left < c.face_left && !thin_place.empty())
        add("thin-switch", "Thinned at the switch", "control", thin_place, lowest_face(thin_place) - c.bushing_left,
            true, std::min(8.0, c.thin_round / 2));
      if (c.switch_kind == SwitchKind::toggle) {
        s_.holes.push_back(
            {"shaft-switch", "Switch hole", at, c.switch_hole, 0, c.bushing_left + 0.5 - face, false, false});
      } else {
        add("switch", "Switch slot", "control",
            {buffer_of({at - slot_way * (c.switch_length / 2 - 0.8), at + slot_way * (c.switch_length / 2 - 0.8)},
                       0.8)},
            face - c.bushing_left - 0.5, false, 0.8);
      }
    }
    cover_over("cover", "Control cover", ledge, hole,
               buffer_of(row, c.round + c.ledge - c.cover_clearance - c.cover_finish),
               buffer_of(row, c.round + c.ledge / 2), c.holds, "hold");
  }

  /// A cover in its ledge, held round it. `round`: where its screws or magnets stand.
  void cover_over(const std::string& id, const std::string& title, const Polygon& ledge, const Polygon& inside,
                  Polygon outline, const Polygon& round, int holds, const std::string& hold) {
    const ControlNumbers& c = b_.controls;
    Cover cover;
    cover.id = id;
    cover.title = title;
    cover.ledge = ledge;
    cover.inside = inside;
    cover.clearance = c.cover_clearance + c.cover_finish;
    cover.outline = std::move(outline);
    cover.thickness = c.cover_thickness;
    cover.thinned = c.cover_thinned;
    Contour walk;
    for (const Vec2 p : round) walk.push_back({p, 0});
    const double whole = perimeter(walk);
    const double start = std::abs(whole) * 0.02;
    for (int i = 0; i < holds && whole > 0; ++i) {
      const Vec2 at = place_along(walk, start + whole * i / holds).at;
      const bool screws = c.hold == CoverHold::screws;
      s_.holes.push_back({fmt::format("{}-{}", hold, i + 1), screws ? "Cover screw pilot" : "Magnet in the ledge", at,
                          screws ? c.screw : c.magnet, -s_.thickness + c.ledge_depth, screws ? 10 : c.magnet_depth,
                          true, screws});
      cover.holds.push_back({fmt::format("cover-{}-{}", hold, i + 1), screws ? "Screw hole" : "Magnet", at,
                             screws ? c.screw + 1.2 : c.magnet, 0,
                             screws ? 0 : std::min(c.magnet_depth, c.cover_thickness - 0.8), true, false});
    }
    s_.covers.push_back(std::move(cover));
  }

  /// Over pickups that are let in from behind.
  void covers_behind() {
    const ControlNumbers& c = b_.controls;
    for (const BodyShape::Pickup& p : s_.pickups) {
      const PickupNumbers& size = p.size;
      if (!size.behind) continue;
      const std::string id = "pickup-" + p.which;
      const double length = std::max(size.length, size.ear_length) + 2 * size.seat;
      const double width = std::max(size.width, size.ear_length > size.length ? size.ear_width : 0) + 2 * size.seat;
      const auto round_it = [&](double more) {
        return rounded_rectangle(p.middle, p.across, length + 2 * more, width + 2 * more, 6 + more);
      };
      const Polygon ledge = round_it(c.ledge);
      add(id + "-ledge", "Ledge over the " + p.which + " pickup", id, {ledge}, -s_.thickness + c.ledge_depth, true,
          6 + c.ledge);
      cover_over("cover-" + p.which,
                 std::string(1, static_cast<char>(std::toupper(p.which[0]))) + p.which.substr(1) + " pickup's cover",
                 ledge, round_it(0), round_it(c.ledge - c.cover_clearance - c.cover_finish), round_it(c.ledge / 2), 4,
                 "hold-" + p.which);
    }
  }

  /// Floors whose edges a round nose rounds: of the control cavity and of those that are drawn; nothing is fitted down
  /// there.
  void rounded_floors() {
    if (b_.floors != FloorEdge::rounded || b_.floor_radius <= 0) return;
    for (Cavity& c : s_.cavities) {
      if (c.id != "control" && !c.id.starts_with("drawn-")) continue;
      // As the round nose leaves it: no corner is tighter than its radius.
      const Region open = offset(offset(c.region, -b_.floor_radius), b_.floor_radius);
      if (open.empty()) continue;
      c.round = b_.floor_radius;
      c.corner = std::max(c.corner, c.round);
      c.region = open;
      c.mask = std::make_shared<const RegionMask>(c.region);
      c.rim = std::make_shared<const Nearness>(c.region, c.round + 0.5);
    }
  }

  /// Goes round what it covers, or is drawn; its screws stand along its edge.
  [[nodiscard]] std::optional<Problem> scratch_plate() {
    const ScratchPlate& plate = b_.plate;
    if (plate.thickness <= 0) return {};
    if (!plate.drawn.empty()) {
      s_.scratch_plate = flatten(to_contour(plate.drawn, 0.004), 0.002);
      if (s_.scratch_plate.size() < 3 || first_crossing(s_.scratch_plate))
        return Problem{ProblemKind::range, "the scratch plate's outline crosses itself or encloses nothing",
                       "plate.thickness", "Draw it again, or set its thickness to 0"};
      if (signed_area(s_.scratch_plate) < 0) std::reverse(s_.scratch_plate.begin(), s_.scratch_plate.end());
    } else {
      Polygon under;
      if (plate.pickups)
        for (const Cavity& c : s_.cavities)
          if (c.group.starts_with("pickup") && !c.from_back)
            for (const Polygon& ring : c.region) under.insert(under.end(), ring.begin(), ring.end());
      if (plate.controls)
        for (const Vec2 at : s_.controls)
          for (const Vec2 q : circle_polygon(at, b_.controls.thin_round / 2)) under.push_back(q);
      const Polygon hull = hull_of(under);
      if (hull.size() < 3) return {};
      const Region wide = offset({hull}, plate.beyond);
      if (wide.empty()) return {};
      // The neck stands in its pocket, and the plate ends before it.
      Region left{wide.front()};
      if (const Cavity* pocket = s_.cavity("pocket"); pocket != nullptr)
        left = subtracted(left, offset(pocket->region, 1.0));
      left = offset(offset(left, -3.0), 3.0);
      if (const Polygon* most = widest(left); most != nullptr) s_.scratch_plate = *most;
    }
    const Region inset = offset({s_.scratch_plate}, -plate.inset);
    if (inset.empty()) return {};
    Contour walk;
    for (const Vec2 p : inset.front()) walk.push_back({p, 0});
    const double whole = perimeter(walk);
    for (int i = 0; i < plate.screws; ++i) {
      const Vec2 at = place_along(walk, whole * (i + 0.5) / plate.screws).at;
      // No screw where there is no wood for it.
      const bool open = std::any_of(s_.cavities.begin(), s_.cavities.end(), [&](const Cavity& c) {
        return !c.from_back && c.layer < 0 &&
               (c.holds(at) || Nearness(c.region, plate.screw + 2).distance_within(at) < plate.screw + 1);
      });
      if (open || !s_.inside->holds(at)) continue;
      s_.holes.push_back(
          {fmt::format("guard-{}", i + 1), "Scratch plate's screw pilot", at, plate.screw - 0.7, 0, 10, false, true});
    }
    return {};
  }

  [[nodiscard]] std::optional<Problem> drawn(const DrawnCavity& d) {
    Polygon p = flatten(to_contour(d.outline, 0.004), 0.002);
    const std::string where = "body.cavities";
    if (p.size() < 3 || first_crossing(p))
      return Problem{ProblemKind::range, worded("the cavity '{}' crosses itself or encloses nothing", d.name), where,
                     "Draw it again or take it out"};
    if (signed_area(p) < 0) std::reverse(p.begin(), p.end());
    // Its id becomes part of file names; two of one name are told apart.
    const std::string base = "drawn-" + file_safe(d.name);
    std::string id = base;
    for (int k = 2; std::any_of(s_.cavities.begin(), s_.cavities.end(), [&](const Cavity& c) { return c.id == id; });
         ++k)
      id = fmt::format("{}-{}", base, k);
    add(id, d.name, id, {std::move(p)}, d.from_back ? -s_.thickness + d.depth : -d.depth, d.from_back, 1e9);
    return {};
  }

  [[nodiscard]] std::optional<Problem> drawn_hole(const DrawnHole& h, std::size_t number) {
    const auto wrong = [&](Words what, Words todo) {
      return Problem{ProblemKind::range, worded("the hole '{}' {}", h.name, what), "body.holes", std::move(todo)};
    };
    if (!contains(s_.corners, h.at)) return wrong("lies outside the outline", "Move it or take it out");
    // Drills and cutters end in wood: what goes through the body goes through whatever it lies on.
    constexpr double floor = 1;
    if (h.depth > s_.thickness - floor)
      return wrong(worded("is {} deep in a body of {}", mm(h.depth), mm(s_.thickness)),
                   worded("Leave {} under it, and drill through by hand", exact_mm(floor)));
    s_.holes.push_back({fmt::format("drawn-{}", number), h.name.empty() ? "Drawn hole" : h.name, h.at, h.diameter,
                        h.from_back ? -s_.thickness : 0, h.depth, h.from_back, h.diameter < 4});
    return {};
  }

  /// A drawn hole that leaves no floor over what is cut from the other side, or lies hidden under it.
  [[nodiscard]] std::optional<Problem> drawn_holes_met() const {
    constexpr double floor = 1;
    for (const DrawnHole& h : b_.holes) {
      const double bottom = h.from_back ? -s_.thickness + h.depth : -h.depth;
      for (int k = 0; k <= 16; ++k) {
        const double w = 2 * std::numbers::pi * k / 16;
        const Vec2 p = h.at + Vec2{std::cos(w), std::sin(w)} * (k == 16 ? 0 : h.diameter / 2);
        for (const Cavity& c : s_.cavities) {
          const bool hidden = c.layer >= 0;
          if ((!hidden && c.from_back == h.from_back) || !c.holds(p)) continue;
          const double top = hidden ? s_.layers[static_cast<std::size_t>(c.layer)].top : c.floor_at(p);
          const double left = h.from_back ? c.floor_at(p) - bottom : bottom - top;
          if (left < floor)
            return Problem{ProblemKind::range,
                           worded("the hole '{}' leaves {} to '{}', which is not cut from its side", h.name,
                                  mm(std::max(0.0, left)), c.title),
                           "body.holes", "Make it shallower or move it; what is to run into it is drilled by hand"};
        }
      }
    }
    return {};
  }

  void comfort() {
    const ComfortNumbers& c = b_.comfort;
    const double bass = -s_.treble;
    const double a = c.bevel_angle_deg * degree;
    s_.bevel_normal = {std::sin(a), bass * std::cos(a)};
    double most = -1e9;
    for (const Vec2 p : s_.corners) most = std::max(most, dot(p, s_.bevel_normal));
    s_.bevel_from = most - c.bevel_reach;
    const double g = c.belly_angle_deg * degree;
    s_.belly_normal = {-std::sin(g), bass * std::cos(g)};
    // The waist on the bass side: where the outline comes nearest the centre line between the neck's edge and the
    // bridge.
    double least = 1e9;
    for (const Vec2 p : s_.corners)
      if (p.y * bass > 20 && p.x > s_.edge_middle.x + 20 && p.x < s_.setup.bridge_middle.x && std::abs(p.y) < least) {
        least = std::abs(p.y);
        s_.belly_at = p;
      }
    if (c.carve == CarveKind::drawn && c.lines.size() >= 2) {
      std::vector<FairSample> samples;
      const Box2 box = bounds(s_.corners);
      for (const auto& line : c.lines)
        for (const Vec2 q : line.points) samples.push_back({line.x, q.x, q.y, 1});
      FairOptions options;
      options.u0 = box.low.x - 5;
      options.u1 = box.high.x + 5;
      options.v0 = box.low.y - 5;
      options.v1 = box.high.y + 5;
      options.pieces_u = 14;
      options.pieces_v = 12;
      options.within = c.fair_within;
      if (auto fit = fit_fair(samples, options)) s_.carved = fit->surface;
    }
    if (c.carve == CarveKind::flat) return;
    // What must stay flat: neck, pickups and bridge.
    Region keep{s_.bridge_plate};
    for (const Cavity& v : s_.cavities)
      if (!v.from_back && v.layer < 0) keep = joined(keep, v.region);
    keep = offset(keep, c.carve_flat);
    const RegionMask kept(keep, 1.0);
    const Nearness beside(keep, carve_blend + 0.5);
    const Nearness rim(s_.corners, c.carve_reach + 0.5);
    const SplineSurface drawn_face = s_.carved;
    const auto depth = [&](Vec2 p) {
      const double raw =
          c.carve == CarveKind::dome
              ? c.carve_drop * (1 - smooth_step((s_.inside->holds(p) ? rim.distance_within(p) : 0) / c.carve_reach))
          : drawn_face.empty() ? 0.0
                               : std::max(0.0, drawn_face.value(p.x, p.y));
      return raw <= 0 || kept.holds(p) ? 0.0 : raw * smooth_step(beside.distance_within(p) / carve_blend);
    };
    // Distances have creases where two edges are equally near. The face is the uniform cubic spline whose coefficients
    // are these depths: a running mean over two cells either way, smooth to the second derivative and level where
    // everything round about is.
    constexpr double cell = 4;
    const Box2 box = bounds(s_.corners);
    const int nu = static_cast<int>(std::ceil((box.size().x + 24) / cell));
    const int nv = static_cast<int>(std::ceil((box.size().y + 24) / cell));
    const Vec2 low = box.middle() - Vec2{nu * cell / 2, nv * cell / 2};
    std::vector<double> coefficients;
    for (int i = 0; i < nu + 3; ++i)
      for (int k = 0; k < nv + 3; ++k) coefficients.push_back(depth({low.x + (i - 1) * cell, low.y + (k - 1) * cell}));
    s_.carved = SplineSurface(low.x, low.x + nu * cell, nu, low.y, low.y + nv * cell, nv, std::move(coefficients));
  }

  void chambers() {
    const ChamberNumbers& c = b_.chambers;
    if (c.sides == ChamberSides::none || s_.layers.size() < 2) return;
    Region all = offset({s_.corners}, -c.wall);
    // Taken off at once: the outline has thousands of corners, and every subtraction walks all of them.
    Region kept_free;
    for (const Cavity& v : s_.cavities)
      for (Polygon& ring : offset(v.region, c.gap)) kept_free.push_back(std::move(ring));
    for (const BodyHole& h : s_.holes) kept_free.push_back(circle_polygon(h.at, h.diameter / 2 + c.gap));
    all = subtracted(all, kept_free);
    const Box2 box = bounds(s_.corners);
    for (const double side : {-1.0, 1.0}) {
      const bool bass = side == -s_.treble;
      if (c.sides == ChamberSides::bass && !bass) continue;
      if (c.sides == ChamberSides::treble && bass) continue;
      Polygon half{{box.low.x - 9, side * c.middle},
                   {box.high.x + 9, side * c.middle},
                   {box.high.x + 9, side * 2000},
                   {box.low.x - 9, side * 2000}};
      if (side < 0) std::reverse(half.begin(), half.end());
      // Opened: corners take the radius, and necks narrower than twice it go.
      const Region kept = offset(offset(intersected(all, {half}), -c.corner), c.corner);
      int number = 0;
      for (Region& part : parts_of(kept)) {
        if (area(part) < 900) continue;  // a chamber smaller than 30 × 30 saves no weight worth its cut
        const std::string id = fmt::format("chamber-{}-{}", bass ? "bass" : "treble", ++number);
        add(id, bass ? "Chamber, bass side" : "Chamber, treble side", id, std::move(part), -s_.thickness + c.floor,
            false, c.corner, 1);
      }
    }
  }

  /// What is open in the glued body and yet cut before it is glued.
  void by_layer() {
    if (s_.layers.size() < 2) return;
    const char* const which[] = {"pickup-neck", "pickup-middle", "pickup-bridge"};
    for (Cavity& c : s_.cavities) {
      if (c.layer >= 0) continue;
      if (c.group == "control") c.by_layer = c.from_back && b_.controls.by_layer;
      for (int k = 0; k < 3; ++k)
        if (c.group == which[k]) c.by_layer = b_.pickups[k].by_layer;
    }
  }

  /// Channels for wires under a glued top: from cavity to cavity along straight lines.
  void wires() {
    const WireNumbers& w = b_.wires;
    if (w.width <= 0 || s_.layers.size() < 2) return;
    std::vector<Vec2> stops;
    for (const auto& p : s_.pickups) stops.push_back(p.middle);
    const double floor = s_.layers[1].top - w.depth;
    int number = 0;
    const auto channel = [&](Vec2 a, Vec2 b) {
      add(fmt::format("wire-{}", ++number), "Wire channel", "wire", {buffer_of({a, b}, w.width / 2)}, floor, false,
          w.width / 2, 1);
    };
    for (std::size_t i = 0; i + 1 < stops.size(); ++i) channel(stops[i], stops[i + 1]);
    if (!stops.empty() && !s_.controls.empty()) {
      channel(stops.back(), s_.controls.front());
      // Ground wire to the bridge: to its first post, or under its plate.
      Vec2 ground = s_.setup.bridge_middle;
      for (const BodyHole& h : s_.holes)
        if (h.id == "post-2") ground = h.at;
      Vec2 nearest = s_.controls.front();
      for (const Vec2 p : s_.controls)
        if (distance(p, ground) < distance(nearest, ground)) nearest = p;
      channel(ground, nearest);
    }
  }

  void edges() {
    const WireNumbers& w = b_.wires;
    const auto inward_at = [&](Vec2 at) {
      const Vec2 along = place_along(s_.outline,
                                     [&] {
                                       double s = 0;
                                       double best = 0;
                                       double least = 1e300;
                                       for (std::size_t i = 0; i < s_.corners.size(); ++i) {
                                         const Vec2 p = s_.corners[i];
                                         const Vec2 q = s_.corners[(i + 1) % s_.corners.size()];
                                         const double l = distance(p, q);
                                         const double t =
                                             l > 0 ? std::clamp(dot(at - p, q - p) / (l * l), 0.0, 1.0) : 0;
                                         if (const double d = distance(at, lerp(p, q, t)); d < least) {
                                           least = d;
                                           best = s + t * l;
                                         }
                                         s += l;
                                       }
                                       return best;
                                     }())
                             .along;
      return left_of(along);  // counter-clockwise: the inside is on the left
    };
    const auto job = [&](std::string id, std::string title, Vec2 at, double angle, double diameter, double depth) {
      Vec2 in = inward_at(at);
      in = {in.x * std::cos(angle) - in.y * std::sin(angle), in.x * std::sin(angle) + in.y * std::cos(angle)};
      const Vec2 inside = at + in * 6;
      const double top = s_.top(inside);
      const double bottom = s_.bottom(inside);
      s_.edge_jobs.push_back(
          {std::move(id), std::move(title), at, in, diameter, depth, (top + bottom) / 2, top - bottom, ""});
      return &s_.edge_jobs.back();
    };
    if (w.jack > 0 && b_.controls.pots > 0) {
      const auto ys = crossings(s_.corners, {s_.setup.bridge_middle.x + w.jack_behind, 0}, {0, 1});
      if (!ys.empty()) {
        EdgeJob* j =
            job("jack", "Jack hole", {s_.setup.bridge_middle.x + w.jack_behind, s_.treble > 0 ? ys.back() : ys.front()},
                w.jack_angle_deg * degree, w.jack, 0);
        const Cavity* control = s_.cavity("control");
        for (double t = 2; t < 160 && control != nullptr; t += 0.25)
          if (control->holds(j->at + j->inward * t)) {
            j->depth = t + 3;
            j->wall = t;
            j->reaches = "control";
            break;
          }
        if (j->depth == 0) j->depth = 30;
        const Vec2 tangent = left_of(j->inward) * -1.0;
        for (const Vec2 p : s_.corners)
          if (std::abs(dot(p - j->at, tangent)) <= practice::jack_plate / 2 &&
              distance(p, j->at) < practice::jack_plate)
            j->bulge = std::max(j->bulge, std::abs(dot(p - j->at, j->inward)));
        // Under the wood left in front of the cavity it runs into.
        if (!j->reaches.empty()) j->z = std::min(j->z, control->floor - w.jack / 2);
      }
    }
    Vec2 horn = s_.corners.front();
    Vec2 tail = s_.corners.front();
    for (const Vec2 p : s_.corners) {
      if (p.y * -s_.treble > s_.heel.width / 2 + 8 && (horn.y * -s_.treble <= s_.heel.width / 2 + 8 || p.x < horn.x))
        horn = p;
      if (p.x > tail.x) tail = p;
    }
    job("strap-horn", "Strap button, horn", horn, 0, w.strap_pilot, w.strap_depth);
    job("strap-tail", "Strap button, tail", tail, 0, w.strap_pilot, w.strap_depth);
  }

  const Body& b_;
  BodyShape s_;
};

}  // namespace

RegionMask::RegionMask(Region region, double cell) : region_(std::move(region)), cell_(cell) {
  Box2 box;
  for (const Polygon& p : region_)
    for (const Vec2 q : p) box.add(q);
  if (region_.empty() || box.low.x > box.high.x) {
    columns_ = rows_ = 0;
    return;
  }
  low_ = box.low - Vec2{cell, cell};
  columns_ = static_cast<int>(box.size().x / cell) + 3;
  rows_ = static_cast<int>(box.size().y / cell) + 3;
  cells_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), 0);
  row_edges_.resize(static_cast<std::size_t>(rows_));
  for (const Polygon& p : region_)
    for (std::size_t i = 0; i < p.size(); ++i) {
      const Segment2 e{p[i], p[(i + 1) % p.size()]};
      const int j0 = std::clamp(static_cast<int>((std::min(e.a.y, e.b.y) - low_.y) / cell), 0, rows_ - 1);
      const int j1 = std::clamp(static_cast<int>((std::max(e.a.y, e.b.y) - low_.y) / cell), 0, rows_ - 1);
      for (int j = j0; j <= j1; ++j) row_edges_[static_cast<std::size_t>(j)].push_back(e);
    }
  // Inside by the rows' crossings; then every cell that an edge passes is marked.
  for (int j = 0; j < rows_; ++j) {
    std::vector<double> edges;
    const double y = low_.y + (j + 0.5) * cell;
    for (const Segment2& e : row_edges_[static_cast<std::size_t>(j)])
      if ((e.a.y > y) != (e.b.y > y)) edges.push_back(e.a.x + (e.b.x - e.a.x) * (y - e.a.y) / (e.b.y - e.a.y));
    std::sort(edges.begin(), edges.end());
    for (std::size_t k = 0; k + 1 < edges.size(); k += 2) {
      const int i0 = static_cast<int>((edges[k] - low_.x) / cell);
      const int i1 = static_cast<int>((edges[k + 1] - low_.x) / cell);
      for (int i = i0; i <= i1; ++i) cells_[cell_at(i, j)] = 1;
    }
  }
  for (const Polygon& p : region_)
    for (std::size_t i = 0; i < p.size(); ++i) {
      const Vec2 a = p[i];
      const Vec2 b = p[(i + 1) % p.size()];
      const int n = std::max(1, static_cast<int>(distance(a, b) / (cell * 0.5)));
      for (int k = 0; k <= n; ++k) {
        const Vec2 q = lerp(a, b, static_cast<double>(k) / n);
        const int ci = static_cast<int>((q.x - low_.x) / cell);
        const int cj = static_cast<int>((q.y - low_.y) / cell);
        for (int dj = -1; dj <= 1; ++dj)
          for (int di = -1; di <= 1; ++di)
            if (ci + di >= 0 && cj + dj >= 0 && ci + di < columns_ && cj + dj < rows_)
              cells_[cell_at(ci + di, cj + dj)] = 2;
      }
    }
}

bool RegionMask::holds(Vec2 p) const {
  const int i = static_cast<int>(std::floor((p.x - low_.x) / cell_));
  const int j = static_cast<int>(std::floor((p.y - low_.y) / cell_));
  if (i < 0 || j < 0 || i >= columns_ || j >= rows_) return false;
  const std::uint8_t c = cells_[cell_at(i, j)];
  if (c != 2) return c == 1;
  bool in = false;
  for (const Segment2& e : row_edges_[static_cast<std::size_t>(j)])
    if ((e.a.y > p.y) != (e.b.y > p.y) && p.x < (e.b.x - e.a.x) * (p.y - e.a.y) / (e.b.y - e.a.y) + e.a.x) in = !in;
  return in;
}

double Cavity::lift(Vec2 p) const {
  return round > 0 && rim ? rounding(round, mask->holds(p) ? rim->distance_within(p) : 0) : 0;
}

double BodyShape::carved_top(Vec2 p) const {
  const ComfortNumbers& c = given.comfort;
  double z = 0;
  if (!carved.empty()) z = -std::max(0.0, carved.value(p.x, p.y));
  if (c.bevel_depth > 0)
    z = std::min(z, -c.bevel_depth * bevel_share((dot(p, bevel_normal) - bevel_from) / c.bevel_reach));
  return z;
}

double BodyShape::carved_bottom(Vec2 p) const {
  const ComfortNumbers& c = given.comfort;
  double z = -thickness;
  if (c.belly_depth > 0) {
    constexpr double half = 105;  // of the scoop along its line
    const double t = dot(p - belly_at, left_of(belly_normal)) / half;
    if (std::abs(t) < 1) {
      const double window = (1 - t * t) * (1 - t * t);
      z += c.belly_depth * window * bevel_share((dot(p - belly_at, belly_normal) + c.belly_reach) / c.belly_reach);
    }
  }
  return z;
}

double BodyShape::top(Vec2 p) const {
  const double r = given.comfort.round_face;
  return carved_top(p) - (r > 0 ? rounding(r, inside->holds(p) ? edge.distance_within(p) : 0) : 0);
}

double BodyShape::bottom(Vec2 p) const {
  const double r = given.comfort.round_back;
  return carved_bottom(p) + (r > 0 ? rounding(r, inside->holds(p) ? edge.distance_within(p) : 0) : 0);
}

double BodyShape::finished_top(Vec2 p) const {
  double z = top(p);
  for (const Cavity& c : cavities)
    if (!c.from_back && c.layer < 0 && c.holds(p)) z = std::min(z, c.bed_at(p));
  for (const BodyHole& h : holes)
    if (!h.from_back && distance(p, h.at) <= h.diameter / 2) z = h.depth == 0 ? -1e6 : std::min(z, h.from - h.depth);
  return z;
}

double BodyShape::finished_bottom(Vec2 p) const {
  double z = bottom(p);
  for (const Cavity& c : cavities)
    if (c.from_back && c.layer < 0 && c.holds(p)) z = std::max(z, c.bed_at(p));
  for (const BodyHole& h : holes)
    if (h.from_back && distance(p, h.at) <= h.diameter / 2) z = h.depth == 0 ? 1e6 : std::max(z, h.from + h.depth);
  return z;
}

const Cavity* BodyShape::cavity(const std::string& id) const {
  for (const Cavity& c : cavities)
    if (c.id == id) return &c;
  return nullptr;
}

Expected<BodyShape> make_body(std::shared_ptr<const NeckShape> neck, const HeelInUse& heel, const Body& body,
                              const std::vector<BodyLayer>& layers) {
  return BodyMaker(std::move(neck), heel, body, layers).make();
}

}  // namespace wren
