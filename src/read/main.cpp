// wren-read: reads one foreign drawing (dxf or svg) or picture (PNG or JPEG) from standard input and writes plain paths
// as JSON, or plain pixels as PPM, to standard output (docs/file-format.md, "wren-read"). Whoever starts it sets limits
// of time and memory; before the first byte is understood it gives up every right but to read what is open, to think,
// and to answer: no file, no network, no process.
#include <iostream>
#include <string>

#include <nlohmann/json.hpp>
#include <seccomp.h>
#include <unistd.h>

#include "read/drawing.hpp"

namespace {

using namespace wren;
using Json = nlohmann::ordered_json;

/// Refused calls end the process: a drawing that asks for one is no drawing.
bool wall_in() {
  scmp_filter_ctx filter = seccomp_init(SCMP_ACT_KILL_PROCESS);
  if (filter == nullptr) return false;
  bool well = true;
  for (const int call : {SCMP_SYS(read),           SCMP_SYS(write),        SCMP_SYS(writev),    SCMP_SYS(close),
                         SCMP_SYS(fstat),          SCMP_SYS(newfstatat),   SCMP_SYS(lseek),     SCMP_SYS(brk),
                         SCMP_SYS(mmap),           SCMP_SYS(munmap),       SCMP_SYS(mremap),    SCMP_SYS(mprotect),
                         SCMP_SYS(madvise),        SCMP_SYS(futex),        SCMP_SYS(getrandom), SCMP_SYS(clock_gettime),
                         SCMP_SYS(getpid),         SCMP_SYS(gettid),       SCMP_SYS(tgkill),    SCMP_SYS(rt_sigaction),
                         SCMP_SYS(rt_sigprocmask), SCMP_SYS(rt_sigreturn), SCMP_SYS(exit),      SCMP_SYS(exit_group)})
    well = seccomp_rule_add(filter, SCMP_ACT_ALLOW, call, 0) == 0 && well;
  well = well && seccomp_load(filter) == 0;
  seccomp_release(filter);
  return well;
}

std::string all_of_input() {
  std::string text;
  char buffer[1 << 16];
  for (;;) {
    const ssize_t n = ::read(STDIN_FILENO, buffer, sizeof buffer);
    if (n <= 0 || text.size() > most_drawing_bytes) return text;
    text.append(buffer, static_cast<std::size_t>(n));
  }
}

Json answer(const Expected<ReadDrawing>& drawing) {
  if (!drawing) return {{"problem", {{"what", drawing.error().what}, {"todo", drawing.error().todo}}}};
  Json paths = Json::array();
  for (const DrawnPath& p : drawing->paths) {
    Json xy = Json::array();
    for (const Vec2 q : p.points) {
      xy.push_back(q.x);
      xy.push_back(q.y);
    }
    paths.push_back({{"layer", p.layer}, {"z", p.elevation}, {"closed", p.closed}, {"xy", std::move(xy)}});
  }
  return {{"schema", "upland-wren-drawing"},
          {"version", 1},
          {"unit_known", drawing->unit_known},
          {"left", drawing->left},
          {"paths", std::move(paths)}};
}

}  // namespace

int main(int argc, char** argv) {
  const std::string kind = argc == 2 ? argv[1] : "";
  if (kind != "dxf" && kind != "svg" && kind != "picture") {
    std::cerr << "wren-read dxf|svg|picture < FILE\n";
    return 2;
  }
  std::ios::sync_with_stdio(false);
  if (!wall_in()) {
    std::cerr << "wren-read: the system does not let it give up its rights\n";
    return 4;
  }
  const std::string text = all_of_input();
  if (kind == "picture") {
    const auto pixels = picture_pixels(text, "");
    if (pixels)
      std::cout.write(pixels->data(), static_cast<std::streamsize>(pixels->size())).flush();
    else
      std::cout << answer(tl::unexpected(pixels.error())).dump() << std::flush;
    ::_exit(std::cout ? 0 : 3);
  }
  const auto drawing = kind == "dxf" ? dxf_paths(text, "") : svg_paths(text, "");
  std::cout << answer(drawing).dump(-1, ' ', false, Json::error_handler_t::replace) << std::flush;
  ::_exit(std::cout ? 0 : 3);
}
