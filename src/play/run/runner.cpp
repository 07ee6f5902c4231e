// Real-time playing.
#include "play/run/runner.h"

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <thread>

#include "play/run/thread_choice.h"

namespace bronvel {
namespace {

// Farther behind than this (s of play), lost time is given up instead of being caught up in a rush.
constexpr double most_behind = 0.25;
// After keeping time for this long (s), what was lost before is no longer news.
constexpr double calm = 3;
// Who could not have the play in time is waited for after the tick for so long (s), so that a slow play is seen too.
constexpr double wait_for_wanted = 0.1;

std::atomic<int> given_up{0};

std::chrono::duration<double> seconds(double s) {
  return std::chrono::duration<double>(std::min(s, 1e6));
}

}  // namespace

Clock steady_clock() {
  return [] { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); };
}

// The mutex is held for moments only. Who may touch the play is said by `held`: the thread during a tick, or a Hold.
struct Runner::State {
  std::unique_ptr<Play> play;
  Clock clock;
  std::function<void(Play&)> after_tick;

  mutable std::mutex mutex;
  std::condition_variable changed;
  bool held = false;
  int waiting = 0;      // Holds that wait
  bool wanted = false;  // a Hold gave up waiting and will be back
  bool going = false;
  int steps = 0;  // asked for
  bool quit = false;
  bool ended = false;
  bool left_alone = false;
  std::optional<std::string> fault;
  double behind = 0;
  double speed = 1;
  std::int64_t tick = 0;  // of the play, as of the last tick
  double tick_rate = 60;  // likewise
  double started_at = 0;  // on the clock
  std::int64_t started_tick = 0;
  std::int64_t hurry_until = 0;
  double forgiven = 0;     // s of play given up for lost
  double lost_lately = 0;  // s of play, until it has kept time for a while
  double lost_at = 0;      // on the clock
  std::optional<std::chrono::steady_clock::time_point> tick_began;
  std::thread thread;
  ThreadChoice threads;

  void restart_clock() {
    started_at = clock();
    started_tick = tick;
    forgiven = 0;
    lost_lately = 0;
    behind = 0;
  }

  // One tick, with the mutex free during it.
  void run_tick(std::unique_lock<std::mutex>& lock) {
    held = true;
    tick_began = std::chrono::steady_clock::now();
    lock.unlock();
    std::optional<std::string> thrown;
    try {
      play->step();
      const std::chrono::duration<double> took = std::chrono::steady_clock::now() - *tick_began;
      play->running().world.set_threads(threads.after_tick(took.count()));
      after_tick(*play);
    } catch (const std::exception& e) {
      thrown = e.what();
    } catch (...) {
      thrown = "something that is no error of ours";
    }
    lock.lock();
    held = false;
    tick_began.reset();
    tick = play->tick();
    tick_rate = play->running().world.settings().tick_rate;
    if (thrown) {
      fault = "tick " + std::to_string(tick) + " could not be played: " + *thrown;
      going = false;
      steps = 0;
    }
    changed.notify_all();
  }

  // How long to wait until the next tick is due, s; 0 or less when it is.
  double until_due() {
    const double now = clock();
    const double due = (now - started_at) * speed - forgiven;
    const double done = static_cast<double>(tick - started_tick) / tick_rate;
    const double ahead = done + 1 / tick_rate - due;
    if (now - lost_at > calm) lost_lately = 0;
    if (ahead > 0) {
      behind = lost_lately;
      return ahead / speed;
    }
    if (-ahead > most_behind) {
      const double lost = -ahead - most_behind;
      forgiven += lost;
      lost_lately += lost;
      lost_at = now;
    }
    behind = lost_lately + (-ahead > 2 / tick_rate ? std::min(-ahead, most_behind) : 0);
    return 0;
  }

  void run() {
    std::unique_lock<std::mutex> lock(mutex);
    while (!quit) {
      if (fault || (!going && steps == 0)) {
        changed.wait(lock, [this] { return quit || (!fault && (going || steps > 0)); });
        continue;
      }
      // Others who want the play come first.
      if (waiting > 0 || held)
        changed.wait_for(lock, seconds(0.002), [this] { return quit || (waiting == 0 && !held); });
      if (wanted) {
        changed.wait_for(lock, seconds(wait_for_wanted), [this] { return quit || !wanted; });
        wanted = false;
      }
      if (quit || held) continue;
      if (steps > 0) {
        --steps;
        run_tick(lock);
        continue;
      }
      if (!going) continue;
      if (tick < hurry_until) {
        run_tick(lock);
        restart_clock();
        continue;
      }
      const double wait = until_due();
      if (wait > 0)
        changed.wait_for(lock, seconds(std::min(wait, 0.004)), [this] { return quit || steps > 0; });
      else
        run_tick(lock);
    }
    ended = true;
    if (left_alone) --given_up;
    changed.notify_all();
  }
};

Runner::Runner(std::unique_ptr<Play> play, Clock clock, std::function<void(Play&)> after_tick)
    : state_(std::make_shared<State>()) {
  State& s = *state_;
  s.tick = play->tick();
  s.tick_rate = play->running().world.settings().tick_rate;
  s.play = std::move(play);
  s.clock = std::move(clock);
  s.after_tick = std::move(after_tick);
  s.thread = std::thread([state = state_] { state->run(); });
}

Runner::~Runner() {
  std::unique_lock<std::mutex> lock(state_->mutex);
  state_->quit = true;
  state_->changed.notify_all();
  if (state_->changed.wait_for(lock, seconds(patience_at_end), [this] { return state_->ended; })) {
    lock.unlock();
    state_->thread.join();
    return;
  }
  state_->left_alone = true;
  ++given_up;
  state_->thread.detach();
}

bool Runner::any_given_up() {
  return given_up > 0;
}

void Runner::go() {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  if (state_->going || state_->fault) return;
  state_->restart_clock();
  state_->going = true;
  state_->changed.notify_all();
}

void Runner::pause() {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  state_->going = false;
  state_->behind = 0;
}

bool Runner::step(double patience) {
  std::unique_lock<std::mutex> lock(state_->mutex);
  if (state_->fault) return true;
  state_->going = false;
  ++state_->steps;
  state_->changed.notify_all();
  return state_->changed.wait_for(lock, seconds(patience),
                                  [this] { return state_->steps == 0 && !state_->tick_began; });
}

void Runner::set_speed(double speed) {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  state_->restart_clock();
  state_->speed = speed;
}

void Runner::hurry_to(std::int64_t tick) {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  state_->hurry_until = tick;
  state_->changed.notify_all();
}

bool Runner::going() const {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  return state_->going;
}

double Runner::behind() const {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  return state_->behind;
}

double Runner::in_tick() const {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  if (!state_->tick_began) return 0;
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - *state_->tick_began).count();
}

std::optional<std::string> Runner::fault() const {
  const std::lock_guard<std::mutex> lock(state_->mutex);
  return state_->fault;
}

Runner::Hold::Hold(Runner& runner, double patience) : runner_(runner) {
  State& s = *runner.state_;
  std::unique_lock<std::mutex> lock(s.mutex);
  ++s.waiting;
  held_ = s.changed.wait_for(lock, seconds(patience), [&] { return !s.held; });
  --s.waiting;
  s.held = s.held || held_;
  s.wanted = !held_;
  s.changed.notify_all();
}

Runner::Hold::~Hold() {
  if (!held_) return;
  State& s = *runner_.state_;
  const std::lock_guard<std::mutex> lock(s.mutex);
  s.held = false;
  s.changed.notify_all();
}

Play& Runner::Hold::play() const {
  return *runner_.state_->play;
}

}  // namespace bronvel
