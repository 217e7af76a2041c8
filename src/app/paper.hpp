// Run sheets on paper: one way for every part.
#pragma once

#include <QPagedPaintDevice>

#include "core/job/run_sheet.hpp"

namespace wren::app {

void print_run_sheet(QPagedPaintDevice& device, const PartKind& kind, const Followed& followed, Cache& cache,
                     const Planned& planned, const std::string& date, UnitSystem units, const PartProof* proof);

[[nodiscard]] Expected<void> write_run_sheet_pdf(const std::string& path, const PartKind& kind,
                                                 const Followed& followed, Cache& cache, const Planned& planned,
                                                 const std::string& date, UnitSystem units, const PartProof* proof);

}  // namespace wren::app
