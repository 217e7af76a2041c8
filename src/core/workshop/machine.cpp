#include "core/workshop/machine.hpp"

#include <fmt/format.h>

namespace wren {

const std::vector<Wood>& known_woods() {
  static const std::vector<Wood> woods{
      {"ash", 670, WoodClass::medium, 28, 12.0},         {"cherry", 560, WoodClass::medium, 24, 10.3},
      {"ebony", 1050, WoodClass::hard, 45, 17.0},        {"maple", 705, WoodClass::hard, 32, 12.6},
      {"pear", 690, WoodClass::medium, 28, 7.8},         {"rosewood", 830, WoodClass::hard, 36, 12.3},
      {"sycamore", 610, WoodClass::medium, 26, 9.9},     {"walnut", 615, WoodClass::medium, 25, 11.6},
      {"yellow-poplar", 470, WoodClass::soft, 18, 10.9}, {"spruce", 420, WoodClass::soft, 15, 9.5},
      {"mahogany", 590, WoodClass::medium, 24, 10.1},
  };
  return woods;
}

Expected<Wood> find_wood(const std::string& name) {
  std::string all;
  for (const Wood& wood : known_woods()) {
    if (wood.name == name) return wood;
    all += (all.empty() ? "" : ", ") + wood.name;
  }
  return fail(ProblemKind::range, fmt::format("no wood called '{}' is known", name), "board.blank.wood",
              "Choose one of " + all);
}

}  // namespace wren
