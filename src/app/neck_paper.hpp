// The neck's templates at full size.
#pragma once

#include <QPagedPaintDevice>

#include "app/pictures.hpp"
#include "core/parts/neck/part.hpp"

namespace wren::app {

/// Plan in strips, sections and the drilling strip for side dots, all 1:1 with crop marks and a scale bar on every
/// page; its paper is laid sideways.
void print_neck_templates(QPagedPaintDevice& device, const Project& project, const NeckDesign& design,
                          const PaperChoice& choice);

}  // namespace wren::app
