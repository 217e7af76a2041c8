// The judgement of a body's own numbers, before any machine is chosen.
#pragma once

#include "core/instrument/body_balance.hpp"
#include "core/report/remark.hpp"

namespace wren {

/// Limits that are common practice. mm unless named otherwise.
namespace practice {
constexpr double body_skin_least = 2.5;      // wood left over a floor
constexpr double body_stop_skin = 1.0;       // less: the work stops
constexpr double cavity_wall_least = 3;      // between two cavities, and to the outline
constexpr double saddle_travel_least = 1;    // left up and down at the wanted action
constexpr double break_angle_least_deg = 6;  // behind the saddles: less and strings rattle
constexpr double break_angle_most_deg = 40;
constexpr double pickup_gap_least = 1.8;  // string over pickup, open, pickup at its lowest
constexpr double pickup_gap_most = 4;     // pickup at its highest
constexpr double dive_deg = -4;           // the neck hangs lower than this: it dives
constexpr double jack_wall_least = 4;     // wood over and under a hole in the edge
constexpr double jack_edge_least = 19;    // thickness of the edge at a jack
constexpr double jack_barrel_hole = 12.7;
constexpr double jack_plate_hole = 22.2;
constexpr double pot_radius = 12.5;       // of a potentiometer's can
constexpr double jack_socket_radius = 6;  // of what reaches in
constexpr double jack_flat_most = 0.8;    // a plate lies on an edge that bulges no more
}  // namespace practice

/// The thinnest wood over any cavity's floor, in z, where it is and what lies on either side.
struct Thinnest {
  double wood = 1e9;
  Vec2 at;
  std::string over,
      under;  // what bounds it on the face's side and on the back's: a cavity's id, "face", "back", "bevel", "belly"
};
/// Places no further than `pace` mm apart are looked at.
[[nodiscard]] std::vector<Thinnest> thinnest_places(const BodyShape& body, double pace = 1.5);

/// `fine_cutter`: radius of the smallest cutter that opens corners.
[[nodiscard]] std::vector<Remark> body_remarks(const BodyShape& body, const BodyBalance& balance, double fine_cutter);

}  // namespace wren
