// Recording takes.
#include "lab/take.h"

namespace bronvel {
namespace {

constexpr std::size_t most_bytes = std::size_t{512} << 20;

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

}  // namespace

Take::Take(const Play& play) : tick_rate_(play.running().world.settings().tick_rate), seed_(play.seed()) {
  for (const Body& body : play.running().scene.bodies)
    tracks_.push_back({body.name, body.kind != MotionKind::fixed, 0, {}});
  record(play);
}

void Take::record(const Play& play) {
  if (full_) return;
  const std::vector<Body>& bodies = play.running().scene.bodies;
  for (std::size_t i = tracks_.size(); i < bodies.size(); ++i)  // stamped since
    tracks_.push_back({bodies[i].name, bodies[i].kind != MotionKind::fixed, ticks_, {}});
  for (Track& track : tracks_) {
    if (!track.moves && !track.samples.empty()) continue;
    const auto body = play.running().find(track.body);
    if (!body) continue;
    track.samples.push_back(sample_of(play.running().world.motion(*body)));
    bytes_ += sizeof(Sample);
  }
  if (ticks_ > 0) {
    events_.insert(events_.end(), play.events().begin(), play.events().end());
    cracks_.insert(cracks_.end(), play.cracks().begin(), play.cracks().end());
  }
  ++ticks_;
  full_ = bytes_ > most_bytes;
}

const Sample* Take::at(const std::string& body, std::int64_t tick) const {
  for (const Track& track : tracks_) {
    if (track.body != body || track.samples.empty()) continue;
    if (tick < track.first_tick && track.first_tick > 0) return nullptr;
    const auto i = static_cast<std::size_t>(std::max<std::int64_t>(tick - track.first_tick, 0));
    return &track.samples[std::min(i, track.samples.size() - 1)];
  }
  return nullptr;
}

}  // namespace bronvel
