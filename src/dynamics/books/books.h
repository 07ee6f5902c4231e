// Bookkeeping within a tick: each stage says what it gave to a body; closing compares that with what the body has
// become.
//
// Books are kept in intervals that lie one after another: what happens between two ticks, impacts, velocities up to the
// move, the move, velocities after it. What the lines of an interval do not explain is the rest, under a cause of its
// own. Work is impulse times the mean of the velocities before and after; weight's is what the energy of height
// lost. What the work of all lines leaves of the change of energy is the solver's: it moved the body otherwise than by
// the mean of its velocities. Nothing here changes a motion.
#pragma once

#include "dynamics/settings/books.h"
#include "dynamics/state/world_state.h"

namespace bronvel {

/// What an act from outside gives to a body steadily through the coming tick.
struct ActedForce {
  std::uint32_t act = CauseBy::nobody;
  Vec3 force = Vec3::Zero(), torque = Vec3::Zero();  ///< N, N·m
  Vec3 at = Vec3::Zero();                            ///< m, where `has_place`
  bool has_place = false;
};

/// A push of a field in this sub-step, not yet given.
struct FieldPush {
  Cause cause = Cause::pull;
  CauseBy by;
  Vec3 force = Vec3::Zero(), torque = Vec3::Zero();  ///< N, N·m
  Vec3 at = Vec3::Zero();                            ///< m
};

/// What a cause gave in some stretch of time.
struct BookAmount {
  Vec3 impulse = Vec3::Zero(), turn = Vec3::Zero();  ///< N·s, N·m·s about the centre of mass

  void operator+=(const BookAmount& more) {
    impulse += more.impulse;
    turn += more.turn;
  }
  void operator*=(double share) {
    impulse *= share;
    turn *= share;
  }
};

/// A line of the tick, and how it grows.
struct BookedCause {
  Cause cause = Cause::solver;
  bool open = false;    ///< something was given in the open interval
  bool halved = false;  ///< and in the halves of the sub-step that are not over
  CauseBy by;
  BookAmount now;                 ///< in the open interval
  Vec3 in_halves = Vec3::Zero();  ///< N·s, in the halves that are over
  double work_of_halves = 0;      ///< of turning, in these, J
  BookAmount total;               ///< in the intervals that are over
  double work = 0;                ///< likewise, but for halves, J
  Vec3 at = Vec3::Zero();         ///< places times their weights, m·N·s
  double weight = 0;              ///< N·s
};

/// What is known of one body whose books are kept.
struct BookSlot {
  BodyBooks books;                                           ///< of the tick so far, but for its lines
  std::vector<BookedCause> causes;                           ///< that acted in this tick
  std::vector<std::uint32_t> open, halved;                   ///< those of them with `open`, `halved`
  std::vector<std::pair<std::uint32_t, BookAmount>> later;   ///< given to the next interval, by place in `causes`
  std::vector<std::pair<std::uint32_t, BookAmount>> before;  ///< what was open, to go back to
  std::vector<ActedForce> acted;
  std::vector<FieldPush> pushes;
  // At the end of the last interval.
  Vec3 velocity = Vec3::Zero(), spin = Vec3::Zero(), centre = Vec3::Zero();
  Vec3 momentum = Vec3::Zero(), turning = Vec3::Zero();
  double kinetic = 0;
  // Before the two halves of a sub-step.
  Vec3 halves_velocity = Vec3::Zero();
  double halves_kinetic = 0, halves_lifted = 0;  ///< J; the second since then
  CauseBy overlaps;                              ///< the other body of the deepest overlap in it
  double overlap = 0;                            ///< how deep that is, m

  /// Its place in `causes`.
  std::uint32_t place_of(Cause cause, const CauseBy& by);
  void give(std::uint32_t place, const Vec3& impulse, const Vec3& turn, const Vec3* at);
};

/// What a contact had given by the end of the first half of a sub-step: four points, two ways of sliding, twist, two
/// ways of rolling.
using ContactGiven = std::array<double, 9>;

/// Where the lines of a contact are in the slots of its two bodies: normal, friction, torsion, rolling.
struct ContactLines {
  static constexpr std::uint32_t unknown = 0xFFFFFFFFU;
  std::array<std::uint32_t, 4> a{unknown, unknown, unknown, unknown}, b = a;
};

/// Whose books are kept, and how far they are.
struct Books {
  bool all = false;
  std::vector<BodyHandle> asked;            ///< where not all
  std::vector<std::int32_t> slot_of;        ///< by body; −1: its books are not kept
  std::vector<BookSlot> slots;              ///< in order of the bodies
  std::vector<BodyBooks> told;              ///< of the last tick
  std::uint32_t act = CauseBy::nobody;      ///< what comes from outside now belongs to it
  std::optional<Vec3> acts_at;              ///< and acts there
  std::vector<ContactGiven> contact_given;  ///< by active pair
  std::vector<ContactLines> contact_lines;  ///< likewise
};

/// Whether the body's books are kept.
inline bool booked(const WorldState& state, std::uint32_t body) {
  const Books* books = state.scratch.books.get();
  return books != nullptr && body < books->slot_of.size() && books->slot_of[body] >= 0;
}

/// What is known of a body whose books are kept.
BookSlot& slot_of_booked(const WorldState& state, std::uint32_t body);

/// Whose books shall be kept from now on; of none of them anything is known yet.
void begin_books(WorldState& state, bool all, const std::vector<BodyHandle>& bodies);

/// A line of the open interval: N·s and N·m·s about the centre of mass. Nothing if the body's books are not kept.
/// Bodies may be written by different threads at once.
void book(WorldState& state, std::uint32_t body, Cause cause, CauseBy by, const Vec3& impulse, const Vec3& turn,
          const Vec3* at = nullptr);

/// The body's contact with another overlaps by so much, m.
void book_overlap(WorldState& state, std::uint32_t body, const CauseBy& other, double depth);

/// The push of a field in this sub-step, which `integrate_velocities` gives.
void book_push(WorldState& state, std::uint32_t body, const FieldPush& push);

/// A line of what has changed the body's velocities from these to what they are.
void book_change(WorldState& state, std::uint32_t body, Cause cause, CauseBy by, const Vec3& velocity_before,
                 const Vec3& spin_before, const Vec3& at);

/// The body as another of a contact or the like names it.
CauseBy by_body(const WorldState& state, std::uint32_t body);
CauseBy by_joint(const WorldState& state, std::uint32_t joint);
CauseBy by_zone(const WorldState& state, const ZoneRecord& zone);

/// A force or torque from outside for the coming tick.
void book_force(WorldState& state, std::uint32_t body, const Vec3& force, const Vec3& torque);

/// While it lives, what comes from outside acts at this point (scene frame, m).
class ActsAt {
 public:
  ActsAt(WorldState& state, const Vec3& point);
  ~ActsAt();
  ActsAt(const ActsAt&) = delete;
  ActsAt& operator=(const ActsAt&) = delete;

 private:
  Books* books_;
};

/// Something was done to the body from outside at once; what it changed is the act's.
void book_act(WorldState& state, std::uint32_t body, Cause cause);

/// The tick begins: what changed since the last one unseen is `placed`, and who came is looked up.
void open_books(WorldState& state);

/// How an interval ended.
enum class Interval {
  of_impacts,   ///< bodies were put elsewhere with their velocities: the change of height is the lines' too
  first_half,   ///< velocities before the move: half of what was deferred comes after it
  move,         ///< the move itself
  second_half,  ///< velocities after it
  other
};
/// Ends the interval of all bodies whose books are kept; what its lines leave is put under `rest`.
void close_books(WorldState& state, Interval interval, Cause rest);

/// The tick ends: its books are told.
void tell_books(WorldState& state);

/// The body's smooth forces of this interval are given in two halves, one before the move and one after it; or after
/// all they are given whole.
void defer_half(WorldState& state, std::uint32_t body);
void give_whole(WorldState& state, std::uint32_t body);

/// Remembers the lines of the interval so far; goes back to them.
void keep_lines(WorldState& state);
void go_back_to_lines(WorldState& state);

}  // namespace bronvel
