// The body's templates for a hand router at full size over several sheets.
#pragma once

#include <QPagedPaintDevice>
#include <QString>

#include "core/parts/body/part.hpp"
#include "exchange/body_out.hpp"

namespace wren::app {

/// Every template over as many sheets as it needs, with crop marks, 12 mm of overlap and a 100 mm bar on each.
/// `paper`: "a4", "a3" or "letter".
void print_body_templates(QPagedPaintDevice& device, const Project& project, const BodyDesign& design,
                          const QString& paper, const RouterOffset& router);

}  // namespace wren::app
