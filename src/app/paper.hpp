// Run sheets on paper: one way for every part.
#pragma once

#include <QPagedPaintDevice>
#include <QString>

#include "core/job/run_sheet.hpp"

namespace wren::app {

/// What a run sheet is made of.
struct SheetOf {
  const PartKind& kind;
  const Followed& followed;
  Cache& cache;
  const Planned& planned;
  std::string date;
  UnitSystem units = UnitSystem::millimetre;
  const PartProof* proof = nullptr;
};
/// `paper`: "a4", "a3" or "letter".
void print_run_sheet(QPagedPaintDevice& device, const SheetOf& of, const QString& paper);
[[nodiscard]] Expected<void> write_run_sheet_pdf(const std::string& path, const SheetOf& of, const QString& paper);

}  // namespace wren::app
