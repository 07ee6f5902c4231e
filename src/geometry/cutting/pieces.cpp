// Making pieces.
#include "geometry/cutting/pieces.h"

#include <array>
#include <numeric>
#include <tuple>

#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"
#include "geometry/cutting/submerged.h"
#include "geometry/shapes/compound.h"

namespace bronvel {
namespace {

constexpr std::size_t most_pieces = 5000;

// The parts of a shape, each by its faces, in the shape's frame.
std::vector<Facets> bodies_of(const Shape& shape) {
  std::vector<Facets> all;
  if (const auto* compound = std::get_if<Compound>(&shape)) {
    for (const Part& part : compound->data->parts) all.push_back(moved(facets_of(part.shape), part.pose));
  } else {
    if (!has_volume(shape)) throw Error("pieces", "a " + shape_word(shape) + " has no inside to be cut");
    all.push_back(facets_of(shape));
  }
  return all;
}

Bounds bounds_of(const Facets& facets) {
  Bounds b{facets.corners[0], facets.corners[0]};
  for (const Vec3& corner : facets.corners) b = b.joined({corner, corner});
  return b;
}

bool holds(const Facets& facets, const Vec3& point) {
  return std::all_of(facets.planes.begin(), facets.planes.end(),
                     [&](const Plane& p) { return p.normal.dot(point) <= p.offset; });
}

// Cuts pieces out of one convex body.
class Maker {
 public:
  Maker(const Facets& body, std::vector<Hull>& pieces)
      : body_(body), bounds_(bounds_of(body)), thin_(1e-9 * (bounds_.high - bounds_.low).maxCoeff()), pieces_(pieces) {
    // The axes from the thinnest way to the longest; of equal ones the upright counts as height.
    std::iota(axes_.begin(), axes_.end(), 0);
    const Vec3 size = bounds_.high - bounds_.low;
    std::stable_sort(axes_.begin(), axes_.end(), [&](int a, int b) { return size[a] < size[b] * (1 - 1e-9); });
  }

  void cells(const PieceRecipe& recipe, int count) {
    const std::vector<Vec3> seeds = strew(recipe, count);
    std::vector<std::pair<double, std::size_t>> order(seeds.size());
    for (std::size_t i = 0; i < seeds.size(); ++i) {
      for (std::size_t j = 0; j < seeds.size(); ++j) order[j] = {(seeds[j] - seeds[i]).squaredNorm(), j};
      std::sort(order.begin(), order.end());
      Facets cell = body_;
      double reach = farthest(cell, seeds[i]);
      bool any = true;
      for (const auto& [squared, j] : order) {
        if (j == i) continue;
        // A seed farther off than twice the cell's reach leaves the cell whole.
        if (squared > 4 * reach * reach) break;
        const Vec3 way = (seeds[j] - seeds[i]) / std::sqrt(squared);
        const auto result = cutter_.keep_inside(cell, {way, way.dot(0.5 * (seeds[i] + seeds[j]))}, thin_);
        if (result == Cutter::Result::nothing) any = false;
        if (!any) break;
        if (result == Cutter::Result::cut) reach = farthest(cell, seeds[i]);
      }
      if (any) keep(cell);
    }
  }

  void bricks(const PieceRecipe& recipe) {
    // Courses rise along Y unless that is the thinnest way; bricks lie along the longest way of the other two.
    const int up = axes_[0] == 1 ? axes_[1] : 1;
    const int along = axes_[2] == up ? axes_[1] : axes_[2];
    const double low = bounds_.low[up], start = bounds_.low[along];
    const auto courses = static_cast<int>(std::ceil((bounds_.high[up] - low) / recipe.height - 1e-6));
    for (int course = 0; course < courses; ++course) {
      Facets row = body_;
      if (!between(row, up, low + course * recipe.height, low + (course + 1) * recipe.height)) continue;
      const double first = start - (course % 2 == 0 ? 0 : 0.5 * recipe.length);
      const auto count = static_cast<int>(std::ceil((bounds_.high[along] - first) / recipe.length - 1e-6));
      for (int i = 0; i < count; ++i) {
        Facets brick = row;
        if (between(brick, along, first + i * recipe.length, first + (i + 1) * recipe.length)) keep(brick);
      }
    }
  }

  void planks(const PieceRecipe& recipe) {
    const int across = axes_[1];
    const std::vector<double> at = uneven(bounds_.low[across], bounds_.high[across], recipe.count, recipe, recipe.seed);
    for (std::size_t i = 0; i + 1 < at.size(); ++i) {
      Facets plank = body_;
      if (!between(plank, across, at[i], at[i + 1])) continue;
      if (recipe.plank_length > 0)
        cut_across(plank, recipe, i);
      else
        keep(plank);
    }
  }

  // Each plank has its cuts elsewhere, so that no crack runs straight through all of them.
  void cut_across(const Facets& plank, const PieceRecipe& recipe, std::size_t number) {
    const int along = axes_[2];
    const double length = bounds_.high[along] - bounds_.low[along];
    const double parts = std::max(1.0, std::round(length / recipe.plank_length));
    if (parts > static_cast<double>(most_pieces)) throw Error("pieces", "planks so short make more than 5,000 pieces");
    const std::vector<double> at =
        uneven(bounds_.low[along], bounds_.high[along], static_cast<int>(parts), recipe, recipe.seed + 1 + number);
    for (std::size_t i = 0; i + 1 < at.size(); ++i) {
      Facets part = plank;
      if (between(part, along, at[i], at[i + 1])) keep(part);
    }
  }

  void pane(const PieceRecipe& recipe) {
    const Vec3 through = Vec3::Unit(axes_[0]), right = Vec3::Unit(axes_[1]), up = through.cross(right);
    const Vec3 middle = recipe.near.value_or(0.5 * (bounds_.low + bounds_.high));
    const std::vector<double> turns = uneven(0, 2 * pi, recipe.spokes, recipe, recipe.seed);
    // Rings grow outward, the last open to the rim.
    double rim = 0;
    for (const Vec3& corner : body_.corners) {
      const Vec3 arm = corner - middle;
      rim = std::max(rim, (arm - through * through.dot(arm)).norm());
    }
    std::vector<double> radii;
    for (int i = 1; i < recipe.rings; ++i) radii.push_back(rim * std::pow(static_cast<double>(i) / recipe.rings, 1.6));
    for (std::size_t k = 0; k + 1 < turns.size(); ++k) {
      const Vec3 from = std::cos(turns[k]) * right + std::sin(turns[k]) * up;
      const Vec3 to = std::cos(turns[k + 1]) * right + std::sin(turns[k + 1]) * up;
      const Vec3 out = (from + to).normalized();
      Facets wedge = body_;
      const Vec3 right_of = -through.cross(from).normalized(), left_of = through.cross(to).normalized();
      if (!inside(wedge, {right_of, right_of.dot(middle)}) || !inside(wedge, {left_of, left_of.dot(middle)})) continue;
      double inner = -1;
      for (std::size_t ring = 0; ring <= radii.size(); ++ring) {
        Facets piece = wedge;
        bool any = true;
        if (inner > 0) any = inside(piece, {-out, -(out.dot(middle) + inner)});
        if (any && ring < radii.size()) any = inside(piece, {out, out.dot(middle) + radii[ring]});
        if (any) keep(piece);
        if (ring < radii.size()) inner = radii[ring];
      }
    }
  }

  void planes(const PieceRecipe& recipe) {
    std::vector<Facets> parts{body_};
    for (const Plane& plane : recipe.planes) {
      std::vector<Facets> next;
      for (const Facets& part : parts)
        for (const double side : {1.0, -1.0}) {
          Facets half = part;
          if (inside(half, {side * plane.normal, side * plane.offset})) next.push_back(std::move(half));
        }
      parts = std::move(next);
      if (parts.size() > most_pieces) throw Error("pieces", "the planes make more than 5,000 pieces");
    }
    for (const Facets& part : parts) keep(part);
  }

  void whole() { keep(body_); }

 private:
  bool inside(Facets& facets, const Plane& plane) {
    return cutter_.keep_inside(facets, plane, thin_) != Cutter::Result::nothing;
  }
  bool between(Facets& facets, int axis, double low, double high) {
    return inside(facets, {-Vec3::Unit(axis), -low}) && inside(facets, {Vec3::Unit(axis), high});
  }

  void keep(const Facets& facets) {
    if (pieces_.size() >= most_pieces) throw Error("pieces", "would be more than 5,000", "make them larger");
    if (auto hull = hull_of(facets)) pieces_.push_back(std::move(*hull));
  }

  static double farthest(const Facets& facets, const Vec3& from) {
    double squared = 0;
    for (const Vec3& corner : facets.corners) squared = std::max(squared, (corner - from).squaredNorm());
    return std::sqrt(squared);
  }

  // Points in the body, no two of them closer than half their mean distance where that can be had.
  std::vector<Vec3> strew(const PieceRecipe& recipe, int count) const {
    Random random(recipe.seed);
    const Vec3 size = bounds_.high - bounds_.low;
    const double apart = 0.5 * std::cbrt(volume_of(body_).volume / count);
    std::vector<Vec3> seeds;
    for (int i = 0; i < count; ++i) {
      const bool crowded = recipe.near && random.share() < recipe.crowding;
      Vec3 best = 0.5 * (bounds_.low + bounds_.high);
      double best_distance = -1;
      for (int attempt = 0; attempt < 40; ++attempt) {
        const Vec3 share(random.share(), random.share(), random.share());
        Vec3 point = bounds_.low + size.cwiseProduct(share);
        if (crowded) {
          // Ever denser towards the point: the cube of a share of the extent.
          const Vec3 way = 2 * share - Vec3::Ones();
          point = *recipe.near + 0.5 * size.maxCoeff() * way * way.squaredNorm() / 3;
        }
        if (!holds(body_, point)) continue;
        double distance = 1e300;
        for (const Vec3& seed : seeds) distance = std::min(distance, (seed - point).norm());
        if (distance > best_distance) {
          best = point;
          best_distance = distance;
        }
        if (best_distance > apart * (crowded ? 0.15 : 1)) break;
      }
      if (best_distance > 1e-6 * size.maxCoeff() || seeds.empty()) seeds.push_back(best);
    }
    return seeds;
  }

  std::vector<double> uneven(double low, double high, int count, const PieceRecipe& recipe, std::uint64_t seed) const {
    Random random(seed);
    std::vector<double> widths;
    widths.reserve(static_cast<std::size_t>(count));
    for (int i = 0; i < count; ++i) widths.push_back(1 + recipe.unevenness * random.between(-1, 1));
    const double sum = std::accumulate(widths.begin(), widths.end(), 0.0);
    std::vector<double> at{low};
    for (const double width : widths) at.push_back(at.back() + width / sum * (high - low));
    at.back() = high;
    return at;
  }

  const Facets& body_;
  Bounds bounds_;
  double thin_;
  std::vector<Hull>& pieces_;
  std::array<int, 3> axes_{};
  Cutter cutter_;
};

void check(const PieceRecipe& r) {
  if (r.count < 1 || r.count > 2000) throw Error("pieces", "wants a count from 1 to 2,000");
  if (!(r.crowding >= 0 && r.crowding <= 1)) throw Error("pieces", "wants a crowding from 0 to 1");
  if (!(r.length > 1e-6) || !(r.height > 1e-6)) throw Error("pieces", "wants bricks longer and higher than nothing");
  if (!(r.plank_length >= 0 && r.plank_length <= 1e6)) throw Error("pieces", "wants planks 0 to 1,000,000 m long");
  if (r.rings < 1 || r.rings > 100 || r.spokes < 3 || r.spokes > 200)
    throw Error("pieces", "wants 1 to 100 rings and 3 to 200 spokes");
  if (!(r.unevenness >= 0 && r.unevenness <= 0.9)) throw Error("pieces", "wants an unevenness from 0 to 0.9");
  if (r.near && !finite(*r.near)) throw Error("pieces", "wants a point of numbers");
  for (const Plane& plane : r.planes)
    if (!finite(plane.normal) || std::abs(plane.normal.norm() - 1) > 1e-6 || !finite(plane.offset))
      throw Error("pieces", "wants planes with a normal of length 1");
}

// A flat loop clipped by the sides of another, both in the plane with this normal (Sutherland and Hodgman, 1974).
void clip_loop(std::vector<Vec3>& loop, const std::vector<Vec3>& by, const Vec3& normal, std::vector<Vec3>& scratch) {
  for (std::size_t i = 0; i < by.size() && loop.size() >= 3; ++i) {
    const Vec3 &from = by[i], &to = by[(i + 1) % by.size()];
    const Vec3 out = (to - from).cross(normal);
    const double offset = out.dot(from);
    scratch.clear();
    Vec3 a = loop.back();
    double height_a = out.dot(a) - offset;
    for (const Vec3& b : loop) {
      const double height_b = out.dot(b) - offset;
      if ((height_a <= 0) != (height_b <= 0)) scratch.push_back(a + height_a / (height_a - height_b) * (b - a));
      if (height_b <= 0) scratch.push_back(b);
      a = b;
      height_a = height_b;
    }
    loop.swap(scratch);
  }
  if (loop.size() < 3) loop.clear();
}

}  // namespace

const std::vector<std::string>& piece_words() {
  static const std::vector<std::string> words{"cells", "bricks", "planks", "pane", "planes", "parts"};
  return words;
}

std::vector<Hull> make_pieces(const Shape& shape, const PieceRecipe& recipe, std::vector<double>* densities) {
  check(recipe);
  const std::vector<Facets> bodies = bodies_of(shape);
  double volume = 0;
  for (const Facets& body : bodies) volume += volume_of(body).volume;
  std::vector<Hull> pieces;
  const auto* compound = std::get_if<Compound>(&shape);
  if (densities) densities->clear();
  for (std::size_t part = 0; part < bodies.size(); ++part) {
    const Facets& body = bodies[part];
    Maker maker(body, pieces);
    switch (recipe.kind) {
      case PieceRecipe::Kind::cells:
        // Each part gets its share of the count.
        maker.cells(recipe, std::max(1, static_cast<int>(std::lround(recipe.count * volume_of(body).volume / volume))));
        break;
      case PieceRecipe::Kind::bricks:
        maker.bricks(recipe);
        break;
      case PieceRecipe::Kind::planks:
        maker.planks(recipe);
        break;
      case PieceRecipe::Kind::pane:
        maker.pane(recipe);
        break;
      case PieceRecipe::Kind::planes:
        maker.planes(recipe);
        break;
      case PieceRecipe::Kind::parts:
        maker.whole();
        break;
    }
    if (densities) densities->resize(pieces.size(), compound ? compound->data->parts[part].density : 1.0);
  }
  if (pieces.empty()) throw Error("pieces", "the recipe leaves nothing");
  return pieces;
}

void set_torsion(SharedFace& face) {
  const double polar = face.moment_u + face.moment_v;
  const double least = 1e-300;
  if (face.corners.size() == 4) {
    // Half the longer and half the shorter side.
    const double a = std::sqrt(3 * std::max(face.moment_u, face.moment_v) / face.area),
                 b = std::sqrt(3 * std::min(face.moment_u, face.moment_v) / face.area), r = b / std::max(a, least);
    face.twist_moment = a * b * b * b * (16.0 / 3 - 3.36 * r * (1 - r * r * r * r / 12));
    face.twist_modulus = 8 * a * b * b / (3 * (1 + r * (0.6095 + r * (0.8865 + r * (-1.8023 + 0.91 * r)))));
    return;
  }
  constexpr std::size_t round_from = 12;
  if (face.corners.size() >= round_from) {
    const double a = 2 * std::sqrt(std::max(face.moment_u, face.moment_v) / face.area),
                 b = 2 * std::sqrt(std::min(face.moment_u, face.moment_v) / face.area);
    face.twist_moment = pi * a * a * a * b * b * b / (a * a + b * b);
    face.twist_modulus = 0.5 * pi * a * b * b;
    return;
  }
  const double corners = static_cast<double>(face.corners.size());
  face.twist_moment =
      (1.013 - 0.946 / std::pow(corners, 1.85)) * std::pow(face.area, 4) / (40 * std::max(polar, least));
  double radius = 1e300;  // of a circle about the centre that no side cuts
  for (std::size_t i = 0; i < face.corners.size(); ++i) {
    const auto &p = face.corners[i], &q = face.corners[(i + 1) % face.corners.size()];
    const double length = std::hypot(q[0] - p[0], q[1] - p[1]);
    if (length > 0) radius = std::min(radius, std::abs(p[0] * q[1] - p[1] * q[0]) / length);
  }
  // How much of the section the circle fills, squared: 1 for a circle, 0.62 for a square, whose sides are not curved.
  const double filled = pi * pi * std::pow(2 * radius, 4) / (16 * face.area * face.area);
  const double round = std::max(0.0, (filled - 0.617) / (1 - 0.617)), curved = 0.75 * std::pow(round, 4);
  const double lever = 2 * radius / (1 + filled) * (1 + 0.15 * (filled - curved));
  face.twist_modulus = face.twist_moment / std::max(lever, least);
}

std::vector<SharedFace> shared_faces(const std::vector<Hull>& pieces, double gap) {
  std::vector<Bounds> bounds;
  bounds.reserve(pieces.size());
  for (const Hull& piece : pieces) bounds.push_back(shape_bounds(piece, Pose{}).grown(0.5 * gap + 1e-9));
  // Swept along X.
  std::vector<std::uint32_t> order(pieces.size());
  std::iota(order.begin(), order.end(), 0U);
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    return std::pair(bounds[a].low.x(), a) < std::pair(bounds[b].low.x(), b);
  });
  std::vector<SharedFace> faces;
  std::vector<Vec3> loop, other, scratch;
  for (std::size_t i = 0; i < order.size(); ++i)
    for (std::size_t k = i + 1; k < order.size() && bounds[order[k]].low.x() <= bounds[order[i]].high.x(); ++k) {
      const std::uint32_t a = std::min(order[i], order[k]), b = std::max(order[i], order[k]);
      if (!bounds[a].overlaps(bounds[b])) continue;
      const HullData &ha = *pieces[a].data, &hb = *pieces[b].data;
      const double size =
          std::min((bounds[a].high - bounds[a].low).maxCoeff(), (bounds[b].high - bounds[b].low).maxCoeff());
      const double near = gap + 1e-6 * size;
      for (std::size_t f = 0; f < ha.faces.size(); ++f)
        for (std::size_t g = 0; g < hb.faces.size(); ++g) {
          const Vec3& normal = ha.normals[f];
          if (normal.dot(hb.normals[g]) > -1 + 1e-7 || std::abs(ha.offsets[f] + hb.offsets[g]) > near) continue;
          loop.clear();
          other.clear();
          for (const std::uint32_t corner : ha.faces[f]) loop.push_back(ha.corners[corner]);
          // B's face onto A's plane, turned to run the same way about.
          for (auto corner = hb.faces[g].rbegin(); corner != hb.faces[g].rend(); ++corner) {
            const Vec3& p = hb.corners[*corner];
            other.push_back(p - normal * (normal.dot(p) - ha.offsets[f]));
          }
          clip_loop(loop, other, normal, scratch);
          const Section section = section_properties(loop);
          if (!(section.area > 1e-6 * size * size)) continue;
          SharedFace& face = faces.emplace_back();
          face.a = a;
          face.b = b;
          face.point = section.centre;
          face.normal = normal;
          face.area = section.area;
          // Principal axes in the plane.
          const Vec3 e1 = any_perpendicular(normal), e2 = normal.cross(e1);
          const double xx = e1.dot(section.second * e1), yy = e2.dot(section.second * e2),
                       xy = e1.dot(section.second * e2);
          const double turn = 0.5 * std::atan2(2 * xy, xx - yy);
          face.u = std::cos(turn) * e1 + std::sin(turn) * e2;
          const Vec3 v = normal.cross(face.u);
          face.moment_u = v.dot(section.second * v);
          face.moment_v = face.u.dot(section.second * face.u);
          for (const Vec3& p : loop) {
            const double along_u = face.u.dot(p - face.point), along_v = v.dot(p - face.point);
            face.corners.push_back({along_u, along_v});
            face.reach_u = std::max(face.reach_u, std::abs(along_v));
            face.reach_v = std::max(face.reach_v, std::abs(along_u));
          }
          set_torsion(face);
        }
    }
  std::sort(faces.begin(), faces.end(), [](const SharedFace& x, const SharedFace& y) {
    return std::tuple(x.a, x.b, x.point.x(), x.point.y(), x.point.z()) <
           std::tuple(y.a, y.b, y.point.x(), y.point.y(), y.point.z());
  });
  return faces;
}

Hull shifted(const Hull& hull, const Vec3& by) {
  auto data = std::make_shared<HullData>(*hull.data);
  for (Vec3& corner : data->corners) corner += by;
  for (Vec3& middle : data->middles) middle += by;
  if (data->box) data->box->pose.position += by;
  data->points = data->corners;
  for (std::size_t i = 0; i < data->faces.size(); ++i) data->offsets[i] += data->normals[i].dot(by);
  data->centre += by;
  return {std::move(data)};
}

}  // namespace bronvel
