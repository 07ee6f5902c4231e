// Which bodies are near each other: a tree of boxes that is mended as bodies move.
#pragma once

#include <cstdint>
#include <functional>
#include <utility>
#include <vector>

#include "geometry/bounds.h"

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
  const Bounds& padded(Leaf leaf) const { return nodes_[static_cast<std::size_t>(leaf)].bounds; }

  /// Calls visit(body) for every leaf whose padded box overlaps; stops when it returns false.
  template <class Visit>
  void overlapping(const Bounds& bounds, Visit&& visit) const {
    walk([&](const Node& node) { return node.bounds.overlaps(bounds); }, visit);
  }
  /// Calls visit(body) for every leaf whose padded box meets the segment of length `reach`, which a visit may shorten.
  template <class Visit>
  void along(const Vec3& origin, const Vec3& direction, const double& reach, Visit&& visit) const {
    const Vec3 inverse = inverse_direction(direction);
    walk([&](const Node& node) { return meets_segment(node.bounds, origin, inverse, reach); }, visit);
  }

 private:
  struct Node {
    Bounds bounds;
    Leaf parent = -1;
    Leaf left = -1, right = -1;  // left < 0: a leaf
    std::uint32_t body = 0;
    bool is_leaf() const { return left < 0; }
  };

  template <class Test, class Visit>
  void walk(const Test& test, Visit& visit) const {
    if (root_ < 0) return;
    // Boxes that hold one another make a tree as deep as there are of them: what the stack has no room for is kept
    // apart.
    constexpr int room = 256;
    Leaf stack[room];
    int depth = 0;
    std::vector<Leaf> deeper;
    const auto push = [&](Leaf leaf) {
      if (depth < room)
        stack[depth++] = leaf;
      else
        deeper.push_back(leaf);
    };
    push(root_);
    while (depth > 0) {
      Leaf next = stack[depth - 1];
      if (deeper.empty()) {
        --depth;
      } else {
        next = deeper.back();
        deeper.pop_back();
      }
      const Node& node = nodes_[static_cast<std::size_t>(next)];
      if (!test(node)) continue;
      if (node.is_leaf()) {
        if (!visit(node.body)) return;
      } else {
        push(node.right);
        push(node.left);
      }
    }
  }

  Node& at(Leaf i) { return nodes_[static_cast<std::size_t>(i)]; }
  Leaf take_node();
  void insert(Leaf leaf);
  void detach(Leaf leaf);
  void refit(Leaf from);
  void rotate(Leaf node);

  std::vector<Node> nodes_;
  std::vector<Leaf> unused_;
  Leaf root_ = -1;
};

}  // namespace bronvel
