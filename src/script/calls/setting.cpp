// Putting settings into a scene.
#include "script/calls/setting.h"

#include <algorithm>

#include "geometry/base/error.h"
#include "scene/files/fault.h"
#include "scene/properties/setting_place.h"
#include "script/calls/reading.h"

namespace bronvel {
namespace {

void put_dial(SceneFolder& folder, const SettingText& setting) {
  const std::string where = place_text(setting.place);
  Body& body = *folder.scene.find(setting.place.owner);
  std::vector<Dial> dials;
  for (const ScriptUse& use : body.scripts) {
    const ScriptReading reading = read_script(use.file, folder.scripts);
    if (reading.fault && reading.dials.empty())
      throw Error(where, "is a dial of a script that does not load: " + reading.fault->placed());
    dials.insert(dials.end(), reading.dials.begin(), reading.dials.end());
  }
  find_dial(dials, {setting.place.script, setting.place.name}, where);
  PropertyInfo number;
  number.unit = dials[0].unit;
  const double value = std::get<double>(value_from_text(number, setting.value, where));
  for (ScriptUse& use : body.scripts)
    if (use.file == dials[0].script) use.dials[dials[0].name] = value;
}

}  // namespace

void find_dial(std::vector<Dial>& dials, const DialName& named, const std::string& where) {
  std::erase_if(dials, [&](const Dial& dial) {
    return dial.name != named.dial || (!named.script.empty() && dial.script != named.script);
  });
  if (dials.empty()) throw Error(where, "there is no such dial");
  if (dials.size() > 1)
    throw Error(where, "several of its scripts have a dial of that name",
                "say whose: " + where.substr(0, where.find('.')) + ".dials." + dials[0].script + "/" + named.dial);
}

void put_setting(SceneFolder& folder, const std::string& assignment) {
  SceneFolder changed = folder;
  const SettingText setting = setting_named(changed.scene, assignment);
  if (setting.place.of == SettingOf::dial)
    put_dial(changed, setting);
  else
    set_value_at(changed.scene, setting.place,
                 value_from_text(*info_at(setting.place), setting.value, place_text(setting.place)));
  check_scene(changed.scene, &folder.scene);
  folder = std::move(changed);
}

}  // namespace bronvel
