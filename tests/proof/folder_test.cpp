// Folders that lie: a good set of the coupon's programs whose manifest is changed, one word at a time. Nothing is cut;
// the manifest is held against the project (rules P2, P5, M7, M9).
#include <catch2/catch.hpp>

#include <fstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <zlib.h>

#include "core/document/files.hpp"
#include "core/job/hand_words.hpp"
#include "support/made.hpp"

using namespace wren;
using Json = nlohmann::ordered_json;

namespace {

/// A set written once; every test changes a copy of its manifest.
class Set {
 public:
  explicit Set(const std::string& project = "plain", const std::string& part = "coupon",
               const std::function<void(Project&)>& change = {}) {
    Project p = *project_from(project);
    if (change) change(p);
    made_ = made(p, part);
    folder_ = std::filesystem::temp_directory_path() / ("wren-folder-" + fmt::to_string(::getpid()) + "-" + part);
    std::filesystem::remove_all(folder_);
    const auto written = write_folder(folder_, part, made_.programs, made_.manifest(), {}, {"a test", "now"});
    REQUIRE(written);
    folder_ = written->folder;
    manifest_ = Json::parse(*read_file(folder_ / "manifest.json", 16 << 20));
  }
  ~Set() { std::filesystem::remove_all(folder_); }
  Set(const Set&) = delete;
  Set& operator=(const Set&) = delete;

  [[nodiscard]] Expected<FolderSet> read(const std::function<void(Json&)>& change) const {
    Json m = manifest_;
    change(m["programs"]);
    std::ofstream(folder_ / "manifest.json") << m.dump(1);
    return read_folder(folder_, made_.planned);
  }
  /// Kinds of what is found, each with its rule: "P2 order".
  [[nodiscard]] std::vector<std::string> kinds(const std::function<void(Json&)>& change) const {
    const auto set = read(change);
    INFO((set ? "" : set.error().text()));
    REQUIRE(set);
    std::vector<std::string> out;
    for (const Finding& f : set->findings)
      if (const std::string k = f.rule + " " + f.kind; std::find(out.begin(), out.end(), k) == out.end())
        out.push_back(k);
    for (const auto& k : out) UNSCOPED_INFO(k);
    return out;
  }
  [[nodiscard]] bool only(const std::string& kind, const std::function<void(Json&)>& change) const {
    return kinds(change) == std::vector<std::string>{kind};
  }
  [[nodiscard]] const Made& all() const { return made_; }
  [[nodiscard]] std::string text(const std::string& file) const { return *read_file(folder_ / file, 64 << 20); }
  void remove(const std::string& file) const { std::filesystem::remove(folder_ / file); }
  /// Writes a program sealed anew; its hash.
  [[nodiscard]] std::string write(const std::string& file, std::string text) const {
    text.erase(text.find("(end: "));
    const auto crc = crc32_z(0, reinterpret_cast<const Bytef*>(text.data()), text.size());
    text += fmt::format("(end: {} lines, crc32 {:08x})\n", std::count(text.begin(), text.end(), '\n') + 1, crc);
    std::ofstream(folder_ / file) << text;
    return sha256_hex(text);
  }

 private:
  Made made_;
  std::filesystem::path folder_;
  Json manifest_;
};

std::string replaced(std::string text, const std::string& old, const std::string& instead) {
  const auto at = text.find(old);
  REQUIRE(at != std::string::npos);
  return text.replace(at, old.size(), instead);
}

}  // namespace

TEST_CASE("a folder as it was written says nothing against itself") {
  const Set set;
  CHECK(set.kinds([](Json&) {}).empty());
  const auto read = set.read([](Json&) {});
  REQUIRE(read);
  CHECK(read->programs.size() == set.all().programs.size());
  CHECK(read->probes.size() == 1);
}

TEST_CASE("cutters, frame, zero and blank are the project's") {
  const Set set;
  const auto first = [](const auto& change) { return [=](Json& p) { change(p[0]); }; };
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["diameter_mm"] = 9.0; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["cutting_length_mm"] = 99.0; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["stickout_mm"] = "long"; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["kind"] = "ball"; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["number"] = 77; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["id"] = "nobody's"; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e.erase("cutter"); })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) {
                   Json other = e["cutter"];
                   other["id"] = "flat-3.175";
                   e["cutters"] = Json::array({e["cutter"], other});
                 })));
  CHECK(set.kinds(first([](Json& e) { e["cutters"] = Json::array({e["cutter"], e["cutter"]}); })).empty());
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["instrument_to_work"][0][0] = -1.0; })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["instrument_to_work"][2][3] = nullptr; })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["instrument_to_work"].erase(3); })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e.erase("instrument_to_work"); })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["zero_in_machine_mm"][1] = 17.0; })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["zero_in_machine_mm"] = "here"; })));
  CHECK(set.only("P2 manifest_frame", first([](Json& e) { e["blank_mm"]["corner"][0] = 1.0; })));
  CHECK(set.only("P2 manifest_blank", first([](Json& e) { e["blank_mm"]["length"] = 10.0; })));
  CHECK(set.only("P2 manifest_blank", first([](Json& e) { e["blank_mm"]["thickness"] = -3.0; })));
  CHECK(set.kinds(first([](Json& e) {
             e["instrument_to_work"][0][3] = e["instrument_to_work"][0][3].get<double>() + 5e-5;
           }))
            .empty());
}

TEST_CASE(
    "what a manifest tells a hand is the project's: words of the set-up, shanks, edges, measured lengths, ground") {
  const Set set;
  const auto first = [](const auto& change) { return [=](Json& p) { change(p[0]); }; };
  CHECK(set.only("P2 manifest_setup", first([](Json& e) { e["setup"] = "Top: zero at the upper-right corner"; })));
  CHECK(set.only("P2 manifest_setup", first([](Json& e) { e.erase("setup"); })));
  CHECK(set.only("P2 manifest_setup", first([](Json& e) { e["setup"] = 7; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["shank_mm"] = 1.0; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"].erase("shank_mm"); })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["cuts_at_centre"] = false; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["lengths"] = "measured"; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["corner_radius_mm"] = 0.4; })));
  CHECK(set.only("P2 manifest_cutter", first([](Json& e) { e["cutter"]["nominal_diameter_mm"] = 9.0; })));
  CHECK(set.only("P2 manifest_register", first([](Json& e) { e["register"]["shift_mm"][1] = 0.5; })));
  CHECK(set.only("P2 manifest_register", first([](Json& e) { e["register"]["angle_deg"] = "none"; })));
  CHECK(set.only("P2 manifest_register", first([](Json& e) { e.erase("register"); })));
  CHECK(set.only("P2 manifest_blank", first([](Json& e) { e["blank_mm"]["stock"]["kind"] = "island"; })));
  CHECK(set.only("P2 manifest_blank", first([](Json& e) {
                   e["blank_mm"]["stock"]["outline_mm"] = Json::array({1, 2});
                 })));
  CHECK(set.only("P2 manifest_blank", first([](Json& e) {
                   e["blank_mm"]["length_along"] = e["blank_mm"]["length_along"] == "x" ? "y" : "x";
                 })));
  for (const int axis : {0, 1}) {
    CHECK(set.only("P2 manifest_extents", first([axis](Json& e) {
                     e["extents_mm"]["high"][axis] = e["extents_mm"]["high"][axis].get<double>() - 1;
                   })));
    CHECK(set.only("P2 manifest_extents", first([axis](Json& e) {
                     e["extents_mm"]["low"][axis] = e["extents_mm"]["low"][axis].get<double>() + 1;
                   })));
  }
  CHECK(set.only("P2 manifest_extents", first([](Json& e) { e["extents_mm"]["low"][2] = -0.1; })));
  CHECK(set.only("P2 manifest_extents", first([](Json& e) { e.erase("extents_mm"); })));
  // Told wider than it is nobody comes to harm.
  CHECK(set.kinds(first([](Json& e) { e["extents_mm"]["high"][0] = e["extents_mm"]["high"][0].get<double>() + 5; }))
            .empty());
}

TEST_CASE("the order is the project's, whatever the manifest asks for") {
  const Set set;
  const std::size_t n = set.all().programs.size();
  REQUIRE(n >= 4);
  const auto last_first = [](Json& p) {
    Json last = p.back();
    p.erase(p.size() - 1);
    p.insert(p.begin(), last);
  };
  const auto honest = set.kinds(last_first);
  CHECK(std::find(honest.begin(), honest.end(), "P2 order") != honest.end());
  CHECK(set.only("P2 order", [&](Json& p) {
    for (Json& e : p) e["after"] = e["earlier"] = Json::array();
    last_first(p);
  }));
  // Listed in the right order, and nothing asks for it: a run would let the outline be cut first.
  CHECK(set.only("P2 order", [](Json& p) { p.back()["after"] = Json::array(); }));
  // What has to wait for one that waits need not say so twice.
  CHECK(set.kinds([n](Json& p) {
             for (std::size_t k = 1; k < n; ++k) p[k]["after"] = Json::array({p[k - 1]["file"]});
           })
            .empty());
  // A precedence on a file that is not there.
  CHECK(set.only("P2 order", [](Json& p) { p[0]["after"] = Json::array({"gone.ngc"}); }));
  // Two cuts that nowhere meet may change places: the holes.
  std::vector<std::size_t> holes;
  for (std::size_t k = 0; k < n; ++k)
    if (set.all().programs[k].file.cuts.front().starts_with("hole-")) holes.push_back(k);
  if (holes.size() >= 2) CHECK(set.kinds([&](Json& p) { std::swap(p[holes[0]], p[holes[1]]); }).empty());
}

TEST_CASE("a program that works at another one's places makes that cut, whatever it says") {
  const Set set;
  const auto& programs = set.all().programs;
  const Placement& side = set.all().planned.cuts.sides[0];
  const CutPlaces places(side);
  const auto file_of = [&](const char* cut) {
    for (const PlacedProgram& p : programs)
      if (p.file.cuts.front() == cut) return p.file.file;
    throw std::runtime_error(cut);
  };
  for (const PlacedProgram& p : programs) {
    const auto read = read_for_words(p.file.text.str(), p.file.file);
    REQUIRE(read);
    CHECK(cuts_as_run(p.file.cuts, *read, side, places, set.all().planned.rack) == p.file.cuts);
  }
  const auto body = [](const std::string& text) {
    const auto from = text.find("\nG0X") + 1;
    return text.substr(from, text.rfind("\nG53 G0 Z0") + 1 - from);
  };
  const std::string pocket = file_of("pocket");
  const std::string outline = file_of("outline");
  const std::string good = set.text(pocket);
  const auto with = [&](const std::string& more, const char* told) {
    const std::string hash = set.write(pocket, std::string(good).insert(good.rfind("\nG53 G0 Z0") + 1, more));
    const auto found = set.kinds([&](Json& p) {
      for (Json& e : p)
        if (e["file"] == pocket) {
          e["sha256"] = hash;
          e["extents_mm"] = {{"low", {-1e3, -1e3, -1e3}}, {"high", {1e3, 1e3, 1e3}}};
        }
    });
    const std::string back = set.write(pocket, good);
    CHECK(back != hash);
    return found == (told == nullptr ? std::vector<std::string>{} : std::vector<std::string>{told});
  };
  CHECK(with(body(set.text(outline)), "P2 order"));
  // Shallow, or in the air over it, it has cut nothing there.
  std::string shallow = body(set.text(outline));
  for (std::size_t at = shallow.find("Z-"); at != std::string::npos; at = shallow.find("Z-", at + 3))
    shallow.replace(at, 2, "Z-0.");
  CHECK(with(shallow, nullptr));
  // The pocket once more does no harm.
  CHECK(with(body(good), nullptr));
}

TEST_CASE("programs that are listed without a manifest run in the project's order") {
  const Set set;
  const auto orders = [&](std::vector<PlacedProgram> listed) {
    std::vector<Finding> out;
    hold_running_order(listed, set.all().planned, out);
    return std::count_if(out.begin(), out.end(), [](const Finding& f) { return f.kind == "order"; });
  };
  std::vector<PlacedProgram> listed = set.all().programs;
  CHECK(orders(listed) == 0);
  CHECK(orders({listed.begin(), listed.begin() + 2}) == 0);  // some of them
  std::reverse(listed.begin(), listed.end());
  CHECK(orders(listed) == 1);
  // Under other names their headers tell the cuts.
  for (PlacedProgram& p : listed) {
    const auto read = read_for_words(p.file.text.str(), p.file.file);
    REQUIRE(read);
    CHECK(told_cuts(*read) == p.file.cuts);
    p.file.file = "other-" + p.file.file;
    p.file.cuts = told_cuts(*read);
  }
  CHECK(orders(listed) == 1);
  const auto theirs = read_program("(cutter: a blunt one)\n(for rod)\nG21\nG0 X1\n");
  REQUIRE(theirs);
  CHECK(told_cuts(*theirs).empty());
}

TEST_CASE("the sides of a piece are cut one after the other, whatever the manifest asks for") {
  const Set set("plain", "neck");
  const auto free = [](Json& p) {
    for (Json& e : p) e["after"] = e["earlier"] = Json::array();
  };
  CHECK(set.only("P2 order", free));  // listed as they should run, but a run goes by what each has to wait for
  std::size_t back = 0;
  while (back < set.all().programs.size() && set.all().programs[back].side == set.all().programs[0].side) ++back;
  REQUIRE(back < set.all().programs.size());
  // The turned side first; and one of its programs before the last of the first side.
  CHECK(set.only("P2 order", [&](Json& p) {
    free(p);
    Json other = Json::array();
    for (std::size_t k = 0; k < p.size(); ++k) other.push_back(p[(k + back) % p.size()]);
    p = other;
  }));
  CHECK(set.only("P2 order", [&](Json& p) {
    free(p);
    std::swap(p[back - 1], p[back]);
  }));
  // Each side in its own order, and nothing that the turned one waits for; all that was before is right.
  const auto waits = [&](bool for_other_sides) {
    return set.kinds([&](Json& p) {
      free(p);
      for (std::size_t k = 1; k < p.size(); ++k)
        for (std::size_t j = 0; j < k; ++j)
          if (for_other_sides || p[j]["side"] == p[k]["side"]) p[k]["after"].push_back(p[j]["file"]);
    });
  };
  CHECK(waits(true).empty());
  CHECK(waits(false) == std::vector<std::string>{"P2 order"});
}

TEST_CASE("nothing is missing, nothing is there twice") {
  const Set set;
  // The program that the manifest forgets lies there still.
  const std::vector<std::string> forgotten{"P2 cut_missing", "P2 stray_program"};
  const auto in_order = [](Json& p) {  // each after the one before it, whatever is left of them
    for (std::size_t k = 0; k < p.size(); ++k)
      if (p[k].is_object())
        p[k]["after"] = k > 0 && p[k - 1].is_object() ? Json::array({p[k - 1]["file"]}) : Json::array();
  };
  CHECK(set.kinds([&](Json& p) {
    p.erase(1);
    in_order(p);
  }) == forgotten);
  CHECK(set.kinds([](Json& p) { p[1]["cut"] = Json::array(); }) ==
        std::vector<std::string>{"P2 cut_unknown", "P2 cut_missing"});
  CHECK(set.only("P2 cut_unknown", [](Json& p) { p[1]["cut"].push_back("a cut of somebody's"); }));
  // One program more, of which nobody could say when it may run.
  const std::string last = set.all().programs.back().file.file;
  const std::string hash = set.write("once-more.ngc", set.text(last));
  const auto once_more = [&](const Json& cuts) {
    return set.kinds([&](Json& p) {
      Json e = p.back();
      e["file"] = "once-more.ngc";
      e["sha256"] = hash;
      e["cut"] = cuts;
      for (const Json& before : p) e["after"].push_back(before["file"]);
      p.push_back(e);
    });
  };
  const auto says = [](const std::vector<std::string>& all, const char* kind) {
    return std::find(all.begin(), all.end(), kind) != all.end();
  };
  CHECK(says(once_more(set.all().programs.back().file.cuts), "P2 manifest_twice"));
  CHECK(says(once_more(Json::array({"something"})), "P2 cut_unknown"));
  CHECK(says(once_more(Json::array()), "P2 cut_unknown"));
  set.remove("once-more.ngc");
  // What a stick cannot hold, or holds once.
  const std::string first = set.all().programs[0].file.file;
  const auto renamed = [&](const std::string& name, bool both) {
    const std::string own = set.write(name, set.text(first));
    const auto found = set.kinds([&](Json& p) {
      Json e = p[0];
      e["file"] = name;
      e["sha256"] = own;
      if (both) {
        p.insert(p.begin() + 1, e);
        return;
      }
      p[0] = e;
      for (Json& other : p)
        for (Json& before : other["after"])
          if (before == first) before = name;
    });
    set.remove(name);
    return says(found, "P2 manifest_file");
  };
  std::string capitals = first;
  capitals[0] = static_cast<char>(capitals[0] - 32);
  CHECK(renamed(capitals, true));
  CHECK_FALSE(renamed(capitals, false));
  CHECK(renamed("slot:1.ngc", false));
  CHECK(renamed("slot.", false));
  CHECK(set.kinds([](Json& p) { p.push_back(p[0]); }) == std::vector<std::string>{"P2 manifest_twice", "P2 order"});
  const auto refused = [&](const std::function<void(Json&)>& change) {
    const auto read = set.read(change);
    return read ? std::string() : read.error().text();
  };
  CHECK(refused([](Json& p) { p[0]["side"] = "nowhere"; }).find("does not have") != std::string::npos);
  CHECK(refused([](Json& p) { p[0]["file"] = "../other.ngc"; }).find("outside its folder") != std::string::npos);
  CHECK(refused([](Json& p) { p[0]["file"] = ""; }).find("outside its folder") != std::string::npos);
  CHECK(refused([](Json& p) { p[0]["file"] = "gone.ngc"; }).find("gone.ngc") != std::string::npos);
  CHECK(refused([](Json& p) { p[0]["sha256"] = std::string(64, '0'); }).find("not the one") != std::string::npos);
  CHECK(refused([](Json& p) { p = Json::array(); }).find("names no program") != std::string::npos);
  CHECK(refused([](Json& p) { p = Json("nothing"); }).find("no manifest") != std::string::npos);
  CHECK(set.kinds([&](Json& p) {
    p[0] = 5;
    in_order(p);
  }) == forgotten);
}

TEST_CASE("z is probed where the manifest says, and set to what stands there") {
  const Set set;
  CHECK(set.only("M7 probe_unsaid", [](Json& p) {
    for (Json& e : p) e.erase("probe");
  }));
  CHECK(set.only("M7 probe_unsaid", [](Json& p) {
    for (Json& e : p) e["probe"]["on"] = "the moon";
  }));
  CHECK(set.only("M7 probe_height", [](Json& p) {
    for (Json& e : p) e["probe"]["z_mm"] = 0.5;
  }));
  CHECK(set.only("M7 probe_height", [](Json& p) {
    for (Json& e : p) e["probe"]["z_mm"] = nullptr;
  }));
  // Another place is another than the header has it.
  CHECK(set.kinds([](Json& p) { p[1]["probe"]["at_mm"][0] = 1.0; }) ==
        std::vector<std::string>{"M7 probe_unsaid", "M7 header_words"});
  CHECK(set.only("M7 header_words", [](Json& p) {
    for (Json& e : p) e["probe"]["at_mm"] = {11.5, 12.5};
  }));
  const auto read = set.read([](Json& p) {
    for (Json& e : p) e["probe"]["at_mm"] = {11.5, 12.5};
  });
  REQUIRE(read);
  Planned planned = set.all().planned;
  take_probes(*read, planned);
  REQUIRE(planned.made.pieces[0].sides[0].setup.probe);
  CHECK(planned.made.pieces[0].sides[0].setup.probe->at == Vec2{11.5, 12.5});
}

TEST_CASE("a cut that waits for a hand keeps its stop") {
  // Crown again after the marks were filled: a stop of its own.
  const Set set("plain", "fretboard", [](Project& p) {
    board_of(p).work.order = CutOrder::crown_first;
    p.programs.files = ProgramFiles::one;
  });
  bool waits = false;
  for (const Cut& c : set.all().planned.cuts.sides[0].cuts) waits = waits || c.stop_before;
  REQUIRE(waits);
  CHECK(set.kinds([](Json&) {}).empty());
  const std::string& file = set.all().programs[0].file.file;
  const std::string good = set.text(file);
  const auto stop = good.find("M0 (Fill");
  REQUIRE(stop != std::string::npos);
  const std::string line = good.substr(stop, good.find('\n', stop) - stop + 1);
  const auto only = [&](const std::string& kind, const std::string& text) {
    return set.only(kind, [&](Json& p) { p[0]["sha256"] = set.write(file, text); });
  };
  CHECK(only("M9 stop_missing", replaced(good, line, "")));
  // There, but asking for something else, left to a switch, or after what waits for it.
  CHECK(only("M9 stop_missing", replaced(good, line, "M0 (blow the dust away)\n")));
  CHECK(only("M9 stop_missing", replaced(good, line, replaced(line, ")\n", ", or leave it)\n"))));
  CHECK(only("M9 stop_missing", replaced(good, line, "M1" + line.substr(2))));
  CHECK(only("M9 stop_missing", replaced(replaced(good, line, ""), "M30\n", line + "M30\n")));
  CHECK(set.kinds([&](Json& p) { p[0]["sha256"] = set.write(file, good); }).empty());
}

TEST_CASE("a stop for a cutter asks for that cutter, with its stickout and z anew") {
  const Set set("plain", "coupon", [](Project& p) { p.programs.files = ProgramFiles::one; });
  const std::string& file = set.all().programs[0].file.file;
  const std::string good = set.text(file);
  const auto stop = good.find("M0 (change to ");
  REQUIRE(stop != std::string::npos);
  const std::string line = good.substr(stop, good.find('\n', stop) - stop + 1);
  const auto only = [&](const std::string& instead) {
    CAPTURE(instead);
    return set.only("M4 change_words",
                    [&](Json& p) { p[0]["sha256"] = set.write(file, replaced(good, line, instead)); });
  };
  CHECK(only("M0\n"));
  CHECK(only("M0 (change to flat-12, stickout 30 mm, probe z)\n"));
  CHECK(only(replaced(line, ", probe z", "")));
  CHECK(only(replaced(line, "probe z", "probe z on the waste board")));
  CHECK(only(replaced(line, "stickout ", "stickout 1")));
  CHECK(only("(change to flat-12, stickout 30 mm, probe z)\n" + line));
  CHECK(only(line + "M0 (change to flat-12, stickout 30 mm, probe z)\n"));
  // Nothing is asked beside it, before or behind, as far as a hand reads that waits there.
  const auto with = [&](const std::string& instead) {
    CAPTURE(instead);
    return set.kinds([&](Json& p) { p[0]["sha256"] = set.write(file, replaced(good, line, instead)); });
  };
  const std::vector<std::string> unasked{"M9 stop_unasked"};
  CHECK(with("(loosen the clamps)\n" + line) == unasked);
  CHECK(with(replaced(line, "\n", " (stickout 20 mm)\n")) == unasked);
  CHECK(with(line + "(set z a millimetre lower)\n") == unasked);
  CHECK(with(line + "\n; set z a millimetre lower\n") == unasked);
  CHECK(with(line + line).empty());
  std::string much = line;
  for (int k = 0; k < 200; ++k) much += "(let the spindle come up to speed)\n";
  CHECK(with(much + "(loosen the clamps)\n") == unasked);
  const auto next = good.find('\n', stop + line.size()) + 1;
  CHECK(
      set.kinds([&](Json& p) { p[0]["sha256"] = set.write(file, std::string(good).insert(next, "(mind the dust)\n")); })
          .empty());
}

TEST_CASE("a stop at which two things are done asks for both, and for no third") {
  const Set set("plain", "coupon", [](Project& p) {
    p.programs.files = ProgramFiles::one;
    p.machine.controller.machine_moves = false;
  });
  const std::string& file = set.all().programs[0].file.file;
  const std::string good = set.text(file);
  const std::string home = fmt::format("M0 ({})\n", home_words);
  CHECK(set.kinds([](Json&) {}).empty());
  const auto at = [&](const std::string& words, std::size_t from) { return good.find(words, from) + words.size(); };
  const auto change = good.find("M0 (change to ");
  REQUIRE(change != std::string::npos);
  for (const std::size_t where : {at(home, 0), change, at(home, change)}) {
    CAPTURE(where);
    const std::string more = std::string(good).insert(where, "(loosen the clamps)\n");
    CHECK(set.kinds([&](Json& p) { p[0]["sha256"] = set.write(file, more); }) ==
          std::vector<std::string>{"M9 stop_unasked"});
  }
}

TEST_CASE("the cuts of a program are told in the order in which it makes them") {
  const Set set;
  const Planned& planned = set.all().planned;
  const Placement& side = planned.cuts.sides[0];
  const auto reading = [&](const Toolpath& path, bool backwards, double aside = 0) {
    ReadProgram read;
    read.tools.push_back({});
    read.tools[0].number = find_cutter(planned.rack, path.cutter)->number;
    std::vector<Move> moves = path.moves;
    if (backwards) std::reverse(moves.begin(), moves.end());
    for (const Move& m : moves) {
      ReadMove r;
      r.to = {m.to.x + aside, m.to.y - aside, m.to.z};
      r.kind = m.kind == MoveKind::rapid ? ReadKind::rapid : ReadKind::line;
      read.moves.push_back(r);
    }
    return read;
  };
  bool several = false;
  for (const Toolpath& path : side.paths) {
    CHECK(cuts_as_run(path.cuts, reading(path, false), side, CutPlaces(side), planned.rack) == path.cuts);
    std::vector<std::string> backwards = path.cuts;
    std::reverse(backwards.begin(), backwards.end());
    CHECK(cuts_as_run(path.cuts, reading(path, true), side, CutPlaces(side), planned.rack) == backwards);
    // So they are where every point lies a little beside the planned one.
    CHECK(cuts_as_run(path.cuts, reading(path, true, 0.03), side, CutPlaces(side), planned.rack) == backwards);
    several = several || path.cuts.size() > 2;
    // Where it never comes to any of its places nothing is known of their order.
    CHECK(cuts_as_run(path.cuts, ReadProgram{}, side, CutPlaces(side), planned.rack) == path.cuts);
  }
  CHECK(several);
  // Of several cutters in one file those come first that come in first.
  const Toolpath& a = side.paths.front();
  const Toolpath& b = side.paths.back();
  ReadProgram both = reading(b, false);
  const ReadProgram later = reading(a, false);
  both.tools.push_back(later.tools[0]);
  for (std::size_t i = 0; i < later.moves.size(); ++i) {
    ReadMove m = later.moves[i];
    m.tool = 1;
    both.moves.push_back(m);
  }
  std::vector<std::string> told = a.cuts;
  told.insert(told.end(), b.cuts.begin(), b.cuts.end());
  std::vector<std::string> run = b.cuts;
  run.insert(run.end(), a.cuts.begin(), a.cuts.end());
  REQUIRE(find_cutter(planned.rack, a.cutter)->number != find_cutter(planned.rack, b.cutter)->number);
  CHECK(cuts_as_run(told, both, side, CutPlaces(side), planned.rack) == run);
}

TEST_CASE("two cuts that begin at one place are told by where they part") {
  // The program's last digit puts both beginnings on one place; the planned ones round to two.
  const Set set;
  const Planned& planned = set.all().planned;
  Placement side = planned.cuts.sides[0];
  Toolpath path = side.paths.front();
  Cut a = side.cuts.front();
  Cut b = a;
  a.id = "a";
  b.id = "b";
  path.cuts = {a.id, b.id};
  path.moves.clear();
  ReadProgram read;
  read.tools.push_back({});
  read.tools[0].number = find_cutter(planned.rack, path.cutter)->number;
  const auto go = [&](Vec3 planned_place, std::uint16_t cut, Vec3 told) {
    Move m;
    m.to = planned_place;
    m.kind = MoveKind::feed;
    m.cut = cut;
    path.moves.push_back(m);
    ReadMove r;
    r.to = told;
    r.kind = ReadKind::line;
    read.moves.push_back(r);
  };
  for (const double off : {1e-5, -1e-5}) {
    path.moves.clear();
    read.moves = {};
    go({10.005 - off, 0, -1}, 0, {10.005, 0, -1});
    go({0, 0, -1}, 0, {0, 0, -1});
    go({10.005 + off, 0, -1}, 1, {10.005, 0, -1});
    go({20, 0, -1}, 1, {20, 0, -1});
    side.cuts = {a, b};
    side.paths = {path};
    CHECK(cuts_as_run(path.cuts, read, side, CutPlaces(side), planned.rack) == path.cuts);
    ReadProgram other = read;
    other.moves = {};
    for (const std::size_t i : {2U, 3U, 0U, 1U}) other.moves.push_back(read.moves[i]);
    CHECK(cuts_as_run(path.cuts, other, side, CutPlaces(side), planned.rack) == std::vector<std::string>{"b", "a"});
  }
}

TEST_CASE("a stop that nobody planned is no stop, and asks for no cutter") {
  const Set set;
  const std::string& file = set.all().programs[1].file.file;
  const std::string good = set.text(file);
  const std::string change = "M0 (change to flat-12, stickout 9.00 mm, probe z)\n";
  const auto only = [&](const std::string& kind, const std::string& text) {
    return set.only(kind, [&](Json& p) { p[1]["sha256"] = set.write(file, text); });
  };
  // Before the first cut, in the middle of it, and behind the last.
  const auto cutter = good.find(" M6\n");
  REQUIRE(cutter != std::string::npos);
  const auto line = good.rfind('\n', cutter) + 1;
  const auto middle = good.find("\nG0", good.size() / 2) + 1;
  for (const std::size_t at : {line, middle, good.find("M30\n")}) {
    CAPTURE(at);
    REQUIRE(at != 0);
    CHECK(only("M4 change_words", std::string(good).insert(at, change)));
    CHECK(only("M9 stop_unasked", std::string(good).insert(at, "M0 (take the clamps off)\n")));
    CHECK(only("M9 stop_unasked", std::string(good).insert(at, "M0\n")));
    CHECK(only("M9 stop_unasked", std::string(good).insert(at, "M1 (take the clamps off)\n")));
  }
  // Nor does a comment that is no stop.
  CHECK(only("M4 change_words", std::string(good).insert(middle, "(change to flat-12)\n")));
  CHECK(set.kinds([&](Json& p) {
             p[1]["sha256"] = set.write(file, std::string(good).insert(middle, "(flat-12 would be quicker)\n"));
           })
            .empty());
}

TEST_CASE("a header tells the hand what the project says, once, and is free in the rest") {
  const Set set;
  const std::string& file = set.all().programs[0].file.file;
  const std::string good = set.text(file);
  const auto kinds = [&](const std::string& text) {
    return set.kinds([&](Json& p) { p[0]["sha256"] = set.write(file, text); });
  };
  for (const char* key : {"(part: ", "(blank: ", "(zero: ", "(probe z on: ", "(cutter: "}) {
    CAPTURE(key);
    const auto at = good.find(key);
    REQUIRE(at != std::string::npos);
    const std::string line = good.substr(at, good.find('\n', at) - at + 1);
    const std::vector<std::string> wrong{key == std::string("(cutter: ") ? "M4 header_words" : "M7 header_words"};
    CHECK(kinds(replaced(good, line, "")) == wrong);
    CHECK(kinds(replaced(good, line, std::string(key) + "something else)\n")) == wrong);
    CHECK(kinds(replaced(good, line, line + key + "something else)\n")) == wrong);
    CHECK(kinds(replaced(good, line, line + line)).empty());
  }
  // However it is put, and wherever it stands.
  const auto m6 = good.find(" M6\n") + 4;
  for (const char* says : {"(ZERO : elsewhere)", "( zero:  elsewhere)", "; Zero: elsewhere"}) {
    CAPTURE(says);
    const std::string wrong = "M7 header_words";
    const auto more = kinds(std::string(good).insert(m6, std::string(says) + "\n"));
    CHECK(std::find(more.begin(), more.end(), wrong) != more.end());
  }
  // Nothing asks a hand for a cutter outside of a stop, and nothing is shown to it as a message.
  CHECK(kinds(std::string(good).insert(m6, "(Change to flat-12)\n")) == std::vector<std::string>{"M4 change_words"});
  CHECK(kinds(std::string(good).insert(m6, "(MSG, loosen it)\n")) == std::vector<std::string>{"M9 stop_unasked"});
  for (const char* acted :
       {"(print,loosen it)\n", "( DEBUG , x)\n", "(LOG,x)\n", "(PROBEOPEN heights.txt)\n", "(logopen,a)\n"})
    CHECK(kinds(std::string(good).insert(m6, acted)) == std::vector<std::string>{"M9 stop_unasked"});
  CHECK(kinds(std::string(good).insert(m6, "(print of a hand, log of an oak)\n")).empty());
  CHECK(kinds(std::string(good).insert(m6, "(a change of weather)\n")).empty());
  for (const char* key : {"(project: ", "(date: ", "(prove it"}) {
    const auto at = good.find(key);
    REQUIRE(at != std::string::npos);
    const std::string line = good.substr(at, good.find('\n', at) - at + 1);
    CHECK(kinds(replaced(good, line, "(a thought)\n")).empty());
  }
}

TEST_CASE("a controller without G53 is homed by the first stop, which says so") {
  const Set set("plain", "coupon", [](Project& p) { p.machine.controller.machine_moves = false; });
  const std::string& file = set.all().programs[0].file.file;
  const std::string good = set.text(file);
  const auto stop = good.find("M0 (home the machine first");
  REQUIRE(stop != std::string::npos);
  CHECK(set.kinds([](Json&) {}).empty());
  const std::string line = good.substr(stop, good.find('\n', stop) - stop + 1);
  CHECK(set.only("M3 stop_missing",
                 [&](Json& p) { p[0]["sha256"] = set.write(file, replaced(good, line, "M0 (take a breath)\n")); }));
  // Homed, and then moved again by the hand that probes: the next way over starts low.
  const Set one("plain", "coupon", [](Project& p) {
    p.machine.controller.machine_moves = false;
    p.programs.files = ProgramFiles::one;
  });
  REQUIRE(one.all().programs.size() == 1);
  const std::string& all = one.all().programs[0].file.file;
  const std::string text = one.text(all);
  CHECK(one.kinds([](Json&) {}).empty());
  const auto change = text.find("M0 (change to ");
  const auto tool = text.find('\n', change) + 1;
  const auto home = text.find('\n', tool) + 1;
  const auto next = text.find('\n', home) + 1;
  const std::string asks = text.substr(change, tool - change);
  const std::string comes_in = text.substr(tool, home - tool);
  REQUIRE(text.substr(home, next - home) == line);
  const auto instead = [&](const std::string& between) {
    return one.only("M3 stop_missing", [&](Json& p) {
      p[0]["sha256"] = one.write(all, text.substr(0, change) + between + text.substr(next));
    });
  };
  CHECK(instead(asks + comes_in));
  CHECK(instead(comes_in + line + asks));
  CHECK(instead(comes_in + line.substr(3) + asks));
}
