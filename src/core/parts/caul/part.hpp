// The caul that a fretted board is glued up under: hollow as the board is crowned, with a groove over every fret, so
// that it presses on wood; or, where glue alone holds the frets, without grooves, so that it presses on them.
// Made from the fretboard. Frame: the board turned over about its length, shifted so that the caul's edges are z = 0;
// mm.
#pragma once

#include "core/job/part.hpp"

namespace wren {

[[nodiscard]] PartKind caul_part();

}  // namespace wren
