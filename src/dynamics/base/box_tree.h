// A dynamic tree of padded boxes: which of them overlap.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <vector>

#include "dynamics/base/flat_array.h"
#include "geometry/base/bounds.h"

namespace bronvel {

/// A binary tree of padded boxes, one leaf a body. A leaf is moved only when its body leaves the padding, so bodies at
/// rest cost nothing. Insertion by least surface area with rotations (Goldsmith and Salmon, 1987; Kopta et al., 2012).
class BroadPhase {
 public:
  using Leaf = std::int32_t;

  Leaf add(const Bounds& bounds, std::uint32_t body);
  void remove(Leaf leaf);
  /// Tells where the body is now; `shift` is where it is heading, m. Returns true if the leaf had to move.
  bool update(Leaf leaf, const Bounds& bounds, const Vec3& shift);
  Bounds padded(Leaf leaf) const { return leaves_[static_cast<std::size_t>(leaf)].box.bounds(); }

  /// Calls visit(body) for every leaf whose padded box overlaps; stops when it returns false.
  template <class Visit>
  void overlapping(const Bounds& bounds, Visit&& visit) const {
    const Box around(bounds);
    walk([&](const Box& box) { return box.overlaps(around); },
         [&](const Box& box) { return box.bounds().overlaps(bounds); }, visit);
  }
  /// Calls visit(body) for every leaf whose padded box meets the segment of length `reach`, which a visit may shorten.
  template <class Visit>
  void along(const Vec3& origin, const Vec3& direction, const double& reach, Visit&& visit) const {
    const Vec3 inverse = inverse_direction(direction);
    const auto meets = [&](const Box& box) { return meets_segment(box.bounds(), origin, inverse, reach); };
    walk(meets, meets, visit);
  }

 private:
  // Bounds in half the room, rounded outwards.
  struct Box {
    std::array<float, 3> low{}, high{};

    Box() = default;
    explicit Box(const Bounds& bounds);
    Bounds bounds() const { return {Vec3(low[0], low[1], low[2]), Vec3(high[0], high[1], high[2])}; }
    bool overlaps(const Box& other) const {
      return (low[0] <= other.high[0]) & (other.low[0] <= high[0]) & (low[1] <= other.high[1]) &
             (other.low[1] <= high[1]) & (low[2] <= other.high[2]) & (other.low[2] <= high[2]);
    }
    Box joined(const Box& other) const;
    float half_area() const;
    bool operator==(const Box&) const = default;
  };

  // From 0 on a node; below, the leaf ~child.
  using Child = std::int32_t;
  static constexpr Child nothing = std::numeric_limits<Child>::max();
  static Leaf leaf_of(Child child) { return ~child; }

  // It holds its children's boxes: who walks by looks at one line of memory for both.
  struct alignas(64) Node {
    std::array<Box, 2> boxes;
    std::array<Child, 2> children{nothing, nothing};
    std::int32_t above = 0;  // its place
  };
  struct LeafRecord {
    Box box;
    std::int32_t place = 0;
    std::uint32_t body = 0;
  };

  template <class Test, class LeafTest, class Visit>
  void walk(const Test& test, const LeafTest& leaf_test, Visit& visit) const {
    if (nodes_.empty() || nodes_[0].children[0] == nothing || !test(nodes_[0].boxes[0])) return;
    // Boxes that hold one another make a tree as deep as there are of them: what the stack has no room for is kept
    // apart.
    constexpr int room = 256;
    Child stack[room];
    int depth = 0;
    std::vector<Child> deeper;
    const auto push = [&](Child child) {
      if (depth < room)
        stack[depth++] = child;
      else
        deeper.push_back(child);
    };
    push(nodes_[0].children[0]);
    while (depth > 0) {
      Child next = stack[depth - 1];
      if (deeper.empty()) {
        --depth;
      } else {
        next = deeper.back();
        deeper.pop_back();
      }
      if (next < 0) {
        const LeafRecord& leaf = leaves_[static_cast<std::size_t>(leaf_of(next))];
        if (leaf_test(leaf.box) && !visit(leaf.body)) return;
      } else {
        const Node& node = nodes_[static_cast<std::size_t>(next)];
        if (test(node.boxes[1])) push(node.children[1]);
        if (test(node.boxes[0])) push(node.children[0]);
      }
    }
  }

  // A place is one of the two that a node has: twice its number, and 1 more for the second. The first of node 0 holds
  // the whole tree.
  Node& node_of(std::int32_t place) { return nodes_[static_cast<std::size_t>(place / 2)]; }
  Box& box_at(std::int32_t place) { return node_of(place).boxes[static_cast<std::size_t>(place % 2)]; }
  Child& child_at(std::int32_t place) { return node_of(place).children[static_cast<std::size_t>(place % 2)]; }
  void put(std::int32_t place, Child child, const Box& box);
  std::int32_t take_node();
  void insert(Leaf leaf);
  void detach(Leaf leaf);
  void refit(std::int32_t node);
  bool rotate(std::int32_t node);

  FlatArray<Node> nodes_;
  FlatArray<LeafRecord> leaves_;
  std::vector<std::int32_t> unused_nodes_;
  std::vector<Leaf> unused_leaves_;
};

}  // namespace bronvel
