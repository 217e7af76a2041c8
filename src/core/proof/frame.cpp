#include "core/proof/frame.hpp"

#include <algorithm>
#include <cmath>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"
#include "core/proof/groups.hpp"

namespace wren {
namespace {

constexpr double smallest = offcut_area;  // mm²
constexpr double hangs = 400;             // mm² of the blank that thin bridges do not hold
constexpr double bridges_from = 8;        // mm outside the outline: nearer tabs lead through the kerf
constexpr double holds = 500;             // mm² of the blank that a tab has to lead to
constexpr double least_wood = 0.2;        // mm that hold together where no tab says more
constexpr double skin_share = 0.35;       // of the thinnest tab: what is no thicker holds nothing
constexpr double frame_share = 0.5;       // of the thinnest tab: what leads from a tab to the blank
constexpr double beside_outline = 0.75;   // mm: nearer is the piece itself

void tell(const PieceRequest& request, const char* kind, Vec2 at, double number, double limit, std::size_t count,
          Words text, std::vector<Finding>& findings) {
  const Setup& setup = request.sides.back().setup;
  const Vec2 q = setup.to_work.apply(turned(setup.turn, at));
  findings.push_back({kind, Weight::stop, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, "M10", count});
}

/// What of each row of a blank's places a region takes: rows run along one axis of the plan, so it is read once a row.
class Rows {
 public:
  Rows(const Groups& groups, Region region) : groups_(groups), region_(std::move(region)) {}
  [[nodiscard]] bool takes(int i, int j) {
    if (j != row_) {
      row_ = j;
      first_ = groups_.place(0, j);
      along_ = unit(groups_.place(1, j) - first_);
      taken_.clear();
      for (const Polygon& ring : region_)
        for (const double t : crossings(ring, first_, along_)) taken_.push_back(t);
      std::sort(taken_.begin(), taken_.end());
    }
    const auto before = std::lower_bound(taken_.begin(), taken_.end(), i * Groups::pace) - taken_.begin();
    return before % 2 != 0;
  }

 private:
  const Groups& groups_;
  Region region_;
  int row_ = -1;
  Vec2 first_, along_;
  std::vector<double> taken_;
};

void find_offcuts(const PieceRequest& request, Groups groups, const Solid& solid, double stands, bool tabs,
                  std::vector<Finding>& findings) {
  groups.fill([&](int i, int j) { return solid.thickness(groups.place(i, j)) > stands; });
  // Held by tabs the part and the blank about it are one; without them two.
  const std::size_t wanted = tabs ? 1 : 2;
  const auto told = [&](const std::vector<Groups::Group>& all, const Words& why) {
    if (all.size() <= wanted) return false;
    const Groups::Group& loose = all[wanted];
    const Vec2 at = groups.place(loose.i, loose.j);
    tell(request, "offcut_loose", at, loose.area(), smallest, all.size() - wanted,
         worded("A piece of the blank is cut off at x {:.0f}, y {:.0f}, {:.0f} mm² of it: {}, and the cutter comes by.",
                at.x, at.y, loose.area(), why),
         findings);
    return true;
  };
  if (told(groups.largest(smallest), "nothing holds it")) return;
  const Setup& setup = request.sides[0].setup;
  Rows near(groups, offset({turned(setup.turn, request.sides[0].design.outline)}, bridges_from));
  groups.open([&](int i, int j) { return !near.takes(i, j); });
  told(groups.largest(hangs), "bridges of two millimetres hold it");
}

/// A tab that leads to nothing holds nothing, as high and as long as it may be.
void hold_tabs_in_frame(const PieceRequest& request, Groups groups, const Solid& solid, double stands,
                        const std::vector<Standing>& standing, std::vector<Finding>& findings) {
  const Setup& setup = request.sides[0].setup;
  Rows piece(groups, offset({turned(setup.turn, request.sides[0].design.outline)}, beside_outline));
  groups.fill([&](int i, int j) { return !piece.takes(i, j) && solid.thickness(groups.place(i, j)) > stands; });
  const Standing* loose = nullptr;
  std::size_t count = 0;
  for (const Standing& s : standing) {
    if (s.high < request.tolerances.skin_height || s.run > request.tolerances.tab_longest) continue;
    const Groups::Group* frame = groups.near(s.middle, 2 * Groups::pace);
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

std::optional<Groups::Group> ComesOff::after(Vec3 a, Vec3 b, bool took, const TileGrid& stock) {
  constexpr double look_every = 10;  // mm: a piece that matters takes more than that to cut off, and to cut away
  const double through = setup_.bed_z() + least_wood;
  if (apart_ == 0 || !took || std::min(a.z, b.z) > through || !groups_.any()) return {};
  way_ += distance(flat(a), flat(b));
  if (way_ < look_every) return {};
  way_ = 0;
  groups_.fill([&](int i, int j) { return height_at(stock, groups_.work(i, j)) > through; });
  const auto all = groups_.largest(offcut_area);
  if (all.size() <= apart_) return {};
  return all[apart_];
}

}  // namespace wren
