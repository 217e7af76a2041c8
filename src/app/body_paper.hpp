// The body's templates for a hand router at full size over several sheets.
#pragma once

#include <QPageSize>

#include "core/parts/body/part.hpp"
#include "exchange/body_out.hpp"

namespace wren::app {

struct TemplatePaper {
  QPageSize::PageSizeId page = QPageSize::A4;  // A4, A3, Letter
  RouterOffset router;
};
/// Every template over as many sheets as it needs, with crop marks, 12 mm of overlap and a 100 mm bar on each.
[[nodiscard]] Expected<void> write_body_templates_pdf(const std::string& path, const Project& project,
                                                      const BodyDesign& design, const TemplatePaper& paper);

}  // namespace wren::app
