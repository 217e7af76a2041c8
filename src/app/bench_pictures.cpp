#include "app/bench_pictures.hpp"

#include "app/body_painter.hpp"
#include "app/theme.hpp"

namespace wren::app {
namespace {

/// From the instrument's frame into the bench's.
std::function<Vec3(Vec3)> into_bench(const Followed& f) {
  if (!f.designs.find(BodyDesign::part)) return [](Vec3 p) { return p; };
  return [frame = f.designs.shape<BodyDesign>().shape.setup.frame](Vec3 p) { return frame.to_body(p); };
}

Polygon plan_of(const Polygon& from, const std::function<Vec3(Vec3)>& into) {
  Polygon out;
  out.reserve(from.size());
  for (const Vec2 p : from) {
    const Vec3 q = into({p.x, p.y, 0});
    out.push_back({q.x, q.y});
  }
  return out;
}

OnBench board_on_bench(const Followed& f) {
  const auto d = f.designs.shared<BoardDesign>();
  const auto into = into_bench(f);
  const Fretboard& b = d->board;
  OnBench out;
  out.outline = plan_of(b.corners, into);
  const Box2 box = bounds(b.corners);
  for (const auto& [x, z] :
       {std::pair{box.low.x, 0.0}, std::pair{box.high.x, 0.0}, std::pair{box.high.x, b.given.board.thickness},
        std::pair{box.low.x, b.given.board.thickness}}) {
    const Vec3 q = into({x, 0, z});
    out.profile.push_back({q.x, q.z});
  }
  out.plan = [d, into](QPainter& g, const QTransform& t) {
    const Palette& p = colours();
    const auto at = [&](Vec2 q) {
      const Vec3 v = into({q.x, q.y, 0});
      return mapped({v.x, v.y}, t);
    };
    g.setPen(QPen(p.wood_edge, 1.1));
    for (const FretLine& fret : d->board.frets) g.drawLine(at(fret.slot_bass), at(fret.slot_treble));
    g.setPen(Qt::NoPen);
    g.setBrush(p.faint);
    const double k = std::hypot(t.m11(), t.m12());
    for (const Mark& mark : d->board.marks)
      if (mark.radius > 0) g.drawEllipse(at(mark.centre), mark.radius * k, mark.radius * k);
    for (const StringLine& s : d->board.strings) {
      QColor c = p.ink;
      c.setAlpha(150);
      g.setPen(QPen(c, std::max(0.7, s.gauge * k * 0.6)));
      g.drawLine(at(s.nut), at(s.saddle));
    }
    g.setPen(QPen(p.heather, 1, Qt::DashLine));
    g.drawLine(at(d->board.strings.front().saddle), at(d->board.strings.back().saddle));
    g.setPen(QPen(p.ink, 2));
    g.drawLine(at(d->board.nut_line.bass_edge), at(d->board.nut_line.treble_edge));
  };
  const StringLine& bass = b.strings.front();
  const StringLine& treble = b.strings.back();
  const auto place = [&](Vec2 q) {
    const Vec3 v = into({q.x, q.y, 0});
    return Vec2{v.x, v.y};
  };
  const auto across = [&](const char* key, const QString& name, double value, Vec2 from, Vec2 to) {
    out.numbers.push_back({key, name, value, place(to), place(from), unit(place(to) - place(from)), 2, false});
  };
  across("strings.nut_spread", QObject::tr("Spread at the nut"), distance(bass.nut, treble.nut), bass.nut, treble.nut);
  across("strings.bridge_spread", QObject::tr("Spread at the bridge"), distance(bass.saddle, treble.saddle),
         bass.saddle, treble.saddle);
  const Instrument& in = b.given;
  const bool fanned = std::abs(in.strings.scale_bass - in.strings.scale_treble) > 1e-9;
  const auto along = [&](const char* key, const QString& name, double value, Vec2 nut, Vec2 saddle) {
    out.numbers.push_back({key, name, value, place(saddle), place(nut), unit(place(saddle) - place(nut)), 1, false});
  };
  if (fanned) {
    along("strings.scale_bass", QObject::tr("Scale, bass"), in.strings.scale_bass, bass.nut, bass.saddle);
    along("strings.scale_treble", QObject::tr("Scale, treble"), in.strings.scale_treble, treble.nut, treble.saddle);
  } else {
    along("strings.scale", QObject::tr("Scale"), in.strings.scale_bass, lerp(bass.nut, treble.nut, 0.5),
          lerp(bass.saddle, treble.saddle, 0.5));
  }
  return out;
}

OnBench neck_on_bench(const Followed& f) {
  const auto d = f.designs.shared<NeckDesign>();
  const auto into = into_bench(f);
  const NeckShape& n = d->shape;
  OnBench out;
  out.outline = plan_of(n.corners, into);
  constexpr int count = 240;
  const auto x_at = [&](int i) { return n.tip_x + 0.3 + (n.end_x - n.tip_x - 0.6) * i / count; };
  const auto point = [&](double x, double z) {
    const Vec3 q = into({x, 0, z});
    return Vec2{q.x, q.z};
  };
  for (int i = 0; i <= count; ++i) out.profile.push_back(point(x_at(i), n.front({x_at(i), 0})));
  for (int i = count; i >= 0; --i) out.profile.push_back(point(x_at(i), -n.depth({x_at(i), 0})));
  out.plan = [d, into](QPainter& g, const QTransform& t) {
    const Palette& p = colours();
    const double k = std::hypot(t.m11(), t.m12());
    g.setBrush(Qt::NoBrush);
    for (const Tuner& tuner : d->shape.tuners) {
      g.setPen(QPen(p.faint, 1, Qt::DashLine));
      g.drawPolygon(mapped(plan_of(tuner.body, into), t));
      const Vec3 q = into({tuner.at.x, tuner.at.y, 0});
      g.setPen(QPen(p.ink, 1.2));
      g.drawEllipse(mapped({q.x, q.y}, t), std::max(1.5, d->shape.given.tuner.post / 2 * k),
                    std::max(1.5, d->shape.given.tuner.post / 2 * k));
      const StringLine& s = d->shape.board->strings[static_cast<std::size_t>(tuner.string - 1)];
      QColor c = p.ink;
      c.setAlpha(150);
      g.setPen(QPen(c, std::max(0.7, s.gauge * k * 0.6)));
      const Vec3 nut = into({s.nut.x, s.nut.y, 0});
      g.drawLine(mapped({nut.x, nut.y}, t), mapped({q.x, q.y}, t));
    }
  };
  const double mid = n.heel_x + 6;
  const Vec2 low = point(mid, -n.depth({mid, 0}));
  const Vec2 high = point(mid, n.board->given.board.thickness);
  out.numbers.push_back({"neck.heel_thickness", QObject::tr("Heel in all"), n.whole_thickness(mid), low, high,
                         unit(low - high), 1, true});
  out.facts = {"neck.skin", "neck.weight"};
  return out;
}

OnBench body_on_bench(const Followed& f) {
  const auto d = f.designs.shared<BodyDesign>();
  const BodyShape& s = d->shape;
  OnBench out;
  out.outline = s.corners;
  const Box2 box = bounds(s.corners);
  const double from_x = std::max(box.low.x, s.edge_middle.x);
  constexpr int count = 160;
  const auto x_at = [&](int i) { return from_x + 0.6 + (box.high.x - from_x - 1.0) * i / count; };
  for (int i = 0; i <= count; ++i) out.profile.push_back({x_at(i), s.top({x_at(i), 0.01})});
  for (int i = count; i >= 0; --i) out.profile.push_back({x_at(i), s.bottom({x_at(i), 0.01})});
  out.plan = [d](QPainter& g, const QTransform& t) {
    const Palette& p = colours();
    const BodyShape& shape = d->shape;
    g.setBrush(Qt::NoBrush);
    for (const Cavity& c : shape.cavities) {
      g.setPen(QPen(p.wood_edge, 1, c.layer >= 0 ? Qt::DotLine : c.from_back ? Qt::DashLine : Qt::SolidLine));
      g.drawPath(region_path(c.region, t));
    }
    g.setPen(QPen(p.ink, 1.3));
    for (const auto& pickup : shape.pickups) {
      const Vec2 u = pickup.across * (pickup.size.length / 2);
      const Vec2 v = left_of(pickup.across) * (pickup.size.width / 2);
      g.drawPolygon(mapped(
          Polygon{pickup.middle - u - v, pickup.middle + u - v, pickup.middle + u + v, pickup.middle - u + v}, t));
    }
    const double k = std::hypot(t.m11(), t.m12());
    for (const Vec2 c : shape.controls) g.drawEllipse(mapped(c, t), 9 * k, 9 * k);
    g.setPen(QPen(p.ink, 1.5, Qt::DashDotLine));
    if (shape.bridge_pieces.empty()) g.drawPolygon(mapped(shape.bridge_plate, t));
    for (const Polygon& piece : shape.bridge_pieces) g.drawPolygon(mapped(piece, t));
    if (!shape.scratch_plate.empty()) g.drawPolygon(mapped(shape.scratch_plate, t));
    const Box2 all = bounds(shape.corners);
    g.setPen(QPen(p.heather, 1, Qt::DashDotLine));
    g.drawLine(mapped({-160, 0}, t), mapped({all.high.x + 10, 0}, t));
  };
  out.side = [d](QPainter& g, const QTransform& t) {
    const Palette& p = colours();
    const BodyShape& shape = d->shape;
    for (const auto& pickup : shape.pickups) {
      const double face = shape.top(pickup.middle);
      QColor fill = p.wood_edge;
      fill.setAlpha(70);
      g.setPen(QPen(p.wood_edge, 1));
      g.setBrush(fill);
      g.drawRect(QRectF(mapped({pickup.middle.x - pickup.size.width / 2, face + pickup.size.high}, t),
                        mapped({pickup.middle.x + pickup.size.width / 2, face}, t))
                     .normalized());
    }
    // The pocket's floor, and the saddles' range.
    g.setPen(QPen(p.heather, 1.4, Qt::DashLine));
    g.drawLine(mapped({shape.edge_middle.x, -shape.setup.depth_edge}, t),
               mapped({shape.heel.end_x, -shape.setup.depth_end}, t));
    const BridgeNumbers& br = shape.given.bridge;
    const double bx = shape.setup.bridge_middle.x;
    g.setPen(QPen(p.heather, 1.3));
    for (const double h : {br.low, br.high}) g.drawLine(mapped({bx - 9, h}, t), mapped({bx + 9, h}, t));
    for (std::size_t i = 0; i < shape.setup.strings.size(); ++i) {
      if (i != 0 && i + 1 != shape.setup.strings.size()) continue;
      const auto& [nut, saddle] = shape.setup.strings[i];
      g.setPen(QPen(p.ink, 1));
      g.drawLine(mapped({nut.x, nut.z}, t), mapped({saddle.x, saddle.z}, t));
      g.drawLine(mapped({saddle.x, saddle.z}, t), mapped({bx + br.anchor_behind, br.anchor_height}, t));
    }
  };
  // String height over fret 12 at both outer strings: the fret's top and the string's underside there.
  const Fretboard& board = *s.neck->board;
  const BodyFrame& frame = s.setup.frame;
  for (const bool treble : {false, true}) {
    const StringLine& string = treble ? board.strings.back() : board.strings.front();
    const Vec2 over = lerp(string.nut, string.saddle, 0.5);
    const double top = board.given.board.thickness + board.given.frets.crown_height;
    const Vec3 fret = frame.to_body({over.x, 0, top});
    const double action = treble ? s.given.setup.action_treble : s.given.setup.action_bass;
    const Vec3 under = frame.to_body({over.x, 0, top + action});
    const double aside = treble ? 26 : -26;
    out.numbers.push_back({treble ? "body.action_treble" : "body.action_bass",
                           treble ? QObject::tr("Treble string over fret 12") : QObject::tr("Bass string over fret 12"),
                           action,
                           {under.x + aside, under.z},
                           {fret.x + aside, fret.z},
                           {0, 1},
                           1,
                           true});
  }
  for (const auto& pickup : s.pickups) {
    const double cover = s.top(pickup.middle) + pickup.size.high;
    out.numbers.push_back({"pickup." + pickup.which + ".string_gap",
                           QObject::tr("String over pickup"),
                           pickup.string_low - cover,
                           {pickup.middle.x, pickup.string_low},
                           {pickup.middle.x, cover},
                           {},
                           1,
                           true});
  }
  out.numbers.push_back({"body.depth_end",
                         QObject::tr("Pocket"),
                         s.setup.depth_end,
                         {s.heel.end_x + 5, -s.setup.depth_end},
                         {s.heel.end_x + 5, 0},
                         {},
                         1,
                         true});
  out.facts = {"body.hang", "body.whole_weight", "body.tilt", "saddle.1.break"};
  return out;
}

}  // namespace

OnBench on_bench(const std::string& part, const Followed& followed) {
  const auto design = followed.designs.find(part);
  if (!design || !design->present) return {};
  if (part == BoardDesign::part) return board_on_bench(followed);
  if (part == NeckDesign::part) return neck_on_bench(followed);
  if (part == BodyDesign::part) return body_on_bench(followed);
  return {};
}

}  // namespace wren::app
