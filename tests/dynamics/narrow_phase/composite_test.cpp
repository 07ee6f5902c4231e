// Compounds, meshes and height fields as bodies.
#include <catch2/catch.hpp>

#include "dynamics/world/world.h"
#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/mesh.h"

using namespace bronvel;

namespace {

// A flat deck of n × n squares of 1 m, each cut in two; the top is the front.
Mesh deck(std::uint32_t n) {
  std::vector<Vec3> points;
  std::vector<std::array<std::uint32_t, 3>> triangles;
  for (std::uint32_t j = 0; j <= n; ++j)
    for (std::uint32_t i = 0; i <= n; ++i) points.emplace_back(i - 0.5 * n, 0, j - 0.5 * n);
  for (std::uint32_t j = 0; j < n; ++j)
    for (std::uint32_t i = 0; i < n; ++i) {
      const std::uint32_t at = j * (n + 1) + i;
      triangles.push_back({at, at + n + 1, at + 1});
      triangles.push_back({at + 1, at + n + 1, at + n + 2});
    }
  return make_mesh(points, triangles);
}

BodySettings slippery(const Shape& shape) {
  BodySettings s;
  s.shape = shape;
  s.surface.static_friction = s.surface.dynamic_friction = 0;
  s.surface.restitution = 0;
  s.surface.friction_combine = Combine::minimum;
  s.may_sleep = false;
  return s;
}

}  // namespace

TEST_CASE("what slides over a mesh or a height field feels no seams") {
  const std::vector<double> level(21 * 21, 0.0);
  const Shape field = make_height_field(21, 21, 1, 1, level);
  const Shape mesh = deck(20);
  for (const Shape& ground : {mesh, field})
    for (const Shape& shape : {Shape(Box{{0.5, 0.5, 0.5}}), Shape(Sphere{0.25}), Shape(Cylinder{0.25, 0.5})}) {
      World world({});
      world.create({.kind = MotionKind::fixed, .shape = ground}, {});
      const BodyHandle body = world.create(slippery(shape), {{{-8, 0.25, 0.37}}, {6, 0, 0.4}, Vec3::Zero()});
      double highest = 0;
      for (int i = 0; i < 120; ++i) {
        world.step();
        highest = std::max(highest, world.motion(body).pose.position.y());
      }
      const BodyMotion m = world.motion(body);
      INFO(shape_word(ground) << " under " << shape_word(shape));
      CHECK(highest < 0.2505);
      CHECK(m.velocity.x() == Approx(6).epsilon(2e-3));
      CHECK(m.velocity.z() == Approx(0.4).margin(0.02));
      CHECK(m.pose.position.y() == Approx(0.25).margin(1e-3));
    }
}

TEST_CASE("fast things do not pass through a surface of triangles") {
  for (const double speed : {20.0, 200.0}) {
    World world({});
    world.create({.kind = MotionKind::fixed, .shape = deck(10)}, {});
    std::vector<BodyHandle> shots;
    for (int i = 0; i < 20; ++i)
      shots.push_back(
          world.create(slippery(Sphere{0.02}), {{{-3 + 0.31 * i, 2, 0.17 * i - 2}}, {0.3, -speed, 0.1}, Vec3::Zero()}));
    for (int i = 0; i < 60; ++i) world.step();
    for (const BodyHandle shot : shots) CHECK(world.motion(shot).pose.position.y() > 0);
  }
}

TEST_CASE("a compound weighs what its parts weigh, and falls, lands and stands as one") {
  const Compound table = make_compound({{Box{{1.2, 0.1, 0.8}}, {{0, 0.75, 0}}},
                                        {Box{{0.1, 0.7, 0.1}}, {{0.5, 0.35, 0.3}}},
                                        {Box{{0.1, 0.7, 0.1}}, {{-0.5, 0.35, 0.3}}},
                                        {Box{{0.1, 0.7, 0.1}}, {{0.5, 0.35, -0.3}}},
                                        {Box{{0.1, 0.7, 0.1}}, {{-0.5, 0.35, -0.3}}}});
  CHECK(shape_volume(table) == Approx(1.2 * 0.1 * 0.8 + 4 * 0.007));
  World world({});
  world.create({.kind = MotionKind::fixed, .shape = Box{{20, 1, 20}}}, {{{0, -0.5, 0}}});
  BodySettings s;
  s.shape = table;
  s.mass = 20;
  const BodyHandle body = world.create(s, {{{0, 0.3, 0}}});
  int touches = 0;
  for (int i = 0; i < 300; ++i) {
    world.step();
    for (const ContactEvent& e : world.contacts()) touches += e.phase == ContactPhase::touch;
  }
  CHECK(world.motion(body).pose.position.y() == Approx(0).margin(2e-3));
  CHECK(world.motion(body).pose.orientation.w() == Approx(1).margin(1e-4));
  CHECK(touches < 6);  // Four legs land as one body: once, and once after each bounce.
  CHECK(world.asleep(body));
  // A ball rolls under the table top between the legs.
  const auto hit = world.ray({0, 2, 0}, {0, -1, 0}, 5);
  REQUIRE(hit);
  CHECK(hit->hit.point.y() == Approx(0.8).margin(3e-3));
  CHECK(world.overlapping(Sphere{0.2}, {{0, 0.35, 0}}).empty());
}

TEST_CASE("one part of a whole in the middle of the air has the mass of a box") {
  const Compound two = make_compound({{Box{{1, 2, 1}}, {{-0.5, 0, 0}}}, {Box{{1, 2, 1}}, {{0.5, 0, 0}}}});
  const MassProperties whole = mass_properties(Box{{2, 2, 1}}, 3), parts = mass_properties(two, 3);
  CHECK(parts.mass == Approx(whole.mass));
  CHECK((parts.inertia - whole.inertia).norm() < 1e-12 * whole.inertia.norm());
}

TEST_CASE("surfaces can't be dynamic, and faulty ones are refused with a reason") {
  World world({});
  BodySettings s;
  s.shape = deck(2);
  CHECK_THROWS_WITH(world.create(s, {}), Catch::Contains("hull or a compound"));
  CHECK_THROWS_WITH(make_mesh({{0, 0, 0}, {1, 0, 0}, {0, 0, 1}}, {{0, 1, 3}}), Catch::Contains("names point 4 of 3"));
  CHECK_THROWS_WITH(make_mesh({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}, {{0, 1, 2}}), Catch::Contains("no area"));
  CHECK_THROWS_WITH(make_mesh({{0, 0, 0}, {1, 0, 0}, {0, std::nan(""), 0}}, {{0, 1, 2}}),
                    Catch::Contains("not a number"));
  // A closed tetrahedron, inside out.
  CHECK_THROWS_WITH(
      make_mesh({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}, {{0, 1, 2}, {0, 3, 1}, {0, 2, 3}, {1, 3, 2}}),
      Catch::Contains("inside out"));
  CHECK_NOTHROW(make_mesh({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}, {{0, 2, 1}, {0, 1, 3}, {0, 3, 2}, {1, 2, 3}}));
  CHECK_THROWS_WITH(make_height_field(3, 3, 1, 1, {0, 0}), Catch::Contains("9 heights"));
  CHECK_THROWS_WITH(make_compound({}), Catch::Contains("at least one part"));
  CHECK_THROWS_WITH(make_compound({{deck(1)}}), Catch::Contains("convex"));
}

TEST_CASE("a closed mesh weighs what the solid weighs") {
  std::vector<Vec3> corners;
  for (int i = 0; i < 8; ++i) corners.emplace_back(2.0 * (i & 1), 1.0 * ((i >> 1) & 1), 3.0 * ((i >> 2) & 1));
  const Mesh box = make_mesh(corners, {{0, 2, 3},
                                       {0, 3, 1},
                                       {4, 5, 7},
                                       {4, 7, 6},
                                       {0, 1, 5},
                                       {0, 5, 4},
                                       {2, 6, 7},
                                       {2, 7, 3},
                                       {0, 4, 6},
                                       {0, 6, 2},
                                       {1, 3, 7},
                                       {1, 7, 5}});
  const MassProperties solid = mass_properties(Box{{2, 1, 3}}, 5), mesh = mass_properties(box, 5);
  CHECK(mesh.mass == Approx(30));
  CHECK((mesh.centre - Vec3(1, 0.5, 1.5)).norm() < 1e-12);
  CHECK((mesh.inertia - solid.inertia).norm() < 1e-12 * solid.inertia.norm());
}

TEST_CASE("rays and nearest points find the surface of a height field") {
  std::vector<double> slope;
  for (int j = 0; j < 11; ++j)
    for (int i = 0; i < 11; ++i) slope.push_back(0.5 * i);
  World world({});
  world.create({.kind = MotionKind::fixed, .shape = make_height_field(11, 11, 1, 1, slope)}, {});
  const auto hit = world.ray({1.3, 10, 0.2}, {0, -1, 0}, 20);
  REQUIRE(hit);
  CHECK(hit->hit.point.y() == Approx(0.5 * 6.3));
  CHECK(hit->hit.normal.x() == Approx(-0.5 / std::sqrt(1.25)));
  const auto side = world.ray({-20, 1.0, 0.3}, {1, 0, 0}, 40);
  REQUIRE(side);
  CHECK(side->hit.point.x() == Approx(-3));
  CHECK_FALSE(world.ray({0, 20, 0}, {0, 1, 0}, 100));
}
