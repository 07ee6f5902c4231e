// Scripts on bodies, and the actions that they need.
#include "scene/edits/script_edits.h"

#include <algorithm>
#include <regex>

namespace bronvel {
namespace {

std::string without_spaces_around(const std::string& text) {
  const auto first = text.find_first_not_of(" \t");
  return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

}  // namespace

std::vector<Action> needed_actions(const std::string& text) {
  std::vector<Action> needed;
  static const std::regex line(R"(--\s*needs action:\s*(\w+)[ \t]*(?:\(([\w ]+)(?:/([\w ]+))?\))?)");
  for (std::sregex_iterator found(text.begin(), text.end(), line), end; found != end; ++found) {
    Action& action = needed.emplace_back();
    action.name = (*found)[1];
    const auto add = [](const std::string& key, std::vector<std::string>& keys) {
      const std::string name = without_spaces_around(key);
      if (std::find(key_names().begin(), key_names().end(), name) != key_names().end()) keys.push_back(name);
    };
    add((*found)[2], action.keys);
    add((*found)[3], action.against);
  }
  return needed;
}

void add_actions(Scene& scene, const std::vector<Action>& needed) {
  for (const Action& action : needed) {
    const auto same = [&](const Action& each) { return each.name == action.name; };
    if (std::none_of(scene.actions.begin(), scene.actions.end(), same)) scene.actions.push_back(action);
  }
}

void put_script(Scene& scene, const std::string& file, const std::string& body) {
  if (Body* found = scene.find(body)) found->scripts.push_back({file, {}});
}

void take_script(Scene& scene, const std::string& file, const std::string& body) {
  if (Body* found = scene.find(body))
    std::erase_if(found->scripts, [&](const ScriptUse& use) { return use.file == file; });
}

void turn_dial(Scene& scene, const std::string& body, const std::string& script, const std::string& dial,
               const DialValue& value) {
  Body* found = scene.find(body);
  if (!found) return;
  for (ScriptUse& use : found->scripts)
    if (use.file == script) use.dials[dial] = value;
}

}  // namespace bronvel
