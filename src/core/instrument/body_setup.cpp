#include "core/instrument/body_setup.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {
namespace {

constexpr double degree = std::numbers::pi / 180;

/// Undersides of a string at nut and saddle (instrument z) with an action at fret 12 and a gap at the nut.
std::pair<double, double> string_line(const Fretboard& board, const StringLine& s, double action, double nut_gap) {
  const double fret = board.given.frets.crown_height;
  const double nut = board.crown_height(s.nut) + fret + nut_gap;
  const Vec2 twelfth = lerp(s.nut, s.saddle, fret_fraction(12));
  const double at12 = board.crown_height(twelfth) + fret + action;
  return {nut, nut + (at12 - nut) / fret_fraction(12)};
}

double action_of(const Fretboard& board, const SetupNumbers& setup, std::size_t i) {
  const std::size_t n = board.strings.size();
  const double t = n > 1 ? static_cast<double>(i) / static_cast<double>(n - 1) : 0;
  return setup.action_bass + (setup.action_treble - setup.action_bass) * t;
}

double nut_gap(const Fretboard& board, const SetupNumbers& setup) {
  return board.given.frets.zero_fret ? 0 : setup.nut_clear;
}

}  // namespace

Vec3 BodyFrame::to_body(Vec3 p) const {
  const double dx = p.x - heel.x;
  const double dz = p.z - heel.y;
  return {heel.x + dx * std::cos(tilt) - dz * std::sin(tilt), p.y, dx * std::sin(tilt) + dz * std::cos(tilt) - depth};
}

Vec3 BodyFrame::to_instrument(Vec3 p) const {
  const double dx = p.x - heel.x;
  const double dz = p.z + depth;
  return {heel.x + dx * std::cos(tilt) + dz * std::sin(tilt), p.y, heel.y - dx * std::sin(tilt) + dz * std::cos(tilt)};
}

double BodySetup::string_over_face(int string, double x) const {
  const auto& [nut, saddle] = strings[static_cast<std::size_t>(string - 1)];
  const double t = (x - nut.x) / (saddle.x - nut.x);
  return nut.z + (saddle.z - nut.z) * t;
}

Vec2 BodySetup::string_at(int string, double share) const {
  const auto& [nut, saddle] = strings[static_cast<std::size_t>(string - 1)];
  return lerp(flat(saddle), flat(nut), share);
}

std::vector<double> string_over_frets(const Fretboard& board, const SetupNumbers& setup, int string) {
  const auto i = static_cast<std::size_t>(string - 1);
  const StringLine& s = board.strings[i];
  const auto [nut, saddle] = string_line(board, s, action_of(board, setup, i), nut_gap(board, setup));
  std::vector<double> out;
  for (int n = 0; n <= board.given.frets.count; ++n) {
    const double t = fret_fraction(n);
    out.push_back(nut + (saddle - nut) * t - board.crown_height(lerp(s.nut, s.saddle, t)) -
                  board.given.frets.crown_height);
  }
  return out;
}

Expected<BodySetup> work_out_setup(const Fretboard& board, const HeelInUse& heel, const Body& body) {
  const SetupNumbers& in = body.setup;
  const BridgeNumbers& bridge = body.bridge;
  BodySetup out;
  const Vec2 h{heel.end_x, -heel.under()};
  struct Both {
    Vec2 wanted, flat;
  };
  std::vector<Both> saddles;  // instrument x, z
  for (std::size_t i = 0; i < board.strings.size(); ++i) {
    const StringLine& s = board.strings[i];
    const auto [n1, wanted] = string_line(board, s, action_of(board, in, i), nut_gap(board, in));
    const auto [n2, lying] = string_line(board, s, 0, 0);
    if (s.saddle.x <= h.x + 5)
      return fail(ProblemKind::range, worded("string {}'s saddle would stand over the neck's heel", i + 1),
                  "neck.heel_beyond", "Shorten the neck or lengthen the scale");
    saddles.push_back({{s.saddle.x, wanted}, {s.saddle.x, lying}});
  }
  const double target = in.school == SetupSchool::action ? bridge.low + in.reserve : bridge.low;
  if (bridge.high <= bridge.low)
    return fail(ProblemKind::range, "the bridge's highest is not over its lowest", "bridge.high",
                "Measure the saddles' tops over the face at both ends of their travel");
  const auto design = [&](const Both& b) { return (in.school == SetupSchool::action ? b.wanted : b.flat) - h; };
  if (in.follows == PocketFollows::tilt) {
    out.depth_end = in.depth;
    out.tilt = -1e9;
    for (const Both& b : saddles) {
      const Vec2 s = design(b);
      const double r = length(s);
      const double share = (target + in.depth) / r;
      if (std::abs(share) >= 1)
        return fail(ProblemKind::range,
                    worded("no tilt brings a saddle {} over the face with a pocket {} deep", mm(target), mm(in.depth)),
                    "body.pocket_depth", "Make the pocket shallower, or let the depth follow");
      out.tilt = std::max(out.tilt, std::asin(share) - std::atan2(s.y, s.x));
    }
  } else {
    out.tilt = in.tilt_deg * degree;
    double least = 1e9;
    for (const Both& b : saddles) least = std::min(least, dot(design(b), {std::sin(out.tilt), std::cos(out.tilt)}));
    out.depth_end = least - target;
  }
  if (std::abs(out.tilt) > 12 * degree)
    return fail(ProblemKind::range, worded("the neck would tilt by {:.1f}°", out.tilt / degree), "body.pocket_depth",
                "Change the pocket's depth by what the bridge's height differs, or let the depth follow");
  out.frame = {out.tilt, h, out.depth_end};
  for (std::size_t i = 0; i < saddles.size(); ++i) {
    const StringLine& s = board.strings[i];
    const auto [nut, wanted] = string_line(board, s, action_of(board, in, i), nut_gap(board, in));
    SaddlePlace p;
    p.string = static_cast<int>(i) + 1;
    p.scale_point = out.frame.to_body({s.saddle.x, s.saddle.y, wanted});
    p.height = p.scale_point.z;
    p.flat_height = out.frame.to_body({s.saddle.x, s.saddle.y, saddles[i].flat.y}).z;
    const double t = saddles.size() > 1 ? static_cast<double>(i) / static_cast<double>(saddles.size() - 1) : 0;
    p.compensation = bridge.compensation_bass + (bridge.compensation_treble - bridge.compensation_bass) * t;
    p.up = bridge.high - p.height;
    p.down = p.height - bridge.low;
    p.ahead = bridge.forward + p.compensation;
    p.back = bridge.travel - p.ahead;
    const Vec3 at_nut = out.frame.to_body({s.nut.x, s.nut.y, nut});
    const double rise = (p.scale_point.z - at_nut.z) / (p.scale_point.x - at_nut.x);
    p.break_angle = std::atan2(p.height - bridge.anchor_height, std::max(1.0, bridge.anchor_behind - p.compensation)) +
                    std::atan(rise);
    out.strings.emplace_back(at_nut, p.scale_point);
    out.saddles.push_back(p);
  }
  out.least_up = out.least_down = 1e9;
  for (const SaddlePlace& p : out.saddles) {
    out.least_up = std::min(out.least_up, p.up);
    out.least_down = std::min(out.least_down, p.down);
  }
  const Vec2 bass = flat(out.saddles.front().scale_point);
  const Vec2 treble = flat(out.saddles.back().scale_point);
  out.bridge_middle = (bass + treble) * 0.5;
  out.bridge_across = unit(treble - bass);
  out.depth_edge = out.depth_end + body.outline.pocket * std::tan(out.tilt);
  // The board's underside lies D over the floor, square to it.
  out.board_over_face = (heel.under() + heel.accent) / std::cos(out.tilt) - out.depth_edge;
  const Box2 board_box = bounds(board.corners);
  out.board_end_over_face = out.frame.to_body({board_box.high.x, 0, heel.accent}).z;
  return out;
}

}  // namespace wren
