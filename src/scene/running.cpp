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
    const BodyHandle handle = world.create(settings_of(scene, body), motion_of(body));
    handles_.push_back(handle);
    index_of_name_[body.name] = i;
    index_of_handle_.resize(std::max<std::size_t>(index_of_handle_.size(), handle.index + 1), nowhere);
    index_of_handle_[handle.index] = i;
  }
  for (const SceneJoint& joint : scene.joints) {
    JointSettings settings = settings_of(scene, joint);
    if (!joint.a.empty()) settings.a = *find(joint.a);
    settings.b = *find(joint.b);
    joints_.push_back(world.join(settings));
  }
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
  return scene.bodies[index_of_handle_[body.index]].name;
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
