// Where z is probed on each side: a place of the blank's top that no cut of the piece takes away, or, where none is
// left, the bare waste board beside it.
#pragma once

#include "core/job/make_cuts.hpp"

namespace wren {

/// Gives every side of every piece its probing place, here and in its placement. A remark where there is none at all.
void choose_probe_places(std::vector<Piece>& pieces, PartCuts& cuts, const Rack& rack, const std::string& part);

/// What a hand does: "Probe z on the blank's top at x 12, y 8 and set it to 0 there". Lengths through Words.
[[nodiscard]] Words probe_words(const Setup& setup);

/// The same for a program's header, mm: "blank's top at x 12 y 8, z = 0, 20 mm over the waste board".
[[nodiscard]] std::string probe_text(const Setup& setup);

}  // namespace wren
