#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/files.hpp"
#include "core/job/certificate.hpp"
#include "core/job/hand_words.hpp"
#include "core/job/program_folder.hpp"
#include "core/program/reader.hpp"

namespace wren {
namespace {

constexpr std::size_t largest_program = 512U << 20;
constexpr double same = 1e-4;  // mm, and parts of a rotation: numbers in a manifest are micrometres

Finding fault(const char* kind, const std::string& file, Words text, double number = 0, double limit = 0) {
  return {kind, Weight::stop, std::move(text), file, 0, {}, number, limit, "P2", 1};
}

/// Cutters that the manifest names against the rack.
void hold_cutters(const ManifestEntry& e, const Rack& rack, std::vector<Finding>& out) {
  std::map<int, std::string> numbers;  // a cutter may come back, two may not share a number
  if (e.cutters.empty())
    out.push_back(fault("manifest_cutter", e.file, worded("The manifest names no cutter for {}.", e.file)));
  for (const ManifestEntry::Tool& t : e.cutters) {
    if (numbers.try_emplace(t.number, t.id).first->second != t.id)
      out.push_back(fault("manifest_cutter", e.file, worded("The manifest gives T{} to two cutters.", t.number)));
    const Cutter* c = find_cutter(rack, t.id);
    if (c == nullptr) {
      out.push_back(fault("manifest_cutter", e.file, worded("The manifest's cutter '{}' is not in the rack.", t.id)));
      continue;
    }
    const auto differs = [&](const char* what, double there, double here) {
      if (std::abs(there - here) <= same) return;  // what is no number is not the same
      out.push_back(fault(
          "manifest_cutter", e.file,
          worded("The manifest gives '{}' a {} of {}; the rack says {}. The project rules.", t.id, what, there, here),
          there, here));
    };
    differs("number", t.number, c->number);
    differs("diameter", t.diameter, c->effective_diameter());
    differs("cutting length", t.cutting_length, c->cutting_length);
    differs("stickout", t.stickout, c->stickout);
    if (c->kind == CutterKind::drill) differs("point", t.point_angle, c->point_angle_deg);
    const bool round = c->kind == CutterKind::ball || c->kind == CutterKind::round_nose;
    differs("rounding", t.corner, round ? c->rounding() : c->kind == CutterKind::round_over ? c->corner_radius : 0);
    if (t.lengths_measured != c->lengths_measured)
      out.push_back(fault("manifest_cutter", e.file,
                          t.lengths_measured
                              ? worded("The manifest calls the lengths of '{}' measured; nobody has.", t.id)
                              : worded("The manifest calls the lengths of '{}' assumed; they were measured.", t.id)));
    if (t.kind != cutter_kind_name(c->kind))
      out.push_back(
          fault("manifest_cutter", e.file,
                worded("The manifest calls '{}' a {}; the rack says {}.", t.id, t.kind, cutter_kind_name(c->kind))));
  }
}

/// The frame a program is written in, and the wood under it, against the project's.
void hold_frame(const ManifestEntry& e, const Setup& setup, std::vector<Finding>& out) {
  const auto wanted = setup.matrix();
  bool well = e.matrix.size() == wanted.size();
  for (std::size_t k = 0; well && k < wanted.size(); ++k) well = std::abs(e.matrix[k] - wanted[k]) <= same;
  if (!well)
    out.push_back(fault("manifest_frame", e.file,
                        worded("The manifest puts {} into another frame than the project's set-up.", e.file)));
  if (e.found_by != register_id(setup.found_by.kind))
    out.push_back(fault("manifest_register", e.file,
                        worded("The manifest lets {} be found by '{}'; the project by '{}'.", e.file, e.found_by,
                               register_id(setup.found_by.kind))));
  const auto differs = [&](const char* what, double there, double here) {
    if (std::abs(there - here) <= same) return;
    out.push_back(
        fault("manifest_blank", e.file,
              worded("The manifest's blank for {} has a {} of {}; the project's has {}.", e.file, what, there, here),
              there, here));
  };
  differs("length", e.blank.x, setup.blank.length);
  differs("width", e.blank.y, setup.blank.width);
  differs("thickness", e.blank.z, setup.blank.thickness);
  if (e.along_y != (setup.blank.lie == Lie::along_y))
    out.push_back(fault("manifest_blank", e.file,
                        worded("The manifest lays the blank for {} along {}; the project lays it along {}.", e.file,
                               e.along_y ? "y" : "x", e.along_y ? "x" : "y")));
  const auto elsewhere = [&](const char* what, Vec3 there, Vec3 here) {
    if (distance(there, here) <= 3 * same) return;
    out.push_back(fault(
        "manifest_frame", e.file,
        worded(
            "The manifest puts {} for {} at x {:.3f}, y {:.3f}, z {:.3f}; the project at x {:.3f}, y {:.3f}, z {:.3f}.",
            what, e.file, there.x, there.y, there.z, here.x, here.y, here.z),
        distance(there, here)));
  };
  elsewhere("the zero on the machine", e.zero_in_machine, setup.zero_in_machine);
  elsewhere("the blank's corner", e.blank_corner, setup.blank_corner);
}

/// What the manifest tells a hand of a program, in words and beyond what others read of it: against the project.
struct Said {
  std::string setup;
  struct Tool {
    std::string id;
    double shank = -1;
    bool centre = false;
  };
  std::vector<Tool> cutters;
};

std::map<std::string, Said> said_in(const std::string& manifest) {
  std::map<std::string, Said> out;
  const auto doc = nlohmann::json::parse(manifest, nullptr, false);
  if (!doc.is_object() || !doc.contains("programs") || !doc["programs"].is_array()) return out;
  for (const auto& p : doc["programs"]) {
    if (!p.is_object() || !p.contains("file") || !p["file"].is_string()) continue;
    Said& one = out[p["file"].get<std::string>()];
    if (p.contains("setup") && p["setup"].is_string()) one.setup = p["setup"].get<std::string>();
    const auto tool = [&](const nlohmann::json& c) {
      if (!c.is_object() || !c.contains("id") || !c["id"].is_string()) return;
      one.cutters.push_back({c["id"].get<std::string>(),
                             c.contains("shank_mm") && c["shank_mm"].is_number() ? c["shank_mm"].get<double>() : -1,
                             c.contains("cuts_at_centre") && c["cuts_at_centre"] == true});
    };
    if (p.contains("cutter")) tool(p["cutter"]);
    if (p.contains("cutters") && p["cutters"].is_array())
      for (const auto& c : p["cutters"]) tool(c);
  }
  return out;
}

void hold_said(const std::string& file, const Said& said, const Side& side, const Rack& rack,
               std::vector<Finding>& out) {
  if (const std::string own = side.title + ": " + side.seat; said.setup != own)
    out.push_back(fault("manifest_setup", file,
                        worded("The manifest says of {}: '{}'. The project: '{}'.", file, said.setup, own)));
  for (const Said::Tool& t : said.cutters) {
    const Cutter* c = find_cutter(rack, t.id);
    if (c == nullptr) continue;  // told already
    if (!(std::abs(t.shank - c->shank()) <= same))
      out.push_back(fault("manifest_cutter", file,
                          worded("The manifest gives '{}' a shank of {}; the rack says {}.", t.id, t.shank, c->shank()),
                          t.shank, c->shank()));
    if (t.centre != c->centre_cutting)
      out.push_back(fault("manifest_cutter", file,
                          t.centre ? worded("The manifest lets '{}' cut at its middle; the rack does not.", t.id)
                                   : worded("The manifest does not let '{}' cut at its middle; the rack does.", t.id)));
  }
}

/// The ground and depth that the manifest says a program stays within: what is cut must lie in it.
void hold_extents(const ManifestEntry& e, const ReadProgram& read, std::vector<Finding>& out) {
  constexpr double slack = 0.05;  // mm
  double beyond = slack;
  std::optional<Vec3> at;
  for (const ReadMove& m : read.moves) {
    if (m.to.z >= 0 || m.kind == ReadKind::rapid) continue;
    const double here = std::max({e.low.x - m.to.x, m.to.x - e.high.x, e.low.y - m.to.y, m.to.y - e.high.y,
                                  e.low.z - m.to.z, m.to.z - e.high.z});
    if (here <= beyond) continue;
    beyond = here;
    at = m.to;
  }
  if (!at) return;
  out.push_back(fault("manifest_extents", e.file,
                      worded("{} cuts {} outside of where the manifest says that it stays.", e.file, mm(beyond)),
                      beyond, slack));
  out.back().at = *at;
}

/// Where a cut works, its cutter's width included.
Box2 ground_of(const Placement& side, const std::string& cut, const Rack& rack) {
  Box2 out;
  for (const Toolpath& path : side.paths) {
    const Cutter* c = find_cutter(rack, path.cutter);
    const auto k = std::find(path.cuts.begin(), path.cuts.end(), cut);
    if (c == nullptr || k == path.cuts.end()) continue;
    const Vec2 r{c->radius(), c->radius()};
    for (const Move& m : path.moves)
      if (m.cut == static_cast<std::uint16_t>(k - path.cuts.begin()) && m.kind != MoveKind::rapid) {
        out.add(flat(m.to) - r);
        out.add(flat(m.to) + r);
      }
  }
  return out;
}

/// The project's own order, whatever the manifest asks for: cuts of one side that meet run as they were planned, and
/// those that wait for a hand after everything before them.
void hold_order(const std::vector<ManifestEntry>& entries, const Planned& planned, std::vector<Finding>& out) {
  struct Done {
    const ManifestEntry* entry;
    Box2 ground;
  };
  for (const Placement& side : planned.cuts.sides) {
    std::vector<std::optional<Done>> by_cut;  // in the planned order
    std::vector<std::size_t> rank;            // in the folder's order
    for (const Cut& cut : side.cuts) {
      std::size_t at = 0;
      by_cut.emplace_back();
      rank.push_back(0);
      for (const ManifestEntry& e : entries) {
        for (const std::string& c : e.cuts) {
          ++at;
          if (e.part != planned.part || e.side != side.id || c != cut.id || by_cut.back()) continue;
          by_cut.back() = Done{&e, ground_of(side, cut.id, planned.rack)};
          rank.back() = at;
        }
      }
    }
    for (std::size_t j = 0; j < by_cut.size(); ++j)
      for (std::size_t i = 0; i < j; ++i) {
        if (!by_cut[i] || !by_cut[j] || rank[i] <= rank[j]) continue;
        const Box2& a = by_cut[i]->ground;
        const Box2& b = by_cut[j]->ground;
        const bool meet = a.low.x < b.high.x && b.low.x < a.high.x && a.low.y < b.high.y && b.low.y < a.high.y;
        if (!meet && !side.cuts[j].stop_before) continue;
        out.push_back(fault("order", by_cut[j]->entry->file,
                            worded("'{}' runs before '{}'; the project has them the other way round.",
                                   side.cuts[j].title, side.cuts[i].title)));
        return;  // one is enough to say no
      }
  }
}

/// Wood that is glued or sawn from other pieces is cut after them, and a piece's sides one after the other.
void hold_pieces(const std::vector<ManifestEntry>& entries, const Planned& planned, std::vector<Finding>& out) {
  for (const Piece& piece : planned.made.pieces) {
    const ManifestEntry* latest = nullptr;
    std::size_t reached = 0;
    for (const ManifestEntry& e : entries) {
      if (e.part != planned.part || e.piece != piece.id) continue;
      const auto side =
          std::find_if(piece.sides.begin(), piece.sides.end(), [&](const Side& s) { return s.id == e.side; });
      const auto at = static_cast<std::size_t>(side - piece.sides.begin());
      if (at < reached) {
        out.push_back(fault("order", e.file,
                            worded("{} is for '{}', and runs after {}, which is for '{}'.", e.file, side->title,
                                   latest->file, piece.sides[reached].title)));
        return;  // one is enough to say no
      }
      reached = at;
      latest = &e;
    }
  }
  for (const Piece& piece : planned.made.pieces)
    for (const std::string& before : piece.after) {
      const auto of = [&](const std::string& id) {
        return [&planned, id](const ManifestEntry& e) { return e.part == planned.part && e.piece == id; };
      };
      const auto first = std::find_if(entries.begin(), entries.end(), of(piece.id));
      const auto late = std::find_if(first, entries.end(), of(before));
      if (late == entries.end()) continue;
      out.push_back(fault("order", first->file,
                          worded("'{}' is cut before '{}', of which it is made ({}).", piece.id, before, late->file)));
      return;  // one is enough to say no
    }
}

/// Where z is probed, and what it is set to there (M7).
void hold_probe(const ManifestEntry& e, const Side& side, FolderSet& out) {
  const auto fault_of = [&](const char* kind, Words text, double number = 0, double limit = 0) {
    out.findings.push_back(fault(kind, e.file, std::move(text), number, limit));
    out.findings.back().rule = "M7";
  };
  if (!e.probe.place)
    return fault_of("probe_unsaid", worded("The manifest does not say where z is probed for {}.", e.file));
  const double wanted = e.probe.place->on_board ? side.setup.bed_z() : 0;
  if (!(std::abs(e.probe.z - wanted) <= same))
    fault_of("probe_height",
             worded("The manifest has z set to {} where it is probed for {}; it stands at {} there.", e.probe.z, e.file,
                    wanted),
             e.probe.z, wanted);
  const auto [it, fresh] = out.probes.try_emplace(side.id, *e.probe.place);
  // Two places on one side are judged as the worse: programs are proved with one zero.
  if (!fresh && !(it->second == *e.probe.place))
    fault_of("probe_unsaid", worded("The manifest has z probed at several places on one side ({}).", e.file));
}

}  // namespace

void take_probes(const FolderSet& set, Planned& planned) {
  for (Piece& piece : planned.made.pieces)
    for (Side& side : piece.sides)
      if (const auto it = set.probes.find(side.id); it != set.probes.end()) side.setup.probe = it->second;
}

Expected<FolderSet> read_folder(const std::filesystem::path& named, const Planned& planned) {
  const std::filesystem::path folder = folder_with_manifest(named, planned.part);
  const std::string manifest = (folder / "manifest.json").string();
  auto text = read_file(folder / "manifest.json", largest_program);
  if (!text) return tl::unexpected(text.error());
  const auto entries = read_manifest(*text, manifest);
  if (!entries) return tl::unexpected(entries.error());
  const auto said = said_in(*text);
  FolderSet out;
  std::set<std::string> seen;
  std::set<std::pair<std::string, std::string>> cut;  // side and cut
  std::vector<ManifestEntry> as_run = *entries;       // cuts in the order in which the programs make them
  for (std::size_t k = 0; k < entries->size(); ++k) {
    const ManifestEntry& e = (*entries)[k];
    if (e.part != planned.part) continue;
    if (!plain_name(e.file))
      return fail(ProblemKind::format, worded("the manifest names a file outside its folder: '{}'", e.file),
                  folder.string(), "Write the programs again");
    auto program = read_file(folder / e.file, largest_program);
    if (!program) return tl::unexpected(program.error());
    if (sha256_hex(*program) != e.sha256)
      return fail(ProblemKind::format, "the program is not the one the manifest tells of", (folder / e.file).string(),
                  "Write the programs again; do not run this one");
    if (!seen.insert(e.file).second)
      out.findings.push_back(fault("manifest_twice", e.file, worded("The manifest names {} twice.", e.file)));
    const Side* side = nullptr;
    for (const Piece& p : planned.made.pieces)
      for (const Side& s : p.sides)
        if (p.id == e.piece && s.id == e.side) side = &s;
    if (side == nullptr)
      return fail(ProblemKind::format,
                  worded("{} is for the side '{}' of '{}', which the project does not have", e.file, e.side, e.piece),
                  manifest, "Write the programs again");
    hold_cutters(e, planned.rack, out.findings);
    hold_frame(e, side->setup, out.findings);
    hold_probe(e, *side, out);
    if (const auto words = said.find(e.file); words != said.end())
      hold_said(e.file, words->second, *side, planned.rack, out.findings);
    // What cannot be read the proof says.
    const auto read = read_for_words(*program, e.file);
    if (read) hold_extents(e, *read, out.findings);
    for (const std::string& c : e.cuts) cut.insert({e.side, c});
    if (read) {
      Side told = *side;
      if (e.probe.place) told.setup.probe = e.probe.place;
      hold_hand_words(e.file, e.cuts, *read, told, planned, out.findings);
      if (const Placement* placement = planned.cuts.side(e.side))
        as_run[k].cuts = cuts_as_run(e.cuts, *read, *placement, planned.rack);
    }
    PlacedProgram p{e.piece, e.side, {}};
    p.file.file = e.file;
    p.file.text = std::move(*program);
    for (const ManifestEntry::Tool& t : e.cutters) p.file.cutters.push_back(t.id);
    out.programs.push_back(std::move(p));
  }
  if (out.programs.empty())
    return fail(ProblemKind::input, worded("the folder's manifest names no program of the part '{}'", planned.part),
                folder.string(), "Choose the part with --part");
  // Whole: every operation of the part stands in some program.
  for (const Piece& p : planned.made.pieces)
    for (const Side& s : p.sides)
      for (const Operation& op : s.operations)
        if (const Placement* placement = planned.cuts.side(s.id); placement != nullptr)
          for (const Cut& c : placement->cuts)
            if (c.id == op.id && !cut.contains({s.id, c.id}))
              out.findings.push_back(fault(
                  "cut_missing", "", worded("No program of the folder makes the cut '{}' of {}.", op.title, s.title)));
  // In an allowed order.
  std::set<std::string> done;
  for (const ManifestEntry& e : *entries) {
    if (e.part != planned.part) continue;
    for (const std::string& before : e.after)
      if (!done.contains(before))
        out.findings.push_back(fault("order", e.file,
                                     seen.contains(before)
                                         ? worded("{} runs before {}, which has to be done first.", e.file, before)
                                         : worded("{} needs {}, which is not among the programs.", e.file, before)));
    done.insert(e.file);
  }
  std::set<std::string> named_there;
  for (const ManifestEntry& e : *entries) named_there.insert(e.file);
  for (const std::string& stray : stray_programs(folder, named_there)) {
    out.findings.push_back(
        fault("stray_program", stray, worded("{} lies there too, and no manifest names it: it is not proved.", stray)));
    out.findings.back().weight = Weight::think_again;
  }
  hold_order(as_run, planned, out.findings);
  hold_pieces(*entries, planned, out.findings);
  return out;
}

}  // namespace wren
