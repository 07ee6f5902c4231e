// What waters and pulls do to bodies in each sub-step.
#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/integrate.h"
#include "dynamics/books/books.h"
#include "dynamics/fields/waves_of_eight.h"
#include "dynamics/fields/zones.h"
#include "geometry/cutting/submerged.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"

namespace bronvel {

/// What is known of the bodies in a zone's water from sub-step to sub-step, in the order of `ZoneRecord::acting`.
struct WetKept {
  std::vector<std::optional<Submersion>> cuts;  ///< what was submerged when it was last cut
  std::vector<WidthsOfEight> widths;            ///< by eight bodies, then by train
};

struct WaterScratch {
  std::vector<WetKept> kept;  // by zone
};

namespace {

constexpr std::size_t wet_worth_sharing = 100;  // bodies in a zone

// Half the area of a hull's faces seen along each axis: what a convex shape shows (Cauchy, 1841).
Vec3 shown_by(const Shape& shape) {
  if (const auto* ball = std::get_if<Sphere>(&shape)) return Vec3::Constant(pi * ball->radius * ball->radius);
  if (const auto* compound = std::get_if<Compound>(&shape)) {
    Vec3 sum = Vec3::Zero();
    for (const Part& part : compound->data->parts)
      sum += part.pose.orientation.toRotationMatrix().cwiseAbs() * shown_by(part.shape);
    const Bounds bounds = shape_bounds(shape, Pose{});
    const Vec3 d = bounds.high - bounds.low;
    // Parts hide each other: no more than the box around them.
    return sum.cwiseMin(Vec3(d.y() * d.z(), d.z() * d.x(), d.x() * d.y()));
  }
  Vec3 sum = Vec3::Zero();
  const Facets facets = facets_of(shape);
  for (std::size_t face = 0; face < facets.face_count(); ++face) {
    Vec3 area = Vec3::Zero();
    for (std::size_t i = 1; i + 1 < facets.face_size(face); ++i)
      area +=
          0.5 *
          (facets.corner(face, i) - facets.corner(face, 0)).cross(facets.corner(face, i + 1) - facets.corner(face, 0));
    sum += 0.5 * area.cwiseAbs();
  }
  return sum;
}

// What stems turning about each axis: of the faces of the box around the shape, ∫ r³ dA over the halves that push
// water; a tenth of it where the shape is round about that axis.
Vec3 stems_turning(const Shape& shape) {
  const Bounds bounds = shape_bounds(shape, Pose{});
  const Vec3 d = bounds.high - bounds.low;
  Vec3 k;
  for (int i = 0; i < 3; ++i) {
    const double along = d[i], a = d[(i + 1) % 3], b = d[(i + 2) % 3];
    k[i] = along * (std::pow(a, 4) + std::pow(b, 4)) / 32;
  }
  if (std::holds_alternative<Sphere>(shape)) k *= 0.1;
  if (std::holds_alternative<Capsule>(shape) || std::holds_alternative<Cylinder>(shape) ||
      std::holds_alternative<Cone>(shape))
    k.y() *= 0.1;
  return k;
}

// What the body shows of itself along the unit direction, given in its own frame, m².
double shown_along(const BodyRecord& record, const Vec3& own) {
  if (std::holds_alternative<Box>(record.settings.shape)) return own.cwiseAbs().dot(record.cross_area);
  return own.cwiseProduct(record.cross_area).norm();
}

// Towards the pull's target, with the distance as length.
Vec3 to_target(const ZoneSettings& zone, const Vec3& point) {
  const Vec3 way = zone.pose.position - point;
  const Vec3 axis = zone.pose.orientation * Vec3::Unit(1);
  if (zone.pull->target == Pull::Target::axis) return way - axis * axis.dot(way);
  if (zone.pull->target == Pull::Target::plane) return axis * axis.dot(way);
  return way;
}

double share_of_pull(const WorldState& state, const ZoneRecord& zone, std::uint32_t body, const Vec3& centre) {
  // As for a ball: the least that any side leaves of it.
  const double radius = std::cbrt(shape_volume(state.records[body].settings.shape) * 3 / (4 * pi));
  double share = 1;
  for (const Plane& side : zone.sides)
    share = std::min(share, ball_share_below((side.normal.dot(centre) - side.offset) / radius));
  return share;
}

// Of the shape, beneath the surface: what was cut before moved on, or cut anew.
VolumeAndCentre beneath(const Shape& shape, const Vec3& position, const Mat3& turn, const Plane& surface,
                        std::optional<Submersion>* cut) {
  const Plane own{turn.transpose() * surface.normal, surface.offset - surface.normal.dot(position)};
  VolumeAndCentre part;
  if (const auto moved = cut && *cut ? moved_on(**cut, own) : std::nullopt) {
    part = *moved;
  } else {
    const Submersion anew = submersion(shape, own);
    part = anew.part;
    if (cut) *cut = anew;
  }
  part.centre = position + turn * part.centre;
  return part;
}

}  // namespace

double surface_reach(const BodyRecord& record) {
  return std::max(0.35 * record.radius, 1e-3);
}

namespace {

// What of the body, shifted so far, lies beneath the surface.
Wet wet_beneath(const WorldState& state, const ZoneRecord& zone, std::uint32_t body, const Vec3& shift,
                const Plane& surface, std::optional<Submersion>* cut) {
  Wet wet;
  wet.body = body;
  wet.surface_normal = surface.normal;
  const BodyRecord& record = state.records[body];
  const BodyState& motion = state.bodies[body];
  const Shape& shape = record.settings.shape;
  if (!has_volume(shape)) return wet;
  const Mat3 turn = motion.orientation.toRotationMatrix();
  const Vec3 position = motion.centre + shift - turn * record.mass.centre;
  // A ball around it tells soon enough which sides it is surely within.
  const Vec3 middle = motion.centre + shift;
  VolumeAndCentre part;
  const auto misses = [&](const Plane& side) { return side.normal.dot(middle) - side.offset < -record.radius; };
  if (std::all_of(zone.sides.begin(), zone.sides.end(), misses)) {
    part = beneath(shape, position, turn, surface, cut);
  } else {
    std::vector<Plane> planes = zone.sides;
    planes.push_back(surface);
    part = submerged(shape, Pose{position, motion.orientation}, planes);
  }
  if (!(part.volume > 0)) return wet;
  wet.volume = part.volume;
  wet.share = std::min(1.0, part.volume / shape_volume(shape));
  wet.centre = part.centre - shift;
  return wet;
}

}  // namespace

Wet wet_part(const WorldState& state, const ZoneRecord& zone, std::uint32_t body, const Vec3& shift, double time) {
  const WaterNow water{zone.level, zone.settings.water->current, zone.trains, time};
  const Vec3 middle = state.bodies[body].centre + shift;
  const WaveLook look(water, middle.x(), middle.z());
  Wet wet = wet_beneath(state, zone, body, shift, look.surface(surface_reach(state.records[body])), nullptr);
  if (!(wet.volume > 0)) return wet;
  // Beneath the body's middle: as good a place as any within its width, and looked at already.
  const WaterNow::Moving there = look.moving(wet.centre.y() + shift.y());
  wet.flow = there.velocity;
  wet.swell = there.acceleration;
  return wet;
}

namespace {

// A moment within a sub-step of h seconds.
struct FieldMoment {
  double time = 0, h = 0;      // s
  bool in_first_step = false;  // of the tick
};

void lift(WorldState& state, const ZoneRecord& zone, const Wet& wet) {
  BodyRecord& record = state.records[wet.body];
  Medium& medium = state.media[wet.body];
  if (record.asleep) return;
  const Vec3 force = zone.settings.water->density * wet.volume * (wet.swell - record.gravity_factor * medium.gravity);
  const Vec3 twist = (wet.centre - state.bodies[wet.body].centre).cross(force);
  medium.push += force;
  medium.twist += twist;
  book_push(state, wet.body, {Cause::buoyancy, by_zone(state, zone), force, twist, wet.centre});
  medium.dry = std::max(0.0, medium.dry - wet.share);
  const bool still = zone.trains.empty() && zone.settings.water->current.isZero();
  record.afloat = record.afloat || still;
  record.in_moving_medium = record.in_moving_medium || !still;
}

// Lifts the zone's bodies from `from` on, eight of them.
void lift_eight(WorldState& state, ZoneRecord& zone, WetKept& kept, std::size_t from, const FieldMoment& moment) {
  const std::size_t count = std::min(lanes, zone.acting.size() - from), trains = zone.trains.size();
  const WaterNow water{zone.level, zone.settings.water->current, zone.trains, moment.time};
  WidthsOfEight* const widths = kept.widths.data() + from / lanes * trains;
  WavesOfEight waves;
  waves.count = count;
  std::array<bool, lanes> floats{};
  std::array<Vec3, lanes> shifts;
  for (std::size_t lane = 0; lane < count; ++lane) {
    const std::uint32_t body = zone.acting[from + lane].index;
    const BodyRecord& record = state.records[body];
    const BodyState& motion = state.bodies[body];
    zone.wet[from + lane] = Wet{};
    zone.wet[from + lane].body = body;
    floats[lane] = record.alive && record.dynamic();
    if (!floats[lane]) continue;
    shifts[lane] = record.asleep ? Vec3(Vec3::Zero()) : Vec3(0.5 * moment.h * motion.velocity);
    waves.x[lane] = motion.centre.x() + shifts[lane].x();
    waves.z[lane] = motion.centre.z() + shifts[lane].z();
    if (!moment.in_first_step) continue;
    kept.cuts[from + lane].reset();
    for (std::size_t t = 0; t < trains; ++t) {
      const WaveWidth width = width_of(zone.trains[t], surface_reach(record));
      widths[t].rise[lane] = width.rise;
      widths[t].slope_x[lane] = width.slope_x;
      widths[t].slope_z[lane] = width.slope_z;
    }
  }
  if (trains > 0) waves.look(water, widths);
  const auto vector_of = [](const Vectors8<double>& v, std::size_t lane) {
    return Vec3(v[0][lane], v[1][lane], v[2][lane]);
  };
  for (std::size_t lane = 0; lane < count; ++lane) {
    waves.y[lane] = zone.level;
    if (!floats[lane]) continue;
    const Plane surface =
        trains > 0 ? Plane{vector_of(waves.normal, lane), waves.offset[lane]} : Plane{Vec3::Unit(1), zone.level};
    Wet& wet = zone.wet[from + lane];
    wet = wet_beneath(state, zone, wet.body, shifts[lane], surface, &kept.cuts[from + lane]);
    if (wet.volume > 0) waves.y[lane] = wet.centre.y() + shifts[lane].y();
  }
  if (trains > 0) waves.look_down(water);
  for (std::size_t lane = 0; lane < count; ++lane) {
    Wet& wet = zone.wet[from + lane];
    if (!(wet.volume > 0)) continue;
    wet.flow = trains > 0 ? vector_of(waves.flow, lane) : water.current;
    if (trains > 0) wet.swell = vector_of(waves.swell, lane);
    lift(state, zone, wet);
  }
}

void pull(WorldState& state, const ZoneRecord& zone, std::uint32_t body, double h) {
  const BodyRecord& record = state.records[body];
  if (!record.alive || !record.dynamic() || record.asleep) return;
  const Vec3 centre = state.bodies[body].centre + 0.5 * h * state.bodies[body].velocity;
  const Vec3 way = to_target(zone.settings, centre);
  const double distance = way.norm();
  if (!(distance > 1e-9)) return;
  const Vec3 force = record.settings.mass * share_of_pull(state, zone, body, centre) * zone.settings.pull->strength *
                     falloff_share(zone.settings.pull->falloff, distance, zone.pull_reach) / distance * way;
  state.media[body].push += force;
  book_push(state, body, {Cause::pull, by_zone(state, zone), force, Vec3::Zero(), state.bodies[body].centre});
}

}  // namespace

void push_by_fields(WorldState& state, double seconds, double h) {
  if (state.media.empty()) return;
  const double time = static_cast<double>(state.tick) * state.tick_length() + seconds + 0.5 * h;
  for (Medium& medium : state.media) {
    medium.push.setZero();
    medium.twist.setZero();
    medium.dry = 1;
  }
  (*state.scratch.waters).kept.resize(state.zones.size());
  for (std::size_t z = 0; z < state.zones.size(); ++z) {
    ZoneRecord& zone = state.zones[z];
    if (!zone.alive) continue;
    const std::size_t count = zone.acting.size(), eights = (count + lanes - 1) / lanes;
    if (zone.settings.water) {
      WetKept& kept = (*state.scratch.waters).kept[z];
      zone.wet.resize(count);
      kept.cuts.resize(count);
      kept.widths.resize(eights * zone.trains.size());
      state.scratch.thread_pool->each(eights, wet_worth_sharing / lanes, [&](std::size_t eight) {
        lift_eight(state, zone, kept, lanes * eight, {time, h, seconds == 0});
      });
    }
    if (zone.settings.pull)
      state.scratch.thread_pool->each(count, wet_worth_sharing,
                                      [&](std::size_t k) { pull(state, zone, zone.acting[k].index, h); });
  }
}

void drag_by_waters(WorldState& state, double h) {
  if (state.media.empty()) return;
  for (ZoneRecord& zone : state.zones) {
    if (!zone.alive || !zone.settings.water) continue;
    const Water& water = *zone.settings.water;
    state.scratch.thread_pool->each(zone.wet.size(), wet_worth_sharing, [&](std::size_t k) {
      const Wet& wet = zone.wet[k];
      if (!(wet.volume > 0)) return;
      BodyRecord& record = state.records[wet.body];
      if (!record.alive || !record.dynamic() || record.asleep) return;
      BodyState& motion = state.bodies[wet.body];
      const Vec3 velocity_before = motion.velocity, spin_before = motion.angular_velocity;
      if (record.cross_area.isZero()) {
        record.cross_area = shown_by(record.settings.shape);
        record.spin_drag = stems_turning(record.settings.shape);
      }
      const Mat3 turn = motion.orientation.toRotationMatrix();
      const Vec3 arm = wet.centre - motion.centre;
      const Vec3 through = motion.velocity_at(arm) - wet.flow;
      const double speed = through.norm();
      if (speed > 1e-12) {
        const Vec3 way = through / speed;
        const double easy = way.dot(motion.inverse_mass.cwiseProduct(way)) +
                            arm.cross(way).dot(motion.inverse_inertia * arm.cross(way));
        if (easy > 0) {
          const double area = record.settings.drag_area > 0 ? record.settings.drag_area
                                                            : water.drag * shown_along(record, turn.transpose() * way);
          const double quadratic = 0.5 * water.density * area * wet.share * easy;
          const double linear = zone.settings.linear_damping * wet.share * record.settings.mass * easy;
          const double slower = speed * (1 - share_after_drag(speed, linear, quadratic, h));
          motion.push(-(slower / easy) * way, arm);
        }
      }
      const Vec3 spin = turn.transpose() * motion.angular_velocity;
      Vec3 kept = Vec3::Ones();
      for (int i = 0; i < 3; ++i) {
        const double rate = std::abs(spin[i]);
        if (rate < 1e-12) continue;
        const double quadratic = 0.5 * water.density * water.drag * record.spin_drag[i] * wet.share /
                                 std::max(record.mass.inertia(i, i), 1e-300);
        kept[i] = share_after_drag(rate, zone.settings.angular_damping * wet.share, quadratic, h);
      }
      // Locked axes are the scene's: then all alike, so that none of them is turned about.
      if (record.locks.any_turn())
        motion.angular_velocity *= kept.minCoeff();
      else
        motion.angular_velocity = turn * kept.cwiseProduct(spin);
      book_change(state, wet.body, Cause::water_drag, by_zone(state, zone), velocity_before, spin_before, wet.centre);
      state.scratch.velocity_free[wet.body] = motion.velocity;
      state.scratch.spin_free[wet.body] = motion.angular_velocity;
    });
  }
}

}  // namespace bronvel
