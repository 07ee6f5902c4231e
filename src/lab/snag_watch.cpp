// Snags that show only while a play runs: habits of scripts, and bodies that get lost or go too fast.
#include <cstdio>

#include "lab/snags.h"

namespace bronvel {
namespace {

constexpr int habit = 30;  // ticks in a row

std::string place_of(const ScriptAct& act) {
  return act.body + "|" + act.script + "|" + std::to_string(act.line) + "|" +
         std::to_string(static_cast<int>(act.kind));
}

std::string short_text(double value) {
  char buffer[40];
  std::snprintf(buffer, sizeof buffer, "%.3g", value);
  return buffer;
}

double thinnest(const Shape& shape) {
  const Bounds bounds = shape_bounds(shape, {});
  return (bounds.high - bounds.low).minCoeff();
}

}  // namespace

SnagWatch::SnagWatch(Play& play) {
  play.scripts().watch(true);
  for (const Body& body : play.running().scene.bodies) start_[body.name] = body.position.y();
}

void SnagWatch::add(Snag snag) {
  for (const Snag& each : found_)
    if (each.kind == snag.kind && each.body == snag.body && each.script == snag.script && each.line == snag.line)
      return;
  found_.push_back(std::move(snag));
}

void SnagWatch::look(Play& play) {
  look_at_acts(play);
  look_at_bodies(play);
}

void SnagWatch::look_at_acts(Play& play) {
  const World& world = play.running().world;
  for (const ScriptAct& act : play.scripts().acts()) {
    Habit& h = habits_[place_of(act)];
    const auto body = play.running().find(act.body);
    if (!body) continue;
    const BodySettings& settings = world.body_settings(*body);
    if (h.last_tick == act.tick) continue;
    h.ticks_running = h.last_tick == act.tick - 1 ? h.ticks_running + 1 : 1;
    const bool in_a_row = h.ticks_running > 1;
    h.last_tick = act.tick;
    if (act.kind == ScriptAct::Kind::impulse) {
      if (h.ticks_running == habit)
        add({"impulse_every_tick", act.body, act.script, act.line,
             "an impulse on " + act.body + " in " + std::to_string(habit) + " ticks in a row",
             "impulses add up with every tick, so the push grows with the tick rate; a force does not", "", nullptr});
      continue;
    }
    if (act.kind != ScriptAct::Kind::velocity) continue;
    const bool falls = settings.kind == MotionKind::dynamic && settings.gravity_factor != 0 &&
                       world.settings().gravity.norm() > 0 && !settings.locks.move[1];
    const bool in_air = !world.touching(*body);
    h.same_height_speed = in_a_row && in_air && falls && std::abs(act.vector.y() - h.vertical) < 1e-9 &&
                                  std::abs(act.vector.y() - act.before.y()) > 1e-9
                              ? h.same_height_speed + 1
                              : 0;
    h.vertical = act.vector.y();
    // new = k × old, with the same k each time and not a change of length to something fixed.
    const double before = act.before.norm(), ratio = before > 1e-6 ? act.vector.norm() / before : 0;
    const bool along =
        before > 1e-6 && act.vector.norm() > 1e-6 && act.vector.normalized().dot(act.before.normalized()) > 1 - 1e-9;
    h.same_ratio =
        in_a_row && along && std::abs(ratio - 1) > 1e-6 && std::abs(ratio - h.ratio) < 1e-6 ? h.same_ratio + 1 : 0;
    h.ratio = ratio;
    if (h.same_height_speed == habit)
      add({"lost_gravity", act.body, act.script, act.line,
           "the velocity of " + act.body + " is set every tick with the same vertical part, " +
               short_text(act.vector.y()) + " m/s, while it is in the air",
           "what gravity adds in a tick is wiped out in the next, so it never falls; keep body.velocity.y in what is "
           "set",
           "", nullptr});
    // exp(−rate × dt) slows alike at every tick rate.
    const bool known_well = ratio < 1 && play.scripts().source(act.script).find("exp(") != std::string::npos;
    if (h.same_ratio == habit && !known_well)
      add({"velocity_multiplied", act.body, act.script, act.line,
           "the velocity of " + act.body + " is multiplied by " + short_text(ratio) + " every tick",
           ratio > 1
               ? "it grows without bound, and faster at a higher tick rate"
               : "how fast it slows depends on the tick rate; damping, or a factor of math.exp(-rate * dt), does not",
           "", nullptr});
  }
}

void SnagWatch::look_at_bodies(Play& play) {
  constexpr double far_below = 100;  // m under where it began
  World& world = play.running().world;
  const double tick = 1 / world.settings().tick_rate;
  for (const Body& body : play.running().scene.bodies) {
    if (body.kind == MotionKind::fixed) continue;
    const auto handle = play.running().find(body.name);
    if (!handle) continue;
    const BodyMotion m = world.motion(*handle);
    const auto start = start_.find(body.name);
    const bool fallen = start != start_.end() && m.pose.position.y() < start->second - far_below && m.velocity.y() < 0;
    if (fallen && !play.running().scene.sweep_away)
      add({"fallen_out", body.name, "", 0,
           body.name + " has fallen more than " + short_text(far_below) + " m below where it began",
           "it falls for ever and is lost; is there a floor under it?", "sweep what falls out back to its start",
           [below = std::floor(start->second - far_below / 2)](SceneFolder& folder) {
             folder.scene.sweep_away = SweepAway{below, true};
           }});
    if (body.kind != MotionKind::dynamic || body.sweeping != Sweeping::never) continue;
    const double motion = m.velocity.norm() * tick;
    const auto sweep = [name = body.name](SceneFolder& folder) {
      if (Body* found = folder.scene.find(name)) found->sweeping = Sweeping::automatic;
    };
    if (motion > thinnest(body.shape))
      add({"fast_unswept", body.name, "", 0,
           body.name + " moves " + short_text(motion) + " m in a tick, more than its own " +
               short_text(thinnest(body.shape)) + " m, with sweeping off",
           "it can jump over what is in its way", "let " + body.name + " be swept when it is fast", sweep});
    for (const Body& other : play.running().scene.bodies)
      if (other.solid && other.name != body.name && thinnest(other.shape) < motion) {
        add({"thin_shape", body.name, "", 0,
             other.name + " is " + short_text(thinnest(other.shape)) + " m thin, and " + body.name + " moves " +
                 short_text(motion) + " m in a tick with sweeping off",
             "it can pass through it", "let " + body.name + " be swept when it is fast", sweep});
        break;
      }
  }
}

}  // namespace bronvel
