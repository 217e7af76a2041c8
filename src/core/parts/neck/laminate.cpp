#include "core/parts/neck/laminate.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "core/parts/fretboard/numbers.hpp"

namespace wren {
namespace {

constexpr double degree = std::numbers::pi / 180;

double treble_of(const Project& p) { return board_of(p).instrument.strings.left_handed ? -1 : 1; }

/// Strips that do not make up the blank, and joints beside the rod's walls.
void judge_strips(const Project& p, const NeckDesign& d, std::vector<Remark>& out) {
  const NeckWork& w = neck_of(p).work;
  if (w.strips.empty()) return;
  const double off = w.strips.width() - d.blank.width;
  if (std::abs(off) > 0.5)
    out.push_back(
        {"neck.strips_size",
         off > 0 ? Weight::stop : Weight::think_again,
         worded("The neck's strips are {} together; its blank is {} wide.", mm(w.strips.width()), mm(d.blank.width)),
         w.strips.width(),
         d.blank.width,
         "mm",
         "the strips and the blank, as measured",
         "neck.strips",
         {},
         Repair{worded("The blank is {} wide", mm(w.strips.width())),
                {{"neck.blank.width", format_mm(w.strips.width(), 2)}}},
         {}});
  constexpr double near_wall = 0.8;  // mm
  constexpr double along = 20;
  std::vector<Region> walls;
  for (const Channel& c : d.shape.channels) walls.push_back({buffer_of({c.a, c.b}, c.width / 2)});
  std::optional<Repair> slide;
  if (const auto way = free_slide(d.joints, walls, near_wall, along, 20))
    slide = Repair{worded("Slide the neck by {}", mm(std::abs(*way))),
                   {{"neck.over_across", format_mm(w.over_across + *way * treble_of(p), 2)}}};
  for (const Joint& j : d.joints)
    for (std::size_t k = 0; k < walls.size(); ++k) {
      const Channel& c = d.shape.channels[k];
      const JointBeside beside = joint_beside(j, walls[k], near_wall, along);
      if (c.id == "nut" || beside.length <= 0) continue;
      out.push_back({"neck.joint_wall",
                     Weight::think_again,
                     worded("The joint of {} runs {} beside a wall of '{}' over {}: a sliver that comes off.",
                            j.between, mm(beside.distance), c.title, mm(beside.length)),
                     beside.distance,
                     near_wall,
                     "mm",
                     "common practice",
                     "neck.strips",
                     std::pair{beside.at.x, beside.at.y},
                     slide,
                     {}});
    }
}

/// The head's face behind the shelf, seen from above.
Region veneered(const NeckShape& n) {
  const Vec2 from = n.nut_middle + n.head_way * n.given.head.shelf;
  const Vec2 side = left_of(n.head_way) * 500;
  Polygon beyond{from - side, from + side, from + side + n.head_way * 1000, from - side + n.head_way * 1000};
  if (signed_area(beyond) < 0) std::reverse(beyond.begin(), beyond.end());
  return intersected({n.corners}, {beyond});
}

void judge_veneer(const NeckDesign& d, std::vector<Remark>& out) {
  const HeadNumbers& head = d.shape.given.head;
  const NutNumbers& nut = d.shape.given.nut;
  if (head.veneer <= 0 || head.kind != HeadKind::tilted || nut.seat == NutSeat::none) return;
  constexpr double push = 0.3;  // mm of room that a nut may have before it rocks, common practice
  const double room = head.shelf - nut.thickness;
  if (room >= -0.02 && room <= push) return;
  out.push_back({"neck.veneer_nut",
                 room < 0 ? Weight::stop : Weight::think_again,
                 worded("Between board and veneer {} stay for a nut {} thick.", mm(head.shelf), mm(nut.thickness)),
                 head.shelf,
                 nut.thickness,
                 "mm",
                 "the veneer's edge is the nut slot's far wall (common practice)",
                 "head.shelf",
                 {},
                 Repair{worded("A shelf of {}", mm(nut.thickness)), {{"head.shelf", format_mm(nut.thickness, 2)}}},
                 {}});
}

void judge_accent(const NeckDesign& d, std::vector<Remark>& out) {
  const Neck& n = d.shape.given;
  if (n.accent <= 0) return;
  constexpr double thick = 6;  // mm: more is a board of its own
  if (n.accent > thick)
    out.push_back({"neck.accent_thick",
                   Weight::think_again,
                   worded("An accent strip of {} is as thick as a board; usual ones are 0.5 to 3 mm.", mm(n.accent)),
                   n.accent,
                   thick,
                   "mm",
                   "common practice",
                   "neck.accent",
                   {},
                   Repair{worded("Take one of {}", mm(1.5)), {{"neck.accent", "1.5"}}},
                   {}});
}

}  // namespace

StripStack seen_stack(const Project& p, const StripStack& stack) {
  StripStack out = stack;
  if (treble_of(p) < 0) std::reverse(out.strips.begin(), out.strips.end());
  return out;
}

std::optional<Problem> glued_of_strips(const Project& p, NeckDesign& d) {
  const NeckWork& w = neck_of(p).work;
  if (w.strips.empty()) return {};
  const FindMaterial find = [&p](const std::string& name) { return find_material(p.materials, name); };
  for (const Strip& s : w.strips.strips) {
    const auto m = find(s.wood);
    if (!m) return Problem{ProblemKind::range, m.error().what, "neck.strips", m.error().todo};
    if (s == w.strips.strips.front() || m->cutting_force > d.wood.cutting_force) d.wood = *m;
  }
  if (w.strips.across)
    return Problem{ProblemKind::range, "a neck's strips run along it", "neck.strips", "Leave out 'across:'"};
  const StripStack stack = seen_stack(p, w.strips);
  const Box2 box = bounds(d.shape.corners);
  const double middle = box.middle().y - w.over_across * treble_of(p);
  d.woods.neck_density = mean_density(stack, find, box.low.y - middle, box.high.y - middle);
  d.woods.neck_gpa = mean_modulus(stack, find, box.low.y - middle, box.high.y - middle);
  std::vector<double> gpa;
  for (const Strip& s : stack.strips) gpa.push_back(find(s.wood)->modulus);
  d.woods.neck_gpa_at = [stack, gpa, middle](double y) {
    return gpa[static_cast<std::size_t>(&stack.at(y - middle) - stack.strips.data())];
  };
  return {};
}

std::vector<StripBand> neck_bands(const Project& p, const NeckDesign& d) {
  return bands_of(seen_stack(p, neck_of(p).work.strips), {d.blank_middle}, {d.blank.length, d.blank.width},
                  [&p](const std::string& name) { return find_material(p.materials, name); });
}

std::optional<Problem> add_laminates(const Project& p, NeckDesign& d) {
  const NeckWork& w = neck_of(p).work;
  const NeckShape& n = d.shape;
  const auto add = [&](const Region& plan, double thickness, const std::string& wood,
                       const char* key) -> std::optional<Problem> {
    const auto m = find_material(p.materials, wood);
    if (!m) return Problem{ProblemKind::range, m.error().what, key, m.error().todo};
    double sum = 0;  // of the area, and of its moments: three times the triangles' sums over each ring's edges
    Vec2 moment;
    for (const Polygon& ring : plan)
      for (std::size_t i = 0; i < ring.size(); ++i) {
        const Vec2 a = ring[i];
        const Vec2 b = ring[(i + 1) % ring.size()];
        const double twice = cross(a, b);
        sum += twice / 2;
        moment = moment + (a + b) * (twice / 6);
      }
    if (std::abs(sum) < 1e-9) return {};
    const double grams = std::abs(sum) * thickness * m->density * 1e-6;
    NeckWeight& all = d.weight;
    all.balance = (all.balance * all.grams + moment * (grams / sum)) * (1 / (all.grams + grams));
    all.grams += grams;
    all.volume_mm3 += std::abs(sum) * thickness;
    return {};
  };
  if (n.given.accent > 0)
    if (auto bad = add({n.board->corners}, n.given.accent, w.accent_wood, "neck.accent_wood")) return bad;
  if (n.given.head.veneer > 0) {
    const double slant = n.given.head.kind == HeadKind::tilted ? std::cos(n.given.head.angle_deg * degree) : 1;
    if (auto bad = add(veneered(n), n.given.head.veneer / slant, w.veneer_wood, "head.veneer_wood")) return bad;
  }
  return {};
}

std::vector<Remark> laminate_remarks(const Project& p, const NeckDesign& d) {
  std::vector<Remark> out;
  judge_strips(p, d, out);
  judge_accent(d, out);
  judge_veneer(d, out);
  return out;
}

}  // namespace wren
