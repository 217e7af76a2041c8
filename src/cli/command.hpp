// What the commands share: exit codes, refusals, a loaded job, the table of commands. Each has a file in commands/.
#pragma once

#include <filesystem>
#include <iostream>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include "cli/talk.hpp"
#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/table.hpp"

namespace wren::cli {

/// Exit codes, also in --help, the man pages and README: 0 well; 1 the work must stop (remarks, proof); 2 the call is
/// wrong; 3 a file or value cannot be used, or nothing can be written; 4 a promise broken inside the program.
enum Exit { well = 0, must_stop = 1, bad_call = 2, bad_input = 3, internal_fault = 4 };

/// For whom sentences are put into words on a terminal: the language of the environment (LC_MESSAGES); millimetres and
/// a point, as scripts read them.
[[nodiscard]] const Audience& audience();
/// Says what is wrong; the exit code.
int refuse(const Problem& problem);
int wrong_call(const Problem& problem);
/// A word as a shell takes it (POSIX, 2.2.2): in single quotes where it is not plain.
[[nodiscard]] std::string shell_word(const std::string& word);
/// SOURCE_DATE_EPOCH (reproducible-builds.org) makes the same input give the same bytes.
[[nodiscard]] std::string today();
/// 32 hexadecimal digits for the id of something new; with SOURCE_DATE_EPOCH they follow from `of`.
[[nodiscard]] std::string new_digits(const std::string& of);
/// This call as others are told of it, where it holds a file: "wren set".
[[nodiscard]] Holder holder(const std::string& command);

/// A project with everything that follows from it, and the part that was asked for.
struct Job {
  std::string file;
  const PartKind* kind = nullptr;
  Followed followed;
  Cache cache;
  [[nodiscard]] const Project& project() const { return followed.project; }
};
/// A project's file, or standard input. Refused where the file cannot be used or there is no such part; what is worth
/// saying goes to standard error.
[[nodiscard]] Expected<std::unique_ptr<Job>> load_job(const std::string& file, const std::string& part);
/// The same, and the part's design must follow from the numbers.
[[nodiscard]] Expected<std::unique_ptr<Job>> load_designed(const std::string& file, const std::string& part);
/// "KEY=VALUE" taken apart; refused where it is none.
[[nodiscard]] Expected<std::pair<std::string, std::string>> edit_from(const std::string& text, const char* example);
/// Loads, changes with `change` (a Problem refuses), saves (from standard input to standard output); says on standard
/// error what no longer follows. From before the file is read until it is saved nobody else writes it: two calls follow
/// one another.
int change_project(const std::string& file, const std::string& command,
                   const std::function<std::optional<Problem>(Project&)>& change);
/// Its pieces with all their cuts; how far it is stands on a terminal.
[[nodiscard]] Expected<Planned> plan_of(Job& job);
/// The part's design of a project that is being changed; refused with why none follows.
[[nodiscard]] Expected<std::unique_ptr<Job>> designed(Project project, const std::string& part);

/// Runs a program that stands beside this one, which writes a file; told where it cannot. Returns the exit code.
int run_beside(const std::string& name, std::vector<std::string> arguments);

/// Every command adds itself to the parser; what it returns is run when it was called.
using Run = std::function<int()>;
struct Command {
  CLI::App* parser;
  Run run;
};
using Add = Command (*)(CLI::App&);
/// The commands there are, as help, completion and man pages tell of them.
[[nodiscard]] const std::vector<Add>& all_commands();
[[nodiscard]] std::vector<const CLI::App*> commands_of(const CLI::App& app);
Command add_new(CLI::App& app);
Command add_get(CLI::App& app);
Command add_set(CLI::App& app);
Command add_remarks(CLI::App& app);
Command add_programs(CLI::App& app);
Command add_prove(CLI::App& app);
Command add_check(CLI::App& app);
Command add_sheet(CLI::App& app);
Command add_measure(CLI::App& app);
Command add_export(CLI::App& app);
Command add_frets(CLI::App& app);
Command add_crown(CLI::App& app);
Command add_done(CLI::App& app);
Command add_steps(CLI::App& app);
Command add_take(CLI::App& app);
Command add_picture(CLI::App& app);
Command add_hardware(CLI::App& app);
Command add_sections(CLI::App& app);
Command add_head(CLI::App& app);
Command add_plan(CLI::App& app);
Command add_carve(CLI::App& app);
Command add_materials(CLI::App& app);
Command add_spoiled(CLI::App& app);
Command add_compare(CLI::App& app);
Command add_rack(CLI::App& app);
Command add_machine(CLI::App& app);
Command add_run(CLI::App& app);
Command add_log(CLI::App& app);
Command add_completion(CLI::App& app);
Command add_man(CLI::App& app);
/// The whole command line.
[[nodiscard]] int run(int argc, char** argv);

/// The first part of the table: what --part means where it is left out.
[[nodiscard]] std::string first_part();
/// A project's file as an argument, a flag --json.
CLI::Option* add_project(CLI::App* parser, std::string& file,
                         const std::string& about = "Project; - for standard input");
CLI::Option* add_json(CLI::App* parser, bool& json);
/// Only one of these words: help and completion give them.
CLI::Option* one_of(CLI::Option* option, const std::vector<std::string>& words);
/// The option --part, with the parts there are.
void add_part(CLI::App* parser, std::string& part);

}  // namespace wren::cli
