// Stacks that must stand.
#include <cmath>

#include "lab/prove.h"
#include "lab/prove_worlds.h"

namespace bronvel {
namespace {

using namespace prove;

BodySettings block(const Vec3& size, double mass, const Surface& surface) {
  BodySettings s;
  s.shape = Box{size};
  s.mass = mass;
  s.surface = surface;
  s.may_sleep = false;  // Sleep would hide creep.
  return s;
}

}  // namespace

void prove_stacks(Findings& findings) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    const Surface oak{.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = 0};
    {
      World world({.tick_rate = rate});
      add_floor(world, oak);
      constexpr int count = 20;
      std::vector<BodyHandle> stack;
      stack.reserve(count);
      for (int i = 0; i < count; ++i) stack.push_back(world.create(block({1, 1, 1}, 1, oak), {{{0, 0.5 + i, 0}}}));
      run(world, 4);
      std::vector<Vec3> settled;
      settled.reserve(stack.size());
      for (const BodyHandle box : stack) settled.push_back(world.motion(box).pose.position);
      run(world, 56);
      double creep = 0, sunk = 0;
      for (std::size_t i = 0; i < stack.size(); ++i) {
        const Vec3 now = world.motion(stack[i]).pose.position;
        creep = std::max(creep, (now - settled[i]).norm());
        sunk = std::max(sunk, 0.5 + static_cast<double>(i) - now.y());
      }
      findings.absolute("20 boxes: creep from 4 s to 60 s" + hz, 0, creep, 1e-3, "m");
      findings.absolute("20 boxes: sinking of the top" + hz, 0, sunk, 5e-3, "m");
    }
    {
      World world({.tick_rate = rate});
      add_floor(world, oak);
      for (const double x : {-0.7, 0.7})
        for (const double z : {-0.7, 0.7}) world.create(block({0.5, 0.5, 0.5}, 1, oak), {{{x, 0.25, z}}});
      const BodyHandle heavy = world.create(block({2, 1, 2}, 1000, oak), {{{0, 1.0, 0}}});
      run(world, 5);
      double lowest = 10, fastest = 0;
      for (int i = 0; i < 2 * rate; ++i) {
        world.step();
        lowest = std::min(lowest, world.motion(heavy).pose.position.y());
        fastest = std::max(fastest, world.motion(heavy).velocity.norm());
      }
      findings.absolute("1,000:1 box on four light ones: sinks" + hz, 0, 1.0 - lowest, 2e-3, "m");
      findings.absolute("1,000:1 box on four light ones: jitters" + hz, 0, fastest, 1e-3, "m/s");
    }
    {
      const auto fall = [&] {
        World world({.tick_rate = rate});
        add_floor(world, oak);
        for (int row = 0; row < 6; ++row)
          for (int i = 0; i < 8; ++i)
            world.create(block({0.5, 0.3, 0.25}, 3, oak), {{{0.52 * i + 0.26 * (row % 2), 0.15 + 0.3 * row, 0}}});
        BodySettings shot = block({1, 1, 1}, 20, oak);
        shot.shape = Sphere{0.3};
        world.create(shot, {{{2, 1, -4}}, {0, 2, 12}, Vec3::Zero()});
        run(world, 3);
        return world.digest();
      };
      const auto first = fall();
      findings.absolute("a wall hit by a ball falls the same way twice" + hz, 0, fall() == first ? 0 : 1, 0, "");
    }
  }
}

}  // namespace bronvel
