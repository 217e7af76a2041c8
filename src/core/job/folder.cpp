#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "core/document/files.hpp"
#include "core/job/programs.hpp"

namespace wren {
namespace {

constexpr std::size_t largest_program = 512U << 20;
constexpr double same = 1e-4;  // mm, and parts of a rotation: numbers in a manifest are micrometres

Finding fault(const char* kind, const std::string& file, std::string text, double number = 0, double limit = 0) {
  return {kind, Weight::stop, std::move(text), file, 0, {}, number, limit, "P2", 1};
}

/// Cutters that the manifest names against the rack.
void hold_cutters(const ManifestEntry& e, const Rack& rack, std::vector<Finding>& out) {
  std::set<int> numbers;
  if (e.cutters.empty())
    out.push_back(fault("manifest_cutter", e.file, fmt::format("The manifest names no cutter for {}.", e.file)));
  for (const ManifestEntry::Tool& t : e.cutters) {
    if (!numbers.insert(t.number).second)
      out.push_back(fault("manifest_cutter", e.file, fmt::format("The manifest gives T{} to two cutters.", t.number)));
    const Cutter* c = find_cutter(rack, t.id);
    if (c == nullptr) {
      out.push_back(
          fault("manifest_cutter", e.file, fmt::format("The manifest's cutter '{}' is not in the rack.", t.id)));
      continue;
    }
    const auto differs = [&](const char* what, double there, double here) {
      if (std::abs(there - here) <= same) return;
      out.push_back(fault("manifest_cutter", e.file,
                          fmt::format("The manifest gives '{}' a {} of {}; the rack says {}. The project rules.", t.id,
                                      what, there, here),
                          there, here));
    };
    differs("number", t.number, c->number);
    differs("diameter", t.diameter, c->effective_diameter());
    differs("cutting length", t.cutting_length, c->cutting_length);
    differs("stickout", t.stickout, c->stickout);
    if (t.kind != cutter_kind_name(c->kind))
      out.push_back(fault(
          "manifest_cutter", e.file,
          fmt::format("The manifest calls '{}' a {}; the rack says {}.", t.id, t.kind, cutter_kind_name(c->kind))));
  }
}

/// The frame a program is written in, and the wood under it, against the project's.
void hold_frame(const ManifestEntry& e, const Setup& setup, std::vector<Finding>& out) {
  const auto wanted = setup.matrix();
  bool well = e.matrix.size() == wanted.size();
  for (std::size_t k = 0; well && k < wanted.size(); ++k) well = std::abs(e.matrix[k] - wanted[k]) <= same;
  if (!well)
    out.push_back(fault("manifest_frame", e.file,
                        fmt::format("The manifest puts {} into another frame than the project's set-up.", e.file)));
  const auto differs = [&](const char* what, double there, double here) {
    if (std::abs(there - here) <= same) return;
    out.push_back(fault(
        "manifest_blank", e.file,
        fmt::format("The manifest's blank for {} has a {} of {}; the project's has {}.", e.file, what, there, here),
        there, here));
  };
  differs("length", e.blank.x, setup.blank.length);
  differs("width", e.blank.y, setup.blank.width);
  differs("thickness", e.blank.z, setup.blank.thickness);
}

}  // namespace

Expected<FolderSet> read_folder(const std::filesystem::path& folder, const Planned& planned) {
  const std::string manifest = (folder / "manifest.json").string();
  auto text = read_file(folder / "manifest.json", largest_program);
  if (!text) return tl::unexpected(text.error());
  const auto entries = read_manifest(*text, manifest);
  if (!entries) return tl::unexpected(entries.error());
  FolderSet out;
  std::set<std::string> seen;
  std::set<std::pair<std::string, std::string>> cut;  // side and cut
  for (const ManifestEntry& e : *entries) {
    if (e.part != planned.part) continue;
    if (e.file.empty() || e.file.find('/') != std::string::npos || e.file[0] == '.')
      return fail(ProblemKind::format, fmt::format("the manifest names a file outside its folder: '{}'", e.file),
                  folder.string(), "Write the programs again");
    auto program = read_file(folder / e.file, largest_program);
    if (!program) return tl::unexpected(program.error());
    if (sha256_hex(*program) != e.sha256)
      return fail(ProblemKind::format, "the program is not the one the manifest tells of", (folder / e.file).string(),
                  "Write the programs again; do not run this one");
    if (!seen.insert(e.file).second)
      out.findings.push_back(fault("manifest_twice", e.file, fmt::format("The manifest names {} twice.", e.file)));
    const Side* side = nullptr;
    for (const Piece& p : planned.made.pieces)
      for (const Side& s : p.sides)
        if (p.id == e.piece && s.id == e.side) side = &s;
    if (side == nullptr)
      return fail(
          ProblemKind::format,
          fmt::format("{} is for the side '{}' of '{}', which the project does not have", e.file, e.side, e.piece),
          manifest, "Write the programs again");
    hold_cutters(e, planned.rack, out.findings);
    hold_frame(e, side->setup, out.findings);
    for (const std::string& c : e.cuts) cut.insert({e.side, c});
    PlacedProgram p{e.piece, e.side, {}};
    p.file.file = e.file;
    p.file.text = std::move(*program);
    for (const ManifestEntry::Tool& t : e.cutters) p.file.cutters.push_back(t.id);
    out.programs.push_back(std::move(p));
  }
  if (out.programs.empty())
    return fail(ProblemKind::input,
                fmt::format("the folder's manifest names no program of the part '{}'", planned.part), folder.string(),
                "Choose the part with --part");
  // Whole: every operation of the part stands in some program.
  for (const Piece& p : planned.made.pieces)
    for (const Side& s : p.sides)
      for (const Operation& op : s.operations)
        if (const Placement* placement = planned.cuts.side(s.id); placement != nullptr)
          for (const Cut& c : placement->cuts)
            if (c.id == op.id && !cut.contains({s.id, c.id}))
              out.findings.push_back(
                  fault("cut_missing", "",
                        fmt::format("No program of the folder makes the cut '{}' of {}.", op.title, s.title)));
  // In an allowed order.
  std::set<std::string> done;
  for (const ManifestEntry& e : *entries) {
    if (e.part != planned.part) continue;
    for (const std::string& before : e.after)
      if (!done.contains(before))
        out.findings.push_back(fault(
            "order", e.file,
            seen.contains(before) ? fmt::format("{} runs before {}, which has to be done first.", e.file, before)
                                  : fmt::format("{} needs {}, which is not among the programs.", e.file, before)));
    done.insert(e.file);
  }
  return out;
}

}  // namespace wren
