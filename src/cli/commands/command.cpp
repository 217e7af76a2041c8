#include "cli/commands/command.hpp"

#include <ctime>
#include <unistd.h>

namespace wren::cli {

int refuse(const Problem& problem) {
  std::cerr << "wren: " << problem.text() << "\n";
  return bad_input;
}

std::string shell_word(const std::string& word) {
  constexpr const char* plain = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789._-/=+:,@%";
  if (!word.empty() && word.find_first_not_of(plain) == std::string::npos) return word;
  std::string out = "'";
  for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

void print(const Json& doc) { std::cout << doc.dump(1, ' ', false, Json::error_handler_t::replace) << "\n"; }

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
  auto project = load_project(file, &notes);
  if (!project) return tl::unexpected(project.error());
  for (const auto& note : notes) std::cerr << "wren: " << note << "\n";
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

Expected<std::unique_ptr<Job>> designed(Project project, const std::string& part) {
  auto job = std::make_unique<Job>();
  job->kind = all_parts().find(part);
  job->followed = follow(all_parts(), std::move(project), job->cache);
  return with_design(std::move(job), part);
}

int change_project(const std::string& file, const std::string& command,
                   const std::function<std::optional<Problem>(Project&)>& change) {
  std::vector<std::string> notes;
  Document document(all_parts().book(), Project());
  if (auto opened = document.open(file, holder(command), writers_wait, &notes); !opened) return refuse(opened.error());
  if (document.held_by()) return refuse(*document.held_by());
  Project project = document.project();
  if (const auto bad = change(project)) return refuse(*bad);
  if (const auto bad = would_not_come_back(all_parts().book(), project, &document.project())) return refuse(*bad);
  Cache cache;
  const Followed now = follow(all_parts(), project, cache);
  document.history().change(std::move(project), command);
  if (auto saved = document.save(file, holder(command), Document::Over::ask, &notes); !saved)
    return refuse(saved.error());
  for (const auto& note : notes) std::cerr << "wren: " << note << "\n";
  // A part that fails only because one it is made from does is not told again.
  for (const PartKind& kind : all_parts().kinds())
    if (const auto it = now.problems.find(kind.id()); it != now.problems.end()) {
      std::cerr << fmt::format("wren: saved, but no {} follows from these numbers: {}\n", kind.id(), it->second.text());
      break;
    }
  return well;
}

int become(const std::string& name, std::vector<std::string> arguments) {
  std::error_code error;
  const auto here = std::filesystem::read_symlink("/proc/self/exe", error);
  const std::filesystem::path other = here.parent_path() / name;
  if (error || !std::filesystem::exists(other))
    return refuse(
        {ProblemKind::file, "a program that belongs to this one is missing", other.string(), "Install it beside wren"});
  ::setenv("QT_QPA_PLATFORM", "offscreen", 1);
  std::vector<char*> argv{const_cast<char*>(other.c_str())};
  for (auto& a : arguments) argv.push_back(a.data());
  argv.push_back(nullptr);
  ::execv(other.c_str(), argv.data());
  return refuse({ProblemKind::file, "a program that belongs to this one cannot be started", other.string(),
                 "Check the installation"});
}

std::string first_part() { return all_parts().kinds().front().id(); }

void add_part(CLI::App* parser, std::string& part) {
  parser->add_option("--part", part, "Part: " + all_parts().names())->check([](const std::string& text) {
    return all_parts().find(text) != nullptr
               ? std::string()
               : fmt::format("there is no part called '{}'; choose {}", text, all_parts().names());
  });
}

int run(int argc, char** argv) {
  CLI::App app{"wren: an instrument's parts from their numbers to proved programs, without the window"};
  app.require_subcommand(1);
  app.set_version_flag("--version", "wren " WREN_VERSION);
  app.footer(
      "Exit codes: 0 well; 1 something stops the work; 2 the call is wrong; 3 a file or value cannot be used; 4 an "
      "internal fault.\nErrors go to standard error. Lengths are mm unless they carry a unit.");
  std::vector<Command> commands;
  for (const auto add : {add_new, add_get, add_set, add_remarks, add_programs, add_prove, add_check, add_sheet,
                         add_measure, add_export, add_frets, add_crown, add_sections, add_head, add_plan, add_carve})
    commands.push_back(add(app));
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp& e) {
    return app.exit(e);
  } catch (const CLI::CallForAllHelp& e) {
    return app.exit(e);
  } catch (const CLI::CallForVersion& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    app.exit(e, std::cout, std::cerr);
    return bad_call;
  }
  const auto unwritten = [] {
    return refuse({ProblemKind::file, "what it says cannot be written", "standard output",
                   "Make room where it goes, or send it elsewhere"});
  };
  // What the system refuses where nobody expected it (a name too long, a folder without rights, a full disk) is a
  // sentence too, and so is a promise that this program broke.
  try {
    for (const Command& command : commands)
      if (*command.parser) {
        const int code = command.run();
        return std::fflush(stdout) == 0 && std::cout.flush() ? code : unwritten();
      }
  } catch (const std::filesystem::filesystem_error& e) {
    return refuse({ProblemKind::file, "the system refuses it: " + e.code().message(), e.path1().string(),
                   "Check the name and your rights"});
  } catch (const std::system_error&) {
    return unwritten();
  } catch (const std::exception& e) {
    std::cerr << "wren: an internal fault: " << e.what() << ". Nothing was written by it; please report it.\n";
    return internal_fault;
  }
  return bad_call;
}

}  // namespace wren::cli
