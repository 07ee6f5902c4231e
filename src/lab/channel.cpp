// Reading channels.
#include "lab/channel.h"

#include <algorithm>
#include <limits>
#include <sstream>

#include "geometry/error.h"

namespace bronvel {
namespace {

struct Quantity {
  const char* name;
  const char* unit;
  std::vector<std::string> components;
  std::vector<double> (*read)(const World&, BodyHandle);
};

std::vector<double> list(const Vec3& v) {
  return {v.x(), v.y(), v.z()};
}

double kinetic_energy(const World& world, BodyHandle body) {
  if (world.body_settings(body).kind != MotionKind::dynamic) return 0;
  const BodyMotion m = world.motion(body);
  const MassProperties mass = world.mass(body);
  const Vec3 spin = m.pose.orientation.conjugate() * m.angular_velocity;
  return 0.5 * mass.mass * m.velocity.squaredNorm() + 0.5 * spin.dot(mass.inertia * spin);
}

const std::vector<Quantity>& quantities() {
  static const std::vector<Quantity> all{
      {"position", "m", {"x", "y", "z"}, [](const World& w, BodyHandle b) { return list(w.motion(b).pose.position); }},
      {"orientation",
       "",
       {"x", "y", "z", "w"},
       [](const World& w, BodyHandle b) {
         const Quat q = w.motion(b).pose.orientation;
         return std::vector<double>{q.x(), q.y(), q.z(), q.w()};
       }},
      {"velocity", "m/s", {"x", "y", "z"}, [](const World& w, BodyHandle b) { return list(w.motion(b).velocity); }},
      {"angular_velocity",
       "rad/s",
       {"x", "y", "z"},
       [](const World& w, BodyHandle b) { return list(w.motion(b).angular_velocity); }},
      {"speed", "m/s", {""}, [](const World& w, BodyHandle b) { return std::vector{w.motion(b).velocity.norm()}; }},
      {"height", "m", {""}, [](const World& w, BodyHandle b) { return std::vector{w.motion(b).pose.position.y()}; }},
      {"kinetic_energy", "J", {""}, [](const World& w, BodyHandle b) { return std::vector{kinetic_energy(w, b)}; }},
  };
  return all;
}

struct JointQuantity {
  const char* name;
  const char* unit;
  std::vector<std::string> components;
  std::vector<double> (*read)(const JointReading&);
};

const std::vector<JointQuantity>& joint_quantities() {
  static const std::vector<JointQuantity> all{
      {"force", "N", {"x", "y", "z"}, [](const JointReading& r) { return list(r.force); }},
      {"torque", "N·m", {"x", "y", "z"}, [](const JointReading& r) { return list(r.torque); }},
      {"reaction", "N", {""}, [](const JointReading& r) { return std::vector{r.force.norm()}; }},
      {"travel", "", {""}, [](const JointReading& r) { return std::vector{r.position}; }},
      {"rate", "", {""}, [](const JointReading& r) { return std::vector{r.speed}; }},
  };
  return all;
}

template <class Q>
const Q* find_quantity(const std::vector<Q>& all, const std::string& name) {
  for (const Q& q : all)
    if (name == q.name) return &q;
  return nullptr;
}

template <class Q>
void choose_components(Channel& c, const std::vector<Q>& all, const std::string& quantity,
                       const std::string& component) {
  const Q* q = find_quantity(all, quantity);
  if (!q) {
    std::string known;
    for (const Q& each : all) known.append(known.empty() ? "" : ", ").append(each.name);
    throw Error("channel " + c.name, "there is no quantity called \"" + quantity + "\"", "known: " + known);
  }
  c.quantity = quantity;
  c.unit = q->unit;
  for (std::size_t i = 0; i < q->components.size(); ++i) {
    if (!component.empty() && component != q->components[i]) continue;
    c.components.push_back(static_cast<int>(i));
    const std::string end = q->components[i].empty() ? "" : "." + q->components[i];
    c.columns.push_back(c.body + "." + quantity + end);
  }
  if (c.components.empty()) throw Error("channel " + c.name, "there is no component called \"" + component + "\"");
}

}  // namespace

Channel channel_called(const std::string& name, const Scene& scene) {
  const auto dot = name.find('.');
  Channel c;
  c.name = name;
  c.body = name.substr(0, dot);
  const bool is_joint = std::any_of(scene.joints.begin(), scene.joints.end(),
                                    [&](const SceneJoint& joint) { return joint.name == c.body; });
  if (!is_joint && !scene.find(c.body))
    throw Error("channel " + name, "there is no body or joint called \"" + c.body + "\"");
  std::string rest = dot == std::string::npos ? "" : name.substr(dot + 1);
  if (name.ends_with('.'))
    throw Error("channel " + name, "ends with a dot", "name a quantity, and a component if you like");
  std::string component;
  if (const auto second = rest.find('.'); second != std::string::npos) {
    component = rest.substr(second + 1);
    rest.resize(second);
  }
  if (scene.find(c.body))
    choose_components(c, quantities(), rest, component);
  else
    choose_components(c, joint_quantities(), rest, component);
  return c;
}

std::vector<Channel> channels_called(const std::string& names, const Scene& scene) {
  std::vector<Channel> all;
  std::stringstream parts(names);
  for (std::string name; std::getline(parts, name, ',');)
    if (!name.empty()) all.push_back(channel_called(name, scene));
  return all;
}

std::vector<double> read_channel(const Channel& channel, const Play& play) {
  const RunningScene& running = play.running();
  std::vector<double> all;
  if (const auto body = running.find(channel.body)) {
    if (const Quantity* q = find_quantity(quantities(), channel.quantity)) all = q->read(running.world, *body);
  } else if (const auto joint = running.find_joint(channel.body)) {
    if (const JointQuantity* q = find_quantity(joint_quantities(), channel.quantity))
      all = q->read(running.world.reading(*joint));
  }
  if (all.empty()) return std::vector<double>(channel.components.size(), std::numeric_limits<double>::quiet_NaN());
  std::vector<double> wanted;
  for (const int i : channel.components) wanted.push_back(all[static_cast<std::size_t>(i)]);
  return wanted;
}

std::vector<std::string> quantity_names() {
  std::vector<std::string> names;
  for (const Quantity& q : quantities())
    names.push_back(std::string(q.name) + (*q.unit ? std::string(" [") + q.unit + "]" : ""));
  return names;
}

}  // namespace bronvel
