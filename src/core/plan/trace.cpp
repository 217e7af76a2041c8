#include "core/plan/trace.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <unordered_map>

#include <fmt/format.h>

namespace wren {
namespace {

/// A place on the net between pixels' middles where the level is passed: of the edge from (x, y) to the right, or up.
std::uint64_t edge_of(int x, int y, bool up) {
  return (static_cast<std::uint64_t>(static_cast<std::uint32_t>(x + 2)) << 33) |
         (static_cast<std::uint64_t>(static_cast<std::uint32_t>(y + 2)) << 1) | (up ? 1U : 0U);
}

double length_round(const Polygon& ring) {
  double sum = 0;
  for (std::size_t i = 0; i < ring.size(); ++i) sum += distance(ring[i], ring[(i + 1) % ring.size()]);
  return sum;
}

}  // namespace

Expected<GreyPicture> grey_from_ppm(std::string_view ppm, const std::string& name) {
  const auto damaged = [&] {
    return fail(ProblemKind::format, "this is no picture that was read whole", name, "Save it again as PNG or JPEG");
  };
  std::array<long, 3> numbers{};
  std::size_t at = 0;
  if (!ppm.starts_with("P6")) return damaged();
  at = 2;
  for (long& n : numbers) {
    while (at < ppm.size() && (ppm[at] == ' ' || ppm[at] == '\n' || ppm[at] == '\t' || ppm[at] == '\r')) ++at;
    const auto [end, bad] = std::from_chars(ppm.data() + at, ppm.data() + ppm.size(), n);
    if (bad != std::errc() || n <= 0) return damaged();
    at = static_cast<std::size_t>(end - ppm.data());
  }
  ++at;  // one white space before the pixels
  if (numbers[2] != 255) return damaged();
  if (numbers[0] > 1'000'000 || numbers[1] > 1'000'000 ||
      static_cast<std::size_t>(numbers[0]) * static_cast<std::size_t>(numbers[1]) > most_picture_pixels)
    return fail(ProblemKind::range, worded("the picture has {} x {} points", numbers[0], numbers[1]), name,
                "Make it smaller: a plan needs no more than 100 million");
  GreyPicture out{static_cast<int>(numbers[0]), static_cast<int>(numbers[1]), {}};
  const std::size_t n = static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height);
  if (ppm.size() < at + 3 * n) return damaged();
  out.grey.resize(n);
  for (std::size_t i = 0; i < n; ++i) {
    const auto c = [&](std::size_t k) { return static_cast<unsigned char>(ppm[at + 3 * i + k]); };
    out.grey[i] = static_cast<std::uint8_t>((299 * c(0) + 587 * c(1) + 114 * c(2) + 500) / 1000);
  }
  return out;
}

double level_of(const GreyPicture& picture) {
  std::array<double, 256> count{};
  for (const std::uint8_t g : picture.grey) count[g] += 1;
  double all = 0;
  double sum = 0;
  for (std::size_t g = 0; g < 256; ++g) {
    all += count[g];
    sum += static_cast<double>(g) * count[g];
  }
  double dark = 0;
  double dark_sum = 0;
  double best = -1;
  double from = 127.5;
  double to = 127.5;
  for (std::size_t g = 0; g + 1 < 256; ++g) {
    dark += count[g];
    dark_sum += static_cast<double>(g) * count[g];
    if (dark <= 0 || dark >= all) continue;
    const double apart = dark_sum / dark - (sum - dark_sum) / (all - dark);
    const double between = dark * (all - dark) * apart * apart;
    if (between > best * (1 + 1e-12)) {
      best = between;
      from = to = static_cast<double>(g) + 0.5;
    } else if (between >= best * (1 - 1e-12)) {
      to = static_cast<double>(g) + 0.5;  // greys that nothing has: half way through them
    }
  }
  return (from + to) / 2;
}

std::vector<Polygon> dark_rings(const GreyPicture& p, double level, double least, std::size_t most) {
  // From each cell of four pixels' middles its pieces of line, dark on the left; each joins two of the cell's sides.
  struct Piece {
    std::uint64_t to;
    Vec2 at;  // where it begins
  };
  std::unordered_map<std::uint64_t, Piece> next;
  const auto dark = [&](int x, int y) { return p.at(x, y) < level; };
  const auto passed = [&](int x0, int y0, int x1, int y1) {
    const double a = p.at(x0, y0);
    const double b = p.at(x1, y1);
    const double t = std::abs(b - a) > 1e-9 ? std::clamp((level - a) / (b - a), 0.0, 1.0) : 0.5;
    return Vec2{x0 + t * (x1 - x0), y0 + t * (y1 - y0)};
  };
  for (int y = -1; y < p.height; ++y)
    for (int x = -1; x < p.width; ++x) {
      const bool a = dark(x, y);
      const bool b = dark(x + 1, y);
      const bool c = dark(x + 1, y + 1);
      const bool d = dark(x, y + 1);
      const int kind = (a ? 1 : 0) | (b ? 2 : 0) | (c ? 4 : 0) | (d ? 8 : 0);
      if (kind == 0 || kind == 15) continue;
      // Sides: 0 below, 1 right, 2 above, 3 left.
      const std::array<std::uint64_t, 4> side{edge_of(x, y, false), edge_of(x + 1, y, true), edge_of(x, y + 1, false),
                                              edge_of(x, y, true)};
      const auto place = [&](int s) {
        return s == 0   ? passed(x, y, x + 1, y)
               : s == 1 ? passed(x + 1, y, x + 1, y + 1)
               : s == 2 ? passed(x, y + 1, x + 1, y + 1)
                        : passed(x, y, x, y + 1);
      };
      const auto piece = [&](int from, int to) {
        next[side[static_cast<std::size_t>(from)]] = {side[static_cast<std::size_t>(to)], place(from)};
      };
      switch (kind) {
        case 1: piece(0, 3); break;
        case 2: piece(1, 0); break;
        case 3: piece(1, 3); break;
        case 4: piece(2, 1); break;
        case 6: piece(2, 0); break;
        case 7: piece(2, 3); break;
        case 8: piece(3, 2); break;
        case 9: piece(0, 2); break;
        case 11: piece(1, 2); break;
        case 12: piece(3, 1); break;
        case 13: piece(0, 1); break;
        case 14: piece(3, 0); break;
        default: {
          // Two dark corners across: the middle decides whether they are one.
          const double middle = (p.at(x, y) + p.at(x + 1, y) + p.at(x + 1, y + 1) + p.at(x, y + 1)) / 4;
          const bool one = middle < level;
          if (kind == 5) {
            if (one)
              piece(0, 1), piece(2, 3);
            else
              piece(0, 3), piece(2, 1);
          } else {
            if (one)
              piece(1, 2), piece(3, 0);
            else
              piece(1, 0), piece(3, 2);
          }
        }
      }
    }
  std::vector<Polygon> out;
  while (!next.empty()) {
    Polygon ring;
    std::uint64_t at = next.begin()->first;
    for (auto it = next.find(at); it != next.end(); it = next.find(at)) {
      ring.push_back(it->second.at);
      at = it->second.to;
      next.erase(it);
    }
    if (ring.size() >= 3 && std::abs(signed_area(ring)) >= least) out.push_back(std::move(ring));
  }
  std::sort(out.begin(), out.end(),
            [](const Polygon& a, const Polygon& b) { return std::abs(signed_area(a)) > std::abs(signed_area(b)); });
  if (out.size() > most) out.resize(most);
  return out;
}

std::vector<Polygon> drawn_shapes(const std::vector<Polygon>& rings, double widest_line) {
  std::vector<Polygon> out;
  for (const Polygon& outer : rings) {
    if (signed_area(outer) <= 0) continue;  // a hole: of the line round it
    const Polygon* inner = nullptr;
    for (const Polygon& hole : rings)
      if (signed_area(hole) < 0 && contains(outer, hole.front()) &&
          (inner == nullptr || std::abs(signed_area(hole)) > std::abs(signed_area(*inner))))
        inner = &hole;
    // A line's two edges run beside each other all the way: the inner one is nearly as long.
    const double wide = inner == nullptr ? 1e9
                                         : 2 * (signed_area(outer) - std::abs(signed_area(*inner))) /
                                               (length_round(outer) + length_round(*inner));
    if (inner == nullptr || wide > widest_line) {
      out.push_back(outer);
      continue;
    }
    // Half way: each corner of the outer edge, as far in as its nearest place on the inner one is.
    Polygon back(inner->rbegin(), inner->rend());
    Polygon middle;
    for (const Vec2 q : outer) {
      double least = 1e300;
      Vec2 nearest = q;
      for (std::size_t i = 0; i < back.size(); ++i) {
        const Vec2 a = back[i];
        const Vec2 d = back[(i + 1) % back.size()] - a;
        const double l2 = dot(d, d);
        const Vec2 on = a + d * (l2 > 0 ? std::clamp(dot(q - a, d) / l2, 0.0, 1.0) : 0.0);
        if (const double far = distance(q, on); far < least) {
          least = far;
          nearest = on;
        }
      }
      middle.push_back(lerp(q, nearest, 0.5));
    }
    out.push_back(std::move(middle));
  }
  return out;
}

}  // namespace wren
