// Questions to the world against asking every body by itself.
#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <optional>

#include "dynamics/world/world.h"
#include "geometry/base/random.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

Vec3 place_within(Random& random, double size) {
  return {random.between(-size, size), random.between(-size, size), random.between(-size, size)};
}
Quat any_turn_of(Random& random) {
  return Quat(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1), random.between(0.1, 1)).normalized();
}

Shape shape_number(Random& random, int which) {
  const auto any = [&](double low, double high) { return random.between(low, high); };
  switch (which % 7) {
    case 0:
      return Sphere{any(0.2, 1)};
    case 1:
      return Box{{any(0.3, 2), any(0.3, 2), any(0.3, 2)}};
    case 2:
      return Capsule{any(0.2, 0.5), any(0.3, 2)};
    case 3:
      return Cylinder{any(0.2, 0.8), any(0.3, 2)};
    case 4:
      return Cone{any(0.3, 0.8), any(0.5, 2)};
    case 5: {
      std::vector<Vec3> points;
      for (int i = 0; i < 14; ++i) points.push_back(place_within(random, 1));
      return make_hull(points);
    }
    default:
      return make_compound({Part{Box{{1, 0.3, 0.3}}, {{0.4, 0, 0}, Quat::Identity()}},
                            Part{Sphere{0.4}, {{-0.5, 0.2, 0}, Quat::Identity()}}});
  }
}

struct Lot {
  World world{WorldSettings{}};
  std::vector<BodyHandle> bodies;
};

Lot any_lot(Random& random, int count) {
  Lot lot;
  for (int i = 0; i < count; ++i) {
    BodySettings settings;
    settings.shape = shape_number(random, i);
    settings.kind = i % 3 == 0 ? MotionKind::fixed : i % 3 == 1 ? MotionKind::dynamic : MotionKind::kinematic;
    settings.groups = 1U << (static_cast<unsigned>(i) % 3);
    settings.solid = i % 5 != 0;
    lot.bodies.push_back(
        lot.world.create(settings, {{place_within(random, 4), any_turn_of(random)}, Vec3::Zero(), Vec3::Zero()}));
  }
  return lot;
}

QueryFilter filter_number(const Lot& lot, int which) {
  QueryFilter filter;
  if (which % 4 == 1) filter.groups = 2;
  if (which % 4 == 2) filter.except = lot.bodies[static_cast<std::size_t>(which) % lot.bodies.size()];
  if (which % 4 == 3) filter.solid_only = true;
  return filter;
}

bool passes(const Lot& lot, const QueryFilter& filter, BodyHandle body) {
  const BodySettings& settings = lot.world.body_settings(body);
  return (settings.groups & filter.groups) != 0 && body != filter.except && (settings.solid || !filter.solid_only);
}

}  // namespace

TEST_CASE("a ray meets the nearest of all that it would meet one by one") {
  Random random(21);
  int met = 0;
  for (int round = 0; round < 12; ++round) {
    const Lot lot = any_lot(random, 35);
    for (int k = 0; k < 60; ++k) {
      const Vec3 origin = place_within(random, 9);
      const Vec3 way = (place_within(random, 4) - origin).normalized();
      const double reach = random.between(1, 25);
      const QueryFilter filter = filter_number(lot, k);
      std::optional<WorldRayHit> nearest;
      for (const BodyHandle body : lot.bodies) {
        if (!passes(lot, filter, body)) continue;
        const auto hit = cast_ray(lot.world.body_settings(body).shape, lot.world.motion(body).pose, origin, way, reach);
        if (hit && (!nearest || hit->distance < nearest->hit.distance)) nearest = WorldRayHit{body, *hit};
      }
      const auto found = lot.world.ray(origin, way, reach, filter);
      REQUIRE(found.has_value() == nearest.has_value());
      if (!found) continue;
      ++met;
      CHECK(found->hit.distance == Approx(nearest->hit.distance).margin(1e-9));
      CHECK((found->hit.point - (origin + found->hit.distance * way)).norm() < 1e-9);
      CHECK(found->hit.normal.norm() == Approx(1));
      CHECK(found->hit.normal.dot(way) <= 1e-9);
    }
  }
  CHECK(met > 150);
}

TEST_CASE("what overlaps a shape is found in the order of bodies, and nothing else") {
  Random random(22);
  int met = 0;
  for (int round = 0; round < 12; ++round) {
    const Lot lot = any_lot(random, 35);
    for (int k = 0; k < 30; ++k) {
      const Sphere ball{random.between(0.1, 3)};
      const Pose at{place_within(random, 6), Quat::Identity()};
      const QueryFilter filter = filter_number(lot, k);
      const auto found = lot.world.overlapping(ball, at, filter);
      CHECK(std::is_sorted(found.begin(), found.end()));
      for (const BodyHandle body : lot.bodies) {
        const bool there = std::find(found.begin(), found.end(), body) != found.end();
        if (!passes(lot, filter, body)) {
          CHECK_FALSE(there);
          continue;
        }
        const auto nearest = lot.world.nearest_on(body, at.position, 100);
        REQUIRE(nearest);
        if (std::abs(nearest->distance - ball.radius) < 1e-6) continue;  // just touching
        CHECK(there == (nearest->distance < ball.radius));
        met += there ? 1 : 0;
      }
    }
  }
  CHECK(met > 250);
}

TEST_CASE("the nearest body is the nearest of all") {
  Random random(23);
  for (int round = 0; round < 12; ++round) {
    const Lot lot = any_lot(random, 25);
    for (int k = 0; k < 30; ++k) {
      const Vec3 point = place_within(random, 9);
      const double reach = random.between(0.1, 6);
      const QueryFilter filter = filter_number(lot, k);
      double least = 1e300;
      for (const BodyHandle body : lot.bodies)
        if (passes(lot, filter, body))
          if (const auto near = lot.world.nearest_on(body, point, 100)) least = std::min(least, near->distance);
      const auto found = lot.world.nearest(point, reach, filter);
      if (std::abs(least - reach) < 1e-9) continue;
      REQUIRE(found.has_value() == (least < reach));
      if (!found) continue;
      CHECK(found->distance == Approx(least).margin(1e-6));
      if (found->distance > 1e-6) {
        CHECK((point - found->point).norm() == Approx(found->distance).margin(1e-6));
        CHECK((found->point + found->distance * found->normal - point).norm() < 1e-5);
      }
    }
  }
}

TEST_CASE("a swept ball comes as far as it can, and no farther") {
  Random random(24);
  int met = 0;
  for (int round = 0; round < 10; ++round) {
    const Lot lot = any_lot(random, 20);
    for (int k = 0; k < 30; ++k) {
      const Sphere ball{random.between(0.1, 0.6)};
      const Pose from{place_within(random, 9), Quat::Identity()};
      const Vec3 way = place_within(random, 12);
      const QueryFilter filter = filter_number(lot, k);
      double start = 1e300;
      for (const BodyHandle body : lot.bodies)
        if (passes(lot, filter, body))
          start = std::min(start, lot.world.nearest_on(body, from.position, 100)->distance - ball.radius);
      if (start < 1e-3) continue;  // it begins in something
      const auto found = lot.world.sweep(ball, from, way, filter);
      const double free = found ? found->distance : way.norm();
      CHECK(free <= way.norm() + 1e-9);
      // Along all of its way nothing is overlapped by more than a hair; at its end, if it met something, that touches.
      double end = 1e300;
      for (int i = 0; i <= 20; ++i) {
        const Vec3 at = from.position + (free * i / 20) * way.normalized();
        double gap = 1e300;
        for (const BodyHandle body : lot.bodies)
          if (passes(lot, filter, body))
            gap = std::min(gap, lot.world.nearest_on(body, at, 100)->distance - ball.radius);
        CHECK(gap > -2e-3);
        end = gap;
      }
      if (!found) continue;
      ++met;
      CHECK(end < 2e-3);
    }
  }
  CHECK(met > 20);
}

TEST_CASE("questions change nothing") {
  Random random(25);
  Lot lot = any_lot(random, 40);
  Lot other = any_lot(random, 3);
  const std::uint64_t before = lot.world.digest();
  const WorldSnapshot moment = lot.world.snapshot();
  for (int i = 0; i < 20; ++i) lot.world.step();
  const std::uint64_t alone = lot.world.digest();
  lot.world.restore(moment);
  CHECK(lot.world.digest() == before);
  for (int i = 0; i < 20; ++i) {
    static_cast<void>(lot.world.ray({0, 9, 0}, {0, -1, 0}, 20));
    static_cast<void>(lot.world.overlapping(Box{{9, 9, 9}}, {}));
    static_cast<void>(lot.world.nearest({0, 0, 0}, 9));
    static_cast<void>(lot.world.sweep(Sphere{0.5}, {{0, 9, 0}, Quat::Identity()}, {0, -9, 0}));
    lot.world.step();
  }
  CHECK(lot.world.digest() == alone);
}

TEST_CASE("a ray over ground of heights meets it where the ground is") {
  std::vector<double> heights;
  Random random(26);
  for (int i = 0; i < 12 * 9; ++i) heights.push_back(random.between(-1, 1));
  const HeightField ground = make_height_field(12, 9, 0.7, 0.9, heights);
  World world{WorldSettings{}};
  BodySettings settings;
  settings.kind = MotionKind::fixed;
  settings.shape = ground;
  const BodyHandle body = world.create(settings, {{{1, 2, 3}, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()});
  for (int k = 0; k < 200; ++k) {
    const double x = random.between(-3.8, 3.8), z = random.between(-3.5, 3.5);
    const auto down = world.ray({1 + x, 9, 3 + z}, {0, -1, 0}, 20);
    REQUIRE(down);
    CHECK(down->body == body);
    // Between the least and the greatest height of its cell.
    CHECK(down->hit.point.y() > 2 - 1.0001);
    CHECK(down->hit.point.y() < 2 + 1.0001);
    CHECK(down->hit.normal.y() > 0);
    // From below it is not met: ground has a front.
    const double above = down->hit.point.y();
    const auto again = world.ray({1 + x, above + 0.5, 3 + z}, {0, -1, 0}, 20);
    REQUIRE(again);
    CHECK(again->hit.point.y() == Approx(above).margin(1e-9));
  }
  CHECK_FALSE(world.ray({1 + 4.5, 9, 3}, {0, -1, 0}, 20));
}
