// What is worked out of the body, as lines of the ledger.
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "core/job/body_cuts.hpp"
#include "core/job/ledger.hpp"

namespace wren {
namespace {

constexpr double degrees = 180 / std::numbers::pi;
std::string mm(double v) { return format_mm(v, 2); }

}  // namespace

void add_body_ledger(const BodyDesign& d, const BodyCuts* cuts, std::vector<LedgerLine>& out) {
  const auto add = [&](std::string key, std::string label, FieldValue v, FieldKind kind, std::string unit,
                       std::string reason, std::string pin = "") {
    out.push_back({std::move(key), std::move(label), std::move(v), kind, std::move(unit), Origin::derived,
                   std::move(reason), false, std::move(pin)});
  };
  const auto length = [&](std::string key, std::string label, double v, std::string reason) {
    add(std::move(key), std::move(label), v, FieldKind::length, "mm", std::move(reason));
  };
  const auto number = [&](std::string key, std::string label, double v, std::string unit, std::string reason) {
    add(std::move(key), std::move(label), v, FieldKind::number, std::move(unit), std::move(reason));
  };
  const BodyShape& s = d.shape;
  const Box2 box = bounds(s.corners);
  length("body.length", "Body length", box.size().x, "along the centre line, horns included");
  length("body.width", "Body width", box.size().y, "widest");
  number("body.nodes", "Nodes", static_cast<double>(s.path.size()), "",
         fmt::format("{} edges and arcs within 0.004 mm of the drawn curves", s.outline.size()));
  length("body.thickness", "Body thickness", s.thickness, "sum of the layers in use");
  const BodySetup& st = s.setup;
  const SetupNumbers& in = s.given.setup;
  const bool tilt_follows = in.follows == PocketFollows::tilt;
  const double heel = s.heel.under();
  number("body.tilt", "Neck tilt", st.tilt * degrees, "°",
         tilt_follows
             ? fmt::format("so that the lowest saddle stands {} over the face with a pocket {} deep",
                           mm(in.school == SetupSchool::action ? s.given.bridge.low + in.reserve : s.given.bridge.low),
                           mm(in.depth))
             : "as given");
  length("body.depth_end", "Pocket at the heel's end", st.depth_end,
         tilt_follows ? "as given"
                      : fmt::format("heel {} under the board, less what the bridge's lowest saddle leaves", mm(heel)));
  length("body.depth_edge", "Pocket at the edge", st.depth_edge,
         fmt::format("the floor falls by {} over {}", mm(st.depth_edge - st.depth_end), mm(s.given.outline.pocket)));
  length("body.board_over_face", "Board over the face", st.board_over_face, "its underside at the body's edge");
  for (const SaddlePlace& p : st.saddles) {
    const std::string base = fmt::format("saddle.{}.", p.string);
    length(base + "height", fmt::format("Saddle {} height", p.string), p.height,
           fmt::format(
               "over the face at the action wanted; {} up and {} down are left, {} with the string flat on the frets",
               mm(p.up), mm(p.down), mm(p.flat_height)));
    length(base + "behind", fmt::format("Saddle {} behind", p.string), p.compensation,
           fmt::format("the scale line; {} ahead and {} back are left", mm(p.ahead), mm(p.back)));
    number(base + "break", fmt::format("String {} over saddle", p.string), p.break_angle * degrees, "°",
           "bends down behind the saddle");
  }
  const int last = static_cast<int>(st.saddles.size());
  for (const int string : {1, last}) {
    const auto over = string_over_frets(*s.neck->board, in, string);
    for (const int fret : {1, 5, 12, s.neck->board->given.frets.count})
      if (fret < static_cast<int>(over.size()))
        length(fmt::format("action.{}.{}", string, fret), fmt::format("String {} over fret {}", string, fret),
               over[static_cast<std::size_t>(fret)], "underside to the fret's top, straight neck");
  }
  for (const auto& p : s.pickups) {
    length(
        fmt::format("pickup.{}.string_gap", p.which), "String over pickup",
        p.string_low - s.top(p.middle) - p.size.high,
        fmt::format("open, pickup at its highest; {} at its lowest", mm(p.string_low - s.top(p.middle) - p.size.low)));
    length(fmt::format("pickup.{}.string_spread", p.which), "Strings apart there", p.string_spread, "outer to outer");
  }
  if (s.given.controls.pots > 0)
    length("control.depth_there", "Depth at the switch",
           s.thickness - std::min(s.given.controls.bushing_left, s.given.controls.face_left) -
               s.given.controls.ledge_depth + s.given.controls.cover_thinned,
           "behind the wood in front, to the cover");
  for (const Cover& c : s.covers)
    length("cover.smaller", "Cover smaller", c.clearance, "than its ledge, each side, finish included");
  number("body.weight", "Body's wood", std::round(d.balance.body_g), "g",
         fmt::format("{:.0f} cm³ by layers at 12 % moisture", d.balance.volume_mm3 / 1000));
  number("body.whole_weight", "Whole instrument", std::round(d.balance.whole_g), "g",
         "body, neck, board, bridge, pickups, tuners, hardware");
  number("body.chambers_weight", "Chambers take out", std::round(d.balance.chambers_g), "g",
         "against the same body without them");
  length("body.balance_x", "Balances at", d.balance.whole_centre.x - st.bridge_middle.x,
         "from the scale line, towards the tail");
  length("body.balance_y", "aside", d.balance.whole_centre.y * s.treble, "towards the treble side");
  number("body.hang", "Hangs at", d.balance.hang * degrees, "°",
         fmt::format("neck over the level on a strap of {}, friction {}", mm(s.given.strap), strap_friction));
  length("body.misfit", "Sides may miss by", d.misfit.at(box.size() * 0.5), d.misfit.reason);
  if (cuts == nullptr) return;
  for (const Placement& side : cuts->sides)
    for (const CutFacts& f : side.facts) {
      const std::string base = fmt::format("bodycuts.{}.{}.", side.id, f.id);
      number(base + "seconds", "Time, " + f.title, std::round(f.seconds), "s",
             fmt::format("{:.1f} min, with acceleration and look-ahead", f.seconds / 60));
      number(base + "feed", "Feed, " + f.title, f.feed, "mm/min", f.feed_reason);
      length(base + "deepest", "Deepest, " + f.title, f.deepest, "lowest tip, from the blank's top");
    }
  number("bodycuts.seconds", "All body cuts", std::round(cuts->seconds), "s",
         fmt::format("{:.1f} min, without changes of cutter", cuts->seconds / 60));
}

}  // namespace wren
