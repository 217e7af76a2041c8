#include "core/document/picture_files.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/document/files.hpp"
#include "core/program/manifest.hpp"
#include "core/report/names.hpp"

namespace wren {
namespace {

std::string ending_of(const std::filesystem::path& file) {
  std::string ending = file.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return ending == ".jpeg" ? ".jpg" : ending;
}

bool is_picture(const std::string& ending) { return ending == ".png" || ending == ".jpg" || ending == ".pdf"; }

}  // namespace

std::filesystem::path pictures_folder(const std::filesystem::path& project) {
  std::filesystem::path out = project;
  return out.replace_extension(".pictures");
}

Expected<std::string> keep_picture(const std::filesystem::path& project, const std::filesystem::path& picture) {
  if (project.empty())
    return fail(ProblemKind::input, "a picture is kept beside its project, and the project has no file yet",
                picture.string(), "Save the project first");
  const std::string ending = ending_of(picture);
  if (!is_picture(ending))
    return fail(ProblemKind::unsupported, "only PNG, JPEG and PDF are laid under a drawing", picture.string(),
                "Save it as one of these");
  const auto bytes = read_file(picture, largest_picture);
  if (!bytes) return tl::unexpected(bytes.error());
  const std::string hash = sha256_hex(*bytes);
  const std::filesystem::path folder = pictures_folder(behind_links(project));
  const std::filesystem::path to = folder / (hash + ending);
  std::error_code none;
  if (std::filesystem::exists(to, none)) return hash;
  std::filesystem::create_directories(folder, none);
  if (none)
    return fail(ProblemKind::file, "its folder cannot be made: " + none.message(), folder.string(),
                "Check your rights there, or save the project elsewhere");
  if (const auto written = write_file_atomically(to, *bytes); !written) return tl::unexpected(written.error());
  return hash;
}

Expected<std::filesystem::path> kept_picture(const std::filesystem::path& project, const PlacedPicture& picture) {
  const std::filesystem::path folder = pictures_folder(behind_links(project));
  // The hash is from a file: it may be anything.
  const bool plain = picture.hash.size() == 64 && std::all_of(picture.hash.begin(), picture.hash.end(),
                                                              [](unsigned char c) { return std::isxdigit(c); });
  for (const char* ending : {".png", ".jpg", ".pdf"}) {
    if (!plain) break;
    const std::filesystem::path file = folder / (picture.hash + ending);
    std::error_code none;
    if (!std::filesystem::is_regular_file(file, none)) continue;
    const auto bytes = read_file(file, largest_picture);
    if (!bytes) return tl::unexpected(bytes.error());
    if (sha256_hex(*bytes) != picture.hash)
      return fail(ProblemKind::changed, worded("the picture '{}' is no longer what it was", picture.name),
                  file.string(), "Lay it under the drawing again, from where it came from");
    return file;
  }
  return fail(ProblemKind::file, worded("the picture '{}' is gone", picture.name), folder.string(),
              "Put it back there, lay it again, or take it off; the drawing itself has lost nothing");
}

void carry_pictures(const std::filesystem::path& from, const std::filesystem::path& to,
                    const std::vector<PlacedPicture>& pictures, std::vector<std::string>& notes) {
  if (from.empty() || pictures_folder(from) == pictures_folder(to)) return;
  for (const PlacedPicture& p : pictures) {
    const auto file = kept_picture(from, p);
    if (!file) {
      notes.push_back(file.error().text());
      continue;
    }
    if (const auto kept = keep_picture(to, *file); !kept) notes.push_back(kept.error().text());
  }
}

}  // namespace wren
