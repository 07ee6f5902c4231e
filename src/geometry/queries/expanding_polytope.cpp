// Growing the polytope.
#include "geometry/queries/expanding_polytope.h"

#include <algorithm>
#include <cmath>

namespace bronvel {
namespace {

constexpr double gone = std::numeric_limits<double>::infinity();

}  // namespace

void ExpandingPolytope::clear() {
  corners_.clear();
  places_.clear();
  faces_.clear();
  distances_.clear();
  unused_.clear();
}

void ExpandingPolytope::add(const DifferencePoint& point) {
  corners_.push_back(point);
  places_.push_back(point.w);
}

bool ExpandingPolytope::make_face(std::uint32_t i, std::uint32_t j, std::uint32_t k, Face& face) const {
  const Vec3& first = places_[i];
  const Vec3 n = (places_[j] - first).cross(places_[k] - first);
  const double length = n.norm();
  if (length < 1e-300) return false;
  face.normal = n / length;
  face.distance = face.normal.dot(first);
  face.corners = {i, j, k};
  face.beside = {no_face, no_face, no_face};
  face.alive = true;
  return true;
}

std::uint32_t ExpandingPolytope::add(const Face& face) {
  auto at = static_cast<std::uint32_t>(faces_.size());
  if (unused_.empty()) {
    faces_.push_back(face);
    distances_.push_back(face.distance);
  } else {
    at = unused_.back();
    unused_.pop_back();
    faces_[at] = face;
    distances_[at] = face.distance;
  }
  return at;
}

void ExpandingPolytope::connect(std::uint32_t one, std::uint32_t other) {
  for (std::size_t e = 0; e < 3; ++e)
    for (std::size_t f = 0; f < 3; ++f)
      if (faces_[one].corners[e] == faces_[other].corners[(f + 1) % 3] &&
          faces_[one].corners[(e + 1) % 3] == faces_[other].corners[f]) {
        faces_[one].beside[e] = other;
        faces_[other].beside[f] = one;
      }
}

bool ExpandingPolytope::begin() {
  const auto side = [&](std::uint32_t i, std::uint32_t j, std::uint32_t k, std::uint32_t inner) {
    Face face;
    if (!make_face(i, j, k, face)) return;
    if (face.normal.dot(places_[inner] - places_[i]) > 0) make_face(i, k, j, face);
    add(face);
  };
  side(0, 1, 2, 3);
  side(0, 1, 3, 2);
  side(0, 2, 3, 1);
  side(1, 2, 3, 0);
  for (std::uint32_t i = 0; i < faces_.size(); ++i)
    for (std::uint32_t j = i + 1; j < faces_.size(); ++j) connect(i, j);
  return !faces_.empty();
}

std::uint32_t ExpandingPolytope::nearest() const {
  // Four at a time, as none waits for the one before; there are some hundred at most, and a heap takes longer.
  std::array<double, 4> least{gone, gone, gone, gone};
  std::size_t i = 0;
  for (; i + 4 <= distances_.size(); i += 4)
    for (std::size_t k = 0; k < 4; ++k) least[k] = std::min(least[k], distances_[i + k]);
  for (; i < distances_.size(); ++i) least[0] = std::min(least[0], distances_[i]);
  const double nearest = std::min(std::min(least[0], least[1]), std::min(least[2], least[3]));
  if (nearest == gone) return no_face;
  return static_cast<std::uint32_t>(std::find(distances_.begin(), distances_.end(), nearest) - distances_.begin());
}

bool ExpandingPolytope::grow(std::uint32_t from) {
  const auto added = static_cast<std::uint32_t>(places_.size() - 1);
  const Vec3 place = places_[added];
  const double in_plane = -1e-13 * std::max(1.0, place.norm());
  // From the nearest face outwards, so that they make one hole: told apart by rounding, faces in one plane would make
  // several, and turn the polytope inside out.
  hole_.assign(1, from);
  faces_[from].alive = false;
  rim_.clear();
  for (std::size_t h = 0; h < hole_.size(); ++h) {
    const Face& face = faces_[hole_[h]];
    for (std::size_t e = 0; e < 3; ++e) {
      const std::uint32_t beyond = face.beside[e];
      if (beyond != no_face) {
        Face& other = faces_[beyond];
        if (!other.alive) continue;
        if (other.normal.dot(place - places_[other.corners[0]]) > in_plane) {
          other.alive = false;
          hole_.push_back(beyond);
          continue;
        }
      }
      rim_.push_back({face.corners[e], face.corners[e == 2 ? 0 : e + 1], beyond});
    }
  }
  // What the hole reached from another side is no rim.
  std::erase_if(rim_, [&](const Edge& edge) { return edge.beyond != no_face && !faces_[edge.beyond].alive; });
  if (rim_.empty()) return false;
  for (const std::uint32_t at : hole_) {
    distances_[at] = gone;
    unused_.push_back(at);
  }
  fresh_.clear();
  for (const Edge& edge : rim_) {
    Face face;
    if (!make_face(edge.from, edge.to, added, face)) {
      if (edge.beyond != no_face) set_neighbour(edge.beyond, edge.from, edge.to, no_face);
      continue;
    }
    face.beside[0] = edge.beyond;
    const std::uint32_t at = add(face);
    if (edge.beyond != no_face) set_neighbour(edge.beyond, edge.from, edge.to, at);
    fresh_.push_back(at);
  }
  // Around the last corner, each meets the one that begins where it ends.
  if (begins_.size() < places_.size()) begins_.resize(2 * places_.size(), no_face);
  for (const std::uint32_t at : fresh_) begins_[faces_[at].corners[0]] = at;
  for (const std::uint32_t at : fresh_) {
    const std::uint32_t next = begins_[faces_[at].corners[1]];
    if (next == no_face) continue;
    faces_[at].beside[1] = next;
    faces_[next].beside[2] = at;
  }
  for (const std::uint32_t at : fresh_) begins_[faces_[at].corners[0]] = no_face;
  return true;
}

// The face has a new neighbour beyond its edge between these corners, or none.
void ExpandingPolytope::set_neighbour(std::uint32_t face, std::uint32_t i, std::uint32_t j, std::uint32_t neighbour) {
  Face& f = faces_[face];
  for (std::size_t e = 0; e < 3; ++e)
    if (f.corners[e] == j && f.corners[e == 2 ? 0 : e + 1] == i) f.beside[e] = neighbour;
}

}  // namespace bronvel
