// What is common to all shapes: names, faults, bounds, volumes.
#include "geometry/shape.h"

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

std::string shape_word(const Shape& shape) {
  return std::visit(Overloaded{[](const Sphere&) { return "sphere"; }, [](const Box&) { return "box"; }}, shape);
}

std::optional<std::string> shape_fault(const Shape& shape) {
  return std::visit(Overloaded{[](const Sphere& s) { return length_fault("radius", s.radius); },
                               [](const Box& b) -> std::optional<std::string> {
                                 for (int i = 0; i < 3; ++i)
                                   if (auto fault = length_fault("size", b.size[i])) return fault;
                                 return std::nullopt;
                               }},
                    shape);
}

Bounds shape_bounds(const Shape& shape, const Pose& pose) {
  const Vec3 half = std::visit(
      Overloaded{[](const Sphere& s) -> Vec3 { return Vec3::Constant(s.radius); },
                 [&](const Box& b) -> Vec3 { return pose.orientation.toRotationMatrix().cwiseAbs() * (0.5 * b.size); }},
      shape);
  return {pose.position - half, pose.position + half};
}

double inner_radius(const Shape& shape) {
  return std::visit(
      Overloaded{[](const Sphere& s) { return s.radius; }, [](const Box& b) { return 0.5 * b.size.minCoeff(); }},
      shape);
}

double shape_volume(const Shape& shape) {
  return std::visit(Overloaded{[](const Sphere& s) { return 4.0 / 3.0 * pi * s.radius * s.radius * s.radius; },
                               [](const Box& b) { return b.size.prod(); }},
                    shape);
}

}  // namespace bronvel
