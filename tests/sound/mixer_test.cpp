// Many sounds at once: how many, how loud, from where.
#include "sound/mixer.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <cmath>

using namespace bronvel;

namespace {

Onset struck(double loudness, const Vec3& point = {0, 1, 0}) {
  Onset onset;
  onset.loudness = loudness;
  onset.point = point;
  onset.ring = ring_of(Box{{0.5, 0.5, 0.5}}, "wood");
  return onset;
}

struct Loud {
  double left = 0, right = 0;
};
Loud loudness(Mixer& mixer, double seconds) {
  std::vector<float> stereo(2 * static_cast<std::size_t>(seconds * sound_rate));
  mixer.render(stereo);
  Loud sum;
  for (std::size_t i = 0; i < stereo.size(); i += 2) {
    sum.left += static_cast<double>(stereo[i] * stereo[i]);
    sum.right += static_cast<double>(stereo[i + 1] * stereo[i + 1]);
  }
  return {std::sqrt(sum.left), std::sqrt(sum.right)};
}

}  // namespace

TEST_CASE("what is to the left is heard on the left, what is far is quiet") {
  const Ear ear = ear_of(View{{0, 1, 0}, 10, 0, 0});
  CHECK((ear.at - Vec3(0, 1, 10)).norm() < 1e-12);
  CHECK((ear.right - Vec3(1, 0, 0)).norm() < 1e-12);
  const EarSides left = sides_of(ear, {-10, 1, 0}), middle = sides_of(ear, {0, 1, 0}), far = sides_of(ear, {0, 1, -40});
  CHECK(left.left > 3 * left.right);
  CHECK(middle.left == Approx(1));
  CHECK(middle.right == Approx(1));
  CHECK(far.left == Approx(0.2));
  Mixer mixer;
  mixer.set_ear(ear);
  mixer.start(struck(0.5, {8, 1, 5}));
  const Loud heard = loudness(mixer, 0.3);
  CHECK(heard.right > 2 * heard.left);
  CHECK(heard.left > 0);
}

TEST_CASE("no more than 32 sound at once, and a loud one takes the place of a quiet one") {
  Mixer mixer;
  for (int i = 0; i < 100; ++i) mixer.start(struck(0.01));
  CHECK(mixer.sounding() == Mixer::most_voices);
  Mixer alone = mixer;
  mixer.start(struck(1));
  CHECK(mixer.sounding() == Mixer::most_voices);
  CHECK(loudness(mixer, 0.1).left > 2 * loudness(alone, 0.1).left);
}

TEST_CASE("level, hush and slides end without leaving anything") {
  Mixer mixer;
  mixer.start(struck(0.5));
  const Slide slide{7, {0, 1, 0}, 0.3, 500};
  mixer.slide(std::span(&slide, 1));
  CHECK(loudness(mixer, 0.2).left > 0.1);
  mixer.slide({});
  loudness(mixer, 6.5);
  CHECK(mixer.sounding() == 0);
  CHECK(loudness(mixer, 0.1).left == 0);
  mixer.start(struck(0.5));
  mixer.hush();
  loudness(mixer, 0.2);
  CHECK(mixer.sounding() == 0);
  mixer.set_level(0);
  loudness(mixer, 0.2);
  mixer.start(struck(1));
  CHECK(loudness(mixer, 0.1).left < 1e-3);
}

TEST_CASE("whatever begins, what is heard are numbers within the range") {
  CHECK(rc::check([] {
    Mixer mixer;
    const int count = *rc::gen::inRange(1, 60);
    for (int i = 0; i < count; ++i) {
      Onset onset = struck(*rc::gen::inRange(0, 101) / 100.0, {*rc::gen::inRange(-50, 50) * 1.0, 0, 3});
      onset.kind = *rc::gen::element(Onset::Kind::struck, Onset::Kind::splash, Onset::Kind::recorded);
      onset.pitch = std::pow(2.0, *rc::gen::inRange(-40, 40) / 5.0);
      onset.size = std::pow(10.0, *rc::gen::inRange(-4, 4));
      onset.contact = std::pow(10.0, *rc::gen::inRange(-6, 0));
      const double size = std::pow(10.0, *rc::gen::inRange(-4, 4));
      onset.ring = ring_of(Box{{size, size * 0.5, size * 0.1}}, *rc::gen::element<std::string>("iron", "cloth", "ice"));
      onset.chance = *rc::gen::arbitrary<std::uint64_t>();
      auto recording = std::make_shared<Recording>();
      recording->samples.assign(static_cast<std::size_t>(*rc::gen::inRange(0, 5000)), 0.7F);
      mixer.start(onset, recording, *rc::gen::inRange(0, 100) / 1000.0);
    }
    const Slide slide{1, {}, 1, std::pow(10.0, *rc::gen::inRange(0, 6))};
    mixer.slide(std::span(&slide, 1));
    std::vector<float> stereo(20000);
    mixer.render(stereo);
    for (const float y : stereo) RC_ASSERT(std::isfinite(y) && std::abs(y) <= 1);
  }));
}
