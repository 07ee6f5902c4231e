// Intervals of the books, and how their lines add up.
#include "dynamics/books/books.h"

#include <algorithm>

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

BookLine& line_of(std::vector<BookLine>& lines, Cause cause, const CauseBy& by) {
  for (BookLine& line : lines)
    if (line.cause == cause && line.by == by) return line;
  BookLine& line = lines.emplace_back();
  line.cause = cause;
  line.by = by;
  return line;
}

void add_to(BookLine& line, const BookLine& more) {
  line.impulse += more.impulse;
  line.turn += more.turn;
  line.work += more.work;
  line.at += more.at;
  line.weight += more.weight;
}

// Of what is left, the part along axes that the body may not move along or turn about.
BookLine held_by_locks(const BodyRecord& record, const BookLine& rest) {
  BookLine held;
  for (int i = 0; i < 3; ++i) {
    const auto axis = static_cast<std::size_t>(i);
    if (record.locks.move[axis]) held.impulse[i] = rest.impulse[i];
    if (record.locks.turn[axis]) held.turn[i] = rest.turn[i];
  }
  return held;
}

// Once the second half is over: the work of what was given in both. Weight takes from the energy of height what it
// gives; of turning each half has its own. What that leaves of the change of energy is the solver's.
void fold_smooth(BookSlot& slot, const BodyState& m, double kinetic) {
  const Vec3 mean = 0.5 * (slot.smooth_velocity + m.velocity);
  double work = 0;
  for (BookLine& line : slot.smooth) {
    line.work += line.cause == Cause::weight ? -slot.smooth_lifted : line.impulse.dot(mean);
    work += line.work;
  }
  constexpr double sunk = 1e-5;  // m: deeper than what rests gives
  const bool overlaps = slot.overlap > sunk;
  line_of(slot.smooth, overlaps ? Cause::overlap : Cause::solver, overlaps ? slot.overlaps : CauseBy{}).work +=
      kinetic - slot.smooth_kinetic - work;
  for (const BookLine& line : slot.smooth) add_to(line_of(slot.books.lines, line.cause, line.by), line);
  slot.smooth.clear();
  slot.overlap = 0;
}

// Ends the slot's interval: `rest` and `by` are whose the part is that the lines leave.
void close(const WorldState& state, std::uint32_t body, BookSlot& slot, Interval interval, Cause rest,
           const CauseBy& by, const Vec3* at) {
  const BodyRecord& record = state.records[body];
  const BodyState& m = state.bodies[body];
  const Seen seen = look(record, m);
  BookLine left;
  left.impulse = seen.momentum - slot.momentum;
  left.turn = seen.turning - slot.turning;
  for (const BookLine& line : slot.lines) {
    left.impulse -= line.impulse;
    left.turn -= line.turn;
  }
  if (at) {
    left.weight = left.impulse.norm();
    left.at = left.weight * *at;
  }
  const BookLine held = held_by_locks(record, left);
  if (!held.impulse.isZero() || !held.turn.isZero()) {
    left.impulse -= held.impulse;
    left.turn -= held.turn;
    add_to(line_of(slot.lines, Cause::lock, {}), held);
  }
  BookLine& last = line_of(slot.lines, rest, by);
  add_to(last, left);
  const bool smooth =
      interval == Interval::first_half || interval == Interval::move || interval == Interval::second_half;
  if (interval == Interval::first_half) {
    slot.smooth_velocity = slot.velocity;
    slot.smooth_kinetic = slot.kinetic;
    slot.smooth_lifted = 0;
  }
  const Vec3 mean = smooth ? Vec3(Vec3::Zero()) : Vec3(0.5 * (slot.velocity + m.velocity));
  const Vec3 mean_spin = 0.5 * (slot.spin + m.angular_velocity);
  double work = 0, pushed = 0;
  for (BookLine& line : slot.lines) {
    line.work = line.impulse.dot(mean) + line.turn.dot(mean_spin);
    work += line.work;
    pushed += line.impulse.norm();
  }
  const double lifted = -record.weight * state.gravity_on(body).dot(m.centre - slot.centre);
  slot.books.lifted += lifted;
  slot.smooth_lifted += lifted;
  if (!smooth) {
    // The inertia of what turns is another one at the interval's end.
    last.work += seen.kinetic - slot.kinetic - work;
    // Impacts put bodies where they would be had they always moved as after the hit: what that gives to their height it
    // takes from their speed.
    const bool share = interval == Interval::of_impacts && pushed > 0;
    for (BookLine& line : slot.lines) line.work += share ? lifted * line.impulse.norm() / pushed : 0;
    if (!share) last.work += lifted;
  }
  std::vector<BookLine>& into = smooth ? slot.smooth : slot.books.lines;
  for (const BookLine& line : slot.lines) add_to(line_of(into, line.cause, line.by), line);
  slot.lines.clear();
  if (interval == Interval::first_half) slot.pushes.clear();
  if (interval == Interval::move) slot.lines.swap(slot.later);
  if (interval == Interval::second_half) fold_smooth(slot, m, seen.kinetic);
  take_note(slot, m, seen);
}

void begin_tick(const WorldState& state, std::uint32_t body, BookSlot& slot) {
  const Seen seen = look(state.records[body], state.bodies[body]);
  slot.books.lines.clear();
  slot.books.momentum_before = seen.momentum;
  slot.books.turning_before = seen.turning;
  slot.books.kinetic_before = seen.kinetic;
  slot.books.lifted = 0;
  slot.lines.clear();
  slot.smooth.clear();
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
  BookLine& line = line_of(slot_of_booked(state, body).lines, cause, by);
  line.impulse += impulse;
  line.turn += turn;
  if (!at) return;
  const double weight = impulse.norm();
  line.at += weight * *at;
  line.weight += weight;
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
  each_slot(state, [&](std::uint32_t body, BookSlot& slot) { close(state, body, slot, interval, rest, {}, nullptr); });
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
    for (BookLine& line : books.lines)
      if (line.weight > 0) line.at /= line.weight;
    std::erase_if(books.lines,
                  [](const BookLine& line) { return line.impulse.isZero() && line.turn.isZero() && line.work == 0; });
    begin_tick(state, body, slot);
  });
}

void defer_half(WorldState& state, std::uint32_t body) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  for (BookLine& line : slot.lines) {
    line.impulse *= 0.5;
    line.turn *= 0.5;
    line.at *= 0.5;
    line.weight *= 0.5;
  }
  slot.later = slot.lines;
}

void give_whole(WorldState& state, std::uint32_t body) {
  if (!booked(state, body)) return;
  BookSlot& slot = slot_of_booked(state, body);
  for (const BookLine& line : slot.later) add_to(line_of(slot.lines, line.cause, line.by), line);
  slot.later.clear();
}

void keep_lines(WorldState& state) {
  if (!state.scratch.books) return;
  for (BookSlot& slot : state.scratch.books->slots) slot.before = slot.lines;
}

void go_back_to_lines(WorldState& state) {
  if (!state.scratch.books) return;
  for (BookSlot& slot : state.scratch.books->slots) slot.lines = slot.before;
}

}  // namespace bronvel
