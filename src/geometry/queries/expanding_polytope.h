// The polytope that grows within the difference of two convex shapes until its nearest face is the way out.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <vector>

#include "geometry/base/vector.h"

namespace bronvel {

/// A point of the difference B − A, with where it came from.
struct DifferencePoint {
  Vec3 w, on_a, on_b;
};

/// Corners, and faces that know their neighbours (van den Bergen, 2001). Places of faces that went are used again, so
/// that a walk over all stays short. Kept from search to search, it allocates nothing.
class ExpandingPolytope {
 public:
  static constexpr std::uint32_t no_face = std::numeric_limits<std::uint32_t>::max();

  struct alignas(64) Face {
    Vec3 normal = Vec3::Zero();
    double distance = 0;  ///< of its plane from the origin, m
    std::array<std::uint32_t, 3> corners{};
    std::array<std::uint32_t, 3> beside{no_face, no_face, no_face};  ///< beyond the edge from each corner to the next
    bool alive = false;
  };

  /// Back to no corners and no faces.
  void clear();
  void add(const DifferencePoint& point);
  std::size_t corner_count() const { return places_.size(); }
  const Vec3& place(std::uint32_t corner) const { return places_[corner]; }
  const DifferencePoint& corner(std::uint32_t corner) const { return corners_[corner]; }

  /// The faces of the tetrahedron of the first four corners. False where it has none: it is smaller than rounding.
  bool begin();
  /// The face whose plane is nearest to the origin; `no_face` when all are gone.
  std::uint32_t nearest() const;
  const Face& face(std::uint32_t at) const { return faces_[at]; }
  /// Takes away the faces that the last corner can see or lies in, from the given one outwards, and closes the hole
  /// around that corner. False when nothing is left.
  bool grow(std::uint32_t from);

 private:
  bool make_face(std::uint32_t i, std::uint32_t j, std::uint32_t k, Face& face) const;
  std::uint32_t add(const Face& face);
  void connect(std::uint32_t one, std::uint32_t other);
  void set_neighbour(std::uint32_t face, std::uint32_t i, std::uint32_t j, std::uint32_t neighbour);

  std::vector<DifferencePoint> corners_;
  std::vector<Vec3> places_;  // of the corners, in the difference
  std::vector<Face> faces_;
  std::vector<double> distances_;  // by face; infinite for those that went
  std::vector<std::uint32_t> unused_, hole_, fresh_;
  std::vector<std::uint32_t> begins_;  // by corner: the fresh face whose first it is
  struct Edge {
    std::uint32_t from, to, beyond;  // corners, and the face beyond
  };
  std::vector<Edge> rim_;
};

}  // namespace bronvel
