// The world's zones, as its users come to them.
#include "dynamics/fields/waves.h"
#include "dynamics/fields/zones.h"
#include "dynamics/state/world_state.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"

namespace bronvel {
namespace {

std::uint32_t index_of(const WorldState& state, ZoneHandle zone) {
  const bool alive = zone.index < state.zones.size() && state.zones[zone.index].alive &&
                     state.zones[zone.index].generation == zone.generation;
  if (!alive) throw Error("world", "the zone is gone");
  return zone.index;
}

}  // namespace

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
  prepare_zone(s, s.zones[z]);
  s.disturbed = s.unsensed = true;
  return {z, generation};
}

void World::remove(ZoneHandle zone) {
  ZoneRecord& record = state_->zones[index_of(*state_, zone)];
  wake_inside(*state_, record);
  record.alive = false;
  state_->disturbed = true;
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
  prepare_zone(*state_, record);
  state_->disturbed = state_->unsensed = true;
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

std::span<const SplashEvent> World::splashes() const {
  return state_->splashes;
}

WaterNow World::water(ZoneHandle zone) const {
  const ZoneRecord& record = state_->zones[index_of(*state_, zone)];
  if (!record.settings.water) throw Error("zone", "holds no water", "set its water first");
  return {record.level, record.settings.water->current, record.trains, time()};
}

std::vector<Floating> World::floating(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  std::vector<Floating> found;
  const double gravity = state_->gravity_on(i).norm() * state_->records[i].settings.gravity_factor;
  for (std::uint32_t z = 0; z < state_->zones.size(); ++z) {
    const ZoneRecord& zone = state_->zones[z];
    if (!zone.alive || !zone.settings.water) continue;
    const Wet wet = wet_part(*state_, zone, i, Vec3::Zero(), time());
    if (!(wet.volume > 0)) continue;
    const WaterNow water{zone.level, zone.settings.water->current, zone.trains, time()};
    const Bounds bounds = shape_bounds(state_->records[i].settings.shape, motion(body).pose);
    const Vec3 middle = 0.5 * (bounds.low + bounds.high), half = 0.5 * (bounds.high - bounds.low);
    Floating& f = found.emplace_back();
    f.zone = {z, zone.generation};
    f.share = wet.share;
    f.volume = wet.volume;
    f.centre = wet.centre;
    f.force = zone.settings.water->density * wet.volume * gravity;
    f.surface = water.surface(middle.x(), middle.z(), std::max(0.5 * std::max(half.x(), half.z()), 1e-3));
  }
  return found;
}

double World::submerged(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  double share = 0;
  for (const ZoneRecord& zone : state_->zones) {
    if (!zone.alive || !zone.settings.water) continue;
    const auto found = std::lower_bound(zone.wet.begin(), zone.wet.end(), i,
                                        [](const Wet& wet, std::uint32_t index) { return wet.body < index; });
    if (found != zone.wet.end() && found->body == i) share += found->share;
  }
  return std::min(share, 1.0);
}

}  // namespace bronvel
