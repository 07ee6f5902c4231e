// Waves, gusts and falloffs.
#include "dynamics/fields/waves.h"

#include <array>

#include "dynamics/fields/wave_look.h"
#include "geometry/base/angles.h"
#include "geometry/base/exponential.h"
#include "geometry/base/random.h"

namespace bronvel {

std::vector<WaveTrain> wave_trains(const Water& water, double gravity, std::uint64_t seed) {
  std::vector<WaveTrain> trains;
  if (!(water.wave_height > 0) || water.waves < 1) return trains;
  Random random(seed ^ 0x57A7E5ULL);
  const double g = gravity > 1e-6 ? gravity : 9.81;
  for (int i = 0; i < water.waves; ++i) {
    // The first runs as asked; the others are shorter and longer, and run a little across it.
    const double off = i == 0 ? 0 : random.between(-0.6, 0.6);
    const double length = i == 0 ? water.wave_length : water.wave_length * random.between(0.45, 1.5);
    WaveTrain train;
    // Trains of equal energy, together that of one of the whole height.
    train.amplitude = 0.5 * water.wave_height / std::sqrt(static_cast<double>(water.waves));
    train.number = 2 * pi / length;
    train.rate = std::sqrt(g * train.number);
    train.phase = i == 0 ? 0 : random.between(0, 2 * pi);
    train.along_x = std::cos(water.wave_heading + off);
    train.along_z = -std::sin(water.wave_heading + off);
    trains.push_back(train);
  }
  return trains;
}

namespace {

// The angle of a train at a place, carried along by the current.
double angle(const WaveTrain& w, const Vec3& current, double time, double x, double z) {
  return w.number * (w.along_x * (x - current.x() * time) + w.along_z * (z - current.z() * time)) - w.rate * time +
         w.phase;
}

}  // namespace

double WaterNow::height(double x, double z) const {
  double rise = level;
  for (const WaveTrain& w : trains) rise += w.amplitude * sine_cosine(angle(w, current, time, x, z)).sine;
  return rise;
}

WaveLook::WaveLook(const WaterNow& water, double x, double z)
    : water_(water), x_(x), z_(z), count_(std::min(water.trains.size(), most_trains)) {
  for (std::size_t i = 0; i < count_; ++i)
    here_[i] = sine_cosine(angle(water.trains[i], water.current, water.time, x, z));
}

// By the sums of angles.
WaveWidth width_of(const WaveTrain& w, double reach) {
  const SineCosine east = sine_cosine(w.number * w.along_x * reach), south = sine_cosine(w.number * w.along_z * reach);
  // The rise is the mean of the four sides and twice the middle.
  return {w.amplitude * (1 + east.cosine + south.cosine) / 3, w.amplitude * east.sine / reach,
          w.amplitude * south.sine / reach};
}

Plane WaveLook::surface(double reach) const {
  if (count_ == 0) return {Vec3::Unit(1), water_.level};
  double middle = water_.level, slope_x = 0, slope_z = 0;
  for (std::size_t i = 0; i < count_; ++i) {
    const WaveWidth width = width_of(water_.trains[i], reach);
    middle += width.rise * here_[i].sine;
    slope_x += width.slope_x * here_[i].cosine;
    slope_z += width.slope_z * here_[i].cosine;
  }
  const Vec3 normal = Vec3(-slope_x, 1, -slope_z).normalized();
  return {normal, normal.dot(Vec3(x_, middle, z_))};
}

// The orbits of the water's parts shrink with depth as exp(−k depth).
WaterNow::Moving WaveLook::moving(double y) const {
  WaterNow::Moving m{water_.current, Vec3::Zero()};
  for (std::size_t i = 0; i < count_; ++i) {
    const WaveTrain& w = water_.trains[i];
    const SineCosine& theta = here_[i];
    const double speed = w.amplitude * w.rate * exponential(w.number * std::min(0.0, y - water_.level));
    m.velocity += speed * Vec3(w.along_x * theta.sine, -theta.cosine, w.along_z * theta.sine);
    m.acceleration -= speed * w.rate * Vec3(w.along_x * theta.cosine, theta.sine, w.along_z * theta.cosine);
  }
  return m;
}

Plane WaterNow::surface(double x, double z, double reach) const {
  return WaveLook(*this, x, z).surface(reach);
}

WaterNow::Moving WaterNow::moving(const Vec3& p) const {
  return WaveLook(*this, p.x(), p.z()).moving(p.y());
}

double gust_factor(double gusts, double seconds, std::uint64_t seed, double time) {
  if (gusts == 0) return 1;
  // Four swings whose periods share no whole number, each begun somewhere of its own.
  static constexpr std::array<double, 4> rates{1, 0.618, 1.732, 2.903};
  static constexpr std::array<double, 4> sizes{0.4, 0.3, 0.2, 0.1};
  Random random(seed ^ 0x6057ULL);
  double swing = 0;
  for (std::size_t i = 0; i < rates.size(); ++i)
    swing += sizes[i] * std::sin(2 * pi * (rates[i] * time / seconds + random.share()));
  return 1 + gusts * swing;
}

double falloff_share(Pull::Falloff falloff, double d, double r) {
  const double inside = std::clamp(1 - d / r, 0.0, 1.0);
  switch (falloff) {
    case Pull::Falloff::even:
      return 1;
    case Pull::Falloff::linear:
      return inside;
    case Pull::Falloff::square:
      return inside * inside;
    case Pull::Falloff::spring:
      return d / r;
    case Pull::Falloff::inverse_square:
      return 1 / std::pow(std::max(d, 0.1), 2);
  }
  return 0;
}

}  // namespace bronvel
