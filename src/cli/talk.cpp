#include "cli/talk.hpp"

#include <chrono>
#include <iostream>

#include <fmt/format.h>
#include <unistd.h>

#include "cli/command.hpp"

namespace wren::cli {
namespace {

struct {
  bool quiet = false;
  bool document = false;
  bool read = false;
} talk;

constexpr std::size_t largest_stream = 512U << 20;

/// A folder of this call's own, gone with it.
Expected<std::shared_ptr<std::filesystem::path>> folder_of_its_own() {
  std::error_code error;
  std::string name = (std::filesystem::temp_directory_path(error) / "wren-XXXXXX").string();
  if (error || ::mkdtemp(name.data()) == nullptr)
    return fail(ProblemKind::file, "no folder can be made for what passes through", name, "Make room there");
  return std::shared_ptr<std::filesystem::path>(new std::filesystem::path(name), [](const auto* folder) {
    std::error_code ignored;
    std::filesystem::remove_all(*folder, ignored);
    delete folder;
  });
}

/// The ending of a drawing or table by its first bytes.
std::string ending_of(const std::string& text) {
  const std::string head = text.substr(0, 4096);
  if (head.find("%PDF-") != std::string::npos) return ".pdf";
  const auto first = head.find_first_not_of(" \t\r\n\xEF\xBB\xBF");
  if (first != std::string::npos && head[first] == '<') return ".svg";
  return head.find("SECTION") != std::string::npos ? ".dxf" : ".csv";
}

}  // namespace

void be_quiet() { talk.quiet = true; }
bool quiet() { return talk.quiet; }
void give_document() { talk.document = true; }

void say(const std::string& sentence) {
  if (!talk.quiet) (talk.document ? std::cerr : std::cout) << sentence << "\n";
}

void note(const std::string& sentence) {
  if (!talk.quiet) std::cerr << "wren: " << sentence << "\n";
}

void print(const std::string& schema, const Json& doc) {
  Json out{{"schema", "upland-wren-" + schema}, {"version", 1}};
  for (auto it = doc.begin(); it != doc.end(); ++it) out[it.key()] = it.value();
  std::cout << out.dump(1, ' ', false, Json::error_handler_t::replace) << "\n";
}

Expected<std::string> read_stream(std::size_t most) {
  if (std::exchange(talk.read, true))
    return fail(ProblemKind::input, "only one thing can be read from standard input", "-",
                "Name the other by its file");
  std::string text;
  char buffer[1 << 16];
  for (;;) {
    const ssize_t n = ::read(STDIN_FILENO, buffer, sizeof buffer);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return fail(ProblemKind::file, "standard input cannot be read", "-", "Give a file");
    if (n == 0) return text;
    text.append(buffer, static_cast<std::size_t>(n));
    if (text.size() > most)
      return fail(ProblemKind::range, fmt::format("it is longer than {} bytes", most), "standard input",
                  "Leave out what is not needed");
  }
}

Expected<std::string> read_text(const std::string& name, std::size_t most) {
  return is_stream(name) ? read_stream(most) : read_file(name, most);
}

Expected<Source> Source::of(const std::string& name) {
  Source source;
  source.path_ = name;
  if (!is_stream(name)) return source;
  auto text = read_stream(largest_stream);
  if (!text) return tl::unexpected(text.error());
  auto folder = folder_of_its_own();
  if (!folder) return tl::unexpected(folder.error());
  source.path_ = (**folder / ("standard input" + ending_of(*text))).string();
  source.kept_ = std::move(*folder);
  if (auto kept = write_export(source.path_, *text); !kept) return tl::unexpected(kept.error());
  return source;
}

Expected<Target> Target::of(const std::string& name, const std::string& ending) {
  Target target;
  target.path_ = name;
  if (!is_stream(name)) {
    if (auto may = may_export_to(name); !may) return tl::unexpected(may.error());
    return target;
  }
  auto folder = folder_of_its_own();
  if (!folder) return tl::unexpected(folder.error());
  give_document();
  target.path_ = (**folder / ("out" + ending)).string();
  target.kept_ = std::move(*folder);
  return target;
}

int Target::give() const {
  if (!kept_) return well;
  const auto bytes = read_file(path_, largest_stream);
  if (!bytes) return refuse(bytes.error());
  std::cout.write(bytes->data(), static_cast<std::streamsize>(bytes->size()));
  return well;
}

Meter::Meter(std::string what) : what_(std::move(what)) {
  if (talk.quiet || ::isatty(STDERR_FILENO) == 0) return;
  using Clock = std::chrono::steady_clock;
  progress_ =
      std::make_unique<Progress>([this, last = Clock::time_point()](double done, std::string_view phase) mutable {
        const auto now = Clock::now();
        if (now - last < std::chrono::milliseconds(100)) return;
        last = now;
        std::cerr << fmt::format("\r\x1b[K{}: {:3.0f} %  {}", what_, 100 * std::clamp(done, 0.0, 1.0), phase)
                  << std::flush;
      });
}

Meter::~Meter() {
  if (progress_) std::cerr << "\r\x1b[K" << std::flush;
}

}  // namespace wren::cli
