// Under error (rule P7): zero, blank, register and cutters are never what the drawing says. The same programs, with
// each of them off by what the set-up states, against the wood that was rehearsed and what stands on the bed. Figures
// are worked out from that wood, displaced; nothing is cut anew. Instrument frame; mm.
#pragma once

#include "core/proof/solid.hpp"

namespace wren {

/// Fills in `result.under_error` and its wall figures, and adds what may hurt to its findings: a solid met, a tab cut
/// through, a skin left, wood through. `scores` are those of the request's sides.
void judge_under_error(const PieceRequest& request, const std::vector<Score>& scores, PieceResult& result);

}  // namespace wren
