// Properties and dials of bodies: in the running play if there is one, else in the document.
#include "app/session/session.h"
#include "geometry/base/error.h"
#include "scene/edits/script_edits.h"
#include "script/calls/setting.h"

namespace bronvel {

Value Session::value(const std::string& body, const Property& property) {
  const Body* found = scene().find(body);
  if (!runner_ && (found || !head_)) return found ? property.get(*found) : Value();
  if (head_) {
    Value then;
    const auto look = [&](const Take& take, TakeReader& reader) {
      if (const auto settings = reader.settings(take, body, *head_)) then = property.get(*settings);
      const auto reading = reader.body(take, body, *head_);
      if (!reading) return;
      if (property.name == "position") then = reading->pose.position;
      if (property.name == "orientation") then = reading->pose.orientation;
      if (property.name == "velocity") then = reading->velocity;
      if (property.name == "angular_velocity") then = reading->angular_velocity;
    };
    with_take(look);
    // A play that goes on from a take is not there yet: it is as the take was.
    if (pause_at_ && std::holds_alternative<std::monostate>(then)) with_compared(look);
    return then;
  }
  const std::string key = body + "." + property.name;
  Value now;
  if (with_play([&](Play& play) {
        const auto handle = play.running().find(body);
        if (handle) now = play.running().value(*handle, property);
      }))
    return values_read_[key] = now;
  const auto read = values_read_.find(key);
  return read != values_read_.end() ? read->second : found ? property.get(*found) : Value();
}

std::optional<Body> Session::made_in_play() {
  std::optional<Body> made;
  if (choice_.kind != ThingKind::body || choice_.bodies.size() != 1 || scene().find(chosen())) return made;
  if (head_)
    with_take([&](const Take& take, TakeReader& reader) {
      if (const auto settings = reader.settings(take, chosen(), *head_)) made = *settings;
    });
  else if (runner_)
    with_play([&](Play& play) {
      if (const auto handle = play.running().find(chosen())) made = *play.running().body_of(*handle);
    });
  return made;
}

std::vector<Value> Session::chosen_values(const Property& property) {
  std::vector<Value> values;
  const std::vector<const Body*> bodies = chosen_in_document();
  if (!runner_) {
    for (const Body* body : bodies) values.push_back(property.get(*body));
    return values;
  }
  if (head_) {
    for (const Body* body : bodies) values.push_back(value(body->name, property));
    return values;
  }
  const bool had = with_play([&](Play& play) {
    for (const Body* body : bodies)
      if (const auto handle = play.running().find(body->name))
        values.push_back(play.running().value(*handle, property));
  });
  if (!had)
    for (const Body* body : bodies) values.push_back(value(body->name, property));
  return values;
}

namespace {

// Sets it; throws Error when the body could not break as it then says.
void take(Body& body, const Property& property, const Value& value) {
  const Breaking before = body.breaking;
  property.set(body, value);
  if (body.breaking == before) return;
  if (const std::string fault = breaking_fault(body.shape, body.breaking); !fault.empty())
    throw Error(body.name + "." + property.name, fault);
}

}  // namespace

void Session::with_settings(const std::function<void(const Scene&)>& use) {
  if (!runner_) return use(scene());
  if (!head_) {
    if (!with_play([&](Play& play) { use(play.running().scene); })) use(scene());
    return;
  }
  with_take([&](const Take& take, TakeReader&) {
    Scene then = settings_at(take, *head_);
    then.zones = moment_.frame.zones;
    use(then);
  });
}

void Session::set_value(const SettingPlace& place, const Value& value) {
  if (runner_ && counts_in_play(place)) {
    order([place, value](Play& play) { play.set(place, value); });
    tuned_ = true;
    emit values_changed();
    return;
  }
  const PropertyInfo* info = info_at(place);
  const QString label = QString::fromStdString(info ? info->label : place.name),
                owner = QString::fromStdString(place.owner);
  edit((owner.isEmpty() ? "" : owner + ": ") + label + " " + QString::fromStdString(value_text(value)),
       [&](Scene& scene) { set_value_at(scene, place, value); });
  if (runner_) say((owner.isEmpty() ? label : owner + "'s " + label) + " counts from the next play.");
}

void Session::set_value(const std::string& body, const Property& property, const Value& value) {
  if (runner_) return set_value(body_place(body, property.name), value);
  const std::string fault = value_fault(property, value);
  if (!fault.empty()) throw Error(body + "." + property.name, fault);
  if (property.name == "surface" && !scene().surfaces.contains(std::get<std::string>(value)))
    throw Error(body + ".surface", "there is no surface called " + value_text(value));
  edit(QString::fromStdString(body + ": " + property.label + " " + value_text(value)), [&](Scene& scene) {
    if (Body* found = scene.find(body)) take(*found, property, value);
  });
}

void Session::set_values(const BodyNames& bodies, const Property& property, const QString& about,
                         const std::function<Value(const Body&)>& value_of) {
  const std::set<std::string> wanted(bodies.begin(), bodies.end());
  // All are looked at before any is changed.
  std::vector<std::pair<std::string, Value>> values;
  const auto look = [&](const Scene& now) {
    for (const Body& body : now.bodies) {
      if (!wanted.contains(body.name)) continue;
      const Value value = value_of(body);
      const std::string fault = value_fault(property, value);
      if (!fault.empty()) throw Error(body.name + "." + property.name, fault);
      if (property.name == "surface" && !now.surfaces.contains(std::get<std::string>(value)))
        throw Error(body.name + ".surface", "there is no surface called " + value_text(value));
      values.emplace_back(body.name, value);
    }
  };
  if (runner_) {
    if (!with_play([&](Play& play) {
          look(play.running().scene);
          for (const auto& [name, value] : values) play.set(body_place(name, property.name), value);
        }))
      throw Error("", "this tick takes long: nothing was changed", "try again when it has ended");
    tuned_ = true;
    emit values_changed();
    return;
  }
  look(scene());
  edit(about, [&](Scene& changed) {
    std::size_t next = 0;
    for (Body& body : changed.bodies)
      if (next < values.size() && values[next].first == body.name) take(body, property, values[next++].second);
  });
}

Surface Session::surface_now(const std::string& body) {
  if (runner_) {
    Surface now;
    if (with_play([&](Play& play) {
          const Body* found = play.running().scene.find(body);
          if (found) now = surface_of(play.running().scene, *found);
        }))
      return now;
  }
  const Body* found = scene().find(body);
  return found ? surface_of(scene(), *found) : Surface{};
}

EntryNames Session::entry_names() {
  EntryNames names;
  with_settings([&](const Scene& now) { names["g"] = now.world.gravity.norm(); });
  const Body* body = scene().find(chosen());
  if (!body) return names;
  const Value mass = value(body->name, *find_property("mass"));
  const Value factor = value(body->name, *find_property("gravity_factor"));
  if (const auto* kilograms = std::get_if<double>(&mass)) {
    names["mass"] = *kilograms;
    const auto* times = std::get_if<double>(&factor);
    names["weight"] = *kilograms * names["g"] * (times ? *times : 1);
  }
  return names;
}

std::vector<Dial> Session::dials(const std::string& body) {
  std::vector<Dial> all;
  if (runner_) {
    const bool had = with_play([&](Play& play) {
      const auto handle = play.running().find(body);
      if (handle) all = play.scripts().dials(*handle);
    });
    if (had) dials_read_[body] = all;
    if (!had) all = dials_read_[body];
    if (head_)  // as they stood at that moment
      with_take([&](const Take& take, TakeReader& reader) {
        for (Dial& dial : all) {
          Channel channel;
          channel.of = Channel::Of::dial;
          channel.owner = body;
          channel.script = dial.script;
          channel.quantity = dial.name;
          channel.name = body + ".dials." + dial.script + "/" + dial.name;
          if (const double then = reader.number(take, channel, 0, *head_); std::isfinite(then)) {
            if (std::holds_alternative<double>(dial.value)) dial.value = then;
            if (std::holds_alternative<bool>(dial.value)) dial.value = then != 0;
          }
        }
      });
    return all;
  }
  const Body* found = scene().find(body);
  if (!found) return all;
  for (const ScriptUse& use : found->scripts) {
    const auto declared = declared_.find(use.file);
    if (declared == declared_.end()) continue;
    for (Dial dial : declared->second) {
      const auto set = use.dials.find(dial.name);
      if (set != use.dials.end() && dial_fault(dial, set->second).empty()) dial.value = set->second;
      all.push_back(dial);
    }
  }
  return all;
}

void Session::check_counts(const Dial& dial) const {
  if (dial_counts(dial)) return;
  throw Error(dial.script, "does not load, so its dial counts for nothing: " + loads_not(dial.script)->placed(),
              "mend the script first");
}

void Session::try_dial(const std::string& body, const Dial& dial, const DialValue& value) {
  check_counts(dial);
  if (runner_)
    set_dial(body, dial, value);
  else
    try_out([&](Scene& scene) { turn_dial(scene, body, dial.script, dial.name, value); });
}

void Session::settle_dial(const std::string& body, const Dial& dial, const DialValue& value) {
  if (!runner_) settle(QString::fromStdString(body + ": " + dial.name + " " + value_text(value_of(value))));
}

void Session::set_dial(const std::string& body, const Dial& dial, const DialValue& value) {
  check_counts(dial);
  if (runner_) return set_value(dial_place(body, dial.script, dial.name), value_of(value));
  edit(QString::fromStdString(body + ": " + dial.name + " " + value_text(value_of(value))),
       [&](Scene& scene) { turn_dial(scene, body, dial.script, dial.name, value); });
}

}  // namespace bronvel
