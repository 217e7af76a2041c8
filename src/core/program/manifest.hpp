// manifest.json: what stands beside the programs so that anybody can check them without us (docs/file-format.md).
// Lengths mm, times s, frame: work, with the transform instrument → work given as a 4 × 4 matrix.
#pragma once

#include <string>
#include <vector>

#include "core/motion/toolpath.hpp"

namespace wren {

struct ProgramFile {
  std::string file;  // name within the folder
  std::string text;
  std::vector<std::string> cuts;
  std::vector<std::string> cutters;  // rack identities, in order of use
  double seconds = 0;
  Extents extents;
};

/// SHA-256 in hex (FIPS 180-4; by OpenSSL).
[[nodiscard]] std::string sha256_hex(std::string_view bytes);

struct ManifestFacts {
  std::string project;
  std::string date;
  std::string part;
  std::string setup;  // e.g. "top side, centre ticks, zero at the blank's lower-left top corner"
};

/// The programs of one placement on the machine.
struct ManifestPart {
  ManifestFacts facts;
  std::vector<ProgramFile> files;
  Setup setup;
};

/// Project and date are those of the first part.
[[nodiscard]] std::string write_manifest(const std::vector<ManifestPart>& parts, const Rack& rack);

}  // namespace wren
