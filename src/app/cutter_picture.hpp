// A cutter drawn as it is: flutes, shoulder, shank, nut, to scale.
#pragma once

#include <QPainter>

#include "core/workshop/cutter.hpp"

namespace wren::app {

/// With its tip at `tip` (pixels) and `scale` pixels to a millimetre, upright; the nut's underside is stickout above.
/// `ghost`: as an outline only.
void paint_cutter(QPainter& g, const Cutter& cutter, QPointF tip, double scale, bool ghost = false);

}  // namespace wren::app
