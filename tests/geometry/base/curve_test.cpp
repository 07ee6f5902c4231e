// Curves: through their points, by length.
#include "geometry/base/curve.h"

#include <catch2/catch.hpp>

#include "geometry/base/error.h"

using namespace bronvel;

TEST_CASE("a straight curve goes from point to point at its length") {
  const Curve c({{0, 0, 0}, {3, 0, 0}, {3, 4, 0}}, false, false);
  CHECK(c.length() == Approx(7));
  CHECK((c.at(5) - Vec3(3, 2, 0)).norm() < 1e-12);
  CHECK((c.tangent(6) - Vec3(0, 1, 0)).norm() < 1e-12);
  CHECK(c.at(-1) == Vec3(0, 0, 0));
  CHECK((c.at(99) - Vec3(3, 4, 0)).norm() < 1e-12);
  CHECK(Curve({{0, 0, 0}, {3, 0, 0}, {3, 4, 0}}, false, true).length() == Approx(12));
}

TEST_CASE("a smooth curve passes through its points without a kink and evenly by length") {
  const std::vector<Vec3> points{{0, 0, 0}, {1, 2, 0}, {4, 2, 1}, {4, 0, 3}, {0, -1, 2}};
  for (const bool closed : {false, true}) {
    const Curve c(points, true, closed);
    for (const Vec3& p : points) {
      double nearest = 1e9;
      for (int i = 0; i <= 20000; ++i) nearest = std::min(nearest, (c.at(c.length() * i / 20000) - p).norm());
      CHECK(nearest < 1e-3);
    }
    const double step = c.length() / 2000;
    for (int i = 1; i < 1999; ++i) {
      CHECK((c.at(step * (i + 1)) - c.at(step * i)).norm() == Approx(step).epsilon(0.01));
      CHECK(c.tangent(step * i).dot(c.tangent(step * (i + 1))) > 0.999);
    }
    if (closed) CHECK((c.at(0) - c.at(c.length())).norm() < 1e-9);
  }
}

TEST_CASE("a circle of sixteen points is a circle to one part in a thousand") {
  std::vector<Vec3> points;
  for (int i = 0; i < 16; ++i) points.emplace_back(std::cos(i * pi / 8), 0, std::sin(i * pi / 8));
  const Curve c(points, true, true);
  CHECK(c.length() == Approx(2 * pi).epsilon(1e-3));
}

TEST_CASE("curves that are none are refused") {
  CHECK_THROWS_AS(Curve({{0, 0, 0}}, true, false), Error);
  CHECK_THROWS_AS(Curve({{0, 0, 0}, {0, 0, 0}}, true, false), Error);
  CHECK_THROWS_AS(Curve({{0, 0, 0}, {std::nan(""), 0, 0}}, true, false), Error);
}
