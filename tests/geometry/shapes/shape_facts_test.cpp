// What is known of a shape in several ways must agree: bounds, rays, distances, volume, the ball inside, sizes.
#include <Eigen/Eigenvalues>
#include <catch2/catch.hpp>
#include <cmath>

#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/submerged.h"
#include "geometry/meshes/fit.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mass.h"
#include "geometry/shapes/sized.h"

using namespace bronvel;

namespace {

Vec3 way_of(Random& random) {
  Vec3 way;
  do way = {random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)};
  while (way.norm() < 0.1 || way.norm() > 1);
  return way.normalized();
}
Quat turn_of(Random& random) {
  return Quat(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1), random.between(0.1, 1)).normalized();
}

Shape convex_number(Random& random, int which) {
  const auto any = [&](double low, double high) { return random.between(low, high); };
  const double size = std::pow(10, any(-2, 2));
  switch (which % 6) {
    case 0:
      return Sphere{size * any(0.2, 1)};
    case 1:
      return Box{size * Vec3(any(0.2, 2), any(0.2, 2), any(0.2, 2))};
    case 2:
      return Capsule{size * any(0.2, 0.6), size * any(0.1, 2)};
    case 3:
      return Cylinder{size * any(0.2, 1), size * any(0.2, 2)};
    case 4:
      return Cone{size * any(0.2, 1), size * any(0.3, 2)};
    default: {
      std::vector<Vec3> points;
      for (int i = 0; i < 16; ++i) points.push_back(size * any(0.3, 1) * way_of(random));
      return make_hull(points);
    }
  }
}

double size_of(const Bounds& bounds) {
  return (bounds.high - bounds.low).norm();
}

}  // namespace

TEST_CASE("where a ray meets a shape lies on its surface and within its bounds, and nothing lies before it") {
  Random random(51);
  int met = 0;
  for (int i = 0; i < 600; ++i) {
    const Shape shape = convex_number(random, i);
    const Pose pose{random.between(-9, 9) * way_of(random), turn_of(random)};
    const Bounds bounds = shape_bounds(shape, pose);
    const double size = size_of(bounds);
    const Vec3 middle = 0.5 * (bounds.low + bounds.high);
    const Vec3 origin = middle + 2 * size * way_of(random);
    const Vec3 way = (middle + 0.4 * size * random.share() * way_of(random) - origin).normalized();
    const auto hit = cast_ray(shape, pose, origin, way, 10 * size);
    if (!hit) continue;
    ++met;
    INFO(shape_word(shape) << ", number " << i);
    CHECK(bounds.grown(1e-9 * size).contains({hit->point, hit->point}));
    CHECK(hit->normal.norm() == Approx(1));
    CHECK(hit->normal.dot(way) < 1e-9);
    const Vec3 own = pose.orientation.conjugate() * (hit->point - pose.position);
    CHECK(distance_to_surface(shape, own) < 1e-6 * size + 2e-7);
    // A ray that reaches just not so far meets nothing; one from the surface inwards begins inside.
    CHECK_FALSE(cast_ray(shape, pose, origin, way, hit->distance * (1 - 1e-9)));
    const Vec3 inside = hit->point - 1e-5 * size * hit->normal;
    const auto within = cast_ray(shape, pose, inside, way_of(random), size);
    REQUIRE(within);
    CHECK(within->distance == 0);
    // And back out along the normal it is free at once.
    CHECK_FALSE(cast_ray(shape, pose, hit->point + 1e-5 * size * hit->normal, hit->normal, size));
  }
  CHECK(met > 350);
}

TEST_CASE("bounds are as small as can be: each side is touched") {
  Random random(52);
  for (int i = 0; i < 120; ++i) {
    const Shape shape = convex_number(random, i);
    const Pose pose{random.between(-9, 9) * way_of(random), turn_of(random)};
    const Bounds bounds = shape_bounds(shape, pose);
    INFO(shape_word(shape) << ", number " << i);
    for (int axis = 0; axis < 3; ++axis)
      for (const double side : {-1.0, 1.0}) {
        // What lies beyond a plane just inside the side: little, but something; beyond the side itself: nothing.
        const double at = side > 0 ? bounds.high[axis] : bounds.low[axis], size = size_of(bounds);
        const Vec3 out = side * Vec3::Unit(axis);
        const auto beyond = [&](double shift) {
          return submerged(shape, pose, Plane{-out, -(out.dot(at * Vec3::Unit(axis)) + shift)}).volume;
        };
        CHECK(beyond(1e-9 * size) < 1e-12 * std::pow(size, 3));
        CHECK(beyond(-0.02 * size) > 0);
      }
  }
}

TEST_CASE("volume, mass and what lies under water agree, and the ball inside fits") {
  Random random(53);
  for (int i = 0; i < 120; ++i) {
    const Shape shape = convex_number(random, i);
    INFO(shape_word(shape) << ", number " << i);
    const double volume = shape_volume(shape), density = random.between(1, 9000);
    const MassProperties mass = mass_properties(shape, density);
    CHECK(mass.mass == Approx(density * volume));
    const Pose pose{random.between(-9, 9) * way_of(random), turn_of(random)};
    const VolumeAndCentre all = submerged(shape, pose, Plane{Vec3::Unit(1), 1e6});
    CHECK(all.volume == Approx(volume).epsilon(2e-3));
    CHECK((all.centre - pose.to_scene(mass.centre)).norm() < 5e-3 * size_of(shape_bounds(shape, {})));
    CHECK(submerged(shape, pose, Plane{Vec3::Unit(1), -1e6}).volume == 0);
    // A plane parts it: both sides together are all of it.
    const Vec3 normal = way_of(random);
    const double offset = normal.dot(pose.to_scene(mass.centre));
    const double parts =
        submerged(shape, pose, Plane{normal, offset}).volume + submerged(shape, pose, Plane{-normal, -offset}).volume;
    CHECK(parts == Approx(volume).epsilon(4e-3));
    CHECK(4 / 3.0 * pi * std::pow(inner_radius(shape), 3) <= volume * (1 + 1e-9));
    CHECK(distance_to_surface(shape, mass.centre) >= 0.3 * inner_radius(shape));
    // Inertia of something that is: each moment no more than the other two together.
    const Eigen::SelfAdjointEigenSolver<Mat3> axes(mass.inertia);
    const Vec3 moments = axes.eigenvalues();
    CHECK(moments[0] > 0);
    CHECK(moments[2] <= (moments[0] + moments[1]) * (1 + 1e-9));
  }
}

TEST_CASE("a shape made larger has so many times the volume, and its sizes can be set one by one") {
  Random random(54);
  for (int i = 0; i < 60; ++i) {
    const Shape shape = convex_number(random, i);
    INFO(shape_word(shape) << ", number " << i);
    const double factor = random.between(0.5, 2);
    CHECK(shape_volume(sized(shape, Vec3::Constant(factor))) ==
          Approx(shape_volume(shape) * std::pow(factor, 3)).epsilon(1e-6));
    const std::vector<ShapeSize> sizes = shape_sizes(shape);
    REQUIRE_FALSE(sizes.empty());
    for (std::size_t k = 0; k < sizes.size(); ++k) {
      const Shape changed = with_size(shape, k, 1.5 * sizes[k].value);
      const std::vector<ShapeSize> now = shape_sizes(changed);
      REQUIRE(now.size() == sizes.size());
      CHECK(now[k].value == Approx(1.5 * sizes[k].value));
      CHECK_THROWS_AS(with_size(shape, k, -1), Error);
      CHECK_THROWS_AS(with_size(shape, k, std::nan("")), Error);
    }
    CHECK_THROWS_AS(sized(shape, {0, 1, 1}), Error);
    CHECK_FALSE(shape_fault(shape));
  }
}

TEST_CASE("a body of parts weighs what its parts weigh, about their common centre") {
  Random random(55);
  for (int i = 0; i < 40; ++i) {
    std::vector<Part> parts;
    double volume = 0;
    Vec3 moment = Vec3::Zero();
    for (int k = 0; k < 4; ++k) {
      Part part;
      part.shape = convex_number(random, static_cast<int>(random.bits() % 6));
      part.pose = {random.between(0, 3) * way_of(random), turn_of(random)};
      part.density = random.between(0.5, 2);
      const MassProperties own = mass_properties(part.shape, part.density);
      volume += own.mass;
      moment += own.mass * part.pose.to_scene(own.centre);
      parts.push_back(part);
    }
    const MassProperties whole = mass_properties(make_compound(parts), 1);
    CHECK(whole.mass == Approx(volume));
    CHECK((whole.centre - moment / volume).norm() < 1e-6 * (1 + whole.centre.norm()));
    Mat3 inertia = Mat3::Zero();
    for (const Part& part : parts) {
      const MassProperties own = mass_properties(part.shape, part.density);
      const Mat3 turn = part.pose.orientation.toRotationMatrix();
      const Vec3 away = part.pose.to_scene(own.centre) - whole.centre;
      inertia += turn * own.inertia * turn.transpose() +
                 own.mass * (away.squaredNorm() * Mat3::Identity() - away * away.transpose());
    }
    CHECK((whole.inertia - inertia).norm() < 1e-6 * inertia.norm());
  }
}
