// Draws the neck in plan, from the side and across, for the window's pictures and for paper alike. World: instrument
// frame in mm, or the side frame of a set-up for the bed.
#pragma once

#include "app/board_painter.hpp"
#include "core/parts/neck/part.hpp"

namespace wren::app {

void paint_neck(QPainter& painter, const NeckDesign& design, const QTransform& to_screen, const BoardInk& ink);

/// The blank of one side on the waste board: neck, trough, tabs, pins or ticks, clamps, zero. World: work frame.
void paint_neck_bed(QPainter& painter, const NeckDesign& design, const AlignmentNumbers& alignment,
                    const std::vector<Vec2>& tabs, const Setup& setup, const QTransform& to_screen,
                    const BoardInk& ink);

/// A section across at x: board, neck, rod and bars, in true proportion. World: y across, z up.
void paint_section(QPainter& painter, const NeckDesign& design, double x, const QTransform& to_screen,
                   const BoardInk& ink);

}  // namespace wren::app
