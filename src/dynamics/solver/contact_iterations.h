// The iterations over blocks of contacts, eight lanes at a time, for one kind of processor.
//
// Included by the contact_kernel_*.cpp, each of which says first for which kind: HWY_COMPILE_ONLY_STATIC and
// HWY_BASELINE_TARGETS. Every kind gives the same bits: eight lanes always, no fused multiply-add.
#pragma once

#include <hwy/highway.h>

#include <bit>

#include "dynamics/solver/contact_kernel.h"
#include "dynamics/solver/contact_lanes.h"
#include "dynamics/solver/torsional_friction.h"

HWY_BEFORE_NAMESPACE();
namespace bronvel {
namespace HWY_NAMESPACE {  // NOLINT: each kind has its own
namespace {

// Inverse inertia times a vector.
template <class T>
struct Inertia {
  Eight<T> xx, yy, zz, xy, xz, yz;
  HWY_INLINE Three<T> times(const Three<T>& v) const {
    return {xx * v.x + xy * v.y + xz * v.z, xy * v.x + yy * v.y + yz * v.z, xz * v.x + yz * v.y + zz * v.z};
  }
};

template <class T>
HWY_INLINE Inertia<T> fetch_inertia(const BodyFrameLane<T>* frames,
                                    const Lanes8<typename ContactBlock<T>::Index>& bodies) {
  static_assert(sizeof(BodyFrameLane<T>) == 32 * sizeof(T));
  const T* base = frames->inverse_mass.data();
  return {pick<T, 32>(base, bodies, 3), pick<T, 32>(base, bodies, 4), pick<T, 32>(base, bodies, 5),
          pick<T, 32>(base, bodies, 6), pick<T, 32>(base, bodies, 7), pick<T, 32>(base, bodies, 8)};
}

// 1 / x, or 0 where nothing moves.
template <class T>
HWY_INLINE Eight<T> inverse_or_zero(const Eight<T>& x) {
  const Eight<T> zero = all<T>(0), one = all<T>(1);
  return where_greater(x, zero, one / where_greater(x, zero, x, one), zero);
}

// Arms of two sides crossed with a direction.
template <class T>
struct Turned {
  Three<T> a, b;
};
template <class T>
HWY_INLINE Turned<T> crossed(const Three<T>& arm_a, const Three<T>& arm_b, const Three<T>& along) {
  return {cross(arm_a, along), cross(arm_b, along)};
}
HWY_INLINE void store(const Turned<double>& turned, Turns<double>& to) {
  store(turned.a, to.a);
  store(turned.b, to.b);
}

// Those of a point and of a block's friction: kept in double, else found from the arms.
template <class T>
HWY_INLINE Turned<T> turned(const BlockPoint<T>& p, const Three<T>& normal) {
  if constexpr (std::is_same_v<T, double>)
    return {load(p.turn.a), load(p.turn.b)};
  else
    return crossed(load(p.arm_a), load(p.arm_b), normal);
}
template <class T>
HWY_INLINE Turned<T> turned(const ContactBlock<T>& block, std::size_t way, const Three<T>& along) {
  if constexpr (std::is_same_v<T, double>)
    return {load(block.slide_turn.along[way].a), load(block.slide_turn.along[way].b)};
  else
    return crossed(load(block.arm_a), load(block.arm_b), along);
}

// How two sides answer to impulses.
template <class T>
struct Answer {
  Inertia<T> inertia_a, inertia_b;
  Three<T> both;  // inverse masses, added

  // What an impulse of 1 along the way turns, and the mass that it moves.
  HWY_INLINE void to_push(const Turned<T>& turn, const Three<T>& along, Vectors8<T>& spin_a, Vectors8<T>& spin_b,
                          Lanes8<T>& mass) const {
    const Three<T> s_a = inertia_a.times(turn.a), s_b = inertia_b.times(turn.b);
    store(s_a, spin_a);
    store(s_b, spin_b);
    store(inverse_or_zero(dot(by_parts(along, along), both) + dot(turn.a, s_a) + dot(turn.b, s_b)), mass);
  }
  HWY_INLINE void to_twist(const Three<T>& axis, Vectors8<T>& spin_a, Vectors8<T>& spin_b, Lanes8<T>& mass) const {
    const Three<T> s_a = inertia_a.times(axis), s_b = inertia_b.times(axis);
    store(s_a, spin_a);
    store(s_b, spin_b);
    store(inverse_or_zero(dot(axis, s_a) + dot(axis, s_b)), mass);
  }
  // A point that the pair does not have moves nothing.
  HWY_INLINE void to_point(BlockPoint<T>& p, const Three<T>& normal) const {
    to_push(turned(p, normal), normal, p.spin_a, p.spin_b, p.mass);
    store(where_greater(load(p.gap), all<T>(static_cast<T>(1e29)), all<T>(0), load(p.mass)), p.mass);
  }
};

// Effective masses and torsional friction radii of a block.
template <class T>
HWY_INLINE void weigh(ContactBlock<T>& block, BlockRoll<T>* rolls, const BodyFrameLane<T>* frames) {
  const Answer<T> answer{fetch_inertia(frames, block.a), fetch_inertia(frames, block.b),
                         load(block.inverse_mass_a) + load(block.inverse_mass_b)};
  const Three<T> normal = load(block.normal), tangent = load(block.tangent), other = cross(normal, tangent);
  for (std::int32_t i = 0; i < block.count; ++i) answer.to_point(block.points[static_cast<std::size_t>(i)], normal);
  answer.to_push(turned(block, 0, tangent), tangent, block.slide_spin_a[0], block.slide_spin_b[0], block.slide_mass[0]);
  answer.to_push(turned(block, 1, other), other, block.slide_spin_a[1], block.slide_spin_b[1], block.slide_mass[1]);
  answer.to_twist(normal, block.twist_spin_a, block.twist_spin_b, block.twist_mass);
  if (block.roll < 0) return;
  BlockRoll<T>& roll = rolls[block.roll];
  answer.to_twist(tangent, roll.spin_a[0], roll.spin_b[0], roll.mass[0]);
  answer.to_twist(other, roll.spin_a[1], roll.spin_b[1], roll.mass[1]);
}

template <class T>
void prepare(ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, const BodyMotionLane<T>* motions,
             const BodyFrameLane<T>* frames) {
  for (ContactBlock<T>* block = first; block != first + count; ++block) {
    store(pick_three<T, 32>(frames->inverse_mass.data(), block->a, 0), block->inverse_mass_a);
    store(pick_three<T, 32>(frames->inverse_mass.data(), block->b, 0), block->inverse_mass_b);
    const Three<T> normal = load(block->normal);
    if constexpr (std::is_same_v<T, double>) {
      // Where they were at the tick's start.
      const auto bear_on = [&](const auto& bearing, const Three<T>& along, Turns<T>& turn) {
        store(crossed(load(bearing.arm_a), load(bearing.arm_b), along), turn);
      };
      const Three<T> tangent = load(block->tangent);
      for (std::int32_t i = 0; i < block->count; ++i) {
        BlockPoint<T>& p = block->points[static_cast<std::size_t>(i)];
        bear_on(p, normal, p.turn);
      }
      bear_on(*block, tangent, block->slide_turn.along[0]);
      bear_on(*block, cross(normal, tangent), block->slide_turn.along[1]);
    }
    find_torsional_radii(*block);
    weigh(*block, rolls, frames);
    if (!motions) continue;
    const Side<T> a = fetch(motions, block->a), b = fetch(motions, block->b);
    Eight<T> closing = all<T>(0);
    for (std::int32_t i = 0; i < block->count; ++i) {
      const BlockPoint<T>& p = block->points[static_cast<std::size_t>(i)];
      const Turned<T> turn = turned(p, normal);
      const Eight<T> here = dot(normal, a.velocity - b.velocity) + dot(turn.a, a.spin) - dot(turn.b, b.spin);
      closing = where_greater(load(p.gap), all<T>(static_cast<T>(1e29)), closing, greater(closing, here));
    }
    store(closing, block->closing_speed);
  }
}

// R − 1 of eight bodies, row by row: how they have turned since the tick's start.
template <class T>
struct Turning {
  Three<T> x, y, z;
  HWY_INLINE Three<T> times(const Three<T>& v) const { return {dot(x, v), dot(y, v), dot(z, v)}; }
  HWY_INLINE Three<T> transposed_times(const Three<T>& v) const { return v.x * x + v.y * y + v.z * z; }
};
template <class T>
HWY_INLINE Turning<T> fetch_turning(const BodyFrameLane<T>* frames,
                                    const Lanes8<typename ContactBlock<T>::Index>& bodies) {
  const T* base = frames->turn.data();
  return {pick_three<T, 32>(base, bodies, 0), pick_three<T, 32>(base, bodies, 3), pick_three<T, 32>(base, bodies, 6)};
}

// Arms of a block or a point that reach to one place on the way from A's point to B's where the bodies are now.
struct Arms {
  Three<double> a, b;
};
template <class Bearing>
HWY_INLINE Arms meet(const Bearing& bearing, const Turning<double>& turning_a, const Turning<double>& turning_b,
                     const Three<double>& centres, const Eight<double>& share) {
  const Three<double> a = load(bearing.arm_a), b = load(bearing.arm_b);
  const Three<double> now_a = a + turning_a.times(a), now_b = b + turning_b.times(b);
  const Three<double> way = centres + now_b - now_a, from_a = share * way;
  return {now_a + from_a, now_b + from_a - way};
}

// The gaps of the block's points where the bodies are now; in double also where the iterations bear, and friction radii
// anew.
template <class T>
HWY_INLINE void place(ContactBlock<T>& block, BlockRoll<T>* rolls, const BodyFrameLane<T>* frames) {
  block.placed = true;
  const Three<T> n = load(block.normal);
  const T* base = frames->drift.data();
  const Three<T> drift = pick_three<T, 32>(base, block.b, 0) - pick_three<T, 32>(base, block.a, 0);
  const Eight<T> apart = dot(n, drift);
  const Turning<T> turning_a = fetch_turning(frames, block.a), turning_b = fetch_turning(frames, block.b);
  const Three<T> back_a = turning_a.transposed_times(n), back_b = turning_b.transposed_times(n);
  const auto gap = [&](const Lanes8<T>& before, const auto& arms) -> Eight<T> {
    return load(before) + apart + dot(back_b, load(arms.arm_b)) - dot(back_a, load(arms.arm_a));
  };
  if constexpr (std::is_same_v<T, double>) {
    const Three<T> centres = drift - load(block.slide_turn.between);
    const Eight<T> share = load(block.slide_turn.towards_b);
    for (std::int32_t i = 0; i < block.count; ++i) {
      BlockPoint<T>& p = block.points[static_cast<std::size_t>(i)];
      store(gap(p.gap, p), p.gap_now);
      const Arms arms = meet(p, turning_a, turning_b, centres, share);
      store(crossed(arms.a, arms.b, n), p.turn);
    }
    const Arms arms = meet(block, turning_a, turning_b, centres, share);
    const Three<T> tangent = load(block.tangent);
    const Three<T> gone = drift + turning_b.times(load(block.arm_b)) - turning_a.times(load(block.arm_a));
    const Three<T> slipped = load(block.anchor.counts) * gone;
    store(load(block.anchor.before[0]) + dot(tangent, slipped), block.anchor.now[0]);
    store(load(block.anchor.before[1]) + dot(cross(n, tangent), slipped), block.anchor.now[1]);
    store(crossed(arms.a, arms.b, tangent), block.slide_turn.along[0]);
    store(crossed(arms.a, arms.b, cross(n, tangent)), block.slide_turn.along[1]);
    weigh(block, rolls, frames);
  } else {
    for (std::int32_t i = 0; i < block.count; ++i) {
      BlockPoint<T>& p = block.points[static_cast<std::size_t>(i)];
      store(gap(p.gap, p), p.gap_now);
    }
  }
}

// The eight contacts of a block with the velocities of their bodies.
template <class T>
struct Contact {
  Side<T> a, b;
  Three<T> inverse_a, inverse_b;

  HWY_INLINE void push(const Eight<T>& impulse, const Three<T>& along, const Three<T>& spin_a, const Three<T>& spin_b) {
    const Three<T> momentum = impulse * along;
    a.velocity = a.velocity - by_parts(inverse_a, momentum);
    b.velocity = b.velocity + by_parts(inverse_b, momentum);
    turn(impulse, spin_a, spin_b);
  }
  HWY_INLINE void turn(const Eight<T>& impulse, const Three<T>& spin_a, const Three<T>& spin_b) {
    a.spin = a.spin - impulse * spin_a;
    b.spin = b.spin + impulse * spin_b;
  }
  // Speed of B against A along a direction at the arms' ends.
  HWY_INLINE Eight<T> speed(const Three<T>& along, const Turned<T>& turn) const {
    return dot(along, b.velocity - a.velocity) + turning(turn);
  }
  // What the spins add to it.
  HWY_INLINE Eight<T> turning(const Turned<T>& turn) const { return dot(turn.b, b.spin) - dot(turn.a, a.spin); }
};

template <class T>
HWY_INLINE Contact<T> open(const ContactBlock<T>& block, const BodyMotionLane<T>* motions) {
  return {fetch(motions, block.a), fetch(motions, block.b), load(block.inverse_mass_a), load(block.inverse_mass_b)};
}

template <class T>
HWY_INLINE void close(const ContactBlock<T>& block, const Contact<T>& contact, BodyMotionLane<T>* motions) {
  put_back(contact.a, block.a, block.moves_a, motions);
  put_back(contact.b, block.b, block.moves_b, motions);
}

// Asks for the block after this one and for its bodies, in float and where there are many: the blocks of large islands
// are not at hand, each begins a page of memory, and processors do not look ahead from one page to the next.
template <class T>
HWY_INLINE void fetch_next(const ContactBlock<T>* block, const ContactBlock<T>* first, std::size_t count,
                           const BodyMotionLane<T>* motions, const BodyFrameLane<T>* frames) {
  constexpr std::size_t many = 80;
  const ContactBlock<T>* end = first + count;
  if constexpr (std::is_same_v<T, float>) {
    if (count < many || block + 1 >= end) return;
    const auto ask = [](const void* from, std::size_t bytes) {
      for (std::size_t at = 0; at < bytes; at += 64) __builtin_prefetch(static_cast<const char*>(from) + at);
    };
    const ContactBlock<T>& next = block[1];
    // Mostly it has as many points: they come in order of that.
    ask(&next, sizeof(next) - sizeof(next.points) + static_cast<std::size_t>(block->count) * sizeof(next.points[0]));
    if (block + 2 < end) ask(&block[2], sizeof(block->a) + sizeof(block->b));
    for (std::size_t i = 0; i < lanes; ++i) {
      for (const auto body : {next.a[i], next.b[i]}) {
        ask(&motions[body], sizeof(*motions));
        if (frames != nullptr) ask(&frames[body], sizeof(*frames));
      }
    }
  }
}

// In float, what is too far apart to meet within `h` does not count. (In double all that closes is looked at: what is
// put elsewhere before hits are looked for has no gap of now.)
template <class T>
void closing(const ContactBlock<T>* first, std::size_t count, const BodyMotionLane<T>* motions, T least, T h,
             std::uint8_t* found) {
  constexpr bool by_gap = std::is_same_v<T, float>;
  const Eight<T> none = all<T>(static_cast<T>(1e29)), never = all<T>(static_cast<T>(-1e30));
  const Eight<T> rounding = all<T>(static_cast<T>(1e-5));  // m, by a good measure
  const T* base = motions->velocity.data();
  for (const ContactBlock<T>* block = first; block != first + count; ++block, ++found) {
    fetch_next<T>(block, first, count, motions, nullptr);
    const Contact<T> contact = open(*block, motions);
    const Three<T> normal = load(block->normal);
    const Eight<T> margin = pick<T, 8>(base, block->a, 6) + pick<T, 8>(base, block->b, 6);
    Eight<T> most = never;
    for (std::int32_t i = 0; i < block->count; ++i) {
      const BlockPoint<T>& p = block->points[static_cast<std::size_t>(i)];
      const Eight<T> closes = margin - contact.speed(normal, turned(p, normal));
      Eight<T> here = where_greater(load(p.gap), none, never, closes);
      if constexpr (by_gap) here = where_greater(load(p.gap_now), all<T>(h) * closes + rounding, never, here);
      most = greater(most, here);
    }
    alignas(64) Lanes8<T> speeds;
    store(most, speeds);
    unsigned bits = 0;
    for (std::size_t lane = 0; lane < lanes; ++lane) bits |= (speeds[lane] > least ? 1U : 0U) << lane;
    *found = static_cast<std::uint8_t>(bits);
  }
}

template <class T>
HWY_INLINE bool still_placed(const ContactBlock<T>& block, const char* elsewhere) {
  bool some = false;
  for (std::size_t i = 0; i < lanes; ++i) some = some || elsewhere[block.a[i]] != 0 || elsewhere[block.b[i]] != 0;
  return block.placed && !some;
}

template <class T>
void warm_start(ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, BodyMotionLane<T>* motions,
                const BodyFrameLane<T>* frames, const char* elsewhere) {
  for (ContactBlock<T>* block = first; block != first + count; ++block) {
    fetch_next<T>(block, first, count, motions, nullptr);
    if (!still_placed(*block, elsewhere)) place(*block, rolls, frames);
    Contact<T> contact = open(*block, motions);
    const Eight<T> active = load(block->active);
    const Three<T> normal = load(block->normal), tangent = load(block->tangent);
    for (std::int32_t i = 0; i < block->count; ++i) {
      const BlockPoint<T>& p = block->points[static_cast<std::size_t>(i)];
      contact.push(active * load(p.impulse), normal, load(p.spin_a), load(p.spin_b));
    }
    contact.push(active * load(block->slide[0]), tangent, load(block->slide_spin_a[0]), load(block->slide_spin_b[0]));
    contact.push(active * load(block->slide[1]), cross(normal, tangent), load(block->slide_spin_a[1]),
                 load(block->slide_spin_b[1]));
    contact.turn(active * load(block->twist), load(block->twist_spin_a), load(block->twist_spin_b));
    if (block->roll >= 0) {
      const BlockRoll<T>& roll = rolls[block->roll];
      for (std::size_t t = 0; t < 2; ++t)
        contact.turn(active * load(roll.impulse[t]), load(roll.spin_a[t]), load(roll.spin_b[t]));
    }
    close(*block, contact, motions);
  }
}

// Two impulses across the normal, kept while they are no more than `hold`, else cut to `slip` (a circular bound).
// Returns whether any was cut: most are not, and roots and divisions are slow.
template <class T>
HWY_INLINE bool bound(Eight<T>& u, Eight<T>& v, const Eight<T>& hold, const Eight<T>& slip) {
  const Eight<T> squared = u * u + v * v, most = hold * hold;
  if (which_greater(squared, most) == 0) return false;
  const Eight<T> one = all<T>(1);
  const Eight<T> share = where_greater(squared, most, slip / root(where_greater(squared, most, squared, one)), one);
  u = u * share;
  v = v * share;
  return true;
}

template <class T>
HWY_INLINE Eight<T> size_of(const Eight<T>& x) {
  return greater(x, all<T>(0) - x);
}

// Whether no body of the block has been stirred since the iteration before: it would find what it found then.
template <class T>
HWY_INLINE bool at_rest(const ContactBlock<T>& block, const IterationNumbers<T>& numbers, const std::int32_t* stirred) {
  if (numbers.iteration < 2) return false;
  const std::int32_t since = numbers.iteration - 1;
  for (std::size_t i = 0; i < lanes; ++i)
    if (stirred[block.a[i]] >= since || stirred[block.b[i]] >= since) return false;
  return true;
}

// Notes which bodies an iteration has changed by more than what counts.
template <class T>
HWY_INLINE void stir(const ContactBlock<T>& block, const Eight<T>& change, const IterationNumbers<T>& numbers,
                     std::int32_t* stirred) {
  for (unsigned left = which_greater(change, all<T>(numbers.stirs)); left != 0; left &= left - 1) {
    const auto i = static_cast<std::size_t>(std::countr_zero(left));
    if (block.moves_a[i] != 0) stirred[block.a[i]] = numbers.iteration;
    if (block.moves_b[i] != 0) stirred[block.b[i]] = numbers.iteration;
  }
}

template <class T>
HWY_INLINE void add_up(ContactBlock<T>& block) {
  const Eight<T> active = load(block.active);
  for (std::int32_t i = 0; i < block.count; ++i) {
    BlockPoint<T>& p = block.points[static_cast<std::size_t>(i)];
    store(load(p.total) + active * load(p.impulse), p.total);
  }
  for (std::size_t t = 0; t < 2; ++t)
    store(load(block.slide_total[t]) + active * load(block.slide[t]), block.slide_total[t]);
}

// What all blocks of an iteration go by.
template <class T>
struct IterationLanes {
  explicit IterationLanes(const IterationNumbers<T>& n)
      : numbers(n),
        per_step(all<T>(1 / n.step)),
        rate(all<T>(n.baumgarte_rate)),
        slowest(all<T>(-n.recovery_speed)),
        softness(all<T>(n.softness)) {}
  const IterationNumbers<T>& numbers;
  Eight<T> per_step, rate, slowest, softness;
};

// One block on its way through an iteration, step by step.
template <class T>
struct BlockIteration {
  HWY_INLINE BlockIteration(ContactBlock<T>& of, const BodyMotionLane<T>* motions)
      : block(of), contact(open(of, motions)), active(load(of.active)), normal(load(of.normal)) {
    move_a = by_parts(contact.inverse_a, normal);
    move_b = by_parts(contact.inverse_b, normal);
    yields = dot(normal, move_a + move_b);
    apart_speed = dot(normal, contact.b.velocity - contact.a.velocity);
    load_on = changed = pushed = all<T>(0);
  }

  // All that does not wait for the point before is worked out beside it: what it gave goes into one number for the
  // speed along the normal, and into the spins.
  HWY_INLINE void point(BlockPoint<T>& p, const IterationLanes<T>& iteration) {
    const Eight<T> zero = all<T>(0), one = all<T>(1);
    const Eight<T> before = load(p.impulse), gap = load(p.gap_now);
    // Apart and without load: it may close just as far as the gap goes.
    const Eight<T> loaded = where_greater(before, zero, one, zero);
    const Eight<T> apart = where_greater(gap, zero, one - loaded, zero);
    Eight<T> mass = active * load(p.mass), without_speed = before;
    if (iteration.numbers.push_out) {
      const Eight<T> wanted =
          where_greater(apart, zero, gap * iteration.per_step, greater(iteration.rate * gap, iteration.slowest));
      const Eight<T> soft = iteration.softness * loaded;
      mass = mass * (one - soft);
      without_speed = before - mass * wanted - active * soft * before;
    } else {
      mass = where_greater(apart, zero, zero, mass);
    }
    // Conjugate steps may have gone below 0. What passes by stays as it is.
    const Eight<T> least = before - active * before;
    const Eight<T> speed = contact.turning(turned(p, normal)) + apart_speed;
    const Eight<T> after = greater(without_speed - mass * speed, least), change = after - before;
    apart_speed = apart_speed + change * yields;
    contact.turn(change, load(p.spin_a), load(p.spin_b));
    store(after, p.impulse);
    pushed = pushed + change;
    load_on = load_on + after;
    changed = greater(changed, size_of(change));
  }

  HWY_INLINE void points_done() {
    contact.a.velocity = contact.a.velocity - pushed * move_a;
    contact.b.velocity = contact.b.velocity + pushed * move_b;
    tangent = load(block.tangent);
    other = cross(normal, tangent);
  }

  HWY_INLINE void roll(BlockRoll<T>& roll) {
    const Three<T> turning = contact.b.spin - contact.a.spin;
    const Eight<T> u0 = load(roll.impulse[0]), v0 = load(roll.impulse[1]);
    Eight<T> u = u0 - load(roll.mass[0]) * dot(tangent, turning), v = v0 - load(roll.mass[1]) * dot(other, turning);
    const Eight<T> most = load(roll.share) * load_on;
    bound(u, v, most, most);
    const Eight<T> du = active * (u - u0), dv = active * (v - v0);
    contact.turn(du, load(roll.spin_a[0]), load(roll.spin_b[0]));
    contact.turn(dv, load(roll.spin_a[1]), load(roll.spin_b[1]));
    store(u0 + du, roll.impulse[0]);
    store(v0 + dv, roll.impulse[1]);
  }

  HWY_INLINE void twist() {
    slip = load(block.dynamic_friction) * load_on;
    const Eight<T> most = slip * load(block.torsional_radius), before = load(block.twist);
    const Eight<T> wanted = before - load(block.twist_mass) * dot(normal, contact.b.spin - contact.a.spin);
    const Eight<T> change = active * (greater(lesser(wanted, most), all<T>(0) - most) - before);
    contact.turn(change, load(block.twist_spin_a), load(block.twist_spin_b));
    store(before + change, block.twist);
  }

  HWY_INLINE void slide(const IterationLanes<T>& iteration) {
    const Eight<T> u0 = load(block.slide[0]), v0 = load(block.slide[1]);
    Eight<T> along = contact.speed(tangent, turned(block, 0, tangent));
    Eight<T> across = contact.speed(other, turned(block, 1, other));
    Eight<T> kept = all<T>(1);
    if constexpr (std::is_same_v<T, double>) {
      if (iteration.numbers.has_anchors && iteration.numbers.push_out) {
        const Eight<T> fastest = all<T>(0) - iteration.slowest;
        const auto back = [&](const Lanes8<T>& slipped) {
          return greater(iteration.slowest, lesser(fastest, iteration.rate * load(slipped)));
        };
        along = along + back(block.anchor.now[0]);
        across = across + back(block.anchor.now[1]);
        kept = kept - iteration.softness * load(block.anchor.counts);
      }
    }
    Eight<T> u = kept * u0 - load(block.slide_mass[0]) * along;
    Eight<T> v = kept * v0 - load(block.slide_mass[1]) * across;
    // Cut to dynamic friction, an impulse would grow to the static one again with the next iterations, and never
    // settle: after some iterations, what has slipped slips.
    const Eight<T> friction_in_effect =
        iteration.numbers.settle ? load(block.friction_in_effect) : load(block.static_friction);
    const Eight<T> hold = friction_in_effect * load_on, squared = u * u + v * v;
    if (bound(u, v, hold, slip))
      store(where_greater(squared, hold * hold, load(block.dynamic_friction), friction_in_effect),
            block.friction_in_effect);
    else
      store(friction_in_effect, block.friction_in_effect);
    if constexpr (std::is_same_v<T, double>)
      if (iteration.numbers.has_anchors)
        let_go(where_greater(squared, hold * hold, all<T>(0), where_greater(load_on, all<T>(0), all<T>(1), all<T>(0))));
    const Eight<T> du = active * (u - u0), dv = active * (v - v0);
    const Three<T> momentum = du * tangent + dv * other;
    contact.a.velocity = contact.a.velocity - by_parts(contact.inverse_a, momentum);
    contact.b.velocity = contact.b.velocity + by_parts(contact.inverse_b, momentum);
    contact.turn(du, load(block.slide_spin_a[0]), load(block.slide_spin_b[0]));
    contact.turn(dv, load(block.slide_spin_a[1]), load(block.slide_spin_b[1]));
    store(u0 + du, block.slide[0]);
    store(v0 + dv, block.slide[1]);
    changed = yields * greater(changed, greater(size_of(du), size_of(dv)));
  }

  // What slides or bears nothing begins anew when it holds again.
  HWY_INLINE void let_go(const Eight<T>& holds) {
    for (std::size_t t = 0; t < 2; ++t) {
      const Eight<T> now = load(block.anchor.now[t]), left = holds * now;
      store(load(block.anchor.before[t]) - (now - left), block.anchor.before[t]);
      store(left, block.anchor.now[t]);
    }
  }

  ContactBlock<T>& block;
  Contact<T> contact;
  Eight<T> active;
  Three<T> normal, tangent, other;
  Three<T> move_a, move_b;   // speed that an impulse of 1 along the normal gives or takes
  Eight<T> yields;           // by how much it parts the two
  Eight<T> apart_speed;      // of the centres, along the normal
  Eight<T> pushed, load_on;  // changes of the points' impulses and these themselves, added up
  Eight<T> slip, changed;
};

// Gives the greatest change that it made, by lane. By itself: within the loop, compilers keep the numbers of what comes
// before and after in registers that it needs.
template <class T>
HWY_NOINLINE Eight<T> solve_block(ContactBlock<T>& block, BlockRoll<T>* rolls, BodyMotionLane<T>* motions,
                                  const IterationLanes<T>& iteration, std::int32_t* stirred) {
  BlockIteration<T> on(block, motions);
  for (std::int32_t i = 0; i < block.count; ++i) on.point(block.points[static_cast<std::size_t>(i)], iteration);
  on.points_done();
  if (block.roll >= 0) on.roll(rolls[block.roll]);
  on.twist();
  on.slide(iteration);
  stir(block, on.changed, iteration.numbers, stirred);
  if (iteration.numbers.sum) add_up(block);
  close(block, on.contact, motions);
  return on.changed;
}

template <class T>
T solve(ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, BodyMotionLane<T>* motions,
        const BodyFrameLane<T>* frames, const IterationNumbers<T>& numbers, std::int32_t* stirred) {
  Eight<T> greatest = all<T>(0);
  const IterationLanes<T> iteration(numbers);
  for (std::size_t k = 0; k < count; ++k) {
    ContactBlock<T>* block = first + (numbers.last_first ? count - 1 - k : k);
    if (!numbers.last_first) fetch_next<T>(block, first, count, motions, numbers.place ? frames : nullptr);
    if (at_rest(*block, numbers, stirred)) {
      if (numbers.sum) add_up(*block);
      continue;
    }
    if (numbers.place) place(*block, rolls, frames);
    greatest = greater(greatest, solve_block(*block, rolls, motions, iteration, stirred));
  }
  alignas(64) Lanes8<T> speeds;
  store(greatest, speeds);
  T most = 0;
  for (const T speed : speeds) most = speed > most ? speed : most;
  return most;
}

constexpr ContactKernel contact_kernel(const char* name) {
  return {name,
          {prepare<float>, closing<float>, warm_start<float>, solve<float>},
          {prepare<double>, closing<double>, warm_start<double>, solve<double>}};
}

}  // namespace
}  // namespace HWY_NAMESPACE
}  // namespace bronvel
HWY_AFTER_NAMESPACE();
