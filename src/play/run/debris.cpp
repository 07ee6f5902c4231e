// Which parts are debris, and when they go.
#include "play/run/debris.h"

#include <algorithm>
#include <cmath>

namespace bronvel {
namespace {

constexpr double fade_time = 0.5;  // s: how long debris takes to fade away

}  // namespace

void Debris::add(const RunningScene& running, const std::vector<BodyHandle>& parts) {
  const BodyHandle front = parts.front();
  const auto known = wholes_.find(front);
  const std::string whole = known == wholes_.end() ? running.name_of(front) : known->second;
  for (std::size_t i = 1; i < parts.size(); ++i) {
    wholes_[parts[i]] = whole;
    const Body* body = running.body_of(parts[i]);
    if (!body || body->breaking.debris_below <= 0) continue;
    if (shape_volume(body->shape) >= body->breaking.debris_below) continue;
    pieces_.push_back({parts[i], whole, running.world.tick()});
  }
}

std::vector<BodyHandle> Debris::clear(const RunningScene& running, DebrisFading& fading) {
  std::vector<BodyHandle> gone;
  if (pieces_.empty()) return gone;
  const std::int64_t tick = running.world.tick();
  const double rate = running.world.settings().tick_rate;
  std::map<std::string, int> left;
  for (const Piece& each : pieces_)
    if (each.fades_at < 0) ++left[each.of];
  for (Piece& each : pieces_) {
    const Body* body = running.body_of(each.body);
    if (!body || !running.world.alive(each.body) || each.fades_at >= 0) continue;
    const double age = static_cast<double>(tick - each.born) / rate;
    const bool aged = body->breaking.debris_age > 0 && age >= body->breaking.debris_age;
    const bool crowded = body->breaking.debris_most > 0 && left[each.of] > body->breaking.debris_most;
    if (!aged && !crowded) continue;
    each.fades_at = tick;
    --left[each.of];
    ++(aged ? fading.old : fading.many)[each.of];
  }
  const std::int64_t fade_ticks = std::lround(fade_time * rate);
  std::erase_if(pieces_, [&](const Piece& each) {
    if (!running.world.alive(each.body)) return true;
    if (each.fades_at < 0 || tick - each.fades_at < fade_ticks) return false;
    gone.push_back(each.body);
    return true;
  });
  if (wholes_.size() > look_at_) {
    std::erase_if(wholes_, [&](const auto& each) { return !running.world.alive(each.first); });
    look_at_ = 2 * wholes_.size() + 64;
  }
  return gone;
}

std::vector<std::pair<BodyHandle, double>> Debris::fading(const World& world) const {
  std::vector<std::pair<BodyHandle, double>> all;
  const double ticks = fade_time * world.settings().tick_rate;
  for (const Piece& each : pieces_)
    if (each.fades_at >= 0)
      all.emplace_back(each.body, std::clamp(1 - static_cast<double>(world.tick() - each.fades_at) / ticks, 0.0, 1.0));
  return all;
}

}  // namespace bronvel
