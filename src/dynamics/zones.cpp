// Sensing and fields of zones.
#include "dynamics/zones.h"

#include <algorithm>

#include "dynamics/body_distance.h"
#include "dynamics/contact_pairs.h"
#include "dynamics/sleep.h"
#include "geometry/distance.h"
#include "geometry/error.h"
#include "geometry/parts.h"

namespace bronvel {
namespace {

// Bodies that overlap the zone now, in order of their index, into `found`.
void sense(const WorldState& state, const ZoneRecord& zone, std::vector<BodyHandle>& found) {
  found.clear();
  state.broad_phase.overlapping(shape_bounds(zone.settings.shape, zone.settings.pose), [&](std::uint32_t i) {
    const BodySettings& body = state.records[i].settings;
    const bool sensed = body.kind != MotionKind::fixed &&
                        (zone.settings.labels == 0 || (body.labels & zone.settings.labels) != 0) &&
                        distance_to_body(state, i, zone.settings.shape, zone.settings.pose, 0).distance <= 0;
    if (sensed) found.push_back({i, state.records[i].generation});
    return true;
  });
  std::sort(found.begin(), found.end());
}

// How much of the body is in the zone, 0 to 1.
double share_inside(const WorldState& state, const ZoneSettings& zone, std::uint32_t body) {
  const Shape middle = Sphere{1e-9};
  const Pose at{state.motions[body].centre, Quat::Identity()};
  const Separation apart = separation_of(Convex(zone.shape, zone.pose), Convex(middle, at));
  const double radius = std::cbrt(shape_volume(state.records[body].settings.shape) * 3 / (4 * pi));
  return ball_share_below((apart.distance - Convex(zone.shape, zone.pose).radius()) / radius);
}

std::uint32_t index_of(const WorldState& state, ZoneHandle zone) {
  const bool alive = zone.index < state.zones.size() && state.zones[zone.index].alive &&
                     state.zones[zone.index].generation == zone.generation;
  if (!alive) throw Error("world", "the zone is gone");
  return zone.index;
}

void wake_inside(WorldState& state, const ZoneRecord& zone) {
  for (const BodyHandle body : zone.inside)
    if (state.records[body.index].alive && state.records[body.index].generation == body.generation)
      wake_island(state, body.index);
}

}  // namespace

double ball_share_below(double x) {
  if (x <= -1) return 1;
  if (x >= 1) return 0;
  return (1 - x) * (1 - x) * (2 + x) / 4;
}

std::optional<std::string> zone_fault(const ZoneSettings& s) {
  if (auto fault = shape_fault(s.shape)) return fault;
  if (is_composite(s.shape)) return "a zone wants a convex shape, not a " + shape_word(s.shape);
  if (!finite(s.pose.position) || !finite(s.pose.orientation) || s.pose.orientation.norm() < 1e-6)
    return "a zone wants a pose of numbers";
  const bool good = finite(s.wind) && (!s.gravity || finite(*s.gravity)) && finite(s.gravity_factor) &&
                    finite(s.linear_damping) && s.linear_damping >= 0 && finite(s.angular_damping) &&
                    s.angular_damping >= 0;
  if (!good) return "a zone wants numbers for gravity, wind and damping, and damping of 0 or more";
  return std::nullopt;
}

void update_zones(WorldState& state) {
  state.zone_events.clear();
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
  }
}

void apply_zones(WorldState& state) {
  state.media.clear();
  for (const ZoneRecord& zone : state.zones) {
    if (!zone.alive || !zone.settings.has_field()) continue;
    if (state.media.empty()) state.media.assign(state.records.size(), Medium{state.settings.gravity});
    for (const BodyHandle body : zone.inside) {
      const BodyRecord& record = state.records[body.index];
      if (!record.alive || record.generation != body.generation || !record.dynamic() || record.asleep) continue;
      const double share = share_inside(state, zone.settings, body.index);
      Medium& medium = state.media[body.index];
      const Vec3 there = zone.settings.gravity.value_or(medium.gravity) * zone.settings.gravity_factor;
      medium.gravity += share * (there - medium.gravity);
      medium.wind += share * zone.settings.wind;
      medium.linear_damping += share * zone.settings.linear_damping;
      medium.angular_damping += share * zone.settings.angular_damping;
    }
  }
}

ZoneHandle World::add_zone(const ZoneSettings& settings) {
  if (const auto fault = zone_fault(settings)) throw Error("zone", *fault);
  WorldState& s = *state_;
  std::uint32_t z = 0;
  while (z < s.zones.size() && s.zones[z].alive) ++z;
  if (z == s.zones.size()) s.zones.emplace_back();
  const std::uint32_t generation = s.zones[z].generation + 1;
  s.zones[z] = ZoneRecord{};
  s.zones[z].settings = settings;
  s.zones[z].generation = generation;
  s.zones[z].alive = true;
  s.stirred = true;
  return {z, generation};
}

void World::remove(ZoneHandle zone) {
  ZoneRecord& record = state_->zones[index_of(*state_, zone)];
  wake_inside(*state_, record);
  record.alive = false;
  state_->stirred = true;
}

bool World::alive(ZoneHandle zone) const {
  return zone.index < state_->zones.size() && state_->zones[zone.index].alive &&
         state_->zones[zone.index].generation == zone.generation;
}

const ZoneSettings& World::zone_settings(ZoneHandle zone) const {
  return state_->zones[index_of(*state_, zone)].settings;
}

void World::change(ZoneHandle zone, const ZoneSettings& settings) {
  if (const auto fault = zone_fault(settings)) throw Error("zone", *fault);
  ZoneRecord& record = state_->zones[index_of(*state_, zone)];
  wake_inside(*state_, record);
  record.settings = settings;
  state_->stirred = true;
}

std::vector<BodyHandle> World::inside(ZoneHandle zone) const {
  std::vector<BodyHandle> found;
  for (const BodyHandle body : state_->zones[index_of(*state_, zone)].inside)
    if (alive(body)) found.push_back(body);
  return found;
}

std::span<const ZoneEvent> World::zone_events() const {
  return state_->zone_events;
}

}  // namespace bronvel
