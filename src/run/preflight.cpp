#include "run/preflight.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/document/files.hpp"

namespace wren {
namespace {

constexpr std::size_t largest = std::size_t{512} << 20;
constexpr double zero_near = 1.0;  // mm between where zero was set and where the sheet has it: more is another place

}  // namespace

Expected<ProgramAtHand> program_at_hand(const std::filesystem::path& file) {
  const std::filesystem::path folder = file.parent_path().empty() ? "." : file.parent_path();
  const std::string name = file.filename().string();
  ProgramAtHand out;
  out.file = file;
  auto text = read_file(file, largest);
  if (!text) return tl::unexpected(text.error());
  out.text = std::move(*text);
  const auto manifest = read_file(folder / "manifest.json", largest);
  if (!manifest)
    return fail(ProblemKind::file, "there is no manifest beside the program: nobody knows what it is", file.string(),
                "Write it with its set (wren programs), and run it from that folder");
  const auto entries = read_manifest(*manifest, (folder / "manifest.json").string());
  if (!entries) return tl::unexpected(entries.error());
  const auto it =
      std::find_if(entries->begin(), entries->end(), [&](const ManifestEntry& e) { return e.file == name; });
  if (it == entries->end())
    return fail(ProblemKind::input, "the manifest beside it does not name this program", file.string(),
                "Run one of those that it names");
  out.entry = *it;
  if (sha256_hex(out.text) != it->sha256)
    return fail(ProblemKind::changed, "it is not the program that was written: some of it was changed or lost",
                file.string(), "Write the set again; do not run this file");
  const auto check = check_folder(folder);
  if (!check) return tl::unexpected(check.error());
  for (const std::string& fault : check->faults)
    if (fault.starts_with(name) || fault.find(name) != std::string::npos)
      return fail(ProblemKind::changed, fault, file.string(), "Write the set again; do not run this file");
  const auto part = std::find_if(check->parts.begin(), check->parts.end(),
                                 [&](const FolderCheck::Part& p) { return p.part == it->part; });
  if (part == check->parts.end() || part->verdict != "PROVED")
    return fail(ProblemKind::input,
                worded("its certificate does not say PROVED but '{}'",
                       part == check->parts.end() ? std::string("nothing") : part->verdict),
                file.string(), "Mend what the proof found, write it again, and run that");
  if (!check->faults.empty())
    return fail(ProblemKind::changed, "the set it belongs to is not the one that was proved: " + check->faults.front(),
                folder.string(), "Write the set again");
  for (const ManifestEntry::Tool& t : it->cutters)
    if (!t.lengths_measured) out.assumed.push_back(fmt::format("T{} {}", t.number, t.id));
  out.proved_for = part->verdict;
  if (!part->assumed.empty()) {
    out.proved_for += " for assumed lengths of";
    for (std::size_t i = 0; i < part->assumed.size(); ++i) out.proved_for += (i == 0 ? " " : ", ") + part->assumed[i];
  }
  const ManifestTitle title = manifest_title(*manifest);
  out.project = title.project;
  out.date = title.date;
  out.fingerprint = title.fingerprint;
  return out;
}

Expected<void> still_the_same(const ProgramAtHand& program) {
  const auto now = read_file(program.file, largest);
  if (!now) return tl::unexpected(now.error());
  if (*now != program.text)
    return fail(ProblemKind::changed, "the program was changed since it was looked at", program.file.string(),
                "Look at it again before it runs");
  return {};
}

std::optional<double> air_raise(const ManifestEntry& entry, double zero_z) {
  const double room = -(zero_z + entry.high.z);
  const double raise = std::floor(std::min(most_raise, room) * 10 + 1e-6) / 10;
  if (!(raise >= least_raise)) return {};
  return raise;
}

std::vector<Check> looked_at(const ProgramAtHand& program, const MachineState& s, const std::optional<Vec3>& travel,
                             bool air) {
  std::vector<Check> out;
  const ManifestEntry& e = program.entry;
  out.push_back({"certificate", true, "These very bytes are " + program.proved_for + "."});
  // z is another with every cutter that a hand puts in: at a stop on the way it is set anew, by a machine that is
  // spoken to in between.
  if (e.cutters.size() > 1 && !lengths_in_table(program) && !s.done)
    out.push_back(
        {"one-cutter", false,
         worded("It changes its cutter {} on the way, and z would be the first one's, for this machine cannot be "
                "spoken to in between: write a file for each cutter (programs.files).",
                e.cutters.size() == 2 ? std::string("once") : fmt::format("{} times", e.cutters.size() - 1))});
  if (s.word.empty()) {
    out.push_back({"homed", true, "The machine does not tell its state: look at its panel."});
    return out;
  }
  out.push_back({"homed", s.known && s.idle(),
                 s.known ? s.idle() ? "The machine knows where it stands, and is idle."
                                    : worded("The machine is {}{}.", s.word, s.why.empty() ? "" : ": " + s.why)
                         : "The machine does not know where it stands: home it."});
  if (s.tool && !e.cutters.empty()) {
    const ManifestEntry::Tool& t = e.cutters.front();
    out.push_back({"cutter", *s.tool == t.number,
                   *s.tool == t.number ? worded("T{} {} is in the spindle.", t.number, t.id)
                   : *s.tool == 0 ? worded("Nobody has told the machine its cutter: T{} {} is wanted.", t.number, t.id)
                                  : worded("T{} is in the spindle, T{} {} is wanted.", *s.tool, t.number, t.id)});
  }
  if (s.zero && s.known) {
    const double dx = s.zero->x - e.zero_in_machine.x, dy = s.zero->y - e.zero_in_machine.y;
    const bool near = std::hypot(dx, dy) <= zero_near;
    out.push_back({"zero", near,
                   near ? worded("Zero is within {} of where the sheet has it.", mm(std::hypot(dx, dy)))
                        : worded("Zero stands at x {:.2f} y {:.2f}, and the sheet has it at x {:.2f} y {:.2f}.",
                                 s.zero->x, s.zero->y, e.zero_in_machine.x, e.zero_in_machine.y)});
    if (travel) {
      const Vec3 low{s.zero->x + e.low.x, s.zero->y + e.low.y, s.zero->z + e.low.z};
      const Vec3 high{s.zero->x + e.high.x, s.zero->y + e.high.y, s.zero->z + e.high.z};
      const bool fits =
          low.x >= 0 && low.y >= 0 && low.z >= -travel->z && high.x <= travel->x && high.y <= travel->y && high.z <= 0;
      out.push_back({"room", fits,
                     fits ? "All of it lies within the machine's travels."
                          : worded("It goes from x {:.1f} y {:.1f} z {:.1f} to x {:.1f} y {:.1f} z {:.1f}, beyond the "
                                   "machine's travels: look at zero.",
                                   low.x, low.y, low.z, high.x, high.y, high.z)});
    }
    if (air && !air_raise(e, s.zero->z))
      out.push_back({"raise", false,
                     worded("There are only {} over it: too little to raise it by. Take the blank off, set zero lower, "
                            "or watch the first run closely.",
                            mm(std::max(0.0, -(s.zero->z + e.high.z)), 1))});
  }
  return out;
}

bool lengths_in_table(const ProgramAtHand& program) { return program.text.find("G43") != std::string::npos; }

Expected<void> z_can_be_set(const ProgramAtHand& program) {
  if (!lengths_in_table(program)) return {};
  return fail(ProblemKind::unsupported,
              "the program takes each cutter's length from the machine's table: z's zero is one without any cutter's",
              program.entry.file, "Set z at the machine's panel, where its table is");
}

std::string cutter_question(const ManifestEntry::Tool& t, const std::string& where) {
  return worded("Is T{} {} ({:g} mm) {}, sticking out {:g} mm, its flutes {:g} mm{}?", t.number, t.id, t.diameter,
                where, t.stickout, t.cutting_length, t.lengths_measured ? "" : " (nobody has measured these lengths)");
}

std::vector<Question> to_ask(const ProgramAtHand& program, double raise, const std::vector<std::string>& earlier) {
  const ManifestEntry& e = program.entry;
  std::vector<Question> out;
  for (const std::string& file : earlier)
    out.push_back(
        {"before", worded("{} comes before this one, and the log does not know it as run: was it?", file), false});
  for (std::size_t i = 0; i < e.cutters.size(); ++i)
    out.push_back({"cutter", cutter_question(e.cutters[i], i == 0 ? "in the spindle" : "at hand for later"), false});
  const bool on_board = e.probe.place && e.probe.place->on_board;
  if (lengths_in_table(program))
    out.push_back(
        {"zero",
         "Has the machine's table the length of every cutter, and is zero set as the sheet says, z without any "
         "cutter's length in it?",
         false});
  else
    out.push_back(
        {"zero",
         worded("Is zero set as the sheet says, z anew for this cutter{}?",
                e.probe.place ? fmt::format(" on {} at x {:g} y {:g}", on_board ? "the waste board" : "the blank's top",
                                            e.probe.place->at.x, e.probe.place->at.y)
                              : std::string()),
         false});
  out.push_back(
      {"solids", "Do clamps, stops, fence and pins stand where the sheet draws them, and is the wood held?", true});
  if (raise > 0) {
    const double over = raise + e.low.z;
    if (over < 0)
      out.push_back({"no-blank",
                     worded("Raised by {} the cutter still comes {} under the blank's top: is the blank taken off?",
                            mm(raise, 1), mm(-over, 1)),
                     true});
  }
  out.push_back({"extraction", "Is the extraction on, and the dust mask?", true});
  out.push_back({"eyes", "Are eyes and ears protected, hands away, and is the machine's own stop within reach?", true});
  return out;
}

Expected<std::vector<std::string>> not_run_yet(const ProgramAtHand& program, ShopBook& book) {
  std::vector<std::string> out;
  const std::filesystem::path folder = program.file.parent_path().empty() ? "." : program.file.parent_path();
  for (const std::string& file : program.entry.after) {
    const auto text = read_file(folder / file, largest);
    const std::string hash = text ? sha256_hex(*text) : std::string();
    const auto runs = hash.empty() ? Expected<std::vector<Run>>() : book.runs_of(hash);
    if (!runs) return tl::unexpected(runs.error());
    if (std::none_of(runs->begin(), runs->end(), [](const Run& r) { return !r.air && r.outcome == "done"; }))
      out.push_back(file);
  }
  return out;
}

}  // namespace wren
