// What is changed by hand while playing, and how it becomes part of the document.
#pragma once

#include <string>
#include <vector>

#include "scene/properties/property.h"

namespace bronvel {

/// Something that was changed while playing: a body's property, or a dial where `script` is not empty.
struct Change {
  std::string body;
  std::string script;
  std::string name;
  Value before, after;
};

/// "fender.mass=30", "fender.dials.nudge.lua/push=3": what the change set, as an input says it.
std::string setting_text(const Change& change);

/// Makes the change in the document. Throws Error when what it changes is no longer there.
void keep_change(Scene& scene, const Change& change);

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
