// What a model looks like: smooth where it is meant to be, inked where it has edges.
#include <map>

#include "geometry/meshes/outline.h"

namespace bronvel {

Outline outline_of(const Model& given) {
  Outline out;
  if (given.points.empty()) return out;
  const Bounds bounds = model_bounds(given);
  const Model model = welded(given, 1e-7 * (bounds.high - bounds.low).norm());
  constexpr double sharp = 0.819;  // cosine of 35 degrees
  std::vector<Vec3> normals(model.triangles.size());
  std::vector<std::vector<std::uint32_t>> around(model.points.size());
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::vector<std::uint32_t>> edges;
  for (std::uint32_t t = 0; t < model.triangles.size(); ++t) {
    const auto& corners = model.triangles[t];
    const Vec3& a = model.points[corners[0]];
    normals[t] = (model.points[corners[1]] - a).cross(model.points[corners[2]] - a).normalized();
    for (std::size_t i = 0; i < 3; ++i) {
      around[corners[i]].push_back(t);
      edges[std::minmax(corners[i], corners[(i + 1) % 3])].push_back(t);
    }
  }
  for (std::uint32_t t = 0; t < model.triangles.size(); ++t)
    for (const std::uint32_t corner : model.triangles[t]) {
      Vec3 normal = Vec3::Zero();
      for (const std::uint32_t other : around[corner])
        if (normals[other].dot(normals[t]) > sharp) normal += normals[other];
      out.triangles.push_back(model.points[corner]);
      out.normals.push_back(normal.norm() > 1e-9 ? Vec3(normal.normalized()) : normals[t]);
    }
  for (const auto& [edge, faces] : edges) {
    const bool inked = faces.size() != 2 || normals[faces[0]].dot(normals[faces[1]]) < sharp;
    if (!inked) continue;
    out.lines.push_back(model.points[edge.first]);
    out.lines.push_back(model.points[edge.second]);
  }
  return out;
}

}  // namespace bronvel
