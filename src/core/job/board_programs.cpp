#include "core/job/board_programs.hpp"

#include <algorithm>
#include <cctype>

#include <fmt/format.h>

#include "core/document/project_file.hpp"

namespace wren {

std::string file_safe(const std::string& name) {
  std::string out;
  for (const char c : name) {
    if (std::isalnum(static_cast<unsigned char>(c)) != 0)
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? "project" : out.substr(0, 40);
}

namespace {

std::string zero_text(const Project& p) {
  return p.blank.zero == ZeroPlace::corner ? "lower-left corner of the blank, z = 0 on its top"
                                           : "middle of the blank's top, z = 0 on its top";
}

}  // namespace

ProgramFile program_file(const Project& p, const Rack& rack, const ProgramHeader& header,
                         const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) {
  ProgramFile file;
  file.file = name + ".ngc";
  file.text = write_program(paths, header, rack, {p.programs.units, p.programs.arcs, 0.002}, p.machine.change);
  file.seconds = seconds;
  for (const Toolpath* path : paths) {
    file.cuts.insert(file.cuts.end(), path->cuts.begin(), path->cuts.end());
    file.cutters.push_back(path->cutter);
    const Extents e = extents(*path);
    file.extents.low = {std::min(file.extents.low.x, e.low.x), std::min(file.extents.low.y, e.low.y),
                        std::min(file.extents.low.z, e.low.z)};
    file.extents.high = {std::max(file.extents.high.x, e.high.x), std::max(file.extents.high.y, e.high.y),
                         std::max(file.extents.high.z, e.high.z)};
  }
  return file;
}

std::vector<ProgramFile> board_programs(const Project& p, const BoardDesign& d, const BoardCuts& cuts,
                                        const std::string& date) {
  std::vector<ProgramFile> out;
  const ProgramHeader header{
      "fretboard", p.name,
      fmt::format("{} x {} x {} mm {}, length along {}", format_mm(p.blank.length), format_mm(p.blank.width),
                  format_mm(p.blank.thickness), p.blank.wood, p.blank.lie == Lie::along_x ? "x" : "y"),
      zero_text(p), date};
  const auto base = file_safe(p.name) + "-fretboard";
  const auto add = [&](const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) {
    out.push_back(program_file(p, d.rack, header, paths, name, seconds));
  };
  if (p.programs.files == ProgramFiles::one) {
    std::vector<const Toolpath*> all;
    for (const Toolpath& path : cuts.paths) all.push_back(&path);
    if (!all.empty()) add(all, base, cuts.seconds);
  } else {
    for (std::size_t i = 0; i < cuts.paths.size(); ++i)
      add({&cuts.paths[i]}, fmt::format("{}-{}-{}", base, i + 1, cuts.paths[i].cuts.front()), cuts.path_seconds[i]);
  }
  return out;
}

std::string board_manifest(const Project& p, const BoardDesign& d, const std::vector<ProgramFile>& files,
                           const std::string& date) {
  return write_manifest(
      {{{p.name, date, "fretboard", "top side up, centre ticks on the crossed lines, zero: " + zero_text(p)},
        files,
        d.setup}},
      d.rack);
}

Expected<void> write_folder(const std::filesystem::path& folder, const std::vector<ProgramFile>& files,
                            const std::string& manifest, Progress* progress) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error)
    return fail(ProblemKind::file, "the folder cannot be made: " + error.message(), folder.string(),
                "Choose another folder");
  double done = 0;
  for (const ProgramFile& f : files) {
    if (progress != nullptr && !progress->go_on(done++ / static_cast<double>(files.size() + 1), f.file))
      return fail(ProblemKind::stopped, "writing was stopped", folder.string(), "Write again before you cut");
    if (auto written = write_file_atomically(folder / f.file, f.text); !written) return written;
  }
  return write_file_atomically(folder / "manifest.json", manifest);
}

std::vector<ProgramText> program_texts(const std::vector<ProgramFile>& files) {
  std::vector<ProgramText> out;
  for (const ProgramFile& f : files) out.push_back({f.file, f.text, ""});
  return out;
}

std::string fingerprint(const Project& project, Part part) {
  Project numbers = project;
  numbers.written.clear();
  numbers.notes.clear();
  numbers.unknown.clear();
  if (part == Part::fretboard) {
    numbers.neck = {};
    numbers.neck_work = {};
    numbers.measured.clear();
  }
  if (part != Part::body) {
    numbers.body = {};
    numbers.body_work = {};
    std::erase_if(numbers.measured, [](const Measured& m) { return m.key.rfind("body", 0) == 0; });
  }
  return sha256_hex(project_to_json(numbers)).substr(0, 16);
}

Part part_of_record(const std::string& kind) {
  return kind.rfind("body", 0) == 0 ? Part::body : kind.rfind("neck", 0) == 0 ? Part::neck : Part::fretboard;
}

void remember(Project& project, const std::string& kind, const std::string& date, const std::string& path) {
  const std::string print = fingerprint(project, part_of_record(kind));
  std::erase_if(project.written, [&](const WrittenRecord& w) { return w.kind == kind && w.path == path; });
  project.written.push_back({kind, date, path, print});
}

const WrittenRecord* remembered(const Project& project, const std::string& kind, bool* current) {
  for (auto it = project.written.rbegin(); it != project.written.rend(); ++it)
    if (it->kind == kind) {
      if (current != nullptr) *current = it->fingerprint == fingerprint(project, part_of_record(kind));
      return &*it;
    }
  return nullptr;
}

std::vector<Remark> all_remarks(const BoardDesign& design, const BoardCuts& cuts) {
  std::vector<Remark> out = design.remarks;
  out.insert(out.end(), cuts.remarks.begin(), cuts.remarks.end());
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

}  // namespace wren
