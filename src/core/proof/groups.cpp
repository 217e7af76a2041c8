#include "core/proof/groups.hpp"

#include <algorithm>
#include <cmath>

namespace wren {

Groups::Groups(const Setup& setup)
    : setup_(&setup),
      columns_(std::max(0, static_cast<int>(setup.blank_size.x / pace))),
      rows_(std::max(0, static_cast<int>(setup.blank_size.y / pace))),
      number_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), air) {}

std::vector<Groups::Group> Groups::largest(double smallest) const {
  std::vector<Group> out = groups_;
  std::erase_if(out, [&](const Group& g) { return g.area() < smallest; });
  std::sort(out.begin(), out.end(), [](const Group& a, const Group& b) { return a.cells > b.cells; });
  return out;
}

const Groups::Group* Groups::near(Vec2 p, double reach) const {
  const Vec2 q = setup_->to_work.apply(turned(setup_->turn, p));
  const Group* best = nullptr;
  const auto from = [&](double v, double corner) { return static_cast<int>(std::floor((v - corner) / pace)); };
  const int n = static_cast<int>(std::ceil(reach / pace));
  const int ci = from(q.x, setup_->blank_corner.x);
  const int cj = from(q.y, setup_->blank_corner.y);
  for (int j = std::max(0, cj - n); j <= std::min(rows_ - 1, cj + n); ++j)
    for (int i = std::max(0, ci - n); i <= std::min(columns_ - 1, ci + n); ++i) {
      const int k = number_[index(i, j)];
      if (k < 0 || distance(work(i, j), q) > reach) continue;
      const Group& g = groups_[static_cast<std::size_t>(k)];
      if (best == nullptr || g.cells > best->cells) best = &g;
    }
  return best;
}

void Groups::name() {
  groups_.clear();
  for (int j = 0; j < rows_; ++j)
    for (int i = 0; i < columns_; ++i)
      if (number_[index(i, j)] == unnamed) flood(i, j);
}

void Groups::flood(int i, int j) {
  const int own = static_cast<int>(groups_.size());
  groups_.push_back({0, i, j});
  open_.assign(1, {i, j});
  number_[index(i, j)] = own;
  while (!open_.empty()) {
    const auto [x, y] = open_.back();
    open_.pop_back();
    ++groups_.back().cells;
    for (const auto& [u, v] : {std::pair{x + 1, y}, std::pair{x - 1, y}, std::pair{x, y + 1}, std::pair{x, y - 1}})
      if (u >= 0 && v >= 0 && u < columns_ && v < rows_ && number_[index(u, v)] == unnamed) {
        number_[index(u, v)] = own;
        open_.push_back({u, v});
      }
  }
}

}  // namespace wren
