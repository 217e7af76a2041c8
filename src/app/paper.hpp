// The run sheet on paper: one drawing for PDF, printer and preview.
#pragma once

#include <QPagedPaintDevice>

#include "core/job/run_sheet.hpp"

namespace wren::app {

/// Draws all pages on A4 or whatever page the device has, in true millimetres.
void print_run_sheet(QPagedPaintDevice& device, const Project& project, const BoardDesign& design,
                     const BoardCuts& cuts, const std::string& date, UnitSystem units);

/// The same as a PDF file (A4), written beside and renamed. Refused with what is wrong.
[[nodiscard]] Expected<void> write_run_sheet_pdf(const std::string& path, const Project& project,
                                                 const BoardDesign& design, const BoardCuts& cuts,
                                                 const std::string& date, UnitSystem units);

}  // namespace wren::app
