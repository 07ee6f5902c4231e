// What moves because it is told to, tick by tick: what rides on it, leans against it or is pushed by it goes along.
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

constexpr std::array<double, 4> rates{30, 60, 120, 240};

// How a mover is told where it shall be.
struct Told {
  const char* name;
  void (*tell)(World& world, BodyHandle mover, const Vec3& from, const Vec3& to);
};

const Told every_way[] = {{"move_to", [](World& w, BodyHandle b, const Vec3&, const Vec3& to) { w.move_to(b, {to}); }},
                          {"place", [](World& w, BodyHandle b, const Vec3&, const Vec3& to) { w.place(b, {to}); }},
                          {"velocity", [](World& w, BodyHandle b, const Vec3& from, const Vec3& to) {
                             w.set_velocity(b, w.settings().tick_rate * (to - from));
                           }}};

BodySettings block_of(MotionKind kind, const Vec3& size, double static_friction, double dynamic_friction) {
  BodySettings settings;
  settings.kind = kind;
  settings.shape = Box{size};
  settings.mass = 5;
  settings.surface = {.static_friction = static_friction, .dynamic_friction = dynamic_friction, .restitution = 0};
  return settings;
}

// The mover goes along `at`; when it has gone on for a few ticks the rider is set beside it, as fast as it is. Gives
// how far the rider comes from its place on it, once it has been there for a tenth of a second.
double strays(double rate, const Told& told, const Vec3& mover_size, const Vec3& rider_place,
              const std::function<Vec3(double)>& at, double seconds, double friction) {
  World world({.tick_rate = rate});
  const BodyHandle mover = world.create(block_of(MotionKind::kinematic, mover_size, friction, friction), {{at(0)}});
  const BodyHandle rider =
      world.create(block_of(MotionKind::dynamic, {0.3, 0.3, 0.3}, friction, friction), {{at(0) + rider_place}});
  const int before = 4, all = static_cast<int>(seconds * rate), settled = before + static_cast<int>(0.1 * rate);
  Vec3 place = Vec3::Zero();
  double most = 0;
  for (int tick = 0; tick < before + all; ++tick) {
    if (tick == before) {
      world.place(rider, {at(tick / rate) + rider_place});
      world.set_velocity(rider, rate * (at((tick + 0.5) / rate) - at((tick - 0.5) / rate)));
    }
    told.tell(world, mover, at(tick / rate), at((tick + 1) / rate));
    world.step();
    const Vec3 now = world.motion(rider).pose.position - world.motion(mover).pose.position;
    if (tick == settled) place = now;
    if (tick > settled) most = std::max(most, (now - place).norm());
  }
  return most;
}

void ride(Findings& findings, double rate, const Told& told) {
  const std::string told_so = std::string(" (") + told.name + "), " + at_rate(rate);
  constexpr double limit = 0.5e-3;  // m
  findings.absolute("a rider on a platform at 0.9 of what friction holds strays" + told_so, 0,
                    strays(
                        rate, told, {20, 0.2, 3}, {0, 0.25, 0},
                        [](double t) { return Vec3(0.5 * 0.9 * 0.5 * g * t * t, 0, 0); }, 1.5, 0.5),
                    limit, "m");
  findings.absolute("a block that a wall holds by speeding up slides" + told_so, 0,
                    strays(
                        rate, told, {0.2, 3, 3}, {0.25, 0, 0},
                        [](double t) { return Vec3(0.5 * 1.1 * g / 0.5 * t * t, 0, 0); }, 1.5, 0.5),
                    limit, "m");
  findings.absolute("a load on a lift, 0.3 m to and fro at 1 Hz, strays" + told_so, 0,
                    strays(
                        rate, told, {3, 0.2, 3}, {0, 0.25, 0},
                        [](double t) { return Vec3(0, 0.15 * (1 - std::cos(2 * M_PI * t)), 0); }, 4, 0.5),
                    limit, "m");
  // Its greatest acceleration is 0.9 of what holds.
  findings.absolute("a rider on a platform that shakes at 2 Hz strays" + told_so, 0,
                    strays(
                        rate, told, {3, 0.2, 3}, {0, 0.25, 0},
                        [](double t) {
                          const double w = 4 * M_PI;
                          return Vec3(0.9 * 0.5 * g / (w * w) * (1 - std::cos(w * t)), 0, 0);
                        },
                        4, 0.5),
                    limit, "m");
}

// At 0.97 of what static friction holds, whatever the sub-steps.
void merry_go_round(Findings& findings, double rate, int substeps) {
  World world({.tick_rate = rate, .substeps = substeps});
  constexpr double radius = 2, friction = 0.55;
  const double spin = std::sqrt(0.97 * friction * g / radius);
  BodySettings disc = block_of(MotionKind::kinematic, {6, 0.2, 6}, friction, 0.45);
  const BodyHandle round = world.create(disc, {});
  BodySettings block = block_of(MotionKind::dynamic, {0.3, 0.3, 0.3}, friction, 0.45);
  const BodyHandle rider = world.create(block, {{{radius, 0.25, 0}}});
  world.set_angular_velocity(round, {0, spin, 0});
  world.set_velocity(rider, {0, 0, -spin * radius});
  world.set_angular_velocity(rider, {0, spin, 0});
  for (int tick = 0; tick < 10 * static_cast<int>(rate); ++tick) world.step();
  const Vec3 end = world.motion(rider).pose.position;
  findings.absolute(
      "a rider on a merry-go-round comes out in 10 s, " + std::to_string(substeps) + " sub-steps, " + at_rate(rate),
      radius, std::hypot(end.x(), end.z()), 0.5e-3, "m");
}

}  // namespace

void list_movers(std::vector<Experiment>& list) {
  for (const double rate : rates) {
    for (const Told& told : every_way)
      list.push_back({std::string("movers told by ") + told.name + ", " + at_rate(rate),
                      [rate, &told](Findings& findings) { ride(findings, rate, told); }});
    for (const int substeps : {4, 8, 16})
      list.push_back({"merry-go-round, " + std::to_string(substeps) + ", " + at_rate(rate),
                      [rate, substeps](Findings& findings) { merry_go_round(findings, rate, substeps); }});
  }
}

}  // namespace bronvel
