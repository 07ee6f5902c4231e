// Closed forms for mass properties.
#include "geometry/mass.h"

namespace bronvel {
namespace {

MassProperties of(const Sphere& s, double mass) {
  return {mass, Vec3::Zero(), Mat3::Identity() * (0.4 * mass * s.radius * s.radius)};
}

MassProperties of(const Box& b, double mass) {
  const Vec3 squares = b.size.cwiseAbs2();
  const Vec3 diagonal = (Vec3::Constant(squares.sum()) - squares) * (mass / 12.0);
  return {mass, Vec3::Zero(), diagonal.asDiagonal()};
}

}  // namespace

MassProperties mass_properties(const Shape& shape, double density) {
  const double mass = density * shape_volume(shape);
  return std::visit([&](const auto& s) { return of(s, mass); }, shape);
}

}  // namespace bronvel
