#include "golden/sample.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/skin/tile_grid.hpp"

namespace wren::golden {
namespace {

/// Halton's sequence: spread evenly, the same at every run (bases 2 and 3).
double halton(int index, int base) {
  double f = 1;
  double out = 0;
  for (; index > 0; index /= base) {
    f /= base;
    out += f * (index % base);
  }
  return out;
}

double tolerance_of(const std::string& path) {
  const auto ends = [&](const char* with) { return path.ends_with(with); };
  if (path.find("/skin") != std::string::npos) return 1.0;        // µm
  if (path.find("/path_mean") != std::string::npos) return 10.0;  // 0.1 µm
  if (ends("seconds")) return -0.01;                              // share
  return -1e-6;
}

void compare(const Json& kept, const Json& now, const std::string& path, std::vector<std::string>& out) {
  if (out.size() > 40) return;
  if (kept.is_number() && now.is_number()) {
    const double a = kept.get<double>();
    const double b = now.get<double>();
    const double t = tolerance_of(path);
    const double most = t > 0 ? t : std::max(1e-3, -t * std::abs(a));
    if (!(std::abs(a - b) <= most)) out.push_back(fmt::format("{}: was {}, is {}", path, a, b));
  } else if (kept.is_array() && now.is_array()) {
    if (kept.size() != now.size()) {
      out.push_back(fmt::format("{}: had {} entries, has {}", path, kept.size(), now.size()));
      return;
    }
    for (std::size_t i = 0; i < kept.size(); ++i) compare(kept[i], now[i], fmt::format("{}/{}", path, i), out);
  } else if (kept.is_object() && now.is_object()) {
    for (const auto& [key, value] : kept.items()) {
      if (now.contains(key))
        compare(value, now[key], path + "/" + key, out);
      else
        out.push_back(fmt::format("{}/{}: is gone", path, key));
    }
    for (const auto& [key, value] : now.items())
      if (!kept.contains(key)) out.push_back(fmt::format("{}/{}: is new", path, key));
  } else if (kept != now) {
    out.push_back(fmt::format("{}: was {}, is {}", path, kept.dump(), now.dump()));
  }
}

}  // namespace

Json skin_after(const std::vector<ProgramText>& programs, const Rack& rack, const Setup& setup) {
  const auto score = read_score(programs, rack, setup);
  if (!score) return score.error().text();
  std::vector<Remover> removers;
  for (const Cutter& c : score->cutters) removers.emplace_back(c);
  constexpr double cell = 1e-4;
  std::vector<TileGrid> wood;
  std::vector<Vec2> at;
  for (int k = 1; k <= places; ++k) {
    const Vec2 p = Vec2{setup.blank_corner.x + halton(k, 2) * setup.blank_size.x,
                        setup.blank_corner.y + halton(k, 3) * setup.blank_size.y};
    at.push_back(p);
    wood.emplace_back(p - Vec2{cell / 2, cell / 2}, cell, 1, 1, static_cast<float>(setup.untouched(p)));
    wood.back().refresh_all();
  }
  double length = 0;
  Vec3 mean;
  for (const Motion& piece : score->motions) {
    if (piece.cutter < 0) continue;
    const double r = score->cutters[static_cast<std::size_t>(piece.cutter)].radius() + 0.01;
    const Vec2 low{std::min(piece.a.x, piece.b.x) - r, std::min(piece.a.y, piece.b.y) - r};
    const Vec2 high{std::max(piece.a.x, piece.b.x) + r, std::max(piece.a.y, piece.b.y) + r};
    for (std::size_t k = 0; k < at.size(); ++k)
      if (at[k].x > low.x && at[k].x < high.x && at[k].y > low.y && at[k].y < high.y)
        removers[static_cast<std::size_t>(piece.cutter)].sweep(wood[k], piece.a, piece.b);
    if (piece.rapid) continue;
    const double l = std::hypot(distance(flat(piece.a), flat(piece.b)), piece.b.z - piece.a.z);
    const Vec3 m = lerp(piece.a, piece.b, 0.5);
    mean = {mean.x + m.x * l, mean.y + m.y * l, mean.z + m.z * l};
    length += l;
  }
  Json out;
  Json heights = Json::array();
  for (TileGrid& g : wood) heights.push_back(std::lround(static_cast<double>(g.at(0, 0)) * 1000));
  out["skin"] = heights;
  if (length > 0)
    out["path_mean"] = {std::lround(mean.x / length * 1e4), std::lround(mean.y / length * 1e4),
                        std::lround(mean.z / length * 1e4)};
  out["seconds"] = std::round(score->seconds * 10) / 10;
  return out;
}

std::vector<std::string> differences(const Json& kept, const Json& now) {
  std::vector<std::string> out;
  compare(kept, now, "", out);
  return out;
}

}  // namespace wren::golden
