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

/// True for the same words, places and numbers.
bool same_json(const nlohmann::json& a, const nlohmann::json& b) {
  if (a.is_number() && b.is_number()) return std::abs(a.get<double>() - b.get<double>()) <= same;
  if (a.type() != b.type() || a.size() != b.size()) return false;
  if (a.is_object())
    return std::all_of(a.items().begin(), a.items().end(),
                       [&](const auto& it) { return b.contains(it.key()) && same_json(it.value(), b[it.key()]); });
  if (a.is_array()) return std::equal(a.begin(), a.end(), b.begin(), same_json);
  return a == b;
}

/// Where two that differ do so first: its key, and both there.
struct Differ {
  std::string key, there, here;
};
Differ first_difference(const nlohmann::json& there, const nlohmann::json& here, const std::string& key) {
  if (there.is_object() && here.is_object())
    for (const auto& it : here.items()) {
      if (!there.contains(it.key())) return {it.key(), "nothing", it.value().dump()};
      if (!same_json(there[it.key()], it.value())) return first_difference(there[it.key()], it.value(), it.key());
    }
  return {key, there.dump(), here.dump()};
}

/// Everything that the manifest says of a program's place on the machine, its wood and its cutters, against what would
/// be written of the project.
void hold_said(const nlohmann::json& said, const ManifestEntry& e, const Side& side, const Rack& rack,
               std::vector<Finding>& out) {
  ManifestPart part;
  part.facts.setup = side.title + ": " + side.seat;
  part.setup = side.setup;
  part.files.push_back({e.file, {}, {}, {}, 0, {}, {}});
  for (const ManifestEntry::Tool& t : e.cutters) {
    if (find_cutter(rack, t.id) == nullptr) return;  // told already
    part.files.back().cutters.push_back(t.id);
  }
  const auto own = nlohmann::json::parse(write_manifest({part}, rack, ""))["programs"][0];
  const auto told = [&](const char* kind) {
    return std::any_of(out.begin(), out.end(),
                       [&](const Finding& f) { return f.kind == std::string(kind) && f.program == e.file; });
  };
  for (const auto& [key, kind] :
       {std::pair{"setup", "manifest_setup"}, std::pair{"instrument_to_work", "manifest_frame"},
        std::pair{"zero_in_machine_mm", "manifest_frame"}, std::pair{"register", "manifest_register"},
        std::pair{"blank_mm", "manifest_blank"}, std::pair{"cutter", "manifest_cutter"},
        std::pair{"cutters", "manifest_cutter"}}) {
    nlohmann::json there = said.contains(key) ? said[key] : nlohmann::json();
    nlohmann::json here = own.contains(key) ? own[key] : nlohmann::json();
    for (nlohmann::json* blank : {&there, &here})
      if (blank->is_object()) blank->erase("corner");  // a place of the frame's, told with that
    if (same_json(there, here) || told(kind)) continue;
    const Differ d = first_difference(there, here, key);
    out.push_back(fault(kind, e.file,
                        worded("The manifest says of {}: {} {}. The project: {}.", e.file, d.key, d.there, d.here)));
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

/// Made once a side.
class PlacesOfSides {
 public:
  const CutPlaces& of(const Placement& side) { return made_.try_emplace(side.id, side).first->second; }

 private:
  std::map<std::string, CutPlaces> made_;
};

/// What the manifest lets run before what: a run goes by that, not by the order in which files are listed.
class AskedOrder {
 public:
  explicit AskedOrder(const std::vector<ManifestEntry>& entries) {
    std::map<std::string, std::size_t> at;
    for (std::size_t k = 0; k < entries.size(); ++k) at.emplace(entries[k].file, k);
    after_.assign(entries.size(), std::vector<bool>(entries.size(), false));
    // They are listed in an order that they allow, or that is a finding of its own.
    for (std::size_t k = 0; k < entries.size(); ++k)
      for (const std::string& file : entries[k].after) {
        const auto it = at.find(file);
        if (it == at.end() || it->second >= k) continue;
        after_[k][it->second] = true;
        for (std::size_t j = 0; j < it->second; ++j)
          if (after_[it->second][j]) after_[k][j] = true;
      }
  }

  /// True where entry `first` has to have run, by itself or by way of others, before `then` may.
  [[nodiscard]] bool asks(std::size_t first, std::size_t then) const { return after_[then][first]; }

 private:
  std::vector<std::vector<bool>> after_;
};

Finding unasked(const ManifestEntry& first, const ManifestEntry& then) {
  return fault("order", then.file,
               worded("The manifest lets {} run before {}; in the project it comes after it.", then.file, first.file));
}

/// The project's own order, whatever the manifest asks for: cuts of one side that meet run as they were planned, and
/// those that wait for a hand after everything before them. What several programs work at counts wherever they do.
void hold_order(const std::vector<ManifestEntry>& entries, const Planned& planned, const AskedOrder& asked,
                std::vector<Finding>& out) {
  struct Run {
    std::size_t entry = 0;
    std::size_t rank = 0;  // in the folder's order
  };
  struct Done {
    Run first, last;
    Box2 ground;
  };
  for (const Placement& side : planned.cuts.sides) {
    std::vector<std::optional<Done>> by_cut;  // in the planned order
    for (const Cut& cut : side.cuts) {
      Run run;
      by_cut.emplace_back();
      for (run.entry = 0; run.entry < entries.size(); ++run.entry) {
        const ManifestEntry& e = entries[run.entry];
        for (const std::string& c : e.cuts) {
          ++run.rank;
          if (e.part != planned.part || e.side != side.id || c != cut.id) continue;
          if (!by_cut.back()) by_cut.back() = Done{run, run, ground_of(side, cut.id, planned.rack)};
          by_cut.back()->last = run;
        }
      }
    }
    for (std::size_t j = 0; j < by_cut.size(); ++j)
      for (std::size_t i = 0; i < j; ++i) {
        if (!by_cut[i] || !by_cut[j]) continue;
        const Run& first = by_cut[i]->last;
        const Run& then = by_cut[j]->first;
        const bool listed = first.rank <= then.rank;
        if (listed && (first.entry == then.entry || asked.asks(first.entry, then.entry))) continue;
        const Box2& a = by_cut[i]->ground;
        const Box2& b = by_cut[j]->ground;
        const bool meet = a.low.x < b.high.x && b.low.x < a.high.x && a.low.y < b.high.y && b.low.y < a.high.y;
        if (!meet && !side.cuts[j].stop_before) continue;
        out.push_back(listed
                          ? fault("order", entries[then.entry].file,
                                  worded("The manifest lets {} cut '{}' before {} cuts '{}'; in the project it comes "
                                         "after it.",
                                         entries[then.entry].file, side.cuts[j].title, entries[first.entry].file,
                                         side.cuts[i].title))
                          : fault("order", entries[then.entry].file,
                                  worded("'{}' runs before '{}'; the project has them the other way round.",
                                         side.cuts[j].title, side.cuts[i].title)));
        return;  // one is enough to say no
      }
  }
}

/// Wood that is glued or sawn from other pieces is cut after them, and a piece's sides one after the other; and the
/// manifest asks for that.
void hold_pieces(const std::vector<ManifestEntry>& entries, const Planned& planned, const AskedOrder& asked,
                 std::vector<Finding>& out) {
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
  struct Step {
    const Piece* piece = nullptr;  // none: another part's
    std::size_t side = 0;
  };
  std::vector<Step> steps;
  for (const ManifestEntry& e : entries) {
    steps.emplace_back();
    for (const Piece& piece : planned.made.pieces)
      for (std::size_t k = 0; k < piece.sides.size(); ++k)
        if (e.part == planned.part && piece.id == e.piece && piece.sides[k].id == e.side) steps.back() = {&piece, k};
  }
  for (std::size_t then = 0; then < entries.size(); ++then)
    for (std::size_t first = 0; first < then; ++first) {
      const auto [piece, side] = steps[then];
      const auto [from, on] = steps[first];
      if (piece == nullptr || from == nullptr || asked.asks(first, then)) continue;
      const bool made_of = std::find(piece->after.begin(), piece->after.end(), from->id) != piece->after.end();
      if (piece == from ? on >= side : !made_of) continue;
      out.push_back(unasked(entries[first], entries[then]));
      return;  // one is enough to say no
    }
}

/// Programs go to the machine on a stick, whose file system knows fewer letters than ours and one case of them.
void hold_name(const ManifestEntry& e, std::map<std::string, std::string>& seen, std::vector<Finding>& out) {
  const bool odd = std::any_of(e.file.begin(), e.file.end(), [](char c) {
    return c < 32 || c > 126 || std::string_view("\\/:*?\"<>|").find(c) != std::string_view::npos;
  });
  if (odd || e.file.back() == '.' || e.file.back() == ' ')
    out.push_back(fault("manifest_file", e.file, worded("No stick can hold a file of the name '{}'.", e.file)));
  std::string small = e.file;
  for (char& c : small) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
  if (const auto [it, fresh] = seen.try_emplace(small, e.file); !fresh && it->second != e.file)
    out.push_back(fault(
        "manifest_file", e.file,
        worded("On a stick {} and {} are one file: the second takes the first one's place.", it->second, e.file)));
}

/// Every program is for cuts that the project has on its side, and each cut is in one program: of another one nobody
/// could say when it may run.
void hold_cuts(const ManifestEntry& e, const Planned& planned,
               std::map<std::pair<std::string, std::string>, std::string>& by, std::vector<Finding>& out) {
  const Placement* placement = planned.cuts.side(e.side);
  const auto planned_cut = [&](const std::string& id) {
    return placement != nullptr &&
           std::any_of(placement->cuts.begin(), placement->cuts.end(), [&](const Cut& c) { return c.id == id; });
  };
  if (e.cuts.empty())
    out.push_back(fault("cut_unknown", e.file, worded("The manifest does not say what {} cuts.", e.file)));
  for (const std::string& c : e.cuts) {
    if (!planned_cut(c)) {
      out.push_back(fault("cut_unknown", e.file,
                          worded("The manifest has {} for '{}'; the project cuts no such thing there.", e.file, c)));
    } else if (const auto [it, fresh] = by.try_emplace({e.side, c}, e.file); !fresh && it->second != e.file) {
      out.push_back(
          fault("manifest_twice", e.file, worded("The manifest has both {} and {} for '{}'.", it->second, e.file, c)));
    }
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
  PlacesOfSides places;
  std::map<std::string, std::string> names;
  const auto said = nlohmann::json::parse(*text)["programs"];  // read_manifest() has looked at its shape
  FolderSet out;
  std::set<std::string> seen;
  std::map<std::pair<std::string, std::string>, std::string> cut;  // by side and cut: the program
  std::vector<ManifestEntry> as_run = *entries;                    // cuts in the order in which the programs make them
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
    hold_name(e, names, out.findings);
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
    hold_said(said[k], e, *side, planned.rack, out.findings);
    // What cannot be read the proof says.
    const auto read = read_for_words(*program, e.file);
    if (read) hold_extents(e, *read, out.findings);
    hold_cuts(e, planned, cut, out.findings);
    if (read) {
      Side told = *side;
      if (e.probe.place) told.setup.probe = e.probe.place;
      hold_hand_words(e.file, e.cuts, *read, told, planned, out.findings);
      if (const Placement* placement = planned.cuts.side(e.side))
        as_run[k].cuts = cuts_as_run(e.cuts, *read, *placement, places.of(*placement), planned.rack);
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
  const AskedOrder asked(*entries);
  hold_order(as_run, planned, asked, out.findings);
  hold_pieces(*entries, planned, asked, out.findings);
  return out;
}

void hold_running_order(const std::vector<PlacedProgram>& listed, const Planned& planned, std::vector<Finding>& out) {
  std::vector<ManifestEntry> entries;
  PlacesOfSides places;
  for (const PlacedProgram& p : listed) {
    ManifestEntry e{p.file.file, "", planned.part, p.piece, p.side};
    e.cuts = p.file.cuts;
    const Placement* placement = planned.cuts.side(p.side);
    if (const auto read = read_for_words(p.file.text.str(), p.file.file); read && placement != nullptr)
      e.cuts = cuts_as_run(e.cuts, *read, *placement, places.of(*placement), planned.rack);
    for (const ManifestEntry& before : entries) e.after.push_back(before.file);
    entries.push_back(std::move(e));
  }
  const AskedOrder asked(entries);
  hold_order(entries, planned, asked, out);
  hold_pieces(entries, planned, asked, out);
}

}  // namespace wren
