#include "run/restart.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/job/prove.hpp"
#include "core/program/restart.hpp"

namespace wren {

Expected<Restart> restart_of(const ProgramAtHand& p, const Run& last, const MachineState& now,
                             const RestartAnswers& a) {
  const auto no = [&](std::string what, std::string todo) {
    return fail(ProblemKind::input, std::move(what), p.entry.file, std::move(todo));
  };
  if (last.sha256 != p.entry.sha256)
    return no("the run that stopped was of another program", "Begin this one from its first line");
  if (last.outcome == "done") return no("it was run to its end", "There is nothing to begin again");
  if (last.air) return no("the run that stopped was an air pass", "Run it from its beginning");
  if (now.word.empty())
    return no("the machine does not tell what it has done", "Find out at its panel; then begin the program anew");
  if (!now.known || now.lost())
    return no("the machine does not know where it stands", "Take it out of its alarm and home it");
  if (!now.idle()) return no(fmt::format("the machine is {}", now.word), "Let it come to rest first");
  // What may have been lost is read from what kind of end it was, never from the words that a machine has for it: where
  // the machine stopped by itself, or nobody saw the end, zero and z may be gone; where it held by itself, the cutter.
  const bool place = last.outcome != "stopped";
  const bool cutter =
      std::any_of(last.events.begin(), last.events.end(), [](const RunEvent& e) { return e.kind == held_by_itself; });
  if (!a.same_wood)
    return no("nobody has said that the wood still lies where it lay, and is held",
              "Look at it; where it has moved, find zero again and begin the program anew");
  if ((place || cutter) && !a.z_anew)
    return no(
        cutter ? "the machine held by itself: the cutter may be broken, or have slipped, and z is no longer what it was"
               : "the machine stopped by itself, or nobody saw how it ended: z may no longer be what it was",
        "Probe z again, then begin here");
  if (place && !a.zero_anew)
    return no("the machine stopped by itself, or nobody saw how it ended: zero may no longer be where it was",
              "Find zero again as the sheet says, then begin here");
  // A cutter that a hand has changed on the way goes out again for the first one, and z with it.
  const bool several = p.entry.cutters.size() > 1;
  if (several && !a.z_anew)
    return no("it has several cutters, and begins with the first of them again: z is no longer that one's",
              "Put the first one in and probe z again; it cuts air where it has cut");
  if (!cutter && !a.same_cutter && !a.z_anew)
    return no("nobody has said that the cutter is whole and has not slipped", "Look at it, or probe z again");
  if (now.tool && !p.entry.cutters.empty() && *now.tool != p.entry.cutters.front().number)
    return no(worded("T{} is wanted in the spindle", p.entry.cutters.front().number), "Put it in, and probe z again");
  // The last listed line that nothing after the machine's own count comes before. A cutter that broke may have cut
  // nothing for longer than anybody saw: then the first, and it cuts air as far as there is none.
  std::uint32_t line = 0;
  for (const std::uint32_t n : p.entry.restart)
    if (n <= last.done + 1 && (line == 0 || !(cutter || several))) line = std::max(line, n);
  if (line == 0 && !p.entry.restart.empty()) line = p.entry.restart.front();  // nothing was cut before it
  if (line == 0)
    return no("the manifest lists no line to begin again at",
              "Run it from its beginning: it cuts air where it has cut");
  auto text = restart_text(p.text, line);
  if (!text) return tl::unexpected(text.error());
  return Restart{line, last.done, std::move(*text)};
}

Expected<std::vector<Finding>> prove_restart(const Planned& planned, const std::vector<PlacedProgram>& programs,
                                             const std::string& file, const Restart& restart, Progress* progress) {
  const auto mine =
      std::find_if(programs.begin(), programs.end(), [&](const PlacedProgram& p) { return p.file.file == file; });
  if (mine == programs.end())
    return fail(ProblemKind::input, "the plan has no such program", file, "Write the programs again");
  const Piece* piece = nullptr;
  for (const Piece& p : planned.made.pieces)
    if (p.id == mine->piece) piece = &p;
  if (piece == nullptr) return fail(ProblemKind::input, "the plan has no such piece", file, "Write the programs again");
  const PieceRequest whole = request_for(*piece, planned, programs);
  ProofRequest side;
  for (const PieceSide& s : whole.sides)
    for (const ProgramText& t : s.programs)
      if (t.name == file) {
        side.setup = s.setup;
        side.material = s.material;
        for (const ProgramText& before : s.programs) {
          if (before.name == file) break;
          side.programs.push_back(before);
        }
      }
  side.rack = whole.rack;
  side.tolerances = whole.tolerances;
  side.cell = whole.cell;
  // What it had cut when it stopped, line by line; and then the text that begins again.
  std::string cut;
  std::string_view rest = mine->file.text.str();
  for (std::uint32_t n = 0; n < restart.done && !rest.empty(); ++n) {
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    // It is no whole program any more, and does not say that it is one.
    if (!rest.starts_with("(upland wren program")) cut += rest.substr(0, end);
    cut += '\n';
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  const std::string own = "begun again: " + file;
  if (!cut.empty()) side.programs.push_back({"as it was cut: " + file, cut, mine->cutter, false});
  side.programs.push_back({own, restart.text, mine->cutter, true});
  const auto result = rehearse_side(side, nullptr, progress);
  if (!result) return tl::unexpected(result.error());
  std::vector<Finding> out;
  const auto take = [&](const Finding& f) {
    if (f.weight == Weight::stop && f.program == own) out.push_back(f);
  };
  for (const Finding& f : result->findings) take(f);
  for (const ProgramFacts& facts : result->programs)
    for (const Finding& f : facts.findings) take(f);
  return out;
}

}  // namespace wren
