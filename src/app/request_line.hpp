// Where the window's heavy work is done. Every kind of work (a Task) has a line of its own in one queue. The rule:
// of one kind the newest wins, it takes the place of the one that waits; between kinds the more urgent begins first,
// among equals the one asked first; what has begun is not interrupted, but by a newer one of its own kind.
#pragma once

#include <functional>
#include <memory>

namespace wren::app {

/// How soon an answer is wanted.
enum class Urgency {
  in_hand,  // the hand holds it or has just typed it: begins at once, whatever else is done
  asked,    // somebody pressed for it and waits: a proof, programs, a file that is read, a picture
  ahead,    // nobody has asked for it yet: cuts of the other parts, unsaved work that is kept
};

class RequestLine {
 public:
  explicit RequestLine(Urgency urgency);
  /// Drops what waits; waits for what has begun.
  ~RequestLine();
  RequestLine(const RequestLine&) = delete;
  RequestLine& operator=(const RequestLine&) = delete;

  /// Takes the place of the work that waits; begins when the work of this line that is under way has ended.
  void put(std::function<void()> work);
  /// All that was put is done when this returns; what has not begun is done by the caller.
  void finish();

 private:
  struct State;
  std::shared_ptr<State> state_;
};

}  // namespace wren::app
