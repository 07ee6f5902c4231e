// Making a world from a scene and keeping the two in step.
#include "script/running/running_scene.h"

#include <algorithm>
#include <utility>

#include "geometry/base/error.h"

namespace bronvel {
namespace {
constexpr std::size_t nowhere = static_cast<std::size_t>(-1);
}

namespace {

// As World::create, with the body's name in what it refuses.
BodyHandle create_called(World& world, const Scene& scene, const Body& body) {
  const BodySettings settings = settings_of(scene, body);
  const BodyMotion motion = motion_of(body);
  if (const auto fault = body_fault(settings, motion)) throw Error(body.name, *fault);
  return world.create(settings, motion);
}

}  // namespace

RunningScene::RunningScene(const Scene& from) : scene(from), world(from.world) {
  for (std::size_t i = 0; i < scene.bodies.size(); ++i) {
    const Body& body = scene.bodies[i];
    const BodyHandle handle = create_called(world, scene, body);
    enter(handle, i);
    make_breakable(handle);
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
  changes_.push_back(0);
  index_of_name_[scene.bodies[place].name] = place;
  index_of_handle_.resize(std::max<std::size_t>(index_of_handle_.size(), handle.index + 1), nowhere);
  index_of_handle_[handle.index] = place;
}

BodyHandle RunningScene::create(const Body& like, const std::string& name) {
  Body body = like;
  do body.name = name + "_" + std::to_string(++copies_[name]);
  while (index_of_name_.contains(body.name));
  const BodyHandle handle = create_called(world, scene, body);
  scene.bodies.push_back(body);
  enter(handle, scene.bodies.size() - 1);
  make_breakable(handle);
  return handle;
}

void RunningScene::make_breakable(BodyHandle handle) {
  Body& body = *body_of(handle);
  if (body.breaking.into == Breaking::Into::nothing) return;
  world.make_breakable(handle, settings_of(body.shape, body.breaking));
  body.kind = world.body_settings(handle).kind;  // what is held stands still
}

void RunningScene::take_parts(const std::vector<BodyHandle>& parts) {
  Body* whole = body_of(parts.front());
  if (!whole || parts.size() < 2) return;
  const auto as_in_world = [&](Body& body, BodyHandle handle) {
    const BodySettings& now = world.body_settings(handle);
    body.shape = now.shape;
    body.mass = now.mass;
    body.kind = now.kind;
    body.centre_of_mass.reset();
    body.inertia.reset();
    body.looks.reset();
  };
  as_in_world(*whole, parts.front());
  count_change(parts.front());
  const Body like = *whole;
  scene.bodies.reserve(scene.bodies.size() + parts.size());
  for (std::size_t i = 1; i < parts.size(); ++i) {
    Body part = like;
    as_in_world(part, parts[i]);
    do part.name = like.name + "_" + std::to_string(++copies_[like.name]);
    while (index_of_name_.contains(part.name));
    const BodyMotion motion = world.motion(parts[i]);
    part.position = motion.pose.position;
    part.orientation = motion.pose.orientation;
    part.velocity = motion.velocity;
    part.angular_velocity = motion.angular_velocity;
    if (!part.breaking.parts_scripted) part.scripts.clear();
    scene.bodies.push_back(std::move(part));
    enter(parts[i], scene.bodies.size() - 1);
  }
  follow_joints();
}

void RunningScene::follow_joints() {
  for (std::size_t i = 0; i < joints_.size(); ++i) {
    if (!world.alive(joints_[i])) continue;
    const JointSettings& now = world.joint_settings(joints_[i]);
    SceneJoint& joint = scene.joints[i];
    if (joint.anchor_a == now.frame_a.position && joint.anchor_b == now.frame_b.position && joint.a == name_of(now.a) &&
        joint.b == name_of(now.b))
      continue;
    joint.a = name_of(now.a);
    joint.b = name_of(now.b);
    joint.anchor_a = now.frame_a.position;
    joint.anchor_b = now.frame_b.position;
    ++joint_changes_;
  }
}

namespace {

// Where each place of a list goes when those that are gone leave it; `nowhere` for these. Nothing while they are few:
// that is asked in each tick.
template <class Handle>
std::vector<std::size_t> places_without_gone(const World& world, const std::vector<Handle>& handles) {
  constexpr std::ptrdiff_t few = 64;
  const auto gone = [&](const Handle& handle) { return !world.alive(handle); };
  const std::ptrdiff_t count = std::count_if(handles.begin(), handles.end(), gone);
  if (count < few || 2 * count < static_cast<std::ptrdiff_t>(handles.size())) return {};
  std::vector<std::size_t> to(handles.size(), nowhere);
  std::size_t next = 0;
  for (std::size_t i = 0; i < handles.size(); ++i)
    if (!gone(handles[i])) to[i] = next++;
  return to;
}

template <class Each>
void keep_places(std::vector<Each>& list, const std::vector<std::size_t>& to) {
  std::size_t kept = 0;
  for (std::size_t i = 0; i < to.size(); ++i) {
    if (to[i] == nowhere) continue;
    if (to[i] != i) list[to[i]] = std::move(list[i]);
    ++kept;
  }
  list.erase(list.begin() + static_cast<std::ptrdiff_t>(kept), list.end());
}

}  // namespace

void RunningScene::forget_removed() {
  if (const auto to = places_without_gone(world, handles_); !to.empty()) {
    for (std::size_t i = 0; i < to.size(); ++i)
      if (to[i] == nowhere && index_of_handle_[handles_[i].index] == i) index_of_handle_[handles_[i].index] = nowhere;
    keep_places(scene.bodies, to);
    keep_places(handles_, to);
    keep_places(changes_, to);
    for (std::size_t i = 0; i < handles_.size(); ++i) {
      index_of_name_[scene.bodies[i].name] = i;
      index_of_handle_[handles_[i].index] = i;
    }
  }
  if (const auto to = places_without_gone(world, joints_); !to.empty()) {
    keep_places(scene.joints, to);
    keep_places(joints_, to);
  }
}

BodyHandle RunningScene::slice(BodyHandle body, const Vec3& point, const Vec3& normal) {
  const BodyHandle other = world.slice(body, point, normal);
  take_parts({body, other});
  return other;
}

int RunningScene::pieces_of_shatter(BodyHandle body, double energy) const {
  const Body* whole = body_of(body);
  const double volume = whole ? shape_volume(whole->shape) : 0;
  return volume > 0 && energy >= 0 ? pieces_for_energy(energy, volume, whole->breaking.toughness) : 0;
}

std::vector<BodyHandle> RunningScene::shatter(BodyHandle body, const Vec3& point, double energy) {
  const Body* whole = body_of(body);
  if (!whole) throw Error("shatter", "the body is gone");
  if (!(energy >= 0) || !finite(energy)) throw Error("shatter", "wants an energy in joules");
  if (!finite(point)) throw Error("shatter", "wants a point in metres");
  const double volume = shape_volume(whole->shape);
  if (!(volume > 0))
    throw Error("shatter", "a " + shape_word(whole->shape) + " has no inside to be broken", "give the body a hull");
  PieceRecipe recipe;
  recipe.count = pieces_for_energy(energy, volume, whole->breaking.toughness);
  // From far away it is as from just beside it: cells are no finer for it.
  const Bounds bounds = shape_bounds(whole->shape, Pose{});
  const Vec3 size = bounds.high - bounds.low;
  recipe.near = world.motion(body).pose.to_local(point).cwiseMax(bounds.low - size).cwiseMin(bounds.high + size);
  recipe.crowding = 0.7;
  recipe.seed = scene.seed + static_cast<std::uint64_t>(world.tick()) + body.index;
  std::vector<BodyHandle> parts = world.shatter(body, recipe);
  take_parts(parts);
  return parts;
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
  for (const BodyHandle end : {settings.a, settings.b}) {
    if (end == BodyHandle{} || world.body_settings(end).kind != MotionKind::dynamic) continue;
    const auto held = std::count_if(joints_.begin(), joints_.end(), [&](const JointHandle& each) {
      return world.alive(each) && (world.joint_settings(each).a == end || world.joint_settings(each).b == end);
    });
    if (held >= most_joints_of_a_body)
      throw Error(name_of(end), "has " + std::to_string(held) + " joints already, the most that one body may have");
  }
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
    ++zone_changes_;
    return;
  }
  throw Error(property.name, "the zone is gone");
}

void RunningScene::set(JointHandle joint, const JointProperty& property, const Value& value) {
  for (std::size_t i = 0; i < joints_.size(); ++i) {
    if (joints_[i] != joint) continue;
    const std::string where = scene.joints[i].name + "." + property.name;
    const std::string fault = value_fault(property, value);
    if (!fault.empty()) throw Error(where, fault);
    SceneJoint changed = scene.joints[i];
    property.set(changed, value);
    JointSettings settings = settings_of(changed, {}, {});
    const JointSettings& now = world.joint_settings(joint);
    settings.a = now.a;
    settings.b = now.b;
    settings.frame_a = now.frame_a;
    settings.frame_b = now.frame_b;
    if (const auto wrong = joint_fault(settings)) throw Error(where, *wrong);
    world.change(joint, settings);
    scene.joints[i] = changed;
    return;
  }
  throw Error(property.name, "the joint is gone");
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
  return const_cast<Body*>(std::as_const(*this).body_of(body));
}

const Body* RunningScene::body_of(BodyHandle body) const {
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

// Strengths count from the next tick; pieces can be made anew only while it is whole.
void RunningScene::change_breaking(BodyHandle handle, const Body& changed) {
  Body& body = *body_of(handle);
  if (same_pieces(body.breaking, changed.breaking)) {
    world.set_strength(handle, strength_of(changed.breaking), changed.breaking.merge_below);
    body.breaking = changed.breaking;
    count_change(handle);
    return;
  }
  if (world.breakable(handle) && !world.whole(handle))
    throw Error(body.name, "is broken already: how it breaks can be changed after play");
  if (changed.breaking.into == Breaking::Into::nothing)
    world.make_unbreakable(handle);
  else
    world.make_breakable(handle, settings_of(body.shape, changed.breaking));
  body.breaking = changed.breaking;
  body.kind = world.body_settings(handle).kind;
  count_change(handle);
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
    if (!(changed.breaking == body->breaking)) {
      change_breaking(handle, changed);
      return;
    }
    const BodySettings settings = settings_of(scene, changed);
    if (const auto wrong = body_fault(settings, world.motion(handle)))
      throw Error(body->name + "." + property.name, *wrong);
    world.change(handle, settings);
    *body = changed;
    count_change(handle);
  }
}

Value RunningScene::value(const SettingPlace& place) {
  if (place.of == SettingOf::body) {
    const auto body = find(place.owner);
    const Property* property = find_property(place.name);
    return body && property ? value(*body, *property) : Value();
  }
  return place.of == SettingOf::dial ? Value() : value_at(scene, place);
}

void RunningScene::set(const SettingPlace& place, const Value& value) {
  const auto gone = [&] { return Error(place.owner, "is not in the play (any more)"); };
  const PropertyInfo* info = info_at(place);
  if (!info) throw Error(place_text(place), "is not a property");
  if (!counts_in_play(place)) throw Error(place_text(place), "counts from the next play on");
  switch (place.of) {
    case SettingOf::body:
      if (const auto body = find(place.owner)) return set(*body, static_cast<const Property&>(*info), value);
      throw Error(place.owner, "there is no body of that name");
    case SettingOf::joint:
      if (const auto joint = find_joint(place.owner))
        return set(*joint, static_cast<const JointProperty&>(*info), value);
      throw gone();
    case SettingOf::zone:
      if (const auto zone = find_zone(place.owner)) return set(*zone, static_cast<const ZoneProperty&>(*info), value);
      throw gone();
    case SettingOf::surface:
      return set_surface(place, value);
    case SettingOf::world:
      return set_world(place, value);
    case SettingOf::dial:
      throw Error(place_text(place), "is a script's");
  }
}

// All that have it meet others by it from the next tick on.
void RunningScene::set_surface(const SettingPlace& place, const Value& value) {
  set_value_at(scene, place, value);
  std::vector<std::pair<BodyHandle, Surface>> surfaces;
  for (std::size_t i = 0; i < handles_.size(); ++i) {
    const Body& body = scene.bodies[i];
    if (body.surface != place.owner || !world.alive(handles_[i])) continue;
    const Surface surface = surface_of(scene, body);
    if (!(world.body_settings(handles_[i]).surface == surface)) surfaces.emplace_back(handles_[i], surface);
  }
  world.set_surfaces(surfaces);
}

void RunningScene::set_world(const SettingPlace& place, const Value& value) {
  const WorldSettings before = scene.world;
  set_value_at(scene, place, value);
  if (scene.world == before) return;
  try {
    world.set_settings(scene.world);
  } catch (...) {
    scene.world = before;
    throw;
  }
}

}  // namespace bronvel
