// What joints that only hold may not change: the energy of what hangs on them, left to itself, in its weight, and where
// it is hit without loss.
#include <catch2/catch.hpp>
#include <random>

#include "dynamics/frames.h"
#include "dynamics/world/world.h"

using namespace bronvel;

namespace {

// Drawn numbers, the same on every machine.
class Draw {
 public:
  explicit Draw(std::uint64_t seed) : bits_(seed) {}
  double between(double low, double high) {
    return low + (high - low) * static_cast<double>(bits_() >> 11U) / static_cast<double>(1ULL << 53U);
  }
  Vec3 vector(double most) {
    const double x = between(-most, most), y = between(-most, most);
    return {x, y, between(-most, most)};
  }
  Quat turn() {
    const double angle = between(0, 3);
    return Quat(Eigen::AngleAxisd(angle, (vector(1) + Vec3(0, 0, 1.5)).normalized()));
  }
  std::size_t below(std::size_t count) { return bits_() % count; }

 private:
  std::mt19937_64 bits_;
};

BodySettings lossless(Draw& draw) {
  BodySettings settings;
  const std::size_t kind = draw.below(3);
  if (kind == 0)
    settings.shape = Box{draw.vector(0.2) + Vec3::Constant(0.35)};
  else if (kind == 1)
    settings.shape = Sphere{draw.between(0.1, 0.3)};
  else
    settings.shape = Capsule{draw.between(0.05, 0.2), draw.between(0.1, 0.6)};
  settings.mass = std::pow(10, draw.between(-1, 1));
  settings.may_sleep = false;
  settings.surface.restitution = 1;
  settings.surface.static_friction = settings.surface.dynamic_friction = 0;
  return settings;
}

struct Tree {
  bool hung = false;   // by a ball joint from the scene, in its weight
  bool meets = false;  // its bodies hit one another
  bool falls = false;  // in its weight, by nothing held
  double rate = 60;    // ticks a second
};

// 2 to 6 bodies on joints that only hold, none of them strained, and what they do.
World grown(Draw& draw, const Tree& tree) {
  const bool heavy = tree.hung || tree.falls;
  World world({.gravity = heavy ? Vec3(0, -9.81, 0) : Vec3(Vec3::Zero()),
               .tick_rate = tree.rate,
               .restitution_speed = 1e-3,
               .air_density = 0});
  const std::size_t count = tree.meets ? 4 + draw.below(3) : 2 + draw.below(5);
  std::vector<BodyHandle> all;
  for (std::size_t i = 0; i < count; ++i) {
    BodyMotion at;
    at.pose.position = Vec3(0.9 * static_cast<double>(i), 0, 0) + draw.vector(0.15);
    at.pose.orientation = draw.turn();
    BodySettings settings = lossless(draw);
    settings.solid = tree.meets;
    all.push_back(world.create(settings, at));
  }
  for (std::size_t i = tree.hung ? 0 : 1; i < count; ++i) {
    JointSettings joint;
    constexpr std::array kinds{JointKind::ball, JointKind::hinge, JointKind::slider, JointKind::fixed};
    joint.kind = i == 0 ? JointKind::ball : kinds[draw.below(kinds.size())];
    BodyMotion other;
    if (i > 0) {
      joint.a = all[draw.below(i)];
      other = world.motion(joint.a);
    }
    joint.b = all[i];
    const BodyMotion own = world.motion(joint.b);
    const Vec3 between = i == 0 ? own.pose.position : Vec3(0.5 * (own.pose.position + other.pose.position));
    const Pose place{between + draw.vector(0.2), draw.turn()};
    joint.frame_a = i == 0 ? place : seen_from(other, place);
    joint.frame_b = seen_from(own, place);
    world.join(joint);
  }
  for (const BodyHandle body : all) {
    world.set_velocity(body, draw.vector(tree.meets ? 3 : 1));
    world.set_angular_velocity(body, draw.vector(4));
  }
  world.step();  // what goes against the joints is stopped
  return world;
}

double energy(const World& world) {
  double sum = world.kinetic_energy();
  for (const BodyHandle body : world.bodies())
    sum -= world.mass(body).mass * world.settings().gravity.dot(world.centre_of_mass(body));
  return sum;
}

// About the common centre of mass, kg·m²/s.
Vec3 angular_momentum(const World& world) {
  double mass = 0;
  Vec3 centre = Vec3::Zero(), momentum = Vec3::Zero();
  for (const BodyHandle body : world.bodies()) {
    const double own = world.mass(body).mass;
    mass += own;
    centre += own * world.centre_of_mass(body);
    momentum += own * world.velocity(body);
  }
  centre /= mass;
  Vec3 sum = Vec3::Zero();
  for (const BodyHandle body : world.bodies()) {
    const MassProperties own = world.mass(body);
    const BodyMotion motion = world.motion(body);
    const Vec3 spin = motion.pose.orientation.conjugate() * motion.angular_velocity;
    sum += own.mass * (world.centre_of_mass(body) - centre).cross(world.velocity(body) - momentum / mass) +
           motion.pose.orientation * (own.inertia * spin);
  }
  return sum;
}

// By how much the energy differs most in two seconds, up and either way, as a share of what moved at first.
struct Strayed {
  double up = 0, off = 0;
};
Strayed strayed(World& world, double rate) {
  const double before = energy(world), moving = world.kinetic_energy();
  Strayed most;
  for (int tick = 0; tick < static_cast<int>(2 * rate); ++tick) {
    world.step();
    const double more = (energy(world) - before) / moving;
    most = {std::max(most.up, more), std::max(most.off, std::abs(more))};
  }
  return most;
}

}  // namespace

TEST_CASE("bodies on joints that only hold keep their energy", "[joints]") {
  const double rate = GENERATE(30.0, 60.0, 240.0);
  const bool hung = GENERATE(false, true);
  CAPTURE(rate, hung);
  double most = 0;
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    Draw draw(seed);
    World world = grown(draw, {.hung = hung, .rate = rate});
    most = std::max(most, strayed(world, rate).off);
  }
  // What is welded into one and tumbles is held to it less well at 30 Hz.
  CHECK(most < (rate < 60 ? 1e-5 : 1e-6));
}

TEST_CASE("bodies on joints that hit one another without loss keep their energy and angular momentum", "[joints]") {
  const bool falls = GENERATE(false, true);
  const double rate = GENERATE(30.0, 60.0, 240.0);
  CAPTURE(falls, rate);
  const std::uint64_t scenes = rate > 60 ? 40 : 80;
  int hit = 0, kept = 0;
  double most_gained = 0;
  for (std::uint64_t seed = 1; seed <= scenes; ++seed) {
    Draw draw(seed);
    World world = grown(draw, {.meets = true, .falls = falls, .rate = rate});
    // What lies in one another from the beginning is pushed apart.
    if (std::any_of(world.contacts().begin(), world.contacts().end(),
                    [](const ContactEvent& each) { return each.normal_impulse > 0; }))
      continue;
    const double before = energy(world), moving = world.kinetic_energy();
    const Vec3 turning = angular_momentum(world);
    bool met = false;
    Strayed most;
    for (int tick = 0; tick < 2 * rate; ++tick) {
      world.step();
      met = met || !world.contacts().empty();
      const double more = (energy(world) - before) / moving;
      most = {std::max(most.up, more), std::max(most.off, std::abs(more))};
    }
    if (!met) continue;
    ++hit;
    if (most.off < 1e-6 && (angular_momentum(world) - turning).norm() < 1e-9 * (1 + turning.norm())) ++kept;
    most_gained = std::max(most_gained, most.up);
  }
  CHECK(hit > 4);
  CHECK(kept == hit);
  CHECK(most_gained < 1e-6);
}

TEST_CASE("a double pendulum keeps its energy in a planar scene too", "[joints]") {
  World world({.tick_rate = 60, .air_density = 0, .planar = true});
  BodySettings bar;
  bar.shape = Box{{1, 0.1, 0.1}};
  bar.may_sleep = false;
  bar.solid = false;
  const BodyHandle upper = world.create(bar, {{{0.5, 0, 0}}}), lower = world.create(bar, {{{1.5, 0, 0.3}}});
  JointSettings hook;
  hook.b = upper;
  hook.frame_b.position = {-0.5, 0, 0};
  world.join(hook);
  JointSettings link;
  link.a = upper;
  link.b = lower;
  link.frame_a.position = {0.5, 0, 0.15};
  link.frame_b.position = {-0.5, 0, -0.15};
  world.join(link);
  const double before = energy(world);
  double most = 0;
  for (int tick = 0; tick < 1200; ++tick) {
    world.step();
    most = std::max(most, std::abs(energy(world) - before));
  }
  CHECK(most < 1e-6);
  CHECK(world.motion(lower).pose.position.z() == Approx(0.3).margin(1e-12));
}

TEST_CASE("what hangs by one point keeps its angular momentum about the vertical through it", "[joints]") {
  World world({.tick_rate = 60, .air_density = 0});
  BodySettings bob;
  bob.shape = Box{{0.2, 0.5, 0.1}};
  bob.may_sleep = false;
  const BodyHandle upper = world.create(bob, {{{0, -0.4, 0}}}), lower = world.create(bob, {{{0, -1.0, 0}}});
  JointSettings hook;
  hook.b = upper;
  hook.frame_b.position = {0, 0.4, 0};
  world.join(hook);
  JointSettings link;
  link.a = upper;
  link.b = lower;
  link.frame_a.position = {0, -0.3, 0};
  link.frame_b.position = {0, 0.3, 0};
  world.join(link);
  world.set_velocity(upper, {1, 0, 2});
  world.set_angular_velocity(upper, {2.5 * 2, 1, -2.5});
  world.set_velocity(lower, {2.5, 0, -1});
  world.step();
  const auto turning = [&] {
    double sum = 0;
    for (const BodyHandle body : {upper, lower}) {
      const BodyMotion motion = world.motion(body);
      const MassProperties mass = world.mass(body);
      const Vec3 spin = motion.pose.orientation.conjugate() * motion.angular_velocity;
      sum += (mass.mass * world.centre_of_mass(body).cross(world.velocity(body)) +
              motion.pose.orientation * (mass.inertia * spin))
                 .y();
    }
    return sum;
  };
  const double before = turning(), energy_before = energy(world);
  for (int tick = 0; tick < 600; ++tick) world.step();
  CHECK(turning() == Approx(before).epsilon(1e-9));
  CHECK(energy(world) == Approx(energy_before).margin(1e-8));
}
