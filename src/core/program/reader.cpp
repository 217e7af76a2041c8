#include "core/program/reader.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>

#include <fmt/format.h>
#include <zlib.h>

#include "core/program/arc.hpp"
#include "core/program/block.hpp"
#include "core/program/plain_words.hpp"

namespace wren {
namespace {

constexpr double inch = 25.4;
constexpr std::string_view seal_head = "end: ", seal_middle = " lines, crc32 ";
constexpr std::size_t most_comments = 100;   // before the first motion that are kept whatever they say
constexpr std::size_t longest_line = 256;    // NISTIR 6556, section 3.3.1
constexpr double worth_knowing = 1.0;        // s: longer waits are told of
constexpr double one_place = 0.5;            // mm: waits that lie nearer to each other are one
constexpr std::size_t most_said = 1U << 20;  // characters of all stops' comments
constexpr double same_speed = 0.1;           // of a spindle's speed: a larger change takes its time
constexpr double least_wait = 1.0;           // s that a small spindle needs to come up (common practice: 2 to 5)

/// The modal group of a G word (tenths), as a bit; 0 for those of none.
std::uint32_t group_bit(int g) {
  switch (g) {
    case 170:
    case 180:
    case 190: return modal_group(2);
    case 900:
    case 910: return modal_group(3);
    case 901:
    case 911: return modal_group(16);
    case 940: return modal_group(5);
    case 200:
    case 210: return modal_group(6);
    case 400: return modal_group(7);
    case 490:
    case 430: return modal_group(8);
    case 800: return modal_group(9);
    case 980:
    case 990: return modal_group(10);
    case 540:
    case 550:
    case 560:
    case 570:
    case 580:
    case 590: return modal_group(12);
    default: return 0;
  }
}

class Reader {
 public:
  Reader(std::string_view text, const ReadOptions& options) : text_(text), options_(options) {
    program_.start = options.start;
    at_ = options.start;
    program_.tools.push_back({});
  }

  Expected<ReadProgram> run(const std::string& name) {
    try {
      const char* p = text_.data();
      const char* end = p + text_.size();
      while (p < end) {
        ++line_;
        if (ended_ && static_cast<std::size_t>(end - p) > 4096)
          throw Refusal{"there is more after the program's end", "Send the file again"};
        p = one_line(p, end);
      }
      program_.lines = line_;
      came_in();
      if (!worked_) take_path_mode();
      if (ours_ && !program_.sealed)
        throw Refusal{"the last line with count and checksum is missing: the file was cut short",
                      "Write the program again and do not run this one"};
      if (!ended_ && ours_) throw Refusal{"the program has no end", "Write the program again"};
    } catch (const Refusal& refusal) {
      return fail(ProblemKind::format, refusal.what, worded("{}, line {}", name, std::max<std::size_t>(line_, 1)),
                  refusal.todo);
    }
    return std::move(program_);
  }

 private:
  const char* one_line(const char* p, const char* end) {
    const char* begin = p;
    Block block;
    bool percent = false;
    bool other = false;  // anything but a percent sign
    for (; p < end && *p != '\n';) {
      const char c = *p;
      check_length(p, begin);
      if (c == ' ' || c == '\t') {
        ++p;
        continue;
      }
      if (c == '\r') {
        // Some controllers end a line there, others read on.
        if (p + 1 < end && p[1] != '\n') throw Refusal{"a line's end within a line", "Send the file again"};
        ++p;
        continue;
      }
      if (c == '%' && !percent) {
        percent = true;
        ++p;
        continue;
      }
      other = true;
      if (c == '(') {
        p = comment(p, begin, end);
      } else if (c == ';') {
        const char* stop = static_cast<const char*>(std::memchr(p, '\n', static_cast<std::size_t>(end - p)));
        if (stop == nullptr) stop = end;
        std::string_view body(p + 1, static_cast<std::size_t>(stop - p - 1));
        if (!body.empty() && body.back() == '\r') body.remove_suffix(1);
        check_comment(body);
        note(body);
        p = stop;
      } else {
        p = read_word(p, end, block);
      }
    }
    check_length(p, begin);
    if (percent) {
      if (other) throw Refusal{"a % that does not stand alone in its line", "The line may be damaged"};
      mark();
    }
    began_ = began_ || percent || other;
    if (!block.empty) execute(block);
    return p < end ? p + 1 : p;
  }

  static void check_length(const char* p, const char* begin) {
    if (static_cast<std::size_t>(p - begin) > longest_line)
      throw Refusal{fmt::format("the line is longer than {} characters", longest_line), "Check that this is a program"};
  }

  /// A percent sign: the file's first line, or with that one its end (NISTIR 6556, section 3.2).
  void mark() {
    if (!began_)
      marked_ = true;
    else if (marked_ || ended_)
      ended_ = true;
    else
      throw Refusal{"a % in the middle: a controller ends the program there", "Leave it out"};
  }

  const char* comment(const char* p, const char* line_begin, const char* end) {
    const char* close = p + 1;
    while (close < end && *close != ')' && *close != '\n' && *close != '(') ++close;
    if (close >= end || *close != ')') throw Refusal{"a comment is not closed", "The line may be damaged"};
    const std::string_view body(p + 1, static_cast<std::size_t>(close - p - 1));
    check_comment(body);
    // A seal is held against the text whatever the first line says: that may be what is damaged.
    if (body.starts_with(seal_head) && body.find(seal_middle) != std::string_view::npos) check_seal(body, line_begin);
    note(body);
    return close + 1;
  }

  void note(std::string_view body) {
    if (body == "upland wren program 1" || body == "upland wren program 2")
      ours_ = true;
    else if (body.substr(0, 20) == "upland wren program ")
      throw Refusal{"the program was written by a newer version", "Update this program, or write the program again"};
    if ((program_.moves.empty() && program_.comments.size() < most_comments) || tells(body)) {
      if (program_.comments.size() > 100 * most_comments)
        throw Refusal{"more is said to a hand than anybody reads", "Leave out what is said again"};
      program_.comments.emplace_back(body);
    }
    if (said_.size() > 4000) said_.erase(0, 2000);
    said_.append(said_.empty() ? "" : "; ").append(body);
    // More than anybody reads is said as that, so that nothing hides behind it.
    if (at_stop_) said_after_ = said_after_.size() < 4000 ? said_after_.append("; ").append(body) : "; and so on";
  }

  /// What stands behind a stop is read by the hand that it waits for: up to the next line that does something.
  void leave_stop(const Block& b) {
    if (!at_stop_ || std::any_of(b.m, b.m + b.m_count, [](int m) { return m == 0 || m == 10; })) return;
    if (said_in_all_ < most_said) program_.pauses.back().says += said_after_;
    said_in_all_ += said_after_.size();
    at_stop_ = false;
  }

  /// What a hand goes by, wherever it stands and however it is put: the words that our headers and stops begin with,
  /// and those that a controller acts on.
  static bool tells(std::string_view body) {
    static constexpr std::string_view keys[] = {"part:", "blank:", "zero:", "probe z", "cutter:", "change to"};
    const std::string said = plain_words(body);
    return acted_on(said) ||
           std::any_of(std::begin(keys), std::end(keys), [&](std::string_view key) { return said.starts_with(key); });
  }

  void check_seal(std::string_view body, const char* line_begin) {
    unsigned long lines = 0;
    unsigned long sum = 0;
    const std::size_t middle = body.find(seal_middle);
    const auto whole = [](std::string_view digits, unsigned long& to, int base) {
      const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), to, base);
      return error == std::errc() && end == digits.data() + digits.size();
    };
    if (!whole(body.substr(seal_head.size(), middle - seal_head.size()), lines, 10) ||
        !whole(body.substr(middle + seal_middle.size()), sum, 16))
      throw Refusal{"the last line is damaged", "Write the program again"};
    const auto crc =
        crc32_z(0, reinterpret_cast<const Bytef*>(text_.data()), static_cast<std::size_t>(line_begin - text_.data()));
    if (crc != sum)
      throw Refusal{
          fmt::format("the checksum is {:08x} and should be {:08x}: the file was damaged or edited", crc, sum),
          "Write the program again and do not run this one"};
    if (lines != line_)
      throw Refusal{fmt::format("this is line {} and should be line {}", line_, lines),
                    "Write the program again and do not run this one"};
    program_.sealed = true;
  }

  void execute(const Block& b) {
    if (ended_) throw Refusal{"a word after the program's end", "The file may be damaged"};
    leave_stop(b);
    static constexpr std::uint32_t known = [] {
      std::uint32_t bits = 0;
      for (const char c : {'F', 'H', 'I', 'J', 'K', 'L', 'N', 'P', 'Q', 'R', 'S', 'T', 'X', 'Y', 'Z'})
        bits |= 1U << (c - 'A');
      return bits;
    }();
    if ((b.given & ~known) != 0)
      for (char c = 'A'; c <= 'Z'; ++c)
        if (b.has(c) && (known >> (c - 'A') & 1U) == 0)
          throw Refusal{fmt::format("the word {} is not known here", c), "Leave it out"};
    int motion = -1;
    int groups = 0;  // bit per modal group seen in this line
    const auto once = [&](int group) {
      if ((groups >> group & 1) != 0)
        throw Refusal{"two words of one modal group in one line", "Put them in separate lines"};
      groups |= 1 << group;
    };
    bool dwell = false;
    bool machine = false;
    const double unit_before = unit_;
    for (int i = 0; i < b.g_count; ++i) {
      // How far a drilling cycle comes back may be said as late as beside the first of them.
      const std::uint32_t group = group_bit(b.g[i]);
      if (program_.moves.empty() || (group == modal_group(10) && program_.cycle_line == 0)) program_.stated |= group;
      switch (b.g[i]) {
        case 0:
        case 10:
        case 20:
        case 30:
        case 730:
        case 800:
        case 810:
        case 820:
        case 830:
          once(1);
          motion = b.g[i] / 10;
          break;
        case 40: dwell = true; break;
        case 170:
          once(2);
          plane_ = Plane::xy;
          break;
        case 180:
          once(2);
          plane_ = Plane::zx;
          break;
        case 190:
          once(2);
          plane_ = Plane::yz;
          break;
        case 200:
          once(6);
          unit_ = inch;
          break;
        case 210:
          once(6);
          unit_ = 1;
          break;
        case 400: once(7); break;
        case 490:
          once(8);
          take_length(0);
          break;
        case 940: once(5); break;
        case 530:
          once(0);
          machine = true;
          break;
        case 610:
          once(13);
          path_mode_ = PathMode::exact;
          program_.exact_said = true;
          break;
        case 640:
          once(13);
          path_mode_ = b.has('P') && b.of('P') > 0 ? PathMode::blended_within : PathMode::blended;
          path_tolerance_ = std::max(b.has('P') ? b.of('P') * unit_ : 0, b.has('Q') ? b.of('Q') * unit_ : 0);
          break;
        case 430:
          once(8);
          if (!b.has('H')) throw Refusal{"G43 without H", "Name the tool length"};
          take_length(static_cast<int>(std::clamp(b.of('H'), 0.0, 9999.0)));
          break;
        case 540:
        case 550:
        case 560:
        case 570:
        case 580:
        case 590: {
          once(12);
          const auto& offset = options_.offsets[static_cast<std::size_t>(b.g[i] / 10 - 54)];
          if (!offset) throw Refusal{worded("G{} is used and its offset is not known", b.g[i] / 10), "Use G54"};
          offset_ = *offset;
          break;
        }
        case 900:
          once(3);
          absolute_ = true;
          break;
        case 910:
          once(3);
          absolute_ = false;
          break;
        case 901:
          once(4);
          centre_absolute_ = true;
          break;
        case 911:
          once(4);
          centre_absolute_ = false;
          break;
        case 980:
          once(10);
          to_initial_ = true;
          break;
        case 990:
          once(10);
          to_initial_ = false;
          break;
        default: throw unknown_word('G', b.g[i]);
      }
    }
    check_used(b, motion >= 0 ? motion : mode_, dwell);
    if (unit_ != unit_before && !b.has('F')) feed_ = 0;  // some controllers keep its number, others what it means
    if (b.has('F')) {
      // By NISTIR 6556 (section 3.8) the feed is set before the units are; others read the whole line in the new ones.
      if (unit_ != unit_before)
        throw Refusal{"a feed in the line that changes the units: controllers read it in one or the other",
                      "Put it in a line of its own"};
      feed_ = b.of('F') * unit_;
      if (!(feed_ > 0)) throw Refusal{"the feed is not above zero", "Give a feed"};
    }
    if (b.has('S')) {
      const double now = b.of('S');
      if (!(now >= 0)) throw Refusal{"the spindle speed is negative", ""};
      // Against the speed that it has waited for: many small steps are a large one.
      if (std::abs(now - waited_rpm_) > same_speed * waited_rpm_) waited_ = false;
      rpm_ = now;
    }
    if (b.has('T')) {
      const double t = b.of('T');
      if (!(t >= 0 && t <= 9999) || t != std::floor(t)) throw Refusal{worded("T{} is not a tool number", t), ""};
      came_in();
      chosen_ = static_cast<int>(t);
      chosen_line_ = line_;
    }
    check_groups(b);
    machine_words(b, true);
    if (dwell) {
      if (!b.has('P')) throw Refusal{"G4 without P", "Give the time to wait"};
      if (b.of('P') < 0) throw Refusal{"G4 with a time below nothing", "Give the time to wait"};  // NISTIR 6556, 3.5.4
      const double seconds = b.of('P') * options_.dwell_unit;
      if (spindle_ && seconds >= least_wait) {
        waited_ = true;
        waited_rpm_ = rpm_;
      }
      wait(seconds);
      if (motion >= 0 || b.has('X') || b.has('Y') || b.has('Z'))
        throw Refusal{"a move in a line with G4", "Put it in a line of its own"};
    } else {
      if (motion >= 0) start_motion(motion);
      if (machine)
        machine_move(b);
      else
        move(b);
    }
    machine_words(b, false);
  }

  /// A cutter that is named and does not come in: some controllers change it at the T.
  void came_in() const {
    if (chosen_line_ != 0)
      throw Refusal{worded("T{} is named in line {} and does not come in (M6)", chosen_, chosen_line_),
                    "Leave it out, or bring it in"};
  }

  /// The length offset in force from here on.
  void take_length(int offset) {
    length_ = offset;
    length_line_ = line_;
    if (!tool_worked_) program_.tools.back().length_offset = offset;
  }
  /// A cutter has the length that is in force when it first moves over the work; another one lifts or sinks its tip.
  void hold_length() {
    ToolUse& tool = program_.tools.back();
    if (tool_worked_ && length_ != tool.length_offset && tool.length_line == 0)
      tool.length_line = static_cast<std::uint32_t>(length_line_);
    tool_worked_ = true;
  }

  /// What the next hand at the controller goes by; not the cutter's length, which a magazine leaves in force.
  struct Modes {
    Plane plane;
    double unit;
    bool absolute, centre_absolute;
    PathMode path;
    Vec3 offset;
    bool operator==(const Modes&) const = default;
  };
  [[nodiscard]] Modes modes() const { return {plane_, unit_, absolute_, centre_absolute_, path_mode_, offset_}; }
  /// Not every controller goes back to its own modes at the end: what is left in force moves the next jog elsewhere.
  void as_it_began() const {
    if (worked_ && modes() != first_modes_)
      throw Refusal{"it ends in other modes (units, plane, distances, offset, path) than it cut in",
                    "Leave them as they were: the next move by hand goes by them"};
  }

  void take_path_mode() {
    program_.path_mode = worked_ ? std::max(program_.path_mode, path_mode_) : path_mode_;
    if (path_mode_ == PathMode::blended_within)
      program_.path_tolerance = std::max(program_.path_tolerance, path_tolerance_);
  }

  /// Waits one after another at one place are one, whatever small moves are between them.
  void wait(double seconds) {
    if (!spindle_ || !(seconds > 0)) return;
    if (at_.z < 0) waited_below_ += seconds;
    if (waited_below_ > program_.strewn.seconds)
      program_.strewn = {at_, waited_below_, static_cast<std::uint32_t>(line_)};
    auto& waits = program_.waits;
    if (!waits.empty() && distance(waits.back().at, at_) < one_place) {
      waits.back().seconds += seconds;
      return;
    }
    if (!waits.empty() && waits.back().seconds <= worth_knowing) waits.pop_back();
    waits.push_back({at_, seconds, static_cast<std::uint32_t>(line_)});
  }

  void machine_words(const Block& b, bool before) {
    for (int i = 0; i < b.m_count; ++i) {
      const int m = b.m[i];
      if (m % 10 != 0) throw unknown_word('M', m);
      switch (m / 10) {
        case 3:
        case 4:
          if (before) {
            if (!spindle_ || backwards_ != (m / 10 == 4)) waited_ = false;
            spindle_ = true;
            backwards_ = m / 10 == 4;
          }
          break;
        case 5:
          if (before) spindle_ = false;
          break;
        case 6:
          if (before) {
            if (program_.tools.size() > 60000) throw Refusal{"more tool changes than can be", ""};
            ToolUse use;
            use.number = chosen_;
            chosen_line_ = 0;
            use.line = static_cast<std::uint32_t>(line_);
            use.spindle_at_change = spindle_;
            use.paused = stopped_before_ == program_.moves.size();
            use.first_move = program_.moves.size();
            use.length_offset = length_;
            tool_worked_ = false;
            const int was = program_.tools.back().number;
            program_.tools.push_back(use);
            // The spindle stays where it is, the new tip stands elsewhere.
            if (options_.machine_origin)
              if (const double by = options_.machine_origin(chosen_).z - options_.machine_origin(was).z; by != 0) {
                ReadMove change = straight({at_.x, at_.y, at_.z + by}, ReadKind::rapid);
                change.machine = tip_changed;
                push(change);
                program_.tools.back().first_move = program_.moves.size();
              }
            spindle_ = false;
          }
          break;
        case 7:
        case 8:
          if (program_.air_line == 0) program_.air_line = static_cast<std::uint32_t>(line_);
          break;
        case 9: break;
        case 0:
        case 1:
          if (!before) pause(m != 0);
          break;
        case 2:
        case 30:
          if (!before) {
            as_it_began();
            ended_ = true;
            program_.ends = true;
            program_.turning_at_end = spindle_;
          }
          break;
        default: throw unknown_word('M', m);
      }
    }
  }

  void pause(bool optional) {
    ReadProgram::Pause p{program_.moves.size(), static_cast<std::uint32_t>(line_), spindle_, optional};
    if (said_in_all_ < most_said) p.says = said_;
    said_in_all_ += p.says.size();
    program_.pauses.push_back(std::move(p));
    at_stop_ = true;
    said_after_.clear();
    if (optional) return;
    stopped_before_ = program_.moves.size();
    ToolUse& tool = program_.tools.back();
    if (tool.first_move == program_.moves.size()) tool.paused = true;
    // Where G53 is not known a hand brings the machine to its top: over which place, nobody knows.
    if (plain_words(said_).find("home the machine") == std::string::npos || !options_.machine_origin) return;
    const double top = options_.machine_origin(tool.number).z;
    if (top == at_.z) return;
    ReadMove up = straight({at_.x, at_.y, top}, ReadKind::rapid);
    up.machine = tip_changed;
    push(up);
    known_ = 0;
  }

  void start_motion(int motion) {
    if (motion >= 81 && motion <= 83) cycle_start_ = at_;
    if (motion == 73) cycle_start_ = at_;
    if (mode_ != motion) hole_ = {};
    mode_ = motion;
  }

  double target(const Block& b, char c, double now, double offset) const {
    if (!b.has(c)) return now;
    const double v = b.of(c) * unit_;
    return absolute_ ? v + offset : now + v;
  }

  /// G53: one straight move with its words in the machine frame, whatever the offset; NISTIR 6556 section 3.5.12.
  void machine_move(const Block& b) {
    if (mode_ != 0 && mode_ != 1) throw Refusal{"G53 with something else than G0 or G1", "Put G0 beside it"};
    if (!absolute_) throw Refusal{"G53 under G91", "Use G90"};
    if (!options_.machine_origin)
      throw Refusal{"G53 is used and where the machine's home lies is not known", "Prove it with its set-up"};
    const Vec3 origin = options_.machine_origin(program_.tools.back().number);
    ReadMove m;
    m.to = at_;
    const auto axis = [&](char c, double& to, double from, std::uint8_t bit) {
      if (!b.has(c)) return;
      to = from + b.of(c) * unit_;
      m.machine |= bit;
      known_ |= bit;
    };
    axis('X', m.to.x, origin.x, 1);
    axis('Y', m.to.y, origin.y, 2);
    axis('Z', m.to.z, origin.z, 4);
    if (m.machine == 0) throw Refusal{"G53 without a place to go to", "Give X, Y or Z"};
    if (!(std::abs(m.to.x) < 1e5 && std::abs(m.to.y) < 1e5 && std::abs(m.to.z) < 1e5))
      throw Refusal{"a place more than 100 m away", "The line may be damaged"};
    if (mode_ == 1) {
      if (!(feed_ > 0)) throw Refusal{"a cutting move without a feed", "Give F before it"};
      m.kind = ReadKind::line;
      m.feed = static_cast<float>(feed_);
    }
    push(m);
  }

  void move(const Block& b) {
    const bool any = b.has('X') || b.has('Y') || b.has('Z');
    if (mode_ == 73 || (mode_ >= 81 && mode_ <= 83)) {
      if (any || b.has('R')) cycle(b);
      return;
    }
    if (!any) {
      if ((mode_ == 2 || mode_ == 3) && (b.has('I') || b.has('J') || b.has('K') || b.has('R')))
        throw Refusal{"an arc without an end point", "Give its end"};
      return;
    }
    if (mode_ == 80 || mode_ < 0)
      throw Refusal{"a place to go to, but no way to go there (G0 to G3)", "Begin with G0 or G1"};
    const Vec3 to{target(b, 'X', at_.x, offset_.x), target(b, 'Y', at_.y, offset_.y), target(b, 'Z', at_.z, offset_.z)};
    if (!(std::abs(to.x) < 1e5 && std::abs(to.y) < 1e5 && std::abs(to.z) < 1e5))
      throw Refusal{"a place more than 100 m away", "The line may be damaged"};
    if (absolute_)
      known_ |= static_cast<std::uint8_t>((b.has('X') ? 1 : 0) | (b.has('Y') ? 2 : 0) | (b.has('Z') ? 4 : 0));
    if (mode_ == 0) {
      push(straight(to, ReadKind::rapid));
      return;
    }
    if (!(feed_ > 0)) throw Refusal{"a cutting move without a feed", "Give F before it"};
    if (mode_ == 1)
      push(straight(to, ReadKind::line));
    else
      arc(b, to);
  }

  [[nodiscard]] ReadMove straight(Vec3 to, ReadKind kind) const {
    ReadMove m;
    m.to = to;
    m.kind = kind;
    if (kind != ReadKind::rapid) m.feed = static_cast<float>(feed_);
    return m;
  }

  void push(ReadMove m) {
    if (program_.moves.size() >= options_.most_moves)
      throw Refusal{fmt::format("more than {} moves", options_.most_moves), "Split the program"};
    if (m.machine != tip_changed) came_in();
    m.line = static_cast<std::uint32_t>(line_);
    m.spindle = spindle_;
    m.backwards = backwards_;
    m.waited = waited_;
    m.rpm = static_cast<float>(rpm_);
    m.known = known_;
    m.tool = static_cast<std::uint16_t>(program_.tools.size() - 1);
    if (m.machine == 0) {
      take_path_mode();
      if (!worked_) first_modes_ = modes();
      worked_ = true;
      hold_length();
    }
    program_.moves.push_back(m);
    said_.clear();
    at_ = m.to;
    if (at_.z >= 0) waited_below_ = 0;
  }

  void arc(const Block& b, Vec3 to) {
    const ArcFrame frame{plane_, mode_ == 2, unit_, centre_absolute_ ? std::optional(offset_) : std::nullopt};
    ReadMove m = straight(to, ReadKind::arc);
    m.plane = plane_;
    m.clockwise = frame.clockwise;
    m.centre = arc_centre(b, at_, to, frame);
    push(m);
  }

  /// Canned drilling cycles in the XY plane, NISTIR 6556 section 3.5.16.
  void cycle(const Block& b) {
    if (plane_ != Plane::xy) throw Refusal{"a drilling cycle outside the XY plane", "Use G17"};
    if (program_.cycle_line == 0) program_.cycle_line = static_cast<std::uint32_t>(line_);
    if (!(feed_ > 0)) throw Refusal{"a drilling cycle without a feed", "Give F before it"};
    if (b.has('R')) hole_.retract = absolute_ ? b.of('R') * unit_ + offset_.z : cycle_start_.z + b.of('R') * unit_;
    if (!hole_.retract) throw Refusal{"a drilling cycle without R", "Give the retract height"};
    if (b.has('Z')) hole_.bottom = absolute_ ? b.of('Z') * unit_ + offset_.z : *hole_.retract + b.of('Z') * unit_;
    if (!hole_.bottom) throw Refusal{"a drilling cycle without Z", "Give the depth"};
    if (b.has('Q')) hole_.peck = b.of('Q') * unit_;
    if ((mode_ == 83 || mode_ == 73) && !(hole_.peck && *hole_.peck > 0))
      throw Refusal{"a peck cycle without Q", "Give the depth of a peck"};
    if (mode_ == 82 && !b.has('P') && !hole_.dwell) throw Refusal{"G82 without P", "Give the time to wait"};
    if (b.has('P')) hole_.dwell = b.of('P');
    const double retract = *hole_.retract;
    const double bottom = *hole_.bottom;
    if (bottom > retract) throw Refusal{"the hole's bottom lies above its retract height", "Check Z and R"};
    const auto spent = [&](double moves) {
      cycle_moves_ += moves;
      if (cycle_moves_ > static_cast<double>(options_.most_cycle_moves))
        throw Refusal{fmt::format("drilling cycles that mean more than {} moves", options_.most_cycle_moves),
                      "Check Q and L"};
    };
    const int times = b.has('L') ? static_cast<int>(std::clamp(b.of('L'), 0.0, 1000.0)) : 1;
    const double initial = std::max(cycle_start_.z, retract);
    const auto rapid = [&](Vec3 p) {
      if (!(p == at_)) push(straight(p, ReadKind::rapid));
    };
    spent(times * (hole_.peck && *hole_.peck > 0 ? 2 * (retract - bottom) / *hole_.peck + 4 : 4));
    for (int k = 0; k < times; ++k) {
      known_ |= 7;
      const Vec3 over{target(b, 'X', at_.x, offset_.x), target(b, 'Y', at_.y, offset_.y), at_.z};
      if (at_.z < retract) rapid({at_.x, at_.y, retract});
      rapid({over.x, over.y, at_.z});
      rapid({over.x, over.y, retract});
      if (mode_ == 83 || mode_ == 73) {
        const double clear = 0.25;
        double z = retract;
        if ((retract - bottom) / *hole_.peck > 10000)
          throw Refusal{"a peck so small that the hole takes more than 10000", "Check Q"};
        while (z > bottom + 1e-9) {
          if (z < retract) rapid({over.x, over.y, std::min(retract, z + clear)});
          z = std::max(bottom, z - *hole_.peck);
          push(straight({over.x, over.y, z}, ReadKind::line));
          if (mode_ == 83) rapid({over.x, over.y, retract});
        }
      } else {
        push(straight({over.x, over.y, bottom}, ReadKind::line));
        if (mode_ == 82) wait(hole_.dwell.value_or(0) * options_.dwell_unit);
      }
      rapid({over.x, over.y, to_initial_ ? initial : retract});
    }
  }

  std::string_view text_;
  const ReadOptions& options_;
  ReadProgram program_;
  std::size_t line_ = 0;
  bool ours_ = false;
  bool ended_ = false;
  bool began_ = false;   // a line with something in it
  bool marked_ = false;  // its first is a percent sign
  bool worked_ = false;  // it has moved over the work
  PathMode path_mode_ = PathMode::unsaid;
  double path_tolerance_ = 0;
  int length_ = 0;               // of the G43 in force
  std::size_t length_line_ = 0;  // where it was said
  bool tool_worked_ = false;     // the cutter has moved over the work
  double waited_below_ = 0;      // s of waits since the tip was last at z = 0 or over it
  bool spindle_ = false;
  bool backwards_ = false;
  bool waited_ = false;
  double waited_rpm_ = 0;                      // the speed that it has come up to
  std::optional<std::size_t> stopped_before_;  // the motion after the last M0
  std::string said_;                           // comments since the last motion
  std::size_t said_in_all_ = 0;                // characters that stops have kept of them
  bool at_stop_ = false;                       // nothing was done since the last M0 or M1
  std::string said_after_;                     // comments since then
  std::uint8_t known_ = 0;
  double cycle_moves_ = 0;
  Modes first_modes_{};  // at its first move over the work
  bool absolute_ = true;
  bool centre_absolute_ = false;
  bool to_initial_ = true;
  Plane plane_ = Plane::xy;
  double unit_ = 1;
  double feed_ = 0;
  double rpm_ = 0;
  int chosen_ = 0;
  std::size_t chosen_line_ = 0;  // of a T that no M6 has followed
  int mode_ = -1;
  Vec3 at_;
  Vec3 offset_;
  Vec3 cycle_start_;
  struct Hole {
    std::optional<double> retract, bottom, peck, dwell;
  } hole_;
};

}  // namespace

Expected<ReadProgram> read_program(std::string_view text, const std::string& name, const ReadOptions& options) {
  if (text.empty()) return fail(ProblemKind::format, "the program is empty", name, "Write it again");
  return Reader(text, options).run(name);
}

}  // namespace wren
