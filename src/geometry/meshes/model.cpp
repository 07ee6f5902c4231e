// Models: checking, measuring, welding.
#include "geometry/meshes/model.h"

#include <map>
#include <string>
#include <unordered_map>

namespace bronvel {

std::string model_fault(const Model& model) {
  if (model.points.empty() || model.triangles.empty()) return "has no triangles";
  for (const Vec3& p : model.points)
    for (int i = 0; i < 3; ++i)
      if (!finite(p[i]) || std::abs(p[i]) > 1e6) return "has a point that is no number or farther than 1e6 m";
  for (const auto& t : model.triangles)
    for (const std::uint32_t corner : t)
      if (corner >= model.points.size()) return "has a triangle whose corner is not among its points";
  return "";
}

Bounds model_bounds(const Model& model) {
  Bounds all{model.points.front(), model.points.front()};
  for (const Vec3& p : model.points) all = {all.low.cwiseMin(p), all.high.cwiseMax(p)};
  return all;
}

double model_volume(const Model& model) {
  if (model.points.empty()) return 0;
  // About a point of its own, so that far from the origin nothing is lost.
  const Vec3 origin = model.points.front();
  double six = 0;
  for (const auto& t : model.triangles)
    six += (model.points[t[0]] - origin).dot((model.points[t[1]] - origin).cross(model.points[t[2]] - origin));
  return six / 6;
}

bool model_closed(const Model& model) {
  if (model.triangles.empty()) return false;
  const Bounds bounds = model_bounds(model);
  const Model joined = welded(model, 1e-9 * (bounds.high - bounds.low).norm());
  std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
  for (const auto& t : joined.triangles)
    for (std::size_t i = 0; i < 3; ++i) ++edges[{t[i], t[(i + 1) % 3]}];
  for (const auto& [edge, count] : edges) {
    const auto back = edges.find({edge.second, edge.first});
    if (count != 1 || back == edges.end() || back->second != 1) return false;
  }
  return !edges.empty();
}

Model welded(const Model& model, double distance) {
  // Points by the cell they fall in; a cell is wide enough that near points share it or lie in one beside it.
  const double cell = std::max(distance, 1e-12) * 2;
  const auto key = [](const std::array<std::int64_t, 3>& c) {
    const auto part = [](std::int64_t x, std::uint64_t by) { return static_cast<std::uint64_t>(x) * by; };
    return part(c[0], 0x9E3779B97F4A7C15ULL) ^ part(c[1], 0xC2B2AE3D27D4EB4FULL) ^ part(c[2], 0x165667B19E3779F9ULL);
  };
  std::unordered_multimap<std::uint64_t, std::uint32_t> cells;
  Model out;
  std::vector<std::uint32_t> now(model.points.size());
  for (std::size_t i = 0; i < model.points.size(); ++i) {
    const Vec3& p = model.points[i];
    std::array<std::int64_t, 3> c{};
    for (int k = 0; k < 3; ++k) c[static_cast<std::size_t>(k)] = static_cast<std::int64_t>(std::floor(p[k] / cell));
    bool found = false;
    for (int n = 0; n < 27 && !found; ++n) {
      const auto range = cells.equal_range(key({c[0] + n % 3 - 1, c[1] + n / 3 % 3 - 1, c[2] + n / 9 - 1}));
      for (auto each = range.first; each != range.second && !found; ++each)
        if ((out.points[each->second] - p).squaredNorm() <= distance * distance) {
          now[i] = each->second;
          found = true;
        }
    }
    if (found) continue;
    now[i] = static_cast<std::uint32_t>(out.points.size());
    out.points.push_back(p);
    cells.emplace(key(c), now[i]);
  }
  for (const auto& t : model.triangles) {
    const std::array<std::uint32_t, 3> made{now[t[0]], now[t[1]], now[t[2]]};
    if (made[0] == made[1] || made[1] == made[2] || made[2] == made[0]) continue;
    const Vec3 across = (out.points[made[1]] - out.points[made[0]]).cross(out.points[made[2]] - out.points[made[0]]);
    if (across.squaredNorm() > 0) out.triangles.push_back(made);
  }
  return out;
}

}  // namespace bronvel
