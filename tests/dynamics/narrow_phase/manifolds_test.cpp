// Contact points keep their names while they last.
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "dynamics/world/world.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"

using namespace bronvel;

namespace {

BodyHandle add_floor(World& world, double friction) {
  BodySettings floor;
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{40, 1, 40}};
  floor.surface.static_friction = floor.surface.dynamic_friction = friction;
  return world.create(floor, {{{0, -0.5, 0}}});
}

std::set<PointName> names_now(const World& world) {
  std::set<PointName> names;
  for (const ContactEvent& contact : world.contacts()) names.insert(contact.names.begin(), contact.names.end());
  return names;
}

}  // namespace

TEST_CASE("the corners of a sliding box keep their names; another face brings new ones") {
  World world({});
  add_floor(world, 0.05);
  BodySettings crate;
  crate.shape = Box{{1, 0.6, 0.8}};
  crate.may_sleep = false;
  crate.surface.static_friction = crate.surface.dynamic_friction = 0.05;
  const BodyHandle body = world.create(crate, {.pose = {{0, 0.3, 0}}, .velocity = {1.5, 0, 0.3}});
  for (int i = 0; i < 3; ++i) world.step();
  const std::set<PointName> first = names_now(world);
  CHECK(first.size() == 4);
  for (int i = 0; i < 90; ++i) {
    world.step();
    INFO(i);
    CHECK(names_now(world) == first);
  }
  CHECK(world.motion(body).pose.position.x() > 1);
  // Set down on its side.
  world.place(body, {{3, 0.5, 0}, Quat(std::sqrt(0.5), 0, 0, std::sqrt(0.5))});
  world.set_velocity(body, Vec3::Zero());
  for (int i = 0; i < 3; ++i) world.step();
  const std::set<PointName> second = names_now(world);
  CHECK(second.size() == 4);
  for (const PointName& name : second) CHECK(first.count(name) == 0);
}

TEST_CASE("no two points of a pair of bodies share a name, and points have as many names as places") {
  World world({});
  add_floor(world, 0.5);
  const Hull pebble =
      make_hull({{0.3, 0, 0}, {-0.3, 0, 0.1}, {0, 0.3, 0}, {0, -0.25, 0}, {0, 0, 0.3}, {0.1, 0.1, -0.3}});
  const Compound table =
      make_compound({{Box{{1, 0.1, 1}}, {{0, 0.5, 0}}, 1}, {Box{{0.2, 0.5, 0.2}}, {{0, 0.2, 0}}, 1}});
  for (int i = 0; i < 40; ++i) {
    BodySettings body;
    body.may_sleep = false;
    if (i % 3 == 0)
      body.shape = Box{{0.6, 0.5, 0.55}};
    else if (i % 3 == 1)
      body.shape = pebble;
    else
      body.shape = table;
    world.create(body, {{{0.9 * (i % 4), 0.5 + 0.9 * (i / 16), 0.9 * (i / 4 % 4)}}});
  }
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::set<PointName>> before;
  int kept = 0, parts = 0;
  for (int tick = 0; tick < 150; ++tick) {
    world.step();
    std::map<std::pair<std::uint32_t, std::uint32_t>, std::set<PointName>> now;
    for (const ContactEvent& contact : world.contacts()) {
      REQUIRE(contact.names.size() == contact.points.size());
      std::set<PointName>& names = now[{contact.a.index, contact.b.index}];
      names.insert(contact.names.begin(), contact.names.end());
      CHECK(names.size() == contact.names.size());
      for (const PointName& name : names) {
        kept += static_cast<int>(before[{contact.a.index, contact.b.index}].count(name));
        parts += name.part_a > 0 || name.part_b > 0 ? 1 : 0;
      }
    }
    before = now;
  }
  CHECK(kept > 5000);
  CHECK(parts > 500);
}
