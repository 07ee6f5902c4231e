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
// Away from the middle, and as much of it against gravity as the blast says.
Vec3 way_of_push(const World& world, const Blast& blast, const Vec3& point) {
  const Vec3& gravity = world.settings().gravity;
  const Vec3 up = gravity.isZero() ? Vec3(Vec3::Unit(1)) : Vec3(-gravity.normalized());
  const auto unit = [&](const Vec3& v) { return v.norm() > 1e-9 ? Vec3(v.normalized()) : up; };
  const Vec3 away = unit(point - (blast.at - Vec3(0, blast.lift, 0)));
  return blast.upward == 0 ? away : unit((1 - blast.upward) * away + blast.upward * up);
}

BlastHit strike(World& world, const Blast& blast, BodyHandle body) {
  const auto area = [](double volume) { return std::cbrt(volume * volume); };
  double shown = 0;
  world.strike_pieces(body, [&](const Vec3& middle, double volume) {
    if ((middle - blast.at).norm() < blast.radius) shown += area(volume);
    return Vec3(Vec3::Zero());
  });
  BlastHit hit{body, world.centre_of_mass(body), Vec3::Zero()};
  world.strike_pieces(body, [&](const Vec3& middle, double volume) {
    const double distance = (middle - blast.at).norm();
    if (distance >= blast.radius || distance < 1e-9) return Vec3(Vec3::Zero());
    const Vec3 impulse =
        blast.impulse * share_at(blast, distance) * area(volume) / shown * way_of_push(world, blast, middle);
    hit.impulse += impulse;
    return impulse;
  });
  return hit;
}

}  // namespace

std::vector<BlastHit> set_off(World& world, const Blast& blast, const std::function<bool(BodyHandle)>& takes_part,
                              QueryWork* work) {
  if (!finite(blast.at) || !finite(blast.impulse) || !finite(blast.lift)) throw Error("blast", "wants numbers");
  if (!(blast.upward >= 0 && blast.upward <= 1)) throw Error("blast", "wants a share that goes upward from 0 to 1");
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
    const Vec3 direction = way_of_push(world, blast, world.centre_of_mass(body));
    const Vec3 point = near->distance > 0 ? near->point : world.centre_of_mass(body);
    const Vec3 impulse = blast.impulse * share * direction;
    world.impulse_at(body, impulse, point);
    hits.push_back({body, point, impulse});
  }
  return hits;
}

}  // namespace bronvel
