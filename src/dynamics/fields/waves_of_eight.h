// The waves where eight bodies float, looked at side by side, for compilers to make vectors of. WaveLook does the same
// for one place.
#pragma once

#include "dynamics/fields/wave_look.h"
#include "dynamics/solver/contact_blocks.h"

namespace bronvel {

/// How wide eight bodies are to one train (`width_of`).
struct WidthsOfEight {
  Lanes8<double> rise{}, slope_x{}, slope_z{};
};

struct WavesOfEight {
  std::size_t count = lanes;                             ///< how many of them there are
  Lanes8<double> x{}, z{};                               ///< where, m
  Vectors8<double> normal{};                             ///< of the surface as a plane
  Lanes8<double> offset{};                               ///< the same, m
  Lanes8<double> y{};                                    ///< how high, m
  Vectors8<double> flow{}, swell{};                      ///< the water's velocity there, m/s, and acceleration, m/s²
  std::array<Lanes8<double>, most_trains> sine, cosine;  ///< of each train's angle

  /// The surface at (x, z). `by_train` has as many as the water has trains.
  void look(const WaterNow& water, const WidthsOfEight* by_train);
  /// The flow and the swell at y, where it was looked.
  void look_down(const WaterNow& water);
};

}  // namespace bronvel
