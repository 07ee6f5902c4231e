// Building hulls with Qhull, and their mass properties.
#include "geometry/shapes/hull.h"

extern "C" {
#include <libqhull_r/libqhull_r.h>
#include <libqhull_r/poly_r.h>
#include <libqhull_r/qset_r.h>
}

#include <cstdio>
#include <map>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

// Qhull's state, freed at the end of the scope.
struct Qhull {
  qhT state{};
  std::FILE* silence = std::fopen("/dev/null", "w");
  Qhull() { qh_zero(&state, silence); }
  Qhull(const Qhull&) = delete;
  Qhull& operator=(const Qhull&) = delete;
  ~Qhull() {
    qh_freeqhull(&state, !qh_ALL);
    int kept = 0, total = 0;
    qh_memfreeshort(&state, &kept, &total);
    if (silence) std::fclose(silence);
  }
};

void read_faces(qhT* qh, HullData& hull) {
  std::map<int, std::uint32_t> corner_of;  // by Qhull's point number
  facetT* facet = qh->facet_list;
  for (; facet && facet->next; facet = facet->next) {
    setT* ordered = qh_facet3vertex(qh, facet);
    std::vector<std::uint32_t> face;
    for (int i = 0; i < qh_setsize(qh, ordered); ++i) {
      const auto* vertex = static_cast<const vertexT*>(SETelem_(ordered, i));
      const int number = qh_pointid(qh, vertex->point);
      const auto [place, is_new] = corner_of.try_emplace(number, static_cast<std::uint32_t>(hull.corners.size()));
      if (is_new) hull.corners.emplace_back(vertex->point[0], vertex->point[1], vertex->point[2]);
      face.push_back(place->second);
    }
    qh_settempfree(qh, &ordered);
    const Vec3 normal = Vec3(facet->normal[0], facet->normal[1], facet->normal[2]).normalized();
    // Qhull orders seen from outside or inside depending on the facet; ours are counter-clockwise from outside.
    Vec3 area = Vec3::Zero();
    for (std::size_t i = 1; i + 1 < face.size(); ++i)
      area += (hull.corners[face[i]] - hull.corners[face[0]]).cross(hull.corners[face[i + 1]] - hull.corners[face[0]]);
    if (area.dot(normal) < 0) std::reverse(face.begin(), face.end());
    double offset = -1e300;
    for (const std::uint32_t corner : face) offset = std::max(offset, normal.dot(hull.corners[corner]));
    hull.faces.push_back(face);
    hull.normals.push_back(normal);
    hull.offsets.push_back(offset);
  }
}

// Areas and middles of the faces, and which corners each has.
void measure_faces(HullData& hull) {
  const bool few_corners = hull.corners.size() <= 64;
  for (const auto& face : hull.faces) {
    const Vec3& first = hull.corners[face[0]];
    Vec3 area = Vec3::Zero(), moment = Vec3::Zero();
    double size = 0;
    for (std::size_t i = 1; i + 1 < face.size(); ++i) {
      const Vec3 b = hull.corners[face[i]] - first, c = hull.corners[face[i + 1]] - first, part = 0.5 * b.cross(c);
      area += part;
      size += part.norm();
      moment += part.norm() / 3 * (b + c);
    }
    hull.areas.push_back(area);
    hull.middles.push_back(size > 0 ? Vec3(first + moment / size) : first);
    if (!few_corners) continue;
    std::uint64_t set = 0;
    for (const std::uint32_t corner : face) set |= std::uint64_t{1} << corner;
    hull.corner_sets.push_back(set);
  }
}

// Sums over the tetrahedra from an inner point to each triangle (Tonon, 2004).
void weigh(HullData& hull) {
  Vec3 inner = Vec3::Zero();
  for (const Vec3& corner : hull.corners) inner += corner / static_cast<double>(hull.corners.size());
  Vec3 moment = Vec3::Zero();
  Mat3 second = Mat3::Zero();  // ∫ r rᵀ about `inner`
  for (const auto& face : hull.faces)
    for (std::size_t i = 1; i + 1 < face.size(); ++i) {
      const Vec3 a = hull.corners[face[0]] - inner, b = hull.corners[face[i]] - inner,
                 c = hull.corners[face[i + 1]] - inner;
      const double six_volumes = a.dot(b.cross(c));
      const Vec3 sum = a + b + c;
      hull.volume += six_volumes / 6;
      moment += six_volumes / 24 * sum;
      second += six_volumes / 120 * (a * a.transpose() + b * b.transpose() + c * c.transpose() + sum * sum.transpose());
    }
  const Vec3 shift = moment / hull.volume;
  hull.centre = inner + shift;
  second -= hull.volume * shift * shift.transpose();
  hull.inertia = second.trace() * Mat3::Identity() - second;
  hull.inner_radius = 1e300;
  for (std::size_t i = 0; i < hull.faces.size(); ++i)
    hull.inner_radius = std::min(hull.inner_radius, hull.offsets[i] - hull.normals[i].dot(hull.centre));
}

// Whether it is a box: bricks and what is sawn square are, and boxes meet one another faster.
void find_box(HullData& hull) {
  constexpr double square = 1e-9;
  if (hull.faces.size() != 6 || hull.corners.size() != 8) return;
  HullBox found;
  std::array<Vec3, 3> axes;
  std::size_t count = 0;
  std::array<bool, 6> used{};
  for (std::size_t i = 0; i < 6; ++i) {
    if (used[i]) continue;
    const Vec3& normal = hull.normals[i];
    for (std::size_t k = 0; k < count; ++k)
      if (std::abs(normal.dot(axes[k])) > square) return;
    std::size_t opposite = i + 1;
    while (opposite < 6 && (used[opposite] || (hull.normals[opposite] + normal).norm() > square)) ++opposite;
    if (opposite == 6 || count == 3) return;
    used[opposite] = true;
    found.box.size[static_cast<Eigen::Index>(count)] = hull.offsets[i] + hull.offsets[opposite];
    found.pose.position += 0.5 * (hull.offsets[i] - hull.offsets[opposite]) * normal;
    axes[count++] = normal;
  }
  Mat3 turn;
  turn << axes[0], axes[1], axes[0].cross(axes[1]);
  found.pose.orientation = Quat(turn).normalized();
  hull.box = found;
}

}  // namespace

bool operator==(const Hull& a, const Hull& b) {
  return a.data == b.data || (a.data && b.data && a.data->points == b.data->points);
}

Hull make_hull(const std::vector<Vec3>& points) {
  if (points.size() < 4) throw Error("hull", "wants at least four points, got " + std::to_string(points.size()));
  Vec3 low = points[0], high = points[0];
  for (const Vec3& p : points) {
    if (!finite(p)) throw Error("hull", "has a point that is not a number");
    low = low.cwiseMin(p);
    high = high.cwiseMax(p);
  }
  const double size = (high - low).maxCoeff();
  if (size < 1e-6 || size > 1e6) throw Error("hull", "must be from 1e-6 to 1e6 m in size");

  auto data = std::make_shared<HullData>();
  data->points = points;
  std::vector<double> flat;
  for (const Vec3& p : points)
    for (int i = 0; i < 3; ++i) flat.push_back(p[i]);
  Qhull qhull;
  char options[] = "qhull";
  const int fault = qh_new_qhull(&qhull.state, 3, static_cast<int>(points.size()), flat.data(), 0, options,
                                 qhull.silence, qhull.silence);
  if (fault != 0) throw Error("hull", "its points lie in a plane, on a line or on one spot", "give it some depth");
  read_faces(&qhull.state, *data);
  weigh(*data);
  measure_faces(*data);
  find_box(*data);
  if (!(data->volume > 1e-9 * size * size * size)) throw Error("hull", "is too flat to have a volume");
  return Hull{std::move(data)};
}

std::optional<Hull> finished(std::shared_ptr<HullData> data) {
  data->points = data->corners;
  Vec3 low = data->corners[0], high = low;
  for (const Vec3& corner : data->corners) {
    low = low.cwiseMin(corner);
    high = high.cwiseMax(corner);
  }
  weigh(*data);
  measure_faces(*data);
  find_box(*data);
  const double size = (high - low).maxCoeff();
  if (!(data->volume > 1e-9 * size * size * size)) return std::nullopt;
  return Hull{std::move(data)};
}

}  // namespace bronvel
