// The books of a play: for chosen bodies, every tick's causes by name, and what they gave.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "lab/ask/ask.h"

namespace bronvel {

/// "118 N", "2.45 kN", "3.1 mJ": three digits with the prefix that fits.
std::string si_text(double x, const std::string& unit);

/// A cause, and by name what it acts through.
struct NamedCause {
  Cause cause = Cause::solver;
  std::string by;      ///< the other body, the zone, the joint; of acts from outside what they do: "force", "hand"
  std::string script;  ///< of an act by a script: its file
  int line = 0;        ///< and line
  bool operator==(const NamedCause&) const = default;

  /// It comes all at once, and counts in N·s; others act through the tick, and count in N.
  bool at_once() const;
  /// "weight", "friction of quay", "hit by cask", "cord, its limit", "nudge.lua:9 force", "hand".
  std::string text() const;
};

/// What a cause gave to a body in a tick, as `BookLine` has it.
struct BookedLine {
  std::uint32_t cause = 0;  ///< in `BookedBody::causes`
  Eigen::Vector3f impulse = Eigen::Vector3f::Zero(), turn = Eigen::Vector3f::Zero(), at = Eigen::Vector3f::Zero();
  float work = 0;
  bool has_place = false;
};

/// A body's tick: where its lines are, and what they add up to.
struct BookedTick {
  std::size_t first = 0, count = 0;
  Vec3 change = Vec3::Zero();    ///< of momentum, N·s
  Vec3 momentum = Vec3::Zero();  ///< at the tick's end, kg·m/s
  double kinetic = 0;            ///< at the tick's end, J
  double height = 0;             ///< energy of height then, against the start, J
  bool asleep = false;
};

/// The books of one body. Tick k is the one after which the play stood at tick k.
struct BookedBody {
  std::string name;
  std::int64_t first_tick = 1;
  double kinetic_before = 0;  ///< before the first tick, J
  double mass = 0;            ///< as it last was, kg
  std::vector<NamedCause> causes;
  std::vector<BookedLine> lines;
  std::vector<BookedTick> ticks;

  std::int64_t end_tick() const { return first_tick + static_cast<std::int64_t>(ticks.size()); }
  /// Null outside of what was booked.
  const BookedTick* at(std::int64_t tick) const;
  std::span<const BookedLine> lines_of(const BookedTick& tick) const;
  std::size_t bytes() const;
};

/// How well books add up. Shares of the sums of all sizes.
struct Balance {
  double momentum_error = 0;                      ///< worst of any tick: what the lines leave of the change
  double energy_error = 0;                        ///< the same
  double solver_momentum = 0, solver_energy = 0;  ///< what the engine itself corrected: its share of the turnover
  double turnover = 0;                            ///< sum of all work, either way, J
  std::string worst_body;                         ///< in which the solver's part of energy is greatest
};

/// Books of several bodies of a play.
struct Booked {
  double tick_rate = 60;
  std::vector<BookedBody> bodies;  ///< in the order in which they were first seen
  Balance balance;

  const BookedBody* find(const std::string& name) const;
};

/// Keeps the books of a play while it goes on.
class BookKeeper {
 public:
  /// Of the bodies of these names, also if they come later; of all dynamic ones where there are none.
  explicit BookKeeper(std::vector<std::string> bodies) : asked_(std::move(bodies)) {}
  void begin(Play& play);  ///< before its next tick
  void take(Play& play);   ///< after each
  Booked& booked() { return booked_; }

 private:
  void look_for(Play& play);
  void add(const Play& play, const BodyBooks& books);
  void weigh(const BodyBooks& books, const std::string& name);

  std::vector<std::string> asked_;
  std::vector<BodyHandle> kept_;
  Booked booked_;
  struct Sums {
    double impulse = 0, solver_impulse = 0, work = 0, solver_work = 0, most_solver_work = 0;
  };
  Sums sums_;
};

/// Plays it and books these bodies (all if there are none). `go_on` is asked after every tick, and ends it with false.
/// Throws Error when the scene can't be played.
Booked book(const Question& question, const std::vector<std::string>& bodies,
            const std::function<bool()>& go_on = nullptr);

}  // namespace bronvel
