// The table of commands, and one call of it.
#include "cli/command.hpp"

namespace wren::cli {

const std::vector<Add>& all_commands() {
  static const std::vector<Add> all{add_new,      add_get,     add_set,     add_remarks, add_programs,   add_prove,
                                    add_check,    add_sheet,   add_measure, add_export,  add_frets,      add_crown,
                                    add_sections, add_head,    add_plan,    add_carve,   add_materials,  add_spoiled,
                                    add_compare,  add_done,    add_steps,   add_take,    add_picture,    add_hardware,
                                    add_rack,     add_machine, add_run,     add_log,     add_completion, add_man};
  return all;
}

std::vector<const CLI::App*> commands_of(const CLI::App& app) {
  return app.get_subcommands([](const CLI::App*) { return true; });
}

int run(int argc, char** argv) {
  CLI::App app{"an instrument's parts from their numbers to proved programs, without the window", "wren"};
  app.require_subcommand(1);
  app.set_version_flag("--version", "wren " WREN_VERSION);
  app.set_help_flag("-h,--help", "Say this and end");
  app.add_flag_callback("-q,--quiet", be_quiet, "Say only what was asked for and what is wrong");
  app.footer(
      "Exit codes: 0 well; 1 something stops the work; 2 the call is wrong; 3 a file or value cannot be used, or "
      "nothing "
      "can be written; 4 an internal fault.\nErrors go to standard error. Lengths are mm unless they carry a unit. - "
      "stands for standard input or output.");
  std::vector<Command> commands;
  for (const Add add : all_commands()) {
    commands.push_back(add(app));
    commands.back().parser->fallthrough();
  }
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
