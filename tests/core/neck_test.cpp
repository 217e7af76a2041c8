// The neck's shape: back, transitions, sections, rod, head, strength.
#include <catch2/catch.hpp>

#include <random>

#include "support/made.hpp"
#include "core/instrument/headstock.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Fretboard board(const Project& p) { return *make_fretboard(board_of(p).instrument); }
NeckShape neck(const Project& p) { return *make_neck(board(p), neck_of(p).neck); }
const Remark* find(const std::vector<Remark>& all, const std::string& kind) {
  for (const Remark& r : all)
    if (r.kind == kind) return &r;
  return nullptr;
}

/// Sections as a contour gauge would give them: read off a neck, with a lump put into one.
std::vector<BackSection> traced(const NeckShape& n, std::vector<double> places, double lump_x = -1, double lump = 0) {
  std::vector<BackSection> out;
  for (const double x : places) {
    BackSection s{x, {}};
    const auto t = n.taper(x);
    for (int k = 0; k <= 40; ++k) {
      const double y = t.middle - t.half * 0.99 * std::cos(3.14159265358979 * k / 40);
      const double share = std::max(0.0, 1 - std::pow((y - t.middle) / t.half, 2));
      s.points.push_back({y, n.depth({x, y}) + (std::abs(x - lump_x) < 1e-6 ? lump * share : 0)});
    }
    out.push_back(std::move(s));
  }
  return out;
}

Project with_sections(double lump, double within) {
  Project p = *project_from("reedling");
  std::vector<double> places;
  for (double x = 30; x <= 360; x += 15) places.push_back(x);
  neck_of(p).neck.back.sections = traced(neck(p), places, 180, lump);
  neck_of(p).neck.back.fair_within = within;
  return p;
}

}  // namespace

TEST_CASE("every family is full in the middle, nothing at the edges, and falls away on the way") {
  for (int k = 0; k < 8; ++k) {
    const auto shape = static_cast<BackShape>(k);
    if (shape != BackShape::leaning) CHECK_THAT(section_share(shape, 0, 0), WithinAbs(1, 1e-12));
    CHECK_THAT(section_share(shape, 1, 0), WithinAbs(0, 1e-9));
    CHECK_THAT(section_share(shape, -1, 0), WithinAbs(0, 1e-9));
    if (shape == BackShape::leaning) continue;
    for (double s = 0; s < 0.99; s += 0.01) CHECK(section_share(shape, s, 0) >= section_share(shape, s + 0.01, 0));
  }
  // Fuller from V to U.
  CHECK(section_share(BackShape::hard_v, 0.5, 0) < section_share(BackShape::soft_v, 0.5, 0));
  CHECK(section_share(BackShape::soft_v, 0.5, 0) < section_share(BackShape::oval, 0.5, 0));
  CHECK(section_share(BackShape::oval, 0.5, 0) < section_share(BackShape::round, 0.5, 0));
  CHECK(section_share(BackShape::round, 0.5, 0) < section_share(BackShape::d, 0.5, 0));
  CHECK(section_share(BackShape::d, 0.5, 0) < section_share(BackShape::u, 0.5, 0));
  // A lean moves the thickest place.
  CHECK(section_share(BackShape::d, 0.2, 0.2) > section_share(BackShape::d, -0.2, 0.2));
}

TEST_CASE("invariant 1: symmetric sections give a symmetric back to the last bit") {
  Project p = *project_from("reedling");
  const NeckShape n = neck(p);
  for (double x = 10; x < n.end_x - 1; x += 7.3)
    for (double y = 0.1; y < n.taper(x).half; y += 1.7) CHECK(n.depth({x, y}) == n.depth({x, -y}));
  // Measured sections that are mirror images of themselves too.
  Project measured = with_sections(0.4, 0.3);
  const NeckShape m = neck(measured);
  REQUIRE_FALSE(m.measured.empty());
  for (double x = 30; x < 350; x += 11.1)
    for (double y = 0.3; y < m.taper(x).half; y += 2.1) CHECK(m.depth({x, y}) == m.depth({x, -y}));
}

TEST_CASE("position, tangent and curvature go on over the joins to head and heel") {
  for (const char* which : {"flat", "tilted", "volute", "curve", "fanned"}) {
    Project p = *project_from(which == std::string("fanned") ? "sedge" : "reedling");
    if (which == std::string("tilted")) neck_of(p).neck.head.kind = HeadKind::tilted;
    if (which == std::string("volute")) neck_of(p).neck.head.volute = true;
    if (which == std::string("curve")) neck_of(p).neck.heel.transition = Transition::curve;
    const NeckShape n = neck(p);
    INFO(which);
    const double joins[] = {
        n.nut_middle.x - n.head_blend_start,   n.nut_middle.x - n.head_blend_end,    n.heel_x - n.heel_blend, n.heel_x,
        n.fret_x(neck_of(p).neck.back.fret_a), n.fret_x(neck_of(p).neck.back.fret_b)};
    for (const double x : joins)
      for (const double y : {-9.0, 0.0, 6.5}) {
        const auto at = [&](double dx) { return n.depth({x + dx, y}); };
        constexpr double h = 0.02;
        // Values, slopes and bends from either side of the join.
        CHECK_THAT(at(1e-7) - at(-1e-7), WithinAbs(0, 1e-6));
        const double slope_left = (3 * at(0) - 4 * at(-h) + at(-2 * h)) / (2 * h);
        const double slope_right = (-3 * at(0) + 4 * at(h) - at(2 * h)) / (2 * h);
        CHECK_THAT(slope_right - slope_left, WithinAbs(0, 2e-4));
        const double bend_left = (at(0) - 2 * at(-h) + at(-2 * h)) / (h * h);
        const double bend_right = (at(2 * h) - 2 * at(h) + at(0)) / (h * h);
        CHECK_THAT(bend_right - bend_left,
                   WithinAbs(0, 0.012));  // 1/mm; a real break in curvature of the heel's arc would be 0.03
      }
  }
}

TEST_CASE("an arc to the heel bends no tighter than its radius") {
  Project p = *project_from("reedling");
  neck_of(p).neck.heel.radius = 40;
  neck_of(p).neck.heel.thickness = 30;
  const NeckShape n = neck(p);
  double tightest = 0;
  for (double x = n.heel_x - n.heel_blend; x < n.heel_x; x += 0.1) {
    const double bend = (n.depth({x + 0.05, 0}) - 2 * n.depth({x, 0}) + n.depth({x - 0.05, 0})) / 0.0025;
    tightest = std::max(tightest, std::abs(bend));
  }
  CHECK_THAT(1 / tightest, WithinAbs(40, 1.0));
}

TEST_CASE("a faired surface stays within the stated distance and takes the lump out") {
  const NeckShape rough = neck(with_sections(0.6, 0));
  const NeckShape fair = neck(with_sections(0.6, 0.45));
  const auto worst = [](const NeckShape& n) {
    double w = 0;
    for (const auto& d : n.departures) w = std::max(w, d.worst);
    return w;
  };
  CHECK(worst(rough) < 0.1);
  CHECK(worst(fair) <= 0.5);
  CHECK(worst(fair) > 0.2);
  const Lump before = worst_lump(rough);
  const Lump after = worst_lump(fair);
  CHECK_THAT(before.at.x, WithinAbs(180, 20));
  CHECK(before.height > 0.3);
  CHECK(std::abs(after.height) < 0.5 * before.height);
  // It is told, with a repair that is taken.
  const auto remarks = neck_remarks(rough);
  const Remark* r = find(remarks, "neck.lump");
  REQUIRE(r != nullptr);
  REQUIRE(r->repair);
  const Project p = with_sections(0.6, 0);
  const auto repaired = with_edits(p, r->repair->edits);
  REQUIRE(repaired);
  CHECK(std::abs(worst_lump(neck(*repaired)).height) < std::abs(before.height));
}

TEST_CASE("sections of any point count are taken, and broken ones are refused with their place") {
  Project p = *project_from("reedling");
  const NeckShape n = neck(p);
  auto sections = traced(n, {40, 120, 200, 280});
  std::vector<Vec2> many;
  const auto t = n.taper(120);
  for (int k = 0; k <= 10000; ++k) {
    const double y = t.middle + t.half * (2.0 * k / 10000 - 1) * 0.99;
    many.push_back({y, n.depth({120, y})});
  }
  sections[1].points = many;
  neck_of(p).neck.back.sections = sections;
  CHECK(make_neck(board(p), neck_of(p).neck));
  const auto refused = [&](const std::function<void(std::vector<BackSection>&)>& spoil) {
    Project q = p;
    neck_of(q).neck.back.sections = traced(n, {40, 120, 200, 280});
    spoil(neck_of(q).neck.back.sections);
    const auto made = make_neck(board(q), neck_of(q).neck);
    REQUIRE_FALSE(made);
    return made.error().text();
  };
  CHECK_THAT(refused([](auto& s) { s[2].points.resize(2); }),
             Contains("2 points are too few") && Contains("section 3"));
  CHECK_THAT(refused([](auto& s) { std::swap(s[1].points[5], s[1].points[9]); }),
             Contains("runs back on itself") && Contains("section 2"));
  CHECK_THAT(refused([](auto& s) { s[0].points[3].x -= 40; }), Contains("section 1"));
  CHECK_THAT(refused([](auto& s) { s[3].x = 5000; }), Contains("outside the neck"));
  CHECK_THAT(refused([](auto& s) { s[3].x = s[2].x; }), Contains("same place"));
  CHECK_THAT(refused([](auto& s) { s[1].points[7].y = std::nan(""); }), Contains("not a number"));
  // One alone makes no back: the numbers hold until there is a second, and a remark says so; but it must be sound.
  Project one = p;
  neck_of(one).neck.back.sections = traced(n, {120});
  CHECK(design_remark(one, "neck", "neck.one_section"));
  Neck without = neck_of(one).neck;
  without.back.sections.clear();
  CHECK_THAT(make_neck(board(one), neck_of(one).neck)->depth({200, 0}),
             WithinAbs(make_neck(board(one), without)->depth({200, 0}), 1e-9));
  CHECK_THAT(refused([](auto& s) {
               s.resize(1);
               s[0].points.resize(2);
             }),
             Contains("too few"));
  CHECK_THAT(refused([](auto& s) {
               for (auto& q : s[2].points) q.x *= 25.4;
             }),
             Contains("outside the neck's edge"));
  // Backwards is no fault: from the treble edge to the bass edge says the same.
  Project back = p;
  for (auto& s : neck_of(back).neck.back.sections) std::reverse(s.points.begin(), s.points.end());
  const NeckShape forward = neck(p);
  const NeckShape reverse = neck(back);
  CHECK_THAT(reverse.depth({150, 7}), WithinAbs(forward.depth({150, 7}), 1e-9));
}

TEST_CASE("measured sections carry the shaft into the heel as far as they go") {
  Project p = *project_from("reedling");
  neck_of(p).neck.heel.transition = Transition::sections;
  CHECK(make_neck(board(p), neck_of(p).neck).error().where == "neck.heel_transition");
  Project plain = *project_from("reedling");
  const NeckShape source = neck(plain);
  std::vector<double> places;
  for (double x = 40; x < source.heel_x - 10; x += 5) places.push_back(x);
  neck_of(p).neck.back.sections = traced(source, places);
  neck_of(p).neck.back.fair_within = 0.05;
  const NeckShape n = neck(p);
  CHECK_THAT(n.heel_blend, WithinAbs(n.heel_x - places.back(), 1e-9));
  for (const SectionDeparture& d : n.departures) CHECK(d.worst < 0.15);
  CHECK_THAT(n.depth({n.heel_x + 5, 3}), WithinAbs(source.depth({n.heel_x + 5, 3}), 1e-9));
}

TEST_CASE("a rod that breaks through is told with the fret, and every way out with its price") {
  Project p = *project_from("reedling");
  neck_of(p).neck.back.thickness_a = 16;
  neck_of(p).neck.back.thickness_b = 18;
  neck_of(p).neck.back.shape_a = BackShape::hard_v;
  neck_of(p).neck.rod.depth = 10.5;
  neck_of(p).neck.rod.pocket_length = 0;
  const NeckShape n = neck(p);
  const auto remarks = neck_remarks(n);
  const Remark* r = find(remarks, "neck.rod_through");
  REQUIRE(r != nullptr);
  CHECK(r->weight == Weight::stop);
  CHECK_THAT(r->sentence, Contains("breaks through") && Contains("fret"));
  REQUIRE(r->repair);
  REQUIRE(r->others.size() >= 1);
  std::vector<Repair> ways = r->others;
  ways.push_back(*r->repair);
  for (const Repair& way : ways) {
    INFO(way.label);
    CHECK_THAT(way.label, Contains(" g, skin "));
    const auto changed = with_edits(p, way.edits);
    REQUIRE(changed);
    CHECK(least_skin(neck(*changed)).least > least_skin(n).least);
  }
  // The skin is the nearest distance in space: never more than straight down.
  const Skin skin = least_skin(n);
  CHECK(skin.least <= n.depth(skin.at) - 10.5 + 1e-9);
}

TEST_CASE("numbers that make no neck are refused, odd ones judged") {
  Project p = *project_from("reedling");
  const auto refused = [&](const std::function<void(Project&)>& spoil) {
    Project q = p;
    spoil(q);
    const auto made = make_neck(board(q), neck_of(q).neck);
    REQUIRE_FALSE(made);
    return made.error();
  };
  CHECK(refused([](Project& q) { neck_of(q).neck.rod.length = 600; }).where == "rod.length");
  CHECK_THAT(refused([](Project& q) {
               neck_of(q).neck.head.kind = HeadKind::tilted;
               neck_of(q).neck.head.angle_deg = 60;
             }).text(),
             Contains("60°"));
  CHECK(refused([](Project& q) { neck_of(q).neck.back.thickness_a = 8; }).where == "neck.thickness_a");
  CHECK(refused([](Project& q) { neck_of(q).neck.head.tuners_bass = 9; }).where == "head.tuners_bass");
  CHECK(refused([](Project& q) { neck_of(q).neck.head.shape = HeadShape::drawn; }).where == "head.shape");
  CHECK(refused([](Project& q) { neck_of(q).neck.head.step_radius = 4; }).where == "head.step_radius");
  CHECK(refused([](Project& q) {
          neck_of(q).neck.joint = NeckJoint::glued;
          neck_of(q).neck.heel.tenon_width = 90;
        }).where == "neck.tenon_width");
  Project crowded = p;
  neck_of(crowded).neck.tuner.pitch = 12;
  const auto remarks = neck_remarks(neck(crowded));
  const Remark* r = find(remarks, "tuner.overlap");
  REQUIRE(r != nullptr);
  CHECK(r->weight == Weight::stop);
  REQUIRE(r->repair);
  CHECK(find(neck_remarks(neck(*with_edits(crowded, r->repair->edits))), "tuner.overlap") == nullptr);
  Project flat = p;
  neck_of(flat).neck.head.drop = 2;
  neck_of(flat).neck.head.step_radius = 10;
  const Remark* shallow = nullptr;
  const auto flat_remarks = neck_remarks(neck(flat));
  shallow = find(flat_remarks, "head.string_angle");
  REQUIRE(shallow != nullptr);
  REQUIRE(shallow->repair);
  CHECK(shallow->repair->edits.front().first == "head.string_bar");
  double before = 0;
  double after = 0;
  for (const Tuner& t : neck(flat).tuners) before = std::max(before, -t.angle);
  for (const Tuner& t : neck(*with_edits(flat, shallow->repair->edits)).tuners) after = std::max(after, -t.angle);
  CHECK(after <= before);
}

TEST_CASE("a left-handed neck is the mirror image of a right-handed one") {
  Project right = *project_from("sedge");
  Project left = right;
  board_of(left).instrument.strings.left_handed = true;
  const NeckShape a = neck(right);
  const NeckShape b = neck(left);
  for (double x = a.tip_x + 3; x < a.end_x; x += 9.7)
    for (const double y : {-20.0, -6.0, 0.0, 11.0})
      CHECK_THAT(a.depth({x, y}), WithinAbs(b.depth({x, -y}), 1e-4));  // the clipping library's resolution
  for (std::size_t i = 0; i < a.tuners.size(); ++i) {
    CHECK_THAT(a.tuners[i].at.x, WithinAbs(b.tuners[i].at.x, 1e-9));
    CHECK_THAT(a.tuners[i].at.y, WithinAbs(-b.tuners[i].at.y, 1e-9));
  }
}

TEST_CASE("a mesh of the neck is closed and holds the wood that the skins say") {
  for (const char* from : {"reedling", "sedge"}) {
    Project p = *project_from(from);
    neck_of(p).neck.rod.bars = 2;
    const NeckShape n = neck(p);
    const Mesh mesh = neck_mesh(n, mesh_for_export);
    CHECK(is_closed(mesh));
    CHECK_THAT(volume(mesh) / neck_weight(n, 600).volume_mm3, WithinAbs(1, 0.003));
  }
}

TEST_CASE("what is measured stands beside the designed number, and what waits for it follows") {
  Project p = *project_from("reedling");
  const auto d = *design_neck(p, board(p));
  auto sheet = lines_of_project(p);
  const auto line = [&](const char* id) {
    for (const BuildLine& l : sheet)
      if (l.id == id) return l;
    return BuildLine{};
  };
  CHECK(line("body.pocket").waits);
  CHECK_THAT(line("body.pocket").note, Contains("Heel width"));
  for (const WaitingFor& w : waiting_for(p, d)) {
    auto next = with_edits(p, {{"measured." + w.key, format_mm(w.designed + 0.03)}});
    REQUIRE(next);
    p = *next;
  }
  p.record.measured.back().instrument = "micrometer";
  sheet = lines_of_project(p);
  CHECK_FALSE(line("body.pocket").waits);
  CHECK(line("neck.measure").state == LineState::measured);
  CHECK_THAT(in_use(p, "neck.heel_width", 1.0), WithinAbs(2 * d.shape.taper(d.shape.end_x).half + 0.03, 1e-3));
  // The user may go on with the designed number: the record stays.
  const auto back = with_edits(p, {{"measured.neck.heel_width", "none"}});
  CHECK_THAT(in_use(*back, "neck.heel_width", 1.0), WithinAbs(1.0, 0));
  CHECK(back->record.measured.size() == p.record.measured.size());
  // A measured blank flows into both sides by itself.
  const auto thicker = with_edits(p, {{"measured.neck.blank.thickness", "26.4"}});
  const auto other = *design_neck(*thicker, board(p));
  CHECK_THAT(other.back.bed_z(), WithinAbs(-26.4, 1e-9));
  CHECK_THAT(other.back.to_work.shift.z, WithinAbs(-26.4, 1e-9));
  // Kept in the file.
  const auto again = project_from_json(project_to_json(*thicker), "again");
  REQUIRE(again);
  CHECK(*again == *thicker);
}

TEST_CASE("a neck with sections and a drawn head survives its file; broken ones are refused with their place") {
  Project p = with_sections(0.1, 0.2);
  neck_of(p).neck.head.drawn = {{-100, -20}, {5, -20}, {5, 20}, {-100, 20}};
  const std::string text = project_to_json(p);
  const auto again = project_from_json(text, "again");
  REQUIRE(again);
  CHECK(*again == p);
  const auto broken = [&](const std::string& from, const std::string& to) {
    std::string t = text;
    const auto at = t.find(from);
    REQUIRE(at != std::string::npos);
    t.replace(at, from.size(), to);
    const auto read = project_from_json(t, "broken");
    REQUIRE_FALSE(read);
    return read.error().where;
  };
  CHECK_THAT(broken("\"sections\": [", "\"sections\": [7,"), Contains("/neck/sections/0"));
  CHECK_THAT(broken("\"drawn\": [", "\"drawn\": [[1],"), Contains("/head/drawn/0"));
  CHECK_THAT(broken("\"measures\": [", "\"measures\": [{\"of\": 3}"), Contains("/measures/0"));
}

TEST_CASE("notes are read as frequencies, and the usual tuning stands in where they do not suit") {
  const auto f = note_frequencies("E2 A2 D3 G3 B3 E4");
  REQUIRE(f);
  CHECK_THAT((*f)[1], WithinAbs(110, 1e-9));
  CHECK_THAT((*f)[5], WithinAbs(329.6276, 1e-3));
  CHECK_FALSE(note_frequencies("E2 H2"));
  CHECK(tuning_in_use("E2 A2", 6, 0.25).size() == 6);
  CHECK_THAT(tuning_in_use("", 8, 0.25).front(), WithinAbs(46.25, 0.3));  // fourths down from E2
  CHECK_THAT(tuning_in_use("", 4, 1.1).front(), WithinAbs(41.2034, 1e-3));
}
