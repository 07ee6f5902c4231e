// Real-time playing.
#include "play/runner.h"

#include <chrono>

namespace bronvel {
namespace {
// Farther behind than this (s of play), lost time is given up instead of being caught up in a rush.
constexpr double most_behind = 0.25;
// After keeping time for this long (s), what was lost before is no longer news.
constexpr double calm = 3;
}  // namespace

Clock steady_clock() {
  return [] { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); };
}

Runner::Runner(std::unique_ptr<Play> play, Clock clock, std::function<void(Play&)> after_tick)
    : play_(std::move(play)),
      clock_(std::move(clock)),
      after_tick_(std::move(after_tick)),
      thread_([this] { run(); }) {}

Runner::~Runner() {
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    quit_ = true;
  }
  wake_.notify_all();
  thread_.join();
}

void Runner::restart_clock() {
  started_at_ = clock_();
  started_tick_ = play_->tick();
  forgiven_ = 0;
  lost_lately_ = 0;
  behind_ = 0;
}

void Runner::go() {
  const std::lock_guard<std::mutex> lock(mutex_);
  if (going_) return;
  restart_clock();
  going_ = true;
  wake_.notify_all();
}

void Runner::pause() {
  const std::lock_guard<std::mutex> lock(mutex_);
  going_ = false;
  behind_ = 0;
}

void Runner::step() {
  const std::lock_guard<std::mutex> lock(mutex_);
  going_ = false;
  play_->step();
  after_tick_(*play_);
}

void Runner::set_speed(double speed) {
  const std::lock_guard<std::mutex> lock(mutex_);
  restart_clock();
  speed_ = speed;
}

void Runner::run() {
  std::unique_lock<std::mutex> lock(mutex_);
  while (!quit_) {
    if (!going_) {
      wake_.wait(lock, [this] { return quit_ || going_; });
      continue;
    }
    // Others who want the play come first.
    if (waiting_ > 0) {
      free_.wait_for(lock, std::chrono::milliseconds(2), [this] { return waiting_ == 0 || quit_; });
      if (quit_) return;
    }
    const double rate = play_->running().world.settings().tick_rate;
    const double due = (clock_() - started_at_) * speed_ - forgiven_;
    const double done = static_cast<double>(play_->tick() - started_tick_) / rate;
    const double ahead = done + 1 / rate - due;
    if (clock_() - lost_at_ > calm) lost_lately_ = 0;
    if (ahead > 0) {
      behind_ = lost_lately_;
      const double wait = std::min(ahead / speed_, 0.004);
      wake_.wait_for(lock, std::chrono::duration<double>(wait), [this] { return quit_.load(); });
      continue;
    }
    if (-ahead > most_behind) {
      const double given_up = -ahead - most_behind;
      forgiven_ += given_up;
      lost_lately_ += given_up;
      lost_at_ = clock_();
    }
    behind_ = lost_lately_ + (-ahead > 2 / rate ? std::min(-ahead, most_behind) : 0);
    play_->step();
    after_tick_(*play_);
  }
}

}  // namespace bronvel
