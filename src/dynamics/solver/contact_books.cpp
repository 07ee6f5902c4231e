// Reads the solver's blocks: an impulse counts from 0 in every sub-step, since the warm start gives it anew.
#include "dynamics/solver/contact_books.h"

#include <utility>

#include "dynamics/books/books.h"
#include "dynamics/solver/contact_system.h"

namespace bronvel {
namespace {

template <class T>
Vec3 in_lane(const Vectors8<T>& v, std::size_t lane) {
  return {static_cast<double>(v[0][lane]), static_cast<double>(v[1][lane]), static_cast<double>(v[2][lane])};
}

// arm × direction of the two sides, as the iterations have them.
template <class T>
std::pair<Vec3, Vec3> turns_of_point(const ContactBlock<T>& block, std::size_t i, std::size_t lane) {
  const BlockPoint<T>& p = block.points[i];
  if constexpr (std::is_same_v<T, double>)
    return {in_lane(p.turn.a, lane), in_lane(p.turn.b, lane)};
  else
    return {in_lane(p.arm_a, lane).cross(in_lane(block.normal, lane)),
            in_lane(p.arm_b, lane).cross(in_lane(block.normal, lane))};
}
template <class T>
std::pair<Vec3, Vec3> turns_of_slide(const ContactBlock<T>& block, std::size_t t, const Vec3& along, std::size_t lane) {
  if constexpr (std::is_same_v<T, double>)
    return {in_lane(block.slide_turn.along[t].a, lane), in_lane(block.slide_turn.along[t].b, lane)};
  else
    return {in_lane(block.arm_a, lane).cross(along), in_lane(block.arm_b, lane).cross(along)};
}

template <class T>
void book_pair(WorldState& state, const ContactPart<T>& all, const ActiveEnds& ends, ContactGiven& given,
               bool first_half) {
  const ContactBlock<T>& block = all.blocks[ends.block];
  const std::size_t lane = ends.lane;
  const double active = static_cast<double>(block.active[lane]);
  const CauseBy by_a = by_body(state, ends.a), by_b = by_body(state, ends.b);
  // What the impulse has grown by.
  const auto since = [&](std::size_t k, T impulse) {
    const double now = active * static_cast<double>(impulse);
    return now - std::exchange(given[k], now) * (first_half ? 0 : 1);
  };
  const auto give = [&](Cause cause, const Vec3& impulse, const Vec3& turn_a, const Vec3& turn_b, const Vec3& arm_a,
                        const Vec3& arm_b) {
    const Vec3 at_a = state.bodies[ends.a].centre + arm_a, at_b = state.bodies[ends.b].centre + arm_b;
    if (ends.moves_a) book(state, ends.a, cause, by_b, -impulse, -turn_a, &at_a);
    if (ends.moves_b) book(state, ends.b, cause, by_a, impulse, turn_b, &at_b);
  };
  const Vec3 normal = in_lane(block.normal, lane), tangent = in_lane(block.tangent, lane), none = Vec3::Zero();
  const Vec3 other = normal.cross(tangent);
  for (std::size_t i = 0; i < static_cast<std::size_t>(block.count); ++i) {
    const double impulse = since(i, block.points[i].impulse[lane]);
    if (active > 0 && block.points[i].impulse[lane] > 0) {
      const double depth = -static_cast<double>(block.points[i].gap_now[lane]);
      book_overlap(state, ends.a, by_b, depth);
      book_overlap(state, ends.b, by_a, depth);
    }
    if (impulse == 0) continue;
    const auto [turn_a, turn_b] = turns_of_point(block, i, lane);
    give(Cause::normal, impulse * normal, impulse * turn_a, impulse * turn_b, in_lane(block.points[i].arm_a, lane),
         in_lane(block.points[i].arm_b, lane));
  }
  const Vec3 arm_a = in_lane(block.arm_a, lane), arm_b = in_lane(block.arm_b, lane);
  for (std::size_t t = 0; t < 2; ++t) {
    const double impulse = since(4 + t, block.slide[t][lane]);
    if (impulse == 0) continue;
    const Vec3& along = t == 0 ? tangent : other;
    const auto [turn_a, turn_b] = turns_of_slide(block, t, along, lane);
    give(Cause::friction, impulse * along, impulse * turn_a, impulse * turn_b, arm_a, arm_b);
  }
  if (const double twist = since(6, block.twist[lane]); twist != 0)
    give(Cause::torsion, none, twist * normal, twist * normal, arm_a, arm_b);
  if (block.roll < 0) return;
  for (std::size_t t = 0; t < 2; ++t) {
    const double roll = since(7 + t, all.rolls[static_cast<std::size_t>(block.roll)].impulse[t][lane]);
    const Vec3& about = t == 0 ? tangent : other;
    if (roll != 0) give(Cause::rolling, none, roll * about, roll * about, arm_a, arm_b);
  }
}

}  // namespace

void begin_contact_books(WorldState& state) {
  if (state.scratch.books) state.scratch.books->contact_given.assign(state.scratch.active.size(), {});
}

void book_contacts(WorldState& state, bool first_half) {
  if (!state.scratch.books) return;
  const ContactSystem& sys = *state.scratch.contacts;
  for (std::size_t i = 0; i < state.scratch.active_ends.size(); ++i) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (!booked(state, ends.a) && !booked(state, ends.b)) continue;
    ContactGiven& given = state.scratch.books->contact_given[i];
    if (ends.in_double)
      book_pair(state, sys.in_double, ends, given, first_half);
    else
      book_pair(state, sys.in_float, ends, given, first_half);
  }
}

}  // namespace bronvel
