#include "core/proof/rehearsal.hpp"

#include <malloc.h>

#include <algorithm>
#include <cctype>
#include <tuple>

#include <fmt/format.h>

#include "core/plan/polyline.hpp"
#include "core/proof/text_rules.hpp"

namespace wren {
namespace {

constexpr double arc_chord = 0.002;  // mm
constexpr std::size_t most_chords = 6'000'000;
constexpr double merge_error = 0.001;  // mm: the whole error of merging collinear moves

/// A run of pieces that may be merged: same kind, feed, cutter.
struct Run {
  std::vector<Vec3> points;
  std::vector<std::uint32_t> lines;  // of the move that leads to each point
  ReadMove like;
};

void flush(Run& run, std::deque<float>& speeds, Motions& motions, const Motion& pattern, const MotionLimits& limits) {
  if (run.points.size() < 2) return;
  const std::vector<Vec3> kept = thinned(run.points, merge_error);
  double v = pattern.rapid ? limits.rapid : static_cast<double>(run.like.feed) / 60;
  if (run.like.kind == ReadKind::arc) {  // the chords of an arc are taken no faster than its curvature allows
    const double r = std::max({std::hypot(run.like.to.x - run.like.centre.x, run.like.to.y - run.like.centre.y) *
                                   (run.like.plane == Plane::xy ? 1 : 0),
                               std::hypot(run.like.to.z - run.like.centre.z, run.like.to.x - run.like.centre.x) *
                                   (run.like.plane == Plane::zx ? 1 : 0),
                               std::hypot(run.like.to.y - run.like.centre.y, run.like.to.z - run.like.centre.z) *
                                   (run.like.plane == Plane::yz ? 1 : 0)});
    v = std::min(v, std::sqrt(limits.acceleration * r));
  }
  std::size_t at = 0;  // of the points
  for (std::size_t i = 1; i < kept.size(); ++i) {
    Motion piece = pattern;
    piece.a = kept[i - 1];
    piece.b = kept[i];
    piece.line = run.lines[at + 1];
    while (at + 1 < run.points.size() && run.points[++at] != kept[i]) {
    }
    if (at + 1 == run.points.size()) at = run.points.size() - 2;  // what comes after it comes of the last line
    motions.push_back(piece);
    speeds.push_back(static_cast<float>(v));
  }
  run.points.erase(run.points.begin(), run.points.end() - 1);
  run.lines.erase(run.lines.begin(), run.lines.end() - 1);
}

/// Frees the moves, to the system where they are many: what was freed in small pieces the allocator would keep.
void give_back(ReadMoves& moves) {
  const bool many = moves.size() > 1'000'000;
  moves = {};
#ifdef __GLIBC__
  if (many) malloc_trim(0);
#else
  static_cast<void>(many);
#endif
}

Segments segments_of(const Motions& motions, std::size_t first, Vec3 start, const std::deque<float>& speeds) {
  Segments out;
  for (std::vector<float>* v : {&out.x, &out.y, &out.z, &out.speed}) v->reserve(speeds.size() + 1);
  const auto add = [&](Vec3 p, float speed) {
    out.x.push_back(static_cast<float>(p.x));
    out.y.push_back(static_cast<float>(p.y));
    out.z.push_back(static_cast<float>(p.z));
    out.speed.push_back(speed);
  };
  add(start, 0);
  for (std::size_t i = first; i < motions.size(); ++i) add(motions[i].b, speeds[i - first]);
  return out;
}

/// Where a hand acts within a program; `before` counts its read moves.
std::vector<HandStop> stops_of(const ReadProgram& program, std::uint16_t k, CutterChange change) {
  std::vector<HandStop> out;
  for (const ReadProgram::Pause& p : program.pauses)
    if (p.before_move > 0 && !p.optional) out.push_back({p.before_move, k, p.line, false});
  if (change == CutterChange::by_hand)
    for (std::size_t t = 1; t < program.tools.size(); ++t)
      if (program.tools[t].first_move > 0) out.push_back({program.tools[t].first_move, k, program.tools[t].line, true});
  std::stable_sort(out.begin(), out.end(), [](const HandStop& a, const HandStop& b) { return a.before < b.before; });
  return out;
}

}  // namespace

void Motions::push_back(const Motion& motion) {
  const auto same = [](const Motion& x, const Motion& y) {
    return std::tie(x.feed, x.rpm, x.program, x.cutter, x.rapid, x.spindle) ==
           std::tie(y.feed, y.rpm, y.program, y.cutter, y.rapid, y.spindle);
  };
  if (kept_.empty() || motion.a != kept_.back().b) starts_.emplace_back(kept_.size(), motion.a);
  if (said_.empty() || !same(said_.back(), motion)) {
    // What comes again soon, as the feed of a cut after a way down, is looked for among the last.
    constexpr std::ptrdiff_t lately = 16;
    const auto last = said_.end();
    const auto first = last - std::min<std::ptrdiff_t>(lately, last - said_.begin());
    if (const auto it = std::find_if(first, last, [&](const Motion& m) { return same(m, motion); }); it != last) {
      kept_.push_back({motion.b, 0, motion.line, static_cast<std::uint32_t>(it - said_.begin())});
      return;
    }
    said_.push_back(motion);
  }
  kept_.push_back({motion.b, 0, motion.line, static_cast<std::uint32_t>(said_.size() - 1)});
}

Motion Motions::operator[](std::size_t i) const {
  const Kept& k = kept_[i];
  Motion out = said_[k.said];
  out.b = k.b;
  out.end = k.end;
  out.line = k.line;
  out.begin = i == 0 ? 0 : kept_[i - 1].end;
  // A program's first stands among few, and most motions are after the last of them.
  const auto start =
      std::lower_bound(starts_.begin(), starts_.end(), i, [](const auto& s, std::size_t at) { return s.first < at; });
  out.a = start != starts_.end() && start->first == i ? start->second : kept_[i - 1].b;
  return out;
}

namespace {

/// The longest of all waits under the blank's top, with their number; short ones by what they come to in one cut.
std::optional<Finding> waits_in_wood(const ReadProgram& program, const std::string& name) {
  constexpr double longest = 1;   // s
  constexpr double together = 3;  // s
  std::optional<Finding> out;
  const auto told = [&](const ReadProgram::Wait& w, double limit, Words text, std::size_t count) {
    out = Finding{"waits_in_wood", Weight::stop, std::move(text), name, w.line, w.at, w.seconds, limit, "M5", count};
  };
  for (const ReadProgram::Wait& w : program.waits) {
    if (w.at.z >= -0.05 || w.seconds <= longest) continue;
    const std::size_t count = out ? out->count + 1 : 1;
    if (!out || w.seconds > out->number)
      told(w, longest,
           worded("It waits {:.1f} s at {} in the wood while the cutter turns: that burns.", w.seconds, mm(w.at.z)),
           count);
    out->count = count;
  }
  if (!out && program.strewn.seconds > together)
    told(program.strewn, together,
         worded("It waits again and again in one cut while the cutter turns, {:.1f} s in all: that burns.",
                program.strewn.seconds),
         1);
  return out;
}

/// Whether all of a text is words as a program has them, each a letter and its number.
bool is_words(std::string_view text) {
  std::string dense;
  for (const char c : text)
    if (std::isspace(static_cast<unsigned char>(c)) == 0) dense += c;
  std::size_t k = 0;
  while (k < dense.size()) {
    if (std::isalpha(static_cast<unsigned char>(dense[k])) == 0) return false;
    const std::size_t number = ++k;
    while (k < dense.size() && (std::isdigit(static_cast<unsigned char>(dense[k])) != 0 ||
                                std::string_view("+-.").find(dense[k]) != std::string_view::npos))
      ++k;
    if (k == number) return false;
  }
  return !dense.empty();
}

/// M6: a comment behind a semicolon that is nothing but words. By NISTIR 6556 comments stand in parentheses;
/// what stands behind a semicolon a controller of that kind runs.
std::optional<Finding> words_behind_semicolons(std::string_view text, const std::string& name) {
  std::optional<Finding> out;
  std::uint32_t line = 0;
  while (!text.empty()) {
    ++line;
    const std::string_view one = text.substr(0, text.find('\n'));
    text.remove_prefix(std::min(text.size(), one.size() + 1));
    bool inside = false;
    std::size_t k = 0;
    for (; k < one.size() && (inside || one[k] != ';'); ++k) inside = one[k] == '(' || (inside && one[k] != ')');
    if (k >= one.size() || !is_words(one.substr(k + 1))) continue;
    if (out) {
      ++out->count;
      continue;
    }
    out = Finding{"unknown_word",
                  Weight::stop,
                  worded("Behind a semicolon stands what a controller that knows none runs as words ('{}'): a comment "
                         "stands in parentheses.",
                         std::string(one.substr(one.find(';'), 40))),
                  name,
                  line,
                  {},
                  0,
                  0,
                  "M6",
                  1};
  }
  return out;
}

/// How long the turning cutter stays at one place under the blank's top though it moves: going to and fro within half a
/// millimetre, or creeping, burns as standing still does.
class Lingering {
 public:
  void go(Vec3 to, const ReadMove& m) {
    const double l = distance(at_, to);
    const bool in_wood = m.spindle && m.feed > 0 && m.kind != ReadKind::rapid && std::max(at_.z, to.z) < -0.05;
    at_ = to;
    if (!in_wood) {
      anchor_.reset();
      return;
    }
    const double minutes_per_mm = 1 / static_cast<double>(m.feed);
    if (anchor_ && distance(*anchor_, to) <= place) {
      seconds_ += l * minutes_per_mm * 60;
    } else {
      seconds_ = std::min(l, place) * minutes_per_mm * 60;
      anchor_ = to;
    }
    if (seconds_ > longest_) {
      longest_ = seconds_;
      where_ = to;
      line_ = m.line;
    }
  }
  [[nodiscard]] std::optional<Finding> finding(const std::string& name) const {
    constexpr double most = 3;  // s
    if (longest_ <= most) return std::nullopt;
    return Finding{"waits_in_wood",
                   Weight::stop,
                   worded("It stays {:.1f} s within {} at {} in the wood while the cutter turns: that burns.", longest_,
                          mm(place), mm(where_.z)),
                   name,
                   line_,
                   where_,
                   longest_,
                   most,
                   "M5",
                   1};
  }

 private:
  static constexpr double place = 0.5;  // mm
  Vec3 at_{0, 0, 1e3};
  std::optional<Vec3> anchor_;
  double seconds_ = 0;
  double longest_ = 0;
  Vec3 where_;
  std::uint32_t line_ = 0;
};

}  // namespace

Expected<Score> read_score(const std::vector<ProgramText>& programs, const Rack& rack, const Setup& setup) {
  Score score;
  std::size_t chords = 0;
  const MotionLimits limits = motion_limits(setup.machine);
  std::map<std::string, std::int16_t> index;
  for (std::size_t k = 0; k < programs.size(); ++k) {
    const auto cutter_for = [&](int number) -> const Cutter* {
      for (const Cutter& c : rack)
        if (c.number == number && c.number != 0) return &c;
      return programs[k].cutter.empty() ? nullptr : find_cutter(rack, programs[k].cutter);
    };
    ReadOptions options;
    options.dwell_unit = setup.machine.controller.dwell == DwellUnit::seconds ? 1 : 0.001;
    options.machine_origin = [&](int number) {
      const Cutter* c = cutter_for(number);
      return machine_origin(setup, c != nullptr ? c->stickout : 0);
    };
    // Where it stands before it begins nobody knows; the clock takes it for parked.
    const Vec3 origin = options.machine_origin(0);
    options.start = {origin.x + setup.machine.park.x, origin.y + setup.machine.park.y, origin.z};
    auto read = read_program(programs[k].text.str(), programs[k].name, options);
    if (!read) return tl::unexpected(read.error());
    ProgramFacts facts;
    facts.name = programs[k].name;
    facts.lines = read->lines;
    facts.moves = read->moves.size();
    facts.sealed = read->sealed;
    facts.findings = text_findings(*read, programs[k].name, setup.machine, options.machine_origin);
    if (auto burnt = waits_in_wood(*read, programs[k].name)) facts.findings.push_back(std::move(*burnt));
    if (auto hidden = words_behind_semicolons(programs[k].text.str(), programs[k].name))
      facts.findings.push_back(std::move(*hidden));
    if (programs[k].sealed && !read->sealed)
      facts.findings.push_back({"unsealed",
                                Weight::stop,
                                "The last line with count and checksum is missing: what was lost, nobody knows.",
                                programs[k].name,
                                static_cast<std::uint32_t>(read->lines),
                                {},
                                0,
                                0,
                                "P2",
                                1});
    std::vector<std::int16_t> cutter_of(read->tools.size(), -1);
    for (std::size_t t = 0; t < read->tools.size(); ++t) {
      const Cutter* cutter = cutter_for(read->tools[t].number);
      if (cutter == nullptr) {
        const bool used = std::any_of(read->moves.begin(), read->moves.end(),
                                      [&](const ReadMove& m) { return m.tool == t && m.kind != ReadKind::rapid; });
        if (used) facts.unknown_tools.push_back(read->tools[t].number);
        continue;
      }
      const auto [it, fresh] = index.try_emplace(cutter->id, static_cast<std::int16_t>(score.cutters.size()));
      if (fresh) score.cutters.push_back(*cutter);
      cutter_of[t] = it->second;
      if (std::find(facts.cutters.begin(), facts.cutters.end(), cutter->id) == facts.cutters.end() &&
          std::any_of(read->moves.begin(), read->moves.end(), [&](const ReadMove& m) { return m.tool == t; }))
        facts.cutters.push_back(cutter->id);
    }
    const std::size_t first = score.motions.size();
    std::deque<float> speeds;  // mm/s, of the motions from `first` on
    Run run;
    run.points = {options.start};
    run.lines = {0};
    Motion pattern;
    pattern.program = static_cast<std::uint16_t>(k);
    Vec3 at = options.start;
    const auto same = [&](const ReadMove& m) {
      return m.kind == ReadKind::line && m.kind == run.like.kind && m.feed == run.like.feed &&
             m.tool == run.like.tool && m.spindle == run.like.spindle && m.rpm == run.like.rpm &&
             run.points.size() < 2000;
    };
    score.stops.push_back({first, pattern.program, 1, true});
    const std::vector<HandStop> stops = stops_of(*read, pattern.program, setup.machine.change);
    std::size_t next_stop = 0;
    Lingering lingering;
    for (std::size_t i = 0; i < read->moves.size(); ++i) {
      const ReadMove& m = read->moves[i];
      const bool stopped = next_stop < stops.size() && stops[next_stop].before <= i;
      if (stopped || !same(m)) {
        flush(run, speeds, score.motions, pattern, limits);
        run.like = m;
        pattern.rapid = m.kind == ReadKind::rapid;
        pattern.feed = m.feed;
        pattern.rpm = m.rpm;
        pattern.spindle = m.spindle;
        pattern.cutter = m.machine == tip_changed ? std::int16_t{-1} : cutter_of[m.tool];
      }
      for (; next_stop < stops.size() && stops[next_stop].before <= i; ++next_stop) {
        score.stops.push_back(stops[next_stop]);
        score.stops.back().before = score.motions.size();
      }
      if (m.kind == ReadKind::arc) {
        const std::size_t before = run.points.size();
        flatten_arc(at, m, arc_chord, run.points);
        chords += run.points.size() - before;
        run.lines.resize(run.points.size(), m.line);
        for (std::size_t n = before; n < run.points.size(); ++n) lingering.go(run.points[n], m);
        if (chords > most_chords)
          return fail(ProblemKind::input,
                      worded("its arcs mean more than {} million straight moves", most_chords / 1'000'000),
                      worded("{}, line {}", programs[k].name, m.line),
                      "Its arcs are far larger than any machine: write it again");
      } else {
        run.points.push_back(m.to);
        run.lines.push_back(m.line);
        lingering.go(m.to, m);
      }
      at = m.to;
      facts.low = {std::min(facts.low.x, at.x), std::min(facts.low.y, at.y), std::min(facts.low.z, at.z)};
      facts.high = {std::max(facts.high.x, at.x), std::max(facts.high.y, at.y), std::max(facts.high.z, at.z)};
      if (m.kind == ReadKind::rapid) flush(run, speeds, score.motions, pattern, limits);
    }
    flush(run, speeds, score.motions, pattern, limits);
    if (auto burnt = lingering.finding(programs[k].name)) facts.findings.push_back(std::move(*burnt));
    give_back(read->moves);  // ten million of them and their times would be too much at once
    const Segments path = segments_of(score.motions, first, options.start, speeds);
    speeds.clear();
    const std::vector<double> times = clock(path, limits);
    for (std::size_t i = first; i < score.motions.size(); ++i)
      score.motions.set_end(i, score.seconds + times[i - first + 1]);
    facts.seconds = times.back();
    score.seconds += times.back();
    score.programs.push_back(std::move(facts));
  }
  return score;
}

TileGrid fresh_stock(const Setup& setup, double cell) {
  const Vec2 size = setup.blank_size;
  TileGrid stock({setup.blank_corner.x, setup.blank_corner.y}, cell,
                 std::max(1, static_cast<int>(std::lround(size.x / cell))),
                 std::max(1, static_cast<int>(std::lround(size.y / cell))), 0.0F);
  if (setup.wood_top) {
    for (int j = 0; j < stock.height(); ++j)
      for (int i = 0; i < stock.width(); ++i) stock.at(i, j) = static_cast<float>(setup.untouched(stock.centre(i, j)));
    stock.refresh_all();
  }
  return stock;
}

Rehearsal::Rehearsal(Score score, const Setup& setup, double cell)
    : score_(std::move(score)), stock_(fresh_stock(setup, cell)) {
  for (const Cutter& c : score_.cutters) removers_.emplace_back(c);
  // Memory for keyframes is bounded: a few hundred megabytes at most.
  const double frames = std::clamp(300e6 / static_cast<double>(stock_.bytes()), 2.0, 40.0);
  key_step_ = std::max(1.0, score_.seconds / frames);
  keyframes_.push_back({0, 0, stock_});
}

void Rehearsal::cut(const Motion& piece, double from, double to) {
  if (piece.cutter < 0) return;
  const double l = piece.end - piece.begin;
  const double t0 = l > 0 ? (from - piece.begin) / l : 0;
  const double t1 = l > 0 ? (to - piece.begin) / l : 1;
  removers_[static_cast<std::size_t>(piece.cutter)].sweep(stock_, lerp(piece.a, piece.b, std::clamp(t0, 0.0, 1.0)),
                                                          lerp(piece.a, piece.b, std::clamp(t1, 0.0, 1.0)));
}

bool Rehearsal::seek(double seconds, Progress* progress) {
  seconds = std::clamp(seconds, 0.0, score_.seconds);
  if (seconds < now_) {
    auto key = std::upper_bound(keyframes_.begin(), keyframes_.end(), seconds,
                                [](double t, const Keyframe& k) { return t < k.seconds; });
    --key;
    stock_ = key->stock;
    next_ = key->next;
    now_ = key->seconds;
  }
  const double from = now_;
  std::size_t polled = 0;
  while (next_ < score_.motions.size() && score_.motions[next_].begin < seconds + 1e-12) {
    const Motion& piece = score_.motions[next_];
    const double to = std::min(seconds, piece.end);
    cut(piece, std::max(now_, piece.begin), to);
    now_ = std::max(now_, to);
    if (piece.end > seconds) break;
    ++next_;
    if (now_ >= keyframes_.back().seconds + key_step_) keyframes_.push_back({now_, next_, stock_});
    if (progress != nullptr && ++polled % 256 == 0 &&
        !progress->go_on((now_ - from) / std::max(1e-9, seconds - from), "cutting"))
      return false;
  }
  now_ = seconds;
  return true;
}

std::optional<Motion> Rehearsal::piece() const {
  if (score_.motions.empty()) return std::nullopt;
  return score_.motions[std::min(next_, score_.motions.size() - 1)];
}

Vec3 Rehearsal::tip() const {
  const std::optional<Motion> p = piece();
  if (!p) return {};
  const double l = p->end - p->begin;
  return lerp(p->a, p->b, l > 0 ? std::clamp((now_ - p->begin) / l, 0.0, 1.0) : 1);
}

}  // namespace wren
