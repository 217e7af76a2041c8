#include "core/units/length.hpp"

#include <array>
#include <charconv>
#include <cmath>
#include <optional>

#include <fmt/format.h>

namespace wren {
namespace {

/// A value while it is being worked out: `unit` is its millimetres per unit, empty for a bare number.
struct Amount {
  double number = 0;
  std::optional<double> unit;
};

struct Fault {
  std::size_t column;
  std::string what;
};

constexpr int max_depth = 20;

class LengthParser {
 public:
  explicit LengthParser(std::string_view text) : text_(text) {}

  Amount whole() {
    skip();
    if (peek() == '=') ++at_;
    Amount value = sum(0);
    skip();
    if (at_ < text_.size()) throw Fault{at_, fmt::format("'{}' is not understood here", rest())};
    return value;
  }

 private:
  Amount sum(int depth) {
    if (depth > max_depth) throw Fault{at_, "too many brackets"};
    Amount left = product(depth);
    for (;;) {
      skip();
      const char sign = peek();
      // "2 ft 3 in": a further term straight after one in feet is added to it.
      const bool joined = left.unit && *left.unit > 300 && (is_digit(sign) || sign == '.');
      if (sign != '+' && sign != '-' && !joined) return left;
      if (!joined) ++at_;
      const std::size_t place = at_;
      Amount right = product(depth);
      if (sign == '-') right.number = -right.number;
      left = add(left, right, place);
    }
  }

  static Amount add(Amount a, Amount b, std::size_t) {
    if (!a.unit) a.unit = b.unit;
    if (!b.unit) b.unit = a.unit;
    if (!a.unit) return {a.number + b.number, {}};
    return {(a.number * *a.unit + b.number * *b.unit) / *a.unit, a.unit};
  }

  Amount product(int depth) {
    Amount left = factor(depth);
    for (;;) {
      skip();
      const std::size_t place = at_;
      const char c = peek();
      if (c == '*' || c == '/') {
        ++at_;
        const Amount right = factor(depth);
        if (c == '*') {
          if (left.unit && right.unit) throw Fault{place, "a length times a length is not a length"};
          left = {left.number * right.number, left.unit ? left.unit : right.unit};
        } else {
          if (right.number == 0) throw Fault{place + 1, "division by zero"};
          if (left.unit && right.unit) {
            left = {left.number * *left.unit / (right.number * *right.unit), {}};
          } else if (right.unit) {
            throw Fault{place, "a number divided by a length is not a length"};
          } else {
            left.number /= right.number;
          }
        }
      } else if (const auto unit = take_unit()) {
        if (left.unit) throw Fault{place, "a second unit for the same number"};
        left.unit = unit;
      } else {
        return left;
      }
    }
  }

  Amount factor(int depth) {
    skip();
    const char c = peek();
    if (c == '-' || c == '+') {
      if (depth > max_depth) throw Fault{at_, "too many signs"};
      ++at_;
      Amount value = factor(depth + 1);
      if (c == '-') value.number = -value.number;
      return value;
    }
    if (c == '(') {
      const std::size_t open = at_++;
      Amount value = sum(depth + 1);
      skip();
      if (peek() != ')') throw Fault{open, "this bracket is not closed"};
      ++at_;
      return value;
    }
    return {number(), {}};
  }

  double number() {
    skip();
    if (at_ >= text_.size()) throw Fault{at_, "a number is missing at the end"};
    if (const auto lone = vulgar_fraction()) return *lone;
    bool whole_number = true;
    const double value = decimal(whole_number);
    if (!whole_number) return value;
    if (hyphened_fraction())
      throw Fault{at_, "with a hyphen this can be a whole and a fraction, or a difference: write 25 1/2, or 25 - 1/2"};
    if (const auto glyph = vulgar_fraction()) return value + *glyph;
    // "1 5/8": a space, then a fraction of whole numbers.
    const std::size_t mark = at_;
    if (peek() == ' ') {
      skip();
      bool upper_whole = true;
      if (is_digit(peek())) {
        const double upper = decimal(upper_whole);
        if (upper_whole && peek() == '/') {
          ++at_;
          bool lower_whole = true;
          if (is_digit(peek())) {
            const std::size_t place = at_;
            const double lower = decimal(lower_whole);
            if (lower_whole && lower == 0) throw Fault{place, "division by zero"};
            if (lower_whole) return value + upper / lower;
          }
        }
      }
    }
    at_ = mark;
    return value;
  }

  /// "25-1/2" ahead, from its hyphen on: inch makers write a mixed number so, and it is a difference as well.
  [[nodiscard]] bool hyphened_fraction() const {
    std::size_t k = at_;
    const auto digits = [&] {
      const std::size_t from = k;
      while (k < text_.size() && is_digit(text_[k])) ++k;
      return k > from;
    };
    if (k >= text_.size() || text_[k] != '-') return false;
    ++k;
    if (!digits() || k >= text_.size() || text_[k] != '/') return false;
    ++k;
    return digits();
  }

  double decimal(bool& whole_number) {
    std::string digits;
    const std::size_t start = at_;
    while (at_ < text_.size() && (is_digit(text_[at_]) || text_[at_] == '.' || text_[at_] == ',')) {
      const char c = text_[at_] == ',' ? '.' : text_[at_];
      if (c == '.') {
        if (!whole_number) throw Fault{at_, "a second decimal point"};
        whole_number = false;
      }
      digits += c;
      ++at_;
    }
    if (digits.empty() || digits == ".")
      throw Fault{start, fmt::format("a number is expected, not '{}'", rest_from(start))};
    double value = 0;
    const char* first = digits.data();
    const auto [end, error] = std::from_chars(first, first + digits.size(), value);
    if (error != std::errc() || end != first + digits.size()) throw Fault{start, "this number cannot be read"};
    return value;
  }

  std::optional<double> vulgar_fraction() {
    static constexpr std::array<std::pair<std::string_view, double>, 7> glyphs{
        {{"½", 0.5}, {"¼", 0.25}, {"¾", 0.75}, {"⅛", 0.125}, {"⅜", 0.375}, {"⅝", 0.625}, {"⅞", 0.875}}};
    for (const auto& [glyph, value] : glyphs)
      if (text_.substr(at_).starts_with(glyph)) {
        at_ += glyph.size();
        return value;
      }
    return {};
  }

  std::optional<double> take_unit() {
    static constexpr std::array<std::pair<std::string_view, double>, 15> units{{{"mm", 1.0},
                                                                                {"cm", 10.0},
                                                                                {"mil", 0.0254},
                                                                                {"thou", 0.0254},
                                                                                {"inches", mm_per_inch},
                                                                                {"inch", mm_per_inch},
                                                                                {"in", mm_per_inch},
                                                                                {"\"", mm_per_inch},
                                                                                {"″", mm_per_inch},
                                                                                {"''", mm_per_inch},
                                                                                {"ft", 304.8},
                                                                                {"'", 304.8},
                                                                                {"′", 304.8},
                                                                                {"”", mm_per_inch},
                                                                                {"m", 1000.0}}};
    for (const auto& [name, unit] : units)
      if (text_.substr(at_).starts_with(name)) {
        const std::size_t end = at_ + name.size();
        const bool word = name[0] >= 'a' && name[0] <= 'z';
        if (word && end < text_.size() && is_letter(text_[end])) continue;
        at_ = end;
        return unit;
      }
    return {};
  }

  void skip() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
  }
  [[nodiscard]] char peek() const { return at_ < text_.size() ? text_[at_] : '\0'; }
  [[nodiscard]] std::string rest() const { return rest_from(at_); }
  [[nodiscard]] std::string rest_from(std::size_t from) const { return std::string(text_.substr(from, 12)); }
  static bool is_digit(char c) { return c >= '0' && c <= '9'; }
  static bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }

  std::string_view text_;
  std::size_t at_ = 0;
};

Expected<Amount> work_out(std::string_view text, const char* what_for) {
  const std::string example = std::string(what_for) == "length" ? "Write a length such as 41.3, 1 5/8 in or 610 - 3"
                                                                : "Write a number such as 22 or 7.5";
  if (text.find_first_not_of(" \t") == std::string_view::npos)
    return fail(ProblemKind::input, worded("a {} is missing", what_for), "column 1", example);
  if (text.size() > 200)
    return fail(ProblemKind::input, "the text is longer than 200 characters", "column 201", example);
  std::string plain;
  for (std::size_t i = 0; i < text.size(); ++i) {  // typographic signs as their plain ones
    if (text.substr(i).starts_with("−")) {
      plain += '-';
      i += 2;
    } else if (text.substr(i).starts_with("×")) {
      plain += '*';
      i += 1;
    } else if (text.substr(i).starts_with("÷")) {
      plain += '/';
      i += 1;
    } else
      plain += text[i];
  }
  try {
    return LengthParser(plain).whole();
  } catch (const Fault& fault) {
    return fail(ProblemKind::input, fault.what, fmt::format("column {}", fault.column + 1), example);
  }
}

}  // namespace

Expected<double> parse_length(std::string_view text, UnitSystem field) {
  const auto amount = work_out(text, "length");
  if (!amount) return tl::unexpected(amount.error());
  const double mm = amount->number * amount->unit.value_or(field == UnitSystem::inch ? mm_per_inch : 1.0);
  if (!std::isfinite(mm) || std::abs(mm) >= 1e6)
    return fail(ProblemKind::range, "the length is beyond a kilometre", "column 1", "Check the number and its unit");
  return mm;
}

Expected<double> parse_number(std::string_view text) {
  const auto amount = work_out(text, "number");
  if (!amount) return tl::unexpected(amount.error());
  if (amount->unit) return fail(ProblemKind::input, "a plain number is expected, without a unit", "column 1");
  if (!std::isfinite(amount->number) || std::abs(amount->number) >= 1e9)
    return fail(ProblemKind::range, "the number is too large", "column 1");
  return amount->number;
}

Expected<long> parse_count(std::string_view text) {
  const auto number = parse_number(text);
  if (!number) return tl::unexpected(number.error());
  const double whole = std::round(*number);
  if (std::abs(*number - whole) > 1e-9)
    return fail(ProblemKind::input, worded("a whole number is expected, not {}", *number), "column 1");
  return static_cast<long>(whole);
}

}  // namespace wren
