// Names for what happened.
#include "play/run/play_events.h"

namespace bronvel {

void read_events(const RunningScene& running, PlayEvents& events) {
  const World& world = running.world;
  const std::int64_t tick = world.tick();
  events.contacts.clear();
  for (const ContactEvent& contact : world.contacts()) {
    if (contact.phase == ContactPhase::stay) continue;
    PlayEvent& event = events.contacts.emplace_back();
    event.tick = tick;
    event.phase = contact.phase;
    event.a = running.name_of(contact.a);
    event.b = running.name_of(contact.b);
    event.moment = contact.moment;
    if (!contact.points.empty()) event.point = contact.points.front();
    event.normal = contact.normal;
    event.speed = contact.closing_speed;
    event.impulse = contact.normal_impulse;
    event.across = contact.friction_impulse;
    event.points = static_cast<int>(contact.points.size());
    event.surface = contact.surface;
  }
  events.snaps.clear();
  for (const JointBreak& snap : world.snaps())
    events.snaps.push_back({tick, running.name_of(snap.joint), running.name_of(snap.settings.a),
                            running.name_of(snap.settings.b), snap.reading.force.norm(), snap.reading.torque.norm()});
  events.zones.clear();
  for (const ZoneEvent& zone : world.zone_events())
    events.zones.push_back({tick, zone.entered, running.name_of(zone.zone), running.name_of(zone.body)});
  events.splashes.clear();
  for (const SplashEvent& s : world.splashes())
    events.splashes.push_back(
        {tick, s.into, running.name_of(s.zone), running.name_of(s.body), s.speed, s.volume, s.point});
}

PlayCrack named_crack(const RunningScene& running, const CrackEvent& crack) {
  PlayCrack told;
  told.tick = running.world.tick();
  told.body = running.name_of(crack.body);
  told.parts.reserve(crack.parts.size());
  for (const BodyHandle part : crack.parts) told.parts.push_back(running.name_of(part));
  told.bonds = crack.bonds;
  told.point = crack.point;
  told.use = crack.use;
  return told;
}

}  // namespace bronvel
