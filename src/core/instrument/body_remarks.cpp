#include "core/instrument/body_remarks.hpp"

#include <algorithm>
#include <map>
#include <numbers>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {

Words pickup_name(const std::string& which) {
  return which == "neck" ? "neck pickup" : which == "middle" ? "middle pickup" : "bridge pickup";
}
namespace {

constexpr double degrees = 180 / std::numbers::pi;

std::string num(double v) { return format_mm(std::round(v * 100) / 100, 2); }

class Judge {
 public:
  Judge(const BodyShape& s, const BodyBalance& b, double fine) : s_(s), b_(b), fine_(fine) {}

  std::vector<Remark> run() {
    setup();
    thin();
    overlaps();
    pickups();
    switch_depth();
    corners();
    edges();
    layers();
    hang_way();
    return std::move(out_);
  }

 private:
  Remark& say(const char* kind, Weight weight, Words text, double number, double limit, const char* unit,
              const char* source, std::string place) {
    out_.push_back({kind, weight, std::move(text), number, limit, unit, source, std::move(place), {}, {}, {}});
    return out_.back();
  }
  static void way(Remark& r, Repair repair) {
    if (!r.repair)
      r.repair = std::move(repair);
    else
      r.others.push_back(std::move(repair));
  }

  void setup() {
    const Body& g = s_.given;
    const BodySetup& st = s_.setup;
    const bool tilt_follows = g.setup.follows == PocketFollows::tilt;
    {
      Remark& r = say("body.setup", Weight::worth_knowing,
                      worded("{}: the pocket is {} deep at the heel's end and {} at the edge, tilted {:.2f}°; the "
                             "board's underside stands {} over the face there.",
                             g.setup.school == SetupSchool::action
                                 ? "For the action wanted"
                                 : "With strings flat on the frets and the saddles at their lowest",
                             mm(st.depth_end), mm(st.depth_edge), st.tilt * degrees, mm(st.board_over_face)),
                      st.depth_end, 0, "mm", "plane trigonometry from the bridge's heights",
                      tilt_follows ? "body.pocket_depth" : "body.pocket_tilt");
      r.at = std::pair{s_.edge_middle.x, 0.0};
      way(r, {g.setup.school == SetupSchool::action ? "Work out from strings flat on the frets instead"
                                                    : "Work out from the action wanted instead",
              {{"body.school", g.setup.school == SetupSchool::action ? "flat" : "action"}}});
    }
    const double up = st.least_up;
    const double down = st.least_down;
    if (std::min(up, down) < practice::saddle_travel_least - 1e-6) {
      const bool stops = up < 0 || down < 0;
      const bool low = down < up;
      Remark& r =
          say("body.saddle_travel", stops ? Weight::stop : Weight::think_again,
              worded("At the action wanted the saddles can go {} further up and {} down; {} each way is asked for.",
                     mm(up), mm(down), mm(practice::saddle_travel_least)),
              std::min(up, down), practice::saddle_travel_least, "mm", "common practice", "body.reserve");
      if (g.setup.school == SetupSchool::flat && low)
        way(r, {"Design to the action wanted", {{"body.school", "action"}, {"body.reserve", "1"}}});
      if (g.setup.school == SetupSchool::action && low)
        way(r, {worded("Saddles {} over lowest: {}", mm(practice::saddle_travel_least + 0.2),
                       tilt_follows ? "more tilt" : "shallower pocket"),
                {{"body.reserve", num(practice::saddle_travel_least + 0.2)}}});
      if (g.setup.school == SetupSchool::action && !low)
        way(r, {"Let the saddles stand at half their range",
                {{"body.reserve", num(std::max(0.0, (g.bridge.high - g.bridge.low) / 2 - 1))}}});
    }
    if (st.tilt < -0.05 / degrees)
      say("body.tilt_forward", Weight::think_again,
          worded("The neck would tilt forwards by {:.2f}°: the bridge is too low for a pocket of this depth.",
                 -st.tilt * degrees),
          st.tilt * degrees, 0, "°", "common practice", "body.pocket_depth")
          .repair =
          Repair{"No tilt: let the pocket's depth follow", {{"body.follows", "depth"}, {"body.pocket_tilt", "0"}}};
    else if (st.tilt > 4.5 / degrees) {
      const double less = s_.given.setup.depth - 1.5;
      say("body.tilt_steep", Weight::think_again,
          worded("The neck tilts by {:.2f}°; 1 to 4° is usual.", st.tilt * degrees), st.tilt * degrees, 4, "°",
          "common practice", "body.pocket_depth")
          .repair = Repair{worded("A pocket {} deep: the board stands higher over the face", mm(less)),
                           {{"body.pocket_depth", num(less)}}};
    }
    if (st.board_over_face < 0)
      say("body.board_low", Weight::stop,
          worded("The fretboard would lie {} under the face at the body's edge.", mm(-st.board_over_face)),
          st.board_over_face, 0, "mm", "geometry", "body.pocket_depth")
          .repair = Repair{worded("A pocket {} deep", mm(s_.heel.under() - 1)),
                           {{"body.pocket_depth", num(s_.heel.under() - 1)}}};
    for (const SaddlePlace& p : st.saddles) {
      if (p.back < 0 || p.ahead < 0) {
        Remark& r =
            say("body.compensation", Weight::stop,
                worded("String {} wants its saddle {} behind the scale line; the bridge's travel ends {} short of it.",
                       p.string, mm(p.compensation), mm(std::max(-p.back, -p.ahead))),
                p.back, 0, "mm", "the bridge's travel", "bridge.travel");
        way(r, {"Set the bridge further back by what is missing",
                {{"bridge.forward", num(g.bridge.forward + std::min(0.0, p.back))}}});
        break;
      }
    }
    const auto flattest =
        std::min_element(st.saddles.begin(), st.saddles.end(),
                         [](const SaddlePlace& a, const SaddlePlace& b) { return a.break_angle < b.break_angle; });
    if (flattest != st.saddles.end() && flattest->break_angle * degrees < practice::break_angle_least_deg) {
      Remark& r = say("body.break_angle", Weight::think_again,
                      worded("String {} bends by only {:.1f}° over its saddle; under {:.0f}° it rattles.",
                             flattest->string, flattest->break_angle * degrees, practice::break_angle_least_deg),
                      flattest->break_angle * degrees, practice::break_angle_least_deg, "°", "common practice",
                      "bridge.anchor_behind");
      way(r, {"Anchor the strings nearer behind the saddles",
              {{"bridge.anchor_behind", num(g.bridge.anchor_behind * 0.6)}}});
    }
    if (s_.heel.length > 0 && g.outline.pocket > s_.heel.length + 0.01) {
      Remark& r = say(
          "body.pocket_long", Weight::stop,
          worded("The pocket is {} long and the heel's flat only {}: the neck's curve would stand on the body's edge.",
                 mm(g.outline.pocket), mm(s_.heel.length)),
          g.outline.pocket, s_.heel.length, "mm", "the neck's heel", "body.pocket_length");
      way(r, {worded("A pocket {} long", mm(s_.heel.length - 2)), {{"body.pocket_length", num(s_.heel.length - 2)}}});
      way(r, {"Make the heel longer (changes the neck)", {{"neck.heel_start", num(g.outline.pocket + 2)}}});
    }
    if (s_.heel.from == PocketFrom::numbers)
      say("body.pocket_numbers", Weight::worth_knowing,
          "The pocket is cut to the neck's numbers: it waits for nothing, and the heel is fitted to it by hand. What "
          "sanding takes stays as play.",
          0, 0.05, "mm", "common practice", "body.pocket_from");
    else if (s_.heel.from == PocketFrom::sample && !s_.heel.measured)
      say("body.sample_unmeasured", Weight::worth_knowing,
          "The heel's sample is not measured yet: the pocket follows the designed width. Cut it in scrap with the "
          "neck's own cutter, measure it, and try it in the pocket.",
          0, 0.05, "mm", "common practice", "measured.sample.heel_width");
    else if (s_.heel.from == PocketFrom::measured_heel && !s_.heel.measured)
      say("body.heel_unmeasured", Weight::worth_knowing,
          worded(
              "The neck's heel is not measured yet: its pocket follows the designed numbers. Sanding takes {} to {}; "
              "measure before the pocket is cut.",
              mm(0.02), mm(0.05)),
          0, 0.05, "mm", "common practice", "measured.neck.heel_width");
    if (s_.path.size() < 2) return;
    // The neck must enter through the body's edge.
    const auto xs = crossings(s_.corners, {0, 0.01}, {1, 0});
    if (xs.empty() || xs.front() > s_.heel.end_x - 20)
      say("body.off_centre", Weight::stop,
          "The body's outline does not reach under the neck's heel on the centre line.", xs.empty() ? 0 : xs.front(),
          s_.heel.end_x, "mm", "geometry", "body.outline");
    else if (std::abs(xs.front() - s_.edge_middle.x) > 3)
      say("body.edge_apart", Weight::think_again,
          worded("On the centre line the outline begins at {}, and the neck enters at {} from the heel's end.",
                 mm(s_.heel.end_x - xs.front()), mm(g.outline.pocket)),
          xs.front(), s_.edge_middle.x, "mm", "geometry", "body.pocket_length")
          .repair = Repair{worded("A pocket {} long", mm(s_.heel.end_x - xs.front())),
                           {{"body.pocket_length", num(s_.heel.end_x - xs.front())}}};
  }

  void thin() {
    for (const Thinnest& t : thinnest_places(s_)) {
      if (t.wood >= practice::body_skin_least) continue;
      const bool belly = t.under == "belly" || t.over == "belly";
      const bool bevel = t.over == "bevel";
      const std::string over = name(t.over);
      const std::string under = name(t.under);
      Remark& r = say("body.thin", t.wood < practice::body_stop_skin ? Weight::stop : Weight::think_again,
                      t.wood <= 0 ? worded("{} and {} break into each other near x {}, y {}.", over, under,
                                           format_mm(t.at.x, 0), format_mm(t.at.y, 0))
                                  : worded("{} comes within {} of {} near x {}, y {}.", over, mm(t.wood), under,
                                           format_mm(t.at.x, 0), format_mm(t.at.y, 0)),
                      t.wood, practice::body_skin_least, "mm", "common practice",
                      belly   ? "body.belly_depth"
                      : bevel ? "body.bevel_depth"
                              : place_of(t.over == "face" ? t.under : t.over));
      r.at = std::pair{t.at.x, t.at.y};
      const double more = practice::body_skin_least - t.wood + 0.2;
      const ComfortNumbers& c = s_.given.comfort;
      if (belly)
        way(r, {worded("A belly cut {} deep", mm(std::max(0.0, c.belly_depth - more * 1.4))),
                {{"body.belly_depth", num(std::max(0.0, c.belly_depth - more * 1.4))}}});
      if (belly)
        way(r, {worded("Let it reach {} less far in", mm(more * 4)),
                {{"body.belly_reach", num(std::max(10.0, c.belly_reach - more * 4))}}});
      if (bevel)
        way(r, {worded("A bevel {} deep", mm(std::max(0.0, c.bevel_depth - more * 1.3))),
                {{"body.bevel_depth", num(std::max(0.0, c.bevel_depth - more * 1.3))}}});
      for (const std::string& id : {t.over, t.under}) {
        if (id.rfind("chamber", 0) == 0)
          way(r, {worded("Leave {} more under the chambers", mm(more)),
                  {{"chamber.floor", num(s_.given.chambers.floor + more)}}});
        if (id.rfind("pickup-", 0) == 0) {
          const std::string which =
              id.substr(7, id.find('-', 7) == std::string::npos ? std::string::npos : id.find('-', 7) - 7);
          const bool ears = id.find("-ears") != std::string::npos;
          const double depth = std::max(3.0, -(s_.cavity(id)->floor) - more);
          way(r, {worded("The {}'s {} {} deep", pickup_name(which), ears ? "ears" : "cavity", mm(depth)),
                  {{"pickup." + which + (ears ? ".ear_depth" : ".depth"), num(depth)}}});
        }
        if (id == "control")
          way(r, {worded("Leave {} in front of the controls", mm(s_.given.controls.face_left + more)),
                  {{"control.face_left", num(s_.given.controls.face_left + more)}}});
        if (id.rfind("thin-", 0) == 0)
          way(r, {worded("Leave {} at the shafts", mm(s_.given.controls.bushing_left + more)),
                  {{"control.bushing_left", num(s_.given.controls.bushing_left + more)}}});
      }
      if (!s_.given.layers.empty() && out_.back().others.size() < 3) {
        auto layers = s_.given.layers;
        layers.back().thickness += more;
        way(r, {worded("A body {} thicker", mm(more)), {{"body.layers", layers_text(layers)}}});
      }
    }
  }

  [[nodiscard]] std::string name(const std::string& id) const {
    if (id == "face") return "The face";
    if (id == "back") return "the back";
    if (id == "bevel") return "The forearm bevel";
    if (id == "belly") return "the belly cut";
    if (id == "carve") return "The carved face";
    const Cavity* c = s_.cavity(id);
    return c != nullptr ? "'" + c->title + "'" : id;
  }
  static std::string place_of(const std::string& id) {
    if (id.rfind("pickup-", 0) == 0) {
      const auto dash = id.find('-', 7);
      return "pickup." + id.substr(7, dash == std::string::npos ? dash : dash - 7) +
             (dash == std::string::npos ? ".depth" : ".ear_depth");
    }
    if (id == "control") return "control.face_left";
    if (id.rfind("thin-", 0) == 0) return "control.bushing_left";
    if (id == "ledge") return "control.ledge_depth";
    if (id.rfind("chamber", 0) == 0) return "chamber.floor";
    if (id.rfind("wire", 0) == 0) return "wire.depth";
    if (id == "pocket") return "body.pocket_depth";
    return "body.cavities";
  }

  void overlaps() {
    const Region inner = offset({s_.corners}, -practice::cavity_wall_least);
    std::vector<Box2> boxes;
    for (const Cavity& c : s_.cavities) {
      boxes.emplace_back();
      for (const Polygon& p : c.region)
        for (const Vec2 q : p) boxes.back().add(q);
    }
    const auto apart = [&](std::size_t i, std::size_t k) {
      constexpr double wall = practice::cavity_wall_least;
      const Box2& a = boxes[i];
      const Box2& b = boxes[k];
      return a.low.x - wall > b.high.x || b.low.x - wall > a.high.x || a.low.y - wall > b.high.y ||
             b.low.y - wall > a.high.y;
    };
    for (std::size_t i = 0; i < s_.cavities.size(); ++i) {
      const Cavity& a = s_.cavities[i];
      if (a.id != "pocket") {
        const double whole = area(subtracted(a.region, {s_.corners}));
        const double near = area(subtracted(a.region, inner));
        if (near > 0.5) {
          const Region out = subtracted(a.region, inner);
          const Vec2 at = out.front().front();
          Remark& r = say("body.cavity_edge", whole > 0.5 ? Weight::stop : Weight::think_again,
                          whole > 0.5 ? worded("'{}' leaves the body near x {}, y {}.", a.title, format_mm(at.x, 0),
                                               format_mm(at.y, 0))
                                      : worded("'{}' leaves less than {} to the body's edge near x {}, y {}.", a.title,
                                               mm(practice::cavity_wall_least), format_mm(at.x, 0), format_mm(at.y, 0)),
                          0, practice::cavity_wall_least, "mm", "common practice",
                          a.group == "control" ? "control.first_aside" : place_of(a.id));
          r.at = std::pair{at.x, at.y};
          if (a.group == "control")
            way(r, {worded("Move the controls {} towards the middle", mm(8)),
                    {{"control.first_aside", num(s_.given.controls.first_aside - 8)}}});
          if (a.id.rfind("chamber", 0) == 0)
            way(r, {"Thicker walls", {{"chamber.wall", num(s_.given.chambers.wall + 4)}}});
        }
      }
      std::optional<Region> grown;
      for (std::size_t k = i + 1; k < s_.cavities.size(); ++k) {
        const Cavity& b = s_.cavities[k];
        if (apart(i, k)) continue;
        if (a.group == b.group || a.group == "wire" || b.group == "wire") continue;
        // On different sides they may pass each other; the wood between is judged above.
        if (a.from_back != b.from_back) continue;
        if (a.layer != b.layer && (a.layer < 0 ? a.floor > s_.layers[static_cast<std::size_t>(b.layer)].top
                                               : b.floor > s_.layers[static_cast<std::size_t>(a.layer)].top))
          continue;
        if (!grown) grown = offset(a.region, practice::cavity_wall_least);
        const Region both = intersected(*grown, b.region);
        if (area(both) < 0.5) continue;
        const bool cross = area(intersected(a.region, b.region)) > 0.5;
        const Vec2 at = both.front().front();
        Remark& r = say("body.cavities_meet", Weight::think_again,
                        worded("'{}' and '{}' {} near x {}, y {}.", a.title, b.title,
                               cross ? "run into each other"
                                     : "leave less than " + mm(practice::cavity_wall_least) + " between them",
                               format_mm(at.x, 0), format_mm(at.y, 0)),
                        0, practice::cavity_wall_least, "mm", "common practice", place_key(a, b));
        r.at = std::pair{at.x, at.y};
        for (const Cavity* c : {&a, &b})
          if (c->group.rfind("pickup-", 0) == 0) {
            const std::string which = c->group.substr(7);
            const double now = s_.given.pickups[which == "neck" ? 0 : which == "middle" ? 1 : 2].from_bridge;
            const double step = c->mask != nullptr && which == "neck" ? -6 : 6;
            way(r, {worded("Move the {} by {}", pickup_name(which), mm(std::abs(step))),
                    {{"pickup." + which + ".from_bridge", num(now + step)}}});
          }
      }
    }
  }
  static std::string place_key(const Cavity& a, const Cavity& b) {
    for (const Cavity* c : {&b, &a})
      if (c->group.rfind("pickup-", 0) == 0) return "pickup." + c->group.substr(7) + ".from_bridge";
    return place_of(a.id);
  }

  void pickups() {
    const Vec2 last{s_.setup.frame.to_body({bounds(s_.neck->board->corners).high.x, 0, 0}).x, 0};
    for (const auto& p : s_.pickups) {
      const double face = s_.top(p.middle);
      const double nearest = p.string_low - face - p.size.high;
      const double furthest = p.string_low - face - p.size.low;
      if (nearest > practice::pickup_gap_most) {
        Remark& r = say("body.pickup_hangs", Weight::think_again,
                        worded("At its highest the {} stays {} under the strings ({} is the most that is usual): {}.",
                               pickup_name(p.which), mm(nearest), mm(practice::pickup_gap_most),
                               face < -0.3 ? "the face is cut lower there, so it hangs over its cavity"
                                           : "the strings run high over the face"),
                        nearest, practice::pickup_gap_most, "mm", "common practice", "pickup." + p.which + ".high");
        r.at = std::pair{p.middle.x, p.middle.y};
        way(r, {worded("Longer height screws: highest {} over the face", mm(p.size.high + nearest - 2.5)),
                {{"pickup." + p.which + ".high", num(p.size.high + nearest - 2.5)},
                 {"pickup." + p.which + ".low", num(p.size.low + nearest - 2.5)}}});
        if (face < -0.3)
          way(r,
              {"Cut the face less low", {{"body.carve_drop", num(std::max(0.0, s_.given.comfort.carve_drop + face))}}});
        const double deeper = s_.given.setup.depth + (nearest - 3);
        if (s_.given.setup.follows == PocketFollows::tilt)
          way(r, {worded("A pocket {} deep lets the strings run lower", mm(deeper)),
                  {{"body.pocket_depth", num(deeper)}}});
      } else if (furthest < practice::pickup_gap_least) {
        Remark& r = say("body.pickup_high", furthest < 0 ? Weight::stop : Weight::think_again,
                        worded("At its lowest the {} comes within {} of the strings; {} is asked for.",
                               pickup_name(p.which), mm(furthest), mm(practice::pickup_gap_least)),
                        furthest, practice::pickup_gap_least, "mm", "common practice", "pickup." + p.which + ".low");
        r.at = std::pair{p.middle.x, p.middle.y};
        const double down = practice::pickup_gap_least - furthest;
        way(r, {worded("A cavity {} deep takes the pickup lower", mm(p.size.depth + down)),
                {{"pickup." + p.which + ".depth", num(p.size.depth + down)},
                 {"pickup." + p.which + ".low", num(p.size.low - down)}}});
        if (s_.given.setup.follows == PocketFollows::tilt)
          way(r, {worded("A pocket {} deep: strings run higher over the face", mm(s_.given.setup.depth - down)),
                  {{"body.pocket_depth", num(s_.given.setup.depth - down)}}});
      }
      const double spread = p.size.poles - p.string_spread;
      if (std::abs(spread) > 3)
        say("body.poles", Weight::worth_knowing,
            worded("The {}'s outer poles stand {} apart and the strings {} there.", pickup_name(p.which),
                   mm(p.size.poles), mm(p.string_spread)),
            p.size.poles, p.string_spread, "mm", "measured sizes of the pickup", "pickup." + p.which + ".poles")
            .at = std::pair{p.middle.x, p.middle.y};
      if (p.middle.x - p.size.width / 2 - pickup_clearance < last.x) {
        Remark& r = say("body.pickup_under_board", Weight::stop,
                        worded("The {} would stand under the fretboard's end.", pickup_name(p.which)),
                        p.middle.x - p.size.width / 2, last.x, "mm", "geometry", "pickup." + p.which + ".from_bridge");
        r.at = std::pair{p.middle.x, p.middle.y};
        way(r, {"Move it clear of the board",
                {{"pickup." + p.which + ".from_bridge",
                  num(p.size.from_bridge - (last.x - p.middle.x + p.size.width / 2 + 3))}}});
      }
    }
    // Strings must pass the face and the board's end freely.
    const int n = static_cast<int>(s_.setup.strings.size());
    double least = 1e9;
    Vec2 at;
    for (int i = 1; i <= n; ++i)
      for (double share = 0.0; share < 0.5; share += 0.02) {
        const Vec2 q = s_.setup.string_at(i, share);
        if (q.x < last.x) break;
        const double gap = s_.setup.string_over_face(i, q.x) - s_.top(q);
        if (gap < least) {
          least = gap;
          at = q;
        }
      }
    if (least < 3)
      say("body.string_path", least < 0.5 ? Weight::stop : Weight::think_again,
          worded("A string passes {} over the face near x {}.", mm(least), format_mm(at.x, 0)), least, 3, "mm",
          "geometry", "body.pocket_depth")
          .at = std::pair{at.x, at.y};
  }

  void switch_depth() {
    const ControlNumbers& c = s_.given.controls;
    if (c.pots <= 0) return;
    const double front = std::min(c.bushing_left, c.face_left);
    const double there = s_.thickness - front - c.ledge_depth + c.cover_thinned;
    if (c.switch_kind != SwitchKind::none && there < c.switch_needs) {
      const double miss = c.switch_needs - there;
      Remark& r = say("body.switch_deep", Weight::stop,
                      worded("The switch needs {} behind the wood in front of it, and there are {}: {} thick, less {} "
                             "in front and the cover's {} ledge.",
                             mm(c.switch_needs), mm(there), mm(s_.thickness), mm(front), mm(c.ledge_depth)),
                      there, c.switch_needs, "mm", "measured size of the switch", "control.switch_needs");
      r.at = s_.controls.empty() ? std::nullopt : std::optional(std::pair{s_.controls.back().x, s_.controls.back().y});
      const double half = c.cover_thickness / 2;
      const double gained = c.ledge_depth - half;
      if (gained > 0.05) {
        std::vector<std::pair<std::string, std::string>> edits{{"control.ledge_depth", num(half)}};
        double rest = miss - gained;
        Words label = worded("Let the cover in by half its thickness ({} gained)", mm(gained));
        if (rest > 0 && rest <= c.cover_thickness - 0.8) {
          edits.emplace_back("control.cover_thinned", num(rest));
          label = worded("Let the cover in by half its thickness and thin its middle by {}", mm(rest));
          rest = 0;
        }
        if (rest <= 0) way(r, {label, edits});
      }
      auto layers = s_.given.layers;
      if (!layers.empty()) {
        layers.back().thickness += miss;
        way(r, {worded("A body {} thicker", mm(miss)), {{"body.layers", layers_text(layers)}}});
      }
      way(r, {worded("Another switch that needs no more than {}", mm(std::floor(there * 2) / 2)),
              {{"control.switch_needs", num(std::floor(there * 2) / 2)}}});
    }
    if (c.bushing_left > 6)
      say("body.bushing", Weight::think_again,
          worded("{} of wood stay in front of the shafts; a threaded bushing takes about 6 at most.",
                 mm(c.bushing_left)),
          c.bushing_left, 6, "mm", "common practice", "control.bushing_left")
          .repair = Repair{worded("Thin it to {}", mm(3)), {{"control.bushing_left", "3"}}};
    if (c.cover_thickness > c.ledge_depth + 0.8)
      say("body.cover_proud", Weight::worth_knowing,
          worded("The cover stands {} over the back.", mm(c.cover_thickness - c.ledge_depth)),
          c.cover_thickness - c.ledge_depth, 0, "mm", "geometry", "control.ledge_depth");
    if (c.cover_clearance + c.cover_finish < 0.2)
      say("body.cover_tight", Weight::think_again,
          worded("The cover is only {} smaller than its ledge: it fits so well that it cannot take any finish.",
                 mm(c.cover_clearance + c.cover_finish)),
          c.cover_clearance + c.cover_finish, 0.25, "mm", "common practice", "control.cover_clearance")
          .repair = Repair{worded("{} smaller each side", mm(0.25)), {{"control.cover_clearance", "0.25"}}};
    if (c.hold == CoverHold::magnets && c.ledge < c.magnet + 1.5)
      say("body.magnet_ledge", Weight::think_again,
          worded("A magnet of {} leaves {} of a ledge {} wide.", mm(c.magnet), mm(c.ledge - c.magnet), mm(c.ledge)),
          c.ledge, c.magnet + 1.5, "mm", "geometry", "control.ledge")
          .repair = Repair{worded("A ledge {} wide", mm(c.magnet + 2)), {{"control.ledge", num(c.magnet + 2)}}};
    if (c.hold == CoverHold::magnets && c.magnet_depth > c.cover_thickness - 0.8)
      say("body.magnet_cover", Weight::worth_knowing,
          worded("The cover is {} thick: its magnets go in {} deep and stand a little proud.", mm(c.cover_thickness),
                 mm(std::max(0.0, c.cover_thickness - 0.8))),
          c.cover_thickness, c.magnet_depth + 0.8, "mm", "geometry", "control.cover_thickness");
  }

  void corners() {
    for (const Cavity& c : s_.cavities) {
      if (c.corner >= fine_ - 1e-6 || c.id == "switch") continue;
      const std::string key = c.group.rfind("pickup-", 0) == 0 ? "pickup." + c.group.substr(7) + ".corner"
                              : c.id == "pocket"               ? "neck.heel_corner"
                                                               : "body.fine_cutter";
      Remark& r =
          say("body.corner_tight", Weight::think_again,
              worded("'{}' has corners of {} radius; the smallest cutter leaves {}.", c.title, mm(c.corner), mm(fine_)),
              c.corner, fine_, "mm", "geometry", key);
      way(r, {worded("Open the corners with the {} cutter", mm(1.5)), {{"body.fine_cutter", "flat-1.5"}}});
      if (key != "body.fine_cutter") way(r, {worded("Corners of {}", mm(fine_)), {{key, num(fine_)}}});
    }
  }

  void edges() {
    for (const EdgeJob& j : s_.edge_jobs) {
      const double wall = (j.thickness - j.diameter) / 2;
      const double over =
          std::min(s_.top(j.at + j.inward * 6) - j.z, j.z - s_.bottom(j.at + j.inward * 6)) - j.diameter / 2;
      if (j.id == "jack" && std::min(wall, over) < practice::jack_wall_least) {
        Remark& r = say("body.jack_thin", std::min(wall, over) < 1 ? Weight::stop : Weight::think_again,
                        worded("The edge is {} thick at the jack; a hole of {} leaves {} beside it.", mm(j.thickness),
                               mm(j.diameter), mm(std::min(wall, over))),
                        std::min(wall, over), practice::jack_wall_least, "mm", "common practice", "wire.jack_behind");
        r.at = std::pair{j.at.x, j.at.y};
        way(r, {worded("A thinner jack (hole of {})", mm(12)), {{"wire.jack", "12"}}});
      }
      if (j.id == "jack" && !j.reaches.empty()) jack(j);
      if (j.id == "jack" && j.reaches.empty()) {
        Remark& r = say("body.jack_misses", Weight::think_again, "The jack's hole does not meet the control cavity.", 0,
                        0, "mm", "geometry", "wire.jack_behind");
        r.at = std::pair{j.at.x, j.at.y};
        if (!s_.controls.empty()) {
          Vec2 mid;
          for (const Vec2 p : s_.controls) mid = mid + p;
          mid = mid * (1.0 / static_cast<double>(s_.controls.size()));
          way(r, {"Put it beside the controls",
                  {{"wire.jack_behind", num(mid.x - s_.setup.bridge_middle.x)}, {"wire.jack_angle", "0"}}});
        }
      }
    }
  }

  /// What kind of jack the wall, the edge and the pots inside bear.
  void jack(const EdgeJob& j) {
    const WireNumbers& w = s_.given.wires;
    const double wall = j.wall - w.jack_dish;
    const auto at = [&](Remark& r) { r.at = std::pair{j.at.x, j.at.y}; };
    const Repair plate{worded("A plate jack (hole of {})", mm(practice::jack_plate_hole)),
                       {{"wire.jack_kind", "plate"}, {"wire.jack", num(practice::jack_plate_hole)}}};
    if (w.jack_kind == JackKind::barrel && wall > w.jack_spans) {
      const double dish = std::ceil((j.wall - w.jack_spans) * 2) / 2;
      Remark& r = say("body.jack_wall", Weight::stop,
                      worded("The wall at the jack is {} along its axis; a barrel that spans {} does not come through.",
                             mm(wall), mm(w.jack_spans)),
                      wall, w.jack_spans, "mm", "the jack's own measure", "wire.jack_spans");
      at(r);
      way(r, plate);
      if (dish <= 20)
        way(r, {worded("A dish of {} round the hole, by hand", mm(dish)), {{"wire.jack_dish", num(dish)}}});
      const double nearer = s_.given.controls.round + wall - w.jack_spans;
      if (nearer <= 40) way(r, {"Let the cavity come nearer", {{"control.round", num(std::ceil(nearer))}}});
      if (const auto place = jack_place([&](const EdgeJob&, double t) { return t <= w.jack_spans + w.jack_dish; }))
        way(r, {"Put it where the wall is thinner", {{"wire.jack_behind", num(*place)}}});
    }
    if (w.jack_dish > 0 && w.jack_dish >= j.wall - 3) {
      Remark& r = say("body.jack_dish", Weight::stop,
                      worded("A dish of {} leaves {} of wall at the jack.", mm(w.jack_dish), mm(std::max(0.0, wall))),
                      wall, 3, "mm", "common practice", "wire.jack_dish");
      at(r);
      way(r, {"No dish", {{"wire.jack_dish", "0"}}});
    }
    const double wants = w.jack_kind == JackKind::barrel ? practice::jack_barrel_hole : practice::jack_plate_hole;
    if (std::abs(j.diameter - wants) > 2) {
      Remark& r = say("body.jack_hole", Weight::think_again,
                      worded("{} usually wants a hole of {}; {} is asked for.",
                             w.jack_kind == JackKind::barrel  ? "A barrel jack"
                             : w.jack_kind == JackKind::plate ? "A plate jack"
                                                              : "A cup",
                             mm(wants), mm(j.diameter)),
                      j.diameter, wants, "mm", "common practice", "wire.jack");
      at(r);
      way(r, {worded("A hole of {}", mm(wants)), {{"wire.jack", num(wants)}}});
    }
    if (j.thickness < practice::jack_edge_least) {
      Remark& r = say("body.jack_edge", Weight::think_again,
                      worded("The edge is {} thick at the jack; {} and more keep it from splitting.", mm(j.thickness),
                             mm(practice::jack_edge_least)),
                      j.thickness, practice::jack_edge_least, "mm", "common practice", "wire.jack_behind");
      at(r);
    }
    if (w.jack_kind == JackKind::plate && j.bulge > practice::jack_flat_most) {
      Remark& r = say(
          "body.jack_flat", Weight::worth_knowing,
          worded("Over a plate's length the edge is {} from flat: it gets a flat, or a dish, by hand.", mm(j.bulge)),
          j.bulge, practice::jack_flat_most, "mm", "geometry", "wire.jack_behind");
      at(r);
    }
    // What reaches in from the edge, against the pots.
    const double reach = w.jack_inside + w.jack_dish;
    if (reach > j.wall && touches_pot(j.at, j.inward, j.wall, reach)) {
      Remark& r =
          say("body.jack_pot", Weight::think_again,
              worded("The jack reaches {} into the cavity and meets a potentiometer there.", mm(reach - j.wall)), reach,
              j.wall, "mm", "common practice: cans of 25 mm", "wire.jack_behind");
      at(r);
      const auto place = jack_place([&](const EdgeJob& there, double t) {
        return (w.jack_kind != JackKind::barrel || t <= w.jack_spans + w.jack_dish) &&
               !(reach > t && touches_pot(there.at, there.inward, t, reach));
      });
      if (place) way(r, {"Put it beside the pots", {{"wire.jack_behind", num(*place)}}});
    }
  }

  [[nodiscard]] bool touches_pot(Vec2 at, Vec2 inward, double from, double to) const {
    return std::any_of(s_.controls.begin(), s_.controls.end(), [&](Vec2 pot) {
      return distance_to(pot, Segment2{at + inward * from, at + inward * to}) <
             practice::pot_radius + practice::jack_socket_radius;
    });
  }

  /// The place nearest to the present one, along the treble edge and square to the centre line's own way in, that
  /// suits.
  template <class Suits>
  [[nodiscard]] std::optional<double> jack_place(const Suits& suits) const {
    const Cavity* control = s_.cavity("control");
    const auto jack =
        std::find_if(s_.edge_jobs.begin(), s_.edge_jobs.end(), [](const EdgeJob& e) { return e.id == "jack"; });
    if (control == nullptr || jack == s_.edge_jobs.end()) return {};
    for (int k = 1; k < 90; ++k)
      for (const double side : {-1.0, 1.0}) {
        const double behind = s_.given.wires.jack_behind + side * k * 2;
        if (behind < -300 || behind > 300) continue;
        const double x = s_.setup.bridge_middle.x + behind;
        // The edge there: the outermost crossing on the treble side.
        std::optional<Vec2> place;
        Vec2 along;
        for (std::size_t i = 0; i < s_.corners.size(); ++i) {
          const Vec2 a = s_.corners[i];
          const Vec2 b = s_.corners[(i + 1) % s_.corners.size()];
          if ((a.x > x) == (b.x > x)) continue;
          const Vec2 q = lerp(a, b, (x - a.x) / (b.x - a.x));
          if (!place || q.y * s_.treble > place->y * s_.treble) {
            place = q;
            along = unit(b - a);
          }
        }
        if (!place) continue;
        EdgeJob there = *jack;
        const double angle = s_.given.wires.jack_angle_deg * 0.017453292519943295;
        const Vec2 in = left_of(along);
        there.at = *place;
        there.inward = {in.x * std::cos(angle) - in.y * std::sin(angle),
                        in.x * std::sin(angle) + in.y * std::cos(angle)};
        for (double t = 2; t < 160; t += 0.25)
          if (control->holds(there.at + there.inward * t)) {
            if (suits(there, t)) return behind;
            break;
          }
      }
    return {};
  }

  void layers() {
    const ChamberNumbers& c = s_.given.chambers;
    if (c.sides != ChamberSides::none && s_.layers.size() < 2) {
      Remark& r =
          say("body.chambers_closed", Weight::think_again, "Chambers need a glued-on top: this body is one piece.",
              static_cast<double>(s_.layers.size()), 2, "", "common practice", "body.layers");
      if (!s_.layers.empty())
        way(r, {worded("Glue a {} top on", mm(6.5)),
                {{"body.layers", layers_text({{"top", 6.5, s_.layers[0].layer.wood},
                                              {s_.layers[0].layer.name == "top" ? "body" : s_.layers[0].layer.name,
                                               std::max(10.0, s_.thickness - 6.5), s_.layers[0].layer.wood}})}}});
      way(r, {"No chambers", {{"chamber.sides", "none"}}});
    } else if (c.sides != ChamberSides::none && s_.cavity("chamber-bass-1") == nullptr &&
               s_.cavity("chamber-treble-1") == nullptr) {
      say("body.chambers_none", Weight::think_again,
          "No chamber is left between the walls, the solid middle and the cavities.", 0, 30, "mm", "geometry",
          "chamber.wall")
          .repair = Repair{
          "Thinner walls and middle",
          {{"chamber.wall", num(std::max(8.0, c.wall - 6))}, {"chamber.middle", num(std::max(30.0, c.middle - 8))}}};
    }
    for (const Cavity& v : s_.cavities) {
      const double lowest = std::min(v.floor_at({s_.edge_middle.x, 0}), v.floor);
      const double top = v.layer >= 0 ? s_.layers[static_cast<std::size_t>(v.layer)].top : 0;
      if (!v.from_back && lowest <= -s_.thickness)
        say("body.through", Weight::stop,
            worded("'{}' would be {} deep in a body {} thick.", v.title, mm(top - lowest), mm(s_.thickness)),
            top - lowest, s_.thickness, "mm", "geometry", place_of(v.id))
            .repair = Repair{worded("A body {} thick", mm(top - lowest + 5)), {{"body.layers", [&] {
                                                                                  auto l = s_.given.layers;
                                                                                  l.back().thickness +=
                                                                                      top - lowest + 5 - s_.thickness;
                                                                                  return layers_text(l);
                                                                                }()}}};
      if (v.from_back && v.floor >= 0)
        say("body.through", Weight::stop, worded("'{}' would come out of the face.", v.title), v.floor, 0, "mm",
            "geometry", place_of(v.id));
      if (v.layer < 0 && !v.from_back && v.floor >= 0 && v.id != "pocket")
        say("body.no_depth", Weight::stop, worded("'{}' has no depth.", v.title), -v.floor, 0, "mm", "geometry",
            place_of(v.id));
    }
  }

  void hang_way() {
    const double angle = b_.hang * degrees;
    if (angle >= practice::dive_deg) return;
    const EdgeJob* horn = nullptr;
    const EdgeJob* tail = nullptr;
    for (const EdgeJob& j : s_.edge_jobs) {
      if (j.id == "strap-horn") horn = &j;
      if (j.id == "strap-tail") tail = &j;
    }
    if (horn == nullptr || tail == nullptr) return;
    Remark& r = say("body.neck_dive", Weight::think_again,
                    worded("On its strap the neck hangs {:.0f}° below the level: it dives. The whole weighs {:.0f} g "
                           "and balances {} behind the upper button.",
                           -angle, b_.whole_g, mm(b_.whole_centre.x - horn->at.x)),
                    angle, practice::dive_deg, "°", "statics; ellipse of the strap", "body.horn_bass");
    const auto with = [&](Vec2 a, Vec2 g) { return hang(a, tail->at, s_.given.strap, g, s_.treble).angle * degrees; };
    const double longer = with(horn->at - Vec2{30, 0}, b_.whole_centre);
    way(r,
        {worded("A horn 30 mm longer: {:.0f}°", longer), {{"body.horn_bass", num(s_.given.outline.horn_bass + 30)}}});
    const double n = static_cast<double>(s_.neck->tuners.size());
    Vec2 head;
    for (const Tuner& t : s_.neck->tuners) head = head + t.at * (1 / std::max(1.0, n));
    const double less = 12 * n;
    const Vec2 lighter = (b_.whole_centre * b_.whole_g - head * less) * (1 / (b_.whole_g - less));
    way(r, {worded("Tuners 12 g lighter each: {:.0f}°", with(horn->at, lighter)),
            {{"body.tuner_weight", num(std::max(5.0, s_.given.tuner_g - 12))}}});
    if (b_.chambers_g > 1) {
      const Vec2 solid =
          (b_.whole_centre * b_.whole_g + b_.body_centre * b_.chambers_g) * (1 / (b_.whole_g + b_.chambers_g));
      way(r, {worded("No chambers ({:.0f} g heavier): {:.0f}°", b_.chambers_g, with(horn->at, solid)),
              {{"chamber.sides", "none"}}});
    }
  }

  const BodyShape& s_;
  const BodyBalance& b_;
  double fine_;
  std::vector<Remark> out_;
};

}  // namespace

std::vector<Thinnest> thinnest_places(const BodyShape& s, double pace) {
  // Wood between neighbouring surfaces, worst place for each pair of them.
  std::map<std::pair<std::string, std::string>, Thinnest> worst;
  const auto keep = [&](const std::string& over, const std::string& under, double wood, Vec2 at) {
    Thinnest& t = worst[{over, under}];
    if (wood < t.wood) t = {wood, at, over, under};
  };
  for (const Cavity& a : s.cavities) {
    Box2 box;
    for (const Polygon& p : a.region)
      for (const Vec2 q : p) box.add(q);
    std::vector<const Cavity*> others;
    for (const Cavity& b : s.cavities)
      if (&a != &b && b.group != a.group) others.push_back(&b);
    for (double y = box.low.y + 0.3; y <= box.high.y; y += pace)
      for (double x = box.low.x + 0.3; x <= box.high.x; x += pace) {
        const Vec2 p{x, y};
        if (!a.holds(p) || !s.inside->holds(p) || s.edge.distance_within(p) < 0.4) continue;
        const double floor = a.floor_at(p);
        if (a.from_back) {
          double top = s.top(p);
          std::string what =
              top < -0.2
                  ? (s.given.comfort.bevel_depth > 0 && s.given.comfort.carve == CarveKind::flat ? "bevel" : "carve")
                  : "face";
          for (const Cavity* b : others)
            if (!b->from_back && b->layer < 0 && b->holds(p) && b->floor_at(p) < top) {
              top = b->floor_at(p);
              what = b->id;
            }
          if (a.id == "ledge") continue;
          // Thin on purpose: what is left at shafts and over the controls is the maker's own number.
          if (what == "face" && a.group == "control") continue;
          keep(what, a.id, top - floor, p);
        } else {
          double bottom = s.bottom(p);
          std::string what = bottom > -s.thickness + 0.2 ? "belly" : "back";
          for (const Cavity* b : others)
            if (b->from_back && b->holds(p) && b->floor_at(p) > bottom && b->group != "wire" && a.group != "wire") {
              bottom = b->floor_at(p);
              what = b->id;
            }
          keep(a.id, what, floor - bottom, p);
          if (a.layer >= 0) {  // a hidden cavity under a carved face
            const double roof = s.top(p) - s.layers[static_cast<std::size_t>(a.layer)].top;
            bool open = false;
            for (const Cavity* b : others) open = open || (b->layer < 0 && !b->from_back && b->holds(p));
            if (!open && s.top(p) < -0.05) keep(s.given.comfort.bevel_depth > 0 ? "bevel" : "carve", a.id, roof, p);
          }
        }
      }
  }
  std::vector<Thinnest> out;
  for (auto& [key, t] : worst) out.push_back(std::move(t));
  std::sort(out.begin(), out.end(), [](const Thinnest& a, const Thinnest& b) { return a.wood < b.wood; });
  return out;
}

std::vector<Remark> body_remarks(const BodyShape& body, const BodyBalance& balance, double fine_cutter) {
  return Judge(body, balance, fine_cutter).run();
}

}  // namespace wren
