#include "core/proof/frame.hpp"

#include <algorithm>
#include <cmath>

#include "core/plan/region.hpp"

namespace wren {
namespace {

constexpr double step = 1.5;             // mm between places
constexpr double smallest = 80;          // mm²: less is a sliver that goes with the chips
constexpr double holds = 500;            // mm² of the blank that a tab has to lead to
constexpr double least_wood = 0.2;       // mm that hold together where no tab says more
constexpr double skin_share = 0.35;      // of the thinnest tab: what is no thicker holds nothing
constexpr double frame_share = 0.5;      // of the thinnest tab: what leads from a tab to the blank
constexpr double beside_outline = 0.75;  // mm: nearer is the piece itself

/// Places of the blank, `step` apart, and which of them hang together.
class Groups {
 public:
  struct Group {
    std::size_t cells = 0;
    Vec2 at;
    [[nodiscard]] double area() const { return static_cast<double>(cells) * step * step; }
  };

  explicit Groups(const Setup& setup)
      : setup_(setup),
        columns_(static_cast<int>(setup.blank_size.x / step)),
        rows_(static_cast<int>(setup.blank_size.y / step)),
        number_(static_cast<std::size_t>(std::max(0, columns_)) * static_cast<std::size_t>(std::max(0, rows_)), air) {}

  [[nodiscard]] bool any() const { return columns_ >= 2 && rows_ >= 2; }
  [[nodiscard]] Vec2 place(int i, int j) const {
    const Vec2 work{setup_.blank_corner.x + (i + 0.5) * step, setup_.blank_corner.y + (j + 0.5) * step};
    return turned(setup_.turn, setup_.to_work.back(work));
  }
  template <class Wood>
  void fill(const Wood& wood) {
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i) number_[index(i, j)] = wood(i, j, place(i, j)) ? unnamed : air;
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i)
        if (number_[index(i, j)] == unnamed) flood(i, j);
  }
  [[nodiscard]] const std::vector<Group>& all() const { return groups_; }
  /// The largest group within so far of a place of the plan; nullptr: none.
  [[nodiscard]] const Group* near(Vec2 p, double reach) const {
    const Vec2 q = setup_.to_work.apply(turned(setup_.turn, p));
    const Group* best = nullptr;
    const auto from = [&](double v, double corner) { return static_cast<int>(std::floor((v - corner) / step)); };
    const int n = static_cast<int>(std::ceil(reach / step));
    const int ci = from(q.x, setup_.blank_corner.x);
    const int cj = from(q.y, setup_.blank_corner.y);
    for (int j = std::max(0, cj - n); j <= std::min(rows_ - 1, cj + n); ++j)
      for (int i = std::max(0, ci - n); i <= std::min(columns_ - 1, ci + n); ++i) {
        const int k = number_[index(i, j)];
        if (k < 0 || distance(place(i, j), p) > reach) continue;
        const Group& g = groups_[static_cast<std::size_t>(k)];
        if (best == nullptr || g.cells > best->cells) best = &g;
      }
    return best;
  }

 private:
  static constexpr int air = -1, unnamed = -2;
  [[nodiscard]] std::size_t index(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i);
  }
  void flood(int i, int j) {
    const int own = static_cast<int>(groups_.size());
    groups_.push_back({0, place(i, j)});
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

  const Setup& setup_;
  int columns_, rows_;
  std::vector<int> number_;
  std::vector<Group> groups_;
  std::vector<std::pair<int, int>> open_;
};

void tell(const PieceRequest& request, const char* kind, Vec2 at, double number, double limit, std::size_t count,
          Words text, std::vector<Finding>& findings) {
  const Setup& setup = request.sides.back().setup;
  const Vec2 q = setup.to_work.apply(turned(setup.turn, at));
  findings.push_back({kind, Weight::stop, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, "M10", count});
}

void find_offcuts(const PieceRequest& request, Groups groups, const Solid& solid, double stands, bool tabs,
                  std::vector<Finding>& findings) {
  groups.fill([&](int, int, Vec2 p) { return solid.thickness(p) > stands; });
  std::vector<Groups::Group> all = groups.all();
  std::sort(all.begin(), all.end(), [](const Groups::Group& a, const Groups::Group& b) { return a.cells > b.cells; });
  std::erase_if(all, [](const Groups::Group& g) { return g.area() < smallest; });
  // Held by tabs the part and the blank about it are one; without them two.
  const std::size_t wanted = tabs ? 1 : 2;
  if (all.size() <= wanted) return;
  const Groups::Group& loose = all[wanted];
  tell(request, "offcut_loose", loose.at, loose.area(), smallest, all.size() - wanted,
       worded("A piece of the blank is cut off at x {:.0f}, y {:.0f}, {:.0f} cm² of it: nothing holds it, and the "
              "cutter comes by.",
              loose.at.x, loose.at.y, loose.area() / 100),
       findings);
}

/// A tab that leads to nothing holds nothing, as high and as long as it may be.
void hold_tabs_in_frame(const PieceRequest& request, Groups groups, const Solid& solid, double stands,
                        const std::vector<Standing>& standing, std::vector<Finding>& findings) {
  const Setup& setup = request.sides[0].setup;
  const Region piece = offset({turned(setup.turn, request.sides[0].design.outline)}, beside_outline);
  // Rows of places run along one axis of the plan: what of each the piece takes is read once.
  int row = -1;
  Vec2 first;
  Vec2 along;
  std::vector<double> taken;
  groups.fill([&](int i, int j, Vec2 p) {
    if (j != row) {
      row = j;
      first = p;
      along = unit(groups.place(i + 1, j) - p);
      taken.clear();
      for (const Polygon& ring : piece)
        for (const double t : crossings(ring, first, along)) taken.push_back(t);
      std::sort(taken.begin(), taken.end());
    }
    const auto before = std::lower_bound(taken.begin(), taken.end(), dot(p - first, along)) - taken.begin();
    return before % 2 == 0 && solid.thickness(p) > stands;
  });
  const Standing* loose = nullptr;
  std::size_t count = 0;
  for (const Standing& s : standing) {
    if (s.high < request.tolerances.skin_height || s.run > request.tolerances.tab_longest) continue;
    const Groups::Group* frame = groups.near(s.middle, 2 * step);
    if (frame == nullptr || frame->area() >= holds) continue;
    if (loose == nullptr) loose = &s;
    ++count;
  }
  if (loose != nullptr)
    tell(request, "tab_loose", loose->middle, 0, 1, count,
         worded("The tab at x {:.0f}, y {:.0f} leads to nothing that holds it: the wood on its outer side is cut away.",
                loose->middle.x, loose->middle.y),
         findings);
}

}  // namespace

void hold_frame(const PieceRequest& request, const Solid& solid, const std::vector<Standing>& standing,
                std::vector<Finding>& findings) {
  const Groups groups(request.sides[0].setup);
  if (!groups.any()) return;
  double thinnest = 0;
  for (const TabDesign& tab : request.tabs) thinnest = thinnest > 0 ? std::min(thinnest, tab.height) : tab.height;
  find_offcuts(request, groups, solid, std::max(least_wood, skin_share * thinnest), !standing.empty(), findings);
  if (!request.tabs.empty())
    hold_tabs_in_frame(request, groups, solid, std::max(least_wood, frame_share * thinnest), standing, findings);
}

}  // namespace wren
