// Commands that belong to one part: fret list, crown's cutters, a neck's sections and head, a body's plan and carve.
#include "cli/commands/command.hpp"

#include "core/parts/body/part.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/fret_table.hpp"
#include "exchange/plan_in.hpp"

namespace wren::cli {
namespace {

int run_frets(const std::string& file, bool csv) {
  auto job = load_designed(file, BoardDesign::part);
  if (!job) return refuse(job.error());
  const Fretboard& board = (*job)->followed.designs.shape<BoardDesign>().board;
  std::cout << (csv ? fret_table_csv(board) : fret_table_text(board));
  return well;
}

int run_crown(const std::string& file, bool json) {
  auto job = load_designed(file, BoardDesign::part);
  if (!job) return refuse(job.error());
  const auto table = crown_table((*job)->project(), (*job)->followed.designs.shape<BoardDesign>(), (*job)->cache);
  Json list = Json::array();
  if (!json) fmt::print("cutter           rows    stepover    min   left over  asks for\n");
  for (const CrownChoice& c : table) {
    const char* way = c.direction == Direction::along ? "along" : "across";
    if (json)
      list.push_back({{"cutter", c.cutter},
                      {"direction", way},
                      {"stepover_mm", c.stepover},
                      {"minutes", c.minutes},
                      {"left_over_mm", c.left_over},
                      {"cost", c.cost},
                      {"clear_of_clamps", c.reaches}});
    else
      fmt::print("{:<16} {:<7} {:7.3f} {:8.1f} {:10.4f}   {}\n", c.cutter, way, c.stepover, c.minutes, c.left_over,
                 c.cost);
  }
  if (json) print(list);
  return well;
}

struct PlanChoice {
  int page = 1;
  int pick = 1;       // of the closed curves, the largest first
  std::string known;  // length of its longer side
  std::string tail;
  bool mirror = false;
  std::string cavity;  // name: use it as a cavity
  std::string depth = "10 mm";
  bool back = false;
};

/// One closed curve of a plan as the body's outline, or as a cavity in it.
std::optional<Problem> take_plan(Project& project, const std::vector<const CleanedPath*>& closed,
                                 const PlanChoice& choice, const std::string& file, const std::string& from) {
  if (closed.empty())
    return Problem{ProblemKind::format, "none of its curves is closed", from,
                   "Close the outline, or join its ends in the drawing"};
  if (choice.pick < 1 || choice.pick > static_cast<int>(closed.size()))
    return Problem{ProblemKind::range, fmt::format("there are {} closed curves", closed.size()), "--pick",
                   "List them with: wren plan " + file + " " + from};
  const CleanedPath& chosen = *closed[static_cast<std::size_t>(choice.pick - 1)];
  if (chosen.crosses)
    return Problem{ProblemKind::format,
                   fmt::format("the curve crosses itself near {:.1f}, {:.1f}", chosen.crosses->x, chosen.crosses->y),
                   from, "Mend the drawing there"};
  const auto job = designed(project, BodyDesign::part);
  if (!job) return job.error();
  Body& body = body_of(project).body;
  double tail = body.outline.tail;
  if (!choice.tail.empty()) {
    const auto v = parse_length(choice.tail);
    if (!v) return v.error();
    tail = *v;
  }
  PlanPlacement placement =
      usual_placement(*closed.front(), (*job)->followed.designs.shape<BodyDesign>().shape.setup.bridge_middle.x + tail);
  placement.mirror = choice.mirror;
  if (!choice.known.empty()) {
    const auto v = parse_length(choice.known);
    if (!v) return v.error();
    const Vec2 size = bounds(closed.front()->points).size();
    const auto scale = scale_from({0, 0}, {std::max(size.x, size.y), 0}, *v);
    if (!scale) return scale.error();
    placement.scale = *scale;
  }
  const Path path = placed(chosen.shape.path, placement);
  if (choice.cavity.empty()) {
    if (auto bad = check_outline(path); !bad.empty()) return bad.front();
    body.outline.drawn = path;
    body.outline.form = BodyForm::drawn;
  } else {
    const auto depth = parse_length(choice.depth);
    if (!depth) return depth.error();
    if (!(*depth > 0 && *depth < 200))
      return Problem{ProblemKind::range, "a cavity's depth is from 0 to 200 mm", "--depth", "Give its depth"};
    if (body.drawn.size() >= most_drawn_cavities)
      return Problem{ProblemKind::range, fmt::format("there are {} drawn cavities already", most_drawn_cavities), file,
                     "Take some out"};
    body.drawn.push_back({choice.cavity, path, choice.back, *depth});
  }
  fmt::print("{} taken over, scaled by {:.4f}\n", choice.cavity.empty() ? "outline" : "cavity '" + choice.cavity + "'",
             placement.scale);
  return {};
}

int run_plan(const std::string& file, const std::string& from, const PlanChoice& choice, bool take, bool json) {
  const auto plan = read_plan(from, choice.page);
  if (!plan) return refuse(plan.error());
  const Cleaned& c = plan->cleaned;
  std::vector<const CleanedPath*> closed;
  for (const CleanedPath& p : c.paths)
    if (p.closed) closed.push_back(&p);
  if (!take) {
    Json curves = Json::array();
    for (const CleanedPath* p : closed) {
      const Vec2 size = bounds(p->points).size();
      Json j{{"layer", p->layer},
             {"size_mm", {size.x, size.y}},
             {"nodes", p->shape.path.size()},
             {"lines", p->shape.lines},
             {"arcs", p->shape.arcs},
             {"curves", p->shape.curves},
             {"worst_mm", p->shape.worst},
             {"crosses_itself", p->crosses.has_value()}};
      if (p->shape.circle)
        j["circle"] = {{"centre", {p->shape.circle->centre.x, p->shape.circle->centre.y}},
                       {"radius", p->shape.circle->radius}};
      if (!json)
        fmt::print("{}: {:.2f} x {:.2f} mm, {} nodes ({} lines, {} arcs, {} curves){}{}\n", curves.size() + 1, size.x,
                   size.y, p->shape.path.size(), p->shape.lines, p->shape.arcs, p->shape.curves,
                   p->shape.circle ? fmt::format(", a circle of diameter {:.3f}", 2 * p->shape.circle->radius) : "",
                   p->crosses ? ", crosses itself" : "");
      curves.push_back(std::move(j));
    }
    if (json)
      print(Json{{"segments", c.segments_before},
                 {"doubles", c.doubles},
                 {"zero_length", c.zero_length},
                 {"joined", c.joined},
                 {"open", c.open_ends.size() / 2},
                 {"crossings", c.crossings.size()},
                 {"worst_mm", c.worst},
                 {"unit_known", plan->unit_known},
                 {"pages", plan->pages},
                 {"closed", curves}});
    else {
      fmt::print(
          "{} segments: {} doubles, {} of no length, {} ends joined, {} curves open, {} cross themselves; nothing "
          "moved by more than {:.3f} mm\n",
          c.segments_before, c.doubles, c.zero_length, c.joined, c.open_ends.size() / 2, c.crossings.size(), c.worst);
      for (const auto& n : plan->notes) fmt::print("{}\n", n);
    }
    return well;
  }
  return change_project(file, "plan", [&](Project& project) { return take_plan(project, closed, choice, file, from); });
}

int run_sections(const std::string& file, const std::string& from, bool forget) {
  if (!forget && from.empty())
    return refuse(
        {ProblemKind::input, "no file with sections was named", "sections", "Write: wren sections FILE FROM"});
  return change_project(file, "sections", [&](Project& project) -> std::optional<Problem> {
    Neck& neck = neck_of(project).neck;
    neck.back.sections.clear();
    if (forget) return {};
    auto sections = read_sections(from);
    if (!sections) return sections.error();
    neck.back.sections = std::move(*sections);
    const auto board = make_fretboard(board_of(project).instrument);
    if (!board) return board.error();
    const auto made = make_neck(*board, neck);
    if (!made) return made.error();
    double worst = 0;
    for (const auto& d : made->departures) worst = std::max(worst, d.worst);
    const Lump lump = worst_lump(*made);
    fmt::print("{} sections; the back leaves them by {:.3f} mm at most; worst lump {:.3f} mm at x {:.0f}\n",
               made->departures.size(), worst, lump.height, lump.at.x);
    return {};
  });
}

int run_head(const std::string& file, const std::string& from) {
  return change_project(file, "head", [&](Project& project) -> std::optional<Problem> {
    auto outline = read_head_outline(from);
    if (!outline) return outline.error();
    Neck& neck = neck_of(project).neck;
    neck.head.drawn = std::move(*outline);
    neck.head.shape = HeadShape::drawn;
    const auto board = make_fretboard(board_of(project).instrument);
    if (!board) return board.error();
    if (const auto made = make_neck(*board, neck); !made) return made.error();
    return {};
  });
}

int run_carve(const std::string& file, const std::string& from) {
  return change_project(file, "carve", [&](Project& project) -> std::optional<Problem> {
    const auto sections = read_sections(from);
    if (!sections) return sections.error();
    ComfortNumbers& comfort = body_of(project).body.comfort;
    comfort.lines.clear();
    for (const BackSection& s : *sections) comfort.lines.push_back({s.x, s.points});
    comfort.carve = CarveKind::drawn;
    fmt::print("{} sections of the face taken over\n", sections->size());
    return {};
  });
}

}  // namespace

Command add_frets(CLI::App& app) {
  auto file = std::make_shared<std::string>();
  auto csv = std::make_shared<bool>(false);
  auto* parser = app.add_subcommand("frets", "Show the fret job list");
  parser->add_option("FILE", *file, "Project")->required();
  parser->add_flag("--csv", *csv, "As CSV");
  return {parser, [file, csv] { return run_frets(*file, *csv); }};
}

Command add_crown(CLI::App& app) {
  auto file = std::make_shared<std::string>();
  auto json = std::make_shared<bool>(false);
  auto* parser = app.add_subcommand("crown", "Compare cutters for the crown: minutes and what they leave");
  parser->add_option("FILE", *file, "Project")->required();
  parser->add_flag("--json", *json, "As JSON");
  return {parser, [file, json] { return run_crown(*file, *json); }};
}

Command add_sections(CLI::App& app) {
  struct Call {
    std::string file, from;
    bool forget = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("sections", "Load sections measured on a neck (CSV or DXF)");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("FROM", call->from, "CSV with x, y, depth; or DXF with one polyline on a layer X<place> for each");
  parser->add_flag("--forget", call->forget, "Go back to the families of shapes");
  return {parser, [call] { return run_sections(call->file, call->from, call->forget); }};
}

Command add_head(CLI::App& app) {
  auto call = std::make_shared<std::pair<std::string, std::string>>();
  auto* parser =
      app.add_subcommand("head", "Load the head's outline (DXF or SVG), nut line at x = 0, head at negative x");
  parser->add_option("FILE", call->first, "Project")->required();
  parser->add_option("FROM", call->second, "Drawing")->required();
  return {parser, [call] { return run_head(call->first, call->second); }};
}

Command add_plan(CLI::App& app) {
  struct Call {
    std::string file, from;
    PlanChoice choice;
    bool take = false;
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand(
      "plan", "List a plan's curves (DXF, SVG, PDF), cleaned; or take one over as the body's outline or a cavity");
  PlanChoice& choice = call->choice;
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("FROM", call->from, "Plan")->required();
  parser->add_flag("--take", call->take, "Take the curve over");
  parser->add_option("--pick", choice.pick, "Which of the closed curves, the largest first");
  parser->add_option("--page", choice.page, "Page of a PDF");
  parser->add_option("--known-length", choice.known, "Length of the largest curve's longer side");
  parser->add_option("--tail", choice.tail, "Tail behind the scale line");
  parser->add_flag("--mirror", choice.mirror, "The plan is drawn from behind");
  parser->add_option("--cavity", choice.cavity, "Take it over as a cavity of this name");
  parser->add_option("--depth", choice.depth, "Depth of the cavity");
  parser->add_flag("--back", choice.back, "The cavity is cut from the back");
  parser->add_flag("--json", call->json, "As JSON");
  return {parser, [call] { return run_plan(call->file, call->from, call->choice, call->take, call->json); }};
}

Command add_carve(CLI::App& app) {
  auto call = std::make_shared<std::pair<std::string, std::string>>();
  auto* parser = app.add_subcommand(
      "carve", "Load sections of the body's face (CSV or DXF: place along, across, depth under the face)");
  parser->add_option("FILE", call->first, "Project")->required();
  parser->add_option("FROM", call->second, "Sections")->required();
  return {parser, [call] { return run_carve(call->first, call->second); }};
}

}  // namespace wren::cli
