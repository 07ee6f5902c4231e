// Floors of many pieces: what goes over faces that lie flush goes as over one.
#include <algorithm>
#include <cmath>
#include <memory>

#include "geometry/cutting/cut.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/mesh.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

const Surface smooth{.static_friction = 0, .dynamic_friction = 0, .restitution = 0};
const Surface gripping{.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = 0};

constexpr double speed = 3;        // m/s
constexpr double tile = 0.5;       // m
constexpr double half_floor = 20;  // m

// A floor from −20 to 20 m, its top at 0 unless said.
struct Floor {
  enum class Kind { two_slabs, tiles, compound, moving_tiles, hulls, steps, gaps, with_mesh, with_field } kind;
  const char* name;
};

BodySettings piece(const Shape& shape, const Surface& surface, MotionKind kind = MotionKind::fixed) {
  BodySettings settings;
  settings.kind = kind;
  settings.shape = shape;
  settings.surface = surface;
  return settings;
}

Hull box_hull(const Vec3& size) {
  return *hull_of(facets_of(Box{size}));
}

Mesh level_mesh(double from, double to) {
  return make_mesh({{from, 0, -2}, {to, 0, -2}, {to, 0, 2}, {from, 0, 2}}, {{0, 2, 1}, {0, 3, 2}});
}

void lay(World& world, Floor::Kind kind, const Surface& surface) {
  using Kind = Floor::Kind;
  if (kind == Kind::two_slabs) {
    for (const double x : {-half_floor, half_floor})
      world.create(piece(Box{{2 * half_floor, 1, 4}}, surface), {{{x, -0.5, 0}}});
    return;
  }
  constexpr double step = 4e-4, gap = 1.5e-3;  // m
  const double length = kind == Kind::gaps ? tile - gap : tile;
  std::vector<Part> parts;
  const int count = static_cast<int>(2 * half_floor / tile);
  for (int i = 0; i < count; ++i) {
    const double from = -half_floor + tile * i, top = kind == Kind::steps && i % 2 != 0 ? step : 0;
    const Vec3 size(length, 0.5, 4), middle(from + 0.5 * length, top - 0.25, 0);
    if (kind == Kind::compound)
      parts.push_back({Box{size}, {middle}, 1});
    else if (kind == Kind::with_mesh && i % 2 != 0)
      world.create(piece(level_mesh(from, from + tile), surface), {});
    else if (kind == Kind::with_field && i % 2 != 0)
      world.create(piece(make_height_field(3, 2, 0.5 * tile, 4, std::vector<double>(6, 0)), surface),
                   {{{middle.x(), 0, 0}}});
    else if (kind == Kind::moving_tiles)
      world.create(piece(Box{size}, surface, MotionKind::kinematic), {{middle}, {1, 0, 0}});
    else
      world.create(piece(kind == Kind::hulls ? Shape(box_hull(size)) : Shape(Box{size}), surface), {{middle}});
  }
  if (kind == Kind::compound) world.create(piece(make_compound(std::move(parts)), surface), {});
}

enum class Goer { crate, ball, wheel };

// What it has after two seconds, and how high it hopped.
struct Went {
  double speed = 0;    // against the floor, m/s
  double highest = 0;  // m
};

Went go(double rate, Floor::Kind kind, Goer goer, double phase) {
  World world({.tick_rate = rate});
  const bool rolls = goer == Goer::wheel;
  const Surface& surface = rolls ? gripping : smooth;
  lay(world, kind, surface);
  const double floor_speed = kind == Floor::Kind::moving_tiles ? 1 : 0, radius = 0.15;
  BodySettings body = piece(Box{{2 * radius, 2 * radius, 2 * radius}}, surface, MotionKind::dynamic);
  if (goer == Goer::ball) body.shape = Sphere{radius};
  if (rolls) body.shape = Cylinder{radius, 0.2};
  const Quat turn = rolls ? Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(0))) : Quat::Identity();
  const BodyHandle moved = world.create(body, {{{-5.1 - phase * speed / rate, radius, 0}, turn},
                                               {speed + floor_speed, 0, 0},
                                               {0, 0, rolls ? -speed / radius : 0}});
  Went went;
  for (int i = 0; i < 2 * rate; ++i) {
    world.step();
    went.highest = std::max(went.highest, world.motion(moved).pose.position.y() - radius);
  }
  went.speed = world.velocity(moved).x() - floor_speed;
  return went;
}

// Along a wall of tiles against which it is pressed.
double along_wall(double rate, double phase) {
  World world({.tick_rate = rate});
  add_floor(world, smooth);
  for (int i = 0; i < 40; ++i) world.create(piece(Box{{tile, 2, 0.5}}, smooth), {{{-10 + tile * (i + 0.5), 1, 0.4}}});
  const BodyHandle crate = world.create(piece(Box{{0.3, 0.3, 0.3}}, smooth, MotionKind::dynamic),
                                        {{{-5.1 - phase * speed / rate, 0.15, 0}}, {speed, 0, 0}});
  for (int i = 0; i < 2 * rate; ++i) {
    world.force(crate, {0, 0, 5});
    world.step();
  }
  return world.velocity(crate).x();
}

}  // namespace

void list_seams(std::vector<Experiment>& list) {
  using Kind = Floor::Kind;
  constexpr std::array<Floor, 9> floors{{{Kind::two_slabs, "two slabs"},
                                         {Kind::tiles, "tiles"},
                                         {Kind::compound, "tiles of one body"},
                                         {Kind::moving_tiles, "tiles that move"},
                                         {Kind::hulls, "hulls"},
                                         {Kind::steps, "tiles with steps of 0.4 mm"},
                                         {Kind::gaps, "tiles with gaps of 1.5 mm"},
                                         {Kind::with_mesh, "slabs and meshes by turns"},
                                         {Kind::with_field, "slabs and height fields by turns"}}};
  constexpr std::array<std::pair<Goer, const char*>, 3> goers{
      {{Goer::crate, "crate"}, {Goer::ball, "ball"}, {Goer::wheel, "wheel"}}};
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    for (const Floor& floor : floors)
      list.push_back({std::string("seams: ") + floor.name + ", " + at_rate(rate), [=](Findings& findings) {
                        for (const auto& [goer, name] : goers) {
                          // The worst of some phases of the tick.
                          double left = speed, highest = 0;
                          for (const double phase : {0.0, 0.23, 0.61}) {
                            const Went went = go(rate, floor.kind, goer, phase);
                            if (std::abs(went.speed - speed) >= std::abs(left - speed)) left = went.speed;
                            highest = std::max(highest, went.highest);
                          }
                          const std::string what = std::string(name) + " over " + floor.name;
                          findings.relative(what + ": speed after 2 s, " + at_rate(rate), speed, left, 1e-3, "m/s");
                          findings.absolute(what + ": hops, " + at_rate(rate), 0, highest,
                                            floor.kind == Kind::steps ? 5e-4 : 1e-4, "m");
                        }
                      }});
    list.push_back({"seams: wall of tiles, " + at_rate(rate), [=](Findings& findings) {
                      double left = speed;
                      for (const double phase : {0.0, 0.23, 0.61}) left = std::min(left, along_wall(rate, phase));
                      findings.relative("crate pressed along a wall of tiles: speed after 2 s, " + at_rate(rate), speed,
                                        left, 1e-3, "m/s");
                    }});
  }
}

}  // namespace bronvel
