// The shapes a body can have: small values, each about its own origin.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <string>
#include <variant>

#include "geometry/base/bounds.h"
#include "geometry/base/vector.h"

namespace bronvel {

struct Sphere {
  double radius = 0.5;  ///< m
  bool operator==(const Sphere&) const = default;
};

/// A box centred on its origin, sides along the axes.
struct Box {
  Vec3 size = Vec3::Ones();  ///< whole lengths of the sides, m
  bool operator==(const Box& other) const { return size == other.size; }
};

/// A cylinder with half balls on its ends, along Y about its middle.
struct Capsule {
  double radius = 0.25;  ///< m
  double length = 1;     ///< between the centres of the two ends, m
  bool operator==(const Capsule&) const = default;
};

/// Along Y about its middle.
struct Cylinder {
  double radius = 0.5;  ///< m
  double height = 1;    ///< m
  bool operator==(const Cylinder&) const = default;
};

/// Apex up along Y, the origin halfway between base and apex.
struct Cone {
  double radius = 0.5;  ///< of the base, m
  double height = 1;    ///< m
  bool operator==(const Cone&) const = default;
};

struct HullData;

/// The convex hull of points; make it with make_hull (geometry/hull.h). Cheap to copy.
struct Hull {
  std::shared_ptr<const HullData> data;
};
bool operator==(const Hull& a, const Hull& b);

struct CompoundData;

/// Several convex shapes held together; make it with make_compound (geometry/compound.h).
struct Compound {
  std::shared_ptr<const CompoundData> data;
};
bool operator==(const Compound& a, const Compound& b);

struct MeshData;

/// A surface of triangles, for bodies that no force moves; make it with make_mesh (geometry/mesh.h).
struct Mesh {
  std::shared_ptr<const MeshData> data;
};
bool operator==(const Mesh& a, const Mesh& b);

struct HeightFieldData;

/// Ground given by heights over a grid in X and Z; make it with make_height_field (geometry/height_field.h).
struct HeightField {
  std::shared_ptr<const HeightFieldData> data;
};
bool operator==(const HeightField& a, const HeightField& b);

/// One triangle of a mesh or height field, as it meets other shapes: from its front, with depth behind it.
struct Facet {
  std::array<Vec3, 3> corners{Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};  ///< counter-clockwise seen from the front, m
  std::array<Vec3, 3> beyond{Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};   ///< normals across each edge; zero at a rim
  Vec3 normal = Vec3::Unit(1);
  double depth = 0;  ///< m
  bool operator==(const Facet& other) const { return corners == other.corners && depth == other.depth; }
};

using Shape = std::variant<Sphere, Box, Capsule, Cylinder, Cone, Hull, Compound, Mesh, HeightField, Facet>;

/// Whether bodies of this shape can be moved by forces: all but meshes and height fields.
bool has_volume(const Shape& shape);

/// The word for the shape in scenes and messages: "sphere", "box", "capsule", "cylinder", "cone", "hull", "compound",
/// "mesh", "height_field".
std::string shape_word(const Shape& shape);

/// Why the shape can't be used (a size that is zero, negative, not a number, or outside 1e-6 to 1e6 m); empty if it
/// can.
std::optional<std::string> shape_fault(const Shape& shape);

/// The smallest axis-aligned box around the shape at `pose`.
Bounds shape_bounds(const Shape& shape, const Pose& pose);

/// The radius of the largest ball that fits in the shape about its centre, m: how far it may move before it can
/// jump through something.
double inner_radius(const Shape& shape);

/// The shape's volume, m³.
double shape_volume(const Shape& shape);

}  // namespace bronvel
