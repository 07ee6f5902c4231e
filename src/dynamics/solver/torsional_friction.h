// Torsional friction radius: how far from its middle a manifold's friction resists turning, for eight contacts at a
// time and one kind of processor. Only contact_iterations.h includes this.
#pragma once

#include "dynamics/solver/contact_lanes.h"

HWY_BEFORE_NAMESPACE();
namespace bronvel {
namespace HWY_NAMESPACE {  // NOLINT: each kind has its own
namespace {

// Points of eight contacts from their middles; those that a contact does not have lie on its first.
template <class T>
struct Outline {
  HWY_INLINE explicit Outline(const ContactBlock<T>& block) {
    const Eight<T> zero = all<T>(0), one = all<T>(1), none = all<T>(static_cast<T>(1e29));
    Three<T> sum{zero, zero, zero};
    Eight<T> there[4], number = zero;
    for (std::size_t i = 0; i < 4; ++i) {
      there[i] = zero;
      if (i >= static_cast<std::size_t>(block.count)) continue;
      there[i] = where_greater(load(block.points[i].gap), none, zero, one);
      sum = sum + there[i] * load(block.points[i].arm_a);
      number = number + there[i];
    }
    const Eight<T> share = one / greater(number, one);
    const Three<T> middle = share * sum;
    mean = farthest = zero;
    for (std::size_t i = 0; i < 4; ++i) {
      at[i] = i == 0 ? load(block.points[0].arm_a) - middle : at[0];
      if (i > 0 && i < static_cast<std::size_t>(block.count)) {
        const Three<T> own = load(block.points[i].arm_a) - middle;
        at[i] = {where_greater(there[i], zero, own.x, at[0].x), where_greater(there[i], zero, own.y, at[0].y),
                 where_greater(there[i], zero, own.z, at[0].z)};
      }
      squares[i] = dot(at[i], at[i]);
      const Eight<T> far = there[i] * root(squares[i]);
      mean = mean + share * far;
      farthest = greater(farthest, far);
    }
  }
  // Twice the signed area of the triangle from the first point.
  HWY_INLINE Eight<T> triangle(const Three<T>& normal, std::size_t i, std::size_t j) const {
    return dot(normal, cross(at[i] - at[0], at[j] - at[0]));
  }
  // Its second moment about the middle, over its area.
  HWY_INLINE Eight<T> second(std::size_t i, std::size_t j) const {
    const Three<T> sum = at[0] + at[i] + at[j];
    return all<T>(static_cast<T>(1.0 / 12)) * (squares[0] + squares[i] + squares[j] + dot(sum, sum));
  }

  Three<T> at[4];
  Eight<T> squares[4];
  Eight<T> mean, farthest;  // distances from the middle
};

// The mean distance of an evenly loaded face from its middle, by the second moment of the points' outline: 2/3 of the
// radius for a disc (Timoshenko and Young, Engineering Mechanics, on pivot friction), 0.383 of the side for a square, a
// quarter of the length for an edge. Of what rocks, that of its points. At least what the block has already.
template <class T>
HWY_INLINE void find_torsional_radii(ContactBlock<T>& block) {
  const Eight<T> zero = all<T>(0), one = all<T>(1);
  const Three<T> normal = load(block.normal);
  const Outline<T> outline(block);
  // Two triangles on both sides of the diagonal from the first point: to the second, third or fourth.
  const Eight<T> two = outline.triangle(normal, 1, 2), three = outline.triangle(normal, 1, 3),
                 four = outline.triangle(normal, 2, 3);
  const Eight<T> to_second = where_greater(two * three, zero, zero, one);
  const Eight<T> to_third = (one - to_second) * where_greater(two * four, zero, one, zero);
  const auto area_if = [&](const Eight<T>& counts, const Eight<T>& twice) -> Eight<T> {
    return all<T>(static_cast<T>(0.5)) * counts * greater(twice, zero - twice);
  };
  const Eight<T> a = area_if(to_second + to_third, two), b = area_if(one - to_third, three),
                 c = area_if(one - to_second, four);
  const Eight<T> area = a + b + c;
  const Eight<T> moment = a * outline.second(1, 2) + b * outline.second(1, 3) + c * outline.second(2, 3);

  // From the root of the mean square to the mean: 0.94 for what is about as wide as long, 0.87 for an edge.
  constexpr double edge = 0.866, broad = 0.074, square = 6;
  const Eight<T> least = all<T>(static_cast<T>(1e-6)) * outline.farthest * outline.farthest;
  const Eight<T> mean_square = where_greater(area, least, moment, one) / where_greater(area, least, area, one);
  const Eight<T> width = lesser(one, area / (all<T>(static_cast<T>(square)) * mean_square));
  const Eight<T> of_face = root(mean_square) * (all<T>(static_cast<T>(edge)) + all<T>(static_cast<T>(broad)) * width);
  Eight<T> radius = where_greater(area, least, of_face, all<T>(static_cast<T>(0.5)) * outline.farthest);
  // A round face bears at two thirds of its radius.
  radius = where_greater(load(block.round_face), zero, all<T>(static_cast<T>(2.0 / 3)) * outline.mean, radius);
  // What rocks bears on its corners.
  const Eight<T> per_rocking = all<T>(static_cast<T>(10));  // s/m
  const Eight<T> rocking = lesser(one, per_rocking * outline.farthest * load(block.rocking));
  radius = radius + rocking * (outline.mean - radius);
  store(greater(radius, load(block.torsional_radius)), block.torsional_radius);
}

}  // namespace
}  // namespace HWY_NAMESPACE
}  // namespace bronvel
HWY_AFTER_NAMESPACE();
