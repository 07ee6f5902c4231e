// Floors and clocks for experiments.
#include "prove/worlds.h"

#include <cmath>

#include "geometry/base/linear.h"

namespace bronvel::prove {

std::string at_rate(double rate) {
  return std::to_string(static_cast<int>(rate)) + " Hz";
}

BodyHandle add_floor(World& world, const Surface& surface, double side) {
  BodySettings slab;
  slab.kind = MotionKind::fixed;
  slab.shape = Box{{side, 1, side}};
  slab.surface = surface;
  return world.create(slab, {{{0, -0.5, 0}}});
}

void run(World& world, double seconds) {
  const auto ticks = std::lround(seconds * world.settings().tick_rate);
  for (long i = 0; i < ticks; ++i) world.step();
}

JointSettings to_scene(const World& world, JointKind kind, BodyHandle body, const Vec3& anchor, const Vec3& axis) {
  JointSettings s;
  s.kind = kind;
  s.b = body;
  const Pose pose = world.motion(body).pose;
  const Quat turn = turn_between(Vec3::Unit(0), axis);
  s.frame_a = {anchor, turn};
  s.frame_b = {pose.to_local(anchor), pose.orientation.conjugate() * turn};
  return s;
}

JointSettings between(const World& world, JointKind kind, BodyHandle a, BodyHandle b, const Vec3& anchor,
                      const Vec3& axis) {
  JointSettings s = to_scene(world, kind, b, anchor, axis);
  s.a = a;
  const Pose pose = world.motion(a).pose;
  s.frame_a = {pose.to_local(anchor), pose.orientation.conjugate() * s.frame_a.orientation};
  return s;
}

double elliptic_k(double m) {
  double a = 1, b = std::sqrt(1 - m);
  for (int i = 0; i < 40; ++i) {
    const double mean = 0.5 * (a + b);
    b = std::sqrt(a * b);
    a = mean;
  }
  return pi / (2 * a);
}

}  // namespace bronvel::prove
