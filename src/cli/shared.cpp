#include <clocale>
#include <ctime>
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include "cli/command.hpp"
#include "core/program/manifest.hpp"
#include "core/words/catalogue.hpp"

namespace wren::cli {

const Audience& audience() {
  static const Catalogue catalogue = [] {
    std::setlocale(LC_MESSAGES, "");
    std::error_code error;
    const auto here = std::filesystem::read_symlink("/proc/self/exe", error);
    return Catalogue(here.parent_path() / "../share/locale");
  }();
  static const Audience made{UnitSystem::millimetre, '.', &catalogue};
  return made;
}

int refuse(const Problem& problem) {
  std::cerr << "wren: " << problem.text(audience()) << "\n";
  return bad_input;
}

int wrong_call(const Problem& problem) {
  refuse(problem);
  return bad_call;
}

std::string shell_word(const std::string& word) {
  constexpr const char* plain = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789._-/=+:,@%";
  if (!word.empty() && word.find_first_not_of(plain) == std::string::npos) return word;
  std::string out = "'";
  for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

namespace {

std::string time_text(std::time_t time, const char* format) {
  std::tm parts{};
  localtime_r(&time, &parts);
  char text[32];
  std::strftime(text, sizeof text, format, &parts);
  return text;
}

}  // namespace

std::string today() {
  std::time_t now = std::time(nullptr);
  if (const char* fixed = std::getenv("SOURCE_DATE_EPOCH"))
    now = static_cast<std::time_t>(std::strtoll(fixed, nullptr, 10));
  return time_text(now, "%Y-%m-%d");
}

std::string new_digits(const std::string& of) {
  if (std::getenv("SOURCE_DATE_EPOCH") != nullptr) return sha256_hex(of).substr(0, 32);
  return random_name() + random_name();
}

Holder holder(const std::string& command) {
  return {"wren " + command, time_text(std::time(nullptr), "%Y-%m-%d %H:%M")};
}

Expected<std::unique_ptr<Job>> load_job(const std::string& file, const std::string& part) {
  auto job = std::make_unique<Job>();
  job->file = file;
  job->kind = all_parts().find(part);
  if (job->kind == nullptr)
    return fail(ProblemKind::unsupported, fmt::format("there is no part called '{}'", part), "--part",
                "Choose " + all_parts().names());
  std::vector<std::string> notes;
  const auto from_stream = [&]() -> Expected<Project> {
    const auto text = read_stream(largest_project);
    if (!text) return tl::unexpected(text.error());
    return project_from_json(*text, "standard input", &notes);
  };
  auto project = is_stream(file) ? from_stream() : load_project(file, &notes);
  if (!project) return tl::unexpected(project.error());
  for (const auto& n : notes) note(n);
  job->followed = follow(all_parts(), std::move(*project), job->cache);
  return job;
}

namespace {

Expected<std::unique_ptr<Job>> with_design(Expected<std::unique_ptr<Job>> job, const std::string& part) {
  if (job)
    if (const auto it = (*job)->followed.problems.find(part); it != (*job)->followed.problems.end())
      return tl::unexpected(it->second);
  return job;
}

}  // namespace

Expected<std::unique_ptr<Job>> load_designed(const std::string& file, const std::string& part) {
  return with_design(load_job(file, part), part);
}

Expected<Planned> plan_of(Job& job) {
  Meter meter("planning");
  return plan(*job.kind, job.followed, job.cache, meter.progress());
}

Expected<std::unique_ptr<Job>> designed(Project project, const std::string& part) {
  auto job = std::make_unique<Job>();
  job->kind = all_parts().find(part);
  job->followed = follow(all_parts(), std::move(project), job->cache);
  return with_design(std::move(job), part);
}

namespace {

/// A part that fails only because one it is made from does is not told again.
void tell_what_fails(const Followed& now) {
  for (const PartKind& kind : all_parts().kinds())
    if (const auto it = now.problems.find(kind.id()); it != now.problems.end()) {
      note(fmt::format("saved, but no {} follows from these numbers: {}", kind.id(), it->second.text()));
      return;
    }
}

using Change = std::function<std::optional<Problem>(Project&)>;

int change_stream(const Change& change) {
  const auto text = read_stream(largest_project);
  if (!text) return refuse(text.error());
  std::vector<std::string> notes;
  const auto before = project_from_json(*text, "standard input", &notes);
  if (!before) return refuse(before.error());
  for (const auto& n : notes) note(n);
  give_document();
  Project project = *before;
  if (const auto bad = change(project)) return refuse(*bad);
  if (const auto bad = would_not_come_back(all_parts().book(), project, &*before)) return refuse(*bad);
  std::cout << project_to_json(project);
  Cache cache;
  tell_what_fails(follow(all_parts(), std::move(project), cache));
  return well;
}

}  // namespace

int change_project(const std::string& file, const std::string& command, const Change& change) {
  if (is_stream(file)) return change_stream(change);
  std::vector<std::string> notes;
  Document document(all_parts().book(), Project());
  if (auto opened = document.open(file, holder(command), writers_wait, &notes); !opened) return refuse(opened.error());
  if (document.held_by()) return refuse(*document.held_by());
  Project project = document.project();
  if (const auto bad = change(project)) return refuse(*bad);
  if (const auto bad = would_not_come_back(all_parts().book(), project, &document.project())) return refuse(*bad);
  Cache cache;
  const Followed now = follow(all_parts(), project, cache);
  give_id(project, new_digits(std::filesystem::absolute(file).string()));
  document.history().change(std::move(project), command);
  if (auto saved = document.save(file, holder(command), Document::Over::ask, &notes); !saved)
    return refuse(saved.error());
  for (const auto& n : notes) note(n);
  tell_what_fails(now);
  return well;
}

/// "KEY=VALUE" taken apart; refused where it is none.
Expected<std::pair<std::string, std::string>> edit_from(const std::string& text, const char* example) {
  const auto equal = text.find('=');
  if (equal == std::string::npos || equal == 0)
    return fail(ProblemKind::input, fmt::format("'{}' is not KEY=VALUE", text), "",
                fmt::format("Write for example: {}", example));
  return std::pair{text.substr(0, equal), text.substr(equal + 1)};
}

int run_beside(const std::string& name, std::vector<std::string> arguments) {
  std::error_code error;
  const auto here = std::filesystem::read_symlink("/proc/self/exe", error);
  const std::filesystem::path other = here.parent_path() / name;
  if (error || !std::filesystem::exists(other))
    return refuse(
        {ProblemKind::file, "a program that belongs to this one is missing", other.string(), "Install it beside wren"});
  std::vector<char*> argv{const_cast<char*>(other.c_str())};
  for (auto& a : arguments) argv.push_back(a.data());
  argv.push_back(nullptr);
  std::cout.flush();
  const pid_t child = ::fork();
  if (child == 0) {
    ::setenv("QT_QPA_PLATFORM", "offscreen", 1);
    // What it made is told here, once; what is wrong it says on standard error itself.
    if (const int nowhere = ::open("/dev/null", O_WRONLY | O_CLOEXEC); nowhere >= 0) ::dup2(nowhere, STDOUT_FILENO);
    ::execv(other.c_str(), argv.data());
    ::_exit(127);
  }
  int status = 0;
  while (child > 0 && ::waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  if (child < 0 || (WIFEXITED(status) && WEXITSTATUS(status) == 127))
    return refuse({ProblemKind::file, "a program that belongs to this one cannot be started", other.string(),
                   "Check the installation"});
  if (WIFEXITED(status)) return WEXITSTATUS(status);
  std::cerr << "wren: an internal fault: " << name << " was ended by signal " << WTERMSIG(status) << "\n";
  return internal_fault;
}

std::string first_part() { return all_parts().kinds().front().id(); }

CLI::Option* add_project(CLI::App* parser, std::string& file, const std::string& about) {
  return parser->add_option("FILE", file, about)->required()->type_name("FILE");
}

CLI::Option* add_json(CLI::App* parser, bool& json) { return parser->add_flag("--json", json, "As JSON"); }

CLI::Option* one_of(CLI::Option* option, const std::vector<std::string>& words) {
  option->type_name(fmt::format("{}", fmt::join(words, "|")));
  return option->check(CLI::Validator(
      [words](const std::string& text) {
        return std::find(words.begin(), words.end(), text) != words.end()
                   ? std::string()
                   : fmt::format("'{}' is none of {}", text, fmt::join(words, ", "));
      },
      ""));
}

void add_part(CLI::App* parser, std::string& part) {
  std::vector<std::string> words;
  for (const PartKind& kind : all_parts().kinds()) words.push_back(kind.id());
  parser->add_option("--part", part, "Part of the instrument")
      ->type_name(fmt::format("{}", fmt::join(words, "|")))
      ->check(CLI::Validator(
          [](const std::string& text) {
            return all_parts().find(text) != nullptr
                       ? std::string()
                       : fmt::format("there is no part called '{}'; choose {}", text, all_parts().names());
          },
          ""));
}

}  // namespace wren::cli
