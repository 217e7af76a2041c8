// Pictures beside a project: kept by the hash of their bytes, carried along, told when they are gone; and what the file
// of a project says of where they lie.
#include <filesystem>
#include <fstream>

#include "core/document/document.hpp"
#include "core/document/files.hpp"
#include "core/document/picture_files.hpp"
#include "core/program/manifest.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

namespace fs = std::filesystem;

struct Folder {
  fs::path path = fs::temp_directory_path() / ("wren-pictures-" + random_name());
  Folder() { fs::create_directories(path); }
  ~Folder() { fs::remove_all(path); }
  [[nodiscard]] fs::path write(const std::string& name, const std::string& bytes) const {
    std::ofstream(path / name, std::ios::binary) << bytes;
    return path / name;
  }
};

PlacedPicture named(const std::string& hash) {
  PlacedPicture p;
  p.hash = hash;
  p.name = "scan.png";
  p.part = "neck";
  p.view = "side";
  return p;
}

}  // namespace

TEST_CASE("a picture is kept once, under the hash of its bytes, beside the project", "[picture]") {
  const Folder folder;
  const fs::path project = folder.path / "my guitar.wren";
  const fs::path scan = folder.write("scan.PNG", "pixels");
  const auto hash = keep_picture(project, scan);
  INFO((hash ? "" : hash.error().text()));
  REQUIRE(hash);
  CHECK(*hash == sha256_hex("pixels"));
  CHECK(fs::exists(folder.path / "my guitar.pictures" / (*hash + ".png")));
  CHECK(*keep_picture(project, scan) == *hash);
  CHECK(*keep_picture(project, folder.write("again.png", "pixels")) == *hash);
  CHECK(std::distance(fs::directory_iterator(pictures_folder(project)), fs::directory_iterator()) == 1);
  const auto there = kept_picture(project, named(*hash));
  REQUIRE(there);
  CHECK(*read_file(*there, 100) == "pixels");
}

TEST_CASE("what cannot be kept is a sentence", "[picture]") {
  const Folder folder;
  const fs::path project = folder.path / "p.wren";
  for (const auto& [file, words] :
       {std::pair{folder.write("a.gif", "x"), "PNG, JPEG and PDF"}, std::pair{folder.path / "gone.png", "gone.png"},
        std::pair{folder.path, "PNG, JPEG and PDF"}}) {
    const auto kept = keep_picture(project, file);
    REQUIRE_FALSE(kept);
    CHECK(kept.error().text().find(words) != std::string::npos);
  }
  CHECK(keep_picture({}, folder.write("b.png", "x")).error().text().find("Save the project first") !=
        std::string::npos);
}

TEST_CASE("a picture that is gone, or no longer what it was, is told, and nothing else is lost", "[picture]") {
  const Folder folder;
  const fs::path project = folder.path / "p.wren";
  const auto hash = keep_picture(project, folder.write("scan.png", "pixels"));
  REQUIRE(hash);
  const fs::path kept = pictures_folder(project) / (*hash + ".png");
  std::ofstream(kept) << "other";
  const auto changed = kept_picture(project, named(*hash));
  REQUIRE_FALSE(changed);
  CHECK(changed.error().kind == ProblemKind::changed);
  fs::remove(kept);
  const auto gone = kept_picture(project, named(*hash));
  REQUIRE_FALSE(gone);
  CHECK(gone.error().text().find("scan.png") != std::string::npos);
  // A hash from a file is no way out of the folder.
  for (const char* hash_of_evil : {"../../../etc/passwd", "", "..", "ABCDEF"})
    CHECK_FALSE(kept_picture(project, named(hash_of_evil)));
}

TEST_CASE("saved under another name a project takes its pictures along", "[picture]") {
  const Folder folder;
  const fs::path one = folder.path / "one.wren";
  Document document(all_parts().book(), *project_from("plain"));
  REQUIRE(document.save(one, {"a test", "now"}));
  const auto hash = keep_picture(one, folder.write("scan.png", "pixels"));
  REQUIRE(hash);
  Project with = document.project();
  with.pictures = {named(*hash), named(sha256_hex("never there"))};
  document.history().change(with, "Lay a picture");
  std::vector<std::string> notes;
  const fs::path two = folder.path / "other place" / "two.wren";
  fs::create_directories(two.parent_path());
  REQUIRE(document.save(two, {"a test", "now"}, Document::Over::ask, &notes));
  CHECK(kept_picture(two, named(*hash)));
  CHECK(kept_picture(one, named(*hash)));
  REQUIRE(notes.size() == 1);  // of the one that is gone
  CHECK(notes.front().find("gone") != std::string::npos);
  const auto back = load_project(all_parts().book(), two);
  REQUIRE(back);
  CHECK(back->pictures == with.pictures);
}

TEST_CASE("a project's pictures come back from its file, and what cannot be is refused by its place", "[picture]") {
  const FieldBook& book = all_parts().book();
  Project p = *project_from("plain");
  PlacedPicture picture = named(sha256_hex("x"));
  picture.view = "section";
  picture.station = 123.4;
  picture.low = {-12.5, 88};
  picture.mm_per_pixel = 0.1693;
  picture.angle_deg = -91.5;
  picture.mirrored = true;
  picture.fade = 0.3;
  picture.page = 7;
  p.pictures = {picture};
  const std::string text = project_to_json(book, p);
  const auto back = project_from_json(book, text, "p.wren");
  REQUIRE(back);
  CHECK(back->pictures == p.pictures);
  CHECK(back->unknown.empty());
  // None: the file says nothing of pictures, as ever.
  CHECK(project_to_json(book, *project_from("plain")).find("pictures") == std::string::npos);
  for (const auto& [from, to] :
       std::vector<std::pair<std::string, std::string>>{{"\"section\"", "\"roof\""},
                                                        {picture.hash, "abc"},
                                                        {picture.hash, std::string(62, 'a').append("/.")},
                                                        {"\"mm_per_pixel\": 0.1693", "\"mm_per_pixel\": 0"},
                                                        {"\"mm_per_pixel\": 0.1693", "\"mm_per_pixel\": 1e300"},
                                                        {"\"fade\": 0.3", "\"fade\": -1"},
                                                        {"\"page\": 7", "\"page\": 0"},
                                                        {"\"angle\": -91.5", "\"angle\": 1e9"}}) {
    INFO(from << " -> " << to);
    std::string bad = text;
    const auto at = bad.find(from);
    REQUIRE(at != std::string::npos);
    bad.replace(at, from.size(), to);
    const auto refused = project_from_json(book, bad, "p.wren");
    REQUIRE_FALSE(refused);
    CHECK(refused.error().where.find("/pictures") != std::string::npos);
  }
}

TEST_CASE("where pictures lie changes no fingerprint, and another instrument has none", "[picture]") {
  Project p = *project_from("reedling");
  const std::string before = print_of(p, "body");
  p.pictures = {named(sha256_hex("x"))};
  CHECK(print_of(p, "body") == before);
  CHECK(without_facts(p).pictures.empty());
}

}  // namespace wren
