// The rack's history, and how a project's copy of it differs.
#include <algorithm>

#include <fmt/format.h>

#include "core/record/session.hpp"

namespace wren {
namespace {

constexpr std::size_t most_cutters = 1000;

const char* spiral_word(Spiral s) {
  switch (s) {
    case Spiral::up: return "up";
    case Spiral::down: return "down";
    case Spiral::straight: return "straight";
    case Spiral::compression: return "compression";
  }
  return "";
}

CutterKind kind_from(const std::string& word) {
  for (const CutterKind k : {CutterKind::flat, CutterKind::ball, CutterKind::round_nose, CutterKind::slot,
                             CutterKind::drill, CutterKind::facing, CutterKind::round_over})
    if (word == cutter_kind_name(k)) return k;
  return CutterKind::flat;
}

Spiral spiral_from(const std::string& word) {
  for (const Spiral s : {Spiral::up, Spiral::down, Spiral::straight, Spiral::compression})
    if (word == spiral_word(s)) return s;
  return Spiral::up;
}

constexpr const char* columns =
    "cutter, at, who, what, note, retired, number, kind, diameter_mm, measured_mm, corner_radius_mm, point_angle_deg, "
    "flutes, cutting_length_mm, overall_mm, stickout_mm, nut_mm, modulus_gpa, centre_cutting, spiral, shank_mm, "
    "collet_mm, lengths_measured";

Entry<Cutter> entry_from(const soci::row& r) {
  const auto maybe = [&](std::size_t k) -> std::optional<double> {
    if (r.get_indicator(k) == soci::i_null) return {};
    return r.get<double>(k);
  };
  Entry<Cutter> e;
  Cutter& c = e.thing;
  c.id = r.get<std::string>(0);
  e.told = {r.get<std::string>(1), r.get<std::string>(2)};
  e.what = r.get<std::string>(3);
  e.note = r.get<std::string>(4);
  e.retired = r.get<int>(5) != 0;
  c.number = r.get<int>(6);
  c.kind = kind_from(r.get<std::string>(7));
  c.diameter = r.get<double>(8);
  c.measured = maybe(9);
  c.corner_radius = r.get<double>(10);
  c.point_angle_deg = r.get<double>(11);
  c.flutes = r.get<int>(12);
  c.cutting_length = r.get<double>(13);
  c.overall = r.get<double>(14);
  c.stickout = r.get<double>(15);
  c.nut_diameter = r.get<double>(16);
  c.modulus_gpa = r.get<double>(17);
  c.centre_cutting = r.get<int>(18) != 0;
  c.spiral = spiral_from(r.get<std::string>(19));
  c.shank_diameter = maybe(20);
  c.collet = maybe(21);
  c.lengths_measured = r.get<int>(22) != 0;
  return e;
}

std::vector<Entry<Cutter>> all_from(soci::session& sql, const std::string& rest, const std::string& cutter = {}) {
  std::vector<Entry<Cutter>> out;
  const std::string text = fmt::format("SELECT {} FROM {}", columns, rest);
  const auto take = [&](soci::rowset<soci::row>& rows) {
    for (const soci::row& r : rows) out.push_back(entry_from(r));
  };
  if (cutter.empty()) {
    soci::rowset<soci::row> rows = sql.prepare << text;
    take(rows);
  } else {
    soci::rowset<soci::row> rows = (sql.prepare << text, soci::use(cutter));
    take(rows);
  }
  return out;
}

void insert(soci::session& sql, const Entry<Cutter>& e) {
  const Cutter& c = e.thing;
  const std::string kind = cutter_kind_name(c.kind), spiral = spiral_word(c.spiral);
  const int retired = e.retired ? 1 : 0, centre = c.centre_cutting ? 1 : 0, lengths = c.lengths_measured ? 1 : 0;
  const double measured = c.measured.value_or(0), shank = c.shank_diameter.value_or(0), collet = c.collet.value_or(0);
  const auto given = [](bool there) { return there ? soci::i_ok : soci::i_null; };
  soci::indicator has_measured = given(c.measured.has_value()), has_shank = given(c.shank_diameter.has_value()),
                  has_collet = given(c.collet.has_value());
  const std::string text = fmt::format(
      "INSERT INTO cutter_fact ({}) VALUES (:a, :b, :c, :d, :e, :f, :g, :h, :i, :j, :k, :l, :m, :n, :o, :p, :q, :r, "
      ":s, :t, :u, :v, :w)",
      columns);
  sql << text, soci::use(c.id), soci::use(e.told.at), soci::use(e.told.who), soci::use(e.what), soci::use(e.note),
      soci::use(retired), soci::use(c.number), soci::use(kind), soci::use(c.diameter),
      soci::use(measured, has_measured), soci::use(c.corner_radius), soci::use(c.point_angle_deg), soci::use(c.flutes),
      soci::use(c.cutting_length), soci::use(c.overall), soci::use(c.stickout), soci::use(c.nut_diameter),
      soci::use(c.modulus_gpa), soci::use(centre), soci::use(spiral), soci::use(shank, has_shank),
      soci::use(collet, has_collet), soci::use(lengths);
}

/// Why the rack cannot have this cutter beside the others.
std::optional<Problem> clashes(const std::vector<Entry<Cutter>>& rack, const Cutter& c) {
  for (const Entry<Cutter>& e : rack)
    if (!e.retired && e.thing.id != c.id && e.thing.number == c.number && c.number != 0)
      return Problem{ProblemKind::range, worded("T{} is {} already", c.number, e.thing.id),
                     fmt::format("cutter '{}'", c.id), "Give it another number: two cutters with one are one mistake"};
  return {};
}

bool good_id(const std::string& id) {
  return !id.empty() && id.size() <= 40 && std::all_of(id.begin(), id.end(), [](unsigned char ch) {
    return std::isalnum(ch) != 0 || ch == '-' || ch == '.';
  });
}

std::optional<Problem> wrong(const Cutter& c) {
  if (!good_id(c.id))
    return Problem{ProblemKind::input, worded("'{}' is no name for a cutter", c.id), "",
                   "Letters, digits, hyphens and points, at most 40"};
  if (c.number < 0 || c.number > 99999)
    return Problem{ProblemKind::range, worded("a T number of {}", c.number), c.id, "Give 1 to 99999"};
  if (auto bad = check_cutter(c); !bad.empty()) return bad.front();
  return {};
}

/// Where two states of one cutter differ only in what was measured.
bool only_measures(Cutter a, const Cutter& b) {
  a.measured = b.measured;
  a.stickout = b.stickout;
  a.cutting_length = b.cutting_length;
  a.lengths_measured = b.lengths_measured;
  return a == b;
}

}  // namespace

Expected<std::vector<Entry<Cutter>>> ShopBook::cutters() {
  return looked_up(*session_, [&] { return all_from(session_->sql, "cutter ORDER BY retired, number, cutter"); });
}

Expected<Rack> ShopBook::rack() {
  auto all = cutters();
  if (!all) return tl::unexpected(all.error());
  Rack out;
  for (Entry<Cutter>& e : *all)
    if (!e.retired) out.push_back(std::move(e.thing));
  return out;
}

Expected<std::vector<Entry<Cutter>>> ShopBook::history_of(const std::string& cutter) {
  return looked_up(*session_,
                   [&] { return all_from(session_->sql, "cutter_fact WHERE cutter = :c ORDER BY n", cutter); });
}

Expected<void> ShopBook::add(const Cutter& cutter, const Told& told, const std::string& note) {
  if (auto bad = wrong(cutter)) return tl::unexpected(*bad);
  return in_one_step(*session_, [&]() -> Expected<void> {
    const auto all = all_from(session_->sql, "cutter");
    if (all.size() >= most_cutters)
      return fail(ProblemKind::range, worded("a shop has at most {} cutters", most_cutters), cutter.id,
                  "Change one that is retired");
    for (const Entry<Cutter>& e : all)
      if (e.thing.id == cutter.id)
        return fail(ProblemKind::range,
                    worded("there is a cutter '{}' already{}", cutter.id, e.retired ? ", retired" : ""), cutter.id,
                    e.retired ? "Bring it back, or choose another name" : "Choose another name");
    if (auto bad = clashes(all, cutter)) return tl::unexpected(*bad);
    insert(session_->sql, {cutter, told, "added", note, false});
    return {};
  });
}

Expected<void> ShopBook::change(const Cutter& cutter, const Told& told, const std::string& note) {
  if (auto bad = wrong(cutter)) return tl::unexpected(*bad);
  return in_one_step(*session_, [&]() -> Expected<void> {
    const auto all = all_from(session_->sql, "cutter");
    const auto it =
        std::find_if(all.begin(), all.end(), [&](const Entry<Cutter>& e) { return e.thing.id == cutter.id; });
    if (it == all.end())
      return fail(ProblemKind::input, worded("the shop has no cutter '{}'", cutter.id), "", "Add it first");
    if (it->thing == cutter && note.empty()) return {};
    if (!it->retired)
      if (auto bad = clashes(all, cutter)) return tl::unexpected(*bad);
    insert(session_->sql, {cutter, told, only_measures(cutter, it->thing) ? "measured" : "changed", note, it->retired});
    return {};
  });
}

Expected<void> ShopBook::retire(const std::string& cutter, bool retired, const Told& told) {
  return in_one_step(*session_, [&]() -> Expected<void> {
    const auto all = all_from(session_->sql, "cutter");
    const auto it = std::find_if(all.begin(), all.end(), [&](const Entry<Cutter>& e) { return e.thing.id == cutter; });
    if (it == all.end())
      return fail(ProblemKind::input, worded("the shop has no cutter '{}'", cutter), "", "List them: wren rack");
    if (it->retired == retired) return {};
    if (!retired)
      if (auto bad = clashes(all, it->thing)) return tl::unexpected(*bad);
    insert(session_->sql, {it->thing, told, retired ? "retired" : "brought back", "", retired});
    return {};
  });
}

std::vector<RackDifference> rack_differences(const Rack& project, const std::vector<Entry<Cutter>>& shop) {
  std::vector<RackDifference> out;
  for (const Cutter& c : project) {
    const auto it = std::find_if(shop.begin(), shop.end(), [&](const Entry<Cutter>& e) { return e.thing.id == c.id; });
    if (it == shop.end()) {
      out.push_back({c.id, RackDifference::Kind::not_in_shop, {}, c, {}});
      continue;
    }
    RackDifference d{
        c.id, it->retired ? RackDifference::Kind::retired_in_shop : RackDifference::Kind::differs, {}, c, it->thing};
    const auto compare = [&](const char* name, double here, double there) {
      if (here != there) d.what.push_back(worded("{} {:g} here, {:g} in the shop", name, here, there));
    };
    const Cutter& s = it->thing;
    compare("T", c.number, s.number);
    compare("diameter", c.diameter, s.diameter);
    if (c.measured != s.measured)
      d.what.push_back(fmt::format("measured {} here, {} in the shop",
                                   c.measured ? fmt::format("{:g}", *c.measured) : std::string("not"),
                                   s.measured ? fmt::format("{:g}", *s.measured) : std::string("not")));
    compare("corner radius", c.corner_radius, s.corner_radius);
    compare("point angle", c.point_angle_deg, s.point_angle_deg);
    compare("flutes", c.flutes, s.flutes);
    compare("cutting length", c.cutting_length, s.cutting_length);
    compare("overall", c.overall, s.overall);
    compare("stickout", c.stickout, s.stickout);
    compare("collet nut", c.nut_diameter, s.nut_diameter);
    compare("shank", c.shank(), s.shank());
    compare("collet", c.collet_in_use(), s.collet_in_use());
    if (c.kind != s.kind || c.spiral != s.spiral || c.centre_cutting != s.centre_cutting ||
        c.lengths_measured != s.lengths_measured)
      d.what.emplace_back("kind, or whether its lengths were measured, differs");
    if (d.kind == RackDifference::Kind::retired_in_shop || !d.what.empty()) out.push_back(std::move(d));
  }
  for (const Entry<Cutter>& e : shop)
    if (!e.retired && find_cutter(project, e.thing.id) == nullptr)
      out.push_back({e.thing.id, RackDifference::Kind::not_in_project, {}, {}, e.thing});
  return out;
}

}  // namespace wren
