// Water, wind and pulls: what a zone's settings say of them, and where the water stands at a moment.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "geometry/contact_clip.h"
#include "geometry/vector.h"

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

/// The trains of the water's waves: the same for the same seed.
std::vector<WaveTrain> wave_trains(const Water& water, double gravity, std::uint64_t seed);

/// The water at one moment.
struct WaterNow {
  double level = 0;  ///< of the still surface, m
  Vec3 current = Vec3::Zero();
  std::span<const WaveTrain> trains{};
  double time = 0;  ///< s

  double height(double x, double z) const;  ///< of the surface there, m
  /// The surface near (x, z) as a plane: through points `reach` m to each side.
  Plane surface(double x, double z, double reach) const;
  /// How the water itself moves at a point, waves included.
  struct Moving {
    Vec3 velocity = Vec3::Zero();      ///< m/s
    Vec3 acceleration = Vec3::Zero();  ///< m/s²
  };
  Moving moving(const Vec3& point) const;
};

/// How strong gusts blow at a moment: 1 in the mean, from 1 − gusts to 1 + gusts, swinging in about `seconds`.
double gust_factor(double gusts, double seconds, std::uint64_t seed, double time);

/// What the falloff leaves at distance d, of a reach r.
double falloff_share(Pull::Falloff falloff, double distance, double reach);

}  // namespace bronvel
