#include "app/rehearsal_view.hpp"
#include "app/words.hpp"

#include <QHBoxLayout>
#include <QVBoxLayout>

namespace wren::app {
namespace {

constexpr int ticks = 10000;  // of the clock's slider
constexpr double picture_cell = 0.25;

QString minutes(double seconds) {
  return QStringLiteral("%1:%2")
      .arg(static_cast<int>(seconds) / 60)
      .arg(static_cast<int>(seconds) % 60, 2, 10, QLatin1Char('0'));
}

}  // namespace

void WoodView::show_wood(std::shared_ptr<const Rehearsed> what) {
  what_ = std::move(what);
  refresh();
  fit();
}

void WoodView::refresh() {
  if (!what_) {
    image_ = {};
    update();
    return;
  }
  const TileGrid& wood = what_->rehearsal->stock();
  if (image_.width() != wood.width() || image_.height() != wood.height())
    image_ = QImage(wood.width(), wood.height(), QImage::Format_RGB32);
  const double deepest = what_->deepest;
  const QRgb gone = colours().ground.rgb();
  std::array<QColor, 256> scale;
  for (std::size_t i = 0; i < scale.size(); ++i) scale[i] = quantity_colour(static_cast<double>(i) / 255);
  // Depth by colour, and a little relief from the slope so that small steps show.
  for (int j = 0; j < wood.height(); ++j) {
    auto* line = reinterpret_cast<QRgb*>(image_.scanLine(wood.height() - 1 - j));
    for (int i = 0; i < wood.width(); ++i) {
      const double z = static_cast<double>(wood.at(i, j));
      if (what_->underside && wood.at(i, j) <= what_->underside->at(i, j) + 0.001F) {
        line[i] = gone;
        continue;
      }
      const double share = std::pow(std::clamp(-z / deepest, 0.0, 1.0), 0.6);
      const double next =
          static_cast<double>(wood.at(std::min(i + 1, wood.width() - 1), std::min(j + 1, wood.height() - 1)));
      const double relief = std::clamp(1 + (z - next) / wood.cell() * 0.35, 0.72, 1.22);
      const QColor& c = scale[static_cast<std::size_t>(255 - std::lround(share * 255))];
      const auto lit = [&](int v) { return std::clamp(static_cast<int>(v * relief), 0, 255); };
      line[i] = qRgb(lit(c.red()), lit(c.green()), lit(c.blue()));
    }
  }
  update();
}

std::pair<Vec2, Vec2> WoodView::extent() const {
  if (!what_) return {{0, 0}, {500, 80}};
  const Setup& s = what_->setup;
  const Vec2 c{s.blank_corner.x, s.blank_corner.y};
  return {c, c + s.blank_size};
}

void WoodView::draw(QPainter& g) {
  const Palette& p = colours();
  const auto [low, high] = extent();
  const QRectF blank(mapped(low, to_screen()), mapped(high, to_screen()));
  if (image_.isNull()) {
    g.setPen(QPen(p.faint, 1, Qt::DashLine));
    g.drawRect(blank.normalized());
    g.setFont(text_font(10));
    g.setPen(p.faint);
    g.drawText(rect(), Qt::AlignCenter, tr("The programs are being read back and cut into virtual wood …"));
    return;
  }
  g.setRenderHint(QPainter::SmoothPixmapTransform);
  g.drawImage(blank.normalized(), image_);
  g.setPen(QPen(p.wood_edge, 1));
  g.setBrush(Qt::NoBrush);
  g.drawRect(blank.normalized());
  for (const auto& box : what_->setup.clamp_boxes()) {
    g.setPen(QPen(p.rowan, 1.3));
    g.setBrush(QBrush(p.rowan, Qt::BDiagPattern));
    g.drawRect(QRectF(mapped({box.low.x, box.low.y}, to_screen()), mapped({box.high.x, box.high.y}, to_screen()))
                   .normalized());
  }
  if (const Rehearsal* rehearsal = what_ ? what_->rehearsal.get() : nullptr)
    if (const auto piece = rehearsal->piece(); piece && piece->cutter >= 0) {
      const Cutter& c = rehearsal->score().cutters[static_cast<std::size_t>(piece->cutter)];
      const Vec3 tip = rehearsal->tip();
      const double k = std::hypot(to_screen().m11(), to_screen().m12());
      const QPointF at = mapped({tip.x, tip.y}, to_screen());
      g.setPen(QPen(p.heather, 2, piece->rapid ? Qt::DotLine : Qt::SolidLine));
      g.setBrush(Qt::NoBrush);
      g.drawEllipse(at, std::max(3.0, c.radius() * k), std::max(3.0, c.radius() * k));
      g.drawLine(at - QPointF(14, 0), at + QPointF(14, 0));
      g.drawLine(at - QPointF(0, 14), at + QPointF(0, 14));
    }
  // The scale of the colours.
  const QRectF bar(width() - 262, height() - 26, 150, 9);
  for (int i = 0; i < 150; ++i) {
    const double depth_share = i / 149.0;
    g.fillRect(QRectF(bar.left() + i, bar.top(), 1.5, bar.height()), quantity_colour(1 - std::pow(depth_share, 0.6)));
  }
  g.setFont(figure_font(8.5));
  g.setPen(p.ink);
  g.drawText(QRectF(bar.left() - 70, bar.top() - 4, 64, 17), Qt::AlignRight | Qt::AlignVCenter, tr("depth 0"));
  g.drawText(QRectF(bar.right() + 6, bar.top() - 4, 100, 17), Qt::AlignLeft | Qt::AlignVCenter, length(what_->deepest));
}

RehearsalView::RehearsalView(Workbench& bench, QWidget* parent) : QWidget(parent), bench_(bench) {
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 6);
  all->setSpacing(4);
  wood_ = new WoodView(bench, this);
  all->addWidget(wood_, 1);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(14, 0, 14, 0);
  play_ = new QPushButton(tr("Run"), this);
  play_->setAccessibleName(tr("Run the clock"));
  play_->setCheckable(true);
  clock_ = new QSlider(Qt::Horizontal, this);
  clock_->setObjectName(QStringLiteral("clock"));
  clock_->setAccessibleName(tr("Clock of the rehearsal"));
  clock_->setRange(0, ticks);
  clock_->setValue(ticks);
  clock_->setPageStep(ticks / 20);
  prove_ = new QPushButton(tr("Rehearse and prove"), this);
  prove_->setObjectName(QStringLiteral("main"));
  stop_ = new QPushButton(tr("Stop"), this);
  stop_->setAccessibleName(tr("Stop the rehearsal"));
  stop_->hide();
  progress_ = new QProgressBar(this);
  progress_->setFixedWidth(150);
  progress_->hide();
  row->addWidget(play_);
  row->addWidget(clock_, 1);
  row->addWidget(progress_);
  row->addWidget(stop_);
  row->addWidget(prove_);
  all->addLayout(row);
  auto* words = new QHBoxLayout;
  words->setContentsMargins(14, 0, 14, 0);
  now_ = new QLabel(this);
  now_->setObjectName(QStringLiteral("now"));
  now_->setFont(figure_font(9));
  result_ = new QLabel(this);
  result_->setObjectName(QStringLiteral("result"));
  result_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  // Both whole: they share the row by what they need, and wrap where that is not enough.
  words->addWidget(now_, 1);
  words->addWidget(result_, 1);
  now_->setWordWrap(true);
  result_->setWordWrap(true);
  all->addLayout(words);
  errors_ = new QLabel(this);
  errors_->setObjectName(QStringLiteral("errors"));
  errors_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  errors_->setWordWrap(true);
  errors_->setContentsMargins(14, 0, 14, 0);
  errors_->setToolTip(tr("The same programs with zero, blank and the turned side off by what the set-up states"));
  errors_->hide();
  all->addWidget(errors_);

  timer_.setInterval(40);
  connect(&timer_, &QTimer::timeout, this, [this] {
    if (clock_->value() >= ticks)
      play_->setChecked(false);
    else
      clock_->setValue(clock_->value() + ticks / 500);
  });
  connect(play_, &QPushButton::toggled, this, [this](bool on) {
    play_->setText(on ? tr("Hold") : tr("Run"));
    if (on && clock_->value() >= ticks) clock_->setValue(0);
    if (on)
      timer_.start();
    else
      timer_.stop();
  });
  connect(clock_, &QSlider::valueChanged, this, &RehearsalView::moved);
  connect(prove_, &QPushButton::clicked, this, &RehearsalView::prove_asked);
  connect(stop_, &QPushButton::clicked, this, [this] { bench_.cancel_proof(); });
  connect(&bench_, &Workbench::changed, this, [this] {
    tell_result();
    if (bench_.planned(bench_.part()) != of_ || !of_) {
      stale_ = true;
      of_.reset();
      what_.reset();
      wood_->show_wood(nullptr);
      build_.cancel();
      play_->setChecked(false);
      now_->clear();
    }
  });
  connect(&bench_, &Workbench::planned_now, this, [this] {
    tell_result();
    if (isVisible()) build();
  });
  connect(&bench_, &Workbench::progress, this, [this](double share, const QString& phase) {
    if (!bench_.proving()) return;
    progress_->setValue(static_cast<int>(share * 100));
    progress_->setFormat(phase);
    progress_->show();
    stop_->show();
    prove_->setEnabled(false);
  });
  connect(&bench_, &Workbench::proved, this, [this] {
    progress_->hide();
    stop_->hide();
    prove_->setEnabled(true);
    tell_result();
  });
}

void RehearsalView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  build();
}

void RehearsalView::set_side(const std::string& side) {
  if (side_ == side) return;
  side_ = side;
  stale_ = true;
  what_.reset();
  wood_->show_wood(nullptr);
  if (isVisible()) build();
}

namespace {

std::shared_ptr<Rehearsal> rehearse(const std::vector<ProgramText>& programs, const Rack& rack, const Setup& setup,
                                    double cell, Progress& progress) {
  auto score = read_score(programs, rack, setup);
  if (!score) return nullptr;
  auto made = std::make_shared<Rehearsal>(std::move(*score), setup, cell);
  if (!made->seek(made->score().seconds, &progress)) return nullptr;  // lays the keyframes
  return made;
}

/// One side; where another side of the same piece comes before, its programs run first, so that it is the same wood
/// that is turned over.
std::shared_ptr<const Rehearsed> rehearse_side_of(const Project& p, const Planned& planned, const std::string& id,
                                                  Progress& progress) {
  const auto programs = programs_of(p, planned, "");
  const Piece* piece = nullptr;
  const Side* side = nullptr;
  for (const Piece& one : planned.made.pieces)
    for (const Side& s : one.sides)
      if (side == nullptr || side->id != id) {
        piece = &one;
        side = &s;
      }
  if (side == nullptr) return nullptr;
  Setup setup = side->setup;
  double below = 1;  // into the waste board
  for (const BedHole& h : setup.bed_holes) below = std::max(below, h.depth);
  if (setup.blank.thickness <= 0) setup.blank.thickness = below;
  const double cell = std::max({picture_cell, setup.blank_size.y / 700, setup.blank_size.x / 1400});
  auto made = std::make_shared<Rehearsed>();
  made->setup = setup;
  made->deepest = setup.blank.thickness + 0.2;
  made->rehearsal = rehearse(texts_of(programs, side->id), planned.rack, setup, cell, progress);
  if (!made->rehearsal) return nullptr;
  if (const Side& first = piece->sides.front(); &first != side) {
    const auto before = rehearse(texts_of(programs, first.id), planned.rack, first.setup, cell, progress);
    if (!before) return nullptr;
    made->underside = underside_for(setup, made->rehearsal->stock(), first.setup, before->stock());
  }
  return made;
}

}  // namespace

void RehearsalView::build() {
  const auto planned = bench_.planned(bench_.part());
  if (!stale_ || !planned) return;
  stale_ = false;
  of_ = planned;
  build_.start([p = bench_.project(), planned,
                side = side_](Progress& progress) { return rehearse_side_of(p, *planned, side, progress); },
               [this](std::shared_ptr<const Rehearsed> made) {
                 what_ = std::move(made);
                 wood_->show_wood(what_);
                 show_share(wanted_share_);
               });
}

void RehearsalView::show_share(double share) {
  wanted_share_ = share;
  if (!what_) return build();
  const int value = static_cast<int>(std::lround(share * ticks));
  if (clock_->value() == value)
    moved(value);
  else
    clock_->setValue(value);
}

void RehearsalView::moved(int value) {
  wanted_share_ = static_cast<double>(value) / ticks;
  if (!what_) return;
  what_->rehearsal->seek(wanted_share_ * what_->rehearsal->score().seconds);
  wood_->refresh();
  tell();
}

void RehearsalView::tell() {
  if (!what_) return;
  const Rehearsal& rehearsal = *what_->rehearsal;
  const auto piece = rehearsal.piece();
  if (!piece) return;
  const Score& score = rehearsal.score();
  const QString cutter = piece->cutter >= 0
                             ? QString::fromStdString(score.cutters[static_cast<std::size_t>(piece->cutter)].id)
                             : tr("unknown cutter");
  const QString z = length_words(rehearsal.tip().z, bench_.units());
  now_->setText(tr("%1 of %2   %3   line %4   %5   z %6")
                    .arg(minutes(rehearsal.now()), minutes(score.seconds), cutter)
                    .arg(piece->line)
                    .arg(QString::fromStdString(score.programs[piece->program].name), z));
}

void RehearsalView::tell_result() {
  QString text;
  QString errors;
  const auto mm = [&](double v) {
    return bench_.units() == UnitSystem::inch ? decimal(v / mm_per_inch, 4) + QStringLiteral(" in")
                                              : length_words(v, UnitSystem::millimetre);
  };
  const auto verdict = [](Verdict v) {
    const QString words = QString::fromLatin1(verdict_words(v)).toLower();
    return v == Verdict::proved ? tr("<b style='color:%1'>✓ %2</b>").arg(colours().lichen.name(), words)
                                : tr("<b style='color:%1'>✗ %2</b>").arg(colours().rowan.name(), words);
  };
  if (const auto proof = bench_.proof(bench_.part())) {
    int tabs = 0;
    double skin = 1e9;
    for (const PieceProof& p : proof->pieces) {
      tabs += p.result.tabs;
      skin = std::min(skin, p.result.least_skin);
    }
    text = verdict(proof->verdict()) +
           tr("   gouge %1, left %2, %3 tabs").arg(mm(proof->worst_gouge), mm(proof->worst_left)).arg(tabs);
    if (proof->worst_loose > 0) text += tr(", left in the glue %1").arg(mm(proof->worst_loose));
    if (proof->pieces.size() > 1) text += tr(", %1 pieces").arg(proof->pieces.size());
    if (skin < 1e8) text += tr(", skin over the rod %1").arg(mm(skin));
    const bool inch = bench_.units() == UnitSystem::inch;
    QStringList under;
    for (const auto& [label, figures] : error_lines(*proof)) {
      QStringList values;
      for (const Words::Inset& figure : figures.insets()) {
        const double v = std::get<Mm>(figure).value;
        values << decimal(inch ? v / mm_per_inch : v, inch ? 3 : 2);
      }
      // A figure stays together where the line is broken.
      QString figure =
          QString::fromStdString(label).toLower() + QStringLiteral(" ") + values.join(QStringLiteral(" / "));
      under << figure.replace(QLatin1Char(' '), QChar(QChar::Nbsp));
    }
    if (!under.isEmpty())
      errors = tr("As drawn / likely worst / worst:  %1\u00a0%2")
                   .arg(under.join(QStringLiteral("   ")), inch ? tr("in") : tr("mm"));
  } else if (const auto planned = bench_.planned(bench_.part())) {
    text = (planned->cuts.sides.size() == 1 ? tr("%1 side, %2 in all") : tr("%1 sides, %2 in all"))
               .arg(planned->cuts.sides.size())
               .arg(minutes(planned->cuts.seconds));
  }
  result_->setText(text);
  errors_->setText(errors);
  errors_->setVisible(!errors.isEmpty());
}

}  // namespace wren::app
