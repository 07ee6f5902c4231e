// Numbers of those who act.
#include "script/calls/actor.h"

#include <algorithm>

namespace bronvel {

std::string Actor::text() const {
  return script.empty() ? what : script + ":" + std::to_string(line) + " " + what;
}

std::uint32_t Actors::number_of(const Actor& actor) {
  const auto found = std::find(all_.begin(), all_.end(), actor);
  if (found != all_.end()) return static_cast<std::uint32_t>(found - all_.begin());
  all_.push_back(actor);
  return static_cast<std::uint32_t>(all_.size() - 1);
}

const Actor& Actors::operator[](std::uint32_t number) const {
  static const Actor someone{"from outside", "", 0};
  return number < all_.size() ? all_[number] : someone;
}

}  // namespace bronvel
