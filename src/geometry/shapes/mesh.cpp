// Checking meshes, weighing them, and their tree.
#include "geometry/shapes/mesh.h"

#include <algorithm>
#include <map>
#include <numeric>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

using Triangle = std::array<std::uint32_t, 3>;

constexpr std::uint32_t leaf_size = 4;

Vec3 area_vector(const MeshData& m, const Triangle& t) {
  return 0.5 * (m.points[t[1]] - m.points[t[0]]).cross(m.points[t[2]] - m.points[t[0]]);
}

Bounds bounds_of(const MeshData& m, const Triangle& t) {
  const Vec3 &a = m.points[t[0]], &b = m.points[t[1]], &c = m.points[t[2]];
  return {a.cwiseMin(b).cwiseMin(c), a.cwiseMax(b).cwiseMax(c)};
}

void grow_tree(MeshData& m, std::size_t node, std::uint32_t first, std::uint32_t count) {
  Bounds box = bounds_of(m, m.triangles[m.order[first]]);
  for (std::uint32_t i = first; i < first + count; ++i) box = box.joined(bounds_of(m, m.triangles[m.order[i]]));
  m.nodes[node].bounds = box;
  if (count <= leaf_size) {
    m.nodes[node].first = first;
    m.nodes[node].count = count;
    return;
  }
  int axis = 0;
  (box.high - box.low).maxCoeff(&axis);
  const auto middle = [&](std::uint32_t t) {
    const Bounds b = bounds_of(m, m.triangles[t]);
    return b.low[axis] + b.high[axis];
  };
  const std::uint32_t half = count / 2;
  const auto begin = m.order.begin() + first;
  std::nth_element(begin, begin + half, begin + count, [&](std::uint32_t x, std::uint32_t y) {
    return middle(x) != middle(y) ? middle(x) < middle(y) : x < y;
  });
  const auto children = static_cast<std::uint32_t>(m.nodes.size());
  m.nodes[node].first = children;
  m.nodes.resize(m.nodes.size() + 2);
  grow_tree(m, children, first, half);
  grow_tree(m, children + 1, first + half, count - half);
}

void find_neighbours(MeshData& m) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::uint32_t>> of_edge;  // by direction of the edge
  for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
    for (std::size_t e = 0; e < 3; ++e) of_edge[{m.triangles[t][e], m.triangles[t][(e + 1) % 3]}].push_back(t);
  m.closed = true;
  m.beyond.assign(m.triangles.size(), {Vec3::Zero(), Vec3::Zero(), Vec3::Zero()});
  for (std::uint32_t t = 0; t < m.triangles.size(); ++t)
    for (std::size_t e = 0; e < 3; ++e) {
      const auto back = of_edge.find({m.triangles[t][(e + 1) % 3], m.triangles[t][e]});
      const bool shared = back != of_edge.end();
      m.closed = m.closed && shared && back->second.size() == 1;
      if (shared) m.beyond[t][e] = area_vector(m, m.triangles[back->second.front()]).normalized();
    }
}

// Sums over the tetrahedra from a point to each triangle (Tonon, 2004).
void weigh(MeshData& m) {
  const Vec3 middle = 0.5 * (m.bounds.low + m.bounds.high);
  Vec3 moment = Vec3::Zero();
  Mat3 second = Mat3::Zero();
  for (const Triangle& t : m.triangles) {
    const Vec3 a = m.points[t[0]] - middle, b = m.points[t[1]] - middle, c = m.points[t[2]] - middle;
    const double six_volumes = a.dot(b.cross(c));
    const Vec3 sum = a + b + c;
    m.volume += six_volumes / 6;
    moment += six_volumes / 24 * sum;
    second += six_volumes / 120 * (a * a.transpose() + b * b.transpose() + c * c.transpose() + sum * sum.transpose());
  }
  if (!(m.volume > 0)) return;
  const Vec3 shift = moment / m.volume;
  m.centre = middle + shift;
  second -= m.volume * shift * shift.transpose();
  m.inertia = second.trace() * Mat3::Identity() - second;
}

template <class Test>
void walk(const MeshData& m, const Test& test, std::vector<std::uint32_t>& found) {
  std::vector<std::uint32_t> waiting{0};
  while (!waiting.empty()) {
    const MeshData::Node& node = m.nodes[waiting.back()];
    waiting.pop_back();
    if (!test(node.bounds)) continue;
    if (node.count == 0) {
      waiting.push_back(node.first);
      waiting.push_back(node.first + 1);
      continue;
    }
    for (std::uint32_t i = node.first; i < node.first + node.count; ++i)
      if (test(bounds_of(m, m.triangles[m.order[i]]))) found.push_back(m.order[i]);
  }
}

}  // namespace

bool operator==(const Mesh& a, const Mesh& b) {
  return a.data == b.data ||
         (a.data && b.data && a.data->points == b.data->points && a.data->triangles == b.data->triangles);
}

Facet MeshData::facet(std::uint32_t triangle) const {
  const Triangle& t = triangles[triangle];
  Facet f;
  for (std::size_t i = 0; i < 3; ++i) f.corners[i] = points[t[i]];
  f.beyond = beyond[triangle];
  f.normal = area_vector(*this, t).normalized();
  f.depth = depth;
  return f;
}

void MeshData::near(const Bounds& box, std::vector<std::uint32_t>& found) const {
  const std::size_t before = found.size();
  walk(
      *this, [&](const Bounds& b) { return b.overlaps(box); }, found);
  std::sort(found.begin() + static_cast<std::ptrdiff_t>(before), found.end());
}

void MeshData::along(const Vec3& origin, const Vec3& direction, double reach, std::vector<std::uint32_t>& found) const {
  const Vec3 inverse = inverse_direction(direction);
  walk(
      *this, [&](const Bounds& b) { return meets_segment(b, origin, inverse, reach); }, found);
}

Mesh make_mesh(std::vector<Vec3> points, std::vector<Triangle> triangles) {
  if (triangles.empty()) throw Error("mesh", "has no triangles");
  for (std::size_t i = 0; i < points.size(); ++i)
    if (!finite(points[i])) throw Error("mesh", "point " + std::to_string(i + 1) + " is not a number");
  auto data = std::make_shared<MeshData>();
  data->points = std::move(points);
  data->triangles = std::move(triangles);
  for (std::size_t t = 0; t < data->triangles.size(); ++t)
    for (const std::uint32_t corner : data->triangles[t])
      if (corner >= data->points.size())
        throw Error("mesh", "triangle " + std::to_string(t + 1) + " names point " + std::to_string(corner + 1) +
                                " of " + std::to_string(data->points.size()));
  data->bounds = bounds_of(*data, data->triangles[0]);
  for (const Triangle& t : data->triangles) data->bounds = data->bounds.joined(bounds_of(*data, t));
  const double size = (data->bounds.high - data->bounds.low).maxCoeff();
  if (size < 1e-6 || size > 1e6) throw Error("mesh", "must be from 1e-6 to 1e6 m in size");
  for (std::size_t t = 0; t < data->triangles.size(); ++t)
    if (!(area_vector(*data, data->triangles[t]).norm() > 1e-16 * size * size))
      throw Error("mesh", "triangle " + std::to_string(t + 1) + " has no area", "leave it out");
  find_neighbours(*data);
  if (data->closed) {
    weigh(*data);
    if (data->volume < 0)
      throw Error("mesh", "is inside out: its triangles look inward", "turn the order of their corners round");
  }
  data->depth = 0.05 * size;
  data->order.resize(data->triangles.size());
  std::iota(data->order.begin(), data->order.end(), 0U);
  data->nodes.resize(1);
  grow_tree(*data, 0, 0, static_cast<std::uint32_t>(data->order.size()));
  return {std::move(data)};
}

}  // namespace bronvel
