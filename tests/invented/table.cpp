// The table of kinds with one more part: linked in place of the program's own, so that window and command line are
// walked as they are.
#include "core/parts/table.hpp"

#include "core/parts/fretboard/part.hpp"
#include "support/spacer.hpp"

namespace wren {

const Parts& all_parts() {
  static const Parts table({fretboard_part(), spacer_part()});
  return table;
}

}  // namespace wren
