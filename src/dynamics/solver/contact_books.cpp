// Reads the solver's blocks: an impulse counts from 0 in every sub-step, since the warm start gives it anew.
#include "dynamics/solver/contact_books.h"

#include <algorithm>
#include <cmath>
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

// What a contact gave to one of its bodies under one cause, before it is booked.
struct Given {
  Vec3 impulse = Vec3::Zero(), turn_a = Vec3::Zero(), turn_b = Vec3::Zero();  // on B; on A it is the other way round
  Vec3 arm_a = Vec3::Zero(), arm_b = Vec3::Zero();                            // times the weight
  double weight = 0;
  bool any = false;

  void add(double size, const Vec3& along, const Vec3& on_a, const Vec3& on_b) {
    impulse += size * along;
    turn_a += size * on_a;
    turn_b += size * on_b;
    any = true;
  }
  void add_place(double size, const Vec3& a, const Vec3& b) {
    weight += std::abs(size);
    arm_a += std::abs(size) * a;
    arm_b += std::abs(size) * b;
  }
};

// Books it for those of the two bodies whose books are kept; `line` is its number among a contact's lines.
void give_both(WorldState& state, const ActiveEnds& ends, ContactLines& lines, Cause cause, std::size_t line,
               const Given& given) {
  if (!given.any) return;
  const auto give = [&](std::uint32_t body, std::uint32_t other, std::uint32_t& place, const Vec3& impulse,
                        const Vec3& turn, const Vec3& arms) {
    if (!booked(state, body)) return;
    BookSlot& slot = slot_of_booked(state, body);
    if (place == ContactLines::unknown) place = slot.place_of(cause, by_body(state, other));
    slot.give(place, impulse, turn, nullptr);
    slot.causes[place].weight += given.weight;
    slot.causes[place].at += given.weight * state.bodies[body].centre + arms;
  };
  if (ends.moves_a) give(ends.a, ends.b, lines.a[line], -given.impulse, -given.turn_a, given.arm_a);
  if (ends.moves_b) give(ends.b, ends.a, lines.b[line], given.impulse, given.turn_b, given.arm_b);
}

template <class T>
void book_pair(WorldState& state, const ContactPart<T>& all, const ActiveEnds& ends, ContactGiven& before,
               ContactLines& lines, bool first_half) {
  const ContactBlock<T>& block = all.blocks[ends.block];
  const std::size_t lane = ends.lane;
  const double active = static_cast<double>(block.active[lane]);
  // What the impulse has grown by.
  const auto since = [&](std::size_t k, T impulse) {
    const double now = active * static_cast<double>(impulse);
    return now - std::exchange(before[k], now) * (first_half ? 0 : 1);
  };
  const Vec3 normal = in_lane(block.normal, lane), tangent = in_lane(block.tangent, lane), none = Vec3::Zero();
  const Vec3 other = normal.cross(tangent);
  Given along, across, twisted, rolled;
  double depth = 0;
  for (std::size_t i = 0; i < static_cast<std::size_t>(block.count); ++i) {
    if (active > 0 && block.points[i].impulse[lane] > 0)
      depth = std::max(depth, -static_cast<double>(block.points[i].gap_now[lane]));
    const double impulse = since(i, block.points[i].impulse[lane]);
    if (impulse == 0) continue;
    const auto [turn_a, turn_b] = turns_of_point(block, i, lane);
    along.add(impulse, normal, turn_a, turn_b);
    along.add_place(impulse, in_lane(block.points[i].arm_a, lane), in_lane(block.points[i].arm_b, lane));
  }
  if (depth > 0) {
    book_overlap(state, ends.a, by_body(state, ends.b), depth);
    book_overlap(state, ends.b, by_body(state, ends.a), depth);
  }
  const Vec3 arm_a = in_lane(block.arm_a, lane), arm_b = in_lane(block.arm_b, lane);
  for (std::size_t t = 0; t < 2; ++t) {
    const double impulse = since(4 + t, block.slide[t][lane]);
    if (impulse == 0) continue;
    const Vec3& way = t == 0 ? tangent : other;
    const auto [turn_a, turn_b] = turns_of_slide(block, t, way, lane);
    across.add(impulse, way, turn_a, turn_b);
    across.add_place(impulse, arm_a, arm_b);
  }
  if (const double twist = since(6, block.twist[lane]); twist != 0) twisted.add(twist, none, normal, normal);
  if (block.roll >= 0)
    for (std::size_t t = 0; t < 2; ++t) {
      const double roll = since(7 + t, all.rolls[static_cast<std::size_t>(block.roll)].impulse[t][lane]);
      const Vec3& about = t == 0 ? tangent : other;
      if (roll != 0) rolled.add(roll, none, about, about);
    }
  for (Given* turned : {&twisted, &rolled})
    if (turned->any) turned->add_place(1e-12, arm_a, arm_b);  // their place, without weight of its own
  give_both(state, ends, lines, Cause::normal, 0, along);
  give_both(state, ends, lines, Cause::friction, 1, across);
  give_both(state, ends, lines, Cause::torsion, 2, twisted);
  give_both(state, ends, lines, Cause::rolling, 3, rolled);
}

}  // namespace

void begin_contact_books(WorldState& state) {
  if (!state.scratch.books) return;
  state.scratch.books->contact_given.assign(state.scratch.active.size(), {});
  state.scratch.books->contact_lines.assign(state.scratch.active.size(), {});
}

void book_contacts(WorldState& state, bool first_half) {
  if (!state.scratch.books) return;
  const ContactSystem& sys = *state.scratch.contacts;
  for (std::size_t i = 0; i < state.scratch.active_ends.size(); ++i) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    if (!booked(state, ends.a) && !booked(state, ends.b)) continue;
    ContactGiven& given = state.scratch.books->contact_given[i];
    ContactLines& lines = state.scratch.books->contact_lines[i];
    if (ends.in_double)
      book_pair(state, sys.in_double, ends, given, lines, first_half);
    else
      book_pair(state, sys.in_float, ends, given, lines, first_half);
  }
}

}  // namespace bronvel
