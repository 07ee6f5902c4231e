// How bodies float, against closed forms.
#include <catch2/catch.hpp>

#include "lab/readings/floating_reading.h"

using namespace bronvel;

namespace {

World lake() {
  World world({});
  ZoneSettings zone;
  zone.shape = Box{{100, 20, 100}};
  zone.pose.position = {0, -10, 0};
  zone.water = Water{};
  world.add_zone(zone);
  return world;
}

BodySettings solid(const Shape& shape, double density) {
  BodySettings body;
  body.shape = shape;
  body.mass = density * shape_volume(shape);
  return body;
}

}  // namespace

TEST_CASE("a floating box: draft, lift, and BM = b² / 12 d") {
  World world = lake();
  // At its draft of 0.3 m.
  const BodyHandle box = world.create(solid(Box{{4, 0.5, 2}}, 600), {{{0, -0.05, 0}}});
  world.step();
  const auto reading = floating_reading(world, box);
  REQUIRE(reading);
  CHECK(reading->share == Approx(0.6).epsilon(1e-3));
  CHECK(reading->draft == Approx(0.3).epsilon(1e-3));
  CHECK(reading->force == Approx(600 * 4 * 0.5 * 2 * 9.81).epsilon(1e-3));
  CHECK(reading->buoyancy.y() == Approx(-0.15).margin(1e-3));
  REQUIRE(reading->metacentre);
  CHECK(reading->metacentre->y() - reading->buoyancy.y() == Approx(2.0 * 2.0 / (12 * 0.3)).epsilon(1e-2));
  CHECK(rights_itself(*reading));
}

TEST_CASE("a ball's metacentre is its middle; a tall post's is under its centre of mass") {
  World world = lake();
  const BodyHandle ball = world.create(solid(Sphere{0.5}, 500), {{{0, 0, 0}}});
  const BodyHandle post = world.create(solid(Box{{0.4, 3, 0.4}}, 500), {{{9, 0, 0}}});
  const auto round = floating_reading(world, ball), tall = floating_reading(world, post);
  REQUIRE((round && round->metacentre && tall && tall->metacentre));
  CHECK(round->metacentre->y() == Approx(0).margin(0.02));  // the waterline's facets
  CHECK_FALSE(rights_itself(*tall));
}

TEST_CASE("what is dry, static or wholly under water") {
  World world = lake();
  const BodyHandle dry = world.create(solid(Sphere{0.5}, 500), {{{0, 5, 0}}});
  const BodyHandle sunk = world.create(solid(Sphere{0.5}, 3000), {{{9, -6, 0}}});
  BodySettings pier = solid(Box{{1, 4, 1}}, 2700);
  pier.kind = MotionKind::fixed;
  const BodyHandle still = world.create(pier, {{{-9, 0, 0}}});
  CHECK_FALSE(floating_reading(world, dry));
  CHECK_FALSE(floating_reading(world, still));
  const auto reading = floating_reading(world, sunk);
  REQUIRE(reading);
  CHECK(reading->share == Approx(1));
  CHECK_FALSE(reading->metacentre);
  CHECK(rights_itself(*reading));
}

TEST_CASE("two waters side by side lift as one") {
  World world({});
  for (const double side : {-25.0, 25.0}) {
    ZoneSettings zone;
    zone.shape = Box{{50, 20, 50}};
    zone.pose.position = {side, -10, 0};
    zone.water = Water{};
    world.add_zone(zone);
  }
  const BodyHandle box = world.create(solid(Box{{2, 1, 2}}, 500), {{{0, 0, 0}}});
  const auto reading = floating_reading(world, box);
  REQUIRE(reading);
  CHECK(reading->share == Approx(0.5).epsilon(1e-6));
  CHECK(reading->buoyancy.x() == Approx(0).margin(1e-9));
  CHECK(reading->buoyancy.y() == Approx(-0.25).margin(1e-9));
}
