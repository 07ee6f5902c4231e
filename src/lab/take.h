// A take: one recorded play, body by body and tick by tick.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "play/play.h"

namespace bronvel {

/// A body's motion at a tick, as recorded.
struct Sample {
  double position[3];
  float orientation[4];  ///< x, y, z, w
  float velocity[3];
  float angular_velocity[3];
};

/// What a play did. Bodies that never move are not recorded after the first tick.
class Take {
 public:
  Take() = default;
  /// Starts recording with the state of `play` now.
  explicit Take(const Play& play);

  /// Adds the play's state and events after a tick. When the memory for takes is used up, nothing more is added and
  /// `full` says so.
  void record(const Play& play);

  std::int64_t ticks() const { return ticks_; }  ///< recorded, the start included
  double tick_rate() const { return tick_rate_; }
  std::uint64_t seed() const { return seed_; }
  bool full() const { return full_; }
  const std::vector<PlayEvent>& events() const { return events_; }
  const std::vector<PlayCrack>& cracks() const { return cracks_; }
  /// The body's motion at the tick (0 is the start), or null if it was not recorded or not there yet.
  const Sample* at(const std::string& body, std::int64_t tick) const;

 private:
  struct Track {
    std::string body;
    bool moves = true;
    std::int64_t first_tick = 0;  // when it was stamped; 0 for those of the scene
    std::vector<Sample> samples;
  };
  std::vector<Track> tracks_;
  std::vector<PlayEvent> events_;
  std::vector<PlayCrack> cracks_;
  std::int64_t ticks_ = 0;
  double tick_rate_ = 60;
  std::uint64_t seed_ = 0;
  std::size_t bytes_ = 0;
  bool full_ = false;
};

}  // namespace bronvel
