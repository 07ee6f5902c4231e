// Breaking and cutting: strengths against beam formulas, and what is kept at the moment of breaking.
#include <cmath>

#include "dynamics/world/blast.h"
#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

BodySettings box_of(const Vec3& size, double density) {
  BodySettings body;
  body.shape = Box{size};
  body.mass = density * size.prod();
  return body;
}

BreakSettings pieces_of(const Shape& shape, const PieceRecipe& recipe, const BondStrength& strength,
                        const std::function<bool(const Vec3&)>& held = nullptr) {
  BreakSettings settings;
  std::vector<Hull> pieces = make_pieces(shape, recipe);
  std::vector<char> anchored;
  anchored.reserve(pieces.size());
  for (const Hull& piece : pieces) anchored.push_back(held && held(piece.data->centre) ? 1 : 0);
  settings.set = make_piece_set(std::move(pieces), std::move(anchored), {}, 0);
  settings.strength = strength;
  return settings;
}

// A bar along X cut into equal lengths.
PieceRecipe lengths(int count, double length) {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planes;
  recipe.planes.reserve(static_cast<std::size_t>(count));
  for (int i = 1; i < count; ++i)
    recipe.planes.push_back({Vec3::Unit(0), length * (static_cast<double>(i) / count - 0.5)});
  return recipe;
}

void prove_wall(Findings& findings, double rate, const std::string& hz) {
  PieceRecipe bricks;
  bricks.kind = PieceRecipe::Kind::bricks;
  for (const bool held : {true, false}) {
    World world({.tick_rate = rate});
    add_floor(world, {});
    const Vec3 size(4, 2.5, 0.4);
    const BodyHandle wall = world.create(box_of(size, 2200), {{{0, 1.25, 0}}});
    // Ten times what the lowest course carries.
    const double carried = 2200 * g * size.y();
    world.make_breakable(wall, pieces_of(Box{size}, bricks, {10 * carried, 10 * carried},
                                         [&](const Vec3& c) { return held && c.y() < -1.0; }));
    std::size_t cracks = 0;
    for (int i = 0; i < static_cast<int>(60 * rate); ++i) {
      world.step();
      cracks += world.cracks().size();
    }
    const char* which = held ? "cracks of a held wall in 60 s under its own weight"
                             : "cracks of a free wall in 60 s under its own weight";
    findings.absolute(which + hz, 0, static_cast<double>(cracks), 0, "");
  }
}

// A weight on a cord at the end of a bar that is held at its root, pulled down more and more.
void prove_cantilever(Findings& findings, double rate, const std::string& hz) {
  World world({.gravity = {0, 0, 0}, .tick_rate = rate});
  const Vec3 size(2.4, 0.2, 0.1);
  const int count = 12;
  const double strength = 4e6, piece = size.x() / count;
  const BodyHandle bar = world.create(box_of(size, 700), {});
  world.make_breakable(bar, pieces_of(Box{size}, lengths(count, size.x()), {strength, strength},
                                      [&](const Vec3& c) { return c.x() < -0.5 * size.x() + piece; }));
  BodySettings weight;
  weight.shape = Sphere{0.1};
  weight.mass = 20;
  const BodyHandle hung = world.create(weight, {{{0.5 * size.x(), -1, 0}}});
  JointSettings cord;
  cord.kind = JointKind::distance;
  cord.a = bar;
  cord.b = hung;
  cord.frame_a.position = {0.5 * size.x(), 0, 0};
  cord.along.freedom = Freedom::limited;
  cord.along.high = 1;
  world.join(cord);
  // σ = M c / I at the root's bond, M = F × lever.
  const double lever = size.x() - piece;
  const double expected = strength * size.z() * size.y() * size.y() / 6 / lever;
  double load = 0, broke_at = 0, place = 1e9;
  while (load < 3 * expected && broke_at == 0) {
    load += expected / (20 * rate);
    world.force(hung, {0, -load, 0});
    world.step();
    for (const CrackEvent& crack : world.cracks()) {
      broke_at = load;
      place = crack.point.x();
    }
  }
  findings.relative("load that breaks a cantilever, M c / I" + hz, expected, broke_at, 0.1, "N");
  findings.absolute("where a cantilever breaks: its root" + hz, -0.5 * size.x() + piece, place, 1e-6, "m");
}

// A bar of square or round section, turned about its axis, bent or twisted by what is held at one end until it breaks:
// where the bonds' own axes lie must not matter. Gives the load as a share of what the section stands.
enum class Load { bent, twisted };

double broken_at(const Shape& shape, double side, double turn, Load load, double rate) {
  World world({.gravity = {0, 0, 0}, .tick_rate = rate});
  constexpr double length = 1.6, strength = 3e6;
  const int count = 4;
  BodySettings body;
  body.shape = shape;
  body.mass = 700 * shape_volume(shape);
  const bool round = std::holds_alternative<Cylinder>(shape);
  // A cylinder stands on its end: along Y.
  const Vec3 axis = round ? Vec3::Unit(1) : Vec3::Unit(0);
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planes;
  for (int i = 1; i < count; ++i) recipe.planes.push_back({axis, length * (static_cast<double>(i) / count - 0.5)});
  const BodyHandle bar = world.create(body, {});
  world.make_breakable(bar, pieces_of(shape, recipe, {strength, load == Load::bent ? 100 * strength : strength},
                                      [&](const Vec3& c) { return axis.dot(c) < -0.3 * length; }));
  // The section: a square of `side`, or the facets of a circle with the circle's area.
  const double arm = length * (1 - 1.0 / count);
  const double modulus = load == Load::bent ? (round ? pi * std::pow(side, 3) / 32 : std::pow(side, 3) / 6)
                                            : (round ? pi * std::pow(side, 3) / 16 : 0.2081 * std::pow(side, 3));
  // A square bent about its diagonal stands 1 / √2 of that, in between by the corner that is farthest out.
  const double aslant = load == Load::bent && !round ? 1 / (std::abs(std::cos(turn)) + std::abs(std::sin(turn))) : 1;
  const double expected = strength * modulus * aslant / (load == Load::bent ? arm : 1);
  const Vec3 first = round ? Vec3::Unit(0) : Vec3::Unit(1), second = axis.cross(first);
  const Vec3 way = std::cos(turn) * first + std::sin(turn) * second;
  double given = 0;
  while (given < 3 * expected && world.cracks().empty()) {
    given += expected / (20 * rate);
    if (load == Load::bent)
      world.force_at(bar, given * way, 0.5 * length * axis);
    else
      for (const double side_of : {1.0, -1.0})
        world.force_at(bar, side_of * given / side * axis.cross(way), 0.5 * length * axis + 0.5 * side_of * side * way);
    world.step();
  }
  return given / expected;
}

void prove_sections(Findings& findings, double rate, const std::string& hz) {
  const Shape square = Box{{1.6, 0.1, 0.1}}, round = Cylinder{0.05, 1.6};
  const auto worst = [&](const Shape& shape, Load load) {
    double off = 0;
    for (const double degrees : {0.0, 17.0, 30.0, 45.0, 71.0, 90.0})
      off = std::max(off, std::abs(broken_at(shape, 0.1, degrees * pi / 180, load, rate) - 1));
    return off;
  };
  findings.absolute("square bar bent at six angles: off f a³ / 6 (|cos| + |sin|)" + hz, 0, worst(square, Load::bent),
                    0.05, "");
  findings.absolute("round bar bent at six angles: off f π d³ / 32" + hz, 0, worst(round, Load::bent), 0.05, "");
  findings.absolute("square bar twisted: off 0.208 f a³" + hz, 0, worst(square, Load::twisted), 0.05, "");
  findings.absolute("round bar twisted: off f π d³ / 16" + hz, 0, worst(round, Load::twisted), 0.05, "");
}

void prove_pull(Findings& findings, double rate, const std::string& hz) {
  World world({.gravity = {0, 0, 0}, .tick_rate = rate});
  const Vec3 size(2, 0.1, 0.15);
  const double strength = 2e6, expected = strength * size.y() * size.z();
  const BodyHandle bar = world.create(box_of(size, 700), {});
  world.make_breakable(bar, pieces_of(Box{size}, lengths(8, size.x()), {strength, strength}));
  double load = 0;
  while (load < 3 * expected && world.cracks().empty()) {
    load += expected / (20 * rate);
    world.force_at(bar, {load, 0, 0}, {0.5 * size.x(), 0, 0});
    world.force_at(bar, {-load, 0, 0}, {-0.5 * size.x(), 0, 0});
    world.step();
  }
  findings.relative("pull that breaks a bar, strength × area" + hz, expected, load, 0.05, "N");
}

void prove_threshold(Findings& findings, double rate, const std::string& hz) {
  // Of a bar of two halves the far one takes half of a hit's impulse J = v m M / (m + M) on.
  const double threshold = 2 * 2 / (10.0 * 40 / 50);
  const auto left_whole = [&](double low, double high) {
    int whole = 0;
    Random random(5);
    for (int i = 0; i < 100; ++i) {
      World world({.gravity = {0, 0, 0}, .tick_rate = rate});
      const Vec3 size(1, 0.2, 0.2);
      BodySettings bar = box_of(size, 1000);
      bar.surface.restitution = 0;
      const BodyHandle struck = world.create(bar, {});
      world.make_breakable(struck, pieces_of(Box{size}, lengths(2, 1), {.impulse = 2}));
      BodySettings ball;
      ball.shape = Sphere{0.1};
      ball.mass = 10;
      ball.surface.restitution = 0;
      world.create(ball, {{{0.7, 0, 0}}, {-threshold * random.between(low, high), 0, 0}});
      run(world, 0.6);
      whole += world.body_count() == 2 ? 1 : 0;
    }
    return whole;
  };
  findings.absolute("of 100 hits 1 to 10 % under the threshold leave it whole" + hz, 100, left_whole(0.9, 0.99), 0, "");
  findings.absolute("of 100 hits 1 to 10 % over it leave it whole" + hz, 0, left_whole(1.01, 1.1), 0, "");
}

struct Sums {
  double mass = 0, volume = 0, energy = 0;
  Vec3 momentum = Vec3::Zero(), angular = Vec3::Zero();
};

Sums sums_of(const World& world) {
  Sums all;
  for (const BodyHandle body : world.bodies()) {
    const BodyMotion m = world.motion(body);
    const MassProperties p = world.mass(body);
    const Mat3 turn = m.pose.orientation.toRotationMatrix();
    all.mass += p.mass;
    all.volume += shape_volume(world.body_settings(body).shape);
    all.momentum += p.mass * m.velocity;
    all.angular += p.mass * world.centre_of_mass(body).cross(m.velocity) +
                   turn * p.inertia * turn.transpose() * m.angular_velocity;
  }
  all.energy = world.kinetic_energy();
  return all;
}

// A thousand bodies of all shapes, moving and turning, each cut ten times or shattered.
void prove_cutting(Findings& findings) {
  Random random(11);
  double mass = 0, volume = 0, momentum = 0, angular = 0, energy = 0;
  std::size_t bad = 0, cuts = 0, refused = 0;
  for (int n = 0; n < 1000; ++n) {
    World world({.gravity = {0, 0, 0}});
    const auto some = [&](double most) {
      return Vec3(random.between(-most, most), random.between(-most, most), random.between(-most, most));
    };
    const std::vector<Shape> shapes{Box{{1, 0.4, 1.7}}, Cylinder{0.4, 1.1}, *hull_of(facets_of(Cone{0.5, 1})),
                                    *hull_of(facets_of(Sphere{0.6}))};
    BodySettings settings;
    settings.shape = *hull_of(facets_of(shapes[random.bits() % shapes.size()]));
    settings.mass = random.between(0.1, 80);
    const Quat turn = Quat(random.share() + 0.1, random.share(), random.share(), random.share()).normalized();
    world.create(settings, {{some(3), turn}, some(8), some(6)});
    const Sums before = sums_of(world);
    if (n % 4 == 0) {
      PieceRecipe recipe;
      recipe.count = 20;
      recipe.seed = random.bits();
      world.shatter(world.bodies()[0], recipe);
    } else {
      for (int cut = 0; cut < 10; ++cut) {
        const std::vector<BodyHandle> bodies = world.bodies();
        const BodyHandle body = bodies[random.bits() % bodies.size()];
        try {
          world.slice(body, world.centre_of_mass(body) + some(0.2), some(1) + Vec3(0.01, 0, 0));
          ++cuts;
        } catch (const Error&) {
          ++refused;  // it missed or only grazed
        }
      }
    }
    const Sums after = sums_of(world);
    for (const BodyHandle body : world.bodies()) {
      const double part = shape_volume(world.body_settings(body).shape);
      const MassProperties p = world.mass(body);
      if (!(part > 0) || !(p.mass > 0) || !p.inertia.allFinite() || !(p.inertia.determinant() > 0)) ++bad;
    }
    mass = std::max(mass, std::abs(after.mass - before.mass) / before.mass);
    volume = std::max(volume, std::abs(after.volume - before.volume) / before.volume);
    momentum = std::max(momentum, (after.momentum - before.momentum).norm() / before.momentum.norm());
    angular = std::max(angular, (after.angular - before.angular).norm() / before.angular.norm());
    energy = std::max(energy, after.energy / before.energy - 1);
  }
  const std::string of = ", 1,000 cut or shattered";
  findings.absolute("mass lost" + of, 0, mass, 1e-6, "");
  findings.absolute("volume lost" + of, 0, volume, 1e-6, "");
  findings.absolute("momentum changed" + of, 0, momentum, 1e-9, "");
  findings.absolute("angular momentum changed" + of, 0, angular, 1e-9, "");
  findings.absolute("kinetic energy gained" + of, 0, std::max(0.0, energy), 1e-9, "");
  findings.absolute("slivers without volume or mass" + of, 0, static_cast<double>(bad), 0, "");
  findings.absolute("share of cuts that missed or grazed" + of, 0,
                    static_cast<double>(refused) / static_cast<double>(cuts + refused), 0.6, "");
}

// How deep parts are in each other when they begin.
void prove_apart(Findings& findings) {
  World world({.gravity = {0, 0, 0}});
  const BodyHandle body = world.create(box_of({1, 0.5, 2}, 1000), {});
  PieceRecipe recipe;
  recipe.count = 60;
  world.shatter(body, recipe);
  world.step();
  double deepest = 0;
  for (const ContactEvent& contact : world.contacts())
    for (const Vec3& point : contact.points)
      for (const BodyHandle each : {contact.a, contact.b})
        if (const auto near = world.nearest_on(each, point, 1)) deepest = std::max(deepest, -near->distance);
  findings.absolute("overlap of the parts of a shattered box", 0, deepest, 1e-4, "m");
}

void prove_same(Findings& findings) {
  const auto falls = [](int threads) {
    World world({});
    world.set_threads(threads);
    add_floor(world, {});
    const Vec3 size(3, 2, 0.3);
    const BodyHandle wall = world.create(box_of(size, 2200), {{{0, 1, 0}}});
    PieceRecipe bricks;
    bricks.kind = PieceRecipe::Kind::bricks;
    world.make_breakable(wall, pieces_of(Box{size}, bricks, {1e5, 1e5}));
    set_off(world, {.at = {0, 1.2, -1}, .radius = 3, .impulse = 9000});
    run(world, 3);
    return std::pair{world.digest(), world.body_count()};
  };
  const auto once = falls(1);
  findings.absolute("wall blown up: runs that differ, 1 and 2 threads", 0,
                    (falls(1) == once ? 0 : 1) + (falls(2) == once ? 0 : 1), 0, "");
  findings.absolute("wall blown up: did it break", 1, once.second > 10 ? 1 : 0, 0, "");
}

}  // namespace

void list_breaking(std::vector<Experiment>& list) {
  list.push_back({"cutting", prove_cutting});
  list.push_back({"halves", prove_apart});
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"wall" + hz, [=](Findings& findings) { prove_wall(findings, rate, hz); }});
    list.push_back({"cantilever" + hz, [=](Findings& findings) { prove_cantilever(findings, rate, hz); }});
    list.push_back({"sections" + hz, [=](Findings& findings) { prove_sections(findings, rate, hz); }});
    list.push_back({"pull" + hz, [=](Findings& findings) { prove_pull(findings, rate, hz); }});
    list.push_back({"threshold" + hz, [=](Findings& findings) { prove_threshold(findings, rate, hz); }});
  }
  list.push_back({"breaking twice", prove_same});
}

}  // namespace bronvel
