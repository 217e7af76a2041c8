#include "core/plan/cleaning.hpp"

#include <algorithm>
#include <map>
#include <set>
#include <unordered_map>

namespace wren {
namespace {

/// Ends of open paths by place and layer: cells a little wider than the joining distance, looked up with their
/// neighbours. Ends that are used up are dropped as they are come upon, and a place that fits exactly is taken at once,
/// so that thousands of ends in one place cost no more than thousands apart.
class Ends {
 public:
  Ends(double join, const std::vector<DrawnPath>& paths) : cell_(std::max(join, 1e-6) * 1.01), join_(join) {
    std::map<std::pair<std::string, double>, std::int64_t> layers;
    for (const DrawnPath& p : paths)
      layer_.push_back(
          layers.try_emplace({p.layer, p.elevation}, static_cast<std::int64_t>(layers.size())).first->second);
    used_.resize(paths.size(), 0);
    for (std::size_t i = 0; i < paths.size(); ++i)
      for (const bool back : {false, true}) {
        const Vec2 at = back ? paths[i].points.back() : paths[i].points.front();
        cells_[key(at.x, at.y, layer_[i])].push_back({i, back, at});
      }
  }
  struct End {
    std::size_t path;
    bool back;
    Vec2 at;
  };
  [[nodiscard]] bool used(std::size_t path) const { return used_[path] != 0; }
  void use(std::size_t path) { used_[path] = 1; }
  /// The nearest end on a path's layer within the distance.
  [[nodiscard]] std::optional<End> near(Vec2 at, std::size_t path) {
    std::optional<End> best;
    double least = join_;
    for (int dx = -1; dx <= 1; ++dx)
      for (int dy = -1; dy <= 1; ++dy) {
        const auto it = cells_.find(key(at.x + dx * cell_, at.y + dy * cell_, layer_[path]));
        if (it == cells_.end()) continue;
        std::vector<End>& here = it->second;
        for (std::size_t k = 0; k < here.size();) {
          if (used(here[k].path)) {
            here[k] = here.back();
            here.pop_back();
            continue;
          }
          if (const double d = distance(here[k].at, at); d <= least && layer_[here[k].path] == layer_[path]) {
            if (d == 0) return here[k];
            least = d;
            best = here[k];
          }
          ++k;
        }
      }
    return best;
  }

 private:
  [[nodiscard]] std::int64_t key(double x, double y, std::int64_t layer) const {
    return static_cast<std::int64_t>(std::floor(x / cell_)) * 1'000'003'949 +
           static_cast<std::int64_t>(std::floor(y / cell_)) + layer * 7'778'742'049;
  }
  double cell_;
  double join_;
  std::vector<std::int64_t> layer_;
  std::vector<char> used_;
  std::unordered_map<std::int64_t, std::vector<End>> cells_;
};

/// The same path drawn twice, in either direction.
std::size_t drop_doubles(std::vector<DrawnPath>& paths) {
  const auto rounded = [](const DrawnPath& p) {
    std::vector<std::pair<std::int64_t, std::int64_t>> key;
    for (const Vec2 q : p.points) key.emplace_back(std::llround(q.x * 1000), std::llround(q.y * 1000));
    auto back = key;
    std::reverse(back.begin(), back.end());
    if (p.closed) {
      // A closed path may begin anywhere.
      std::rotate(key.begin(), std::min_element(key.begin(), key.end()), key.end());
      std::rotate(back.begin(), std::min_element(back.begin(), back.end()), back.end());
    }
    return std::min(key, back);
  };
  std::set<std::pair<std::string, std::vector<std::pair<std::int64_t, std::int64_t>>>> seen;
  const std::size_t before = paths.size();
  std::erase_if(paths, [&](const DrawnPath& p) { return !seen.insert({p.layer, rounded(p)}).second; });
  return before - paths.size();
}

/// Each open end with its nearest of the same layer, the narrowest gaps first, each end once.
std::vector<Cleaned::Gap> gaps_of(const std::vector<CleanedPath>& paths) {
  constexpr double most = 5;
  constexpr std::size_t most_ends = 2000;  // beyond that no hand closes them
  struct End {
    const CleanedPath* path;
    Vec2 at;
  };
  std::vector<End> ends;
  for (const CleanedPath& p : paths)
    if (!p.closed) {
      ends.push_back({&p, p.points.front()});
      ends.push_back({&p, p.points.back()});
    }
  std::vector<Cleaned::Gap> out;
  if (ends.size() > most_ends) return out;
  std::vector<std::pair<double, std::pair<std::size_t, std::size_t>>> pairs;
  for (std::size_t i = 0; i < ends.size(); ++i)
    for (std::size_t k = i + 1; k < ends.size(); ++k)
      if (const double d = distance(ends[i].at, ends[k].at); d <= most && ends[i].path->layer == ends[k].path->layer)
        pairs.push_back({d, {i, k}});
  std::sort(pairs.begin(), pairs.end());
  std::vector<char> used(ends.size(), 0);
  for (const auto& [d, which] : pairs) {
    const auto [i, k] = which;
    if (used[i] != 0 || used[k] != 0) continue;
    used[i] = used[k] = 1;
    out.push_back({ends[i].at, ends[k].at});
  }
  return out;
}

}  // namespace

std::vector<DrawnPath> join_ends(std::vector<DrawnPath> in, double join, std::size_t* joins) {
  std::vector<DrawnPath> out;
  std::vector<DrawnPath> open;
  for (DrawnPath& p : in) (p.closed || p.points.size() < 2 ? out : open).push_back(std::move(p));
  Ends ends(join, open);
  for (std::size_t i = 0; i < open.size(); ++i) {
    if (ends.used(i)) continue;
    ends.use(i);
    std::vector<Vec2> forward = open[i].points;
    std::vector<Vec2> backward;  // grown at the front, kept reversed
    for (const bool front : {false, true}) {
      std::vector<Vec2>& chain = front ? backward : forward;
      while (true) {
        const Vec2 tail = front ? (backward.empty() ? forward.front() : backward.back()) : forward.back();
        const Vec2 head = front ? forward.back() : (backward.empty() ? forward.front() : backward.back());
        if (forward.size() + backward.size() > 3 && distance(tail, head) <= join) break;
        const auto e = ends.near(tail, i);
        if (!e) break;
        ends.use(e->path);
        const auto& more = open[e->path].points;
        if (joins != nullptr && e->at != tail) ++*joins;
        if (e->back)
          chain.insert(chain.end(), more.rbegin() + 1, more.rend());
        else
          chain.insert(chain.end(), more.begin() + 1, more.end());
      }
    }
    DrawnPath path{open[i].layer, open[i].elevation, false, {}};
    path.points.assign(backward.rbegin(), backward.rend());
    path.points.insert(path.points.end(), forward.begin(), forward.end());
    if (path.points.size() > 3 && distance(path.points.front(), path.points.back()) <= join) {
      path.points.pop_back();
      path.closed = true;
    }
    out.push_back(std::move(path));
  }
  return out;
}

Cleaned clean(std::vector<DrawnPath> paths, const CleaningOptions& options) {
  Cleaned out;
  for (DrawnPath& p : paths) {
    out.segments_before += p.points.empty() ? 0 : p.points.size() - (p.closed ? 0 : 1);
    const std::size_t before = p.points.size();
    p.points.erase(std::unique(p.points.begin(), p.points.end(), [](Vec2 a, Vec2 b) { return distance(a, b) <= 1e-6; }),
                   p.points.end());
    if (p.closed && p.points.size() > 1 && distance(p.points.front(), p.points.back()) <= 1e-6) p.points.pop_back();
    out.zero_length += before - p.points.size();
  }
  std::erase_if(paths, [](const DrawnPath& p) { return p.points.size() < 2; });
  out.doubles = drop_doubles(paths);
  for (DrawnPath& p : join_ends(std::move(paths), options.join, &out.joined)) {
    CleanedPath c;
    c.layer = p.layer;
    c.closed = p.closed && p.points.size() >= 3;
    c.points = std::move(p.points);
    if (c.closed && signed_area(c.points) < 0) std::reverse(c.points.begin(), c.points.end());
    c.shape = recover(c.points, c.closed, options.recover);
    out.worst = std::max(out.worst, c.shape.worst);
    if (c.closed) {
      c.crosses = first_crossing(c.points);
      if (c.crosses) out.crossings.push_back(*c.crosses);
    } else {
      out.open_ends.push_back(c.points.front());
      out.open_ends.push_back(c.points.back());
    }
    out.paths.push_back(std::move(c));
  }
  out.gaps = gaps_of(out.paths);
  std::stable_sort(out.paths.begin(), out.paths.end(), [](const CleanedPath& a, const CleanedPath& b) {
    if (a.closed != b.closed) return a.closed;
    return a.closed && std::abs(signed_area(a.points)) > std::abs(signed_area(b.points));
  });
  return out;
}

}  // namespace wren
