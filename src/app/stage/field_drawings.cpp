// Drawing waters, winds and bonds.
#include "app/stage/field_drawings.h"

#include <cmath>

namespace bronvel {
namespace {

const QColor water_ink(0x1C, 0x6E, 0x78);
const QColor air_ink(0x3B, 0x7F, 0xB5);

// A number from 0 to 1 that belongs to three whole numbers (Knuth's multiplicative hashing).
double share_of(int i, int j, int k) {
  auto hash = static_cast<std::uint32_t>(i) * 2654435761U ^ static_cast<std::uint32_t>(j) * 2246822519U ^
              static_cast<std::uint32_t>(k) * 3266489917U;
  hash ^= hash >> 15U;
  hash *= 2246822519U;
  hash ^= hash >> 13U;
  return static_cast<double>(hash & 0xFFFFFFU) / 16777216.0;
}

// Strokes strewn over a box, each carried along by `velocity` and begun again at the other side.
void draw_strokes(Pencil& pencil, const Bounds& box, const Vec3& velocity, double seconds, int count,
                  const QColor& colour, const std::function<double(double, double)>& height) {
  const double speed = velocity.norm();
  if (speed < 1e-6) return;
  const Vec3 extent = box.high - box.low;
  const double length = std::clamp(0.12 * speed, 0.1, 0.12 * extent.maxCoeff() + 0.1);
  const Vec3 along = velocity / speed * length;
  for (int i = 0; i < count; ++i) {
    Vec3 at;
    for (int axis = 0; axis < 3; ++axis) {
      const double start = share_of(i, axis, 7) * extent[axis] + velocity[axis] * seconds;
      at[axis] = box.low[axis] + start - std::floor(start / std::max(extent[axis], 1e-9)) * extent[axis];
    }
    // Each stroke bends and fades towards its tail.
    const Vec3 sway = 0.12 * length * std::sin(2 * pi * share_of(i, 5, 1) + 3 * seconds) *
                      (std::abs(along.y()) < 0.9 * length ? Vec3::Unit(1) : Vec3::Unit(0));
    std::array<Vec3, 3> points{at, at - 0.5 * along + sway, at - along};
    if (height)
      for (Vec3& point : points) point.y() = height(point.x(), point.z()) + 0.01;
    QColor head = colour, tail = colour;
    head.setAlpha(190);
    tail.setAlpha(80);
    pencil.line(points[0], points[1], QPen(head, 1.6, Qt::SolidLine, Qt::RoundCap));
    pencil.line(points[1], points[2], QPen(tail, 1.1, Qt::SolidLine, Qt::RoundCap));
  }
}

// Red over ochre to teal.
QColor colour_of_use(double use) {
  const double share = std::clamp(use, 0.0, 1.0);
  const QColor low(0x0E, 0x6E, 0x74), middle(0xC0, 0x8A, 0x1E), high(0xC2, 0x45, 0x2D);
  const QColor &from = share < 0.5 ? low : middle, &to = share < 0.5 ? middle : high;
  const double s = share < 0.5 ? 2 * share : 2 * share - 1;
  const auto mix = [s](int a, int b) { return static_cast<int>(std::lround(a + (b - a) * s)); };
  return {mix(from.red(), to.red()), mix(from.green(), to.green()), mix(from.blue(), to.blue())};
}

}  // namespace

void draw_depths(Pencil& pencil, const Session& session) {
  for (const WaterView& water : session.waters()) {
    const double deep = water.level - water.box.low.y();
    if (!(deep > 0)) continue;
    // At the corner nearest to the eye.
    const Vec3 eye = pencil.camera().eye();
    const Vec3 corner(
        std::abs(eye.x() - water.box.low.x()) < std::abs(eye.x() - water.box.high.x()) ? water.box.low.x()
                                                                                       : water.box.high.x(),
        water.level,
        std::abs(eye.z() - water.box.low.z()) < std::abs(eye.z() - water.box.high.z()) ? water.box.low.z()
                                                                                       : water.box.high.z());
    const double step = deep > 20 ? 5 : deep > 4 ? 1 : deep > 0.8 ? 0.5 : 0.1;
    const QPen pen(water_ink, 1.2);
    pencil.line(corner, corner - Vec3(0, deep, 0), pen);
    const double tick = pencil.metres_of(corner, 7);
    const Vec3 right = pencil.camera().right();
    for (int i = 0; i * step <= deep + 1e-9; ++i) {
      const Vec3 at = corner - Vec3(0, i * step, 0);
      pencil.line(at, at + (i % 2 == 0 ? 1.0 : 0.6) * tick * right, pen);
      if (i % 2 == 0 && i > 0)
        pencil.letter(at + tick * right, {4, 4}, QString::number(i * step, 'g', 3) + " m", water_ink);
    }
    pencil.letter(corner + tick * right, {4, 3}, QString("level %1 m").arg(water.level, 0, 'f', 2), water_ink);
  }
}

void draw_streams(Pencil& pencil, const Session& session) {
  const double time = session.time();
  for (const SceneZone& zone : session.zones()) {
    const Bounds box = shape_bounds(zone.shape, {zone.position, zone.orientation});
    if (!zone.wind.isZero()) {
      Scene seeded;
      seeded.seed = session.seed();
      const ZoneSettings settings = settings_of(seeded, zone);
      const double factor = gust_factor(zone.gusts, zone.gust_time, settings.seed, time);
      // Strokes keep their place in a gust: they are carried by the mean wind and drawn as long as it blows now.
      draw_strokes(pencil, box, zone.wind * std::max(factor, 0.05), time / std::max(factor, 0.05), 46, air_ink, {});
    }
  }
  for (const WaterView& water : session.waters())
    if (!water.current.isZero())
      draw_strokes(pencil, water.box, Vec3(water.current.x(), 0, water.current.z()), time, 40, water_ink,
                   [&](double x, double z) { return water.height(x, z); });
}

void draw_floating(Pencil& pencil, const Session& session) {
  const auto& float_now = session.chosen_floating();
  if (!float_now) return;
  const auto mark = [&](const Vec3& at, const QString& text, const QColor& colour, const QPointF& shift) {
    pencil.dot(at, 4, theme::sheet, colour);
    pencil.letter(at, shift, text, colour);
  };
  pencil.line(float_now->mass, float_now->buoyancy, QPen(theme::faint_ink, 1, Qt::DotLine));
  if (float_now->metacentre) {
    pencil.line(float_now->buoyancy, *float_now->metacentre, QPen(water_ink, 1, Qt::DashLine));
    mark(*float_now->metacentre, "M", water_ink, {7, 4});
  }
  mark(float_now->buoyancy, "B", water_ink, {7, 12});
  mark(float_now->mass, "G", theme::ink, {-18, 4});
  const auto metres = [](double x) { return QString::number(x, 'f', 2) + " m"; };
  pencil.words_aside(float_now->buoyancy, {16, 32},
                     QString("%1 % under, draft ").arg(100 * float_now->share, 0, 'f', 0) + metres(float_now->draft),
                     water_ink);
  QString lift = QString("lift %1 kN").arg(float_now->force / 1000, 0, 'f', 2);
  if (float_now->metacentre) {
    const double above = float_now->metacentre->y() - float_now->mass.y();
    lift += above > 0 ? ", M " + metres(above) + " over G" : ", M " + metres(-above) + " under G: turns over";
  }
  pencil.words_aside(float_now->buoyancy, {16, 53}, lift, rights_itself(*float_now) ? water_ink : theme::accent);
}

void draw_bonds(Pencil& pencil, const Session& session) {
  const std::vector<BondReading>& bonds = session.chosen_bonds();
  if (bonds.empty()) return;
  const BondReading* worst = &bonds.front();
  for (const BondReading& bond : bonds) {
    if (bond.use > worst->use) worst = &bond;
    const Vec3 u = any_perpendicular(bond.normal), v = bond.normal.cross(u);
    const double half = 0.42 * std::sqrt(bond.area);
    QColor colour = colour_of_use(bond.use);
    colour.setAlpha(static_cast<int>(70 + 185 * std::clamp(bond.use, 0.0, 1.0)));
    const QPen pen(colour, 1 + 2.6 * std::clamp(bond.use, 0.0, 1.0));
    pencil.line(bond.point - half * u, bond.point + half * u, pen);
    pencil.line(bond.point - half * v, bond.point + half * v, pen);
  }
  if (worst->use > 0.005) {
    pencil.ring(worst->point, 9, QPen(colour_of_use(worst->use), 1.6));
    pencil.words_aside(worst->point, {13, -8},
                       QString("breaks next: %1 % of its strength").arg(100 * worst->use, 0, 'f', 0),
                       colour_of_use(worst->use));
  }
}

}  // namespace bronvel
