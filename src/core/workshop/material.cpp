#include "core/workshop/material.hpp"

#include <algorithm>
#include <cctype>

#include <fmt/format.h>

namespace wren {
namespace {

// Wood Handbook, FPL-GTR-282 (figures as in GTR-190): density from ch. 5's specific gravity at 12 % × 1120, modulus and
// side hardness from ch. 5 (tables 5-3 and 5-5), shrinkage from ch. 4 (tables 4-3 and 4-4). All from memory; the tests
// hold the whole table against the handbook's relations. Cutting forces are common practice: about 0.042 × density.
const char* const handbook = "Wood Handbook ch. 4 and 5, from memory; cutting force common practice";
const char* const earlier = "common practice; the Wood Handbook has no such wood, or lists it otherwise";
const char* const practice = "common practice";

Materials made_table() {
  using K = MaterialKind;
  return {
      {"acrylic", K::plastic, 1190, Hardness::soft, 60, 3.2, 0, 0, 0, Grain::none, true, Dust::fumes, practice},
      {"alder", K::hardwood, 460, Hardness::soft, 18, 9.5, 2600, 4.4, 7.3, Grain::along, false, Dust::wood, handbook},
      {"ash-black", K::hardwood, 550, Hardness::medium, 22, 11.0, 3800, 5.0, 7.8, Grain::along, false, Dust::wood,
       handbook},
      {"ash", K::hardwood, 670, Hardness::medium, 28, 12.0, 5900, 4.9, 7.8, Grain::along, false, Dust::wood, handbook},
      {"balsa", K::hardwood, 165, Hardness::soft, 6, 3.4, 0, 3.0, 7.6, Grain::along, false, Dust::wood, handbook},
      {"basswood", K::hardwood, 415, Hardness::soft, 16, 10.1, 1800, 6.6, 9.3, Grain::along, false, Dust::wood,
       handbook},
      {"beech", K::hardwood, 720, Hardness::hard, 31, 11.9, 5800, 5.5, 11.9, Grain::along, false, Dust::harmful,
       handbook},
      {"birch", K::hardwood, 695, Hardness::hard, 29, 13.9, 5600, 7.3, 9.5, Grain::along, false, Dust::wood, handbook},
      {"bubinga", K::hardwood, 890, Hardness::hard, 38, 17.1, 12000, 5.8, 8.4, Grain::along, false, Dust::harmful,
       handbook},
      {"butternut", K::hardwood, 425, Hardness::soft, 17, 8.1, 2200, 3.4, 6.4, Grain::along, false, Dust::wood,
       handbook},
      {"cedar-red", K::softwood, 360, Hardness::soft, 13, 7.7, 1600, 2.4, 5.0, Grain::along, false, Dust::harmful,
       handbook},
      {"cherry", K::hardwood, 560, Hardness::medium, 24, 10.3, 4200, 3.7, 7.1, Grain::along, false, Dust::wood,
       handbook},
      {"chestnut", K::hardwood, 480, Hardness::soft, 20, 8.5, 2400, 3.4, 6.7, Grain::along, false, Dust::wood,
       handbook},
      {"cypress", K::softwood, 515, Hardness::soft, 20, 9.9, 2300, 3.8, 6.2, Grain::along, false, Dust::wood, handbook},
      {"douglas-fir", K::softwood, 540, Hardness::medium, 21, 13.4, 3200, 4.8, 7.6, Grain::along, false, Dust::wood,
       handbook},
      {"ebony", K::hardwood, 1050, Hardness::hard, 45, 17.0, 0, 0, 0, Grain::along, false, Dust::harmful, earlier},
      {"elm", K::hardwood, 560, Hardness::medium, 24, 9.2, 3700, 4.2, 9.5, Grain::along, false, Dust::wood, handbook},
      {"fibreboard-hard", K::sheet, 900, Hardness::hard, 32, 4.8, 0, 0, 0, Grain::none, false, Dust::fine, practice},
      {"fibreboard", K::sheet, 750, Hardness::medium, 24, 3.6, 0, 0, 0, Grain::none, false, Dust::fine, practice},
      {"foam-hard", K::sheet, 240, Hardness::soft, 5, 0.2, 0, 0, 0, Grain::none, false, Dust::plastic, practice},
      {"foam", K::sheet, 80, Hardness::soft, 2, 0.05, 0, 0, 0, Grain::none, false, Dust::plastic, practice},
      {"hemlock", K::softwood, 505, Hardness::soft, 20, 11.3, 2400, 4.2, 7.8, Grain::along, false, Dust::wood,
       handbook},
      {"hickory", K::hardwood, 805, Hardness::hard, 35, 14.9, 0, 7.0, 10.5, Grain::along, false, Dust::wood, handbook},
      {"ipe", K::hardwood, 1070, Hardness::hard, 45, 21.6, 16400, 6.6, 8.0, Grain::along, false, Dust::harmful,
       handbook},
      {"iroko", K::hardwood, 650, Hardness::medium, 27, 10.1, 5600, 2.8, 3.8, Grain::along, false, Dust::harmful,
       handbook},
      {"khaya", K::hardwood, 530, Hardness::medium, 22, 9.7, 3700, 2.5, 4.5, Grain::along, false, Dust::wood, handbook},
      {"korina", K::hardwood, 545, Hardness::medium, 22, 7.0, 2200, 4.5, 6.2, Grain::along, false, Dust::wood,
       handbook},
      {"locust", K::hardwood, 775, Hardness::hard, 33, 14.1, 7600, 4.6, 7.2, Grain::along, false, Dust::harmful,
       handbook},
      {"mahogany", K::hardwood, 590, Hardness::medium, 24, 10.1, 3600, 3.0, 4.1, Grain::along, false, Dust::wood,
       earlier},
      {"maple-soft", K::hardwood, 605, Hardness::medium, 25, 11.3, 4200, 4.0, 8.2, Grain::along, false, Dust::wood,
       handbook},
      {"maple", K::hardwood, 705, Hardness::hard, 32, 12.6, 6400, 4.8, 9.9, Grain::along, false, Dust::wood, handbook},
      {"mineral-acrylic", K::plastic, 1700, Hardness::hard, 80, 9.0, 0, 0, 0, Grain::none, true, Dust::fumes, practice},
      {"oak-red", K::hardwood, 705, Hardness::hard, 29, 12.5, 5700, 4.0, 8.6, Grain::along, false, Dust::wood,
       handbook},
      {"oak-white", K::hardwood, 760, Hardness::hard, 32, 12.3, 6000, 5.6, 10.5, Grain::along, false, Dust::wood,
       handbook},
      {"obeche", K::hardwood, 380, Hardness::soft, 15, 5.9, 1900, 3.0, 5.4, Grain::along, false, Dust::harmful,
       handbook},
      {"padauk", K::hardwood, 745, Hardness::hard, 32, 11.7, 7600, 3.3, 5.2, Grain::along, false, Dust::harmful,
       handbook},
      {"particleboard", K::sheet, 680, Hardness::medium, 24, 2.8, 0, 0, 0, Grain::none, false, Dust::fine, practice},
      {"pear", K::hardwood, 690, Hardness::medium, 28, 7.8, 7400, 3.9, 11.3, Grain::along, false, Dust::wood, earlier},
      {"phenolic-paper", K::sheet, 1400, Hardness::hard, 90, 9.0, 0, 0, 0, Grain::none, false, Dust::fumes, practice},
      {"pine-southern", K::softwood, 570, Hardness::medium, 22, 12.3, 3100, 4.8, 7.4, Grain::along, false, Dust::wood,
       handbook},
      {"pine-white", K::softwood, 390, Hardness::soft, 15, 8.5, 1700, 2.1, 6.1, Grain::along, false, Dust::wood,
       handbook},
      {"pine", K::softwood, 450, Hardness::soft, 17, 8.9, 2000, 3.9, 6.2, Grain::along, false, Dust::wood, handbook},
      {"plywood-birch", K::sheet, 680, Hardness::medium, 27, 9.5, 0, 0, 0, Grain::crossed, false, Dust::fine, practice},
      {"plywood-poplar", K::sheet, 450, Hardness::soft, 18, 5.5, 0, 0, 0, Grain::crossed, false, Dust::fine, practice},
      {"polycarbonate", K::plastic, 1200, Hardness::soft, 60, 2.4, 0, 0, 0, Grain::none, true, Dust::fumes, practice},
      {"poplar", K::hardwood, 450, Hardness::soft, 18, 9.4, 1900, 3.9, 9.2, Grain::along, false, Dust::wood, handbook},
      {"purpleheart", K::hardwood, 880, Hardness::hard, 37, 15.7, 8100, 3.2, 6.1, Grain::along, false, Dust::harmful,
       handbook},
      {"redwood", K::softwood, 450, Hardness::soft, 17, 9.2, 2100, 2.6, 4.4, Grain::along, false, Dust::harmful,
       handbook},
      {"resin", K::plastic, 1150, Hardness::medium, 55, 3.0, 0, 0, 0, Grain::none, true, Dust::fumes, practice},
      {"rosewood", K::hardwood, 830, Hardness::hard, 36, 12.3, 0, 2.7, 5.8, Grain::along, false, Dust::harmful,
       earlier},
      {"sapele", K::hardwood, 670, Hardness::medium, 28, 12.5, 6700, 4.6, 7.4, Grain::along, false, Dust::harmful,
       handbook},
      {"spruce-sitka", K::softwood, 450, Hardness::soft, 17, 10.8, 2300, 4.3, 7.5, Grain::along, false, Dust::wood,
       handbook},
      {"spruce", K::softwood, 420, Hardness::soft, 15, 9.5, 0, 3.8, 7.1, Grain::along, false, Dust::wood, earlier},
      {"sweetgum", K::hardwood, 580, Hardness::medium, 24, 11.3, 3800, 5.3, 10.2, Grain::along, false, Dust::wood,
       handbook},
      {"sycamore-american", K::hardwood, 550, Hardness::medium, 23, 9.8, 3400, 5.0, 8.4, Grain::along, false,
       Dust::wood, handbook},
      {"sycamore", K::hardwood, 610, Hardness::medium, 26, 9.9, 0, 0, 0, Grain::along, false, Dust::wood, earlier},
      {"teak", K::hardwood, 640, Hardness::medium, 28, 10.7, 4400, 2.5, 5.8, Grain::along, false, Dust::harmful,
       handbook},
      {"walnut", K::hardwood, 615, Hardness::medium, 25, 11.6, 4500, 5.5, 7.8, Grain::along, false, Dust::harmful,
       handbook},
      {"wenge", K::hardwood, 870, Hardness::hard, 37, 17.6, 8600, 4.8, 8.1, Grain::along, false, Dust::harmful,
       practice},
      {"yellow-poplar", K::hardwood, 470, Hardness::soft, 18, 10.9, 2400, 4.6, 8.2, Grain::along, false, Dust::wood,
       handbook},
  };
}

std::size_t letters_apart(const std::string& a, const std::string& b) {
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t before = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t here = std::min({row[j] + 1, row[j - 1] + 1, before + (a[i - 1] == b[j - 1] ? 0U : 1U)});
      before = row[j];
      row[j] = here;
    }
  }
  return row.back();
}

/// Names that a misspelt one may mean: those that begin or end like it, or differ by two letters.
std::string near_names(const Materials& own, const std::string& name) {
  std::string out;
  int count = 0;
  for (const Materials* list : {&own, &known_materials()})
    for (const Material& m : *list)
      if (count < 6 && (letters_apart(m.name, name) <= 2 || (!name.empty() && m.name.find(name) != std::string::npos) ||
                        (m.name.size() > 2 && name.find(m.name) != std::string::npos))) {
        out += (out.empty() ? "" : ", ") + m.name;
        ++count;
      }
  return out;
}

}  // namespace

const Materials& known_materials() {
  static const Materials table = [] {
    Materials all = made_table();
    std::sort(all.begin(), all.end(), [](const Material& a, const Material& b) { return a.name < b.name; });
    return all;
  }();
  return table;
}

Expected<Material> find_material(const Materials& own, const std::string& name) {
  for (const Materials* list : {&own, &known_materials()})
    for (const Material& m : *list)
      if (m.name == name) return m;
  const std::string near = near_names(own, name);
  return fail(
      ProblemKind::range, worded("no material called '{}' is known", name.substr(0, 60)), "materials",
      worded("{}Add it to the project's materials, like one that is near it (wren materials --add {} --like cherry)",
             near.empty() ? "" : "Choose " + near + ". ", name.empty() ? "NAME" : name.substr(0, 30)));
}

Expected<Material> material_like(const Materials& own, const std::string& name, const std::string& like) {
  auto out = find_material(own, like);
  if (!out) return out;
  for (const Material& m : own)
    if (m.name == name)
      return fail(ProblemKind::range, worded("'{}' is one of the project's materials already", name), "materials",
                  "Give another name, or change its figures");
  if (std::any_of(known_materials().begin(), known_materials().end(),
                  [&](const Material& m) { return m.name == name; }) &&
      name != like)
    return fail(ProblemKind::range, worded("'{}' stands in the table that ships with the program", name), "materials",
                worded("Give another name, or take its own figures: --add {} --like {}", name, name));
  out->name = name;
  out->source = name == like ? out->source : "like " + like;
  if (const auto bad = check_material(*out); !bad.empty()) return tl::unexpected(bad.front());
  return out;
}

std::optional<Problem> take_material(Materials& own, const Material& material) {
  const auto it = std::find_if(own.begin(), own.end(), [&](const Material& m) { return m.name == material.name; });
  if (it != own.end()) {
    *it = material;
    return {};
  }
  if (own.size() >= most_materials)
    return Problem{ProblemKind::range, worded("a project has at most {} materials of its own", most_materials),
                   "materials", "Take one out"};
  own.push_back(material);
  return {};
}

std::vector<Problem> check_material(const Material& m) {
  std::vector<Problem> out;
  const std::string where = "material." + m.name.substr(0, longest_material_name);
  const auto bad = [&](Words what, Words todo) {
    out.push_back({ProblemKind::range, std::move(what), where, std::move(todo)});
  };
  const bool word = !m.name.empty() && m.name.size() <= longest_material_name &&
                    std::all_of(m.name.begin(), m.name.end(),
                                [](unsigned char c) { return std::isalnum(c) != 0 || c == '-' || c >= 0x80; });
  if (!word)
    bad(worded("'{}' is no name for a material", m.name.substr(0, 60)),
        worded("One word of letters, digits and hyphens, at most {} bytes", longest_material_name));
  struct Figure {
    const char* what;
    double value, low, high;
  };
  for (const Figure& f : {Figure{"density", m.density, 20, 3000},
                          {"cutting force", m.cutting_force, 0.5, 200},
                          {"modulus", m.modulus, 0.01, 100},
                          {"side hardness", m.side_hardness, 0, 50000},
                          {"radial shrinkage", m.shrink_radial, 0, 20},
                          {"tangential shrinkage", m.shrink_tangential, 0, 25}})
    if (!(f.value >= f.low && f.value <= f.high))
      bad(fmt::format("the {} of '{}' is {}", f.what, m.name.substr(0, 60), f.value),
          worded("It lies between {} and {}", f.low, f.high));
  if (m.source.size() > 200) bad("its source has more than 200 letters", "Shorten it");
  return out;
}

double moisture_change(double width_mm, double shrink_percent, double moisture, double moisture_later) {
  if (shrink_percent <= 0) return 0;
  return width_mm * (moisture_later - moisture) / (30 * 100 / shrink_percent - 30 + moisture);
}

const char* dust_words(Dust dust) {
  switch (dust) {
    case Dust::wood: return nullptr;
    case Dust::fine: return "Its dust is very fine and carries glue: extraction and a mask that suits it, always.";
    case Dust::harmful: return "Its dust is known to irritate skin and lungs or to make allergic: cover both.";
    case Dust::plastic: return "Its dust hangs in the air and does not rot: extraction, and a mask.";
    case Dust::fumes: return "It gives off fumes where a cutter rubs: sharp cutters, extraction, never left alone.";
  }
  return nullptr;
}

std::string kind_word(MaterialKind kind) {
  const char* const words[] = {"hardwood", "softwood", "sheet", "plastic"};
  return words[static_cast<int>(kind)];
}
std::string hardness_word(Hardness hardness) {
  const char* const words[] = {"soft", "medium", "hard"};
  return words[static_cast<int>(hardness)];
}
std::string grain_word(Grain grain) {
  const char* const words[] = {"along", "crossed", "none"};
  return words[static_cast<int>(grain)];
}
std::string dust_word(Dust dust) {
  const char* const words[] = {"wood", "fine", "harmful", "plastic", "fumes"};
  return words[static_cast<int>(dust)];
}

}  // namespace wren
