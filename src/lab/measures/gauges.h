// How each measure is read off a running play.
#pragma once

#include "lab/measures/measure.h"

namespace bronvel::gauges {

inline constexpr double never = std::numeric_limits<double>::quiet_NaN();

// Extremes of a place are those of the cubic through places and velocities at a tick's ends (Hermite), exact in free
// flight; a tick in which the body touched counts by its ends.
Gauge apex(const Measure& measure);
Gauge apex_time(const Measure& measure);
Gauge lowest(const Measure& measure);
Gauge farthest(const Measure& measure);
Gauge top_speed(const Measure& measure);
Gauge mean_speed(const Measure& measure);
Gauge way(const Measure& measure);
Gauge rest_time(const Measure& measure);
Gauge bounce(const Measure& measure);
Gauge bounces(const Measure& measure);
Gauge fit(const Measure& measure);

Gauge at(const Measure& measure);
Gauge least(const Measure& measure);
Gauge greatest(const Measure& measure);
Gauge mean(const Measure& measure);
Gauge final_value(const Measure& measure);
Gauge least_time(const Measure& measure);
Gauge greatest_time(const Measure& measure);
Gauge reaches(const Measure& measure);
Gauge period(const Measure& measure);
Gauge told(const Measure& measure);

Gauge touch_time(const Measure& measure);
Gauge touch_x(const Measure& measure);
Gauge touch_y(const Measure& measure);
Gauge touch_z(const Measure& measure);
Gauge touch_range(const Measure& measure);
Gauge touches(const Measure& measure);
Gauge hardest_hit(const Measure& measure);
Gauge hit_speed(const Measure& measure);
Gauge enter_time(const Measure& measure);
Gauge stay(const Measure& measure);
Gauge arrive_time(const Measure& measure);
Gauge arrive_x(const Measure& measure);
Gauge arrive_y(const Measure& measure);
Gauge arrive_z(const Measure& measure);
Gauge pieces(const Measure& measure);
Gauge strain(const Measure& measure);
Gauge holds(const Measure& measure);

}  // namespace bronvel::gauges
