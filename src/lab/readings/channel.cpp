// Reading channels.
#include "lab/readings/channel.h"

#include <algorithm>
#include <limits>
#include <sstream>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

template <class Reading>
void choose_components(Channel& c, std::span<const Quantity<Reading>> all, const std::string& component) {
  const Quantity<Reading>* q = find_quantity(all, c.quantity);
  if (!q) {
    std::string known;
    for (const auto& each : all) known.append(known.empty() ? "" : ", ").append(each.name);
    if (c.of == Channel::Of::body) known += ", each property that is a number, dials.NAME, watch.NAME";
    throw Error("channel " + c.name, "there is no quantity called \"" + c.quantity + "\"", "known: " + known);
  }
  c.unit = q->unit;
  for (std::size_t i = 0; i < q->components.size(); ++i) {
    if (!component.empty() && component != q->components[i]) continue;
    c.components.push_back(static_cast<int>(i));
    const std::string end = q->components[i].empty() ? "" : "." + q->components[i];
    c.columns.push_back(c.owner + "." + c.quantity + end);
  }
  if (c.components.empty()) throw Error("channel " + c.name, "there is no component called \"" + component + "\"");
}

// Whether it is a property, and one of numbers.
bool choose_property(Channel& c, const std::string& component) {
  const Property* property = find_property(c.quantity);
  if (!property) return false;
  const bool three = property->kind == PropertyKind::vector || property->kind == PropertyKind::optional_vector;
  if (!three && property->kind != PropertyKind::number && property->kind != PropertyKind::optional_number &&
      property->kind != PropertyKind::flag)
    return false;
  c.of = Channel::Of::property;
  c.unit = property->unit;
  const std::vector<std::string> parts = three ? std::vector<std::string>{"x", "y", "z"} : std::vector<std::string>{""};
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (!component.empty() && component != parts[i]) continue;
    c.components.push_back(static_cast<int>(i));
    c.columns.push_back(c.owner + "." + c.quantity + (parts[i].empty() ? "" : "." + parts[i]));
  }
  if (c.components.empty()) throw Error("channel " + c.name, "there is no component called \"" + component + "\"");
  return true;
}

template <class Reading>
std::vector<double> wanted(const Channel& channel, std::span<const Quantity<Reading>> all, const Reading& reading) {
  std::vector<double> values;
  const Quantity<Reading>* q = find_quantity(all, channel.quantity);
  if (!q) return values;
  Components components{};
  q->read(reading, components);
  for (const int i : channel.components) values.push_back(components[static_cast<std::size_t>(i)]);
  return values;
}

}  // namespace

ChannelOwners ChannelOwners::of(const Scene& scene) {
  return {[&scene](const std::string& name) { return scene.find(name) != nullptr; },
          [&scene](const std::string& name) {
            return std::any_of(scene.joints.begin(), scene.joints.end(),
                               [&](const SceneJoint& joint) { return joint.name == name; });
          }};
}

ChannelOwners ChannelOwners::that_may_come(const Scene& scene) {
  // Pieces of pieces are "cask_12_3".
  const auto comes_of = [](std::string name, const auto& known) {
    for (;;) {
      if (known(name)) return true;
      const auto end = name.find_last_not_of("0123456789");
      if (end == std::string::npos || end + 1 == name.size() || name[end] != '_') return false;
      name.erase(end);
    }
  };
  const ChannelOwners there = of(scene);
  return {[=, &scene](const std::string& name) {
            return comes_of(name, [&](const std::string& stem) {
              return there.is_body(stem) ||
                     std::any_of(scene.stamps.begin(), scene.stamps.end(), [&](const Stamp& stamp) {
                       return std::any_of(stamp.bodies.begin(), stamp.bodies.end(),
                                          [&](const Body& body) { return body.name == stem; });
                     });
            });
          },
          [=](const std::string& name) { return comes_of(name, there.is_joint); }};
}

Channel channel_called(const std::string& name, const ChannelOwners& owners) {
  const auto dot = name.find('.');
  Channel c;
  c.name = name;
  c.owner = name.substr(0, dot);
  const bool is_body = owners.is_body(c.owner);
  if (!is_body && !owners.is_joint(c.owner))
    throw Error("channel " + name, "there is no body or joint called \"" + c.owner + "\"");
  if (!is_body) c.of = Channel::Of::joint;
  std::string rest = dot == std::string::npos ? "" : name.substr(dot + 1);
  if (name.ends_with('.'))
    throw Error("channel " + name, "ends with a dot", "name a quantity, and a component if you like");
  const auto second = rest.find('.');
  const std::string word = rest.substr(0, second);
  const std::string after = second == std::string::npos ? "" : rest.substr(second + 1);
  if (is_body && (word == "dials" || word == "watch")) {
    c.of = word == "dials" ? Channel::Of::dial : Channel::Of::watch;
    const auto slash = after.rfind('/');
    c.script = slash == std::string::npos ? "" : after.substr(0, slash);
    c.quantity = slash == std::string::npos ? after : after.substr(slash + 1);
    if (c.quantity.empty()) throw Error("channel " + name, "wants a name after \"" + word + "\"");
    c.components = {0};
    c.columns = {name};
    return c;
  }
  c.quantity = word;
  if (is_body && !find_quantity(body_quantities(), word) && choose_property(c, after)) return c;
  if (is_body)
    choose_components(c, body_quantities(), after);
  else
    choose_components(c, joint_quantities(), after);
  return c;
}

std::vector<Channel> channels_called(const std::string& names, const ChannelOwners& owners) {
  std::vector<Channel> all;
  std::stringstream parts(names);
  for (std::string name; std::getline(parts, name, ',');)
    if (!name.empty()) all.push_back(channel_called(name, owners));
  return all;
}

std::vector<double> read_channel(const Channel& channel, const Play& play) {
  const RunningScene& running = play.running();
  std::vector<double> values;
  switch (channel.of) {
    case Channel::Of::body:
      if (const auto body = running.find(channel.owner))
        values = wanted(channel, body_quantities(), body_reading(running.world, *body));
      break;
    case Channel::Of::property: {
      const Body* body = running.find(channel.owner) ? running.scene.find(channel.owner) : nullptr;
      const Property* property = find_property(channel.quantity);
      if (!body || !property) break;
      const Components all = property_components(*property, *body);
      for (const int i : channel.components) values.push_back(all[static_cast<std::size_t>(i)]);
      break;
    }
    case Channel::Of::joint:
      if (const auto joint = running.find_joint(channel.owner))
        values = wanted(channel, joint_quantities(), running.world.reading(*joint));
      break;
    case Channel::Of::dial:
      if (const auto body = running.find(channel.owner))
        for (const Dial& dial : play.scripts().dials(*body))
          if (dial.name == channel.quantity && (channel.script.empty() || channel.script == dial.script))
            return {number_of(dial.value)};
      break;
    case Channel::Of::watch:
      for (const Watched& each : play.watched())
        if (each.body == channel.owner && each.name == channel.quantity) return {each.value};
      break;
  }
  if (values.empty()) values.assign(channel.components.size(), std::numeric_limits<double>::quiet_NaN());
  return values;
}

Components property_components(const Property& property, const Body& body) {
  Components out;
  out.fill(std::numeric_limits<double>::quiet_NaN());
  const Value value = property.get(body);
  if (const auto* number = std::get_if<double>(&value)) out[0] = *number;
  if (const auto* flag = std::get_if<bool>(&value)) out[0] = *flag ? 1 : 0;
  if (const auto* vector = std::get_if<Vec3>(&value))
    for (int i = 0; i < 3; ++i) out[static_cast<std::size_t>(i)] = (*vector)[i];
  return out;
}

std::vector<std::string> quantity_names() {
  std::vector<std::string> names;
  for (const auto& q : body_quantities())
    names.push_back(std::string(q.name) + (*q.unit ? std::string(" [") + q.unit + "]" : ""));
  return names;
}

}  // namespace bronvel
