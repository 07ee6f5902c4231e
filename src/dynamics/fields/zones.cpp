// Sensing and fields of zones.
#include "dynamics/fields/zones.h"

#include <algorithm>

#include "dynamics/bodies/integrate.h"
#include "dynamics/fields/wave_look.h"
#include "dynamics/islands/sleep.h"
#include "dynamics/narrow_phase/body_distance.h"
#include "geometry/base/error.h"
#include "geometry/cutting/cut.h"
#include "geometry/queries/distance.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/parts.h"

namespace bronvel {
namespace {

// Whether a point that is surely in the body is in the zone: spares most bodies the search for the distance.
bool surely_inside(const WorldState& state, const ZoneRecord& zone, std::uint32_t i) {
  const Shape& whole = state.records[i].settings.shape;
  const Pose pose = shape_pose(state.records[i], state.bodies[i]);
  const double high = shape_bounds(zone.reach, zone.reach_pose).high.y();
  const auto inside = [&](const Shape& shape, const Pose& at) {
    const auto* hull = std::get_if<Hull>(&shape);
    const Vec3 point = hull ? at.to_scene(hull->data->centre) : at.position;
    if (zone.settings.water && point.y() > high) return false;
    return std::all_of(zone.sides.begin(), zone.sides.end(),
                       [&](const Plane& side) { return side.normal.dot(point) <= side.offset; });
  };
  if (const auto* compound = std::get_if<Compound>(&whole))
    return std::any_of(compound->data->parts.begin(), compound->data->parts.end(),
                       [&](const Part& part) { return inside(part.shape, pose * part.pose); });
  return !is_composite(whole) && inside(whole, pose);
}

// Bodies that overlap the zone now, in order of their index, into `found`.
void sense(const WorldState& state, const ZoneRecord& zone, std::vector<BodyHandle>& found) {
  found.clear();
  state.broad_phase.overlapping(shape_bounds(zone.reach, zone.reach_pose), [&](std::uint32_t i) {
    const BodySettings& body = state.records[i].settings;
    const bool sensed =
        body.kind != MotionKind::fixed && (zone.settings.labels == 0 || (body.labels & zone.settings.labels) != 0) &&
        (surely_inside(state, zone, i) || distance_to_body(state, i, zone.reach, zone.reach_pose, 0).distance <= 0);
    if (sensed) found.push_back({i, state.records[i].generation});
    return true;
  });
  std::sort(found.begin(), found.end());
}

// How much of the body is in the zone, 0 to 1.
double share_inside(const WorldState& state, const ZoneSettings& zone, std::uint32_t body) {
  const Shape middle = Sphere{1e-9};
  const Pose at{state.bodies[body].centre, Quat::Identity()};
  const Separation apart = separation_of(Convex(zone.shape, zone.pose), Convex(middle, at));
  const double radius = std::cbrt(shape_volume(state.records[body].settings.shape) * 3 / (4 * pi));
  return ball_share_below((apart.distance - Convex(zone.shape, zone.pose).radius()) / radius);
}

}  // namespace

void wake_inside(WorldState& state, const ZoneRecord& zone) {
  for (const BodyHandle body : zone.inside)
    if (state.records[body.index].alive && state.records[body.index].generation == body.generation)
      wake_island(state, body.index);
}

void prepare_zone(const WorldState& state, ZoneRecord& zone) {
  const ZoneSettings& s = zone.settings;
  zone.reach = s.shape;
  zone.reach_pose = s.pose;
  zone.sides = moved(facets_of(s.shape), s.pose).planes;
  zone.trains.clear();
  const Bounds bounds = shape_bounds(s.shape, s.pose);
  zone.pull_reach = std::max(1e-6, 0.5 * (bounds.high - bounds.low).maxCoeff());
  if (s.pull && s.pull->target != Pull::Target::point) {
    const Bounds own = shape_bounds(s.shape, Pose{});
    const Vec3 half = 0.5 * (own.high - own.low);
    zone.pull_reach = s.pull->target == Pull::Target::plane ? half.y() : std::max(half.x(), half.z());
  }
  if (!s.water) return;
  std::erase_if(zone.sides, [](const Plane& side) { return side.normal.y() > 0.5; });
  zone.level = s.water->level.value_or(bounds.high.y());
  zone.trains = wave_trains(*s.water, state.settings.gravity.norm(), s.seed);
  double crest = zone.level;
  for (const WaveTrain& train : zone.trains) crest += train.amplitude;
  const auto* box = std::get_if<Box>(&s.shape);
  const bool upright = (s.pose.orientation * Vec3::Unit(1)).y() > 1 - 1e-6;
  if (!box || !upright || crest <= bounds.high.y()) return;
  zone.reach = Box{{box->size.x(), crest - bounds.low.y(), box->size.z()}};
  zone.reach_pose.position.y() = 0.5 * (crest + bounds.low.y());
}

namespace {

// Looks once more at those who came into reach in this tick, and at those who were dry in its last sub-step: what
// came into the water since has splashed in this tick, not in the next.
void look_at_dry(WorldState& state, ZoneRecord& zone) {
  const double now = static_cast<double>(state.tick + 1) * state.tick_length();
  auto before = zone.wet.begin();
  std::vector<Wet>& all = zone.wet_again;
  all.clear();
  for (const BodyHandle body : zone.inside) {
    for (; before != zone.wet.end() && before->body < body.index; ++before) all.push_back(*before);
    const bool known = before != zone.wet.end() && before->body == body.index;
    Wet wet = known ? *before++ : Wet{};
    wet.body = body.index;
    const BodyRecord& record = state.records[body.index];
    if (!(wet.volume > 0) && record.dynamic() && !record.asleep)
      wet = wet_part(state, zone, body.index, Vec3::Zero(), now);
    all.push_back(wet);
  }
  all.insert(all.end(), before, zone.wet.end());
  zone.wet.swap(all);
}

// Who came into the water or out of it in this tick.
void find_splashes(WorldState& state, const ZoneRecord& zone, ZoneHandle handle) {
  constexpr double least_speed = 0.1;
  const auto tell = [&](const Wet& now, bool into, double volume) {
    // What broke off in this tick was not there at its start.
    const BodyState& motion = now.body < state.at_start.size() ? state.at_start[now.body] : state.bodies[now.body];
    // Through the surface, which moves with the water.
    const double speed = now.surface_normal.dot(motion.velocity - now.flow);
    if ((into ? -speed : speed) < least_speed) return;
    const double time = static_cast<double>(state.tick) * state.tick_length();
    const WaterNow water{zone.level, zone.settings.water->current, zone.trains, time};
    const Vec3& c = state.bodies[now.body].centre;
    SplashEvent& splash = state.splashes.emplace_back();
    splash = {handle, {now.body, state.records[now.body].generation}, into, std::abs(speed),
              volume, {c.x(), water.height(c.x(), c.z()), c.z()}};
  };
  // Two lists in order of the bodies, walked side by side. Who was not there before was dry.
  auto before = zone.wet_before.begin();
  for (const Wet& now : zone.wet) {
    while (before != zone.wet_before.end() && before->body < now.body) ++before;
    const bool known = before != zone.wet_before.end() && before->body == now.body;
    const double was = known ? before->volume : 0;
    if (was <= 0 && now.volume > 0) tell(now, true, now.volume);
    if (was > 0 && now.volume <= 0 && state.records[now.body].alive) tell(now, false, was);
  }
}

}  // namespace

void update_zones(WorldState& state) {
  state.zone_events.clear();
  state.splashes.clear();
  for (std::uint32_t z = 0; z < state.zones.size(); ++z) {
    ZoneRecord& zone = state.zones[z];
    if (!zone.alive) continue;
    sense(state, zone, zone.sensed);
    const ZoneHandle handle{z, zone.generation};
    // Two sorted lists, walked side by side.
    auto before = zone.inside.begin();
    auto now = zone.sensed.begin();
    while (before != zone.inside.end() || now != zone.sensed.end()) {
      if (now == zone.sensed.end() || (before != zone.inside.end() && *before < *now)) {
        state.zone_events.push_back({handle, *before++, false});
      } else if (before == zone.inside.end() || *now < *before) {
        state.zone_events.push_back({handle, *now++, true});
      } else {
        ++before;
        ++now;
      }
    }
    zone.inside.swap(zone.sensed);
    if (!zone.settings.water) continue;
    look_at_dry(state, zone);
    find_splashes(state, zone, handle);
  }
}

void apply_zones(WorldState& state) {
  state.media.clear();
  const double time = static_cast<double>(state.tick) * state.tick_length();
  for (ZoneRecord& zone : state.zones) {
    if (!zone.alive || !zone.settings.has_field()) continue;
    if (state.media.empty()) {
      Medium usual;
      usual.gravity = state.settings.gravity;
      state.media.assign(state.records.size(), usual);
    }
    // As sensed after the last tick, unless something came or was put elsewhere since.
    if (state.unsensed)
      sense(state, zone, zone.acting);
    else
      zone.acting = zone.inside;
    zone.wet_before.swap(zone.wet);
    zone.wet.clear();
    const ZoneSettings& s = zone.settings;
    const Vec3 wind = s.wind * gust_factor(s.gusts, s.gust_time, s.seed, time);
    const bool of_air = !s.water && (s.linear_damping != 0 || s.angular_damping != 0);
    if (!s.gravity && s.gravity_factor == 1 && wind.isZero() && !of_air) continue;
    for (const BodyHandle body : zone.acting) {
      BodyRecord& record = state.records[body.index];
      if (!record.alive || record.generation != body.generation || !record.dynamic() || record.asleep) continue;
      const double share = share_inside(state, zone.settings, body.index);
      Medium& medium = state.media[body.index];
      record.in_moving_medium = record.in_moving_medium ||
                                (s.gusts > 0 && (record.settings.drag_area > 0 || record.settings.linear_drag > 0));
      const Vec3 there = zone.settings.gravity.value_or(medium.gravity) * zone.settings.gravity_factor;
      medium.gravity += share * (there - medium.gravity);
      medium.wind += share * wind;
      if (!of_air) continue;
      medium.linear_damping += share * zone.settings.linear_damping;
      medium.angular_damping += share * zone.settings.angular_damping;
    }
  }
  state.unsensed = false;
}

}  // namespace bronvel
