// Remembering changes, and making them in the document.
#include "play/run/play_changes.h"

#include "geometry/base/error.h"

namespace bronvel {

std::string setting_text(const Change& change) {
  const std::string name = change.script.empty() ? change.name : "dials." + change.script + "/" + change.name;
  return change.body + "." + name + "=" + assignable_text(change.after);
}

void keep_change(Scene& scene, const Change& change) {
  Body* body = scene.find(change.body);
  if (!body) throw Error(change.body, "is no longer in the scene");
  if (change.script.empty()) {
    const Property* property = find_property(change.name);
    if (!property) throw Error(change.body + "." + change.name, "is not a property");
    property->set(*body, change.after);
    return;
  }
  for (ScriptUse& use : body->scripts)
    if (use.file == change.script) {
      use.dials[change.name] = std::get<double>(change.after);
      return;
    }
  throw Error(change.body, "no longer carries " + change.script);
}

void PlayChanges::remember(const Change& change) {
  for (Change& known : all_)
    if (known.body == change.body && known.script == change.script && known.name == change.name) {
      known.after = change.after;
      return;
    }
  all_.push_back(change);
}

std::vector<Change> PlayChanges::real() const {
  std::vector<Change> real;
  for (const Change& change : all_)
    if (!same_value(change.before, change.after)) real.push_back(change);
  return real;
}

}  // namespace bronvel
