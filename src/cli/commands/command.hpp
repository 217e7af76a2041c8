// What the commands share: exit codes, refusals, a loaded job, JSON of what the core says. One file for each command.
#pragma once

#include <filesystem>
#include <iostream>

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/table.hpp"

namespace wren::cli {

using Json = nlohmann::ordered_json;

/// Exit codes, also in --help and README: 0 well; 1 the work must stop (remarks, proof); 2 the call is wrong; 3 a file
/// or value cannot be used, or nothing can be written; 4 a promise broken inside the program.
enum Exit { well = 0, must_stop = 1, bad_call = 2, bad_input = 3, internal_fault = 4 };

int refuse(const Problem& problem);
/// A word as a shell takes it (POSIX, 2.2.2): in single quotes where it is not plain.
[[nodiscard]] std::string shell_word(const std::string& word);
void print(const Json& doc);
/// SOURCE_DATE_EPOCH (reproducible-builds.org) makes the same input give the same bytes.
[[nodiscard]] std::string today();
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
/// Refused where the file cannot be used or there is no such part; what is worth saying goes to standard error.
[[nodiscard]] Expected<std::unique_ptr<Job>> load_job(const std::string& file, const std::string& part);
/// The same, and the part's design must follow from the numbers.
[[nodiscard]] Expected<std::unique_ptr<Job>> load_designed(const std::string& file, const std::string& part);
/// Loads, changes with `change` (a Problem refuses), saves; says on standard error what no longer follows. From before
/// the file is read until it is saved nobody else writes it: two calls follow one another.
int change_project(const std::string& file, const std::string& command,
                   const std::function<std::optional<Problem>(Project&)>& change);
/// The part's design of a project that is being changed; refused with why none follows.
[[nodiscard]] Expected<std::unique_ptr<Job>> designed(Project project, const std::string& part);

/// Starts a program that stands beside this one; returns only where it cannot be started.
int become(const std::string& name, std::vector<std::string> arguments);

/// Every command adds itself to the parser; what it returns is run when it was called.
using Run = std::function<int()>;
struct Command {
  CLI::App* parser;
  Run run;
};
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
Command add_sections(CLI::App& app);
Command add_head(CLI::App& app);
Command add_plan(CLI::App& app);
Command add_carve(CLI::App& app);
/// The whole command line.
[[nodiscard]] int run(int argc, char** argv);

/// The first part of the table: what --part means where it is left out.
[[nodiscard]] std::string first_part();
/// The option --part, with the parts there are in its help.
void add_part(CLI::App* parser, std::string& part);

}  // namespace wren::cli
