#include "core/document/edits.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace wren {

Expected<Project> with_edits(const FieldBook& book, const Project& project,
                             const std::vector<std::pair<std::string, std::string>>& edits, UnitSystem system) {
  Project out = project;
  for (const auto& [key, text] : edits) {
    const auto field = book.find(out, key);
    if (!field)
      return fail(ProblemKind::input, worded("there is no number called '{}' that can be set", key), key,
                  "List them with: wren get FILE");
    auto value = parse_field(*field, text, system);
    if (!value) return tl::unexpected(value.error());
    if (field->contradicts)
      if (auto bad = field->contradicts(out, *value)) return tl::unexpected(*bad);
    field->put(out, *value);
  }
  if (auto bad = would_not_come_back(book, out, &project)) return tl::unexpected(*bad);
  return out;
}

std::vector<Difference> differences(const FieldBook& book, const Project& here, const Project& there) {
  std::vector<Difference> out;
  const auto compare = [&](const Field& f) {
    if (f.alias) return;
    const FieldValue a = f.get(here);
    const FieldValue b = f.get(there);
    if (!(a == b)) out.push_back({f.key, f.label, field_text(f, a), field_text(f, b)});
  };
  for (const Field& f : book.shop()) compare(f);
  for (const PartTable& part : book.parts()) {
    if (here.parts.same(there.parts, part.id)) continue;
    const std::size_t before = out.size();
    for (const Field& f : part.fields) compare(f);
    if (out.size() == before) out.push_back({part.id, part.title, "(a drawing)", "(another drawing)"});
  }
  if (!(here.rack == there.rack)) {
    const std::size_t before = out.size();
    for (const Field& f : rack_fields(here.rack)) {
      const auto other = book.find(there, f.key);
      const FieldValue a = f.get(here);
      if (!other)
        out.push_back({f.key, f.label, field_text(f, a), "(no such cutter)"});
      else if (const FieldValue b = other->get(there); !(a == b))
        out.push_back({f.key, f.label, field_text(f, a), field_text(f, b)});
    }
    if (out.size() == before) out.push_back({"rack", "Cutter rack", "(a rack)", "(another rack)"});
  }
  for (const Field& f : material_fields(here.materials))
    if (const auto other = book.find(there, f.key); !other)
      out.push_back({f.key, f.label, field_text(f, f.get(here)), "(not among its own)"});
    else if (const FieldValue a = f.get(here), b = other->get(there); !(a == b))
      out.push_back({f.key, f.label, field_text(f, a), field_text(f, b)});
  for (const Material& m : there.materials)
    if (std::none_of(here.materials.begin(), here.materials.end(), [&](const Material& o) { return o.name == m.name; }))
      out.push_back({"material." + m.name, m.name, "(not among its own)", "(a material)"});
  if (!(here.record == there.record))
    out.push_back({"record", "What was measured and made",
                   worded("{} measures, {} facts", here.record.measured.size(), here.record.facts.size()),
                   worded("{} measures, {} facts", there.record.measured.size(), there.record.facts.size())});
  return out;
}

}  // namespace wren
