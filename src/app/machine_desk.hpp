// MachineDesk: the window's connection to a machine. Everything that talks to it happens on one thread of its own; what
// it tells arrives here through the event loop. The window never waits for it, and believes nothing that it has not
// told.
#pragma once

#include <atomic>
#include <deque>

#include <QObject>
#include <QThreadPool>
#include <QTimer>

#include "app/shop.hpp"
#include "run/at_machine.hpp"
#include "run/runner.hpp"

namespace wren::app {

class MachineDesk : public QObject {
  Q_OBJECT
 public:
  explicit MachineDesk(QObject* parent = nullptr);
  ~MachineDesk() override;

  void connect_to(const std::string& address, long baud, const PlainTalk& talk);
  void leave();
  [[nodiscard]] bool connected() const { return connected_; }
  [[nodiscard]] bool running() const { return running_; }
  /// Something was asked of it and is not answered yet.
  [[nodiscard]] bool busy() const { return waiting_ > 0 || running_; }
  [[nodiscard]] const std::string& address() const { return address_; }
  [[nodiscard]] const MachineState& state() const { return state_; }
  [[nodiscard]] bool simulated() const { return simulated_; }
  [[nodiscard]] bool tells_lines() const { return tells_lines_; }
  [[nodiscard]] const std::optional<Vec3>& travel() const { return travel_; }
  /// Something done at the machine; `what` is told while it lasts.
  void deed(const QString& what, std::function<Expected<void>(Host&)> deed);
  /// A question to it; what it says is told through `answer`, on this thread.
  void ask(std::function<Expected<std::string>(Host&)> question, std::function<void(Expected<std::string>)> answer);
  void run(RunRequest request);
  [[nodiscard]] RunControls& controls() { return *controls_; }
  [[nodiscard]] const RunView& view() const { return view_; }
  /// Nothing on this computer holds off its sleep while it runs.
  [[nodiscard]] bool may_sleep() const { return may_sleep_; }
  /// Whether what it does now is of this side of this part: what nobody runs a program of may be any.
  [[nodiscard]] bool works_on(const std::string& part, const std::string& side) const {
    return !running_ || (run_of_.part == part && run_of_.side == side);
  }

 Q_SIGNALS:
  void changed();
  void ended(const wren::RunEnd& end);
  void said(const QString& words, bool bad);

 private:
  /// `silent`: a look at it now and then, which keeps nobody waiting.
  void post(std::function<void()> work, bool silent = false);
  void take(const Host& host);
  void poll();
  QThreadPool pool_;
  QTimer poll_;
  std::unique_ptr<Host> host_;  // the worker's own
  std::shared_ptr<RunControls> controls_ = std::make_shared<RunControls>();
  std::string address_;
  MachineState state_;
  RunView view_;
  Run run_of_;
  std::optional<Vec3> travel_;
  std::atomic<int> waiting_{0}, looking_{0};
  bool may_sleep_ = false;
  bool connected_ = false, running_ = false, simulated_ = false, tells_lines_ = false;
  std::function<Expected<std::unique_ptr<Host>>()> open_;
};

}  // namespace wren::app
