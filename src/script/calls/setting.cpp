// Putting settings into a scene.
#include "script/calls/setting.h"

#include <algorithm>
#include <cmath>

#include "geometry/base/error.h"
#include "scene/document/names.h"
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
  const DialValue value = dial_from_text(dials[0], setting.value, where);
  for (ScriptUse& use : body.scripts)
    if (use.file == dials[0].script) use.dials[dials[0].name] = value;
}

}  // namespace

std::string dial_fault(const Dial& dial, const DialValue& value) {
  const auto got = [&] { return ", got " + value_text(value_of(value)); };
  const DialValue& like = dial.default_value;
  if (const auto* named = std::get_if<NamedThing>(&like)) {
    const auto* other = std::get_if<NamedThing>(&value);
    if (other && other->kind == named->kind) return "";
    const std::string kind = named_word(named->kind);
    return "wants the name of " + std::string(kind == "action" ? "an " : "a ") + kind + got();
  }
  if (like.index() != value.index())
    return std::holds_alternative<bool>(like)          ? "wants true or false" + got()
           : std::holds_alternative<std::string>(like) ? "wants one of its words" + got()
                                                       : "wants a number" + got();
  const auto* number = std::get_if<double>(&value);
  if (number && !std::isfinite(*number)) return "wants a number" + got();
  const auto* word = std::get_if<std::string>(&value);
  if (word && std::find(dial.words.begin(), dial.words.end(), *word) == dial.words.end())
    return "wants one of " + names_text(dial.words) + got();
  return "";
}

DialValue dial_from_text(const Dial& dial, const std::string& text, const std::string& where) {
  DialValue value = text;
  if (std::holds_alternative<double>(dial.default_value)) {
    PropertyInfo number;
    number.unit = dial.unit;
    value = std::get<double>(value_from_text(number, text, where));
  } else if (std::holds_alternative<bool>(dial.default_value)) {
    if (text == "true" || text == "yes") value = true;
    if (text == "false" || text == "no") value = false;
  } else if (const auto* named = std::get_if<NamedThing>(&dial.default_value)) {
    value = NamedThing{named->kind, text == "none" ? "" : text};
  }
  if (const std::string fault = dial_fault(dial, value); !fault.empty()) throw Error(where, fault);
  return value;
}

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
