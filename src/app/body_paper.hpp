// The body on paper: run sheet with every placement's picture, and templates for a hand router at full size over
// several sheets.
#pragma once

#include <QPagedPaintDevice>
#include <QPageSize>

#include "core/job/body_cuts.hpp"
#include "exchange/body_out.hpp"

namespace wren::app {

void print_body_sheet(QPagedPaintDevice& device, const Project& project, const BodyDesign& design, const BodyCuts& cuts,
                      const std::string& date, UnitSystem units);
[[nodiscard]] Expected<void> write_body_sheet_pdf(const std::string& path, const Project& project,
                                                  const BodyDesign& design, const BodyCuts& cuts,
                                                  const std::string& date, UnitSystem units);

struct TemplatePaper {
  QPageSize::PageSizeId page = QPageSize::A4;  // A4, A3, Letter
  RouterOffset router;
};
/// Every template over as many sheets as it needs, with crop marks, 12 mm of overlap and a 100 mm bar on each.
[[nodiscard]] Expected<void> write_body_templates_pdf(const std::string& path, const Project& project,
                                                      const BodyDesign& design, const TemplatePaper& paper);

}  // namespace wren::app
