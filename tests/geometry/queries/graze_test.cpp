// Telling grazes from hits: what lies flush is slid onto, what stands up is met.
#include "geometry/queries/graze.h"

#include <catch2/catch.hpp>

using namespace bronvel;

namespace {

const Shape slab = Box{{4, 1, 4}};
const Pose slab_pose{{2, -0.5, 0}};  // its top at 0, its side at x = 0

GrazeLimits limits() {
  GrazeLimits limits;
  limits.step = 1e-3;
  limits.ahead = 1.0 / 60;
  limits.gravity = {0, -9.81, 0};
  limits.speed = 0.2;
  limits.moves_a = false;
  return limits;
}

struct Seen {
  Graze graze = Graze::no;
  Manifold manifold;
};

Seen look(const Shape& shape, const Vec3& place, const Vec3& velocity, const GrazeLimits& by = limits()) {
  Seen seen;
  const Pose pose{place};
  seen.manifold = collide(slab, slab_pose, shape, pose, 0.1);
  seen.graze = make_graze(slab, slab_pose, shape, pose, 0.1, {place, velocity, Vec3::Zero()}, by, seen.manifold);
  return seen;
}

}  // namespace

TEST_CASE("a crate a hair below a slab's top grazes its edge; five millimetres below it meets the side") {
  const Shape crate = Box{{0.3, 0.3, 0.3}};
  for (const double depth : {0.0, 1e-6, 1e-5, 5e-4, 9e-4}) {
    INFO(depth);
    const Seen seen = look(crate, {-0.15 + 1e-9, 0.15 - depth, 0}, {3, 0, 0});
    if (depth > 0) CHECK(seen.graze == Graze::yes);
    CHECK(seen.manifold.normal.y() == Approx(1));
  }
  CHECK(look(crate, {-0.15, 0.145, 0}, {3, 0, 0}).graze == Graze::no);
  CHECK(look(crate, {-0.15, 0.15 - 1e-5, 0}, {-3, 0, 0}).graze == Graze::no);  // it leaves
  // Well onto it the top is met, and nothing changes.
  const Seen on = look(crate, {1, 0.15 - 1e-5, 0}, {3, 0, 0});
  CHECK(on.graze == Graze::no);
  CHECK(on.manifold.normal.y() == Approx(1));
}

TEST_CASE("what falls along a slab's side grazes its top edge, what falls onto the slab does not") {
  const Shape crate = Box{{0.3, 0.3, 0.3}};
  const Seen along = look(crate, {-0.15 + 1e-5, 0.15, 0}, {0, -3, 0});
  CHECK(along.graze == Graze::yes);
  CHECK(along.manifold.normal.x() == Approx(-1));
  CHECK(look(crate, {-0.1, 0.15, 0}, {0, -3, 0}).graze == Graze::no);
}

TEST_CASE("a ball that comes onto a face grazes its edge and is borne by it; one that rolls off is not") {
  const Shape ball = Sphere{0.15};
  const Seen onto = look(ball, {-0.002, 0.15 - 1e-5, 0}, {3, 0, 0});
  CHECK(onto.graze == Graze::yes);
  REQUIRE(onto.manifold.count == 1);
  CHECK(onto.manifold.normal.y() == Approx(1));
  CHECK(onto.manifold.points[0].separation == Approx(-1e-5));
  const Seen off = look(ball, {-0.002, 0.15 - 1e-5, 0}, {-3, 0, 0});
  CHECK(off.graze != Graze::yes);
  CHECK(off.manifold.normal.x() < -0.01);
}

TEST_CASE("what is still apart and comes fast is left to the search for hits, unless it is said to lie") {
  const Shape crate = Box{{0.3, 0.3, 0.3}};
  const Vec3 before(-0.17, 0.15 - 1e-5, 0), fast(3, 0, 0);
  CHECK(look(crate, before, fast).graze == Graze::no);
  GrazeLimits lies = limits();
  lies.speed = 1e300;
  CHECK(look(crate, before, fast, lies).graze == Graze::yes);
  CHECK(look(crate, before, {3, -2, 0}, lies).graze != Graze::yes);  // it will be lower by then
  CHECK(look(crate, before, {0.1, 0, 0}).graze == Graze::yes);
}
