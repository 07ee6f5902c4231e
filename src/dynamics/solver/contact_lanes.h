// Arithmetic on eight numbers side by side, and the motions of eight bodies read and written so, for one kind of
// processor. Only contact_iterations.h includes this, and says there for which kind.
#pragma once

#include <hwy/highway.h>

#include "dynamics/solver/contact_blocks.h"

HWY_BEFORE_NAMESPACE();
namespace bronvel {
namespace HWY_NAMESPACE {  // NOLINT: each kind has its own
namespace {

namespace hn = hwy::HWY_NAMESPACE;

// Eight numbers in as many vectors as the processor needs for them.
template <class T>
struct Eight {
  using Tag = hn::CappedTag<T, lanes>;
  using Vector = hn::Vec<Tag>;
  static constexpr std::size_t width = hn::MaxLanes(Tag());
  static constexpr std::size_t parts = lanes / width;
  Vector v[parts];
};

template <class T, class F>
HWY_INLINE Eight<T> each(const F& f) {
  Eight<T> r;
  for (std::size_t i = 0; i < Eight<T>::parts; ++i) r.v[i] = f(i);
  return r;
}
template <class T>
HWY_INLINE Eight<T> operator+(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Add(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> operator-(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Sub(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> operator*(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Mul(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> operator/(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Div(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> greater(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Max(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> lesser(const Eight<T>& x, const Eight<T>& y) {
  return each<T>([&](std::size_t i) { return hn::Min(x.v[i], y.v[i]); });
}
template <class T>
HWY_INLINE Eight<T> root(const Eight<T>& x) {
  return each<T>([&](std::size_t i) { return hn::Sqrt(x.v[i]); });
}
// `yes` where x > y, else `no`.
template <class T>
HWY_INLINE Eight<T> where_greater(const Eight<T>& x, const Eight<T>& y, const Eight<T>& yes, const Eight<T>& no) {
  return each<T>([&](std::size_t i) { return hn::IfThenElse(hn::Gt(x.v[i], y.v[i]), yes.v[i], no.v[i]); });
}
// Bit by lane: whether x > y.
template <class T>
HWY_INLINE unsigned which_greater(const Eight<T>& x, const Eight<T>& y) {
  unsigned bits = 0;
  for (std::size_t i = 0; i < Eight<T>::parts; ++i) {
    std::uint8_t some[8] = {};
    hn::StoreMaskBits(typename Eight<T>::Tag(), hn::Gt(x.v[i], y.v[i]), some);
    bits |= static_cast<unsigned>(some[0]) << (i * Eight<T>::width);
  }
  return bits;
}
template <class T>
HWY_INLINE Eight<T> all(T x) {
  return each<T>([&](std::size_t) { return hn::Set(typename Eight<T>::Tag(), x); });
}
template <class T>
HWY_INLINE Eight<T> load(const Lanes8<T>& from) {
  return each<T>([&](std::size_t i) { return hn::Load(typename Eight<T>::Tag(), &from[i * Eight<T>::width]); });
}
template <class T>
HWY_INLINE void store(const Eight<T>& x, Lanes8<T>& to) {
  for (std::size_t i = 0; i < Eight<T>::parts; ++i)
    hn::Store(x.v[i], typename Eight<T>::Tag(), &to[i * Eight<T>::width]);
}

template <class T>
struct Three {
  Eight<T> x, y, z;
};
template <class T>
HWY_INLINE Three<T> load(const Vectors8<T>& from) {
  return {load(from[0]), load(from[1]), load(from[2])};
}
template <class T>
HWY_INLINE void store(const Three<T>& v, Vectors8<T>& to) {
  store(v.x, to[0]);
  store(v.y, to[1]);
  store(v.z, to[2]);
}
template <class T>
HWY_INLINE Three<T> operator+(const Three<T>& a, const Three<T>& b) {
  return {a.x + b.x, a.y + b.y, a.z + b.z};
}
template <class T>
HWY_INLINE Three<T> operator-(const Three<T>& a, const Three<T>& b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
template <class T>
HWY_INLINE Three<T> operator*(const Eight<T>& s, const Three<T>& a) {
  return {s * a.x, s * a.y, s * a.z};
}
template <class T>
HWY_INLINE Three<T> by_parts(const Three<T>& a, const Three<T>& b) {
  return {a.x * b.x, a.y * b.y, a.z * b.z};
}
template <class T>
HWY_INLINE Eight<T> dot(const Three<T>& a, const Three<T>& b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
template <class T>
HWY_INLINE Three<T> cross(const Three<T>& a, const Three<T>& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

// How far a body's number is shifted to find its data, of `stride` numbers each: 64-bit products are not on every
// processor.
template <std::size_t stride>
HWY_INLINE constexpr int shift_of() {
  static_assert(stride == 8 || stride == 32);
  return stride == 8 ? 3 : 5;
}

// Number `part` of each of eight bodies, whose data starts at `base`.
template <class T, std::size_t stride>
HWY_INLINE Eight<T> pick(const T* base, const Lanes8<typename ContactBlock<T>::Index>& bodies, std::size_t part) {
  return each<T>([&](std::size_t i) {
    const hn::RebindToSigned<typename Eight<T>::Tag> tag;
    const auto place = hn::ShiftLeft<shift_of<stride>()>(hn::Load(tag, &bodies[i * Eight<T>::width]));
    return hn::GatherIndex(typename Eight<T>::Tag(), base + part, place);
  });
}

template <class T, std::size_t stride>
HWY_INLINE Three<T> pick_three(const T* base, const Lanes8<typename ContactBlock<T>::Index>& bodies, std::size_t part) {
  return {pick<T, stride>(base, bodies, part), pick<T, stride>(base, bodies, part + 1),
          pick<T, stride>(base, bodies, part + 2)};
}

#if HWY_TARGET != HWY_SCALAR
// Turns over a square of as many numbers each way as a vector holds: row i becomes column i.
template <class D, class V, std::size_t size>
HWY_INLINE void turn_over(D d, V (&row)[size]) {
  if constexpr (size == 2) {
    const V low = hn::InterleaveLower(d, row[0], row[1]);
    row[1] = hn::InterleaveUpper(d, row[0], row[1]);
    row[0] = low;
  } else if constexpr (sizeof(hn::TFromD<D>) == 8) {
    // Pairs of rows turned over within blocks of two, then the blocks, four each way.
    V even[4], odd[4];
    for (std::size_t i = 0; i < 4; ++i) {
      even[i] = hn::InterleaveLower(d, row[2 * i], row[2 * i + 1]);
      odd[i] = hn::InterleaveUpper(d, row[2 * i], row[2 * i + 1]);
    }
    const auto blocks = [&](const V(&from)[4], std::size_t first) {
      const V near = hn::OddEvenBlocks(hn::SwapAdjacentBlocks(from[1]), from[0]);
      const V next = hn::OddEvenBlocks(from[1], hn::SwapAdjacentBlocks(from[0]));
      const V far = hn::OddEvenBlocks(hn::SwapAdjacentBlocks(from[3]), from[2]);
      const V last = hn::OddEvenBlocks(from[3], hn::SwapAdjacentBlocks(from[2]));
      row[first] = hn::ConcatLowerLower(d, far, near);
      row[first + 2] = hn::ConcatLowerLower(d, last, next);
      row[first + 4] = hn::ConcatUpperUpper(d, far, near);
      row[first + 6] = hn::ConcatUpperUpper(d, last, next);
    };
    blocks(even, 0);
    blocks(odd, 1);
  } else {
    // Within blocks of four, then, where a vector has two of them, the blocks.
    const hn::RepartitionToWide<D> pairs;
    for (std::size_t first = 0; first < size; first += 4) {
      const auto low_a = hn::BitCast(pairs, hn::InterleaveLower(d, row[first], row[first + 1]));
      const auto high_a = hn::BitCast(pairs, hn::InterleaveUpper(d, row[first], row[first + 1]));
      const auto low_b = hn::BitCast(pairs, hn::InterleaveLower(d, row[first + 2], row[first + 3]));
      const auto high_b = hn::BitCast(pairs, hn::InterleaveUpper(d, row[first + 2], row[first + 3]));
      row[first] = hn::BitCast(d, hn::InterleaveLower(pairs, low_a, low_b));
      row[first + 1] = hn::BitCast(d, hn::InterleaveUpper(pairs, low_a, low_b));
      row[first + 2] = hn::BitCast(d, hn::InterleaveLower(pairs, high_a, high_b));
      row[first + 3] = hn::BitCast(d, hn::InterleaveUpper(pairs, high_a, high_b));
    }
    if constexpr (size == 8)
      for (std::size_t i = 0; i < 4; ++i) {
        const V low = hn::ConcatLowerLower(d, row[i + 4], row[i]);
        row[i + 4] = hn::ConcatUpperUpper(d, row[i + 4], row[i]);
        row[i] = low;
      }
  }
}

#else
template <class D, class V, std::size_t size>
void turn_over(D, V (&)[size]) {}
#endif

// Velocities of the eight bodies on one side.
template <class T>
struct Side {
  Three<T> velocity, spin;
  HWY_INLINE Eight<T>& number(std::size_t k) {
    Three<T>& three = k < 3 ? velocity : spin;
    return k % 3 == 0 ? three.x : k % 3 == 1 ? three.y : three.z;
  }
};

constexpr std::size_t motion_numbers = 6;  // of eight in a lane

template <class T>
HWY_INLINE Side<T> fetch(const BodyMotionLane<T>* motions, const Lanes8<typename ContactBlock<T>::Index>& bodies) {
  static_assert(sizeof(BodyMotionLane<T>) == lanes * sizeof(T));
  const T* base = motions->velocity.data();
  constexpr std::size_t width = Eight<T>::width;
  if constexpr (width == 1) {
    return {pick_three<T, 8>(base, bodies, 0), pick_three<T, 8>(base, bodies, 3)};
  } else {
    // Read as they lie and turned over: quicker than picking them one by one.
    Side<T> side;
    const typename Eight<T>::Tag d;
    for (std::size_t part = 0; part < Eight<T>::parts; ++part)
      for (std::size_t from = 0; from < motion_numbers; from += width) {
        typename Eight<T>::Vector row[width];
        for (std::size_t i = 0; i < width; ++i)
          row[i] = hn::Load(d, base + lanes * static_cast<std::size_t>(bodies[part * width + i]) + from);
        turn_over(d, row);
        for (std::size_t i = 0; i < width && from + i < motion_numbers; ++i) side.number(from + i).v[part] = row[i];
      }
    return side;
  }
}

template <class T>
HWY_INLINE void put_back(Side<T> side, const Lanes8<typename ContactBlock<T>::Index>& bodies,
                         const Lanes8<std::int32_t>& moves, BodyMotionLane<T>* motions) {
  T* base = motions->velocity.data();
  constexpr std::size_t width = Eight<T>::width;
  const typename Eight<T>::Tag d;
  for (std::size_t part = 0; part < Eight<T>::parts; ++part)
    for (std::size_t from = 0; from < motion_numbers; from += width) {
      typename Eight<T>::Vector row[width];
      for (std::size_t i = 0; i < width; ++i)
        row[i] = from + i < motion_numbers ? side.number(from + i).v[part] : hn::Zero(d);
      if constexpr (width > 1) turn_over(d, row);
      for (std::size_t i = 0; i < width; ++i)
        if (moves[part * width + i] != 0)
          hn::Store(row[i], d, base + lanes * static_cast<std::size_t>(bodies[part * width + i]) + from);
    }
}

}  // namespace
}  // namespace HWY_NAMESPACE
}  // namespace bronvel
HWY_AFTER_NAMESPACE();
