// Plays in real time on its own thread, so that neither the simulation waits for the screen nor the screen for a tick.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "play/run/play.h"

namespace bronvel {

/// Seconds on some clock that only goes forward. Tests bring their own.
using Clock = std::function<double()>;
Clock steady_clock();

/// Owns a Play and steps it at its tick rate × speed. When a tick takes longer than its time, it goes on as fast as it
/// can and says how far behind it is. Nothing here but `with` and `step` without a limit waits for the end of a tick.
class Runner {
 public:
  /// `after_tick` is called on the runner's thread after every tick, with the play held. What it refers to must outlive
  /// a tick that is given up: let it own all that.
  Runner(std::unique_ptr<Play> play, Clock clock, std::function<void(Play&)> after_tick);
  /// Waits for the end of the running tick, but no longer than `patience_at_end`; then the thread is left to end by
  /// itself, and the play with it.
  ~Runner();
  Runner(const Runner&) = delete;
  Runner& operator=(const Runner&) = delete;

  static constexpr double patience_at_end = 0.2;  ///< s of real time
  static constexpr double for_ever = 1e9;

  void go();
  void pause();                           ///< counts from the end of the running tick
  bool step(double patience = for_ever);  ///< one tick, then paused; false if it takes longer than this, s
  void set_speed(double speed);           ///< 1 is real time
  void hurry_to(std::int64_t tick);       ///< while it goes, up to there as fast as it can
  bool going() const;

  /// Seconds of play lost to slowness of late; 0 while it keeps real time.
  double behind() const;

  /// For how long the running tick has been running, s of real time; 0 between ticks.
  double in_tick() const;

  /// What a tick threw, if one did. The play stands where it was and goes no further.
  std::optional<std::string> fault() const;

  /// Runs `use` with the play held, between two ticks; waits for that.
  template <class Use>
  auto with(Use&& use) {
    const Hold hold(*this, for_ever);
    return use(hold.play());
  }
  /// The same if the play can be had within `patience`, s; else false, and the runner will wait a little after the tick
  /// for the next try.
  template <class Use>
  bool try_with(double patience, Use&& use) {
    const Hold hold(*this, patience);
    if (!hold) return false;
    use(hold.play());
    return true;
  }

  /// Whether threads of plays that were given up still run: the program must then end without tidying up under them.
  static bool any_given_up();

 private:
  struct State;

  class Hold {
   public:
    Hold(Runner& runner, double patience);
    ~Hold();
    Hold(const Hold&) = delete;
    Hold& operator=(const Hold&) = delete;
    explicit operator bool() const { return held_; }
    Play& play() const;

   private:
    Runner& runner_;
    bool held_;
  };

  std::shared_ptr<State> state_;  // shared with the thread, which may outlive this
};

}  // namespace bronvel
