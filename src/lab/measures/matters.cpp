// Varying every number of a scene by a tenth.
#include "lab/measures/matters.h"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <set>

#include "geometry/base/error.h"
#include "lab/measures/side_by_side.h"
#include "scene/properties/setting_place.h"
#include "script/calls/reading.h"

namespace bronvel {
namespace {

constexpr double share = 0.1;  // of the value, or of its range where the value is nought

// Of the words that numbers stand behind in a name of a row: "crate_12" is one of "crate_*".
std::string stem_of(const std::string& name) {
  const auto end = name.find_last_not_of("0123456789");
  if (end == std::string::npos || end + 1 == name.size() || name[end] != '_') return "";
  return name.substr(0, end + 1) + "*";
}

class Numbers {
 public:
  explicit Numbers(const SceneFolder& folder) : folder_(folder) {}

  void add_all() {
    const Scene& scene = folder_.scene;
    for (const Body& body : scene.bodies) {
      for (const Property& property : body_properties())
        if (matters(body, property)) add(body.name, property, property.get(body));
      add_dials(body);
    }
    for (const SceneJoint& joint : scene.joints) {
      for (const JointProperty& property : joint_properties()) add(joint.name, property, property.get(joint));
    }
    for (const SceneZone& zone : scene.zones)
      for (const ZoneProperty& property : zone_properties()) add(zone.name, property, property.get(zone));
    std::set<std::string> used;
    for (const Body& body : scene.bodies) used.insert(body.surface);
    for (const auto& [name, surface] : scene.surfaces)
      if (used.contains(name))
        for (const SurfaceProperty& property : surface_properties())
          if (property.name != "pitch_spread" && property.name != "loudness_spread")
            add("surfaces." + name, property, property.get(surface));
    for (const WorldProperty& property : world_properties())
      if (property.name != "substeps" && property.name != "tick_rate")
        add("world", property, property.get(scene.world));
  }

  std::vector<Matter> all;
  std::size_t left_out = 0;
  std::vector<std::pair<std::string, Vec3>> vectors;  // what those names are of

 private:
  // Where it stands is not what is tuned; what does not move has no mass and no drag.
  static bool matters(const Body& body, const Property& property) {
    if (property.name == "position" || property.name == "orientation" || property.name == "colour") return false;
    if (property.group == "When does it break?" && body.breaking.into == Breaking::Into::nothing) return false;
    if (body.kind == MotionKind::dynamic) return true;
    return property.name == "restitution" || property.name == "friction" ||
           (body.kind == MotionKind::kinematic && (property.name == "velocity" || property.name == "angular_velocity"));
  }

  void add(const std::string& owner, const PropertyInfo& info, const Value& value) {
    if (const auto* number = std::get_if<double>(&value)) {
      add_number(owner, info.name, *number, info.low, info.high, info.unit);
      return;
    }
    const auto* vector = std::get_if<Vec3>(&value);
    if (!vector || vector->isZero()) return;
    // A vector grows and shrinks along itself.
    Matter matter;
    matter.name = owner + "." + info.name;
    matter.value = vector->norm();
    matter.unit = info.unit;
    matter.vector = true;
    matter.to = 2 * matter.value;
    matter.low = (1 - share) * matter.value;
    matter.high = (1 + share) * matter.value;
    vectors.push_back({matter.name, *vector});
    all.push_back(matter);
  }

  void add_number(const std::string& owner, const std::string& name, double value, double low, double high,
                  const std::string& unit) {
    Matter matter;
    matter.name = owner + "." + name;
    matter.value = value;
    matter.unit = unit;
    // Of a share, or a dial, that is nought: a tenth of its range.
    const bool ranged = name.starts_with("dials.") ? high > low : low == 0 && high == 1;
    if (value == 0 && !ranged) {
      ++left_out;
      return;
    }
    matter.from = ranged ? low : std::max(std::min(0.25 * value, 2 * value), low);
    matter.to = ranged ? high : std::min(std::max(0.25 * value, 2 * value), high);
    const double step = value != 0 ? share * std::abs(value) : share * (high - low);
    matter.low = std::max(value - step, low);
    matter.high = std::min(value + step, high);
    if (same_as_fellows(owner, name, value)) return;
    all.push_back(matter);
  }

  // Of bodies called in a row whose numbers are alike, one stands for all.
  bool same_as_fellows(const std::string& owner, const std::string& name, double value) {
    const std::string stem = stem_of(owner);
    if (stem.empty()) return false;
    const std::string together = stem + "." + name;
    for (Matter& each : all)
      if (each.name == together && each.value == value) return true;
    for (Matter& each : all) {
      const auto dot = each.name.find('.');
      if (each.value == value && each.name.substr(dot) == "." + name && stem_of(each.name.substr(0, dot)) == stem) {
        if (!all_alike(stem, name, value)) return false;
        each.name = together;
        return true;
      }
    }
    return false;
  }

  bool all_alike(const std::string& stem, const std::string& name, double value) const {
    const Property* property = find_property(name);
    if (!property) return false;
    return std::all_of(folder_.scene.bodies.begin(), folder_.scene.bodies.end(), [&](const Body& body) {
      if (!body.name.starts_with(stem.substr(0, stem.size() - 1))) return true;
      const Value other = property->get(body);
      const auto* number = std::get_if<double>(&other);
      return number && *number == value;
    });
  }

  void add_dials(const Body& body) {
    for (const ScriptUse& use : body.scripts)
      for (const Dial& dial : read_script(use.file, folder_.scripts).dials) {
        if (!std::holds_alternative<double>(dial.default_value)) continue;
        const auto own = use.dials.find(dial.name);
        const double value = std::get<double>(own != use.dials.end() ? own->second : dial.default_value);
        add_number(body.name, "dials." + use.file + "/" + dial.name, value, dial.from, dial.to, dial.unit);
      }
  }

  const SceneFolder& folder_;
};

}  // namespace

double Matter::change() const {
  return 0.5 * (at_high - at_low);
}

std::vector<Matter> numbers_of(const SceneFolder& folder, std::size_t* left_out) {
  Numbers numbers(folder);
  numbers.add_all();
  if (left_out) *left_out = numbers.left_out;
  return numbers.all;
}

std::string number_words(const std::string& name) {
  const auto dot = name.find('.'), slash = name.rfind('/');
  std::string owner = name.substr(0, dot), number = name.substr(dot + 1);
  if (owner == "surfaces") {
    const auto second = number.find('.');
    owner = number.substr(0, second);
    number.erase(0, second + 1);
  }
  if (slash != std::string::npos)
    number = name.substr(slash + 1);
  else if (number.starts_with("dials."))
    number.erase(0, 6);
  std::replace(number.begin(), number.end(), '_', ' ');
  return owner == "world" ? number : number + " of " + owner;
}

Matters what_matters(const Study& study, const Measure& measure, int jobs,
                     const std::function<void(const Matter&)>& tell, const std::atomic<bool>* stop) {
  Numbers numbers(study.folder);
  numbers.add_all();
  Matters matters;
  matters.left_out = numbers.left_out;
  matters.all = numbers.all;
  matters.as_it_is = try_out(question_of(study, {}), std::span(&measure, 1), "", stop).values[0];
  const auto text_of = [&](const Matter& matter, double value) {
    for (const auto& [name, vector] : numbers.vectors)
      if (name == matter.name) {
        const Vec3 now = vector * (value / matter.value);
        return number_text(now.x()) + "," + number_text(now.y()) + "," + number_text(now.z());
      }
    return number_text(value);
  };
  std::mutex telling;
  side_by_side(matters.all.size(), jobs, [&](std::size_t i) {
    if (stop && stop->load(std::memory_order_relaxed)) return;
    Matter matter = matters.all[i];
    const auto measured = [&](double value) {
      if (value == matter.value) return matters.as_it_is;
      try {
        const TrialSetting setting{matter.name, text_of(matter, value)};
        TrialAnswer answer = try_out(question_of(study, std::span(&setting, 1)), std::span(&measure, 1), "", stop);
        if (!answer.fault.empty()) matter.fault = answer.fault;
        return answer.values[0];
      } catch (const Error& e) {
        matter.fault = e.what();
        return std::numeric_limits<double>::quiet_NaN();
      }
    };
    matter.at_low = measured(matter.low);
    matter.at_high = measured(matter.high);
    matter.done = !(stop && stop->load());
    const std::lock_guard<std::mutex> lock(telling);
    matters.all[i] = matter;
    if (tell) tell(matter);
  });
  const auto weight = [&](const Matter& each) {
    if (!each.done || !each.fault.empty()) return -1.0;
    const auto off = [&](double x) {
      if (std::isnan(x) && std::isnan(matters.as_it_is)) return 0.0;
      return std::isnan(x) || std::isnan(matters.as_it_is) ? 1e300 : std::abs(x - matters.as_it_is);
    };
    return std::max(off(each.at_low), off(each.at_high));
  };
  std::stable_sort(matters.all.begin(), matters.all.end(),
                   [&](const Matter& a, const Matter& b) { return weight(a) > weight(b); });
  return matters;
}

}  // namespace bronvel
