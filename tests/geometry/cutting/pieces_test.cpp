// Pieces fill their shape, and know whom they touch.
#include "geometry/cutting/pieces.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "geometry/cutting/cut.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/mass.h"

using namespace bronvel;

namespace {

double sum_of(const std::vector<Hull>& pieces) {
  double sum = 0;
  for (const Hull& piece : pieces) sum += piece.data->volume;
  return sum;
}

}  // namespace

TEST_CASE("pieces of every recipe fill the shape, with its centre and inertia", "[random]") {
  CHECK(rc::check("volume, centre and inertia add up", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const std::vector<Shape> shapes{Box{{random.between(0.5, 4), random.between(0.5, 3), random.between(0.05, 2)}},
                                    Sphere{0.8}, Cylinder{0.5, 1.5}, Cone{0.6, 1.2}, Capsule{0.3, 1}};
    const Shape& shape = shapes[random.bits() % shapes.size()];
    PieceRecipe recipe;
    recipe.kind = static_cast<PieceRecipe::Kind>(random.bits() % 6);
    recipe.count = 1 + static_cast<int>(random.bits() % 30);
    recipe.seed = random.bits();
    if (random.share() < 0.5) recipe.plank_length = random.between(0.1, 5);
    if (random.share() < 0.5) recipe.near = Vec3(0.1, 0.05, 0);
    recipe.planes = {{Vec3::Unit(0), 0.1}, {Vec3(0, 0.6, 0.8), 0.02}, {Vec3(0.6, 0.8, 0), -0.1}};
    const std::vector<Hull> pieces = make_pieces(shape, recipe);
    const double whole = shape_volume(shape);
    RC_ASSERT(std::abs(sum_of(pieces) - whole) < 1e-6 * whole);
    std::vector<Part> parts;
    for (const Hull& piece : pieces) {
      RC_ASSERT(piece.data->volume > 0);
      RC_ASSERT(piece.data->inertia.allFinite());
      parts.push_back({piece});
    }
    const MassProperties together = mass_properties(make_compound(parts), 1);
    const MassProperties facets = mass_properties(*hull_of(facets_of(shape)), 1);
    RC_ASSERT((together.centre - facets.centre).norm() < 1e-6);
    RC_ASSERT((together.inertia - facets.inertia).norm() < 1e-6 * facets.inertia.norm());
  }));
}

TEST_CASE("planks are cut across into parts about as long as asked for, each plank elsewhere") {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planks;
  recipe.count = 3;
  recipe.plank_length = 0.5;
  const std::vector<Hull> pieces = make_pieces(Box{{3, 0.1, 0.9}}, recipe);
  REQUIRE(pieces.size() == 18);
  for (const Hull& piece : pieces) {
    const Bounds b = shape_bounds(piece, Pose{});
    CHECK(b.high.x() - b.low.x() > 0.2);
    CHECK(b.high.x() - b.low.x() < 1);
  }
  // Cuts of neighbours do not meet.
  CHECK(std::abs(shape_bounds(pieces[0], Pose{}).high.x() - shape_bounds(pieces[6], Pose{}).high.x()) > 1e-3);
  recipe.plank_length = 50;  // longer than they are: each stays in one piece
  CHECK(make_pieces(Box{{3, 0.1, 0.9}}, recipe).size() == 3);
  recipe.plank_length = 1e-6;
  CHECK_THROWS_AS(make_pieces(Box{{3, 0.1, 0.9}}, recipe), Error);
  recipe.plank_length = -1;
  CHECK_THROWS_AS(make_pieces(Box{{3, 0.1, 0.9}}, recipe), Error);
}

TEST_CASE("no two pieces lie in each other") {
  for (int kind = 0; kind < 5; ++kind) {
    PieceRecipe recipe;
    recipe.kind = static_cast<PieceRecipe::Kind>(kind);
    recipe.planes = {{Vec3::Unit(0), 0.1}, {Vec3(0, 0.6, 0.8), 0.02}};
    const std::vector<Hull> pieces = make_pieces(Box{{2, 1.5, 0.2}}, recipe);
    for (std::size_t i = 0; i < pieces.size(); ++i)
      for (std::size_t k = i + 1; k < pieces.size(); ++k) {
        // Cut one by the other's faces: what is left of it has no volume.
        Facets left = facets_of(pieces[i]);
        bool any = true;
        Cutter cutter;
        for (std::size_t f = 0; f < pieces[k].data->normals.size() && any; ++f)
          any = cutter.keep_inside(left, {pieces[k].data->normals[f], pieces[k].data->offsets[f] - 1e-5}, 0) !=
                Cutter::Result::nothing;
        CHECK_FALSE(any);
      }
  }
}

TEST_CASE("shared faces have the area, the axes and the reach of the cross-section") {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planes;
  recipe.planes = {{Vec3::Unit(0), 0.25}};
  const auto faces = shared_faces(make_pieces(Box{{2, 0.3, 0.1}}, recipe), 0);
  REQUIRE(faces.size() == 1);
  CHECK((faces[0].point - Vec3(0.25, 0, 0)).norm() < 1e-12);
  CHECK(faces[0].area == Approx(0.03));
  CHECK(std::abs(faces[0].normal.x()) == Approx(1));
  const double stiff = 0.1 * std::pow(0.3, 3) / 12, weak = 0.3 * std::pow(0.1, 3) / 12;
  CHECK(std::max(faces[0].moment_u, faces[0].moment_v) == Approx(stiff));
  CHECK(std::min(faces[0].moment_u, faces[0].moment_v) == Approx(weak));
  const bool u_stiff = faces[0].moment_u > faces[0].moment_v;
  CHECK((u_stiff ? faces[0].reach_u : faces[0].reach_v) == Approx(0.15));
  CHECK((u_stiff ? faces[0].reach_v : faces[0].reach_u) == Approx(0.05));
}

TEST_CASE("a brick bears on the two below it and meets its neighbours") {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::bricks;
  recipe.length = 0.5;
  recipe.height = 0.25;
  const auto pieces = make_pieces(Box{{2, 0.5, 0.2}}, recipe);
  REQUIRE(pieces.size() == 9);  // four, and above them three with a half at either end
  const auto faces = shared_faces(pieces, 0);
  double level = 0, upright = 0;
  for (const SharedFace& face : faces) (std::abs(face.normal.y()) > 0.5 ? level : upright) += face.area;
  CHECK(level == Approx(2 * 0.2));
  CHECK(upright == Approx((3 + 4) * 0.25 * 0.2));
}

TEST_CASE("every cell hangs together with the rest") {
  for (std::uint64_t seed = 1; seed <= 5; ++seed) {
    PieceRecipe recipe;
    recipe.count = 60;
    recipe.seed = seed;
    const auto pieces = make_pieces(Box{{2, 1.5, 0.05}}, recipe);
    std::vector<std::uint32_t> group(pieces.size());
    for (std::uint32_t i = 0; i < group.size(); ++i) group[i] = i;
    for (std::size_t pass = 0; pass < pieces.size(); ++pass)
      for (const SharedFace& face : shared_faces(pieces, 0))
        group[face.a] = group[face.b] = std::min(group[face.a], group[face.b]);
    CHECK(std::all_of(group.begin(), group.end(), [](std::uint32_t g) { return g == 0; }));
    if (seed == 1) break;  // the passes are slow; the others only have to be made
  }
}

TEST_CASE("recipes that make no sense are refused with a reason") {
  const auto refused = [](const std::function<void(PieceRecipe&)>& spoil) {
    PieceRecipe recipe;
    spoil(recipe);
    CHECK_THROWS_AS(make_pieces(Box{}, recipe), Error);
  };
  refused([](PieceRecipe& r) { r.count = 0; });
  refused([](PieceRecipe& r) { r.count = 100000; });
  refused([](PieceRecipe& r) { r.kind = PieceRecipe::Kind::bricks, r.length = 1e-4, r.height = 1e-4; });
  refused([](PieceRecipe& r) { r.near = Vec3(NAN, 0, 0); });
  refused([](PieceRecipe& r) { r.planes = {{Vec3(1, 1, 0), 0}}; });
  refused([](PieceRecipe& r) { r.spokes = 2; });
}
