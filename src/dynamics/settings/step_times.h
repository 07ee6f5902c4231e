// Where the time of a tick goes.
#pragma once

namespace bronvel {

/// Of one tick, s.
struct StepTimes {
  double pairs = 0;      ///< which bodies are near each other
  double contacts = 0;   ///< where they touch
  double impacts = 0;    ///< hits at speed
  double integrate = 0;  ///< velocities and positions
  double solve = 0;      ///< resting contacts
  double joints = 0;
  double report = 0;  ///< events and sleep
  double whole = 0;
};

}  // namespace bronvel
