// Outlines of the shapes.
#include "geometry/meshes/outline.h"

#include <array>

#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"

namespace bronvel {
namespace {

// How finely what is round is drawn.
struct Sides {
  int around = 30;
  int ball_rows = 18;  // even, so that half a ball ends on a row

  double angle_of(int i) const { return 2 * pi * i / around; }
};
constexpr Sides fine{}, coarse{18, 10};

void triangle(Outline& o, const std::array<Vec3, 3>& points, const std::array<Vec3, 3>& normals) {
  o.triangles.insert(o.triangles.end(), points.begin(), points.end());
  o.normals.insert(o.normals.end(), normals.begin(), normals.end());
}

void quad(Outline& o, const std::array<Vec3, 4>& p, const std::array<Vec3, 4>& n) {
  triangle(o, {p[0], p[1], p[2]}, {n[0], n[1], n[2]});
  triangle(o, {p[0], p[2], p[3]}, {n[0], n[2], n[3]});
}

void line(Outline& o, const Vec3& from, const Vec3& to) {
  o.lines.push_back(from);
  o.lines.push_back(to);
}

Vec3 on_circle(double angle, double radius, double height) {
  return {radius * std::cos(angle), height, radius * std::sin(angle)};
}

// A ring of the outline's edge, with a stroke across every sixth part where two rings make a band.
void ring(Outline& o, const Sides& sides, double radius, double height) {
  for (int i = 0; i < sides.around; ++i)
    line(o, on_circle(sides.angle_of(i), radius, height), on_circle(sides.angle_of(i + 1), radius, height));
}

void ball(Outline& o, const Sides& sides, double radius, double spread) {
  const auto point = [&](int row, int column) -> Vec3 {
    const double down = pi * row / sides.ball_rows;
    return {std::sin(down) * std::cos(sides.angle_of(column)), std::cos(down),
            std::sin(down) * std::sin(sides.angle_of(column))};
  };
  for (int i = 0; i < sides.ball_rows; ++i) {
    const Vec3 lift(0, i < sides.ball_rows / 2 ? spread : -spread, 0);
    for (int j = 0; j < sides.around; ++j) {
      const std::array<Vec3, 4> n{point(i, j), point(i, j + 1), point(i + 1, j + 1), point(i + 1, j)};
      quad(o, {lift + radius * n[0], lift + radius * n[1], lift + radius * n[2], lift + radius * n[3]}, n);
    }
  }
}

void barrel(Outline& o, const Sides& sides, double low_radius, double high_radius, double height) {
  const double slope = (low_radius - high_radius) / height;
  for (int j = 0; j < sides.around; ++j) {
    const double a = sides.angle_of(j), b = sides.angle_of(j + 1);
    const Vec3 na = Vec3(std::cos(a), slope, std::sin(a)).normalized(),
               nb = Vec3(std::cos(b), slope, std::sin(b)).normalized();
    quad(o,
         {on_circle(a, low_radius, -0.5 * height), on_circle(a, high_radius, 0.5 * height),
          on_circle(b, high_radius, 0.5 * height), on_circle(b, low_radius, -0.5 * height)},
         {na, na, nb, nb});
  }
}

void lid(Outline& o, const Sides& sides, double radius, double height, double up) {
  const Vec3 n(0, up, 0), middle(0, height, 0);
  for (int j = 0; j < sides.around; ++j)
    triangle(o,
             {middle, on_circle(sides.angle_of(j), radius, height), on_circle(sides.angle_of(j + 1), radius, height)},
             {n, n, n});
}

Outline outline(const Sphere& s, const Sides& sides) {
  Outline o;
  ball(o, sides, s.radius, 0);
  // A painted band with strokes across it, so that spin can be seen.
  const double half = 0.22 * s.radius, radius = 1.003 * std::sqrt(s.radius * s.radius - half * half);
  ring(o, sides, radius, half);
  ring(o, sides, radius, -half);
  for (int i = 0; i < 6; ++i) line(o, on_circle(pi * i / 3, radius, -half), on_circle(pi * i / 3, radius, half));
  return o;
}

Outline outline(const Box& b, const Sides&) {
  Outline o;
  for (int axis = 0; axis < 3; ++axis)
    for (const double sign : {-1.0, 1.0}) {
      const Vec3 n = Vec3::Unit(axis) * sign, u = Vec3::Unit((axis + 1) % 3) * sign, v = Vec3::Unit((axis + 2) % 3);
      const auto corner = [&](double du, double dv) -> Vec3 {
        return 0.5 * (n + du * u + dv * v).cwiseProduct(b.size);
      };
      quad(o, {corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)}, {n, n, n, n});
    }
  for (int axis = 0; axis < 3; ++axis)
    for (const double p : {-0.5, 0.5})
      for (const double q : {-0.5, 0.5}) {
        Vec3 from, to;
        from[axis] = -0.5 * b.size[axis];
        to[axis] = 0.5 * b.size[axis];
        from[(axis + 1) % 3] = to[(axis + 1) % 3] = p * b.size[(axis + 1) % 3];
        from[(axis + 2) % 3] = to[(axis + 2) % 3] = q * b.size[(axis + 2) % 3];
        line(o, from, to);
      }
  return o;
}

Outline outline(const Capsule& c, const Sides& sides) {
  Outline o;
  ball(o, sides, c.radius, 0.5 * c.length);
  barrel(o, sides, c.radius, c.radius, c.length);
  ring(o, sides, 1.003 * c.radius, 0.5 * c.length);
  ring(o, sides, 1.003 * c.radius, -0.5 * c.length);
  for (int i = 0; i < 3; ++i)
    line(o, on_circle(2 * pi * i / 3, 1.003 * c.radius, -0.5 * c.length),
         on_circle(2 * pi * i / 3, 1.003 * c.radius, 0.5 * c.length));
  return o;
}

Outline outline(const Cylinder& c, const Sides& sides) {
  Outline o;
  barrel(o, sides, c.radius, c.radius, c.height);
  lid(o, sides, c.radius, 0.5 * c.height, 1);
  lid(o, sides, c.radius, -0.5 * c.height, -1);
  for (const double share : {-0.5, -0.3, 0.3, 0.5}) ring(o, sides, 1.003 * c.radius, share * c.height);  // hoops
  for (const double side : {-0.5, 0.5})  // a stave across each lid
    line(o, on_circle(0, c.radius, 1.002 * side * c.height), on_circle(pi, c.radius, 1.002 * side * c.height));
  return o;
}

Outline outline(const Cone& c, const Sides& sides) {
  Outline o;
  barrel(o, sides, c.radius, 0, c.height);
  lid(o, sides, c.radius, -0.5 * c.height, -1);
  ring(o, sides, c.radius, -0.5 * c.height);
  for (int i = 0; i < 3; ++i) line(o, on_circle(2 * pi * i / 3, c.radius, -0.5 * c.height), {0, 0.5 * c.height, 0});
  return o;
}

Outline outline(const Hull& h, const Sides&) {
  Outline o;
  for (std::size_t f = 0; f < h.data->faces.size(); ++f) {
    const auto& face = h.data->faces[f];
    const Vec3& n = h.data->normals[f];
    for (std::size_t i = 1; i + 1 < face.size(); ++i)
      triangle(o, {h.data->corners[face[0]], h.data->corners[face[i]], h.data->corners[face[i + 1]]}, {n, n, n});
    for (std::size_t i = 0; i < face.size(); ++i) {
      const std::uint32_t from = face[i], to = face[(i + 1) % face.size()];
      if (from < to) line(o, h.data->corners[from], h.data->corners[to]);
    }
  }
  return o;
}

Outline with_sides(const Shape& shape, const Sides& sides);

Outline outline(const Compound& c, const Sides& sides) {
  Outline whole;
  for (const Part& part : c.data->parts) {
    const Outline one = with_sides(part.shape, sides);
    for (const Vec3& p : one.triangles) whole.triangles.push_back(part.pose.to_scene(p));
    for (const Vec3& n : one.normals) whole.normals.push_back(part.pose.orientation * n);
    for (const Vec3& p : one.lines) whole.lines.push_back(part.pose.to_scene(p));
  }
  return whole;
}

Outline outline(const Facet& f, const Sides&) {
  Outline o;
  triangle(o, f.corners, {f.normal, f.normal, f.normal});
  for (std::size_t i = 0; i < 3; ++i)
    if (f.beyond[i].dot(f.normal) < 0.94) line(o, f.corners[i], f.corners[(i + 1) % 3]);  // folds sharper than 20°
  return o;
}

// Of a surface: its facets, with the rims and the sharp folds inked.
Outline outline_of_facets(const Shape& shape) {
  Outline whole;
  for (std::uint32_t i = 0; i < part_count(shape); ++i) {
    const Outline one = outline(std::get<Facet>(part_of(shape, i).shape), fine);
    whole.triangles.insert(whole.triangles.end(), one.triangles.begin(), one.triangles.end());
    whole.normals.insert(whole.normals.end(), one.normals.begin(), one.normals.end());
    whole.lines.insert(whole.lines.end(), one.lines.begin(), one.lines.end());
  }
  return whole;
}

Outline outline(const Mesh& m, const Sides&) {
  return outline_of_facets(m);
}

Outline outline(const HeightField& f, const Sides&) {
  return outline_of_facets(f);
}

Outline with_sides(const Shape& shape, const Sides& sides) {
  return std::visit([&](const auto& s) { return outline(s, sides); }, shape);
}

}  // namespace

Outline outline_of(const Shape& shape, bool coarsely) {
  return with_sides(shape, coarsely ? coarse : fine);
}

}  // namespace bronvel
