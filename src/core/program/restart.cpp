#include "core/program/restart.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>
#include <zlib.h>

#include "core/program/reader.hpp"

namespace wren {
namespace {

constexpr double level = 1e-4;  // mm: the programs' own resolution is 0.001

struct Place {
  std::uint32_t line = 0;
  Vec3 from;            // where the tip stood, work frame; its z means nothing where it came from the machine's top
  bool at_top = false;  // it has not come down yet
  double feed = 0;      // mm/min, of the last cut before it
  double rpm = 0;
  std::size_t tool = 0;
};

struct Laid {
  std::vector<std::string_view> lines;
  std::vector<Place> places;
  std::vector<std::uint32_t> tool_lines;  // of M6, by tool
  std::vector<std::uint32_t> first_work;  // first line that moves in the work frame, by tool
};

std::vector<std::string_view> lines_of_text(std::string_view text) {
  std::vector<std::string_view> out;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    out.push_back(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
  }
  return out;
}

bool says_all(std::string_view line) {
  return line.starts_with("G0") && (line.size() < 3 || line[2] < '0' || line[2] > '9') &&
         line.find_first_of("XY") != std::string_view::npos && line.find("G53") == std::string_view::npos;
}

std::optional<Laid> lay(std::string_view text) {
  ReadOptions options;
  options.machine_origin = [](int) { return Vec3{-1e4, -1e4, 1e4}; };  // far up: what is at its top is over everything
  const auto read = read_program(text, "program", options);
  if (!read) return {};
  Laid out{lines_of_text(text), {}, {}, {}};
  for (const ToolUse& t : read->tools) out.tool_lines.push_back(t.line);
  out.first_work.assign(out.tool_lines.size(), 0);
  double high = -1e300;
  for (const ReadMove& m : read->moves)
    if (m.machine == 0) high = std::max(high, m.to.z <= 5e3 ? m.to.z : high);
  Place now;
  std::uint32_t last = 0;
  for (std::size_t i = 0; i < read->moves.size(); ++i) {
    const ReadMove& m = read->moves[i];
    if (m.machine == 0 && m.tool < out.first_work.size() && out.first_work[m.tool] == 0)
      out.first_work[m.tool] = m.line;
    const Vec3 before = i == 0 ? read->start : read->moves[i - 1].to;
    const bool over = before.z >= high - level && m.to.z >= high - level;
    if (i > 0 && m.machine == 0 && m.kind == ReadKind::rapid && m.spindle && m.waited && over && m.line != last &&
        m.line >= 1 && m.line <= out.lines.size() && says_all(out.lines[m.line - 1])) {
      now.line = m.line;
      now.from = before;
      now.at_top = before.z > 5e3;
      now.rpm = static_cast<double>(m.rpm);
      now.tool = m.tool;
      out.places.push_back(now);
    }
    last = m.line;
    if (m.kind != ReadKind::rapid && m.feed > 0) now.feed = static_cast<double>(m.feed);
  }
  return out;
}

}  // namespace

std::vector<std::uint32_t> restart_lines(std::string_view text) {
  std::vector<std::uint32_t> out;
  if (const auto laid = lay(text))
    for (const Place& p : laid->places) out.push_back(p.line);
  return out;
}

namespace {

struct Made {
  std::string text;
  RestartShift shift;
};

Expected<Made> make(std::string_view text, std::uint32_t line) {
  const auto laid = lay(text);
  if (!laid) return fail(ProblemKind::format, "the program cannot be read", "", "Write it again");
  const auto place =
      std::find_if(laid->places.begin(), laid->places.end(), [&](const Place& p) { return p.line == line; });
  if (place == laid->places.end())
    return fail(ProblemKind::input, worded("the program cannot be begun again at line {}", line), "",
                "Choose one of the lines that its manifest lists, or run it from its beginning");
  Made out;
  std::uint32_t count = 0;
  const auto say = [&](std::string_view one) {
    out.text += one;
    out.text += '\n';
    ++count;
  };
  const auto copy = [&](std::uint32_t from, std::uint32_t before) {
    for (std::uint32_t n = from; n < before; ++n) say(laid->lines[n - 1]);
  };
  // Tool 0 of the reader is whatever is in the spindle before the first M6.
  const std::size_t first = laid->tool_lines.size() > 1 && laid->tool_lines[0] == 0 ? 1 : 0;
  const std::uint32_t own_tool = laid->tool_lines[place->tool];
  const std::uint32_t first_tool = laid->tool_lines[first];
  const std::uint32_t first_work = laid->first_work[place->tool];
  if (own_tool == 0 || first_work == 0 || first_tool == 0)
    return fail(ProblemKind::unsupported, "the program does not say its cutter before it moves", "",
                "Run it from its beginning");
  copy(1, first_tool);
  say(fmt::format("(begun again at line {})", line));
  copy(own_tool, first_work);
  bool inch = false;
  for (std::uint32_t n = 1; n < first_tool; ++n)
    if (laid->lines[n - 1].starts_with("G20")) inch = true;
  const double unit = inch ? 25.4 : 1;
  const int digits = inch ? 5 : 3;
  if (!place->at_top) {
    say(fmt::format("G0X{0:.{3}f}Y{1:.{3}f}", place->from.x / unit, place->from.y / unit, 0, digits));
    say(fmt::format("Z{:.{}f}", place->from.z / unit, digits));
  }
  if (place->rpm > 0) say(fmt::format("S{}", std::lround(place->rpm)));
  if (place->feed > 0) say(fmt::format("F{:.3f}", place->feed / unit));
  out.shift.way_in = count;
  out.shift.shift = static_cast<long>(line) - static_cast<long>(count) - 1;
  std::uint32_t end = static_cast<std::uint32_t>(laid->lines.size());
  if (end > 0 && laid->lines[end - 1].starts_with("(end:")) --end;
  copy(line, end + 1);
  const auto crc = crc32_z(0, reinterpret_cast<const Bytef*>(out.text.data()), out.text.size());
  out.text += fmt::format("(end: {} lines, crc32 {:08x})\n", count + 1, crc);
  return out;
}

}  // namespace

Expected<std::string> restart_text(std::string_view text, std::uint32_t line) {
  auto made = make(text, line);
  if (!made) return tl::unexpected(made.error());
  return std::move(made->text);
}

Expected<RestartShift> restart_shift(std::string_view text, std::uint32_t line) {
  const auto made = make(text, line);
  if (!made) return tl::unexpected(made.error());
  return made->shift;
}

}  // namespace wren
