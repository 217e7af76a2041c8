// What is done at the machine before a run: zero from the sheet's distances and a probe; and, at a simulated machine, a
// hand's deeds (a cutter put in, the blank laid or turned over). Frame: machine, mm.
#pragma once

#include "core/program/manifest.hpp"
#include "run/host.hpp"

namespace wren {

/// The line that sets the work zero of these axes, machine frame. Whatever ran before may have left the machine in
/// inches: it says its unit itself.
[[nodiscard]] std::string zero_line(std::optional<double> x, std::optional<double> y, std::optional<double> z);

/// Sets zero in x and y at the distances that the manifest gives.
[[nodiscard]] Expected<void> set_zero_by_sheet(Host& host, const ManifestEntry& entry);

/// z by a straight probe (G38.2) at the manifest's place, with the cutter that is in the spindle; the machine's z of
/// zero then. Refused: it meets nothing, cannot tell what it met, has no room.
[[nodiscard]] Expected<double> probe_z(Host& host, const ManifestEntry& entry);
/// The same where the machine cannot send what it met: its z there, as read off its panel.
[[nodiscard]] Expected<double> type_z(Host& host, const ManifestEntry& entry, double machine_z);

/// Straight up to z's top, spindle off: before a hand goes near, and before anything else after a stop.
[[nodiscard]] Expected<void> go_up(Host& host);

/// A simulated machine's spindle gets the program's cutter; goes up first.
[[nodiscard]] Expected<void> put_cutter(Host& host, const ManifestEntry::Tool& tool);
/// A simulated machine's bed gets the blank as the manifest has it.
[[nodiscard]] Expected<void> lay_blank(Host& host, const ManifestEntry& entry);
/// The wood that lies there is turned over, as the two sides' matrices say, and laid as the second has it.
[[nodiscard]] Expected<void> turn_blank(Host& host, const ManifestEntry& first, const ManifestEntry& second);

}  // namespace wren
