// Operation: one thing that is cut, as data: which cutter, and *what* is to be there afterwards — exact regions, lines
// and heights — never how. make_cuts.hpp turns operations into cuts, in one way for every part.
// Frame: the side's (up is +z); lengths mm. Plans carry no cutter and no feeds: those are filled in when they are cut.
#pragma once

#include <functional>
#include <memory>
#include <variant>

#include "core/cutting/channel.hpp"
#include "core/cutting/clearing.hpp"
#include "core/cutting/crown.hpp"
#include "core/cutting/edge.hpp"
#include "core/cutting/outline.hpp"
#include "core/cutting/slot.hpp"
#include "core/cutting/surface.hpp"
#include "core/report/remark.hpp"
#include "core/words/words.hpp"

namespace wren {

/// Heights over the plan as cells, made only when they are needed.
using MakeGrid = std::function<TileGrid(double cell)>;

/// Fret slots of a board.
struct Slots {
  std::shared_ptr<const Fretboard> board;
  SlotEntry entry = SlotEntry::ramp;
  Height wood_top;
};

/// A board's crown: roughed by levels where there is more wood than finishing may take, then its rows.
struct CrownRows {
  std::shared_ptr<const Fretboard> board;
  CrownPlan plan;
  bool rough = true;
};

/// A cavity with walls and floor. A cavity too narrow for the operation's cutter takes the widest of the rack that goes
/// in and reaches; what a wide cutter leaves in corners and beside sloping walls the fine one takes.
struct Clear {
  ClearPlan plan;
  std::string deep;    // rack identity: where the operation's cutter does not reach; empty: none
  std::string fine;    // rack identity: corners; empty: left round
  double stands = 0;   // z of the wood beside it: what the collet nut passes over
  Polygon within;      // corners outside this are nobody's; empty: all count
  std::string edge{};  // rack identity: a ball that rounds the floor's edge all round; empty: it stays square
};

/// Round holes, bored by a helix or pecked with a drill. Those that a drill of the operation's kind makes too thin are
/// told.
struct Holes {
  struct One {
    Words title;
    Vec2 at;
    double diameter = 0;
    double top = 0;
    double bottom = 0;
  };
  std::vector<One> holes;
  double peck = 0;  // bite of a drill; 0: bored
};

/// Troughs with round ends.
struct Channels {
  struct One {
    Words title;
    Vec2 a, b;
    double width = 0;
    Height floor;
  };
  std::vector<One> channels;
  double top = 0;
};

/// Round a part, down to its underside and through, tabs left standing.
struct Outline {
  Contour contour;
  OutlinePlan plan;
  bool plug = false;  // round what is inside a window, and not round the part itself
};

/// Level by level from the wood that stands there down to a surface and what is left for finishing.
struct Rough {
  MakeGrid target;
  MakeGrid stock;
  double cell = 0.4;
  double top = 0;
  std::vector<Polygon> loops;
};

/// Rows on a surface, in runs of stations; level places may be given ways of their own (along a wall).
struct Finish {
  Height surface;
  MakeGrid grid;
  double cell = 0.1;
  std::vector<std::vector<Station>> runs;
  FinishPlan plan;
  double leave = 0.5;                       // what roughing left
  double row_width = 0;                     // for the feeds; 0: the distance between rows
  std::vector<std::pair<Vec3, Vec3>> ways;  // straight, after the runs' first
};

/// Steep sides of a surface, by a ball's flank or level by level.
struct Sides {
  Height surface;
  std::vector<std::vector<SideStation>> bands;
  double scallop = 0.01;
  Height lowest;
  double wood_top = 0;
  double leave = 0.5;
  bool by_levels = false;
};

/// Edges rounded.
struct RoundEdge {
  EdgePlan plan;
  bool by_form = false;
};

/// A face taken down over a rectangle.
struct Face {
  Vec2 low, high;
  double top = 0;
  double bottom = 0;
};

/// Wood that stands beside an outline and keeps the piece's register: nothing comes near it, or only what takes it off.
struct Kept {
  Polygon strip;
  Vec2 outward;  // unit, along the strip, away from the piece: the way in and out beside it
};

/// Round an outline that stands free already, up to what is kept: skims at full depth.
struct Skims {
  Contour contour;
  double thickness = 0;  // of the piece: its top
  double through = 0;
  double skim = 0;   // left for the last round
  double leave = 0;  // wood beside the line
  std::vector<Kept> kept{};
};

/// What skims have kept cut through along the outline, level by level, a tab left in the middle of each.
struct KeptOff {
  Contour contour;
  double thickness = 0;
  double through = 0;
  double skim = 0;
  double leave = 0;
  double tab_length = 0;
  double tab_height = 0;
  std::vector<Kept> kept{};
};

using Shape = std::variant<Slots, CrownRows, Clear, Holes, Channels, Outline, Rough, Finish, Sides, RoundEdge, Face,
                           Skims, KeptOff>;

struct Operation {
  std::string id;
  Words title;
  std::string cutter;  // rack identity
  Shape shape;
  std::string key;                  // ledger key that names the cutter: remarks about it lead there
  std::vector<std::string> keys{};  // ledger keys that belong to its line, beside its own times and feeds
  double bending = 0.04;            // mm the tip may bend
  std::string stop_before{};        // what a hand does first; empty: nothing
  std::vector<Words> before{};      // for the sheet
  std::vector<Words> check{};
  std::vector<Words> caution{};
  /// Height of the wood that touches the cutter's flutes, and of that which stands under the collet nut, at a place of
  /// the cutter's middle; empty: the blank's top, as nothing were cut yet.
  Height touches{};
  Height under_nut{};
  bool judge_reach = true;
  std::vector<Repair> ways_out{};  // where the cutter is too short
};

/// Whether a cut is one of an operation's: a cavity is cut by up to three cutters.
[[nodiscard]] inline bool is_cut_of(const Operation& op, const std::string& cut) {
  if (!cut.starts_with(op.id)) return false;
  const std::string more = cut.substr(op.id.size());
  return more.empty() || more == "-rest" || more == "-edge" || more == "-round";
}

}  // namespace wren
