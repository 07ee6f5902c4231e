// Rolling on, and sliding on curved ground: what nothing brakes keeps its energy.
#include <algorithm>
#include <cmath>

#include "geometry/height_field.h"
#include "lab/prove.h"
#include "lab/prove_worlds.h"

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

// A smooth ball swings in a valley y = x²/4 for 20 s. Gives the greatest of its energy over that at first. (Facets are
// ground with corners: at each, what runs into the next facet is lost, as it would be on a real one.)
double valley(double rate, double spacing) {
  World world({.tick_rate = rate});
  const int columns = static_cast<int>(8 / spacing) + 1;
  std::vector<double> heights;
  for (int row = 0; row < 5; ++row)
    for (int column = 0; column < columns; ++column) {
      const double x = -4 + spacing * column;
      heights.push_back(x * x / 4);
    }
  BodySettings ground;
  ground.kind = MotionKind::fixed;
  ground.shape = make_height_field(static_cast<std::uint32_t>(columns), 5, spacing, 1, heights);
  ground.surface = {.static_friction = 0, .dynamic_friction = 0, .restitution = 0};
  world.create(ground, {});
  BodySettings ball;
  ball.shape = Sphere{0.2};
  ball.mass = 1;
  ball.surface = ground.surface;
  const BodyHandle body = world.create(ball, {{{2, 1 + 0.2 * std::sqrt(2) + 0.02, 0}}});
  run(world, 0.5);
  const auto energy = [&] { return world.kinetic_energy() + g * (world.motion(body).pose.position.y() - 0.2); };
  const double first = energy();
  double most = 1;
  for (int i = 0; i < 20 * rate; ++i) {
    world.step();
    most = std::max(most, energy() / first);
  }
  return most;
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
                      for (const double spacing : {0.5, 0.1}) {
                        char name[100];
                        std::snprintf(name, sizeof name, "smooth ball in a valley of %g m facets: most energy",
                                      spacing);
                        findings.absolute(name + hz, 1, valley(rate, spacing), 2e-3, "");
                      }
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
