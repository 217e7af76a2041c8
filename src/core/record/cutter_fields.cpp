#include "core/record/cutter_fields.hpp"

#include <algorithm>
#include <charconv>

#include <fmt/format.h>

#include "core/document/field_makers.hpp"

namespace wren {

std::vector<Field> cutter_fields() {
#define AT(member) \
  [](auto& p) -> auto& { return p.rack[0].member; }
  std::vector<Field> f{
      count_field("number", "T number", AT(number), 0, 99999, "what programs call it by"),
      choice_field("kind", "Kind", AT(kind), {"flat", "ball", "round_nose", "slot", "drill", "facing", "round_over"},
                   "its shape"),
      count_field("flutes", "Flutes", AT(flutes), 1, 12, "edges"),
      length_field("overall", "Overall", AT(overall), 5, 400, "from end to end"),
      length_field("corner_radius", "Corner radius", AT(corner_radius), 0, 50,
                   "of a round nose; of a round-over, what it leaves on the wood"),
      number_field("point_angle", "Point angle", AT(point_angle_deg), "°", 20, 180, "of a drill"),
      choice_field("spiral", "Chips go", AT(spiral), {"up", "down", "straight", "compression"}, "which way"),
      number_field("modulus", "Stiffness", AT(modulus_gpa), "GPa", 50, 1000, "of its stuff: carbide 600, steel 210"),
  };
#undef AT
  Rack one(1);
  one[0].id = "x";
  for (Field& field : rack_fields(one, CutterLabels::alone)) {
    field.key = field.key.substr(std::string("rack.x.").size());
    f.push_back(std::move(field));
  }
  return f;
}

namespace {

Problem no_such(const std::string& key, const std::vector<std::string>& all) {
  return {ProblemKind::input, fmt::format("there is no number '{}'", key), "",
          worded("Choose one of {}", fmt::format("{}", fmt::join(all, ", ")))};
}

}  // namespace

Expected<Cutter> with_numbers(Cutter cutter, const std::vector<std::pair<std::string, std::string>>& edits,
                              UnitSystem system) {
  const auto fields = cutter_fields();
  Project project;
  project.rack = {std::move(cutter)};
  for (const auto& [key, text] : edits) {
    const auto it = std::find_if(fields.begin(), fields.end(), [&key = key](const Field& f) { return f.key == key; });
    if (it == fields.end()) {
      std::vector<std::string> all;
      for (const Field& f : fields) all.push_back(f.key);
      return tl::unexpected(no_such(key, all));
    }
    auto value = parse_field(*it, text, system);
    if (!value) return tl::unexpected(value.error());
    if (auto bad = check_value(*it, *value, key)) return tl::unexpected(*bad);
    it->put(project, *value);
  }
  if (auto bad = check_cutter(project.rack[0]); !bad.empty()) return tl::unexpected(bad.front());
  return std::move(project.rack[0]);
}

namespace {

struct Word {
  const char* key;
  std::string ShopMachine::*of = nullptr;
  std::string PlainTalk::*talk = nullptr;
};
const std::vector<Word>& words_of_machine() {
  static const std::vector<Word> all{{"address", &ShopMachine::address, nullptr},
                                     {"talk.done", nullptr, &PlainTalk::done},
                                     {"talk.error", nullptr, &PlainTalk::error},
                                     {"talk.stopped", nullptr, &PlainTalk::stopped},
                                     {"talk.ask_place", nullptr, &PlainTalk::ask_place},
                                     {"talk.place", nullptr, &PlainTalk::place},
                                     {"talk.hold", nullptr, &PlainTalk::hold},
                                     {"talk.resume", nullptr, &PlainTalk::resume},
                                     {"talk.stop", nullptr, &PlainTalk::stop}};
  return all;
}
std::string& text_at(ShopMachine& m, const Word& w) { return w.of != nullptr ? m.*(w.of) : m.talk.*(w.talk); }

std::vector<Field> numbers_of_machine() {
  std::vector<Field> out;
  for (Field& f : shop_fields())
    if (f.key.starts_with("machine.") && f.key != "machine.name") {
      f.key = f.key.substr(8);
      out.push_back(std::move(f));
    }
  return out;
}

}  // namespace

std::vector<std::string> machine_keys() {
  std::vector<std::string> out;
  for (const Field& f : numbers_of_machine()) out.push_back(f.key);
  out.emplace_back("baud");
  for (const Word& w : words_of_machine()) out.emplace_back(w.key);
  return out;
}

std::string machine_text(const ShopMachine& machine, const std::string& key, UnitSystem system) {
  if (key == "baud") return fmt::to_string(machine.baud);
  ShopMachine copy = machine;
  for (const Word& w : words_of_machine())
    if (key == w.key) return text_at(copy, w);
  Project project;
  project.machine = machine.machine;
  for (const Field& f : numbers_of_machine())
    if (f.key == key) return field_text(f, f.get(project), system);
  return {};
}

Expected<ShopMachine> with_numbers(ShopMachine machine, const std::vector<std::pair<std::string, std::string>>& edits,
                                   UnitSystem system) {
  const auto fields = numbers_of_machine();
  Project project;
  project.machine = machine.machine;
  for (const auto& [key, text] : edits) {
    const auto word = std::find_if(words_of_machine().begin(), words_of_machine().end(),
                                   [&key = key](const Word& w) { return key == w.key; });
    if (key == "baud") {
      long baud = 0;
      const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), baud);
      if (bad != std::errc() || end != text.data() + text.size())
        return fail(ProblemKind::input, worded("'{}' is no baud rate", text), key, "Give a whole number");
      machine.baud = baud;
      continue;
    }
    if (word != words_of_machine().end()) {
      text_at(machine, *word) = text;
      continue;
    }
    const auto it = std::find_if(fields.begin(), fields.end(), [&key = key](const Field& f) { return f.key == key; });
    if (it == fields.end()) return tl::unexpected(no_such(key, machine_keys()));
    auto value = parse_field(*it, text, system);
    if (!value) return tl::unexpected(value.error());
    if (auto bad = check_value(*it, *value, key)) return tl::unexpected(*bad);
    it->put(project, *value);
  }
  machine.machine = project.machine;
  if (auto bad = check_machine(machine); !bad.empty()) return tl::unexpected(bad.front());
  return machine;
}

}  // namespace wren
