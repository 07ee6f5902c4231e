// Choosing the points at the rim.
#include "dynamics/narrow_phase/manifold_reduction.h"

#include <algorithm>
#include <cmath>

namespace bronvel {
namespace {

constexpr std::size_t enough_points = 12;  // of a patch: as many ways as its rim is looked at
constexpr double one_way = 1e-6;           // 1 − cos of the angle between normals of one plane
constexpr double one_plane = 1e-3;         // m
constexpr double resting_speed = 0.1;      // m/s, of any point

// Whether the pair's bodies go with one another.
bool rest_together(const WorldState& state, const ActiveEnds& ends) {
  const BodyState &a = state.bodies[ends.a], &b = state.bodies[ends.b];
  const double turning = (b.angular_velocity - a.angular_velocity).norm();
  const double radius = std::min(state.records[ends.a].radius, state.records[ends.b].radius);
  const Vec3 arm = (state.records[ends.a].radius < state.records[ends.b].radius ? a : b).centre;
  const Vec3 apart = b.velocity_at(arm - b.centre) - a.velocity_at(arm - a.centre);
  return apart.norm() + turning * radius < resting_speed;
}

// A way in the plane that goes along with the body.
Vec3 way_along(const BodyState& motion, const Vec3& normal) {
  const Mat3 axes = motion.orientation.toRotationMatrix();
  int least = 0;
  (axes.transpose() * normal).cwiseAbs().minCoeff(&least);
  const Vec3 axis = axes.col(least);
  return (axis - normal * normal.dot(axis)).normalized();
}

// Marks the points of the patch, from `first` to `last`, that are to bear it.
void mark_rim(std::vector<PatchPoint>& points, std::size_t first, std::size_t last, const Vec3& along,
              const Vec3& across) {
  double in_float = 0;
  std::size_t deepest = first;
  for (std::size_t i = first; i < last; ++i) {
    in_float = std::max(in_float, (points[i].arm - points[first].arm).norm());
    if (points[i].gap < points[deepest].gap) deepest = i;
  }
  points[deepest].kept = true;
  // Those that bear already are taken before others about as far out.
  const double known = 1e-3 * in_float;
  // Not along the axes: there whole edges lie equally far out.
  constexpr double aslant = 0.1;  // rad
  for (std::size_t k = 0; k < enough_points; ++k) {
    const double angle = aslant + 2 * pi * static_cast<double>(k) / enough_points;
    const Vec3 way = std::cos(angle) * along + std::sin(angle) * across;
    std::size_t farthest = first;
    double far = -1e300;
    for (std::size_t i = first; i < last; ++i) {
      const double out = way.dot(points[i].arm) + (points[i].bears ? known : 0);
      if (out <= far) continue;
      far = out;
      farthest = i;
    }
    points[farthest].kept = true;
  }
}

// Takes the points that are not kept out of their pairs.
void leave_out(WorldState& state, const std::vector<PatchPoint>& points) {
  for (std::size_t i = 0; i < points.size();) {
    const std::uint32_t place = points[i].listed;
    Pair& pair = state.pairs[state.listed[place]];
    int count = 0;
    double least = 1e30;
    for (; i < points.size() && points[i].listed == place; ++i) {
      if (!points[i].kept) continue;
      // Those left out go behind.
      ManifoldPoint& row = pair.points[static_cast<std::size_t>(count++)];
      std::swap(row, pair.points[points[i].row]);
      least = std::min(least, row.gap);
    }
    for (std::size_t k = static_cast<std::size_t>(count); k < pair.found; ++k) pair.points[k].impulse = 0;
    ActiveEnds& ends = state.scratch.listed_ends[place];
    state.scratch.points_left_out += ends.points - static_cast<std::size_t>(count);
    pair.count = count;
    ends.points = static_cast<std::uint8_t>(count);
    ends.least_gap = static_cast<float>(least);
  }
}

// The pairs of two bodies, listed from `first` to `last`.
void thin(WorldState& state, std::size_t first, std::size_t last) {
  std::vector<PatchPoint>& points = state.scratch.patch_points;
  points.clear();
  for (std::size_t i = first; i < last; ++i) {
    const Pair& pair = state.pairs[state.listed[i]];
    if (pair.fast) return;
    for (std::uint32_t k = 0; k < state.scratch.listed_ends[i].points; ++k) {
      const ManifoldPoint& row = pair.points[k];
      points.push_back({static_cast<std::uint32_t>(i), k, pair.normal, row.arm_a, row.gap, row.impulse > 0});
    }
  }
  if (points.size() <= enough_points || !rest_together(state, state.scratch.listed_ends[first])) return;
  // Patches of one plane each, gathered at the front of what is left.
  const auto by_place = [](const PatchPoint& x, const PatchPoint& y) {
    return x.listed != y.listed ? x.listed < y.listed : x.row < y.row;
  };
  for (std::size_t begin = 0; begin < points.size();) {
    const PatchPoint start = points[begin];
    const auto end =
        std::partition(points.begin() + static_cast<std::ptrdiff_t>(begin), points.end(), [&](const PatchPoint& p) {
          return p.normal.dot(start.normal) > 1 - one_way && std::abs(start.normal.dot(p.arm - start.arm)) < one_plane;
        });
    const auto next = static_cast<std::size_t>(end - points.begin());
    if (next - begin <= enough_points) {
      for (std::size_t i = begin; i < next; ++i) points[i].kept = true;
    } else {
      const Vec3 along = way_along(state.bodies[state.scratch.listed_ends[first].a], start.normal);
      mark_rim(points, begin, next, along, start.normal.cross(along));
    }
    begin = next;
  }
  std::sort(points.begin(), points.end(), by_place);
  leave_out(state, points);
}

}  // namespace

void reduce_manifolds(WorldState& state) {
  const FlatArray<ActiveEnds>& ends = state.scratch.listed_ends;
  state.scratch.points_left_out = 0;
  if (state.part_overlaps.empty()) return;
  for (std::size_t first = 0, last = 0; first < ends.size(); first = last) {
    std::size_t points = 0;
    for (last = first; last < ends.size() && ends[last].a == ends[first].a && ends[last].b == ends[first].b; ++last)
      points += ends[last].points;
    if (last - first > 1 && points > enough_points) thin(state, first, last);
  }
}

}  // namespace bronvel
