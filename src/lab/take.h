// A take: one recorded play, body by body and tick by tick.
#pragma once

#include <cstddef>
#include <map>
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

/// What a play did: of every body, copies and parts included, from the tick at which it came to that at which it went.
/// What has not moved yet takes one sample.
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
  std::size_t bytes() const { return bytes_; }
  static constexpr std::size_t most_bytes = std::size_t{512} << 20;
  const std::vector<PlayEvent>& events() const { return events_; }
  const std::vector<PlayCrack>& cracks() const { return cracks_; }
  bool knows(const std::string& body) const { return track_of_.contains(body); }
  /// The body's motion at the tick (0 is the start), or null where it was not recorded, not there yet or gone.
  const Sample* at(const std::string& body, std::int64_t tick) const;

 private:
  struct Track {
    std::string name;
    BodyHandle body;
    std::int64_t first_tick = 0;  // when it came; 0 for those of the scene
    std::int64_t end_tick = -1;   // the first at which it was gone; −1: it is there
    bool moved = false;           // until then the one sample holds for all ticks
    std::vector<Sample> samples;
  };
  std::vector<Track> tracks_;
  std::map<std::string, std::size_t> track_of_;
  std::vector<PlayEvent> events_;
  std::vector<PlayCrack> cracks_;
  std::int64_t ticks_ = 0;
  double tick_rate_ = 60;
  std::uint64_t seed_ = 0;
  std::size_t bytes_ = 0;
  bool full_ = false;
};

}  // namespace bronvel
