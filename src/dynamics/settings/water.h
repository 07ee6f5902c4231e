// Water and pulls: what a zone is told of them.
#pragma once

#include <cstddef>
#include <optional>

#include "geometry/base/vector.h"

namespace bronvel {

/// What fills a zone up to a level.
struct Water {
  double density = 1000;          ///< kg/m³
  std::optional<double> level{};  ///< height of the still surface, scene Y, m; else the zone's top
  Vec3 current = Vec3::Zero();    ///< velocity of the water, m/s
  double drag = 1;                ///< drag coefficient for bodies that name no drag area of their own
  double wave_height = 0;         ///< from trough to crest, m
  double wave_length = 12;        ///< from crest to crest, m
  double wave_heading = 0;        ///< where they run, rad about Y from the scene's X
  int waves = 1;                  ///< how many trains are laid over each other; 1: regular waves
};

/// What draws bodies or drives them off.
struct Pull {
  enum class Target { point, axis, plane };  ///< the zone's middle, its own Y axis, its own XZ plane
  /// How it changes with the distance d from the target, r being the zone's reach: 1; 1 − d/r; (1 − d/r)²; d/r;
  /// (1 m/d)², no nearer than 0.1 m.
  enum class Falloff { even, linear, square, spring, inverse_square };
  double strength = 0;  ///< acceleration towards the target, m/s²; below 0: away
  Target target = Target::point;
  Falloff falloff = Falloff::even;
};

/// One train of waves on deep water: rise a sin θ, θ = k · (x, z) − ω t + phase, ω² = g k (Airy, 1845).
struct WaveTrain {
  double amplitude = 0;             ///< m
  double number = 0;                ///< k, rad/m
  double rate = 0;                  ///< ω, rad/s
  double phase = 0;                 ///< rad
  double along_x = 1, along_z = 0;  ///< unit
};

/// Of one water.
inline constexpr std::size_t most_trains = 16;

}  // namespace bronvel
