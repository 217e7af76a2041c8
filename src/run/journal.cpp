#include "run/journal.hpp"

#include <algorithm>

#include <fcntl.h>
#include <unistd.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <zlib.h>

#include "core/units/plain_number.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;
constexpr std::size_t largest = std::size_t{64} << 20;

unsigned long crc_of(std::string_view text) {
  return crc32_z(0, reinterpret_cast<const Bytef*>(text.data()), text.size());
}

template <class R, class Each>
void each_text(R& run, Each each) {
  each("id", run.id);
  each("began", run.began);
  each("ended", run.ended);
  each("instrument", run.instrument);
  each("project", run.project);
  each("part", run.part);
  each("piece", run.piece);
  each("side", run.side);
  each("program", run.program);
  each("sha256", run.sha256);
  each("cutter", run.cutter);
  each("cuts", run.cuts);
  each("machine", run.machine);
  each("signed_by", run.signed_by);
  each("proved_for", run.proved_for);
}

std::string text_of(const Json& j, const char* key) {
  return j.contains(key) && j[key].is_string() ? j[key].get<std::string>() : std::string();
}
double number_of(const Json& j, const char* key) {
  return j.contains(key) && j[key].is_number() ? j[key].get<double>() : 0;
}
std::uint32_t count_of(const Json& j, const char* key) {
  return j.contains(key) && j[key].is_number_unsigned() ? j[key].get<std::uint32_t>() : 0;
}

}  // namespace

fs::path journal_folder(const fs::path& book) { return book.parent_path() / "runs"; }

Expected<Journal> Journal::begin(const fs::path& folder, const Run& run) {
  std::error_code failed;
  fs::create_directories(folder, failed);
  const fs::path file = folder / (run.id + ".journal");
  OpenFile out(::open(file.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_APPEND | O_CLOEXEC, 0644));
  if (!out)
    return fail(ProblemKind::file, "the run's journal cannot be begun", file.string(),
                "Make room, or look at your rights there: without a journal nothing is run");
  (void)out.lock();
  Journal journal(std::move(out), file);
  Json j{{"record", "run"}};
  each_text(run, [&](const char* key, const std::string& text) { j[key] = text; });
  j["air"] = run.air;
  j["planned_s"] = run.planned_seconds;
  j["lines"] = run.lines;
  j["from"] = run.from;
  if (!journal.put(j.dump(-1, ' ', false, Json::error_handler_t::replace), true)) {
    fs::remove(file, failed);
    return fail(ProblemKind::file, "the run's journal cannot be written", file.string(),
                "Make room: without a journal nothing is run");
  }
  sync_folder(folder);
  return journal;
}

bool Journal::put(const std::string& record, bool to_disk) {
  const std::string line = fmt::format("{} {:08x}\n", record, crc_of(record));
  std::size_t sent = 0;
  while (whole_ && sent < line.size()) {
    const ssize_t n = ::write(out_.fd(), line.data() + sent, line.size() - sent);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0)
      whole_ = false;
    else
      sent += static_cast<std::size_t>(n);
  }
  if (whole_ && to_disk && ::fdatasync(out_.fd()) != 0 && errno != EINVAL) whole_ = false;
  return whole_;
}

bool Journal::write(const RunEvent& e) {
  const Json j{{"record", "event"}, {"seconds", e.seconds}, {"kind", e.kind}, {"line", e.line}, {"words", e.words}};
  return put(j.dump(-1, ' ', false, Json::error_handler_t::replace), true);
}

bool Journal::progress(double seconds, std::uint32_t done) {
  const bool to_disk = seconds - synced_ >= 1;
  if (to_disk) synced_ = seconds;
  return put(Json{{"record", "done"}, {"seconds", seconds}, {"line", done}}.dump(), to_disk);
}

bool Journal::end(const std::string& outcome, const std::string& at, double seconds, std::uint32_t done) {
  const Json j{{"record", "end"}, {"outcome", outcome}, {"at", at}, {"seconds", seconds}, {"line", done}};
  return put(j.dump(-1, ' ', false, Json::error_handler_t::replace), true);
}

Expected<Run> replay(const fs::path& file) {
  const auto bytes = read_file(file, largest);
  if (!bytes) return tl::unexpected(bytes.error());
  Run run;
  bool begun = false, ended = false;
  std::string_view rest = *bytes;
  while (!rest.empty()) {
    const std::size_t end = rest.find('\n');
    if (end == std::string_view::npos || end < 10) break;  // cut short while it was written
    const std::string_view line = rest.substr(0, end), record = line.substr(0, end - 9);
    rest.remove_prefix(end + 1);
    if (fmt::format("{:08x}", crc_of(record)) != line.substr(end - 8)) break;
    const Json j = Json::parse(record, nullptr, false);
    if (!j.is_object()) break;
    const std::string kind = text_of(j, "record");
    if (kind == "run") {
      each_text(run, [&](const char* key, std::string& to) { to = text_of(j, key); });
      run.air = j.contains("air") && j["air"].is_boolean() && j["air"].get<bool>();
      run.planned_seconds = number_of(j, "planned_s");
      run.lines = count_of(j, "lines");
      run.from = count_of(j, "from");
      begun = true;
    } else if (kind == "event") {
      RunEvent e{number_of(j, "seconds"), text_of(j, "kind"), count_of(j, "line"), text_of(j, "words")};
      if (const auto feed = e.kind == "feed" ? plain_number(e.words) : std::nullopt) {
        run.feed_low = std::min(run.feed_low, *feed);
        run.feed_high = std::max(run.feed_high, *feed);
      }
      run.real_seconds = std::max(run.real_seconds, e.seconds);
      run.events.push_back(std::move(e));
    } else if (kind == "done" || kind == "end") {
      run.real_seconds = number_of(j, "seconds");
      run.done = count_of(j, "line");
      if (kind == "end") {
        ended = true;
        run.outcome = text_of(j, "outcome");
        run.ended = text_of(j, "at");
      }
    }
  }
  if (!begun || run.id.empty())
    return fail(ProblemKind::format, "the journal does not say what was run", file.string(),
                "Move it away; what the machine did only it can tell");
  if (!ended) {
    run.outcome = "unknown";
    run.ended = run.began;
    run.events.push_back(
        {run.real_seconds, "lost", run.done,
         fmt::format("the program that watched this run ended before it did; line {} was the last that "
                     "the machine had told",
                     run.done)});
  }
  return run;
}

Expected<std::vector<Run>> take_journals(const fs::path& folder, ShopBook& book) {
  std::vector<Run> lost;
  std::error_code failed;
  std::vector<fs::path> files;
  for (auto it = fs::directory_iterator(folder, failed); !failed && it != fs::end(it); it.increment(failed))
    if (it->path().extension() == ".journal") files.push_back(it->path());
  std::sort(files.begin(), files.end());
  for (const fs::path& file : files) {
    const OpenFile held(::open(file.c_str(), O_RDONLY | O_CLOEXEC));
    if (!held || !held.lock()) continue;  // its program lives
    auto run = replay(file);
    if (!run) {
      fs::rename(file, file.string() + ".damaged", failed);
      continue;
    }
    if (auto written = book.write(*run); !written) return tl::unexpected(written.error());
    if (run->outcome == "unknown") lost.push_back(std::move(*run));
    fs::remove(file, failed);
  }
  return lost;
}

}  // namespace wren
