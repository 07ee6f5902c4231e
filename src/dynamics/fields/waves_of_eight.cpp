// Sines, cosines and exponentials of eight numbers, and the waves that they make.
#include "dynamics/fields/waves_of_eight.h"

#include <bit>

#include "geometry/base/exponential.h"

namespace bronvel {
namespace {

// As sine_cosine, without branches.
void sines_cosines(std::size_t count, const Lanes8<double>& angles, Lanes8<double>& sines, Lanes8<double>& cosines) {
  double most = 0;
  for (std::size_t i = 0; i < count; ++i) most = std::abs(angles[i]) < 1e9 ? most : 1e9;
  if (most > 0) {
    for (std::size_t i = 0; i < count; ++i) {
      const SineCosine one = sine_cosine(angles[i]);
      sines[i] = one.sine;
      cosines[i] = one.cosine;
    }
    return;
  }
  for (std::size_t i = 0; i < count; ++i) {
    const double quarters = nearest_whole(angles[i] * 0.6366197723675814);
    const SineCosine near = sine_cosine_near(angles[i], quarters);
    // From −2 to 2: the quarter turn that it is in.
    const double turn = quarters - 4 * nearest_whole(0.25 * quarters), size = std::abs(turn);
    const bool odd = size > 0.5 && size < 1.5;
    const double s = odd ? near.cosine : near.sine, c = odd ? near.sine : near.cosine;
    sines[i] = turn < -0.5 || turn > 1.5 ? -s : s;
    cosines[i] = turn > 0.5 || turn < -1.5 ? -c : c;
  }
}

}  // namespace

void WavesOfEight::look(const WaterNow& water, const WidthsOfEight* by_train) {
  Lanes8<double> middle, slope_x{}, slope_z{}, angles;
  middle.fill(water.level);
  const double gone_x = water.current.x() * water.time, gone_z = water.current.z() * water.time;
  for (std::size_t t = 0; t < water.trains.size(); ++t) {
    const WaveTrain& w = water.trains[t];
    const WidthsOfEight& widths = by_train[t];
    for (std::size_t i = 0; i < count; ++i)
      angles[i] =
          w.number * (w.along_x * (x[i] - gone_x) + w.along_z * (z[i] - gone_z)) - w.rate * water.time + w.phase;
    sines_cosines(count, angles, sine[t], cosine[t]);
    for (std::size_t i = 0; i < count; ++i) {
      middle[i] += widths.rise[i] * sine[t][i];
      slope_x[i] += widths.slope_x[i] * cosine[t][i];
      slope_z[i] += widths.slope_z[i] * cosine[t][i];
    }
  }
  for (std::size_t i = 0; i < count; ++i) {
    const double upright = 1 / std::sqrt(slope_x[i] * slope_x[i] + 1 + slope_z[i] * slope_z[i]);
    normal[0][i] = -slope_x[i] * upright;
    normal[1][i] = upright;
    normal[2][i] = -slope_z[i] * upright;
    offset[i] = normal[0][i] * x[i] + normal[1][i] * middle[i] + normal[2][i] * z[i];
  }
}

void WavesOfEight::look_down(const WaterNow& water) {
  for (std::size_t k = 0; k < 3; ++k) {
    flow[k].fill(water.current[static_cast<Eigen::Index>(k)]);
    swell[k].fill(0);
  }
  Lanes8<double> height, speed;
  for (std::size_t i = 0; i < count; ++i) height[i] = std::min(0.0, y[i] - water.level);
  for (std::size_t t = 0; t < water.trains.size(); ++t) {
    const WaveTrain& w = water.trains[t];
    const Lanes8<double>&s = sine[t], &c = cosine[t];
    for (std::size_t i = 0; i < count; ++i) speed[i] = std::max(w.number * height[i], -700.0);
    for (std::size_t i = 0; i < count; ++i) speed[i] = w.amplitude * w.rate * exponential_within(speed[i]);
    for (std::size_t i = 0; i < count; ++i) {
      const double rate = w.rate * speed[i];
      flow[0][i] += speed[i] * (w.along_x * s[i]);
      flow[1][i] -= speed[i] * c[i];
      flow[2][i] += speed[i] * (w.along_z * s[i]);
      swell[0][i] -= rate * (w.along_x * c[i]);
      swell[1][i] -= rate * s[i];
      swell[2][i] -= rate * (w.along_z * c[i]);
    }
  }
}

}  // namespace bronvel
