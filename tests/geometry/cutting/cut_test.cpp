// Cutting convex shapes, and what of a shape lies below a plane.
#include "geometry/cutting/cut.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <map>

#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/pieces.h"
#include "geometry/cutting/submerged.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/mass.h"

using namespace bronvel;

namespace {

Vec3 some_direction(Random& random) {
  Vec3 v;
  do v = Vec3(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1));
  while (v.norm() < 0.1 || v.norm() > 1);
  return v.normalized();
}

Pose some_pose(Random& random) {
  Quat q(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1), random.between(-1, 1));
  return {Vec3(random.between(-2, 2), random.between(-2, 2), random.between(-2, 2)), q.normalized()};
}

Hull ball_hull(Random& random, int points) {
  std::vector<Vec3> all;
  all.reserve(static_cast<std::size_t>(points));
  for (int i = 0; i < points; ++i) all.push_back(some_direction(random));
  return make_hull(all);
}

// Counted at the middles of small cells.
VolumeAndCentre counted(const Shape& shape, const Pose& pose, const Plane& plane, int cells) {
  const Bounds b = shape_bounds(shape, Pose{});
  const Facets facets = facets_of(shape);
  const Vec3 step = (b.high - b.low) / cells;
  VolumeAndCentre sum;
  for (int i = 0; i < cells; ++i)
    for (int j = 0; j < cells; ++j)
      for (int k = 0; k < cells; ++k) {
        const Vec3 local = b.low + step.cwiseProduct(Vec3(i + 0.5, j + 0.5, k + 0.5));
        if (std::any_of(facets.planes.begin(), facets.planes.end(),
                        [&](const Plane& p) { return p.normal.dot(local) > p.offset; }))
          continue;
        const Vec3 point = pose.to_scene(local);
        if (plane.normal.dot(point) > plane.offset) continue;
        sum.volume += step.prod();
        sum.centre += step.prod() * point;
      }
  if (sum.volume > 0) sum.centre /= sum.volume;
  return sum;
}

}  // namespace

TEST_CASE("a hull cut in two keeps its volume, its moment and its inertia", "[random]") {
  CHECK(rc::check("any hull, any plane through its inside", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const Hull hull = ball_hull(random, 4 + static_cast<int>(random.bits() % 30));
    const Vec3 normal = some_direction(random);
    const Plane plane{normal, normal.dot(hull.data->centre) + random.between(-0.3, 0.3) * hull.data->inner_radius};
    const auto parts = cut_in_two(hull, plane);
    RC_ASSERT(parts.has_value());
    const MassProperties whole = mass_properties(hull, 700), a = mass_properties(parts->first, 700),
                         b = mass_properties(parts->second, 700);
    RC_ASSERT(std::abs(a.mass + b.mass - whole.mass) < 1e-9 * whole.mass);
    RC_ASSERT((a.mass * a.centre + b.mass * b.centre - whole.mass * whole.centre).norm() < 1e-9 * whole.mass);
    const auto about = [&](const MassProperties& m) {
      const Vec3 r = m.centre - whole.centre;
      return Mat3(m.inertia + m.mass * (r.squaredNorm() * Mat3::Identity() - r * r.transpose()));
    };
    RC_ASSERT((about(a) + about(b) - whole.inertia).norm() < 1e-8 * whole.inertia.norm());
    for (const Vec3& corner : parts->first.data->corners) RC_ASSERT(plane.normal.dot(corner) < plane.offset + 1e-9);
    for (const Vec3& corner : parts->second.data->corners) RC_ASSERT(plane.normal.dot(corner) > plane.offset - 1e-9);
  }));
}

TEST_CASE("a thousand bodies cut ten times each leave no sliver without a volume") {
#ifdef __SANITIZE_ADDRESS__
  constexpr int bodies = 60;
#else
  constexpr int bodies = 1000;
#endif
  Random random(7);
  double worst = 0;
  for (int n = 0; n < bodies; ++n) {
    const Hull whole = ball_hull(random, 6 + n % 24);
    std::vector<Hull> parts{whole};
    for (int cut = 0; cut < 10; ++cut) {
      const Vec3 normal = some_direction(random);
      const Plane plane{normal, random.between(-0.4, 0.4)};
      std::vector<Hull> next;
      for (const Hull& part : parts) {
        const auto two = cut_in_two(part, plane);
        if (two) {
          next.push_back(two->first);
          next.push_back(two->second);
        } else {
          next.push_back(part);
        }
      }
      parts = next;
    }
    double sum = 0;
    for (const Hull& part : parts) {
      REQUIRE(part.data->volume > 0);
      REQUIRE(part.data->centre.allFinite());
      REQUIRE(part.data->inertia.allFinite());
      REQUIRE(part.data->inner_radius > 0);
      sum += part.data->volume;
    }
    worst = std::max(worst, std::abs(sum - whole.data->volume) / whole.data->volume);
  }
  CHECK(worst < 1e-6);
}

TEST_CASE("a plane that misses a hull, or only grazes it, does not cut it") {
  const Hull hull = *hull_of(facets_of(Box{{2, 1, 1}}));
  CHECK_FALSE(cut_in_two(hull, {Vec3::Unit(0), 1.5}));
  CHECK_FALSE(cut_in_two(hull, {Vec3::Unit(0), 1.0}));
  CHECK_FALSE(cut_in_two(hull, {Vec3::Unit(0), 0.9999}));
  CHECK(cut_in_two(hull, {Vec3::Unit(0), 0.5}));
  CHECK_THROWS_AS(facets_of(make_compound({{Box{}}, {Sphere{}}})), Error);
}

TEST_CASE("facets of a round shape have its volume") {
  for (const Shape& shape : std::vector<Shape>{Sphere{0.7}, Capsule{0.3, 1.2}, Cylinder{0.4, 0.9}, Cone{0.5, 1.4}})
    CHECK(volume_of(facets_of(shape)).volume == Approx(shape_volume(shape)).epsilon(1e-12));
}

TEST_CASE("what of a shape lies below a plane is what cutting it leaves", "[random]") {
  CHECK(rc::check("boxes and hulls exactly", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const Pose pose = some_pose(random);
    // Of few corners and of many; as made and as pieces are, set about their own middle.
    const auto hull = [&] { return ball_hull(random, random.share() < 0.9 ? 16 : 80); };
    const auto piece = [&] { return shifted(hull(), {random.between(-1, 1), random.between(-1, 1), 0.3}); };
    const double which = random.share();
    const Shape shape = which < 0.4   ? Shape(Box{{random.between(0.1, 2), random.between(0.1, 2), 0.7}})
                        : which < 0.7 ? Shape(hull())
                                      : Shape(piece());
    const Vec3 normal = some_direction(random);
    const Plane plane{normal, normal.dot(pose.position) + random.between(-0.5, 0.5)};
    Facets facets = moved(facets_of(shape), pose);
    const auto result = Cutter().keep_inside(facets, plane, 0);
    const VolumeAndCentre cut = result == Cutter::Result::nothing ? VolumeAndCentre{} : volume_of(facets);
    const VolumeAndCentre got = submerged(shape, pose, plane);
    RC_ASSERT(std::abs(got.volume - cut.volume) < 1e-10);
    if (cut.volume > 1e-3) RC_ASSERT((got.centre - cut.centre).norm() < 1e-8);
  }));
  CHECK(rc::check("balls by the cap's closed form against thin slices", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const double r = random.between(0.1, 2), depth = random.between(0, 2 * r);
    double volume = 0, moment = 0;
    constexpr int slices = 4000;
    for (int i = 0; i < slices; ++i) {
      const double y = -r + depth * (i + 0.5) / slices;
      const double area = pi * (r * r - y * y) * depth / slices;
      volume += area;
      moment += y * area;
    }
    const VolumeAndCentre got = submerged(Sphere{r}, Pose{}, {Vec3::Unit(1), depth - r});
    RC_ASSERT(std::abs(got.volume - volume) < 1e-6 * r * r * r);
    if (volume > 1e-4) RC_ASSERT(std::abs(got.centre.y() - moment / volume) < 1e-4 * r);
  }));
  // Round ones within 1 % of counting; where the plane runs along the cells counting itself is off by half a cell.
  Random random(11);
  for (const Shape& shape : std::vector<Shape>{Capsule{0.3, 1.2}, Cylinder{0.4, 0.9}, Cone{0.5, 1.4}})
    for (int n = 0; n < 12; ++n) {
      const Pose pose = n < 2 ? Pose{} : some_pose(random);
      const Vec3 normal = n == 0 ? Vec3(Vec3::Unit(1)) : n == 1 ? Vec3(Vec3::Unit(0)) : some_direction(random);
      const Plane plane{normal, normal.dot(pose.position) + random.between(-0.3, 0.3)};
      const VolumeAndCentre got = submerged(shape, pose, plane), want = counted(shape, pose, plane, 60);
      INFO(shape_word(shape) << " " << n);
      CHECK(got.volume == Approx(want.volume).epsilon(0.01).margin((n < 2 ? 0.015 : 0.005) * shape_volume(shape)));
      if (want.volume > 0.1 * shape_volume(shape)) CHECK((got.centre - want.centre).norm() < 0.01);
    }
}

TEST_CASE("what was cut follows the plane as it moves on, exactly where sides stand along its normal", "[random]") {
  CHECK(rc::check("boxes, hulls and compounds of both", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const Shape box = Box{{random.between(0.1, 2), random.between(0.1, 2), 0.7}};
    const double which = random.share();
    const Shape shape = which < 0.4   ? box
                        : which < 0.7 ? Shape(ball_hull(random, 16))
                                      : Shape(make_compound({{box, some_pose(random)}, {box, some_pose(random)}}));
    const Vec3 normal = some_direction(random);
    const Plane plane{normal, random.between(-0.3, 0.3)};
    const Submersion before = submersion(shape, plane);
    const Plane next{(normal + random.between(0, 3e-3) * some_direction(random)).normalized(),
                     plane.offset + random.between(-3e-3, 3e-3)};
    const auto got = moved_on(before, next);
    if (!got) return;
    const VolumeAndCentre want = submersion(shape, next).part;
    const double size = before.reach, way = 6e-3 * (1 + size);
    // Sides lean: what is left goes with the square of the way and the length of the cut's outline.
    RC_ASSERT(std::abs(got->volume - want.volume) < 6 * way * way * size);
    const Vec3 moment = got->volume * got->centre - want.volume * want.centre;
    RC_ASSERT(moment.norm() < 6 * way * way * size * size);
  }));
  // An upright box: the closed form, for a plane that has risen and tipped.
  const Plane still{Vec3::Unit(1), 0.1}, moved{Vec3(0.002, 1, -0.001).normalized(), 0.1015};
  const auto got = moved_on(submersion(Box{{2, 1, 1}}, still), moved);
  const VolumeAndCentre want = submersion(Box{{2, 1, 1}}, moved).part;
  REQUIRE(got);
  CHECK(got->volume == Approx(2 * (0.5 + moved.offset / moved.normal.y())).epsilon(1e-13));
  CHECK((got->centre - want.centre).norm() < 1e-13);
  // Past a corner, too far, or round: to be cut anew.
  CHECK(!moved_on(submersion(Box{}, {Vec3::Unit(1), 0.499}), {Vec3::Unit(1), 0.501}));
  CHECK(!moved_on(submersion(Box{}, {Vec3::Unit(1), 0}), {Vec3::Unit(1), 0.1}));
  CHECK(!moved_on(submersion(Box{}, {Vec3::Unit(1), 0}), {-Vec3::Unit(1), 0}));
  CHECK(!moved_on(submersion(Sphere{}, {Vec3::Unit(1), 0}), {Vec3::Unit(1), 0}));
  CHECK(!moved_on(submersion(make_compound({{Box{}}, {Sphere{}}}), {Vec3::Unit(1), 0}), {Vec3::Unit(1), 0}));
  // Wholly in or out, it stays so as long as no corner is come upon.
  CHECK(moved_on(submersion(Box{}, {Vec3::Unit(1), 0.6}), {Vec3::Unit(1), 0.601})->volume == Approx(1));
  CHECK(moved_on(submersion(Box{}, {Vec3::Unit(1), -0.6}), {Vec3::Unit(1), -0.601})->volume == 0);
}

TEST_CASE("parts of a shape on the two sides of a plane add up, and compounds add up") {
  Random random(3);
  const Compound compound = make_compound({{Box{{1, 0.2, 0.4}}, {{0.3, 0, 0}}}, {Sphere{0.3}, {{-0.6, 0.1, 0}}}});
  for (const Shape& shape :
       std::vector<Shape>{Sphere{0.7}, Box{{1, 2, 3}}, Capsule{0.3, 1.2}, Cylinder{0.4, 0.9}, Cone{0.5, 1.4}, compound})
    for (int n = 0; n < 20; ++n) {
      const Pose pose = some_pose(random);
      const Vec3 normal = some_direction(random);
      const Plane plane{normal, normal.dot(pose.position) + random.between(-0.4, 0.4)};
      const Plane back{-plane.normal, -plane.offset};
      const VolumeAndCentre a = submerged(shape, pose, plane), b = submerged(shape, pose, back);
      const MassProperties all = mass_properties(shape, 1);
      CHECK(a.volume + b.volume == Approx(all.mass).epsilon(2e-3));
      const Vec3 moment = a.volume * a.centre + b.volume * b.centre;
      CHECK((moment / (a.volume + b.volume) - pose.to_scene(all.centre)).norm() < 3e-3);
    }
}

TEST_CASE("the outline of a cut has the area and moments that the waterline needs") {
  const auto loops = section_of(Box{{2, 1, 3}}, Pose{{5, 0.2, 1}}, {Vec3::Unit(1), 0});
  REQUIRE(loops.size() == 1);
  const Section section = section_properties(loops[0]);
  CHECK(section.area == Approx(6));
  CHECK((section.centre - Vec3(5, 0, 1)).norm() < 1e-12);
  CHECK(section.second(0, 0) == Approx(2 * 2 * 2 * 3 / 12.0));
  CHECK(section.second(2, 2) == Approx(3 * 3 * 3 * 2 / 12.0));
  CHECK(section_of(Box{}, Pose{{0, 5, 0}}, {Vec3::Unit(1), 0}).empty());
}

TEST_CASE("facets of round shapes close, look outwards, and hold the shape's volume about its middle") {
  const std::vector<Shape> shapes{Sphere{0.7},       Capsule{0.3, 1.2}, Capsule{0.3, 0}, Cylinder{0.5, 1.5},
                                  Cylinder{2, 0.01}, Cone{0.6, 1.4},    Box{{1, 2, 3}}};
  for (const Shape& shape : shapes) {
    INFO(shape_word(shape));
    if (shape_fault(shape)) continue;
    const Facets facets = facets_of(shape);
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    for (std::size_t f = 0; f < facets.face_count(); ++f) {
      const Plane& plane = facets.planes[f];
      CHECK(plane.normal.norm() == Approx(1));
      REQUIRE(facets.face_size(f) >= 3);
      for (std::size_t i = 0; i < facets.face_size(f); ++i) {
        const std::uint32_t from = facets.loops[facets.starts[f] + i],
                            to = facets.loops[facets.starts[f] + (i + 1) % facets.face_size(f)];
        ++edges[{from, to}];
        CHECK(plane.normal.dot(facets.corners[from]) == Approx(plane.offset).margin(1e-12));
      }
      // Every corner lies behind every face.
      double farthest = -1e300;
      for (const Vec3& corner : facets.corners) farthest = std::max(farthest, plane.normal.dot(corner));
      CHECK(farthest < plane.offset + 1e-9);
    }
    // Each edge is gone along once each way.
    for (const auto& [edge, times] : edges) {
      CHECK(times == 1);
      CHECK(edges.contains({edge.second, edge.first}));
    }
    const VolumeAndCentre all = volume_of(facets);
    CHECK(all.volume == Approx(shape_volume(shape)).epsilon(1e-9));
    CHECK((all.centre - mass_properties(shape, 1).centre).norm() < 0.02);
  }
}
