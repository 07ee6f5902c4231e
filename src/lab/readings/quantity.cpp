// The list of quantities.
#include "lab/readings/quantity.h"

namespace bronvel {
namespace {

void put(const Vec3& v, Components& out) {
  for (int i = 0; i < 3; ++i) out[static_cast<std::size_t>(i)] = v[i];
}

std::vector<std::string> axes() {
  return {"x", "y", "z"};
}
std::vector<std::string> plain() {
  return {""};
}

}  // namespace

BodyReading body_reading(const World& world, BodyHandle body) {
  const BodyMotion motion = world.motion(body);
  const BodySettings& settings = world.body_settings(body);
  const Vec3 gravity = settings.gravity_factor * world.settings().gravity;
  return {motion.pose,      motion.velocity, motion.angular_velocity, settings.kind,
          world.mass(body), gravity,         world.asleep(body),      world.submerged(body)};
}

double kinetic_energy(const BodyReading& body) {
  if (body.kind == MotionKind::fixed) return 0;
  const Vec3 spin = body.pose.orientation.conjugate() * body.angular_velocity;
  return 0.5 * body.mass.mass * body.velocity.squaredNorm() + 0.5 * spin.dot(body.mass.inertia * spin);
}

std::span<const Quantity<BodyReading>> body_quantities() {
  using B = BodyReading;
  using C = Components;
  static const std::vector<Quantity<BodyReading>> all{
      {"position", "m", axes(), "where its origin is", [](const B& b, C& out) { put(b.pose.position, out); }},
      {"orientation",
       "",
       {"x", "y", "z", "w"},
       "how it is turned, as a unit quaternion",
       [](const B& b, C& out) {
         const Quat& q = b.pose.orientation;
         out = {q.x(), q.y(), q.z(), q.w()};
       }},
      {"velocity", "m/s", axes(), "of its centre of mass", [](const B& b, C& out) { put(b.velocity, out); }},
      {"angular_velocity", "rad/s", axes(), "how fast it turns, about the scene's axes",
       [](const B& b, C& out) { put(b.angular_velocity, out); }},
      {"speed", "m/s", plain(), "of its centre of mass", [](const B& b, C& out) { out[0] = b.velocity.norm(); }},
      {"spin", "rad/s", plain(), "how fast it turns", [](const B& b, C& out) { out[0] = b.angular_velocity.norm(); }},
      {"height", "m", plain(), "of its origin", [](const B& b, C& out) { out[0] = b.pose.position.y(); }},
      {"kinetic_energy", "J", plain(), "of its moving and turning",
       [](const B& b, C& out) { out[0] = kinetic_energy(b); }},
      {"energy", "J", plain(),
       "of its moving and turning, and of its place in the gravity that it feels, from the origin",
       [](const B& b, C& out) {
         const Vec3 centre = b.pose.to_scene(b.mass.centre);
         out[0] = b.kind != MotionKind::fixed ? kinetic_energy(b) - b.mass.mass * b.gravity.dot(centre) : 0;
       }},
      {"momentum", "kg·m/s", axes(), "mass times velocity",
       [](const B& b, C& out) {
         put(b.kind != MotionKind::fixed ? Vec3(b.mass.mass * b.velocity) : Vec3(Vec3::Zero()), out);
       }},
      {"submerged", "", plain(), "share of its volume that is in water",
       [](const B& b, C& out) { out[0] = b.submerged; }},
      {"asleep", "", plain(), "1 while it sleeps", [](const B& b, C& out) { out[0] = b.asleep ? 1 : 0; }},
  };
  return all;
}

std::span<const Quantity<JointReading>> joint_quantities() {
  using J = JointReading;
  using C = Components;
  static const std::vector<Quantity<JointReading>> all{
      {"force", "N", axes(), "on its second body, at the anchor", [](const J& j, C& out) { put(j.force, out); }},
      {"torque", "N·m", axes(), "on its second body", [](const J& j, C& out) { put(j.torque, out); }},
      {"reaction", "N", plain(), "how hard it holds", [](const J& j, C& out) { out[0] = j.force.norm(); }},
      {"travel", "", plain(), "angle (rad), way or length (m)", [](const J& j, C& out) { out[0] = j.position; }},
      {"rate", "", plain(), "how fast that changes, 1/s", [](const J& j, C& out) { out[0] = j.speed; }},
  };
  return all;
}

}  // namespace bronvel
