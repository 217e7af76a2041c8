// man: the manual's pages (roff, man macros), made from the table of commands.
#include <cctype>

#include "cli/command.hpp"

namespace wren::cli {
namespace {

/// Text for roff: no line begins with a control character, nothing is an escape, minus signs stay minus signs.
std::string roff(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if ((c == '.' || c == '\'') && (out.empty() || out.back() == '\n')) out += "\\&";
    if (c == '\\')
      out += "\\e";
    else if (c == '-')
      out += "\\-";
    else
      out += c;
  }
  return out;
}

std::string option_lines(const CLI::App& app) {
  std::string out;
  for (const CLI::Option* option : app.get_options()) {
    const bool argument = option->get_positional();
    const std::string type = option->get_type_name();
    std::string name = argument ? option->get_name(true) : option->get_name(false, true);
    if (argument && type.find('|') != std::string::npos) name += " (" + type + ")";
    if (!argument && option->get_items_expected_max() > 0) name += " " + type;
    out += ".TP\n.B " + roff(name) + "\n" + roff(option->get_description()) + "\n";
  }
  return out;
}

std::string synopsis(const CLI::App& command) {
  std::string out = "wren " + command.get_name() + " [OPTIONS]";
  for (const CLI::Option* option : command.get_options())
    if (option->get_positional()) {
      const std::string name = option->get_name(true) + (option->get_items_expected_max() > 1 ? "..." : "");
      out += option->get_required() ? " " + name : " [" + name + "]";
    }
  return out;
}

std::string title(const std::string& page, const std::string& about) {
  std::string upper = page;
  for (char& c : upper) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return fmt::format(".TH {} 1 \"\" \"wren {}\" \"Upland Wren\"\n.SH NAME\n{} \\- {}\n", roff(upper), WREN_VERSION,
                     roff(page), roff(about));
}

std::string foot(const CLI::App& app) { return ".SH EXIT STATUS AND UNITS\n" + roff(app.get_footer()) + "\n"; }

std::string whole_page(const CLI::App& app) {
  std::string out = title("wren", app.get_description()) + ".SH SYNOPSIS\nwren [OPTIONS] COMMAND ...\n.SH COMMANDS\n";
  for (const CLI::App* command : commands_of(app))
    out += ".TP\n.B " + roff(command->get_name()) + "\n" + roff(command->get_description()) + "\n";
  return out + ".SH OPTIONS\n" + option_lines(app) + foot(app);
}

std::string page_of(const CLI::App& app, const CLI::App& command) {
  return title("wren-" + command.get_name(), command.get_description()) + ".SH SYNOPSIS\n" + roff(synopsis(command)) +
         "\n.SH ARGUMENTS AND OPTIONS\n" + option_lines(command) + foot(app) + ".SH SEE ALSO\nwren(1)\n";
}

/// Every page into a folder, as man finds them: FOLDER/man1.
int write_pages(const CLI::App& app, const std::string& folder) {
  const auto man1 = std::filesystem::path(folder) / "man1";
  std::filesystem::create_directories(man1);
  std::vector<std::pair<std::string, std::string>> pages{{"wren.1", whole_page(app)}};
  for (const CLI::App* command : commands_of(app))
    pages.emplace_back("wren-" + command->get_name() + ".1", page_of(app, *command));
  for (const auto& [name, text] : pages)
    if (const auto written = write_export(man1 / name, text); !written) return refuse(written.error());
  say(fmt::format("{} pages in {}", pages.size(), man1.string()));
  return well;
}

}  // namespace

Command add_man(CLI::App& app) {
  struct Call {
    std::string command, out;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("man", "Show a page of the manual (wren man set | man -l -), or write them all");
  parser->add_option("COMMAND", call->command, "Its page; without it the whole")->type_name("COMMAND");
  parser->add_option("--out", call->out, "Folder to write all pages into, in its man1")->type_name("FOLDER");
  return {parser, [call, &app]() -> int {
            if (!call->out.empty()) return write_pages(app, call->out);
            if (call->command.empty()) {
              std::cout << whole_page(app);
              return well;
            }
            for (const CLI::App* command : commands_of(app))
              if (command->get_name() == call->command) {
                std::cout << page_of(app, *command);
                return well;
              }
            return wrong_call({ProblemKind::input, fmt::format("there is no command called '{}'", call->command), "man",
                               "List them with: wren --help"});
          }};
}

}  // namespace wren::cli
