// What a zone may be.
#include "dynamics/settings/zone.h"

#include "geometry/shapes/parts.h"

namespace bronvel {

std::optional<std::string> zone_fault(const ZoneSettings& s) {
  if (auto fault = shape_fault(s.shape)) return fault;
  if (is_composite(s.shape)) return "a zone wants a convex shape, not a " + shape_word(s.shape);
  if (!finite(s.pose.position) || !finite(s.pose.orientation) || s.pose.orientation.norm() < 1e-6)
    return "a zone wants a pose of numbers";
  const bool good = finite(s.wind) && (!s.gravity || finite(*s.gravity)) && finite(s.gravity_factor) &&
                    finite(s.linear_damping) && s.linear_damping >= 0 && finite(s.angular_damping) &&
                    s.angular_damping >= 0;
  if (!good) return "a zone wants numbers for gravity, wind and damping, and damping of 0 or more";
  if (!(s.gusts >= 0 && s.gusts <= 1) || !(s.gust_time > 0) || !finite(s.gust_time))
    return "a zone wants gusts from 0 to 1, and a gust time above 0 s";
  if (s.water) {
    const Water& w = *s.water;
    if (!(w.density > 0 && w.density <= 1e6)) return "water wants a density above 0 and up to 1e6 kg/m³";
    if (!finite(w.level.value_or(0)) || !finite(w.current) || !(w.drag >= 0) || !finite(w.drag))
      return "water wants numbers for level, current and drag, and drag of 0 or more";
    if (!(w.wave_height >= 0) || !(w.wave_length > 0) || !finite(w.wave_length) || !finite(w.wave_heading))
      return "waves want a height of 0 or more and a length above 0 m";
    if (w.wave_height > w.wave_length / 7)
      return "waves higher than a seventh of their length would break: make them longer or lower";
    if (w.waves < 1 || w.waves > static_cast<int>(most_trains))
      return "water wants 1 to " + std::to_string(most_trains) + " trains of waves";
  }
  if (s.pull && !(finite(s.pull->strength) && std::abs(s.pull->strength) <= 1e6))
    return "a pull wants a strength of up to 1e6 m/s²";
  return std::nullopt;
}

double ball_share_below(double x) {
  if (x <= -1) return 1;
  if (x >= 1) return 0;
  return (1 - x) * (1 - x) * (2 + x) / 4;
}

}  // namespace bronvel
