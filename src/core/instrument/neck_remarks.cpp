#include "core/instrument/neck_remarks.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/instrument/headstock.hpp"
#include "core/instrument/neck_strength.hpp"
#include "core/units/length.hpp"
#include "core/units/plain_number.hpp"

namespace wren {
namespace {

const char* const common = "common practice";
constexpr double degree = std::numbers::pi / 180;

std::pair<double, double> spot(Vec2 p) { return {p.x, p.y}; }
std::string up(double v, double step) { return format_mm(std::ceil(v / step - 1e-9) * step, 2); }
std::string down(double v, double step) { return format_mm(std::floor(v / step + 1e-9) * step, 2); }

/// What a change of the neck's numbers costs in weight, as words.
Words with_cost(const Words& label, const NeckShape& before, const Neck& after) {
  const auto made = make_neck(*before.board, after);
  auto insets = label.insets();
  if (!made) return {label.id() + " (which no longer fits together)", std::move(insets)};
  const double grams = neck_weight(*made, 610).grams - neck_weight(before, 610).grams;
  insets.insert(insets.end(), {std::string(grams >= 0 ? "+" : "−"), std::abs(grams), mm(least_skin(*made).least, 1)});
  return {label.id() + " ({}{:.0f} g, skin {})", std::move(insets)};
}

void judge_skin(const NeckShape& neck, std::vector<Remark>& out) {
  const Skin skin = least_skin(neck);
  if (skin.channel.empty() || skin.least >= practice::skin_least - 1e-6) return;
  const bool one_piece = neck.given.build == NeckBuild::one_piece;
  const int fret = neck.nearest_fret(skin.at.x);
  const double lack = practice::skin_least - skin.least;
  const bool bar = skin.channel.rfind("bar", 0) == 0;
  const std::string what = bar ? "The carbon bar" : skin.channel == "rod-pocket" ? "The adjuster's pocket" : "The rod";
  Remark r{skin.least <= 0.3 ? "neck.rod_through" : "neck.skin_thin",
           skin.least < 1.5 ? Weight::stop : Weight::think_again,
           skin.least <= 0
               ? worded("{} breaks through the back near fret {}: its slot goes {} deeper than the wood.", what, fret,
                        mm(-skin.least))
               : worded("{} leaves {} of wood {} near fret {}; {} are wanted.", what, mm(skin.least),
                        one_piece ? "under the strings' side" : "before the back", fret, mm(practice::skin_least)),
           skin.least,
           practice::skin_least,
           "mm",
           "nearest distance in space; " + std::string(common),
           bar                            ? "rod.bar_depth"
           : one_piece                    ? "rod.cover"
           : skin.channel == "rod-pocket" ? "rod.pocket_depth"
                                          : "rod.depth",
           spot(skin.at),
           {},
           {}};
  const auto offer = [&](const Words& label, const Neck& changed,
                         std::vector<std::pair<std::string, std::string>> edits) {
    Repair repair{with_cost(label, neck, changed), std::move(edits)};
    if (!r.repair)
      r.repair = std::move(repair);
    else
      r.others.push_back(std::move(repair));
  };
  const std::string step = up(lack + 0.05, 0.1);
  const double more = parse_number(step).value_or(lack);
  if (one_piece) {
    Neck deeper = neck.given;
    deeper.rod.cover += more;
    offer(worded("Lay the rod {} deeper under the strings", as_mm(step)), deeper,
          {{"rod.cover", format_mm(deeper.rod.cover, 2)}});
  } else {
    Neck thicker = neck.given;
    thicker.back.thickness_a += more;
    if (fret > (neck.given.back.fret_a + neck.given.back.fret_b) / 2) thicker.back.thickness_b += more;
    if (neck.given.back.sections.size() < 2)
      offer(worded("Make the neck {} thicker", as_mm(step)), thicker,
            {{"neck.thickness_a", format_mm(thicker.back.thickness_a, 2)},
             {"neck.thickness_b", format_mm(thicker.back.thickness_b, 2)}});
    Neck shallow = neck.given;
    if (bar) {
      shallow.rod.bar_depth = std::max(1.0, shallow.rod.bar_depth - more);
      offer(worded("Use bars {} deep", mm(shallow.rod.bar_depth)), shallow,
            {{"rod.bar_depth", format_mm(shallow.rod.bar_depth, 2)}});
      Neck inward = neck.given;
      inward.rod.bar_offset = std::max(inward.rod.bar_width / 2 + inward.rod.width / 2 + 1, inward.rod.bar_offset - 2);
      offer(worded("Set the bars {} from the middle", mm(inward.rod.bar_offset)), inward,
            {{"rod.bar_offset", format_mm(inward.rod.bar_offset, 2)}});
    } else {
      const double by = std::min(more, shallow.rod.depth - 4);
      shallow.rod.depth -= by;
      shallow.rod.pocket_depth =
          std::min(shallow.rod.pocket_depth, std::max(shallow.rod.depth, shallow.rod.pocket_depth - by));
      offer(worded("Take a rod that needs a slot {} deep", as_mm(down(shallow.rod.depth, 0.05))), shallow,
            {{"rod.depth", down(shallow.rod.depth, 0.05)}, {"rod.pocket_depth", down(shallow.rod.pocket_depth, 0.05)}});
      if (neck.given.rod.bottom == RodBottom::curved) {
        Neck straight = neck.given;
        straight.rod.bottom = RodBottom::straight;
        offer("Make the slot's bottom straight", straight, {{"rod.bottom", "straight"}});
      }
      if (neck.given.back.sections.size() < 2 && neck.given.back.shape_a != BackShape::u &&
          skin.at.x < neck.fret_x(neck.given.back.fret_b) / 2) {
        Neck fuller = neck.given;
        fuller.back.shape_a = BackShape::u;
        offer("Give the back fuller shoulders there (a U)", fuller, {{"neck.shape_a", "u"}});
      }
    }
  }
  out.push_back(std::move(r));
}

void judge_sections(const NeckShape& neck, std::vector<Remark>& out) {
  const BackNumbers& back = neck.given.back;
  const SectionDeparture* worst = nullptr;
  for (const SectionDeparture& d : neck.departures)
    if (worst == nullptr || d.worst > worst->worst) worst = &d;
  if (worst != nullptr) {
    const double limit = std::max(0.05, back.fair_within);
    out.push_back({"neck.departure",
                   worst->worst > limit + 0.01 ? Weight::think_again : Weight::worth_knowing,
                   worded("The back leaves the measured section at x {} by {} at y {}; {} are allowed.",
                          format_mm(worst->x, 1), mm(worst->worst), format_mm(worst->at.y, 1), mm(limit)),
                   worst->worst,
                   limit,
                   "mm",
                   "the measured sections",
                   "neck.fair_within",
                   spot(worst->at),
                   {},
                   {}});
  }
  const Lump lump = worst_lump(neck);
  if (std::abs(lump.height) > practice::lump_seen) {
    Remark r{"neck.lump",
             Weight::think_again,
             worded("The back has a {} of {} near fret {}: a hand that slides along feels more than {}.",
                    lump.height > 0 ? "lump" : "hollow", mm(std::abs(lump.height)), neck.nearest_fret(lump.at.x),
                    mm(practice::lump_seen)),
             lump.height,
             practice::lump_seen,
             "mm",
             common,
             "neck.fair_within",
             spot(lump.at),
             {},
             {}};
    if (!back.sections.empty()) {
      const double within = std::max({0.2, 1.5 * back.fair_within, std::abs(lump.height) * 0.8});
      const std::string text = up(within, 0.05);
      r.repair = Repair{worded("Let the surface be faired within {} of the sections", as_mm(text)),
                        {{"neck.fair_within", text}}};
    }
    out.push_back(std::move(r));
  }
}

bool overlap(const Polygon& a, const Polygon& b, double gap) {
  // Convex bodies: apart where some edge of either separates them by the gap.
  for (const Polygon* p : {&a, &b})
    for (std::size_t i = 0; i < p->size(); ++i) {
      const Vec2 n = left_of(unit((*p)[(i + 1) % p->size()] - (*p)[i])) * -1.0;
      double most_own = -1e300;
      double least_other = 1e300;
      for (const Vec2 q : *p) most_own = std::max(most_own, dot(q, n));
      for (const Vec2 q : p == &a ? b : a) least_other = std::min(least_other, dot(q, n));
      if (least_other > most_own + gap) return false;
    }
  return true;
}

void judge_head(const NeckShape& neck, std::vector<Remark>& out) {
  const HeadNumbers& head = neck.given.head;
  const TunerNumbers& size = neck.given.tuner;
  for (std::size_t i = 0; i < neck.tuners.size(); ++i)
    for (std::size_t k = i + 1; k < neck.tuners.size(); ++k) {
      const Tuner& a = neck.tuners[i];
      const Tuner& b = neck.tuners[k];
      if (!overlap(a.body, b.body, practice::tuner_gap)) continue;
      const bool same = a.bass_side == b.bass_side;
      const std::string need = up(size.body_along + 1, 0.5);
      Remark r{"tuner.overlap",
               Weight::stop,
               worded("The tuners of strings {} and {} stand on top of each other ({} apart).", a.string, b.string,
                      mm(distance(a.at, b.at))),
               distance(a.at, b.at),
               same ? size.body_along : 2 * size.body_in,
               "mm",
               "the tuners' measured bodies",
               same ? "tuner.pitch" : "head.tuners_bass",
               spot(lerp(a.at, b.at, 0.5)),
               {},
               {}};
      if (same && size.pitch < size.body_along + 0.5)
        r.repair = Repair{worded("Set them {} apart", as_mm(need)), {{"tuner.pitch", need}}};
      else if (!same)
        r.repair = Repair{"Put all tuners in line on the bass side",
                          {{"head.tuners_bass", fmt::format("{}", neck.tuners.size())}}};
      out.push_back(std::move(r));
      i = neck.tuners.size();  // the first pair tells it
      break;
    }
  for (const Tuner& t : neck.tuners) {
    const double edge = distance_to(neck.corners, t.at);
    const bool inside = contains(neck.corners, t.at);
    if (!inside || edge < size.hole / 2 + practice::hole_to_edge) {
      out.push_back({"tuner.edge",
                     Weight::stop,
                     inside ? worded("The hole of tuner {} leaves {} of wood to the head's edge.", t.string,
                                     mm(edge - size.hole / 2))
                            : worded("Tuner {} stands outside the head.", t.string),
                     inside ? edge - size.hole / 2 : -edge,
                     practice::hole_to_edge,
                     "mm",
                     common,
                     "tuner.edge",
                     spot(t.at),
                     {},
                     {}});
      break;
    }
    if (head.shape == HeadShape::drawn && std::abs(edge - size.edge) > 4) {
      out.push_back({"tuner.reach",
                     Weight::think_again,
                     worded("Tuner {} stands {} from the drawn edge; its shaft is made for {}.", t.string, mm(edge),
                            mm(size.edge)),
                     edge,
                     size.edge,
                     "mm",
                     "the tuner's measured sizes",
                     "head.first_post",
                     spot(t.at),
                     {},
                     {}});
      break;
    }
  }
  const Tuner* flat_most = nullptr;
  const Tuner* steep = nullptr;
  for (const Tuner& t : neck.tuners) {
    if (flat_most == nullptr || t.angle < flat_most->angle) flat_most = &t;
    if (steep == nullptr || t.angle > steep->angle) steep = &t;
  }
  if (flat_most != nullptr && flat_most->angle < practice::nut_angle_least * degree) {
    Remark r{"head.string_angle",
             Weight::think_again,
             worded("String {} goes over the nut at {:.1f}°; under {:.0f}° it rattles in its slot.", flat_most->string,
                    flat_most->angle / degree, practice::nut_angle_least),
             flat_most->angle / degree,
             practice::nut_angle_least,
             "°",
             common,
             "head.string_bar",
             spot(flat_most->at),
             {},
             {}};
    if (!head.string_bar)
      r.repair = Repair{"Put in a string bar", {{"head.string_bar", "yes"}}};
    else
      r.repair = Repair{"Set the string bar lower",
                        {{"head.string_bar_height", format_mm(std::max(0.0, head.string_bar_height - 1.5), 2)}}};
    if (head.kind == HeadKind::flat)
      r.others.push_back(
          {worded("Lower the head's face to {}", mm(head.drop + 2, 1)), {{"head.drop", format_mm(head.drop + 2, 2)}}});
    if (size.step <= 0)
      r.others.push_back({worded("Take stepped posts, each {} lower", mm(0.6)), {{"tuner.step", "0.6"}}});
    out.push_back(std::move(r));
  }
  if (steep != nullptr && steep->angle > practice::nut_angle_most * degree)
    out.push_back({"head.string_steep",
                   Weight::worth_knowing,
                   worded("String {} goes over the nut at {:.1f}°; over {:.0f}° it binds.", steep->string,
                          steep->angle / degree, practice::nut_angle_most),
                   steep->angle / degree,
                   practice::nut_angle_most,
                   "°",
                   common,
                   "head.first_post",
                   spot(steep->at),
                   {},
                   {}});
  if (head.kind == HeadKind::tilted && head.angle_deg > practice::tilt_most)
    out.push_back({"head.tilt_steep",
                   head.angle_deg > 25 ? Weight::stop : Weight::think_again,
                   worded("A head tilted by {}° is weak at the nut and wants a very thick blank; {} to {}° are usual.",
                          format_mm(head.angle_deg, 1), 10, 17),
                   head.angle_deg,
                   practice::tilt_most,
                   "°",
                   common,
                   "head.angle_deg",
                   {},
                   Repair{"Tilt it by 13°", {{"head.angle_deg", "13"}}},
                   {}});
  if (head.thickness < practice::head_thin || head.thickness > practice::head_thick)
    out.push_back(
        {"head.thickness",
         head.thickness < 9 ? Weight::stop : Weight::worth_knowing,
         worded("The head is {} thick; {} to {} suit most tuners.", mm(head.thickness), practice::head_thin, 15),
         head.thickness,
         practice::head_thin,
         "mm",
         common,
         "head.thickness",
         {},
         Repair{worded("Make it {} thick", mm(14)), {{"head.thickness", "14"}}},
         {}});
  if (size.pilot > 0 && size.pilot_depth > head.thickness - 2)
    out.push_back(
        {"tuner.pilot_deep",
         Weight::stop,
         worded("Screw pilots {} deep come through a head {} thick.", mm(size.pilot_depth), mm(head.thickness)),
         size.pilot_depth,
         head.thickness - 2,
         "mm",
         "geometry",
         "tuner.pilot_depth",
         {},
         Repair{worded("Drill them {} deep", mm(7)), {{"tuner.pilot_depth", "7"}}},
         {}});
}

void judge_heel(const NeckShape& neck, std::vector<Remark>& out) {
  const HeelNumbers& heel = neck.given.heel;
  const double depth = heel.thickness - neck.board->given.board.thickness;
  const double shaft = neck.shaft_depth(neck.heel_x - neck.heel_blend);
  if (depth < shaft - 0.2 && heel.kind == HeelKind::block)
    out.push_back(
        {"neck.heel_thin",
         Weight::think_again,
         worded("The heel is {} deep under the board and the shaft beside it {}: the back would step down towards the "
                "body.",
                mm(depth), mm(shaft)),
         depth,
         shaft,
         "mm",
         "geometry",
         "neck.heel_thickness",
         std::pair{neck.heel_x, 0.0},
         Repair{worded("Make the heel {} in all", as_mm(up(shaft + neck.board->given.board.thickness + 0.5, 0.1))),
                {{"neck.heel_thickness", up(shaft + neck.board->given.board.thickness + 0.5, 0.1)}}},
         {}});
  if (neck.given.joint == NeckJoint::bolted && heel.holes != HeelHoles::none) {
    if (heel.hole_depth > depth - practice::heel_hole_skin)
      out.push_back({"neck.heel_holes_deep",
                     heel.hole_depth > depth - 1 ? Weight::stop : Weight::think_again,
                     worded("Heel holes {} deep leave {} before the glue plane.", mm(heel.hole_depth),
                            mm(depth - heel.hole_depth)),
                     depth - heel.hole_depth,
                     practice::heel_hole_skin,
                     "mm",
                     common,
                     "neck.heel_hole_depth",
                     std::pair{neck.end_x - heel.hole_from_end, 0.0},
                     Repair{worded("Drill them {} deep", as_mm(down(depth - practice::heel_hole_skin, 0.1))),
                            {{"neck.heel_hole_depth", down(depth - practice::heel_hole_skin, 0.1)}}},
                     {}});
    for (const Hole& h : neck.holes)
      if (h.id.rfind("heel", 0) == 0 &&
          (!contains(neck.corners, h.at) || distance_to(neck.corners, h.at) < h.diameter / 2 + 4)) {
        out.push_back({"neck.heel_holes_edge",
                       Weight::stop,
                       worded("A heel hole comes within {} of the heel's edge.", mm(4)),
                       distance_to(neck.corners, h.at),
                       h.diameter / 2 + 4,
                       "mm",
                       common,
                       "neck.heel_hole_across",
                       spot(h.at),
                       {},
                       {}});
        break;
      }
  }
  if (neck.given.joint == NeckJoint::bolted && heel.hole_along + heel.hole_from_end > heel.start)
    out.push_back({"neck.heel_holes_off",
                   Weight::think_again,
                   "The front row of heel holes lies before the heel's flat.",
                   heel.hole_along + heel.hole_from_end,
                   heel.start,
                   "mm",
                   "geometry",
                   "neck.heel_hole_along",
                   {},
                   {},
                   {}});
}

void judge_rod(const NeckShape& neck, std::vector<Remark>& out) {
  const RodNumbers& rod = neck.given.rod;
  if (rod.kind == RodKind::none) {
    out.push_back({"rod.none",
                   Weight::worth_knowing,
                   "There is no truss rod: the relief cannot be set afterwards.",
                   0,
                   0,
                   "",
                   common,
                   "rod.kind",
                   {},
                   Repair{"Put in a rod", {{"rod.kind", "bar"}}},
                   {}});
    return;
  }
  if (rod.bars > 0 && rod.bar_offset - rod.bar_width / 2 < std::max(rod.width, rod.pocket_width) / 2 + 1)
    out.push_back({"rod.bars_near",
                   Weight::stop,
                   "The carbon bars run into the rod's slot or the adjuster's pocket.",
                   rod.bar_offset - rod.bar_width / 2,
                   std::max(rod.width, rod.pocket_width) / 2 + 1,
                   "mm",
                   "geometry",
                   "rod.bar_offset",
                   {},
                   {},
                   {}});
  if (rod.adjuster == RodEnd::head && neck.given.head.kind == HeadKind::flat && rod.access > 0 &&
      neck.given.head.drop > 0 && rod.access > neck.given.head.drop + rod.pocket_depth)
    out.push_back({"rod.access_wide",
                   Weight::think_again,
                   worded("An access hole of {} does not fit between nut and face.", mm(rod.access)),
                   rod.access,
                   neck.given.head.drop,
                   "mm",
                   "geometry",
                   "rod.access",
                   {},
                   {},
                   {}});
}

}  // namespace

std::vector<Remark> neck_remarks(const NeckShape& neck) {
  std::vector<Remark> out;
  judge_skin(neck, out);
  judge_sections(neck, out);
  judge_rod(neck, out);
  judge_head(neck, out);
  judge_heel(neck, out);
  if (neck.given.back.sections.size() == 1)
    out.push_back({"neck.one_section",
                   Weight::worth_knowing,
                   "One section of the back is measured: the numbers hold until there is a second, far from it.",
                   1,
                   2,
                   "",
                   "geometry",
                   "neck.fair_within",
                   {},
                   {},
                   {}});
  return out;
}

Scarf scarf_of(const NeckShape& neck, double plank) {
  Scarf s;
  const HeadNumbers& head = neck.given.head;
  s.plank = plank;
  s.angle_deg = head.angle_deg;
  const double a = head.angle_deg * degree;
  s.head_thickness = head.thickness - head.veneer;
  s.face = plank / std::sin(a);
  s.line = head.shelf;
  const double overall = neck.behind_nut({neck.tip_x, 0});
  const double along_face = (overall - head.shelf) / std::cos(a);
  s.head_length = along_face + s.face * 0.5 + plank / std::tan(a);
  s.shaft_length = neck.end_x + head.shelf + plank / std::tan(a);
  s.plank_length = s.head_length + s.shaft_length - plank / std::tan(a);  // both slants come from one saw cut
  return s;
}

}  // namespace wren
