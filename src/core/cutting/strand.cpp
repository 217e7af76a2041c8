#include "core/cutting/strand.hpp"

namespace wren {

void append_lines(Strand& strand, const std::vector<Vec3>& points, std::size_t from, double feed) {
  for (std::size_t i = from; i < points.size(); ++i) strand.steps.push_back({points[i], {}, feed, StepKind::line});
}

}  // namespace wren
