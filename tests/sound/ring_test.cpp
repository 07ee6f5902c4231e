// Struck bodies ring as closed forms say.
#include "sound/ring.h"

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "scene/document/voice.h"

using namespace bronvel;

TEST_CASE("a thin bar swings as a free bar does") {
  // f = 1.028 c h / l² and overtones at 2.757 and 5.404 (Fletcher and Rossing, 2.15). 36 Hz is felt, not heard.
  CHECK(ring_of(Box{{2, 0.04, 0.1}}, "wood").modes[0].frequency == Approx(45));
  const Ring iron = ring_of(Box{{1, 0.02, 0.05}}, "iron");
  CHECK(iron.modes[0].frequency == Approx(1.028 * 5100 * 0.02).epsilon(0.001));
  CHECK(iron.modes[1].frequency / iron.modes[0].frequency == Approx(2.757).epsilon(0.001));
  CHECK(iron.modes[2].frequency / iron.modes[0].frequency == Approx(5.404).epsilon(0.001));
}

TEST_CASE("what is larger rings lower, what is of iron longer, and shares add up") {
  for (const std::string& voice : voice_names())
    for (const Shape& shape :
         {Shape(Box{{0.4, 0.4, 0.4}}), Shape(Sphere{0.3}), Shape(Box{{2, 0.1, 0.1}}), Shape(Box{{1, 1, 0.05}}),
          Shape(Capsule{0.1, 2}), Shape(Box{{1e-6, 1e-6, 1e-6}}), Shape(Box{{1e5, 1e5, 1e5}})}) {
      const Ring ring = ring_of(shape, voice);
      double sum = ring.knock;
      for (const Mode& mode : ring.modes) {
        sum += mode.share;
        CHECK(mode.frequency > 20);
        CHECK(mode.decay > 0);
      }
      CHECK(sum == Approx(1));
    }
  CHECK(ring_of(Box{{1, 1, 1}}, "wood").modes[0].frequency < ring_of(Box{{0.3, 0.3, 0.3}}, "wood").modes[0].frequency);
  CHECK(ring_of(Box{{1, 1, 1}}, "iron").modes[0].decay < ring_of(Box{{1, 1, 1}}, "wood").modes[0].decay);
  CHECK_THROWS_AS(ring_of(Sphere{1}, "brass band"), Error);
}

TEST_CASE("a blow lasts as Hertz says: with the fifth root of speed, with m to the 2/5") {
  const Stuff &iron = stuff_of("iron"), &rubber = stuff_of("rubber");
  const double once = contact_time(iron, iron, 20, 0.2, 1);
  CHECK(contact_time(iron, iron, 20, 0.2, 32) == Approx(once / 2));
  CHECK(contact_time(iron, iron, 20 * 32, 0.2, 1) == Approx(once * 4));
  CHECK(contact_time(iron, rubber, 20, 0.2, 1) > 10 * once);
}
