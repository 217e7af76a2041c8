// What the turned side finds of what the first has left: the register that its place is found by, wood to lie on and to
// probe z on, a waste board that is whole where z is probed on it. Work frames of either side; mm.
#pragma once

#include "core/proof/solid.hpp"

namespace wren {

/// Findings are the piece's. Of one side only the pins' holes are looked at: what is glued of it is found by them.
void hold_turned(const PieceRequest& request, const std::vector<Score>& scores, const Solid& solid,
                 std::vector<Finding>& findings);

}  // namespace wren
