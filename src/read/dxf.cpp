#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <numbers>
#include <set>
#include <sstream>

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <fmt/format.h>

#include "core/plan/contour.hpp"
#include "read/drawing.hpp"

namespace wren {
namespace {

constexpr double join_within = 0.02;  // mm
constexpr double chord = 0.005;       // mm
constexpr double pi = std::numbers::pi;

/// How many chords a turn takes; no drawing needs more than 2000 for one.
int chords(double sweep, double step) {
  const double n = std::ceil(sweep / step);
  return n >= 1 && n < 2000 ? static_cast<int>(n) : n < 1 ? 1 : 2000;
}

/// `within` in the drawing's own unit.
void add_arc(Polygon& to, Vec2 centre, double r, double from, double sweep, double within) {
  const double step = r > within ? 2 * std::acos(std::max(-1.0, 1 - within / r)) : pi / 4;
  const int n = chords(std::abs(sweep), step);
  for (int k = 0; k <= n; ++k)
    to.push_back(centre + Vec2{std::cos(from + sweep * k / n), std::sin(from + sweep * k / n)} * r);
}

class DxfReader : public DL_CreationAdapter {
 public:
  std::vector<DrawnPath> paths;
  double unit = 1;
  bool unit_known = false;
  std::size_t points = 0;
  bool too_deep = false;

  std::map<std::string, std::size_t> left;

  void setVariableInt(const std::string& key, int value, int) override {
    // $INSUNITS as the DXF reference numbers them (header variables), in mm; 0 and what is not there: unsaid.
    static const std::map<int, double> units{{1, 25.4},
                                             {2, 304.8},
                                             {3, 1'609'344},
                                             {4, 1},
                                             {5, 10},
                                             {6, 1000},
                                             {7, 1e6},
                                             {8, 25.4e-6},
                                             {9, 0.0254},
                                             {10, 914.4},
                                             {11, 1e-7},
                                             {12, 1e-6},
                                             {13, 1e-3},
                                             {14, 100},
                                             {15, 1e4},
                                             {16, 1e5},
                                             {21, 1200.0 / 3937 * 1000}};
    if (key != "$INSUNITS") return;
    const auto it = units.find(value);
    unit_known = it != units.end();
    unit = unit_known ? it->second : 1;
  }
  void addLayer(const DL_LayerData& d) override {
    // Frozen (bit 1) or off (its colour negative): what nobody sees is not part of the plan.
    if ((d.flags & 1) != 0 || attributes.getColor() < 0) unseen_.insert(d.name);
  }
  void addLine(const DL_LineData& d) override {
    if (taken(false)) add({{d.x1, d.y1}, {d.x2, d.y2}}, d.z1, false);
  }
  void addArc(const DL_ArcData& d) override {
    if (!taken(true)) return;
    double sweep = (d.angle2 - d.angle1) * pi / 180;
    if (sweep <= 0) sweep += 2 * pi;
    Polygon p;
    add_arc(p, {d.cx, d.cy}, d.radius, d.angle1 * pi / 180, sweep, chord / unit);
    add(seen(std::move(p)), d.cz, false);
  }
  void addCircle(const DL_CircleData& d) override {
    if (!taken(true)) return;
    Polygon p;
    add_arc(p, {d.cx, d.cy}, d.radius, 0, 2 * pi, chord / unit);
    p.pop_back();
    add(seen(std::move(p)), d.cz, true);
  }
  void addEllipse(const DL_EllipseData& d) override {
    if (!taken(true)) return;
    double sweep = d.angle2 - d.angle1;
    if (sweep <= 0) sweep += 2 * pi;
    const bool whole = sweep > 2 * pi - 1e-6;
    const Vec2 major{d.mx, d.my};
    const Vec2 minor = left_of(major) * (from_below_ ? -d.ratio : d.ratio);  // its axes are the drawing's own
    const double r = std::max(length(major), length(minor));
    const double step = r * unit > chord ? 2 * std::acos(1 - std::min(1.0, chord / (r * unit))) : pi / 4;
    const int n = chords(std::abs(sweep), step);
    Polygon p;
    for (int k = 0; k <= n - (whole ? 1 : 0); ++k) {
      const double w = d.angle1 + sweep * k / n;
      p.push_back(Vec2{d.cx, d.cy} + major * std::cos(w) + minor * std::sin(w));
    }
    add(std::move(p), d.cz, whole);
  }
  void addText(const DL_TextData&) override { ++left["text"]; }
  void addMText(const DL_MTextData&) override { ++left["text"]; }
  void addArcAlignedText(const DL_ArcAlignedTextData&) override { ++left["text"]; }
  void addPoint(const DL_PointData&) override { ++left["point"]; }
  void addXLine(const DL_XLineData&) override { ++left["construction line"]; }
  void addRay(const DL_RayData&) override { ++left["construction line"]; }
  void addDimAlign(const DL_DimensionData&, const DL_DimAlignedData&) override { ++left["dimension"]; }
  void addDimLinear(const DL_DimensionData&, const DL_DimLinearData&) override { ++left["dimension"]; }
  void addDimRadial(const DL_DimensionData&, const DL_DimRadialData&) override { ++left["dimension"]; }
  void addDimDiametric(const DL_DimensionData&, const DL_DimDiametricData&) override { ++left["dimension"]; }
  void addDimAngular(const DL_DimensionData&, const DL_DimAngular2LData&) override { ++left["dimension"]; }
  void addDimAngular3P(const DL_DimensionData&, const DL_DimAngular3PData&) override { ++left["dimension"]; }
  void addDimOrdinate(const DL_DimensionData&, const DL_DimOrdinateData&) override { ++left["dimension"]; }
  void addLeader(const DL_LeaderData&) override { ++left["leader"]; }
  void addHatch(const DL_HatchData&) override { ++left["hatch"]; }
  void addImage(const DL_ImageData&) override { ++left["picture"]; }
  void addSolid(const DL_SolidData&) override { ++left["solid"]; }
  void addTrace(const DL_TraceData&) override { ++left["solid"]; }
  void add3dFace(const DL_3dFaceData&) override { ++left["3D face"]; }
  // Blocks: collected by name, put in where they are inserted once everything is read; blocks within blocks too.
  void addBlock(const DL_BlockData& d) override {
    finish();
    block_ = &blocks_[d.name];
    block_->base = {d.bpx, d.bpy};
  }
  void endBlock() override {
    finish();
    block_ = nullptr;
  }
  void addInsert(const DL_InsertData& d) override {
    if (!taken(true)) return;
    Insert i{d.name,
             attributes.getLayer(),
             {d.ipx, d.ipy},
             {d.sx, d.sy},
             d.angle * pi / 180,
             std::clamp(d.cols, 1, 200),
             std::clamp(d.rows, 1, 200),
             {d.colSp, d.rowSp},
             from_below_};
    (block_ != nullptr ? block_->inserts : inserts_).push_back(std::move(i));
  }
  void put_in_blocks() {
    // Counted before anything is put in: a few blocks in one another can ask for more points than there are atoms.
    double all = static_cast<double>(points);
    for (const Insert& i : inserts_) all += asked_for(i, 0);
    if (too_deep) return;
    if (all > static_cast<double>(most_drawing_points)) {
      points = most_drawing_points + 1;
      return;
    }
    for (const Insert& i : inserts_) put(i, {}, 0);
  }
  void addPolyline(const DL_PolylineData& d) override {
    finish();
    open_ = taken(true);
    closed_ = (d.flags & 1) != 0;
    elevation_ = d.elevation;
    layer_ = attributes.getLayer();
  }
  void addVertex(const DL_VertexData& d) override {
    if (!open_ || corners_.size() > most_drawing_points) return;
    if (corners_.empty() && elevation_ == 0) elevation_ = d.z;
    corners_.push_back({{d.x, d.y}, d.bulge});
  }
  void endEntity() override {
    if (spline_open_)
      finish_spline();
    else
      finish();
  }
  void endSequence() override { finish(); }
  void addSpline(const DL_SplineData& d) override {
    spline_open_ = taken(false);
    degree_ = static_cast<int>(d.degree);
    closed_ = (d.flags & 1) != 0;
    knots_.clear();
    control_.clear();
    fit_.clear();
    layer_ = attributes.getLayer();
  }
  void addControlPoint(const DL_ControlPointData& d) override {
    if (control_.size() < most_drawing_points) control_.push_back({{d.x * d.w, d.y * d.w}, d.w});
  }
  void addFitPoint(const DL_FitPointData& d) override {
    if (fit_.size() < most_drawing_points) fit_.push_back({d.x, d.y});
  }
  void addKnot(const DL_KnotData& d) override {
    if (knots_.size() < most_drawing_points) knots_.push_back(d.k);
  }
  void finish() {
    if (!open_) return;
    open_ = false;
    Contour contour;
    for (const Vertex& v : corners_)
      if (contour.empty() || distance(contour.back().at, v.at) > 1e-9) contour.push_back(v);
    corners_.clear();
    if (contour.size() < 2) return;
    if (!closed_) {
      contour.back().bulge = 0;
      add(seen(flatten(contour, chord / unit)), elevation_, false, &layer_);
    } else {
      add(seen(flatten(contour, chord / unit)), elevation_, true, &layer_);
    }
  }

 private:
  /// Whether an entity that begins is read; what it lies on is told where it is not. `own_axes`: its numbers are in
  /// axes of its own (the reference's object coordinates), which for one drawn from below have x the other way round.
  bool taken(bool own_axes) {
    from_below_ = false;
    if (attributes.isInPaperSpace()) {
      ++left["piece on a paper layout"];
      return false;
    }
    if (unseen_.count(attributes.getLayer()) != 0) {
      ++left["piece on a hidden layer"];
      return false;
    }
    if (own_axes && extrusion != nullptr) {
      const double* d = extrusion->getDirection();
      const double l = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
      if (l > 0 && std::abs(d[2]) < 0.99999 * l) {
        ++left["tilted piece"];
        return false;
      }
      from_below_ = d[2] < 0;
    }
    return true;
  }
  /// Points from an entity's own axes.
  [[nodiscard]] Polygon seen(Polygon p) const {
    if (from_below_)
      for (Vec2& q : p) q.x = -q.x;
    return p;
  }
  struct Weighted {
    Vec2 at;  // times its weight
    double weight = 1;
  };
  void finish_spline() {
    spline_open_ = false;
    const auto n = static_cast<int>(control_.size());
    if (n < degree_ + 1 || static_cast<int>(knots_.size()) < n + degree_ + 1 || degree_ < 1 || degree_ > 9) {
      through_fit_points();
      return;
    }
    Polygon p;
    const int samples = std::clamp(n < 200 ? n * 24 : 4000, 32, 4000);
    const double t0 = knots_[static_cast<std::size_t>(degree_)];
    const double t1 = knots_[static_cast<std::size_t>(n)];
    for (int k = 0; k <= samples; ++k) p.push_back(de_boor(t0 + (t1 - t0) * k / samples, n));
    if (closed_ || distance(p.front(), p.back()) < 1e-6) {
      p.pop_back();
      closed_ = true;
    }
    add(std::move(p), 0, closed_, &layer_);
  }
  /// A spline given by the points it goes through: a smooth curve through them.
  void through_fit_points() {
    const bool back = fit_.size() > 3 && distance(fit_.front(), fit_.back()) < 1e-6;
    if (back) fit_.pop_back();
    if (fit_.size() < 2) {
      ++left["spline without points"];
      return;
    }
    const bool ring = closed_ || back;
    const auto n = fit_.size();
    // Centripetal parameters keep a curve through uneven points from overshooting (Lee, Computer-Aided Design 21,
    // 1989).
    const auto at = [&](std::ptrdiff_t k) {
      const auto m = static_cast<std::ptrdiff_t>(n);
      if (ring) return fit_[static_cast<std::size_t>((k % m + m) % m)];
      if (k < 0) return fit_[0] * 2 - fit_[1];
      if (k >= m) return fit_[n - 1] * 2 - fit_[n - 2];
      return fit_[static_cast<std::size_t>(k)];
    };
    Polygon p;
    const int each = std::clamp(static_cast<int>(most_drawing_points / (4 * n)), 1, 24);
    for (std::size_t i = 0; i + (ring ? 0 : 1) < n; ++i) {
      const auto k = static_cast<std::ptrdiff_t>(i);
      const Vec2 q[4] = {at(k - 1), at(k), at(k + 1), at(k + 2)};
      double t[4] = {0, 0, 0, 0};
      for (int j = 1; j < 4; ++j) t[j] = t[j - 1] + std::max(1e-9, std::sqrt(distance(q[j - 1], q[j])));
      for (int s = 0; s < each; ++s) {
        const double u = t[1] + (t[2] - t[1]) * s / each;
        const auto mix = [&](Vec2 a, Vec2 b, double ta, double tb) {
          return a * ((tb - u) / (tb - ta)) + b * ((u - ta) / (tb - ta));
        };
        const Vec2 a1 = mix(q[0], q[1], t[0], t[1]);
        const Vec2 a2 = mix(q[1], q[2], t[1], t[2]);
        const Vec2 a3 = mix(q[2], q[3], t[2], t[3]);
        p.push_back(mix(mix(a1, a2, t[0], t[2]), mix(a2, a3, t[1], t[3]), t[1], t[2]));
      }
    }
    if (!ring) p.push_back(fit_.back());
    add(std::move(p), 0, ring, &layer_);
  }
  [[nodiscard]] Vec2 de_boor(double t, int n) const {
    const auto degree = static_cast<std::size_t>(degree_);
    std::size_t k = degree;
    while (k + 1 < static_cast<std::size_t>(n) && knots_[k + 1] <= t) ++k;
    std::vector<Weighted> d;
    for (std::size_t j = 0; j <= degree; ++j) d.push_back(control_[k - degree + j]);
    for (std::size_t r = 1; r <= degree; ++r)
      for (std::size_t j = degree; j >= r; --j) {
        const double a = knots_[k - degree + j];
        const double b = knots_[k + 1 + j - r];
        const double s = b > a ? (t - a) / (b - a) : 0;
        Weighted& to = d[j];
        const Weighted& from = d[j - 1];
        to = {lerp(from.at, to.at, s), from.weight + (to.weight - from.weight) * s};
      }
    const Weighted& w = d[degree];
    return std::abs(w.weight) > 1e-12 ? w.at * (1 / w.weight) : w.at;
  }
  void add(Polygon p, double z, bool closed, const std::string* layer = nullptr) {
    points += p.size();
    if (points > most_drawing_points) return;
    (block_ != nullptr ? block_->paths : paths)
        .push_back({layer != nullptr ? *layer : attributes.getLayer(), z, closed, std::move(p)});
  }

  struct Place {  // p → turn·(scale∘p) + shift
    double a = 1, b = 0, c = 0, d = 1;
    Vec2 shift;
    [[nodiscard]] Vec2 operator()(Vec2 p) const { return {a * p.x + c * p.y + shift.x, b * p.x + d * p.y + shift.y}; }
  };
  struct Insert {
    std::string name, layer;
    Vec2 at, scale;
    double angle;
    int columns, rows;
    Vec2 apart;
    bool from_below = false;
  };
  struct Block {
    Vec2 base;
    std::vector<DrawnPath> paths;
    std::vector<Insert> inserts;
    double weight = -1;  // points it stands for, with all in it; -1: not counted yet
    int height = 0;      // of the blocks in it
  };
  static constexpr int most_depth = 12;
  /// Points that an insert stands for; an empty one counts as one, so that its copies have an end too.
  double asked_for(const Insert& i, int depth) {
    if (depth > most_depth || too_deep) {
      too_deep = true;
      return 0;
    }
    const auto it = blocks_.find(i.name);
    if (it == blocks_.end()) return 0;
    Block& b = it->second;
    if (b.weight < 0) {
      double once = 1;
      for (const DrawnPath& p : b.paths) once += static_cast<double>(p.points.size());
      for (const Insert& more : b.inserts) once += asked_for(more, depth + 1);
      if (too_deep) return 0;
      b.weight = once;
      b.height = 1;
      for (const Insert& more : b.inserts)
        if (const auto inner = blocks_.find(more.name); inner != blocks_.end())
          b.height = std::max(b.height, inner->second.height + 1);
    }
    if (depth + b.height > most_depth + 1) too_deep = true;
    return b.weight * i.columns * i.rows;
  }
  void put(const Insert& i, const Place& outer, int depth) {
    if (depth > most_depth) {
      too_deep = true;
      return;
    }
    const auto it = blocks_.find(i.name);
    if (it == blocks_.end()) return;
    const double cs = std::cos(i.angle);
    const double sn = std::sin(i.angle);
    for (int col = 0; col < i.columns; ++col)
      for (int row = 0; row < i.rows; ++row) {
        if (points > most_drawing_points) return;
        const Vec2 grid{col * i.apart.x, row * i.apart.y};
        const Vec2 at = i.at + Vec2{cs * grid.x - sn * grid.y, sn * grid.x + cs * grid.y};
        Place inner{cs * i.scale.x, sn * i.scale.x, -sn * i.scale.y, cs * i.scale.y, {}};
        const Vec2 base = inner(it->second.base);
        inner.shift = at - base;
        if (i.from_below) {
          inner.a = -inner.a;
          inner.c = -inner.c;
          inner.shift.x = -inner.shift.x;
        }
        const Place whole{outer.a * inner.a + outer.c * inner.b, outer.b * inner.a + outer.d * inner.b,
                          outer.a * inner.c + outer.c * inner.d, outer.b * inner.c + outer.d * inner.d,
                          outer(inner.shift)};
        for (const DrawnPath& p : it->second.paths) {
          points += p.points.size();
          if (points > most_drawing_points) return;
          DrawnPath copy = p;
          if (copy.layer == "0") copy.layer = i.layer;  // layer 0 takes the insert's
          for (Vec2& q : copy.points) q = whole(q);
          paths.push_back(std::move(copy));
        }
        for (const Insert& more : it->second.inserts) put(more, whole, depth + 1);
      }
  }
  std::map<std::string, Block> blocks_;
  std::vector<Insert> inserts_;
  Block* block_ = nullptr;
  std::set<std::string> unseen_;  // layers
  bool from_below_ = false;       // of the entity that is read
  bool open_ = false;
  bool closed_ = false;
  bool spline_open_ = false;
  int degree_ = 3;
  double elevation_ = 0;
  std::string layer_;
  Contour corners_;
  std::vector<Weighted> control_;
  Polygon fit_;
  std::vector<double> knots_;
};

Problem unusable(const std::string& path, std::string what, std::string todo) {
  return {ProblemKind::format, std::move(what), path, std::move(todo)};
}

/// A whole number as the library takes it from a line: white space, a sign, any number of digits, and whatever follows;
/// at most what a long holds.
long as_the_library_reads(std::string_view text) { return std::strtol(std::string(text).c_str(), nullptr, 10); }

/// The text as the library can take it: its lines end in line feeds, none is longer than it has room for, and no count
/// promises more than there can be. Refused where it is otherwise: the library would believe it.
Expected<std::string> scanned(std::string_view text, const std::string& path, std::size_t& hidden) {
  constexpr std::size_t longest_line = 1000;  // the library's own room is 1024
  std::string out;
  out.reserve(text.size() + 2);  // so that what was read stays where it is
  std::size_t line_starts = 0;
  std::size_t line = 1;
  std::string_view code;
  // An entity that says it is invisible (60, 1) goes, from its name to the next one.
  std::size_t entity_starts = 0;
  bool drawn = false;  // whether it is a thing that is drawn
  bool invisible = false;
  const auto end_line = [&]() -> std::optional<Problem> {
    std::string_view here(out.data() + line_starts, out.size() - line_starts);
    if (here.size() > longest_line)
      return unusable(path, fmt::format("line {} has {} characters", line, here.size()),
                      "Save it again as DXF (ASCII)");
    while (!here.empty() && here.front() == ' ') here.remove_prefix(1);
    while (!here.empty() && here.back() == ' ') here.remove_suffix(1);
    if (line % 2 == 1) {
      code = here;
      if (code == "0") {
        if (drawn && invisible) {
          out.resize(entity_starts);
          out += "0";
          code = std::string_view(out).substr(entity_starts);
          ++hidden;
        } else {
          entity_starts = line_starts;
        }
        invisible = false;
      }
    } else if (code == "0") {
      static const std::set<std::string_view> things{"LINE",     "ARC",    "CIRCLE", "ELLIPSE", "LWPOLYLINE",
                                                     "POLYLINE", "SPLINE", "TEXT",   "MTEXT",   "DIMENSION",
                                                     "INSERT",   "POINT",  "HATCH",  "SOLID"};
      drawn = things.count(here) != 0;
    } else if (code == "60") {
      invisible = here == "1";
    } else if (const long group = as_the_library_reads(code); group == 90 || (group >= 71 && group <= 74)) {
      // It makes room for what is promised before it has seen any of it: points (90), knots, control and fit points.
      if (std::abs(as_the_library_reads(here)) > static_cast<long>(2 * most_drawing_points))
        return unusable(path, fmt::format("line {} promises {} points", line, here), "Leave out what is not needed");
    }
    out += '\n';
    line_starts = out.size();
    ++line;
    return {};
  };
  // A group code's own text is looked at once its line is over, so it must stay where it is.
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '\0')
      return tl::unexpected(unusable(path, "this is a drawing in binary form", "Save it as DXF (ASCII)"));
    if (text[i] == '\r' && i + 1 < text.size() && text[i + 1] == '\n') continue;
    if (text[i] == '\n' || text[i] == '\r') {
      if (auto bad = end_line()) return tl::unexpected(*bad);
    } else {
      out += text[i];
    }
  }
  if (auto bad = end_line()) return tl::unexpected(*bad);
  return out;
}

}  // namespace

Expected<ReadDrawing> dxf_paths(std::string_view text, const std::string& path) {
  // A quick look before the library reads it: group codes and values in pairs, and an end.
  if (text.find("SECTION") == std::string::npos)
    return tl::unexpected(unusable(path, "this is not a DXF drawing in text form", "Save it as DXF (ASCII)"));
  if (text.find("EOF", text.size() > 200 ? text.size() - 200 : 0) == std::string::npos)
    return tl::unexpected(unusable(path, "the drawing ends in the middle: it was cut short", "Fetch or save it again"));
  std::size_t hidden = 0;
  auto lines = scanned(text, path, hidden);
  if (!lines) return tl::unexpected(lines.error());
  DxfReader reader;
  DL_Dxf dxf;
  std::stringstream stream(*lines);
  if (!dxf.in(stream, &reader))
    return tl::unexpected(unusable(path, "the drawing cannot be read", "Save it again as DXF (ASCII, R12 or 2000)"));
  reader.finish();
  reader.put_in_blocks();
  if (reader.too_deep)
    return tl::unexpected(
        unusable(path, "blocks are nested more than 12 deep, or one holds itself", "Explode the blocks"));
  if (reader.points > most_drawing_points)
    return tl::unexpected(unusable(path, fmt::format("the drawing has more than {} points", most_drawing_points),
                                   "Leave out what is not needed"));
  for (DrawnPath& p : reader.paths) {
    p.elevation *= reader.unit;
    for (Vec2& q : p.points) {
      q = q * reader.unit;
      if (!std::isfinite(q.x) || !std::isfinite(q.y) || std::abs(q.x) > 1e5 || std::abs(q.y) > 1e5)
        return tl::unexpected(
            unusable(path, "a point of the drawing is no length within 100 m", "Check the drawing's units"));
    }
  }
  if (hidden > 0) reader.left["invisible piece"] += hidden;
  ReadDrawing out{join_ends(std::move(reader.paths), join_within), reader.unit_known, std::move(reader.left)};
  if (out.paths.empty())
    return tl::unexpected(unusable(path, "the drawing has no lines, arcs, polylines or splines",
                                   "Explode blocks and texts, or export the outline alone"));
  return out;
}

}  // namespace wren
