// materials: what there is to cut; the project's own added, or taken out, or shared with the shop's book.
#include <algorithm>

#include "cli/shop.hpp"

namespace wren::cli {
namespace {

struct Call {
  std::string file;
  std::string add;
  std::string like;
  std::string take_out;
  std::string keep, from_shop, shop;
  bool of_shop = false;
  bool json = false;
};

Json material_json(const Material& m, const char* of, bool used) {
  return {{"name", m.name},
          {"kind", kind_word(m.kind)},
          {"of", of},
          {"used", used},
          {"density_kg_m3", m.density},
          {"hardness", hardness_word(m.hardness)},
          {"cutting_force_n_mm2", m.cutting_force},
          {"modulus_gpa", m.modulus},
          {"side_hardness_n", m.side_hardness},
          {"shrink_radial_percent", m.shrink_radial},
          {"shrink_tangential_percent", m.shrink_tangential},
          {"grain", grain_word(m.grain)},
          {"melts", m.melts},
          {"dust", dust_word(m.dust)},
          {"source", m.source}};
}

int list(const Call& call) {
  Project project;
  std::vector<std::string> named;
  if (!call.file.empty()) {
    auto job = load_job(call.file, first_part());
    if (!job) return refuse(job.error());
    project = (*job)->project();
    named = materials_named(all_parts().book(), project);
  }
  Json rows = Json::array();
  if (!call.json)
    fmt::print("{:<24} {:<9} {:>7} {:<7} {:>6} {:>11} {:<8} {:<8} {}\n", "material", "kind", "kg/m3", "class", "GPa",
               "shrinks %", "grain", "dust", "source");
  const auto row = [&](const Material& m, bool own) {
    const bool used = std::find(named.begin(), named.end(), m.name) != named.end();
    if (call.json) {
      rows.push_back(material_json(m, call.of_shop ? "shop" : own ? "project" : "table", used));
      return;
    }
    const std::string shrinks =
        m.shrink_tangential > 0 ? fmt::format("{:.1f} / {:.1f}", m.shrink_radial, m.shrink_tangential) : "-";
    fmt::print("{:<24} {:<9} {:>7.0f} {:<7} {:>6.4g} {:>11} {:<8} {:<8} {}\n",
               m.name + (own    ? " (own)"
                         : used ? " (used)"
                                : ""),
               kind_word(m.kind), m.density, hardness_word(m.hardness), m.modulus, shrinks, grain_word(m.grain),
               m.melts ? "melts" : dust_word(m.dust), m.source);
  };
  if (call.of_shop) {
    auto book = open_shop(call.shop);
    if (!book) return refuse(book.error());
    const auto all = book->materials();
    if (!all) return refuse(all.error());
    for (const Entry<Material>& e : *all)
      if (!e.retired) row(e.thing, false);
    if (call.json) print("materials", {{"materials", rows}});
    return well;
  }
  for (const Material& m : project.materials) row(m, true);
  for (const Material& m : known_materials())
    if (std::none_of(project.materials.begin(), project.materials.end(),
                     [&](const Material& own) { return own.name == m.name; }))
      row(m, false);
  if (call.json) print("materials", {{"materials", rows}});
  return well;
}

std::optional<Problem> take_out(Project& project, const std::string& name) {
  const auto it = std::find_if(project.materials.begin(), project.materials.end(),
                               [&](const Material& m) { return m.name == name; });
  if (it == project.materials.end())
    return Problem{ProblemKind::input, fmt::format("'{}' is none of the project's own materials", name), "materials",
                   "List them with: wren materials FILE"};
  project.materials.erase(it);
  const auto named = materials_named(all_parts().book(), project);
  if (!find_material(project.materials, name) && std::find(named.begin(), named.end(), name) != named.end())
    return Problem{ProblemKind::input, fmt::format("something is made of '{}'", name), "materials",
                   "Make it of something else first; nothing was changed"};
  return {};
}

/// One of the project's own becomes the shop's too.
int keep(const Call& call) {
  auto job = load_job(call.file, first_part());
  if (!job) return refuse(job.error());
  const auto& own = (*job)->project().materials;
  const auto it = std::find_if(own.begin(), own.end(), [&](const Material& m) { return m.name == call.keep; });
  if (it == own.end())
    return refuse({ProblemKind::input, fmt::format("'{}' is none of the project's own materials", call.keep),
                   "materials", "List them with: wren materials FILE"});
  auto book = open_shop(call.shop);
  if (!book) return refuse(book.error());
  if (auto kept = book->put(*it, told()); !kept) return refuse(kept.error());
  say(fmt::format("'{}' is the shop's as well", call.keep));
  return well;
}

/// One of the shop's becomes the project's own, as it is in the book now.
int take_from_shop(const Call& call) {
  auto book = open_shop(call.shop);
  if (!book) return refuse(book.error());
  const auto all = book->materials();
  if (!all) return refuse(all.error());
  const auto it = std::find_if(all->begin(), all->end(),
                               [&](const Entry<Material>& e) { return !e.retired && e.thing.name == call.from_shop; });
  if (it == all->end())
    return refuse({ProblemKind::input, fmt::format("the shop has no material '{}'", call.from_shop), "",
                   "List them: wren materials --of-shop"});
  return change_project(call.file, "materials", [&](Project& project) -> std::optional<Problem> {
    return take_material(project.materials, it->thing);
  });
}

int run_materials(const Call& call) {
  if (call.file.empty() && (!call.keep.empty() || !call.from_shop.empty()))
    return wrong_call({ProblemKind::input, "a project is missing", "materials", "Name the project that is meant"});
  if (!call.keep.empty()) return keep(call);
  if (!call.from_shop.empty()) return take_from_shop(call);
  if (call.add.empty() && call.take_out.empty()) return list(call);
  if (call.file.empty())
    return wrong_call({ProblemKind::input, "a project is missing: the table that ships with the program stays as it is",
                       "materials", "Name the project that the material is for"});
  const int code = change_project(call.file, "materials", [&](Project& project) -> std::optional<Problem> {
    if (!call.take_out.empty())
      if (auto bad = take_out(project, call.take_out)) return bad;
    if (!call.add.empty()) {
      if (project.materials.size() >= most_materials)
        return Problem{ProblemKind::range, fmt::format("a project has at most {} materials of its own", most_materials),
                       "materials", "Take one out"};
      auto made = material_like(project.materials, call.add, call.like.empty() ? call.add : call.like);
      if (!made) return made.error();
      project.materials.push_back(std::move(*made));
    }
    return {};
  });
  if (code == well && !call.add.empty())
    say(fmt::format("'{0}' begins like {1}; its figures: wren set {2} material.{0}.density=…", call.add,
                    call.like.empty() ? call.add : call.like, shell_word(call.file)));
  return code;
}

}  // namespace

Command add_materials(CLI::App& app) {
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("materials", "Show woods and sheets with their figures; add one of the project's own");
  parser->add_option("PROJECT", call->file, "Project; without it the table that ships with the program");
  auto* add = parser->add_option("--add", call->add, "A new material of the project, by its name")->type_name("NAME");
  parser->add_option("--like", call->like, "Its figures begin like this one's")->type_name("MATERIAL")->needs(add);
  parser->add_option("--take-out", call->take_out, "One of the project's own that nothing is made of")
      ->type_name("NAME");
  parser->add_option("--keep", call->keep, "One of the project's own is put into the shop's book too")
      ->type_name("NAME");
  parser->add_option("--from-shop", call->from_shop, "One of the shop's becomes the project's, as the book has it")
      ->type_name("NAME");
  parser->add_flag("--of-shop", call->of_shop, "List those of the shop's book");
  add_shop(parser, call->shop);
  add_json(parser, call->json);
  return {parser, [call] { return run_materials(*call); }};
}

}  // namespace wren::cli
