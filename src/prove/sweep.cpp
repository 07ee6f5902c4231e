// Fast things and thin ones: nothing may pass through.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

// Plain shots need no better randomness than this; it is the same on every machine.
class Dice {
 public:
  double next() {
    state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
    return static_cast<double>(state_ >> 11) * 0x1.0p-53;
  }

 private:
  std::uint64_t state_ = 42;
};

void prove_sweep(Findings& findings, double rate, const std::string& hz) {
  Dice dice;
  int passed = 0;
  constexpr int shots = 10000, at_once = 50;
  for (int batch = 0; batch < shots / at_once; ++batch) {
    World range({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings plate;
    plate.kind = MotionKind::fixed;
    plate.shape = Box{{60, 60, 0.005}};
    plate.surface.restitution = 0.3;
    const Quat tilt(Eigen::AngleAxisd(0.6 * dice.next(), Vec3(dice.next() - 0.5, dice.next() - 0.5, 0.1).normalized()));
    range.create(plate, {{Vec3::Zero(), tilt}});
    std::vector<BodyHandle> balls;
    for (int i = 0; i < at_once; ++i) {
      BodySettings ball;
      ball.shape = Sphere{0.005};
      ball.mass = 0.004;
      ball.groups = 2;
      ball.meets = 1;  // the plate, not each other
      const Vec3 from(20 * (dice.next() - 0.5), 20 * (dice.next() - 0.5), -3 - 4 * dice.next());
      const Vec3 aim(20 * (dice.next() - 0.5), 20 * (dice.next() - 0.5), 0);
      const Vec3 start = tilt * from, velocity = (tilt * aim - start).normalized() * (50 + 450 * dice.next());
      balls.push_back(range.create(ball, {{start}, velocity, Vec3::Zero()}));
    }
    run(range, 0.4);
    for (const BodyHandle ball : balls) passed += (tilt.conjugate() * range.motion(ball).pose.position).z() > 0 ? 1 : 0;
  }
  findings.absolute("10,000 shots of a 10 mm ball at a 5 mm plate: passed" + hz, 0, passed, 0, "");

  // A rod that spins like a propeller, beside it a post that it must meet.
  World spin({.gravity = Vec3::Zero(), .tick_rate = rate});
  BodySettings post;
  post.kind = MotionKind::fixed;
  post.shape = Box{{0.05, 0.05, 2}};
  spin.create(post, {{{0.8, 0, 0}}});
  BodySettings rod;
  rod.shape = Box{{2, 0.02, 0.02}};
  rod.mass = 1;
  const BodyHandle blade =
      spin.create(rod, {{Vec3::Zero(), Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(2)))}, Vec3::Zero(), {0, 0, -100}});
  double turned_through = 0, last = 0;
  for (int i = 0; i < rate / 4; ++i) {
    spin.step();
    const Vec3 along = spin.motion(blade).pose.orientation * Vec3::Unit(0);
    const double angle = std::atan2(along.y(), along.x());
    turned_through = std::max(turned_through, last - angle);
    last = angle;
    if (!spin.contacts().empty()) break;
  }
  findings.absolute("rod spinning at 100 rad/s: meets the post in its way" + hz, 1, spin.contacts().empty() ? 0 : 1, 0,
                    "");

  // Past a thin edge at speed: no stop in mid-air, no lost time.
  World pass({.gravity = Vec3::Zero(), .tick_rate = rate});
  BodySettings shelf;
  shelf.kind = MotionKind::fixed;
  shelf.shape = Box{{1, 0.02, 1}};
  pass.create(shelf, {{{0, 0, 0}}});
  BodySettings ball;
  ball.shape = Sphere{0.05};
  const BodyHandle stone = pass.create(ball, {{{-10, 0.07, 0}}, {60, 0, 0}, Vec3::Zero()});
  run(pass, 0.5);
  findings.relative("ball that passes 1 cm over a shelf at 60 m/s: way in 0.5 s" + hz, 30,
                    pass.motion(stone).pose.position.x() + 10, 1e-6, "m");
}

}  // namespace

void list_sweep(std::vector<Experiment>& list) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"shots at thin things" + hz, [=](Findings& findings) { prove_sweep(findings, rate, hz); }});
  }
}

}  // namespace bronvel
