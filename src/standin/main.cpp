// wren-machine: the stand-in as a program. It listens on this computer only, and on a pseudo-terminal where asked; or
// asks a running one what its wood measures. docs/machine-protocol.md.
#include <fcntl.h>
#include <stdlib.h>
#include <termios.h>
#include <unistd.h>

#include <csignal>
#include <fstream>
#include <iostream>
#include <list>
#include <sstream>

#include <CLI/CLI.hpp>
#include <boost/asio.hpp>
#include <fmt/format.h>

#include "standin/session.hpp"

namespace {

namespace asio = boost::asio;
using asio::ip::tcp;
using namespace standin;

struct Options {
  unsigned short port = 7311;
  bool terminal = false, plain = false, homed = false;
  double speed = 1;
  Frame frame;
  std::vector<std::string> faults;
  std::uint32_t fault_seed = 0;
  std::string wood, log, port_file;
};

/// One connection: bytes in, bytes out, whatever they come over.
template <class Stream>
struct Line {
  Line(Stream s, Router& router, Session::Mode mode) : stream(std::move(s)), session(router, mode) {}
  Stream stream;
  Session session;
  std::array<char, 65536> in{};
  std::string out, going;
  bool writing = false, gone = false;
  double silent_until = 0;
};

class Machine {
 public:
  explicit Machine(const Options& options)
      : options_(options), router_(options.frame), acceptor_(io_), timer_(io_), terminal_(io_) {}

  int run() {
    if (const auto bad = begin(); !bad.empty()) {
      std::cerr << "wren-machine: " << bad << "\n";
      return 3;
    }
    asio::signal_set signals(io_, SIGINT, SIGTERM);
    signals.async_wait([this](auto, int) { io_.stop(); });
    last_ = std::chrono::steady_clock::now();
    tick();
    io_.run();
    keep_wood();
    return 0;
  }

 private:
  using Tcp = Line<tcp::socket>;
  using Pty = Line<asio::posix::stream_descriptor>;

  std::string begin() {
    for (const std::string& f : options_.faults) {
      const std::size_t at = f.find('@');
      const auto fault = fault_from(f.substr(0, at));
      const char* digits = at == std::string::npos ? "0" : f.c_str() + at + 1;
      char* end = nullptr;
      const unsigned long line = std::strtoul(digits, &end, 10);
      if (!fault || *end != '\0') return fmt::format("'{}' is no fault: KIND@LINE, such as power-cut@120", f);
      router_.arm(*fault, static_cast<std::uint32_t>(line));
    }
    if (options_.fault_seed != 0) router_.fail_by_seed(options_.fault_seed);
    if (!options_.wood.empty())
      if (std::ifstream in(options_.wood); in) {
        std::stringstream all;
        all << in.rdbuf();
        if (!router_.wood().from_text(all.str())) return fmt::format("'{}' holds no wood; move it away", options_.wood);
      }
    boost::system::error_code failed;
    const tcp::endpoint here(asio::ip::address_v4::loopback(), options_.port);
    acceptor_.open(here.protocol(), failed);
    if (!failed) acceptor_.set_option(tcp::acceptor::reuse_address(true), failed);
    if (!failed) acceptor_.bind(here, failed);
    if (!failed) acceptor_.listen(8, failed);
    if (failed) return fmt::format("port {} cannot be had: {}", options_.port, failed.message());
    const unsigned short port = acceptor_.local_endpoint().port();
    std::cout << "wren-machine: a simulated router listens on 127.0.0.1:" << port << (options_.plain ? " (plain)" : "")
              << std::endl;
    if (!options_.port_file.empty()) std::ofstream(options_.port_file) << port << "\n";
    accept();
    return options_.terminal ? open_terminal() : std::string();
  }

  std::string open_terminal() {
    const int master = posix_openpt(O_RDWR | O_NOCTTY);
    if (master < 0 || grantpt(master) != 0 || unlockpt(master) != 0) return "no pseudo-terminal can be had";
    // Held open from this side too: without a reader the terminal would end with its first visitor.
    const char* name = ptsname(master);
    held_ = ::open(name, O_RDWR | O_NOCTTY);
    termios raw{};
    if (held_ >= 0 && tcgetattr(held_, &raw) == 0) {
      cfmakeraw(&raw);
      tcsetattr(held_, TCSANOW, &raw);
    }
    std::cout << "wren-machine: and on the terminal " << name << " (plain)" << std::endl;
    terminal_.assign(master);
    pty_ = std::make_unique<Pty>(std::move(terminal_), router_, Session::Mode::plain);
    read(*pty_);
    return {};
  }

  void accept() {
    acceptor_.async_accept([this](boost::system::error_code failed, tcp::socket socket) {
      if (!failed) {
        boost::system::error_code ignored;
        socket.set_option(tcp::no_delay(true), ignored);
        if (lines_.size() < 16) {
          lines_.push_back(std::make_unique<Tcp>(std::move(socket), router_,
                                                 options_.plain ? Session::Mode::plain : Session::Mode::checked));
          read(*lines_.back());
        }
      }
      accept();
    });
  }

  /// Who has the machine, of all but this one.
  std::string held_by(const Session& but) const {
    for (const auto& l : lines_)
      if (&l->session != &but && !l->gone && l->session.greeted() && !l->session.looks()) return l->session.who();
    return {};
  }

  template <class L>
  void read(L& l) {
    l.stream.async_read_some(asio::buffer(l.in), [this, &l](boost::system::error_code failed, std::size_t n) {
      if (failed || l.gone) {
        l.gone = true;
        return;
      }
      l.session.set_busy(held_by(l.session));
      if (!l.session.take({l.in.data(), n}, l.out)) leave(l);
      if (!l.gone) {
        write(l);
        read(l);
      }
    });
  }

  template <class L>
  void leave(L& l) {
    write(l, true);
    l.gone = true;
    boost::system::error_code ignored;
    if constexpr (std::is_same_v<L, Tcp>) l.stream.shutdown(tcp::socket::shutdown_both, ignored);
    l.stream.close(ignored);
  }

  template <class L>
  void write(L& l, bool last = false) {
    if (l.session.late()) {
      l.silent_until = now() + 1.5;
      l.session.on_time();
    }
    if (last) {
      boost::system::error_code ignored;
      if (!l.writing && !l.out.empty()) asio::write(l.stream, asio::buffer(l.out), ignored);
      l.out.clear();
      return;
    }
    if (l.writing || l.out.empty() || l.gone || now() < l.silent_until) return;
    l.writing = true;
    l.going.swap(l.out);
    asio::async_write(l.stream, asio::buffer(l.going), [this, &l](boost::system::error_code failed, std::size_t) {
      l.writing = false;
      l.going.clear();
      if (failed) l.gone = true;
      if (!l.gone) write(l);
    });
  }

  static double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
  }

  void tick() {
    const auto here = std::chrono::steady_clock::now();
    const double real = std::chrono::duration<double>(here - last_).count();
    last_ = here;
    double lived = 0;
    if (options_.speed > 0) {
      // It lives in whole ticks: what it has lived too long is taken off the next time.
      owed_ = std::min(owed_ + std::min(real, 0.5) * options_.speed, 0.5 * options_.speed);
      lived = owed_ > 0 ? router_.advance(owed_) : 0;
      owed_ = owed_ > lived ? 0 : owed_ - lived;
    } else {
      // As fast as it goes, in slices that leave room for whoever asks.
      for (double slice = 1; slice > 0 && std::chrono::steady_clock::now() - here < std::chrono::milliseconds(4);) {
        slice = router_.advance(0.25);
        lived += slice;
      }
    }
    const std::uint32_t boot = router_.boot();
    const bool power_gone = boot_ != 0 && boot != boot_;
    boot_ = boot;
    const bool tell = now() >= tell_at_;
    if (tell) tell_at_ = now() + 0.1;
    for (auto it = lines_.begin(); it != lines_.end();) {
      Tcp& l = **it;
      if (!l.gone && power_gone) leave(l);
      if (!l.gone) {
        if (!l.session.go_on(l.out)) leave(l);
        if (!l.gone && tell && l.session.greeted() && l.out.size() < (1U << 20)) l.out += l.session.status();
        write(l);
      }
      if (l.gone && !l.writing) {
        boost::system::error_code ignored;
        l.stream.close(ignored);
        // Its last handler has run by the next round.
        dead_.push_back(std::move(*it));
        it = lines_.erase(it);
      } else {
        ++it;
      }
    }
    if (dead_.size() > 64) dead_.pop_front();
    if (pty_) {
      (void)pty_->session.go_on(pty_->out);
      write(*pty_);
    }
    write_log();
    const bool busy = lived > 0;
    timer_.expires_after(std::chrono::milliseconds(options_.speed > 0 || !busy ? 2 : 0));
    timer_.async_wait([this](auto failed) {
      if (!failed) tick();
    });
  }

  void write_log() {
    if (router_.story().empty()) return;
    if (!options_.log.empty()) {
      std::ofstream out(options_.log, std::ios::app);
      for (const Router::Ran& r : router_.story()) out << r.program << ' ' << r.line << ' ' << r.text << '\n';
    }
    router_.forget_story();
    wood_changed_ = true;
    if (router_.state() == State::idle) keep_wood();
  }

  void keep_wood() {
    if (options_.wood.empty() || !wood_changed_) return;
    wood_changed_ = false;
    const std::string beside = options_.wood + ".new";
    std::ofstream(beside) << router_.wood().text();
    if (std::rename(beside.c_str(), options_.wood.c_str()) != 0)
      std::cerr << "wren-machine: its wood cannot be kept in " << options_.wood << "\n";
  }

  Options options_;
  asio::io_context io_{1};
  Router router_;
  tcp::acceptor acceptor_;
  asio::steady_timer timer_;
  asio::posix::stream_descriptor terminal_;
  int held_ = -1;
  std::list<std::unique_ptr<Tcp>> lines_, dead_;
  std::unique_ptr<Pty> pty_;
  std::chrono::steady_clock::time_point last_;
  double tell_at_ = 0, owed_ = 0;
  std::uint32_t boot_ = 0;
  bool wood_changed_ = false;
};

/// Asks a running machine something, as one that only looks; what it says, or nothing.
int ask(const std::string& machine, const std::string& command) {
  const std::size_t colon = machine.rfind(':');
  if (colon == std::string::npos) {
    std::cerr << "wren-machine: '" << machine << "' is no HOST:PORT\n";
    return 2;
  }
  try {
    asio::io_context io;
    tcp::socket socket(io);
    asio::connect(socket, tcp::resolver(io).resolve(machine.substr(0, colon), machine.substr(colon + 1)));
    asio::write(socket, asio::buffer(sealed("hello 1 wren-machine look") + sealed("do 1 " + command)));
    std::string kept;
    for (;;) {
      asio::read_until(socket, asio::dynamic_buffer(kept, 65536), '\n');
      const std::size_t end = kept.find('\n');
      const auto payload = unsealed(std::string_view(kept).substr(0, end));
      if (payload && payload->substr(0, 6) == "did 1 ") {
        std::cout << payload->substr(6) << "\n";
        return 0;
      }
      if (payload && payload->substr(0, 4) == "not ") {
        std::cerr << "wren-machine: " << payload->substr(6) << "\n";
        return 1;
      }
      kept.erase(0, end + 1);
    }
  } catch (const std::exception& e) {
    std::cerr << "wren-machine: " << machine << " does not answer: " << e.what() << "\n";
    return 3;
  }
}

}  // namespace

int main(int argc, char** argv) {
  std::signal(SIGPIPE, SIG_IGN);
  CLI::App app{"a simulated router that cuts its own virtual wood, for trying programs and whoever sends them",
               "wren-machine"};
  Options o;
  app.add_option("--port", o.port, "Port on this computer; 0: any that is free")->capture_default_str();
  app.add_option("--port-file", o.port_file, "Writes the port there");
  app.add_flag("--terminal", o.terminal, "Listens on a pseudo-terminal too, in the plain mode");
  app.add_flag("--plain", o.plain, "Speaks the plain mode on its port");
  app.add_option("--speed", o.speed, "Times real time; 0: as fast as it goes")->check(CLI::Range(0.0, 10000.0));
  app.add_option("--seed", o.frame.seed, "Of what is left to chance: switches, probe");
  app.add_option("--travel-x", o.frame.travel.x)->check(CLI::Range(50.0, 20000.0));
  app.add_option("--travel-y", o.frame.travel.y)->check(CLI::Range(50.0, 20000.0));
  app.add_option("--travel-z", o.frame.travel.z)->check(CLI::Range(10.0, 2000.0));
  app.add_option("--clear-under-nut", o.frame.clear_under_nut)->check(CLI::Range(10.0, 2000.0));
  app.add_option("--fault", o.faults,
                 "Fails so after a line: KIND@LINE; KIND is line-lost, byte-changed, line-twice, "
                 "answer-late, connection-gone, switch-stuck, power-cut, emergency-stop, "
                 "limit-hit, cutter-broken or probe-open");
  app.add_option("--faults-by-seed", o.fault_seed,
                 "Every program meets one fault of any kind at one of its lines; not 0");
  app.add_option("--wood", o.wood, "Keeps the wood on its bed in this file");
  app.add_option("--log", o.log, "Writes every line that was run to this file");
  std::string machine = "127.0.0.1:7311", what;
  std::vector<double> place;
  auto* measure = app.add_subcommand("measure",
                                     "What the wood on a running machine's bed measures: height X Y, "
                                     "thickness X Y, or groove X Y ANGLE (width and depth); mm, work frame");
  measure->add_option("WHAT", what)->required()->check(CLI::IsMember({"height", "thickness", "groove"}));
  measure->add_option("PLACE", place, "X Y, and the way a groove runs in degrees from x")->required()->expected(2, 3);
  measure->add_option("--machine", machine, "HOST:PORT")->capture_default_str();
  CLI11_PARSE(app, argc, argv);
  if (*measure) {
    std::string command = "measure " + what;
    for (const double v : place) command += fmt::format(" {}", v);
    return ask(machine, command);
  }
  return Machine(o).run();
}
