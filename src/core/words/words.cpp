#include "core/words/words.hpp"

#include <algorithm>
#include <cmath>
#include <ostream>

#include "core/words/catalogue.hpp"

namespace wren {
namespace {

template <class... Kinds>
struct Each : Kinds... {
  using Kinds::operator()...;
};
template <class... Kinds>
Each(Kinds...) -> Each<Kinds...>;

std::string told(const Words::Inset& inset, const std::string& spec, const Audience& audience) {
  const std::string how = "{:" + spec + "}";
  return std::visit(Each{[&](const std::string& s) { return spec.empty() ? s : fmt::format(fmt::runtime(how), s); },
                         [&](const Mm& v) { return v.in(audience); },
                         [&](double v) { return with_point(fmt::format(fmt::runtime(how), v), audience.point); },
                         [&](long long v) { return fmt::format(fmt::runtime(how), v); },
                         [&](const Words::Nested& v) { return v.words->in(audience); }},
                    inset);
}

}  // namespace

std::string with_point(std::string number, char point) {
  if (point != '.') std::replace(number.begin(), number.end(), '.', point);
  return number;
}

std::string Mm::in(const Audience& audience) const {
  const double told = audience.units == UnitSystem::inch ? std::round(value * 1000) / 1000 : value;
  const std::string text =
      audience.units == UnitSystem::inch ? format_length(told, UnitSystem::inch) : format_mm(told, decimals) + " mm";
  return with_point(text, audience.point);
}

std::string Words::in(const Audience& audience) const {
  std::string text = id_;
  if (audience.catalogue != nullptr)
    text = plural_.empty() ? audience.catalogue->text(id_)
                           : audience.catalogue->text(id_, plural_, static_cast<unsigned long>(std::abs(count_)));
  else if (!plural_.empty() && count_ != 1)
    text = plural_;
  if (insets_.empty()) return text;
  std::string out;
  std::size_t next = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if ((c == '{' || c == '}') && i + 1 < text.size() && text[i + 1] == c) {
      out += c;
      ++i;
      continue;
    }
    const std::size_t end = c == '{' ? text.find('}', i) : std::string::npos;
    const auto digit = [&](std::size_t at) { return text[at] >= '0' && text[at] <= '9'; };
    // Another language may turn the order round: "{1}" names its gap, counted from 0.
    const std::size_t colon = end == std::string::npos ? end : i + 1 + (digit(i + 1) ? 1 : 0);
    const bool gap = end != std::string::npos && (colon == end || text[colon] == ':');
    const std::size_t which = !gap ? 0 : digit(i + 1) ? static_cast<std::size_t>(text[i + 1] - '0') : next++;
    if (!gap || which >= insets_.size()) {
      out += c;
      continue;
    }
    out += told(insets_[which], colon == end ? std::string() : text.substr(colon + 1, end - colon - 1), audience);
    i = end;
  }
  return out;
}

std::ostream& operator<<(std::ostream& out, const Words& words) { return out << words.str(); }
std::ostream& operator<<(std::ostream& out, const Mm& length) { return out << length.in({}); }

}  // namespace wren
