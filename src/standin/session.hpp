// What goes over the wire, as bytes in and bytes out (docs/machine-protocol.md): the checked mode with numbered lines,
// CRC-32, acknowledgement and a window in flight; and the plain mode, one line, one answer. It knows no socket.
#pragma once

#include <functional>

#include "standin/router.hpp"

namespace standin {

class Session {
 public:
  enum class Mode { checked, plain };
  Session(Router& router, Mode mode) : router_(router), mode_(mode) {}

  static constexpr std::size_t window = 512;         // lines in flight that are not acknowledged
  static constexpr std::size_t longest = 1024;       // bytes of a line with its checksum
  static constexpr std::size_t most_kept = 1 << 20;  // bytes that wait for room

  /// Takes what came and answers into `out`. False: the connection is to be closed (what it sent is no line, or a fault
  /// wants it gone).
  [[nodiscard]] bool take(std::string_view bytes, std::string& out);
  /// What has become possible since: lines that waited for room. Call it after the machine has lived on.
  [[nodiscard]] bool go_on(std::string& out) { return take({}, out); }
  /// The state in one line, as it is sent ten times a second in the checked mode.
  [[nodiscard]] std::string status() const;
  /// Answers are held back until then (a fault): seconds of the machine's clock or of whoever owns the session.
  [[nodiscard]] bool late() const { return late_; }
  void on_time() { late_ = false; }
  /// Has said hello, and as whom.
  [[nodiscard]] bool greeted() const { return greeted_; }
  [[nodiscard]] bool looks() const { return looks_; }
  [[nodiscard]] const std::string& who() const { return who_; }
  /// Somebody else has the machine: nothing but looking is allowed.
  void set_busy(std::string by) { busy_by_ = std::move(by); }

 private:
  [[nodiscard]] bool line(std::string_view text, std::string& out);
  [[nodiscard]] bool checked(std::string_view text, std::string& out);
  void program_line(std::string_view rest, std::string& out);
  void plain(std::string_view text, std::string& out);
  [[nodiscard]] std::string command(std::string_view text);  // "did …" or "not …" without its number
  void again(std::string& out, const char* why);
  Router& router_;
  Mode mode_;
  std::string kept_;
  std::deque<std::string> waiting_;  // lines of the program for which there was no room yet
  bool greeted_ = false, looks_ = false, late_ = false, gone_ = false, asked_again_ = false;
  std::string who_, busy_by_;
  std::uint32_t last_command_ = 0;
  std::string last_answer_;
};

/// A payload with its checksum and end of line.
[[nodiscard]] std::string sealed(std::string_view payload);
/// The payload of a line, or nothing where its checksum is wrong.
[[nodiscard]] std::optional<std::string_view> unsealed(std::string_view line);

}  // namespace standin
