// Voices by name.
#include "scene/document/voice.h"

#include <algorithm>
#include <utility>

namespace bronvel {

const std::vector<std::string>& voice_names() {
  static const std::vector<std::string> names{"wood", "stone",  "iron", "glass", "rope",
                                              "ice",  "rubber", "cork", "cloth", "water"};
  return names;
}

bool is_voice(const std::string& name) {
  return std::find(voice_names().begin(), voice_names().end(), name) != voice_names().end();
}

std::string voice_list() {
  std::string all;
  for (const std::string& name : voice_names()) all += (all.empty() ? "" : ", ") + name;
  return all;
}

std::string voice_of(const Scene& scene, const std::string& surface) {
  const auto found = scene.surfaces.find(surface);
  if (found != scene.surfaces.end() && !found->second.voice.empty()) return found->second.voice;
  for (const std::string& name : voice_names())
    if (surface.find(name) != std::string::npos) return name;
  // What surfaces are called after, where that is not the voice's name.
  static constexpr std::pair<const char*, const char*> kin[] = {
      {"oak", "wood"},      {"pine", "wood"},  {"plank", "wood"}, {"granite", "stone"}, {"slate", "stone"},
      {"brick", "stone"},   {"quay", "stone"}, {"steel", "iron"}, {"bronze", "iron"},   {"metal", "iron"},
      {"earthen", "stone"}, {"wool", "cloth"}, {"net", "rope"},   {"sail", "cloth"}};
  for (const auto& [word, voice] : kin)
    if (surface.find(word) != std::string::npos) return voice;
  return "wood";
}

}  // namespace bronvel
