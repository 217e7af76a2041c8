// Makers of fields: one short call for each kind of number in the tables.
#pragma once

#include "core/document/field.hpp"

namespace wren {

template <class At>
[[nodiscard]] Field length_field(std::string key, std::string label, At at, double low, double high, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::length, "mm", low, high, {}, false, false, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return at(p); }, [at](Project& p, const FieldValue& v) { at(p) = std::get<double>(v); }};
}

template <class At>
[[nodiscard]] Field number_field(std::string key, std::string label, At at, std::string unit, double low, double high, std::string reason) {
  Field f = length_field(std::move(key), std::move(label), at, low, high, std::move(reason));
  f.kind = FieldKind::number;
  f.unit = std::move(unit);
  return f;
}

template <class At>
[[nodiscard]] Field count_field(std::string key, std::string label, At at, double low, double high, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::count, "", low, high, {}, false, false, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return static_cast<long>(at(p)); }, [at](Project& p, const FieldValue& v) { at(p) = static_cast<int>(std::get<long>(v)); }};
}

template <class At>
[[nodiscard]] Field flag_field(std::string key, std::string label, At at, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::flag, "", 0, 1, {}, false, false, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return static_cast<bool>(at(p)); }, [at](Project& p, const FieldValue& v) { at(p) = std::get<bool>(v); }};
}

/// Choices stand in the order of the enumeration's values.
template <class At>
[[nodiscard]] Field choice_field(std::string key, std::string label, At at, std::vector<std::string> names, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::choice, "", 0, 0, names, false, false, false, std::move(reason),
          [at, names](const Project& p) -> FieldValue { return names[static_cast<std::size_t>(at(p))]; },
          [at, names](Project& p, const FieldValue& v) {
            for (std::size_t i = 0; i < names.size(); ++i)
              if (names[i] == std::get<std::string>(v)) at(p) = static_cast<std::remove_reference_t<decltype(at(p))>>(i);
          }};
}

template <class At>
[[nodiscard]] Field text_field(std::string key, std::string label, At at, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::text, "", 0, 0, {}, false, false, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return at(p); }, [at](Project& p, const FieldValue& v) { at(p) = std::get<std::string>(v); }};
}

template <class At>
[[nodiscard]] Field numbers_field(std::string key, std::string label, At at, std::string unit, double low, double high, std::string reason) {
  return {std::move(key), std::move(label), FieldKind::numbers, std::move(unit), low, high, {}, false, false, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return std::vector<double>(at(p).begin(), at(p).end()); },
          [at](Project& p, const FieldValue& v) {
            using List = std::remove_reference_t<decltype(at(p))>;
            const auto& numbers = std::get<std::vector<double>>(v);
            List list;
            for (const double n : numbers) list.push_back(static_cast<typename List::value_type>(n));
            at(p) = list;
          }};
}

template <class At>
[[nodiscard]] Field measured_field(std::string key, std::string label, At at, double low, double high, std::string reason) {
  Field f{std::move(key), std::move(label), FieldKind::length, "mm", low, high, {}, true, true, false, std::move(reason),
          [at](const Project& p) -> FieldValue { return at(p) ? FieldValue(*at(p)) : FieldValue(); },
          [at](Project& p, const FieldValue& v) {
            if (const double* d = std::get_if<double>(&v)) at(p) = *d;
            else at(p).reset();
          }};
  return f;
}

/// Clamps as text: name x0 y0 x1 y1 height; more after a semicolon; none.
[[nodiscard]] std::string clamps_text(const std::vector<Clamp>& clamps);
/// Precondition: accepted by check_value.
[[nodiscard]] std::vector<Clamp> clamps_from(const std::string& text);

template <class At>
[[nodiscard]] Field clamps_field(std::string key, At at) {
  return {std::move(key), "Clamps", FieldKind::text, "", 0, 0, {}, false, false, false, "name x0 y0 x1 y1 height, from the blank's lower-left corner; more after a semicolon; none",
          [at](const Project& p) -> FieldValue { return clamps_text(at(p)); }, [at](Project& p, const FieldValue& v) { at(p) = clamps_from(std::get<std::string>(v)); }};
}

/// The neck's part of the table.
void neck_fields(std::vector<Field>& fields);

}  // namespace wren
