// All that the screen shows of one moment: of the document, of a running play or of a take. It is made at once, from
// one of these, so that no two parts of the screen speak of different moments.
#pragma once

#include <optional>
#include <vector>

#include "app/session/choice.h"
#include "app/session/water_view.h"
#include "lab/readings/floating_reading.h"
#include "lab/readings/frame.h"
#include "lab/takes/take_reader.h"

namespace bronvel {

struct Moment {
  Frame frame;      ///< with its tick
  double time = 0;  ///< s since the play's start
  std::vector<WaterView> waters;
  // Of what is chosen.
  std::optional<BodyReading> body;
  std::optional<JointReading> joint;
  std::optional<FloatingReading> floating;
  std::vector<BondReading> bonds;
};

/// The scene before any play.
Moment moment_of(const Scene& scene, std::uint64_t seed, const Choice& choice);

/// A take's tick, or its last one where that comes before.
Moment moment_of(const Take& take, TakeReader& reader, std::int64_t tick, const Choice& choice);

/// A moment of the same play before becomes that of now: cheaper than a new one. `touching` knows what sleeps and
/// touches; null where no take is recorded. Its puffs are not the play's to tell.
void renew_moment(Moment& moment, const Play& play, const std::vector<Touching>* touching, const Choice& choice);

}  // namespace bronvel
