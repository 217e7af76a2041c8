#include "core/document/json_pieces.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr std::size_t longest_measure_text = 400;
const char* const spirals[] = {"up", "down", "straight", "compression"};
const char* const cutter_kinds[] = {"flat", "ball", "round_nose", "slot", "drill", "facing", "round_over"};

/// What tells an entry of a list from its neighbours: its id, else all that is known of it.
std::string identity(const Json& entry) {
  return entry.contains("id") && entry["id"].is_string() ? entry["id"].get<std::string>() : entry.dump();
}

/// Reads one member of an object: a number within limits; keeps the present value when it is missing.
std::optional<Problem> number_member(const Json& j, const char* name, double low, double high, const std::string& where,
                                     double& out) {
  const auto it = j.find(name);
  if (it == j.end()) return {};
  if (!it->is_number() || !(it->get<double>() >= low && it->get<double>() <= high))
    return Problem{ProblemKind::range, worded("'{}' is not a number from {} to {}", name, low, high),
                   where + "/" + name, "Correct it"};
  out = it->get<double>();
  return {};
}

}  // namespace

Json rack_to_json(const Rack& rack) {
  Json out = Json::array();
  for (const Cutter& c : rack) {
    Json j{{"id", c.id},
           {"number", c.number},
           {"kind", cutter_kind_name(c.kind)},
           {"diameter", c.diameter},
           {"flutes", c.flutes},
           {"cutting_length", c.cutting_length},
           {"overall", c.overall},
           {"stickout", c.stickout},
           {"nut_diameter", c.nut_diameter},
           {"modulus_gpa", c.modulus_gpa},
           {"centre_cutting", c.centre_cutting}};
    if (c.spiral != Spiral::up) j["spiral"] = spirals[static_cast<std::size_t>(c.spiral)];
    if (c.shank_diameter) j["shank_diameter"] = *c.shank_diameter;
    if (c.collet) j["collet"] = *c.collet;
    if (c.lengths_measured) j["lengths_measured"] = true;
    if (c.measured) j["measured"] = *c.measured;
    if (c.kind == CutterKind::round_nose || c.kind == CutterKind::round_over) j["corner_radius"] = c.corner_radius;
    if (c.kind == CutterKind::drill) j["point_angle_deg"] = c.point_angle_deg;
    out.push_back(j);
  }
  return out;
}

Expected<Rack> rack_from_json(const Json& j) {
  if (!j.is_array() || j.size() > 500)
    return fail(ProblemKind::format, "the rack is not a list of at most 500 cutters", "/rack",
                "Correct it, or open an earlier copy");
  Rack rack;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const std::string where = fmt::format("/rack/{}", i);
    const Json& e = j[i];
    if (!e.is_object() || !e.contains("id") || !e["id"].is_string())
      return fail(ProblemKind::format, "a cutter without identity", where, "Give it an id");
    Cutter c;
    c.id = e["id"].get<std::string>();
    if (c.id.empty() || c.id.size() > 60)
      return fail(ProblemKind::format, "a cutter's identity is empty or too long", where + "/id", "Give it a short id");
    if (find_cutter(rack, c.id) != nullptr)
      return fail(ProblemKind::format, worded("the cutter '{}' stands twice in the rack", c.id), where,
                  "Rename one of them");
    bool known = false;
    for (int k = 0; k < 7; ++k)
      if (e.contains("kind") && e["kind"] == cutter_kinds[k]) {
        c.kind = static_cast<CutterKind>(k);
        known = true;
      }
    if (!known)
      return fail(ProblemKind::format, "the kind of this cutter is not known", where + "/kind",
                  "Use flat, ball, round_nose, slot, drill, facing or round_over");
    double number = 0;
    double flutes = 2;
    double measured = 0;
    double shank = 0;
    double collet = 0;
    // Files of before say nothing of it: common practice for their kind.
    c.centre_cutting = c.kind != CutterKind::facing && c.kind != CutterKind::round_over;
    for (const auto& [name, flag] :
         {std::pair{"centre_cutting", &c.centre_cutting}, std::pair{"lengths_measured", &c.lengths_measured}})
      if (e.contains(name)) {
        if (!e[name].is_boolean())
          return fail(ProblemKind::format, worded("'{}' is neither true nor false", name), where + "/" + name,
                      "Write true or false");
        *flag = e[name].get<bool>();
      }
    if (e.contains("spiral")) {
      const auto* found = std::find(std::begin(spirals), std::end(spirals), e["spiral"]);
      if (found == std::end(spirals))
        return fail(ProblemKind::format, "the spiral of this cutter is not known", where + "/spiral",
                    "Use up, down, straight or compression");
      c.spiral = static_cast<Spiral>(found - std::begin(spirals));
    }
    struct Member {
      const char* name;
      double low, high;
      double* to;
    };
    for (const Member& m : {Member{"number", 0, 9999, &number},
                            {"diameter", 0.05, 200, &c.diameter},
                            {"measured", 0.05, 200, &measured},
                            {"corner_radius", 0, 100, &c.corner_radius},
                            {"point_angle_deg", 30, 179, &c.point_angle_deg},
                            {"flutes", 1, 12, &flutes},
                            {"cutting_length", 0.1, 500, &c.cutting_length},
                            {"overall", 1, 600, &c.overall},
                            {"stickout", 0.5, 600, &c.stickout},
                            {"nut_diameter", 1, 300, &c.nut_diameter},
                            {"shank_diameter", 1, 50, &shank},
                            {"collet", 1, 50, &collet},
                            {"modulus_gpa", 10, 2000, &c.modulus_gpa}})
      if (auto bad = number_member(e, m.name, m.low, m.high, where, *m.to)) return tl::unexpected(*bad);
    c.number = static_cast<int>(number);
    c.flutes = static_cast<int>(flutes);
    if (measured > 0) c.measured = measured;
    if (shank > 0) c.shank_diameter = shank;
    if (collet > 0) c.collet = collet;
    if (auto bad = check_cutter(c); !bad.empty())
      return fail(ProblemKind::range, bad.front().what, where, bad.front().todo);
    rack.push_back(c);
  }
  return rack;
}

Json materials_to_json(const Materials& own, const Materials& copies) {
  Json out = Json::array();
  for (const Materials* list : {&own, &copies})
    for (const Material& m : *list)
      out.push_back({{"id", m.name},
                     {"of", list == &own ? "project" : "table"},
                     {"kind", kind_word(m.kind)},
                     {"density", m.density},
                     {"hardness", hardness_word(m.hardness)},
                     {"cutting_force", m.cutting_force},
                     {"modulus", m.modulus},
                     {"side_hardness", m.side_hardness},
                     {"shrink_radial", m.shrink_radial},
                     {"shrink_tangential", m.shrink_tangential},
                     {"grain", grain_word(m.grain)},
                     {"melts", m.melts},
                     {"dust", dust_word(m.dust)},
                     {"source", m.source}});
  return out;
}

Expected<Materials> materials_from_json(const Json& j) {
  if (!j.is_array() || j.size() > most_materials)
    return fail(ProblemKind::format, worded("this is not a list of at most {} materials", most_materials), "/materials",
                "Correct it, or open an earlier copy");
  Materials out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& e = j[i];
    const std::string where = fmt::format("/materials/{}", i);
    const auto text = [&](const char* name) {
      return e.contains(name) && e[name].is_string() ? e[name].get<std::string>() : std::string();
    };
    if (!e.is_object() || text("id").empty())
      return fail(ProblemKind::format, "a material without its name", where, "Give it an id");
    Material m;
    m.name = text("id");
    m.source = text("source");
    for (const auto& [name, to] :
         {std::pair{"density", &m.density}, std::pair{"cutting_force", &m.cutting_force},
          std::pair{"modulus", &m.modulus}, std::pair{"side_hardness", &m.side_hardness},
          std::pair{"shrink_radial", &m.shrink_radial}, std::pair{"shrink_tangential", &m.shrink_tangential}})
      if (auto bad = number_member(e, name, 0, 1e6, where, *to)) return tl::unexpected(*bad);
    if (e.contains("melts")) {
      if (!e["melts"].is_boolean())
        return fail(ProblemKind::format, "'melts' is neither true nor false", where + "/melts", "Write true or false");
      m.melts = e["melts"].get<bool>();
    }
    const auto choice = [&](const char* name, auto& to, int count, const auto& word) -> std::optional<Problem> {
      if (!e.contains(name)) return {};
      std::string all;
      for (int k = 0; k < count; ++k) {
        const auto value = static_cast<std::remove_reference_t<decltype(to)>>(k);
        if (text(name) == word(value)) {
          to = value;
          return {};
        }
        all += (k == 0 ? "" : k + 1 == count ? " or " : ", ") + word(value);
      }
      return Problem{ProblemKind::format, worded("the {} of this material is not known", name), where + "/" + name,
                     "Use " + all};
    };
    if (auto bad = choice("kind", m.kind, 4, kind_word)) return tl::unexpected(*bad);
    if (auto bad = choice("hardness", m.hardness, 3, hardness_word)) return tl::unexpected(*bad);
    if (auto bad = choice("grain", m.grain, 3, grain_word)) return tl::unexpected(*bad);
    if (auto bad = choice("dust", m.dust, 5, dust_word)) return tl::unexpected(*bad);
    if (const auto bad = check_material(m); !bad.empty())
      return fail(ProblemKind::range, bad.front().what, where, bad.front().todo);
    if (std::any_of(out.begin(), out.end(), [&](const Material& o) { return o.name == m.name; }))
      return fail(ProblemKind::format, worded("the material '{}' stands twice", m.name), where, "Rename one of them");
    const auto& table = known_materials();
    if (text("of") == "table" && std::find(table.begin(), table.end(), m) != table.end()) continue;
    out.push_back(std::move(m));
  }
  return out;
}

Json points_to_json(const std::vector<Vec2>& points) {
  Json out = Json::array();
  for (const Vec2 p : points) out.push_back({p.x, p.y});
  return out;
}

Expected<std::vector<Vec2>> points_from_json(const Json& j, const std::string& where, std::size_t most, double reach) {
  if (!j.is_array() || j.size() > most)
    return fail(ProblemKind::range, worded("this is not a list of at most {} points", most), where, "Shorten it");
  std::vector<Vec2> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& p = j[i];
    if (!p.is_array() || p.size() != 2 || !p[0].is_number() || !p[1].is_number() ||
        !(std::abs(p[0].get<double>()) < reach) || !(std::abs(p[1].get<double>()) < reach))
      return fail(ProblemKind::format, worded("a point is not two numbers under {} mm", reach),
                  fmt::format("{}/{}", where, i), "Correct it");
    out.push_back({p[0].get<double>(), p[1].get<double>()});
  }
  return out;
}

Json measures_to_json(const std::vector<Measured>& measures) {
  Json out = Json::array();
  for (const Measured& m : measures)
    out.push_back({{"of", m.key},
                   {"value", m.value},
                   {"date", m.date},
                   {"with", m.instrument},
                   {"note", m.note},
                   {"in_use", m.in_use}});
  return out;
}

Expected<std::vector<Measured>> measures_from_json(const Json& j) {
  if (!j.is_array() || j.size() > most_measured)
    return fail(ProblemKind::range, worded("this is not a list of at most {} measures", most_measured), "/measures",
                "Shorten it");
  std::vector<Measured> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& e = j[i];
    const auto text = [&](const char* name) {
      return e.contains(name) && e[name].is_string() ? e[name].get<std::string>() : std::string();
    };
    if (!e.is_object() || !e.contains("of") || !e["of"].is_string() || !e.contains("value") ||
        !e["value"].is_number() || !(std::abs(e["value"].get<double>()) < 1e5))
      return fail(ProblemKind::format, "a measure does not say what it is of, or its value",
                  fmt::format("/measures/{}", i), "Correct it");
    for (const char* name : {"of", "date", "with", "note"})
      if (text(name).size() > longest_measure_text)
        return fail(ProblemKind::range, worded("'{}' is longer than {} characters", name, longest_measure_text),
                    fmt::format("/measures/{}", i), "Shorten it");
    out.push_back({text("of"), e["value"].get<double>(), text("date"), text("with"), text("note"),
                   !e.contains("in_use") || !e["in_use"].is_boolean() || e["in_use"].get<bool>()});
  }
  return out;
}

Json pictures_to_json(const std::vector<PlacedPicture>& pictures) {
  Json out = Json::array();
  for (const PlacedPicture& p : pictures)
    out.push_back({{"hash", p.hash},
                   {"name", p.name},
                   {"page", p.page},
                   {"part", p.part},
                   {"view", p.view},
                   {"station", p.station},
                   {"low", {p.low.x, p.low.y}},
                   {"mm_per_pixel", p.mm_per_pixel},
                   {"angle", p.angle_deg},
                   {"mirrored", p.mirrored},
                   {"fade", p.fade}});
  return out;
}

Expected<std::vector<PlacedPicture>> pictures_from_json(const Json& j) {
  if (!j.is_array() || j.size() > most_pictures)
    return fail(ProblemKind::range, worded("this is not a list of at most {} pictures", most_pictures), "/pictures",
                "Shorten it");
  std::vector<PlacedPicture> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& e = j[i];
    const auto wrong = [&](const char* what) {
      return fail(ProblemKind::format, std::string("a picture ") + what, fmt::format("/pictures/{}", i),
                  "Correct it, or take it out");
    };
    const auto text = [&](const char* name) {
      return e.contains(name) && e[name].is_string() ? e[name].get<std::string>() : std::string();
    };
    const auto number = [&](const char* name, double otherwise) {
      return e.contains(name) && e[name].is_number() ? e[name].get<double>() : otherwise;
    };
    if (!e.is_object()) return wrong("is a group of numbers");
    PlacedPicture p;
    p.hash = text("hash");
    if (p.hash.size() != 64 || p.hash.find_first_not_of("0123456789abcdef") != std::string::npos)
      return wrong("is found by the hash of its file, 64 characters");
    p.name = text("name");
    p.part = text("part");
    p.view = text("view");
    if (p.name.size() > 300 || p.part.size() > 60) return wrong("has a name longer than it may be");
    if (p.view != "plan" && p.view != "side" && p.view != "section") return wrong("lies behind plan, side or section");
    p.page = static_cast<int>(number("page", 1));
    p.station = number("station", 0);
    if (e.contains("low")) {
      auto low = points_from_json(Json::array({e["low"]}), fmt::format("/pictures/{}/low", i), 1, 1e5);
      if (!low) return tl::unexpected(low.error());
      p.low = low->front();
    }
    p.mm_per_pixel = number("mm_per_pixel", 0.2);
    p.angle_deg = number("angle", 0);
    p.mirrored = e.contains("mirrored") && e["mirrored"].is_boolean() && e["mirrored"].get<bool>();
    p.fade = number("fade", 0.5);
    if (!(p.mm_per_pixel >= 1e-4 && p.mm_per_pixel <= 1000) || !(std::abs(p.angle_deg) <= 360) ||
        !(std::abs(p.station) < 1e5) || !(p.fade >= 0 && p.fade <= 1) || p.page < 1 || p.page > 100'000)
      return wrong("has a size, turn, place or page that cannot be");
    out.push_back(std::move(p));
  }
  return out;
}

Json facts_to_json(const Record& record) {
  Json happened = Json::array();
  for (const Fact& f : record.facts)
    happened.push_back({{"what", f.what}, {"date", f.date}, {"fingerprint", f.fingerprint}});
  Json numbers = Json::object();
  for (const auto& [print, values] : record.numbers) {
    numbers[print] = Json::object();
    for (const auto& [key, text] : values) numbers[print][key] = text;
  }
  Json out{{"happened", happened}, {"numbers", numbers}, {"programs_folder", record.folder}};
  if (!record.id.empty()) out["instrument"] = record.id;
  return out;
}

std::optional<Problem> facts_from_json(const Json& j, Record& record) {
  const auto wrong = [](const Words& what, const std::string& where) {
    return Problem{ProblemKind::format, what, "/facts" + where, "Correct it, or open an earlier copy"};
  };
  if (!j.is_object()) return wrong("a group is expected for the facts", "");
  if (j.contains("happened")) {
    const Json& list = j["happened"];
    if (!list.is_array() || list.size() > most_facts)
      return wrong(fmt::format("this is not a list of at most {} facts", most_facts), "/happened");
    for (std::size_t i = 0; i < list.size(); ++i) {
      Fact fact;
      for (const auto& [name, to] : {std::pair{"what", &fact.what}, std::pair{"date", &fact.date},
                                     std::pair{"fingerprint", &fact.fingerprint}}) {
        if (!list[i].is_object() || !list[i].contains(name) || !list[i][name].is_string())
          return wrong(fmt::format("a fact without '{}'", name), fmt::format("/happened/{}", i));
        *to = list[i][name].get<std::string>();
      }
      record.facts.push_back(std::move(fact));
    }
  }
  if (j.contains("numbers")) {
    const Json& all = j["numbers"];
    if (!all.is_object() || all.size() > most_numbers_kept)
      return wrong(fmt::format("this is not a group of at most {} sets of numbers", most_numbers_kept), "/numbers");
    for (auto it = all.begin(); it != all.end(); ++it) {
      if (!it.value().is_object()) return wrong("a group is expected", "/numbers/" + it.key());
      auto& values = record.numbers[it.key()];
      for (auto v = it.value().begin(); v != it.value().end(); ++v)
        if (v.value().is_string()) values[v.key()] = v.value().get<std::string>();
    }
  }
  if (j.contains("programs_folder")) {
    if (!j["programs_folder"].is_string()) return wrong("a text is expected", "/programs_folder");
    record.folder = j["programs_folder"].get<std::string>();
  }
  if (j.contains("instrument")) {
    if (!j["instrument"].is_string() || j["instrument"].get<std::string>().size() > 64)
      return wrong("the instrument's id is no text of at most 64 characters", "/instrument");
    record.id = j["instrument"].get<std::string>();
  }
  return {};
}

Json left_over_keys(const Json& all, const Json& mine) {
  Json out = Json::object();
  if (all.is_array() && mine.is_array()) {
    if (all.size() == mine.size())
      for (std::size_t i = 0; i < all.size(); ++i)
        if (all[i].is_object() && mine[i].is_object())
          if (Json inner = left_over_keys(all[i], mine[i]); !inner.empty()) out[identity(mine[i])] = inner;
    return out;
  }
  for (auto it = all.begin(); it != all.end(); ++it) {
    if (!mine.contains(it.key()))
      out[it.key()] = it.value();
    else if (it.value().is_structured() && mine[it.key()].is_structured() &&
             it.value().is_object() == mine[it.key()].is_object())
      if (Json inner = left_over_keys(it.value(), mine[it.key()]); !inner.empty()) out[it.key()] = inner;
  }
  return out;
}

void put_back(Json& into, const Json& left) {
  if (into.is_array() && left.is_object()) {
    for (Json& entry : into)
      if (entry.is_object())
        if (const auto it = left.find(identity(entry)); it != left.end()) put_back(entry, *it);
    return;
  }
  if (!into.is_object() || !left.is_object()) return;
  for (auto it = left.begin(); it != left.end(); ++it) {
    if (!into.contains(it.key()))
      into[it.key()] = it.value();
    else
      put_back(into[it.key()], it.value());
  }
}

}  // namespace wren
