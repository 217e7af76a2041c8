#include "app/preflight_dialog.hpp"

#include <algorithm>

#include <QHBoxLayout>
#include <QScrollArea>

#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/job/program_folder.hpp"

namespace wren::app {
namespace {

/// Takes all rows out. What is being pressed at the moment goes when that is over.
void clear(QVBoxLayout* rows) {
  while (QLayoutItem* item = rows->takeAt(0)) {
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
}

}  // namespace

PreflightDialog::PreflightDialog(Workbench& bench, Shop& shop, MachineDesk& desk, ProgramAtHand program,
                                 QWidget* parent)
    : QDialog(parent), bench_(bench), shop_(shop), desk_(desk), program_(std::move(program)) {
  setWindowTitle(tr("Before %1 runs").arg(QString::fromStdString(program_.entry.file)));
  resize(900, 700);
  const auto runs = shop_.runs_of(program_.entry.sha256);
  for (const Run& r : runs)
    if (!r.air) {
      if (r.outcome != "done") last_ = r;
      break;
    }
  auto* all = new QVBoxLayout(this);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget(scroll);
  auto* column = new QVBoxLayout(inside);
  const auto head = [&](const QString& text) {
    auto* label = new QLabel(QStringLiteral("<b>%1</b>").arg(text), inside);
    column->addWidget(label);
  };
  head(tr("What was looked at"));
  checks_ = new QVBoxLayout;
  column->addLayout(checks_);
  // A box's own words do not wrap: they stand beside it.
  const auto choice = [&](QCheckBox*& box, QLabel*& words) {
    auto* line = new QHBoxLayout;
    box = new QCheckBox(inside);
    words = new QLabel(inside);
    words->setWordWrap(true);
    line->addWidget(box);
    line->addWidget(words, 1);
    column->addLayout(line);
  };
  choice(air_, air_words_);
  choice(restart_, restart_words_);
  head(tr("What only you know"));
  questions_ = new QVBoxLayout;
  column->addLayout(questions_);
  column->addStretch(1);
  scroll->setWidget(inside);
  all->addWidget(scroll, 1);
  trouble_ = new QLabel(this);
  trouble_->setWordWrap(true);
  all->addWidget(trouble_);
  auto* row = new QHBoxLayout;
  row->addWidget(new QLabel(tr("Signed by"), this));
  name_ = new QLineEdit(QString::fromStdString(Shop::told().who), this);
  name_->setAccessibleName(tr("Signed by"));
  row->addWidget(name_, 1);
  auto* leave = new QPushButton(tr("Do not run it"), this);
  start_ = new QPushButton(tr("Run it"), this);
  start_->setObjectName(QStringLiteral("main"));
  row->addWidget(leave);
  row->addWidget(start_);
  all->addLayout(row);
  for (QPushButton* b : {leave, start_}) b->setAutoDefault(false);
  connect(leave, &QPushButton::clicked, this, &QDialog::reject);
  connect(start_, &QPushButton::clicked, this, &PreflightDialog::start);
  connect(air_, &QCheckBox::toggled, this, [this](bool on) {
    if (on) restart_->setChecked(false);
    ask_again();
    refresh();
  });
  connect(restart_, &QCheckBox::toggled, this, [this](bool on) {
    if (on) air_->setChecked(false);
    ask_again();
    refresh();
  });
  restart_->setVisible(last_.has_value());
  restart_words_->setVisible(last_.has_value());
  if (last_)
    restart_words_->setText(
        tr("Begin again where the last run stopped (line %1 was the last told as done)").arg(last_->done));
  connect(&desk_, &MachineDesk::changed, this, &PreflightDialog::refresh);
  connect(&desk_, &MachineDesk::said, this, [this](const QString& words, bool bad) {
    trouble_->setText(words);
    trouble_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().faint).name()));
  });
  refresh();
  restart_->setAccessibleName(restart_words_->text());
  // A first run of a program is an air pass.
  air_->setChecked(runs.empty() && air_->isEnabled());
  ask_again();
}

std::optional<double> PreflightDialog::raise() const {
  const auto& zero = desk_.state().zero;
  return zero ? air_raise(program_.entry, zero->z) : std::nullopt;
}

void PreflightDialog::ask_again() {
  clear(questions_);
  boxes_.clear();
  const double up = air_->isChecked() ? raise().value_or(0) : 0;
  std::vector<std::string> earlier;
  (void)shop_.change([&](ShopBook& book) -> Expected<void> {
    auto open = not_run_yet(program_, book);
    if (open) earlier = std::move(*open);
    return {};
  });
  auto all = to_ask(program_, up, earlier);
  if (restart_->isChecked()) {
    all.push_back({"same-wood", tr("Does the wood lie where it lay, and is it held?").toStdString(), false});
    all.push_back({"same-cutter", tr("Is the cutter whole, and has it not slipped?").toStdString(), false});
  }
  for (const Question& q : all) {
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 2, 0, 2);
    auto* box = new QCheckBox(row);
    box->setObjectName(QString::fromStdString(q.id));
    box->setAccessibleName(in_words(q.words));
    auto* words = new QLabel(in_words(q.words), row);
    words->setWordWrap(true);
    if (q.caution) words->setStyleSheet(QStringLiteral("font-weight: 600"));
    line->addWidget(box);
    line->addWidget(words, 1);
    connect(box, &QCheckBox::toggled, this, &PreflightDialog::refresh);
    questions_->addWidget(row);
    boxes_.push_back(box);
  }
}

void PreflightDialog::refresh() {
  const auto checks = looked_at(program_, desk_.state(), desk_.travel(), air_->isChecked());
  QString text;
  for (const Check& c : checks) text += in_words(c.words) + (c.well ? u'+' : u'-');
  text += desk_.busy() ? u'b' : u'.';
  const bool good = std::all_of(checks.begin(), checks.end(), [](const Check& c) { return c.well; });
  if (text != shown_) {
    shown_ = text;
    clear(checks_);
    const auto line = [&](const Check& c, const QString& deed, std::function<void()> run) {
      auto* row = new QWidget(this);
      auto* layout = new QHBoxLayout(row);
      layout->setContentsMargins(0, 2, 0, 2);
      auto* words = new QLabel((c.id.empty() ? QString::fromUtf8("•  ")
                                : c.well     ? QString::fromUtf8("✓  ")
                                             : QString::fromUtf8("✗  ")) +
                                   in_words(c.words),
                               row);
      words->setWordWrap(true);
      words->setStyleSheet(QStringLiteral("color: %1").arg((c.well ? colours().ink : colours().rowan).name()));
      layout->addWidget(words, 1);
      if (run) {
        auto* button = new QPushButton(deed, row);
        button->setAutoDefault(false);
        button->setEnabled(!desk_.busy());
        connect(button, &QPushButton::clicked, this, run);
        layout->addWidget(button);
      }
      checks_->addWidget(row);
    };
    const ManifestEntry entry = program_.entry;
    for (const Check& c : checks) {
      if (c.id == "homed" && !c.well)
        line(c, tr("Home it"), [this] {
          desk_.deed(tr("Homing"), [](Host& h) -> Expected<void> {
            if (h.last().word == "alarm")
              if (auto done = h.unlock(); !done) return done;
            if (auto done = h.home(); !done) return done;
            const auto there = h.settle(180);
            if (!there) return tl::unexpected(there.error());
            if (there->lost())
              return fail(ProblemKind::input, "it does not find home: " + there->why, "", "Look at its switches");
            return {};
          });
        });
      else if (c.id == "cutter" && !c.well && desk_.simulated() && !entry.cutters.empty())
        line(c, tr("Put it in"), [this, entry] {
          desk_.deed(tr("A hand puts the cutter in"),
                     [entry](Host& h) { return put_cutter(h, entry.cutters.front()); });
        });
      else if (c.id == "zero")
        line(c, tr("Set it by the sheet"), [this, entry] {
          zero_anew_ = true;
          desk_.deed(tr("Zero in x and y by the sheet"), [entry](Host& h) { return set_zero_by_sheet(h, entry); });
        });
      else
        line(c, {}, {});
    }
    if (!desk_.tells_lines()) {
      // A machine that tells little is set by its panel: what stands there is typed.
      line({"", true, tr("Zero in x and y, as the sheet has it.").toStdString()}, tr("Set it by the sheet"),
           [this, entry] {
             zero_anew_ = true;
             desk_.deed(tr("Zero in x and y by the sheet"), [entry](Host& h) { return set_zero_by_sheet(h, entry); });
           });
      if (z_can_be_set(program_)) type_z_row(entry);
    } else if (desk_.state().known && desk_.state().idle() && !desk_.state().word.empty()) {
      if (const auto may = z_can_be_set(program_); !may)
        line({"", true, may.error().text()}, {}, {});
      else
        line({"", true,
              entry.probe.place ? tr("z is probed at x %1 y %2.")
                                      .arg(entry.probe.place->at.x)
                                      .arg(entry.probe.place->at.y)
                                      .toStdString()
                                : tr("z is set as the sheet says.").toStdString()},
             tr("Probe z there"), [this, entry] {
               z_anew_ = true;
               desk_.deed(tr("Probing z"), [entry](Host& h) -> Expected<void> {
                 auto z = probe_z(h, entry);
                 if (!z) return tl::unexpected(z.error());
                 return {};
               });
             });
      if (desk_.simulated()) {
        const bool turned = entry.matrix.size() == 16 && entry.matrix[10] < 0;
        line({"", true, tr("At the simulated machine a hand lays the wood.").toStdString()},
             turned ? tr("Turn it over") : tr("Lay a fresh blank"), [this, entry, turned] {
               const auto manifest = read_file(program_.file.parent_path() / "manifest.json", std::size_t{64} << 20);
               std::optional<ManifestEntry> first;
               if (manifest)
                 if (const auto entries = read_manifest(*manifest, "manifest.json"))
                   for (const ManifestEntry& e : *entries)
                     if (!first && e.piece == entry.piece && e.side != entry.side) first = e;
               desk_.deed(turned ? tr("The wood is turned over") : tr("The blank is laid"),
                          [entry, turned, first](Host& h) {
                            return turned && first ? turn_blank(h, *first, entry) : lay_blank(h, entry);
                          });
             });
      }
    }
  }
  const auto up = raise();
  air_->setEnabled(up.has_value());
  air_words_->setText(up ? tr("First through air, raised by %1").arg(length_words(*up, bench_.units(), 1))
                         : tr("No air pass: nothing can be raised (set zero first, or there is no room)"));
  air_->setAccessibleName(air_words_->text());
  const bool ticked = std::all_of(boxes_.begin(), boxes_.end(), [](const QCheckBox* b) { return b->isChecked(); });
  start_->setEnabled(good && ticked && !desk_.busy() && !prove_.busy() && !name_->text().trimmed().isEmpty());
  start_->setText(air_->isChecked()       ? tr("Run it through air")
                  : restart_->isChecked() ? tr("Begin again there")
                                          : tr("Run it"));
}

void PreflightDialog::type_z_row(const ManifestEntry& entry) {
  auto* row = new QWidget(this);
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 2, 0, 2);
  auto* words = new QLabel(entry.probe.place ? tr("z: probe at x %1 y %2 by the panel, and type the machine's z there.")
                                                   .arg(entry.probe.place->at.x)
                                                   .arg(entry.probe.place->at.y)
                                             : tr("z: find it as the sheet says, and type the machine's z there."),
                           row);
  words->setWordWrap(true);
  auto* edit = new QLineEdit(row);
  edit->setAccessibleName(tr("The machine's z where it was probed"));
  edit->setPlaceholderText(tr("as its panel shows it"));
  auto* button = new QPushButton(tr("Set z"), row);
  button->setAutoDefault(false);
  button->setEnabled(!desk_.busy());
  connect(button, &QPushButton::clicked, this, [this, edit, entry] {
    const auto z = parse_length(edit->text().toStdString(), bench_.units());
    if (!z) {
      trouble_->setText(bench_.words(z.error()));
      trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
      return;
    }
    z_anew_ = true;
    desk_.deed(tr("z by the panel's number"), [entry, z = *z](Host& h) -> Expected<void> {
      auto set = type_z(h, entry, z);
      if (!set) return tl::unexpected(set.error());
      return {};
    });
  });
  layout->addWidget(words, 1);
  layout->addWidget(edit);
  layout->addWidget(button);
  checks_->addWidget(row);
}

void PreflightDialog::start() {
  const auto refuse = [this](const Problem& p) {
    trouble_->setText(bench_.words(p));
    trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
  };
  if (const auto same = still_the_same(program_); !same) return refuse(same.error());
  if (!restart_->isChecked()) return begin(program_.text, 1);
  const auto planned = bench_.planned(program_.entry.part);
  if (!planned) return refuse({ProblemKind::input, "the part is still being planned", "", "Try again in a moment"});
  const auto restart = restart_of(program_, *last_, desk_.state(), {true, true, z_anew_, zero_anew_});
  if (!restart) return refuse(restart.error());
  auto set = read_folder(program_.file.parent_path(), *planned);
  if (!set) return refuse(set.error());
  trouble_->setText(tr("Its way in is being proved…"));
  start_->setEnabled(false);
  prove_.start(
      [planned, set = *set, file = program_.entry.file, restart = *restart](Progress& progress) {
        Planned own = *planned;
        take_probes(set, own);
        return prove_restart(own, set.programs, file, restart, &progress);
      },
      [this, restart = *restart, refuse](Expected<std::vector<Finding>> findings) {
        if (!findings) return refuse(findings.error());
        if (!findings->empty())
          return refuse({ProblemKind::input, "the way in is not proved: " + findings->front().text, "",
                         "Run it from its beginning"});
        begin(restart.text, restart.line);
      });
}

void PreflightDialog::begin(std::string text, std::uint32_t from) {
  RunRequest r;
  r.id = random_name();
  const Told told = Shop::told();
  r.began = told.at;
  r.text = std::move(text);
  r.facts = facts_of(program_, bench_.project().record.id, desk_.address(),
                     name_->text().trimmed().toStdString() + ", " + told.at);
  for (const auto& m : shop_.machines())
    if (m.thing.address == desk_.address()) r.facts.machine = m.thing.machine.name;
  r.facts.from = from;
  r.planned_seconds = r.facts.planned_seconds;
  r.journals = journal_folder(shop_.file());
  if (air_->isChecked()) r.raise = raise().value_or(0);
  request_ = std::move(r);
  accept();
}

}  // namespace wren::app
