// Before a program is run: what this program looks at itself, and what a person is asked. Nothing runs unless the
// certificate is of the very file, says PROVED, and every question is answered, with who and when. mm.
#pragma once

#include <filesystem>

#include "core/job/certificate.hpp"
#include "core/program/manifest.hpp"
#include "run/machine_state.hpp"
#include "core/record/shop_book.hpp"

namespace wren {

/// One program of a folder that was written, with everything that its manifest and certificate say of it.
struct ProgramAtHand {
  std::filesystem::path file;
  std::string text;  // as it was read and checked: this, and nothing read later, is sent
  ManifestEntry entry;
  std::string project, date, fingerprint;
  std::string proved_for;            // "PROVED for assumed lengths of T1 slot-0.58"
  std::vector<std::string> assumed;  // cutters of this very program whose lengths nobody measured
};
/// Refused: no manifest or certificate beside it, not the file that was proved, not PROVED, not among its programs.
[[nodiscard]] Expected<ProgramAtHand> program_at_hand(const std::filesystem::path& file);
/// Is it still the file that was looked at? Refused where it was changed since.
[[nodiscard]] Expected<void> still_the_same(const ProgramAtHand& program);

/// Something looked at: well, or a sentence why the run does not begin.
struct Check {
  std::string id;  // "certificate", "homed", "zero", "cutter", "room", "order"
  bool well = false;
  std::string words;
};
/// Something only a person can know. `caution`: of people's safety.
struct Question {
  std::string id;  // "cutter", "zero", "solids", "extraction", "eyes", "before", "no-blank"
  std::string words;
  bool caution = false;
};

/// How high a first run is raised: as high as fits under the machine, at most 25 (common practice), whole tenths.
/// Nothing where not even `least_raise` fits.
constexpr double most_raise = 25;
constexpr double least_raise = 0.5;
[[nodiscard]] std::optional<double> air_raise(const ManifestEntry& entry, double zero_z);

/// What the machine and the record say. `run_before`: files of this set that were run to their end, by hash.
[[nodiscard]] std::vector<Check> looked_at(const ProgramAtHand& program, const MachineState& state,
                                           const std::optional<Vec3>& travel, bool air);
/// The program takes each cutter's length from the machine's own table (G43).
[[nodiscard]] bool lengths_in_table(const ProgramAtHand& program);
/// Refused where z's zero is not to be set from here: a table of lengths has to be left out of it.
[[nodiscard]] Expected<void> z_can_be_set(const ProgramAtHand& program);
/// "Is T4 flat-3.175 (3.175 mm) in the spindle, sticking out 20 mm, its flutes 12 mm?"
[[nodiscard]] std::string cutter_question(const ManifestEntry::Tool& tool, const std::string& where);
/// `raise`: of an air pass, 0: none. `earlier`: programs that have to have run and of which the log knows nothing.
[[nodiscard]] std::vector<Question> to_ask(const ProgramAtHand& program, double raise,
                                           const std::vector<std::string>& earlier);
/// Programs that have to have run before this one and that the log does not know as done, of these very files.
[[nodiscard]] Expected<std::vector<std::string>> not_run_yet(const ProgramAtHand& program, ShopBook& book);

}  // namespace wren
