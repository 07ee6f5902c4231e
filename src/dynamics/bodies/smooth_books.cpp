// Weight, forces from outside and fields as they are; drag and damping share what is left by how strong each is.
#include "dynamics/bodies/smooth_books.h"

#include "dynamics/books/books.h"
#include "geometry/base/linear.h"

namespace bronvel {
namespace {

// The zone that gives the body another gravity than the scene's, the last if there are several.
CauseBy whose_gravity(const WorldState& state, std::uint32_t body) {
  CauseBy by;
  if (state.media.size() <= body || state.media[body].gravity == state.settings.gravity) return by;
  for (const ZoneRecord& zone : state.zones) {
    if (!zone.alive || (!zone.settings.gravity && zone.settings.gravity_factor == 1)) continue;
    const BodyHandle handle{body, state.records[body].generation};
    if (std::binary_search(zone.acting.begin(), zone.acting.end(), handle)) by = by_zone(state, zone);
  }
  return by;
}

// Of what the air and damping took (N·s), damping's part.
Vec3 damping_of(const WorldState& state, std::uint32_t body, const Vec3& taken, double h) {
  const BodyRecord& record = state.records[body];
  const BodySettings& settings = record.settings;
  const Medium* medium = state.media.size() > body ? &state.media[body] : nullptr;
  const double damping = settings.linear_damping + (medium ? medium->linear_damping : 0);
  const Vec3& now = state.bodies[body].velocity;
  if (medium && !medium->wind.isZero()) return -record.mass.mass * h * damping * now;
  const double speed = 0.5 * (now + state.scratch.velocity_before[body]).norm();
  const double drag = settings.linear_drag / settings.mass + 0.5 * state.settings.air_density * settings.drag_area *
                                                                 (medium ? medium->dry : 1) / settings.mass * speed;
  if (!(damping + drag > 0)) return taken;
  return damping / (damping + drag) * taken;
}

}  // namespace

void book_smooth_forces(WorldState& state, std::uint32_t body, double h) {
  if (!booked(state, body)) return;
  const BodyRecord& record = state.records[body];
  const BodyState& motion = state.bodies[body];
  const Vec3 none = Vec3::Zero();
  Vec3 given = Vec3::Zero(), turned = Vec3::Zero();
  const auto give = [&](Cause cause, const CauseBy& by, const Vec3& force, const Vec3& torque, const Vec3* at) {
    given += h * force;
    turned += h * torque;
    book(state, body, cause, by, h * force, h * torque, at);
  };
  const Vec3 weight = record.weight * state.gravity_on(body);
  if (!weight.isZero()) give(Cause::weight, whose_gravity(state, body), weight, none, nullptr);
  const BookSlot& slot = slot_of_booked(state, body);
  Vec3 force = Vec3::Zero(), torque = Vec3::Zero();
  for (const ActedForce& acted : slot.acted) {
    force += acted.force;
    torque += acted.torque;
    give(Cause::force, {acted.act, 0}, acted.force, acted.torque, acted.has_place ? &acted.at : nullptr);
  }
  // What was given before the books were begun.
  const Vec3 more = record.force - force, more_torque = record.torque - torque;
  const double rounding = 1e-12;
  if (more.norm() > rounding * record.force.norm() || more_torque.norm() > rounding * record.torque.norm())
    give(Cause::force, {}, more, more_torque, nullptr);
  for (const FieldPush& push : slot.pushes) give(push.cause, push.by, push.force, push.torque, &push.at);
  if (!record.resisted && state.media.empty()) return;
  // Along locked axes nothing was given: that is not what resists.
  const auto allowed = [](Vec3 v, const std::array<bool, 3>& locked) {
    for (int i = 0; i < 3; ++i)
      if (locked[static_cast<std::size_t>(i)]) v[i] = 0;
    return v;
  };
  const Vec3 gained = record.mass.mass * (motion.velocity - state.scratch.velocity_before[body]);
  const Vec3 taken = allowed(gained - given, record.locks.move);
  const Vec3 damped = damping_of(state, body, taken, h);
  if (!damped.isZero()) book(state, body, Cause::damping, {}, damped, none);
  if (const Vec3 dragged = taken - damped; !dragged.isZero()) book(state, body, Cause::air_drag, {}, dragged, none);
  const Mat3 rotation = motion.orientation.toRotationMatrix();
  const Vec3 spun = motion.angular_velocity - state.scratch.spin_before[body];
  const Vec3 unturned =
      allowed(rotation * (record.mass.inertia * (rotation.transpose() * spun)) - turned, record.locks.turn);
  if (!unturned.isZero()) book(state, body, Cause::damping, {}, none, unturned);
}

}  // namespace bronvel
