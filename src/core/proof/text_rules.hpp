// What a program's text alone shows: how it begins, stops, changes cutters and ends, its feeds and speeds, the words
// that the machine's controller knows. Rules M3 to M6 of docs/proof.md.
#pragma once

#include "core/proof/finding.hpp"
#include "core/program/reader.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

/// Findings of one program, read with the same `machine_origin`; each kind once, at its worst place, with its count.
[[nodiscard]] std::vector<Finding> text_findings(const ReadProgram& program, const std::string& name,
                                                 const Machine& machine,
                                                 const std::function<Vec3(int tool)>& machine_origin);

/// Where the machine frame's origin lies in the work frame when a cutter with this stickout is in the spindle: z 0 of
/// the machine is its tip's height there.
[[nodiscard]] Vec3 machine_origin(const Setup& setup, double stickout);

}  // namespace wren
