#include "standin/wood.hpp"

#include <algorithm>
#include <numbers>
#include <sstream>

#include <fmt/format.h>

namespace standin {

double CutterShape::over_tip(double rho) const {
  switch (kind) {
    case Kind::flat: return 0;
    case Kind::ball: return radius - std::sqrt(std::fmax(0.0, radius * radius - rho * rho));
    case Kind::nose: {
      const double out = rho - (radius - corner);
      return out <= 0 ? 0 : corner - std::sqrt(std::fmax(0.0, corner * corner - out * out));
    }
    case Kind::point: return rho / std::tan(half_angle * std::numbers::pi / 180);
    case Kind::hollow: {
      const double out = rho - (radius - corner);
      if (out <= 0) return 0;
      return std::sqrt(std::fmax(0.0, corner * corner - (corner - out) * (corner - out)));
    }
  }
  return 0;
}

void Wood::lay(const Block& block) {
  block_ = block;
  cutters_.clear();
  sweeps_.clear();
  bins_.clear();
}

void Wood::turn(bool about_x, double x, double y) {
  const auto over = [&](Place p) {
    if (about_x)
      p.y = block_.width - p.y;
    else
      p.x = block_.length - p.x;
    p.z = block_.thickness - p.z;
    return p;
  };
  for (Sweep& s : sweeps_) {
    s.from = over(s.from);
    s.to = over(s.to);
    s.below = !s.below;
  }
  block_.x = x;
  block_.y = y;
  bins_.clear();
  for (std::uint32_t i = 0; i < sweeps_.size(); ++i) bin(i);
}

std::uint16_t Wood::shape_of(const CutterShape& c) {
  for (std::size_t i = 0; i < cutters_.size(); ++i) {
    const CutterShape& o = cutters_[i];
    if (o.kind == c.kind && o.radius == c.radius && o.corner == c.corner && o.half_angle == c.half_angle)
      return static_cast<std::uint16_t>(i);
  }
  cutters_.push_back(c);
  return static_cast<std::uint16_t>(cutters_.size() - 1);
}

void Wood::sweep(Place from, Place to, const CutterShape& cutter) {
  if (!there()) return;
  const double low = std::min(from.z, to.z), r = cutter.radius;
  if (low >= block_.thickness) return;
  if (std::max(from.x, to.x) < -r || std::max(from.y, to.y) < -r || std::min(from.x, to.x) > block_.length + r ||
      std::min(from.y, to.y) > block_.width + r)
    return;
  const std::uint16_t shape = shape_of(cutter);
  // A piece that goes straight on lengthens the one before: rounded coordinates leave a thousandth.
  if (!sweeps_.empty() && !sweeps_.back().below && sweeps_.back().cutter == shape && sweeps_.back().to == from) {
    Sweep& last = sweeps_.back();
    const Place a = last.to - last.from, b = to - last.from;
    const double bb = b.x * b.x + b.y * b.y + b.z * b.z, ab = a.x * b.x + a.y * b.y + a.z * b.z;
    if (bb > 0 && ab > 0 && ab < bb && (a - b * (ab / bb)).far() < 0.0002) {
      last.to = to;
      bin(static_cast<std::uint32_t>(sweeps_.size() - 1));
      return;
    }
  }
  sweeps_.push_back({from, to, shape, false});
  bin(static_cast<std::uint32_t>(sweeps_.size() - 1));
}

void Wood::spoil(double x, double y, double radius, double height) {
  CutterShape round;
  round.radius = radius;
  sweep({x, y, height}, {x, y, height}, round);
}

void Wood::bin(std::uint32_t index) {
  const Sweep& s = sweeps_[index];
  const double r = cutters_[s.cutter].radius;
  const auto cell = [](double v) { return static_cast<std::int64_t>(std::floor(v / bin_size)); };
  const double dx = s.to.x - s.from.x, dy = s.to.y - s.from.y, far = std::hypot(dx, dy);
  for (std::int64_t j = cell(std::min(s.from.y, s.to.y) - r); j <= cell(std::max(s.from.y, s.to.y) + r); ++j)
    for (std::int64_t i = cell(std::min(s.from.x, s.to.x) - r); i <= cell(std::max(s.from.x, s.to.x) + r); ++i) {
      if (far > bin_size) {  // slanting: only what lies near its line
        const double mx = (static_cast<double>(i) + 0.5) * bin_size - s.from.x,
                     my = (static_cast<double>(j) + 0.5) * bin_size - s.from.y;
        if (std::abs(mx * dy - my * dx) / far > r + bin_size * 0.7072) continue;
      }
      auto& held =
          bins_[(static_cast<std::uint64_t>(i + (1 << 24)) << 32U) | static_cast<std::uint64_t>(j + (1 << 24))];
      if (held.empty() || held.back() != index) held.push_back(index);
    }
}

double Wood::low_over(const Sweep& s, const CutterShape& c, double x, double y) {
  // The tip stands at from + t·(to − from); over the place its surface is at z(t) + over_tip(distance). Both grow away
  // from where the axis passes nearest on a level way; on a slanting way the least is found between the two times at
  // which the rim passes.
  const double none = 1e9;
  const double dx = s.to.x - s.from.x, dy = s.to.y - s.from.y, dz = s.to.z - s.from.z;
  const double px = x - s.from.x, py = y - s.from.y;
  const double flat2 = dx * dx + dy * dy;
  if (flat2 < 1e-18) {
    const double rho = std::hypot(px, py);
    return rho > c.radius ? none : std::min(s.from.z, s.to.z) + c.over_tip(rho);
  }
  const double near = (px * dx + py * dy) / flat2;
  const double off2 = std::fmax(0.0, px * px + py * py - near * near * flat2);
  const double room2 = c.radius * c.radius - off2;
  if (room2 < 0) return none;
  const double half = std::sqrt(room2 / flat2);
  const double t0 = std::max(0.0, near - half), t1 = std::min(1.0, near + half);
  if (t0 > t1) return none;
  const auto height = [&](double t) {
    const double along = (t - near) * (t - near) * flat2;
    return s.from.z + t * dz + c.over_tip(std::min(c.radius, std::sqrt(off2 + along)));
  };
  if (c.kind == CutterShape::Kind::flat) return std::min(height(t0), height(t1));
  if (dz == 0 && c.kind != CutterShape::Kind::hollow) return height(std::clamp(near, t0, t1));
  if (c.kind == CutterShape::Kind::ball) {
    // Closed form: d/dt (z + t·dz − √(r² − off² − (t−near)²·flat²)) = 0.
    const double k = -dz / std::sqrt(flat2);
    const double t =
        near + k * std::sqrt(std::fmax(0.0, c.radius * c.radius - off2)) / std::sqrt(1 + k * k) / std::sqrt(flat2);
    return height(std::clamp(t, t0, t1));
  }
  // Convex along the way but for the hollow cutter, whose rim may lie lower at either end: both ends and a search.
  double best = std::min(height(t0), height(t1));
  double a = t0, b = t1;
  for (int k = 0; k < 48; ++k) {
    const double u = a + (b - a) / 3, v = b - (b - a) / 3;
    if (height(u) < height(v))
      b = v;
    else
      a = u;
  }
  return std::min(best, height((a + b) / 2));
}

namespace {
std::uint64_t bin_key(double x, double y, double size) {
  const auto i = static_cast<std::int64_t>(std::floor(x / size)), j = static_cast<std::int64_t>(std::floor(y / size));
  return (static_cast<std::uint64_t>(i + (1 << 24)) << 32U) | static_cast<std::uint64_t>(j + (1 << 24));
}
}  // namespace

double Wood::top(double x, double y) const {
  if (!there() || x < 0 || y < 0 || x > block_.length || y > block_.width) return 0;
  double z = block_.thickness;
  if (const auto it = bins_.find(bin_key(x, y, bin_size)); it != bins_.end())
    for (const std::uint32_t i : it->second)
      if (const Sweep& s = sweeps_[i]; !s.below && std::min(s.from.z, s.to.z) < z)
        z = std::min(z, low_over(s, cutters_[s.cutter], x, y));
  return z;
}

double Wood::bottom(double x, double y) const {
  double z = 0;
  if (const auto it = bins_.find(bin_key(x, y, bin_size)); it != bins_.end())
    for (const std::uint32_t i : it->second)
      if (Sweep s = sweeps_[i]; s.below) {
        // Seen upside down it is a sweep from above.
        s.from.z = -s.from.z;
        s.to.z = -s.to.z;
        z = std::max(z, -low_over(s, cutters_[s.cutter], x, y));
      }
  return z;
}

Wood::Groove Wood::groove(double x, double y, double angle, double reach) const {
  Groove out;
  const double c = std::cos(angle * std::numbers::pi / 180), s = std::sin(angle * std::numbers::pi / 180);
  constexpr double cell = 0.01;
  const double floor = top(x, y);
  const auto across = [&](double d) { return top(x - s * d, y + c * d); };
  double rim = floor;
  for (double d = 0; d <= reach; d += 0.25) rim = std::max(rim, std::min(across(d), across(-d)));
  out.depth = rim - floor;
  if (out.depth < 0.02) return out;
  const double half = floor + out.depth / 2;
  const auto edge = [&](double way) {
    for (double d = 0; d <= reach; d += cell)
      if (across(way * d) > half) return d - cell / 2;
    return -1.0;
  };
  const double one = edge(1), other = edge(-1);
  out.found = one >= 0 && other >= 0;
  out.width = out.found ? one + other : 0;
  return out;
}

std::string Wood::text() const {
  std::string out =
      fmt::format("wood 1 {} {} {} {} {}\n", block_.length, block_.width, block_.thickness, block_.x, block_.y);
  for (const CutterShape& c : cutters_)
    out += fmt::format("c {} {} {} {}\n", static_cast<int>(c.kind), c.radius, c.corner, c.half_angle);
  for (const Sweep& s : sweeps_)
    out += fmt::format("s {} {} {} {} {} {} {} {}\n", s.cutter, s.below ? 1 : 0, s.from.x, s.from.y, s.from.z, s.to.x,
                       s.to.y, s.to.z);
  return out + "end\n";
}

bool Wood::from_text(const std::string& text) {
  std::istringstream in(text);
  in.imbue(std::locale::classic());
  std::string word;
  int version = 0;
  Wood w;
  if (!(in >> word >> version >> w.block_.length >> w.block_.width >> w.block_.thickness >> w.block_.x >> w.block_.y) ||
      word != "wood" || version != 1)
    return false;
  while (in >> word && word != "end") {
    if (word == "c") {
      CutterShape c;
      int kind = 0;
      if (!(in >> kind >> c.radius >> c.corner >> c.half_angle) || kind < 0 || kind > 4 || w.cutters_.size() > 1000)
        return false;
      c.kind = static_cast<CutterShape::Kind>(kind);
      w.cutters_.push_back(c);
    } else if (word == "s") {
      Sweep s;
      int below = 0;
      if (!(in >> s.cutter >> below >> s.from.x >> s.from.y >> s.from.z >> s.to.x >> s.to.y >> s.to.z) ||
          s.cutter >= w.cutters_.size())
        return false;
      s.below = below != 0;
      w.sweeps_.push_back(s);
      w.bin(static_cast<std::uint32_t>(w.sweeps_.size() - 1));
    } else {
      return false;
    }
  }
  if (word != "end") return false;
  *this = std::move(w);
  return true;
}

}  // namespace standin
