// Channels: numbers that can be read off by name, in a running play or in a take, recorded and plotted.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "lab/readings/quantity.h"
#include "scene/properties/property.h"

namespace bronvel {

/// One quantity of one thing: "crane_hook.position" has three components, "crane_hook.position.y" one;
/// "cask.mass" is one of its properties, "cord.reaction" is a joint's, "fender.dials.push" (or
/// "fender.dials.nudge.lua/push") a dial's, "fender.watch.climb" what a script watches.
struct Channel {
  enum class Of { body, property, joint, dial, watch };
  Of of = Of::body;
  std::string name;      ///< as asked for
  std::string owner;     ///< the body or joint
  std::string quantity;  ///< of a body or joint; else the dial's or watched number's name
  std::string script;    ///< of a dial, "" if any
  std::string unit;
  std::vector<std::string> columns;  ///< one a component, "crane_hook.position.y"
  std::vector<int> components;       ///< which of the quantity's components
};

/// What there is to have channels.
struct ChannelOwners {
  std::function<bool(const std::string&)> is_body, is_joint;
  static ChannelOwners of(const Scene& scene);  ///< which must outlive it
  /// The same, and what a play of it may make: copies and pieces are called after what they come of, "cask_12".
  static ChannelOwners that_may_come(const Scene& scene);
};

/// Throws Error when there is no such body or joint, or it has no such quantity. Whether a body has the dial or watched
/// number is seen only in play.
Channel channel_called(const std::string& name, const ChannelOwners& owners);

/// "a.position,b.velocity" apart.
std::vector<Channel> channels_called(const std::string& list, const ChannelOwners& owners);

/// The channel's components now; not a number where there is none.
std::vector<double> read_channel(const Channel& channel, const Play& play);

/// A body's property as numbers: 1 and 0 for a switch; not a number where it is not set, or none at all.
Components property_components(const Property& property, const Body& body);

/// The names of all quantities of bodies with their units: "position [m]".
std::vector<std::string> quantity_names();

}  // namespace bronvel
