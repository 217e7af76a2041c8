#include "core/job/hand_words.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "core/job/programs.hpp"
#include "core/program/plain_words.hpp"
#include "core/report/names.hpp"

namespace wren {
namespace {

/// A cutter's turn at the work: what its first motion there is, and from where on it had been prepared.
struct Turn {
  int number = 0;
  std::size_t after = 0;  // motions of the turn before, and what lies before them
  std::size_t first = 0;
};

std::vector<Turn> turns_of(const ReadProgram& read) {
  std::vector<Turn> out;
  std::optional<std::uint16_t> tool;
  std::size_t worked = 0;  // one past the last motion over the work
  for (std::size_t i = 0; i < read.moves.size(); ++i) {
    const ReadMove m = read.moves[i];
    if (m.machine != 0) continue;
    if (tool != m.tool) out.push_back({read.tools[m.tool].number, worked, i});
    tool = m.tool;
    worked = i + 1;
  }
  return out;
}

bool has(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

/// The side's paths that make these cuts.
std::vector<const Toolpath*> paths_of(const std::vector<std::string>& cuts, const Placement& placement) {
  std::vector<const Toolpath*> out;
  for (const Toolpath& path : placement.paths)
    if (!path.cuts.empty() && has(cuts, path.cuts.front())) out.push_back(&path);
  return out;
}

class HandWords {
 public:
  /// `cuts`: those that the program makes, in the order of the placement's paths.
  HandWords(const std::string& file, const std::vector<std::string>& cuts, const Placement* placement,
            const ReadProgram& read, std::vector<Finding>& out)
      : file_(file), read_(read), out_(out), turns_(turns_of(read)) {
    if (placement != nullptr) paths_ = paths_of(cuts, *placement);
  }

  void header(const Side& side, const std::string& part) {
    for (const std::string& wanted : header_words(header_of(part, side))) one_of({wanted}, "M7");
  }

  void cutters(const Rack& rack) {
    std::vector<std::string> wanted;
    std::vector<int> numbers;
    for (const Toolpath* path : paths_)
      if (const Cutter* c = find_cutter(rack, path->cutter)) {
        wanted.push_back(comment_safe(fmt::format("{}, for {}", cutter_words(*c), fmt::join(path->cuts, ", "))));
        numbers.push_back(c->number);
      }
    if (wanted.empty()) return;  // that no cut is named is told already
    one_of(wanted, "M4");
    for (const Turn& turn : turns_)
      if (std::find(numbers.begin(), numbers.end(), turn.number) == numbers.end())
        tell("header_words", "M4", read_.moves[turn.first].line,
             worded("The header of {} does not tell of T{}, which comes in.", file_, turn.number));
  }

  void stops(const Setup& setup, const Placement& placement, const Rack& rack) {
    // Without G53 only a hand brings the machine to a known height, at the beginning and after every stop.
    if (!setup.machine.controller.machine_moves)
      for (std::size_t k = 0; k < turns_.size(); ++k)
        if (!homed(turns_[k]))
          tell("stop_missing", "M3", read_.moves[turns_[k].first].line,
               worded("{} does not ask for the machine to be homed first.", file_));
    if (setup.machine.change == CutterChange::by_hand)
      for (std::size_t k = 1; k < turns_.size(); ++k) change(turns_[k], rack);
    for (std::size_t k = 0; k < paths_.size(); ++k)
      for (const Cut& cut : placement.cuts) {
        if (!cut.stop_before || !has(paths_[k]->cuts, cut.id)) continue;
        const bool there = turns_.size() == paths_.size() &&
                           times(asked(turns_[k].after, turns_[k].first), comment_safe(cut.stop_text)) > 0;
        if (!there)
          tell("stop_missing", "M9", k < turns_.size() ? read_.moves[turns_[k].first].line : 0,
               worded("{} cuts on where a hand has to act first: {}.", file_, cut.stop_text));
      }
    unasked(setup, placement, rack);
    beside_stops();
  }

 private:
  static const Cutter* of_number(int number, const Rack& rack) {
    const auto c = std::find_if(rack.begin(), rack.end(), [&](const Cutter& x) { return x.number == number; });
    return number != 0 && c != rack.end() ? &*c : nullptr;
  }

  [[nodiscard]] bool told(std::string_view kind) const {
    return std::any_of(out_.begin(), out_.end(),
                       [&](const Finding& f) { return f.kind == kind && f.program == file_; });
  }
  void tell(const char* kind, const char* rule, std::uint32_t line, Words text) {
    out_.push_back({kind, Weight::stop, std::move(text), file_, line, {}, 0, 0, rule, 1});
  }

  /// Comments of the header that begin as these do ("zero: ", say): each of `wanted` is there, and no other.
  void one_of(const std::vector<std::string>& wanted, const char* rule) {
    const std::string key = wanted.front().substr(0, wanted.front().find(": ") + 2);
    std::vector<bool> said(wanted.size());
    const std::string plain_key = plain_words(key);
    for (const std::string& comment : read_.comments) {
      if (!plain_words(comment).starts_with(plain_key)) continue;
      bool known = false;
      for (std::size_t k = 0; k < wanted.size(); ++k) {
        if (comment == wanted[k]) said[k] = known = true;
      }
      if (!known)
        return tell("header_words", rule, 0,
                    worded("The header of {} says '{}'; the project: '{}'.", file_, comment, wanted.front()));
    }
    if (const auto unsaid = std::find(said.begin(), said.end(), false); unsaid != said.end())
      tell("header_words", rule, 0,
           worded("The header of {} does not say '{}'.", file_,
                  wanted[static_cast<std::size_t>(unsaid - said.begin())]));
  }

  /// What stops between two motions ask for, up to the last of them; empty where none has to be kept.
  [[nodiscard]] std::string asked(std::size_t after, std::size_t first) const {
    std::string out;
    for (const ReadProgram::Pause& p : read_.pauses)
      if (!p.optional && p.before_move >= after && p.before_move <= first) out = p.says;
    return out;
  }

  /// The last stop before a turn's first motion brings the machine to its top, and what moves it stands before that: a
  /// hand that has probed z leaves it low.
  [[nodiscard]] bool homed(const Turn& turn) const {
    const ReadProgram::Pause* before = nullptr;
    const ReadProgram::Pause* last = nullptr;
    for (const ReadProgram::Pause& p : read_.pauses)
      if (!p.optional && p.before_move >= turn.after && p.before_move <= turn.first) before = std::exchange(last, &p);
    if (last == nullptr) return false;
    std::string own = last->says;
    if (before != nullptr && own.starts_with(before->says)) own.erase(0, before->says.size());
    const std::size_t home = own.rfind(home_words);
    return times(own, home_words) > 0 && own.find("probe z", home) == std::string::npos;
  }

  /// How often `wanted` is among what is said, as a comment of its own.
  static std::size_t times(const std::string& says, const std::string& wanted) {
    std::size_t out = 0;
    for (std::size_t at = says.find(wanted); at != std::string::npos; at = says.find(wanted, at + 1)) {
      const std::size_t end = at + wanted.size();
      const bool begins = at == 0 || (at >= 2 && says.compare(at - 2, 2, "; ") == 0);
      if (begins && (end == says.size() || says.compare(end, 2, "; ") == 0)) ++out;
    }
    return out;
  }

  /// What a hand is told outside of stops: no cutter, and nothing that a controller shows or keeps.
  void beside_stops() {
    std::size_t asked = 0;
    for (const std::string& comment : read_.comments) {
      const std::string plain = plain_words(comment);
      if (acted_on(plain))
        return tell("stop_unasked", "M9", 0,
                    worded("{} has the controller show or keep a message ('{}'): nothing in the project asks for it.",
                           file_, comment));
      if (plain.starts_with("change to")) ++asked;
    }
    std::size_t in_stops = 0;
    for (const ReadProgram::Pause& p : read_.pauses) in_stops += changes_in(p.says);
    if (asked > in_stops && !told("change_words"))
      tell("change_words", "M4", 0,
           worded("{} asks for a change of cutter outside of a stop: a hand that reads it does it.", file_));
  }

  /// How many changes of cutter are asked for.
  static std::size_t changes_in(const std::string& says) {
    constexpr std::string_view key = "change to ";
    std::size_t out = 0;
    for (std::size_t at = says.find(key); at != std::string::npos; at = says.find(key, at + 1)) ++out;
    return out;
  }

  void change(const Turn& turn, const Rack& rack) {
    const Cutter* c = of_number(turn.number, rack);
    if (c == nullptr) return;  // told already
    const std::string wanted = change_words(*c);
    const std::string there = asked(turn.after, turn.first);
    // Its words, and no second change beside them.
    const std::size_t changes = changes_in(there);
    if (changes > 0 && times(there, wanted) == changes) return;
    tell("change_words", "M4", read_.moves[turn.first].line,
         worded("The stop before T{} says '{}'; it has to ask: '{}'.", turn.number, there, wanted));
  }

  /// A stop that nothing in the project asks for: what it says, a hand will do.
  void unasked(const Setup& setup, const Placement& placement, const Rack& rack) {
    std::vector<std::string> wanted;
    if (!setup.machine.controller.machine_moves) wanted.push_back(home_words);
    for (const Cut& cut : placement.cuts)
      if (cut.stop_before) wanted.push_back(comment_safe(cut.stop_text));
    std::vector<std::string> known = wanted;
    for (const Cutter& c : rack) known.push_back(change_words(c));
    known.emplace_back(spin_words);
    for (const ReadProgram::Pause& p : read_.pauses) {
      if (p.optional && p.says.empty()) continue;
      const bool planned =
          std::any_of(wanted.begin(), wanted.end(), [&](const std::string& words) { return times(p.says, words) > 0; });
      // Between two cutters it may ask for the second, and for no other.
      const std::size_t changes = changes_in(p.says);
      std::size_t right = 0;
      for (const Turn& turn : turns_)
        if (const Cutter* c = of_number(turn.number, rack); c != nullptr && p.before_move >= turn.after &&
                                                            p.before_move <= turn.first &&
                                                            setup.machine.change == CutterChange::by_hand)
          right = times(p.says, change_words(*c));
      if (right == changes && (planned || right > 0)) {
        if (const std::string more = said_beside(p, known);
            !more.empty() && !told("change_words") && !told("stop_missing"))
          tell("stop_unasked", "M9", p.line,
               worded("The stop at line {} of {} also says '{}': nothing in the project asks a hand for it.", p.line,
                      file_, more));
        continue;
      }
      if (told("change_words") || told("stop_missing")) return;  // one fault, one finding
      if (changes != right)
        tell("change_words", "M4", p.line,
             worded("A stop of {} says '{}': no other cutter comes in there.", file_, p.says));
      else
        tell("stop_unasked", "M9", p.line,
             worded("{} stops at line {} ('{}'): nothing in the project asks a hand to do anything there.", file_,
                    p.line, p.says));
    }
  }

  /// What a stop says beside words that are known, as whole comments. Before the first cut the header stands there
  /// too: it ends with its cutters.
  [[nodiscard]] std::string said_beside(const ReadProgram::Pause& p, const std::vector<std::string>& known) const {
    constexpr std::string_view between = "; ";
    std::string says = p.says;
    if (turns_.empty() || p.before_move <= turns_.front().first)
      if (const std::size_t last = says.rfind("cutter: "); last != std::string::npos)
        says.erase(0, std::min(says.find(between, last), says.size()));
    for (const std::string& words : known)
      for (std::size_t at = says.find(words); at != std::string::npos; at = says.find(words, at)) {
        const std::size_t end = at + words.size();
        const bool whole = (at == 0 || (at >= 2 && says.compare(at - 2, 2, between) == 0)) &&
                           (end == says.size() || says.compare(end, 2, between) == 0);
        if (whole)
          says.erase(at, words.size());
        else
          ++at;
      }
    while (says.starts_with(between)) says.erase(0, between.size());
    while (says.ends_with(between)) says.erase(says.size() - between.size());
    return says;
  }

  const std::string& file_;
  const ReadProgram& read_;
  std::vector<Finding>& out_;
  std::vector<Turn> turns_;
  std::vector<const Toolpath*> paths_;
};

}  // namespace

Expected<ReadProgram> read_for_words(const std::string& text, const std::string& file) {
  ReadOptions options;
  options.start = {};
  options.machine_origin = [](int) { return Vec3{}; };
  return read_program(text, file, options);
}

namespace {

using Place = std::array<std::int64_t, 3>;  // hundredths of a millimetre

/// Whether no other cut has a place beside that one: two that are one place to a program may round to two.
bool alone(const std::map<Place, int>& whose, const std::pair<const Place, int>& place) {
  Place beside{};
  for (int k = 0; k < 27; ++k) {
    for (std::size_t axis = 0, rest = static_cast<std::size_t>(k); axis < 3; ++axis, rest /= 3)
      beside[axis] = place.first[axis] + static_cast<std::int64_t>(rest % 3) - 1;
    if (const auto it = whose.find(beside); it != whose.end() && it->second != place.second) return false;
  }
  return true;
}

/// The cuts of one path in the order in which the program comes to them. A place that only one of them was planned to
/// go to tells; where none does they stay as they were planned.
std::vector<std::string> path_as_run(const Toolpath& path, const ReadProgram& read, const CutPlaces& places) {
  if (path.cuts.size() < 2) return path.cuts;
  constexpr int several = -1;
  const auto place = [](Vec3 p) {
    return Place{std::llround(p.x * 100), std::llround(p.y * 100), std::llround(p.z * 100)};
  };
  std::map<Place, int> whose;
  for (const Move& m : path.moves) {
    if (m.kind == MoveKind::rapid) continue;
    const auto [it, fresh] = whose.try_emplace(place(m.to), m.cut);
    if (!fresh && it->second != m.cut) it->second = several;
  }
  std::vector<std::optional<std::size_t>> first(path.cuts.size());
  for (std::size_t i = 0; i < read.moves.size(); ++i) {
    const ReadMove m = read.moves[i];
    if (m.machine != 0 || m.kind == ReadKind::rapid) continue;
    const auto it = whose.find(place(m.to));
    if (it == whose.end() || it->second == several) continue;
    auto& at = first[static_cast<std::size_t>(it->second)];
    if (!at && alone(whose, *it)) at = i;
  }
  // Points that all lie a little beside the planned ones: by the ground that only one of them works on.
  if (std::any_of(first.begin(), first.end(), [](const auto& at) { return !at; }))
    first = places.first(path.cuts, read);
  std::vector<std::size_t> order;
  std::size_t last = 0;
  for (std::size_t k = 0; k < first.size(); ++k) {
    if (!first[k]) first[k] = last;
    last = *first[k];
    order.push_back(k);
  }
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return *first[a] < *first[b]; });
  std::vector<std::string> out;
  for (const std::size_t k : order) out.push_back(path.cuts[k]);
  return out;
}

}  // namespace

std::vector<std::string> cuts_as_run(const std::vector<std::string>& cuts, const ReadProgram& read,
                                     const Placement& placement, const CutPlaces& places, const Rack& rack) {
  std::vector<const Toolpath*> paths = paths_of(cuts, placement);
  std::vector<std::string> out;
  const auto turns = turns_of(read);
  for (std::size_t k = 0; k < turns.size(); ++k) {
    const auto at = std::find_if(paths.begin(), paths.end(), [&](const Toolpath* path) {
      const Cutter* c = find_cutter(rack, path->cutter);
      return c != nullptr && c->number == turns[k].number;
    });
    std::vector<std::string> own;
    if (at != paths.end()) {
      own = path_as_run(**at, read, places);
      paths.erase(at);
    }
    for (const std::string& cut : own) out.push_back(cut);
    for (std::string& cut :
         places.also(own, read, turns[k].first, k + 1 < turns.size() ? turns[k + 1].first : read.moves.size()))
      out.push_back(std::move(cut));
  }
  for (const Toolpath* path : paths)
    for (const std::string& cut : path_as_run(*path, read, places)) out.push_back(cut);
  for (const std::string& cut : cuts)  // what no path of the side makes
    if (std::find(out.begin(), out.end(), cut) == out.end()) out.push_back(cut);
  return out;
}

std::vector<std::string> told_cuts(const ReadProgram& read) {
  std::vector<std::string> out;
  for (const std::string& comment : read.comments) {
    const std::size_t at = comment.rfind(", for ");
    if (!comment.starts_with("cutter: ") || at == std::string::npos) continue;
    for (std::size_t from = at + 6; from < comment.size();) {
      const std::size_t end = std::min(comment.find(", ", from), comment.size());
      out.push_back(comment.substr(from, end - from));
      from = end + 2;
    }
  }
  return out;
}

void hold_hand_words(const std::string& file, const std::vector<std::string>& cuts, const ReadProgram& read,
                     const Side& side, const Planned& planned, std::vector<Finding>& out) {
  const Placement* placement = planned.cuts.side(side.id);
  HandWords words(file, cuts, placement, read, out);
  words.header(side, planned.part);
  words.cutters(planned.rack);
  if (placement != nullptr) words.stops(side.setup, *placement, planned.rack);
}

}  // namespace wren
