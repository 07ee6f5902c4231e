// What the scene's world has, and what its surfaces have.
#include "scene/properties/property_makers.h"

namespace bronvel {
namespace {

const std::vector<std::string> combine_words{"average", "minimum", "maximum", "multiply"};

std::vector<WorldProperty> make_world_list() {
  constexpr const char* group = "What holds for all?";
  std::vector<WorldProperty> list;
  list.push_back(listed::vector("gravity", "gravity", "m/s²", group, &WorldSettings::gravity,
                                "of every body that has no other by its zone; Y is up: −9.81 is the Earth's"));
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
  list.push_back(listed::number("restitution_speed", "bounce from", "m/s", group, 0, 1e6,
                                &WorldSettings::restitution_speed, "closing speed below which a hit does not bounce"));
  list.push_back(listed::number("air_density", "air density", "kg/m³", group, 0, 1e6, &WorldSettings::air_density,
                                "1.2 at sea level; 0: no drag from the air"));
  list.push_back(listed::number("rest_way", "at rest within", "m", group, 0, 1, &WorldSettings::rest_way,
                                "a body that moves less than this in half a second may sleep; 0: none does"));
  list.push_back(listed::flag("planar", "planar: moves in X and Y only", group, &WorldSettings::planar,
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

std::vector<SceneProperty> make_scene_list() {
  constexpr const char* group = "What holds for all?";
  std::vector<SceneProperty> list;
  auto seed = listed::described<Scene>(PropertyKind::number, "seed", "seed", "", group,
                                       "of what is random in scripts; the same seed plays the same");
  seed.low = 0;
  seed.high = 9e15;
  seed.whole = true;
  seed.get = [](const Scene& s) { return Value(static_cast<double>(s.seed)); };
  seed.set = [](Scene& s, const Value& v) { s.seed = static_cast<std::uint64_t>(std::get<double>(v)); };
  list.push_back(seed);
  auto falls = listed::described<Scene>(PropertyKind::flag, "falls_out", "take care of what falls out", "", group,
                                        "bodies that fall out of the scene are brought back, or removed");
  falls.get = [](const Scene& s) { return Value(s.sweep_away.has_value()); };
  falls.set = [](Scene& s, const Value& v) {
    if (!std::get<bool>(v)) s.sweep_away.reset();
    if (std::get<bool>(v) && !s.sweep_away) s.sweep_away = SweepAway{};
  };
  list.push_back(falls);
  auto below = listed::described<Scene>(PropertyKind::number, "falls_below", "falls below", "m", group,
                                        "bodies whose middle falls below this height are taken care of");
  below.low = -1e6;
  below.high = 1e6;
  below.get = [](const Scene& s) { return Value(s.sweep_away.value_or(SweepAway{}).below); };
  below.set = [](Scene& s, const Value& v) {
    s.sweep_away = s.sweep_away.value_or(SweepAway{});
    s.sweep_away->below = std::get<double>(v);
  };
  list.push_back(below);
  auto back = listed::described<Scene>(PropertyKind::flag, "bring_back", "bring it back (else remove it)", "", group,
                                       "what fell out comes to where it started; off: it is removed");
  back.get = [](const Scene& s) { return Value(s.sweep_away.value_or(SweepAway{}).bring_back); };
  back.set = [](Scene& s, const Value& v) {
    s.sweep_away = s.sweep_away.value_or(SweepAway{});
    s.sweep_away->bring_back = std::get<bool>(v);
  };
  list.push_back(back);
  return list;
}

}  // namespace

std::span<const SceneProperty> scene_properties() {
  static const std::vector<SceneProperty> list = make_scene_list();
  return list;
}

std::span<const WorldProperty> world_properties() {
  static const std::vector<WorldProperty> list = make_world_list();
  return list;
}

std::span<const SurfaceProperty> surface_properties() {
  static const std::vector<SurfaceProperty> list = make_surface_list();
  return list;
}

}  // namespace bronvel
