// Setting off a blast.
#include "dynamics/world/blast.h"

#include "geometry/base/error.h"

namespace bronvel {
namespace {

double share_at(const Blast& blast, double distance) {
  const double away = std::clamp(distance / blast.radius, 0.0, 1.0);
  return blast.falloff == Falloff::even ? 1 : blast.falloff == Falloff::linear ? 1 - away : (1 - away) * (1 - away);
}

// On the pieces of a breakable body.
BlastHit strike(World& world, const Blast& blast, BodyHandle body) {
  const auto area = [](double volume) { return std::cbrt(volume * volume); };
  double shown = 0;
  world.strike_pieces(body, [&](const Vec3& middle, double volume) {
    if ((middle - blast.at).norm() < blast.radius) shown += area(volume);
    return Vec3(Vec3::Zero());
  });
  BlastHit hit{body, world.centre_of_mass(body), Vec3::Zero()};
  const Vec3 from = blast.at - Vec3(0, blast.lift, 0);
  world.strike_pieces(body, [&](const Vec3& middle, double volume) {
    const double distance = (middle - blast.at).norm();
    const Vec3 way = middle - from;
    if (distance >= blast.radius || way.norm() < 1e-9) return Vec3(Vec3::Zero());
    const Vec3 impulse = blast.impulse * share_at(blast, distance) * area(volume) / shown * way.normalized();
    hit.impulse += impulse;
    return impulse;
  });
  return hit;
}

}  // namespace

std::vector<BlastHit> set_off(World& world, const Blast& blast, const std::function<bool(BodyHandle)>& takes_part,
                              QueryWork* work) {
  if (!finite(blast.at) || !finite(blast.impulse) || !finite(blast.lift)) throw Error("blast", "wants numbers");
  if (!(blast.radius > 0 && blast.radius <= 1e6)) throw Error("blast", "wants a radius above 0 and up to 1e6 m");
  std::vector<BlastHit> hits;
  for (const BodyHandle body : world.overlapping(Sphere{blast.radius}, {blast.at, Quat::Identity()}, {}, work)) {
    if (takes_part && !takes_part(body)) continue;
    if (world.breakable(body)) {
      hits.push_back(strike(world, blast, body));
      continue;
    }
    if (world.body_settings(body).kind != MotionKind::dynamic) continue;
    const auto near = world.nearest_on(body, blast.at, blast.radius);
    if (!near) continue;
    const double share = share_at(blast, near->distance);
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
