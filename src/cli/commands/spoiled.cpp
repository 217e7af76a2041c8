// spoiled: a piece begins again from a new blank.
#include "cli/command.hpp"

namespace wren::cli {
Command add_spoiled(CLI::App& app) {
  struct Call {
    std::string file;
    std::string piece;
    std::string part = first_part();
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand(
      "spoiled", "A piece begins again from a new blank: what was cut and measured of it counts no more");
  add_project(parser, call->file);
  parser->add_option("PIECE", call->piece, "Piece of the part, as programs name it; the part's own where left out");
  add_part(parser, call->part);
  return {parser, [call] {
            NewBlank done;
            const int code = change_project(call->file, "spoiled", [&](Project& project) -> std::optional<Problem> {
              auto job = designed(project, call->part);
              if (!job) return job.error();
              const auto planned = plan_of(**job);
              if (!planned) return planned.error();
              const std::string piece = call->piece.empty() ? call->part : call->piece;
              auto anew = begin_anew(all_parts(), project, *planned, piece, today());
              if (!anew) return anew.error();
              done = std::move(*anew);
              return {};
            });
            if (code != well) return code;
            for (const std::string& title : done.again) say("make again: " + title);
            for (const std::string& key : done.measures) say("measure again: " + key);
            say("measure the new blank, and enter its size");
            return code;
          }};
}

}  // namespace wren::cli
