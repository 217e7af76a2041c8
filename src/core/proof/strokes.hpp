// What a single motion does not show: passes, pecks and ways down that a program divides into pieces, arcs among them.
// Sees motions and what each of them took. Work frame; mm, seconds.
#pragma once

#include <functional>
#include <map>
#include <optional>

#include "core/proof/rehearsal.hpp"
#include "core/workshop/load.hpp"

namespace wren {

/// Follows the motions of one side in running order.
class Strokes {
 public:
  /// rule, kind, number, limit, words; the place is the motion's.
  using Tell = std::function<void(const char*, const char*, double, double, Words)>;

  Strokes(Material material, double cell, double slot_bending)
      : material_(std::move(material)), cell_(cell), slot_bending_(slot_bending) {}

  /// Into how many pieces a motion has to be cut so that each is a pass: what is deep over a few millimetres of a long
  /// way is no less deep. 1 but where it is about to take more than a pass may.
  [[nodiscard]] static int pieces(const Motion& p, const Cutter& c, const TileGrid& stock);

  /// `removed`: what this motion took. Motions that took nothing belong here too: they end what was under way.
  void after(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell);

 private:
  void passes(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell);
  void sinks(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell);
  void pecks(const Motion& p, const Cutter& c, const Removed& removed, const Tell& tell);
  void rubs(const Motion& p, const Cutter& c, const Tell& tell);
  void chips(const Motion& p, const Cutter& c, const Tell& tell);

  Material material_;
  double cell_;
  double slot_bending_;
  double taken_ = 0;  // mm³ since the cutter was last out of the wood
  double idle_ = 0;   // mm of way in plan since it last took any
  // A pass: pieces one after another, judged whenever they are long enough together.
  struct Pass {
    double run = 0;      // mm
    double volume = 0;   // mm³
    double deepest = 0;  // mm
    double side = 0;     // mm²: of what is taken seen from beside, its depth all along its way
    double full = 0;     // mm³ that it would be with the cutter's full width
  };
  Pass pass_;
  double aside_ = 0;  // mm of way up or down through wood since
  // A way down at one place.
  struct Sank {
    Vec2 at;
    double mouth = 0;   // z where its wood begins
    double from = 0;    // z where it began since the cutter was last out
    double bottom = 0;  // the lowest so far
    double volume = 0;  // mm³ taken since then
  };
  std::optional<Sank> sank_;
  // A drill's hole: where it is, where its wood begins, and how much was drilled since the drill was last out.
  std::optional<Vec3> hole_;
  double since_out_ = 0;
  std::map<std::uint16_t, double> rubbed_, crept_;  // s, by program
};

}  // namespace wren
