// Shapes fitted to models: exact where the model is such a shape, honest about the misfit where it is not.
#include "geometry/meshes/fit.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "geometry/meshes/decompose.h"
#include "geometry/meshes/outline.h"
#include "geometry/queries/ray.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/sized.h"

using namespace bronvel;

namespace {

// The shape's own outline as a model, taken along by a pose.
Model model_of(const Shape& shape, const Pose& pose) {
  const Outline outline = outline_of(shape);
  Model model;
  for (const Vec3& p : outline.triangles) {
    if (model.points.size() % 3 == 0) {
      const auto first = static_cast<std::uint32_t>(model.points.size());
      model.triangles.push_back({first, first + 1, first + 2});
    }
    model.points.push_back(pose.to_scene(p));
  }
  return welded(model, 1e-9);
}

const Pose askew{{3, -2, 5}, Quat(Eigen::AngleAxisd(0.7, Vec3(1, 2, -1).normalized()))};

// Whether the point is in the shape: a ray from there begins inside.
bool cast_inside(const Shape& shape, const Vec3& point) {
  const auto hit = cast_ray(shape, {}, point, Vec3::Unit(1), 1e3);
  return hit && hit->distance == 0;
}

// What a flat ring of points encloses, drawn out along Z: triangles of the front, and the walls around each outline.
Model prism(const std::vector<Vec3>& flat, const std::vector<std::array<std::uint32_t, 3>>& front,
            const std::vector<std::vector<std::uint32_t>>& outlines, double depth) {
  Model model;
  const auto count = static_cast<std::uint32_t>(flat.size());
  for (const double z : {0.5 * depth, -0.5 * depth})
    for (const Vec3& p : flat) model.points.emplace_back(p.x(), p.y(), z);
  for (const auto& t : front) {
    model.triangles.push_back(t);
    model.triangles.push_back({t[0] + count, t[2] + count, t[1] + count});
  }
  for (const auto& outline : outlines)
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const std::uint32_t a = outline[i], b = outline[(i + 1) % outline.size()];
      model.triangles.push_back({a, a + count, b + count});
      model.triangles.push_back({a, b + count, b});
    }
  return model;
}

}  // namespace

TEST_CASE("a box askew is found as the box it is") {
  const Model model = model_of(Box{{1, 2, 0.5}}, askew);
  CHECK(model_closed(model));
  CHECK(model_volume(model) == Approx(1));
  const Fit fit = fit_to(model, FitKind::box);
  REQUIRE(fit.fault.empty());
  CHECK(fit.misfit.volume_ratio == Approx(1).epsilon(1e-6));
  CHECK(fit.misfit.gap < 1e-6);
  CHECK((fit.pose.position - askew.position).norm() < 1e-6);
}

TEST_CASE("balls, capsules and cylinders askew come back within their outline's roughness") {
  const std::pair<Shape, FitKind> cases[] = {
      {Sphere{0.7}, FitKind::sphere}, {Capsule{0.3, 1.4}, FitKind::capsule}, {Cylinder{0.4, 2}, FitKind::cylinder}};
  for (const auto& [shape, kind] : cases) {
    const Fit fit = fit_to(model_of(shape, askew), kind);
    REQUIRE(fit.fault.empty());
    CHECK(shape_volume(fit.shape) == Approx(shape_volume(shape)).epsilon(0.02));
    CHECK((fit.pose.position - askew.position).norm() < 0.02);
    CHECK(fit.misfit.gap < 0.02);
  }
}

TEST_CASE("the least ball holds all points and touches as many as it must", "[random]") {
  CHECK(rc::check("least ball", [] {
    const auto coordinates = *rc::gen::container<std::vector<int>>(30, rc::gen::inRange(-1000, 1000));
    Model model;
    for (std::size_t i = 0; i + 2 < coordinates.size(); i += 3)
      model.points.emplace_back(coordinates[i], coordinates[i + 1], coordinates[i + 2]);
    for (std::uint32_t i = 0; i + 2 < model.points.size(); ++i) model.triangles.push_back({i, i + 1, i + 2});
    const Fit fit = fit_to(model, FitKind::sphere, {1, 0.1, 0});
    RC_PRE(fit.fault.empty());
    const double radius = std::get<Sphere>(fit.shape).radius;
    int touching = 0;
    for (const Vec3& p : model.points) {
      const double away = (p - fit.pose.position).norm();
      RC_ASSERT(away <= radius * (1 + 1e-6));
      touching += away > radius * (1 - 1e-6) ? 1 : 0;
    }
    RC_ASSERT(touching >= 2);
  }));
}

TEST_CASE("every fit holds the model, and its misfit is what it says") {
  // An L.
  const Model model = prism({{0, 0, 0}, {2, 0, 0}, {2, 0.4, 0}, {0.4, 0.4, 0}, {0.4, 2.4, 0}, {0, 2.4, 0}},
                            {{0, 1, 2}, {0, 2, 3}, {0, 3, 4}, {0, 4, 5}}, {{0, 1, 2, 3, 4, 5}}, 0.4);
  REQUIRE(model_closed(model));
  REQUIRE(model_volume(model) == Approx(0.4 * (0.8 + 0.8)));
  for (const FitKind kind : {FitKind::box, FitKind::sphere, FitKind::capsule, FitKind::cylinder, FitKind::hull}) {
    const Fit fit = fit_to(model, kind);
    REQUIRE(fit.fault.empty());
    CHECK(fit.misfit.volume_ratio >= 1);
    for (const Vec3& p : model.points) {
      const Vec3 local = fit.pose.to_local(p);
      // On the surface or in it.
      const double away = distance_to_surface(fit.shape, local);
      CHECK((away < 1e-6 || cast_inside(fit.shape, local)));
    }
  }
  // The box is as far off as the inner corner: 1.6 m from two sides.
  CHECK(fit_to(model, FitKind::box).misfit.gap > 0.9);
  const Fit set = fit_to(model, FitKind::hulls);
  CHECK(set.parts == 2);
  CHECK(set.misfit.volume_ratio == Approx(1).epsilon(0.02));
  CHECK(set.misfit.gap < 0.02);
}

TEST_CASE("a set of hulls fills a hollow thing without closing it") {
  // A square frame.
  const Model model = prism(
      {{-1, -1, 0}, {1, -1, 0}, {1, 1, 0}, {-1, 1, 0}, {-0.8, -0.8, 0}, {0.8, -0.8, 0}, {0.8, 0.8, 0}, {-0.8, 0.8, 0}},
      {{0, 1, 5}, {0, 5, 4}, {1, 2, 6}, {1, 6, 5}, {2, 3, 7}, {2, 7, 6}, {3, 0, 4}, {3, 4, 7}},
      {{0, 1, 2, 3}, {7, 6, 5, 4}}, 1);
  REQUIRE(model_closed(model));
  const Fit hull = fit_to(model, FitKind::hull), set = fit_to(model, FitKind::hulls);
  CHECK(hull.misfit.volume_ratio > 2.5);
  CHECK(set.misfit.volume_ratio < 1.1);
  CHECK(set.misfit.volume_ratio > 0.95);
  CHECK_FALSE(cast_inside(set.shape, {0, 0, 0}));
}

TEST_CASE("what can't be fitted says why") {
  Model flat;
  flat.points = {{0, 0, 0}, {1, 0, 0}, {0, 0, 1}};
  flat.triangles = {{0, 2, 1}};
  CHECK(fit_to(flat, FitKind::hull).fault.find("flat") != std::string::npos);
  CHECK(fit_to(flat, FitKind::exact).fault.empty());
  Model wrong = flat;
  wrong.triangles = {{0, 1, 9}};
  CHECK(fit_to(wrong, FitKind::box).fault.find("not among its points") != std::string::npos);
  CHECK_FALSE(fit_to(Model{}, FitKind::box).fault.empty());
}

TEST_CASE("simple hulls keep within their corners and lose little") {
  const Model ball = model_of(Sphere{1}, {});
  const Hull hull = simple_hull(ball.points, 64);
  CHECK(hull.data->corners.size() <= 64);
  CHECK(hull.data->volume > 0.85 * 4.0 / 3 * pi);
}

TEST_CASE("sized shapes keep what is round, and every length can be set") {
  CHECK(std::get<Sphere>(sized(Sphere{2}, {1, 1.5, 1})).radius == 3);
  CHECK(std::get<Cylinder>(sized(Cylinder{1, 2}, {2, 3, 1})) == Cylinder{2, 6});
  CHECK(std::get<Box>(sized(Box{{1, 2, 3}}, {2, 1, 0.5})).size == Vec3(2, 2, 1.5));
  CHECK_THROWS_AS(sized(Box{}, {0, 1, 1}), Error);
  CHECK_THROWS_AS(sized(Box{}, {1e9, 1, 1}), Error);
  const Hull hull = make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}});
  for (const Shape& shape :
       {Shape(Sphere{1}), Shape(Box{}), Shape(Capsule{}), Shape(Cylinder{}), Shape(Cone{}), Shape(hull)}) {
    const std::size_t count = shape_sizes(shape).size();
    for (std::size_t i = 0; i < count; ++i) CHECK(shape_sizes(with_size(shape, i, 0.75))[i].value == Approx(0.75));
    CHECK_THROWS_AS(with_size(shape, 0, -1), Error);
  }
}
