// The body's templates for a hand router at full size over several sheets.
#pragma once

#include <QPagedPaintDevice>

#include "app/pictures.hpp"
#include "core/parts/body/part.hpp"

namespace wren::app {

/// Every template over as many sheets as it needs, with crop marks, 12 mm of overlap and a scale bar on each.
void print_body_templates(QPagedPaintDevice& device, const Project& project, const BodyDesign& design,
                          const PaperChoice& choice);

}  // namespace wren::app
