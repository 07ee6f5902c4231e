// Making a world from a scene and keeping the two in step.
#include "scene/running.h"

#include "geometry/error.h"

namespace bronvel {
namespace {
constexpr std::size_t nowhere = static_cast<std::size_t>(-1);
}

RunningScene::RunningScene(const Scene& from) : scene(from), world(from.world) {
  for (std::size_t i = 0; i < scene.bodies.size(); ++i) {
    const Body& body = scene.bodies[i];
    enter(world.create(settings_of(scene, body), motion_of(body)), i);
  }
  for (const SceneJoint& joint : scene.joints) {
    JointSettings settings = settings_of(scene, joint);
    if (!joint.a.empty()) settings.a = *find(joint.a);
    settings.b = *find(joint.b);
    joints_.push_back(world.join(settings));
  }
  for (const SceneZone& zone : scene.zones) zones_.push_back(world.add_zone(settings_of(scene, zone)));
  for (const ScenePath& path : scene.paths) paths_[path.name] = Curve(path.points, path.smooth, path.closed);
}

void RunningScene::enter(BodyHandle handle, std::size_t place) {
  handles_.push_back(handle);
  index_of_name_[scene.bodies[place].name] = place;
  index_of_handle_.resize(std::max<std::size_t>(index_of_handle_.size(), handle.index + 1), nowhere);
  index_of_handle_[handle.index] = place;
}

BodyHandle RunningScene::create(const Body& like, const std::string& name) {
  Body body = like;
  do body.name = name + "_" + std::to_string(++copies_[name]);
  while (index_of_name_.contains(body.name));
  const BodyHandle handle = world.create(settings_of(scene, body), motion_of(body));
  scene.bodies.push_back(body);
  enter(handle, scene.bodies.size() - 1);
  return handle;
}

void RunningScene::remove(BodyHandle body) {
  const Body* gone = body_of(body);
  world.remove(body);
  if (gone) index_of_name_.erase(gone->name);
}

JointHandle RunningScene::join(SceneJoint joint) {
  const auto stands = [&](const std::string& name) -> Pose {
    if (name.empty()) return {};
    const auto body = find(name);
    if (!body) throw Error("joint", "names the body \"" + name + "\", which is not in the scene");
    return world.motion(*body).pose;
  };
  JointSettings settings = settings_of(joint, stands(joint.a), stands(joint.b));
  if (!joint.a.empty()) settings.a = *find(joint.a);
  settings.b = *find(joint.b);
  const std::string stem = joint.name.empty() ? "joint" : joint.name;
  while (joint.name.empty() || find_joint(joint.name)) joint.name = stem + "_" + std::to_string(++copies_[stem]);
  const JointHandle handle = world.join(settings);
  scene.joints.push_back(std::move(joint));
  joints_.push_back(handle);
  return handle;
}

std::optional<ZoneHandle> RunningScene::find_zone(const std::string& name) const {
  for (std::size_t i = 0; i < zones_.size(); ++i)
    if (scene.zones[i].name == name && world.alive(zones_[i])) return zones_[i];
  return std::nullopt;
}

const std::string& RunningScene::name_of(ZoneHandle zone) const {
  static const std::string none;
  for (std::size_t i = 0; i < zones_.size(); ++i)
    if (zones_[i] == zone) return scene.zones[i].name;
  return none;
}

Value RunningScene::value(ZoneHandle zone, const ZoneProperty& property) const {
  for (std::size_t i = 0; i < zones_.size(); ++i)
    if (zones_[i] == zone) return property.get(scene.zones[i]);
  throw Error(property.name, "the zone is gone");
}

void RunningScene::set(ZoneHandle zone, const ZoneProperty& property, const Value& value) {
  for (std::size_t i = 0; i < zones_.size(); ++i) {
    if (zones_[i] != zone) continue;
    const std::string fault = value_fault(property, value);
    if (!fault.empty()) throw Error(scene.zones[i].name + "." + property.name, fault);
    SceneZone changed = scene.zones[i];
    property.set(changed, value);
    world.change(zone, settings_of(scene, changed));
    scene.zones[i] = changed;
    return;
  }
  throw Error(property.name, "the zone is gone");
}

const Curve* RunningScene::find_path(const std::string& name) const {
  const auto found = paths_.find(name);
  return found == paths_.end() ? nullptr : &found->second;
}

std::optional<JointHandle> RunningScene::find_joint(const std::string& name) const {
  for (std::size_t i = 0; i < joints_.size(); ++i)
    if (scene.joints[i].name == name && world.alive(joints_[i])) return joints_[i];
  return std::nullopt;
}

const std::string& RunningScene::name_of(JointHandle joint) const {
  static const std::string none;
  for (std::size_t i = 0; i < joints_.size(); ++i)
    if (joints_[i] == joint) return scene.joints[i].name;
  return none;
}

std::optional<BodyHandle> RunningScene::find(const std::string& name) const {
  const auto found = index_of_name_.find(name);
  if (found == index_of_name_.end() || !world.alive(handles_[found->second])) return std::nullopt;
  return handles_[found->second];
}

Body* RunningScene::body_of(BodyHandle body) {
  if (body.index >= index_of_handle_.size() || index_of_handle_[body.index] == nowhere) return nullptr;
  const std::size_t i = index_of_handle_[body.index];
  return handles_[i] == body ? &scene.bodies[i] : nullptr;
}

const std::string& RunningScene::name_of(BodyHandle body) const {
  static const std::string none;
  if (body.index >= index_of_handle_.size() || index_of_handle_[body.index] == nowhere) return none;
  const std::size_t i = index_of_handle_[body.index];
  return handles_[i] == body ? scene.bodies[i].name : none;
}

Value RunningScene::value(BodyHandle handle, const Property& property) {
  const Body* body = body_of(handle);
  if (!body) throw Error(property.name, "the body is gone");
  if (!world.alive(handle)) return property.get(*body);
  if (property.name == "position") return world.motion(handle).pose.position;
  if (property.name == "orientation") return world.motion(handle).pose.orientation;
  if (property.name == "velocity") return world.motion(handle).velocity;
  if (property.name == "angular_velocity") return world.motion(handle).angular_velocity;
  return property.get(*body);
}

void RunningScene::set(BodyHandle handle, const Property& property, const Value& value) {
  Body* body = body_of(handle);
  if (!body || !world.alive(handle)) throw Error(property.name, "the body is gone");
  const std::string fault = value_fault(property, value);
  if (!fault.empty()) throw Error(body->name + "." + property.name, fault);
  if (property.name == "surface" && !scene.surfaces.contains(std::get<std::string>(value)))
    throw Error(body->name + ".surface", "there is no surface called " + value_text(value));
  if (property.name == "position") {
    world.place(handle, {std::get<Vec3>(value), world.motion(handle).pose.orientation});
  } else if (property.name == "orientation") {
    world.place(handle, {world.motion(handle).pose.position, std::get<Quat>(value)});
  } else if (property.name == "velocity") {
    world.set_velocity(handle, std::get<Vec3>(value));
  } else if (property.name == "angular_velocity") {
    world.set_angular_velocity(handle, std::get<Vec3>(value));
  } else {
    Body changed = *body;
    property.set(changed, value);
    world.change(handle, settings_of(scene, changed));
    *body = changed;
  }
}

}  // namespace bronvel
