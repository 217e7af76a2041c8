#include "core/document/project_file.hpp"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/body_json.hpp"
#include "core/document/field.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;

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
                fmt::format("{} is expected for {}, not {}", what, field.label,
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
          return fail(ProblemKind::range, fmt::format("a list of {} entries", j.size()), where, "Shorten it");
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

const char* const cutter_kinds[] = {"flat", "ball", "round_nose", "slot", "drill", "facing", "round_over"};

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
           {"modulus_gpa", c.modulus_gpa}};
    if (c.measured) j["measured"] = *c.measured;
    if (c.kind == CutterKind::round_nose || c.kind == CutterKind::round_over) j["corner_radius"] = c.corner_radius;
    if (c.kind == CutterKind::drill) j["point_angle_deg"] = c.point_angle_deg;
    out.push_back(j);
  }
  return out;
}

/// Reads one member of an object: a number within limits; keeps the present value when it is missing.
std::optional<Problem> number_member(const Json& j, const char* name, double low, double high, const std::string& where,
                                     double& out) {
  const auto it = j.find(name);
  if (it == j.end()) return {};
  if (!it->is_number() || !(it->get<double>() >= low && it->get<double>() <= high))
    return Problem{ProblemKind::range, fmt::format("'{}' is not a number from {} to {}", name, low, high),
                   where + "/" + name, "Correct it"};
  out = it->get<double>();
  return {};
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
      return fail(ProblemKind::format, fmt::format("the cutter '{}' stands twice in the rack", c.id), where,
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
                            {"modulus_gpa", 10, 2000, &c.modulus_gpa}})
      if (auto bad = number_member(e, m.name, m.low, m.high, where, *m.to)) return tl::unexpected(*bad);
    c.number = static_cast<int>(number);
    c.flutes = static_cast<int>(flutes);
    if (measured > 0) c.measured = measured;
    if (auto bad = check_cutter(c); !bad.empty())
      return fail(ProblemKind::range, bad.front().what, where, bad.front().todo);
    rack.push_back(c);
  }
  return rack;
}

Json written_to_json(const Project& p) {
  Json out = Json::array();
  for (const auto& w : p.written)
    out.push_back({{"kind", w.kind}, {"date", w.date}, {"path", w.path}, {"fingerprint", w.fingerprint}});
  return out;
}

Json points_to_json(const std::vector<Vec2>& points) {
  Json out = Json::array();
  for (const Vec2 p : points) out.push_back({p.x, p.y});
  return out;
}

Expected<std::vector<Vec2>> points_from_json(const Json& j, const std::string& where, std::size_t most, double reach) {
  if (!j.is_array() || j.size() > most)
    return fail(ProblemKind::range, fmt::format("this is not a list of at most {} points", most), where, "Shorten it");
  std::vector<Vec2> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& p = j[i];
    if (!p.is_array() || p.size() != 2 || !p[0].is_number() || !p[1].is_number() ||
        !(std::abs(p[0].get<double>()) < reach) || !(std::abs(p[1].get<double>()) < reach))
      return fail(ProblemKind::format, fmt::format("a point is not two numbers under {} mm", reach),
                  fmt::format("{}/{}", where, i), "Correct it");
    out.push_back({p[0].get<double>(), p[1].get<double>()});
  }
  return out;
}

Json sections_to_json(const std::vector<BackSection>& sections) {
  Json out = Json::array();
  for (const BackSection& s : sections) out.push_back({{"x", s.x}, {"points", points_to_json(s.points)}});
  return out;
}

Expected<std::vector<BackSection>> sections_from_json(const Json& j) {
  constexpr std::size_t most_sections_in_file = 400;
  if (!j.is_array() || j.size() > most_sections_in_file)
    return fail(ProblemKind::range, fmt::format("this is not a list of at most {} sections", most_sections_in_file),
                "/neck/sections", "Shorten it");
  std::vector<BackSection> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const std::string where = fmt::format("/neck/sections/{}", i);
    const Json& e = j[i];
    if (!e.is_object() || !e.contains("x") || !e["x"].is_number() || !(std::abs(e["x"].get<double>()) < 5000) ||
        !e.contains("points"))
      return fail(ProblemKind::format, "a section has no place x or no points", where, "Correct it");
    auto points = points_from_json(e["points"], where + "/points", 20'000, 1000);
    if (!points) return tl::unexpected(points.error());
    out.push_back({e["x"].get<double>(), std::move(*points)});
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
    return fail(ProblemKind::range, fmt::format("this is not a list of at most {} measures", most_measured),
                "/measures", "Shorten it");
  std::vector<Measured> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& e = j[i];
    const auto text = [&](const char* name) {
      return e.contains(name) && e[name].is_string() ? e[name].get<std::string>().substr(0, 400) : std::string();
    };
    if (!e.is_object() || !e.contains("of") || !e["of"].is_string() || !e.contains("value") ||
        !e["value"].is_number() || !(std::abs(e["value"].get<double>()) < 1e5))
      return fail(ProblemKind::format, "a measure does not say what it is of, or its value",
                  fmt::format("/measures/{}", i), "Correct it");
    out.push_back({text("of"), e["value"].get<double>(), text("date"), text("with"), text("note"),
                   !e.contains("in_use") || !e["in_use"].is_boolean() || e["in_use"].get<bool>()});
  }
  return out;
}

std::size_t line_of(std::string_view text, std::size_t byte) {
  return 1 + static_cast<std::size_t>(std::count(
                 text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text.size())), '\n'));
}

std::string system_says() { return std::strerror(errno); }

}  // namespace

std::string project_to_json(const Project& project) {
  Json doc;
  doc["format"] = "upland-wren-project";
  doc["version"] = project_version;
  for (const Field& field : fields()) {
    if (field.alias) continue;
    doc[Json::json_pointer(pointer(field.key))] = to_json(field.get(project));
  }
  doc["marks"]["outline"] = points_to_json(project.instrument.marks.outline);
  doc["neck"]["sections"] = sections_to_json(project.neck.back.sections);
  doc["head"]["drawn"] = points_to_json(project.neck.head.drawn);
  body_to_json(project.body, doc);
  doc["measures"] = measures_to_json(project.measured);
  doc["rack"] = rack_to_json(project.rack);
  doc["written"] = written_to_json(project);
  if (!project.unknown.empty()) {
    // What this version does not know goes back where it stood; what it knows is not overwritten.
    Json merged = Json::parse(project.unknown, nullptr, false);
    if (!merged.is_discarded()) {
      const auto merge = [](const auto& self, Json& into, const Json& from) -> void {
        for (auto it = from.begin(); it != from.end(); ++it) {
          if (!into.contains(it.key()))
            into[it.key()] = it.value();
          else if (into[it.key()].is_object() && it.value().is_object())
            self(self, into[it.key()], it.value());
        }
      };
      merge(merge, doc, merged);
    }
  }
  return doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Expected<Project> project_from_json(std::string_view text, const std::string& name) {
  const auto at = [&](const std::string& place) { return place.empty() ? name : name + ", " + place; };
  if (text.size() > largest_project)
    return fail(ProblemKind::range,
                fmt::format("the file has {} bytes; a project has at most {}", text.size(), largest_project), name,
                "Check that this is a project");
  Json doc;
  int depth = 0;
  try {
    doc = Json::parse(text, [&depth](int d, Json::parse_event_t, Json&) {
      depth = std::max(depth, d);
      if (d > 40) throw std::length_error("deep");
      return true;
    });
  } catch (const Json::parse_error& e) {
    const bool cut = e.byte >= text.size();
    return fail(ProblemKind::format,
                cut ? "the file ends in the middle: it was cut short" : "this is not a whole JSON document",
                at(fmt::format("line {}", line_of(text, e.byte))),
                "Open the autosave or an earlier copy; nothing was changed");
  } catch (const std::length_error&) {
    return fail(ProblemKind::format, "groups are nested more than 40 deep", name, "Check that this is a project");
  } catch (const Json::exception&) {
    return fail(ProblemKind::format, "a number or text in the file cannot be read", name,
                "Open an earlier copy; nothing was changed");
  }
  if (!doc.is_object() || !doc.contains("format") || doc["format"] != "upland-wren-project")
    return fail(ProblemKind::format, "this is not an Upland Wren project", name, "Open a .wren file");
  if (!doc.contains("version") || !doc["version"].is_number_integer())
    return fail(ProblemKind::format, "the project's version is missing", at("/version"), "Open an earlier copy");
  const auto version = doc["version"].get<std::int64_t>();
  if (version > project_version)
    return fail(ProblemKind::version,
                fmt::format("the project was saved by a newer version of this program (format {}, this one knows {})",
                            version, project_version),
                at("/version"), "Update the program; the file was not touched");
  if (version < 1)
    return fail(ProblemKind::version, fmt::format("format {} was never released", version), at("/version"),
                "Open a copy with format 1");

  Project project;
  for (const Field& field : fields()) {
    if (field.alias) continue;
    const Json* j = &doc;
    bool found = true;
    for (const auto& part : parts(field.key)) {
      if (!j->is_object())
        return fail(ProblemKind::format, fmt::format("a group is expected above '{}'", field.key),
                    at(pointer(field.key)), "Correct it, or open an earlier copy");
      const auto it = j->find(part);
      if (it == j->end()) {
        found = false;
        break;
      }
      j = &*it;
    }
    if (!found) continue;  // left at its default
    auto value = from_json(field, *j, at(pointer(field.key)));
    if (!value) return tl::unexpected(value.error());
    field.put(project, *value);
  }
  const auto problem_at = [&](Problem problem) {
    problem.where = at(problem.where);
    return tl::unexpected(problem);
  };
  if (doc.contains("marks") && doc["marks"].contains("outline")) {
    auto points = points_from_json(doc["marks"]["outline"], "/marks/outline", 2000, 200);
    if (!points) return problem_at(points.error());
    project.instrument.marks.outline = std::move(*points);
  }
  if (doc.contains("head") && doc["head"].contains("drawn")) {
    auto points = points_from_json(doc["head"]["drawn"], "/head/drawn", 5000, 2000);
    if (!points) return problem_at(points.error());
    project.neck.head.drawn = std::move(*points);
  }
  if (doc.contains("neck") && doc["neck"].contains("sections")) {
    auto sections = sections_from_json(doc["neck"]["sections"]);
    if (!sections) return problem_at(sections.error());
    project.neck.back.sections = std::move(*sections);
  }
  if (auto bad = body_from_json(doc, project.body)) return problem_at(*bad);
  if (doc.contains("measures")) {
    auto measures = measures_from_json(doc["measures"]);
    if (!measures) return problem_at(measures.error());
    project.measured = std::move(*measures);
  }
  if (doc.contains("rack")) {
    auto rack = rack_from_json(doc["rack"]);
    if (!rack) return problem_at(rack.error());
    project.rack = *rack;
  }
  if (doc.contains("written") && doc["written"].is_array())
    for (const auto& w : doc["written"]) {
      if (!w.is_object() || project.written.size() >= 1000) continue;
      const auto text_of = [&](const char* k) {
        return w.contains(k) && w[k].is_string() ? w[k].get<std::string>() : std::string();
      };
      project.written.push_back({text_of("kind"), text_of("date"), text_of("path"), text_of("fingerprint")});
    }
  // Keep what is not known: everything in the file that a project written now would not have.
  const Json known = Json::parse(project_to_json(project));
  const auto rest = [](const auto& self, const Json& all, const Json& mine) -> Json {
    Json out = Json::object();
    for (auto it = all.begin(); it != all.end(); ++it) {
      if (!mine.contains(it.key()))
        out[it.key()] = it.value();
      else if (it.value().is_object() && mine[it.key()].is_object())
        if (Json inner = self(self, it.value(), mine[it.key()]); !inner.empty()) out[it.key()] = inner;
    }
    return out;
  };
  if (const Json left = rest(rest, doc, known); !left.empty()) project.unknown = left.dump();
  return project;
}

Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most) {
  std::error_code error;
  if (std::filesystem::is_directory(path, error))
    return fail(ProblemKind::file, "this is a folder, not a file", path.string(), "Name a file");
  std::ifstream in(path, std::ios::binary);
  if (!in)
    return fail(ProblemKind::file, "the file cannot be opened: " + system_says(), path.string(),
                "Check its name and your rights");
  std::string text;
  char buffer[1 << 16];
  while (in.read(buffer, sizeof buffer) || in.gcount() > 0) {
    text.append(buffer, static_cast<std::size_t>(in.gcount()));
    if (text.size() > most)
      return fail(ProblemKind::range, fmt::format("the file has more than {} bytes", most), path.string(),
                  "Check that this is the right file");
  }
  if (in.bad())
    return fail(ProblemKind::file, "the file cannot be read to its end: " + system_says(), path.string(),
                "Check the disk");
  return text;
}

Expected<void> write_file_atomically(const std::filesystem::path& path, std::string_view bytes) {
  const std::filesystem::path beside =
      path.parent_path() / fmt::format(".{}.{}.part", path.filename().string(), ::getpid());
  const auto refused = [&](const char* what, int fd) -> Expected<void> {
    const std::string why = system_says();
    if (fd >= 0) ::close(fd);
    ::unlink(beside.c_str());
    return fail(ProblemKind::file, fmt::format("{}: {}", what, why), path.string(),
                "Nothing was changed; choose another folder or make room, then try again");
  };
  const int fd = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (fd < 0) return refused("the file cannot be made", -1);
  std::size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t n = ::write(fd, bytes.data() + done, bytes.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return refused("the file cannot be written", fd);
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(fd) != 0) return refused("the file cannot be brought to disk", fd);
  if (::close(fd) != 0) return refused("the file cannot be closed", -1);
  if (::rename(beside.c_str(), path.c_str()) != 0) return refused("the file cannot be put in its place", -1);
  // The folder's own entry too; a file system that cannot do that has done all it can.
  const std::filesystem::path folder = path.parent_path().empty() ? "." : path.parent_path();
  if (const int dir = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC); dir >= 0) {
    ::fsync(dir);
    ::close(dir);
  }
  return {};
}

Expected<Project> load_project(const std::filesystem::path& path) {
  auto text = read_file(path, largest_project);
  if (!text) return tl::unexpected(text.error());
  return project_from_json(*text, path.filename().string());
}

Expected<void> save_project(const std::filesystem::path& path, const Project& project) {
  return write_file_atomically(path, project_to_json(project));
}

std::filesystem::path autosave_path(const std::filesystem::path& project) {
  return project.parent_path() / fmt::format(".{}.autosave", project.filename().string());
}

std::optional<Project> recoverable(const std::filesystem::path& path) {
  const auto autosave = autosave_path(path);
  std::error_code error;
  if (!std::filesystem::exists(autosave, error)) return {};
  auto kept = load_project(autosave);
  if (!kept) return {};
  if (const auto saved = load_project(path)) {
    if (*saved == *kept) return {};
    if (std::filesystem::last_write_time(autosave, error) < std::filesystem::last_write_time(path, error)) return {};
  }
  return *kept;
}

}  // namespace wren
