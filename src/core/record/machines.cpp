// Machines and materials of the shop: their numbers are kept by the keys and texts of the field tables, so that a new
// number of theirs needs no new column.
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/field.hpp"
#include "core/record/session.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;

template <class Keep>
Json numbers_of(const std::vector<Field>& fields, const Project& project, Keep keep) {
  Json out = Json::object();
  for (const Field& f : fields)
    if (keep(f.key)) out[f.key] = field_text(f, f.get(project));
  return out;
}

/// What a text cannot say today is left as it is usual.
template <class Keep>
void take_numbers(const std::vector<Field>& fields, const Json& numbers, Project& project, Keep keep) {
  for (const Field& f : fields) {
    if (!keep(f.key) || !numbers.is_object() || !numbers.contains(f.key) || !numbers[f.key].is_string()) continue;
    if (const auto value = parse_field(f, numbers[f.key].get<std::string>(), UnitSystem::millimetre))
      f.put(project, *value);
  }
}

bool of_machine(const std::string& key) { return key.starts_with("machine."); }

std::string text_of(const ShopMachine& m) {
  Project project;
  project.machine = m.machine;
  Json j = numbers_of(shop_fields(), project, of_machine);
  j["address"] = m.address;
  j["baud"] = m.baud;
  const PlainTalk& t = m.talk;
  j["talk"] = {{"done", t.done},   {"error", t.error}, {"stopped", t.stopped}, {"ask_place", t.ask_place},
               {"place", t.place}, {"hold", t.hold},   {"resume", t.resume},   {"stop", t.stop}};
  return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

ShopMachine machine_from(const std::string& text) {
  const Json j = Json::parse(text, nullptr, false);
  Project project;
  ShopMachine out;
  if (!j.is_object()) return out;
  take_numbers(shop_fields(), j, project, of_machine);
  out.machine = project.machine;
  const auto word = [](const Json& from, const char* key, std::string& to) {
    if (from.is_object() && from.contains(key) && from[key].is_string()) to = from[key].get<std::string>();
  };
  word(j, "address", out.address);
  if (j.contains("baud") && j["baud"].is_number_integer()) out.baud = j["baud"].get<long>();
  if (j.contains("talk")) {
    PlainTalk& t = out.talk;
    for (const auto& [key, to] :
         {std::pair{"done", &t.done}, std::pair{"error", &t.error}, std::pair{"stopped", &t.stopped},
          std::pair{"ask_place", &t.ask_place}, std::pair{"place", &t.place}, std::pair{"hold", &t.hold},
          std::pair{"resume", &t.resume}, std::pair{"stop", &t.stop}})
      word(j["talk"], key, *to);
  }
  return out;
}

std::string text_of(const Material& m) {
  Project project;
  project.materials = {m};
  const auto all = [](const std::string&) { return true; };
  return numbers_of(material_fields(project.materials), project, all)
      .dump(-1, ' ', false, Json::error_handler_t::replace);
}

Material material_from(const std::string& name, const std::string& text) {
  Project project;
  project.materials = {Material{}};
  project.materials.front().name = name;
  take_numbers(material_fields(project.materials), Json::parse(text, nullptr, false), project,
               [](const std::string&) { return true; });
  return project.materials.front();
}

struct Row {
  std::string name, at, who, what, note, numbers;
  bool retired = false;
};

std::vector<Row> rows_of(soci::session& sql, const char* table) {
  std::vector<Row> out;
  soci::rowset<soci::row> rows =
      sql.prepare << fmt::format("SELECT {0}, at, who, what, note, numbers, retired FROM {0} ORDER BY retired, {0}",
                                 table);
  for (const soci::row& r : rows)
    out.push_back({r.get<std::string>(0), r.get<std::string>(1), r.get<std::string>(2), r.get<std::string>(3),
                   r.get<std::string>(4), r.get<std::string>(5), r.get<int>(6) != 0});
  return out;
}

void insert(soci::session& sql, const char* table, const Row& r) {
  const int retired = r.retired ? 1 : 0;
  sql << fmt::format(
      "INSERT INTO {0}_fact ({0}, at, who, what, note, retired, numbers) VALUES (:a, :b, :c, :d, :e, :f, "
      ":g)",
      table),
      soci::use(r.name), soci::use(r.at), soci::use(r.who), soci::use(r.what), soci::use(r.note), soci::use(retired),
      soci::use(r.numbers);
}

/// The next fact about one of a table's things; none where nothing differs.
Expected<void> note_fact_of(ShopBook::Session& s, const char* table, const std::string& name,
                            const std::string& numbers, std::optional<bool> retired, const Told& told) {
  return in_one_step(s, [&]() -> Expected<void> {
    const auto all = rows_of(s.sql, table);
    const auto it = std::find_if(all.begin(), all.end(), [&](const Row& r) { return r.name == name; });
    if (it == all.end() && numbers.empty())
      return fail(ProblemKind::input, worded("the shop has no {} '{}'", table, name), "", "Look at the list");
    Row row{name, told.at, told.who, "added", "", numbers, retired.value_or(it != all.end() && it->retired)};
    if (it != all.end()) {
      if (row.numbers.empty()) row.numbers = it->numbers;
      if (row.numbers == it->numbers && row.retired == it->retired) return {};
      row.what = row.retired == it->retired ? "changed" : row.retired ? "retired" : "brought back";
    }
    insert(s.sql, table, row);
    return {};
  });
}

}  // namespace

std::vector<Problem> check_machine(const ShopMachine& m) {
  std::vector<Problem> out;
  const auto bad = [&](Words what, Words todo) {
    out.push_back({ProblemKind::range, std::move(what), "machine '" + m.machine.name + "'", std::move(todo)});
  };
  if (m.machine.name.empty() || m.machine.name.size() > 200 || m.machine.name.find('\n') != std::string::npos)
    bad("a machine without a name", "Give it one of at most 200 characters");
  Project project;
  project.machine = m.machine;
  for (const Field& f : shop_fields())
    if (of_machine(f.key))
      if (const auto wrong = check_value(f, f.get(project), f.key)) out.push_back(*wrong);
  if (m.machine.spindle_low > m.machine.spindle_high)
    bad(fmt::format("its slowest spindle ({:g}) is faster than its fastest ({:g})", m.machine.spindle_low,
                    m.machine.spindle_high),
        "Exchange them");
  if (m.baud < 300 || m.baud > 4'000'000) bad(fmt::format("a serial line of {} baud", m.baud), "Give 300 to 4000000");
  if (m.talk.done.empty() || m.talk.error.empty() || m.talk.done == m.talk.error)
    bad("the words for done and for error are missing, or the same", "Give what its controller answers");
  for (const std::string* word : {&m.talk.done, &m.talk.error, &m.talk.stopped, &m.talk.ask_place, &m.talk.place,
                                  &m.talk.hold, &m.talk.resume, &m.talk.stop})
    if (word->size() > 40 || word->find_first_of("\r\n") != std::string::npos)
      bad("a word of its controller is longer than 40 characters or more than a line", "Shorten it");
  return out;
}

Expected<std::vector<Entry<ShopMachine>>> ShopBook::machines() {
  return looked_up(*session_, [&] {
    std::vector<Entry<ShopMachine>> out;
    for (const Row& r : rows_of(session_->sql, "machine")) {
      ShopMachine m = machine_from(r.numbers);
      m.machine.name = r.name;
      out.push_back({std::move(m), {r.at, r.who}, r.what, r.note, r.retired});
    }
    return out;
  });
}

Expected<void> ShopBook::put(const ShopMachine& machine, const Told& told) {
  if (auto bad = check_machine(machine); !bad.empty()) return tl::unexpected(bad.front());
  return note_fact_of(*session_, "machine", machine.machine.name, text_of(machine), {}, told);
}

Expected<void> ShopBook::retire_machine(const std::string& name, bool retired, const Told& told) {
  return note_fact_of(*session_, "machine", name, {}, retired, told);
}

Expected<std::vector<Entry<Material>>> ShopBook::materials() {
  return looked_up(*session_, [&] {
    std::vector<Entry<Material>> out;
    for (const Row& r : rows_of(session_->sql, "material"))
      out.push_back({material_from(r.name, r.numbers), {r.at, r.who}, r.what, r.note, r.retired});
    return out;
  });
}

Expected<void> ShopBook::put(const Material& material, const Told& told) {
  if (auto bad = check_material(material); !bad.empty()) return tl::unexpected(bad.front());
  return note_fact_of(*session_, "material", material.name, text_of(material), {}, told);
}

}  // namespace wren
