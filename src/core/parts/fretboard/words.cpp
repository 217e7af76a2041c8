// The fretboard's numbers, lines and words.
#include <cmath>

#include <fmt/format.h>

#include "core/instrument/fret_work.hpp"
#include "core/instrument/fretboard_remarks.hpp"
#include "core/parts/fretboard/part.hpp"

namespace wren {
namespace {

std::vector<LedgerLine> numbers(const PartInput& in_) {
  const Project& p = in_.project;
  const auto& d = in_.designs.shape<BoardDesign>();
  Numbers n;

  const Fretboard& b = d.board;
  const Instrument& in = board_of(p).instrument;
  const Box2 box = bounds(b.corners);
  n.length("board.length", "Board length", box.size().x,
           "from end to end along the centre line: nut line to last fret, and what stands beyond");
  n.length(
      "board.width_nut", "Width at the nut", b.nut_line.width(),
      worded("spread {} and twice the margin {}", exact_mm(in.strings.nut_spread), exact_mm(in.board.edge_margin)));
  static const std::vector<Field> fields = fretboard_fields();
  const Words pieces = in.strings.spread_from == SpreadFrom::pieces
                           ? hangs_on(p, fields, "body.hand.bridge-measured", "the bridge's pieces")
                           : Words();
  n.length("board.width_last", "Width at the last fret", b.frets.back().width(),
           worded("along fret {}, edge to edge", b.frets.back().number) + pieces);
  n.length("board.least_overhang", "Least board past fret", least_overhang(b),
           "nearest the last fret's line comes to the end");
  n.length("crown.drop_nut", "Crown drop, nut", in.board.thickness - b.crown_height(b.nut_line.bass_edge),
           "R − √(R² − y²) at the edge");
  n.length("crown.drop_last", "Crown drop, last fret", in.board.thickness - b.crown_height(b.frets.back().bass_edge),
           "R − √(R² − y²) at the edge");
  if (in.crown.kind == CrownKind::cone) {
    const double bridge_x = (b.strings.front().saddle.x + b.strings.back().saddle.x) / 2;
    n.length("crown.radius_saddles", "Radius at the saddles", b.crown_radius(bridge_x),
             "the cone carried on: set the saddles to it");
  }
  const LeastDepth least = least_slot_depth(b);
  n.length("slot.least_depth", "Least slot depth", least.depth,
           worded("at fret {}, where the crown is lowest over the floor", least.fret));
  if (const Cutter* c = find_cutter(d.rack, board_of(p).work.slot_cutter)) {
    n.length("slot.cutter_diameter", "Slot cutter in use", c->effective_diameter(),
             c->measured ? "measured on a test slot" : "nominal: not measured yet");
    n.length("slot.expected_width", "Expected slot width", expected_slot_width(p, *c),
             c->measured ? "the paths are corrected by the test slot"
                         : worded("cutter and runout {} at each side", exact_mm(p.machine.runout)));
    const auto lanes = slot_lanes(in.slot.width, c->effective_diameter());
    n.length("slot.lane_offset", "Passes stand apart", lanes.back() - lanes.front(),
             lanes.size() == 1 ? "one pass makes the width" : "wanted width less the cutter's");
  }
  n.length("frets.wire_total", "Fret wire in all", b.total_wire,
           worded("{} frets with {} at each end", b.frets.size(), exact_mm(in.frets.wire_overhang)));
  n.length("frets.back_bow", "Loose board bows by", back_bow(b),
           worded("backwards between the outer frets: each spreads its slot by about {}; an estimate",
                  exact_mm(slot_spread(in))));
  if (const double room = filling_volume(b); room > 0) {
    n.number("marks.volume", "Filling", room / 1000, "ml", "room in the marks under the crown, ticks included");
    if (const int pours = pours_of(b); pours > 0)
      n.number("marks.pours", "Pours", pours, "",
               worded("at most {} each in {}", exact_mm(in.marks.pour), exact_mm(deepest_filling(b))));
  }
  n.number("board.volume", "Volume", d.volume_mm3 / 1000, "cm³", "slots and marks taken off");
  n.number("board.weight", "Weight", d.weight_g, "g",
           worded("{} at {:.0f} kg/m³ (12 % moisture)", d.wood.name, d.wood.density));
  for (const StringLine& s : b.strings) {
    const auto i = static_cast<std::size_t>(&s - b.strings.data());
    n.length(fmt::format("strings.{}.scale", i + 1), worded("String {} scale", i + 1), s.scale,
             "along the string, bass side first");
  }
  for (const FretLine& f : b.frets)
    n.length(fmt::format("frets.{}.x", f.number), worded("Fret {}", f.number), f.middle().x,
             "from the nut line along the centre line: L·(1 − 2^(−n/12))");
  for (const Jog& jog : d.setup.jogs) {
    const bool home = &jog == &d.setup.jogs.front();
    n.length(home ? "setup.home_to_cross_x" : "setup.cross_to_zero_x", worded("{}, x", Words(jog.what)), jog.x,
             home ? "half the travel" : "half the blank");
    n.length(home ? "setup.home_to_cross_y" : "setup.cross_to_zero_y", worded("{}, y", Words(jog.what)), jog.y,
             home ? "half the travel" : "half the blank");
  }
  n.length("setup.board_from_left", "Board from left edge", d.setup.board_low.x - d.setup.blank_corner.x,
           "centred in the blank");
  n.length("setup.board_from_front", "Board from front edge", d.setup.board_low.y - d.setup.blank_corner.y,
           "centred in the blank");
  return n.take();
}

/// Fret work in the order of the school that was chosen.
void hand_lines(const Project& p, std::vector<BuildLine>& out) {
  const Frets& frets = board_of(p).instrument.frets;
  const bool loose = frets.when == FretsWhen::board_loose;
  const auto hand = [&](const char* id, Words title, std::vector<std::string> after, double minutes, std::string hint) {
    BuildLine l{id, std::move(title), LineState::ready, {"frets.when", "frets.held"}, Look::side};
    l.by_hand = true;
    l.after = std::move(after);
    l.seconds = minutes * 60;
    l.hint = std::move(hint);
    out.push_back(std::move(l));
  };
  std::vector<std::string> first = loose ? std::vector<std::string>{"fretboard.cut."}
                                         : std::vector<std::string>{"fretboard.cut.", "neck.cut.", "neck.hand.board"};
  if (frets.held == FretsHeld::glued) {
    first.push_back("caul.cut.");
    hand("fretboard.hand.frets-1",
         loose ? "Every second fret glued into the loose board" : "Every second fret glued into the glued board", first,
         practice::clamping_minutes,
         "Slots eased and clean, glue in the slot, fret in, the caul over them, clamped until it has set: some hours. "
         "Gloves and air for glues that give off fumes.");
    hand("fretboard.hand.frets-2",
         loose ? "The other frets glued into the loose board" : "The other frets glued into the glued board",
         {"fretboard.hand.frets-1"}, practice::clamping_minutes,
         "The second round, the same way, once the first has set.");
  } else {
    hand("fretboard.hand.frets", loose ? "Frets pressed into the loose board" : "Frets pressed into the glued board",
         first, practice::pressing_minutes,
         std::string("Ease the slots' edges, bend the wire a little tighter than the crown, tap, then press: not too "
                     "hard, wire flattens.") +
             (frets.held == FretsHeld::pressed_glue ? " A drop of glue in each slot first; wipe what comes out." : "") +
             (loose ? " Lay the board flat on its caul's blank or a true bed; it bows backwards as they go in." : ""));
  }
  hand("fretboard.hand.ends", "Fret ends, levelling, polishing",
       {"fretboard.hand.frets", "fretboard.hand.frets-1", "fretboard.hand.frets-2", "neck.hand.board"}, 0,
       "Ends cut, filed towards the board's side, bevelled; tops marked and levelled with a true beam, crowned, "
       "polished "
       "by grits.");
}

PartLines lines(const PartInput* input, const Project& p) {
  BuildLine test{"fretboard.test_slot",
                 "Test slot on scrap",
                 LineState::ready,
                 {"slot.measured_width", "slot.cutter", "slot.cutter_diameter", "slot.expected_width",
                  "slot.lane_offset", "slot.width", "frets.tang_width"},
                 Look::side};
  if (const Cutter* c = find_cutter(p.rack, board_of(p).work.slot_cutter); c != nullptr && c->measured)
    test.state = LineState::measured;
  PartLines out{{heading("Fretboard"),
                 {"fretboard.shape",
                  "Shape",
                  LineState::ready,
                  {"board.thickness", "board.edge_margin", "board.overhang", "board.end", "board.end_rise",
                   "board.nut_extension", "board.length", "board.width_nut", "board.width_last", "board.least_overhang",
                   "board.volume", "board.weight"}},
                 {"fretboard.crown",
                  "Crown",
                  LineState::ready,
                  {"crown.kind", "crown.radius_nut", "crown.radius_last", "crown.radius_saddles", "crown.drop_nut",
                   "crown.drop_last"},
                  Look::side},
                 {"fretboard.slots",
                  "Slots",
                  LineState::ready,
                  {"slot.width", "slot.depth", "slot.bottom", "slot.ends", "slot.blind_margin", "slot.least_depth"},
                  Look::side},
                 {"fretboard.marks", "Marks", LineState::ready, {"marks."}},
                 heading("Fretboard on the machine"),
                 {"fretboard.blank",
                  "Blank",
                  LineState::ready,
                  {"board.blank.", "setup.board_from_left", "setup.board_from_front"},
                  Look::bed},
                 {"fretboard.setup",
                  "Set-up and holding",
                  LineState::ready,
                  {"board.order", "board.outline_when", "board.clamps", "programs.", "setup."},
                  Look::bed},
                 test}};
  out.instrument = {{"fretboard.strings",
                     "Strings and scale",
                     input == nullptr ? LineState::question : LineState::ready,
                     {"project.name", "strings.scale", "strings.count", "strings.scale_bass", "strings.scale_treble",
                      "strings.square_fret", "strings.nut_spread", "strings.bridge_spread", "strings.spacing",
                      "strings.left_handed", "strings.gauges", "strings."}},
                    {"fretboard.frets",
                     "Frets and wire",
                     LineState::ready,
                     {"frets.count", "frets.zero_fret", "frets.tang_width", "frets.tang_depth", "frets.crown_width",
                      "frets.crown_height", "frets.wire_overhang", "frets.wire_total", "frets."}}};
  BuildLine wire{
      "fretboard.hand.wire-measured",
      "Fret wire at hand, measured",
      LineState::ready,
      {"frets.tang_width", "frets.tang_depth", "frets.barb_width", "frets.crown_width", "frets.crown_height"},
      Look::side};
  wire.by_hand = true;
  wire.hint = "Measure tang and barbs of an off-cut; then cut a test slot: there is no single right width.";
  out.instrument.push_back(std::move(wire));
  hand_lines(p, out.assembly);
  return out;
}

SheetWords words(const PartInput& in) {
  const Project& p = in.project;
  const FretboardNumbers& given = board_of(p);
  const auto& d = in.designs.shape<BoardDesign>();
  const Blank& blank = given.blank;
  const bool corner = blank.zero == ZeroPlace::corner;
  std::vector<Words> by_hand;
  if (!d.board.marks.empty() || !d.board.ticks.empty()) by_hand.push_back(filling_words(d.board));
  const Frets& frets = given.instrument.frets;
  if (frets.when == FretsWhen::board_loose)
    by_hand.push_back(
        {"Frets go in while the board is loose: it bows backwards by about {} between the outer ones; its "
         "caul holds it flat in the glue-up.",
         {back_bow(d.board)}});
  if (frets.held == FretsHeld::glued)
    by_hand.push_back(
        {"Frets are glued in two rounds, every second one, clamped under the caul; slots {} wide for a tang "
         "of {}.",
         {given.instrument.slot.width, frets.tang_width}});
  return {{{"Blank", {"{} × {} × {} " + blank.wood, {blank.length, blank.width, blank.thickness}}},
           {"Board",
            {"{} long, {} at the nut, {} at the last fret, {} thick",
             {bounds(d.board.corners).size().x, d.board.nut_line.width(), d.board.frets.back().width(),
              given.instrument.board.thickness}}},
           {"Lies along", {blank.lie == Lie::along_x ? "x, nut to the left" : "y, nut to the front"}},
           {"Work zero",
            {corner ? "lower-left corner of the blank, z = 0 on its top" : "middle of the blank, z = 0 on its top"}}},
          {},
          by_hand,
          {d.wood},
          {},
          {"Blank measured", "Test slot measured", "Feed override used", "Slot depth at the edge", "Width at the nut",
           "Thickness", "Cut by, date"}};
}

}  // namespace

PartKind fretboard_part() {
  PartKind kind;
  kind.table = {"fretboard", "Fretboard", fretboard_fields(),
                [](const Project& p, nlohmann::ordered_json& group) { fretboard_to_json(p, group); },
                fretboard_from_json};
  kind.design = [](const PartInput& in) -> Expected<Design> {
    auto d = design_board(in.project);
    if (!d) return tl::unexpected(d.error());
    return design_of(std::move(*d));
  };
  kind.pieces = [](const PartInput& in) { return board_pieces(in.project, in.designs.shape<BoardDesign>(), in.cache); };
  kind.numbers = numbers;
  kind.lines = lines;
  kind.words = words;
  kind.mesh = [](const PartInput& in, double) { return board_mesh(in.designs.shape<BoardDesign>().board); };
  return kind;
}

}  // namespace wren
