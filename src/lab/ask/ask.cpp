// Asking again, and what differs between two times of asking.
#include "lab/ask/ask.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "geometry/base/error.h"
#include "scene/properties/setting_place.h"
#include "script/calls/reading.h"
#include "script/calls/setting.h"

namespace bronvel {
namespace {

// What an input set; none if it is no such input, or of what the scene has not.
std::optional<SettingText> setting_of(const Scene& scene, const Input& input) {
  if (input.kind != Input::Kind::set) return std::nullopt;
  try {
    return setting_named(scene, input.name);
  } catch (const Error&) {
    return std::nullopt;
  }
}

// What is set, by its text alone: "fender.dials.nudge.lua/push=3" is the script's, without it that of whichever has the
// dial.
struct SetThing {
  std::string name, script;
};

SetThing set_thing(const std::string& assignment) {
  constexpr std::string_view dials = ".dials.";
  SetThing thing{assignment.substr(0, assignment.find('=')), ""};
  const auto at = thing.name.find(dials), slash = thing.name.rfind('/');
  if (at == std::string::npos || slash == std::string::npos) return thing;
  const auto begin = at + dials.size();
  thing.script = thing.name.substr(begin, slash - begin);
  thing.name.erase(begin, slash + 1 - begin);
  return thing;
}

std::string short_text(const Value& value) {
  if (const auto* number = std::get_if<double>(&value)) {
    char text[32];
    std::snprintf(text, sizeof text, "%.4g", *number);
    return text;
  }
  if (const auto* v = std::get_if<Vec3>(&value)) {
    char text[96];
    std::snprintf(text, sizeof text, "(%.4g, %.4g, %.4g)", v->x(), v->y(), v->z());
    return text;
  }
  if (std::holds_alternative<std::monostate>(value)) return "the surface's";
  return value_text(value);
}

std::string arrow(const std::string& what, const std::string& before, const std::string& after) {
  return what + " " + before + " → " + after;
}

// Adds what differs of the listed properties.
template <class Owner>
void add_unlike(std::vector<std::string>& all, std::span<const PropertyOf<Owner>> list, const Owner& then,
                const Owner& now, const std::string& of) {
  for (const PropertyOf<Owner>& property : list) {
    const Value a = property.get(then), b = property.get(now);
    if (!same_value(a, b)) all.push_back(of + arrow(property.label, short_text(a), short_text(b)));
  }
}

}  // namespace

Question question_of(const Take& take) {
  return {take.folder, take.seed, take.inputs, std::max<std::int64_t>(take.ticks - 1, 0)};
}

Question question_of(const Take& take, const SceneFolder& now) {
  Question question = question_of(take);
  question.folder = now;
  const double rate = now.scene.world.tick_rate;
  question.ticks = tick_at_rate(question.ticks, take.tick_rate(), rate);
  question.inputs = inputs_at_rate(std::move(question.inputs), take.tick_rate(), rate);
  std::erase_if(question.inputs, [&](const Input& input) {
    if (input.kind == Input::Kind::script) {
      // A text that was loaded in mid-play counts until it is typed otherwise.
      const auto then = take.folder.scripts.find(input.name), typed = now.scripts.find(input.name);
      return typed == now.scripts.end() || then == take.folder.scripts.end() || then->second != typed->second;
    }
    const auto setting = setting_of(now.scene, input);
    // What it was of is gone: it would come to nothing.
    if (!setting) return setting_of(take.folder.scene, input).has_value();
    return !same_value(value_at(take.folder.scene, setting->place), value_at(now.scene, setting->place));
  });
  return question;
}

std::vector<Input> without_settings(std::vector<Input> inputs, const std::vector<std::string>& settings) {
  std::vector<SetThing> set;
  set.reserve(settings.size());
  for (const std::string& each : settings) set.push_back(set_thing(each));
  std::erase_if(inputs, [&](const Input& input) {
    if (input.kind != Input::Kind::set) return false;
    const SetThing thing = set_thing(input.name);
    return std::any_of(set.begin(), set.end(), [&](const SetThing& each) {
      return each.name == thing.name && (each.script == thing.script || each.script.empty() || thing.script.empty());
    });
  });
  return inputs;
}

std::shared_ptr<SharedTake> ask(const Question& question,
                                const std::function<void(const std::shared_ptr<SharedTake>&, const Play&)>& begun,
                                const std::function<bool(Play&)>& go_on) {
  Play play(question.folder, question.seed, question.inputs);
  auto take = std::make_shared<SharedTake>(question.folder, play);
  take->add_log(play.take_log());
  if (begun) begun(take, play);
  for (std::int64_t i = 0; i < question.ticks; ++i) {
    play.step();
    take->record(play, play.take_log());
    if (go_on && !go_on(play)) break;
  }
  take->finish(play);
  return take;
}

bool plays_alike(const SceneFolder& a, const SceneFolder& b) {
  if (a.scripts != b.scripts) return false;
  const auto bare = [](Scene scene) {
    scene.view = {};
    scene.views.clear();
    scene.lanes.clear();
    scene.checks.clear();
    scene.name.clear();
    scene.about.clear();
    scene.tasks.clear();
    scene.seed = 0;  // a take has its own
    return scene;
  };
  return bare(a.scene) == bare(b.scene);
}

std::vector<std::string> differences(const SceneFolder& before, const SceneFolder& after) {
  std::vector<std::string> all;
  // The same change of many bodies is said once.
  std::vector<std::pair<std::string, int>> of_bodies;
  std::map<std::string, std::string> whose;
  const auto say = [&](const std::string& body, const std::string& text) {
    const auto known =
        std::find_if(of_bodies.begin(), of_bodies.end(), [&](const auto& each) { return each.first == text; });
    if (known != of_bodies.end()) {
      ++known->second;
      return;
    }
    of_bodies.emplace_back(text, 1);
    whose[text] = body;
  };
  std::set<std::string> left;
  for (const Body& body : before.scene.bodies) left.insert(body.name);
  int came = 0;
  for (const Body& now : after.scene.bodies) {
    const Body* then = before.scene.find(now.name);
    left.erase(now.name);
    if (!then) {
      ++came;
      continue;
    }
    if (*then == now) continue;
    for (const Property& property : body_properties()) {
      const Value a = property.get(*then), b = property.get(now);
      if (!same_value(a, b)) say(now.name, arrow(property.label, short_text(a), short_text(b)));
    }
    if (!(then->shape == now.shape)) say(now.name, "shape");
    for (const ScriptUse& use : now.scripts)
      for (const ScriptUse& old : then->scripts) {
        if (old.file != use.file || old.dials == use.dials) continue;
        std::set<std::string> dials;
        for (const auto& [name, value] : use.dials) dials.insert(name);
        for (const auto& [name, value] : old.dials) dials.insert(name);
        for (const std::string& name : dials) {
          const auto a = old.dials.find(name), b = use.dials.find(name);
          if (a != old.dials.end() && b != use.dials.end() && a->second == b->second) continue;
          const auto text = [&](const auto& found, const auto& end, const SceneFolder& folder) {
            if (found != end) return short_text(value_of(found->second));
            for (const Dial& dial : read_script(use.file, folder.scripts).dials)
              if (dial.name == name) return short_text(value_of(dial.default_value));
            return std::string("none");
          };
          say(now.name, arrow(name, text(a, old.dials.end(), before), text(b, use.dials.end(), after)));
        }
      }
    const auto files = [](const Body& body) {
      std::vector<std::string> names;
      for (const ScriptUse& use : body.scripts) names.push_back(use.file);
      return names;
    };
    if (files(*then) != files(now)) say(now.name, "its scripts");
  }
  const bool one_body = after.scene.bodies.size() < 2;
  all.reserve(of_bodies.size());
  for (const auto& [text, count] : of_bodies)
    all.push_back(count > 1 ? text + " of " + std::to_string(count) : one_body ? text : whose[text] + " " + text);
  const auto bodies = [](int count) { return std::to_string(count) + (count == 1 ? " body" : " bodies"); };
  if (came > 0) all.push_back(bodies(came) + " more");
  if (!left.empty()) all.push_back(bodies(static_cast<int>(left.size())) + " less");

  for (const auto& [name, now] : after.scene.surfaces)
    if (const auto then = before.scene.surfaces.find(name); then != before.scene.surfaces.end())
      add_unlike(all, surface_properties(), then->second, now, name + " ");
  add_unlike(all, world_properties(), before.scene.world, after.scene.world, "");
  const auto part = [&](const char* what, const auto& then, const auto& now) {
    if (!(then == now)) all.emplace_back(what);
  };
  const auto things = [&](const char* what, const auto& then, const auto& now, const auto&... lists) {
    const auto same_names = [](const auto& a, const auto& b) { return a.name == b.name; };
    const std::size_t told = all.size();
    if (std::equal(then.begin(), then.end(), now.begin(), now.end(), same_names))
      for (std::size_t i = 0; i < now.size(); ++i) (add_unlike(all, lists, then[i], now[i], now[i].name + " "), ...);
    // Came, went, or differs in what has no name.
    if (!(then == now) && all.size() == told) all.emplace_back(what);
  };
  things("joints", before.scene.joints, after.scene.joints, joint_properties(), axis_properties());
  things("zones", before.scene.zones, after.scene.zones, zone_properties(), zone_form_properties());
  part("paths", before.scene.paths, after.scene.paths);
  part("cues", before.scene.cues, after.scene.cues);
  part("actions", before.scene.actions, after.scene.actions);
  part("stamps", before.scene.stamps, after.scene.stamps);
  part("groups", before.scene.groups, after.scene.groups);
  part("what falls out", before.scene.sweep_away, after.scene.sweep_away);
  for (const auto& [file, text] : after.scripts) {
    const auto found = before.scripts.find(file);
    if (found == before.scripts.end())
      all.push_back(file + " is new");
    else if (found->second != text)
      all.push_back(file);
  }
  // Whatever this list does not know of, it must not pass for the same.
  if (all.empty() && !plays_alike(before, after)) all.emplace_back("other settings");
  return all;
}

void take_values_back(Scene& scene, const Take& take) {
  for (Body& body : scene.bodies) {
    const Body* then = take.folder.scene.find(body.name);
    if (!then) continue;
    for (const Property& property : body_properties()) {
      const Value value = property.get(*then);
      const bool surface_gone =
          property.name == "surface" && !scene.surfaces.contains(then->surface) && !then->surface.empty();
      if (!same_value(value, property.get(body)) && !surface_gone) property.set(body, value);
    }
    for (ScriptUse& use : body.scripts)
      for (const ScriptUse& old : then->scripts)
        if (old.file == use.file) use.dials = old.dials;
  }
  const auto of_same_name = [](auto& now, const auto& then, const auto& use) {
    for (auto& each : now)
      for (const auto& old : then)
        if (old.name == each.name) use(each, old);
  };
  of_same_name(scene.joints, take.folder.scene.joints, [](SceneJoint& now, const SceneJoint& then) {
    for (const JointProperty& property : joint_properties())
      if (counts_in_play({SettingOf::joint, now.name, property.name})) property.set(now, property.get(then));
    now.axes = then.axes;
  });
  of_same_name(scene.zones, take.folder.scene.zones, [](SceneZone& now, const SceneZone& then) {
    for (const ZoneProperty& property : zone_properties()) property.set(now, property.get(then));
  });
  for (auto& [name, surface] : scene.surfaces)
    if (const auto found = take.folder.scene.surfaces.find(name); found != take.folder.scene.surfaces.end())
      surface = found->second;
  scene.world = take.folder.scene.world;
  // Of what was set again and again, the last; what a dial may be its script says.
  std::map<std::string, std::string> last;
  for (const Input& input : take.inputs) {
    const auto setting = setting_of(scene, input);
    if (!setting) continue;
    const SettingPlace& place = setting->place;
    // Where it was put by hand in mid-play is no start.
    if (place.of == SettingOf::body && (place.name == "position" || place.name == "orientation" ||
                                        place.name == "velocity" || place.name == "angular_velocity"))
      continue;
    last[place_text(place)] = input.name;
  }
  SceneFolder folder{{}, scene, take.folder.scripts};
  for (const auto& [place, assignment] : last) {
    try {
      put_setting(folder, assignment);
    } catch (const Error&) {
      // It does not fit the scene any more.
    }
  }
  scene = std::move(folder.scene);
}

std::string on_one_line(const std::vector<std::string>& differences) {
  std::string all;
  for (const std::string& each : differences) all += (all.empty() ? "" : ", ") + each;
  return all;
}

}  // namespace bronvel
