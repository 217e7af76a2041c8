// Host: this end of the link to a machine, which is spoken to in its protocol. Two are known: the checked one of
// docs/machine-protocol.md, and plain ones, a line for a line, whose words the machine's profile gives. Nothing is
// believed that it has not told.
#pragma once

#include <functional>
#include <span>
#include <vector>

#include "core/record/shop_book.hpp"
#include "run/link.hpp"
#include "run/machine_state.hpp"

namespace wren {

/// What became of a piece of sending.
struct Sent {
  std::uint32_t accepted = 0;  // lines the machine has taken, from the beginning
  std::string refused;         // it takes a line not: which, and why
  bool gone = false;           // the link, or the machine's power
};

class Host {
 public:
  explicit Host(std::unique_ptr<Link> link) : link_(std::move(link)) {}
  virtual ~Host() = default;

  /// Says who is there. Refused: another has the machine, it speaks otherwise, or not at all.
  [[nodiscard]] virtual Expected<void> greet(const std::string& who) = 0;
  /// What it tells of itself, asked anew, at most two seconds old.
  [[nodiscard]] virtual Expected<MachineState> look() = 0;
  /// The last that it told.
  [[nodiscard]] const MachineState& last() const { return state_; }
  /// One line by hand: zero, a move, a probe. Refused with what it says.
  [[nodiscard]] virtual Expected<void> line(const std::string& text) = 0;
  [[nodiscard]] virtual Expected<void> home() = 0;
  [[nodiscard]] virtual Expected<void> hold() = 0;
  [[nodiscard]] virtual Expected<void> resume() = 0;
  [[nodiscard]] virtual Expected<void> stop() = 0;
  [[nodiscard]] virtual Expected<void> unlock() = 0;
  [[nodiscard]] virtual Expected<void> override_feed(double percent) = 0;
  [[nodiscard]] virtual Expected<void> override_spindle(double percent) = 0;
  /// Where the last probe met something, machine frame. Refused where it cannot tell: then it is typed.
  [[nodiscard]] virtual Expected<Vec3> touched() = 0;
  /// A program of these lines begins.
  [[nodiscard]] virtual Expected<void> begin(const std::string& name, std::size_t lines) = 0;
  /// Sends what may be on its way, takes what comes, waits at most so long for it. `lines` is the whole program; it may
  /// be called again after a new greeting: what was accepted is not sent again.
  [[nodiscard]] virtual Sent send(std::span<const std::string_view> lines, double seconds) = 0;
  /// After a new greeting: the machine has so many lines already.
  virtual void go_on_from(std::uint32_t accepted) = 0;
  /// Waits until it is idle or has stopped for good. Refused after so many seconds, or where the link goes.
  [[nodiscard]] Expected<MachineState> settle(double seconds);

  [[nodiscard]] virtual bool tells_place() const = 0;
  [[nodiscard]] virtual bool tells_lines() const = 0;
  /// A simulated one: a hand's deeds can be told to it.
  [[nodiscard]] virtual bool simulated() const { return false; }
  [[nodiscard]] virtual Expected<std::string> ask(const std::string& command) {
    return fail(ProblemKind::unsupported, "this machine is not simulated", command, "");
  }
  [[nodiscard]] std::optional<Vec3> travel() const { return travel_; }
  [[nodiscard]] double now() const { return link_->now(); }

 protected:
  /// Takes what comes within so many seconds; false: the link is gone.
  [[nodiscard]] virtual bool pump(double seconds) = 0;
  std::unique_ptr<Link> link_;
  MachineState state_;
  std::optional<Vec3> travel_;
};

[[nodiscard]] std::unique_ptr<Host> checked_host(std::unique_ptr<Link> link);
[[nodiscard]] std::unique_ptr<Host> plain_host(std::unique_ptr<Link> link, PlainTalk talk);

/// A line of the checked protocol: payload, " *", CRC-32 in eight hexadecimal digits, end of line.
[[nodiscard]] std::string sealed_line(std::string_view payload);
/// Its payload; nothing where the checksum is not its own. Without the end of line.
[[nodiscard]] std::optional<std::string_view> unsealed_line(std::string_view line);
/// A status line's payload ("st …"); nothing where it is none.
[[nodiscard]] std::optional<MachineState> state_from(std::string_view payload);

}  // namespace wren
