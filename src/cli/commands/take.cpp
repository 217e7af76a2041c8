// take: a curve of a drawing, or a shape traced from a picture, becomes something of the instrument.
// picture: pictures that lie behind drawings.
#include "cli/command.hpp"

#include "core/document/picture_files.hpp"
#include "exchange/trace_in.hpp"

namespace wren::cli {
namespace {

struct TakeCall {
  std::string file, from, as, name, at;
  int curve = 1, page = 1;
  double depth = 10, scale = 1, per_pixel = 0, within = 0.05;
  bool list = false;
};

/// All that is drawn, as sections of the neck.
int take_sections(const TakeCall& call, std::vector<DrawnCurve> curves) {
  const auto places = places_from(call.at, curves.size(), UnitSystem::millimetre);
  if (!places) return refuse(places.error());
  // Which curve went where, so that a row that was read wrongly is seen.
  std::string told;
  const auto order = reading_order(curves);
  for (std::size_t i = 0; i < order.size(); ++i) {
    const Vec2 size = bounds(curves[order[i]].points).size();
    told += fmt::format("{}{} mm: {} wide, {} deep", i == 0 ? "" : "\n", format_mm((*places)[i], 1),
                        format_mm(size.x, 2), format_mm(size.y, 2));
  }
  const std::size_t count = curves.size();
  return change_project(call.file, "take", [&](Project& project) -> std::optional<Problem> {
    auto next = with_sections(project, std::move(curves), *places);
    if (!next) return next.error();
    project = std::move(*next);
    say(fmt::format("{} sections taken, read in rows from the top left:\n{}", count, told));
    return {};
  });
}

int take(const TakeCall& call) {
  auto drawn = curves_in(call.from, call.page, call.per_pixel);
  if (!drawn) {
    Problem bad = drawn.error();
    if (is_raster(call.from) && !(call.per_pixel > 0)) bad.todo += ", with --mm-per-pixel";
    return refuse(bad);
  }
  std::vector<DrawnCurve>& curves = drawn->curves;
  if (!is_raster(call.from))
    for (DrawnCurve& c : curves)
      for (Vec2& q : c.points) q = q * call.scale;
  if (call.list) {
    for (std::size_t i = 0; i < curves.size(); ++i) {
      const Vec2 size = bounds(curves[i].points).size();
      fmt::print("{:4} {} {} x {} mm\n", i + 1, curves[i].closed ? "closed" : "open  ", format_mm(size.x, 2),
                 format_mm(size.y, 2));
    }
    return well;
  }
  if (call.as == "sections") return take_sections(call, std::move(curves));
  auto as = take_as(call.as);
  if (!as) return refuse(as.error());
  if (!call.name.empty()) as->name = call.name;
  as->depth = call.depth;
  if (!call.at.empty()) {
    const auto at = parse_length(call.at);
    if (!at) return refuse(at.error());
    as->station = *at;
  }
  as->within = call.within;
  if (call.curve < 1 || static_cast<std::size_t>(call.curve) > curves.size())
    return refuse({ProblemKind::input, fmt::format("there is no curve {}", call.curve), call.from,
                   fmt::format("Choose 1 to {}; --list shows them", curves.size())});
  const DrawnCurve& curve = curves[static_cast<std::size_t>(call.curve - 1)];
  return change_project(call.file, "take", [&](Project& project) -> std::optional<Problem> {
    auto next = with_curve(project, curve.points, curve.closed, *as);
    if (!next) return next.error();
    project = std::move(*next);
    return {};
  });
}

}  // namespace

Command add_take(CLI::App& app) {
  auto call = std::make_shared<TakeCall>();
  auto* parser = app.add_subcommand(
      "take",
      "A curve of a drawing (DXF, SVG, PDF) or a shape of a picture (PNG, JPEG) becomes part of the instrument");
  add_project(parser, call->file);
  parser->add_option("FROM", call->from, "Drawing or picture")->required()->type_name("FILE");
  parser
      ->add_option("--as", call->as,
                   "body-outline, cavity, cavity-back, head, heel-arc, section, pickup-neck, pickup-middle, "
                   "pickup-bridge, plate, mark; sections: every curve of the sheet")
      ->type_name("WHAT");
  parser->add_option("--curve", call->curve, "Which one, the largest first; 1 where left out")->type_name("N");
  parser->add_flag("--list", call->list, "Show the curves, take none");
  parser->add_option("--name", call->name, "Of a cavity")->type_name("NAME");
  parser->add_option("--depth", call->depth, "Of a cavity, mm")->type_name("MM");
  parser->add_option("--at", call->at, "Of a section: from the nut line; of sections \"25, 30, 35\" or \"25 by 5\"")
      ->type_name("PLACE");
  parser->add_option("--within", call->within, "How far the fair curve may leave the points, mm")->type_name("MM");
  parser->add_option("--scale", call->scale, "Of a drawing whose unit is not its own")->type_name("FACTOR");
  parser->add_option("--mm-per-pixel", call->per_pixel, "Of a picture")->type_name("MM");
  parser->add_option("--page", call->page, "Of a PDF")->type_name("N");
  return {parser, [call] {
            if (!call->list && call->as.empty())
              return wrong_call({ProblemKind::input, "what it becomes is not said", "take",
                                 "Add --as section, --as head, … or --list"});
            return take(*call);
          }};
}

Command add_picture(CLI::App& app) {
  struct Call {
    std::string file, lay, behind, off;
    double per_pixel = 0.2, x = 0, y = 0, turn = 0, fade = 0.5, at = 0;
    bool mirrored = false;
    int page = 1;
  };
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("picture", "Pictures behind the drawings of a project: lay one, list them, take one off");
  add_project(parser, call->file);
  parser->add_option("--lay", call->lay, "A picture (PNG, JPEG, PDF): it is kept beside the project")
      ->type_name("FILE");
  parser->add_option("--behind", call->behind, "PART.plan, PART.side or PART.section")->type_name("VIEW");
  parser->add_option("--mm-per-pixel", call->per_pixel, "What one of its points measures")->type_name("MM");
  parser->add_option("--x", call->x, "Where its lower left corner lies, mm")->type_name("MM");
  parser->add_option("--y", call->y, "The same, across or up")->type_name("MM");
  parser->add_option("--turn", call->turn, "Counter-clockwise, degrees")->type_name("DEG");
  parser->add_option("--fade", call->fade, "0 as it is, 1 gone")->type_name("SHARE");
  parser->add_option("--at", call->at, "Of a section: from the nut line, mm")->type_name("MM");
  parser->add_option("--page", call->page, "Of a PDF")->type_name("N");
  parser->add_flag("--mirrored", call->mirrored, "Left and right");
  parser->add_option("--off", call->off, "Take the picture of this name off; its file stays")->type_name("NAME");
  return {parser, [call] {
            if (call->lay.empty() && call->off.empty()) {
              auto job = load_job(call->file, first_part());
              if (!job) return refuse(job.error());
              int gone = 0;
              for (const PlacedPicture& p : (*job)->project().pictures) {
                const auto file = kept_picture(call->file, p);
                fmt::print("{}.{}{} {} {} mm a point{}\n", p.part, p.view,
                           p.view == "section" ? " at " + format_mm(p.station, 1) : "", p.name,
                           format_mm(p.mm_per_pixel, 4), file ? "" : " (" + file.error().what + ")");
                gone += file ? 0 : 1;
              }
              return static_cast<int>(gone > 0 ? must_stop : well);
            }
            return change_project(call->file, "picture", [&](Project& project) -> std::optional<Problem> {
              if (!call->off.empty()) {
                const auto before = project.pictures.size();
                std::erase_if(project.pictures, [&](const PlacedPicture& p) { return p.name == call->off; });
                if (project.pictures.size() == before)
                  return Problem{ProblemKind::input, fmt::format("no picture '{}' lies there", call->off), call->file,
                                 "Look what does: wren picture " + call->file};
              }
              if (call->lay.empty()) return {};
              const std::size_t dot = call->behind.rfind('.');
              PlacedPicture p;
              p.part = call->behind.substr(0, dot);
              p.view = dot == std::string::npos ? "" : call->behind.substr(dot + 1);
              if (all_parts().find(p.part) == nullptr || (p.view != "plan" && p.view != "side" && p.view != "section"))
                return Problem{ProblemKind::input, fmt::format("'{}' is no drawing of a part", call->behind),
                               "--behind",
                               "Write PART.plan, PART.side or PART.section; PART is one of " + all_parts().names()};
              if (call->file == "-")
                return Problem{ProblemKind::input, "a picture is kept beside its project, and this one has no file",
                               "--lay", "Name the project's file"};
              p.page = call->page;
              p.station = call->at;
              p.mm_per_pixel = call->per_pixel;
              p.low = {call->x, call->y};
              p.angle_deg = call->turn;
              p.fade = call->fade;
              p.mirrored = call->mirrored;
              p.name = std::filesystem::path(call->lay).filename().string();
              const auto read = read_grey(call->lay, call->page);  // what cannot be read is not kept
              if (!read) return read.error();
              const auto hash = keep_picture(call->file, call->lay);
              if (!hash) return hash.error();
              p.hash = *hash;
              if (project.pictures.size() >= most_pictures)
                return Problem{ProblemKind::range, fmt::format("there are {} pictures already", most_pictures),
                               call->file, "Take some off first"};
              project.pictures.push_back(std::move(p));
              return would_not_come_back(all_parts().book(), project, nullptr);
            });
          }};
}

}  // namespace wren::cli
