// Playing a scene.
#include "play/run/play.h"

#include <algorithm>

#include "dynamics/world/blast.h"
#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/idle.h"
#include "script/calls/setting.h"

namespace bronvel {

namespace {

// Gusts and waves go by the play's seed.
Scene seeded(Scene scene, std::uint64_t seed) {
  scene.seed = seed;
  return scene;
}

}  // namespace

Play::Play(const SceneFolder& folder, std::uint64_t seed, std::vector<Input> inputs)
    : running_(seeded(folder.scene, seed)),
      seed_(seed),
      scripts_(running_, seed, folder.scripts),
      inputs_(std::move(inputs)) {
  for (const Body& body : folder.scene.bodies)
    for (const ScriptUse& use : body.scripts) {
      if (!folder.scripts.contains(use.file))
        throw Error(body.name, "names the script " + use.file + ", which is missing");
      scripts_.add(*running_.find(body.name), use);
    }
  for (LogLine& line : scripts_.take_log()) {
    if (line.level == LogLevel::error) load_faults_.push_back(line);
    log_.push_back(std::move(line));
  }
  for (const IdleThing& idle : idle_things(running_.scene)) report(LogLevel::warning, idle.thing, idle.what);
  scripts_.play();
  scripts_.clear_away();
  scripts_.begin_tick();
}

void Play::report(LogLevel level, const std::string& body, const std::string& text) {
  LogLine line;
  line.level = level;
  line.tick = tick();
  line.body = body;
  line.text = text;
  log_.push_back(line);
}

void Play::give(Input input) {
  input.tick = tick();
  const bool names_body = input.kind == Input::Kind::grab || input.kind == Input::Kind::flick;
  if (names_body) static_cast<void>(body_called(input.name));
  inputs_.add(std::move(input));
}

void Play::apply(const Input& input) {
  World& world = running_.world;
  switch (input.kind) {
    case Input::Kind::action:
      if (std::none_of(running_.scene.actions.begin(), running_.scene.actions.end(),
                       [&](const Action& action) { return action.name == input.name; }))
        throw Error(input.name, "the scene has no action of that name");
      scripts_.set_action(input.name, input.value);
      break;
    case Input::Kind::grab: {
      const BodyHandle body = body_called(input.name);
      hand_ = hold(world, body, input.point);
      hand_.most = input.value;
      hand_.holding = input.holding;
      scripts_.grab(body);
      break;
    }
    case Input::Kind::carry:
      hand_.at = input.point;
      break;
    case Input::Kind::drop:
      if (!hand_.held) break;
      if (world.alive(*hand_.held)) scripts_.drop(*hand_.held);
      hand_.held.reset();
      break;
    case Input::Kind::flick:
      scripts_.acting("flick");
      world.impulse_at(body_called(input.name), input.vector, input.point);
      break;
    case Input::Kind::blast:
      scripts_.acting("blast");
      scripts_.blown(input.blast.at, set_off(world, input.blast));
      break;
    case Input::Kind::point:
      scripts_.point(input.point, input.vector);
      break;
    case Input::Kind::cut:
      cut(input);
      break;
    case Input::Kind::set:
      scripts_.acting("set by hand");
      set_from_text(input.name);
      break;
    case Input::Kind::script:
      scripts_.reload(input.name, input.text);
      break;
  }
}

void Play::cut(const Input& input) {
  constexpr int most_cuts = 16;
  if (cut_tick_ != tick()) cuts_ = 0;
  cut_tick_ = tick();
  if (++cuts_ > most_cuts) throw Error(input.name, "is cut for the 17th time in one tick", "16 may be cut in a tick");
  const BodyHandle body = body_called(input.name);
  const BodyHandle other = running_.slice(body, input.point, input.vector);
  scripts_.take_up(other);
  went_to_pieces({body, other});
}

// Debris it is, and what the hand held of it it holds on to.
void Play::went_to_pieces(const std::vector<BodyHandle>& parts) {
  debris_.add(running_, parts);
  if (!keep_hold(running_.world, hand_, parts)) return;
  scripts_.drop(parts.front());
  scripts_.grab(*hand_.held);
}

// Bodies that scripts parted; the scripts of the parts may part more.
void Play::take_parted() {
  for (auto parted = scripts_.take_parted(); !parted.empty(); parted = scripts_.take_parted())
    for (const std::vector<BodyHandle>& parts : parted) {
      for (std::size_t i = 1; i < parts.size(); ++i) scripts_.take_up(parts[i]);
      went_to_pieces(parts);
    }
}

void Play::take_cracks() {
  cracks_.clear();
  const std::vector<CrackEvent> cracks(running_.world.cracks().begin(), running_.world.cracks().end());
  for (const CrackEvent& crack : cracks) {
    running_.take_parts(crack.parts);
    cracks_.push_back(named_crack(running_, crack));
  }
  for (const CrackEvent& crack : cracks)
    for (std::size_t i = 1; i < crack.parts.size(); ++i) scripts_.take_up(crack.parts[i]);
  for (const CrackEvent& crack : cracks) went_to_pieces(crack.parts);
}

void Play::clear_debris() {
  DebrisFading fading;
  for (const BodyHandle gone : debris_.clear(running_, fading)) scripts_.remove(gone);
  const auto tell = [&](const std::map<std::string, int>& counts, const char* why) {
    for (const auto& [of, count] : counts)
      report(LogLevel::print, of,
             std::to_string(count) + (count == 1 ? " piece" : " pieces") + " of debris removed: " + why);
  };
  tell(fading.old, "lasted its time");
  tell(fading.many, "more than there may be");
}

void Play::step() {
  applying_ = true;
  while (const Input* due = inputs_.take_due(tick())) {
    const Input input = *due;  // acting may add others
    try {
      apply(input);
    } catch (const Error& e) {
      ++inputs_failed_;
      report(LogLevel::warning, "", std::string("an input came to nothing: ") + e.what());
    }
  }
  applying_ = false;
  scripts_.timers();
  scripts_.cues();
  scripts_.tick(1.0 / running_.world.settings().tick_rate);
  scripts_.ride();
  scripts_.acting("hand");
  pull(running_.world, hand_);
  running_.world.step();
  take_cracks();

  read_events(running_, events_);
  for (const FaultEvent& fault : running_.world.faults())
    report(LogLevel::warning, running_.name_of(fault.body), fault.reason);
  tell_scripts();
  scripts_.blasts();
  take_parted();
  scripts_.arrive();
  sweep_away();
  clear_debris();
  scripts_.clear_away();
  running_.forget_removed();
  drawn_ = scripts_.take_drawn();
  watched_ = scripts_.take_watched();
  // What is given between two ticks spends what the next one may, as it does when it is played again as an input.
  scripts_.begin_tick();
}

// Handlers may change the world, and with it these lists: they go through copies. Of what merely lasts scripts are not
// told, and there is much of it.
void Play::tell_scripts() {
  const std::span<const ContactEvent> in_contact = running_.world.contacts();
  std::vector<ContactEvent> contacts;
  std::copy_if(in_contact.begin(), in_contact.end(), std::back_inserter(contacts),
               [](const ContactEvent& contact) { return contact.phase != ContactPhase::stay; });
  const std::vector<ZoneEvent> zones(running_.world.zone_events().begin(), running_.world.zone_events().end());
  const std::vector<SplashEvent> splashes(running_.world.splashes().begin(), running_.world.splashes().end());
  const std::vector<CrackEvent> cracks(running_.world.cracks().begin(), running_.world.cracks().end());
  const std::vector<JointBreak> snaps(running_.world.snaps().begin(), running_.world.snaps().end());
  for (const ContactEvent& contact : contacts) scripts_.contact(contact);
  for (const ZoneEvent& zone : zones) scripts_.zone(zone);
  for (const SplashEvent& splash : splashes) scripts_.splash(splash);
  for (const JointBreak& snap : snaps) scripts_.snap(snap);
  for (const CrackEvent& crack : cracks) scripts_.crack(crack);
}

void Play::sweep_away() {
  const auto& rule = running_.scene.sweep_away;
  if (!rule) return;
  World& world = running_.world;
  for (const BodyHandle body : world.bodies()) {
    if (world.body_settings(body).kind == MotionKind::fixed) continue;
    if (world.motion(body).pose.position.y() >= rule->below) continue;
    const Body* settings = running_.body_of(body);
    if (!settings) continue;
    if (rule->bring_back) {
      scripts_.acting("put back to its start");
      world.place(body, {settings->position, settings->orientation});
      world.set_velocity(body, settings->velocity);
      world.set_angular_velocity(body, settings->angular_velocity);
      report(LogLevel::print, settings->name, "fell out of the scene and was put back to its start");
    } else {
      report(LogLevel::print, settings->name, "fell out of the scene and was removed");
      scripts_.remove(body);
    }
  }
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

bool Play::reload(const std::string& file, const std::string& source) {
  const bool taken = scripts_.reload(file, source);
  Input input;
  input.tick = tick();
  input.kind = Input::Kind::script;
  input.name = file;
  input.text = source;
  if (taken) inputs_.add_acted(std::move(input));
  return taken;
}

Value Play::set_dial(SettingPlace& place, const Value& value) {
  const BodyHandle body = body_called(place.owner);
  std::vector<Dial> meant = scripts_.dials(body);
  find_dial(meant, {place.script, place.name}, place_text(place));
  place.script = meant[0].script;
  const DialValue wanted = dial_value_of(value, place_text(place));
  const auto* named = std::get_if<NamedThing>(&wanted);
  if (named && !named->name.empty() && named->kind != NamedKind::tag &&
      thing_meant(running_.scene, *running_.body_of(body), *named).empty())
    throw Error(place_text(place), "there is no " + named_word(named->kind) + " called " + named->name);
  scripts_.set_dial(body, place.script, place.name, wanted);
  return value_of(meant[0].value);
}

void Play::set(const SettingPlace& of, const Value& value) {
  SettingPlace place = of;
  Value before;
  if (place.of == SettingOf::dial) {
    before = set_dial(place, value);
  } else {
    before = running_.value(place);
    running_.set(place, value);
  }
  const Change change{place, before, value};
  if (!applying_) {
    // What was set by hand is an input too.
    Input input;
    input.tick = tick();
    input.kind = Input::Kind::set;
    input.name = setting_text(change);
    inputs_.add_acted(std::move(input));
  }
  changes_.remember(change);
}

void Play::set_from_text(const std::string& assignment) {
  const SettingText setting = setting_named(running_.scene, assignment);
  const std::string where = place_text(setting.place);
  if (setting.place.of != SettingOf::dial)
    return set(setting.place, value_from_text(*info_at(setting.place), setting.value, where));
  std::vector<Dial> meant = scripts_.dials(body_called(setting.place.owner));
  find_dial(meant, {setting.place.script, setting.place.name}, where);
  set(setting.place, value_of(dial_from_text(meant[0], setting.value, where)));
}

}  // namespace bronvel
