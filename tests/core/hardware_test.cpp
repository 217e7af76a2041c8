// The maker's own hardware: kept, put into the next instrument, and what cannot be.
#include <filesystem>
#include <fstream>

#include "core/document/files.hpp"
#include "core/document/hardware_shelf.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

namespace fs = std::filesystem;

struct Shelf {
  fs::path folder = fs::temp_directory_path() / ("wren-shelf-" + random_name());
  fs::path file = folder / "sub" / "hardware.json";
  ~Shelf() { fs::remove_all(folder); }
};

const FieldBook& book() { return all_parts().book(); }

}  // namespace

TEST_CASE("a pickup measured for one instrument is put into the next, at another place", "[hardware]") {
  const Project one = edited(*project_from("reedling"), {{"pickup.bridge.name", "twin-coil"},
                                                         {"pickup.bridge.length", "67.31"},
                                                         {"pickup.bridge.width", "37.05"},
                                                         {"pickup.bridge.from_bridge", "44"}});
  const auto piece = hardware_of(book(), one, "pickup.bridge", "the warm one", "2026-11-26");
  REQUIRE(piece);
  CHECK(piece->kind == "pickup");
  CHECK_FALSE(piece->sizes.contains("from_bridge"));  // where it stands is the instrument's
  Shelf shelf;
  std::vector<HardwarePiece> all;
  shelve(all, *piece);
  REQUIRE(write_hardware(shelf.file, all));
  const auto back = read_hardware(shelf.file);
  REQUIRE(back);
  CHECK(*back == all);
  // The neck's place of another instrument, which has no pickup there.
  const Project two = edited(*project_from("sedge"), {{"pickup.neck.from_bridge", "150"}});
  REQUIRE(body_of(two).body.pickups[0].name == "none");
  const auto edits = edits_for(book(), two, back->front(), "pickup.neck");
  REQUIRE(edits);
  const Project with = edited(two, *edits);
  const PickupNumbers& there = body_of(with).body.pickups[0];
  CHECK(there.name != "none");
  CHECK(there.length == 67.31);
  CHECK(there.width == 37.05);
  CHECK(there.from_bridge == 150);
}

TEST_CASE("a bridge keeps its kind and heights, and not when its holes are drilled", "[hardware]") {
  const Project one = edited(*project_from("reedling"), {{"bridge.name", "single-pieces"}, {"bridge.low", "8.7"}});
  const auto piece = hardware_of(book(), one, "bridge", "six brass ones", "2026-11-26");
  REQUIRE(piece);
  CHECK_FALSE(piece->sizes.contains("holes"));
  const auto edits = edits_for(book(), *project_from("reedling"), *piece, "bridge");
  REQUIRE(edits);
  const Project two = edited(edited(*project_from("reedling"), {{"bridge.holes", "held_back"}}), *edits);
  CHECK(body_of(two).body.bridge.kind == BridgeKind::pieces);
  CHECK(body_of(two).body.bridge.low == 8.7);
  CHECK(body_of(two).work.bridge_holes == BridgeHoles::held_back);
}

TEST_CASE("one of the same name gives way, one of another kind stays", "[hardware]") {
  const Project p = *project_from("reedling");
  std::vector<HardwarePiece> all;
  for (const char* where : {"bridge", "tuner", "rod", "bridge"}) {
    auto piece = hardware_of(book(), p, where, "mine", "2026-11-26");
    REQUIRE(piece);
    CHECK(piece->sizes.size() > 3);
    shelve(all, std::move(*piece));
  }
  CHECK(all.size() == 3);
  const auto wrong = edits_for(book(), p, all.front(), "pickup.neck");
  REQUIRE_FALSE(wrong);
  CHECK(wrong.error().text().size() > 30);
}

TEST_CASE("a list that is damaged, newer or none is a sentence, and left as it is", "[hardware]") {
  Shelf shelf;
  CHECK(read_hardware(shelf.file)->empty());  // none yet
  fs::create_directories(shelf.file.parent_path());
  for (const char* text :
       {"", "{", "[]", "{\"format\": \"other\"}", "{\"format\": \"upland-wren-hardware\"}",
        "{\"format\": \"upland-wren-hardware\", \"version\": 2, \"pieces\": []}",
        "{\"format\": \"upland-wren-hardware\", \"version\": 1, \"pieces\": 4}",
        "{\"format\": \"upland-wren-hardware\", \"version\": 1, \"pieces\": [{\"kind\": \"rod\"}]}",
        "{\"format\": \"upland-wren-hardware\", \"version\": 1, \"pieces\": [{\"kind\": \"rod\", \"name\": \"x\", "
        "\"sizes\": {\"width\": 6}}]}"}) {
    INFO(text);
    std::ofstream(shelf.file) << text;
    const auto read = read_hardware(shelf.file);
    REQUIRE_FALSE(read);
    CHECK(read.error().text().find("hardware.json") != std::string::npos);
    CHECK(*read_file(shelf.file, 1000) == text);
  }
  // A size that this version does not know is left out; sizes that cannot be are refused at the edit.
  HardwarePiece odd{"rod", "odd", "2026-11-26", {{"width", "6.1"}, {"colour", "blue"}}};
  const auto edits = edits_for(book(), *project_from("reedling"), odd, "rod");
  REQUIRE(edits);
  CHECK(edits->size() == 1);
  odd.sizes["width"] = "-4";
  CHECK_FALSE(with_edits(*project_from("reedling"), *edits_for(book(), *project_from("reedling"), odd, "rod")));
  CHECK_FALSE(hardware_of(book(), *project_from("reedling"), "strings", "x", ""));
  CHECK_FALSE(hardware_of(book(), *project_from("reedling"), "rod", "", ""));
}

}  // namespace wren
