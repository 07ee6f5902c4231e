// The parts of each kind of shape.
#include "geometry/shapes/parts.h"

#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/mesh.h"

namespace bronvel {

std::size_t part_count(const Shape& shape) {
  if (const auto* c = std::get_if<Compound>(&shape)) return c->data->parts.size();
  if (const auto* m = std::get_if<Mesh>(&shape)) return m->data->triangles.size();
  if (const auto* f = std::get_if<HeightField>(&shape)) return f->data->facet_count();
  return 1;
}

Part part_of(const Shape& shape, std::uint32_t index) {
  if (const auto* c = std::get_if<Compound>(&shape)) return c->data->parts[index];
  if (const auto* m = std::get_if<Mesh>(&shape)) return {m->data->facet(index)};
  if (const auto* f = std::get_if<HeightField>(&shape)) return {f->data->facet(index)};
  return {shape};
}

void parts_near(const Shape& shape, const Bounds& bounds, std::vector<std::uint32_t>& found) {
  if (const auto* c = std::get_if<Compound>(&shape)) {
    for (std::uint32_t i = 0; i < c->data->parts.size(); ++i)
      if (c->data->bounds[i].overlaps(bounds)) found.push_back(i);
  } else if (const auto* m = std::get_if<Mesh>(&shape)) {
    m->data->near(bounds, found);
  } else if (const auto* f = std::get_if<HeightField>(&shape)) {
    f->data->near(bounds, found);
  } else {
    found.push_back(0);
  }
}

void parts_along(const Shape& shape, const Vec3& origin, const Vec3& direction, double reach,
                 std::vector<std::uint32_t>& found) {
  if (const auto* m = std::get_if<Mesh>(&shape)) {
    m->data->along(origin, direction, reach, found);
  } else if (const auto* f = std::get_if<HeightField>(&shape)) {
    f->data->along(origin, direction, reach, found);
  } else {
    for (std::uint32_t i = 0; i < part_count(shape); ++i) found.push_back(i);
  }
}

}  // namespace bronvel
