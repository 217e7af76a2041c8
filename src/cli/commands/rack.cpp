// rack: the shop's cutters, with what became of them.
#include <algorithm>

#include "cli/shop.hpp"

namespace wren::cli {
namespace {

struct Call {
  std::string shop, begin, add, like, change, retire, bring_back, history, from, into, compare, backup, restore, note;
  std::vector<std::string> numbers;
  bool json = false;
};

Json cutter_json(const Entry<Cutter>& e, double seconds) {
  Project project;
  project.rack = {e.thing};
  Json numbers = Json::object();
  for (const Field& f : cutter_fields()) numbers[f.key] = field_text(f, f.get(project));
  return {{"id", e.thing.id}, {"retired", e.retired},        {"at", e.told.at},   {"who", e.told.who}, {"what", e.what},
          {"note", e.note},   {"minutes_cut", seconds / 60}, {"numbers", numbers}};
}

int list(ShopBook& book, const Call& call) {
  const auto all = book.cutters();
  if (!all) return refuse(all.error());
  const auto seconds = book.seconds_cut();
  if (!seconds) return refuse(seconds.error());
  const auto cut = [&](const std::string& id) {
    const auto it = seconds->find(id);
    return it == seconds->end() ? 0.0 : it->second;
  };
  if (call.json) {
    Json rows = Json::array();
    for (const Entry<Cutter>& e : *all) rows.push_back(cutter_json(e, cut(e.thing.id)));
    print("rack", {{"file", book.file().string()}, {"cutters", rows}});
    return well;
  }
  fmt::print("{:>4} {:<18} {:<11} {:>8} {:>9} {:>7} {:>8} {:>9}  {}\n", "T", "cutter", "kind", "mm", "measured",
             "flutes", "stickout", "cut min", "since");
  for (const Entry<Cutter>& e : *all)
    fmt::print("{:>4} {:<18} {:<11} {:>8.3f} {:>9} {:>7.1f} {:>8.1f} {:>9.1f}  {} {}{}\n", e.thing.number,
               e.thing.id + (e.retired ? " (retired)" : ""), cutter_kind_name(e.thing.kind), e.thing.diameter,
               e.thing.measured ? fmt::format("{:.3f}", *e.thing.measured) : "-", e.thing.cutting_length,
               e.thing.stickout, cut(e.thing.id) / 60, e.told.at.substr(0, 10), e.what,
               e.note.empty() ? "" : ": " + e.note);
  return well;
}

int tell_history(ShopBook& book, const Call& call) {
  const auto all = book.history_of(call.history);
  if (!all) return refuse(all.error());
  if (all->empty())
    return refuse(
        {ProblemKind::input, fmt::format("the shop has no cutter '{}'", call.history), "", "List them: wren rack"});
  Json rows = Json::array();
  const auto fields = cutter_fields();
  for (std::size_t i = 0; i < all->size(); ++i) {
    const Entry<Cutter>& e = (*all)[i];
    rows.push_back(cutter_json(e, 0));
    if (call.json) continue;
    std::string what;
    if (i > 0) {
      Project was, is;
      was.rack = {(*all)[i - 1].thing};
      is.rack = {e.thing};
      for (const Field& f : fields)
        if (const auto a = field_text(f, f.get(was)), b = field_text(f, f.get(is)); a != b)
          what += fmt::format("{}{} {} -> {}", what.empty() ? "" : ", ", f.key, a, b);
    }
    fmt::print("{} {:<12} {:<12} {}{}\n", e.told.at, e.told.who, e.what, what,
               e.note.empty() ? "" : " (" + e.note + ")");
  }
  if (call.json) print("cutter-history", {{"cutter", call.history}, {"facts", rows}});
  return well;
}

/// How a project's copy and the shop's rack differ; with the ways out that were asked for.
int with_project(ShopBook& book, const Call& call) {
  const std::string file = !call.from.empty() ? call.from : !call.into.empty() ? call.into : call.compare;
  auto job = load_job(file, first_part());
  if (!job) return refuse(job.error());
  const auto shop = book.cutters();
  if (!shop) return refuse(shop.error());
  const auto differences = rack_differences((*job)->project().rack, *shop);
  if (!call.compare.empty()) {
    Json rows = Json::array();
    for (const RackDifference& d : differences) {
      const char* kind = d.kind == RackDifference::Kind::differs           ? "differs"
                         : d.kind == RackDifference::Kind::not_in_shop     ? "not in the shop"
                         : d.kind == RackDifference::Kind::retired_in_shop ? "retired in the shop"
                                                                           : "not in the project";
      rows.push_back({{"cutter", d.id}, {"kind", kind}, {"what", d.what}});
      if (!call.json) fmt::print("{:<18} {:<20} {}\n", d.id, kind, fmt::join(d.what, "; "));
    }
    if (call.json) print("rack-differences", {{"differences", rows}});
    return well;
  }
  if (!call.from.empty()) {
    int taken = 0;
    for (const RackDifference& d : differences) {
      Expected<void> done;
      if (d.kind == RackDifference::Kind::not_in_shop)
        done = book.add(d.here, told(), "from " + (*job)->project().name);
      else if (d.kind == RackDifference::Kind::differs)
        done = book.change(d.here, told(), "from " + (*job)->project().name);
      else
        continue;
      if (!done) return refuse(done.error());
      ++taken;
    }
    say(fmt::format("{} of the project's cutters are the shop's now", taken));
    return well;
  }
  const auto rack = book.rack();
  if (!rack) return refuse(rack.error());
  return change_project(call.into, "rack", [&](Project& project) -> std::optional<Problem> {
    // What the project names and the shop has retired stays: its programs were planned with it.
    Rack next = *rack;
    for (const Cutter& c : project.rack)
      if (find_cutter(next, c.id) == nullptr) {
        for (Cutter& other : next)
          if (other.number == c.number) other.number = 0;
        next.push_back(c);
      }
    project.rack = std::move(next);
    return {};
  });
}

int run(const Call& call) {
  if (!call.restore.empty()) {
    if (auto done = restore_book(call.restore, shop_of(call.shop), told()); !done) return refuse(done.error());
    say("the shop's book is " + call.restore + " now; what it was stands beside it, its name with .before");
    return well;
  }
  if (!call.begin.empty() && std::filesystem::exists(shop_of(call.shop)))
    return refuse({ProblemKind::file, "there is a shop's book already", shop_of(call.shop).string(),
                   "Use it, or name another with --shop"});
  auto book = open_shop(call.shop, call.begin == "demo"      ? ShopBook::Begin::demo_shop
                                   : call.begin == "general" ? ShopBook::Begin::general_rack
                                   : call.begin == "empty"   ? ShopBook::Begin::empty
                                                             : ShopBook::Begin::only_if_there);
  if (!book) return refuse(book.error());
  if (!call.backup.empty()) {
    if (auto done = book->backup(call.backup); !done) return refuse(done.error());
    say("kept as " + call.backup);
    return well;
  }
  if (!call.history.empty()) return tell_history(*book, call);
  if (!call.from.empty() || !call.into.empty() || !call.compare.empty()) return with_project(*book, call);
  Expected<void> done;
  if (!call.add.empty() || !call.change.empty()) {
    const auto edits = edits_of(call.numbers);
    if (!edits) return wrong_call(edits.error());
    const std::string like = call.add.empty() ? call.change : call.like;
    const auto all = book->cutters();
    if (!all) return refuse(all.error());
    Cutter cutter;
    if (!like.empty()) {
      const auto it =
          std::find_if(all->begin(), all->end(), [&](const Entry<Cutter>& e) { return e.thing.id == like; });
      if (it == all->end())
        return refuse(
            {ProblemKind::input, fmt::format("the shop has no cutter '{}'", like), "", "List them: wren rack"});
      cutter = it->thing;
    }
    if (!call.add.empty()) {
      cutter.id = call.add;
      if (!like.empty()) cutter.measured.reset();  // another piece of steel has sizes of its own
      if (!like.empty()) cutter.lengths_measured = false;
      cutter.number = 0;
      for (const Entry<Cutter>& e : *all) cutter.number = std::max(cutter.number, e.thing.number);
      ++cutter.number;
    }
    const auto made = with_numbers(cutter, *edits);
    if (!made) return refuse(made.error());
    done = call.add.empty() ? book->change(*made, told(), call.note) : book->add(*made, told(), call.note);
  } else if (!call.numbers.empty()) {
    return wrong_call({ProblemKind::input, "numbers without a cutter", "", "Say --add NAME or --change NAME"});
  } else if (!call.retire.empty() || !call.bring_back.empty()) {
    done = call.retire.empty() ? book->retire(call.bring_back, false, told()) : book->retire(call.retire, true, told());
  } else {
    return list(*book, call);
  }
  return done ? static_cast<int>(well) : refuse(done.error());
}

}  // namespace

Command add_rack(CLI::App& app) {
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("rack", "The shop's cutters: list, add, change, measure, retire; with their history");
  parser->add_option("NUMBERS", call->numbers, "KEY=VALUE of --add or --change, as in a field of the window")
      ->type_name("KEY=VALUE");
  add_shop(parser, call->shop);
  one_of(parser->add_option("--new", call->begin,
                            "Make the shop's book: with a small rack to check against your own, "
                            "with the demo shop's, or empty"),
         {"general", "demo", "empty"});
  auto* add = parser->add_option("--add", call->add, "A new cutter, by its name")->type_name("NAME");
  parser->add_option("--like", call->like, "Its numbers begin like this one's")->type_name("CUTTER")->needs(add);
  parser->add_option("--change", call->change, "From now on its numbers are these")->type_name("CUTTER");
  parser->add_option("--note", call->note, "Why, for the record")->type_name("WORDS");
  parser->add_option("--retire", call->retire, "It is worn, or broken, or gone")->type_name("CUTTER");
  parser->add_option("--bring-back", call->bring_back, "A retired one is in use again")->type_name("CUTTER");
  parser->add_option("--history", call->history, "All that became of it")->type_name("CUTTER");
  parser->add_option("--compare", call->compare, "Where a project's copy differs")->type_name("PROJECT");
  parser->add_option("--from", call->from, "A project's cutters become the shop's")->type_name("PROJECT");
  parser->add_option("--into", call->into, "The shop's cutters become a project's")->type_name("PROJECT");
  parser->add_option("--backup", call->backup, "Keep a whole copy of the shop's book")->type_name("FILE");
  parser->add_option("--restore", call->restore, "A copy takes the book's place")->type_name("FILE");
  add_json(parser, call->json);
  return {parser, [call] { return run(*call); }};
}

}  // namespace wren::cli
