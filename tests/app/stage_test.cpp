// The stage's geometry by itself: the camera, what a pixel is, and where moves come to rest.
#include <catch2/catch.hpp>
#include <cmath>

#include "app/stage/camera.h"
#include "app/stage/pencil.h"
#include "app/stage/snapping.h"
#include "geometry/base/random.h"

using namespace bronvel;

namespace {

constexpr QSize picture(800, 600);

Camera any_camera(Random& random) {
  Camera camera;
  camera.view.target = {random.between(-9, 9), random.between(-9, 9), random.between(-9, 9)};
  camera.view.distance = std::pow(10, random.between(-1, 3));
  camera.view.turn = random.between(-400, 400);
  camera.view.tilt = random.between(-89, 89);
  camera.view.straight = random.share() < 0.5;
  camera.covered_right = random.share() < 0.5 ? 0 : random.between(0, 300);
  return camera;
}

}  // namespace

TEST_CASE("a point is seen at the pixel whose ray goes through it") {
  Random random(31);
  int seen = 0;
  for (int i = 0; i < 400; ++i) {
    const Camera camera = any_camera(random);
    const QPointF pixel(random.between(0, picture.width()), random.between(0, picture.height()));
    const ViewRay ray = camera.ray(pixel, picture);
    CHECK(ray.direction.norm() == Approx(1));
    const double far = camera.view.distance * random.between(0.5, 2);
    const Vec3 point = ray.origin + far * ray.direction;
    if ((point - camera.eye()).dot(camera.forward()) < 0.01 * camera.view.distance) continue;
    bool visible = false;
    const QPointF back = camera.pixel(point, picture, &visible);
    CHECK(visible);
    CHECK(std::hypot(back.x() - pixel.x(), back.y() - pixel.y()) < 0.5);
    ++seen;
  }
  CHECK(seen > 150);
}

TEST_CASE("words about what is in the picture are in it whole, those about the rest where they are") {
  Random random(30);
  int within = 0, without = 0;
  for (int i = 0; i < 400; ++i) {
    const Camera camera = any_camera(random);
    const double right = picture.width() - camera.covered_right;
    const QPointF pixel(random.between(-100, right + 100), random.between(-100, picture.height() + 100));
    const ViewRay ray = camera.ray(pixel, picture);
    const Vec3 point = ray.origin + camera.view.distance * ray.direction;
    Pencil pencil(nullptr, camera, picture);
    const auto at = pencil.pixel(point);
    if (!at) continue;
    pencil.words_aside(point, {13, -8}, "breaks next: 19 % of its strength", Qt::black);
    const QRectF words = pencil.covered.adjusted(6, 6, -6, -6);
    REQUIRE(words.width() > 50);
    const QRectF view(0, 0, right, picture.height());
    if (view.adjusted(1, 1, -1, -1).contains(*at)) {
      CHECK(view.contains(words));
      // No farther from it than they are long.
      CHECK(std::abs(words.center().x() - at->x()) < words.width());
      CHECK(std::abs(words.center().y() - at->y()) < 3 * words.height());
      ++within;
    } else if (!view.adjusted(-1, -1, 1, 1).contains(*at)) {
      CHECK(words.left() > at->x());
      CHECK(words.left() < at->x() + 20);
      ++without;
    }
  }
  CHECK(within > 100);
  CHECK(without > 50);
}

TEST_CASE("the camera looks at its target, which stands in the middle of what is not covered") {
  Random random(32);
  for (int i = 0; i < 200; ++i) {
    const Camera camera = any_camera(random);
    const Vec3 to_target = camera.view.target - camera.eye();
    CHECK(to_target.norm() == Approx(camera.view.distance));
    CHECK((to_target.normalized() - camera.forward()).norm() < 1e-9);
    // Right, up and forward stand on one another; up is never below the horizon.
    CHECK(std::abs(camera.right().dot(camera.up())) < 1e-9);
    CHECK(std::abs(camera.right().dot(camera.forward())) < 1e-9);
    CHECK((camera.right().cross(camera.up()) + camera.forward()).norm() < 1e-9);
    CHECK(camera.right().y() == Approx(0).margin(1e-9));
    CHECK(camera.up().y() > 0);
    const QPointF middle = camera.pixel(camera.view.target, picture);
    CHECK(middle.x() == Approx((picture.width() - camera.covered_right) / 2).margin(0.5));
    CHECK(middle.y() == Approx(picture.height() / 2.0).margin(0.5));
  }
}

TEST_CASE("turning keeps the target, panning takes it along with the hand, zooming keeps it in the middle") {
  Random random(33);
  for (int i = 0; i < 200; ++i) {
    Camera camera = any_camera(random);
    const Vec3 target = camera.view.target;
    camera.orbit(random.between(-500, 500), random.between(-500, 500));
    CHECK(camera.view.target == target);
    CHECK(std::abs(camera.view.tilt) <= 90);
    CHECK(camera.up().allFinite());
    const double before = camera.view.distance;
    camera.zoom(0.5);
    CHECK(camera.view.distance == Approx(before / 2));
    camera.zoom(2);
    CHECK(camera.view.target == target);
    // What was under the hand stays under it.
    const QPointF from = camera.pixel(target, picture);
    camera.pan({40, -25}, picture);
    const QPointF to = camera.pixel(target, picture);
    CHECK(to.x() - from.x() == Approx(40).margin(1));
    CHECK(to.y() - from.y() == Approx(-25).margin(1));
  }
}

TEST_CASE("whatever is framed is seen whole") {
  Random random(34);
  for (int i = 0; i < 200; ++i) {
    Camera camera = any_camera(random);
    camera.covered_right = 0;
    const Vec3 low(random.between(-50, 50), random.between(-50, 50), random.between(-50, 50));
    const Bounds bounds{low, low + std::pow(10, random.between(-2, 2)) *
                                       Vec3(random.between(0.1, 1), random.between(0.1, 1), random.between(0.1, 1))};
    camera.frame(bounds);
    for (int corner = 0; corner < 8; ++corner) {
      const Vec3 point((corner & 1) != 0 ? bounds.high.x() : bounds.low.x(),
                       (corner & 2) != 0 ? bounds.high.y() : bounds.low.y(),
                       (corner & 4) != 0 ? bounds.high.z() : bounds.low.z());
      bool visible = false;
      const QPointF pixel = camera.pixel(point, picture, &visible);
      CHECK(visible);
      CHECK(pixel.x() >= 0);
      CHECK(pixel.x() <= picture.width());
      CHECK(pixel.y() >= 0);
      CHECK(pixel.y() <= picture.height());
    }
  }
}

TEST_CASE("moves come to rest on the grid and at the sides of other bodies, whichever is nearest") {
  CHECK(to_grid(0.26, 0.1) == Approx(0.3));
  CHECK(to_grid(-0.26, 0.1) == Approx(-0.3));
  CHECK(to_grid(0.26, 0) == 0.26);
  Scene scene;
  for (const auto& [name, x, size] : {std::tuple{"a", 0.0, 2.0}, {"b", 5.0, 1.0}, {"moved", 9.0, 1.0}}) {
    Body body;
    body.name = name;
    body.position = {x, 0, 0};
    body.shape = Box{{size, 1, 1}};
    scene.bodies.push_back(body);
  }
  const Sides sides(scene, {"moved"});
  // Its low side at 1.05 is near a's high one at 1.
  const auto beside = sides.nearest(0, 1.05, 2.05, 0.2);
  REQUIRE(beside);
  CHECK(beside->shift == Approx(-0.05));
  CHECK(beside->at == Approx(1));
  CHECK_FALSE(sides.nearest(0, 2.4, 3.4, 0.2));
  // Its own sides are none that it comes to rest at.
  CHECK_FALSE(sides.nearest(0, 8.55, 9.55, 0.1));
  Random random(35);
  for (int i = 0; i < 200; ++i) {
    const double low = random.between(-3, 8), high = low + random.between(0.1, 2), reach = random.between(0.01, 1);
    double least = 1e9;
    for (const double side : {-1.0, 1.0, 4.5, 5.5})
      least = std::min({least, std::abs(side - low), std::abs(side - high)});
    const auto found = sides.nearest(0, low, high, reach);
    CHECK(found.has_value() == (least <= reach));
    if (found) CHECK(std::abs(found->shift) == Approx(least));
  }
}
