// A proof told: as sentences or as JSON.
#pragma once

#include "cli/command.hpp"

namespace wren::cli {

[[nodiscard]] Json proof_json(const PartProof& proof);
/// Everything that was found, and the verdict last; when quiet, only what was found and the verdict.
void tell(const PartProof& proof, const std::string& part);
[[nodiscard]] Problem no_such_part(const std::string& part);

}  // namespace wren::cli
