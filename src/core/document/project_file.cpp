#include "core/document/project_file.hpp"

#include <set>

#include <fmt/format.h>

#include "core/document/json_pieces.hpp"

namespace wren {
namespace {

constexpr std::size_t most_names = 4000;  // in one group of a file; the tables have some four hundred in all

std::vector<std::string> parts(const std::string& key) {
  std::vector<std::string> out{""};
  for (const char c : key) {
    if (c == '.')
      out.emplace_back();
    else
      out.back() += c;
  }
  return out;
}

std::string pointer(const std::string& key) {
  std::string out;
  for (const auto& p : parts(key)) out += "/" + p;
  return out;
}

Json to_json(const FieldValue& value) {
  if (const double* v = std::get_if<double>(&value)) return *v;
  if (const long* v = std::get_if<long>(&value)) return *v;
  if (const bool* v = std::get_if<bool>(&value)) return *v;
  if (const auto* v = std::get_if<std::string>(&value)) return *v;
  if (const auto* v = std::get_if<std::vector<double>>(&value)) return *v;
  return nullptr;
}

Expected<FieldValue> from_json(const Field& field, const Json& j, const std::string& where) {
  FieldValue value;
  const auto expected = [&](const char* what) {
    return fail(ProblemKind::format,
                worded("{} is expected for {}, not {}", what, field.label,
                       j.is_string()   ? "a text"
                       : j.is_array()  ? "a list"
                       : j.is_object() ? "a group"
                                       : j.type_name()),
                where, "Correct it, or open an earlier copy");
  };
  if (j.is_null()) {
    value = FieldValue();
  } else {
    switch (field.kind) {
      case FieldKind::length:
      case FieldKind::number:
        if (!j.is_number()) return expected("a number");
        value = j.get<double>();
        break;
      case FieldKind::count:
        if (!j.is_number_integer()) return expected("a whole number");
        value = static_cast<long>(std::clamp<std::int64_t>(j.get<std::int64_t>(), -1'000'000'000, 1'000'000'000));
        break;
      case FieldKind::flag:
        if (!j.is_boolean()) return expected("true or false");
        value = j.get<bool>();
        break;
      case FieldKind::choice:
      case FieldKind::text:
        if (!j.is_string()) return expected("a text");
        value = j.get<std::string>();
        break;
      case FieldKind::numbers: {
        if (!j.is_array()) return expected("a list of numbers");
        if (j.size() > 1000)
          return fail(ProblemKind::range, worded("a list of {} entries", j.size()), where, "Shorten it");
        std::vector<double> list;
        for (const auto& e : j) {
          if (!e.is_number()) return expected("a list of numbers");
          list.push_back(e.get<double>());
        }
        value = list;
        break;
      }
    }
  }
  if (auto bad = check_value(field, value, where)) return tl::unexpected(*bad);
  return value;
}

std::size_t line_of(std::string_view text, std::size_t byte) {
  return 1 + static_cast<std::size_t>(std::count(
                 text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text.size())), '\n'));
}

/// Reads the fields of one group of the file; `at` puts the file's name before a JSON path.
template <class At>
std::optional<Problem> read_fields(const std::vector<Field>& fields, const Json& group, const std::string& path,
                                   const At& at, Project& project) {
  for (const Field& field : fields) {
    if (field.alias) continue;
    const Json* j = &group;
    for (const auto& part : parts(field.key)) {
      if (!j->is_object())
        return Problem{ProblemKind::format, worded("a group is expected above '{}'", field.key),
                       at(path + pointer(field.key)), "Correct it, or open an earlier copy"};
      const auto it = j->find(part);
      j = it != j->end() ? &*it : nullptr;
      if (j == nullptr) break;
    }
    if (j == nullptr) continue;  // left at its default
    auto value = from_json(field, *j, at(path + pointer(field.key)));
    if (!value) return value.error();
    field.put(project, *value);
  }
  return {};
}

void put_fields(Json& group, const std::vector<Field>& fields, const Project& project) {
  for (const Field& field : fields)
    if (!field.alias) group[Json::json_pointer(pointer(field.key))] = to_json(field.get(project));
}

void put_part(Json& doc, const PartTable& part, const Project& project) {
  if (part.fields.empty()) return;
  Json& group = doc["parts"][part.id];
  put_fields(group, part.fields, project);
  if (part.write_more != nullptr) part.write_more(project, group);
}

/// Those of the table that the project uses and has no entry of its own for.
Materials table_copies(const FieldBook& book, const Project& project) {
  Materials out;
  for (const std::string& name : materials_named(book, project)) {
    const auto own = [&](const Material& m) { return m.name == name; };
    if (std::any_of(project.materials.begin(), project.materials.end(), own)) continue;
    if (auto m = find_material({}, name)) out.push_back(std::move(*m));
  }
  return out;
}

Json to_document(const FieldBook& book, const Project& project) {
  Json doc;
  doc["format"] = "upland-wren-project";
  doc["version"] = project_version;
  put_fields(doc, book.shop(), project);
  for (const PartTable& part : book.parts()) put_part(doc, part, project);
  doc["measures"] = measures_to_json(project.record.measured);
  doc["rack"] = rack_to_json(project.rack);
  doc["materials"] = materials_to_json(project.materials, table_copies(book, project));
  if (!project.pictures.empty()) doc["pictures"] = pictures_to_json(project.pictures);
  doc["facts"] = facts_to_json(project.record);
  return doc;
}

}  // namespace

std::string project_to_json(const FieldBook& book, const Project& project) {
  Json doc = to_document(book, project);
  if (!project.unknown.empty())
    if (const Json left = Json::parse(project.unknown, nullptr, false); !left.is_discarded()) put_back(doc, left);
  return doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string numbers_text(const FieldBook& book, const Project& project, const std::vector<std::string>& parts) {
  Json doc;
  put_fields(doc, book.shop(), project);
  doc.erase("project");  // a name and notes are cut nowhere
  doc["rack"] = rack_to_json(project.rack);
  if (const Materials own = own_materials_of(book, project, parts); !own.empty())
    doc["materials"] = materials_to_json(own, {});
  for (const std::string& id : parts)
    if (const PartTable* part = book.part(id)) put_part(doc, *part, project);
  return doc.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Expected<Project> project_from_json(const FieldBook& book, std::string_view text, const std::string& name,
                                    std::vector<std::string>* notes) {
  const auto at = [&](const std::string& place) { return place.empty() ? name : name + ", " + place; };
  if (text.size() > largest_project)
    return fail(ProblemKind::range,
                worded("the file has {} bytes; a project has at most {}", text.size(), largest_project), name,
                "Check that this is a project");
  Json doc;
  std::vector<std::set<std::string>> names(1);  // of the groups that are open: RFC 8259, names should be unique
  std::string twice;
  try {
    doc = Json::parse(text, [&](int d, Json::parse_event_t event, Json& value) {
      if (d > 40) throw std::length_error("deep");
      if (event == Json::parse_event_t::object_start) names.emplace_back();
      if (event == Json::parse_event_t::object_end && names.size() > 1) names.pop_back();
      if (event == Json::parse_event_t::key && !names.back().insert(value.get<std::string>()).second && twice.empty())
        twice = value.get<std::string>();
      // Names are looked for one after another: a group of very many would take for ever.
      if (names.back().size() > most_names) throw std::length_error("wide");
      return true;
    });
  } catch (const Json::parse_error& e) {
    const bool cut = e.byte >= text.size();
    return fail(ProblemKind::format,
                cut ? "the file ends in the middle: it was cut short" : "this is not a whole JSON document",
                at(fmt::format("line {}", line_of(text, e.byte))),
                "Open the autosave or an earlier copy; nothing was changed");
  } catch (const std::length_error& e) {
    return fail(ProblemKind::format,
                std::string_view(e.what()) == "wide" ? fmt::format("a group has more than {} names", most_names)
                                                     : "groups are nested more than 40 deep",
                name, "Check that this is a project");
  } catch (const Json::exception&) {
    return fail(ProblemKind::format, "a number or text in the file cannot be read", name,
                "Open an earlier copy; nothing was changed");
  }
  if (!twice.empty())
    return fail(ProblemKind::format, worded("'{}' stands twice in the same group of the file", twice), name,
                "Take one of them out, or open an earlier copy; nothing was changed");
  if (!doc.is_object() || !doc.contains("format") || doc["format"] != "upland-wren-project")
    return fail(ProblemKind::format, "this is not an Upland Wren project", name, "Open a .wren file");
  if (!doc.contains("version") || !doc["version"].is_number_integer())
    return fail(ProblemKind::format, "the project's version is missing", at("/version"), "Open an earlier copy");
  const auto version = doc["version"].get<std::int64_t>();
  if (version > project_version)
    return fail(ProblemKind::version,
                worded("the project was saved by a newer version of this program (format {}, this one knows {})",
                       version, project_version),
                at("/version"), "Update the program; the file was not touched");
  if (version < 1)
    return fail(ProblemKind::version, worded("format {} was never released", version), at("/version"),
                "Open a copy with format 1");

  migrate(doc, version);

  Project project;
  if (auto bad = read_fields(book.shop(), doc, "", at, project)) return tl::unexpected(*bad);
  const auto problem_at = [&](Problem problem) {
    problem.where = at(problem.where);
    return tl::unexpected(problem);
  };
  const auto say = [&](std::string sentence) {
    if (notes != nullptr) notes->push_back(std::move(sentence));
  };
  const Json none = Json::object();
  const Json& groups = doc.contains("parts") ? doc["parts"] : none;
  if (!groups.is_object())
    return fail(ProblemKind::format, "a group is expected for the parts", at("/parts"),
                "Correct it, or open an earlier copy");
  for (const PartTable& part : book.parts()) {
    if (part.fields.empty()) continue;
    const std::string where = "/parts/" + part.id;
    if (!groups.contains(part.id)) {
      if (version == project_version)
        say(worded("The file has no numbers for the part '{}': it begins with the usual ones.", part.title));
      continue;
    }
    if (auto bad = read_fields(part.fields, groups[part.id], where, at, project)) return tl::unexpected(*bad);
    if (part.read_more != nullptr)
      if (auto bad = part.read_more(groups[part.id], where, project)) return problem_at(*bad);
  }
  for (auto it = groups.begin(); it != groups.end(); ++it)
    if (book.part(it.key()) == nullptr)
      say(worded(
          "This version does not know the part '{}': its numbers are kept as they are, and nothing is made of them.",
          it.key()));
  if (doc.contains("measures")) {
    auto measures = measures_from_json(doc["measures"]);
    if (!measures) return problem_at(measures.error());
    project.record.measured = std::move(*measures);
  }
  if (doc.contains("rack")) {
    auto rack = rack_from_json(doc["rack"]);
    if (!rack) return problem_at(rack.error());
    project.rack = *rack;
  }
  if (doc.contains("materials")) {
    auto materials = materials_from_json(doc["materials"]);
    if (!materials) return problem_at(materials.error());
    project.materials = std::move(*materials);
  }
  if (doc.contains("pictures")) {
    auto pictures = pictures_from_json(doc["pictures"]);
    if (!pictures) return problem_at(pictures.error());
    project.pictures = std::move(*pictures);
  }
  if (doc.contains("facts"))
    if (auto bad = facts_from_json(doc["facts"], project.record)) return problem_at(*bad);
  // Keep what is not known: everything in the file that a project written now would not have.
  doc["version"] = project_version;
  // In the order of their names, so that a file and what is written of it keep the same.
  if (const Json left = left_over_keys(doc, to_document(book, project)); !left.empty())
    project.unknown = nlohmann::json::parse(left.dump()).dump();
  return project;
}

Expected<Project> load_project(const FieldBook& book, const std::filesystem::path& path,
                               std::vector<std::string>* notes) {
  auto text = read_file(path, largest_project);
  if (!text) return tl::unexpected(text.error());
  return project_from_json(book, *text, path.filename().string(), notes);
}

Expected<void> save_project(const FieldBook& book, const std::filesystem::path& path, const Project& project,
                            std::vector<std::string>* notes) {
  const std::string text = project_to_json(book, project);
  // What is written must come back as it is; else the old file stays.
  const auto back = project_from_json(book, text, path.filename().string());
  if (!back || !(*back == project) || project_to_json(book, *back) != text)
    return fail(ProblemKind::range,
                "a number of this project would not come back as it is" + (back ? "" : ": " + back.error().what),
                back ? path.string() : back.error().where, "Nothing was changed; correct the number and save again");
  // A file of an older format, and one that nobody can read any more, is kept beside.
  if (const auto old = read_file(path, 4 * largest_project)) {
    const Json doc = Json::parse(*old, nullptr, false);
    const bool present = doc.is_object() && doc.contains("version") && doc["version"].is_number_integer() &&
                         doc["version"].get<std::int64_t>() >= project_version;
    if (!present)
      if (auto kept = write_file_atomically(behind_links(path).string() + ".bak", *old); !kept) return kept;
  }
  return write_file_atomically(path, text, notes);
}

std::optional<Problem> would_not_come_back(const FieldBook& book, const Project& p, const Project* before) {
  constexpr std::size_t large = largest_project / 4;
  const auto here = [](const std::string& place) { return place; };
  const auto lost = [](const std::string& what, const std::string& where) {
    return Problem{ProblemKind::range, what + " would not come back from a file as it is", where,
                   "Write it with letters and numbers that can be saved"};
  };
  /// Through text and back: what is no UTF-8, and what is no finite number, does not survive that.
  std::size_t bytes = 0;
  const auto through = [&](const Json& j) {
    const std::string text = j.dump(1, ' ', false, Json::error_handler_t::replace);
    bytes += text.size();
    return Json::parse(text, nullptr, false);
  };
  Project back;
  {
    Json shop;
    put_fields(shop, book.shop(), p);
    if (auto bad = read_fields(book.shop(), through(shop), "", here, back)) return bad;
    if (p.name != back.name || p.notes != back.notes) return lost("The name or the notes", "project.name");
    if (!(p.machine == back.machine && p.programs == back.programs)) return lost("The machine", "machine.name");
  }
  for (const PartTable& part : book.parts()) {
    if (part.fields.empty() || (before != nullptr && p.parts.same(before->parts, part.id))) continue;
    Json doc;
    put_part(doc, part, p);
    const Json group = through(doc["parts"][part.id]);
    const std::string where = "/parts/" + part.id;
    if (auto bad = read_fields(part.fields, group, where, here, back)) return bad;
    if (part.read_more != nullptr)
      if (auto bad = part.read_more(group, where, back)) return bad;
    if (!p.parts.same(back.parts, part.id)) return lost("A number or text of the part '" + part.title + "'", where);
  }
  if (before == nullptr || !(p.pictures == before->pictures)) {
    const auto pictures = pictures_from_json(through(pictures_to_json(p.pictures)));
    if (!pictures) return pictures.error();
    if (!(*pictures == p.pictures)) return lost("A picture's place or name", "/pictures");
  }
  if (before == nullptr || !(p.rack == before->rack)) {
    const auto rack = rack_from_json(through(rack_to_json(p.rack)));
    if (!rack) return rack.error();
    if (!(*rack == p.rack)) return lost("The rack", "/rack");
  }
  if (before == nullptr || !(p.materials == before->materials)) {
    const auto materials = materials_from_json(through(materials_to_json(p.materials, {})));
    if (!materials) return materials.error();
    if (!(*materials == p.materials)) return lost("A material", "/materials");
  }
  if (before == nullptr || !(p.record == before->record)) {
    const auto measures = measures_from_json(through(measures_to_json(p.record.measured)));
    if (!measures) return measures.error();
    back.record.measured = *measures;
    if (auto bad = facts_from_json(through(facts_to_json(p.record)), back.record)) return bad;
    if (!(back.record == p.record)) return lost("What was measured or made", "/measures");
  }
  if (before == nullptr || bytes > large)
    if (const std::size_t all = project_to_json(book, p).size(); all > largest_project)
      return Problem{ProblemKind::range,
                     worded("the project would have {} bytes; a file holds {}", all, largest_project), "",
                     "Draw it with fewer nodes, or take a cavity out"};
  return {};
}

}  // namespace wren
