// Remembering changes.
#include "play/run/play_changes.h"

namespace bronvel {

std::string setting_text(const Change& change) {
  return place_text(change.place) + "=" + assignable_text(change.after);
}

std::string shown_name(const SettingPlace& place) {
  const PropertyInfo* info = info_at(place);
  const std::string name = place.of == SettingOf::body || !info ? place.name : info->label;
  return place.owner.empty() ? name : place.owner + " · " + name;
}

void PlayChanges::remember(const Change& change) {
  for (Change& known : all_)
    if (known.place == change.place) {
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
