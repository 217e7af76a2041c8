#include "core/job/ledger.hpp"

#include <fmt/format.h>

namespace wren {
namespace {

LedgerLine given(const Project& p, const Field& f) {
  LedgerLine line{f.key, f.label, f.get(p), f.kind, f.unit, Origin::given, f.reason, true, "", f.offers};
  const bool known = !std::holds_alternative<std::monostate>(line.value);
  const bool of_blank = f.kind == FieldKind::length && f.key.find(".blank.") != std::string::npos;
  if ((f.measured && known) || of_blank) line.origin = Origin::measured;
  if (f.key.starts_with("measured."))
    if (const Measured* m = measured_in_use(p.record.measured, f.key.substr(9)))
      line.reason = fmt::format("{}{}{}{}; stands in for the designed number", m->instrument,
                                m->date.empty() ? "" : ", " + m->date, m->note.empty() ? "" : ": ", m->note);
  return line;
}

}  // namespace

const char* origin_name(Origin origin) {
  const char* const names[] = {"given", "derived", "measured"};
  return names[static_cast<int>(origin)];
}

std::vector<LedgerLine> given_numbers(const FieldBook& book, const Project& project) {
  std::vector<LedgerLine> out;
  book.each([&](const Field& f) { out.push_back(given(project, f)); });
  for (const Field& f : rack_fields(project.rack)) out.push_back(given(project, f));
  std::string used;
  for (const std::string& name : materials_named(book, project)) used += (used.empty() ? "" : ", ") + name;
  out.push_back({"material.used", "Materials in use", used, FieldKind::text, "", Origin::derived,
                 "of your own: Work, Materials", false, "", Offers::nothing});
  for (const Field& f : material_fields(project.materials)) out.push_back(given(project, f));
  return out;
}

std::string ledger_text(const LedgerLine& line, UnitSystem system) {
  Field field;
  field.kind = line.kind;
  field.unit = line.unit;
  if (const double* v = std::get_if<double>(&line.value))
    return line.unit == "mm" ? format_length(*v, system)
                             : format_mm(*v, 3) + (line.unit.empty() ? "" : " " + line.unit);
  const std::string text = field_text(field, line.value, system);
  const bool bare = line.unit.empty() || text == "none";
  return bare ? text : text + " " + (line.unit == "mm" && system == UnitSystem::inch ? "in" : line.unit);
}

}  // namespace wren
