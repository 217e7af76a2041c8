// The queue of the window's heavy work: what begins when, what is dropped, and who waits for whom.
#include <QtTest/QtTest>

#include <atomic>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <vector>

#include "app/task.hpp"

using namespace wren::app;

namespace {

/// Holds works until it is opened, so that the queue is full meanwhile.
class Gate {
 public:
  void open() {
    const std::lock_guard lock(mutex_);
    open_ = true;
    changed_.notify_all();
  }
  void pass() {
    std::unique_lock lock(mutex_);
    ++inside_;
    changed_.wait(lock, [this] { return open_; });
  }
  [[nodiscard]] int inside() {
    const std::lock_guard lock(mutex_);
    return inside_;
  }

 private:
  std::mutex mutex_;
  std::condition_variable changed_;
  bool open_ = false;
  int inside_ = 0;
};

/// What was begun, in its order.
class Order {
 public:
  void add(const std::string& what) {
    const std::lock_guard lock(mutex_);
    all_.push_back(what);
  }
  [[nodiscard]] std::vector<std::string> all() {
    const std::lock_guard lock(mutex_);
    return all_;
  }

 private:
  std::mutex mutex_;
  std::vector<std::string> all_;
};

}  // namespace

class RequestsStory : public QObject {
  Q_OBJECT

  /// Fills every place of the queue but the one that is kept for what is in hand; the last of them behind its own gate.
  [[nodiscard]] std::vector<std::unique_ptr<RequestLine>> filled(Gate& gate, Gate* last = nullptr) {
    std::vector<std::unique_ptr<RequestLine>> all;
    const int places = std::max(2, QThread::idealThreadCount());
    for (int k = 0; k < places; ++k) {
      all.push_back(std::make_unique<RequestLine>(Urgency::asked));
      Gate* const behind = k + 1 == places && last != nullptr ? last : &gate;
      all.back()->put([behind] { behind->pass(); });
    }
    const auto inside = [&] { return gate.inside() + (last != nullptr ? last->inside() : 0); };
    for (int tries = 0; inside() < places && tries < 2000; ++tries) QThread::msleep(2);
    return all;
  }

 private Q_SLOTS:
  void what_is_in_hand_begins_at_once_and_what_was_asked_for_before_what_nobody_waits_for() {
    Gate gate, last;
    Order order;
    const auto busy = filled(gate, &last);
    RequestLine ahead(Urgency::ahead), asked(Urgency::asked), later(Urgency::asked), hand(Urgency::in_hand);
    ahead.put([&] { order.add("ahead"); });
    asked.put([&] { order.add("asked"); });
    later.put([&] { order.add("asked later"); });
    hand.put([&] { order.add("in hand"); });
    QTRY_COMPARE(order.all(), std::vector<std::string>{"in hand"});
    QThread::msleep(20);
    QCOMPARE(order.all().size(), std::size_t{1});  // every other place is taken
    last.open();                                   // one of them comes free: the rest go through it one by one
    QTRY_COMPARE(order.all(), (std::vector<std::string>{"in hand", "asked", "asked later", "ahead"}));
    gate.open();
  }

  void of_one_kind_the_newest_wins_and_no_two_run_at_once() {
    Gate gate;
    std::atomic<int> now{0}, most{0}, done{0};
    std::vector<int> made;
    RequestLine line(Urgency::in_hand);
    line.put([&] { gate.pass(); });
    for (int tries = 0; gate.inside() < 1 && tries < 2000; ++tries) QThread::msleep(1);
    for (int k = 0; k < 50; ++k)
      line.put([&, k] {
        most = std::max<int>(most, ++now);
        made.push_back(k);
        --now;
        ++done;
      });
    gate.open();
    line.finish();
    QCOMPARE(made, std::vector<int>{49});  // the others never began
    QCOMPARE(most.load(), 1);
    // Many short ones from here, each waited for: all are made, each once.
    for (int k = 0; k < 500; ++k) {
      line.put([&, k] {
        most = std::max<int>(most, ++now);
        made.push_back(k);
        --now;
      });
      line.finish();
      QCOMPARE(made.back(), k);
    }
    QCOMPARE(made.size(), std::size_t{501});
    QCOMPARE(most.load(), 1);
  }

  void who_cannot_wait_does_it_himself() {
    Gate gate;
    const auto busy = filled(gate);
    RequestLine line(Urgency::ahead);
    Qt::HANDLE by = nullptr;
    line.put([&] { by = QThread::currentThreadId(); });
    line.finish();
    QCOMPARE(by, QThread::currentThreadId());
    gate.open();
  }

  void what_waits_is_dropped_with_its_line_and_what_has_begun_is_waited_for() {
    Gate gate;
    const auto busy = filled(gate);
    std::atomic<int> begun{0};
    {
      RequestLine dropped(Urgency::asked);
      dropped.put([&] { ++begun; });
    }
    Gate held;
    std::atomic<bool> ended{false};
    {
      RequestLine hand(Urgency::in_hand);
      hand.put([&] {
        held.pass();
        QThread::msleep(30);
        ended = true;
      });
      for (int tries = 0; held.inside() < 1 && tries < 2000; ++tries) QThread::msleep(1);
      held.open();
    }
    QVERIFY(ended);
    gate.open();
    QThread::msleep(30);
    QCOMPARE(begun.load(), 0);
  }

  void a_task_brings_its_newest_result_and_its_owner_may_go_first() {
    QObject owner;
    std::vector<int> came;
    {
      Task<int> task(&owner, Urgency::ahead);
      for (int k = 0; k < 20; ++k) task.start([k](wren::Progress&) { return k; }, [&](int v) { came.push_back(v); });
      QVERIFY(task.busy());
      QTRY_VERIFY(!task.busy());
      QCOMPARE(came, std::vector<int>{19});
      // Taken now, or not at all.
      task.start([](wren::Progress&) { return 7; }, [&](int v) { came.push_back(v); });
      task.finish();
      QCOMPARE(came.back(), 7);
      task.start([](wren::Progress&) { return 8; }, [&](int v) { came.push_back(v); });
      task.cancel();
      QTest::qWait(20);
      QCOMPARE(came.size(), std::size_t{2});
      // One that is stopped hears of it.
      std::atomic<bool> heard{false};
      std::atomic<bool> in{false};
      task.start(
          [&](wren::Progress& p) {
            in = true;
            while (p.go_on(0, "")) QThread::msleep(1);
            heard = true;
            return 9;
          },
          [&](int v) { came.push_back(v); });
      for (int tries = 0; !in && tries < 2000; ++tries) QThread::msleep(1);
      task.start([](wren::Progress&) { return 10; }, [&](int v) { came.push_back(v); });
      QTRY_COMPARE(came.back(), 10);
      QVERIFY(heard);
      QCOMPARE(came.size(), std::size_t{3});
      task.start([](wren::Progress&) { return 11; }, [&](int v) { came.push_back(v); });
    }
    QTest::qWait(20);
    QVERIFY(came.back() == 10 || came.back() == 11);  // it had begun, or not; nothing came to who is gone
  }
};

int run_requests_story(int argc, char** argv) {
  RequestsStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "requests_story_test.moc"
