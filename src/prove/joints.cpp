// Joints: pendulums, chains, motors, limits, springs, what they carry and when they break.
#include <cmath>

#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

constexpr double degree = pi / 180;

BodySettings ball(double radius, double mass) {
  BodySettings s;
  s.shape = Sphere{radius};
  s.mass = mass;
  return s;
}

BodySettings bar(const Vec3& size, double mass) {
  BodySettings s;
  s.shape = Box{size};
  s.mass = mass;
  return s;
}

double energy_of(const World& world) {
  double energy = world.kinetic_energy();
  for (const BodyHandle body : world.bodies()) {
    if (world.body_settings(body).kind != MotionKind::dynamic) continue;
    energy += world.body_settings(body).mass * g * world.centre_of_mass(body).y();
  }
  return energy;
}

// The moments at which a sampled quantity goes through zero upward.
class Crossings {
 public:
  void see(double time, double value) {
    if (seen_ && last_ <= 0 && value > 0) moments_.push_back(time - (time - last_time_) * value / (value - last_));
    last_ = value;
    last_time_ = time;
    seen_ = true;
  }
  double period() const {
    if (moments_.size() < 2) return std::nan("");
    return (moments_.back() - moments_.front()) / static_cast<double>(moments_.size() - 1);
  }

 private:
  std::vector<double> moments_;
  double last_ = 0, last_time_ = 0;
  bool seen_ = false;
};

void prove_pendulums(Findings& findings, double rate, const std::string& hz) {
  for (const double angle : {10.0, 90.0})
    for (const JointKind kind : {JointKind::ball, JointKind::hinge}) {
      World world({.tick_rate = rate});
      const double length = 1.5, mass = 2, radius = 0.2;
      const Vec3 out(std::sin(angle * degree), -std::cos(angle * degree), 0);
      const BodyHandle bob = world.create(ball(radius, mass), {{length * out}});
      world.join(to_scene(world, kind, bob, Vec3::Zero(), Vec3::Unit(2)));
      Crossings crossings;
      double farthest = 0;
      for (int i = 0; i < 30 * rate; ++i) {
        world.step();
        const Vec3 at = world.motion(bob).pose.position;
        crossings.see(world.time(), at.x());
        farthest = std::max(farthest, std::abs(at.norm() - length));
      }
      const double inertia = mass * length * length + 0.4 * mass * radius * radius;
      const double sine = std::sin(0.5 * angle * degree);
      const double period = 4 * std::sqrt(inertia / (mass * g * length)) * elliptic_k(sine * sine);
      const std::string name = joint_word(kind) + " pendulum from " + std::to_string(static_cast<int>(angle)) + "°";
      findings.relative(name + ": period" + hz, period, crossings.period(), 0.001, "s");
      findings.absolute(name + ": stretch" + hz, 0, farthest, 1e-6, "m");
    }
  World world({.tick_rate = rate});
  const BodyHandle upper = world.create(bar({1, 0.1, 0.1}, 1), {{{0.5, 0, 0}}});
  const BodyHandle lower = world.create(bar({1, 0.1, 0.1}, 1), {{{1.5, 0, 0}}});
  world.join(to_scene(world, JointKind::hinge, upper, Vec3::Zero(), Vec3::Unit(2)));
  world.join(between(world, JointKind::hinge, upper, lower, {1, 0, 0}, Vec3::Unit(2)));
  const double swing = 2 * g * 2;  // J, from highest to lowest
  const double before = energy_of(world);
  double worst = 0;
  for (int i = 0; i < 60 * rate; ++i) {
    world.step();
    worst = std::max(worst, std::abs(energy_of(world) - before));
  }
  findings.absolute("double pendulum: drift of its energy in 60 s, of its swing" + hz, 0, worst / swing, 1e-9, "");
}

void prove_springs(Findings& findings) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    const double mass = 4, frequency = 2, ratio = 0.1;
    const double omega = 2 * pi * frequency;
    for (const bool damped : {false, true}) {
      World world({.gravity = Vec3::Zero(), .tick_rate = rate});
      const BodyHandle weight = world.create(ball(0.1, mass), {{{0.3, 0, 0}}});
      JointSettings s = to_scene(world, JointKind::slider, weight, Vec3::Zero());
      s.frame_b.position.setZero();
      s.along.stiffness = mass * omega * omega;
      s.along.damping = damped ? 2 * ratio * mass * omega : 0;
      world.join(s);
      Crossings crossings;
      std::vector<double> peaks;
      double before = 0.3, earlier = 0.3;
      for (int i = 0; i < 5 * rate; ++i) {
        world.step();
        const double x = world.motion(weight).pose.position.x();
        crossings.see(world.time(), x);
        if (before > earlier && before >= x) {
          // The parabola through the three samples has its top here.
          const double bend = earlier - 2 * before + x, slope = 0.5 * (x - earlier);
          peaks.push_back(before - slope * slope / (2 * bend));
        }
        earlier = before;
        before = x;
      }
      const double root = damped ? std::sqrt(1 - ratio * ratio) : 1;
      findings.relative(std::string(damped ? "damped" : "undamped") + " spring: frequency" + hz, frequency * root,
                        1 / crossings.period(), 0.01, "Hz");
      if (!damped) continue;
      const double decrement =
          std::log(peaks.front() / peaks.back()) / static_cast<double>(peaks.size() > 1 ? peaks.size() - 1 : 1);
      findings.relative("damped spring: logarithmic decrement" + hz, 2 * pi * ratio / root, decrement, 0.01, "");
    }
    {
      World world({.tick_rate = rate});
      const BodyHandle weight = world.create(ball(0.1, mass), {{{0, -1, 0}}});
      JointSettings s = to_scene(world, JointKind::distance, weight, Vec3::Zero());
      s.frame_b.position.setZero();
      s.along.stiffness = 500;
      s.along.damping = 40;
      s.along.rest = 1;
      const JointHandle spring = world.join(s);
      run(world, 10);
      findings.relative("weight on a spring: its length" + hz, 1 + mass * g / 500, world.reading(spring).position, 1e-4,
                        "m");
    }
  }
}

void prove_chains(Findings& findings, double rate, const std::string& hz) {
  {
    World world({.tick_rate = rate});
    const double link = 0.1, mass = 0.1;
    BodyHandle above{};
    for (int i = 0; i < 100; ++i) {
      const double top = -link * i;
      const BodyHandle next = world.create(bar({0.03, link, 0.03}, mass), {{{0, top - 0.5 * link, 0}}});
      world.join(i == 0 ? to_scene(world, JointKind::ball, next, {0, top, 0})
                        : between(world, JointKind::ball, above, next, {0, top, 0}));
      above = next;
    }
    const double end = -100 * link;
    const BodyHandle load = world.create(ball(0.3, 100 * mass * 100), {{{0, end - 0.3, 0}}, {0.5, 0, 0}});
    world.join(between(world, JointKind::ball, above, load, {0, end, 0}));
    double longest = 0, back = 0;
    std::size_t faults = 0;
    for (int i = 0; i < 5 * rate && back == 0; ++i) {
      const double before = world.motion(load).pose.position.x();
      world.step();
      const Vec3 now = world.motion(load).pose.position;
      faults += world.faults().size();
      longest = std::max(longest, world.motion(load).pose.to_scene({0, 0.3, 0}).norm());
      if (before > 0 && now.x() <= 0 && back == 0) back = world.time() + now.x() / (before - now.x()) / rate;
    }
    // The load swings as on a rod: the chain weighs a hundredth of it.
    const double all = 100 * mass, heavy = 100 * all, far = 0.3 - end;
    const double inertia = heavy * (far * far + 0.4 * 0.3 * 0.3) + all * end * end / 3;
    const double swing = pi * std::sqrt(inertia / (9.81 * (heavy * far - 0.5 * all * end)));
    findings.absolute("chain of 100 links, each a 10,000th of the load: stretch" + hz, 0,
                      std::max(0.0, longest / -end - 1), 0.02, "");
    findings.relative("that chain: half a swing of its load" + hz, swing, back, 0.01, "s");
    findings.absolute("that chain: bodies that had to be stopped" + hz, 0, static_cast<double>(faults), 0, "");
  }
  {
    // A bridge of 80 links, 12 m long over 10 m: half the span a sinh(x / a) is half the length.
    World world({.tick_rate = rate});
    constexpr int links = 80;
    const double length = 12, span = 10, link = length / links;
    const double rise = std::acos(span / length);
    BodyHandle before{};
    for (int i = 0; i < links; ++i) {
      const bool down = i < links / 2;
      const double slope = down ? -rise : rise;
      const Vec3 along(std::cos(slope), std::sin(slope), 0);
      const int done = down ? i : links - i;
      const Vec3 start(link * i * std::cos(rise), -link * done * std::sin(rise), 0);
      BodySettings plank = bar({link, 0.02, 0.4}, 1);
      plank.linear_damping = 1;
      plank.angular_damping = 1;
      const BodyHandle next =
          world.create(plank, {{start + 0.5 * link * along, Quat(Eigen::AngleAxisd(slope, Vec3::Unit(2)))}});
      world.join(i == 0 ? to_scene(world, JointKind::hinge, next, start, Vec3::Unit(2))
                        : between(world, JointKind::hinge, before, next, start, Vec3::Unit(2)));
      before = next;
    }
    world.join(to_scene(world, JointKind::hinge, before, {span, 0, 0}, Vec3::Unit(2)));
    run(world, 20);
    double a = span;
    for (int i = 0; i < 200; ++i) a *= std::pow(2 * a * std::sinh(span / (2 * a)) / length, 0.5);
    const double sag = a * (std::cosh(span / (2 * a)) - 1);
    double lowest = 0, farthest = 0;
    for (const BodyHandle body : world.bodies()) {
      const Vec3 at = world.motion(body).pose.position;
      lowest = std::min(lowest, at.y());
      farthest = std::max(farthest, std::abs(at.y() - (a * std::cosh((at.x() - 0.5 * span) / a) - a - sag)));
    }
    findings.relative("rope bridge: sag" + hz, sag, -lowest, 0.01, "m");
    findings.absolute("rope bridge: farthest from the catenary, of its sag" + hz, 0, farthest / sag, 0.01, "");
  }
}

void prove_motors(Findings& findings, double rate, const std::string& hz) {
  {
    World world({.tick_rate = rate});
    const BodyHandle wheel = world.create(bar({1, 0.2, 1}, 10), {{{0, 0, 0}}});
    JointSettings s = to_scene(world, JointKind::hinge, wheel, Vec3::Zero(), Vec3::Unit(1));
    s.along.motor_speed = 5;
    s.along.motor_most = 10;
    const JointHandle joint = world.join(s);
    const double inertia = 10.0 / 12 * 2;
    run(world, 0.5);
    findings.relative("hinge motor: speed after 0.5 s at its top torque" + hz, 0.5 * 10 / inertia,
                      world.motion(wheel).angular_velocity.y(), 0.001, "rad/s");
    run(world, 1.5);
    findings.relative("hinge motor: reaches its speed" + hz, 5, world.motion(wheel).angular_velocity.y(), 1e-6,
                      "rad/s");
    findings.relative("hinge motor: speed that the joint reports" + hz, 5, world.reading(joint).speed, 1e-3, "rad/s");
  }
  {
    // An arm of weight W and half length r stalls where W r sin θ equals the torque (θ from straight down).
    World world({.tick_rate = rate});
    BodySettings arm = bar({0.1, 2, 0.1}, 5);
    arm.angular_damping = 5;
    const BodyHandle body = world.create(arm, {{{0, -1, 0}}});
    JointSettings s = to_scene(world, JointKind::hinge, body, Vec3::Zero(), Vec3::Unit(2));
    s.along.motor_speed = 3;
    s.along.motor_most = 20;
    const JointHandle joint = world.join(s);
    run(world, 60);
    findings.relative("hinge motor: stalls at the angle of its torque" + hz, std::asin(20 / (5 * g)),
                      world.reading(joint).position, 0.005, "rad");
  }
  {
    World world({.tick_rate = rate});
    const BodyHandle lift = world.create(bar({1, 0.2, 1}, 10), {{{0, 0, 0}}});
    JointSettings s = to_scene(world, JointKind::slider, lift, Vec3::Zero(), Vec3::Unit(1));
    s.along.motor_speed = 0.7;
    s.along.motor_most = 500;
    const JointHandle joint = world.join(s);
    run(world, 2);
    findings.relative("slider motor: lifts at its speed" + hz, 0.7, world.motion(lift).velocity.y(), 1e-6, "m/s");
    findings.relative("slider motor: force while it lifts" + hz, 10 * g, world.reading(joint).force.y(), 1e-3, "N");
  }
  for (const bool ball_joint : {false, true}) {
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle arm = world.create(bar({1, 0.2, 0.2}, 3), {{{0.5, 0, 0}}, {0, 5, 0}, {0, 0, 10}});
    JointSettings s = to_scene(world, ball_joint ? JointKind::ball : JointKind::hinge, arm, Vec3::Zero(),
                               ball_joint ? Vec3::Unit(0) : Vec3::Unit(2));
    s.along.freedom = Freedom::limited;
    s.along.low = -1;
    s.along.high = 1;
    s.cone = 1;
    const JointHandle joint = world.join(s);
    double most = 0;
    for (int i = 0; i < rate; ++i) {
      world.step();
      const Vec3 along = world.motion(arm).pose.orientation * Vec3::Unit(0);
      most = std::max(most, ball_joint ? std::acos(along.x()) : world.reading(joint).position);
    }
    findings.absolute(std::string(ball_joint ? "cone" : "hinge limit") + ": overshoot at 10 rad/s" + hz, 0,
                      std::max(0.0, most - 1) / degree, 0.5, "°");
  }
}

void prove_loads(Findings& findings, double rate, const std::string& hz) {
  for (const JointKind kind : {JointKind::ball, JointKind::fixed, JointKind::distance}) {
    World world({.tick_rate = rate});
    const BodyHandle weight = world.create(ball(0.3, 50), {{{0, -1, 0}}});
    JointSettings s = to_scene(world, kind, weight, Vec3::Zero());
    if (kind == JointKind::distance) {
      s.frame_b.position.setZero();
      s.along.freedom = Freedom::limited;
      s.along.high = 1;
    }
    const JointHandle joint = world.join(s);
    run(world, 2);
    findings.relative("weight on a " + joint_word(kind) + " joint: force" + hz, 50 * g, world.reading(joint).force.y(),
                      0.005, "N");
  }
  {
    World world({.tick_rate = rate});
    const BodyHandle beam = world.create(bar({2, 0.1, 0.1}, 8), {{{1, 0, 0}}});
    JointSettings s = to_scene(world, JointKind::six_axis, beam, Vec3::Zero());
    for (JointAxis& axis : s.axes) axis.freedom = Freedom::locked;
    const JointHandle joint = world.join(s);
    run(world, 2);
    findings.relative("beam held at one end: torque" + hz, 8 * g * 1, world.reading(joint).torque.z(), 0.005, "N·m");
    findings.absolute("beam held at one end: droop" + hz, 0, std::abs(world.motion(beam).pose.position.y()), 1e-9, "m");
  }
  {
    // The load grows by 200 N a second; it breaks in the tick in which weight and load pass 700 N.
    World world({.tick_rate = rate});
    const BodyHandle weight = world.create(ball(0.3, 30), {{{0, -1, 0}}});
    JointSettings s = to_scene(world, JointKind::ball, weight, Vec3::Zero());
    s.breaks_at_force = 700;
    world.join(s);
    double load = 0;
    for (int i = 0; i < 10 * rate && world.snaps().empty(); ++i) {
      load = 200 * world.time();
      world.force(weight, {0, -load, 0});
      world.step();
    }
    findings.relative("breaks at its force" + hz, 700, world.snaps().empty() ? 0 : load + 30 * g, 0.02, "N");
  }
  {
    // Atwood's machine.
    World world({.tick_rate = rate});
    const BodyHandle light = world.create(ball(0.2, 4), {{{-1, -3, 0}}});
    const BodyHandle heavy = world.create(ball(0.2, 6), {{{1, -2, 0}}});
    JointSettings s;
    s.kind = JointKind::pulley;
    s.a = light;
    s.b = heavy;
    s.support_a = {-1, 0, 0};
    s.support_b = {1, 0, 0};
    s.along.freedom = Freedom::limited;
    s.along.high = 5;
    world.join(s);
    run(world, 0.75);
    findings.relative("pulley: speed of unequal weights" + hz, 2.0 / 10 * g * 0.75, world.motion(light).velocity.y(),
                      1e-3, "m/s");
  }
  {
    World world({.tick_rate = rate});
    const BodyHandle load = world.create(ball(0.2, 20), {{{0, -2, 0}}});
    JointSettings s = to_scene(world, JointKind::distance, load, Vec3::Zero());
    s.frame_b.position.setZero();
    s.along.freedom = Freedom::limited;
    s.along.high = 2;
    s.pay_out = 0.5;
    world.join(s);
    run(world, 4);
    findings.relative("rope paid out at 0.5 m/s: hangs at" + hz, -4, world.motion(load).pose.position.y(), 1e-3, "m");
  }
}

void prove_top(Findings& findings, double rate, const std::string& hz) {
  // A fast top on a fixed point, leaning 30°, let go with the steady precession of the exact formula:
  // I1 Ω² cos θ − I3 ω3 Ω + M g l = 0, the slow root (Goldstein, Classical Mechanics, § 5.7).
  World world({.tick_rate = rate});
  BodySettings top;
  top.shape = Cylinder{0.3, 0.1};
  top.mass = 2;
  const double lean = 30 * degree, length = 0.4, spin = 150;
  const Quat leaning(Eigen::AngleAxisd(-lean, Vec3::Unit(2)));
  const Vec3 axis = leaning * Vec3::Unit(1);
  const BodyHandle body = world.create(top, {{length * axis, leaning}});
  const Mat3 inertia = world.mass(body).inertia;
  const double i3 = inertia(1, 1), i1 = inertia(0, 0) + 2 * length * length;
  const double c = std::cos(lean);
  const double precession = (i3 * spin - std::sqrt(i3 * i3 * spin * spin - 4 * i1 * c * 2 * g * length)) / (2 * i1 * c);
  const double own = spin - precession * c;
  const Vec3 turning = own * axis + precession * Vec3::Unit(1);
  world.set_angular_velocity(body, turning);
  world.set_velocity(body, turning.cross(length * axis));
  world.join(to_scene(world, JointKind::ball, body, Vec3::Zero()));
  double turned = 0, before = 0;
  const double seconds = 5;
  for (int i = 0; i < seconds * rate; ++i) {
    world.step();
    const Vec3 at = world.motion(body).pose.position;
    const double angle = std::atan2(-at.z(), at.x());
    turned += std::remainder(angle - before, 2 * pi);
    before = angle;
  }
  findings.relative("fast top: rate of its precession" + hz, precession, turned / seconds, 0.02, "rad/s");
  const Vec3 now = world.motion(body).pose.orientation * Vec3::Unit(1);
  findings.absolute("fast top: keeps its lean" + hz, lean / degree, std::acos(now.y()) / degree, 0.5, "°");
}

}  // namespace

void list_joints(std::vector<Experiment>& list) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"pendulums" + hz, [=](Findings& findings) { prove_pendulums(findings, rate, hz); }});
    list.push_back({"chains" + hz, [=](Findings& findings) { prove_chains(findings, rate, hz); }});
    list.push_back({"motors" + hz, [=](Findings& findings) { prove_motors(findings, rate, hz); }});
    list.push_back({"loads" + hz, [=](Findings& findings) { prove_loads(findings, rate, hz); }});
    list.push_back({"top" + hz, [=](Findings& findings) { prove_top(findings, rate, hz); }});
  }
  list.push_back({"springs", prove_springs});
}

}  // namespace bronvel
