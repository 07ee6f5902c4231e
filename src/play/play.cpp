// Playing a scene.
#include "play/play.h"

#include "geometry/error.h"

namespace bronvel {

void keep_change(Scene& scene, const Change& change) {
  Body* body = scene.find(change.body);
  if (!body) throw Error(change.body, "is no longer in the scene");
  if (change.script.empty()) {
    const Property* property = find_property(change.name);
    if (!property) throw Error(change.body + "." + change.name, "is not a property");
    property->set(*body, change.after);
    return;
  }
  for (ScriptUse& use : body->scripts)
    if (use.file == change.script) {
      use.dials[change.name] = std::get<double>(change.after);
      return;
    }
  throw Error(change.body, "no longer carries " + change.script);
}

Play::Play(const SceneFolder& folder, std::uint64_t seed)
    : running_(folder.scene), seed_(seed), scripts_(running_, seed) {
  for (const Body& body : folder.scene.bodies)
    for (const ScriptUse& use : body.scripts) {
      const auto source = folder.scripts.find(use.file);
      if (source == folder.scripts.end()) throw Error(body.name, "names the script " + use.file + ", which is missing");
      scripts_.add(*running_.find(body.name), use, source->second);
    }
  scripts_.play();
}

void Play::step() {
  scripts_.timers();
  scripts_.tick(1.0 / running_.world.settings().tick_rate);
  running_.world.step();

  events_.clear();
  for (const ContactEvent& contact : running_.world.contacts()) {
    if (contact.phase == ContactPhase::stay) continue;
    PlayEvent event;
    event.tick = tick();
    event.phase = contact.phase;
    event.a = running_.name_of(contact.a);
    event.b = running_.name_of(contact.b);
    if (!contact.points.empty()) event.point = contact.points.front();
    event.normal = contact.normal;
    event.speed = contact.closing_speed;
    event.impulse = contact.normal_impulse;
    events_.push_back(event);
  }
  snaps_.clear();
  for (const SnapEvent& snap : running_.world.snaps())
    snaps_.push_back({tick(), running_.name_of(snap.joint), running_.name_of(snap.settings.a),
                      running_.name_of(snap.settings.b), snap.reading.force.norm(), snap.reading.torque.norm()});
  for (const FaultEvent& fault : running_.world.faults()) {
    LogLine line;
    line.level = LogLevel::warning;
    line.tick = tick();
    line.body = running_.name_of(fault.body);
    line.text = fault.reason;
    log_.push_back(line);
  }
  // Handlers may change the world, and with it the list of contacts: go through a copy.
  const std::vector<ContactEvent> contacts(running_.world.contacts().begin(), running_.world.contacts().end());
  const std::vector<SnapEvent> snaps(running_.world.snaps().begin(), running_.world.snaps().end());
  for (const ContactEvent& contact : contacts) scripts_.contact(contact);
  for (const SnapEvent& snap : snaps) scripts_.snap(snap);
}

std::vector<LogLine> Play::take_log() {
  std::vector<LogLine> lines;
  lines.swap(log_);
  for (LogLine& line : scripts_.take_log()) lines.push_back(std::move(line));
  return lines;
}

BodyHandle Play::body_called(const std::string& name) const {
  const auto body = running_.find(name);
  if (!body) throw Error(name, "there is no body of that name");
  return *body;
}

void Play::set(const std::string& name, const std::string& property_name, const Value& value) {
  const BodyHandle body = body_called(name);
  const Property* property = find_property(property_name);
  if (!property) throw Error(name + "." + property_name, "is not a property of a body");
  const Value before = running_.value(body, *property);
  running_.set(body, *property, value);
  remember(name, "", property_name, before, value);
}

void Play::set_dial(const std::string& name, const std::string& script, const std::string& dial, double value) {
  const BodyHandle body = body_called(name);
  double before = 0;
  for (const Dial& d : scripts_.dials(body))
    if (d.script == script && d.name == dial) before = d.value;
  scripts_.set_dial(body, script, dial, value);
  remember(name, script, dial, before, value);
}

void Play::set_from_text(const std::string& assignment) {
  const auto equals = assignment.find('=');
  const auto dot = assignment.find('.');
  if (equals == std::string::npos || dot == std::string::npos || dot > equals)
    throw Error(assignment, "wants BODY.PROPERTY=VALUE, such as fender.mass=4");
  const std::string body = assignment.substr(0, dot);
  const std::string name = assignment.substr(dot + 1, equals - dot - 1);
  const std::string text = assignment.substr(equals + 1);
  if (name.starts_with("dials.")) {
    Property number;
    number.name = name;
    const double value = std::get<double>(value_from_text(number, text, body + "." + name));
    for (const Dial& dial : scripts_.dials(body_called(body)))
      if (dial.name == name.substr(6)) {
        set_dial(body, dial.script, dial.name, value);
        return;
      }
    throw Error(body + "." + name, "there is no such dial");
  }
  const Property* property = find_property(name);
  if (!property) {
    std::string known;
    for (const Property& p : body_properties()) known += (known.empty() ? "" : ", ") + p.name;
    throw Error(body + "." + name, "is not a property of a body", "known: " + known + ", dials.NAME");
  }
  set(body, name, value_from_text(*property, text, body + "." + name));
}

void Play::remember(const std::string& body, const std::string& script, const std::string& name, const Value& before,
                    const Value& after) {
  for (Change& change : changes_)
    if (change.body == body && change.script == script && change.name == name) {
      change.after = after;
      return;
    }
  changes_.push_back({body, script, name, before, after});
}

std::vector<Change> Play::changes() const {
  std::vector<Change> real;
  for (const Change& change : changes_)
    if (!same_value(change.before, change.after)) real.push_back(change);
  return real;
}

}  // namespace bronvel
