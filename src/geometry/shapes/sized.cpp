// Sizing shapes.
#include "geometry/shapes/sized.h"

#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"

namespace bronvel {
namespace {

// Of two factors, the one that changes more.
double stronger(double a, double b) {
  return std::abs(std::log(a)) >= std::abs(std::log(b)) ? a : b;
}

double even(const Vec3& f) {
  return std::cbrt(f.x() * f.y() * f.z());
}

std::vector<Vec3> stretched(std::vector<Vec3> points, const Vec3& factors) {
  for (Vec3& p : points) p = p.cwiseProduct(factors);
  return points;
}

struct Sizer {
  Vec3 f;

  Shape operator()(const Sphere& s) const { return Sphere{s.radius * stronger(f.x(), stronger(f.y(), f.z()))}; }
  Shape operator()(const Box& b) const { return Box{b.size.cwiseProduct(f)}; }
  Shape operator()(const Capsule& c) const { return Capsule{c.radius * stronger(f.x(), f.z()), c.length * f.y()}; }
  Shape operator()(const Cylinder& c) const { return Cylinder{c.radius * stronger(f.x(), f.z()), c.height * f.y()}; }
  Shape operator()(const Cone& c) const { return Cone{c.radius * stronger(f.x(), f.z()), c.height * f.y()}; }
  Shape operator()(const Hull& h) const { return make_hull(stretched(h.data->points, f)); }
  Shape operator()(const Compound& c) const {
    std::vector<Part> parts = c.data->parts;
    const double by = even(f);
    for (Part& part : parts) {
      part.shape = sized(part.shape, Vec3::Constant(by));
      part.pose.position *= by;
    }
    return make_compound(std::move(parts));
  }
  Shape operator()(const Mesh& m) const {
    return make_mesh(stretched(m.data->points, Vec3::Constant(even(f))), m.data->triangles);
  }
  Shape operator()(const HeightField& h) const {
    std::vector<double> heights = h.data->heights;
    for (double& height : heights) height *= f.y();
    return make_height_field(h.data->columns, h.data->rows, h.data->spacing_x * f.x(), h.data->spacing_z * f.z(),
                             std::move(heights));
  }
  Shape operator()(const Facet& facet) const { return facet; }
};

}  // namespace

Shape sized(const Shape& shape, const Vec3& factors) {
  if (!finite(factors) || factors.minCoeff() <= 0) throw Error("size", "wants factors above 0");
  Shape made = std::visit(Sizer{factors}, shape);
  if (const auto fault = shape_fault(made)) throw Error("size", *fault);
  return made;
}

std::array<int, 3> sizes_together(const Shape& shape) {
  if (std::holds_alternative<Box>(shape) || std::holds_alternative<Hull>(shape) ||
      std::holds_alternative<HeightField>(shape))
    return {0, 1, 2};
  const bool round = std::holds_alternative<Capsule>(shape) || std::holds_alternative<Cylinder>(shape) ||
                     std::holds_alternative<Cone>(shape);
  if (round) return {0, 1, 0};
  return {0, 0, 0};
}

std::vector<ShapeSize> shape_sizes(const Shape& shape) {
  if (const auto* s = std::get_if<Sphere>(&shape)) return {{"radius", s->radius}};
  if (const auto* b = std::get_if<Box>(&shape))
    return {{"size x", b->size.x()}, {"size y", b->size.y()}, {"size z", b->size.z()}};
  if (const auto* c = std::get_if<Capsule>(&shape)) return {{"radius", c->radius}, {"length", c->length}};
  if (const auto* c = std::get_if<Cylinder>(&shape)) return {{"radius", c->radius}, {"height", c->height}};
  if (const auto* c = std::get_if<Cone>(&shape)) return {{"radius", c->radius}, {"height", c->height}};
  const Bounds bounds = shape_bounds(shape, {});
  const Vec3 reach = bounds.high - bounds.low;
  return {{"reach x", reach.x()}, {"reach y", reach.y()}, {"reach z", reach.z()}};
}

Shape with_size(const Shape& shape, std::size_t which, double value) {
  const std::vector<ShapeSize> sizes = shape_sizes(shape);
  if (!(value > 0) || which >= sizes.size()) throw Error("size", "wants a length above 0 m");
  Shape made = shape;
  const bool first = which == 0;
  if (auto* s = std::get_if<Sphere>(&made)) {
    s->radius = value;
  } else if (auto* b = std::get_if<Box>(&made)) {
    b->size[static_cast<Eigen::Index>(which)] = value;
  } else if (auto* capsule = std::get_if<Capsule>(&made)) {
    (first ? capsule->radius : capsule->length) = value;
  } else if (auto* cylinder = std::get_if<Cylinder>(&made)) {
    (first ? cylinder->radius : cylinder->height) = value;
  } else if (auto* cone = std::get_if<Cone>(&made)) {
    (first ? cone->radius : cone->height) = value;
  } else {
    const double factor = value / sizes[which].value;
    Vec3 factors = Vec3::Constant(factor);
    if (sizes_together(shape)[which] == static_cast<int>(which) &&
        sizes_together(shape)[(which + 1) % 3] != static_cast<int>(which)) {
      factors = Vec3::Ones();
      factors[static_cast<Eigen::Index>(which)] = factor;
    }
    made = sized(shape, factors);
  }
  if (const auto fault = shape_fault(made)) throw Error("size", *fault);
  return made;
}

}  // namespace bronvel
