// What is common to all shapes: names, faults, bounds, volumes.
#include "geometry/shapes/shape.h"

#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"

namespace bronvel {
namespace {

constexpr double least_size = 1e-6, greatest_size = 1e6;

template <class... F>
struct Overloaded : F... {
  using F::operator()...;
};
template <class... F>
Overloaded(F...) -> Overloaded<F...>;

std::optional<std::string> length_fault(const std::string& name, double value) {
  if (!finite(value)) return name + " is not a number";
  if (value <= 0) return name + " must be above 0 m";
  if (value < least_size) return name + " is below 1e-6 m, the smallest size that can be simulated";
  if (value > greatest_size) return name + " is above 1e6 m, the greatest size that can be simulated";
  return std::nullopt;
}

}  // namespace

bool has_volume(const Shape& shape) {
  return !std::holds_alternative<Mesh>(shape) && !std::holds_alternative<HeightField>(shape);
}

std::string shape_word(const Shape& shape) {
  constexpr const char* words[] = {"sphere", "box",      "capsule", "cylinder",     "cone",
                                   "hull",   "compound", "mesh",    "height_field", "facet"};
  return words[shape.index()];
}

std::optional<std::string> shape_fault(const Shape& shape) {
  const auto either = [](const std::optional<std::string>& first, const std::optional<std::string>& second) {
    return first ? first : second;
  };
  return std::visit(
      Overloaded{
          [](const Sphere& s) { return length_fault("radius", s.radius); },
          [](const Box& b) -> std::optional<std::string> {
            for (int i = 0; i < 3; ++i)
              if (auto fault = length_fault("size", b.size[i])) return fault;
            return std::nullopt;
          },
          [&](const Capsule& c) { return either(length_fault("radius", c.radius), length_fault("length", c.length)); },
          [&](const Cylinder& c) { return either(length_fault("radius", c.radius), length_fault("height", c.height)); },
          [&](const Cone& c) { return either(length_fault("radius", c.radius), length_fault("height", c.height)); },
          [](const Hull& h) -> std::optional<std::string> {
            if (!h.data) return "hull has no points";
            if (h.data->points.size() > most_hull_points) return "a hull may have 5,000 points";
            return std::nullopt;
          },
          [](const Compound& c) -> std::optional<std::string> {
            if (!c.data) return "compound has no parts";
            return std::nullopt;
          },
          [](const Mesh& m) -> std::optional<std::string> {
            if (!m.data) return "mesh has no triangles";
            return std::nullopt;
          },
          [](const HeightField& f) -> std::optional<std::string> {
            if (!f.data) return "height_field has no heights";
            return std::nullopt;
          },
          [](const Facet&) -> std::optional<std::string> { return "a single triangle is no body; make a mesh of it"; }},
      shape);
}

Bounds shape_bounds(const Shape& shape, const Pose& pose) {
  const Mat3 r = pose.orientation.toRotationMatrix();
  // Half lengths along the scene's axes of a disc of that radius, square to the body's Y.
  const auto disc = [&](double radius) -> Vec3 {
    return radius * (Vec3::Ones() - r.col(1).cwiseAbs2()).cwiseMax(0.0).cwiseSqrt();
  };
  const auto around = [&](const Vec3& half) { return Bounds{pose.position - half, pose.position + half}; };
  return std::visit(
      Overloaded{
          [&](const Sphere& s) { return around(Vec3::Constant(s.radius)); },
          [&](const Box& b) { return around(r.cwiseAbs() * (0.5 * b.size)); },
          [&](const Capsule& c) { return around(r.col(1).cwiseAbs() * (0.5 * c.length) + Vec3::Constant(c.radius)); },
          [&](const Cylinder& c) { return around(r.col(1).cwiseAbs() * (0.5 * c.height) + disc(c.radius)); },
          [&](const Cone& c) {
            const Vec3 apex = pose.position + r.col(1) * (0.5 * c.height);
            const Vec3 base = pose.position - r.col(1) * (0.5 * c.height);
            return Bounds{base - disc(c.radius), base + disc(c.radius)}.joined({apex, apex});
          },
          [&](const Hull& h) {
            Bounds b{pose.to_scene(h.data->corners[0]), pose.to_scene(h.data->corners[0])};
            for (const Vec3& corner : h.data->corners) {
              const Vec3 p = pose.to_scene(corner);
              b = b.joined({p, p});
            }
            return b;
          },
          [&](const Compound& c) {
            std::optional<Bounds> all;
            for (const Part& part : c.data->parts) {
              const Bounds one = shape_bounds(part.shape, pose * part.pose);
              all = all ? all->joined(one) : one;
            }
            return *all;
          },
          [&](const Mesh& m) { return m.data->bounds.turned(pose); },
          [&](const HeightField& f) { return f.data->bounds.turned(pose); },
          [&](const Facet& f) {
            const Vec3 a = pose.to_scene(f.corners[0]);
            Bounds b{a, a};
            for (const Vec3& corner : f.corners) {
              const Vec3 top = pose.to_scene(corner), bottom = pose.to_scene(corner - f.depth * f.normal);
              b = b.joined({top, top}).joined({bottom, bottom});
            }
            return b;
          }},
      shape);
}

double inner_radius(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Sphere& s) { return s.radius; }, [](const Box& b) { return 0.5 * b.size.minCoeff(); },
                 [](const Capsule& c) { return c.radius; },
                 [](const Cylinder& c) { return std::min(c.radius, 0.5 * c.height); },
                 [](const Cone& c) {
                   const double slant = std::hypot(c.radius, c.height);
                   return c.radius * c.height / (c.radius + slant);
                 },
                 [](const Hull& h) { return h.data->inner_radius; },
                 [](const Compound& c) {
                   double least = 1e300;
                   for (const Part& part : c.data->parts) least = std::min(least, inner_radius(part.shape));
                   return least;
                 },
                 // What meets a surface has only its own size to jump over it with.
                 [](const Mesh&) { return 1e300; }, [](const HeightField&) { return 1e300; },
                 [](const Facet&) { return 1e300; }},
      shape);
}

double shape_volume(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Sphere& s) { return 4.0 / 3.0 * pi * s.radius * s.radius * s.radius; },
                 [](const Box& b) { return b.size.prod(); },
                 [](const Capsule& c) { return pi * c.radius * c.radius * (c.length + 4.0 / 3.0 * c.radius); },
                 [](const Cylinder& c) { return pi * c.radius * c.radius * c.height; },
                 [](const Cone& c) { return pi * c.radius * c.radius * c.height / 3; },
                 [](const Hull& h) { return h.data->volume; }, [](const Compound& c) { return c.data->volume; },
                 [](const Mesh& m) { return m.data->volume; }, [](const HeightField&) { return 0.0; },
                 [](const Facet&) { return 0.0; }},
      shape);
}

}  // namespace bronvel
