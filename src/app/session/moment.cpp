// Making moments.
#include "app/session/moment.h"

namespace bronvel {

Moment moment_of(const Scene& scene, std::uint64_t seed, const Choice& choice) {
  Moment moment;
  moment.frame = frame_of(scene);
  moment.waters = water_views(scene, moment.frame.zones, seed, 0);
  if (const Body* found = scene.find(choice.body())) {
    const BodyMotion motion = motion_of(*found);
    BodyReading& reading = moment.body.emplace();
    reading.pose = motion.pose;
    reading.velocity = motion.velocity;
    reading.angular_velocity = motion.angular_velocity;
    reading.kind = found->kind;
    reading.mass.mass = found->mass;
    reading.gravity = scene.world.gravity;
  }
  return moment;
}

Moment moment_of(const Take& take, TakeReader& reader, std::int64_t tick, const Choice& choice) {
  Moment moment;
  moment.frame = reader.frame(take, tick);
  const std::int64_t there = moment.frame.tick;
  moment.time = static_cast<double>(there) / take.tick_rate();
  moment.waters = water_views(take.folder.scene, moment.frame.zones, take.seed, moment.time);
  const std::string body = choice.body();
  moment.body = reader.body(take, body, there);
  if (choice.kind == ThingKind::joint) moment.joint = reader.joint(take, choice.other, there);
  if (body.empty()) return moment;
  moment.floating = reader.floating(take, body, there);
  moment.bonds = reader.bonds(take, body, there);
  return moment;
}

void renew_moment(Moment& moment, const Play& play, const std::vector<Touching>* touching, const Choice& choice) {
  const RunningScene& running = play.running();
  renew_frame(moment.frame, play);
  if (touching) renew_contacts(moment.frame, *touching, running);
  moment.time = play.time();
  moment.waters = water_views(running.scene, moment.frame.zones, running.scene.seed, moment.time);
  const auto body = running.find(choice.body());
  moment.bonds = body ? running.world.bonds(*body) : std::vector<BondReading>{};
  moment.floating = body ? floating_reading(running.world, *body) : std::nullopt;
  moment.body = body ? std::optional(body_reading(running.world, *body)) : std::nullopt;
  const auto joint = choice.kind == ThingKind::joint ? running.find_joint(choice.other) : std::nullopt;
  moment.joint = joint ? std::optional(running.world.reading(*joint)) : std::nullopt;
}

}  // namespace bronvel
