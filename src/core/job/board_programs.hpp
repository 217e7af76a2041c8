// Programs of the fretboard: their texts, their manifest, and the folder they are written into.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/job/board_cuts.hpp"
#include "core/program/manifest.hpp"

namespace wren {

/// Program texts in running order. `date` is passed in ("2026-11-24").
[[nodiscard]] std::vector<ProgramFile> board_programs(const Project& project, const BoardDesign& design,
                                                      const BoardCuts& cuts, const std::string& date);

/// One or more toolpaths as one program file, "name.ngc", with its cuts, cutters and extents.
[[nodiscard]] ProgramFile program_file(const Project& project, const Rack& rack, const ProgramHeader& header,
                                       const std::vector<const Toolpath*>& paths, const std::string& name,
                                       double seconds);

[[nodiscard]] std::string board_manifest(const Project& project, const BoardDesign& design,
                                         const std::vector<ProgramFile>& files, const std::string& date);

/// Writes programs and manifest into the folder (made where it is missing), each atomically, the manifest last. Refused
/// with what is wrong; programs already written then stand without a manifest, which `prove` points out.
[[nodiscard]] Expected<void> write_folder(const std::filesystem::path& folder, const std::vector<ProgramFile>& files,
                                          const std::string& manifest, Progress* progress = nullptr);

[[nodiscard]] std::vector<ProgramText> program_texts(const std::vector<ProgramFile>& files);

enum class Part { fretboard, neck, body };

/// A short name for the numbers a part is cut from: changes when any of them changes, and not with those of a part that
/// comes after it. Hex.
[[nodiscard]] std::string fingerprint(const Project& project, Part part = Part::fretboard);
/// The part that a kind of record belongs to: kinds of neck and body begin with their names.
[[nodiscard]] Part part_of_record(const std::string& kind);
/// "Upland Wren" to "upland-wren": names of program files.
[[nodiscard]] std::string file_safe(const std::string& name);

/// Adds or renews the record that something was written.
void remember(Project& project, const std::string& kind, const std::string& date, const std::string& path);
/// The last record of a kind; nullptr where there is none. `current` tells whether the numbers are still the same.
[[nodiscard]] const WrittenRecord* remembered(const Project& project, const std::string& kind, bool* current = nullptr);

/// Everything that says why the programs must not be written as they are; empty when they may.
[[nodiscard]] std::vector<Remark> all_remarks(const BoardDesign& design, const BoardCuts& cuts);

}  // namespace wren
