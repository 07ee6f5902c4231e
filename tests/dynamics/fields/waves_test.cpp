// The waves at eight places side by side are those at one.
#include "dynamics/fields/waves.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "dynamics/fields/waves_of_eight.h"
#include "geometry/base/random.h"

using namespace bronvel;

TEST_CASE("eight places see the waves that each of them sees alone", "[random]") {
  CHECK(rc::check("any trains, places and moments", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    Water settings;
    settings.wave_height = random.between(0.01, 2);
    settings.wave_length = 7 * settings.wave_height + random.between(0, 30);
    settings.wave_heading = random.between(-3, 3);
    settings.waves = *rc::gen::inRange(1, 17);
    const std::vector<WaveTrain> trains = wave_trains(settings, 9.81, 7);
    // Far out and late: angles of millions.
    const double far = std::pow(10.0, random.between(0, 6));
    const WaterNow water{random.between(-5, 5),
                         Vec3(random.between(-2, 2), random.between(-1, 1), random.between(-2, 2)), trains,
                         random.between(0, far)};
    WavesOfEight waves;
    std::vector<WidthsOfEight> widths(trains.size());
    Lanes8<double> reaches;
    for (std::size_t i = 0; i < lanes; ++i) {
      waves.x[i] = random.between(-far, far);
      waves.z[i] = random.between(-far, far);
      waves.y[i] = water.level + random.between(-40, 3);
      reaches[i] = random.between(0.001, 3);
      for (std::size_t t = 0; t < trains.size(); ++t) {
        const WaveWidth width = width_of(trains[t], reaches[i]);
        widths[t].rise[i] = width.rise;
        widths[t].slope_x[i] = width.slope_x;
        widths[t].slope_z[i] = width.slope_z;
      }
    }
    waves.look(water, widths.data());
    waves.look_down(water);
    for (std::size_t i = 0; i < lanes; ++i) {
      const WaveLook alone(water, waves.x[i], waves.z[i]);
      const Plane surface = alone.surface(reaches[i]);
      const auto at = [&](const Vectors8<double>& v) { return Vec3(v[0][i], v[1][i], v[2][i]); };
      RC_ASSERT((at(waves.normal) - surface.normal).norm() < 1e-14);
      RC_ASSERT(std::abs(waves.offset[i] - surface.offset) < 1e-14 * (10 + far));
      const WaterNow::Moving there = alone.moving(waves.y[i]);
      RC_ASSERT((at(waves.flow) - there.velocity).norm() < 1e-13);
      RC_ASSERT((at(waves.swell) - there.acceleration).norm() < 1e-13);
    }
  }));
}

TEST_CASE("a place that is no number leaves the others as they are") {
  Water settings;
  settings.wave_height = 0.5;
  settings.waves = 3;
  const std::vector<WaveTrain> trains = wave_trains(settings, 9.81, 1);
  const WaterNow water{0, Vec3::Zero(), trains, 3};
  WavesOfEight waves, with_one;
  for (std::size_t i = 0; i < lanes; ++i) waves.x[i] = with_one.x[i] = 1.5 * static_cast<double>(i);
  with_one.x[3] = std::numeric_limits<double>::quiet_NaN();
  const std::vector<WidthsOfEight> widths(trains.size());
  waves.look(water, widths.data());
  with_one.look(water, widths.data());
  for (std::size_t i = 0; i < lanes; ++i)
    for (std::size_t t = 0; i != 3 && t < trains.size(); ++t)
      CHECK(std::abs(waves.sine[t][i] - with_one.sine[t][i]) < 1e-15);
}
