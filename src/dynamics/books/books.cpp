// Intervals of the books, and how their lines add up.
#include "dynamics/books/books.h"

#include <algorithm>
#include <utility>

#include "dynamics/base/thread_pool.h"

namespace bronvel {
namespace {

// A body's motion as the books see it.
struct Seen {
  Vec3 momentum, turning;
  double kinetic;
};

Seen look(const BodyRecord& record, const BodyState& m) {
  const Vec3 spin = m.orientation.conjugate() * m.angular_velocity;
  const Vec3 turning = record.mass.inertia * spin;
  return {record.mass.mass * m.velocity, m.orientation * turning,
          0.5 * record.mass.mass * m.velocity.squaredNorm() + 0.5 * spin.dot(turning)};
}

void take_note(BookSlot& slot, const BodyState& m, const Seen& seen) {
  slot.velocity = m.velocity;
  slot.spin = m.angular_velocity;
  slot.centre = m.centre;
  slot.momentum = seen.momentum;
  slot.turning = seen.turning;
  slot.kinetic = seen.kinetic;
}

// Of what is left, the part along axes that the body may not move along or turn about.
BookAmount held_by_locks(const BodyRecord& record, const BookAmount& rest) {
  BookAmount held;
  for (int i = 0; i < 3; ++i) {
    const auto axis = static_cast<std::size_t>(i);
    if (record.locks.move[axis]) held.impulse[i] = rest.impulse[i];
    if (record.locks.turn[axis]) held.turn[i] = rest.turn[i];
  }
  return held;
}

// Once the second half is over: the work of what was given in both. Weight takes from the energy of height what it
// gives; of turning each half has its own. What that leaves of the change of energy is the solver's.
void end_halves(BookSlot& slot, const BodyState& m, double kinetic) {
  const Vec3 mean = 0.5 * (slot.halves_velocity + m.velocity);
  double all = 0;
  for (const std::uint32_t place : slot.halved) {
    BookedCause& cause = slot.causes[place];
    const double work =
        cause.work_of_halves + (cause.cause == Cause::weight ? -slot.halves_lifted : cause.in_halves.dot(mean));
    all += work;
    cause.work += work;
    cause.in_halves.setZero();
    cause.work_of_halves = 0;
    cause.halved = false;
  }
  slot.halved.clear();
  constexpr double sunk = 1e-5;  // m: deeper than what rests gives
  const bool overlaps = slot.overlap > sunk;
  const std::uint32_t whose =
      slot.place_of(overlaps ? Cause::overlap : Cause::solver, overlaps ? slot.overlaps : CauseBy{});
  slot.causes[whose].work += kinetic - slot.halves_kinetic - all;
  slot.overlap = 0;
}

// Ends the slot's interval: `rest` and `by` are whose the part is that the lines leave.
void close(const WorldState& state, std::uint32_t body, BookSlot& slot, Interval interval, Cause rest,
           const CauseBy& by, const Vec3* at) {
  const BodyRecord& record = state.records[body];
  const BodyState& m = state.bodies[body];
  if (slot.open.empty() && m.velocity == slot.velocity && m.angular_velocity == slot.spin && m.centre == slot.centre &&
      (interval == Interval::of_impacts || interval == Interval::other) && rest != Cause::placed)
    return;
  const Seen seen = look(record, m);
  BookAmount left;
  left.impulse = seen.momentum - slot.momentum;
  left.turn = seen.turning - slot.turning;
  for (const std::uint32_t place : slot.open) {
    left.impulse -= slot.causes[place].now.impulse;
    left.turn -= slot.causes[place].now.turn;
  }
  if (const BookAmount held = held_by_locks(record, left); !held.impulse.isZero() || !held.turn.isZero()) {
    left.impulse -= held.impulse;
    left.turn -= held.turn;
    slot.give(slot.place_of(Cause::lock, {}), held.impulse, held.turn, nullptr);
  }
  const std::uint32_t last = slot.place_of(rest, by);
  slot.give(last, left.impulse, left.turn, at);
  const bool halves =
      interval == Interval::first_half || interval == Interval::move || interval == Interval::second_half;
  if (interval == Interval::first_half) {
    slot.halves_velocity = slot.velocity;
    slot.halves_kinetic = slot.kinetic;
    slot.halves_lifted = 0;
  }
  const double lifted = -record.weight * state.gravity_on(body).dot(m.centre - slot.centre);
  slot.books.lifted += lifted;
  slot.halves_lifted += lifted;
  const Vec3 mean = 0.5 * (slot.velocity + m.velocity), mean_spin = 0.5 * (slot.spin + m.angular_velocity);
  double all = 0, pushed = 0;
  if (!halves)
    for (const std::uint32_t place : slot.open) pushed += slot.causes[place].now.impulse.norm();
  // Impacts put bodies where they would be had they always moved as after the hit: what that gives to their height it
  // takes from their speed.
  const bool share = interval == Interval::of_impacts && pushed > 0;
  for (const std::uint32_t place : slot.open) {
    BookedCause& cause = slot.causes[place];
    if (halves) {
      cause.work_of_halves += cause.now.turn.dot(mean_spin);
      cause.in_halves += cause.now.impulse;
      if (!std::exchange(cause.halved, true)) slot.halved.push_back(place);
    } else {
      const double work = cause.now.impulse.dot(mean) + cause.now.turn.dot(mean_spin);
      all += work;
      cause.work += work + (share ? lifted * cause.now.impulse.norm() / pushed : 0);
    }
    cause.total += cause.now;
    cause.now = {};
    cause.open = false;
  }
  slot.open.clear();
  // The inertia of what turns is another one at the interval's end.
  if (!halves) slot.causes[last].work += seen.kinetic - slot.kinetic - all + (share ? 0 : lifted);
  if (interval == Interval::first_half) slot.pushes.clear();
  if (interval == Interval::move) {
    for (const auto& [place, amount] : slot.later) {
      slot.causes[place].now += amount;
      if (!std::exchange(slot.causes[place].open, true)) slot.open.push_back(place);
    }
    slot.later.clear();
  }
  if (interval == Interval::second_half) end_halves(slot, m, seen.kinetic);
  take_note(slot, m, seen);
}

void begin_tick(const WorldState& state, std::uint32_t body, BookSlot& slot) {
  const Seen seen = look(state.records[body], state.bodies[body]);
  slot.causes.clear();
  slot.open.clear();
  slot.halved.clear();
  slot.books.momentum_before = seen.momentum;
  slot.books.turning_before = seen.turning;
  slot.books.kinetic_before = seen.kinetic;
  slot.books.lifted = 0;
  slot.later.clear();
  slot.acted.clear();
  slot.pushes.clear();
  take_note(slot, state.bodies[body], seen);
}

bool keeps(const WorldState& state, const BookSlot& slot) {
  const BodyHandle body = slot.books.body;
  return body.index < state.records.size() && state.records[body.index].alive &&
         state.records[body.index].generation == body.generation;
}

// Calls f(body, slot) for every body whose books are kept.
template <class F>
void each_slot(WorldState& state, const F& f) {
  for (BookSlot& slot : state.scratch.books->slots)
    if (keeps(state, slot)) f(slot.books.body.index, slot);
}

// Slots for all that are to be kept, as it is now: those that go on keep what they have.
void look_up(WorldState& state) {
  Books& books = *state.scratch.books;
  std::vector<BodyHandle> wanted;
  if (books.all) {
    for (std::uint32_t i = 0; i < state.records.size(); ++i)
      if (state.records[i].alive && state.records[i].dynamic()) wanted.push_back({i, state.records[i].generation});
  } else {
    for (const BodyHandle body : books.asked)
      if (body.index < state.records.size() && state.records[body.index].alive &&
          state.records[body.index].generation == body.generation && state.records[body.index].dynamic())
        wanted.push_back(body);
  }
  const auto same = [](const BookSlot& slot, const BodyHandle& body) { return slot.books.body == body; };
  books.slot_of.resize(state.records.size(), -1);
  if (std::equal(books.slots.begin(), books.slots.end(), wanted.begin(), wanted.end(), same)) return;
  std::vector<BookSlot> slots;
  for (const BodyHandle body : wanted) {
    const std::int32_t before = books.slot_of[body.index];
    if (before >= 0 && same(books.slots[static_cast<std::size_t>(before)], body)) {
      slots.push_back(std::move(books.slots[static_cast<std::size_t>(before)]));
      continue;
    }
    BookSlot& slot = slots.emplace_back();
    slot.books.body = body;
    begin_tick(state, body.index, slot);
  }
  books.slots = std::move(slots);
  books.slot_of.assign(state.records.size(), -1);
  for (std::size_t k = 0; k < books.slots.size(); ++k)
    books.slot_of[books.slots[k].books.body.index] = static_cast<std::int32_t>(k);
}

}  // namespace

std::uint32_t BookSlot::place_of(Cause cause, const CauseBy& by) {
  for (std::uint32_t place = 0; place < causes.size(); ++place)
    if (causes[place].cause == cause && causes[place].by == by) return place;
  BookedCause& fresh = causes.emplace_back();
  fresh.cause = cause;
  fresh.by = by;
  return static_cast<std::uint32_t>(causes.size() - 1);
}

void BookSlot::give(std::uint32_t place, const Vec3& impulse, const Vec3& turn, const Vec3* at) {
  BookedCause& cause = causes[place];
  cause.now.impulse += impulse;
  cause.now.turn += turn;
  if (at) {
    const double weight = impulse.norm();
    cause.at += weight * *at;
    cause.weight += weight;
  }
  if (!std::exchange(cause.open, true)) open.push_back(place);
}

BookSlot& slot_of_booked(const WorldState& state, std::uint32_t body) {
  Books& books = *state.scratch.books;
  return books.slots[static_cast<std::size_t>(books.slot_of[body])];
}

void begin_books(WorldState& state, bool all, const std::vector<BodyHandle>& bodies) {
  if (!all && bodies.empty()) {
    state.scratch.books.reset();
    return;
  }
  state.scratch.books = std::make_shared<Books>();
  state.scratch.books->all = all;
  state.scratch.books->asked = bodies;
  std::sort(state.scratch.books->asked.begin(), state.scratch.books->asked.end());
  look_up(state);
}

void book(WorldState& state, std::uint32_t body, Cause cause, CauseBy by, const Vec3& impulse, const Vec3& turn,
          const Vec3* at) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  slot.give(slot.place_of(cause, by), impulse, turn, at);
}

void book_overlap(WorldState& state, std::uint32_t body, const CauseBy& other, double depth) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  if (depth <= slot.overlap) return;
  slot.overlap = depth;
  slot.overlaps = other;
}

void book_push(WorldState& state, std::uint32_t body, const FieldPush& push) {
  if (booked(state, body)) slot_of_booked(state, body).pushes.push_back(push);
}

void book_change(WorldState& state, std::uint32_t body, Cause cause, CauseBy by, const Vec3& velocity_before,
                 const Vec3& spin_before, const Vec3& at) {
  if (!booked(state, body)) return;
  const BodyRecord& record = state.records[body];
  const BodyState& m = state.bodies[body];
  const Mat3 rotation = m.orientation.toRotationMatrix();
  const Vec3 spun = m.angular_velocity - spin_before;
  book(state, body, cause, by, record.mass.mass * (m.velocity - velocity_before),
       rotation * (record.mass.inertia * (rotation.transpose() * spun)), &at);
}

CauseBy by_body(const WorldState& state, std::uint32_t body) {
  return {body, state.records[body].generation};
}
CauseBy by_joint(const WorldState& state, std::uint32_t joint) {
  return {joint, state.joints[joint].generation};
}
CauseBy by_zone(const WorldState& state, const ZoneRecord& zone) {
  return {static_cast<std::uint32_t>(&zone - state.zones.data()), zone.generation};
}

void book_force(WorldState& state, std::uint32_t body, const Vec3& force, const Vec3& torque) {
  if (!booked(state, body)) return;
  ActedForce& acted = slot_of_booked(state, body).acted.emplace_back();
  acted.act = state.scratch.books->act;
  acted.force = force;
  acted.torque = torque;
  acted.has_place = state.scratch.books->acts_at.has_value();
  if (acted.has_place) acted.at = *state.scratch.books->acts_at;
}

void book_act(WorldState& state, std::uint32_t body, Cause cause) {
  if (!booked(state, body) || !keeps(state, slot_of_booked(state, body))) return;
  const std::optional<Vec3>& at = state.scratch.books->acts_at;
  close(state, body, slot_of_booked(state, body), Interval::other, cause, {state.scratch.books->act, 0},
        at ? &*at : nullptr);
}

ActsAt::ActsAt(WorldState& state, const Vec3& point) : books_(state.scratch.books.get()) {
  if (books_) books_->acts_at = point;
}
ActsAt::~ActsAt() {
  if (books_) books_->acts_at.reset();
}

void open_books(WorldState& state) {
  if (!state.scratch.books) return;
  look_up(state);
  close_books(state, Interval::other, Cause::placed);
}

void close_books(WorldState& state, Interval interval, Cause rest) {
  if (!state.scratch.books) return;
  constexpr std::size_t worth_sharing = 200;
  std::vector<BookSlot>& slots = state.scratch.books->slots;
  state.scratch.thread_pool->each(slots.size(), worth_sharing, [&](std::size_t k) {
    if (keeps(state, slots[k])) close(state, slots[k].books.body.index, slots[k], interval, rest, {}, nullptr);
  });
}

void tell_books(WorldState& state) {
  if (!state.scratch.books) return;
  std::vector<BodyBooks>& told = state.scratch.books->told;
  told.clear();
  each_slot(state, [&](std::uint32_t body, BookSlot& slot) {
    slot.books.momentum = slot.momentum;
    slot.books.turning = slot.turning;
    slot.books.kinetic = slot.kinetic;
    BodyBooks& books = told.emplace_back(slot.books);
    books.lines.reserve(slot.causes.size());
    for (const BookedCause& cause : slot.causes) {
      const BookAmount& total = cause.total;
      if (total.impulse.isZero() && total.turn.isZero() && cause.work == 0) continue;
      books.lines.push_back({cause.cause, cause.by, total.impulse, total.turn, cause.work,
                             cause.weight > 0 ? Vec3(cause.at / cause.weight) : Vec3(Vec3::Zero()), cause.weight});
    }
    begin_tick(state, body, slot);
  });
}

void defer_half(WorldState& state, std::uint32_t body) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  for (const std::uint32_t place : slot.open) {
    slot.causes[place].now *= 0.5;
    slot.later.emplace_back(place, slot.causes[place].now);
  }
}

void give_whole(WorldState& state, std::uint32_t body) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  for (const auto& [place, amount] : slot.later) {
    slot.causes[place].now += amount;
    if (!std::exchange(slot.causes[place].open, true)) slot.open.push_back(place);
  }
  slot.later.clear();
}

void keep_lines(WorldState& state) {
  if (!state.scratch.books) return;
  for (BookSlot& slot : state.scratch.books->slots) {
    slot.before.clear();
    for (const std::uint32_t place : slot.open) slot.before.emplace_back(place, slot.causes[place].now);
  }
}

void go_back_to_lines(WorldState& state) {
  if (!state.scratch.books) return;
  for (BookSlot& slot : state.scratch.books->slots) {
    for (const std::uint32_t place : slot.open) slot.causes[place].now = {};
    // What came since stays open, with nothing in it.
    for (const auto& [place, amount] : slot.before) slot.causes[place].now = amount;
  }
}

}  // namespace bronvel
