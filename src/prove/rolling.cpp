// Rolling on, and sliding on curved ground: what nothing brakes keeps its energy.
#include <algorithm>
#include <cmath>
#include <functional>

#include "geometry/shapes/height_field.h"
#include "geometry/shapes/mesh.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

const Surface cloth{.static_friction = 0.5, .dynamic_friction = 0.4, .restitution = 0};

// A ball rolls for 5 s. Gives by what share its speed fell, and how fast it hopped (m/s).
std::pair<double, double> roll_on(double rate, double radius, double mass) {
  World world({.tick_rate = rate});
  add_floor(world, cloth);
  BodySettings ball;
  ball.shape = Sphere{radius};
  ball.mass = mass;
  ball.surface = cloth;
  const BodyHandle body = world.create(ball, {{{-10, radius, 0}}, {2, 0, 0}, {0, 0, -2 / radius}});
  double hop = 0;
  for (int i = 0; i < 5 * rate; ++i) {
    world.step();
    hop = std::max(hop, std::abs(world.motion(body).velocity.y()));
  }
  return {1 - world.motion(body).velocity.x() / 2, hop};
}

double slide_into_rolling(double rate) {
  World world({.tick_rate = rate});
  add_floor(world, cloth);
  BodySettings ball;
  ball.shape = Sphere{0.03};
  ball.mass = 0.17;
  ball.surface = cloth;
  const BodyHandle body = world.create(ball, {{{0, 0.03, 0}}, {3, 0, 0}, Vec3::Zero()});
  run(world, 2);
  return world.motion(body).velocity.x() / 3;
}

// A ball's energy over that at first: the greatest and the least that it has within 20 s.
struct Swing {
  double most = 1, least = 1;
};

// `middle`: where a ball at rest has no energy, m.
Swing swing(World& world, BodyHandle ball, double middle, double rate) {
  run(world, 0.5);
  const auto energy = [&] { return world.kinetic_energy() + g * (world.motion(ball).pose.position.y() - middle); };
  const double first = energy();
  Swing swing;
  for (int i = 0; i < 20 * rate; ++i) {
    world.step();
    swing.most = std::max(swing.most, energy() / first);
    swing.least = std::min(swing.least, energy() / first);
  }
  return swing;
}

BodyHandle add_ball_on(World& world, const Shape& ground, const Surface& surface, double radius,
                       const BodyMotion& motion) {
  BodySettings under;
  under.kind = MotionKind::fixed;
  under.shape = ground;
  under.surface = surface;
  world.create(under, {});
  BodySettings ball;
  ball.shape = Sphere{radius};
  ball.mass = 1;
  ball.surface = surface;
  return world.create(ball, motion);
}

const Surface smooth{.static_friction = 0, .dynamic_friction = 0, .restitution = 0};

// A field 8 m long and 4 m wide of that profile, in facets of that width.
Shape profile(double spacing, const std::function<double(double)>& height) {
  const int columns = static_cast<int>(8 / spacing) + 1;
  std::vector<double> heights;
  for (int row = 0; row < 5; ++row)
    for (int column = 0; column < columns; ++column) heights.push_back(height(-4 + spacing * column));
  return make_height_field(static_cast<std::uint32_t>(columns), 5, spacing, 1, heights);
}

// Back and forth in a valley y = x²/4.
Swing valley(double rate, double spacing, const Surface& surface) {
  World world({.tick_rate = rate});
  const Shape ground = profile(spacing, [](double x) { return x * x / 4; });
  const BodyHandle ball =
      add_ball_on(world, ground, surface, 0.2, {{{2, 1 + 0.2 * std::sqrt(2) + 0.02, 0}}, Vec3::Zero(), Vec3::Zero()});
  return swing(world, ball, 0.2, rate);
}

// The same over a rise in the middle, at which the ground falls away: over its crest a third of its weight is left.
Swing waves(double rate, double spacing, const Surface& surface) {
  World world({.tick_rate = rate});
  const auto height = [](double x) { return x * x / 8 + 0.15 * std::cos(2 * x); };
  const BodyHandle ball = add_ball_on(world, profile(spacing, height), surface, 0.2,
                                      {{{2.5, height(2.5) + 0.23, 0}}, Vec3::Zero(), Vec3::Zero()});
  return swing(world, ball, 0.2, rate);
}

// A smooth ball goes over a crest of 4 m radius, v² being that share of g r. Gives how far above the ground it comes,
// and how far below free flight it ends, m.
std::pair<double, double> over_crest(double rate, double share) {
  World world({.tick_rate = rate});
  const double crest = 4, radius = 0.2;
  const auto height = [&](double x) { return std::sqrt(crest * crest - std::min(x * x, 4.0)) - crest; };
  // From the middle of the first facet beyond the top, along it.
  const double slope = height(0.05) / 0.05, begin = 0.025;
  const Vec3 from = Vec3(begin, slope * begin, 0) + radius * Vec3(-slope, 1, 0).normalized();
  const BodyHandle ball =
      add_ball_on(world, profile(0.05, height), smooth, radius, {{from}, Vec3::Zero(), Vec3::Zero()});
  const Vec3 start = std::sqrt(share * g * (crest + radius)) * Vec3(1, slope, 0).normalized();
  world.set_velocity(ball, start);
  double highest = 0;
  while (world.motion(ball).pose.position.x() < 1) {
    world.step();
    const Vec3 from_middle = world.motion(ball).pose.position + Vec3(0, crest, 0);
    highest = std::max(highest, std::hypot(from_middle.x(), from_middle.y()) - crest - radius);
  }
  const Vec3 way = world.motion(ball).pose.position - from;
  const double time = way.x() / start.x();
  return {highest, start.y() * time - 0.5 * g * time * time - way.y()};
}

// Round and down in a bowl of 2 m, a mesh with so many sides.
Swing bowl(double rate, int sides, const Surface& surface) {
  World world({.tick_rate = rate});
  const double reach = 2;
  const int rings = sides / 3;
  std::vector<Vec3> points{{0, -reach, 0}};
  for (int ring = 1; ring <= rings; ++ring)
    for (int k = 0; k < sides; ++k) {
      const double down = 1.4 * ring / rings, round = 2 * pi * k / sides;
      points.push_back(reach *
                       Vec3(std::sin(down) * std::cos(round), -std::cos(down), std::sin(down) * std::sin(round)));
    }
  const auto at = [&](int ring, int k) { return static_cast<std::uint32_t>(1 + (ring - 1) * sides + k % sides); };
  std::vector<std::array<std::uint32_t, 3>> triangles;
  triangles.reserve(2 * static_cast<std::size_t>(sides) * static_cast<std::size_t>(rings));
  for (int k = 0; k < sides; ++k) triangles.push_back({0, at(1, k + 1), at(1, k)});
  for (int ring = 1; ring < rings; ++ring)
    for (int k = 0; k < sides; ++k) {
      triangles.push_back({at(ring, k), at(ring + 1, k + 1), at(ring + 1, k)});
      triangles.push_back({at(ring, k), at(ring, k + 1), at(ring + 1, k + 1)});
    }
  const double radius = 0.1, clear = reach - radius - 0.005;
  const BodyHandle ball =
      add_ball_on(world, make_mesh(points, triangles), surface, radius,
                  {{{clear * std::sin(0.7), -clear * std::cos(0.7), 0}}, {0, 0, 1.5}, Vec3::Zero()});
  return swing(world, ball, radius - reach, rate);
}

struct Slide {
  double most = 1, least = 1;  ///< energy over that at first, while it touches
  double left_at = 0;          ///< height of the centre over that of the dome's, as a share of that at the top
};

// A smooth ball slides off a dome of 5 m.
Slide off_dome(double rate) {
  World world({.tick_rate = rate});
  BodySettings dome;
  dome.kind = MotionKind::fixed;
  dome.shape = Sphere{5};
  dome.surface = {.static_friction = 0, .dynamic_friction = 0, .restitution = 0};
  const BodyHandle under = world.create(dome, {});
  BodySettings ball;
  ball.shape = Sphere{0.2};
  ball.mass = 1;
  ball.surface = dome.surface;
  constexpr double lean = 0.05;
  const BodyHandle body = world.create(ball, {{5.2 * Vec3(std::sin(lean), std::cos(lean), 0)}});
  const auto energy = [&] { return world.kinetic_energy() + g * world.motion(body).pose.position.y(); };
  const double first = energy();
  Slide slide;
  double bottom = 0;
  for (int i = 0; i < 20 * rate; ++i) {
    world.step();
    bool touches = false;
    for (const ContactEvent& event : world.contacts())
      touches = touches || (event.phase != ContactPhase::part && (event.a == under || event.b == under));
    if (world.motion(body).pose.position.y() < 0) break;
    if (!touches) continue;
    bottom = world.motion(body).pose.position.y();
    slide.most = std::max(slide.most, energy() / first);
    slide.least = std::min(slide.least, energy() / first);
  }
  slide.left_at = bottom / (5.2 * std::cos(lean));
  return slide;
}

}  // namespace

void list_rolling(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"rolling" + hz, [=](Findings& findings) {
                      const auto [billiard, hop] = roll_on(rate, 0.03, 0.17);
                      findings.absolute("billiard ball: speed lost in 5 s" + hz, 0, billiard, 2e-3, "");
                      findings.absolute("billiard ball: hops at" + hz, 0, hop, 1e-3, "m/s");
                      const auto [marble, marble_hop] = roll_on(rate, 0.008, 0.005);
                      findings.absolute("marble: speed lost in 5 s" + hz, 0, marble, 2e-3, "");
                      findings.absolute("marble: hops at" + hz, 0, marble_hop, 1e-3, "m/s");
                      findings.relative("sliding into rolling: speed left" + hz, 5.0 / 7, slide_into_rolling(rate),
                                        2e-3, "");
                    }});
    list.push_back({"valley" + hz, [=](Findings& findings) {
                      const auto tell = [&](const std::string& what, const Swing& swing, double most_lost) {
                        findings.absolute(what + ": most energy in 20 s" + hz, 1, swing.most, 2e-3, "");
                        findings.absolute(what + ": least energy in 20 s" + hz, 1, swing.least, most_lost, "");
                      };
                      // Where the facets turn within a sub-step, friction acts on the last alone.
                      const double rolling = rate < 60 ? 0.03 : 0.01;
                      for (const auto& [width, spacing] : {std::pair("0.5", 0.5), {"0.1", 0.1}, {"0.02", 0.02}}) {
                        const std::string facets = std::string(" in a valley of ") + width + " m facets";
                        tell("smooth ball" + facets, valley(rate, spacing, smooth), 0.01);
                        if (spacing > 0.2) tell("rolling ball" + facets, valley(rate, spacing, cloth), rolling);
                      }
                      for (const auto& [width, spacing] : {std::pair("0.2", 0.2), {"0.05", 0.05}, {"0.02", 0.02}}) {
                        const std::string facets = std::string(" over waves of ") + width + " m facets";
                        tell("smooth ball" + facets, waves(rate, spacing, smooth), 0.01);
                        if (spacing > 0.1) tell("rolling ball" + facets, waves(rate, spacing, cloth), 2 * rolling);
                      }
                      // A ball leaves a round crest at v² = g r: x²/2 r of free fall are less than the crest falls
                      // away.
                      findings.absolute("ball over a crest at v² = g r / 2: comes off the ground by" + hz, 0,
                                        over_crest(rate, 0.5).first, 1e-3, "m");
                      findings.absolute("ball over a crest at v² = 2 g r: below free flight after 1 m" + hz, 0,
                                        over_crest(rate, 2).second, 0.015, "m");
                      tell("smooth ball in a bowl of 60 sides", bowl(rate, 60, smooth), 0.01);
                      tell("rolling ball in a bowl of 60 sides", bowl(rate, 60, cloth), rolling);
                    }});
    list.push_back({"dome" + hz, [=](Findings& findings) {
                      const Slide slide = off_dome(rate);
                      findings.absolute("smooth ball off a dome: most energy" + hz, 1, slide.most, 2e-3, "");
                      findings.absolute("smooth ball off a dome: least energy" + hz, 1, slide.least, 1e-2, "");
                      findings.relative("smooth ball off a dome: leaves at this height" + hz, 2.0 / 3, slide.left_at,
                                        0.05, "");
                    }});
  }
}

}  // namespace bronvel
