// A line to a machine: bytes out, bytes in, with a limit on every wait. TCP and serial by Boost.Asio; tests bring their
// own. One thread's own.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "core/report/problem.hpp"

namespace wren {

class Link {
 public:
  virtual ~Link() = default;
  /// False: it is gone.
  [[nodiscard]] virtual bool send(std::string_view bytes) = 0;
  /// What came within so many seconds, empty where nothing did; nothing at all: it is gone.
  [[nodiscard]] virtual std::optional<std::string> receive(double seconds) = 0;
  /// Seconds on a clock that only goes forward.
  [[nodiscard]] virtual double now() const = 0;
};

/// "HOST:PORT". Refused where nobody answers within five seconds, or the text is no address.
[[nodiscard]] Expected<std::unique_ptr<Link>> connect_tcp(const std::string& address);
/// A serial device, 8 data bits, no parity, one stop bit. Refused where it cannot be opened.
[[nodiscard]] Expected<std::unique_ptr<Link>> open_serial(const std::string& device, long baud);
/// An address with a colon and a port is TCP; what begins with a slash is a device.
[[nodiscard]] Expected<std::unique_ptr<Link>> open_link(const std::string& address, long baud);

}  // namespace wren
