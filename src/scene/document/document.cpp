// Looking things up in a scene, and turning bodies into what the world takes.
#include "scene/document/document.h"

#include <algorithm>
#include <tuple>

#include "geometry/base/error.h"
#include "geometry/base/linear.h"

namespace bronvel {
namespace {

auto parts(const Body& b) {
  return std::tie(b.name, b.kind, b.shape, b.position, b.velocity, b.angular_velocity, b.mass, b.surface, b.restitution,
                  b.friction, b.gravity_factor, b.linear_damping, b.angular_damping, b.linear_drag, b.drag_area,
                  b.solid, b.reports, b.may_sleep, b.silent, b.centre_of_mass, b.inertia, b.sweeping, b.locked_moves,
                  b.locked_turns, b.groups, b.meets, b.colour, b.tags, b.scripts, b.looks, b.locked, b.breaking,
                  b.stamped);
}

auto parts(const SceneJoint& j) {
  return std::tie(j.name, j.kind, j.a, j.b, j.anchor_a, j.anchor_b, j.axis, j.low, j.high, j.cone, j.stiffness,
                  j.damping, j.rest, j.motor_speed, j.motor_most, j.pay_out, j.support_a, j.support_b, j.ratio,
                  j.bodies_meet, j.breaks_at_force, j.breaks_at_torque, j.axes, j.stamped);
}

auto parts(const SceneZone& z) {
  return std::tie(z.name, z.shape, z.position, z.tags, z.gravity, z.gravity_factor, z.wind, z.gusts, z.gust_time,
                  z.linear_damping, z.angular_damping, z.water, z.density, z.level, z.current, z.water_drag,
                  z.wave_height, z.wave_length, z.wave_heading, z.wave_trains, z.pull, z.pull_to, z.pull_falloff);
}

// Bit 0 is the nameless group; the named ones follow in the scene's order.
std::uint32_t bits_of(const Scene& scene, const std::vector<std::string>& names) {
  std::uint32_t bits = 0;
  for (std::size_t i = 0; i < scene.groups.size(); ++i)
    if (std::find(names.begin(), names.end(), scene.groups[i]) != names.end()) bits |= 2U << i;
  return bits;
}

// A bit for each of the tags that zones sense by.
std::uint32_t labels_of(const Scene& scene, const std::vector<std::string>& tags) {
  if (scene.zones.empty() || tags.empty()) return 0;
  const std::vector<std::string> known = zone_tags(scene);
  std::uint32_t bits = 0;
  for (std::size_t i = 0; i < std::min<std::size_t>(known.size(), 32); ++i)
    if (std::find(tags.begin(), tags.end(), known[i]) != tags.end()) bits |= 1U << i;
  return bits;
}

}  // namespace

std::array<JointAxis, 6> SceneJoint::all_locked() {
  std::array<JointAxis, 6> axes;
  for (JointAxis& axis : axes) axis.freedom = Freedom::locked;
  return axes;
}

bool operator==(const SceneJoint& a, const SceneJoint& b) {
  return parts(a) == parts(b);
}

bool operator==(const SceneZone& a, const SceneZone& b) {
  return parts(a) == parts(b) && a.orientation.coeffs() == b.orientation.coeffs();
}

bool operator==(const Body& a, const Body& b) {
  return parts(a) == parts(b) && a.orientation.coeffs() == b.orientation.coeffs();
}

bool operator==(const Looks& a, const Looks& b) {
  return a.model == b.model && a.pose.position == b.pose.position &&
         a.pose.orientation.coeffs() == b.pose.orientation.coeffs() && a.scale == b.scale;
}

bool operator==(const View& a, const View& b) {
  return a.target == b.target && a.distance == b.distance && a.turn == b.turn && a.tilt == b.tilt &&
         a.straight == b.straight;
}

bool operator==(const Scene& a, const Scene& b) {
  const auto same_models = [](const auto& m, const auto& n) {
    return m.first == n.first && (m.second == n.second || *m.second == *n.second);
  };
  return std::equal(a.models.begin(), a.models.end(), b.models.begin(), b.models.end(), same_models) &&
         a.stamps == b.stamps && a.views == b.views && a.lanes == b.lanes && a.checks == b.checks &&
         a.tasks == b.tasks &&
         std::tie(a.name, a.about, a.seed, a.view, a.surfaces, a.groups, a.bodies, a.joints, a.zones, a.paths, a.cues,
                  a.actions, a.sweep_away) == std::tie(b.name, b.about, b.seed, b.view, b.surfaces, b.groups, b.bodies,
                                                       b.joints, b.zones, b.paths, b.cues, b.actions, b.sweep_away) &&
         a.world == b.world;
}

Body* Scene::find(const std::string& body_name) {
  for (Body& body : bodies)
    if (body.name == body_name) return &body;
  return nullptr;
}

const Body* Scene::find(const std::string& body_name) const {
  for (const Body& body : bodies)
    if (body.name == body_name) return &body;
  return nullptr;
}

Surface surface_of(const Scene& scene, const Body& body) {
  const auto found = scene.surfaces.find(body.surface);
  Surface surface;
  if (found != scene.surfaces.end()) surface = found->second;
  if (body.restitution) surface.restitution = *body.restitution;
  if (body.friction) surface.static_friction = surface.dynamic_friction = *body.friction;
  return surface;
}

BodySettings settings_of(const Scene& scene, const Body& body) {
  BodySettings s;
  s.kind = body.kind;
  s.shape = body.shape;
  s.mass = body.mass;
  s.surface = surface_of(scene, body);
  s.gravity_factor = body.gravity_factor;
  s.linear_damping = body.linear_damping;
  s.angular_damping = body.angular_damping;
  s.linear_drag = body.linear_drag;
  s.drag_area = body.drag_area;
  s.solid = body.solid;
  s.may_sleep = body.may_sleep;
  s.centre_of_mass = body.centre_of_mass;
  if (body.inertia) s.inertia = Mat3(body.inertia->asDiagonal());
  s.sweeping = body.sweeping;
  s.locks = {body.locked_moves, body.locked_turns};
  if (!body.groups.empty()) s.groups = bits_of(scene, body.groups);
  s.labels = labels_of(scene, body.tags);
  if (!body.meets.empty()) s.meets = bits_of(scene, body.meets);
  return s;
}

BodyMotion motion_of(const Body& body) {
  return {{body.position, body.orientation}, body.velocity, body.angular_velocity};
}

JointSettings settings_of(const Scene& scene, const SceneJoint& joint) {
  const auto pose_of = [&](const std::string& name) -> Pose {
    if (name.empty()) return {};
    const Body* body = scene.find(name);
    if (!body) throw Error("joint " + joint.name, "names the body \"" + name + "\", which is not in the scene");
    return {body->position, body->orientation};
  };
  return settings_of(joint, pose_of(joint.a), pose_of(joint.b));
}

JointSettings settings_of(const SceneJoint& joint, const Pose& a, const Pose& b) {
  JointSettings s;
  s.kind = joint.kind;
  s.frame_a = {joint.anchor_a, turn_between(Vec3::Unit(0), joint.axis)};
  // At the start the two frames are in line.
  s.frame_b = {joint.anchor_b, (b.orientation.conjugate() * a.orientation * s.frame_a.orientation).normalized()};
  if (joint.low || joint.high) {
    s.along.freedom = Freedom::limited;
    s.along.low = joint.low.value_or(joint.kind == JointKind::distance || joint.kind == JointKind::pulley ? 0 : -1e9);
    s.along.high = joint.high.value_or(1e9);
  }
  s.along.stiffness = joint.stiffness;
  s.along.damping = joint.damping;
  s.along.rest = joint.rest;
  s.along.motor_speed = joint.motor_speed;
  s.along.motor_most = joint.motor_most;
  s.cone = joint.cone.value_or(pi);
  s.axes = joint.axes;
  s.pay_out = joint.pay_out;
  s.support_a = joint.support_a;
  s.support_b = joint.support_b;
  s.ratio = joint.ratio;
  s.bodies_meet = joint.bodies_meet;
  s.breaks_at_force = joint.breaks_at_force;
  s.breaks_at_torque = joint.breaks_at_torque;
  return s;
}

std::vector<std::string> zone_tags(const Scene& scene) {
  std::vector<std::string> all;
  for (const SceneZone& zone : scene.zones)
    for (const std::string& tag : zone.tags)
      if (std::find(all.begin(), all.end(), tag) == all.end()) all.push_back(tag);
  return all;
}

ZoneSettings settings_of(const Scene& scene, const SceneZone& zone) {
  ZoneSettings s;
  s.labels = labels_of(scene, zone.tags);
  s.shape = zone.shape;
  s.pose = {zone.position, zone.orientation};
  s.gravity = zone.gravity;
  s.gravity_factor = zone.gravity_factor;
  s.wind = zone.wind;
  s.linear_damping = zone.linear_damping;
  s.angular_damping = zone.angular_damping;
  s.gusts = zone.gusts;
  s.gust_time = zone.gust_time;
  // Each zone has gusts and waves of its own, from the scene's seed (FNV-1a over the name).
  s.seed = scene.seed ^ 0xcbf29ce484222325ULL;
  for (const char letter : zone.name) s.seed = (s.seed ^ static_cast<unsigned char>(letter)) * 0x100000001b3ULL;
  if (zone.water) {
    s.water =
        Water{zone.density,     zone.level,       zone.current,      zone.water_drag,
              zone.wave_height, zone.wave_length, zone.wave_heading, static_cast<int>(std::lround(zone.wave_trains))};
  }
  if (zone.pull != 0) s.pull = Pull{zone.pull, zone.pull_to, zone.pull_falloff};
  return s;
}

const std::vector<std::string>& key_names() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> all{"space", "enter", "shift",      "ctrl",        "left",        "right",
                                 "up",    "down",  "mouse_left", "mouse_right", "mouse_middle"};
    for (char letter = 'a'; letter <= 'z'; ++letter) all.emplace_back(1, letter);
    for (char digit = '0'; digit <= '9'; ++digit) all.emplace_back(1, digit);
    return all;
  }();
  return names;
}

}  // namespace bronvel
