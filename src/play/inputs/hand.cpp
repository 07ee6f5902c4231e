// The hand's spring.
#include "play/inputs/hand.h"

namespace bronvel {
namespace {

constexpr double grip_rate = 2 * pi * 4;  // of the spring, rad/s: quick, and well below every tick rate
constexpr double turn_rate = 12;          // how fast a locked hold takes turning away, 1/s

// How hard the body is to move at the point, kg: the inverse of the mean of its three mobilities there.
double mass_at(const World& world, BodyHandle body, const Vec3& arm) {
  const MassProperties mass = world.mass(body);
  const Mat3 rotation = world.motion(body).pose.orientation.toRotationMatrix();
  const Mat3 inverse = rotation * mass.inertia.inverse() * rotation.transpose();
  const Mat3 cross = cross_matrix(arm);
  const Mat3 mobility = Mat3::Identity() / world.body_settings(body).mass - cross * inverse * cross;
  return 3 / mobility.trace();
}

bool can_be_moved(const World& world, const Hand& hand) {
  return hand.held && world.alive(*hand.held) && world.body_settings(*hand.held).kind == MotionKind::dynamic;
}

}  // namespace

Hand hold(const World& world, BodyHandle body, const Vec3& point) {
  Hand hand;
  hand.held = body;
  hand.grip = point + world.frame_shift(body);
  hand.at = grip_point(world, hand);
  return hand;
}

Vec3 grip_point(const World& world, const Hand& hand) {
  return world.motion(*hand.held).pose.to_scene(hand.grip - world.frame_shift(*hand.held));
}

bool keep_hold(const World& world, Hand& hand, std::span<const BodyHandle> parts) {
  if (!hand.held || parts.empty() || parts.front() != *hand.held || !world.alive(*hand.held)) return false;
  const Vec3 point = grip_point(world, hand);
  constexpr double everywhere = 1e9;  // m
  BodyHandle best = parts.front();
  double least = everywhere;
  for (const BodyHandle part : parts) {
    if (!world.alive(part)) continue;
    const auto near = world.nearest_on(part, point, everywhere);
    if (!near || near->distance >= least) continue;
    least = near->distance;
    best = part;
  }
  if (best == *hand.held) return false;
  hand.held = best;
  hand.grip = world.motion(best).pose.to_local(point) + world.frame_shift(best);
  return true;
}

Vec3 grip_force(const World& world, const Hand& hand) {
  if (!can_be_moved(world, hand)) return Vec3::Zero();
  const BodyMotion m = world.motion(*hand.held);
  const Vec3 point = grip_point(world, hand);
  const Vec3 arm = point - world.centre_of_mass(*hand.held);
  const double h = 1.0 / world.settings().tick_rate;
  const BodySettings& settings = world.body_settings(*hand.held);
  const double mass = hand.holding == Holding::locked ? settings.mass : mass_at(world, *hand.held, arm);
  const Vec3 velocity = hand.holding == Holding::locked ? m.velocity : Vec3(m.velocity + m.angular_velocity.cross(arm));
  // Spring and damper at the tick's end: f = m (ω² (x − h v) − 2 ω v) / (1 + 2 ω h + ω² h²), and the weight carried.
  const double w = grip_rate;
  const Vec3 spring =
      mass * (w * w * (hand.at - point - h * velocity) - 2 * w * velocity) / (1 + 2 * w * h + w * w * h * h);
  const Vec3 weight = settings.mass * settings.gravity_factor * world.settings().gravity;
  return limited(spring - weight, hand.most);
}

void pull(World& world, const Hand& hand) {
  if (!can_be_moved(world, hand)) return;
  const Vec3 force = grip_force(world, hand);
  if (hand.holding == Holding::free) {
    world.force_at(*hand.held, force, grip_point(world, hand));
    return;
  }
  world.force(*hand.held, force);
  const BodyMotion m = world.motion(*hand.held);
  const double h = 1.0 / world.settings().tick_rate;
  world.set_angular_velocity(*hand.held, m.angular_velocity / (1 + turn_rate * h));
}

}  // namespace bronvel
