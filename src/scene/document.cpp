// Looking things up in a scene, and turning bodies into what the world takes.
#include "scene/document.h"

#include <tuple>

namespace bronvel {
namespace {

auto parts(const Body& b) {
  return std::tie(b.name, b.kind, b.shape, b.position, b.velocity, b.angular_velocity, b.mass, b.surface, b.restitution,
                  b.friction, b.gravity_factor, b.linear_damping, b.angular_damping, b.linear_drag, b.drag_area,
                  b.solid, b.may_sleep, b.colour, b.tags, b.scripts);
}

}  // namespace

bool operator==(const Body& a, const Body& b) {
  return parts(a) == parts(b) && a.orientation.coeffs() == b.orientation.coeffs();
}

bool operator==(const View& a, const View& b) {
  return a.target == b.target && a.distance == b.distance && a.turn == b.turn && a.tilt == b.tilt;
}

bool operator==(const Scene& a, const Scene& b) {
  const auto world = [](const WorldSettings& w) {
    return std::tie(w.gravity, w.tick_rate, w.substeps, w.restitution_speed, w.air_density);
  };
  return std::tie(a.name, a.about, a.seed, a.view, a.surfaces, a.bodies) ==
             std::tie(b.name, b.about, b.seed, b.view, b.surfaces, b.bodies) &&
         world(a.world) == world(b.world);
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
  Surface surface = found == scene.surfaces.end() ? Surface{} : found->second;
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
  return s;
}

BodyMotion motion_of(const Body& body) {
  return {{body.position, body.orientation}, body.velocity, body.angular_velocity};
}

}  // namespace bronvel
