// The exponential function that gives the same bits on every processor, and fast.
#pragma once

#include <bit>
#include <cmath>
#include <cstdint>

#include "geometry/base/angles.h"

namespace bronvel {

/// e to the power x, within 5e-16 of itself (measured: 3.9e-16), for x from −700 to 700: 2ⁿ eʳ with |r| ≤ ln 2 / 2
/// (Cody and Waite, 1980), eʳ by Taylor's series; no fused multiply-add.
inline double exponential_within(double x) {
  constexpr double beyond = 6755399441055744.0;  // as in nearest_whole: where n is added to it, the last bits are n's
  const double sum = x * 1.4426950408889634 + beyond, n = sum - beyond;
  // ln 2 in two parts, the first with few enough digits for its product with n to be exact.
  const double r = (x - n * 0.6931471803691238) - n * 1.9082149292705877e-10;
  const double series =
      1 + r * (1 + r * (1.0 / 2 +
                        r * (1.0 / 6 +
                             r * (1.0 / 24 +
                                  r * (1.0 / 120 +
                                       r * (1.0 / 720 +
                                            r * (1.0 / 5040 +
                                                 r * (1.0 / 40320 +
                                                      r * (1.0 / 362880 +
                                                           r * (1.0 / 3628800 +
                                                                r * (1.0 / 39916800 + r * (1.0 / 479001600))))))))))));
  return series * std::bit_cast<double>((std::bit_cast<std::uint64_t>(sum) + 1023) << 52U);
}

/// The same for any x: 0 below −700, held at e⁷⁰⁰ above; not a number stays so.
inline double exponential(double x) {
  if (x < -700) return 0;
  if (!(x <= 700)) x = x > 700 ? 700 : x;
  return x != x ? x : exponential_within(x);
}

}  // namespace bronvel
