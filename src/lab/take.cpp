// Recording takes.
#include "lab/take.h"

#include <algorithm>

namespace bronvel {
namespace {

Sample sample_of(const BodyMotion& m) {
  Sample s{};
  for (int i = 0; i < 3; ++i) {
    s.position[i] = m.pose.position[i];
    s.velocity[i] = static_cast<float>(m.velocity[i]);
    s.angular_velocity[i] = static_cast<float>(m.angular_velocity[i]);
  }
  for (int i = 0; i < 4; ++i) s.orientation[i] = static_cast<float>(m.pose.orientation.coeffs()[i]);
  return s;
}

bool same(const Sample& a, const Sample& b) {
  return std::equal(a.position, a.position + 3, b.position) &&
         std::equal(a.orientation, a.orientation + 4, b.orientation) &&
         std::equal(a.velocity, a.velocity + 3, b.velocity) &&
         std::equal(a.angular_velocity, a.angular_velocity + 3, b.angular_velocity);
}

}  // namespace

Take::Take(const Play& play) : tick_rate_(play.running().world.settings().tick_rate), seed_(play.seed()) {
  record(play);
}

void Take::record(const Play& play) {
  if (full_) return;
  const RunningScene& running = play.running();
  const std::vector<Body>& bodies = running.scene.bodies;
  for (std::size_t i = tracks_.size(); i < bodies.size(); ++i) {  // those of the scene, and what came since
    Track track;
    track.name = bodies[i].name;
    track.first_tick = ticks_;
    if (const auto body = running.find(track.name))
      track.body = *body;
    else
      track.end_tick = ticks_;
    track_of_[track.name] = i;
    tracks_.push_back(std::move(track));
  }
  for (Track& track : tracks_) {
    if (track.end_tick >= 0) continue;
    if (!running.world.alive(track.body)) {
      track.end_tick = ticks_;
      continue;
    }
    const Sample now = sample_of(running.world.motion(track.body));
    if (!track.moved && !track.samples.empty()) {
      if (same(now, track.samples.front())) continue;
      track.moved = true;
      track.samples.resize(static_cast<std::size_t>(ticks_ - track.first_tick), Sample(track.samples.front()));
      bytes_ += (track.samples.size() - 1) * sizeof(Sample);
    }
    track.samples.push_back(now);
    bytes_ += sizeof(Sample);
  }
  if (ticks_ > 0) {
    events_.insert(events_.end(), play.events().begin(), play.events().end());
    cracks_.insert(cracks_.end(), play.cracks().begin(), play.cracks().end());
    bytes_ += play.events().size() * sizeof(PlayEvent) + play.cracks().size() * sizeof(PlayCrack);
  }
  ++ticks_;
  full_ = bytes_ > most_bytes;
}

const Sample* Take::at(const std::string& body, std::int64_t tick) const {
  const auto found = track_of_.find(body);
  if (found == track_of_.end()) return nullptr;
  const Track& track = tracks_[found->second];
  if (tick < track.first_tick || tick >= ticks_ || (track.end_tick >= 0 && tick >= track.end_tick)) return nullptr;
  if (track.samples.empty()) return nullptr;
  const auto i = static_cast<std::size_t>(tick - track.first_tick);
  return &track.samples[std::min(i, track.samples.size() - 1)];
}

}  // namespace bronvel
