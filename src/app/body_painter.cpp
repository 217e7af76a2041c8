#include "app/body_painter.hpp"

#include <QPainterPath>

#include "core/parts/body/ears.hpp"

namespace wren::app {
namespace {

bool starts(const std::string& text, const char* with) { return text.rfind(with, 0) == 0; }

/// Which layer a side is of, from 0; −1: of the whole body.
int layer_of(const std::string& side) {
  return starts(side, "layer-") ? static_cast<int>(std::strtol(side.c_str() + 6, nullptr, 10)) - 1 : -1;
}

}  // namespace

QPainterPath region_path(const Region& region, const QTransform& t) {
  QPainterPath path;
  for (const Polygon& ring : region) {
    path.addPolygon(mapped(ring, t));
    path.closeSubpath();
  }
  return path;
}

void paint_band(QPainter& g, const StripBand& band, const QPolygonF& at) {
  // Light woods are light, and dark ones dark; a wood nobody has weighed lies between.
  const double share = std::clamp(((band.density > 0 ? band.density : 600) - 350) / 700, 0.0, 1.0);
  QColor fill = QColor::fromHslF(0.085F, 0.42F, static_cast<float>(0.84 - 0.42 * share));
  g.setPen(Qt::NoPen);
  g.setBrush(fill);
  g.drawPolygon(at);
  const QRectF room = at.boundingRect();
  if (std::min(room.width(), room.height()) < 11 || std::max(room.width(), room.height()) < 160) return;
  g.save();
  g.setFont(text_font(8.5));
  g.setPen(share > 0.55 ? QColor(0xf4, 0xee, 0xe4) : QColor(0x3a, 0x2c, 0x1e));
  const QString name = QString::fromStdString(band.wood);
  if (room.width() >= room.height()) {
    // Beside the band's own end, which lies higher or lower where the strips are turned.
    double sum = 0;
    int ends = 0;
    for (const QPointF q : at)
      if (q.x() < room.left() + 1) {
        sum += q.y();
        ++ends;
      }
    g.drawText(QRectF(room.left() + 6, sum / std::max(1, ends) - 8, room.width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
               name);
  } else {
    g.translate(room.left() + 2, room.bottom() - 6);
    g.rotate(-90);
    g.drawText(QRectF(0, 0, room.height(), 14), Qt::AlignLeft | Qt::AlignVCenter, name);
  }
  g.restore();
}

void paint_body(QPainter& g, const BodyDesign& d, const QTransform& t, const BodyInk& ink) {
  const Palette& p = colours();
  const BodyShape& s = d.shape;
  const double k = std::hypot(t.m11(), t.m12());
  const QColor line = ink.for_paper ? QColor(Qt::black) : p.wood_edge;
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  g.setPen(QPen(line, ink.for_paper ? 0.7 : 1.6));
  g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(p.wood));
  g.drawPolygon(mapped(s.corners, t));
  if (!ink.for_paper && !d.bands.empty() && !d.bands.front().empty()) {
    g.save();
    g.setClipPath(region_path({s.corners}, t));
    for (const StripBand& band : d.bands.front()) paint_band(g, band, mapped(band.plan, t));
    g.restore();
    g.setPen(QPen(line, 1.6));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(mapped(s.corners, t));
  }
  // Hidden ones first, then the back's, then the face's over them. Depth is a colour; from where is told by the line.
  const auto paint = [&](const Cavity& c, Qt::PenStyle style, double strength) {
    const double share =
        std::clamp((c.from_back ? c.floor + s.thickness : -c.floor) / std::max(1.0, s.thickness), 0.0, 1.0);
    QColor fill = quantity_colour(0.12 + 0.55 * (1 - share));
    fill.setAlphaF(static_cast<float>(strength));
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, ink.for_paper ? 0.5 : 1.2, style));
    g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(fill));
    g.drawPath(region_path(c.region, t));
  };
  g.save();
  g.setClipPath(region_path({s.corners}, t));  // a pocket's open end lies in the waste
  if (ink.hidden)
    for (const Cavity& c : s.cavities)
      if (c.layer >= 0) paint(c, Qt::DotLine, 0.16);
  for (const Cavity& c : s.cavities)
    if (c.layer < 0 && c.from_back) paint(c, Qt::DashLine, 0.28);
  for (const Cavity& c : s.cavities)
    if (c.layer < 0 && !c.from_back) paint(c, Qt::SolidLine, 0.62);
  g.restore();
  for (const BodyHole& h : s.holes) {
    const bool back = h.from_back;
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, 1, back ? Qt::DashLine : Qt::SolidLine));
    g.setBrush(ink.for_paper || back || h.depth > 0 ? QBrush(Qt::NoBrush) : QBrush(p.ground));
    const double r = std::max(1.0, h.diameter / 2 * k);
    g.drawEllipse(mapped(h.at, t), r, r);
  }
  // Joints of glued blanks: the top one's drawn through, those under it dashed.
  {
    g.save();
    g.setClipPath(region_path({s.corners}, t));
    const Box2 box = bounds(s.corners);
    const double far = length(box.size());
    for (std::size_t layer = 0; layer < d.joints.size(); ++layer)
      for (const Joint& j : d.joints[layer]) {
        g.setPen(QPen(ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.wood_edge, 1.1,
                      layer == 0 ? Qt::SolidLine : Qt::DashLine));
        g.drawLine(mapped(j.at - j.along * far, t), mapped(j.at + j.along * far, t));
      }
    g.restore();
  }
  // Ghosts of hardware: bridge, and the jack as an arrow into the edge.
  g.setBrush(Qt::NoBrush);
  g.setPen(QPen(ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.faint, 1, Qt::DashDotLine));
  if (s.bridge_pieces.empty()) g.drawPolygon(mapped(s.bridge_plate, t));
  for (const Polygon& piece : s.bridge_pieces) g.drawPolygon(mapped(piece, t));
  if (!s.scratch_plate.empty()) g.drawPolygon(mapped(s.scratch_plate, t));
  for (const EdgeJob& j : s.edge_jobs) {
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1.3));
    const QPointF a = mapped(j.at - j.inward * 7, t);
    const QPointF b = mapped(j.at + j.inward * std::min(j.depth, 30.0), t);
    g.drawLine(a, b);
    g.drawEllipse(mapped(j.at, t), std::max(2.0, j.diameter / 4 * k), std::max(2.0, j.diameter / 4 * k));
  }
  if (ink.neck) {
    Polygon neck;
    for (const Vec2 q : s.neck->corners) {
      const Vec3 b = s.setup.frame.to_body({q.x, q.y, 0});
      neck.push_back({b.x, b.y});
    }
    g.setPen(QPen(ink.for_paper ? QColor(0x80, 0x80, 0x80) : p.faint, 1.1, Qt::DashLine));
    g.drawPolygon(mapped(neck, t));
  }
  if (ink.strings) {
    const auto n = static_cast<int>(s.setup.strings.size());
    for (int i = 1; i <= n; ++i) {
      QColor c = ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.ink;
      c.setAlpha(150);
      g.setPen(QPen(c, std::max(0.8, s.neck->board->strings[static_cast<std::size_t>(i - 1)].gauge * k * 0.5)));
      const Vec2 saddle = s.setup.string_at(i, 0);
      const Vec2 way = unit(saddle - s.setup.string_at(i, 1));
      const SaddlePlace& place = s.setup.saddles[static_cast<std::size_t>(i - 1)];
      g.drawLine(mapped(s.setup.string_at(i, 0.75), t), mapped(saddle + way * place.compensation, t));
      g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.ink, 2.4, Qt::SolidLine, Qt::FlatCap));
      const Vec2 m = saddle + way * place.compensation;
      g.drawLine(mapped(m - left_of(way) * 3, t), mapped(m + left_of(way) * 3, t));
    }
    const Box2 box = bounds(s.corners);
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1, Qt::DashDotLine));
    g.drawLine(mapped({box.low.x - 14, 0}, t), mapped({box.high.x + 14, 0}, t));
    const Vec2 m = s.setup.bridge_middle;
    const Vec2 u = s.setup.bridge_across * 62.0;
    g.drawLine(mapped(m - u, t), mapped(m + u, t));
  }
  if (ink.grain) {
    // Combs of short strokes where a conventional cut would run against the grain, single strokes on end grain.
    const Polygon fine = flatten(s.outline, 0.05);
    double along = 0;
    double next = 0;
    std::size_t span = 0;
    for (std::size_t i = 0; i < fine.size(); ++i) {
      const Vec2 a = fine[i];
      const Vec2 b = fine[(i + 1) % fine.size()];
      const double l = distance(a, b);
      for (; next < along + l; next += 5) {
        while (span + 1 < d.grain.size() && next > d.grain[span].to) ++span;
        if (span >= d.grain.size()) break;
        const GrainRun run = d.grain[span].run;
        if (run != GrainRun::against && run != GrainRun::end) continue;
        const Vec2 at = lerp(a, b, l > 0 ? (next - along) / l : 0);
        const Vec2 u = unit(b - a);
        const Vec2 out = left_of(u) * -1.0;
        g.setPen(QPen(ink.for_paper              ? QColor(Qt::black)
                      : run == GrainRun::against ? p.gorse.darker(115)
                                                 : p.faint,
                      run == GrainRun::against ? 1.5 : 1.0));
        const Vec2 tip = run == GrainRun::against ? unit(out + u * 0.8) : out;
        g.drawLine(mapped(at + out * 1.5, t), mapped(at + out * 1.5 + tip * 5, t));
      }
      along += l;
    }
  }
  g.restore();
}

void paint_body_bed(QPainter& g, const BodyDesign& d, const AlignmentNumbers& alignment, const std::string& side,
                    const Setup& s, const QTransform& t, bool for_paper) {
  const Palette& p = colours();
  const QColor line = for_paper ? QColor(Qt::black) : p.ink;
  const double k = std::hypot(t.m11(), t.m12());
  const auto work = [&](Vec2 q) { return s.to_work.apply(turned(s.turn, q)); };
  const auto all = [&](const Polygon& polygon) {
    QPolygonF out;
    for (const Vec2 q : polygon) out << mapped(work(q), t);
    return out;
  };
  const auto rect = [&](Vec2 low, Vec2 high) { return QRectF(mapped(low, t), mapped(high, t)).normalized(); };
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  const Vec2 home{-s.zero_in_machine.x, -s.zero_in_machine.y};
  const Vec2 far = home + Vec2{s.machine.travel.x, s.machine.travel.y};
  g.setPen(QPen(for_paper ? QColor(Qt::gray) : p.hair, 1));
  g.setBrush(for_paper ? QBrush(Qt::NoBrush) : QBrush(p.paper));
  g.drawRect(rect(home, far));
  const Vec2 middle = (home + far) * 0.5;
  g.setPen(QPen(for_paper ? QColor(Qt::gray) : p.heather, 1, Qt::DashLine));
  g.drawLine(mapped({home.x, middle.y}, t), mapped({far.x, middle.y}, t));
  g.drawLine(mapped({middle.x, home.y}, t), mapped({middle.x, far.y}, t));
  const Vec2 corner{s.blank_corner.x, s.blank_corner.y};
  QColor wood = p.wood;
  wood.setAlpha(120);
  g.setPen(QPen(line, for_paper ? 0.8 : 1.4));
  const bool whole = s.top_island.empty();
  if (!whole) g.setPen(QPen(for_paper ? QColor(Qt::gray) : p.hair, 1, Qt::DotLine));
  g.setBrush(for_paper || !whole ? QBrush(Qt::NoBrush) : QBrush(wood));
  g.drawRect(rect(corner, corner + s.blank_size));
  const BodyShape& shape = d.shape;
  const bool sawn = !s.top_island.empty();
  if (sawn) {
    // The blank's edge is only where its ears end: the rest of it was sawn off.
    QPolygonF island;
    for (const Vec2 q : s.top_island) island << mapped(s.to_work.apply(q), t);
    g.setPen(QPen(line, for_paper ? 0.8 : 1.4));
    g.setBrush(for_paper ? QBrush(Qt::NoBrush) : QBrush(wood));
    g.drawPolygon(island);
  }
  const int of_layer = std::max(0, layer_of(side));
  const bool strips = !for_paper && static_cast<std::size_t>(of_layer) < d.bands.size() &&
                      !d.bands[static_cast<std::size_t>(of_layer)].empty() && !sawn;
  if (strips)
    for (const StripBand& band : d.bands[static_cast<std::size_t>(of_layer)]) paint_band(g, band, all(band.plan));
  g.setPen(QPen(for_paper ? QColor(Qt::black) : p.wood_edge, for_paper ? 0.8 : 1.5));
  QColor body_wood = p.wood;
  if (strips) body_wood.setAlpha(60);
  g.setBrush(for_paper ? QBrush(Qt::NoBrush) : QBrush(body_wood));
  g.drawPolygon(all(shape.corners));
  // Where the saw leaves ears beside a groove.
  if (!sawn && !d.ears.empty()) {
    g.setPen(QPen(for_paper ? QColor(Qt::gray) : p.faint, 1, Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    for (const Ear& e : d.ears) g.drawPolygon(all(ear_strip(e, 0)));
  }
  if (static_cast<std::size_t>(of_layer) < d.joints.size())
    for (const Joint& j : d.joints[static_cast<std::size_t>(of_layer)]) {
      const double half = (j.along.x != 0 ? d.blank.length : d.blank.width) / 2;
      const Vec2 mid = j.along.x != 0 ? Vec2{d.blank_middle.x, j.at.y} : Vec2{j.at.x, d.blank_middle.y};
      g.setPen(QPen(for_paper ? QColor(0x60, 0x60, 0x60) : p.wood_edge, 1));
      g.drawLine(mapped(work(mid - j.along * half), t), mapped(work(mid + j.along * half), t));
    }
  const bool back = side == "back" || side == "skim";
  const int layer = layer_of(side);
  if (layer >= 0)
    for (const LayerCut& c : d.cuts[static_cast<std::size_t>(layer)])
      if (!c.plug.empty() && s.turn == Turn::none) {
        g.setPen(QPen(for_paper ? QColor(Qt::gray) : p.wood_edge, 1, Qt::DashLine));
        g.setBrush(Qt::NoBrush);
        g.drawPolygon(all(c.plug));
        g.setBrush(for_paper ? QColor(Qt::black) : p.heather);
        for (const Vec2 tab : c.tabs) g.drawEllipse(mapped(work(tab), t), 2.5, 2.5);
      }
  for (const Cavity& c : shape.cavities) {
    const auto cut_here = [&] {
      const auto& cuts = d.cuts[static_cast<std::size_t>(layer)];
      return std::any_of(cuts.begin(), cuts.end(), [&](const LayerCut& cut) {
        return &shape.cavities[cut.cavity] == &c && cut.from_below == (s.turn != Turn::none);
      });
    };
    // What was cut before the glue-up is there, and not cut again.
    const bool mine = layer >= 0 ? cut_here() : c.layer < 0 && !c.by_layer && c.from_back == back;
    // Open already, and cut no more.
    const bool open = layer < 0 && c.by_layer && c.from_back == back;
    if (!mine && !open) continue;
    QColor fill = quantity_colour(0.3);
    fill.setAlpha(110);
    g.setPen(QPen(for_paper ? QColor(Qt::black) : p.slot, 1, open ? Qt::DotLine : Qt::SolidLine));
    g.setBrush(for_paper || open ? QBrush(Qt::NoBrush) : QBrush(fill));
    QPainterPath path;
    for (const Polygon& ring : c.region) {
      path.addPolygon(all(ring));
      path.closeSubpath();
    }
    g.drawPath(path);
  }
  if (layer < 0)
    for (const BodyHole& h : shape.holes)
      if (h.from_back == back || h.depth == 0) {
        g.setPen(QPen(for_paper ? QColor(Qt::black) : p.slot, 1));
        g.setBrush(Qt::NoBrush);
        g.drawEllipse(mapped(work(h.at), t), std::max(1.0, h.diameter / 2 * k), std::max(1.0, h.diameter / 2 * k));
      }
  // Pins or ticks.
  if (alignment.school == School::pins) {
    for (const BedHole& h : s.bed_holes) {
      g.setPen(QPen(for_paper ? QColor(Qt::black) : p.faint, 1, Qt::DotLine));
      g.setBrush(Qt::NoBrush);
      g.drawEllipse(mapped(h.at, t), std::max(3.0, h.radius * k), std::max(3.0, h.radius * k));
    }
    int number = 0;
    for (const Vec2 pin : {d.pins.first, d.pins.second}) {
      const QPointF at = mapped(work(pin), t);
      const double r = std::max(4.0, alignment.pin_diameter / 2 * k);
      g.setPen(QPen(for_paper ? QColor(Qt::black) : p.heather, 1.8));
      g.setBrush(for_paper ? QBrush(Qt::white) : QBrush(p.paper));
      g.drawEllipse(at, r, r);
      g.drawLine(at - QPointF(r, 0), at + QPointF(r, 0));
      g.drawLine(at - QPointF(0, r), at + QPointF(0, r));
      QFont font = text_font(8.5, QFont::DemiBold);
      if (for_paper) font.setPixelSize(9);
      g.setFont(font);
      g.drawText(QRectF(at.x() - 20, at.y() - r - 16, 40, 14), Qt::AlignCenter, QString::number(++number));
    }
  } else {
    g.setPen(QPen(line, for_paper ? 0.9 : 1.6));
    for (const Vec2 tick : {Vec2{0.5, 0}, Vec2{0.5, 1}, Vec2{0, 0.5}, Vec2{1, 0.5}}) {
      const Vec2 at{corner.x + tick.x * s.blank_size.x, corner.y + tick.y * s.blank_size.y};
      const Vec2 out{(tick.x - 0.5) * 2, (tick.y - 0.5) * 2};
      g.drawLine(mapped(at - out * 4, t), mapped(at + out * 6, t));
    }
  }
  for (const auto& box : s.clamp_boxes()) {
    const QColor c = for_paper ? QColor(Qt::black) : p.rowan;
    g.setPen(QPen(c, 1.3));
    g.setBrush(QBrush(c, Qt::BDiagPattern));
    g.drawRect(rect({box.low.x, box.low.y}, {box.high.x, box.high.y}));
  }
  if (back && !sawn) {  // a sawn body is held by its ears
    g.setPen(QPen(for_paper ? QColor(Qt::black) : p.lichen, for_paper ? 2.5 : 6, Qt::SolidLine, Qt::RoundCap));
    for (const Vec2 tab : d.tabs) g.drawPoint(mapped(work(tab), t));
  }
  const QPointF zero = mapped({0, 0}, t);
  g.setPen(QPen(for_paper ? QColor(Qt::black) : p.heather, 1.6));
  g.setBrush(for_paper ? QColor(Qt::white) : p.paper);
  g.drawEllipse(zero, 6, 6);
  g.setBrush(for_paper ? QColor(Qt::black) : p.heather);
  g.drawPie(QRectF(zero.x() - 6, zero.y() - 6, 12, 12), 0, 90 * 16);
  g.restore();
}

}  // namespace wren::app
