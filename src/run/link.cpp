#include "run/link.hpp"

#include <array>
#include <chrono>

#include <boost/asio.hpp>
#include <fmt/format.h>

namespace wren {
namespace {

namespace asio = boost::asio;
using asio::ip::tcp;
using Failed = boost::system::error_code;

template <class Stream>
class AsioLink : public Link {
 public:
  AsioLink() : stream_(io_) {}
  Stream& stream() { return stream_; }
  asio::io_context& io() { return io_; }

  bool send(std::string_view bytes) override {
    if (gone_) return false;
    Failed failed = asio::error::would_block;
    asio::async_write(stream_, asio::buffer(bytes), [&](Failed e, std::size_t) { failed = e; });
    if (!wait(failed, 10)) failed = asio::error::timed_out;
    gone_ = gone_ || static_cast<bool>(failed);
    return !gone_;
  }

  std::optional<std::string> receive(double seconds) override {
    if (gone_) return std::nullopt;
    if (!reading_) {
      reading_ = true;
      read_failed_ = asio::error::would_block;
      got_ = 0;
      stream_.async_read_some(asio::buffer(in_), [this](Failed e, std::size_t n) {
        read_failed_ = e;
        got_ = n;
      });
    }
    // A read that has nothing yet goes on at the next call.
    if (!wait(read_failed_, seconds, false)) return std::string();
    reading_ = false;
    if (read_failed_) {
      gone_ = true;
      return std::nullopt;
    }
    return std::string(in_.data(), got_);
  }

  [[nodiscard]] double now() const override {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
  }

 private:
  /// Runs until `state` is told, at most so long; what is not done then is given up where `give_up`.
  bool wait(Failed& state, double seconds, bool give_up = true) {
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                                                            std::chrono::duration<double>(seconds));
    io_.restart();
    do {
      io_.run_one_until(end);
      if (io_.stopped()) io_.restart();
    } while (state == asio::error::would_block && std::chrono::steady_clock::now() < end);
    if (state != asio::error::would_block) return true;
    if (give_up) {
      Failed ignored;
      stream_.close(ignored);
      io_.restart();
      io_.poll();
      gone_ = true;
    }
    return false;
  }
  asio::io_context io_{1};
  Stream stream_;
  std::array<char, 65536> in_{};
  Failed read_failed_;
  std::size_t got_ = 0;
  bool reading_ = false, gone_ = false;
};

}  // namespace

Expected<std::unique_ptr<Link>> connect_tcp(const std::string& address) {
  const std::size_t colon = address.rfind(':');
  const std::string port = colon == std::string::npos ? "" : address.substr(colon + 1);
  if (colon == 0 || port.empty() || port.find_first_not_of("0123456789") != std::string::npos || port.size() > 5)
    return fail(ProblemKind::input, worded("'{}' is no address of a machine", address), "",
                "Give HOST:PORT, such as 127.0.0.1:7311");
  auto link = std::make_unique<AsioLink<tcp::socket>>();
  Failed failed;
  tcp::resolver resolver(link->io());
  const auto places = resolver.resolve(address.substr(0, colon), port, failed);
  if (!failed) {
    failed = asio::error::would_block;
    asio::async_connect(link->stream(), places, [&](Failed e, const tcp::endpoint&) { failed = e; });
    link->io().run_for(std::chrono::seconds(5));
    if (failed == asio::error::would_block) {
      failed = asio::error::timed_out;
      link->io().stop();
    }
  }
  if (failed)
    return fail(ProblemKind::file, "the machine does not answer: " + failed.message(), address,
                "Look whether it is switched on and its address is right");
  Failed ignored;
  link->stream().set_option(tcp::no_delay(true), ignored);
  return link;
}

Expected<std::unique_ptr<Link>> open_serial(const std::string& device, long baud) {
  auto link = std::make_unique<AsioLink<asio::serial_port>>();
  Failed failed;
  link->stream().open(device, failed);
  if (!failed) link->stream().set_option(asio::serial_port::baud_rate(static_cast<unsigned>(baud)), failed);
  if (!failed) {
    link->stream().set_option(asio::serial_port::character_size(8U), failed);
    link->stream().set_option(asio::serial_port::parity(asio::serial_port::parity::none), failed);
    link->stream().set_option(asio::serial_port::stop_bits(asio::serial_port::stop_bits::one), failed);
  }
  if (failed)
    return fail(ProblemKind::file, "the serial line cannot be opened: " + failed.message(), device,
                "Look whether the cable is in, and whether you may use the device");
  return link;
}

Expected<std::unique_ptr<Link>> open_link(const std::string& address, long baud) {
  return address.starts_with('/') ? open_serial(address, baud) : connect_tcp(address);
}

}  // namespace wren
