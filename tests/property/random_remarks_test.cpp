// Whatever the numbers: what is remarked can be read by anybody. Lengths are lengths, in the reader's unit; numbers
// stand in gaps, so that a sentence has one id and a translation finds it.
#include <regex>
#include <set>

#include <fmt/format.h>

#include "support/made.hpp"
#include "support/random.hpp"

using namespace wren;

namespace {

const std::regex millimetres(R"((^|[^a-z0-9.-])[0-9.]+ mm\b)");
const std::regex number_within(R"([0-9]\.[0-9])");

/// What a sentence that is not made for its reader is told by.
std::string not_for_readers(const Words& words) {
  if (std::regex_search(words.in(UnitSystem::inch), millimetres))
    return "in inches: " + words.in(UnitSystem::inch) + " [" + words.id() + "]";
  if (!words.insets().empty() && std::regex_search(words.id(), number_within))
    return "an id with numbers: " + words.id();
  if (words.insets().empty() && std::regex_search(words.id(), number_within)) return "numbers in a text: " + words.id();
  return {};
}

}  // namespace

TEST_CASE("whatever the numbers, remarks and repairs are worded for their readers") {
  // Glued from texts that are English and millimetres: how a register's error came about. This list may only shrink.
  const std::set<std::string> glued{"neck.misfit", "body.misfit"};
  Random random(5);
  std::set<std::string> wrong;
  std::set<std::string> kinds;
  for (const char* start : {"reedling", "sedge", "bass"}) {
    const Project first = *project_from(start);
    std::vector<Field> fields;
    all_parts().book().each([&](const Field& f) {
      if (f.kind == FieldKind::length || f.kind == FieldKind::choice || f.kind == FieldKind::number)
        fields.push_back(f);
    });
    for (int k = 0; k < 60; ++k) {
      Project p = first;
      // A few numbers at once: what contradicts is remarked, and what is refused at once is not taken.
      for (int n = 0; n < 4; ++n) {
        const Field& f = fields[static_cast<std::size_t>(random.between(0, static_cast<double>(fields.size()) - 0.01))];
        std::string text;
        if (f.kind == FieldKind::choice)
          text = f.choices[static_cast<std::size_t>(random.between(0, static_cast<double>(f.choices.size()) - 0.01))];
        else if (const auto now = f.get(p); const double* v = std::get_if<double>(&now))
          text =
              fmt::format("{:.3f}", std::clamp(*v * random.between(0.4, 2.2) + random.between(-1, 1), f.low, f.high));
        if (auto next = with_edits(all_parts().book(), p, {{f.key, text}}, UnitSystem::millimetre))
          p = std::move(*next);
      }
      Cache cache;
      const Followed followed = follow(all_parts(), p, cache);
      for (const auto& [part, problem] : followed.problems)
        for (const Words* w : {&problem.what, &problem.todo})
          if (const std::string bad = not_for_readers(*w); !bad.empty()) wrong.insert(part + ": " + bad);
      for (const PartKind& kind : all_parts().kinds())
        for (const Remark& r : remarks_of(kind, followed, nullptr)) {
          kinds.insert(r.kind);
          if (glued.contains(r.kind)) continue;
          if (const std::string bad = not_for_readers(r.sentence); !bad.empty()) wrong.insert(r.kind + ": " + bad);
          for (const Repair& way : ways(r))
            if (const std::string bad = not_for_readers(way.label); !bad.empty())
              wrong.insert(r.kind + ", repair: " + bad);
        }
    }
  }
  std::string all;
  for (const std::string& one : wrong) all += one + "\n";
  INFO(all);
  CHECK(wrong.empty());
  CHECK(kinds.size() > 60);  // or nothing was tried
}
