// Draws the body in plan, for the window's pictures and for paper alike. World: body frame in mm, or the work frame for
// the bed.
#pragma once

#include "app/board_painter.hpp"
#include "core/parts/body/part.hpp"

#include <QPainterPath>

namespace wren::app {

struct BodyInk {
  bool strings = true;
  bool neck = true;
  bool grain = false;
  bool hidden = true;  // chambers and channels under the top
  bool for_paper = false;
};

/// A strip of a blank in its wood, with its name where there is room.
void paint_band(QPainter& g, const StripBand& band, const QPolygonF& at);

void paint_body(QPainter& painter, const BodyDesign& design, const QTransform& to_screen, const BodyInk& ink);

/// One placement on the bed: blank, what is cut in it, pins or ticks, tabs, zero.
void paint_body_bed(QPainter& painter, const BodyDesign& design, const AlignmentNumbers& alignment,
                    const std::string& side, const Setup& setup, const QTransform& to_screen, bool for_paper);

/// Region with holes as one path.
[[nodiscard]] QPainterPath region_path(const Region& region, const QTransform& to_screen);

}  // namespace wren::app
