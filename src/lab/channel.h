// Channels: quantities of a body that can be read off, recorded and plotted.
#pragma once

#include <string>
#include <vector>

#include "play/play.h"

namespace bronvel {

/// One quantity of one body: "crane_hook.position" has three components, "crane_hook.position.y" one.
struct Channel {
  std::string name;  ///< as asked for
  std::string body;
  std::string quantity;
  std::string unit;
  std::vector<std::string> columns;  ///< one a component, "crane_hook.position.y"
  std::vector<int> components;       ///< which of the quantity's components
};

/// Throws Error when the scene has no such body or there is no such quantity.
Channel channel_called(const std::string& name, const Scene& scene);

/// "a.position,b.velocity" apart.
std::vector<Channel> channels_called(const std::string& list, const Scene& scene);

/// The channel's components now.
std::vector<double> read_channel(const Channel& channel, const Play& play);

/// The names of all quantities with their units: "position [m]".
std::vector<std::string> quantity_names();

}  // namespace bronvel
