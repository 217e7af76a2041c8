// The neck's templates at full size.
#pragma once

#include "core/parts/neck/part.hpp"

namespace wren::app {

/// Plan in strips, sections and the drilling strip for side dots, all 1:1 on A4 with crop marks and a 100 mm bar on
/// every page.
[[nodiscard]] Expected<void> write_neck_templates_pdf(const std::string& path, const Project& project,
                                                      const NeckDesign& design);

}  // namespace wren::app
