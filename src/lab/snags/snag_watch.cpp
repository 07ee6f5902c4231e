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

// What can't move at all, or not that way.
void SnagWatch::look_at_held_back(Play& play, const ScriptAct& act, const BodySettings& settings) {
  constexpr const char* words[] = {"a force", "an impulse", "a velocity", "a place"};
  const std::string word = words[static_cast<int>(act.kind)];
  if (act.kind == ScriptAct::Kind::place || act.vector.isZero()) return;
  if (settings.kind == MotionKind::fixed) {
    add({"pushed_static", act.body, act.script, act.line, word + " on " + act.body + ", which is static",
         "what is static is never moved by it", "make " + act.body + " dynamic",
         [name = act.body](SceneFolder& folder) {
           if (Body* found = folder.scene.find(name)) found->kind = MotionKind::dynamic;
         }});
    return;
  }
  if (settings.kind != MotionKind::dynamic) return;
  const bool planar = play.running().world.settings().planar;
  const Vec3 change = act.kind == ScriptAct::Kind::velocity ? Vec3(act.vector - act.before) : act.vector;
  Vec3 free = change;
  std::string axes;
  for (int axis = 0; axis < 3; ++axis) {
    const bool locked = settings.locks.move[static_cast<std::size_t>(axis)] || (planar && axis == 2);
    if (!locked) continue;
    if (change[axis] != 0) axes += (axes.empty() ? "" : " and ") + std::string(1, "XYZ"[axis]);
    free[axis] = 0;
  }
  constexpr double nearly_none = 0.1;
  if (axes.empty() || free.norm() > nearly_none * change.norm()) return;
  add({"locked_push", act.body, act.script, act.line,
       word + " on " + act.body + " runs along " + axes + ", which " +
           (planar && axes == "Z" ? "a planar scene locks" : "is locked"),
       "it can't move that way, so nothing comes of it; scene.up, scene.across and scene.forward follow the plane", "",
       nullptr});
}

// An impulse that points into what the body lies on goes into that, not into motion.
void SnagWatch::look_at_impulse(Play& play, const ScriptAct& act, BodyHandle body) {
  const RunningScene& running = play.running();
  constexpr double nearly_straight = 0.9;
  const double size = act.vector.norm();
  if (!(size > 0)) return;
  for (const ContactEvent& contact : running.world.contacts()) {
    if (contact.phase == ContactPhase::part || (contact.a != body && contact.b != body)) continue;
    const BodyHandle other = contact.a == body ? contact.b : contact.a;
    if (!running.world.alive(other) || running.world.body_settings(other).kind != MotionKind::fixed) continue;
    // The normal points from A to B.
    const double into = act.vector.dot(contact.normal) * (contact.a == body ? 1 : -1);
    if (into < nearly_straight * size) continue;
    return add({"into_contact", act.body, act.script, act.line,
                "an impulse on " + act.body + " points into " + running.name_of(other) + ", which it touches",
                "it is taken up by the contact; a hit's normal points away from the other body", "", nullptr});
  }
}

void SnagWatch::look_at_acts(Play& play) {
  const World& world = play.running().world;
  std::map<std::string, int> velocities;  // set so often in this tick, by body
  for (const ScriptAct& act : play.scripts().acts()) {
    Habit& h = habits_[place_of(act)];
    const auto body = play.running().find(act.body);
    if (!body) continue;
    const BodySettings& settings = world.body_settings(*body);
    const bool set_before = act.kind == ScriptAct::Kind::velocity && ++velocities[act.body] > 1;
    if (h.last_tick == act.tick) continue;
    look_at_held_back(play, act, settings);
    if (act.kind == ScriptAct::Kind::impulse) look_at_impulse(play, act, *body);
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
    if (act.kind == ScriptAct::Kind::place && settings.kind == MotionKind::dynamic && h.ticks_running == habit)
      add({"placed_every_tick", act.body, act.script, act.line,
           act.body + " is placed in " + std::to_string(habit) + " ticks in a row",
           "what is placed jumps: it goes through what is in the way, and gravity and pushes never add up; set its "
           "velocity, or make it kinematic",
           "make " + act.body + " kinematic", [name = act.body](SceneFolder& folder) {
             if (Body* found = folder.scene.find(name)) found->kind = MotionKind::kinematic;
           }});
    if (act.kind != ScriptAct::Kind::velocity) continue;
    const Vec3 added = act.vector - act.before;
    // What is set to the same each time is given the same too, against what others do in between, but never grows.
    const bool grows = (act.vector - h.vector).dot(added) > 0.5 * added.squaredNorm();
    h.same_addition = in_a_row && grows && added.norm() > 1e-9 && (added - h.added).norm() < 1e-9 * added.norm()
                          ? h.same_addition + 1
                          : 0;
    h.added = added;
    const bool other = (act.vector - h.vector).norm() > 1e-9;  // than in the tick before
    h.vector = act.vector;
    if (h.same_addition == habit)
      add({"velocity_added", act.body, act.script, act.line,
           "the same " + short_text(added.norm()) + " m/s is added to the velocity of " + act.body + " every tick",
           "it adds up with every tick, so it grows with the tick rate; body:accelerate or a force does not", "",
           nullptr});
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
        in_a_row && along && other && !set_before && std::abs(ratio - 1) > 1e-6 && std::abs(ratio - h.ratio) < 1e-6
            ? h.same_ratio + 1
            : 0;
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
