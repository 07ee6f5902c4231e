// What is changed by hand while playing, and how it becomes part of the document.
#pragma once

#include <string>
#include <vector>

#include "scene/properties/setting_place.h"

namespace bronvel {

/// Something that was changed while playing.
struct Change {
  SettingPlace place;
  Value before, after;
};

/// "fender.mass=30", "fender.dials.nudge.lua/push=3": what the change set, as an input says it.
std::string setting_text(const Change& change);

/// Whose value it is, and which, for reading: "fender · push", "cork · restitution", "gravity".
std::string shown_name(const SettingPlace& place);

/// The changes of a play.
class PlayChanges {
 public:
  /// A second change of the same thing goes on from the first.
  void remember(const Change& change);
  /// What differs from the start of play, in the order in which it was first changed.
  std::vector<Change> real() const;

 private:
  std::vector<Change> all_;
};

}  // namespace bronvel
