// Setting off a blast.
#include "dynamics/blast.h"

#include "geometry/error.h"

namespace bronvel {

std::vector<BlastHit> set_off(World& world, const Blast& blast, const std::function<bool(BodyHandle)>& takes_part) {
  if (!finite(blast.at) || !finite(blast.impulse) || !finite(blast.lift)) throw Error("blast", "wants numbers");
  if (!(blast.radius > 0 && blast.radius <= 1e6)) throw Error("blast", "wants a radius above 0 and up to 1e6 m");
  std::vector<BlastHit> hits;
  for (const BodyHandle body : world.overlapping(Sphere{blast.radius}, {blast.at, Quat::Identity()})) {
    if (world.body_settings(body).kind != MotionKind::dynamic || (takes_part && !takes_part(body))) continue;
    const auto near = world.nearest_on(body, blast.at, blast.radius);
    if (!near) continue;
    const double away = std::clamp(near->distance / blast.radius, 0.0, 1.0);
    const double share = blast.falloff == Falloff::even     ? 1
                         : blast.falloff == Falloff::linear ? 1 - away
                                                            : (1 - away) * (1 - away);
    const Vec3 from = blast.at - Vec3(0, blast.lift, 0);
    Vec3 direction = world.centre_of_mass(body) - from;
    direction = direction.norm() > 1e-9 ? Vec3(direction.normalized()) : Vec3(Vec3::Unit(1));
    const Vec3 point = near->distance > 0 ? near->point : world.centre_of_mass(body);
    const Vec3 impulse = blast.impulse * share * direction;
    world.impulse_at(body, impulse, point);
    hits.push_back({body, point, impulse});
  }
  return hits;
}

}  // namespace bronvel
