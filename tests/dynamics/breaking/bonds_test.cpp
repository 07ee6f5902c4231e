// How loads spread over bonds: held against statics by hand.
#include "dynamics/breaking/bonds.h"

#include <catch2/catch.hpp>

using namespace bronvel;

namespace {

// A bar along X from 0 to `length`, of `count` equal pieces, the first anchored if asked for.
std::shared_ptr<const PieceSet> bar(int count, double length, double height, double depth, bool anchored) {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::planes;
  for (int i = 1; i < count; ++i)
    recipe.planes.push_back({Vec3::Unit(0), length * (static_cast<double>(i) / count - 0.5)});
  std::vector<Hull> pieces = make_pieces(Box{{length, height, depth}}, recipe);
  for (Hull& piece : pieces) piece = shifted(piece, {0.5 * length, 0, 0});
  std::sort(pieces.begin(), pieces.end(),
            [](const Hull& a, const Hull& b) { return a.data->centre.x() < b.data->centre.x(); });
  std::vector<char> held(pieces.size(), 0);
  held[0] = anchored ? 1 : 0;
  return make_piece_set(std::move(pieces), held, {}, 0);
}

BondedPart whole(const PieceSet& set) {
  BondedPart part;
  for (std::uint32_t i = 0; i < set.pieces.size(); ++i) part.pieces.push_back(i);
  for (std::uint32_t i = 0; i < set.faces.size(); ++i) part.bonds.push_back(i);
  return part;
}

}  // namespace

TEST_CASE("a cantilever's bonds carry the moment of what hangs at its end") {
  for (const int count : {4, 20, 60}) {
    const auto set = bar(count, 2, 0.2, 0.1, true);
    REQUIRE(set->faces.size() == static_cast<std::size_t>(count - 1));
    BondSolver solver;
    solver.prepare(*set, whole(*set), 1000);
    const double weight = 300;
    const auto& loads = solver.solve({{static_cast<std::uint32_t>(count - 1), {0, -weight, 0}, {2, 0, 0}}}, 2000);
    CHECK(solver.settled());
    for (std::size_t i = 0; i < loads.size(); ++i) {
      const SharedFace& face = set->faces[i];
      INFO(count << " pieces, bond " << i);
      CHECK(std::abs(loads[i].tension) < 1e-2 * weight);
      CHECK(loads[i].shear == Approx(weight).epsilon(5e-3));
      CHECK(loads[i].moment.head<2>().norm() == Approx(weight * (2 - face.point.x())).epsilon(5e-3).margin(1));
    }
    // M c / I = 6 M / (b h²)
    const double stress = weight * (2 - set->faces[0].point.x()) * 6 / (0.1 * 0.04);
    CHECK(bond_use(set->faces[0], loads[0], {.tension = stress, .shear = 1e12}, 0.01) == Approx(1).epsilon(0.01));
  }
}

TEST_CASE("a free bar that is pulled at both ends is in tension throughout, and pushed at one end by its inertia") {
  const auto set = bar(10, 2, 0.2, 0.1, false);
  BondSolver solver;
  solver.prepare(*set, whole(*set), 1000);
  auto loads = solver.solve({{0, {-500, 0, 0}, {0, 0, 0}}, {9, {500, 0, 0}, {2, 0, 0}}}, 500);
  for (const BondLoad& load : loads) {
    CHECK(load.tension == Approx(500).epsilon(1e-3));
    CHECK(load.shear < 0.5);
  }
  loads = solver.solve({{0, {500, 0, 0}, {0, 0, 0}}}, 500);
  for (std::size_t i = 0; i < loads.size(); ++i)
    CHECK(loads[i].tension == Approx(-500 * (1 - static_cast<double>(i + 1) / 10)).epsilon(5e-3).margin(0.5));
}

TEST_CASE("a wall of bricks carries its own weight down: each course the weight of those above") {
  PieceRecipe recipe;
  recipe.kind = PieceRecipe::Kind::bricks;
  std::vector<Hull> pieces = make_pieces(Box{{5, 2.5, 0.3}}, recipe);
  std::vector<char> held;
  held.reserve(pieces.size());
  for (const Hull& piece : pieces) held.push_back(piece.data->centre.y() < -1.1 ? 1 : 0);
  const auto set = make_piece_set(pieces, held, {}, 0);
  BondSolver solver;
  solver.prepare(*set, whole(*set), 2000);
  std::vector<PieceLoad> weights;
  for (std::uint32_t i = 0; i < pieces.size(); ++i)
    weights.push_back({i, {0, -9.81 * 2000 * pieces[i].data->volume, 0}, pieces[i].data->centre, Vec3::Zero()});
  const auto& loads = solver.solve(weights, 1000);
  CHECK(solver.settled());
  for (int course = 1; course < 10; ++course) {
    const double level = -1.25 + 0.25 * course;
    double borne = 0;
    for (std::size_t i = 0; i < loads.size(); ++i)
      if (std::abs(set->faces[i].point.y() - level) < 1e-6 && std::abs(set->faces[i].normal.y()) > 0.5)
        borne -= loads[i].tension;
    CHECK(borne == Approx(9.81 * 2000 * 5 * 0.3 * (1.25 - level)).epsilon(0.01));
  }
}

TEST_CASE("parts hang together by their bonds, and anchored ones through the scene") {
  const auto set = bar(6, 2, 0.2, 0.1, true);
  BondedPart part = whole(*set);
  part.bonds.erase(part.bonds.begin() + 2);
  auto parts = connected_parts(*set, part);
  REQUIRE(parts.size() == 2);
  CHECK(parts[0].pieces == std::vector<std::uint32_t>{0, 1, 2});
  CHECK(parts[1].pieces == std::vector<std::uint32_t>{3, 4, 5});
  CHECK(parts[0].bonds.size() == 2);
  PieceSet both = *set;
  both.anchored[5] = 1;
  CHECK(connected_parts(both, part).size() == 1);
}

TEST_CASE("a free bar that is pressed evenly along its length is not strained at all") {
  const auto set = bar(6, 3, 0.1, 1, false);
  BondSolver solver;
  solver.prepare(*set, whole(*set), 2500);
  for (const double off : {0.0, 1e-13, -3e-12, 1e-11}) {
    std::vector<PieceLoad> loads;
    for (std::uint32_t p = 0; p < set->pieces.size(); ++p) {
      const Vec3& centre = set->pieces[p].data->centre;
      // Off by rounding, as sums of contact impulses are.
      loads.push_back(
          {p, Vec3(0, 1226.2 * (1 + (p % 2 == 0 ? off : -off)), 0), centre - Vec3(0, 0.05, 0), Vec3::Zero()});
    }
    for (const BondLoad& load : solver.solve(loads, 400)) {
      CHECK(std::abs(load.tension) < 1e-6);
      CHECK(load.shear < 1e-6);
      CHECK(load.moment.norm() < 1e-6);
    }
  }
}
