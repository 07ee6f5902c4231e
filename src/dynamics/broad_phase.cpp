// The tree of boxes.
#include "dynamics/broad_phase.h"

#include <array>

namespace bronvel {
namespace {

// Padding around a body, as a share of its size, and of the way it is heading: found by measuring piles.
constexpr double padding_share = 0.08, padding_least = 0.01;

Bounds padded_bounds(const Bounds& bounds, const Vec3& shift) {
  const double pad = std::max(padding_least, padding_share * (bounds.high - bounds.low).maxCoeff());
  return bounds.grown(pad).swept(shift);
}

}  // namespace

BroadPhase::Leaf BroadPhase::take_node() {
  if (unused_.empty()) {
    nodes_.emplace_back();
    return static_cast<Leaf>(nodes_.size() - 1);
  }
  const Leaf i = unused_.back();
  unused_.pop_back();
  at(i) = Node{};
  return i;
}

BroadPhase::Leaf BroadPhase::add(const Bounds& bounds, std::uint32_t body) {
  const Leaf leaf = take_node();
  at(leaf).bounds = padded_bounds(bounds, Vec3::Zero());
  at(leaf).body = body;
  insert(leaf);
  return leaf;
}

void BroadPhase::remove(Leaf leaf) {
  detach(leaf);
  unused_.push_back(leaf);
}

bool BroadPhase::update(Leaf leaf, const Bounds& bounds, const Vec3& shift) {
  const Bounds need = bounds.swept(shift);
  if (at(leaf).bounds.contains(need)) return false;
  detach(leaf);
  at(leaf).bounds = padded_bounds(bounds, shift);
  insert(leaf);
  return true;
}

void BroadPhase::insert(Leaf leaf) {
  if (root_ < 0) {
    root_ = leaf;
    at(leaf).parent = -1;
    return;
  }
  // Walk down to the sibling that grows the tree's surface least.
  const Bounds box = at(leaf).bounds;
  Leaf sibling = root_;
  while (!at(sibling).is_leaf()) {
    const Node& node = at(sibling);
    const double area = node.bounds.half_area();
    const double joined = node.bounds.joined(box).half_area();
    const double stop_here = 2 * joined;
    const double inherited = 2 * (joined - area);
    const auto cost = [&](Leaf child) {
      const Node& c = at(child);
      const double grown = c.bounds.joined(box).half_area();
      return inherited + (c.is_leaf() ? grown : grown - c.bounds.half_area());
    };
    const double left = cost(node.left), right = cost(node.right);
    if (stop_here < left && stop_here < right) break;
    sibling = left <= right ? node.left : node.right;
  }
  const Leaf parent = take_node();
  const Leaf grandparent = at(sibling).parent;
  at(parent).parent = grandparent;
  at(parent).left = sibling;
  at(parent).right = leaf;
  at(sibling).parent = parent;
  at(leaf).parent = parent;
  if (grandparent < 0)
    root_ = parent;
  else
    (at(grandparent).left == sibling ? at(grandparent).left : at(grandparent).right) = parent;
  refit(parent);
}

void BroadPhase::detach(Leaf leaf) {
  const Leaf parent = at(leaf).parent;
  if (parent < 0) {
    root_ = -1;
    return;
  }
  const Leaf sibling = at(parent).left == leaf ? at(parent).right : at(parent).left;
  const Leaf grandparent = at(parent).parent;
  at(sibling).parent = grandparent;
  if (grandparent < 0)
    root_ = sibling;
  else
    (at(grandparent).left == parent ? at(grandparent).left : at(grandparent).right) = sibling;
  unused_.push_back(parent);
  refit(grandparent);
}

void BroadPhase::refit(Leaf from) {
  for (Leaf i = from; i >= 0; i = at(i).parent) {
    at(i).bounds = at(at(i).left).bounds.joined(at(at(i).right).bounds);
    rotate(i);
  }
}

// Swaps a child with a grandchild of the other side where that makes the inner box smaller.
void BroadPhase::rotate(Leaf i) {
  double best_gain = 0;
  Leaf best_child = -1, best_grandchild = -1;
  const std::array<Leaf, 2> children{at(i).left, at(i).right};
  for (int side = 0; side < 2; ++side) {
    const Leaf child = children[static_cast<std::size_t>(side)];
    const Leaf other = children[static_cast<std::size_t>(1 - side)];
    if (at(other).is_leaf()) continue;
    const double area = at(other).bounds.half_area();
    const double gain_left = area - at(child).bounds.joined(at(at(other).right).bounds).half_area();
    const double gain_right = area - at(child).bounds.joined(at(at(other).left).bounds).half_area();
    if (gain_left > best_gain) {
      best_gain = gain_left;
      best_child = child;
      best_grandchild = at(other).left;
    }
    if (gain_right > best_gain) {
      best_gain = gain_right;
      best_child = child;
      best_grandchild = at(other).right;
    }
  }
  if (best_child < 0) return;
  const Leaf other = at(best_grandchild).parent;
  (at(i).left == best_child ? at(i).left : at(i).right) = best_grandchild;
  (at(other).left == best_grandchild ? at(other).left : at(other).right) = best_child;
  at(best_grandchild).parent = i;
  at(best_child).parent = other;
  at(other).bounds = at(at(other).left).bounds.joined(at(at(other).right).bounds);
}

}  // namespace bronvel
