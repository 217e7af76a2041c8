#include "core/plan/path.hpp"

#include <algorithm>
#include <numbers>

namespace wren {
namespace {

struct Cubic {
  Vec2 a, b, c, d;
  [[nodiscard]] Vec2 at(double t) const {
    const double s = 1 - t;
    return a * (s * s * s) + b * (3 * s * s * t) + c * (3 * s * t * t) + d * (t * t * t);
  }
  [[nodiscard]] Vec2 slope(double t) const {
    const double s = 1 - t;
    return (b - a) * (3 * s * s) + (c - b) * (6 * s * t) + (d - c) * (3 * t * t);
  }
  [[nodiscard]] Vec2 bend(double t) const { return (c - b * 2 + a) * (6 * (1 - t)) + (d - c * 2 + b) * (6 * t); }
  /// Direction at an end, also where its handle has no length.
  [[nodiscard]] Vec2 leaves() const { return !(b == a) ? unit(b - a) : !(c == a) ? unit(c - a) : unit(d - a); }
  [[nodiscard]] Vec2 arrives() const { return !(d == c) ? unit(d - c) : !(d == b) ? unit(d - b) : unit(d - a); }
  [[nodiscard]] std::pair<Cubic, Cubic> halves(double t) const {
    const Vec2 ab = lerp(a, b, t);
    const Vec2 bc = lerp(b, c, t);
    const Vec2 cd = lerp(c, d, t);
    const Vec2 abc = lerp(ab, bc, t);
    const Vec2 bcd = lerp(bc, cd, t);
    const Vec2 m = lerp(abc, bcd, t);
    return {{a, ab, abc, m}, {m, bcd, cd, d}};
  }
};

Cubic cubic_of(const PathNode& from, const PathNode& to) { return {from.at, from.at + from.out, to.at + to.in, to.at}; }

/// Bulge of the arc from a to b that leaves a along u.
double bulge_leaving(Vec2 a, Vec2 b, Vec2 u) {
  const Vec2 chord = b - a;
  return std::tan(std::atan2(cross(u, chord), dot(u, chord)) / 2);
}

double off_arc(Vec2 p, Vec2 a, Vec2 b, double bulge) {
  if (std::abs(bulge) < 1e-9) return distance_to(p, {a, b});
  const Arc arc = arc_of(a, b, bulge);
  return std::abs(distance(p, arc.centre) - std::abs(arc.radius));
}

void add_biarcs(const Cubic& q, double tolerance, int depth, Contour& out) {
  const Vec2 t1 = q.leaves();
  const Vec2 t2 = q.arrives();
  const Vec2 v = q.d - q.a;
  const double l2 = dot(v, v);
  if (l2 < 1e-18) return;
  // Joint at equal lengths from both ends: d solves |v − d·(t1 + t2)|² = 4d²·… for tangents t1, t2.
  const Vec2 t = t1 + t2;
  const double denominator = 2 * (1 - dot(t1, t2));
  double d = 0;
  if (denominator < 1e-12) {
    const double along = dot(v, t2);
    d = std::abs(along) > 1e-12 ? l2 / (4 * along) : -1;
  } else {
    const double vt = dot(v, t);
    d = (-vt + std::sqrt(std::max(0.0, vt * vt + denominator * l2))) / denominator;
  }
  bool good = d > 0;
  const Vec2 joint = (q.a + q.d + (t1 - t2) * d) * 0.5;
  double b1 = 0;
  double b2 = 0;
  if (good) {
    b1 = bulge_leaving(q.a, joint, t1);
    b2 = -bulge_leaving(q.d, joint, t2 * -1.0);
    good = std::abs(b1) < 0.5 && std::abs(b2) < 0.5;
    for (int k = 1; k < 12 && good; ++k) {
      const Vec2 p = q.at(k / 12.0);
      good = std::min(off_arc(p, q.a, joint, b1), off_arc(p, joint, q.d, b2)) <= tolerance;
    }
  }
  if (!good && depth < 24) {
    const auto [left, right] = q.halves(0.5);
    add_biarcs(left, tolerance, depth + 1, out);
    add_biarcs(right, tolerance, depth + 1, out);
    return;
  }
  const auto straight = [](double bulge) { return std::abs(bulge) < 1e-7 ? 0 : bulge; };
  if (!good) {
    out.push_back({q.a, 0});
    return;
  }
  out.push_back({q.a, straight(b1)});
  out.push_back({joint, straight(b2)});
}

const PathNode& after(const Path& path, std::size_t i) { return path[(i + 1) % path.size()]; }

/// The direction in which an edge leaves its first node, or arrives at its last.
Vec2 edge_leaves(const PathNode& a, const PathNode& b) {
  if (a.edge == EdgeKind::curve) return cubic_of(a, b).leaves();
  if (a.edge == EdgeKind::arc && a.bulge != 0) {
    const double half = 2 * std::atan(a.bulge);  // half the arc's angle, between chord and tangent
    const Vec2 u = unit(b.at - a.at);
    return {u.x * std::cos(-half) - u.y * std::sin(-half), u.x * std::sin(-half) + u.y * std::cos(-half)};
  }
  return unit(b.at - a.at);
}
Vec2 edge_arrives(const PathNode& a, const PathNode& b) {
  if (a.edge == EdgeKind::curve) return cubic_of(a, b).arrives();
  if (a.edge == EdgeKind::arc && a.bulge != 0) {
    const double half = 2 * std::atan(a.bulge);
    const Vec2 u = unit(b.at - a.at);
    return {u.x * std::cos(half) - u.y * std::sin(half), u.x * std::sin(half) + u.y * std::cos(half)};
  }
  return unit(b.at - a.at);
}

}  // namespace

Vec2 point_on(const PathNode& from, const PathNode& to, double t) {
  if (from.edge == EdgeKind::curve) return cubic_of(from, to).at(t);
  if (from.edge == EdgeKind::arc && std::abs(from.bulge) > 1e-12) {
    const Arc arc = arc_of(from.at, to.at, from.bulge);
    const double angle = arc.start + arc.sweep * t;
    return arc.centre + Vec2{std::cos(angle), std::sin(angle)} * std::abs(arc.radius);
  }
  return lerp(from.at, to.at, t);
}

Contour to_contour(const Path& path, double tolerance) {
  Contour out;
  if (path.size() < 2) return out;
  for (std::size_t i = 0; i < path.size(); ++i) {
    const PathNode& a = path[i];
    const PathNode& b = after(path, i);
    if (a.at == b.at && a.edge != EdgeKind::curve) continue;
    if (a.edge == EdgeKind::curve)
      add_biarcs(cubic_of(a, b), tolerance, 0, out);
    else
      out.push_back({a.at, a.edge == EdgeKind::arc ? a.bulge : 0});
  }
  // Edges of no length have no direction: they go.
  Contour clean;
  for (std::size_t i = 0; i < out.size(); ++i)
    if (out.size() < 3 || distance(out[i].at, out[(i + 1) % out.size()].at) > 1e-7) clean.push_back(out[i]);
  return clean;
}

Path smooth_through(const std::vector<Through>& places) {
  Path path;
  const std::size_t n = places.size();
  for (std::size_t i = 0; i < n; ++i) {
    PathNode node;
    node.at = places[i].at;
    node.smooth = !(places[i].along == Vec2{}) && !places[i].line && !places[(i + n - 1) % n].line;
    node.edge = places[i].line ? EdgeKind::line : EdgeKind::curve;
    path.push_back(node);
  }
  for (std::size_t i = 0; i < n; ++i) {
    if (path[i].edge != EdgeKind::curve) continue;
    const std::size_t k = (i + 1) % n;
    const Vec2 chord = places[k].at - places[i].at;
    const double l = length(chord);
    const Vec2 u = places[i].along == Vec2{} ? unit(chord) : unit(places[i].along);
    const Vec2 v = places[k].along == Vec2{} ? unit(chord) : unit(places[k].along);
    // Handles as long as a circular arc of the same turn would have them: 4/3·tan(θ/4) of the radius, θ the whole turn.
    const double turn = std::acos(std::clamp(dot(u, v), -1.0, 1.0));
    const double share =
        turn < 1e-3 ? 1.0 / 3 : std::min(0.75, 2.0 / 3 * std::tan(turn / 4) / std::max(0.05, std::sin(turn / 2)));
    path[i].out = u * (l * share);
    path[k].in = v * (-l * share);
  }
  return path;
}

Path mirrored(const Path& path) {
  Path out;
  const std::size_t n = path.size();
  const auto flip = [](Vec2 p) { return Vec2{p.x, -p.y}; };
  for (std::size_t i = n; i-- > 0;) {
    // Run backwards the edge after a node is the one that came before it; mirroring and reversing leave its bulge as it
    // is.
    const PathNode& before = path[(i + n - 1) % n];
    out.push_back({flip(path[i].at), before.edge, before.bulge, flip(path[i].in), flip(path[i].out), path[i].smooth});
  }
  return out;
}

Expected<Path> symmetric_from(const Path& path, int side) {
  // Where edges cross the middle line new nodes stand; then one half is kept.
  Path cut = path;
  std::vector<Vec2> on;
  for (std::size_t i = 0; i < cut.size(); ++i) {
    const PathNode& a = cut[i];
    const PathNode& b = after(cut, i);
    if (std::abs(a.at.y) < 1e-9) continue;
    for (int k = 0; k < 64; ++k) {
      double t0 = k / 64.0;
      double t1 = (k + 1) / 64.0;
      const double y0 = point_on(a, b, t0).y;
      const double y1 = point_on(a, b, t1).y;
      if ((y0 > 0) == (y1 > 0) || std::abs(y0) < 1e-9 || (k == 63 && std::abs(y1) < 1e-9)) continue;
      for (int s = 0; s < 60; ++s) {
        const double m = (t0 + t1) / 2;
        ((point_on(a, b, m).y > 0) == (y0 > 0) ? t0 : t1) = m;
      }
      cut = with_node(cut, i, (t0 + t1) / 2);
      cut[i + 1].at.y = 0;
      break;
    }
  }
  std::vector<std::size_t> middle;
  for (std::size_t i = 0; i < cut.size(); ++i)
    if (std::abs(cut[i].at.y) < 1e-9) middle.push_back(i);
  if (middle.size() != 2)
    return fail(ProblemKind::unsupported, "the outline does not cross the centre line exactly twice", "body.outline",
                "Move it so that the centre line runs through its middle");
  for (const auto& [from, to] : {std::pair{middle[0], middle[1]}, std::pair{middle[1], middle[0]}}) {
    Path half;
    for (std::size_t i = from;; i = (i + 1) % cut.size()) {
      half.push_back(cut[i]);
      if (i == to) break;
    }
    double sum = 0;
    for (const PathNode& node : half) sum += node.at.y;
    if (sum * side <= 0) continue;
    half.front().at.y = half.back().at.y = 0;
    const Path other = mirrored(half);  // begins at the mirror of half's last node, which is that node itself
    Path whole(half.begin(), half.end() - 1);
    PathNode turn = half.back();
    const auto square = [](Vec2 h) { return Vec2{0, h.y >= 0 ? length(h) : -length(h)}; };
    // On the middle line a smooth node stands square to it.
    if (half.back().smooth) turn.in = square(turn.in);
    turn.edge = other.front().edge;
    turn.bulge = other.front().bulge;
    turn.out = {turn.in.x, -turn.in.y};
    turn.out = turn.smooth ? turn.in * -1.0 : turn.out;
    whole.push_back(turn);
    for (std::size_t i = 1; i + 1 < other.size(); ++i) whole.push_back(other[i]);
    if (whole.front().smooth) whole.front().out = square(whole.front().out);
    whole.front().in =
        whole.front().smooth ? whole.front().out * -1.0 : Vec2{whole.front().out.x, -whole.front().out.y};
    return whole;
  }
  return fail(ProblemKind::unsupported, "there is nothing on that side of the centre line", "body.outline",
              "Take the other side");
}

Path moved(const Path& path, Vec2 by) {
  Path out = path;
  for (PathNode& node : out) node.at = node.at + by;
  return out;
}

Path transformed(const Path& path, Vec2 about, double angle, double scale) {
  const double c = std::cos(angle) * scale;
  const double s = std::sin(angle) * scale;
  const auto turn = [&](Vec2 v) { return Vec2{c * v.x - s * v.y, s * v.x + c * v.y}; };
  Path out = path;
  for (PathNode& node : out) {
    node.at = about + turn(node.at - about);
    node.in = turn(node.in);
    node.out = turn(node.out);
  }
  return out;
}

Path with_node(const Path& path, std::size_t edge, double t) {
  Path out = path;
  const std::size_t next = (edge + 1) % out.size();
  PathNode node;
  if (out[edge].edge == EdgeKind::curve) {
    const auto [left, right] = cubic_of(out[edge], out[next]).halves(t);
    out[edge].out = left.b - left.a;
    node = {left.d, EdgeKind::curve, 0, right.b - right.a, left.c - left.d, true};
    out[next].in = right.c - right.d;
  } else if (out[edge].edge == EdgeKind::arc) {
    const double sweep = 4 * std::atan(out[edge].bulge);
    node = {point_on(out[edge], out[next], t), EdgeKind::arc, std::tan(sweep * (1 - t) / 4), {}, {}, true};
    out[edge].bulge = std::tan(sweep * t / 4);
  } else {
    node = {point_on(out[edge], out[next], t), EdgeKind::line, 0, {}, {}, false};
  }
  out.insert(out.begin() + static_cast<std::ptrdiff_t>(edge) + 1, node);
  return out;
}

Path without_node(const Path& path, std::size_t node) {
  Path out = path;
  const std::size_t n = out.size();
  const std::size_t before = (node + n - 1) % n;
  const std::size_t next = (node + 1) % n;
  const Vec2 leaves = edge_leaves(path[before], path[node]);
  const Vec2 arrives = edge_arrives(path[node], path[next]);
  const bool straight = path[before].edge == EdgeKind::line && path[node].edge == EdgeKind::line;
  const double third = distance(path[before].at, path[next].at) / 3;
  out[before].edge = straight ? EdgeKind::line : EdgeKind::curve;
  out[before].bulge = 0;
  if (!straight) {
    out[before].out = leaves * (path[before].edge == EdgeKind::curve ? length(path[before].out) * 1.6 : third);
    out[next].in = arrives * -(path[node].edge == EdgeKind::curve ? length(path[next].in) * 1.6 : third);
  }
  out.erase(out.begin() + static_cast<std::ptrdiff_t>(node));
  return out;
}

Path with_handle(const Path& path, std::size_t node, bool out, Vec2 to) {
  Path next = path;
  PathNode& n = next[node];
  const Vec2 h = to - n.at;
  (out ? n.out : n.in) = h;
  if (n.smooth && length(h) > 1e-9) {
    Vec2& other = out ? n.in : n.out;
    other = unit(h) * -length(other);
  }
  return next;
}

Path with_node_at(const Path& path, std::size_t node, Vec2 at) {
  Path next = path;
  next[node].at = at;
  return next;
}

Path with_kind(const Path& path, std::size_t node, bool smooth) {
  Path next = path;
  PathNode& n = next[node];
  n.smooth = smooth;
  if (!smooth) return next;
  const std::size_t count = path.size();
  const PathNode& before = path[(node + count - 1) % count];
  const Vec2 u = unit(edge_arrives(before, path[node]) + edge_leaves(path[node], after(path, node)));
  if (u == Vec2{}) return next;
  if (before.edge == EdgeKind::curve) n.in = u * -length(n.in);
  if (n.edge == EdgeKind::curve) n.out = u * length(n.out);
  return next;
}

Path with_edge(const Path& path, std::size_t node, EdgeKind kind) {
  Path next = path;
  PathNode& a = next[node];
  PathNode& b = next[(node + 1) % next.size()];
  const Vec2 leaves = edge_leaves(path[node], after(path, node));
  const Vec2 arrives = edge_arrives(path[node], after(path, node));
  const double third = distance(a.at, b.at) / 3;
  a.edge = kind;
  if (kind == EdgeKind::arc) a.bulge = std::clamp(bulge_leaving(a.at, b.at, leaves), -2.0, 2.0);
  if (kind == EdgeKind::curve) {
    a.out = leaves * third;
    b.in = arrives * -third;
  }
  return next;
}

std::vector<Tooth> comb(const Path& path, double apart) {
  std::vector<Tooth> out;
  for (std::size_t i = 0; i < path.size(); ++i) {
    const PathNode& a = path[i];
    const PathNode& b = after(path, i);
    const double l = std::max(distance(a.at, b.at), length(a.out) + length(b.in));
    const int n = std::clamp(static_cast<int>(l / apart), 2, 400);
    for (int k = 0; k <= n; ++k) {
      const double t = static_cast<double>(k) / n;
      if (a.edge == EdgeKind::curve) {
        const Cubic q = cubic_of(a, b);
        const Vec2 d = q.slope(t);
        const double s = length(d);
        if (s < 1e-9) continue;
        out.push_back({q.at(t), left_of(d) * (-1 / s), cross(d, q.bend(t)) / (s * s * s)});
      } else if (a.edge == EdgeKind::arc && a.bulge != 0) {
        const Arc arc = arc_of(a.at, b.at, a.bulge);
        const Vec2 p = point_on(a, b, t);
        out.push_back({p, unit(p - arc.centre) * (arc.radius > 0 ? 1.0 : -1.0), 1 / arc.radius});
      } else {
        out.push_back({lerp(a.at, b.at, t), left_of(unit(b.at - a.at)) * -1.0, 0});
      }
    }
  }
  return out;
}

OnPath nearest_on(const Path& path, Vec2 p) {
  OnPath best;
  for (std::size_t i = 0; i < path.size(); ++i) {
    const PathNode& a = path[i];
    const PathNode& b = after(path, i);
    constexpr int samples = 32;
    int nearest = 0;
    double least = 1e300;
    for (int k = 0; k <= samples; ++k)
      if (const double d = distance(p, point_on(a, b, static_cast<double>(k) / samples)); d < least) {
        least = d;
        nearest = k;
      }
    double low = std::max(0.0, (nearest - 1.0) / samples);
    double high = std::min(1.0, (nearest + 1.0) / samples);
    for (int k = 0; k < 40; ++k) {
      const double m1 = low + (high - low) / 3;
      const double m2 = high - (high - low) / 3;
      (distance(p, point_on(a, b, m1)) < distance(p, point_on(a, b, m2)) ? high : low) =
          distance(p, point_on(a, b, m1)) < distance(p, point_on(a, b, m2)) ? m2 : m1;
    }
    const double t = (low + high) / 2;
    const Vec2 at = point_on(a, b, t);
    if (distance(p, at) < best.away) best = {i, t, at, distance(p, at)};
  }
  return best;
}

}  // namespace wren
