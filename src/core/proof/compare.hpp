// The wood that is left, held against the design: cell by cell, along the outline's kerf, and slot by slot from the
// moves themselves.
#pragma once

#include "core/proof/proof.hpp"

namespace wren {

/// Adds gouges, left-overs, skin and tabs to the result. Work frame grid, instrument frame design.
void compare_with_design(const ProofRequest& request, ProofResult& result);

/// Exact place, width and depth of every slot, from the straight cutting pieces that run along it.
void check_slots(const ProofRequest& request, const Score& score, ProofResult& result);

}  // namespace wren
