// wren: the jobs of Upland Wren on the command line. Starts quickly: links the core only, no interface code.
#include "cli/commands/command.hpp"

int main(int argc, char** argv) {
  using namespace wren::cli;
  CLI::App app{"wren: an instrument's parts from their numbers to proved programs, without the window"};
  app.require_subcommand(1);
  app.footer(
      "Exit codes: 0 well; 1 something stops the work; 2 the call is wrong; 3 a file or value cannot be used.\nErrors "
      "go to standard error. Lengths are mm unless they carry a unit.");
  std::vector<Command> commands;
  for (const auto add : {add_new, add_get, add_set, add_remarks, add_programs, add_prove, add_sheet, add_measure,
                         add_export, add_frets, add_crown, add_sections, add_head, add_plan, add_carve})
    commands.push_back(add(app));
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp& e) {
    return app.exit(e);
  } catch (const CLI::CallForAllHelp& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    app.exit(e, std::cout, std::cerr);
    return bad_call;
  }
  for (const Command& command : commands)
    if (*command.parser) return command.run();
  return bad_call;
}
