// Plays in real time on its own thread, so that the simulation never waits for the screen.
#pragma once

#include <atomic>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <thread>

#include "play/play.h"

namespace bronvel {

/// Seconds on some clock that only goes forward. Tests bring their own.
using Clock = std::function<double()>;
Clock steady_clock();

/// Owns a Play and steps it at its tick rate × speed. When a tick takes longer than its time, it goes on as fast as it
/// can and says how far behind it is.
class Runner {
 public:
  /// `after_tick` is called on the runner's thread after every tick, with the play locked.
  Runner(std::unique_ptr<Play> play, Clock clock, std::function<void(Play&)> after_tick);
  ~Runner();
  Runner(const Runner&) = delete;
  Runner& operator=(const Runner&) = delete;

  void go();
  void pause();
  void step();                   ///< one tick, then paused
  void set_speed(double speed);  ///< 1 is real time
  bool going() const { return going_; }

  /// Seconds of play lost to slowness of late; 0 while it keeps real time.
  double behind() const { return behind_; }

  /// Runs `use` with the play locked, between two ticks.
  template <class Use>
  auto with(Use&& use) {
    ++waiting_;
    const std::unique_lock<std::mutex> lock(mutex_);
    --waiting_;
    free_.notify_all();
    return use(*play_);
  }

 private:
  void run();
  void restart_clock();  // with the lock held

  std::unique_ptr<Play> play_;
  Clock clock_;
  std::function<void(Play&)> after_tick_;
  std::mutex mutex_;
  std::condition_variable wake_, free_;
  std::atomic<int> waiting_{0};
  std::atomic<bool> going_{false};
  std::atomic<bool> quit_{false};
  std::atomic<double> behind_{0};
  double speed_ = 1;
  double started_at_ = 0;  // on the clock
  std::int64_t started_tick_ = 0;
  double forgiven_ = 0;     // s of play given up for lost
  double lost_lately_ = 0;  // s of play, until it has kept time for a while
  double lost_at_ = 0;      // on the clock
  std::thread thread_;
};

}  // namespace bronvel
