// Twenty set-ups of a mechanics course that nothing else here has, each as its users would build it: sleeping on, whole
// sub-steps, no help.
#include <cmath>

#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

Surface surface_of(double friction, double restitution = 0) {
  return {.static_friction = friction, .dynamic_friction = friction, .restitution = restitution};
}

BodyHandle put(World& world, const Shape& shape, double mass, const Surface& surface, const Vec3& at,
               const Vec3& velocity = Vec3::Zero(), const Vec3& spin = Vec3::Zero()) {
  BodySettings body;
  body.shape = shape;
  body.mass = mass;
  body.surface = surface;
  return world.create(body, {{at}, velocity, spin});
}

BodyHandle put_mover(World& world, const Shape& shape, const Surface& surface, const Pose& pose, const Vec3& velocity) {
  BodySettings body;
  body.shape = shape;
  body.kind = MotionKind::kinematic;
  body.surface = surface;
  return world.create(body, {pose, velocity, Vec3::Zero()});
}

void prove_pushing(Findings& findings, double rate, const std::string& hz) {
  {  // A cylinder rolls down a slope at 2/3 of g sin θ.
    World world({.tick_rate = rate});
    const double angle = 0.3;
    const Quat tilt(Eigen::AngleAxisd(-angle, Vec3::Unit(2)));
    BodySettings slope;
    slope.kind = MotionKind::fixed;
    slope.shape = Box{{100, 1, 10}};
    slope.surface = surface_of(0.8);
    world.create(slope, {{tilt * Vec3(0, -0.5, 0), tilt}});
    BodySettings roller;
    roller.shape = Cylinder{0.2, 0.6};
    roller.surface = surface_of(0.8);
    const Vec3 down = tilt * Vec3::Unit(0);
    const BodyHandle body =
        world.create(roller, {{tilt * Vec3(-20, 0.2, 0), Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(0)))}});
    run(world, 0.5);
    const double before = world.velocity(body).dot(down);
    run(world, 2);
    findings.relative("cylinder rolling down a slope: 2/3 g sin θ" + hz, 2.0 / 3 * g * std::sin(angle),
                      (world.velocity(body).dot(down) - before) / 2, 1e-3, "m/s²");
  }
  {  // A box set on a belt at 2 m/s is carried along after v² / 2 μ g, v t / 2 behind it.
    World world({.tick_rate = rate});
    put_mover(world, Box{{60, 1, 4}}, surface_of(0.4), {{20, -0.5, 0}}, {2, 0, 0});
    const BodyHandle body = put(world, Box{{0.4, 0.3, 0.4}}, 3, surface_of(0.4), {0, 0.15, 0});
    run(world, 2);
    const double sliding = 2 / (0.4 * g);
    findings.relative("box set on a moving belt: where it is after 2 s" + hz, 2 * (2 - sliding / 2),
                      world.motion(body).pose.position.x(), 2e-3, "m");
  }
  {  // A board is pulled from under a block: the block is left behind at μ g.
    World world({.tick_rate = rate});
    Surface smooth_floor = surface_of(0);
    smooth_floor.friction_combine = Combine::minimum;
    add_floor(world, smooth_floor);
    const BodyHandle board = put(world, Box{{6, 0.1, 1}}, 4, surface_of(0.25), {0, 0.05, 0});
    const BodyHandle block = put(world, Box{{0.3, 0.3, 0.3}}, 1, surface_of(0.25), {0, 0.25, 0});
    run(world, 0.5);
    for (int i = 0; i < rate; ++i) {
      world.force(board, {30, 0, 0});
      world.step();
    }
    constexpr double across = 0.25;
    findings.relative("block on a board that is pulled away: its speed after 1 s" + hz, across * g,
                      world.velocity(block).x(), 5e-3, "m/s");
    findings.relative("that board: its speed after 1 s" + hz, (30 - across * g) / 4, world.velocity(board).x(), 5e-3,
                      "m/s");
  }
  {  // Up a slope and back: the speeds are as √((sin θ − μ cos θ) / (sin θ + μ cos θ)).
    World world({.tick_rate = rate});
    const double angle = 0.5, friction = 0.2;
    const Quat tilt(Eigen::AngleAxisd(angle, Vec3::Unit(2)));
    BodySettings slope;
    slope.kind = MotionKind::fixed;
    slope.shape = Box{{100, 1, 10}};
    slope.surface = surface_of(friction);
    world.create(slope, {{tilt * Vec3(0, -0.5, 0), tilt}});
    BodySettings block;
    block.shape = Box{{0.4, 0.2, 0.4}};
    block.surface = surface_of(friction);
    const Vec3 up = tilt * Vec3::Unit(0), start = tilt * Vec3(0, 0.1, 0);
    const BodyHandle body = world.create(block, {{start, tilt}, 5 * up, Vec3::Zero()});
    double back = 0;
    for (int i = 0; i < 6 * rate && back == 0; ++i) {
      world.step();
      const double way = (world.motion(body).pose.position - start).dot(up);
      const double speed = -world.velocity(body).dot(up);
      if (way < 0) back = std::sqrt(speed * speed + 2 * way * g * (std::sin(angle) - friction * std::cos(angle)));
    }
    findings.relative(
        "block pushed up a slope: its speed when it is back" + hz,
        5 * std::sqrt((std::sin(angle) - friction * std::cos(angle)) / (std::sin(angle) + friction * std::cos(angle))),
        back, 5e-3, "m/s");
  }
  {  // On a smooth wedge driven at g tan θ a block neither climbs nor slides.
    World world({.tick_rate = rate});
    const double angle = 0.4;
    const Quat tilt(Eigen::AngleAxisd(angle, Vec3::Unit(2)));
    const Vec3 middle = tilt * Vec3(0, -0.5, 0);
    const BodyHandle wedge = put_mover(world, Box{{8, 1, 4}}, surface_of(0), {middle, tilt}, Vec3::Zero());
    BodySettings block;
    block.shape = Box{{0.4, 0.2, 0.4}};
    block.surface = surface_of(0);
    const Vec3 start = tilt * Vec3(0, 0.1, 0);
    const BodyHandle body = world.create(block, {{start, tilt}});
    const double driven = g * std::tan(angle);
    for (int i = 1; i <= static_cast<int>(rate); ++i) {
      const double t = i / rate;
      world.move_to(wedge, {middle - Vec3(0.5 * driven * t * t, 0, 0), tilt});
      world.step();
    }
    const Vec3 along = world.motion(body).pose.position - start + Vec3(0.5 * driven, 0, 0);
    findings.absolute("block on a smooth wedge driven at g tan θ: slips in 1 s" + hz, 0, along.norm(), 0.02, "m");
  }
}

void prove_blows(Findings& findings, double rate, const std::string& hz) {
  {  // Two like discs, off centre by half a diameter: they part at right angles, the struck one at 30°.
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle a = put(world, Sphere{0.5}, 1, surface_of(0, 1), {-3, 0.5, 0}, {4, 0, 0});
    const BodyHandle b = put(world, Sphere{0.5}, 1, surface_of(0, 1), {0, 0, 0});
    run(world, 1.5);
    const Vec3 va = world.velocity(a), vb = world.velocity(b);
    findings.relative("ball struck half off its middle: goes off at" + hz, pi / 6, std::atan2(-vb.y(), vb.x()), 1e-3,
                      "rad");
    findings.absolute("those balls: cos of the angle between them" + hz, 0, va.dot(vb) / (va.norm() * vb.norm()), 1e-3,
                      "");
  }
  {  // A ball with back spin that grips as it lands: (5 v − 2 r ω) / 7.
    World world({.tick_rate = rate});
    add_floor(world, surface_of(2));
    const double r = 0.2;
    const BodyHandle ball = put(world, Sphere{r}, 1, surface_of(2), {0, 0.6, 0}, {1, 0, 0}, {0, 0, 30});
    run(world, 1);
    findings.relative("ball with back spin: rolls back at" + hz, (5 * 1 - 2 * r * 30) / 7.0, world.velocity(ball).x(),
                      5e-3, "m/s");
  }
  {  // On a lift that comes up at 2 m/s a ball leaves at u + e (v + u).
    World world({.tick_rate = rate});
    put_mover(world, Box{{4, 1, 4}}, surface_of(0, 0.7), {{0, -2.5, 0}}, {0, 2, 0});
    const BodyHandle ball = put(world, Sphere{0.2}, 1, surface_of(0, 0.7), {0, 1.2, 0});
    // Its lowest point falls from 1 m, the lift comes from −2 m: 1 − g t² / 2 = −2 + 2 t.
    const double meets = (-2 + std::sqrt(4 + 6 * g)) / g, speed = g * meets;
    const double leaves = 2 + 0.7 * (speed + 2);
    double seen = 0;
    while (world.time() < meets + 0.3) {
      world.step();
      if (seen == 0 && world.velocity(ball).y() > 0) seen = world.velocity(ball).y() + g * (world.time() - meets);
    }
    findings.relative("ball dropped on a lift that comes up: leaves at" + hz, leaves, seen, 2e-3, "m/s");
  }
  {  // Between walls that close in, speed times gap stays about the same.
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    for (const double side : {-1.0, 1.0})
      put_mover(world, Box{{1, 4, 4}}, surface_of(0, 1), {{side * 2.5, 0, 0}}, {-0.2 * side, 0, 0});
    const BodyHandle ball = put(world, Sphere{0.1}, 1, surface_of(0, 1), {0, 0, 0}, {8, 0, 0});
    run(world, 5);
    // From the middle: the n-th wall is met when (8 + 0.4 (n − 1)) (t_n − t_(n−1)) closes what is left.
    double t = 0, x = 0, v = 8;
    while (true) {
      const double wall = (v > 0 ? 1 : -1) * (2 - 0.1 - 0.2 * t);
      const double wait = (wall - x) / (v + (v > 0 ? 0.2 : -0.2));
      if (t + wait > 5) break;
      x += v * wait;
      t += wait;
      v = -v + (v > 0 ? -0.4 : 0.4);
    }
    findings.relative("ball between walls that close in: its speed after 5 s" + hz, std::abs(v),
                      std::abs(world.velocity(ball).x()), 1e-3, "m/s");
  }
  {  // A small ball on a great one, dropped together, one upon the other: (3 M − m) / (M + m) of the speed.
    World world({.tick_rate = rate});
    add_floor(world, surface_of(0, 1));
    put(world, Sphere{0.3}, 9, surface_of(0, 1), {0, 1.3, 0});
    const BodyHandle small = put(world, Sphere{0.1}, 1, surface_of(0, 1), {0, 1.7 + 0.02, 0});
    const double speed = std::sqrt(2 * g);
    double highest = 0;
    while (world.time() < 1.6) {
      world.step();
      highest = std::max(highest, world.motion(small).pose.position.y());
    }
    // The small one meets the great one a little later, on its way up; worked out with that.
    constexpr double gap = 0.02;
    const double wait = gap / (2 * speed);  // they close at twice the speed, both under g
    const double great_up = speed - g * wait, small_down = speed + g * wait;
    const double at = 0.7 + speed * wait - 0.5 * g * wait * wait;
    const double up = (2 * 9 * great_up + (9 - 1) * small_down) / 10.0;
    findings.relative("small ball on a great one: how high it flies" + hz, at + up * up / (2 * g), highest, 5e-3, "m");
  }
  {  // A rod that falls level but for an angle on a smooth floor: J = (1 + e) v m / (1 + 3 cos² θ).
    World world({.tick_rate = rate});
    add_floor(world, surface_of(0, 0.6));
    const double angle = 0.5, length = 1, thick = 1e-2;
    BodySettings rod;
    rod.shape = Box{{length, thick, thick}};
    rod.surface = surface_of(0, 0.6);
    const double low = 0.5 * length * std::sin(angle) + 0.5 * thick * std::cos(angle);
    const BodyHandle body = world.create(rod, {{{0, low + 1, 0}, Quat(Eigen::AngleAxisd(angle, Vec3::Unit(2)))}});
    double up = 0;
    while (world.time() < 0.5 && up == 0) {
      const double before = world.velocity(body).y();
      world.step();
      const double fall = std::sqrt(2 * g);
      if (world.velocity(body).y() > before) up = world.velocity(body).y() + g * (world.time() - fall / g);
    }
    const double speed = std::sqrt(2 * g);
    const double arm = 0.5 * length * std::cos(angle) - 0.5 * thick * std::sin(angle);
    const double inertia = (length * length + thick * thick) / 12;
    findings.relative("rod falling aslant on a smooth floor: speed of its middle" + hz,
                      -speed + 1.6 * speed / (1 + arm * arm / inertia), up, 0.01, "m/s");
  }
  {  // Struck at two thirds of its length, a hanging rod does not push its hinge.
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings rod;
    rod.shape = Box{{0.02, 1.2, 0.02}};
    rod.mass = 2;
    const BodyHandle body = world.create(rod, {{{0, -0.6, 0}}});
    const JointHandle joint = world.join(to_scene(world, JointKind::hinge, body, Vec3::Zero(), Vec3::Unit(2)));
    world.impulse_at(body, {3, 0, 0}, {0, -0.8, 0});
    world.step();
    const double spin = 3 * 0.8 / (2 * 1.2 * 1.2 / 3);
    findings.relative("rod struck at its centre of percussion: spin" + hz, spin,
                      world.motion(body).angular_velocity.z(), 2e-3, "rad/s");
    findings.absolute("that rod: impulse across at its hinge, of the blow" + hz, 0,
                      std::abs(world.reading(joint).force.x()) / rate / 3, 0.02, "");
  }
  {  // A cube that slides against a low rough kerb turns about its edge; it tips if that lifts its middle over it.
    for (const double share : {0.98, 1.02}) {
      World world({.tick_rate = rate});
      add_floor(world, surface_of(0));
      constexpr double side = 1, kerb_height = 0.1;
      BodySettings kerb;
      kerb.kind = MotionKind::fixed;
      kerb.shape = Box{{0.4, kerb_height, 4}};
      kerb.surface = surface_of(5);
      kerb.surface.friction_combine = Combine::maximum;
      world.create(kerb, {{{0.7, 0.5 * kerb_height, 0}}});
      // About the edge: momentum m v b is kept, b the height of the middle over it.
      constexpr double b = 0.5 * side - kerb_height, square = 0.25 * side * side + b * b;
      constexpr double inertia = side * side / 6 + square;
      const double needed = std::sqrt(2 * g * (std::sqrt(square) - b) * inertia) / b;
      const BodyHandle cube =
          put(world, Box{{side, side, side}}, 1, surface_of(0), {-0.5, 0.5 * side, 0}, {share * needed, 0, 0});
      run(world, 3);
      const double upright = (world.motion(cube).pose.orientation * Vec3::Unit(1)).y();
      findings.absolute(
          "cube against a kerb at " + std::string(share < 1 ? "98" : "102") + " % of what tips it: tips" + hz,
          share < 1 ? 0 : 1, upright < 0.7 ? 1 : 0, 0, "");
    }
  }
}

void prove_swinging(Findings& findings, double rate, const std::string& hz) {
  {  // A hinged stick let go level: ω² = 3 g sin α / l.
    World world({.tick_rate = rate});
    BodySettings stick;
    stick.shape = Box{{2, 0.02, 0.02}};
    const BodyHandle body = world.create(stick, {{{1, 0, 0}}});
    world.join(to_scene(world, JointKind::hinge, body, Vec3::Zero(), Vec3::Unit(2)));
    run(world, 0.4);
    const Vec3 along = world.motion(body).pose.orientation * Vec3::Unit(0);
    const double inertia = (4 + 0.0004) / 12 + 1;
    findings.relative("stick let go level: its spin" + hz, std::sqrt(2 * g * -along.y() / inertia),
                      -world.motion(body).angular_velocity.z(), 2e-3, "rad/s");
  }
  {  // Two masses on a spring: √(k (1 / m + 1 / M)).
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle a = put(world, Sphere{0.1}, 1, surface_of(0), {-0.6, 0, 0});
    const BodyHandle b = put(world, Sphere{0.1}, 3, surface_of(0), {0.6, 0, 0});
    JointSettings spring;
    spring.kind = JointKind::distance;
    spring.a = a;
    spring.b = b;
    spring.along.stiffness = 40;
    spring.along.rest = 1;
    world.join(spring);
    double last = 0.2, first = -1, latest = -1;
    int times = 0;
    while (world.time() < 10) {
      world.step();
      const double now = (world.motion(b).pose.position - world.motion(a).pose.position).norm() - 1;
      if (last < 0 && now >= 0) {
        latest = world.time() - now / (now - last) / rate;
        if (first < 0) first = latest;
        ++times;
      }
      last = now;
    }
    findings.relative("two masses on a spring: a swing takes" + hz, 2 * pi / std::sqrt(40 * (1 + 1.0 / 3)),
                      (latest - first) / (times - 1), 2e-3, "s");
  }
  {  // A rope that is wound in: r² ω stays.
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    const BodyHandle ball = put(world, Sphere{0.05}, 1, surface_of(0), {2, 0, 0}, {0, 0, 3});
    JointSettings rope;
    rope.kind = JointKind::distance;
    rope.b = ball;
    rope.along.freedom = Freedom::limited;
    rope.along.high = 2;
    rope.pay_out = -0.25;
    world.join(rope);
    run(world, 4);
    const Vec3 at = world.motion(ball).pose.position, v = world.velocity(ball);
    findings.relative("ball on a rope that is wound in from 2 to 1 m: r² ω" + hz, 6, at.cross(v).norm(), 5e-3, "m²/s");
    findings.relative("that ball: how far it is" + hz, 1, at.norm(), 5e-3, "m");
  }
  {  // Its support shaken fast enough, a pendulum stands on its head: a² ω² > 2 g l.
    World world({.tick_rate = 4 * rate});
    const BodyHandle hand = put_mover(world, Box{{0.1, 0.1, 0.1}}, surface_of(0), {{0, 0, 0}}, Vec3::Zero());
    const double lean = 0.1, amplitude = 0.03, frequency = 2 * pi * 12;
    const BodyHandle bob = put(world, Sphere{0.02}, 1, surface_of(0), {0.2 * std::sin(lean), 0.2 * std::cos(lean), 0});
    JointSettings rod;
    rod.kind = JointKind::distance;
    rod.a = hand;
    rod.b = bob;
    rod.along.freedom = Freedom::limited;
    rod.along.low = rod.along.high = 0.2;
    world.join(rod);
    double farthest = 0;
    for (int i = 1; i <= 5 * 4 * rate; ++i) {
      world.move_to(hand, {{0, amplitude * std::sin(frequency * i / (4 * rate)), 0}});
      world.step();
      farthest = std::max(farthest, std::abs(world.motion(bob).pose.position.x()) / 0.2);
    }
    findings.absolute("pendulum on its head, its support shaken at 12 Hz: farthest lean in 5 s" + hz, 0, farthest, 0.25,
                      "");
  }
  {  // A body turning about its middle axis turns over, and over: the time between is an elliptic integral.
    World world({.gravity = Vec3::Zero(), .tick_rate = rate});
    BodySettings brick;
    brick.shape = Box{{0.6, 0.4, 0.2}};  // the axis Y is the middle one
    brick.mass = 12;
    const Vec3 inertia = brick.mass / 12 * Vec3(0.16 + 0.04, 0.36 + 0.04, 0.36 + 0.16);
    // About X least, about Y middle, about Z greatest.
    const Vec3 spin(0.05, 5, 0);
    const BodyHandle body = world.create(brick, {{}, Vec3::Zero(), spin});
    const double energy = 0.5 * (inertia.cwiseProduct(spin)).dot(spin);
    const double momentum = (inertia.cwiseProduct(spin)).norm();
    // Landau and Lifshitz, Mechanics, section 37: for M² > 2 E I2 or below it, with the axes changed over.
    double i1 = inertia.x(), i2 = inertia.y(), i3 = inertia.z();
    if (momentum * momentum < 2 * energy * i2) std::swap(i1, i3);
    const double m2 = momentum * momentum;
    const double k2 = (i2 - i1) * (2 * energy * i3 - m2) / ((i3 - i2) * (m2 - 2 * energy * i1));
    const double period = 4 * elliptic_k(k2) * std::sqrt(i1 * i2 * i3 / ((i3 - i2) * (m2 - 2 * energy * i1)));
    double last = 5, first = -1, latest = -1;
    int times = 0;
    while (world.time() < 30) {
      world.step();
      const BodyMotion m = world.motion(body);
      const double now = (m.pose.orientation.conjugate() * m.angular_velocity).y();
      if (last < 0 && now >= 0) {
        latest = world.time() - now / (now - last) / rate;
        if (first < 0) first = latest;
        ++times;
      }
      last = now;
    }
    findings.relative("brick spun about its middle axis: turns over and back in" + hz, period,
                      times > 1 ? (latest - first) / (times - 1) : 0, 0.01, "s");
  }
  {  // Round and round in a smooth cone of fine facets, v² = g r / tan of the half angle.
    World world({.tick_rate = rate});
    const double half = pi / 4, radius = 0.1;
    std::vector<Vec3> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    constexpr int sides = 2880;
    const double reach = 4;
    points.push_back(Vec3::Zero());
    for (int i = 0; i < sides; ++i) {
      const double a = 2 * pi * i / sides;
      points.push_back({reach * std::cos(a), reach / std::tan(half), reach * std::sin(a)});
    }
    for (std::uint32_t i = 0; i < sides; ++i) triangles.push_back({0, 1 + (i + 1) % sides, 1 + i});
    BodySettings cone;
    cone.kind = MotionKind::fixed;
    cone.shape = make_mesh(points, triangles);
    cone.surface = surface_of(0);
    world.create(cone, {});
    const double r = 1.5;  // of the ball's middle
    const double height = r / std::tan(half) + radius / std::sin(half);
    const BodyHandle ball =
        put(world, Sphere{radius}, 1, surface_of(0), {r, height, 0}, {0, 0, std::sqrt(g * r / std::tan(half))});
    const auto energy = [&] { return world.kinetic_energy() + g * world.motion(ball).pose.position.y(); };
    const double before = energy();
    run(world, 10);
    findings.relative("ball circling in a smooth cone: energy left after 10 s" + hz, 1, energy() / before, 0.002, "");
  }
  {  // A cylinder rolls against a step of 0.3 r without bouncing: ω' = ω (1 − 2 h / 3 r), and climbs if that is enough.
    for (const double share : {0.95, 1.05}) {
      World world({.tick_rate = rate});
      add_floor(world, surface_of(2));
      const double r = 0.5, h = 0.15;
      BodySettings step;
      step.kind = MotionKind::fixed;
      step.shape = Box{{10, h, 6}};
      step.surface = surface_of(2);
      world.create(step, {{{6, 0.5 * h, 0}}});
      const double needed = std::sqrt(4.0 / 3 * g * h) / r / (1 - 2 * h / (3 * r));
      BodySettings roller;
      roller.shape = Cylinder{r, 1};
      roller.surface = surface_of(2);
      const double spin = share * needed;
      const BodyHandle body = world.create(
          roller, {{{0, r, 0}, Quat(Eigen::AngleAxisd(pi / 2, Vec3::Unit(0)))}, {spin * r, 0, 0}, {0, 0, -spin}});
      run(world, 3);
      findings.absolute(
          "cylinder against a step at " + std::string(share < 1 ? "95" : "105") + " % of what climbs it: climbs" + hz,
          share < 1 ? 0 : 1, world.motion(body).pose.position.y() > r + 0.9 * h ? 1 : 0, 0, "");
    }
  }
}

}  // namespace

void list_varied(std::vector<Experiment>& list) {
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"pushing" + hz, [=](Findings& findings) { prove_pushing(findings, rate, hz); }});
    list.push_back({"blows" + hz, [=](Findings& findings) { prove_blows(findings, rate, hz); }});
    list.push_back({"swinging" + hz, [=](Findings& findings) { prove_swinging(findings, rate, hz); }});
  }
}

}  // namespace bronvel
