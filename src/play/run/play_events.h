// What happened in a tick of a play, with names instead of handles.
#pragma once

#include <string>
#include <vector>

#include "script/running/running_scene.h"

namespace bronvel {

/// A contact that began or ended, with names instead of handles.
struct PlayEvent {
  std::int64_t tick = 0;
  ContactPhase phase = ContactPhase::touch;
  std::string a, b;
  double moment = 0;            ///< when it came about, s into the tick
  Vec3 point = Vec3::Zero();    ///< of a touch: where the two met, at that moment, m
  Vec3 normal = Vec3::Unit(1);  ///< from a to b
  double speed = 0;             ///< closing, before the hit, m/s
  double impulse = 0;           ///< along the normal, over the tick, N·s
  double across = 0;            ///< of friction, over the tick, N·s
  int points = 0;               ///< that touch
  SurfacePair surface;          ///< what the two give together

  double time(double tick_rate) const { return static_cast<double>(tick - 1) / tick_rate + moment; }  ///< s
};

/// A joint that broke.
struct PlaySnap {
  std::int64_t tick = 0;
  std::string joint;
  std::string a, b;   ///< bodies; "" for the scene
  double force = 0;   ///< N
  double torque = 0;  ///< N·m
};

/// A body that came into a zone or left it.
struct PlayZoneEvent {
  std::int64_t tick = 0;
  bool entered = true;
  std::string zone, body;
};

/// A body that came into water or out of it.
struct PlaySplash {
  std::int64_t tick = 0;
  bool into = true;
  std::string zone, body;
  double speed = 0;   ///< m/s
  double volume = 0;  ///< m³
  Vec3 point = Vec3::Zero();
};

/// A body that broke.
struct PlayCrack {
  std::int64_t tick = 0;
  std::string body;
  std::vector<std::string> parts;  ///< all of them, the body itself first
  std::size_t bonds = 0;           ///< that broke
  Vec3 point = Vec3::Zero();       ///< of the bond that was strained most, m
  double use = 0;                  ///< of its strength
};

/// All that happened in the world's last tick, cracks apart, in the world's order. Contacts that only go on are left
/// out.
struct PlayEvents {
  std::vector<PlayEvent> contacts;
  std::vector<PlaySnap> snaps;
  std::vector<PlayZoneEvent> zones;
  std::vector<PlaySplash> splashes;
};
void read_events(const RunningScene& running, PlayEvents& events);

/// A crack, once its parts are bodies of the running scene.
PlayCrack named_crack(const RunningScene& running, const CrackEvent& crack);

}  // namespace bronvel
