// The same bits for any number of threads, on every kind of processor, and after going back.
#include <bit>
#include <memory>
#include <mutex>
#include <vector>

#include "dynamics/solver/contact_kernel.h"
#include "prove/prove.h"
#include "prove/worlds.h"

namespace bronvel {
namespace {

using namespace prove;

// 1,200 boxes and balls dropped into a heap: enough for blocks of contacts to be shared out over threads.
World heap(int threads) {
  World world({});
  world.set_threads(threads);
  add_floor(world, {}, 60);
  constexpr int bodies = 1200, row = 11;
  for (int i = 0; i < bodies; ++i) {
    BodySettings body;
    if (i % 2 == 0)
      body.shape = Box{{0.6, 0.5, 0.55}};
    else
      body.shape = Sphere{0.3};
    const int column = i % row, line = i / row % row, layer = i / (row * row);
    world.create(body,
                 {{{0.68 * column + 0.01 * (i % 7) - 3.4, 0.4 + 0.65 * layer, 0.68 * line + 0.01 * (i % 5) - 3.4}}});
  }
  return world;
}

// A tower, what tumbles without loss and, if asked, 40 m beside them a heap of 600 that does not sleep. The digest of
// what is not the heap after 3 s: where each is, to the last bit.
std::uint64_t digest_of_few(bool beside_a_heap) {
  World world({});
  world.set_threads(2);
  const auto surface = [](double restitution, double friction) {
    Surface made;
    made.restitution = restitution;
    made.static_friction = made.dynamic_friction = friction;
    return made;
  };
  add_floor(world, surface(1, 0.5));
  std::vector<BodyHandle> few;
  few.reserve(32);
  for (int i = 0; i < 20; ++i)
    few.push_back(
        world.create({.shape = Box{{0.5, 0.5, 0.5}}, .surface = surface(0, 0.6)}, {{{0, 0.25 + 0.5 * i, 0}}}));
  for (int i = 0; i < 12; ++i)
    few.push_back(world.create({.shape = Box{{0.4, 0.6, 0.8}}, .surface = surface(1, 0)},
                               {{{2.0 * i, 1.5 + 0.1 * i, 10}}, Vec3::Zero(), Vec3(4 - i, 0.7 * i, 2)}));
  if (beside_a_heap)
    for (int i = 0; i < 600; ++i) {
      const int column = i % 10, line = i / 10 % 10, layer = i / 100;
      world.create({.shape = Box{{0.5, 0.5, 0.5}}, .surface = surface(0, 0.6), .may_sleep = false},
                   {{{0.5 * column - 40, 0.25 + 0.5 * layer, 0.5 * line}}});
    }
  run(world, 3);
  std::uint64_t sum = 0;
  for (const BodyHandle body : few) {
    const BodyMotion motion = world.motion(body);
    for (const double value : {motion.pose.position.x(), motion.pose.position.y(), motion.pose.position.z(),
                               motion.pose.orientation.x(), motion.pose.orientation.y(), motion.pose.orientation.z()})
      sum = sum * 0x100000001b3ULL + std::bit_cast<std::uint64_t>(value);
  }
  return sum;
}

// Falling takes 1.3 s; then they push and roll.
constexpr double seconds = 2.2;

// What the others are compared with: two threads, the best kind of processor.
struct Reference {
  std::once_flag made;
  WorldSnapshot half_way;
  std::uint64_t digest = 0;
};

std::uint64_t digest_after(World world, double span) {
  run(world, span);
  return world.digest();
}

const Reference& play(Reference& reference) {
  std::call_once(reference.made, [&] {
    World world = heap(2);
    run(world, seconds / 2);
    reference.half_way = world.snapshot();
    run(world, seconds / 2);
    reference.digest = world.digest();
  });
  return reference;
}

}  // namespace

void list_same_bits(std::vector<Experiment>& list) {
  const auto reference = std::make_shared<Reference>();
  const auto add = [&](const std::string& what, const std::function<std::uint64_t()>& digest) {
    list.push_back({"same bits, " + what, [=](Findings& findings) {
                      const std::uint64_t other = digest();
                      findings.absolute("heap of 1,200, 2.2 s: bits that differ, " + what, 0,
                                        other == play(*reference).digest ? 0 : 1, 0, "");
                    }});
  };
  list.push_back({"same bits, beside a heap", [](Findings& findings) {
                    findings.absolute("a tower of 20, 12 that tumble, 3 s: bits that differ, beside a heap of 600", 0,
                                      digest_of_few(true) == digest_of_few(false) ? 0 : 1, 0, "");
                  }});
  add("after going back to 1.1 s", [=] {
    World world({});
    world.restore(play(*reference).half_way);
    return digest_after(std::move(world), seconds / 2);
  });
  add("1 thread instead of 2", [] { return digest_after(heap(1), seconds); });
  for (const char* target : kernel_targets()) {
    if (target == kernel_targets().front()) continue;
    add(std::string("passes for ") + target, [=] {
      use_target(target);
      const std::uint64_t digest = digest_after(heap(2), seconds);
      use_target("");
      return digest;
    });
  }
}

}  // namespace bronvel
