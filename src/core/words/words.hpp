// Sentences of the core: an id, which is the English sentence with gaps, and what stands in the gaps with its type.
// They become text at the edge, in the reader's units, with his decimal sign and in his language.
#pragma once

#include <initializer_list>
#include <iosfwd>
#include <memory>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include <fmt/format.h>

#include "core/words/length_text.hpp"

namespace wren {

class Catalogue;

/// For whom a sentence is put into words. As it stands: millimetres, a point, English; so files and scripts have it.
struct Audience {
  UnitSystem units = UnitSystem::millimetre;
  char point = '.';
  const Catalogue* catalogue = nullptr;  // none: English
};

/// A number's text with a reader's decimal sign.
[[nodiscard]] std::string with_point(std::string number, char point);

/// A length in a sentence: in mm, with at most so many places after the point when millimetres are read.
struct Mm {
  double value = 0;
  int decimals = 2;
  [[nodiscard]] std::string in(const Audience& audience) const;
  operator std::string() const { return in({}); }  // NOLINT: its text as files have it
  friend std::string operator+(std::string a, const Mm& b) { return a += b.in({}); }
  friend std::string operator+(const Mm& a, std::string_view b) { return a.in({}).append(b); }
};
[[nodiscard]] inline Mm mm(double value, int decimals = 2) { return {value, decimals}; }
/// The same to a thousandth, as numbers are entered.
[[nodiscard]] inline Mm exact_mm(double value) { return {value, 3}; }

/// A sentence. Gaps are "{}", or "{:.1f}" for a number with its places; "{{" is a brace. Where nothing stands in gaps
/// the text is taken as it is.
class Words {
 public:
  /// A sentence, or a piece of one, in the gap of another.
  struct Nested {
    std::shared_ptr<const Words> words;
  };
  using Inset = std::variant<std::string, Mm, double, long long, Nested>;
  Words() = default;
  Words(std::string text) : id_(std::move(text)) {}  // NOLINT: a text is a sentence
  Words(const char* text) : id_(text) {}             // NOLINT
  /// Each gap takes the next length (mm, read to 0.001).
  Words(std::string id, std::initializer_list<double> lengths) : id_(std::move(id)) {
    for (const double v : lengths) add(v);
  }
  Words(std::string id, std::vector<Inset> insets) : id_(std::move(id)), insets_(std::move(insets)) {}
  /// Its plural form is taken where `count` wants it: in English, of all but one.
  Words(std::string one, std::string many, long long count, std::vector<Inset> insets)
      : id_(std::move(one)), plural_(std::move(many)), count_(count), insets_(std::move(insets)) {}

  /// One more length for a gap, and one more piece of the sentence.
  void add(double length) { insets_.emplace_back(Mm{length, 3}); }
  Words& operator+=(std::string_view more) {
    id_ += more;
    return *this;
  }

  [[nodiscard]] const std::string& id() const { return id_; }
  [[nodiscard]] const std::string& plural() const { return plural_; }
  [[nodiscard]] const std::vector<Inset>& insets() const { return insets_; }
  [[nodiscard]] bool empty() const { return id_.empty(); }
  [[nodiscard]] std::string in(const Audience& audience) const;
  [[nodiscard]] std::string in(UnitSystem units) const { return in(Audience{units}); }
  [[nodiscard]] std::string str() const { return in(Audience{}); }
  operator std::string() const { return str(); }  // NOLINT: as files and scripts have it
  [[nodiscard]] std::size_t find(std::string_view what) const { return str().find(what); }

  /// The same sentence as text.
  friend bool operator==(const Words& a, const Words& b) { return a.str() == b.str(); }
  /// One behind the other; each keeps what stands in its gaps.
  friend Words operator+(Words a, Words b) {
    if (a.empty()) return b;
    if (b.empty()) return a;
    return {"{}{}", std::vector<Inset>{nested(std::move(a)), nested(std::move(b))}};
  }
  [[nodiscard]] static Inset nested(Words words) { return Nested{std::make_shared<const Words>(std::move(words))}; }

 private:
  std::string id_;
  std::string plural_;
  long long count_ = 0;
  std::vector<Inset> insets_;
};
std::ostream& operator<<(std::ostream& out, const Words& words);
std::ostream& operator<<(std::ostream& out, const Mm& length);

namespace detail {
template <class T>
Words::Inset inset(T&& v) {
  using D = std::decay_t<T>;
  if constexpr (std::is_same_v<D, Mm>)
    return v;
  else if constexpr (std::is_same_v<D, char>)
    return std::string(1, v);
  else if constexpr (std::is_integral_v<D>)
    return static_cast<long long>(v);
  else if constexpr (std::is_floating_point_v<D>)
    return static_cast<double>(v);
  else if constexpr (std::is_same_v<D, Words>)
    return Words::nested(std::forward<T>(v));
  else if constexpr (std::is_convertible_v<D, const char*>)
    return Words::nested(Words(static_cast<const char*>(v)));
  else
    return std::string(std::forward<T>(v));
}
}  // namespace detail

/// A sentence with its gaps filled: worded("The wall is {}, {} strings pass.", mm(wall), strings). A literal in a gap
/// is words of its own, a std::string a name, which is the same in every language.
template <class... A>
[[nodiscard]] Words worded(const char* id, A&&... insets) {
  return {id, std::vector<Words::Inset>{detail::inset(std::forward<A>(insets))...}};
}

/// The same, in the singular or the plural by `count`.
template <class... A>
[[nodiscard]] Words worded_by(long long count, const char* one, const char* many, A&&... insets) {
  return {one, many, count, std::vector<Words::Inset>{detail::inset(std::forward<A>(insets))...}};
}

}  // namespace wren

template <>
struct fmt::formatter<wren::Mm> : fmt::formatter<std::string> {
  template <class Context>
  auto format(const wren::Mm& v, Context& context) const {
    return fmt::formatter<std::string>::format(v.in({}), context);
  }
};
template <>
struct fmt::formatter<wren::Words> : fmt::formatter<std::string> {
  template <class Context>
  auto format(const wren::Words& v, Context& context) const {
    return fmt::formatter<std::string>::format(v.str(), context);
  }
};
