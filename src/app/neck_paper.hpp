// The neck's templates at full size.
#pragma once

#include <QPagedPaintDevice>
#include <QString>

#include "core/parts/neck/part.hpp"

namespace wren::app {

/// Plan in strips, sections and the drilling strip for side dots, all 1:1 with crop marks and a 100 mm bar on every
/// page. `paper`: "a4", "a3" or "letter", laid sideways.
void print_neck_templates(QPagedPaintDevice& device, const Project& project, const NeckDesign& design,
                          const QString& paper);

}  // namespace wren::app
