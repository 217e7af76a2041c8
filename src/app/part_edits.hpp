// Edits of what has no field: drawn outlines, measured sections. Each is one named step; refused where no part follows.
#pragma once

#include "app/workbench.hpp"
#include "core/parts/body/part.hpp"

namespace wren::app {

std::optional<Problem> load_sections(Workbench& bench, const std::string& path);
/// Sections typed in: lines of x, y, depth.
std::optional<Problem> type_sections_into(Workbench& bench, const std::string& text);
void forget_sections(Workbench& bench);
std::optional<Problem> load_head(Workbench& bench, const std::string& path);
/// The body's outline as drawn. `mark` joins the steps of one gesture.
std::optional<Problem> set_outline(Workbench& bench, const Path& path, const Words& name, const std::string& mark = {});
/// Outline, drawn cavities and drawn holes of `body`, in one step.
std::optional<Problem> set_drawn(Workbench& bench, const Body& body, const Words& name);
std::optional<Problem> load_carve_lines(Workbench& bench, const std::string& path);

}  // namespace wren::app
