// Debris: small parts that have broken off, which fade away when they are old or too many.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "script/running/running_scene.h"

namespace bronvel {

/// What begins to fade in a tick, by the body of the scene that it was once part of.
struct DebrisFading {
  std::map<std::string, int> old, many;  ///< lasted its time; more than there may be
};

class Debris {
 public:
  /// A body has come apart into these, the body itself first. Those that are small enough are debris.
  void add(const RunningScene& running, const std::vector<BodyHandle>& parts);
  /// What is too old begins to fade, and so do the oldest where there are too many; what has faded is given to be
  /// removed.
  std::vector<BodyHandle> clear(const RunningScene& running, DebrisFading& fading);
  /// What is fading away, with the share of it that is left, 1 to 0.
  std::vector<std::pair<BodyHandle, double>> fading(const World& world) const;

 private:
  struct Piece {
    BodyHandle body;
    std::string of;              // the body of the scene that it was once part of
    std::int64_t born = 0;       // tick
    std::int64_t fades_at = -1;  // tick at which it began to; −1: not yet
  };
  std::vector<Piece> pieces_;  // the oldest first
  // The body of the scene that a part was once part of, however often it broke since.
  std::map<BodyHandle, std::string> wholes_;
  std::size_t look_at_ = 64;  // as many are looked through for those that are gone
};

}  // namespace bronvel
