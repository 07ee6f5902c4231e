// How the axes of a six-axis joint are written in scene.json.
#pragma once

#include <array>

#include "dynamics/settings/joint.h"

namespace bronvel {

inline constexpr std::array<const char*, 6> axis_names{"move_x", "move_y", "move_z", "turn_x", "turn_y", "turn_z"};
inline constexpr std::array<const char*, 3> freedom_words{"locked", "limited", "free"};  ///< in the order of Freedom

struct AxisNumber {
  const char* name;
  double JointAxis::*field;
  double low;
};
inline constexpr std::array<AxisNumber, 7> axis_numbers{{{"low", &JointAxis::low, -1e6},
                                                         {"high", &JointAxis::high, -1e6},
                                                         {"stiffness", &JointAxis::stiffness, 0},
                                                         {"damping", &JointAxis::damping, 0},
                                                         {"rest", &JointAxis::rest, -1e6},
                                                         {"motor_speed", &JointAxis::motor_speed, -1e6},
                                                         {"motor_most", &JointAxis::motor_most, 0}}};

}  // namespace bronvel
