// Stacks that must stand.
#include <cmath>

#include "geometry/shapes/hull.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

BodySettings block(const Vec3& size, double mass, const Surface& surface) {
  BodySettings s;
  s.shape = Box{size};
  s.mass = mass;
  s.surface = surface;
  s.may_sleep = false;  // Sleep would hide creep.
  return s;
}

std::vector<Vec3> places_of(const World& world, const std::vector<BodyHandle>& bodies) {
  std::vector<Vec3> places;
  places.reserve(bodies.size());
  for (const BodyHandle body : bodies) places.push_back(world.motion(body).pose.position);
  return places;
}

// The farthest that any of the bodies has gone from its place.
double farthest_from(const World& world, const std::vector<BodyHandle>& bodies, const std::vector<Vec3>& places) {
  double farthest = 0;
  for (std::size_t i = 0; i < bodies.size(); ++i)
    farthest = std::max(farthest, (world.motion(bodies[i]).pose.position - places[i]).norm());
  return farthest;
}

// How far the boxes of a stack of cubes of 1 m, the lowest first, have sunk at most.
double sunk_by(const World& world, const std::vector<BodyHandle>& stack) {
  double sunk = 0;
  for (std::size_t i = 0; i < stack.size(); ++i)
    sunk = std::max(sunk, 0.5 + static_cast<double>(i) - world.motion(stack[i]).pose.position.y());
  return sunk;
}

// Five storeys of leaning pairs with a card laid over each two neighbours.
void prove_cards(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  const Surface paper{.static_friction = 0.7, .dynamic_friction = 0.6, .restitution = 0};
  add_floor(world, paper);
  const double length = 1, thickness = 0.02, lean = 25 * pi / 180;
  const double rise = length * std::cos(lean), reach = length * std::sin(lean);
  const double thick_rise = thickness * std::sin(lean);
  std::vector<BodyHandle> cards;
  double floor = 0;
  constexpr int storeys = 5;
  const auto card = [&](const Vec3& at, double angle, double side) {
    cards.push_back(world.create(block({thickness, side, 0.6}, 0.05, paper),
                                 {{at, Quat(Eigen::AngleAxisd(angle, Vec3::Unit(2)))}}));
  };
  const double pair_width = 2 * reach + 2 * thickness / std::cos(lean);
  for (int storey = 0; storey < storeys; ++storey) {
    const int pairs = storeys - storey;
    const double height = rise + thick_rise;
    for (int i = 0; i < pairs; ++i) {
      const double middle = pair_width * (i - 0.5 * (pairs - 1));
      const double off = 0.5 * reach + 0.5 * thickness * std::cos(lean);
      card({middle - off, floor + 0.5 * height, 0}, -lean, length);
      card({middle + off, floor + 0.5 * height, 0}, lean, length);
    }
    for (int i = 0; i + 1 < pairs; ++i)
      card({pair_width * (i - 0.5 * (pairs - 2)), floor + height + 0.5 * thickness, 0}, pi / 2, 0.98 * pair_width);
    floor += height + thickness;
  }
  const double top = world.motion(cards.back()).pose.position.y();
  run(world, 3);
  findings.absolute("house of cards, 5 storeys: settles in 3 s by" + hz, 0,
                    top - world.motion(cards.back()).pose.position.y(), 5e-3, "m");
  const std::vector<Vec3> before = places_of(world, cards);
  run(world, 60);
  const double farthest = farthest_from(world, cards, before);
  findings.absolute("house of cards, 5 storeys: farthest that a card creeps in 60 s" + hz, 0, farthest, 1e-3, "m");
}

// Half a ring of 21 equal wedges.
void prove_arch(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  const Surface stone{.static_friction = 0.7, .dynamic_friction = 0.7, .restitution = 0};
  add_floor(world, stone);
  constexpr int count = 21;
  const double inner = 3, outer = 4, half_depth = 0.5;
  std::vector<BodyHandle> stones;
  std::vector<Vec3> before;
  for (int i = 0; i < count; ++i) {
    const double from = pi * i / count, to = pi * (i + 1) / count, middle = 0.5 * (from + to);
    const Vec3 at(0.5 * (inner + outer) * std::cos(middle), 0.5 * (inner + outer) * std::sin(middle), 0);
    std::vector<Vec3> corners;
    for (const double angle : {from, to})
      for (const double radius : {inner, outer})
        for (const double z : {-half_depth, half_depth})
          corners.push_back(Vec3(radius * std::cos(angle), radius * std::sin(angle), z) - at);
    BodySettings wedge = block({1, 1, 1}, 100, stone);
    wedge.shape = make_hull(corners);
    stones.push_back(world.create(wedge, {{at}}));
    before.push_back(at);
  }
  run(world, 20);
  findings.absolute("arch of 21 stones: farthest that a stone moved in 20 s" + hz, 0,
                    farthest_from(world, stones, before), 5e-3, "m");
}

const Surface oak{.static_friction = 0.6, .dynamic_friction = 0.5, .restitution = 0};

void prove_tower(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  add_floor(world, oak);
  constexpr int count = 20;
  std::vector<BodyHandle> stack;
  stack.reserve(count);
  for (int i = 0; i < count; ++i) stack.push_back(world.create(block({1, 1, 1}, 1, oak), {{{0, 0.5 + i, 0}}}));
  run(world, 4);
  const std::vector<Vec3> settled = places_of(world, stack);
  run(world, 56);
  findings.absolute("20 boxes: creep from 4 s to 60 s" + hz, 0, farthest_from(world, stack, settled), 1e-3, "m");
  findings.absolute("20 boxes: sinking of the top" + hz, 0, sunk_by(world, stack), 5e-3, "m");
}

double fastest_in_a_second(World& world, const std::vector<BodyHandle>& bodies) {
  double fastest = 0;
  for (int tick = 0; tick < static_cast<int>(world.settings().tick_rate); ++tick) {
    world.step();
    for (const BodyHandle body : bodies) fastest = std::max(fastest, world.motion(body).velocity.norm());
  }
  return fastest;
}

// Ten courses of twenty bricks, neighbours a thousandth of their length apart, each course half a brick on. Without
// those at the ends that would fall, half out of the wall, if they are left out.
std::vector<BodyHandle> add_loose_bricks(World& world, bool whole_courses) {
  add_floor(world, oak);
  constexpr int courses = 10, in_a_course = 20;
  const Vec3 size(0.5, 0.25, 0.25);
  std::vector<BodyHandle> bricks;
  for (int course = 0; course < courses; ++course)
    for (int i = 0; i < in_a_course - (whole_courses ? 0 : course % 2); ++i) {
      const double x = 1.001 * size.x() * (i + 0.5 * (course % 2) - 0.5 * in_a_course);
      bricks.push_back(world.create(block(size, 60, oak), {{{x, size.y() * (course + 0.5), 0}}}));
    }
  return bricks;
}

void prove_loose_bricks(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  const std::vector<BodyHandle> bricks = add_loose_bricks(world, true);
  run(world, 4);
  const std::vector<Vec3> settled = places_of(world, bricks);
  run(world, 56);
  findings.absolute("wall of 200 loose bricks: creep from 4 s to 60 s" + hz, 0, farthest_from(world, bricks, settled),
                    1e-3, "m");
}

// It must not begin to sway by itself.
void prove_still_wall(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  const std::vector<BodyHandle> bricks = add_loose_bricks(world, false);
  run(world, 10);
  findings.absolute("wall of 195 loose bricks: fastest after 10 s" + hz, 0, fastest_in_a_second(world, bricks), 2e-3,
                    "m/s");
}

// Twenty storeys of two logs each, crosswise: they must not tremble.
void prove_crib(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  add_floor(world, oak);
  constexpr double length = 1.5, thick = 0.2, aside = 0.5 * (length - thick);
  std::vector<BodyHandle> logs;
  for (int storey = 0; storey < 20; ++storey)
    for (const double side : {-aside, aside}) {
      const bool along = storey % 2 == 0;
      const double height = thick * (storey + 0.5);
      logs.push_back(world.create(block(along ? Vec3(length, thick, thick) : Vec3(thick, thick, length), 20, oak),
                                  {{along ? Vec3(0, height, side) : Vec3(side, height, 0)}}));
    }
  run(world, 10);
  findings.absolute("crib of 40 logs: fastest after 10 s" + hz, 0, fastest_in_a_second(world, logs), 2e-3, "m/s");
}

// Heavy and light boxes by turns.
void prove_uneven_tower(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  add_floor(world, oak);
  constexpr int count = 30;
  std::vector<BodyHandle> stack;
  stack.reserve(count);
  for (int i = 0; i < count; ++i)
    stack.push_back(world.create(block({1, 1, 1}, i % 2 == 0 ? 1 : 10, oak), {{{0, 0.5 + i, 0}}}));
  run(world, 20);
  double aside = 0;
  for (const Vec3& place : places_of(world, stack)) aside = std::max(aside, std::hypot(place.x(), place.z()));
  findings.absolute("30 boxes, 1 kg and 10 kg by turns, 20 s: farthest aside" + hz, 0, aside, 5e-2, "m");
  findings.absolute("30 boxes, 1 kg and 10 kg by turns, 20 s: sinking of the top" + hz, 0, sunk_by(world, stack), 2e-2,
                    "m");
}

void prove_heavy_on_light(Findings& findings, double rate, const std::string& hz) {
  World world({.tick_rate = rate});
  add_floor(world, oak);
  for (const double x : {-0.7, 0.7})
    for (const double z : {-0.7, 0.7}) world.create(block({0.5, 0.5, 0.5}, 1, oak), {{{x, 0.25, z}}});
  const BodyHandle heavy = world.create(block({2, 1, 2}, 1000, oak), {{{0, 1.0, 0}}});
  run(world, 5);
  double lowest = 10, fastest = 0;
  for (int i = 0; i < 2 * rate; ++i) {
    world.step();
    lowest = std::min(lowest, world.motion(heavy).pose.position.y());
    fastest = std::max(fastest, world.motion(heavy).velocity.norm());
  }
  findings.absolute("1,000:1 box on four light ones: sinks" + hz, 0, 1.0 - lowest, 2e-3, "m");
  findings.absolute("1,000:1 box on four light ones: jitters" + hz, 0, fastest, 1e-3, "m/s");
}

// What is ten thousand times heavier lies on one box, falls on one from a metre, lies on a thin plank over two blocks.
void prove_far_heavier(Findings& findings, double rate, const std::string& hz) {
  constexpr double ratio = 1e4;
  const auto rests_at = [&](const std::string& what, World& world, BodyHandle heavy, double height) {
    run(world, 3);
    double fastest = 0;
    for (int i = 0; i < rate; ++i) {
      world.step();
      fastest = std::max(fastest, world.motion(heavy).velocity.norm());
    }
    findings.absolute("1:10,000, " + what + ": sinks" + hz, 0, height - world.motion(heavy).pose.position.y(), 2e-3,
                      "m");
    findings.absolute("1:10,000, " + what + ": jitters" + hz, 0, fastest, 1e-3, "m/s");
  };
  for (const double fall : {0.0, 1.0}) {
    World world({.tick_rate = rate});
    add_floor(world, oak);
    world.create(block({1, 1, 1}, 1, oak), {{{0, 0.5, 0}}});
    const BodyHandle heavy = world.create(block({1, 1, 1}, ratio, oak), {{{0, 1.5 + fall, 0}}});
    rests_at(fall > 0 ? "fallen 1 m on a box" : "on a box", world, heavy, 1.5);
  }
  World world({.tick_rate = rate});
  add_floor(world, oak);
  for (const double x : {-0.8, 0.8}) world.create(block({0.3, 0.3, 0.3}, 1, oak), {{{x, 0.15, 0}}});
  world.create(block({2, 0.05, 0.3}, 1, oak), {{{0, 0.325, 0}}});
  const BodyHandle heavy = world.create(block({0.4, 0.4, 0.4}, ratio, oak), {{{0.1, 0.55, 0}}});
  rests_at("on a plank over two blocks", world, heavy, 0.55);
}

void prove_wall_hit(Findings& findings, double rate, const std::string& hz) {
  const auto fall = [&] {
    World world({.tick_rate = rate});
    add_floor(world, oak);
    for (int row = 0; row < 6; ++row)
      for (int i = 0; i < 8; ++i)
        world.create(block({0.5, 0.3, 0.25}, 3, oak), {{{0.52 * i + 0.26 * (row % 2), 0.15 + 0.3 * row, 0}}});
    BodySettings shot = block({1, 1, 1}, 20, oak);
    shot.shape = Sphere{0.3};
    world.create(shot, {{{2, 1, -4}}, {0, 2, 12}, Vec3::Zero()});
    run(world, 3);
    return world.digest();
  };
  const auto first = fall();
  findings.absolute("a wall hit by a ball falls the same way twice" + hz, 0, fall() == first ? 0 : 1, 0, "");
}

}  // namespace

void list_stacks(std::vector<Experiment>& list) {
  for (const double rate : {30.0, 60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"1:10,000" + hz, [=](Findings& findings) { prove_far_heavier(findings, rate, hz); }});
  }
  list.push_back({"loose bricks, 60 Hz", [](Findings& findings) { prove_loose_bricks(findings, 60, ", 60 Hz"); }});
  for (const double rate : {60.0, 120.0, 240.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"still wall" + hz, [=](Findings& findings) { prove_still_wall(findings, rate, hz); }});
  }
  for (const double rate : {60.0, 120.0}) {
    const std::string hz = ", " + at_rate(rate);
    list.push_back({"house of cards" + hz, [=](Findings& findings) { prove_cards(findings, rate, hz); }});
    list.push_back({"arch" + hz, [=](Findings& findings) { prove_arch(findings, rate, hz); }});
    list.push_back({"tower of 20" + hz, [=](Findings& findings) { prove_tower(findings, rate, hz); }});
    list.push_back({"uneven tower of 30" + hz, [=](Findings& findings) { prove_uneven_tower(findings, rate, hz); }});
    list.push_back({"crib" + hz, [=](Findings& findings) { prove_crib(findings, rate, hz); }});
    list.push_back({"1,000:1" + hz, [=](Findings& findings) { prove_heavy_on_light(findings, rate, hz); }});
    list.push_back({"wall hit by a ball" + hz, [=](Findings& findings) { prove_wall_hit(findings, rate, hz); }});
  }
}

}  // namespace bronvel
