// Edits of a scene's bodies.
#include "scene/edits/edits.h"

#include <algorithm>
#include <set>
#include <unordered_set>

#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/parts.h"
#include "geometry/shapes/sized.h"
#include "scene/document/dials.h"
#include "scene/document/names.h"
#include "scene/edits/stamps.h"

namespace bronvel {
namespace {

constexpr std::size_t most_made = 20000;

// The bodies of those names, in the scene's order; pointers last until bodies are added or removed.
std::vector<Body*> chosen(Scene& scene, const BodyNames& names) {
  const std::unordered_set<std::string> wanted(names.begin(), names.end());
  std::vector<Body*> found;
  for (Body& body : scene.bodies)
    if (wanted.contains(body.name)) found.push_back(&body);
  return found;
}

Pose pose_of(const Body& body) {
  return {body.position, body.orientation};
}

Bounds bounds_of_body(const Body& body) {
  return shape_bounds(body.shape, pose_of(body));
}

// Ends of joints that are one point stay one point: B's end follows A's.
void tie_ends(Scene& scene, const BodyNames& moved) {
  if (scene.joints.empty()) return;
  const std::unordered_set<std::string> names(moved.begin(), moved.end());
  for (SceneJoint& joint : scene.joints) {
    if (joint.kind == JointKind::distance || joint.kind == JointKind::pulley) continue;
    if (!names.contains(joint.a) && !names.contains(joint.b)) continue;
    const Body* a = joint.a.empty() ? nullptr : scene.find(joint.a);
    const Body* b = scene.find(joint.b);
    if (!b || (!joint.a.empty() && !a)) continue;
    const Vec3 point = a ? pose_of(*a).to_scene(joint.anchor_a) : joint.anchor_a;
    const Vec3 end = pose_of(*b).to_local(point);
    // What rounding did is not a move.
    if ((end - joint.anchor_b).norm() > 1e-9) joint.anchor_b = end;
  }
}

template <class Each>
void each_of(Scene& scene, const BodyNames& names, const Each& change) {
  for (Body* body : chosen(scene, names)) change(*body);
  tie_ends(scene, names);
}

double density_of(const Body& body) {
  const double volume = shape_volume(body.shape);
  return volume > 0 ? body.mass / volume : 0;
}

// Copies the same bodies, and the joints between them, as often as asked. A placed stamp that is copied as a whole is
// placed once more: the copy follows the stamp too.
class Copier {
 public:
  Copier(Scene& scene, const BodyNames& names) : scene_(scene), book_(scene) {
    std::map<std::string, std::ptrdiff_t> parts;  // of each placed stamp, those that are to be copied
    for (const Body* body : chosen(scene, names)) {
      bodies_.push_back(*body);
      if (!body->stamped.copy.empty()) ++parts[body->stamped.copy];
    }
    for (const auto& [placed, count] : parts)
      if (count == std::count_if(scene.bodies.begin(), scene.bodies.end(),
                                 [&name = placed](const Body& body) { return body.stamped.copy == name; }))
        whole_.insert(placed);
    std::unordered_set<std::string> known;
    for (const Body& body : bodies_) known.insert(body.name);
    for (const SceneJoint& joint : scene.joints)
      if (known.contains(joint.b) && (joint.a.empty() || known.contains(joint.a))) joints_.push_back(joint);
  }

  // Turned about a point, then moved.
  BodyNames copy(const Quat& turn, const Vec3& about, const Vec3& shift) {
    const auto moved = [&](const Vec3& point) -> Vec3 { return about + turn * (point - about) + shift; };
    std::map<std::string, std::string> copy_of, placed_as;
    const auto stamped = [&](StampedFrom from) -> StampedFrom {
      if (!whole_.contains(from.copy)) return {};
      std::string& name = placed_as[from.copy];
      if (name.empty()) name = fresh_copy_name(scene_, from.stamp);
      from.copy = name;
      return from;
    };
    BodyNames made;
    for (const Body& body : bodies_) {
      Body copy = body;
      copy.name = book_.fresh(body.name);
      copy.position = moved(body.position);
      copy.orientation = (turn * body.orientation).normalized();
      copy.stamped = stamped(body.stamped);
      copy_of[body.name] = copy.name;
      made.push_back(copy.name);
      scene_.bodies.push_back(std::move(copy));
    }
    std::map<std::string, std::string> joint_copy_of;
    for (const SceneJoint& joint : joints_) {
      SceneJoint copy = joint;
      copy.name = joint_copy_of[joint.name] = book_.fresh(joint.name);
      copy.b = copy_of[joint.b];
      copy.stamped = stamped(joint.stamped);
      if (joint.a.empty()) {
        copy.anchor_a = moved(joint.anchor_a);
        copy.axis = turn * joint.axis;
      } else {
        copy.a = copy_of[joint.a];
      }
      if (joint.kind == JointKind::pulley) {
        copy.support_a = moved(joint.support_a);
        copy.support_b = moved(joint.support_b);
      }
      scene_.joints.push_back(std::move(copy));
    }
    for (std::size_t i = 0; i < made.size(); ++i) {
      Body& copy = *scene_.find(made[i]);
      // In a placed stamp a dial that names a part means that of the same copy.
      if (!copy.stamped.copy.empty()) continue;
      for (ScriptUse& use : copy.scripts)
        for (auto& [dial, value] : use.dials) follow(value, bodies_[i], copy_of, joint_copy_of);
    }
    return made;
  }

 private:
  // A dial of a copy names what was copied with it, and otherwise what the first one meant.
  void follow(DialValue& value, const Body& first, const std::map<std::string, std::string>& bodies,
              const std::map<std::string, std::string>& joints) const {
    auto* named = std::get_if<NamedThing>(&value);
    if (!named || (named->kind != NamedKind::body && named->kind != NamedKind::joint)) return;
    const std::string meant = thing_meant(scene_, first, *named);
    const auto& copies = named->kind == NamedKind::body ? bodies : joints;
    const auto copy = copies.find(meant);
    named->name = copy == copies.end() ? meant : copy->second;
  }

  Scene& scene_;
  Names book_;
  std::vector<Body> bodies_;
  std::vector<SceneJoint> joints_;
  std::set<std::string> whole_;  // placed stamps of which every body is copied
};

}  // namespace

void remove_bodies(Scene& scene, const BodyNames& names) {
  const std::unordered_set<std::string> gone(names.begin(), names.end());
  std::erase_if(scene.bodies, [&](const Body& body) { return gone.contains(body.name); });
  std::erase_if(scene.joints,
                [&](const SceneJoint& joint) { return gone.contains(joint.a) || gone.contains(joint.b); });
}

void rename_body(Scene& scene, const std::string& from, const std::string& to) {
  if (from == to) return;
  if (const std::string fault = name_fault(to); !fault.empty()) throw Error(from, "a name " + fault);
  if (Names(scene).taken(to)) throw Error(from, "can't be called " + to + ", which is taken");
  Body* body = scene.find(from);
  if (!body) throw Error(from, "is not in the scene");
  body->name = to;
  for (SceneJoint& joint : scene.joints) {
    if (joint.a == from) joint.a = to;
    if (joint.b == from) joint.b = to;
  }
  rename_in_dials(scene, NamedKind::body, from, to);
  rename_in_wishes(scene.checks, from, to);
}

void rename_joint(Scene& scene, const std::string& from, const std::string& to) {
  if (from == to) return;
  if (const std::string fault = name_fault(to); !fault.empty()) throw Error(from, "a name " + fault);
  if (Names(scene).taken(to)) throw Error(from, "can't be called " + to + ", which is taken");
  for (SceneJoint& joint : scene.joints)
    if (joint.name == from) joint.name = to;
  rename_in_dials(scene, NamedKind::joint, from, to);
  rename_in_wishes(scene.checks, from, to);
}

BodyNames duplicate(Scene& scene, const BodyNames& names, const Vec3& shift) {
  return Copier(scene, names).copy(Quat::Identity(), Vec3::Zero(), shift);
}

void move_bodies(Scene& scene, const BodyNames& names, const Vec3& way) {
  each_of(scene, names, [&](Body& body) { body.position += way; });
}

void turn_bodies(Scene& scene, const BodyNames& names, const Quat& turn, const Vec3& about) {
  each_of(scene, names, [&](Body& body) {
    body.position = about + turn * (body.position - about);
    body.orientation = (turn * body.orientation).normalized();
  });
}

void place_body(Scene& scene, const std::string& name, const Pose& pose) {
  each_of(scene, {name}, [&](Body& body) {
    body.position = pose.position;
    body.orientation = pose.orientation;
  });
}

void resize_body(Scene& scene, const std::string& name, const Vec3& factors) {
  Body* body = scene.find(name);
  if (!body) return;
  const double density = density_of(*body);
  const double even = std::cbrt(factors.x() * factors.y() * factors.z());
  // A model is drawn at one scale: a body with one is sized evenly.
  const Vec3 f = body->looks ? Vec3::Constant(even) : factors;
  body->shape = sized(body->shape, f);
  if (density > 0) body->mass = density * shape_volume(body->shape);
  if (body->looks) {
    body->looks->scale *= even;
    body->looks->pose.position *= even;
  }
  if (body->centre_of_mass) body->centre_of_mass = body->centre_of_mass->cwiseProduct(f);
  for (SceneJoint& joint : scene.joints) {
    if (joint.a == name) joint.anchor_a = joint.anchor_a.cwiseProduct(f);
    if (joint.b == name) joint.anchor_b = joint.anchor_b.cwiseProduct(f);
  }
  tie_ends(scene, {name});
}

void reshape_body(Scene& scene, const std::string& name, const Shape& shape, bool same_density) {
  if (const auto fault = shape_fault(shape)) throw Error(name + ".shape", *fault);
  Body* body = scene.find(name);
  if (!body) return;
  const double density = density_of(*body);
  body->shape = shape;
  if (same_density && density > 0 && has_volume(shape)) body->mass = density * shape_volume(shape);
}

BodyNames array_of(Scene& scene, const BodyNames& names, const ArrayPlan& plan) {
  std::size_t places = 1;
  for (std::size_t axis = 0; axis < (plan.kind == ArrayPlan::Kind::grid ? 3U : 1U); ++axis)
    places *= static_cast<std::size_t>(std::clamp(plan.count[axis], 1, 20000));
  if (places < 2) throw Error("array", "wants two or more");
  if (places * names.size() > most_made)
    throw Error("array", "would make " + std::to_string(places * names.size()) + " bodies", "20,000 are the most");
  BodyNames made;
  const auto add = [&](const BodyNames& fresh) { made.insert(made.end(), fresh.begin(), fresh.end()); };
  Copier copier(scene, names);
  const auto along = [&](const Vec3& shift) { add(copier.copy(Quat::Identity(), Vec3::Zero(), shift)); };
  if (plan.kind == ArrayPlan::Kind::line) {
    for (int i = 1; i < plan.count[0]; ++i) along(i * plan.step);
  } else if (plan.kind == ArrayPlan::Kind::grid) {
    for (int y = 0; y < std::max(1, plan.count[1]); ++y)
      for (int z = 0; z < std::max(1, plan.count[2]); ++z)
        for (int x = 0; x < std::max(1, plan.count[0]); ++x)
          if (x != 0 || y != 0 || z != 0) along(Vec3(x, y, z).cwiseProduct(plan.step));
  } else {
    const Bounds bounds = bounds_of(scene, names);
    const Vec3 from = 0.5 * (bounds.low + bounds.high), middle = from + Vec3(0, 0, plan.radius);
    for (int i = 1; i < plan.count[0]; ++i) {
      const Quat turn(Eigen::AngleAxisd(2 * pi * i / plan.count[0], Vec3::Unit(1)));
      if (plan.turn_along)
        add(copier.copy(turn, middle, Vec3::Zero()));
      else
        along(middle + turn * (from - middle) - from);
    }
  }
  return made;
}

BodyNames scatter(Scene& scene, const std::string& name, const ScatterPlan& plan) {
  const Body* found = scene.find(name);
  if (!found) return {};
  if (plan.count < 1 || static_cast<std::size_t>(plan.count) > most_made)
    throw Error("scatter", "wants a count from 1 to 20,000");
  const Body like = *found;
  Clearance clear(scene, {});
  // A generator of our own, so that a seed gives the same places everywhere (Steele, Lea and Flood 2014, splitmix64).
  std::uint64_t state = plan.seed;
  const auto random = [&] {
    state += 0x9E3779B97F4A7C15ULL;
    std::uint64_t z = state;
    z = (z ^ (z >> 30U)) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ (z >> 27U)) * 0x94D049BB133111EBULL;
    return static_cast<double>((z ^ (z >> 31U)) >> 11U) * 0x1p-53;
  };
  double top = plan.middle.y();
  for (const Body& body : scene.bodies) top = std::max(top, bounds_of_body(body).high.y());
  // Turned any way about the vertical it stays within this of its middle.
  const Bounds level = shape_bounds(like.shape, {Vec3::Zero(), like.orientation});
  const Vec3 widest = level.high.cwiseMax(-level.low);
  const double reach = std::hypot(widest.x(), widest.z());
  std::vector<Vec3> taken;
  Names book(scene);
  BodyNames made;
  for (int i = 0; i < plan.count; ++i)
    for (int trial = 0; trial < 20; ++trial) {
      Body copy = like;
      copy.stamped = {};
      const double x = (random() - 0.5) * plan.width, z = (random() - 0.5) * plan.depth, angle = 2 * pi * random();
      if (plan.turn) copy.orientation = (Quat(Eigen::AngleAxisd(angle, Vec3::Unit(1))) * copy.orientation).normalized();
      // Apart as seen from above.
      const auto apart = [&](const Vec3& other) { return std::hypot(other.x() - x, other.z() - z) > 2 * reach; };
      if (!std::all_of(taken.begin(), taken.end(), apart)) continue;
      const Bounds own = shape_bounds(copy.shape, {Vec3::Zero(), copy.orientation});
      const double height = top + 0.01 - own.low.y();
      copy.position = {plan.middle.x() + x, height, plan.middle.z() + z};
      copy.position.y() -= clear.along(copy.shape, pose_of(copy), Vec3(0, -top - 1, 0));
      taken.emplace_back(x, 0, z);
      copy.name = book.fresh(like.name);
      made.push_back(copy.name);
      scene.bodies.push_back(std::move(copy));
      break;
    }
  return made;
}

void let_down(Scene& scene, const BodyNames& names) {
  std::vector<Body*> bodies = chosen(scene, names);
  std::stable_sort(bodies.begin(), bodies.end(), [](const Body* a, const Body* b) {
    return bounds_of_body(*a).low.y() < bounds_of_body(*b).low.y();
  });
  Clearance clear(scene, names);
  for (Body* body : bodies) {
    const double low = bounds_of_body(*body).low.y();
    if (low < 0)
      body->position.y() -= low;
    else
      body->position.y() -= clear.along(body->shape, pose_of(*body), Vec3(0, -low - 1, 0));
    clear.add(body->shape, pose_of(*body));
  }
  tie_ends(scene, names);
}

void align(Scene& scene, const BodyNames& names, int axis, Side side) {
  const Body* last = names.empty() ? nullptr : scene.find(names.back());
  if (!last) return;
  const auto place = [&](const Body& body) {
    const Bounds bounds = bounds_of_body(body);
    const double low = bounds.low[axis], high = bounds.high[axis];
    return side == Side::low ? low : side == Side::high ? high : 0.5 * (low + high);
  };
  const double line = place(*last);
  each_of(scene, names, [&](Body& body) {
    if (&body != last) body.position[axis] += line - place(body);
  });
}

void space_out(Scene& scene, const BodyNames& names, int axis) {
  std::vector<Body*> bodies = chosen(scene, names);
  if (bodies.size() < 3) return;
  const auto low = [&](const Body* body) { return bounds_of_body(*body).low[axis]; };
  std::stable_sort(bodies.begin(), bodies.end(), [&](const Body* a, const Body* b) { return low(a) < low(b); });
  double filled = 0;
  for (const Body* body : bodies) filled += bounds_of_body(*body).high[axis] - low(body);
  const double whole = bounds_of_body(*bodies.back()).high[axis] - low(bodies.front());
  const double gap = (whole - filled) / static_cast<double>(bodies.size() - 1);
  double at = low(bodies.front());
  for (Body* body : bodies) {
    body->position[axis] += at - low(body);
    at = bounds_of_body(*body).high[axis] + gap;
  }
  tie_ends(scene, names);
}

std::string group_bodies(Scene& scene, const BodyNames& names) {
  const std::vector<Body*> bodies = chosen(scene, names);
  if (bodies.size() < 2) throw Error("group", "wants two bodies or more", "choose them with Shift held");
  const Body* last = scene.find(names.back());
  double volume = 0, mass = 0;
  for (const Body* body : bodies) {
    if (!has_volume(body->shape))
      throw Error(body->name, "is a " + shape_word(body->shape) + ", which can't be a part of a compound",
                  "leave it out, or fit another shape to it");
    volume += shape_volume(body->shape);
    mass += body->mass;
  }
  const Bounds bounds = bounds_of(scene, names);
  Body made = *last;
  made.position = 0.5 * (bounds.low + bounds.high);
  made.orientation = Quat::Identity();
  made.mass = mass;
  made.looks.reset();
  made.stamped = {};
  made.centre_of_mass.reset();
  made.inertia.reset();
  const Pose frame = pose_of(made);
  const auto local = [&](const Pose& pose) -> Pose { return {frame.to_local(pose.position), pose.orientation}; };
  std::vector<Part> parts;
  for (const Body* body : bodies) {
    // Relative densities, so that a compound of one stuff says nothing of it.
    const double density = density_of(*body) / (mass / volume);
    const double share = std::abs(density - 1) < 1e-9 ? 1 : density;
    if (const auto* compound = std::get_if<Compound>(&body->shape)) {
      for (Part part : compound->data->parts) {
        part.pose = local(pose_of(*body) * part.pose);
        part.density *= share * shape_volume(body->shape) / compound->data->volume;
        parts.push_back(std::move(part));
      }
    } else {
      parts.push_back({body->shape, local(pose_of(*body)), share});
    }
  }
  made.shape = make_compound(std::move(parts));
  std::map<std::string, Pose> stood;
  for (const Body* body : bodies) stood[body->name] = pose_of(*body);
  const std::string kept = made.name;
  for (SceneJoint& joint : scene.joints) {
    if (const auto a = stood.find(joint.a); a != stood.end()) {
      joint.axis = a->second.orientation * joint.axis;
      joint.anchor_a = frame.to_local(a->second.to_scene(joint.anchor_a));
      joint.a = kept;
    }
    if (const auto b = stood.find(joint.b); b != stood.end()) {
      joint.anchor_b = frame.to_local(b->second.to_scene(joint.anchor_b));
      joint.b = kept;
    }
  }
  // Joints within the group have nothing left to tie.
  std::erase_if(scene.joints, [](const SceneJoint& joint) { return joint.a == joint.b; });
  for (Body& body : scene.bodies)
    if (body.name == kept) body = made;
  std::erase_if(scene.bodies, [&](const Body& body) { return body.name != kept && stood.contains(body.name); });
  return kept;
}

BodyNames split_body(Scene& scene, const std::string& name) {
  const Body* found = scene.find(name);
  const auto* compound = found ? std::get_if<Compound>(&found->shape) : nullptr;
  if (!compound) throw Error(name, "has only one part", "only compounds can be split");
  const Body whole = *found;
  const Shape shape_kept = whole.shape;  // keeps the parts alive
  const std::vector<Part>& parts = compound->data->parts;
  const double unit = whole.mass / compound->data->volume;  // kg/m³ at relative density 1
  std::vector<Body> made;
  Names book(scene);
  for (std::size_t i = 0; i < parts.size(); ++i) {
    Body body = whole;
    body.name = i == 0 ? whole.name : book.fresh(whole.name);
    body.shape = parts[i].shape;
    const Pose pose = pose_of(whole) * parts[i].pose;
    body.position = pose.position;
    body.orientation = pose.orientation;
    body.mass = unit * parts[i].density * shape_volume(parts[i].shape);
    body.looks.reset();
    body.stamped = {};
    body.centre_of_mass.reset();
    body.inertia.reset();
    made.push_back(std::move(body));
  }
  const auto nearest = [&](const Vec3& point) -> const Body& {
    const Body* best = &made.front();
    for (const Body& body : made)
      if ((body.position - point).norm() < (best->position - point).norm()) best = &body;
    return *best;
  };
  for (SceneJoint& joint : scene.joints) {
    if (joint.a == name) {
      const Vec3 point = pose_of(whole).to_scene(joint.anchor_a);
      const Body& part = nearest(point);
      joint.axis = part.orientation.conjugate() * (whole.orientation * joint.axis);
      joint.anchor_a = pose_of(part).to_local(point);
      joint.a = part.name;
    }
    if (joint.b == name) {
      const Vec3 point = pose_of(whole).to_scene(joint.anchor_b);
      const Body& part = nearest(point);
      joint.anchor_b = pose_of(part).to_local(point);
      joint.b = part.name;
    }
  }
  BodyNames names;
  for (const Body& body : made) names.push_back(body.name);
  const auto at = std::find_if(scene.bodies.begin(), scene.bodies.end(), [&](const Body& b) { return b.name == name; });
  scene.bodies.insert(scene.bodies.erase(at), made.begin(), made.end());
  return names;
}

Bounds bounds_of(const Scene& scene, const BodyNames& names) {
  const std::unordered_set<std::string> wanted(names.begin(), names.end());
  std::optional<Bounds> all;
  for (const Body& body : scene.bodies) {
    if (!wanted.contains(body.name)) continue;
    const Bounds bounds = bounds_of_body(body);
    all = all ? all->joined(bounds) : bounds;
  }
  return all.value_or(Bounds{});
}

Clearance::Clearance(const Scene& scene, const BodyNames& except) : world_(WorldSettings{}) {
  const std::unordered_set<std::string> passed(except.begin(), except.end());
  for (const Body& body : scene.bodies)
    if (!passed.contains(body.name)) add(body.shape, pose_of(body));
}

void Clearance::add(const Shape& shape, const Pose& pose) {
  BodySettings settings;
  settings.kind = MotionKind::fixed;
  settings.shape = shape;
  world_.create(settings, {pose, Vec3::Zero(), Vec3::Zero()});
}

double Clearance::along(const Shape& shape, const Pose& pose, const Vec3& way) const {
  if (!has_volume(shape)) {  // A surface goes by the box around it.
    const Bounds around = shape_bounds(shape, Pose{});
    const Vec3 size = (around.high - around.low).cwiseMax(Vec3::Constant(1e-3));
    return along(Box{size}, pose * Pose{0.5 * (around.low + around.high), Quat::Identity()}, way);
  }
  if (is_composite(shape)) {
    double least = way.norm();
    for (std::uint32_t i = 0; i < part_count(shape); ++i) {
      const Part part = part_of(shape, i);
      least = std::min(least, along(part.shape, pose * part.pose, way));
    }
    return least;
  }
  double most = way.norm();
  if (most == 0) return 0;
  // The floor as the scene draws it: a height of 0 everywhere.
  if (way.y() < 0) {
    const double above = shape_bounds(shape, pose).low.y();
    if (above >= 0) most = std::min(most, above * way.norm() / -way.y());
  }
  const auto met = world_.sweep(shape, pose, way.normalized() * most);
  return met ? std::min(most, met->distance) : most;
}

double Clearance::along(const std::vector<std::pair<Shape, Pose>>& shapes, const Vec3& way) const {
  double least = way.norm();
  for (const auto& [shape, pose] : shapes) least = std::min(least, along(shape, pose, way));
  return least;
}

}  // namespace bronvel
