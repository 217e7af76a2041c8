// Makers of fields: one short call for each kind of number in the tables.
#pragma once

#include <algorithm>

#include "core/document/field.hpp"
#include "core/workshop/strips.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

template <class At>
[[nodiscard]] Field length_field(std::string key, Words label, At at, double low, double high, Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::length,
          "mm",
          low,
          high,
          {},
          false,
          false,
          false,
          std::move(reason),
          [at](const Project& p) -> FieldValue { return at(p); },
          [at](Project& p, const FieldValue& v) { at(p) = std::get<double>(v); }};
}

template <class At>
[[nodiscard]] Field number_field(std::string key, Words label, At at, std::string unit, double low, double high,
                                 Words reason) {
  Field f = length_field(std::move(key), std::move(label), at, low, high, std::move(reason));
  f.kind = FieldKind::number;
  f.unit = std::move(unit);
  return f;
}

template <class At>
[[nodiscard]] Field count_field(std::string key, Words label, At at, double low, double high, Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::count,
          "",
          low,
          high,
          {},
          false,
          false,
          false,
          std::move(reason),
          [at](const Project& p) -> FieldValue { return static_cast<long>(at(p)); },
          [at](Project& p, const FieldValue& v) { at(p) = static_cast<int>(std::get<long>(v)); }};
}

template <class At>
[[nodiscard]] Field flag_field(std::string key, Words label, At at, Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::flag,
          "",
          0,
          1,
          {},
          false,
          false,
          false,
          std::move(reason),
          [at](const Project& p) -> FieldValue { return static_cast<bool>(at(p)); },
          [at](Project& p, const FieldValue& v) { at(p) = std::get<bool>(v); }};
}

/// Choices stand in the order of the enumeration's values.
template <class At>
[[nodiscard]] Field choice_field(std::string key, Words label, At at, std::vector<std::string> names, Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::choice,
          "",
          0,
          0,
          names,
          false,
          false,
          false,
          std::move(reason),
          [at, names](const Project& p) -> FieldValue { return names[static_cast<std::size_t>(at(p))]; },
          [at, names](Project& p, const FieldValue& v) {
            for (std::size_t i = 0; i < names.size(); ++i)
              if (names[i] == std::get<std::string>(v))
                at(p) = static_cast<std::remove_reference_t<decltype(at(p))>>(i);
          }};
}

template <class At>
[[nodiscard]] Field text_field(std::string key, Words label, At at, Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::text,
          "",
          0,
          0,
          {},
          false,
          false,
          false,
          std::move(reason),
          [at](const Project& p) -> FieldValue {
            static_cast<void>(at);  // what is no text has its own way in and out
            if constexpr (std::is_convertible_v<decltype(at(p)), std::string>) return std::string(at(p));
            return {};
          },
          [at](Project& p, const FieldValue& v) {
            static_cast<void>(at);
            if constexpr (std::is_assignable_v<decltype(at(p)), std::string>) at(p) = std::get<std::string>(v);
          }};
}

/// A cutter of the rack by its identity.
template <class At>
[[nodiscard]] Field cutter_field(std::string key, Words label, At at, Words reason) {
  Field f = text_field(std::move(key), std::move(label), at, std::move(reason));
  f.offers = Offers::cutters;
  return f;
}

/// A material by its name: the project's own, or of the table.
template <class At>
[[nodiscard]] Field wood_field(std::string key, Words label, At at, Words reason) {
  Field f = text_field(std::move(key), std::move(label), at, std::move(reason));
  f.offers = Offers::woods;
  f.materials = [get = f.get](const Project& p) { return std::vector<std::string>{std::get<std::string>(get(p))}; };
  f.contradicts = [](const Project& p, const FieldValue& v) -> std::optional<Problem> {
    if (const auto wood = find_material(p.materials, std::get<std::string>(v)); !wood) return wood.error();
    return {};
  };
  return f;
}

template <class At>
[[nodiscard]] Field numbers_field(std::string key, Words label, At at, std::string unit, double low, double high,
                                  Words reason) {
  return {std::move(key),
          std::move(label),
          FieldKind::numbers,
          std::move(unit),
          low,
          high,
          {},
          false,
          false,
          false,
          std::move(reason),
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
[[nodiscard]] Field measured_field(std::string key, Words label, At at, double low, double high, Words reason) {
  Field f{std::move(key),
          std::move(label),
          FieldKind::length,
          "mm",
          low,
          high,
          {},
          true,
          true,
          false,
          std::move(reason),
          [at](const Project& p) -> FieldValue { return at(p) ? FieldValue(*at(p)) : FieldValue(); },
          [at](Project& p, const FieldValue& v) {
            if (const double* d = std::get_if<double>(&v))
              at(p) = *d;
            else
              at(p).reset();
          }};
  return f;
}

/// A blank glued of strips, as text.
template <class At>
[[nodiscard]] Field strips_field(std::string key, Words label, At at, Words reason) {
  Field f = text_field(key, std::move(label), at, std::move(reason));
  f.get = [at](const Project& p) -> FieldValue { return strips_text(at(p)); };
  f.put = [at, key](Project& p, const FieldValue& v) {
    if (auto stack = strips_from(std::get<std::string>(v), key)) at(p) = std::move(*stack);
  };
  f.check = [key](const std::string& text) -> std::optional<Problem> {
    if (auto stack = strips_from(text, key); !stack) return stack.error();
    return {};
  };
  f.contradicts = [key](const Project& p, const FieldValue& v) -> std::optional<Problem> {
    if (const auto stack = strips_from(std::get<std::string>(v), key))
      for (const Strip& s : stack->strips)
        if (const auto wood = find_material(p.materials, s.wood); !wood) return wood.error();
    return {};
  };
  f.materials = [at](const Project& p) {
    std::vector<std::string> out;
    const StripStack stack = at(p);
    for (const Strip& s : stack.strips) out.push_back(s.wood);
    return out;
  };
  return f;
}

/// Says of these fields that they are sizes of a piece that is bought, which a hand measures on `line`.
/// Precondition: all are there.
inline void sizes_at_hand(std::vector<Field>& f, const std::string& line, const std::vector<std::string>& keys) {
  for (Field& one : f)
    if (std::find(keys.begin(), keys.end(), one.key) != keys.end()) one.at_hand = line;
}

/// Clamps as text: name x0 y0 x1 y1 height; more after a semicolon; none.
[[nodiscard]] std::string clamps_text(const std::vector<Clamp>& clamps);
/// Precondition: accepted by check_value.
[[nodiscard]] std::vector<Clamp> clamps_from(const std::string& text);

[[nodiscard]] std::optional<Problem> check_clamps(const std::string& text);

template <class At>
[[nodiscard]] Field clamps_field(std::string key, At at) {
  Field f = text_field(std::move(key), "Clamps", at,
                       "name x0 y0 x1 y1 height, from the blank's lower-left corner; more after a semicolon; none");
  f.get = [at](const Project& p) -> FieldValue { return clamps_text(at(p)); };
  f.put = [at](Project& p, const FieldValue& v) { at(p) = clamps_from(std::get<std::string>(v)); };
  f.check = check_clamps;
  return f;
}

/// Measures are kept with their history; as a field the latest in use is shown, and a new one is added to the list.
[[nodiscard]] Field measure_field(const char* of, const Words& label, double low, double high);

/// A field with something of its own: another way in, an alias, …
template <class Change>
[[nodiscard]] Field changed(Field f, const Change& change) {
  change(f);
  return f;
}

/// Alignment of a blank that is turned over; keys begin with the prefix.
template <class At>
void alignment_fields(std::vector<Field>& f, const std::string& prefix, At at) {
  const auto of = [at](auto member) {
    return [ at, member ](auto& p) -> auto& { return at(p).*member; };
  };
  using A = AlignmentNumbers;
  f.insert(
      f.end(),
      {choice_field(prefix + "alignment", "Alignment", of(&A::school), {"ticks", "pins", "fence"},
                    "how the turned side finds its place"),
       changed(choice_field(prefix + "turn", "Turned about its", of(&A::turn), {"none", "length", "width"},
                            "which way the blank is turned over"),
               [](Field& turn) {
                 turn.choices = {"length", "width"};
               }),
       length_field(prefix + "tick_error", "Tick reading", of(&A::tick_error), 0, 2,
                    "error of setting a tick on its line"),
       length_field(prefix + "pin_diameter", "Pin diameter", of(&A::pin_diameter), 2, 20, "of the dowels at hand"),
       length_field(prefix + "pin_inset", "Pins from the ends", of(&A::pin_inset), 5, 200, "of the blank"),
       length_field(prefix + "pin_offset", "Second pin aside", of(&A::pin_offset), 0, 200,
                    "across: the wrong way round is then impossible"),
       length_field(prefix + "pin_depth", "Pins in the waste board", of(&A::pin_depth), 1, 40, "depth of their holes"),
       choice_field(prefix + "pins", "Pins are", of(&A::pins), {"ground", "sanded", "measured"},
                    "ground steel; dowels sanded until they slip; or with the play that was measured"),
       length_field(prefix + "pin_play", "Pin play, measured", of(&A::pin_play), 0, 1,
                    "hole over pin, in diameter; used where pins are 'measured'"),
       length_field(prefix + "square_error", "Out of square", of(&A::square_error), 0, 5, "of the blank, per 100 mm"),
       length_field(prefix + "fence_x", "Fence corner x", of(&A::fence_x), -100, 5000, "from home"),
       length_field(prefix + "fence_y", "Fence corner y", of(&A::fence_y), -100, 5000, "from home"),
       length_field(prefix + "fence_height", "Fence's height", of(&A::fence_height), 1, 200, "over the waste board"),
       length_field(prefix + "pin_length", "Pins' length", of(&A::pin_length), 0, 300,
                    "0: they end under the blank's top")});
}

}  // namespace wren
