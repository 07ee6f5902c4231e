// Worlds that several benchmarks step.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>

#include "dynamics/world/blast.h"
#include "dynamics/world/world.h"
#include "geometry/cutting/cut.h"
#include "geometry/shapes/hull.h"

namespace bronvel {

// A quarter of the bodies are hulls of 12 points.
inline Hull pebble(int variety) {
  std::vector<Vec3> points;
  points.reserve(12);
  for (int i = 0; i < 12; ++i) {
    const double height = 1 - 2 * (i + 0.5) / 12, angle = 2.39996 * i + 0.3 * variety;
    const double across = std::sqrt(1 - height * height);
    points.emplace_back(0.32 * across * std::cos(angle), 0.27 * height, 0.32 * across * std::sin(angle));
  }
  return make_hull(points);
}

// Half boxes, a quarter spheres, a quarter hulls, poured into a pit.
inline World pile(int count, bool may_sleep, int threads) {
  World world({.tick_rate = 60});
  world.set_threads(threads);
  const double side = std::max(3.0, std::cbrt(count) * 0.9);
  world.create({.kind = MotionKind::fixed, .shape = Box{{side + 2, 1, side + 2}}}, {{{0, -0.5, 0}}});
  for (const double sign : {-1.0, 1.0}) {
    world.create({.kind = MotionKind::fixed, .shape = Box{{1, 60, side + 2}}}, {{{sign * (side + 1) / 2, 30, 0}}});
    world.create({.kind = MotionKind::fixed, .shape = Box{{side + 2, 60, 1}}}, {{{0, 30, sign * (side + 1) / 2}}});
  }
  const std::array<Hull, 4> pebbles{pebble(0), pebble(1), pebble(2), pebble(3)};
  const int row = std::max(1, static_cast<int>((side - 1.2) / 0.75));
  for (int i = 0; i < count; ++i) {
    const double x = (i % row - 0.5 * (row - 1)) * 0.75 + 0.05 * (i % 7) / 7;
    const double z = (i / row % row - 0.5 * (row - 1)) * 0.75 + 0.05 * (i % 5) / 5;
    BodySettings body;
    body.may_sleep = may_sleep;
    if (i % 2 == 0)
      body.shape = Box{{0.6, 0.5, 0.55}};
    else if (i % 4 == 1)
      body.shape = Sphere{0.3};
    else
      body.shape = pebbles[static_cast<std::size_t>(i / 4 % 4)];
    world.create(body, {{{x, 0.5 + 0.75 * (i / (row * row)), z}}});
  }
  return world;
}

// Boxes, balls and hulls that float, too far apart to meet; or the same without water and gravity, to be held against.
inline World floating(bool water) {
  World world({.gravity = water ? Vec3(0, -9.81, 0) : Vec3(Vec3::Zero()), .tick_rate = 60});
  world.set_threads(2);
  if (water) {
    ZoneSettings lake;
    lake.shape = Box{{400, 20, 400}};
    lake.pose.position = {0, -10, 0};
    lake.water = Water{};
    lake.water->wave_height = 0.4;
    lake.water->waves = 3;
    world.add_zone(lake);
  }
  const Shape hull = *hull_of(facets_of(Cone{0.5, 1}));
  for (int i = 0; i < 2000; ++i) {
    BodySettings body;
    body.shape = i % 3 == 0 ? Shape(Box{{1, 0.5, 1}}) : i % 3 == 1 ? Shape(Sphere{0.5}) : hull;
    body.mass = 500 * shape_volume(body.shape);
    body.may_sleep = false;
    world.create(body, {{{3.0 * (i % 45) - 66, 0, 3.0 * (i / 45) - 66}}, Vec3::Zero(), Vec3(0.1, 0.2, 0.1)});
  }
  for (int i = 0; i < 30; ++i) world.step();
  return world;
}

inline BreakSettings bricks_of(const Vec3& size, double length, double height, double strength) {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::bricks;
  recipe.length = length;
  recipe.height = height;
  BreakSettings settings;
  std::vector<Hull> pieces = make_pieces(Box{size}, recipe);
  settings.set = make_piece_set(std::move(pieces), {}, {}, 0);
  settings.strength = {strength, strength};
  return settings;
}

inline World with_floor() {
  World world({.tick_rate = 60});
  world.set_threads(2);
  world.create({.kind = MotionKind::fixed, .shape = Box{{100, 1, 100}}}, {{{0, -0.5, 0}}});
  return world;
}

// A wall of 1,000 bricks about to be blown apart.
inline World falling_wall() {
  World world = with_floor();
  const Vec3 size(10, 6.25, 0.5);
  BodySettings body;
  body.shape = Box{size};
  body.mass = 2000 * size.prod();
  const BodyHandle wall = world.create(body, {{{0, 0.5 * size.y(), 0}}});
  world.make_breakable(wall, bricks_of(size, 0.25, 0.25, 2e4));
  set_off(world, {.at = {0, 2.5, -2}, .radius = 12, .impulse = 400000});
  return world;
}

}  // namespace bronvel
