// What the scene's world has, and what its surfaces have.
#include "scene/properties/property_makers.h"

namespace bronvel {
namespace {

const std::vector<std::string> combine_words{"average", "minimum", "maximum", "multiply"};

std::vector<WorldProperty> make_world_list() {
  constexpr const char* group = "What holds for all?";
  std::vector<WorldProperty> list;
  list.push_back(listed::vector("gravity", "gravity", "m/s²", group, &WorldSettings::gravity,
                                "of every body that has no other by its zone"));
  list.push_back(listed::number("tick_rate", "tick rate", "Hz", group, 1, 10000, &WorldSettings::tick_rate,
                                "ticks a second, as in the game"));
  auto substeps = listed::described<WorldSettings>(PropertyKind::number, "substeps", "sub-steps", "", group,
                                                   "steps of the solver in a tick, a whole number");
  substeps.low = 1;
  substeps.high = 64;
  substeps.whole = true;
  substeps.get = [](const WorldSettings& w) { return Value(static_cast<double>(w.substeps)); };
  substeps.set = [](WorldSettings& w, const Value& v) { w.substeps = static_cast<int>(std::get<double>(v)); };
  list.push_back(substeps);
  list.push_back(listed::number("restitution_speed", "restitution from", "m/s", group, 0, 1e6,
                                &WorldSettings::restitution_speed, "closing speed below which a hit does not bounce"));
  list.push_back(listed::number("air_density", "air density", "kg/m³", group, 0, 1e6, &WorldSettings::air_density,
                                "for drag areas"));
  list.push_back(listed::number("rest_way", "rest way", "m", group, 0, 1, &WorldSettings::rest_way,
                                "a body that moves less than this in half a second may sleep; 0: none does"));
  list.push_back(listed::flag("planar", "planar", group, &WorldSettings::planar,
                              "dynamic bodies move in X and Y and turn about Z only"));
  return list;
}

std::vector<SurfaceProperty> make_surface_list() {
  constexpr const char* group = "How does it meet others?";
  std::vector<SurfaceProperty> list;
  const auto number = [&](const char* name, const char* label, double high, auto field, const char* tip) {
    auto p = listed::described<SceneSurface>(PropertyKind::number, name, label, "", group, tip);
    p.low = 0;
    p.high = high;
    p.get = [field](const SceneSurface& s) { return Value(s.*field); };
    p.set = [field](SceneSurface& s, const Value& v) { s.*field = std::get<double>(v); };
    list.push_back(p);
  };
  const auto rule = [&](const char* name, const char* label, auto field, const char* tip) {
    auto p = listed::described<SceneSurface>(PropertyKind::word, name, label, "", group, tip);
    p.words = combine_words;
    p.get = [field](const SceneSurface& s) { return Value(std::string(combine_word(s.*field))); };
    p.set = [field](SceneSurface& s, const Value& v) { s.*field = *combine_from_word(std::get<std::string>(v)); };
    list.push_back(p);
  };
  number("static_friction", "static friction", 10, &SceneSurface::static_friction,
         "what holds it, of the normal force");
  number("dynamic_friction", "dynamic friction", 10, &SceneSurface::dynamic_friction,
         "what brakes it as it slides, of the normal force");
  number("rolling_friction", "rolling friction", 10, &SceneSurface::rolling_friction, "what brakes it as it rolls");
  number("restitution", "restitution", 1, &SceneSurface::restitution,
         "share of the closing speed that a hit gives back");
  rule("friction_combine", "friction combines", &SceneSurface::friction_combine, "with another surface's");
  rule("restitution_combine", "restitution combines", &SceneSurface::restitution_combine, "with another surface's");
  list.push_back(listed::text("voice", "voice", group, &SceneSurface::voice, "how it sounds when it is struck"));
  number("pitch_spread", "pitch spread", 1, &SceneSurface::pitch_spread, "by how much each hit's pitch differs");
  number("loudness_spread", "loudness spread", 1, &SceneSurface::loudness_spread,
         "by how much each hit's loudness differs");
  return list;
}

}  // namespace

std::span<const WorldProperty> world_properties() {
  static const std::vector<WorldProperty> list = make_world_list();
  return list;
}

std::span<const SurfaceProperty> surface_properties() {
  static const std::vector<SurfaceProperty> list = make_surface_list();
  return list;
}

}  // namespace bronvel
