// The tree of boxes.
#include "dynamics/base/box_tree.h"

#include <cmath>

namespace bronvel {
namespace {

// Padding around a body, as a share of its size, and how many times the way that it is heading: found by measuring
// piles.
constexpr double padding_share = 0.04, padding_least = 0.01, ways_ahead = 2;

Bounds padded_bounds(const Bounds& bounds, const Vec3& shift) {
  const double pad = std::max(padding_least, padding_share * (bounds.high - bounds.low).maxCoeff());
  return bounds.grown(pad).swept(ways_ahead * shift);
}

}  // namespace

BroadPhase::Box::Box(const Bounds& bounds) {
  constexpr float far = std::numeric_limits<float>::infinity();
  for (std::size_t i = 0; i < 3; ++i) {
    const double from = bounds.low[static_cast<Eigen::Index>(i)], to = bounds.high[static_cast<Eigen::Index>(i)];
    low[i] = static_cast<float>(from);
    high[i] = static_cast<float>(to);
    if (static_cast<double>(low[i]) > from) low[i] = std::nextafter(low[i], -far);
    if (static_cast<double>(high[i]) < to) high[i] = std::nextafter(high[i], far);
  }
}

BroadPhase::Box BroadPhase::Box::joined(const Box& other) const {
  Box box;
  for (std::size_t i = 0; i < 3; ++i) {
    box.low[i] = std::min(low[i], other.low[i]);
    box.high[i] = std::max(high[i], other.high[i]);
  }
  return box;
}

float BroadPhase::Box::half_area() const {
  const float x = high[0] - low[0], y = high[1] - low[1], z = high[2] - low[2];
  return x * y + y * z + z * x;
}

void BroadPhase::put(std::int32_t place, Child child, const Box& box) {
  child_at(place) = child;
  box_at(place) = box;
  if (child < 0)
    leaves_[static_cast<std::size_t>(leaf_of(child))].place = place;
  else
    nodes_[static_cast<std::size_t>(child)].above = place;
}

std::int32_t BroadPhase::take_node() {
  if (unused_nodes_.empty()) {
    make_room(nodes_);
    nodes_.emplace_back();
    return static_cast<std::int32_t>(nodes_.size() - 1);
  }
  const std::int32_t node = unused_nodes_.back();
  unused_nodes_.pop_back();
  return node;
}

BroadPhase::Leaf BroadPhase::add(const Bounds& bounds, std::uint32_t body) {
  if (nodes_.empty()) nodes_.emplace_back();
  auto leaf = static_cast<Leaf>(leaves_.size());
  if (unused_leaves_.empty()) {
    make_room(leaves_);
    leaves_.emplace_back();
  } else {
    leaf = unused_leaves_.back();
    unused_leaves_.pop_back();
  }
  LeafRecord& record = leaves_[static_cast<std::size_t>(leaf)];
  record.box = Box(padded_bounds(bounds, Vec3::Zero()));
  record.body = body;
  insert(leaf);
  return leaf;
}

void BroadPhase::remove(Leaf leaf) {
  detach(leaf);
  unused_leaves_.push_back(leaf);
}

bool BroadPhase::update(Leaf leaf, const Bounds& bounds, const Vec3& shift) {
  LeafRecord& record = leaves_[static_cast<std::size_t>(leaf)];
  if (record.box.bounds().contains(bounds.swept(shift))) return false;
  detach(leaf);
  record.box = Box(padded_bounds(bounds, shift));
  insert(leaf);
  return true;
}

void BroadPhase::insert(Leaf leaf) {
  const Box box = leaves_[static_cast<std::size_t>(leaf)].box;
  std::int32_t place = 0;
  if (child_at(place) == nothing) {
    put(place, ~leaf, box);
    return;
  }
  // Walk down to the sibling that grows the tree's surface least.
  while (child_at(place) >= 0) {
    const Child child = child_at(place);
    const Node& node = nodes_[static_cast<std::size_t>(child)];
    const float joined = box_at(place).joined(box).half_area();
    const float stop_here = 2 * joined;
    const float inherited = 2 * (joined - box_at(place).half_area());
    const auto cost = [&](std::size_t side) {
      const float grown = node.boxes[side].joined(box).half_area();
      return inherited + (node.children[side] < 0 ? grown : grown - node.boxes[side].half_area());
    };
    const float left = cost(0), right = cost(1);
    if (stop_here < left && stop_here < right) break;
    place = 2 * child + (left <= right ? 0 : 1);
  }
  const std::int32_t node = take_node();
  put(2 * node, child_at(place), box_at(place));
  put(2 * node + 1, ~leaf, box);
  put(place, node, box_at(place).joined(box));
  refit(place / 2);
}

void BroadPhase::detach(Leaf leaf) {
  const std::int32_t place = leaves_[static_cast<std::size_t>(leaf)].place;
  if (place == 0) {
    child_at(place) = nothing;
    return;
  }
  const std::int32_t node = place / 2, sibling = place ^ 1, above = node_of(place).above;
  put(above, child_at(sibling), box_at(sibling));
  unused_nodes_.push_back(node);
  refit(above / 2);
}

// Brings the boxes of the node and of those above it up to date, as far up as any changes.
void BroadPhase::refit(std::int32_t node) {
  while (node != 0) {
    const bool rotated = rotate(node);
    const Node& here = nodes_[static_cast<std::size_t>(node)];
    const Box box = here.boxes[0].joined(here.boxes[1]);
    const std::int32_t above = here.above;
    if (!rotated && box == box_at(above)) return;
    box_at(above) = box;
    node = above / 2;
  }
}

// Swaps a child with a grandchild of the other side where that makes the inner box smaller. Whether it did.
bool BroadPhase::rotate(std::int32_t node) {
  float best_gain = 0;
  std::int32_t best_child = -1, best_grandchild = -1;  // places
  const Node& here = nodes_[static_cast<std::size_t>(node)];
  for (std::size_t side = 0; side < 2; ++side) {
    const Child other = here.children[1 - side];
    if (other < 0) continue;
    const Node& inner = nodes_[static_cast<std::size_t>(other)];
    const float area = here.boxes[1 - side].half_area();
    for (std::size_t out = 0; out < 2; ++out) {
      const float gain = area - here.boxes[side].joined(inner.boxes[1 - out]).half_area();
      if (!(gain > best_gain)) continue;
      best_gain = gain;
      best_child = 2 * node + static_cast<std::int32_t>(side);
      best_grandchild = 2 * other + static_cast<std::int32_t>(out);
    }
  }
  if (best_child < 0) return false;
  const Child child = child_at(best_child), grandchild = child_at(best_grandchild);
  const Box child_box = box_at(best_child), grandchild_box = box_at(best_grandchild);
  put(best_child, grandchild, grandchild_box);
  put(best_grandchild, child, child_box);
  box_at(best_child ^ 1) = box_at(best_grandchild).joined(box_at(best_grandchild ^ 1));
  return true;
}

}  // namespace bronvel
