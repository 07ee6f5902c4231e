// Closed forms for mass properties.
#include "geometry/shapes/mass.h"

#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"

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

// Along Y: `along` about the axis, `across` about the two others.
Mat3 about_y(double along, double across) {
  return Vec3(across, along, across).asDiagonal();
}

MassProperties of(const Cylinder& c, double mass) {
  const double r2 = c.radius * c.radius;
  return {mass, Vec3::Zero(), about_y(0.5 * mass * r2, mass * (3 * r2 + c.height * c.height) / 12)};
}

MassProperties of(const Capsule& c, double mass) {
  const double r = c.radius, l = c.length;
  const double barrel = mass * l / (l + 4.0 / 3.0 * r), balls = mass - barrel;
  // Each half ball's centre lies 3/8 r beyond the end of the barrel.
  const double along = barrel * 0.5 * r * r + balls * 0.4 * r * r;
  const double across = barrel * (3 * r * r + l * l) / 12 + balls * (0.4 * r * r + 0.25 * l * l + 0.375 * l * r);
  return {mass, Vec3::Zero(), about_y(along, across)};
}

MassProperties of(const Cone& c, double mass) {
  const double r2 = c.radius * c.radius, h2 = c.height * c.height;
  return {mass, {0, -0.25 * c.height, 0}, about_y(0.3 * mass * r2, mass * (3.0 / 20 * r2 + 3.0 / 80 * h2))};
}

MassProperties of(const Hull& h, double mass) {
  return {mass, h.data->centre, h.data->inertia * (mass / h.data->volume)};
}

MassProperties of(const Compound& c, double mass) {
  const double share = mass / c.data->volume;
  return {mass, c.data->centre, c.data->inertia * share};
}

// A mesh that does not close has no inside: a unit inertia keeps what asks for it in numbers.
MassProperties of(const Mesh& m, double mass) {
  if (m.data->volume <= 0) return {mass, Vec3::Zero(), Mat3::Identity()};
  return {mass, m.data->centre, m.data->inertia * (mass / m.data->volume)};
}

MassProperties of(const HeightField&, double mass) {
  return {mass, Vec3::Zero(), Mat3::Identity()};
}

MassProperties of(const Facet&, double mass) {
  return {mass, Vec3::Zero(), Mat3::Identity()};
}

}  // namespace

MassProperties mass_properties(const Shape& shape, double density) {
  const double mass = density * shape_volume(shape);
  return std::visit([&](const auto& s) { return of(s, mass); }, shape);
}

}  // namespace bronvel
