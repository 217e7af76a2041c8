// The log of runs, and what they say about times.
#include <fmt/format.h>

#include "core/record/session.hpp"
#include "core/units/plain_number.hpp"

namespace wren {
namespace {

constexpr const char* columns =
    "id, began, ended, instrument, project, part, piece, side, program, sha256, cutter, cuts, machine, signed_by, "
    "proved_for, outcome, air, planned_s, real_s, lines, done, from_line, feed_low, feed_high";

std::uint32_t count(const soci::row& r, std::size_t k) {
  return static_cast<std::uint32_t>(std::max(0, r.get<int>(k)));
}

Run run_from(const soci::row& r) {
  Run out;
  std::size_t k = 0;
  for (std::string* text :
       {&out.id, &out.began, &out.ended, &out.instrument, &out.project, &out.part, &out.piece, &out.side, &out.program,
        &out.sha256, &out.cutter, &out.cuts, &out.machine, &out.signed_by, &out.proved_for, &out.outcome})
    *text = r.get<std::string>(k++);
  out.air = r.get<int>(16) != 0;
  out.planned_seconds = r.get<double>(17);
  out.real_seconds = r.get<double>(18);
  out.lines = count(r, 19);
  out.done = count(r, 20);
  out.from = count(r, 21);
  out.feed_low = r.get<double>(22);
  out.feed_high = r.get<double>(23);
  return out;
}

void read_events(soci::session& sql, Run& run) {
  soci::rowset<soci::row> rows =
      (sql.prepare << "SELECT seconds, kind, line, words FROM run_event WHERE run = :r ORDER BY n", soci::use(run.id));
  for (const soci::row& r : rows)
    run.events.push_back({r.get<double>(0), r.get<std::string>(1), count(r, 2), r.get<std::string>(3)});
}

void insert_event(soci::session& sql, const std::string& run, int n, const RunEvent& e) {
  const int line = static_cast<int>(std::min<std::uint32_t>(e.line, 2'000'000'000U));
  sql << "INSERT INTO run_event VALUES (:r, :n, :s, :k, :l, :w)", soci::use(run), soci::use(n), soci::use(e.seconds),
      soci::use(e.kind), soci::use(line), soci::use(e.words);
}

}  // namespace

Expected<void> ShopBook::write(const Run& run) {
  if (run.id.empty() || run.outcome.empty())
    return fail(ProblemKind::input, "a run without an id or an outcome", run.program, "Say how it ended");
  return in_one_step(*session_, [&]() -> Expected<void> {
    soci::session& sql = session_->sql;
    int there = 0;
    sql << "SELECT count(*) FROM run WHERE id = :i", soci::use(run.id), soci::into(there);
    if (there != 0) return {};
    const int air = run.air ? 1 : 0, lines = static_cast<int>(run.lines), done = static_cast<int>(run.done),
              from = static_cast<int>(run.from);
    const std::string text = fmt::format(
        "INSERT INTO run ({}) VALUES (:a, :b, :c, :d, :e, :f, :g, :h, :i, :j, :k, :l, :m, :n, :o, :p, :q, :r, :s, :t, "
        ":u, :v, :w, :x)",
        columns);
    sql << text, soci::use(run.id), soci::use(run.began), soci::use(run.ended), soci::use(run.instrument),
        soci::use(run.project), soci::use(run.part), soci::use(run.piece), soci::use(run.side), soci::use(run.program),
        soci::use(run.sha256), soci::use(run.cutter), soci::use(run.cuts), soci::use(run.machine),
        soci::use(run.signed_by), soci::use(run.proved_for), soci::use(run.outcome), soci::use(air),
        soci::use(run.planned_seconds), soci::use(run.real_seconds), soci::use(lines), soci::use(done), soci::use(from),
        soci::use(run.feed_low), soci::use(run.feed_high);
    int n = 0;
    for (const RunEvent& e : run.events) insert_event(sql, run.id, n++, e);
    return {};
  });
}

Expected<std::vector<Run>> ShopBook::runs(std::size_t most) {
  return looked_up(*session_, [&] {
    std::vector<Run> out;
    const int limit = static_cast<int>(std::min<std::size_t>(most, 1'000'000));
    {
      soci::rowset<soci::row> rows =
          (session_->sql.prepare << fmt::format("SELECT {} FROM run ORDER BY began DESC, rowid DESC LIMIT :m", columns),
           soci::use(limit));
      for (const soci::row& r : rows) out.push_back(run_from(r));
    }
    for (Run& r : out) read_events(session_->sql, r);
    return out;
  });
}

Expected<std::vector<Run>> ShopBook::runs_of(const std::string& sha256) {
  return looked_up(*session_, [&] {
    std::vector<Run> out;
    {
      soci::rowset<soci::row> rows =
          (session_->sql.prepare << fmt::format("SELECT {} FROM run WHERE sha256 = :h ORDER BY began DESC, rowid DESC",
                                                columns),
           soci::use(sha256));
      for (const soci::row& r : rows) out.push_back(run_from(r));
    }
    for (Run& r : out) read_events(session_->sql, r);
    return out;
  });
}

Expected<Run> ShopBook::run(const std::string& id) {
  auto found = looked_up(*session_, [&] {
    std::optional<Run> out;
    {
      soci::rowset<soci::row> rows =
          (session_->sql.prepare << fmt::format("SELECT {} FROM run WHERE id = :i", columns), soci::use(id));
      for (const soci::row& r : rows) out = run_from(r);
    }
    if (out) read_events(session_->sql, *out);
    return out;
  });
  if (!found) return tl::unexpected(found.error());
  if (!*found) return fail(ProblemKind::input, worded("there is no run '{}'", id), "", "List them: wren log");
  return std::move(**found);
}

Expected<void> ShopBook::note(const std::string& run, const Told& told, const std::string& words) {
  if (words.empty() || words.size() > 4000)
    return fail(ProblemKind::input, "a note has 1 to 4000 characters", run, "Say what happened");
  return in_one_step(*session_, [&]() -> Expected<void> {
    int there = 0, n = 0;
    session_->sql << "SELECT count(*) FROM run WHERE id = :i", soci::use(run), soci::into(there);
    if (there == 0) return fail(ProblemKind::input, worded("there is no run '{}'", run), "", "List them: wren log");
    session_->sql << "SELECT coalesce(max(n), -1) + 1 FROM run_event WHERE run = :i", soci::use(run), soci::into(n);
    insert_event(session_->sql, run, n, {0, "note", 0, fmt::format("{} {}: {}", told.at, told.who, words)});
    return {};
  });
}

Expected<std::vector<Pace>> ShopBook::paces() {
  return looked_up(*session_, [&] {
    std::vector<Pace> out;
    soci::rowset<soci::row> rows =
        session_->sql.prepare << "SELECT cutter, cuts, CAST(runs AS INTEGER), planned_s + 0.0, real_s + 0.0 FROM pace "
                                 "ORDER BY cutter, cuts";
    for (const soci::row& r : rows) {
      const auto number = [&](std::size_t k) {
        // A computed column has no declared type: the library then hands out text.
        return r.get_properties(k).get_data_type() == soci::dt_string ? plain_number(r.get<std::string>(k)).value_or(0)
                                                                      : r.get<double>(k);
      };
      const int runs = r.get_properties(2).get_data_type() == soci::dt_string ? std::atoi(r.get<std::string>(2).c_str())
                                                                              : r.get<int>(2);
      out.push_back({r.get<std::string>(0), r.get<std::string>(1), runs, number(3), number(4)});
    }
    return out;
  });
}

Expected<std::map<std::string, double>> ShopBook::seconds_cut() {
  return looked_up(*session_, [&] {
    std::map<std::string, double> out;
    soci::rowset<soci::row> rows = session_->sql.prepare << "SELECT cutter, real_s FROM run WHERE air = 0";
    for (const soci::row& r : rows) out[r.get<std::string>(0)] += r.get<double>(1);
    return out;
  });
}

}  // namespace wren
