#include "core/document/field_makers.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr std::size_t longest_text = 2000;
constexpr std::size_t longest_list = 64;

std::string joined(const std::vector<std::string>& words) {
  std::string out;
  for (const auto& w : words) out += (out.empty() ? "" : ", ") + w;
  return out;
}

Problem wrong(const std::string& where, Words what, Words todo) {
  return {ProblemKind::range, std::move(what), where, std::move(todo)};
}

std::optional<Problem> check_number(const Field& field, double v, const std::string& where) {
  const std::string unit = field.unit.empty() ? "" : " " + field.unit;
  if (std::isfinite(v) && v >= field.low - 1e-9 && v <= field.high + 1e-9) return {};
  return wrong(where, worded("{}: {:.7g}{} is outside {} to {}{}", field.label, v, unit, field.low, field.high, unit),
               worded("Give {} to {}{}", field.low, field.high, unit));
}

}  // namespace

std::string clamps_text(const std::vector<Clamp>& clamps) {
  std::string text;
  for (const Clamp& c : clamps)
    text += (text.empty() ? "" : "; ") +
            fmt::format("{} {} {} {} {} {}", c.name, c.low.x, c.low.y, c.high.x, c.high.y, c.height);
  return text.empty() ? "none" : text;
}

std::optional<Problem> check_clamps(const std::string& text) {
  if (text == "none" || text.empty()) return {};
  std::istringstream all(text);
  int count = 0;
  for (std::string one; std::getline(all, one, ';');) {
    std::istringstream in(one);
    std::vector<std::string> words;
    for (std::string w; in >> w;) words.push_back(w);
    if (words.empty()) continue;
    if (++count > 40) return wrong("", "more than 40 clamps", "Leave some out");
    std::vector<double> v;
    if (words.size() >= 6)
      for (std::size_t i = words.size() - 5; i < words.size(); ++i)
        if (const auto n = parse_number(words[i]); n && std::abs(*n) < 1e5) v.push_back(*n);
    if (v.size() != 5)
      return wrong("", fmt::format("the clamp '{}' is not understood", one), "Write: name x0 y0 x1 y1 height");
    if (!(v[0] < v[2] && v[1] < v[3] && v[4] > 0))
      return wrong("", fmt::format("the clamp '{}' has no size", one), "Give x0 < x1, y0 < y1 and a height");
  }
  return {};
}

std::vector<Clamp> clamps_from(const std::string& text) {
  std::vector<Clamp> out;
  std::istringstream all(text);
  for (std::string one; std::getline(all, one, ';');) {
    std::istringstream in(one);
    std::vector<std::string> words;
    for (std::string w; in >> w;) words.push_back(w);
    if (words.size() < 6) continue;
    Clamp c;
    double* number[] = {&c.low.x, &c.low.y, &c.high.x, &c.high.y, &c.height};
    for (std::size_t i = 0; i < 5; ++i) *number[i] = parse_number(words[words.size() - 5 + i]).value_or(0);
    for (std::size_t i = 0; i + 5 < words.size(); ++i) c.name += (i > 0 ? " " : "") + words[i];
    out.push_back(c);
  }
  return out;
}

Field measure_field(const char* of, const Words& label, double low, double high) {
  const std::string key = of;
  return {"measured." + key,
          worded("{}, measured", label),
          FieldKind::length,
          "mm",
          low,
          high,
          {},
          true,
          true,
          true,
          "takes the designed number's place for what depends on it",
          [key](const Project& p) -> FieldValue {
            const Measured* m = measured_in_use(p.record.measured, key);
            return m != nullptr ? FieldValue(m->value) : FieldValue();
          },
          [key](Project& p, const FieldValue& v) {
            if (const double* d = std::get_if<double>(&v)) {
              p.record.measured.push_back({key, *d, "", "calipers", "", true});
              if (p.record.measured.size() > most_measured) p.record.measured.erase(p.record.measured.begin());
            } else {
              for (Measured& m : p.record.measured)
                if (m.key == key) m.in_use = false;
            }
          }};
}

FieldBook::FieldBook(std::vector<PartTable> parts) : parts_(std::move(parts)), shop_(shop_fields()) {}

const PartTable* FieldBook::part(const std::string& id) const {
  const auto it = std::find_if(parts_.begin(), parts_.end(), [&](const PartTable& p) { return p.id == id; });
  return it != parts_.end() ? &*it : nullptr;
}

const PartTable* FieldBook::part_of_key(const std::string& key) const {
  for (const PartTable& part : parts_)
    if (std::any_of(part.fields.begin(), part.fields.end(), [&](const Field& f) { return f.key == key; })) return &part;
  return nullptr;
}

std::optional<Field> FieldBook::find(const Project& project, const std::string& key) const {
  std::optional<Field> found;
  const auto look = [&](const Field& f) {
    if (!found && f.key == key) found = f;
  };
  each(look);
  if (!found && key.starts_with("rack."))
    for (const Field& f : rack_fields(project.rack)) look(f);
  if (!found && key.starts_with("material."))
    for (const Field& f : material_fields(project.materials)) look(f);
  return found;
}

std::vector<std::string> materials_named(const FieldBook& book, const Project& project,
                                         const std::vector<std::string>& parts) {
  std::set<std::string> out;
  for (const PartTable& part : book.parts()) {
    if (!parts.empty() && std::find(parts.begin(), parts.end(), part.id) == parts.end()) continue;
    for (const Field& f : part.fields)
      if (f.materials)
        for (std::string& name : f.materials(project)) out.insert(std::move(name));
  }
  return {out.begin(), out.end()};
}

Materials own_materials_of(const FieldBook& book, const Project& project, const std::vector<std::string>& parts) {
  Materials out;
  if (project.materials.empty()) return out;
  for (const std::string& name : materials_named(book, project, parts))
    for (const Material& m : project.materials)
      if (m.name == name) out.push_back(m);
  return out;
}

std::optional<Problem> check_value(const Field& field, const FieldValue& value, const std::string& where) {
  const auto kind_wrong = [&](const char* wanted) {
    return wrong(where, worded("{} is expected for {}", wanted, field.label), "Correct the value");
  };
  if (std::holds_alternative<std::monostate>(value)) {
    if (field.optional) return {};
    return wrong(where, worded("{} is missing", field.label), "Give a value");
  }
  switch (field.kind) {
    case FieldKind::length:
    case FieldKind::number:
      if (const double* v = std::get_if<double>(&value)) return check_number(field, *v, where);
      return kind_wrong("a number");
    case FieldKind::count:
      if (const long* v = std::get_if<long>(&value)) return check_number(field, static_cast<double>(*v), where);
      return kind_wrong("a whole number");
    case FieldKind::flag:
      if (std::holds_alternative<bool>(value)) return {};
      return kind_wrong("yes or no");
    case FieldKind::choice:
      if (const auto* v = std::get_if<std::string>(&value)) {
        if (std::find(field.choices.begin(), field.choices.end(), *v) != field.choices.end()) return {};
        return wrong(where, worded("'{}' is no choice for {}", v->substr(0, 40), field.label),
                     "Choose " + joined(field.choices));
      }
      return kind_wrong("a choice");
    case FieldKind::text:
      if (const auto* v = std::get_if<std::string>(&value)) {
        if (v->size() > longest_text)
          return wrong(where, fmt::format("the text is longer than {} characters", longest_text), "Shorten it");
        if (field.check)
          if (auto bad = field.check(*v)) {
            bad->where = where;
            return bad;
          }
        return {};
      }
      return kind_wrong("a text");
    case FieldKind::numbers:
      if (const auto* v = std::get_if<std::vector<double>>(&value)) {
        if (v->size() > longest_list)
          return wrong(where, fmt::format("a list of {} numbers", v->size()), worded("Give at most {}", longest_list));
        for (std::size_t i = 0; i < v->size(); ++i)
          if (auto bad = check_number(field, (*v)[i], fmt::format("{}[{}]", where, i))) return bad;
        return {};
      }
      return kind_wrong("a list of numbers");
  }
  return {};
}

Expected<FieldValue> parse_field(const Field& field, const std::string& text, UnitSystem system) {
  const auto trimmed = [&] {
    const auto a = text.find_first_not_of(" \t");
    return a == std::string::npos ? std::string() : text.substr(a, text.find_last_not_of(" \t") - a + 1);
  }();
  FieldValue value;
  const auto at_key = [&](Problem p) {
    p.where = field.key + (p.where.empty() ? "" : ", " + p.where);
    return tl::unexpected(p);
  };
  if (field.optional && (trimmed.empty() || trimmed == "none")) return FieldValue();
  switch (field.kind) {
    case FieldKind::length: {
      const auto v = parse_length(trimmed, system);
      if (!v) return at_key(v.error());
      value = *v;
      break;
    }
    case FieldKind::number: {
      const auto v = parse_number(trimmed);
      if (!v) return at_key(v.error());
      value = *v;
      break;
    }
    case FieldKind::count: {
      const auto v = parse_count(trimmed);
      if (!v) return at_key(v.error());
      value = *v;
      break;
    }
    case FieldKind::flag:
      if (trimmed == "yes" || trimmed == "true" || trimmed == "on" || trimmed == "1")
        value = true;
      else if (trimmed == "no" || trimmed == "false" || trimmed == "off" || trimmed == "0")
        value = false;
      else
        return at_key(
            {ProblemKind::input, worded("'{}' is neither yes nor no", trimmed.substr(0, 40)), "", "Write yes or no"});
      break;
    case FieldKind::choice:
    case FieldKind::text: value = trimmed; break;
    case FieldKind::numbers: {
      std::vector<double> list;
      if (trimmed != "none") {
        std::string word;
        std::istringstream in(trimmed);
        while (in >> word) {
          if (word.back() == ';' || word.back() == ',') word.pop_back();
          if (word.empty()) continue;
          const auto v = field.unit == "mm" ? parse_length(word, system) : parse_number(word);
          if (!v) return at_key(v.error());
          list.push_back(*v);
          if (list.size() > longest_list) break;
        }
      }
      value = list;
      break;
    }
  }
  if (auto bad = check_value(field, value, field.key)) return tl::unexpected(*bad);
  return value;
}

std::string field_text(const Field& field, const FieldValue& value, UnitSystem system) {
  const auto one = [&](double v) {
    if (field.unit != "mm") return format_mm(v, 6);
    return system == UnitSystem::inch ? format_inch(v) : format_mm(v, 4);
  };
  if (const double* v = std::get_if<double>(&value)) return one(*v);
  if (const long* v = std::get_if<long>(&value)) return fmt::format("{}", *v);
  if (const bool* v = std::get_if<bool>(&value)) return *v ? "yes" : "no";
  if (const auto* v = std::get_if<std::string>(&value)) return *v;
  if (const auto* v = std::get_if<std::vector<double>>(&value)) {
    std::string out;
    for (const double d : *v)
      out += (out.empty() ? "" : " ") +
             (system == UnitSystem::inch && field.unit == "mm" ? format_mm(d / mm_per_inch, 4) : one(d));
    return out.empty() ? "none" : out;
  }
  return "none";
}

}  // namespace wren
