#include "app/part_edits.hpp"

#include "exchange/drawing_in.hpp"

namespace wren::app {
namespace {

std::optional<Problem> take_sections(Workbench& bench, Expected<std::vector<BackSection>> sections, const Words& name) {
  if (!sections) return sections.error();
  return bench.change_part(
      NeckDesign::part, [&](Project& p) { neck_of(p).neck.back.sections = *sections; }, name);
}

}  // namespace

std::optional<Problem> load_sections(Workbench& bench, const std::string& path) {
  return take_sections(bench, read_sections(path), "Load measured sections");
}

std::optional<Problem> type_sections_into(Workbench& bench, const std::string& text) {
  return take_sections(bench, sections_from_csv(text, "sections"), "Type in measured sections");
}

void forget_sections(Workbench& bench) {
  (void)take_sections(bench, std::vector<BackSection>{}, "Forget measured sections");
}

std::optional<Problem> load_head(Workbench& bench, const std::string& path) {
  const auto outline = read_head_outline(path);
  if (!outline) return outline.error();
  const auto take = [&](Project& p) {
    neck_of(p).neck.head.drawn = *outline;
    neck_of(p).neck.head.shape = HeadShape::drawn;
  };
  return bench.change_part(NeckDesign::part, take, "Load the head's outline");
}

std::optional<Problem> set_outline(Workbench& bench, const Path& path, const Words& name, const std::string& mark) {
  if (auto bad = check_outline(path); !bad.empty()) return bad.front();
  const auto take = [&](Project& p) {
    body_of(p).body.outline.drawn = path;
    body_of(p).body.outline.form = BodyForm::drawn;
  };
  return bench.change_part(BodyDesign::part, take, name, mark);
}

std::optional<Problem> set_drawn(Workbench& bench, const Body& body, const Words& name) {
  const auto take = [&](Project& p) {
    Body& mine = body_of(p).body;
    mine.outline = body.outline;
    mine.drawn = body.drawn;
    mine.holes = body.holes;
  };
  return bench.change_part(BodyDesign::part, take, name);
}

std::optional<Problem> load_carve_lines(Workbench& bench, const std::string& path) {
  const auto sections = read_sections(path);
  if (!sections) return sections.error();
  const auto take = [&](Project& p) {
    ComfortNumbers& comfort = body_of(p).body.comfort;
    comfort.lines.clear();
    for (const BackSection& s : *sections) comfort.lines.push_back({s.x, s.points});
    comfort.carve = CarveKind::drawn;
  };
  return bench.change_part(BodyDesign::part, take, "Load sections of the face");
}

}  // namespace wren::app
