// A machine at the other end of a wire without sockets: the stand-in's own session and router, on a clock that only
// goes on when somebody waits. And a written set of programs to run on it.
#pragma once

#include <deque>
#include <filesystem>
#include <unistd.h>

#include <fmt/format.h>

#include "core/job/program_folder.hpp"
#include "run/at_machine.hpp"
#include "run/runner.hpp"
#include "standin/session.hpp"
#include "support/made.hpp"

namespace wren {

namespace fs = std::filesystem;

struct Scratch {
  fs::path path = fs::temp_directory_path() / ("wren-run-" + fmt::to_string(::getpid()) + "-" + random_name());
  Scratch() { fs::create_directories(path); }
  ~Scratch() { fs::remove_all(path); }
};

/// The wire to a router. `times`: how much faster than the wire's clock the machine lives.
class Wire : public Link {
 public:
  Wire(standin::Router& router, double& clock, double times = 400,
       standin::Session::Mode mode = standin::Session::Mode::checked)
      : router_(router), clock_(clock), times_(times), session_(router, mode), boot_(router.boot()) {}

  bool send(std::string_view bytes) override {
    clock_ += 1e-5;
    if (gone_) return false;
    (void)router_.advance(1e-5 * times_);
    hear(session_.take(bytes, out_));
    return true;
  }
  std::optional<std::string> receive(double seconds) override {
    const double until = clock_ + std::max(seconds, 1e-4);
    for (;;) {
      if (gone_) return out_.empty() ? std::nullopt : std::optional(std::move(take_out()));
      if (!out_.empty() && clock_ >= silent_until_) return take_out();
      if (clock_ >= until) return std::string();
      const double slice = std::min(until - clock_, 0.02);
      (void)router_.advance(slice * times_);
      clock_ += slice;
      if (router_.boot() != boot_) gone_ = true;  // its power was gone: nobody is at the other end
      if (!gone_) hear(session_.go_on(out_));
    }
  }
  [[nodiscard]] double now() const override { return clock_; }
  void cut() { gone_ = true; }

 private:
  void hear(bool stays) {
    if (session_.late()) {
      silent_until_ = clock_ + 1.5;
      session_.on_time();
    }
    if (!stays) gone_ = true;
  }
  std::string take_out() {
    std::string out;
    out.swap(out_);
    return out;
  }
  standin::Router& router_;
  double& clock_;
  double times_;
  standin::Session session_;
  std::uint32_t boot_;
  std::string out_;
  double silent_until_ = 0;
  bool gone_ = false;
};

/// A part's set on disk, with its certificate.
struct WrittenPart {
  Scratch scratch;
  Made made;
  std::vector<ManifestEntry> entries;
  [[nodiscard]] fs::path folder() const { return set_folder(scratch.path, made.kind->id()); }
  [[nodiscard]] ProgramAtHand program(std::size_t i) const {
    auto p = program_at_hand(folder() / entries[i].file);
    INFO((p ? "" : p.error().text()));
    REQUIRE(p);
    return std::move(*p);
  }
};
inline std::unique_ptr<WrittenPart> written(const std::string& part,
                                            const Project& project = *project_from("reedling")) {
  auto out = std::make_unique<WrittenPart>();
  out->made = made(project, part);
  const PartProof proof = out->made.proof(0);
  REQUIRE(proof.passed());
  const std::string manifest = out->made.manifest();
  REQUIRE(write_folder(out->scratch.path, part, out->made.programs, manifest,
                       certificate_of(project, out->made.planned, out->made.programs, proof, "2026-11-24"),
                       {"a test", "now"}));
  out->entries = *read_manifest(manifest, "manifest");
  return out;
}

/// A stand-in on a bench of its own: homed, the blank laid, ready for a program's cutter and zero.
struct Stand {
  explicit Stand(std::uint32_t seed = 1, standin::Frame frame = {})
      : router([&] {
          frame.seed = seed;
          return frame;
        }()) {}
  std::unique_ptr<Host> connect(double times = 400) {
    auto host = checked_host(std::make_unique<Wire>(router, clock, times));
    const auto greeted = host->greet("test");
    INFO((greeted ? "" : greeted.error().text()));
    REQUIRE(greeted);
    return host;
  }
  standin::Router router;
  double clock = 100;
};

inline void well(const Expected<void>& e) {
  INFO((e ? "" : e.error().text()));
  REQUIRE(e);
}

/// What hands do before a program: cutter in, zero by the sheet, z by a probe.
inline void prepare(Host& host, const ManifestEntry& e) {
  well(put_cutter(host, e.cutters.front()));
  well(set_zero_by_sheet(host, e));
  const auto z = probe_z(host, e);
  INFO((z ? "" : z.error().text()));
  REQUIRE(z);
}
inline void home(Host& host) {
  if (host.last().word == "alarm") well(host.unlock());
  well(host.home());
  const auto there = host.settle(1000);
  REQUIRE(there);
  REQUIRE(there->known);
}

/// Lines that stand in no set: what the machine and the runner make of them.
inline RunRequest request_of(const std::string& text, const fs::path& journals) {
  RunRequest r;
  r.id = random_name();
  r.began = "now";
  r.text = text;
  r.journals = journals;
  return r;
}

inline RunRequest request_of(const ProgramAtHand& p, const fs::path& journals) {
  RunRequest r;
  r.id = random_name();
  r.began = "2026-11-26 10:00:00";
  r.text = p.text;
  r.facts = facts_of(p, "", "stand-in", "a test");
  r.planned_seconds = r.facts.planned_seconds;
  r.journals = journals;
  r.time_of_day = [] { return std::string("2026-11-26 10:30:00"); };
  return r;
}

}  // namespace wren
