#include "core/job/ledger.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/job/follow.hpp"

namespace wren {
namespace {

LedgerLine given(const Project& p, const Field& f) {
  LedgerLine line{f.key, f.label, f.get(p), f.kind, f.unit, Origin::given, f.reason, true, "", f.offers};
  const bool known = !std::holds_alternative<std::monostate>(line.value);
  const bool of_blank = f.kind == FieldKind::length && f.key.find(".blank.") != std::string::npos;
  if ((f.measured && known) || of_blank) line.origin = Origin::measured;
  if (!f.at_hand.empty()) line.origin = measured_at_hand(p, f) ? Origin::measured : Origin::listed;
  if (f.key.starts_with("measured."))
    if (const Measured* m = measured_in_use(p.record.measured, f.key.substr(9)))
      line.reason = worded("{}{}{}{}; stands in for the designed number", m->instrument,
                           m->date.empty() ? "" : ", " + m->date, m->note.empty() ? "" : ": ", m->note);
  return line;
}

}  // namespace

const char* origin_name(Origin origin) {
  const char* const names[] = {"given", "derived", "measured", "listed"};
  return names[static_cast<int>(origin)];
}

bool measured_at_hand(const Project& project, const Field& field) {
  const Fact* said = happened(project.record, field.at_hand, {}).fact;
  if (said == nullptr) return false;
  // Another piece chosen, or a size typed anew: that one was not measured when the hand said so.
  const auto then = project.record.numbers.find(said->fingerprint);
  if (then == project.record.numbers.end()) return true;
  const auto was = then->second.find(field.key);
  return was == then->second.end() || was->second == field_text(field, field.get(project));
}

std::vector<std::string> not_measured_at_hand(const Project& project, const std::vector<Field>& fields) {
  std::vector<std::string> out;
  for (const Field& f : fields)
    if (!f.at_hand.empty() && std::find(out.begin(), out.end(), f.at_hand) == out.end() &&
        !measured_at_hand(project, f))
      out.push_back(f.at_hand);
  return out;
}

Words hangs_on(const Project& project, const std::vector<Field>& fields, const std::string& line, const char* what) {
  const auto open = not_measured_at_hand(project, fields);
  return std::find(open.begin(), open.end(), line) == open.end()
             ? Words()
             : worded("; hangs on sizes of {} that nobody has measured yet", Words(what));
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

std::string ledger_text(const LedgerLine& line, const Audience& audience) {
  Field field;
  field.kind = line.kind;
  field.unit = line.unit;
  if (const double* v = std::get_if<double>(&line.value)) {
    return line.unit == "mm"
               ? with_point(format_length(*v, audience.units), audience.point)
               : with_point(format_mm(*v, 3), audience.point) + (line.unit.empty() ? "" : " " + line.unit);
  }
  const std::string text = field_text(field, line.value, audience.units);
  const bool bare = line.unit.empty() || text == "none";
  return bare ? text : text + " " + (line.unit == "mm" && audience.units == UnitSystem::inch ? "in" : line.unit);
}

}  // namespace wren
