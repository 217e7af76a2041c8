// Ten thousand random edits: whatever is accepted is saved, opens again and is equal. Texts are such as people and
// scripts give: limits and just beyond, other units, long ones, bytes that are no letters, numbers of other fields.
#include <cmath>
#include <random>

#include <fmt/format.h>

#include "support/made.hpp"

using namespace wren;

namespace {

double share(std::mt19937& r) { return static_cast<double>(r()) / 4294967296.0; }

std::string random_text(std::mt19937& r, const Field& f) {
  const auto pick = [&](int n) { return static_cast<int>(r() % static_cast<unsigned>(n)); };
  const auto number = [&](double v) { return fmt::format("{}", v); };
  switch (pick(12)) {
    case 0: return number(f.low);
    case 1: return number(f.high);
    case 2: return number(std::nextafter(f.high, 1e18));
    case 3: return number(f.low - 1e-10);
    case 4: return number(f.low + (f.high - f.low) * share(r));
    case 5: return number(f.low + (f.high - f.low) / 3) + " mm";
    case 6: return f.choices.empty() ? "1/3 in" : f.choices[r() % f.choices.size()];
    case 7: return pick(2) == 0 ? "yes" : "no";
    case 8: return std::string(static_cast<std::size_t>(pick(4000)), "aZ\n"[pick(3)]);
    case 9: {
      std::string bytes;
      for (int k = pick(60); k > 0; --k) bytes += static_cast<char>(r());
      return bytes;
    }
    case 10: {
      std::string list;
      for (int k = pick(80); k > 0; --k) list += number(f.low + (f.high - f.low) * share(r)) + " ";
      return list;
    }
    default: {
      std::string clamps;
      for (int k = pick(44); k > 0; --k)
        clamps +=
            fmt::format("{}clamp {} {} {} {} 20", clamps.empty() ? "" : "; ", k / 3.0, 0, k / 3.0 + 10.0 / 3, 20 / 3.0);
      return clamps;
    }
  }
}

}  // namespace

TEST_CASE("ten thousand random edits: whatever is accepted comes back from a file as it is") {
  std::mt19937 r(7);
  const FieldBook& book = all_parts().book();
  std::size_t accepted = 0;
  std::size_t refused = 0;
  for (const char* start : {"reedling", "sedge", "bass", "plain"}) {
    Project p = *project_from(start);
    std::vector<Field> fields;
    book.each([&](const Field& f) { fields.push_back(f); });
    for (const Field& f : rack_fields(p.rack)) fields.push_back(f);
    std::vector<std::pair<std::string, std::string>> since;
    const auto comes_back = [&] {
      const std::string text = project_to_json(p);
      const auto back = project_from_json(text, start);
      std::string last;
      for (const auto& [key, value] : since) last += key + "=" + value.substr(0, 60) + "\n";
      INFO(last << (back ? "" : back.error().text()));
      REQUIRE(back);
      REQUIRE(*back == p);
      REQUIRE(project_to_json(*back) == text);
      since.clear();
    };
    for (int k = 0; k < 2500; ++k) {
      const Field& f = fields[r() % fields.size()];
      const std::string text = random_text(r, f);
      auto next = with_edits(book, p, {{f.key, text}}, r() % 2 == 0 ? UnitSystem::millimetre : UnitSystem::inch);
      if (!next) {
        ++refused;
        CHECK_FALSE(next.error().what.empty());
        continue;
      }
      ++accepted;
      p = std::move(*next);
      since.emplace_back(f.key, text);
      if (since.size() == 20) comes_back();
    }
    comes_back();
  }
  // Both happen, or nothing was tried.
  CHECK(accepted > 2000);
  CHECK(refused > 2000);
}

TEST_CASE("a value that contradicts others is refused at the edit, in words, and not at the saving") {
  const Project p = *project_from("reedling");
  const auto refuse = [&](const std::string& key, const std::string& text) {
    const auto next = with_edits(p, {{key, text}});
    INFO(key << "=" << text);
    REQUIRE_FALSE(next);
    CHECK_FALSE(next.error().todo.empty());
  };
  refuse("rack.flat-6.35.measured", "40");  // for 4.0
  refuse("rack.flat-6.35.stickout", "100");
  refuse("project.notes", "\xff\xfe");
  refuse("project.name", std::string("a\xc3", 2));
  refuse("project.notes", std::string(2001, 'n'));
  std::string clamps;
  for (int k = 0; k < 40; ++k)
    clamps +=
        fmt::format("{}clamp {} 0 {} 6.666666666666667 20.333333333333332", k ? "; " : "", k + 1.0 / 3, k + 11.0 / 3);
  // Forty clamps with thirds: more text than a field holds; taken whole or refused, and either way the file opens.
  if (const auto next = with_edits(p, {{"board.clamps", clamps}}))
    CHECK(project_from_json(project_to_json(*next), "x"));
  // What comes in from a drawing is held to the same.
  Project drawn = p;
  for (int k = 0; k < 40; ++k) {
    Path path(2000);
    for (std::size_t i = 0; i < path.size(); ++i)
      path[i] = {{1.0 / 3 + static_cast<double>(i), 2.0 / 3}, EdgeKind::curve, 0, {0.1, 0.2}, {1.0 / 7, 1.0 / 9}, true};
    body_of(drawn).body.drawn.push_back({"c", path, false, 10});
  }
  const auto bad = would_not_come_back(all_parts().book(), drawn, &p);
  REQUIRE(bad);
  CHECK(bad->what.find("bytes") != std::string::npos);
}
