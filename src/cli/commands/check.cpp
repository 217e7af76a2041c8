// check: a folder or stick of programs held against the certificate beside them.
#include "cli/command.hpp"

#include "core/job/certificate.hpp"

namespace wren::cli {
Command add_check(CLI::App& app) {
  auto folder = std::make_shared<std::string>();
  auto* parser = app.add_subcommand("check", "Hold a folder or stick of programs against the certificate beside them");
  parser
      ->add_option("FOLDER", *folder,
                   "Folder with manifest.json and proof.json, or with parts' subfolders that have them")
      ->required()
      ->type_name("FOLDER");
  return {parser, [folder]() -> int {
            const auto check = check_folder(*folder);
            if (!check) return refuse(check.error());
            for (const FolderCheck::Part& p : check->parts) {
              std::string assumed;
              for (const std::string& c : p.assumed)
                assumed += (assumed.empty() ? ", for assumed lengths of " : ", ") + c;
              say(fmt::format("{}: {} on {}, {} programs{}", p.part, p.verdict, p.date, p.programs, assumed));
            }
            for (const std::string& f : check->faults) fmt::print("stop: {}\n", f);
            for (const std::string& f : check->strays)
              fmt::print("stop: {} lies there too, and nobody has proved it. Take it away.\n", f);
            if (!check->passed())
              fmt::print("Do not run these programs.\n");
            else if (check->strays.empty())
              say("Every file is the one that was proved.");
            else
              fmt::print("Run none but those that were proved.\n");
            return check->passed() && check->strays.empty() ? well : must_stop;
          }};
}

}  // namespace wren::cli
