// Driving the real bench: a clock that goes only when told, and waiting for what should come of it.
#pragma once

#include <QApplication>
#include <QElapsedTimer>
#include <QTest>
#include <functional>
#include <memory>
#include <mutex>

#include "app/bench.h"

namespace bronvel {

/// A clock in the test's hand. Copies share the time.
class HandClock {
 public:
  Clock clock() const {
    return [time = time_] {
      const std::lock_guard<std::mutex> lock(time->mutex);
      return time->seconds;
    };
  }
  void advance(double seconds) {
    const std::lock_guard<std::mutex> lock(time_->mutex);
    time_->seconds += seconds;
  }

 private:
  struct Time {
    std::mutex mutex;
    double seconds = 0;
  };
  std::shared_ptr<Time> time_ = std::make_shared<Time>();
};

/// Handles events until the condition holds. Gives up, returning false, only when something is badly stuck.
inline bool wait_until(const std::function<bool()>& condition) {
  QElapsedTimer timer;
  timer.start();
  while (!condition()) {
    if (timer.elapsed() > 60000) return false;
    QTest::qWait(5);
  }
  return true;
}

/// Lets the play go on for that many ticks, in small bites so that nothing counts as lost time.
inline bool play_ticks(Bench& bench, HandClock& hand, std::int64_t ticks) {
  const double rate = bench.session().scene().world.tick_rate;
  const std::int64_t end = bench.session().tick() + ticks;
  while (bench.session().tick() < end) {
    const std::int64_t next = std::min<std::int64_t>(end, bench.session().tick() + 12);
    hand.advance(static_cast<double>(next - bench.session().tick()) / rate + 1e-9);
    if (!wait_until([&] {
          bench.session().refresh();
          return bench.session().tick() >= next;
        }))
      return false;
  }
  return true;
}

}  // namespace bronvel
