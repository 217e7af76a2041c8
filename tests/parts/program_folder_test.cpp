// The programs' folder: one set for each part, exchanged whole; what lay there is kept or carried over.
#include <fmt/format.h>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

#include "support/made.hpp"
#include "core/job/certificate.hpp"

using namespace wren;
using Catch::Matchers::Contains;
namespace fs = std::filesystem;

namespace {

const Holder somebody{"a test", "now"};

struct Folder {
  fs::path path = fs::temp_directory_path() / ("wren-programs-" + fmt::to_string(::getpid()) + "-" + random_name());
  ~Folder() { fs::remove_all(path); }
};

Expected<WrittenFolder> write(const fs::path& folder, const Made& m, Progress* progress = nullptr) {
  return write_folder(folder, m.kind->id(), m.programs, m.manifest(), {}, somebody, progress);
}
std::string get(const fs::path& file) { return read_file(file, 64 << 20).value_or("(none)"); }
/// Every file below a folder with its bytes; locks and what is being written left out.
std::map<std::string, std::string> all_files(const fs::path& folder) {
  std::map<std::string, std::string> out;
  for (const auto& e : fs::recursive_directory_iterator(folder))
    if (e.is_regular_file()) out[fs::relative(e.path(), folder).string()] = get(e.path());
  return out;
}
/// True where the manifest's programs are there, byte for byte, and no others.
bool whole(const fs::path& set) {
  const auto entries = read_manifest(get(set / "manifest.json"), "manifest");
  if (!entries) return false;
  std::size_t programs = 0;
  for (const auto& e : fs::directory_iterator(set)) programs += e.path().extension() == ".ngc" ? 1 : 0;
  return programs == entries->size() && std::all_of(entries->begin(), entries->end(), [&](const ManifestEntry& e) {
           return sha256_hex(get(set / e.file)) == e.sha256;
         });
}
Made named(const std::string& name, const std::string& part = "cover") {
  Project p = *project_from("reedling");
  p.name = name;
  return made(p, part);
}

}  // namespace

TEST_CASE("each part has a set of its own, and a new one takes the old one's place") {
  const Folder folder;
  const Made cover = named("First");
  const Made coupon = named("First", "coupon");
  REQUIRE(write(folder.path, cover));
  const auto other = write(folder.path, coupon);
  REQUIRE(other);
  CHECK(other->old.empty());
  const Made second = named("Second");
  const auto written = write(folder.path, second);
  REQUIRE(written);
  CHECK(written->folder == folder.path / "cover");
  CHECK(written->old.size() == cover.programs.size() + 1);  // and the manifest
  for (const PlacedProgram& o : cover.programs) {
    CHECK_FALSE(fs::exists(written->folder / o.file.file));
    CHECK(get(written->folder / "old" / o.file.file) == o.file.text.str());
  }
  CHECK(whole(written->folder));
  CHECK(whole(other->folder));
  CHECK_FALSE(fs::exists(folder.path / "manifest.json"));
  // Nothing else stays in the folder.
  CHECK(std::distance(fs::directory_iterator(folder.path), fs::directory_iterator()) == 2);
  const auto sets = read_written(folder.path, {"cover", "coupon", "neck"});
  REQUIRE(sets.size() == 2);
  CHECK(sets.at("cover").project == "Second");
  CHECK(sets.at("cover").fingerprint == print_of(second.project, "cover"));
  CHECK(sets.at("cover").faults.empty());
  CHECK_FALSE(sets.at("cover").proved);  // there is no certificate
}

TEST_CASE("what nobody's manifest lists is carried over and named, whatever it is") {
  const Folder folder;
  REQUIRE(write(folder.path, named("First")));
  const fs::path set = folder.path / "cover";
  std::ofstream(set / "notes.txt") << "mind the knot";
  fs::create_directories(set / "photos" / "june");
  std::ofstream(set / "photos" / "june" / "a.jpg") << "picture";
  fs::create_symlink("/nowhere", set / "link");
  const Made second = named("Second");
  std::ofstream(set / second.programs[0].file.file) << "by hand";  // of a new program's name
  const auto written = write(folder.path, second);
  REQUIRE(written);
  CHECK(written->carried == std::vector<std::string>{"link", "notes.txt", "photos"});
  CHECK(get(set / "notes.txt") == "mind the knot");
  CHECK(get(set / "photos" / "june" / "a.jpg") == "picture");
  CHECK(fs::read_symlink(set / "link") == "/nowhere");
  CHECK(get(set / "old" / second.programs[0].file.file) == "by hand");
  CHECK(whole(set));
  // A third time: what is in `old` stays there.
  REQUIRE(write(folder.path, named("Third")));
  CHECK(get(set / "old" / second.programs[0].file.file) == second.programs[0].file.text.str());
  CHECK(get(set / "photos" / "june" / "a.jpg") == "picture");
}

TEST_CASE("a manifest.json that is not ours, a file in the folder's place, a pipe in it: refused, nothing changed") {
  const Folder folder;
  fs::create_directories(folder.path / "cover");
  std::ofstream(folder.path / "cover" / "manifest.json") << R"({"name": "a web page"})";
  const auto before = all_files(folder.path);
  const auto foreign = write(folder.path, named("First"));
  REQUIRE_FALSE(foreign);
  CHECK_THAT(foreign.error().what, Contains("none of this program's"));
  CHECK(all_files(folder.path) == before);
  fs::remove_all(folder.path / "cover");
  std::ofstream(folder.path / "cover") << "a file";
  CHECK_THAT(write(folder.path, named("First")).error().what, Contains("a file stands"));
  fs::remove(folder.path / "cover");
  REQUIRE(write(folder.path, named("First")));
  REQUIRE(::mkfifo((folder.path / "cover" / "pipe").c_str(), 0600) == 0);
  const auto pipe = write(folder.path, named("Second"));
  REQUIRE_FALSE(pipe);
  CHECK_THAT(pipe.error().text(), Contains("pipe") && Contains("Nothing was changed"));
  CHECK(read_written(folder.path, {"cover"}).at("cover").project == "First");
}

TEST_CASE("stopped at any moment, and on a full disk at any byte, the old set stands whole and alone") {
  const Folder folder;
  const Made first = named("First");
  const Made second = named("Second");
  REQUIRE(write(folder.path, first));
  const auto before = all_files(folder.path);
  int polls = 0;
  Progress counting([&](double, std::string_view) { ++polls; });
  {
    const Folder elsewhere;
    REQUIRE(write(elsewhere.path, second, &counting));
  }
  REQUIRE(polls > 2);
  for (int k = 1; k <= polls; ++k) {
    int seen = 0;
    Progress* self = nullptr;
    Progress stop([&](double, std::string_view) {
      if (++seen == k) self->stop();
    });
    self = &stop;
    const auto stopped = write(folder.path, second, &stop);
    INFO(k);
    if (stopped) break;  // the last poll came too late
    CHECK(stopped.error().kind == ProblemKind::stopped);
    CHECK(all_files(folder.path) == before);
  }
  std::signal(SIGXFSZ, SIG_IGN);
  rlimit old{};
  getrlimit(RLIMIT_FSIZE, &old);
  REQUIRE(write(folder.path, first));
  const auto again = all_files(folder.path);
  for (const rlim_t most : {0UL, 100UL, 1500UL, 4000UL}) {
    const rlimit tight{most, old.rlim_max};
    setrlimit(RLIMIT_FSIZE, &tight);
    const auto full = write(folder.path, second);
    setrlimit(RLIMIT_FSIZE, &old);
    REQUIRE_FALSE(full);
    CHECK_THAT(full.error().text(), Contains("cannot be written") && Contains("Nothing was changed"));
    CHECK(all_files(folder.path) == again);
  }
}

TEST_CASE("a set from before parts had folders of their own goes to the new one's `old`") {
  const Folder folder;
  const Made first = named("First");
  fs::create_directories(folder.path);
  for (const PlacedProgram& p : first.programs) std::ofstream(folder.path / p.file.file) << p.file.text.str();
  std::ofstream(folder.path / "manifest.json") << first.manifest();
  const Made second = named("Second");
  const auto written = write(folder.path, second);
  REQUIRE(written);
  for (const PlacedProgram& p : first.programs) {
    CHECK_FALSE(fs::exists(folder.path / p.file.file));
    CHECK(get(written->folder / "old" / p.file.file) == p.file.text.str());
  }
  CHECK_FALSE(fs::exists(folder.path / "manifest.json"));  // it spoke of nothing else
  CHECK(get(written->folder / "old" / "manifest.json") == first.manifest());
}

TEST_CASE("a changed or missing file is told, and a certificate speaks for the very files") {
  const Folder folder;
  const Made m = named("First", "coupon");
  const PartProof proof = m.proof(0);
  REQUIRE(proof.passed());
  const std::string certificate = certificate_of(m.project, m.planned, m.programs, proof, "2026-11-24");
  REQUIRE(write_folder(folder.path, "coupon", m.programs, m.manifest(), certificate, somebody));
  const auto set = [&] { return read_written(folder.path, {"coupon"}).at("coupon"); };
  CHECK(set().proved);
  CHECK(set().programs == m.programs.size());
  CHECK(check_folder(folder.path)->passed());
  CHECK(check_folder(folder.path / "coupon")->passed());
  // Another program beside them is told of, whatever its name's letters; notes are nobody's business, nor are folders.
  CHECK(check_folder(folder.path)->strays.empty());
  const auto put = [](const fs::path& at, const char* text) { std::ofstream(at) << text; };
  put(folder.path / "coupon" / "a-older.NGC", "M30\n");
  put(folder.path / "coupon" / "notes.txt", "pear\n");
  fs::create_directories(folder.path / "coupon" / "mine.nc");
  put(folder.path / "loose.tap", "M30\n");
  CHECK(check_folder(folder.path)->strays == std::vector<std::string>{"loose.tap", "coupon/a-older.NGC"});
  CHECK(check_folder(folder.path / "coupon")->strays == std::vector<std::string>{"a-older.NGC"});
  CHECK(set().proved);  // what is proved is
  const auto read = read_folder(folder.path, m.planned);
  REQUIRE(read);
  REQUIRE(read->findings.size() == 1);
  CHECK(read->findings[0].kind == "stray_program");
  CHECK(read->findings[0].weight == Weight::think_again);
  fs::remove(folder.path / "coupon" / "a-older.NGC");
  CHECK(read_folder(folder.path, m.planned)->findings.empty());

  // The manifest is what a run goes by: another order, another place for probing is another set.
  const fs::path told = folder.path / "coupon" / "manifest.json";
  const std::string manifest = *read_file(told, 1 << 24);
  const auto says = [&](const std::string& text) {
    std::ofstream(told, std::ios::trunc) << text;
    const auto check = check_folder(folder.path);
    REQUIRE(check);
    return check->passed() ? std::string() : check->faults.at(0);
  };
  CHECK(says(manifest).empty());
  const auto after = manifest.find("\"after\": [\n");
  REQUIRE(after != std::string::npos);
  std::string free = manifest;
  free.erase(after + 10, free.find(']', after) - after - 10);
  CHECK_THAT(says(free), Contains("coupon: ") && Contains("manifest.json is not the one"));
  CHECK_FALSE(set().proved);
  CHECK(says(manifest).empty());
  const fs::path paper = folder.path / "coupon" / "proof.json";
  std::string old = certificate;
  old.replace(old.find("manifest_sha256"), 15, "something_else_");
  std::ofstream(paper, std::ios::trunc) << old;
  CHECK_THAT(says(manifest), Contains("does not say which manifest"));
  // What an older version looked for is not all that this one does; a certificate without a version says nothing.
  for (const char* version : {"1", "0", "\"8\"", "null", "7.5"}) {
    CAPTURE(version);
    nlohmann::ordered_json doc = nlohmann::ordered_json::parse(certificate);
    doc["parts"][0]["prover"] = nlohmann::ordered_json::parse(version);
    std::ofstream(paper, std::ios::trunc) << doc.dump(1) << "\n";
    CHECK_THAT(says(manifest), Contains("coupon was proved by an older version"));
  }
  std::ofstream(paper, std::ios::trunc) << certificate;
  CHECK(says(manifest).empty());

  const fs::path one = folder.path / "coupon" / m.programs[0].file.file;
  std::ofstream(one, std::ios::app) << "G0 Z-5\n";
  CHECK_THAT(set().faults.at(0), Contains("is not what was written"));
  CHECK_FALSE(set().proved);
  const auto check = check_folder(folder.path);
  REQUIRE(check);
  CHECK_FALSE(check->passed());
  CHECK_THAT(check->faults.at(0), Contains("coupon: ") && Contains("not the program that was proved"));
  fs::remove(one);
  CHECK_THAT(set().faults.at(0), Contains("is gone"));
  CHECK_FALSE(check_folder(folder.path / "nothing"));
}

TEST_CASE("two that write one part's programs follow one another") {
  const Folder folder;
  fs::create_directories(folder.path);
  const auto lock = FileLock::take(folder.path / "cover", {"wren programs", "14:32"}, {});
  REQUIRE(lock);
  const auto refused = write(folder.path, named("First"));
  REQUIRE_FALSE(refused);
  CHECK(refused.error().kind == ProblemKind::held);
  CHECK_THAT(refused.error().what, Contains("wren programs since 14:32"));
}

TEST_CASE("a manifest of a newer version is refused: what it says in words of its own would be passed over") {
  const Folder folder;
  const auto written = write(folder.path, named("First"));
  REQUIRE(written);
  const std::string text = get(written->folder / "manifest.json");
  const std::string own = "\"schema_version\": 2";
  const std::size_t at = text.find(own);
  REQUIRE(at != std::string::npos);
  const auto of_version = [&](const std::string& version) {
    std::string changed = text;
    return read_manifest(changed.replace(at, own.size(), "\"schema_version\": " + version), "manifest");
  };
  for (const char* known : {"1", "2", "\"2\"", "null"}) CHECK(of_version(known).has_value());
  for (const char* newer : {"3", "2.5", "999999999999"}) {
    CAPTURE(newer);
    const auto refused = of_version(newer);
    REQUIRE_FALSE(refused.has_value());
    CHECK(refused.error().kind == ProblemKind::unsupported);
  }
}
