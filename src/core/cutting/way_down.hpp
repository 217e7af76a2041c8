// The way down into wood (rule M1): a strand's steep descents become ramps along its own further way. Frame and units
// are the strand's.
#pragma once

#include "core/cutting/strand.hpp"
#include "core/skin/two_skin.hpp"
#include "core/workshop/cutter.hpp"

namespace wren {

/// Every descent that is steeper than the cutter may go into wood and deeper than it may go straight down is taken at
/// its upper height first, then down along what follows, there and back, so that nothing below the strand's own way is
/// cut; steep ones that stay go at the plunge feed. Angles: 15° with an edge at the centre, 3.5° without; straight down
/// a quarter of the diameter with one, common practice. Drills go as they are. The strand's first descent begins at
/// `free_z`.
/// `wood`, where given, is the height of the wood before the strand: a descent over no more than a finishing leave or a
/// quarter of the diameter of it stays as it is.
[[nodiscard]] Strand with_ways_down(const Strand& strand, const Cutter& cutter, const Height& wood = {});

/// The strand raised where it goes downhill more steeply than the cutter may go into wood: for a pass that only takes
/// the most of it.
[[nodiscard]] Strand gentle(const Strand& strand, const Cutter& cutter);

}  // namespace wren
