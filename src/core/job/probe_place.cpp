#include "core/job/probe_place.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include <fmt/format.h>

#include "core/proof/probe.hpp"

namespace wren {
namespace {

constexpr double pace = 4;        // mm between places that are tried
constexpr double room_least = 1;  // mm between a cut and the probe's foot
constexpr double room_enough = 12;

/// Places of the instrument's plan where a cut takes the top away, with how far it reaches.
struct Takes {
  Vec2 a, b;  // work frame
  double radius = 0;
};

/// An arc as chords, with what it bulges beyond them.
void add_arc(Vec2 from, const Move& m, double radius, std::vector<Takes>& out) {
  const double r = distance(m.centre, from);
  const double begin = std::atan2(from.y - m.centre.y, from.x - m.centre.x);
  double sweep = std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - begin;
  const double turn = 2 * std::numbers::pi;
  if (m.kind == MoveKind::arc_ccw && sweep <= 1e-12) sweep += turn;
  if (m.kind == MoveKind::arc_cw && sweep >= -1e-12) sweep -= turn;
  const int n = std::max(1, static_cast<int>(std::ceil(std::abs(sweep) / 0.2)));
  const double bulge = r * (1 - std::cos(sweep / n / 2));
  Vec2 a = from;
  for (int k = 1; k <= n; ++k) {
    const double t = begin + sweep * k / n;
    const Vec2 b = k == n ? flat(m.to) : m.centre + Vec2{std::cos(t), std::sin(t)} * r;
    out.push_back({a, b, radius + bulge});
    a = b;
  }
}

/// Everything that goes under `below` (work z) on a side.
std::vector<Takes> taken(const Placement& side, const Rack& rack, double below) {
  std::vector<Takes> out;
  for (const Toolpath& path : side.paths) {
    const Cutter* c = find_cutter(rack, path.cutter);
    if (c == nullptr) continue;
    Vec3 at = path.start;
    for (const Move& m : path.moves) {
      if (std::min(at.z, m.to.z) < below && m.kind != MoveKind::rapid) {
        if (m.kind == MoveKind::arc_cw || m.kind == MoveKind::arc_ccw)
          add_arc(flat(at), m, c->radius(), out);
        else
          out.push_back({flat(at), flat(m.to), c->radius()});
      }
      at = m.to;
    }
  }
  return out;
}

/// Distances from many places to many short lines: cells hold the nearest found so far.
class RoomGrid {
 public:
  RoomGrid(Vec2 low, Vec2 size) : low_(low) {
    columns_ = std::max(1, static_cast<int>(size.x / pace) + 1);
    rows_ = std::max(1, static_cast<int>(size.y / pace) + 1);
    room_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), 1e9);
  }
  void take(Vec2 a, Vec2 b, double radius) {
    const double reach = radius + probe_radius + room_enough;
    const auto column = [&](double x) { return static_cast<int>(std::floor((x - low_.x) / pace)); };
    const auto row = [&](double y) { return static_cast<int>(std::floor((y - low_.y) / pace)); };
    for (int j = std::max(0, row(std::min(a.y, b.y) - reach));
         j <= std::min(rows_ - 1, row(std::max(a.y, b.y) + reach) + 1); ++j)
      for (int i = std::max(0, column(std::min(a.x, b.x) - reach));
           i <= std::min(columns_ - 1, column(std::max(a.x, b.x) + reach) + 1); ++i) {
        double& room = at(i, j);
        if (room > 0) room = std::min(room, distance_to(place(i, j), {a, b}) - radius - probe_radius);
      }
  }
  [[nodiscard]] Vec2 place(int i, int j) const { return {low_.x + i * pace, low_.y + j * pace}; }
  [[nodiscard]] double& at(int i, int j) {
    return room_[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i)];
  }
  [[nodiscard]] int columns() const { return columns_; }
  [[nodiscard]] int rows() const { return rows_; }

 private:
  Vec2 low_;
  int columns_ = 1;
  int rows_ = 1;
  std::vector<double> room_;
};

/// A place of the blank's own top: with much room, and then near its lower-left corner.
std::optional<Setup::Probe> on_top(const Setup& setup, const std::vector<Takes>& takes) {
  const Vec2 low{setup.blank_corner.x + probe_aside + pace, setup.blank_corner.y + probe_aside + pace};
  const Vec2 size = setup.blank_size - Vec2{2 * (probe_aside + pace), 2 * (probe_aside + pace)};
  if (size.x < 0 || size.y < 0) return {};
  RoomGrid grid(low, size);
  for (const Takes& t : takes) grid.take(t.a, t.b, t.radius);
  std::optional<Setup::Probe> best;
  double most = -1e300;
  for (int j = 0; j < grid.rows(); ++j)
    for (int i = 0; i < grid.columns(); ++i) {
      const double room = std::min(grid.at(i, j), room_enough);
      const Setup::Probe probe{grid.place(i, j), setup.blank.thickness <= 0};
      const double worth = room - 0.002 * distance(probe.at, low);
      if (room < room_least || worth <= most || probe_blocked(setup, probe) != nullptr) continue;
      bool flat_there = true;  // the blank's top itself, not what falls away from it
      for (int k = 0; k <= 16 && flat_there; ++k) {
        // All round, and a proof's cell further: an edge that is rounded may come near aslant.
        const double turn = k * 0.39269908169872414;
        const Vec2 d = k == 16 ? Vec2{} : Vec2{std::cos(turn), std::sin(turn)};
        flat_there = std::abs(setup.untouched(probe.at + d * (probe_radius + 0.3))) < 1e-9;
      }
      if (!flat_there) continue;
      most = worth;
      best = probe;
    }
  return best;
}

/// A place of the waste board beside the blank.
std::optional<Setup::Probe> on_board(const Setup& setup, const std::vector<Takes>& takes) {
  const Vec2 low{setup.blank_corner.x, setup.blank_corner.y};
  const Vec2 high = low + setup.blank_size;
  for (const double aside : {20.0, 12.0, 30.0, 45.0, 6.0})
    for (int k = 0; k <= 10; ++k) {
      const double t = k / 10.0;
      for (const Vec2 at :
           {Vec2{low.x + t * (high.x - low.x), low.y - aside}, Vec2{low.x - aside, low.y + t * (high.y - low.y)},
            Vec2{low.x + t * (high.x - low.x), high.y + aside}, Vec2{high.x + aside, low.y + t * (high.y - low.y)}}) {
        const Setup::Probe probe{{std::round(at.x), std::round(at.y)}, true};
        if (probe_blocked(setup, probe) != nullptr) continue;
        const bool cut = std::any_of(takes.begin(), takes.end(), [&](const Takes& c) {
          return distance_to(probe.at, {c.a, c.b}) < c.radius + probe_radius;
        });
        if (!cut) return probe;
      }
    }
  return {};
}

}  // namespace

void choose_probe_places(std::vector<Piece>& pieces, PartCuts& cuts, const Rack& rack, const std::string& part) {
  for (Piece& piece : pieces)
    for (std::size_t k = 0; k < piece.sides.size(); ++k) {
      Side& side = piece.sides[k];
      const auto own =
          std::find_if(cuts.sides.begin(), cuts.sides.end(), [&](const Placement& p) { return p.id == side.id; });
      if (own == cuts.sides.end()) continue;
      std::vector<Takes> takes = taken(*own, rack, -1e-6);
      // What earlier sides cut right through is not there any more, nor what of it would bend under the probe; and the
      // waste board has what they cut into it.
      constexpr double least_wood = 3;  // mm
      std::vector<Takes> board = takes;
      for (std::size_t e = 0; e < k; ++e)
        if (const Placement* before = cuts.side(piece.sides[e].id)) {
          const Vec2 over = flat(before->setup.zero_in_machine) - flat(side.setup.zero_in_machine);
          for (const Takes& t : taken(*before, rack, before->setup.bed_z() - 1e-6))
            board.push_back({t.a + over, t.b + over, t.radius});
          for (const Takes& t : taken(*before, rack, before->setup.bed_z() + least_wood)) {
            const auto here = [&](Vec2 work) {
              const Vec2 instrument = turned(before->setup.turn, before->setup.to_work.back(work));
              return side.setup.to_work.apply(turned(side.setup.turn, instrument));
            };
            takes.push_back({here(t.a), here(t.b), t.radius});
          }
        }
      side.setup.probe = on_top(side.setup, takes);
      if (!side.setup.probe) side.setup.probe = on_board(side.setup, board);
      if (side.setup.probe)
        own->setup.probe = side.setup.probe;
      else
        cuts.remarks.push_back({part + ".no_probe",
                                Weight::stop,
                                worded("{}: no place is left where z can be probed, on the blank's top or beside it on "
                                       "the waste board. Take a larger blank, or move it.",
                                       side.title),
                                0,
                                0,
                                "",
                                "geometry",
                                side.clamps_key,
                                {},
                                {},
                                {}});
    }
}

Words probe_words(const Setup& setup) {
  if (!setup.probe) return {"Probe z on the blank's top after every change of cutter.", {}};
  const auto [at, on_board] = *setup.probe;
  if (setup.blank.thickness <= 0)
    return {"Probe z on the waste board at x {}, y {} and set it to 0 there; again after every change of cutter.",
            {at.x, at.y}};
  if (on_board)
    return {
        "No place of the blank's top outlasts the cuts: probe z on the bare waste board at x {}, y {} and set it to "
        "{} there; again after every change of cutter.",
        {at.x, at.y, setup.bed_z()}};
  return {
      "Probe z on the blank's top at x {}, y {}, where no cut comes, and set it to 0 there; again after every change "
      "of cutter.",
      {at.x, at.y}};
}

std::string probe_text(const Setup& setup) {
  if (!setup.probe) return "";
  const auto [at, on_board] = *setup.probe;
  const std::string place = fmt::format("at x {} y {}", format_mm(at.x), format_mm(at.y));
  if (setup.blank.thickness <= 0) return fmt::format("the waste board {}, z = 0 there", place);
  const std::string high = format_mm(setup.blank.thickness, 3);
  return on_board ? fmt::format("the waste board {}, z = -{} there; z = 0 is {} mm over it", place, high, high)
                  : fmt::format("the blank's top {}, z = 0 there, {} mm over the waste board", place, high);
}

}  // namespace wren
