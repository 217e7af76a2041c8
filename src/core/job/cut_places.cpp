#include "core/job/cut_places.hpp"

#include <algorithm>
#include <cmath>

namespace wren {
namespace {

constexpr double cell = 1;       // mm
constexpr int reach = 2;         // cells about a planned way: programs that differ a little are not elsewhere
constexpr double pace = 0.7;     // mm
constexpr double counts = 10;    // mm of way, down included
constexpr double shallow = 0.3;  // mm: what touches the blank's top alone
constexpr std::size_t most_cuts = 64;

template <class At>
void along(Vec3 a, Vec3 b, const At& at) {
  const double l = distance(a, b);
  const int n = std::max(1, static_cast<int>(std::ceil(l / pace)));
  for (int k = 1; k <= n; ++k) at(lerp(a, b, static_cast<double>(k) / n), l / n);
}

/// The lines that a planned move goes along.
std::vector<Vec3> ways(Vec3 from, const Move& m) {
  if (m.kind != MoveKind::arc_cw && m.kind != MoveKind::arc_ccw) return {m.to};
  ReadMove arc{};
  arc.kind = ReadKind::arc;
  arc.to = m.to;
  arc.centre = {m.centre.x, m.centre.y, from.z};
  arc.clockwise = m.kind == MoveKind::arc_cw;
  arc.plane = Plane::xy;
  std::vector<Vec3> out;
  flatten_arc(from, arc, 0.1, out);
  return out;
}

}  // namespace

CutPlaces::CutPlaces(const Placement& placement) : placement_(&placement) {
  Box2 box;
  for (const Toolpath& path : placement.paths)
    for (const Move& m : path.moves) box.add(flat(m.to));
  if (box.low.x > box.high.x) return;
  // An arc may lead outside of its ends: as far as the box is wide at most.
  const Vec2 size = box.high - box.low;
  const double room = 0.5 * std::max(size.x, size.y) + reach * cell;
  corner_ = {box.low.x - room, box.low.y - room};
  columns_ = static_cast<int>((size.x + 2 * room) / cell) + 1;
  rows_ = static_cast<int>((size.y + 2 * room) / cell) + 1;
  cells_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), 0);
  deepest_.assign(placement.cuts.size(), 0);
  for (const Toolpath& path : placement.paths) {
    Vec3 from = path.start;
    for (const Move& m : path.moves) {
      const auto cut = std::find_if(placement.cuts.begin(), placement.cuts.end(),
                                    [&](const Cut& c) { return m.cut < path.cuts.size() && c.id == path.cuts[m.cut]; });
      const auto k = static_cast<std::size_t>(cut - placement.cuts.begin());
      if (k < std::min(most_cuts, placement.cuts.size()) && m.kind != MoveKind::rapid) {
        deepest_[k] = std::min(deepest_[k], m.to.z);
        for (const Vec3 to : ways(from, m)) {
          mark(from, to, Cuts{1} << k);
          from = to;
        }
      }
      from = m.to;
    }
  }
}

void CutPlaces::mark(Vec3 a, Vec3 b, Cuts cut) {
  along(a, b, [&](Vec3 p, double) {
    const int i = static_cast<int>((p.x - corner_.x) / cell);
    const int j = static_cast<int>((p.y - corner_.y) / cell);
    for (int y = std::max(0, j - reach); y <= std::min(rows_ - 1, j + reach); ++y)
      for (int x = std::max(0, i - reach); x <= std::min(columns_ - 1, i + reach); ++x)
        cells_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(x)] |= cut;
  });
}

CutPlaces::Cuts CutPlaces::of(const std::vector<std::string>& ids) const {
  Cuts out = 0;
  for (std::size_t k = 0; k < std::min(most_cuts, placement_->cuts.size()); ++k)
    if (std::find(ids.begin(), ids.end(), placement_->cuts[k].id) != ids.end()) out |= Cuts{1} << k;
  return out;
}

CutPlaces::Cuts CutPlaces::at(Vec2 p) const {
  const double x = std::floor((p.x - corner_.x) / cell);
  const double y = std::floor((p.y - corner_.y) / cell);
  if (!(x >= 0 && y >= 0 && x < columns_ && y < rows_)) return 0;
  return cells_[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(x)];
}

template <class At>
void CutPlaces::work(const ReadProgram& read, std::size_t first, std::size_t end, const At& tell) const {
  std::vector<Vec3> lines;
  for (std::size_t i = first; i < std::min(end, read.moves.size()); ++i) {
    const ReadMove m = read.moves[i];
    if (m.machine != 0 || m.kind == ReadKind::rapid) continue;
    Vec3 from = i == 0 ? read.start : read.moves[i - 1].to;
    lines.assign(1, m.to);
    if (m.kind == ReadKind::arc) {
      lines.clear();
      flatten_arc(from, m, 0.1, lines);
    }
    for (const Vec3 to : lines) {
      if (std::min(from.z, to.z) < -shallow)
        along(from, to, [&](Vec3 p, double step) {
          if (const Cuts here = p.z < -shallow ? at(flat(p)) : 0; here != 0) tell(i, p, step, here);
        });
      from = to;
    }
  }
}

std::vector<std::string> CutPlaces::also(const std::vector<std::string>& own, const ReadProgram& read,
                                         std::size_t first, std::size_t end) const {
  const Cuts mine = of(own);
  std::vector<double> way(deepest_.size(), 0);
  work(read, first, end, [&](std::size_t, Vec3 p, double step, Cuts here) {
    if ((here & mine) != 0) return;
    for (std::size_t k = 0; k < way.size() && k < most_cuts; ++k)
      if ((here >> k & 1U) != 0 && p.z < 0.5 * deepest_[k]) way[k] += step;
  });
  std::vector<std::string> out;
  for (std::size_t k = 0; k < way.size(); ++k)
    if (way[k] > counts) out.push_back(placement_->cuts[k].id);
  return out;
}

std::vector<std::optional<std::size_t>> CutPlaces::first(const std::vector<std::string>& ids,
                                                         const ReadProgram& read) const {
  std::vector<Cuts> each;
  for (const std::string& id : ids) each.push_back(of({id}));
  const Cuts all = of(ids);
  std::vector<std::optional<std::size_t>> out(ids.size());
  work(read, 0, read.moves.size(), [&](std::size_t i, Vec3, double, Cuts here) {
    const auto k = std::find(each.begin(), each.end(), here & all);
    if ((here & all) != 0 && k != each.end() && !out[static_cast<std::size_t>(k - each.begin())])
      out[static_cast<std::size_t>(k - each.begin())] = i;
  });
  return out;
}

}  // namespace wren
