// Starting shapes of bodies, and what makes an outline unusable.
#include <algorithm>

#include <fmt/format.h>

#include "core/instrument/body_shape.hpp"
#include "core/units/length.hpp"

namespace wren {

Path starting_outline(const OutlineNumbers& o, double e, double s, double neck_half, bool left_handed) {
  const double hw = neck_half + 4;
  const double lower = o.lower_width / 2;
  const double waist = o.waist_width / 2;
  const double upper = o.upper_width / 2;
  const double lean = o.form == BodyForm::leaning ? 24 : 0;
  const double waist_x = e + 0.47 * (s - e);
  std::vector<Through> at{
      {{s + o.tail, 0}, {0, 1}, false},
      {{s + 6 + lean, lower}, {-1, 0}, false},
      {{waist_x + lean, waist}, {-1, 0}, false},
      {{e + 14 + lean * 0.6, upper}, {-1, 0}, false},
  };
  // Treble horn: over its tip and down its inner side into the cutaway.
  at.push_back({{e - o.horn_treble, upper - 30}, {-0.25, -1}, false});
  at.push_back({{e - o.horn_treble * 0.45, hw + 30}, {1, -0.12}, false});
  at.push_back({{e + 9, hw + 15}, {0.35, -1}, false});
  at.push_back({{e, hw}, {0, 0}, true});
  at.push_back({{e, -hw}, {0, 0}, false});
  if (o.form == BodyForm::one_horn) {
    // A full shoulder rises to the neck.
    at.push_back({{e - 8, -hw - 34}, {-0.5, -1}, false});
    at.push_back({{e + 34, -upper}, {1, 0}, false});
  } else {
    at.push_back({{e + 9, -hw - 15}, {-0.35, -1}, false});
    at.push_back({{e - o.horn_bass * 0.5, -hw - 32}, {-1, -0.12}, false});
    at.push_back({{e - o.horn_bass, -upper + 30}, {0.25, -1}, false});
    at.push_back({{e + 10 - lean * 0.4, -upper}, {1, 0}, false});
  }
  at.push_back({{waist_x - lean, -waist}, {1, 0}, false});
  at.push_back({{s + 8 - lean, -lower}, {1, 0}, false});
  const Path path = smooth_through(at);
  return left_handed ? mirrored(path) : path;
}

std::vector<Problem> check_outline(const Path& path) {
  std::vector<Problem> out;
  const auto bad = [&](ProblemKind kind, Words what, Words todo) {
    out.push_back({kind, std::move(what), "body.outline", std::move(todo)});
  };
  if (path.size() < 2)
    bad(ProblemKind::range, "the outline has fewer than two nodes", "Draw it round the whole body");
  else if (path.size() > most_path_nodes)
    bad(ProblemKind::range, fmt::format("the outline has {} nodes; {} are possible", path.size(), most_path_nodes),
        "Clean it with a wider tolerance");
  for (const PathNode& n : path)
    if (!std::isfinite(n.at.x + n.at.y + n.in.x + n.in.y + n.out.x + n.out.y + n.bulge) || std::abs(n.at.x) > 5000 ||
        std::abs(n.at.y) > 5000) {
      bad(ProblemKind::range, "a node of the outline is no place within 5 m", "Correct it");
      break;
    }
  if (!out.empty()) return out;
  const Polygon corners = flatten(to_contour(path, 0.01), 0.01);
  if (corners.size() < 3 || std::abs(signed_area(corners)) < 1000) {
    bad(ProblemKind::range, "the outline encloses nothing", "Draw it round the whole body");
    return out;
  }
  if (const auto where = first_crossing(corners))
    bad(ProblemKind::range,
        fmt::format("the outline crosses itself near x {}, y {}", format_mm(where->x, 1), format_mm(where->y, 1)),
        "Move the nodes there apart");
  if (signed_area(corners) < 0) bad(ProblemKind::range, "the outline runs clockwise", "Turn its direction");
  return out;
}

}  // namespace wren
