// Snags that show only while a play runs: habits of scripts, and bodies that get lost or go too fast.
#include <cmath>
#include <cstdio>

#include "lab/snags/snags.h"

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
  look_at_pushes(play);
  look_at_bounces(play);
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

// A steady force that is far below what friction holds: it looks as if nothing pushed.
void SnagWatch::look_at_pushes(Play& play) {
  const World& world = play.running().world;
  constexpr double still = 0.01;  // m/s
  std::map<std::string, Vec3> pushed;
  for (const ScriptAct& act : play.scripts().acts())
    if (act.kind == ScriptAct::Kind::force) pushed.try_emplace(act.body, Vec3::Zero()).first->second += act.vector;
  for (const auto& [name, force] : pushed) {
    Held& held = held_[name];
    const auto body = play.running().find(name);
    const bool waits = body && world.motion(*body).velocity.norm() < still && force.norm() > 0;
    held.ticks = waits && held.last_tick == play.tick() - 1 ? held.ticks + 1 : 0;
    held.last_tick = play.tick();
    if (held.ticks != 2 * habit) continue;
    double most = 0, along = 0;  // N
    for (const ContactEvent& contact : world.contacts()) {
      if (contact.phase == ContactPhase::part || (contact.a != *body && contact.b != *body)) continue;
      const double normal = contact.normal_impulse * world.settings().tick_rate;
      most += contact.surface.static_friction * normal;
      along += std::abs(force.dot(contact.normal));
    }
    const double across = std::sqrt(std::max(force.squaredNorm() - along * along, 0.0));
    if (most <= 0 || across <= 0.05 * force.norm() || across > 0.5 * most) continue;
    for (const ScriptAct& act : play.scripts().acts())
      if (act.body == name && act.kind == ScriptAct::Kind::force)
        return add({"weak_push", name, act.script, act.line,
                    short_text(across) + " N push " + name + " (" + short_text(world.body_settings(*body).mass) +
                        " kg), and friction holds it with up to " + short_text(most) + " N",
                    "it will not move before the push is larger than that", "", nullptr});
  }
}

// Who gives everything back is held down by what it meets.
void SnagWatch::look_at_bounces(Play& play) {
  constexpr double bouncy = 0.95, lost = 0.9, hard = 1;  // m/s
  const RunningScene& running = play.running();
  for (const PlayEvent& event : play.events()) {
    if (event.phase != ContactPhase::touch || event.speed < hard || event.surface.restitution > lost) continue;
    for (const auto& [own, other] : {std::pair(&event.a, &event.b), std::pair(&event.b, &event.a)}) {
      const auto handle = running.find(*own), met = running.find(*other);
      const Body* body = handle ? running.body_of(*handle) : nullptr;
      const Body* struck = met ? running.body_of(*met) : nullptr;
      if (!body || !struck || body->kind != MotionKind::dynamic) continue;
      const double e = surface_of(running.scene, *body).restitution;
      if (e < bouncy) continue;
      const double pair = event.surface.restitution;
      add({"bounce_lost", *own, "", 0,
           *own + " has restitution " + short_text(e) + ", " + *other + " " +
               short_text(surface_of(running.scene, *struck).restitution) + ": together " + short_text(pair) +
               ", by the rule " + std::string(combine_word(event.surface.restitution_rule)),
           "each bounce there keeps " + short_text(100 * pair * pair) + " % of the energy", "", nullptr});
    }
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
