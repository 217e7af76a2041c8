#include "core/parts/table.hpp"

#include "core/parts/body/part.hpp"
#include "core/parts/caul/part.hpp"
#include "core/parts/coupon/part.hpp"
#include "core/parts/cover/part.hpp"
#include "core/parts/cradle/part.hpp"
#include "core/parts/fretboard/part.hpp"
#include "core/parts/heel_sample/part.hpp"
#include "core/parts/jack_guide/part.hpp"
#include "core/parts/neck/part.hpp"
#include "core/parts/scratch_plate/part.hpp"
#include "core/parts/waste_board/part.hpp"

namespace wren {

const Parts& all_parts() {
  // In running order: what comes first is made first.
  static const Parts table({fretboard_part(), coupon_part(), caul_part(), waste_board_part(), neck_part(),
                            cradle_part(), heel_sample_part(), body_part(), cover_part(), scratch_plate_part(),
                            jack_guide_part()});
  return table;
}

}  // namespace wren
