// Floating, waves, wind and pulls.
#include <catch2/catch.hpp>

#include "dynamics/fields/waves.h"
#include "dynamics/runs.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"

using namespace bronvel;

namespace {

ZoneSettings lake(double drag = 1) {
  ZoneSettings zone;
  zone.shape = Box{{60, 10, 60}};
  zone.pose.position = {0, -5, 0};
  zone.water = Water{};
  zone.water->drag = drag;
  return zone;
}

BodySettings block(const Vec3& size, double density) {
  BodySettings body;
  body.shape = Box{size};
  body.mass = density * size.prod();
  return body;
}

}  // namespace

TEST_CASE("a float without drag bobs for ever and never higher") {
  World world({});
  ZoneSettings zone = lake(0);
  world.add_zone(zone);
  const BodyHandle box = world.create(block({1, 0.4, 1}, 500), {{{0, 0.1, 0}}});
  double first = 0, last = 0;
  for (int i = 0; i < 60 * 60; ++i) {
    world.step();
    const double height = world.motion(box).pose.position.y();
    if (i < 300) first = std::max(first, height);
    if (i > 3300) last = std::max(last, height);
  }
  CHECK(first == Approx(0.1).margin(0.002));
  CHECK(last == Approx(first).margin(0.002));
}

TEST_CASE("a body comes in with a splash, tells its speed, and rests in still water until the tide moves it") {
  World world({});
  ZoneSettings zone = lake();
  zone.linear_damping = 2;
  zone.angular_damping = 2;
  const ZoneHandle water = world.add_zone(zone);
  const BodyHandle ball = world.create(
      [] {
        BodySettings s;
        s.shape = Sphere{0.3};
        s.mass = 50;
        return s;
      }(),
      {{{0, 2.3, 0}}});
  int into = 0;
  double speed = 0;
  for (int i = 0; i < 120 && into == 0; ++i) {
    world.step();
    for (const SplashEvent& splash : world.splashes()) {
      CHECK(splash.body == ball);
      CHECK(splash.zone == water);
      CHECK(splash.into);
      CHECK(splash.volume > 0);
      CHECK(splash.point.y() == Approx(0).margin(1e-9));
      speed = splash.speed;
      ++into;
    }
  }
  REQUIRE(into == 1);
  CHECK(speed == Approx(std::sqrt(2 * 9.81 * 2.0)).epsilon(0.03));
  run(world, 25);
  CHECK(world.asleep(ball));
  const double share = 50 / (1000 * 4.0 / 3.0 * pi * 0.027);
  CHECK(world.submerged(ball) == Approx(share).epsilon(0.01));
  const double before = world.motion(ball).pose.position.y();
  zone.water->level = 0.5;
  world.change(water, zone);
  run(world, 25);
  CHECK(world.motion(ball).pose.position.y() - before == Approx(0.5).margin(0.005));
}

TEST_CASE("a body half in one water and half in the next is lifted as by one") {
  // One basin in one piece, or in two that meet under the middle of the plank.
  const auto rest = [](bool two) {
    World world({});
    ZoneSettings zone = lake();
    zone.linear_damping = zone.angular_damping = 1.5;
    if (two) {
      zone.shape = Box{{30, 10, 60}};
      for (const double x : {-15.0, 15.0}) {
        zone.pose.position.x() = x;
        world.add_zone(zone);
      }
    } else {
      world.add_zone(zone);
    }
    const BodyHandle plank = world.create(block({4, 0.3, 1}, 600), {{{0.3, 0.1, 0}}});
    run(world, 20);
    return world.motion(plank).pose.position.y();
  };
  CHECK(rest(true) == Approx(rest(false)).margin(2e-4));

  // Pushed slowly out over the edge of a basin its lift goes without a jump.
  World world({});
  world.add_zone([] {
    ZoneSettings zone = lake();
    zone.shape = Box{{4, 10, 60}};
    return zone;
  }());
  const BodyHandle slab = world.create(block({1, 0.4, 1}, 500), {{{0, 0, 0}}});
  double last = 0.5;
  for (int i = 0; i <= 300; ++i) {
    world.place(slab, {{0.01 * i, 0, 0}});
    const auto found = world.floating(slab);
    const double share = found.empty() ? 0 : found[0].share;
    CHECK(std::abs(share - last) < 0.006);
    last = share;
  }
  CHECK(last == 0);
}

TEST_CASE("water is the same bits on any number of threads, and after going back") {
  const auto play = [](int threads, bool back) {
    World world({});
    world.set_threads(threads);
    ZoneSettings zone = lake();
    zone.water->wave_height = 0.6;
    zone.water->waves = 4;
    zone.water->current = {0.4, 0, 0.1};
    zone.seed = 5;
    world.add_zone(zone);
    for (int i = 0; i < 150; ++i)
      world.create(block({0.5, 0.3, 0.4}, 300 + 4 * i), {{{1.1 * (i % 12) - 6, 0.3 + 0.01 * i, 1.2 * (i / 12.0) - 6}}});
    run(world, 1);
    if (back) {
      const WorldSnapshot then = world.snapshot();
      run(world, 0.5);
      world.restore(then);
    }
    run(world, 1);
    return world.digest();
  };
  const auto once = play(1, false);
  CHECK(play(2, false) == once);
  CHECK(play(1, true) == once);
}

TEST_CASE("wind with gusts swings about its mean and is the same for the same seed") {
  double sum = 0, most = 0, least = 1e9;
  for (int i = 0; i < 60000; ++i) {
    const double now = gust_factor(0.6, 4, 9, i * 0.01);
    sum += now;
    most = std::max(most, now);
    least = std::min(least, now);
  }
  CHECK(sum / 60000 == Approx(1).margin(0.02));
  CHECK(most <= 1.6);
  CHECK(most > 1.35);
  CHECK(least >= 0.4);
  CHECK(gust_factor(0.6, 4, 9, 12.5) == gust_factor(0.6, 4, 9, 12.5));
  CHECK(gust_factor(0.6, 4, 9, 12.5) != gust_factor(0.6, 4, 10, 12.5));
}

TEST_CASE("a pull draws to its point, keeps a spring's period, and drives off below zero") {
  WorldSettings settings;
  settings.gravity.setZero();
  World world(settings);
  ZoneSettings zone;
  zone.shape = Sphere{10};
  zone.pull = Pull{.strength = 40, .target = Pull::Target::point, .falloff = Pull::Falloff::spring};
  world.add_zone(zone);
  const BodyHandle ball = world.create(BodySettings{}, {{{3, 0, 0}}});
  // a = 40 d / 10: period 2π / 2.
  double crossed = 0;
  int crossings = 0;
  double before = 3;
  for (int i = 0; i < 60 * 32; ++i) {
    world.step();
    const double x = world.motion(ball).pose.position.x();
    if (before > 0 && x <= 0) {
      crossed = world.time() - (1.0 / 60) * (0 - x) / (before - x);
      ++crossings;
    }
    before = x;
  }
  REQUIRE(crossings == 10);
  CHECK(crossed == Approx(pi / 4 + 9 * pi).epsilon(0.002));

  World other(settings);
  zone.pull = Pull{.strength = -2, .target = Pull::Target::plane, .falloff = Pull::Falloff::even};
  other.add_zone(zone);
  const BodyHandle up = other.create(BodySettings{}, {{{1, 1, 0}}});
  run(other, 1);
  CHECK(other.motion(up).pose.position.y() == Approx(2).epsilon(0.01));
  CHECK(other.motion(up).pose.position.x() == Approx(1));
}

TEST_CASE("water that makes no sense is refused with a reason") {
  World world({});
  const auto refused = [&](const std::function<void(ZoneSettings&)>& spoil, const std::string& word) {
    ZoneSettings zone = lake();
    spoil(zone);
    try {
      world.add_zone(zone);
      return false;
    } catch (const Error& error) {
      return std::string(error.what()).find(word) != std::string::npos;
    }
  };
  CHECK(refused([](ZoneSettings& z) { z.water->density = 0; }, "density"));
  CHECK(refused([](ZoneSettings& z) { z.water->density = NAN; }, "density"));
  CHECK(refused([](ZoneSettings& z) { z.water->level = NAN; }, "level"));
  CHECK(refused([](ZoneSettings& z) { z.water->wave_height = 5; }, "seventh"));
  CHECK(refused([](ZoneSettings& z) { z.water->waves = 99; }, "16"));
  CHECK(refused([](ZoneSettings& z) { z.gusts = 2; }, "gusts"));
  CHECK(refused([](ZoneSettings& z) { z.pull = Pull{.strength = NAN}; }, "pull"));
  const ZoneHandle dry = world.add_zone(ZoneSettings{});
  CHECK_THROWS_AS(world.water(dry), Error);
}
