// The tree of boxes against looking at every box: whatever is added, moved and removed, it finds the same.
#include "dynamics/base/box_tree.h"

#include <rapidcheck.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <map>

#include "geometry/base/random.h"

using namespace bronvel;

namespace {

Vec3 any_place(Random& random, double size) {
  return {random.between(-size, size), random.between(-size, size), random.between(-size, size)};
}

Bounds any_box(Random& random, double size) {
  const Vec3 middle = any_place(random, size);
  const Vec3 half = std::pow(10.0, random.between(-2, 1)) * Vec3(random.share(), random.share(), random.share());
  return {middle - half, middle + half};
}

struct Known {
  BroadPhase::Leaf leaf;
  Bounds box;
};
using Bodies = std::map<std::uint32_t, Known>;

std::vector<std::uint32_t> found_by_tree(const BroadPhase& tree, const Bounds& box) {
  std::vector<std::uint32_t> found;
  tree.overlapping(box, [&](std::uint32_t body) {
    found.push_back(body);
    return true;
  });
  std::sort(found.begin(), found.end());
  return found;
}

std::vector<std::uint32_t> found_by_looking(const BroadPhase& tree, const Bodies& bodies, const Bounds& box) {
  std::vector<std::uint32_t> found;
  for (const auto& [body, known] : bodies)
    if (tree.padded(known.leaf).overlaps(box)) found.push_back(body);
  return found;
}

}  // namespace

TEST_CASE("the tree finds what looking at all boxes finds") {
  REQUIRE(rc::check("whatever was added, moved and removed", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const double size = std::pow(10.0, random.between(-1, 2));
    BroadPhase tree;
    Bodies bodies;
    std::uint32_t next = 0;
    for (int act = 0; act < 200; ++act) {
      const double what = random.share();
      if (bodies.empty() || what < 0.4) {
        const Bounds box = any_box(random, size);
        bodies[next] = {tree.add(box, next), box};
        ++next;
      } else {
        auto at = bodies.begin();
        std::advance(at, static_cast<std::ptrdiff_t>(random.share() * static_cast<double>(bodies.size())));
        if (what < 0.55) {
          tree.remove(at->second.leaf);
          bodies.erase(at);
        } else {
          // A little way or far.
          const Vec3 way = any_place(random, what < 0.8 ? 0.01 : size);
          Known& known = at->second;
          known.box = {known.box.low + way, known.box.high + way};
          const Bounds before = tree.padded(known.leaf);
          const Vec3 shift = any_place(random, 0.1);
          const bool moved = tree.update(known.leaf, known.box, shift);
          RC_ASSERT(moved == !before.contains(known.box.swept(shift)));
          RC_ASSERT(tree.padded(known.leaf).contains(known.box.swept(shift)));
        }
      }
      if (act % 5 != 0) continue;
      const Bounds asked = any_box(random, size);
      RC_ASSERT(found_by_tree(tree, asked) == found_by_looking(tree, bodies, asked));
    }
    for (const auto& [body, known] : bodies) {
      RC_ASSERT(tree.padded(known.leaf).contains(known.box));
      const auto found = found_by_tree(tree, known.box);
      RC_ASSERT(std::binary_search(found.begin(), found.end(), body));
    }
  }));
}

TEST_CASE("a segment meets in the tree what it meets by looking") {
  REQUIRE(rc::check("from anywhere in any direction, axes too", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    BroadPhase tree;
    Bodies bodies;
    for (std::uint32_t i = 0; i < 60; ++i) {
      const Bounds box = any_box(random, 10);
      bodies[i] = {tree.add(box, i), box};
    }
    for (int k = 0; k < 20; ++k) {
      const Vec3 origin = any_place(random, 12);
      Vec3 way = any_place(random, 1);
      if (k % 4 == 0) way = Vec3::Unit(k % 3) * (k % 8 == 0 ? 1 : -1);
      way.normalize();
      const double reach = random.between(0, 30);
      std::vector<std::uint32_t> found, looked;
      tree.along(origin, way, reach, [&](std::uint32_t body) {
        found.push_back(body);
        return true;
      });
      std::sort(found.begin(), found.end());
      for (const auto& [body, known] : bodies)
        if (meets_segment(tree.padded(known.leaf), origin, inverse_direction(way), reach)) looked.push_back(body);
      RC_ASSERT(found == looked);
    }
  }));
}

TEST_CASE("boxes that hold one another are all found, however deep the tree") {
  BroadPhase tree;
  constexpr int count = 3000;
  const bool outwards = GENERATE(true, false);
  for (int i = 0; i < count; ++i) {
    const double half = 0.01 * std::pow(1.003, outwards ? i : count - i);
    tree.add({Vec3::Constant(-half), Vec3::Constant(half)}, static_cast<std::uint32_t>(i));
  }
  CHECK(found_by_tree(tree, {Vec3::Constant(-1e-3), Vec3::Constant(1e-3)}).size() == count);
}

TEST_CASE("boxes too far out or too large to be told apart in float spoil nothing for the rest") {
  BroadPhase tree;
  Bodies bodies;
  Random random(7);
  const auto add = [&](const Bounds& box) {
    const auto body = static_cast<std::uint32_t>(bodies.size());
    bodies[body] = {tree.add(box, body), box};
  };
  for (int i = 0; i < 300; ++i) {
    add(any_box(random, 10));
    const Vec3 far = std::pow(10.0, 10 + i % 40) * any_place(random, 1);
    if (i % 3 == 0) add({far, far + Vec3::Constant(1)});
    if (i % 50 == 0) add({-far.cwiseAbs(), far.cwiseAbs()});
  }
  for (auto& [body, known] : bodies) {
    known.box = known.box.grown(0.5);
    tree.update(known.leaf, known.box, Vec3::Zero());
    CHECK(tree.padded(known.leaf).contains(known.box));
  }
  for (int i = 0; i < 50; ++i) {
    const Bounds asked = any_box(random, 10);
    CHECK(found_by_tree(tree, asked) == found_by_looking(tree, bodies, asked));
  }
  for (int i = 0; i < 150; ++i) {
    tree.remove(bodies.begin()->second.leaf);
    bodies.erase(bodies.begin());
  }
  const Bounds asked{Vec3::Constant(-20), Vec3::Constant(20)};
  CHECK(found_by_tree(tree, asked) == found_by_looking(tree, bodies, asked));
}

TEST_CASE("boxes added in a row are all found") {
  BroadPhase tree;
  constexpr int count = 20000;
  for (int i = 0; i < count; ++i) {
    const Vec3 middle(1.5 * i, 0, 0);
    tree.add({middle - Vec3::Constant(0.5), middle + Vec3::Constant(0.5)}, static_cast<std::uint32_t>(i));
  }
  CHECK(found_by_tree(tree, {Vec3(-1, -1, -1), Vec3(1.5 * count, 1, 1)}).size() == count);
  int visited = 0;
  tree.overlapping({Vec3(-1, -1, -1), Vec3(1.5 * count, 1, 1)}, [&](std::uint32_t) { return ++visited < 7; });
  CHECK(visited == 7);
}
