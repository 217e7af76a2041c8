#include "core/proof/text_rules.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double home = 0.01;          // mm from the machine's top or parking place that still count as there
constexpr double rapid_room = 2;       // mm over the work where a program ends or stops that knows no machine's top
constexpr double feed_slack = 1.001;   // rounding of F words
constexpr double last_digit = 3e-5;    // mm: rounding of both ends of a way, in inches too
constexpr double widest_blend = 0.01;  // mm that a controller may cut off a corner: half of what may be gouged

class TextRules {
 public:
  TextRules(const ReadProgram& program, const std::string& name, const Machine& machine)
      : p_(program), name_(name), m_(machine) {}

  std::vector<Finding> run() {
    words();
    groups();
    begins();
    stops();
    ends();
    machine_moves();
    for (std::size_t i = 0; i < p_.moves.size(); ++i) speeds(i);
    std::vector<Finding> out;
    for (auto& [key, finding] : found_) out.push_back(std::move(finding));
    return out;
  }

 private:
  void tell(const char* rule, const char* kind, std::uint32_t line, Vec3 at, double number, double limit, Words text) {
    const auto [it, fresh] =
        found_.try_emplace(kind, Finding{kind, Weight::stop, text, name_, line, at, number, limit, rule, 1});
    if (fresh) return;
    Finding& f = it->second;
    const std::size_t count = f.count + 1;
    if (std::abs(number - limit) > std::abs(f.number - f.limit))
      f = {kind, Weight::stop, std::move(text), name_, line, at, number, limit, rule, 1};
    f.count = count;
  }
  [[nodiscard]] Vec3 before(std::size_t i) const { return i == 0 ? p_.start : p_.moves[i - 1].to; }
  [[nodiscard]] bool at_top(std::size_t next) const {
    return next > 0 && (p_.moves[next - 1].machine & 4) != 0 && top_of(next - 1);
  }
  /// A move to the machine's top: with G53 to z 0, the start's z being that (the reader is given it).
  [[nodiscard]] bool top_of(std::size_t i) const { return std::abs(p_.moves[i].to.z - top(p_.moves[i].tool)) < home; }
  [[nodiscard]] double top(std::uint16_t tool) const { return origin_(p_.tools[tool].number).z; }
  /// Retracted, then over to the parking place at that height, and nothing after it: what it ends with are moves in
  /// machine coordinates, none of which goes sideways lower down.
  [[nodiscard]] bool parked(std::size_t end) const {
    if (end == 0) return false;
    const ReadMove& last = p_.moves[end - 1];
    const Vec3 origin = origin_(p_.tools[last.tool].number);
    if (last.machine == 0 || !top_of(end - 1) || std::abs(last.to.x - origin.x - m_.park.x) > home ||
        std::abs(last.to.y - origin.y - m_.park.y) > home)
      return false;
    for (std::size_t i = end; i-- > 0 && p_.moves[i].machine != 0;) {
      const ReadMove& m = p_.moves[i];
      const Vec3 a = before(i);
      const bool sideways = std::hypot(m.to.x - a.x, m.to.y - a.y) > home;
      if (sideways && (!top_of(i) || std::abs(a.z - top(m.tool)) > home)) return false;
    }
    return true;
  }

  /// Nothing may hang on what another program left behind.
  void groups() {
    struct Group {
      std::uint32_t bit;
      const char* words;
    };
    const bool arcs =
        std::any_of(p_.moves.begin(), p_.moves.end(), [](const ReadMove& m) { return m.kind == ReadKind::arc; });
    std::string unsaid;
    for (const Group& g :
         {Group{modal_group(6), "units (G20, G21)"}, Group{modal_group(2), "plane (G17)"},
          Group{modal_group(3), "absolute or not (G90)"}, Group{arcs ? modal_group(16) : 0, "centres of arcs (G91.1)"},
          Group{modal_group(5), "unit of feed (G94)"}, Group{modal_group(12), "offset (G54)"},
          Group{modal_group(7), "no radius compensation (G40)"}, Group{modal_group(8), "tool length (G49, G43)"},
          Group{modal_group(9), "no cycle (G80)"},
          Group{p_.cycle_line != 0 ? modal_group(10) : 0, "how far a drilling cycle comes back (G98, G99)"}})
      if ((p_.stated & g.bit) != g.bit) unsaid += (unsaid.empty() ? "" : ", ") + std::string(g.words);
    if (!unsaid.empty())
      tell("M6", "modes_unsaid", 1, {}, 0, 0,
           "The program does not say before it moves: " + unsaid + ". What ran before it decides.");
  }

  void words() {
    if (p_.path_mode == PathMode::unsaid && (m_.controller.exact_path || m_.controller.blend_tolerance))
      tell("M6", "path_mode", 1, {}, 0, 0,
           worded("The program does not say how corners are taken ({}).", m_.controller.exact_path ? "G61" : "G64 P"));
    if (p_.exact_said && !m_.controller.exact_path)
      tell("M6", "unknown_word", 1, {}, 0, 0, "G61 is used, and the machine's controller does not know it.");
    if (p_.path_mode == PathMode::blended ||
        (p_.path_mode == PathMode::blended_within && !m_.controller.blend_tolerance))
      tell("M6", "path_mode", 1, {}, 0, 0, "Corners are blended (G64) without a limit that the controller knows.");
    if (p_.path_mode != PathMode::blended && m_.controller.blend_tolerance && p_.path_tolerance > widest_blend)
      tell("M6", "path_mode", 1, {}, p_.path_tolerance, widest_blend,
           worded("Corners may be cut off by {} (G64); {} is the most.", exact_mm(p_.path_tolerance),
                  exact_mm(widest_blend)));
    const auto unknown = [&](std::uint32_t line, const char* word) {
      tell("M6", "unknown_word", line, {}, 0, 0, worded("{}, and the machine's controller does not know it.", word));
    };
    if (p_.cycle_line != 0 && !m_.controller.cycles) unknown(p_.cycle_line, "A drilling cycle is used");
    if (p_.air_line != 0 && !m_.controller.air)
      tell("M6", "unknown_word", p_.air_line, {}, 0, 0,
           "M7 or M8 is used, and the machine has no air blast there: coolant spoils the wood.");
    if (!m_.controller.arcs)
      if (const auto arc =
              std::find_if(p_.moves.begin(), p_.moves.end(), [](const ReadMove& m) { return m.kind == ReadKind::arc; });
          arc != p_.moves.end())
        unknown((*arc).line, "An arc is used");
    for (const ReadMove& m : p_.moves)
      if (m.machine != 0 && m.machine != tip_changed && !m_.controller.machine_moves)
        tell("M6", "unknown_word", m.line, m.to, 0, 0, "G53 is used, and the machine's controller does not know it.");
    for (const ToolUse& t : p_.tools)
      if (t.length_offset != 0 && !m_.controller.tool_lengths)
        tell("M6", "unknown_word", t.line, {}, 0, 0, "G43 is used, and the machine's controller does not know it.");
  }

  /// G53 leads to the machine's top, and over at that height. Where z was set by a probe, a place that is given in the
  /// machine's coordinates is another one with the next cutter.
  void machine_moves() {
    if (found_.contains("first_motion") || found_.contains("not_parked")) return;  // told by these
    for (std::size_t i = 0; i < p_.moves.size(); ++i) {
      const ReadMove& m = p_.moves[i];
      if (m.machine == 0 || m.machine == tip_changed || top_of(i)) continue;
      tell(
          "M7", "machine_low", m.line, m.to, top(m.tool) - m.to.z, 0,
          worded("A move in machine coordinates (G53) ends {} under the machine's top: how high that is over the work, "
                 "no probe has said.",
                 mm(top(m.tool) - m.to.z)));
    }
  }

  /// M3: up in machine coordinates before anything else; then over, then down.
  void begins() {
    if (p_.moves.empty()) return;
    const ReadMove& first = p_.moves[p_.moves.front().machine == tip_changed && p_.moves.size() > 1 ? 1 : 0];
    if (m_.controller.machine_moves) {
      if (first.machine != 4 || std::abs(first.to.z - top(first.tool)) > home || first.kind != ReadKind::rapid)
        tell("M3", "first_motion", first.line, first.to, 0, 0,
             "The first motion is not a retract in machine coordinates (G53 G0 Z0): where the machine stands, nobody "
             "knows.");
    } else if (std::none_of(p_.pauses.begin(), p_.pauses.end(),
                            [](const ReadProgram::Pause& p) { return !p.optional && p.before_move == 0; })) {
      tell("M3", "first_motion", first.line, first.to, 0, 0,
           "The controller does not know G53, and the program does not stop first for the machine to be homed.");
    }
    for (std::size_t i = 0; i < p_.moves.size(); ++i) {
      const ReadMove& m = p_.moves[i];
      if (m.machine != 0 || (m.known & 3) == 3) continue;
      if (m.to.z < before(i).z - 1e-9 || m.kind != ReadKind::rapid) {
        tell("M3", "first_motion", m.line, m.to, 0, 0, "It comes down over a place that the program has not said.");
        break;
      }
    }
    after_top(0);
  }

  /// From the machine's top the way leads over first, then down.
  void after_top(std::size_t from) {
    for (std::size_t i = from; i < p_.moves.size(); ++i) {
      const ReadMove& m = p_.moves[i];
      if (m.machine != 0) continue;
      const Vec3 a = before(i);
      if (m.to.z < a.z - 1e-9 && std::hypot(m.to.x - a.x, m.to.y - a.y) > 1e-6)
        tell("M3", "first_motion", m.line, m.to, 0, 0,
             "The way over and the way down from the machine's top are one move.");
      return;
    }
  }

  /// After a stop or a change of cutter nobody knows where the machine stands: the first motion is a retract again.
  void up_again(std::size_t from, std::uint32_t line) {
    while (from < p_.moves.size() && p_.moves[from].machine == tip_changed) ++from;
    if (!m_.controller.machine_moves || from >= p_.moves.size()) return;
    const ReadMove& m = p_.moves[from];
    if (m.machine == 4 && m.kind == ReadKind::rapid && top_of(from)) return;
    tell("M3", "first_motion", line, m.to, 0, 0,
         "After a stop or a change of cutter the first motion is not a retract in machine coordinates (G53 G0 Z0): "
         "where a hand has left the machine, nobody knows.");
  }

  /// A cutter comes in at the machine's top, the first one too: with a magazine the change itself moves the machine.
  void up_before(const ToolUse& tool) {
    std::size_t at = tool.first_move;
    while (at > 0 && p_.moves[at - 1].machine == tip_changed) --at;
    if (!m_.controller.machine_moves || (at > 0 && (p_.moves[at - 1].machine == 0 || top_of(at - 1)))) return;
    tell("M3", "first_motion", tool.line, {}, 0, 0,
         worded("T{} comes in before the machine has retracted (G53 G0 Z0): where it stands, nobody knows.",
                tool.number));
  }

  /// Without G53 a program cannot say how high the machine stands, but it goes up out of the work.
  void over_work(std::size_t end, std::uint32_t line, const char* what) {
    while (end > 0 && p_.moves[end - 1].machine == tip_changed) --end;
    if (end == 0 || p_.moves[end - 1].to.z >= rapid_room - home) return;
    const Vec3 at = p_.moves[end - 1].to;
    tell("M3", "not_parked", line, at, at.z, rapid_room,
         worded("{} with its tip at z {}; it goes up to {} at least.", what, mm(at.z), mm(rapid_room, 0)));
  }

  /// M3 and M4: before a hand comes near, the spindle stands still, up and parked; afterwards it begins anew.
  void stops() {
    std::vector<std::pair<std::size_t, std::uint32_t>> all;
    for (const auto& pause : p_.pauses) {
      if (pause.spindle)
        tell("M3", "stop_turning", pause.line, {}, 0, 0, "It stops for a hand while the spindle turns.");
      if (pause.before_move > 0) all.push_back({pause.before_move, pause.line});
      up_again(pause.before_move, pause.line);
    }
    for (const ToolUse& tool : p_.tools) {
      if (tool.length_line != 0)
        tell(
            "M4", "tool_length", tool.length_line, {}, 0, 0,
            worded("Between two moves of T{} its length is changed: its tip is elsewhere from there on.", tool.number));
      // Where z is probed with the cutter that cuts, a length from the controller's table would be counted twice.
      if (m_.change == CutterChange::by_hand && tool.length_offset != 0 && m_.controller.tool_lengths)
        tell("M4", "tool_length", tool.line, {}, tool.length_offset, 0,
             worded("T{} is used with a length of the controller's table (G43 H{}), and z is probed with it.",
                    tool.number, tool.length_offset));
    }
    std::size_t with_cutters = 0;
    for (std::size_t t = 1; t < p_.tools.size(); ++t) {
      const ToolUse& tool = p_.tools[t];
      if (tool.spindle_at_change)
        tell("M4", "change_turning", tool.line, {}, 0, 0, "The cutter is changed while the spindle turns.");
      const bool used = std::any_of(p_.moves.begin(), p_.moves.end(), [&](const ReadMove& m) { return m.tool == t; });
      const bool works = std::any_of(p_.moves.begin(), p_.moves.end(),
                                     [&](const ReadMove& m) { return m.tool == t && m.machine == 0; });
      // A hand, or a magazine, brings it in all the same; and by hand z was probed with another.
      if (!works && t + 1 < p_.tools.size())
        tell("M4", "change_in_vain", tool.line, {}, 0, 0,
             worded("T{} comes in and does nothing before T{} does.", tool.number, p_.tools[t + 1].number));
      if (!used) continue;
      ++with_cutters;
      up_before(tool);
      up_again(tool.first_move, tool.line);
      const bool worked = std::any_of(p_.moves.begin(), p_.moves.begin() + static_cast<std::ptrdiff_t>(tool.first_move),
                                      [](const ReadMove& m) { return m.machine == 0; });
      if (m_.change == CutterChange::by_hand && worked && !tool.paused)
        tell("M4", "change_without_stop", tool.line, {}, 0, 0,
             worded("T{} comes in without a stop for the hand that changes it.", tool.number));
      if (m_.change == CutterChange::magazine && tool.length_offset != tool.number && m_.controller.tool_lengths)
        tell("M4", "tool_length", tool.line, {}, tool.length_offset, tool.number,
             worded("T{} is used with the length of another cutter (G43 H{}).", tool.number, tool.length_offset));
      if (worked) all.push_back({tool.first_move, tool.line});
    }
    if (m_.change == CutterChange::magazine && with_cutters > 1 && !m_.controller.tool_lengths)
      tell("M4", "tool_length", p_.tools[1].line, {}, 0, 0,
           "Several cutters come out of a magazine, and the controller knows no tool lengths (G43).");
    if (!m_.controller.machine_moves) {
      for (const auto& [move, line] : all) over_work(move, line, "It stops for a hand");
      return;
    }
    for (const auto& [move, line] : all) {
      if (!parked(move))
        tell("M3", "not_parked", line, before(move), 0, 0,
             "It stops for a hand without having retracted (G53 G0 Z0) and parked.");
      after_top(move);
    }
  }

  void ends() {
    if (!p_.ends) tell("M3", "no_end", static_cast<std::uint32_t>(p_.lines), {}, 0, 0, "The program has no end (M30).");
    if (p_.turning_at_end)
      tell("M3", "ends_turning", static_cast<std::uint32_t>(p_.lines), {}, 0, 0, "It ends with the spindle turning.");
    if (!m_.controller.machine_moves) over_work(p_.moves.size(), static_cast<std::uint32_t>(p_.lines), "It ends");
    if (!p_.moves.empty() && m_.controller.machine_moves && !parked(p_.moves.size()))
      tell("M3", "not_parked", p_.moves.back().line, p_.moves.back().to, 0, 0,
           "It ends without having retracted (G53 G0 Z0) and parked.");
  }

  /// M5: every axis within its speed, the spindle within its range, turning the right way and up to speed.
  void speeds(std::size_t i) {
    const ReadMove& m = p_.moves[i];
    if (m.kind == ReadKind::rapid) return;
    const auto feed = static_cast<double>(m.feed);
    const double plane = std::min(m_.max_feed.x, m_.max_feed.y);
    if (feed > std::max(m_.max_feed.x, m_.max_feed.y) * feed_slack)
      tell("M5", "feed_high", m.line, m.to, feed, std::max(m_.max_feed.x, m_.max_feed.y),
           worded("A feed of {:.0f} mm/min; the machine goes {:.0f}.", feed, std::max(m_.max_feed.x, m_.max_feed.y)));
    const Vec3 a = before(i);
    const auto axis = [&](const char* which, double along, double l, double most) {
      if ((std::abs(along) - last_digit) / l * feed > most * feed_slack)
        tell("M5", "axis_fast", m.line, m.to, std::abs(along) / l * feed, most,
             worded("{} would go {:.0f} mm/min; its axis goes {:.0f}.", which, std::abs(along) / l * feed, most));
    };
    if (m.kind == ReadKind::line) {
      const double l = distance(a, m.to);
      if (l > 1e-4) {
        axis("x", m.to.x - a.x, l, m_.max_feed.x);
        axis("y", m.to.y - a.y, l, m_.max_feed.y);
        axis("z", m.to.z - a.z, l, m_.max_feed.z);
      }
    } else if (m.plane == Plane::xy) {
      const double r = std::hypot(a.x - m.centre.x, a.y - m.centre.y);
      double turn =
          std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - std::atan2(a.y - m.centre.y, a.x - m.centre.x);
      if (m.clockwise) turn = -turn;
      if (turn <= 1e-12) turn += 2 * std::numbers::pi;
      const double l = std::hypot(r * turn, m.to.z - a.z);
      if (l > 1e-6) {
        axis("x and y on an arc", r * turn, l, plane);
        axis("z", m.to.z - a.z, l, m_.max_feed.z);
      }
    } else {
      axis("z on an arc", 1, 1, std::min(plane, m_.max_feed.z));
    }
    if (m.backwards) tell("M5", "spindle_backwards", m.line, m.to, 0, 0, "The spindle turns backwards (M4).");
    if (!m.spindle) return;  // whether it meets wood so, the wood tells
    const auto rpm = static_cast<double>(m.rpm);
    if (rpm < m_.spindle_low - 0.5 || rpm > m_.spindle_high + 0.5)
      tell("M5", "spindle_speed", m.line, m.to, rpm, rpm < m_.spindle_low ? m_.spindle_low : m_.spindle_high,
           worded("The spindle is to turn {:.0f} 1/min; it turns {:.0f} to {:.0f}.", rpm, m_.spindle_low,
                  m_.spindle_high));
    if (!m.waited)
      tell("M5", "spindle_not_up", m.line, m.to, 0, 0,
           "It cuts before the spindle has had time to come up to speed (G4).");
  }

  const ReadProgram& p_;
  const std::string& name_;
  const Machine& m_;
  std::function<Vec3(int)> origin_;
  std::map<std::string, Finding> found_;

 public:
  void set_origin(std::function<Vec3(int)> origin) { origin_ = std::move(origin); }
};

}  // namespace

Vec3 machine_origin(const Setup& setup, double stickout) {
  const double tip_home = setup.machine.clear_under_nut - stickout;  // over the waste board
  return {-setup.zero_in_machine.x, -setup.zero_in_machine.y, tip_home - setup.blank.thickness};
}

std::vector<Finding> text_findings(const ReadProgram& program, const std::string& name, const Machine& machine,
                                   const std::function<Vec3(int)>& origin) {
  TextRules rules(program, name, machine);
  rules.set_origin(origin);
  return rules.run();
}

}  // namespace wren
