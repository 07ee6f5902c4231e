// Making, placing and comparing stamps.
#include "scene/edits/stamps.h"

#include <unordered_set>

#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/properties/aspects.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

Pose pose_of(const Body& body) {
  return {body.position, body.orientation};
}

Pose inverse(const Pose& pose) {
  const Quat back = pose.orientation.conjugate();
  return {-(back * pose.position), back};
}

void put(Body& body, const Pose& pose) {
  body.position = pose.position;
  body.orientation = pose.orientation;
}

Stamp* find_stamp(Scene& scene, const std::string& name) {
  for (Stamp& stamp : scene.stamps)
    if (stamp.name == name) return &stamp;
  return nullptr;
}

const Stamp* find_stamp(const Scene& scene, const std::string& name) {
  for (const Stamp& stamp : scene.stamps)
    if (stamp.name == name) return &stamp;
  return nullptr;
}

const Body* part_of_stamp(const Stamp& stamp, const std::string& part) {
  for (const Body& body : stamp.bodies)
    if (body.name == part) return &body;
  return nullptr;
}

bool near(const Pose& a, const Pose& b) {
  return (a.position - b.position).norm() < 1e-6 && a.orientation.angularDistance(b.orientation) < 1e-6;
}

// The stamp that the copy is of; null if there is no such copy.
const Stamp* stamp_of_copy(const Scene& scene, const std::string& copy) {
  for (const Body& body : scene.bodies)
    if (body.stamped.copy == copy && !copy.empty()) return find_stamp(scene, body.stamped.stamp);
  return nullptr;
}

std::string place_text(const Vec3& place) {
  const auto text = [](double x) { return number_text(std::round(x * 1000) / 1000); };
  return text(place.x()) + ", " + text(place.y()) + ", " + text(place.z());
}

Body* body_of_copy(Scene& scene, const std::string& copy, const std::string& part) {
  for (Body& body : scene.bodies)
    if (body.stamped.copy == copy && body.stamped.part == part) return &body;
  return nullptr;
}

}  // namespace

void carry(SceneJoint& joint, const Pose& frame) {
  if (joint.a.empty()) {
    joint.anchor_a = frame.to_scene(joint.anchor_a);
    joint.axis = frame.orientation * joint.axis;
  }
  if (joint.kind != JointKind::pulley) return;
  joint.support_a = frame.to_scene(joint.support_a);
  joint.support_b = frame.to_scene(joint.support_b);
}

void make_stamp(Scene& scene, const BodyNames& names, const std::string& name) {
  if (const std::string fault = name_fault(name); !fault.empty()) throw Error("stamp", "a name " + fault);
  if (find_stamp(scene, name)) throw Error("stamp " + name, "is there already", "choose another name");
  const std::unordered_set<std::string> wanted(names.begin(), names.end());
  const Bounds bounds = bounds_of(scene, names);
  const Pose frame{{0.5 * (bounds.low.x() + bounds.high.x()), bounds.low.y(), 0.5 * (bounds.low.z() + bounds.high.z())},
                   Quat::Identity()};
  Stamp stamp;
  stamp.name = name;
  const std::string copy = name + "_1";
  for (Body& body : scene.bodies) {
    if (!wanted.contains(body.name)) continue;
    Body part = body;
    part.stamped = {};
    put(part, inverse(frame) * pose_of(body));
    body.stamped = {name, copy, body.name};
    stamp.bodies.push_back(std::move(part));
  }
  if (stamp.bodies.empty()) throw Error("stamp " + name, "wants bodies", "choose the bodies that it is made of");
  for (SceneJoint& joint : scene.joints) {
    if (!wanted.contains(joint.b) || (!joint.a.empty() && !wanted.contains(joint.a))) continue;
    SceneJoint part = joint;
    part.stamped = {};
    carry(part, inverse(frame));
    joint.stamped = {name, copy, joint.name};
    stamp.joints.push_back(std::move(part));
  }
  scene.stamps.push_back(std::move(stamp));
}

std::vector<Body> stamp_bodies(const Stamp& stamp, const Pose& pose) {
  std::vector<Body> bodies = stamp.bodies;
  for (Body& body : bodies) put(body, pose * pose_of(body));
  return bodies;
}

std::string fresh_copy_name(const Scene& scene, const std::string& stamp) {
  std::unordered_set<std::string> taken;
  for (const Body& body : scene.bodies) taken.insert(body.stamped.copy);
  for (int n = 1;; ++n)
    if (std::string name = stamp + "_" + std::to_string(n); !taken.contains(name)) return name;
}

BodyNames place_stamp(Scene& scene, const std::string& name, const Pose& pose) {
  const Stamp* found = find_stamp(scene, name);
  if (!found) throw Error("stamp " + name, "is not in the scene");
  const Stamp stamp = *found;
  const std::string copy = fresh_copy_name(scene, name);
  Names book(scene);
  std::map<std::string, std::string> called;
  BodyNames made;
  for (Body body : stamp_bodies(stamp, pose)) {
    body.stamped = {name, copy, body.name};
    body.name = called[body.name] = book.fresh(body.name);
    made.push_back(body.name);
    scene.bodies.push_back(std::move(body));
  }
  for (SceneJoint joint : stamp.joints) {
    joint.stamped = {name, copy, joint.name};
    joint.name = book.fresh(joint.name);
    carry(joint, pose);
    joint.b = called[joint.b];
    if (!joint.a.empty()) joint.a = called[joint.a];
    scene.joints.push_back(std::move(joint));
  }
  return made;
}

Pose copy_frame(const Scene& scene, const std::string& copy) {
  const Stamp* stamp = stamp_of_copy(scene, copy);
  if (!stamp) return {};
  // The frame that most parts agree on; the first of them if none do.
  std::vector<std::pair<Pose, int>> frames;
  for (const Body& body : scene.bodies) {
    if (body.stamped.copy != copy) continue;
    const Body* part = part_of_stamp(*stamp, body.stamped.part);
    if (!part) continue;
    const Pose frame = pose_of(body) * inverse(pose_of(*part));
    const auto same =
        std::find_if(frames.begin(), frames.end(), [&](const auto& each) { return near(each.first, frame); });
    if (same == frames.end())
      frames.emplace_back(frame, 1);
    else
      ++same->second;
  }
  if (frames.empty()) return {};
  return std::max_element(frames.begin(), frames.end(),
                          [](const auto& a, const auto& b) { return a.second < b.second; })
      ->first;
}

std::vector<StampDifference> stamp_differences(const Scene& scene, const std::string& copy) {
  std::vector<StampDifference> all;
  const Stamp* stamp = stamp_of_copy(scene, copy);
  if (!stamp) return all;
  const Pose frame = copy_frame(scene, copy);
  std::unordered_set<std::string> parts;
  for (const Body& body : scene.bodies) {
    if (body.stamped.copy != copy) continue;
    const Body* part = part_of_stamp(*stamp, body.stamped.part);
    if (!part) continue;
    parts.insert(part->name);
    const Pose should = frame * pose_of(*part);
    if (!near(should, pose_of(body)))
      all.push_back({body.name, part->name, "place", "place", place_text(body.position), place_text(should.position)});
    for (const Aspect& aspect : aspects())
      if (!aspect.same(body, *part))
        all.push_back({body.name, part->name, aspect.name, aspect.label, aspect.text(body), aspect.text(*part)});
  }
  for (const Body& part : stamp->bodies)
    if (!parts.contains(part.name)) all.push_back({"", part.name, "", "left out", "not here", shape_text(part.shape)});
  return all;
}

void take_stamps_value(Scene& scene, const std::string& copy, const StampDifference& difference) {
  const Stamp* found = stamp_of_copy(scene, copy);
  const Body* part = found ? part_of_stamp(*found, difference.part) : nullptr;
  if (!part) return;
  const Pose frame = copy_frame(scene, copy);
  if (difference.aspect.empty()) {
    Body body = *part;
    put(body, frame * pose_of(*part));
    body.stamped = {found->name, copy, part->name};
    body.name = Names(scene).fresh(part->name);
    scene.bodies.push_back(std::move(body));
    return;
  }
  const Body like = *part;
  if (difference.aspect == "place") {
    place_body(scene, difference.body, frame * pose_of(like));
  } else if (const Aspect* aspect = find_aspect(difference.aspect)) {
    if (Body* body = scene.find(difference.body)) aspect->take(*body, like);
  }
}

void give_to_stamp(Scene& scene, const std::string& copy, const StampDifference& difference) {
  const Stamp* found = stamp_of_copy(scene, copy);
  if (!found) return;
  Stamp& stamp = *find_stamp(scene, found->name);
  // Every copy's frame as it is before the stamp changes.
  std::map<std::string, Pose> frames;
  for (const Body& body : scene.bodies)
    if (body.stamped.stamp == stamp.name && !frames.contains(body.stamped.copy))
      frames[body.stamped.copy] = copy_frame(scene, body.stamped.copy);
  const auto part = std::find_if(stamp.bodies.begin(), stamp.bodies.end(),
                                 [&](const Body& body) { return body.name == difference.part; });
  if (part == stamp.bodies.end()) return;
  if (difference.aspect.empty()) {
    // The copy lacks it: so shall the stamp, and every copy that has it.
    BodyNames gone;
    for (const Body& body : scene.bodies)
      if (body.stamped.stamp == stamp.name && body.stamped.part == difference.part) gone.push_back(body.name);
    std::erase_if(stamp.joints, [&](const SceneJoint& j) { return j.a == difference.part || j.b == difference.part; });
    stamp.bodies.erase(part);
    remove_bodies(scene, gone);
    return;
  }
  const Body* own = scene.find(difference.body);
  if (!own) return;
  const Body before = *part, here = *own;
  const Pose placed = inverse(frames[copy]) * pose_of(here);
  const Aspect* aspect = find_aspect(difference.aspect);
  if (difference.aspect == "place")
    put(*part, placed);
  else if (aspect)
    aspect->take(*part, here);
  const Body after = *part;
  for (const auto& [name, frame] : frames) {
    Body* body = body_of_copy(scene, name, difference.part);
    if (!body || body->name == difference.body) continue;
    if (difference.aspect == "place") {
      if (near(pose_of(*body), frame * pose_of(before))) place_body(scene, body->name, frame * pose_of(after));
    } else if (aspect && aspect->same(*body, before)) {
      aspect->take(*body, after);
    }
  }
}

namespace {

// Dials that name a part of their copy name that body or joint of the scene: the copy is about to be none.
void name_outright(Scene& scene, const std::function<bool(const StampedFrom&)>& of) {
  for (Body& body : scene.bodies) {
    if (!of(body.stamped)) continue;
    for (ScriptUse& use : body.scripts)
      for (auto& [dial, value] : use.dials)
        if (auto* named = std::get_if<NamedThing>(&value)) named->name = thing_meant(scene, body, *named);
  }
}

}  // namespace

void free_copy(Scene& scene, const std::string& copy) {
  name_outright(scene, [&](const StampedFrom& from) { return from.copy == copy; });
  for (Body& body : scene.bodies)
    if (body.stamped.copy == copy) body.stamped = {};
  for (SceneJoint& joint : scene.joints)
    if (joint.stamped.copy == copy) joint.stamped = {};
}

void remove_stamp(Scene& scene, const std::string& stamp) {
  name_outright(scene, [&](const StampedFrom& from) { return from.stamp == stamp; });
  for (Body& body : scene.bodies)
    if (body.stamped.stamp == stamp) body.stamped = {};
  for (SceneJoint& joint : scene.joints)
    if (joint.stamped.stamp == stamp) joint.stamped = {};
  std::erase_if(scene.stamps, [&](const Stamp& each) { return each.name == stamp; });
}

}  // namespace bronvel
