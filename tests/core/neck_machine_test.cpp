// The neck on the machine: set-ups of both sides, pins, channels and bores, drawings in.
#include <catch2/catch.hpp>

#include <filesystem>
#include <fstream>

#include "core/cutting/channel.hpp"
#include "core/cutting/surface.hpp"
#include "support/made.hpp"
#include "core/proof/removal.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/solid_out.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Vec3 through(const Setup& s, Vec3 p) {
  const auto m = s.matrix();
  return {m[0] * p.x + m[1] * p.y + m[2] * p.z + m[3], m[4] * p.x + m[5] * p.y + m[6] * p.z + m[7],
          m[8] * p.x + m[9] * p.y + m[10] * p.z + m[11]};
}

NeckDesign designed(const Project& p) { return *design_neck(p, *make_fretboard(board_of(p).instrument)); }

std::string file(const char* name, const std::string& text) {
  const auto path = std::filesystem::temp_directory_path() / name;
  std::ofstream(path) << text;
  return path.string();
}

}  // namespace

TEST_CASE(
    "turning over is a turn in space: the matrix of either side is a rotation, and both agree with the side frame") {
  for (const Turn turn : {Turn::about_length, Turn::about_width})
    for (const Lie lie : {Lie::along_x, Lie::along_y})
      for (const School school : {School::ticks, School::pins, School::fence}) {
        Project p = *project_from("reedling");
        neck_of(p).work.alignment.turn = turn;
        neck_of(p).work.alignment.school = school;
        neck_of(p).work.blank.lie = lie;
        const NeckDesign d = designed(p);
        for (const Setup* s : {&d.front, &d.back}) {
          const auto m = s->matrix();
          const double det = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) +
                             m[2] * (m[4] * m[9] - m[5] * m[8]);
          CHECK_THAT(det, WithinAbs(1, 1e-12));
          const Vec3 q = through(*s, {100, 12, -7});
          const Vec2 plan = s->to_work.apply(turned(s->turn, Vec2{100, 12}));
          CHECK_THAT(q.x, WithinAbs(plan.x, 1e-9));
          CHECK_THAT(q.y, WithinAbs(plan.y, 1e-9));
          CHECK_THAT(q.z, WithinAbs(s->to_work.apply_z(turned_z(s->turn, -7)), 1e-9));
        }
        // The blank fills the same place on the bed on both sides, and its up face is z = 0.
        CHECK_THAT(d.front.blank_corner.x, WithinAbs(d.back.blank_corner.x, 1e-9));
        CHECK_THAT(d.front.blank_corner.y, WithinAbs(d.back.blank_corner.y, 1e-9));
        CHECK_THAT(through(d.front, {0, 0, d.front_top}).z, WithinAbs(0, 1e-9));
        CHECK_THAT(through(d.back, {0, 0, d.front_top - d.blank.thickness}).z, WithinAbs(0, 1e-9));
      }
}

TEST_CASE("pins go into the waste board's holes on either side, and the blank cannot be turned the wrong way") {
  for (const Turn turn : {Turn::about_length, Turn::about_width}) {
    Project p = *project_from("reedling");
    neck_of(p).work.alignment.turn = turn;
    const NeckDesign d = designed(p);
    const auto in_a_hole = [&](const Setup& s, Turn as) {
      int n = 0;
      for (const Vec2 pin : {d.pins.first, d.pins.second})
        for (const BedHole& h : s.bed_holes)
          if (distance(s.to_work.apply(turned(as, pin)), h.at) < 0.01) ++n;
      return n;
    };
    CHECK(in_a_hole(d.front, Turn::none) == 2);
    CHECK(in_a_hole(d.back, d.back.turn) == 2);
    CHECK(length(d.front.to_work.apply(d.pins.first)) < 1e-9);  // the first pin is the work zero
    // The other way of turning does not find its holes.
    const Turn wrong = turn == Turn::about_length ? Turn::about_width : Turn::about_length;
    Setup as_wrong = d.back;
    place_blank(as_wrong, turned(wrong, d.blank_middle),
                Vec2{d.back.blank_corner.x, d.back.blank_corner.y} + d.back.blank_size * 0.5,
                turned_z(wrong, d.front_top - d.blank.thickness));
    CHECK(in_a_hole(as_wrong, wrong) < 2);
  }
}

TEST_CASE("the expected misfit follows the school: pins best, ticks worst") {
  Project p = *project_from("reedling");
  AlignmentNumbers a = neck_of(p).work.alignment;
  a.school = School::pins;
  const double pins = expected_error(neck_of(p).work.blank, a).at({300, 40});
  a.school = School::fence;
  const double fence = expected_error(neck_of(p).work.blank, a).at({300, 40});
  a.school = School::ticks;
  const double ticks = expected_error(neck_of(p).work.blank, a).at({300, 40});
  CHECK(pins < 0.06);
  CHECK(ticks > 0.5);
  CHECK(pins < fence);
  // A worse reading gives a worse misfit, and a remark that offers pins.
  neck_of(p).work.alignment.school = School::ticks;
  const NeckDesign d = designed(p);
  bool told = false;
  for (const Remark& r : d.remarks)
    if (r.kind == "neck.misfit") {
      told = true;
      CHECK(r.weight == Weight::think_again);
      REQUIRE(r.repair);
      CHECK(r.repair->edits.front().second == "pins");
    }
  CHECK(told);
  CHECK(d.skin_with_misfit.least < d.skin.least);
}

TEST_CASE("a fence that stands too far out is told, and the repair brings the blank within the travels") {
  Project p = *project_from("reedling");
  neck_of(p).work.alignment.school = School::fence;
  const auto find = [](const NeckDesign& d) -> const Remark* {
    for (const Remark& r : d.remarks)
      if (r.kind == "neck.fence_far") return &r;
    return nullptr;
  };
  const NeckDesign d = designed(p);
  const Remark* r = find(d);
  REQUIRE(r != nullptr);
  CHECK(r->weight == Weight::stop);
  const auto repaired = with_edits(p, r->repair->edits);
  REQUIRE(repaired);
  CHECK(find(designed(*repaired)) == nullptr);
}

TEST_CASE("a channel is cut to its floor, as wide as asked and no wider") {
  const Rack rack = default_rack();
  for (const double width : {6.35, 9.5, 14.0}) {
    ChannelPlan plan{{20, 0},
                     {90, 0},
                     width,
                     [](Vec2 p) { return -6 - 0.3 * std::sin((p.x - 20) / 70 * 3.14159); },
                     0,
                     *find_cutter(rack, "flat-6.35"),
                     {18000, 1500, 400, 0.02, 1, 0.001, ""},
                     0.45};
    const auto strand = cut_channel(plan);
    REQUIRE(strand);
    TileGrid wood({0, -15}, 0.1, 1100, 300, 0);
    const Remover remover(plan.cutter);
    Vec3 at = strand->start;
    remover.sweep(wood, {at.x, at.y, 5}, at);
    for (const Step& s : strand->steps) {
      if (s.kind == StepKind::line) {
        remover.sweep(wood, at, s.to);
      } else {
        const double r = distance(s.centre, flat(at));
        const double a0 = std::atan2(at.y - s.centre.y, at.x - s.centre.x);
        double sweep = std::atan2(s.to.y - s.centre.y, s.to.x - s.centre.x) - a0;
        if (sweep <= 1e-9) sweep += 2 * 3.14159265358979;
        Vec3 from = at;
        for (int k = 1; k <= 64; ++k) {
          const double a = a0 + sweep * k / 64;
          const Vec3 to{s.centre.x + r * std::cos(a), s.centre.y + r * std::sin(a), at.z + (s.to.z - at.z) * k / 64};
          remover.sweep(wood, from, to);
          from = to;
        }
      }
      at = s.to;
    }
    double worst = 0;
    Vec2 where;
    for (int j = 0; j < wood.height(); ++j)
      for (int i = 0; i < wood.width(); ++i) {
        const Vec2 p = wood.centre(i, j);
        const double off = distance_to(p, {plan.a, plan.b}) - width / 2;
        if (std::abs(off) < 0.06) continue;
        const double want = off < 0 ? plan.floor({std::clamp(p.x, 20.0, 90.0), 0}) : 0;
        if (const double e = std::abs(static_cast<double>(wood.at(i, j)) - want); e > worst) {
          worst = e;
          where = p;
        }
      }
    INFO("width " << width << " at " << where.x << ", " << where.y);
    CHECK(worst < 0.06);
  }
  ChannelPlan narrow{{0, 0}, {10, 0}, 3, [](Vec2) { return -1.0; }, 0, *find_cutter(rack, "flat-6.35"), {}, 0.45};
  REQUIRE_FALSE(cut_channel(narrow));
  CHECK_THAT(cut_channel(narrow).error().text(), Contains("wider than the channel"));
}

TEST_CASE("a hole larger than the cutter is bored through without leaving a core, by a flat cutter or a ball") {
  const Rack rack = default_rack();
  for (const char* id : {"flat-6.35", "ball-6.35"}) {
    for (const double diameter : {8.7, 10.0, 17.5}) {
      BorePlan plan{{0, 0}, diameter, 0, -14.3, *find_cutter(rack, id), {18000, 1500, 400, 0.02, 1, 0.001, ""}};
      const auto strand = bore(plan);
      REQUIRE(strand);
      TileGrid wood({-12, -12}, 0.1, 240, 240, 0);
      const Remover remover(plan.cutter);
      Vec3 at = strand->start;
      for (const Step& s : strand->steps) {
        if (s.kind == StepKind::line)
          remover.sweep(wood, at, s.to);
        else {
          const double r = distance(s.centre, flat(at));
          const double a0 = std::atan2(at.y, at.x);
          for (int k = 0; k < 32; ++k) {
            const auto on = [&](int m) {
              return Vec3{r * std::cos(a0 + 3.14159265 * m / 32), r * std::sin(a0 + 3.14159265 * m / 32),
                          at.z + (s.to.z - at.z) * m / 32};
            };
            remover.sweep(wood, on(k), on(k + 1));
          }
        }
        at = s.to;
      }
      for (int j = 0; j < wood.height(); ++j)
        for (int i = 0; i < wood.width(); ++i) {
          const double rho = length(wood.centre(i, j));
          if (rho < diameter / 2 - 0.12) CHECK(wood.at(i, j) < -14.25F);
          if (rho > diameter / 2 + 0.08) CHECK(wood.at(i, j) == 0.0F);
        }
    }
  }
}

TEST_CASE("geometry: round a bore the feed holds at the cutter's edge") {
  const BorePlan plan{
      {0, 0}, 8, 0, -10, *find_cutter(default_rack(), "flat-6.35"), {18000, 3000, 400, 0.02, 1, 0.001, ""}};
  const auto strand = bore(plan);
  REQUIRE(strand);
  for (const Step& s : strand->steps)
    if (s.kind != StepKind::line)
      CHECK_THAT(s.feed * 4.0 / 0.825, WithinAbs(3000, 1e-6));  // ring of 0.825 mm in a hole of 4 mm radius
}

TEST_CASE("a deep small hole is pecked: never more than a bite at once, lifted out in between") {
  const Cutter drill = *find_cutter(default_rack(), "drill-1.6");
  const Strand s = peck({{3, 4}, 1.6, 2, -7, drill, {12000, 600, 150, 0.02, 1, 0.001, ""}}, 2.4);
  double deepest = 2;
  for (const Step& step : s.steps) {
    CHECK(flat(step.to) == Vec2{3, 4});
    if (step.to.z < deepest) {
      CHECK(deepest - step.to.z <= 2.4 + 1e-9);
      deepest = step.to.z;
    } else {
      CHECK(step.to.z > 2);
    }
  }
  CHECK_THAT(deepest, WithinAbs(-7 - drill.profile(0.8), 1e-9));  // the point goes on
}

TEST_CASE("roughing takes down to the target, never below it, and cuts no air") {
  TileGrid target({0, 0}, 0.4, 200, 120, 0);
  for (int j = 0; j < target.height(); ++j)
    for (int i = 0; i < target.width(); ++i) {
      const Vec2 p = target.centre(i, j);
      target.at(i, j) =
          p.x < 8 || p.x > 72 || p.y < 8 || p.y > 40
              ? 0.0F
              : static_cast<float>(-10 + 6 * std::exp(-std::pow((p.x - 40) / 12, 2) - std::pow((p.y - 24) / 8, 2)));
    }
  target.refresh_all();
  TileGrid stock(target.origin(), target.cell(), target.width(), target.height(), 0);
  RoughPlan plan{
      *find_cutter(default_rack(), "flat-6.35"), {18000, 1500, 400, 0.02, 1, 0.001, ""}, 3, 0.45, 0, true, {}};
  const auto strands = rough_by_levels(target, stock, plan);
  REQUIRE_FALSE(strands.empty());
  TileGrid wood(target.origin(), target.cell(), target.width(), target.height(), 0);
  const Remover remover(plan.cutter);
  double air = 0;
  double all = 0;
  for (const Strand& s : strands) {
    Vec3 at = s.start;
    for (const Step& step : s.steps) {
      const bool cut = remover.sweep(wood, at, step.to).any;
      all += distance(at, step.to);
      if (!cut) air += distance(at, step.to);
      at = step.to;
    }
  }
  for (int j = 0; j < wood.height(); ++j)
    for (int i = 0; i < wood.width(); ++i)
      CHECK(wood.at(i, j) >=
            target.at(i, j) - 0.15F);  // chords between places 1 mm apart; what is left for finishing is more
  CHECK(wood.at(50, 40) < -9);
  CHECK(air < 0.25 * all);  // ways down there and back, and links
  // What is cut already is left alone.
  const auto again = rough_by_levels(target, stock, plan);
  CHECK(path_length(again) < 0.05 * path_length(strands));
}

TEST_CASE("sections come in from CSV in any unit, with or without a header") {
  const auto mm = sections_from_csv("x,y,depth\n20,-20,2\n20,0,15\n20,20,2\n90,-21,2\n90,0,16\n90,21,2\n", "t");
  REQUIRE(mm);
  CHECK(mm->size() == 2);
  const auto inch = sections_from_csv(
      "x_in;y_in;depth_in\n1;-0.75;1/16\n1;0;5/8\n1;0.75;1/16\n4;-0.75;1/16\n4;0;5/8\n4;0.75;1/16\n", "t");
  REQUIRE(inch);
  CHECK_THAT((*inch)[0].x, WithinAbs(25.4, 1e-9));
  CHECK_THAT((*inch)[0].points[1].y, WithinAbs(15.875, 1e-9));
  CHECK_THAT(sections_from_csv("20,-20\n", "t").error().text(), Contains("line 1") && Contains("2 columns"));
  CHECK_THAT(sections_from_csv("20,-20,2\n20,zero,2\n", "t").error().text(), Contains("line 2"));
  CHECK_FALSE(sections_from_csv("", "t"));
  CHECK_FALSE(sections_from_csv(std::string(3000, '\xff'), "t"));
}

TEST_CASE("sections written as DXF come back the same") {
  const Project p = *project_from("reedling");
  const NeckShape n = *make_neck(*make_fretboard(board_of(p).instrument), neck_of(p).neck);
  const auto path = file("wren-sections.dxf", sections_dxf(n, {40, 120, 260}));
  const auto back = sections_from_dxf(path);
  REQUIRE(back);
  REQUIRE(back->size() == 3);
  CHECK_THAT((*back)[1].x, WithinAbs(120, 1e-9));
  for (const Vec2 q : (*back)[1].points)
    CHECK_THAT(q.y,
               WithinAbs(n.depth({120, std::clamp(q.x, -n.taper(120).half + 1e-6, n.taper(120).half - 1e-6)}), 2e-3));
  // A file cut in half, and things that are no drawing.
  const std::string whole = sections_dxf(n, {40, 120});
  CHECK_THAT(read_drawing(file("wren-cut.dxf", whole.substr(0, whole.size() / 2))).error().text(),
             Contains("cut short"));
  CHECK_FALSE(read_drawing(file("wren-none.dxf", "hello")));
  CHECK_FALSE(read_drawing(file("wren-empty.dxf", "0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n")));
  CHECK_FALSE(read_drawing("/nowhere/at/all.dxf"));
}

TEST_CASE("a head's outline comes in from SVG with its units and transforms, and from DXF with its arcs") {
  const auto svg =
      file("wren-head.svg",
           R"svg(<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="60mm" viewBox="-110 -30 120 60">
    <g transform="translate(-10 0) scale(2)"><path transform="scale(0.5)" d="M 12 -21 L 12 21 h -12 C -10 21 -20 34 -34 34 L -90 22 Q -104 0 -90 -22 L -34 -34 C -20 -34 -10 -21 0 -21 Z"/></g></svg>)svg");
  const auto outline = read_head_outline(svg);
  REQUIRE(outline);
  const Box2 box = bounds(*outline);
  CHECK_THAT(box.low.y + box.high.y, WithinAbs(60, 0.1));  // y turned up about the page
  CHECK_THAT(box.size().y, WithinAbs(68, 0.1));
  CHECK_THAT(box.high.x - box.low.x, WithinAbs(12 + 97, 0.5));
  const auto dxf = file("wren-head.dxf",
                        "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\nH\n90\n4\n70\n1\n10\n5\n20\n-"
                        "20\n10\n5\n20\n20\n10\n-80\n20\n20\n42\n1\n10\n-80\n20\n-20\n0\nENDSEC\n0\nEOF\n");
  const auto round = read_head_outline(dxf);
  REQUIRE(round);
  CHECK_THAT(bounds(*round).low.x, WithinAbs(-100, 0.02));  // a half circle of radius 20
  Project p = *project_from("reedling");
  neck_of(p).neck.head.shape = HeadShape::drawn;
  neck_of(p).neck.head.drawn = *round;
  const auto n = make_neck(*make_fretboard(board_of(p).instrument), neck_of(p).neck);
  REQUIRE(n);
  CHECK_THAT(n->tip_x, WithinAbs(-100, 0.1));
  CHECK_FALSE(read_head_outline(file("wren-bad.svg", "<svg><path d='M 0 0 L'/></svg>")));
  CHECK_FALSE(read_head_outline(file("wren-cut.svg", "<svg><path d='M 0 0 L 5")));
  CHECK_FALSE(read_head_outline(file("wren-open.svg", "<svg><path d='M 0 0 L 50 0 L 50 50'/></svg>")));
  Polygon apart = *round;
  for (Vec2& q : apart) q.x -= 300;
  neck_of(p).neck.head.drawn = apart;
  CHECK_THAT(make_neck(*make_fretboard(board_of(p).instrument), neck_of(p).neck).error().text(),
             Contains("does not meet the shaft"));
}
