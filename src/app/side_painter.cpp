#include <QPainterPath>

#include "app/pictures.hpp"

namespace wren::app {
namespace {

/// Outlines of what an operation cuts, side frame: closed ones and open ones.
struct Drawn {
  std::vector<Polygon> closed;
  std::vector<std::pair<Vec2, Vec2>> lines;
};

struct Draw {
  Drawn& out;
  void operator()(const Slots& s) const {
    for (const FretLine& f : s.board->frets) out.lines.emplace_back(f.slot_bass, f.slot_treble);
  }
  void operator()(const CrownRows& s) const { out.closed.push_back(s.plan.area); }
  void operator()(const Clear& s) const {
    out.closed.insert(out.closed.end(), s.plan.region.begin(), s.plan.region.end());
  }
  void operator()(const Holes& s) const {
    for (const auto& h : s.holes) out.closed.push_back(circle_polygon(h.at, h.diameter / 2));
  }
  void operator()(const Channels& s) const {
    for (const auto& c : s.channels) {
      if (distance(c.a, c.b) < 1e-9) continue;
      const Vec2 n = left_of(unit(c.b - c.a)) * (c.width / 2);
      out.closed.push_back({c.a - n, c.b - n, c.b + n, c.a + n});
    }
  }
  void operator()(const Outline& s) const { out.closed.push_back(flatten(s.contour, 0.05)); }
  void operator()(const Rough&) const {}
  void operator()(const Finish& s) const {
    for (const auto& run : s.runs)
      if (run.size() > 1) {
        Polygon p;
        for (const Station& k : run) p.push_back({k.x, k.low});
        for (auto k = run.rbegin(); k != run.rend(); ++k) p.push_back({k->x, k->high});
        out.closed.push_back(std::move(p));
      }
  }
  void operator()(const Sides&) const {}
  void operator()(const RoundEdge& s) const { out.closed.push_back(flatten(s.plan.outline, 0.05)); }
  void operator()(const Face& s) const {
    out.closed.push_back({s.low, {s.high.x, s.low.y}, s.high, {s.low.x, s.high.y}});
  }
  void operator()(const Skims& s) const { out.closed.push_back(flatten(s.contour, 0.05)); }
  void operator()(const KeptOff& s) const { out.closed.push_back(flatten(s.contour, 0.05)); }
};

}  // namespace

void paint_any_side(QPainter& g, const Followed&, const Planned&, const Side& side, const QTransform& t,
                    bool for_paper) {
  const Palette& p = colours();
  const Setup& s = side.setup;
  const QColor ink = for_paper ? QColor(Qt::black) : p.ink;
  const auto rect = [&](Vec2 a, Vec2 b) { return QRectF(mapped(a, t), mapped(b, t)).normalized(); };
  const Vec2 c{s.blank_corner.x, s.blank_corner.y};
  g.setPen(QPen(for_paper ? QColor(Qt::black) : p.wood_edge, 1.2));
  g.setBrush(for_paper ? QBrush(Qt::NoBrush) : QBrush(p.wood));
  g.drawRect(rect(c, c + s.blank_size));
  // Work frame from the side's own.
  const auto work = [&](const Polygon& polygon) {
    QPolygonF out;
    for (const Vec2 q : polygon) out << mapped(s.to_work.apply(q), t);
    return out;
  };
  for (const Operation& op : side.operations) {
    Drawn drawn;
    std::visit(Draw{drawn}, op.shape);
    const bool through = std::holds_alternative<Outline>(op.shape) || std::holds_alternative<Skims>(op.shape);
    g.setPen(QPen(through ? ink : for_paper ? QColor(Qt::darkGray) : p.slot, through ? 1.6 : 1));
    g.setBrush(Qt::NoBrush);
    for (const Polygon& polygon : drawn.closed) g.drawPolygon(work(polygon));
    for (const auto& [a, b] : drawn.lines) g.drawLine(mapped(s.to_work.apply(a), t), mapped(s.to_work.apply(b), t));
    if (const auto* outline = std::get_if<Outline>(&op.shape)) {
      g.setPen(QPen(for_paper ? QColor(Qt::black) : p.lichen, for_paper ? 2.5 : 6, Qt::SolidLine, Qt::RoundCap));
      for (const double at : outline->plan.tabs)
        g.drawPoint(mapped(s.to_work.apply(place_along(outline->contour, at).at), t));
    }
  }
  g.setPen(QPen(for_paper ? QColor(Qt::black) : p.faint, 1, Qt::DotLine));
  g.setBrush(Qt::NoBrush);
  const double k = std::hypot(t.m11(), t.m12());
  for (const BedHole& h : s.bed_holes) g.drawEllipse(mapped(h.at, t), h.radius * k, h.radius * k);
  for (const auto& box : s.clamp_boxes()) {
    g.setPen(QPen(for_paper ? QColor(Qt::black) : p.rowan, 1.2));
    g.setBrush(QBrush(for_paper ? QColor(Qt::black) : p.rowan, Qt::BDiagPattern));
    g.drawRect(rect({box.low.x, box.low.y}, {box.high.x, box.high.y}));
  }
  // Work zero: a ring with a quarter filled, so that it is no other mark.
  const QPointF zero = mapped({0, 0}, t);
  g.setPen(QPen(for_paper ? QColor(Qt::black) : p.heather, 1.6));
  g.setBrush(for_paper ? QColor(Qt::white) : p.paper);
  g.drawEllipse(zero, 6, 6);
  g.setBrush(for_paper ? QColor(Qt::black) : p.heather);
  g.drawPie(QRectF(zero.x() - 6, zero.y() - 6, 12, 12), 0, 90 * 16);
}

}  // namespace wren::app
