// Contacts of spheres and boxes.
#include "geometry/queries/contact.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/random.h"
#include "geometry/cutting/pieces.h"
#include "geometry/queries/distance.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mass.h"

using namespace bronvel;

TEST_CASE("two spheres touch between their centres") {
  const Manifold m = collide(Sphere{1}, {{0, 0, 0}}, Sphere{0.5}, {{0, 1.4, 0}}, 0);
  REQUIRE(m.count == 1);
  CHECK(m.points[0].separation == Approx(-0.1));
  CHECK((m.normal - Vec3(0, 1, 0)).norm() < 1e-12);
  CHECK(m.points[0].point.y() == Approx(0.95));
}

TEST_CASE("a box lying on a box touches at four corners") {
  const Manifold m = collide(Box{{4, 1, 4}}, {}, Box{{1, 1, 1}}, {{0.3, 0.999, 0.2}}, 0.01);
  REQUIRE(m.count == 4);
  CHECK((m.normal - Vec3(0, 1, 0)).norm() < 1e-12);
  Vec3 middle = Vec3::Zero();
  for (int i = 0; i < 4; ++i) {
    CHECK(m.points[static_cast<std::size_t>(i)].separation == Approx(-0.001));
    middle += 0.25 * m.points[static_cast<std::size_t>(i)].point;
  }
  CHECK((middle - Vec3(0.3, 0.4995, 0.2)).norm() < 1e-9);
}

TEST_CASE("crossed edges touch at one point") {
  const Quat turn_a(Eigen::AngleAxisd(pi / 4, Vec3::Unit(2))), turn_b(Eigen::AngleAxisd(pi / 4, Vec3::Unit(0)));
  const double reach = std::sqrt(2.0) / 2;
  const Manifold m = collide(Box{}, {{0, 0, 0}, turn_a}, Box{}, {{0, 2 * reach - 0.01, 0}, turn_b}, 0.001);
  REQUIRE(m.count == 1);
  CHECK(m.points[0].separation == Approx(-0.01).margin(1e-9));
  CHECK((m.points[0].point - Vec3(0, reach - 0.005, 0)).norm() < 1e-9);
}

TEST_CASE("a sphere inside a box leaves by the nearest face") {
  const Manifold m = collide(Box{{2, 2, 2}}, {}, Sphere{0.1}, {{0.8, 0, 0}}, 0);
  REQUIRE(m.count == 1);
  CHECK(m.normal.x() == Approx(1));
  CHECK(m.points[0].separation == Approx(-0.3));
}

TEST_CASE("features keep their names while a box slides a little") {
  const Manifold before = collide(Box{{4, 1, 4}}, {}, Box{}, {{0, 0.999, 0}}, 0.01);
  const Manifold after = collide(Box{{4, 1, 4}}, {}, Box{}, {{0.01, 0.998, 0.01}}, 0.01);
  REQUIRE(before.count == after.count);
  for (std::size_t i = 0; i < 4; ++i) CHECK(before.points[i].feature == after.points[i].feature);
}

TEST_CASE("contact does not depend on where in the scene it is, nor on the order of the two", "[random]") {
  CHECK(rc::check("boxes", [] {
    const auto number = [](double low, double high) {
      return low + (high - low) * (*rc::gen::inRange(0, 100000)) / 100000.0;
    };
    const auto pose = [&](double far) {
      return Pose{{number(-far, far), number(-far, far), number(-far, far)},
                  Quat(number(-1, 1), number(-1, 1), number(-1, 1), number(0.1, 1)).normalized()};
    };
    const Box a{{number(0.2, 2), number(0.2, 2), number(0.2, 2)}}, b{{number(0.2, 2), number(0.2, 2), number(0.2, 2)}};
    const Pose pa = pose(0.5), pb = pose(1.2), moved = pose(30);
    const Manifold here = collide(a, pa, b, pb, 0.1), there = collide(a, moved * pa, b, moved * pb, 0.1);
    RC_ASSERT((here.count > 0) == (there.count > 0));
    if (here.count == 0) return;
    RC_ASSERT((moved.orientation * here.normal - there.normal).norm() < 1e-6);
    const Manifold other = collide(b, pb, a, pa, 0.1);
    RC_ASSERT(other.count > 0);
    double deepest = 1, deepest_other = 1;
    for (int i = 0; i < here.count; ++i)
      deepest = std::min(deepest, here.points[static_cast<std::size_t>(i)].separation);
    for (int i = 0; i < other.count; ++i)
      deepest_other = std::min(deepest_other, other.points[static_cast<std::size_t>(i)].separation);
    RC_ASSERT(std::abs(deepest - deepest_other) < 0.02);
  }));
}

TEST_CASE("rays meet spheres and boxes where they should") {
  const auto ball = cast_ray(Sphere{1}, {{5, 0, 0}}, {0, 0, 0}, {1, 0, 0}, 100);
  REQUIRE(ball);
  CHECK(ball->distance == Approx(4));
  CHECK(ball->normal.x() == Approx(-1));
  CHECK_FALSE(cast_ray(Sphere{1}, {{5, 0, 0}}, {0, 0, 0}, {1, 0, 0}, 3.9));
  CHECK_FALSE(cast_ray(Sphere{1}, {{-5, 0, 0}}, {0, 0, 0}, {1, 0, 0}, 100));
  const Quat turn(Eigen::AngleAxisd(pi / 4, Vec3::Unit(1)));
  const auto box = cast_ray(Box{{2, 2, 2}}, {{5, 0, 0}, turn}, {0, 0.1, 0.2}, {1, 0, 0}, 100);
  REQUIRE(box);
  CHECK(box->distance == Approx(5 - (std::sqrt(2.0) - 0.2)));
  const auto inside = cast_ray(Box{{2, 2, 2}}, {}, {0.1, 0, 0}, {0, 1, 0}, 100);
  REQUIRE(inside);
  CHECK(inside->distance == 0);
}

TEST_CASE("mass properties match the closed forms") {
  const MassProperties ball = mass_properties(Sphere{0.5}, 1000);
  CHECK(ball.mass == Approx(523.5988).epsilon(1e-6));
  CHECK(ball.inertia(0, 0) == Approx(0.4 * ball.mass * 0.25));
  const MassProperties box = mass_properties(Box{{1, 2, 3}}, 10);
  CHECK(box.mass == Approx(60));
  CHECK(box.inertia(0, 0) == Approx(60 * (4 + 9) / 12.0));
  CHECK(box.inertia(1, 1) == Approx(60 * (1 + 9) / 12.0));
}

TEST_CASE("sizes that can't be simulated are refused with a reason") {
  CHECK(shape_fault(Sphere{0}).value().find("above 0") != std::string::npos);
  CHECK(shape_fault(Sphere{-1}));
  CHECK(shape_fault(Sphere{std::nan("")}).value().find("not a number") != std::string::npos);
  CHECK(shape_fault(Box{{1, 1, 1e7}}).value().find("1e6") != std::string::npos);
  CHECK_FALSE(shape_fault(Box{{1e-6, 1, 1e6}}));
}

TEST_CASE("a normal knows whose face it is square to, whichever way round it is asked") {
  const Pose below, tilted{{0, 1.05, 0}, Quat(Eigen::AngleAxisd(0.05, Vec3::Unit(2)))};
  const Shape slab = Box{{4, 1, 4}}, box = Box{{1, 1, 1}};
  CHECK(collide(slab, below, box, tilted, 0.1).face_of == FaceOf::a);
  CHECK(collide(slab, below, Sphere{0.5}, {{0, 0.99, 0}}, 0.1).face_of == FaceOf::neither);
  // A hull's corner above a face, and below one.
  const Shape hull = make_hull({{-0.5, -0.5, -0.5}, {0.5, -0.5, -0.5}, {0, -0.5, 0.5}, {0, -0.9, 0}, {0, 0.5, 0}});
  CHECK(collide(slab, below, hull, {{0, 1.39, 0}}, 0.1).face_of == FaceOf::a);
  CHECK(collide(hull, {{0, 1.39, 0}}, slab, below, 0.1).face_of == FaceOf::b);
}

TEST_CASE("knowing where two shapes last met changes nothing but the time", "[random]") {
  const std::vector<Vec3> corners{{0.4, 0, 0}, {-0.4, 0, 0.1}, {0, 0.4, 0}, {0, -0.35, 0}, {0, 0, 0.4}, {0, 0.1, -0.4}};
  const std::vector<Shape> shapes{make_hull(corners),   make_hull({{0, 0, 0}, {1, 0, 0}, {0, 0.3, 0}, {0, 0, 0.8}}),
                                  Box{{0.6, 0.2, 0.4}}, Cylinder{0.3, 0.5},
                                  Cone{0.3, 0.5},       Capsule{0.1, 0.4}};
  int by_face = 0;
  CHECK(rc::check("a little way on", [&] {
    const auto number = [](double low, double high) {
      return low + (high - low) * (*rc::gen::inRange(0, 100000)) / 100000.0;
    };
    const auto any = [&] { return Vec3(number(-1, 1), number(-1, 1), number(-1, 1)); };
    const auto pick = [&] { return shapes[static_cast<std::size_t>(*rc::gen::inRange(0, 6))]; };
    const auto pose = [&] { return Pose{0.4 * any(), Quat(number(-1, 1), any().x(), any().y(), 0.1).normalized()}; };
    const Shape a = pick(), b = pick();
    const Pose at_a = pose();
    Pose at_b = pose();
    const auto deepest = [](const Manifold& m) {
      double deep = 1e300;
      for (int i = 0; i < m.count; ++i) deep = std::min(deep, m.points[static_cast<std::size_t>(i)].separation);
      return deep;
    };
    const auto meet = [&](const LastManifold& last) { return collide(a, at_a, b, at_b, 1, last); };
    // Out of one another, but for a hair.
    const double far = number(-0.02, 0.02);
    for (int i = 0; i < 4; ++i) {
      const Manifold m = meet({});
      if (m.count == 0) return;
      at_b.position += (far - deepest(m)) * m.normal;
    }
    Manifold known = meet({});
    for (int step = 0; step < 5; ++step) {
      const Vec3 half = 0.01 * any();
      at_b.position += 0.01 * any();
      at_b.orientation = (Quat(1, half.x(), half.y(), half.z()) * at_b.orientation).normalized();
      const Manifold searched = meet({});
      if (known.face_of != FaceOf::neither) ++by_face;
      known = meet({known.normal, known.face_of});
      RC_ASSERT((known.count > 0) == (searched.count > 0));
      if (known.count == 0) return;
      RC_LOG() << shape_word(a) << " and " << shape_word(b) << ", deep " << deepest(searched) << " and "
               << deepest(known) << "\n";
      // Which few points of a round shape bear is a matter of rounding, and its distance the end of a search.
      const auto round = [](const Shape& s) {
        return !std::holds_alternative<Hull>(s) && !std::holds_alternative<Box>(s);
      };
      const bool rounded = round(a) || round(b);
      RC_ASSERT(std::abs(known.apart - searched.apart) <= (rounded ? 1e-4 : 1e-7));
      if (rounded) continue;
      RC_ASSERT(std::abs(deepest(known) - deepest(searched)) <= 1e-7 + 2e-3 * std::abs(deepest(searched)));
      // Two ways out may be as short as one another.
      if (searched.face_of != FaceOf::neither && known.face_of == searched.face_of && deepest(searched) > 0)
        RC_ASSERT((known.normal - searched.normal).norm() < 1e-6);
    }
  }));
  CHECK(by_face > 100);
}

TEST_CASE("shapes are never nearer than a manifold tells", "[random]") {
  CHECK(rc::check("apart", [] {
    const auto number = [](double low, double high) {
      return low + (high - low) * (*rc::gen::inRange(0, 100000)) / 100000.0;
    };
    const std::vector<Shape> shapes{make_hull({{0.4, 0, 0}, {-0.4, 0, 0.1}, {0, 0.4, 0}, {0, -0.35, 0}, {0, 0, 0.4}}),
                                    Box{{0.6, 0.2, 0.4}}, Sphere{0.3}, Cylinder{0.3, 0.5}, Capsule{0.1, 0.4}};
    const auto pick = [&] { return shapes[static_cast<std::size_t>(*rc::gen::inRange(0, 5))]; };
    const auto pose = [&](double far) {
      return Pose{{number(-far, far), number(-far, far), number(-far, far)},
                  Quat(number(-1, 1), number(-1, 1), number(-1, 1), number(0.1, 1)).normalized()};
    };
    const Shape a = pick(), b = pick();
    const Pose at_a = pose(0.2), at_b = pose(1);
    const Manifold near = collide(a, at_a, b, at_b, number(0, 0.2));
    const Convex convex_a(a, at_a), convex_b(b, at_b);
    const double apart = separation_of(convex_a, convex_b).distance - convex_a.radius() - convex_b.radius();
    RC_LOG() << shape_word(a) << " and " << shape_word(b) << ": " << near.apart << ", are " << apart << "\n";
    RC_ASSERT(near.apart <= std::max(0.0, apart) + 1e-9);
    if (near.count == 0) RC_ASSERT(near.apart > 0 || apart > 0);
  }));
}

TEST_CASE("a hull that is a box, also one shifted, meets others as that box does", "[random]") {
  CHECK(rc::check("hulls and boxes", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const auto within = [&](double far) {
      return Vec3(random.between(-far, far), random.between(-far, far), random.between(-far, far));
    };
    const auto turn = [&] {
      return Quat(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1), 0.1).normalized();
    };
    const Vec3 size(random.between(0.05, 2), random.between(0.05, 2), random.between(0.05, 2)), by = within(3);
    const Quat own = turn();  // of the box in the hull's frame
    std::vector<Vec3> corners;
    for (int i = 0; i < 8; ++i)
      corners.push_back(
          own * (0.5 * size.cwiseProduct(Vec3((i & 1) != 0 ? 1 : -1, (i & 2) != 0 ? 1 : -1, (i & 4) != 0 ? 1 : -1))));
    const Hull hull = shifted(make_hull(corners), by);
    RC_ASSERT(hull.data->box.has_value());
    RC_ASSERT((hull.data->box->pose.position - hull.data->centre).norm() < 1e-9);
    const Pose at{within(1), turn()}, other_at{at.to_scene(by) + within(0.5 * size.maxCoeff() + 0.4), turn()};
    const std::vector<Shape> others{Box{{0.7, 0.4, 0.9}}, Sphere{0.4}, Shape(hull)};
    const Shape& other = others[random.bits() % others.size()];
    const Pose there = std::holds_alternative<Hull>(other) ? other_at * Pose{-by} : other_at;
    const Manifold m = collide(Shape(hull), at, other, there, 0.05);
    const Shape box = Box{size};
    const Manifold same = std::holds_alternative<Hull>(other)
                              ? collide(box, at * Pose{by, own}, box, there * Pose{by, own}, 0.05)
                              : collide(box, at * Pose{by, own}, other, there, 0.05);
    const auto least = [](const Manifold& of) {
      double gap = 1e300;
      for (int i = 0; i < of.count; ++i) gap = std::min(gap, of.points[static_cast<std::size_t>(i)].separation);
      return gap;
    };
    RC_ASSERT((m.count > 0) == (same.count > 0));
    if (m.count == 0) return;
    // Where two ways out are as short, either will do.
    RC_ASSERT(std::abs(least(m) - least(same)) < 2e-3 * size.maxCoeff());
  }));
  // What is not square is no box.
  CHECK_FALSE(make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}, {0, 0, 1}, {1, 0, 1}, {0, 1, 1}, {1.001, 1, 1}})
                  .data->box);
  CHECK_FALSE(make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}).data->box);
}
