// plan: a drawing's curves listed, or one of them taken over.
#include <cmath>

#include "cli/command.hpp"

#include "core/parts/body/part.hpp"
#include "exchange/plan_in.hpp"

namespace wren::cli {
namespace {

struct PlanChoice {
  int page = 1;
  int pick = 1;       // of the closed curves, the largest first
  bool all = false;   // each becomes what it most likely is
  std::string known;  // length of its longer side
  std::string tail;
  std::string join;
  double turn = 0;
  bool mirror = false;
  std::string cavity;  // name: use it as a cavity
  std::string hole;    // name: use it as a hole
  std::string depth = "10 mm";
  bool back = false;
  bool instead = false;
};

/// What each path becomes: all as they most likely are, or the picked one only.
Expected<std::vector<CurveUse>> uses_of(const Cleaned& plan, const PlanChoice& choice, const std::string& from) {
  std::size_t closed = 0;
  while (closed < plan.paths.size() && plan.paths[closed].closed) ++closed;
  if (closed == 0)
    return fail(ProblemKind::format, "none of its curves is closed", from,
                "Close the outline, or join its ends in the drawing");
  const auto depth = parse_length(choice.depth);
  if (!depth) return tl::unexpected(depth.error());
  std::vector<CurveUse> uses(plan.paths.size());
  if (choice.all) {
    uses = usual_uses(plan);
    for (CurveUse& use : uses) {
      use.depth = *depth;
      if (choice.back && use.as == Becomes::cavity) use.as = Becomes::back_cavity;
      if (choice.back && use.as == Becomes::hole) use.as = Becomes::back_hole;
    }
    return uses;
  }
  if (choice.pick < 1 || choice.pick > static_cast<int>(closed))
    return fail(ProblemKind::range, fmt::format("there are {} closed curves", closed), "--pick",
                "List them with: wren plan FILE " + shell_word(from));
  CurveUse& use = uses[static_cast<std::size_t>(choice.pick - 1)];
  if (!choice.hole.empty())
    use = {choice.back ? Becomes::back_hole : Becomes::hole, choice.hole, *depth};
  else if (!choice.cavity.empty())
    use = {choice.back ? Becomes::back_cavity : Becomes::cavity, choice.cavity, *depth};
  else
    use = {Becomes::outline, "outline", 0};
  return uses;
}

std::optional<Problem> take_plan(Project& project, const Cleaned& plan, const PlanChoice& choice,
                                 const std::string& from) {
  const auto uses = uses_of(plan, choice, from);
  if (!uses) return uses.error();
  // What goes anyway may be what no body follows from.
  Project before = project;
  if (choice.instead) {
    body_of(before).body.drawn.clear();
    body_of(before).body.holes.clear();
  }
  const auto job = designed(std::move(before), BodyDesign::part);
  if (!job) return job.error();
  Body& body = body_of(project).body;
  double tail = body.outline.tail;
  if (!choice.tail.empty()) {
    const auto v = parse_length(choice.tail);
    if (!v) return v.error();
    tail = *v;
  }
  PlanPlacement placement = usual_placement(
      plan.paths.front(), (*job)->followed.designs.shape<BodyDesign>().shape.setup.bridge_middle.x + tail);
  placement.mirror = choice.mirror;
  placement.turn_deg += choice.turn;
  if (!choice.known.empty()) {
    const auto v = parse_length(choice.known);
    if (!v) return v.error();
    const Vec2 size = bounds(plan.paths.front().points).size();
    const auto scale = scale_from({0, 0}, {std::max(size.x, size.y), 0}, *v);
    if (!scale) return scale.error();
    placement.scale = *scale;
  }
  auto taken = with_curves(body, plan, *uses, placement, choice.instead);
  if (!taken) return taken.error();
  body = std::move(*taken);
  std::string what;
  for (const CurveUse& use : *uses)
    if (use.as != Becomes::nothing)
      what += (what.empty() ? "" : ", ") + (use.as == Becomes::outline ? use.name : "'" + use.name + "'");
  say(fmt::format("{} taken over, scaled by {:.4f}", what, placement.scale));
  return {};
}

int run_plan(const std::string& file, const std::string& from, const PlanChoice& choice, bool take, bool json) {
  const auto source = Source::of(from);
  if (!source) return refuse(source.error());
  CleaningOptions options;
  if (!choice.join.empty()) {
    const auto join = parse_length(choice.join);
    if (!join) return refuse(join.error());
    if (!(*join > 0 && *join <= 5))
      return refuse({ProblemKind::range, "ends are joined over more than 0 and up to 5 mm", "--join", "Give less"});
    options.join = *join;
  }
  const auto plan = [&] {
    Meter meter("plan");
    return read_plan(source->path(), choice.page, options, meter.progress());
  }();
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
    Json gaps = Json::array();
    for (const Cleaned::Gap& g : c.gaps) gaps.push_back(std::round(g.size() * 1e4) / 1e4);
    if (!json && !c.gaps.empty())
      fmt::print("{} gaps of {:.3f} to {:.3f} mm between open ends; --join {:.3f} closes them\n", c.gaps.size(),
                 c.gaps.front().size(), c.gaps.back().size(), c.gaps.back().size() + 0.001);
    if (json)
      print("plan", {{"segments", c.segments_before},
                     {"doubles", c.doubles},
                     {"zero_length", c.zero_length},
                     {"joined", c.joined},
                     {"open", c.open_ends.size() / 2},
                     {"crossings", c.crossings.size()},
                     {"gaps_mm", gaps},
                     {"worst_mm", c.worst},
                     {"unit_known", plan->unit_known},
                     {"pages", plan->pages},
                     {"notes", plan->notes},
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
  return change_project(file, "plan", [&](Project& project) { return take_plan(project, c, choice, from); });
}

}  // namespace

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
  add_project(parser, call->file);
  parser->add_option("FROM", call->from, "Plan; - for standard input")->required()->type_name("FILE");
  parser->add_flag("--take", call->take, "Take the curve over");
  parser->add_option("--pick", choice.pick, "Which of the closed curves, the largest first")->type_name("N");
  parser->add_option("--page", choice.page, "Page of a PDF")->type_name("N");
  parser->add_option("--known-length", choice.known, "Length of the largest curve's longer side")->type_name("LENGTH");
  parser->add_option("--tail", choice.tail, "Tail behind the scale line")->type_name("LENGTH");
  parser->add_flag("--mirror", choice.mirror, "The plan is drawn from behind");
  parser->add_option("--cavity", choice.cavity, "Take it over as a cavity of this name")->type_name("NAME");
  parser->add_option("--depth", choice.depth, "Depth of cavities and holes")->type_name("LENGTH");
  parser->add_option("--hole", choice.hole, "Take it over as a hole of this name")->type_name("NAME");
  parser->add_flag("--all", choice.all, "Take every curve over as what it most likely is: outline, cavities, holes");
  parser->add_flag("--instead", choice.instead, "What was drawn before goes");
  parser->add_option("--join", choice.join, "Ends within this are one place (0.05 mm)")->type_name("LENGTH");
  parser->add_option("--turn", choice.turn, "Turn it further, degrees")->type_name("DEG");
  parser->add_flag("--back", choice.back, "Cavities and holes are cut from the back");
  add_json(parser, call->json);
  return {parser, [call] { return run_plan(call->file, call->from, call->choice, call->take, call->json); }};
}

}  // namespace wren::cli
