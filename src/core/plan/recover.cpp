#include "core/plan/recover.hpp"

#include <algorithm>
#include <numbers>

namespace wren {
namespace {

constexpr double pi = std::numbers::pi;

double turn_at(Vec2 a, Vec2 b, Vec2 c) {
  const Vec2 u = b - a;
  const Vec2 v = c - b;
  return std::atan2(cross(u, v), dot(u, v));
}

/// Direction at the middle one of three points, of the circle through them.
Vec2 direction_at(Vec2 a, Vec2 b, Vec2 c) {
  const double l1 = distance(a, b);
  const double l2 = distance(b, c);
  // The circle's tangent weighs the two chords by the other's length.
  return unit(unit(b - a) * l2 + unit(c - b) * l1);
}

class Recoverer {
 public:
  Recoverer(Polygon points, bool closed, const RecoverOptions& options)
      : p_(std::move(points)), closed_(closed), o_(options), corner_(options.corner_deg * pi / 180) {}

  Recovered run() {
    Recovered out;
    out.closed = closed_;
    if (p_.size() < 2) return out;
    if (closed_ && p_.size() >= 8)
      if (auto c = whole_circle()) {
        out.circle = c;
        out.arcs = 1;
        for (const Vec2 q : p_) out.worst = std::max(out.worst, std::abs(distance(q, c->centre) - c->radius));
        const double r = c->radius;
        const double way = signed_area(p_) < 0 ? -1 : 1;  // run as it was drawn
        out.path = {{c->centre + Vec2{r, 0}, EdgeKind::arc, way, {}, {}, true},
                    {c->centre - Vec2{r, 0}, EdgeKind::arc, way, {}, {}, true}};
        return out;
      }
    mark_corners();
    std::size_t start = 0;
    if (closed_) {
      start = best_start();
      std::rotate(p_.begin(), p_.begin() + static_cast<std::ptrdiff_t>(start), p_.end());
      std::rotate(sharp_.begin(), sharp_.begin() + static_cast<std::ptrdiff_t>(start), sharp_.end());
      p_.push_back(p_.front());
      sharp_.push_back(sharp_.front());
    }
    directions();
    const std::size_t last = p_.size() - 1;
    std::size_t i = 0;
    std::size_t stop = next_sharp(0, last);
    while (i < last) {
      if (i >= stop) stop = next_sharp(i, last);
      i = take(i, stop, out);
    }
    if (!closed_)
      out.path.push_back({p_[last], EdgeKind::line, 0, {}, pending_in_, false});
    else if (!out.path.empty())
      out.path.front().in = pending_in_;
    smooth_joints(out.path);
    return out;
  }

 private:
  [[nodiscard]] std::optional<Circle> whole_circle() const {
    const std::size_t n = p_.size();
    // Few distinct turns, all one way, none sharp: else a rounded square would do.
    for (std::size_t i = 0; i < n; ++i) {
      const double t = turn_at(p_[(i + n - 1) % n], p_[i], p_[(i + 1) % n]);
      if (std::abs(t) > corner_) return {};
    }
    const auto c = fit_circle(p_);
    if (!c) return {};
    for (std::size_t i = 0; i < n; ++i) {
      if (std::abs(distance(p_[i], c->centre) - c->radius) > o_.within) return {};
      if (o_.edges_too && std::abs(distance(lerp(p_[i], p_[(i + 1) % n], 0.5), c->centre) - c->radius) > 3 * o_.within)
        return {};
    }
    return c;
  }

  void mark_corners() {
    const std::size_t n = p_.size();
    sharp_.assign(n, false);
    for (std::size_t i = 0; i < n; ++i) {
      if (!closed_ && (i == 0 || i + 1 == n)) {
        sharp_[i] = true;
        continue;
      }
      const double t = turn_at(p_[(i + n - 1) % n], p_[i], p_[(i + 1) % n]);
      sharp_[i] = std::abs(t) > corner_;
    }
  }

  /// A corner, else where the bend changes most: there one shape ends and another begins.
  [[nodiscard]] std::size_t best_start() const {
    const std::size_t n = p_.size();
    for (std::size_t i = 0; i < n; ++i)
      if (sharp_[i]) return i;
    const auto bend = [&](std::size_t i) {
      const Vec2 a = p_[(i + n - 1) % n];
      const Vec2 b = p_[i % n];
      const Vec2 c = p_[(i + 1) % n];
      return turn_at(a, b, c) / ((distance(a, b) + distance(b, c)) / 2);
    };
    std::size_t best = 0;
    double most = -1;
    for (std::size_t i = 0; i < n; ++i)
      if (const double change = std::abs(bend(i + 1) - bend(i + n - 1)); change > most) {
        most = change;
        best = i;
      }
    return best;
  }

  void directions() {
    const std::size_t n = p_.size();
    way_.assign(n, {});
    for (std::size_t i = 0; i < n; ++i) {
      const bool wraps = closed_ && (i == 0 || i + 1 == n);
      if (wraps && !sharp_[i])
        way_[i] = direction_at(p_[n - 2], p_[0], p_[1]);
      else if (i == 0 || i + 1 == n || sharp_[i])
        way_[i] = {};
      else
        way_[i] = direction_at(p_[i - 1], p_[i], p_[i + 1]);
    }
  }

  [[nodiscard]] std::size_t next_sharp(std::size_t from, std::size_t last) const {
    for (std::size_t i = from + 1; i < last; ++i)
      if (sharp_[i]) return i;
    return last;
  }

  /// Direction at the first or last point of a run; at a corner from the run's own points.
  [[nodiscard]] Vec2 leaves(std::size_t i, std::size_t j) const {
    if (!(way_[i] == Vec2{})) return way_[i];
    if (j < i + 2) return unit(p_[i + 1] - p_[i]);
    const Vec2 middle = direction_at(p_[i], p_[i + 1], p_[i + 2]);
    const Vec2 u = unit(p_[i + 1] - p_[i]);
    return unit(u * (2 * dot(u, middle)) - middle);  // the tangent at a chord's end mirrors that at its other end
  }
  [[nodiscard]] Vec2 arrives(std::size_t i, std::size_t j) const {
    if (!(way_[j] == Vec2{})) return way_[j];
    if (j < i + 2) return unit(p_[j] - p_[j - 1]);
    const Vec2 middle = direction_at(p_[j - 2], p_[j - 1], p_[j]);
    const Vec2 u = unit(p_[j] - p_[j - 1]);
    return unit(u * (2 * dot(u, middle)) - middle);
  }

  /// Longest edge of a run that may be a chord of its curve: edges much longer than the others were straight when they
  /// were drawn.
  [[nodiscard]] double longest_chord(std::size_t i, std::size_t j) const {
    std::vector<double> l;
    for (std::size_t k = i; k < j; ++k) l.push_back(distance(p_[k], p_[k + 1]));
    std::nth_element(l.begin(), l.begin() + static_cast<std::ptrdiff_t>(l.size() / 2), l.end());
    return 2.5 * l[l.size() / 2];
  }

  [[nodiscard]] bool line_fits(std::size_t i, std::size_t j) const {
    for (std::size_t k = i + 1; k < j; ++k)
      if (distance_to(p_[k], {p_[i], p_[j]}) > o_.within * 0.5) return false;
    return true;
  }

  /// Bulge of an arc through the run's ends that lies nearest its middle points; 0 where none fits.
  [[nodiscard]] double arc_fits(std::size_t i, std::size_t j) const {
    if (j < i + 3) return 0;
    const Vec2 chord = p_[j] - p_[i];
    const double half = length(chord) / 2;
    if (half < 1e-9) return 0;
    const Vec2 m = lerp(p_[i], p_[j], 0.5);
    const Vec2 n = left_of(unit(chord));
    // Circle through both ends: centre m + n·h; least squares over h of d² − (half² + h²) = |q|² − half² − 2·h·(q·n), q
    // from m.
    double num = 0;
    double den = 0;
    for (std::size_t k = i + 1; k < j; ++k) {
      const Vec2 q = p_[k] - m;
      const double s = dot(q, n);
      num += (dot(q, q) - half * half) * s;
      den += 2 * s * s;
    }
    if (den < 1e-18) return 0;
    const double h = num / den;
    const double r = std::hypot(half, h);
    if (r > 20000) return 0;
    const Vec2 centre = m + n * h;
    const double side = dot(p_[(i + j) / 2] - m, n);  // the arc bulges to the left (positive) or right of the chord
    double sign = 0;
    const double chord_most = longest_chord(i, j);
    for (std::size_t k = i; k < j; ++k) {
      if (const double l = distance(p_[k], p_[k + 1]); l * l / (8 * r) > (o_.edges_too     ? 2 * o_.within
                                                                          : l > chord_most ? o_.within
                                                                                           : 1e9))
        return 0;
      if (k > i && std::abs(distance(p_[k], centre) - r) > o_.within) return 0;
      const double step = cross(p_[k] - centre, p_[k + 1] - centre);
      if (sign == 0) sign = step;
      if (step * sign <= 0) return 0;  // must go on in one sense
    }
    // Arc left of the chord runs clockwise.
    const double sweep = [&] {
      double a = std::atan2(cross(p_[i] - centre, p_[j] - centre), dot(p_[i] - centre, p_[j] - centre));
      if (sign > 0 && a < 0) a += 2 * pi;
      if (sign < 0 && a > 0) a -= 2 * pi;
      return a;
    }();
    if (std::abs(sweep) > 1.9 * pi || side == 0) return 0;
    return std::tan(sweep / 4);
  }

  struct Curve {
    bool good = false;
    Vec2 out, in;
    double worst = 0;
  };
  [[nodiscard]] Curve curve_fits(std::size_t i, std::size_t j) const {
    Curve best;
    if (j < i + 2) return best;
    const Vec2 a = p_[i];
    const Vec2 d = p_[j];
    const Vec2 u = leaves(i, j);
    const Vec2 v = arrives(i, j) * -1.0;
    // At most so many points carry the fit; every one is judged.
    const std::size_t stride = std::max<std::size_t>(1, (j - i) / 160);
    std::vector<Vec2> q;
    for (std::size_t k = i + 1; k < j; k += stride) q.push_back(p_[k]);
    std::vector<double> t;
    {
      double whole = 0;
      std::vector<double> at;
      for (std::size_t k = i; k < j; ++k) {
        whole += distance(p_[k], p_[k + 1]);
        if ((k - i) % stride == 0 && k + 1 < j) at.push_back(whole);
      }
      at.resize(q.size(), whole);
      for (const double s : at) t.push_back(s / whole);
    }
    const double chord = distance(a, d);
    double alpha = chord / 3;
    double beta = chord / 3;
    const auto at = [&](double s, Vec2 b, Vec2 c) {
      const double w = 1 - s;
      return a * (w * w * w) + b * (3 * w * w * s) + c * (3 * w * s * s) + d * (s * s * s);
    };
    for (int round = 0; round < 5; ++round) {
      double c00 = 0, c01 = 0, c11 = 0, x0 = 0, x1 = 0;
      for (std::size_t k = 0; k < q.size(); ++k) {
        const double s = t[k];
        const double w = 1 - s;
        const double b1 = 3 * w * w * s;
        const double b2 = 3 * w * s * s;
        const Vec2 base = a * (w * w * w + b1) + d * (s * s * s + b2);
        const Vec2 rest = q[k] - base;
        c00 += b1 * b1;
        c01 += b1 * b2 * dot(u, v);
        c11 += b2 * b2;
        x0 += b1 * dot(u, rest);
        x1 += b2 * dot(v, rest);
      }
      const double det = c00 * c11 - c01 * c01;
      if (std::abs(det) > 1e-12 * c00 * c11) {
        alpha = (x0 * c11 - x1 * c01) / det;
        beta = (x1 * c00 - x0 * c01) / det;
      }
      if (!(alpha > 1e-3 * chord) || !(beta > 1e-3 * chord) || alpha > 3 * chord + 1 || beta > 3 * chord + 1) {
        if (q.size() > 1 || round > 0) return best;
        alpha = beta = chord / 3;
      }
      const Vec2 b = a + u * alpha;
      const Vec2 c = d + v * beta;
      for (std::size_t k = 0; k < q.size(); ++k) {  // Newton: the nearest place of the curve
        const double s = t[k];
        const double w = 1 - s;
        const Vec2 e = at(s, b, c) - q[k];
        const Vec2 d1 = (b - a) * (3 * w * w) + (c - b) * (6 * w * s) + (d - c) * (3 * s * s);
        const Vec2 d2 = (c - b * 2 + a) * (6 * w) + (d - c * 2 + b) * (6 * s);
        const double den = dot(d1, d1) + dot(e, d2);
        if (den > 1e-12) t[k] = std::clamp(s - dot(e, d1) / den, 0.0, 1.0);
      }
    }
    best.out = u * alpha;
    best.in = v * beta;
    const Vec2 b = a + best.out;
    const Vec2 c = d + best.in;
    // Judged against chords of the curve, finer than the points stand.
    const int m = static_cast<int>(std::clamp<std::size_t>((j - i) * 2, 24, 400));
    std::vector<Vec2> fine;
    for (int k = 0; k <= m; ++k) fine.push_back(at(static_cast<double>(k) / m, b, c));
    std::size_t near = 0;
    const double chord_most = longest_chord(i, j);
    for (std::size_t k = i; k < j; ++k)
      if (distance(p_[k], p_[k + 1]) > (o_.edges_too ? 0.2 : chord_most)) {
        double least = 1e300;
        for (std::size_t f = 0; f + 1 < fine.size(); ++f)
          least = std::min(least, distance_to(lerp(p_[k], p_[k + 1], 0.5), {fine[f], fine[f + 1]}));
        if (least > o_.within) return best;
      }
    for (std::size_t k = i + 1; k < j; ++k) {
      double least = 1e300;
      std::size_t found = near;
      for (std::size_t f = near; f + 1 < fine.size() && f < near + 24; ++f)
        if (const double e = distance_to(p_[k], {fine[f], fine[f + 1]}); e < least) {
          least = e;
          found = f;
        }
      near = found;
      best.worst = std::max(best.worst, least);
      if (least > o_.within) return best;
    }
    best.good = true;
    return best;
  }

  template <class Fits>
  [[nodiscard]] std::size_t longest(std::size_t i, std::size_t stop, const Fits& fits) const {
    std::size_t good = 0;
    std::size_t step = 3;
    while (i + step <= stop && fits(i + step)) {
      good = step;
      step *= 2;
    }
    std::size_t low = good;
    std::size_t high = std::min(step, stop - i);
    if (high > low && fits(i + high)) return high;
    while (high > low + 1) {
      const std::size_t middle = (low + high) / 2;
      (middle >= 2 && fits(i + middle) ? low : high) = middle;
    }
    return low;
  }

  [[nodiscard]] double run(std::size_t i, std::size_t count) const {
    double s = 0;
    for (std::size_t k = i; k < i + count; ++k) s += distance(p_[k], p_[k + 1]);
    return s;
  }

  /// One edge of the result from point i on; gives the point it ends at.
  std::size_t take(std::size_t i, std::size_t stop, Recovered& out) {
    PathNode node{p_[i], EdgeKind::line, 0, {}, pending_in_, !sharp_[i]};
    pending_in_ = {};
    const std::size_t line = std::max<std::size_t>(1, longest(i, stop, [&](std::size_t j) { return line_fits(i, j); }));
    const std::size_t arc = longest(i, stop, [&](std::size_t j) { return arc_fits(i, j) != 0; });
    // A straight edge much longer than what follows was drawn as one.
    const bool lone = line == 1 && i + 2 <= stop && distance(p_[i], p_[i + 1]) > 5 * distance(p_[i + 1], p_[i + 2]) &&
                      distance(p_[i], p_[i + 1]) > 2;
    const double line_run = run(i, line);
    if (lone || (line >= 2 && line_run >= 0.8 * run(i, arc)) || stop == i + 1) {
      out.path.push_back(node);
      ++out.lines;
      return i + line;
    }
    const std::size_t curve = longest(i, stop, [&](std::size_t j) { return curve_fits(i, j).good; });
    if (arc >= 3 && run(i, arc) >= 0.6 * run(i, curve)) {
      node.edge = EdgeKind::arc;
      node.bulge = arc_fits(i, i + arc);
      const Arc a = arc_of(p_[i], p_[i + arc], node.bulge);
      for (std::size_t k = i + 1; k < i + arc; ++k)
        out.worst = std::max(out.worst, std::abs(distance(p_[k], a.centre) - std::abs(a.radius)));
      out.path.push_back(node);
      ++out.arcs;
      return i + arc;
    }
    if (curve >= 4 && curve >= line) {  // fewer chords tell nothing of a curve
      const Curve c = curve_fits(i, i + curve);
      node.edge = EdgeKind::curve;
      node.out = c.out;
      pending_in_ = c.in;
      out.worst = std::max(out.worst, c.worst);
      out.path.push_back(node);
      ++out.curves;
      return i + curve;
    }
    out.path.push_back(node);
    ++out.lines;
    return i + line;
  }

  void smooth_joints(Path& path) const {
    const std::size_t n = path.size();
    for (std::size_t i = 0; i < n; ++i) {
      PathNode& node = path[i];
      const PathNode& before = path[(i + n - 1) % n];
      if (node.edge != EdgeKind::curve || before.edge != EdgeKind::curve) continue;
      node.smooth = node.smooth && std::abs(cross(unit(node.out), unit(node.in))) < 1e-6 && dot(node.out, node.in) < 0;
    }
  }

  Polygon p_;
  bool closed_;
  RecoverOptions o_;
  double corner_;
  std::vector<char> sharp_;
  std::vector<Vec2> way_;
  Vec2 pending_in_;
};

}  // namespace

std::optional<Circle> fit_circle(const std::vector<Vec2>& points) {
  if (points.size() < 3) return {};
  Vec2 mean;
  for (const Vec2 p : points) mean = mean + p;
  mean = mean * (1.0 / static_cast<double>(points.size()));
  double sxx = 0, sxy = 0, syy = 0, sxz = 0, syz = 0;
  for (const Vec2 p : points) {
    const Vec2 q = p - mean;
    const double z = dot(q, q);
    sxx += q.x * q.x;
    sxy += q.x * q.y;
    syy += q.y * q.y;
    sxz += q.x * z;
    syz += q.y * z;
  }
  const double det = sxx * syy - sxy * sxy;
  if (!(det > 1e-9 * (sxx + syy) * (sxx + syy))) return {};
  Vec2 c{(sxz * syy - syz * sxy) / (2 * det), (syz * sxx - sxz * sxy) / (2 * det)};
  double r = std::sqrt(dot(c, c) + (sxx + syy) / static_cast<double>(points.size()));
  for (int round = 0; round < 6; ++round) {  // Gauss-Newton on true distances
    double a[3][4] = {};
    for (const Vec2 p : points) {
      const Vec2 q = p - mean - c;
      const double d = length(q);
      if (d < 1e-9) continue;
      const double j[3] = {-q.x / d, -q.y / d, -1};
      const double e = d - r;
      for (int k = 0; k < 3; ++k) {
        for (int l = 0; l < 3; ++l) a[k][l] += j[k] * j[l];
        a[k][3] -= j[k] * e;
      }
    }
    for (int k = 0; k < 3; ++k) {
      if (std::abs(a[k][k]) < 1e-12) return {};
      for (int l = k + 1; l < 3; ++l) {
        const double f = a[l][k] / a[k][k];
        for (int m = k; m < 4; ++m) a[l][m] -= f * a[k][m];
      }
    }
    double x[3];
    for (int k = 2; k >= 0; --k) {
      x[k] = a[k][3];
      for (int l = k + 1; l < 3; ++l) x[k] -= a[k][l] * x[l];
      x[k] /= a[k][k];
    }
    c = c + Vec2{x[0], x[1]};
    r += x[2];
    if (std::abs(x[0]) + std::abs(x[1]) + std::abs(x[2]) < 1e-10) break;
  }
  return Circle{mean + c, r};
}

Recovered recover(const Polygon& points, bool closed, const RecoverOptions& options) {
  Polygon clean;
  for (const Vec2 p : points)
    if (clean.empty() || distance(clean.back(), p) > 1e-6) clean.push_back(p);
  while (closed && clean.size() > 1 && distance(clean.front(), clean.back()) <= 1e-6) clean.pop_back();
  return Recoverer(std::move(clean), closed && points.size() > 2, options).run();
}

}  // namespace wren
