// manifest.json: what stands beside the programs so that anybody can check them without us (docs/file-format.md).
// Lengths mm, times s, frame: work, with the transform instrument → work given as a 4 × 4 matrix.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/motion/toolpath.hpp"
#include "core/program/shared_text.hpp"
#include "core/report/problem.hpp"

namespace wren {

struct ProgramFile {
  std::string file;  // name within the folder
  SharedText text;
  std::vector<std::string> cuts;
  std::vector<std::string> cutters;  // rack identities, in order of use
  double seconds = 0;
  Extents extents;
  std::vector<std::string> after{};  // files of its side that have to have run
};

/// SHA-256 in hex (FIPS 180-4; by OpenSSL).
[[nodiscard]] std::string sha256_hex(std::string_view bytes);

struct ManifestFacts {
  std::string project;
  std::string date;
  std::string part;
  std::string setup;                   // e.g. "top side, centre ticks, zero at the blank's lower-left top corner"
  std::string piece;                   // programs of one piece of wood belong together
  std::string side;                    // of the piece: one placement on the machine
  std::vector<std::string> earlier{};  // files that have cut the same piece before, on another side
};

/// The programs of one placement on the machine.
struct ManifestPart {
  ManifestFacts facts;
  std::vector<ProgramFile> files;
  Setup setup;
};

/// Project and date are those of the first part; `fingerprint` names the numbers they were made from.
[[nodiscard]] std::string write_manifest(const std::vector<ManifestPart>& parts, const Rack& rack,
                                         const std::string& fingerprint);

/// True for a file's name within a folder: no path, nothing hidden.
[[nodiscard]] inline bool plain_name(const std::string& file) {
  return !file.empty() && file.find('/') == std::string::npos && file[0] != '.';
}

/// What a manifest says of the whole set; empty where it does not.
struct ManifestTitle {
  std::string project;
  std::string date;
  std::string fingerprint;
};
[[nodiscard]] ManifestTitle manifest_title(std::string_view manifest);

/// What a manifest says of one program file, for whoever checks a folder without the project.
struct ManifestEntry {
  std::string file;
  std::string sha256;
  std::string part;
  std::string piece;
  std::string side;
  std::vector<std::string> cuts{};
  std::vector<std::string> after{};  // files that have to have run: of its side and of sides before
  struct Tool {
    std::string id;
    int number = 0;
    std::string kind;
    double diameter = 0;
    double cutting_length = 0;
    double stickout = 0;
    double corner = 0;         // mm: of a rounded rim, or of the rounding it leaves
    double point_angle = 118;  // degrees, of a drill
    bool lengths_measured = false;
  };
  std::vector<Tool> cutters{};
  std::vector<double> matrix{};  // instrument → work, 16 numbers row by row; empty where it is none
  Vec3 blank{};                  // length, width, thickness
  Vec3 blank_corner{};           // lower-left corner of its top, work frame
  Vec3 zero_in_machine{};
  std::string found_by{};  // kind of the register that the wood is found by; empty where it is not said
  struct Probed {
    std::optional<Setup::Probe> place{};
    double z = 0;  // what z is set to there
  } probe{};
  double seconds = 0;
  Vec3 low{}, high{};                    // of the tip, work frame
  bool along_y = false;                  // the blank's length
  std::vector<std::uint32_t> restart{};  // lines it may be begun at again after a stop
};
/// Refused where the text is no manifest of this program.
[[nodiscard]] Expected<std::vector<ManifestEntry>> read_manifest(std::string_view text, const std::string& name);

}  // namespace wren
