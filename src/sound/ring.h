// How a body rings when it is struck: its modes, from its size, its shape and what it is made of.
#pragma once

#include <array>
#include <string>

#include "geometry/shapes/shape.h"

namespace bronvel {

/// One way in which a body swings.
struct Mode {
  double frequency = 0;  ///< Hz
  double decay = 0;      ///< 1/s: its swing falls by e in 1 / decay
  double share = 0;      ///< of the loudness; those of a ring add up to 1
};

inline constexpr std::size_t modes_of_a_ring = 8;

struct Ring {
  std::array<Mode, modes_of_a_ring> modes{};
  double knock = 0;  ///< share of the loudness that is no tone
};

/// What a stuff does to sound. Round numbers of the order that Cremer, Heckl and Petersson, Structure-Borne Sound,
/// give.
struct Stuff {
  double wave_speed = 0;  ///< of length waves, m/s
  double loss = 0;        ///< share of its energy that a swing loses in a radian
  double wall = 0;        ///< how thick things of it are made, share of their length: casks and bells are hollow
  double stiffness = 0;   ///< N/m²
  double knock = 0;       ///< share of a blow's loudness that is no tone
};

/// Throws Error for a voice that there is not.
const Stuff& stuff_of(const std::string& voice);

/// Bars and plates swing as free thin ones (Fletcher and Rossing, The Physics of Musical Instruments, ch. 2 and 3),
/// boxes by their panels, balls as an elastic ball (Lamb, 1882).
Ring ring_of(const Shape& shape, const std::string& voice);

/// How long two things touch in a blow, s (Hertz; as in Johnson, Contact Mechanics, 11.4): 2.87 (m² / (R E² v))^(1/5).
/// `mass` is the lesser one's, kg, `radius` of where it is struck, m, `speed` their closing speed, m/s.
double contact_time(const Stuff& a, const Stuff& b, double mass, double radius, double speed);

}  // namespace bronvel
