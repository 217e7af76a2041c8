// The neck on paper: its run sheet with both sides' pictures, and templates at full size over as many pages as they
// need.
#pragma once

#include <QPagedPaintDevice>

#include "core/job/neck_sheet.hpp"

namespace wren::app {

void print_neck_sheet(QPagedPaintDevice& device, const Project& project, const NeckDesign& design, const NeckCuts& cuts,
                      const std::string& date, UnitSystem units);

/// The same as a PDF file (A4), written beside and renamed. Refused with what is wrong.
[[nodiscard]] Expected<void> write_neck_sheet_pdf(const std::string& path, const Project& project,
                                                  const NeckDesign& design, const NeckCuts& cuts,
                                                  const std::string& date, UnitSystem units);

/// Plan in strips, sections and the drilling strip for side dots, all 1:1 on A4 with crop marks and a 100 mm bar on
/// every page.
[[nodiscard]] Expected<void> write_neck_templates_pdf(const std::string& path, const Project& project,
                                                      const NeckDesign& design);

}  // namespace wren::app
