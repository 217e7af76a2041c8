#include "exchange/walled.hpp"

#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <optional>

#include <fcntl.h>
#include <poll.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "core/document/files.hpp"

namespace wren {
namespace {

/// Both ends of a pipe; closed with it.
struct Pipe {
  OpenFile read, write;
  static std::optional<Pipe> made() {
    int ends[2];
    if (::pipe2(ends, O_CLOEXEC) != 0) return {};
    return Pipe{OpenFile{ends[0]}, OpenFile{ends[1]}};
  }
};

[[noreturn]] void become(std::vector<char*>& argv, int in, int out, int err, const WalledLimits& limits) {
  ::dup2(in, STDIN_FILENO);
  ::dup2(out, STDOUT_FILENO);
  ::dup2(err, STDERR_FILENO);
  const auto seconds = static_cast<rlim_t>(limits.seconds);
  const rlimit cpu{seconds, seconds};
  const rlimit memory{limits.memory, limits.memory};
  const rlimit none{0, 0};
  ::setrlimit(RLIMIT_CPU, &cpu);
  ::setrlimit(RLIMIT_AS, &memory);
  ::setrlimit(RLIMIT_CORE, &none);
  ::execvp(argv[0], argv.data());
  ::_exit(127);
}

}  // namespace

std::string program_beside(const std::string& name) {
  std::error_code error;
  const auto here = std::filesystem::read_symlink("/proc/self/exe", error);
  return (here.parent_path() / name).string();
}

Expected<WalledResult> run_walled(const std::vector<std::string>& words, std::string_view input,
                                  const WalledLimits& limits, Progress* progress) {
  const auto refused = [&](const char* what) {
    return fail(ProblemKind::file, std::string(what) + ": " + std::strerror(errno), words.front(),
                "Close something and try again");
  };
  auto out = Pipe::made();
  auto err = Pipe::made();
  // A socket for its input: writing to one whose reader is gone is an error, and not a signal that ends this program.
  int ends[2];
  if (!out || !err || ::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) return refused("no pipe");
  OpenFile feed{ends[0]};
  OpenFile fed{ends[1]};
  std::vector<char*> argv;
  for (const std::string& w : words) argv.push_back(const_cast<char*>(w.c_str()));
  argv.push_back(nullptr);
  const pid_t child = ::fork();
  if (child == 0) become(argv, fed.fd(), out->write.fd(), err->write.fd(), limits);
  if (child < 0) return refused("the program cannot be started");
  fed.close();
  out->write.close();
  err->write.close();
  WalledResult result;
  bool too_much = false;
  const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(limits.seconds);
  if (input.empty()) feed.close();
  char buffer[1 << 16];
  bool late = false;
  bool stopped = false;
  while ((out->read || err->read) && !too_much && !late) {
    pollfd look[3]{{out->read.fd(), POLLIN, 0}, {err->read.fd(), POLLIN, 0}, {feed.fd(), POLLOUT, 0}};
    const auto left =
        std::chrono::duration_cast<std::chrono::milliseconds>(until - std::chrono::steady_clock::now()).count();
    late = left <= 0;
    stopped = progress != nullptr &&
              !progress->go_on(1 - static_cast<double>(left) / (1000.0 * limits.seconds), "reading the drawing");
    if (late || stopped) break;
    if (::poll(look, 3, static_cast<int>(std::min<std::int64_t>(left, 100))) <= 0) continue;
    if (feed && look[2].revents != 0) {
      const ssize_t n =
          ::send(feed.fd(), input.data(), std::min(input.size(), sizeof buffer), MSG_NOSIGNAL | MSG_DONTWAIT);
      if (n > 0) input.remove_prefix(static_cast<std::size_t>(n));
      if ((n < 0 && errno != EAGAIN && errno != EINTR) || input.empty()) feed.close();
    }
    const auto take = [&](OpenFile& from, short events, std::string& to, std::size_t most) {
      if (!from || events == 0) return;
      const ssize_t n = ::read(from.fd(), buffer, sizeof buffer);
      if (n <= 0) {
        from.close();
        return;
      }
      if (to.size() < most) to.append(buffer, static_cast<std::size_t>(n));
    };
    take(out->read, look[0].revents, result.text, limits.output + sizeof buffer);
    take(err->read, look[1].revents, result.said, 4000);
    too_much = result.text.size() > limits.output;
  }
  if (late || too_much || stopped) ::kill(child, SIGKILL);
  int status = 0;
  while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  if (stopped) return fail(ProblemKind::stopped, "reading was stopped", words.back());
  if (too_much)
    return fail(ProblemKind::range, "the file has more in it than can be used", words.back(),
                "Leave out what is not needed");
  result.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128;
  return result;
}

}  // namespace wren
