#include "run/at_machine.hpp"

#include <cmath>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double probe_feed = 120;    // mm/min
constexpr double short_of_end = 0.5;  // mm that a probe stops before z's own end

Expected<void> line_and_rest(Host& host, const std::string& text) {
  if (auto told = host.line(text); !told) return told;
  const auto s = host.settle(120);
  if (!s) return tl::unexpected(s.error());
  // Where it does not tell its place, its answer to the line is all there is.
  if (host.tells_place() ? s->lost() : s->word == "alarm")
    return fail(ProblemKind::input, worded("the machine has stopped: {}", s->why), text, "Look at it");
  return {};
}

}  // namespace

std::string zero_line(std::optional<double> x, std::optional<double> y, std::optional<double> z) {
  std::string out = "G21 G90 G10 L2 P1";
  for (const auto& [letter, value] : {std::pair{'X', x}, std::pair{'Y', y}, std::pair{'Z', z}})
    if (value) out += fmt::format(" {}{:.4f}", letter, *value);
  return out;
}

Expected<void> set_zero_by_sheet(Host& host, const ManifestEntry& e) {
  if (!std::isfinite(e.zero_in_machine.x) || !std::isfinite(e.zero_in_machine.y))
    return fail(ProblemKind::format, "the manifest does not say where zero is", e.file, "Write the programs again");
  return line_and_rest(host, zero_line(e.zero_in_machine.x, e.zero_in_machine.y, {}));
}

Expected<double> type_z(Host& host, const ManifestEntry& e, double machine_z) {
  const double zero = machine_z - (std::isfinite(e.probe.z) ? e.probe.z : 0);
  if (auto set = line_and_rest(host, zero_line({}, {}, zero)); !set) return tl::unexpected(set.error());
  return zero;
}

Expected<double> probe_z(Host& host, const ManifestEntry& e) {
  if (!e.probe.place)
    return fail(ProblemKind::format, "the manifest does not say where z is probed", e.file, "Write the programs again");
  auto now = host.look();
  if (!now) return tl::unexpected(now.error());
  if (!now->zero || !host.travel())
    return fail(ProblemKind::unsupported, "this machine does not tell enough to be probed from here", "",
                "Probe at its panel, and type the z that it shows");
  const double x = now->zero->x + e.probe.place->at.x, y = now->zero->y + e.probe.place->at.y;
  for (const std::string& text :
       {std::string("G21 G90 G17"), std::string("G53 G0 Z0"), fmt::format("G21 G53 G0 X{:.4f} Y{:.4f}", x, y)})
    if (auto went = line_and_rest(host, text); !went) return tl::unexpected(went.error());
  const double bottom = -host.travel()->z + short_of_end - now->zero->z;
  if (auto went = line_and_rest(host, fmt::format("G21 G90 G38.2 Z{:.4f} F{:g}", bottom, probe_feed)); !went)
    return tl::unexpected(went.error());
  const auto touched = host.touched();
  if (!touched) return tl::unexpected(touched.error());
  if (auto up = line_and_rest(host, "G53 G0 Z0"); !up) return tl::unexpected(up.error());
  return type_z(host, e, touched->z);
}

Expected<void> go_up(Host& host) {
  for (const char* text : {"M5", "G53 G0 Z0"})
    if (auto went = line_and_rest(host, text); !went) return went;
  return {};
}

Expected<void> put_cutter(Host& host, const ManifestEntry::Tool& t) {
  if (host.last().known && host.last().idle())
    if (auto up = go_up(host); !up) return up;
  const char* kind = t.kind == "ball"         ? "ball"
                     : t.kind == "round_nose" ? "nose"
                     : t.kind == "drill"      ? "point"
                     : t.kind == "round_over" ? "hollow"
                                              : "flat";
  const auto told = host.ask(fmt::format("cutter {} {} {} {} {} {} {}", t.number, kind, t.diameter,
                                         t.kind == "ball" ? 0 : t.corner, t.point_angle, t.cutting_length, t.stickout));
  if (!told) return tl::unexpected(told.error());
  return {};
}

namespace {

/// The blank's lower-left corner on the bed, machine frame, and its extent along x and y.
struct Lying {
  double x = 0, y = 0, along_x = 0, along_y = 0;
};
Expected<Lying> lying(const ManifestEntry& e) {
  const Lying l{e.zero_in_machine.x + e.blank_corner.x, e.zero_in_machine.y + e.blank_corner.y,
                e.along_y ? e.blank.y : e.blank.x, e.along_y ? e.blank.x : e.blank.y};
  if (!std::isfinite(l.x) || !std::isfinite(l.y) || !(l.along_x > 0) || !(l.along_y > 0) || !(e.blank.z > 0))
    return fail(ProblemKind::format, "the manifest does not say how the blank lies", e.file,
                "Write the programs again");
  return l;
}

}  // namespace

Expected<void> lay_blank(Host& host, const ManifestEntry& e) {
  const auto l = lying(e);
  if (!l) return tl::unexpected(l.error());
  const auto told = host.ask(fmt::format("lay {} {} {} {:.4f} {:.4f}", l->along_x, l->along_y, e.blank.z, l->x, l->y));
  if (!told) return tl::unexpected(told.error());
  return {};
}

Expected<void> turn_blank(Host& host, const ManifestEntry& first, const ManifestEntry& second) {
  const auto l = lying(second);
  if (!l) return tl::unexpected(l.error());
  if (first.matrix.size() != 16 || second.matrix.size() != 16)
    return fail(ProblemKind::format, "the manifest has no matrix of both sides", second.file,
                "Write the programs again");
  // Work of the second side from work of the first: B·A⁻¹; for turns and mirrors the inverse is the transpose. Its
  // first entry says whether x keeps its way: then it was turned about the machine's x.
  double xx = 0, zz = 0;
  for (std::size_t k = 0; k < 3; ++k) {
    xx += second.matrix[k] * first.matrix[k];
    zz += second.matrix[8 + k] * first.matrix[8 + k];
  }
  if (zz > -0.5 || std::abs(std::abs(xx) - 1) > 1e-6)
    return fail(ProblemKind::unsupported, "the sides are not one turned over", second.file, "Lay the blank anew");
  const auto told = host.ask(fmt::format("turn {} {:.4f} {:.4f}", xx > 0 ? "x" : "y", l->x, l->y));
  if (!told) return tl::unexpected(told.error());
  return {};
}

}  // namespace wren
