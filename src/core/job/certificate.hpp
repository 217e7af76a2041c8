// The certificate beside the programs (rule P8): what was proved, of which files, with which cutters and tolerances, so
// that a folder or a stick can be checked against it without the project. docs/file-format.md, "proof.json".
#pragma once

#include <set>

#include "core/job/prove.hpp"

namespace wren {

/// proof.json for one part whose programs were just proved (or refused: the verdict says so), and of their manifest of
/// that date.
[[nodiscard]] std::string certificate_of(const Project& project, const Planned& planned,
                                         const std::vector<PlacedProgram>& programs, const PartProof& proof,
                                         const std::string& date);

struct FolderCheck {
  struct Part {
    std::string part;
    std::string verdict;  // as certified, "PROVED" where all is well
    std::string date;
    std::size_t programs = 0;
    std::vector<std::string> assumed;  // cutters whose lengths nobody measured
  };
  std::vector<Part> parts;
  std::vector<std::string> faults;  // sentences; empty: every file is the one that was proved
  std::vector<std::string> strays;  // programs that lie there too and that no certificate knows
  [[nodiscard]] bool passed() const;
};
/// Names of the files beside a set that look like programs and are not among `known`, in order. An old one may sort
/// before the set's first, and a hand may load it.
[[nodiscard]] std::vector<std::string> stray_programs(const std::filesystem::path& folder,
                                                      const std::set<std::string>& known);

/// Holds a folder against its own manifest.json and proof.json, or every part's subfolder against those that stand
/// there. Refused where there is no manifest or certificate, or they cannot be read.
[[nodiscard]] Expected<FolderCheck> check_folder(const std::filesystem::path& folder);

}  // namespace wren
