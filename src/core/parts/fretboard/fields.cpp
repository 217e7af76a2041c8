// The fretboard's fields: every single number of strings, frets, board and its cutting under its key.
#include <algorithm>
#include <charconv>
#include <sstream>

#include <fmt/format.h>

#include "core/document/field_makers.hpp"
#include "core/parts/fretboard/part.hpp"

namespace wren {
namespace {

#define AT(member) \
  [](auto& p) -> auto& { return board_of(p).member; }

/// A test slot measures its cutter: the number belongs to the cutter in the rack, and stays with it when another is
/// chosen.
Field slot_measure_field() {
  Field f;
  f.key = "slot.measured_width";
  f.label = "Test slot, measured";
  f.unit = "mm";
  f.low = 0.1;
  f.high = 4;
  f.optional = f.measured = f.alias = true;
  f.reason = "width of a slot cut on scrap with this cutter; corrects its diameter in the rack";
  f.get = [](const Project& p) -> FieldValue {
    const Cutter* c = find_cutter(p.rack, board_of(p).work.slot_cutter);
    return c != nullptr && c->measured ? FieldValue(*c->measured) : FieldValue();
  };
  f.put = [](Project& p, const FieldValue& v) {
    const double* width = std::get_if<double>(&v);
    for (Cutter& c : p.rack)
      if (c.id == board_of(p).work.slot_cutter) c.measured = width != nullptr ? std::optional(*width) : std::nullopt;
  };
  return f;
}

const std::vector<std::string>& mark_shapes() {
  static const std::vector<std::string> names{"none", "dot", "tick", "block", "outline"};
  return names;
}

/// "12 block; 24 outline": frets whose mark has a shape of its own.
Expected<std::vector<MarkAt>> marks_at_from(const std::string& text) {
  const auto wrong = [&](const std::string& what) {
    return fail(ProblemKind::input, what, "marks.at",
                "Write a fret and its shape (none, dot, tick, block, outline), the next after a semicolon: 12 block; "
                "24 dot");
  };
  std::vector<MarkAt> out;
  std::stringstream all(text);
  for (std::string one; std::getline(all, one, ';');) {
    std::stringstream words(one);
    std::string fret, shape, more;
    if (!(words >> fret)) continue;
    if (fret == "none" && out.empty()) return out;
    words >> shape >> more;
    MarkAt m;
    const auto [end, bad] = std::from_chars(fret.data(), fret.data() + fret.size(), m.fret);
    if (bad != std::errc() || end != fret.data() + fret.size() || m.fret < 1 || m.fret > 36)
      return wrong(worded("'{}' is no fret from 1 to 36", fret));
    const auto it = std::find(mark_shapes().begin(), mark_shapes().end(), shape);
    if (it == mark_shapes().end() || !more.empty())
      return wrong(worded("'{}' is no shape of a mark", shape + (more.empty() ? "" : " " + more)));
    m.shape = static_cast<MarkShape>(it - mark_shapes().begin());
    if (std::any_of(out.begin(), out.end(), [&](const MarkAt& o) { return o.fret == m.fret; }))
      return wrong(fmt::format("fret {} is given twice", m.fret));
    out.push_back(m);
    if (out.size() > most_marks_at) return wrong("there are too many of them");
  }
  return out;
}

Field marks_at_field() {
  Field f = text_field(
      "marks.at", "Marks of their own shape", [](auto& p) -> auto& { return board_of(p).instrument.marks.at; },
      "fret and shape (none, dot, tick, block, outline); the next after a semicolon: 12 block; 24 dot");
  f.get = [](const Project& p) -> FieldValue {
    std::string text;
    for (const MarkAt& m : board_of(p).instrument.marks.at)
      text +=
          (text.empty() ? "" : "; ") + fmt::to_string(m.fret) + " " + mark_shapes()[static_cast<std::size_t>(m.shape)];
    return text;
  };
  f.put = [](Project& p, const FieldValue& v) {
    if (auto m = marks_at_from(std::get<std::string>(v))) board_of(p).instrument.marks.at = std::move(*m);
  };
  f.check = [](const std::string& text) -> std::optional<Problem> {
    if (auto m = marks_at_from(text); !m) return m.error();
    return {};
  };
  return f;
}

void instrument_fields(std::vector<Field>& f) {
  Field scale = length_field("strings.scale", "Scale length", AT(instrument.strings.scale_bass), 200, 1500,
                             "sets the bass and the treble scale together");
  scale.alias = true;
  scale.put = [](Project& p, const FieldValue& v) {
    board_of(p).instrument.strings.scale_bass = board_of(p).instrument.strings.scale_treble = std::get<double>(v);
  };
  f.insert(
      f.end(),
      {scale,
       count_field("strings.count", "Strings", AT(instrument.strings.count), 3, 12, "number of strings"),
       length_field("strings.scale_bass", "Scale, bass side", AT(instrument.strings.scale_bass), 200, 1500,
                    "nut to saddle along the outer bass string"),
       length_field("strings.scale_treble", "Scale, treble side", AT(instrument.strings.scale_treble), 200, 1500,
                    "nut to saddle along the outer treble string"),
       number_field("strings.square_fret", "Square fret", AT(instrument.strings.square_fret), "", 0, 36,
                    "the fret that stands square to the centre line when the scales differ"),
       length_field("strings.nut_spread", "Spread at the nut", AT(instrument.strings.nut_spread), 10, 150,
                    "between the centres of the outer strings"),
       length_field("strings.bridge_spread", "Spread at the bridge", AT(instrument.strings.bridge_spread), 10, 250,
                    "between the centres of the outer strings"),
       choice_field("strings.spread_from", "Spread follows", AT(instrument.strings.spread_from), {"given", "pieces"},
                    "the number given, or single bridge pieces beside each other, one for each string"),
       length_field("strings.piece_width", "One bridge piece", AT(instrument.strings.piece_width), 4, 40,
                    "its width across the string"),
       length_field("strings.piece_gap", "Between two pieces", AT(instrument.strings.piece_gap), 0, 20,
                    "left so that none touches the next"),
       choice_field("strings.spacing", "Spacing", AT(instrument.strings.spacing), {"centres", "gaps"},
                    "equal centre distances, or equal gaps by gauge"),
       flag_field("strings.left_handed", "Left-handed", AT(instrument.strings.left_handed), "mirrors the instrument"),
       numbers_field("strings.gauges", "Gauges", AT(instrument.strings.gauges), "mm", 0.1, 6,
                     "bass to treble; empty or another number of them: worked out"),
       count_field("frets.count", "Frets", AT(instrument.frets.count), 12, 36, "number of frets"),
       flag_field("frets.zero_fret", "Zero fret", AT(instrument.frets.zero_fret),
                  "a fret at the nut line; the nut only guides"),
       length_field("frets.tang_width", "Tang width", AT(instrument.frets.tang_width), 0.2, 2,
                    "of the fret wire, without its barbs"),
       length_field("frets.tang_depth", "Tang depth", AT(instrument.frets.tang_depth), 0.5, 4, "of the fret wire"),
       length_field("frets.crown_width", "Fret crown width", AT(instrument.frets.crown_width), 0.5, 5,
                    "of the fret wire"),
       length_field("frets.crown_height", "Fret crown height", AT(instrument.frets.crown_height), 0.2, 3,
                    "of the fret wire"),
       length_field("frets.wire_overhang", "Wire beyond the edge", AT(instrument.frets.wire_overhang), 0, 20,
                    "left at each end when wire is cut to length"),
       length_field("frets.barb_width", "Tang over its barbs", AT(instrument.frets.barb_width), 0.2, 3,
                    "of the fret wire"),
       choice_field("frets.when", "Frets are pressed", AT(instrument.frets.when), {"board_glued", "board_loose"},
                    "once the board is glued to its neck; or while it is loose and flat, then glued under a caul that "
                    "holds back the bow they make"),
       choice_field("frets.held", "Frets are held by", AT(instrument.frets.held),
                    {"pressing", "pressing_and_glue", "glue"},
                    "their barbs; those and a drop of glue; or glue alone in loose slots, clamped in two rounds"),
       length_field("board.thickness", "Board thickness", AT(instrument.board.thickness), 1, 30,
                    "at the top of the crown"),
       length_field("board.edge_margin", "Edge margin", AT(instrument.board.edge_margin), 0, 20,
                    "from the outer strings' centres to the edge"),
       length_field("board.overhang", "Board past last fret", AT(instrument.board.overhang), 0, 100,
                    "along the centre line"),
       length_field("board.nut_extension", "Board behind fret 0", AT(instrument.board.nut_extension), 0, 50,
                    "not used with a nut"),
       choice_field("board.end", "End of the board", AT(instrument.board.end), {"square", "slanted", "round"},
                    "slanted: parallel to the last fret"),
       length_field("board.end_rise", "Rise of a round end", AT(instrument.board.end_rise), 0.5, 60,
                    "how far its middle stands beyond its corners"),
       choice_field("crown.kind", "Crown", AT(instrument.crown.kind), {"flat", "cylinder", "cone"},
                    "the radius across the board"),
       length_field("crown.radius_nut", "Radius at the nut", AT(instrument.crown.radius_nut), 40, 5000,
                    "of the crown; a cylinder's everywhere"),
       length_field("crown.radius_last", "Radius at last fret", AT(instrument.crown.radius_last), 40, 5000,
                    "of a cone; it goes on growing to the saddles"),
       length_field("slot.width", "Slot width", AT(instrument.slot.width), 0.2, 3, "wanted, for the tang to press in"),
       length_field("slot.depth", "Slot depth", AT(instrument.slot.depth), 0.2, 10,
                    "under the top of the crown (flat) or under the crown everywhere"),
       choice_field("slot.bottom", "Slot bottom", AT(instrument.slot.bottom), {"flat", "crown"},
                    "flat, or following the crown"),
       choice_field("slot.ends", "Slot ends", AT(instrument.slot.ends), {"through", "blind"},
                    "run out through the edges, or stop short"),
       length_field("slot.blind_margin", "Wood beside blind slot", AT(instrument.slot.blind_margin), 0.5, 15,
                    "at each edge"),
       choice_field("marks.shape", "Marks", AT(instrument.marks.shape), {"none", "dot", "tick", "block", "outline"},
                    "position marks"),
       numbers_field("marks.places", "Marked frets", AT(instrument.marks.places), "", 1, 36,
                     "every twelfth is doubled"),
       length_field("marks.size", "Mark size", AT(instrument.marks.size), 0.5, 40,
                    "diameter of a dot; along the board for the others"),
       length_field("marks.length", "Mark length", AT(instrument.marks.length), 0.5, 90,
                    "across the board, for ticks and blocks"),
       length_field("marks.depth", "Mark depth", AT(instrument.marks.depth), 0.2, 10,
                    "under the crown at the mark's middle"),
       marks_at_field(),
       length_field("marks.pair_wide", "Pairs apart", AT(instrument.marks.pair_wide), 0, 80,
                    "middles of the two at fret 12; 0: half the board's width"),
       length_field("marks.pair_narrow", "Pair at fret 24 apart", AT(instrument.marks.pair_narrow), 0, 80,
                    "where it is to stand closer; 0: half the board's width"),
       choice_field("marks.filling", "Filled with", AT(instrument.marks.filling), {"shell", "wood", "resin", "acrylic"},
                    "resin is poured in layers; acrylic melts under a cutter that rubs"),
       length_field("marks.pour", "One pour of resin", AT(instrument.marks.pour), 0.3, 10,
                    "at most: thick ones grow hot and warp the board"),
       choice_field("marks.side", "Side marks", AT(instrument.marks.side), {"row", "staggered", "ticks"},
                    "dots in a row, which shows every slip of the drill; staggered on purpose; ticks of the face that "
                    "run over the edge, cut by the machine"),
       length_field("marks.side_stagger", "Side dots staggered by", AT(instrument.marks.side_stagger), 0, 6,
                    "between the higher and the lower"),
       length_field("marks.tick_length", "Ticks' length", AT(instrument.marks.tick_length), 1, 40,
                    "inwards from the edge"),
       length_field("marks.tick_width", "Ticks' width", AT(instrument.marks.tick_width), 0.5, 8, "along the board"),
       length_field("marks.tick_depth", "Ticks' depth", AT(instrument.marks.tick_depth), 0.2, 5,
                    "under the crown at the edge")});
}

void work_fields(std::vector<Field>& f) {
  f.push_back(choice_field("board.order", "Order of cuts", AT(work.order), {"flat_first", "crown_first"},
                           "slots while the blank is flat, or crown, marks, fill, crown again, slots"));

  Field blank_length =
      length_field("board.blank.length", "Blank length", AT(blank.length), 20, 5000, "along the board");
  blank_length.put = [](Project& p, const FieldValue& v) {
    // Clamps at the far end go with it.
    const double longer = std::get<double>(v) - board_of(p).blank.length;
    const Vec2 shift = board_of(p).blank.lie == Lie::along_x ? Vec2{longer, 0} : Vec2{0, longer};
    for (Clamp& c : board_of(p).blank.clamps)
      if ((board_of(p).blank.lie == Lie::along_x ? c.low.x : c.low.y) > board_of(p).blank.length / 2) {
        c.low = c.low + shift;
        c.high = c.high + shift;
      }
    board_of(p).blank.length = std::get<double>(v);
  };
  f.insert(
      f.end(),
      {blank_length, length_field("board.blank.width", "Blank width", AT(blank.width), 5, 5000, "across the board"),
       length_field("board.blank.thickness", "Blank thickness", AT(blank.thickness), 0.5, 300, "at its thinnest"),
       wood_field("board.blank.wood", "Wood", AT(blank.wood), "density and cutting class")});

  Field lie = choice_field("board.blank.lie", "Board lies along", AT(blank.lie), {"x", "y"},
                           "the machine's axis; clamps turn with the blank");
  lie.put = [](Project& p, const FieldValue& v) {
    const Lie way = std::get<std::string>(v) == "y" ? Lie::along_y : Lie::along_x;
    if (way == board_of(p).blank.lie) return;
    board_of(p).blank.lie = way;
    for (Clamp& c : board_of(p).blank.clamps) {
      std::swap(c.low.x, c.low.y);
      std::swap(c.high.x, c.high.y);
    }
  };
  f.insert(f.end(), {lie,
                     choice_field("board.blank.zero", "Work zero", AT(blank.zero), {"corner", "centre"},
                                  "lower-left corner or middle of the blank's top"),
                     clamps_field(
                         "board.clamps", [](auto& p) -> auto& { return board_of(p).blank.clamps; })});

  f.insert(f.end(),
           {cutter_field("slot.cutter", "Slot cutter", AT(work.slot_cutter), "from the rack"),
            choice_field("slot.entry", "Slot entry", AT(work.slot_entry), {"ramp", "peck"},
                         "down along the slot, or straight down at its end"),
            slot_measure_field(),
            cutter_field("marks.cutter", "Mark cutter", AT(work.mark_cutter), "from the rack"),
            cutter_field("crown.cutter", "Crown cutter", AT(work.crown_cutter), "from the rack"),
            choice_field("crown.direction", "Crown rows run", AT(work.crown_direction), {"along", "across"},
                         "along or across the board"),
            choice_field("crown.extent", "Crown covers", AT(work.crown_extent), {"board", "blank"},
                         "the board, or the whole blank"),
            length_field("crown.scallop", "Scallop", AT(work.crown_scallop), 0.001, 0.5,
                         "greatest height left between rows"),
            length_field("crown.stepover", "Stepover", AT(work.crown_stepover), 0, 50,
                         "between rows; 0: worked out from the scallop"),
            cutter_field("outline.cutter", "Outline cutter", AT(work.outline_cutter), "from the rack"),
            flag_field("outline.climb", "Climb cutting", AT(work.outline_climb),
                       "clockwise round the board; conventional otherwise"),
            length_field("outline.skim", "Finishing skim", AT(work.outline_skim), 0, 2,
                         "left by the depths for one last round; 0: none"),
            count_field("board.tabs", "Tabs", AT(work.tabs), 0, 20, "bridges that hold the board in its blank"),
            numbers_field("board.tab_places", "Tab places", AT(work.tab_places), "mm", 0, 10000,
                          "along the outline from its bass corner at the nut; empty: automatic"),
            length_field("board.tab_length", "Tab length", AT(work.tab_length), 1, 40, "of full height"),
            length_field("board.tab_height", "Tab height", AT(work.tab_height), 0.3, 20, "above the underside"),
            length_field("board.through", "Into the waste board", AT(work.through), 0, 5,
                         "below the blank, so that no skin is left"),
            choice_field("board.outline_when", "Outline is cut", AT(work.outline_when), {"last", "first"},
                         "last, with the blank whole under every other cut; or first, when every other cut trusts its "
                         "tabs"),
            cutter_field("marks.tick_cutter", "Tick cutter", AT(work.tick_cutter), "from the rack"),
            wood_field("caul.wood", "Caul's wood", AT(work.caul_wood), "or another sound material"),
            length_field("caul.thickness", "Caul's thickness", AT(work.caul_thickness), 12, 90,
                         "at its edges: stiff enough to press a bowed board flat"),
            length_field("caul.clearance", "Grooves wider", AT(work.caul_clearance), 0.1, 3,
                         "than a fret's crown, each side and over it"),
            cutter_field("caul.rough_cutter", "Caul, roughing", AT(work.caul_rough), "from the rack"),
            cutter_field("caul.finish_cutter", "Caul, finishing", AT(work.caul_finish), "a ball; from the rack"),
            cutter_field("caul.groove_cutter", "Caul's grooves", AT(work.caul_groove),
                         "no wider than a fret's crown and its room; from the rack")});
}

#undef AT

}  // namespace

std::vector<Field> fretboard_fields() {
  std::vector<Field> f;
  instrument_fields(f);
  work_fields(f);
  sizes_at_hand(
      f, "fretboard.hand.wire-measured",
      {"frets.tang_width", "frets.tang_depth", "frets.barb_width", "frets.crown_width", "frets.crown_height"});
  sizes_at_hand(f, "body.hand.bridge-measured", {"strings.piece_width"});
  return f;
}

}  // namespace wren
