// What is told of two shapes by the face or the edges they met by is what a search finds.
#include "geometry/queries/manifold_coherence.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/random.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

Vec3 any_within(Random& random, double size) {
  return {random.between(-size, size), random.between(-size, size), random.between(-size, size)};
}

Shape any_polyhedron(Random& random) {
  if (random.share() < 0.3) return Box{Vec3(0.2, 0.2, 0.2) + (any_within(random, 1).cwiseAbs())};
  std::vector<Vec3> corners{{0.5, 0, 0}, {-0.4, 0.5, 0}, {0, -0.5, 0.4}, {0, 0, -0.5}};
  const int more = static_cast<int>(random.between(0, 12));
  for (int i = 0; i < more; ++i) corners.push_back(any_within(random, 0.6));
  return make_hull(corners);
}

Quat any_turn(Random& random) {
  const Vec3 v = any_within(random, 1);
  return Quat(random.between(0.1, 1), v.x(), v.y(), v.z()).normalized();
}

}  // namespace

TEST_CASE("what met by a face or by edges a moment ago is as far apart as a search says", "[random]") {
  int by_faces = 0, by_edges = 0;
  CHECK(rc::check("two polyhedra a little way on", [&] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const Shape a = any_polyhedron(random), b = any_polyhedron(random);
    const Pose at_a{any_within(random, 20), any_turn(random)};
    Pose at_b{at_a.position + any_within(random, 1), any_turn(random)};
    const double far = random.between(-0.01, 0.05);
    const auto search = [&] { return separation_of(Convex(a, at_a), Convex(b, at_b)); };
    for (int i = 0; i < 4; ++i) {
      const Separation now = search();
      at_b.position += (far - now.distance) * now.normal;
    }
    const Separation before = search();
    const FaceOf face_of = collide(a, at_a, b, at_b, 1).face_of;
    at_b.position += 0.004 * any_within(random, 1);
    const Vec3 half = 0.002 * any_within(random, 1);
    at_b.orientation = (Quat(1, half.x(), half.y(), half.z()) * at_b.orientation).normalized();
    const Separation searched = search();
    const auto told = met_again(Convex(a, at_a), Convex(b, at_b), {before.normal, face_of});
    const bool edges = face_of == FaceOf::neither;
    if (!told) return;
    ++(edges ? by_edges : by_faces);
    RC_LOG() << shape_word(a) << " and " << shape_word(b) << (edges ? " by edges " : " by a face ")
             << told->apart.distance << ", searched " << searched.distance << "\n";
    RC_ASSERT(std::abs(told->apart.distance - searched.distance) <= 1e-8);
    RC_ASSERT(std::abs((told->apart.on_b - told->apart.on_a).dot(told->apart.normal) - told->apart.distance) <= 1e-9);
    // Very near one another a search's own normal is a matter of rounding.
    if (std::abs(searched.distance) > 1e-6) RC_ASSERT((told->apart.normal - searched.normal).norm() <= 1e-5);
  }));
  CHECK(by_faces > 10);
  CHECK(by_edges > 20);
}

TEST_CASE("edges that cross are known again, deep by a little, and given up where a corner comes between") {
  const Shape bar = Box{{2, 0.2, 0.2}};
  const Pose lies{{0, 0, 0}, Quat(Eigen::AngleAxisd(pi / 4, Vec3::Unit(0)))};
  const double high = 0.2 * std::sqrt(2.0);
  const auto across = [&](double up, double along) {
    const Quat turn = Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(1))) * lies.orientation;
    return Pose{{0.1, high + up, along}, turn};
  };
  const auto met = [&](const Pose& other) {
    return met_again(Convex(bar, lies), Convex(bar, other), {Vec3(0.02, 1, -0.01).normalized(), FaceOf::neither});
  };
  for (const double up : {0.03, 1e-5, -1e-5, -0.004}) {
    const auto found = met(across(up, 0.3));
    REQUIRE(found);
    CHECK(found->apart.distance == Approx(up).margin(1e-12));
    CHECK((found->apart.normal - Vec3::Unit(1)).norm() < 1e-9);
    CHECK((found->apart.on_a - Vec3(0.1, 0.5 * high, 0)).norm() < 1e-9);
  }
  // Apart, past the other one's end: corner against edge.
  const Pose beyond = across(0.3, 1.2);
  const Separation searched = separation_of(Convex(bar, lies), Convex(bar, beyond));
  CHECK(searched.normal.z() > 0.5);
  const Vec3 nearly = (searched.normal + Vec3(0.01, 0, -0.01)).normalized();
  const auto corner = met_again(Convex(bar, lies), Convex(bar, beyond), {nearly, FaceOf::neither});
  REQUIRE(corner);
  CHECK(corner->apart.distance == Approx(searched.distance).margin(1e-9));
  CHECK((corner->apart.normal - searched.normal).norm() < 1e-7);
  CHECK_FALSE(met(across(-0.03, 0.3)));     // deep: another way out may be shorter
  CHECK_FALSE(met(across(-0.03, 1.02)));    // past the other one's end, between its corners
  CHECK_FALSE(met(across(-0.004, 0.995)));  // too near it
  CHECK_FALSE(met_again(Convex(Sphere{1}, lies), Convex(bar, across(0.9, 0)), {Vec3::Unit(1), FaceOf::neither}));
  CHECK_FALSE(met_again(Convex(bar, lies), Convex(bar, across(0.03, 0)), {}));
}
