#include "app/shop.hpp"

#include <fmt/format.h>

#include <QDateTime>

#include <algorithm>

#include <pwd.h>
#include <unistd.h>

namespace wren::app {

Shop::Shop(Workbench& bench, std::filesystem::path file, QObject* parent)
    : QObject(parent), bench_(bench), file_(std::move(file)) {
  connect(&bench_, &Workbench::changed, this, &Shop::tell_differences);
  connect(&bench_, &Workbench::shop_asked, this, [this](const QString& what, const QString& which) {
    const auto bad = what == QLatin1String("shop.keep")           ? keep_in_shop(which.toStdString())
                     : what == QLatin1String("shop.take_machine") ? take_machine()
                     : what == QLatin1String("shop.keep_machine") ? keep_machine()
                                                                  : take_into_project(which.toStdString());
    if (bad) Q_EMIT bench_.said(bench_.words(*bad), true);
  });
}

void Shop::set_file(std::filesystem::path file) {
  file_ = std::move(file);
  book_.reset();
  tried_ = false;
  look_again();
}

Told Shop::told() {
  const passwd* user = getpwuid(getuid());
  return {QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd HH:mm:ss")).toStdString(),
          user != nullptr && user->pw_name != nullptr ? user->pw_name : "unknown"};
}

bool Shop::there() {
  if (book_) return true;
  if (tried_ || file_.empty()) return false;
  tried_ = true;
  auto book = ShopBook::open(file_, ShopBook::Begin::only_if_there, told());
  if (!book) {
    trouble_ = book.error();
    return false;
  }
  if (auto bad = book->unsound()) {
    trouble_ = bad;
    return false;
  }
  book_.emplace(std::move(*book));
  trouble_.reset();
  return true;
}

std::optional<Problem> Shop::begin(ShopBook::Begin how, bool own) {
  auto book = ShopBook::open(file_, how, told());
  if (!book) return book.error();
  if (own) {
    for (const Cutter& c : bench_.project().rack)
      if (auto added = book->add(c, told(), "from " + bench_.project().name); !added) return added.error();
    ShopMachine machine;
    machine.machine = bench_.project().machine;
    if (auto put = book->put(machine, told()); !put) return put.error();
  }
  book_.reset();
  tried_ = false;
  look_again();
  return {};
}

void Shop::look_again() {
  cutters_.reset();
  machines_.reset();
  paces_.reset();
  materials_.reset();
  tell_differences();
  Q_EMIT changed();
}

const std::vector<Entry<Cutter>>& Shop::cutters() {
  if (!cutters_) {
    cutters_.emplace();
    if (there()) {
      if (auto all = book_->cutters())
        cutters_ = std::move(*all);
      else
        trouble_ = all.error();
    }
  }
  return *cutters_;
}

const std::vector<Entry<ShopMachine>>& Shop::machines() {
  if (!machines_) {
    machines_.emplace();
    if (there()) {
      if (auto all = book_->machines())
        machines_ = std::move(*all);
      else
        trouble_ = all.error();
    }
  }
  return *machines_;
}

std::vector<Run> Shop::runs(std::size_t most) {
  return there() ? book_->runs(most).value_or(std::vector<Run>{}) : std::vector<Run>{};
}

std::vector<Run> Shop::runs_of(const std::string& sha256) {
  return there() ? book_->runs_of(sha256).value_or(std::vector<Run>{}) : std::vector<Run>{};
}

const std::vector<Pace>& Shop::paces() {
  if (!paces_) paces_ = there() ? book_->paces().value_or(std::vector<Pace>{}) : std::vector<Pace>{};
  return *paces_;
}

const std::vector<Entry<Material>>& Shop::materials() {
  if (!materials_)
    materials_ = there() ? book_->materials().value_or(std::vector<Entry<Material>>{}) : std::vector<Entry<Material>>{};
  return *materials_;
}

std::map<std::string, double> Shop::seconds_cut() {
  return there() ? book_->seconds_cut().value_or(std::map<std::string, double>{}) : std::map<std::string, double>{};
}

std::vector<Entry<Cutter>> Shop::history_of(const std::string& cutter) {
  return there() ? book_->history_of(cutter).value_or(std::vector<Entry<Cutter>>{}) : std::vector<Entry<Cutter>>{};
}

std::optional<Problem> Shop::take_into_project(const std::string& id) {
  const auto& all = cutters();
  const auto it = std::find_if(all.begin(), all.end(), [&](const Entry<Cutter>& e) { return e.thing.id == id; });
  if (it == all.end()) return Problem{ProblemKind::input, "the shop has no cutter '" + id + "'", "", ""};
  Rack rack = bench_.project().rack;
  const auto mine = std::find_if(rack.begin(), rack.end(), [&](const Cutter& c) { return c.id == id; });
  for (const Cutter& c : rack)
    if (c.id != id && c.number == it->thing.number && c.number != 0)
      return Problem{ProblemKind::range, "T" + fmt::to_string(c.number) + " is " + c.id + " in this project", "",
                     "Take that one over first, or give one of them another number"};
  if (mine == rack.end())
    rack.push_back(it->thing);
  else
    *mine = it->thing;
  return bench_.change_rack(std::move(rack), worded("Take {} as the shop has it", id));
}

std::optional<Problem> Shop::keep_in_shop(const std::string& id) {
  const Cutter* mine = find_cutter(bench_.project().rack, id);
  if (mine == nullptr) return Problem{ProblemKind::input, "the project has no cutter '" + id + "'", "", ""};
  const Cutter cutter = *mine;
  const auto& all = cutters();
  const bool known =
      std::any_of(all.begin(), all.end(), [&](const Entry<Cutter>& e) { return e.thing.id == cutter.id; });
  const std::string note = "from " + bench_.project().name;
  return change([&](ShopBook& book) -> Expected<void> {
    return known ? book.change(cutter, told(), note) : book.add(cutter, told(), note);
  });
}

std::optional<Problem> Shop::take_machine() {
  for (const auto& e : machines())
    if (e.thing.machine.name == bench_.project().machine.name)
      return bench_.change_machine(e.thing.machine, "Take the machine as the shop has it");
  return Problem{ProblemKind::input, "the shop has no machine of this name", "", ""};
}

std::optional<Problem> Shop::keep_machine() {
  ShopMachine machine;
  for (const auto& e : machines())
    if (e.thing.machine.name == bench_.project().machine.name) machine = e.thing;
  machine.machine = bench_.project().machine;
  return change([&](ShopBook& book) { return book.put(machine, told()); });
}

void Shop::tell_differences() {
  if (telling_) return;
  telling_ = true;
  if (!paces_) bench_.set_paces(paces());
  std::vector<Remark> out;
  if (there()) {
    for (const RackDifference& d : rack_differences(bench_.project().rack, cutters())) {
      if (d.kind == RackDifference::Kind::not_in_project) continue;
      Remark r;
      r.kind = "rack.differs";
      r.weight = d.kind == RackDifference::Kind::differs ? Weight::think_again : Weight::worth_knowing;
      r.source = "the shop's book";
      r.place = "rack." + d.id + ".diameter";
      std::string what;
      for (const std::string& w : d.what) what += (what.empty() ? "" : "; ") + w;
      if (d.kind == RackDifference::Kind::differs) {
        r.sentence = d.id + " is not as the shop has it: " + what + ".";
        r.repair = Repair{"Take it as the shop has it", {{"shop.take", d.id}}};
        r.others = {Repair{"The shop's is to be as here", {{"shop.keep", d.id}}}};
      } else if (d.kind == RackDifference::Kind::retired_in_shop) {
        r.sentence = d.id + " is retired in the shop: plan with another, or bring it back there.";
        r.weight = Weight::think_again;
      } else {
        r.sentence = d.id + " is not in the shop's rack.";
        r.repair = Repair{"Put it into the shop's rack", {{"shop.keep", d.id}}};
      }
      out.push_back(std::move(r));
    }
  }
  for (const auto& e : machines()) {
    const Machine& mine = bench_.project().machine;
    if (e.thing.machine.name != mine.name || e.thing.machine == mine || !there()) continue;
    Remark r;
    r.kind = "machine.differs";
    r.weight = Weight::think_again;
    r.source = "the shop's book";
    r.place = "machine.name";
    r.sentence = mine.name + " has other numbers here than in the shop's book.";
    r.repair = Repair{"Take it as the shop has it", {{"shop.take_machine", mine.name}}};
    r.others = {Repair{"The shop's is to be as here", {{"shop.keep_machine", mine.name}}}};
    out.push_back(std::move(r));
  }
  bench_.set_more_remarks(std::move(out));
  telling_ = false;
}

}  // namespace wren::app
