// Capsules, cylinders, cones and hulls: mass, rays, distance, contact.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <random>

#include "geometry/base/error.h"
#include "geometry/meshes/outline.h"
#include "geometry/queries/contact.h"
#include "geometry/queries/distance.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mass.h"

using namespace bronvel;

namespace {

double any_number(double low, double high) {
  return low + (high - low) * (*rc::gen::inRange(0, 1000000)) / 1e6;
}

Quat any_turn() {
  return Quat(any_number(-1, 1), any_number(-1, 1), any_number(-1, 1), any_number(0.1, 1)).normalized();
}

Vec3 any_vector(double size) {
  return {any_number(-size, size), any_number(-size, size), any_number(-size, size)};
}

Hull cube_hull(double side) {
  std::vector<Vec3> points;
  for (const double x : {-0.5, 0.5})
    for (const double y : {-0.5, 0.5})
      for (const double z : {-0.5, 0.5}) points.emplace_back(side * x, side * y, side * z);
  return make_hull(points);
}

Shape any_shape() {
  switch (*rc::gen::inRange(0, 6)) {
    case 0:
      return Sphere{any_number(0.2, 1)};
    case 1:
      return Box{{any_number(0.3, 2), any_number(0.3, 2), any_number(0.3, 2)}};
    case 2:
      return Capsule{any_number(0.2, 0.6), any_number(0.2, 2)};
    case 3:
      return Cylinder{any_number(0.2, 1), any_number(0.3, 2)};
    case 4:
      return Cone{any_number(0.2, 1), any_number(0.3, 2)};
    default: {
      std::vector<Vec3> points{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {-0.6, -0.6, -0.6}};
      for (int i = 0; i < 8; ++i) points.push_back(any_vector(0.8));
      return make_hull(points);
    }
  }
}

// Volume, centre and inertia by counting a grid of points inside the outline's bounds, found with rays.
MassProperties counted(const Shape& shape, int steps) {
  const Bounds b = shape_bounds(shape, {});
  const Vec3 cell = (b.high - b.low) / steps;
  double mass = 0;
  Vec3 moment = Vec3::Zero();
  Mat3 second = Mat3::Zero();
  for (int i = 0; i < steps; ++i)
    for (int k = 0; k < steps; ++k) {
      const double x = b.low.x() + (i + 0.5) * cell.x(), z = b.low.z() + (k + 0.5) * cell.z();
      const double tall = b.high.y() - b.low.y();
      const auto down = cast_ray(shape, {}, {x, b.high.y() + 1, z}, {0, -1, 0}, tall + 2);
      const auto up = cast_ray(shape, {}, {x, b.low.y() - 1, z}, {0, 1, 0}, tall + 2);
      if (!down || !up) continue;
      const double top = down->point.y(), bottom = up->point.y(), length = top - bottom;
      if (length <= 0) continue;
      const double m = length * cell.x() * cell.z();
      const Vec3 middle(x, 0.5 * (top + bottom), z);
      mass += m;
      moment += m * middle;
      second += m * middle * middle.transpose();
      second(1, 1) += m * length * length / 12;
    }
  const Vec3 centre = moment / mass;
  second -= mass * centre * centre.transpose();
  return {mass, centre, second.trace() * Mat3::Identity() - second};
}

}  // namespace

TEST_CASE("mass, centre and inertia of every shape agree with counting its inside") {
  const std::vector<Shape> shapes{Capsule{0.4, 1.2}, Cylinder{0.5, 1.4}, Cone{0.6, 1.5}, cube_hull(1.3),
                                  make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0.7, 0.6, 0.5}})};
  for (const Shape& shape : shapes) {
    CAPTURE(shape_word(shape));
    const MassProperties exact = mass_properties(shape, 1), grid = counted(shape, 90);
    CHECK(exact.mass == Approx(grid.mass).epsilon(0.01));
    CHECK(exact.mass == Approx(shape_volume(shape)));
    CHECK((exact.centre - grid.centre).norm() < 0.006);
    CHECK((exact.inertia - grid.inertia).norm() < 0.02 * exact.inertia.norm());
  }
}

TEST_CASE("a hull of a cube's corners is that cube") {
  const Hull hull = cube_hull(2);
  CHECK(hull.data->faces.size() == 6);
  CHECK(hull.data->corners.size() == 8);
  CHECK(hull.data->volume == Approx(8));
  CHECK(hull.data->inner_radius == Approx(1));
  const MassProperties box = mass_properties(Box{{2, 2, 2}}, 5), same = mass_properties(hull, 5);
  CHECK((box.inertia - same.inertia).norm() < 1e-9);
}

TEST_CASE("hulls without depth are refused with a reason") {
  CHECK_THROWS_WITH(make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}), Catch::Contains("four points"));
  CHECK_THROWS_WITH(make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}}), Catch::Contains("plane"));
  CHECK_THROWS_WITH(make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {std::nan(""), 1, 0}}),
                    Catch::Contains("not a number"));
  CHECK_THROWS_AS(make_hull(std::vector<Vec3>(10, Vec3(1, 2, 3))), Error);
}

TEST_CASE("contact of hull cubes is that of boxes") {
  const Pose below{}, above{{0.2, 0.999, 0.1}, Quat(Eigen::AngleAxisd(0.3, Vec3::Unit(1)))};
  const Manifold boxes = collide(Box{}, below, Box{}, above, 0.01);
  const Manifold hulls = collide(cube_hull(1), below, cube_hull(1), above, 0.01);
  REQUIRE(boxes.count == 4);
  REQUIRE(hulls.count == 4);
  CHECK((boxes.normal - hulls.normal).norm() < 1e-6);
  for (std::size_t i = 0; i < 4; ++i) CHECK(hulls.points[i].separation == Approx(-0.001).margin(1e-9));
}

TEST_CASE("a lying cask and capsule touch along a line, a standing one on a face") {
  const Quat lying(Eigen::AngleAxisd(pi / 2, Vec3::Unit(0)));
  const Box ground{{10, 1, 10}};
  const Manifold line = collide(ground, {{0, -0.5, 0}}, Cylinder{0.4, 1}, {{0, 0.399, 0}, lying}, 0.01);
  REQUIRE(line.count == 2);
  CHECK((line.points[0].point - line.points[1].point).norm() == Approx(1).epsilon(1e-3));
  CHECK(line.points[0].separation == Approx(-0.001).margin(1e-9));
  CHECK(collide(ground, {{0, -0.5, 0}}, Capsule{0.4, 1}, {{0, 0.399, 0}, lying}, 0.01).count == 2);
  const Manifold face = collide(ground, {{0, -0.5, 0}}, Cylinder{0.4, 1}, {{0, 0.499, 0}}, 0.01);
  REQUIRE(face.count == 4);
  CHECK(face.normal.y() == Approx(1));
  const Manifold tip =
      collide(ground, {{0, -0.5, 0}}, Cone{0.4, 1}, {{0, 0.499, 0}, Quat(Eigen::AngleAxisd(pi, Vec3::Unit(0)))}, 0.01);
  CHECK(tip.count == 1);
}

TEST_CASE("moving B out along the normal by the depth parts any two shapes, and less does not", "[random]") {
  CHECK(rc::check("depth", [] {
    const Shape a = any_shape(), b = any_shape();
    const Pose pa{any_vector(0.2), any_turn()};
    const Pose pb{any_vector(1.2), any_turn()};
    const Manifold m = collide(a, pa, b, pb, 5);
    RC_ASSERT(m.count > 0);
    RC_ASSERT(std::abs(m.normal.norm() - 1) < 1e-9);
    const Manifold near = collide(a, pa, b, pb, 0.05);
    double deepest = 1e9;
    for (int i = 0; i < near.count; ++i)
      deepest = std::min(deepest, near.points[static_cast<std::size_t>(i)].separation);
    // The nearest points are always among them: faces that look at each other may miss them, and round rims are touched
    // as polygons.
    const Separation real = separation_of(Convex(a, pa), Convex(b, pb));
    const double gap = real.distance - Convex(a, pa).radius() - Convex(b, pb).radius();
    if (near.count > 0) RC_ASSERT(std::abs(deepest - gap) < 4e-4);
    RC_ASSERT(near.count > 0 || gap > 0.04);
    Pose moved = pb;
    moved.position += real.normal * (-gap + 1e-4);
    const Separation after = separation_of(Convex(a, pa), Convex(b, moved));
    RC_ASSERT(after.distance - Convex(a, pa).radius() - Convex(b, moved).radius() > -1e-3);
  }));
}

TEST_CASE("a ray hits any shape on its outline and nowhere inside", "[random]") {
  CHECK(rc::check("rays", [] {
    const Shape shape = any_shape();
    const Pose pose{any_vector(3), any_turn()};
    const Vec3 origin = pose.position + Vec3(any_number(3, 5), any_number(3, 5), any_number(-5, 5));
    const Vec3 aim = mass_properties(shape, 1).centre;
    const Vec3 direction = (pose.to_scene(aim) - origin).normalized();
    const auto hit = cast_ray(shape, pose, origin, direction, 100);
    RC_ASSERT(hit);
    RC_ASSERT(hit->normal.dot(direction) < 0);
    // A small ball at the hit touches the shape's surface.
    const Manifold m = collide(Sphere{0.01}, {hit->point}, shape, pose, 0.1);
    RC_ASSERT(m.count > 0);
    RC_ASSERT(std::abs(m.points[0].separation + 0.01) < 1e-3);
  }));
}

TEST_CASE("round shapes deep in one another have their depth, although the search's faces get too small") {
  std::mt19937 generator(7);
  std::uniform_real_distribution<double> any(-1, 1);
  const auto share = [&] { return any(generator); };
  const auto pose = [&](double size) {
    Pose p;
    for (int i = 0; i < 3; ++i) p.position[i] = size * share();
    for (int i = 0; i < 4; ++i) p.orientation.coeffs()[i] = share();
    p.orientation.normalize();
    return p;
  };
  int deep = 0;
  for (int i = 0; i < 6000; ++i) {
    const double radius = 0.4 + 0.2 * share(), height = 1 + 0.5 * share();
    const Shape a = Cylinder{0.4 + 0.2 * share(), 1 + 0.5 * share()};
    const Shape b = i % 3 == 0   ? Shape(Capsule{0.2, 1.2 * height})
                    : i % 3 == 1 ? Shape(Cone{radius, height})
                                 : Shape(Cylinder{radius, height});
    const Pose pose_a = pose(0.2), pose_b = pose(0.3);
    const Convex convex_a(a, pose_a), convex_b(b, pose_b);
    const Separation found = separation_of(convex_a, convex_b);
    if (found.distance >= 0) continue;
    ++deep;
    // As far as the two really reach into one another along the normal: going out by less leaves them stuck.
    const double reached = found.normal.dot(convex_a.farthest(found.normal) - convex_b.farthest(-found.normal));
    INFO(i << ": " << reached << " m, found " << -found.distance);
    CHECK(std::abs(reached + found.distance) < 1e-6);
  }
  CHECK(deep > 5000);
}

TEST_CASE("what a plane parts is never found to overlap, in 30,000 pairs a hair apart") {
  std::mt19937 generator(5);
  std::uniform_real_distribution<double> any(-1, 1);
  const auto share = [&] { return any(generator); };
  const auto vector = [&](double size) -> Vec3 { return size * Vec3(share(), share(), share()); };
  const auto turn = [&] { return Quat(share(), share(), share(), 0.6 + 0.5 * share()).normalized(); };
  const auto shape = [&](int kind) -> Shape {
    const double size = 0.6 + 0.4 * share(), height = 1.1 + 0.8 * share();
    if (kind == 0) return Box{{size, height, 1 + 0.8 * share()}};
    if (kind == 1) return Capsule{0.5 * size, height};
    if (kind == 2) return Cylinder{size, height};
    if (kind == 3) return Cone{size, height};
    std::vector<Vec3> points{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {-0.6, -0.6, -0.6}};
    for (int i = 0; i < 8; ++i) points.push_back(vector(0.8));
    return make_hull(points);
  };
  int wrong = 0, pairs = 0;
  for (int i = 0; i < 1200; ++i) {
    const Shape a = shape(i % 5), b = shape(i / 5 % 5);
    for (int k = 0; k < 25; ++k, ++pairs) {
      const Pose pose_a{vector(0.2), turn()}, pose_b{vector(1.2), turn()};
      const Convex convex_a(a, pose_a), convex_b(b, pose_b);
      const double round = convex_a.radius() + convex_b.radius();
      const Separation before = separation_of(convex_a, convex_b);
      Pose moved = pose_b;
      moved.position += before.normal * (round - before.distance + 1e-4);
      const Separation after = separation_of(convex_a, Convex(b, moved));
      if (std::abs(after.distance - round - 1e-4) > 1e-5) ++wrong;
    }
  }
  CHECK(pairs == 30000);
  CHECK(wrong == 0);
}

TEST_CASE("a ball whose centre is on a cone's or cylinder's outline is as deep as its radius, 20,000 times") {
  std::mt19937 generator(3);
  std::uniform_real_distribution<double> any(-1, 1);
  const auto share = [&] { return any(generator); };
  const auto vector = [&](double size) -> Vec3 { return size * Vec3(share(), share(), share()); };
  int wrong = 0;
  for (int i = 0; i < 20000; ++i) {
    const double radius = 0.6 + 0.4 * share(), height = 1.1 + 0.8 * share();
    const Shape shape = i % 2 == 0 ? Shape(Cone{radius, height}) : Shape(Cylinder{radius, height});
    const Pose pose{vector(3), Quat(share(), share(), share(), 0.6 + 0.5 * share()).normalized()};
    const Vec3 origin = pose.position + Vec3(4 + share(), 4 + share(), 5 * share());
    const Vec3 aim = pose.to_scene(mass_properties(shape, 1).centre);
    const auto hit = cast_ray(shape, pose, origin, (aim - origin).normalized(), 100);
    REQUIRE(hit);
    const Manifold m = collide(Sphere{0.01}, {hit->point}, shape, pose, 0.1);
    if (m.count == 0 || std::abs(m.points[0].separation + 0.01) > 1e-6) ++wrong;
  }
  CHECK(wrong == 0);
}

TEST_CASE("bounds hold the outline and touch it", "[random]") {
  CHECK(rc::check("bounds", [] {
    const Shape shape = any_shape();
    const Pose pose{any_vector(3), any_turn()};
    const Bounds b = shape_bounds(shape, pose);
    Vec3 low = Vec3::Constant(1e9), high = Vec3::Constant(-1e9);
    for (const Vec3& p : outline_of(shape).triangles) {
      low = low.cwiseMin(pose.to_scene(p));
      high = high.cwiseMax(pose.to_scene(p));
    }
    RC_ASSERT((low.array() >= b.low.array() - 1e-9).all());
    RC_ASSERT((high.array() <= b.high.array() + 1e-9).all());
    RC_ASSERT((low - b.low).maxCoeff() < 0.05);
    RC_ASSERT((b.high - high).maxCoeff() < 0.05);
  }));
}

TEST_CASE("what is told apart without being measured is apart; what is within reach is found", "[random]") {
  int near = 0, far = 0;
  CHECK(rc::check("any two convex shapes", [&] {
    const Shape a = any_shape(), b = any_shape();
    const Pose pose_a{any_vector(1.2), any_turn()}, pose_b{any_vector(1.2), any_turn()};
    const double reach = any_number(0.001, 0.3);
    const Convex convex_a(a, pose_a), convex_b(b, pose_b);
    const double gap = separation_of(convex_a, convex_b).distance - convex_a.radius() - convex_b.radius();
    const Manifold m = collide(a, pose_a, b, pose_b, reach);
    if (gap > reach + 1e-6) {
      RC_ASSERT(m.count == 0);
      ++far;
    } else if (gap < reach - 1e-3) {
      RC_ASSERT(m.count > 0);
      ++near;
    }
  }));
  CHECK(near > 5);
  CHECK(far > 5);
}
