// Pictures beside a project: each kept once, under the hash of its bytes, in a folder of the project's own name. Undo
// and the project's file hold only where they lie.
#pragma once

#include <filesystem>

#include "core/plan/placed_picture.hpp"

namespace wren {

constexpr std::size_t largest_picture = std::size_t{64} << 20;  // bytes of a file

/// "NAME.wren" → "NAME.pictures".
[[nodiscard]] std::filesystem::path pictures_folder(const std::filesystem::path& project);

/// Copies a picture's file (PNG, JPEG, PDF by its ending) beside the project, unless it is there already; its hash.
/// Refused where the project has no file yet, the picture cannot be read, is too large, or cannot be written.
[[nodiscard]] Expected<std::string> keep_picture(const std::filesystem::path& project,
                                                 const std::filesystem::path& picture);

/// The file of a picture that is kept. Refused with what to do where it is gone, or is no longer what it was.
[[nodiscard]] Expected<std::filesystem::path> kept_picture(const std::filesystem::path& project,
                                                           const PlacedPicture& picture);

/// Pictures go with a project that is saved under another name; those that are gone are told in `notes`.
void carry_pictures(const std::filesystem::path& from, const std::filesystem::path& to,
                    const std::vector<PlacedPicture>& pictures, std::vector<std::string>& notes);

}  // namespace wren
