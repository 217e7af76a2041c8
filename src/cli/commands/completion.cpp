// completion: what a shell completes, made from the table of commands.
#include "cli/command.hpp"

namespace wren::cli {
namespace {

/// A command as a shell sees it: options as they are typed, with the words they take where those are few.
struct Completed {
  std::string name;
  std::string about;
  struct Option {
    std::string shorter, longer, about;
    std::vector<std::string> words;
    bool takes = false;  // a value
    bool folder = false;
  };
  std::vector<Option> options;
  bool files = false;              // its arguments are files; else folders
  std::vector<std::string> words;  // or one of these
};

std::vector<std::string> words_of(const CLI::Option& option) {
  std::vector<std::string> out;
  const std::string type = option.get_type_name();
  if (type.find('|') == std::string::npos) return out;
  for (std::size_t from = 0; from <= type.size();) {
    const std::size_t to = std::min(type.find('|', from), type.size());
    out.push_back(type.substr(from, to - from));
    from = to + 1;
  }
  return out;
}

Completed completed(const CLI::App& app) {
  Completed out{app.get_name(), app.get_description(), {}, false, {}};
  for (const CLI::Option* option : app.get_options()) {
    if (option->get_positional()) {
      out.files = out.files || option->get_type_name() == "FILE";
      for (auto& word : words_of(*option)) out.words.push_back(std::move(word));
      continue;
    }
    Completed::Option o;
    if (!option->get_snames().empty()) o.shorter = "-" + option->get_snames().front();
    if (!option->get_lnames().empty()) o.longer = "--" + option->get_lnames().front();
    o.about = option->get_description();
    o.words = words_of(*option);
    o.takes = option->get_items_expected_max() > 0;
    o.folder = option->get_type_name() == "FOLDER";
    out.options.push_back(std::move(o));
  }
  return out;
}

std::vector<Completed> table(const CLI::App& whole) {
  std::vector<Completed> out;
  for (const CLI::App* command : commands_of(whole)) out.push_back(completed(*command));
  // What the whole takes, each command takes too.
  for (const Completed::Option& o : completed(whole).options)
    if (o.longer == "--quiet")
      for (Completed& c : out) c.options.push_back(o);
  return out;
}

std::string for_bash(const std::vector<Completed>& commands) {
  std::string names;
  std::string after;  // after an option
  std::string plain;
  for (const Completed& c : commands) {
    names += c.name + " ";
    std::string flags;
    for (const auto& o : c.options) {
      flags += o.longer + " ";
      if (!o.words.empty())
        after += fmt::format("    \"{} {}\") _wren_words '{}'; return ;;\n", c.name, o.longer, fmt::join(o.words, " "));
      else if (o.takes)
        after += fmt::format("    \"{} {}\") _wren_names {}; return ;;\n", c.name, o.longer, o.folder ? "-d" : "-f");
    }
    plain += fmt::format("    {}) if [[ \"$word\" == -* ]]; then _wren_words '{}'; else {}; fi ;;\n", c.name, flags,
                         !c.words.empty() ? fmt::format("_wren_words '{}'", fmt::join(c.words, " "))
                         : c.files        ? "_wren_names -f"
                                          : "_wren_names -d");
  }
  return fmt::format(R"(# bash completion for wren: source <(wren completion bash)
_wren_words() {{ mapfile -t COMPREPLY < <(compgen -W "$1" -- "$word"); }}
_wren_names() {{ mapfile -t COMPREPLY < <(compgen "$1" -- "$word"); }}
_wren() {{
  local word="${{COMP_WORDS[COMP_CWORD]}}" before="${{COMP_WORDS[COMP_CWORD-1]}}" command="${{COMP_WORDS[1]}}"
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then _wren_words '{}--help --quiet --version'; return; fi
  case "$command $before" in
{}  esac
  case "$command" in
{}  esac
}}
complete -o filenames -F _wren wren
)",
                     names, after, plain);
}

/// Text with a backslash before each of some characters.
std::string escaped(const std::string& text, std::string_view special) {
  std::string out;
  for (const char c : text) {
    if (special.find(c) != std::string_view::npos) out += '\\';
    out += c;
  }
  return out;
}

/// Text within single quotes for zsh, where no backslash helps.
std::string within_quotes(const std::string& text) {
  std::string out;
  for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out;
}

std::string for_fish(const std::vector<Completed>& commands) {
  std::string out =
      "# fish completion for wren: wren completion fish | source\n"
      "complete -c wren -n __fish_use_subcommand -f -l version -d 'Say the version'\n";
  for (const Completed& c : commands) {
    out += fmt::format("complete -c wren -n __fish_use_subcommand -f -a {} -d '{}'\n", c.name, escaped(c.about, "'\\"));
    const std::string when = fmt::format("complete -c wren -n '__fish_seen_subcommand_from {}'", c.name);
    if (!c.words.empty()) out += fmt::format("{} -f -a '{}'\n", when, fmt::join(c.words, " "));
    for (const auto& o : c.options)
      out += fmt::format("{} -l {}{}{}{} -d '{}'\n", when, o.longer.substr(2),
                         o.shorter.empty() ? "" : " -s " + o.shorter.substr(1), o.takes ? " -r" : "",
                         o.words.empty() ? "" : fmt::format(" -f -a '{}'", fmt::join(o.words, " ")),
                         escaped(o.about, "'\\"));
  }
  return out;
}

std::string for_zsh(const std::vector<Completed>& commands) {
  std::string names;
  std::string each;
  for (const Completed& c : commands) {
    names += fmt::format("    '{}:{}'\n", c.name, within_quotes(escaped(c.about, ":\\")));
    each += fmt::format("    {}) _arguments", c.name);
    for (const auto& o : c.options)
      each += fmt::format(" '{}[{}]{}'", o.longer, within_quotes(escaped(o.about, "[]:\\")),
                          !o.words.empty() ? fmt::format(":word:({})", fmt::join(o.words, " "))
                          : o.folder       ? ":folder:_directories"
                          : o.takes        ? ":value:_files"
                                           : "");
    each += !c.words.empty() ? fmt::format(" '*:word:({})'", fmt::join(c.words, " "))
            : c.files        ? " '*:file:_files'"
                             : " '*:folder:_directories'";
    each += " ;;\n";
  }
  return fmt::format(R"(#compdef wren
# zsh completion for wren: source <(wren completion zsh), or this as _wren in a folder of fpath
_wren() {{
  local -a commands=(
{}  )
  if (( CURRENT == 2 )); then
    _describe command commands
    return
  fi
  local command=$words[2]
  shift words
  (( CURRENT-- ))
  case $command in
{}  esac
}}
compdef _wren wren
)",
                     names, each);
}

}  // namespace

Command add_completion(CLI::App& app) {
  auto shell = std::make_shared<std::string>();
  auto* parser = app.add_subcommand("completion", "Write what a shell completes: source <(wren completion bash)");
  one_of(parser->add_option("SHELL", *shell, "Shell")->required(), {"bash", "fish", "zsh"});
  return {parser, [shell, &app]() -> int {
            const auto commands = table(app);
            std::cout << (*shell == "bash"   ? for_bash(commands)
                          : *shell == "fish" ? for_fish(commands)
                                             : for_zsh(commands));
            return well;
          }};
}

}  // namespace wren::cli
