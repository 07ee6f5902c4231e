// Bodies cut into cells rest, tip, slide and spin as if they were whole, on few points.
#include <catch2/catch.hpp>
#include <cmath>

#include "dynamics/world/world.h"
#include "geometry/shapes/compound.h"

using namespace bronvel;

namespace {

Surface rough(double friction) {
  Surface surface;
  surface.static_friction = surface.dynamic_friction = friction;
  surface.restitution = 0;
  return surface;
}

// A box, whole or as so many cells along X and Z.
Shape slab(const Vec3& size, int cells) {
  if (cells <= 1) return Box{size};
  std::vector<Part> parts;
  const Vec3 cell(size.x() / cells, size.y(), size.z() / cells);
  for (int i = 0; i < cells; ++i)
    for (int k = 0; k < cells; ++k)
      parts.push_back(
          Part{Box{cell},
               {{(i + 0.5) * cell.x() - 0.5 * size.x(), 0, (k + 0.5) * cell.z() - 0.5 * size.z()}, Quat::Identity()}});
  return make_compound(std::move(parts));
}

struct Quay {
  explicit Quay(double friction) : surface(rough(friction)) {
    BodySettings floor;
    floor.kind = MotionKind::fixed;
    floor.shape = Box{{40, 1, 40}};
    floor.surface = surface;
    ground = world.create(floor, at({0, -0.5, 0}));
  }
  static BodyMotion at(const Vec3& place) { return {{place, Quat::Identity()}, Vec3::Zero(), Vec3::Zero()}; }
  BodyHandle add(const Shape& shape, double mass, const Vec3& place, bool may_sleep = true) {
    BodySettings settings;
    settings.shape = shape;
    settings.mass = mass;
    settings.surface = surface;
    settings.may_sleep = may_sleep;
    return world.create(settings, at(place));
  }
  void play(double seconds) {
    for (int i = 0; i < static_cast<int>(60 * seconds); ++i) world.step();
  }
  std::size_t points_between(BodyHandle a, BodyHandle b) const {
    for (const ContactEvent& contact : world.contacts())
      if ((contact.a == a && contact.b == b) || (contact.a == b && contact.b == a)) return contact.points.size();
    return 0;
  }
  Surface surface;
  World world{WorldSettings{}};
  BodyHandle ground{};
};

}  // namespace

TEST_CASE("a slab of many cells rests where a whole one does, on the points at its rim") {
  Quay whole(0.5), cut(0.5);
  const BodyHandle a = whole.add(slab({2, 0.5, 2}, 1), 100, {0, 0.25, 0}, false);
  const BodyHandle b = cut.add(slab({2, 0.5, 2}, 8), 100, {0, 0.25, 0}, false);
  whole.play(2);
  cut.play(2);
  const BodyMotion of_whole = whole.world.motion(a), of_cut = cut.world.motion(b);
  CHECK((of_whole.pose.position - of_cut.pose.position).norm() < 1e-4);
  CHECK(of_cut.velocity.norm() < 1e-4);
  const std::size_t points = cut.points_between(b, cut.ground);
  CHECK(points >= 4);
  CHECK(points <= 13);
  // All four corners bear it.
  for (const double x : {-1.0, 1.0})
    for (const double z : {-1.0, 1.0}) {
      double nearest = 1e9;
      for (const ContactEvent& contact : cut.world.contacts())
        for (const Vec3& point : contact.points) nearest = std::min(nearest, std::hypot(point.x() - x, point.z() - z));
      CHECK(nearest < 1e-3);
    }
}

TEST_CASE("what bears on it is its whole weight, and it sleeps") {
  Quay quay(0.5);
  const BodyHandle slab_of_cells = quay.add(slab({2, 0.5, 2}, 8), 100, {0, 0.25, 0});
  double impulse = 0;
  for (int i = 0; i < 60 && !quay.world.asleep(slab_of_cells); ++i) {
    quay.world.step();
    if (i < 20) continue;
    impulse = 0;
    for (const ContactEvent& contact : quay.world.contacts()) impulse += contact.normal_impulse;
    CHECK(impulse == Approx(100 * 9.81 / 60).epsilon(1e-3));
  }
  CHECK(quay.world.asleep(slab_of_cells));
}

TEST_CASE("a load beyond the rim tips it, one within does not, cut or whole") {
  for (const int cells : {1, 6})
    for (const double share : {0.97, 1.03}) {
      INFO(cells << " cells, " << share << " of what tips it");
      Quay quay(0.8);
      // A slab of 100 kg, half of it over the edge of a block; a stone at its free end that just tips it.
      BodySettings block;
      block.kind = MotionKind::fixed;
      block.shape = Box{{2, 1, 2}};
      block.surface = quay.surface;
      quay.world.create(block, Quay::at({0, 0.5, 0}));
      const BodyHandle board = quay.add(slab({2, 0.2, 1}, cells), 100, {0.5, 1.1, 0}, false);
      // About the edge at x = 1: the board's weight with a lever of 0.5, the stone's with one of 0.3.
      quay.add(Box{{0.2, 0.2, 0.2}}, share * 100 * 0.5 / 0.3, {1.3, 1.3, 0}, false);
      quay.play(3);
      const double height = quay.world.motion(board).pose.position.y();
      if (share < 1)
        CHECK(height == Approx(1.1).margin(2e-3));
      else
        CHECK(height < 1.05);
    }
}

TEST_CASE("on a slope it holds and slides as a whole one") {
  for (const int cells : {1, 6})
    for (const double share : {0.95, 1.05}) {
      INFO(cells << " cells at " << share << " of what friction holds");
      const double friction = 0.5, slope = std::atan(share * friction);
      Quay quay(friction);
      WorldSettings leaning = quay.world.settings();
      leaning.gravity = 9.81 * Vec3(std::sin(slope), -std::cos(slope), 0);
      quay.world.set_settings(leaning);
      const BodyHandle slab_on = quay.add(slab({1, 0.4, 1}, cells), 50, {0, 0.2, 0}, false);
      quay.play(2);
      const double way = quay.world.motion(slab_on).pose.position.x();
      const double pull = 9.81 * (std::sin(slope) - friction * std::cos(slope));
      if (share < 1)
        CHECK(std::abs(way) < 1e-3);
      else
        CHECK(way == Approx(0.5 * pull * 4).epsilon(0.03));
    }
}

TEST_CASE("spun on the floor it stops as a whole one does") {
  double stopped[2] = {0, 0};
  int which = 0;
  for (const int cells : {1, 6}) {
    Quay quay(0.3);
    const BodyHandle plate = quay.add(slab({1, 0.1, 1}, cells), 20, {0, 0.05, 0}, false);
    quay.play(0.2);
    quay.world.set_angular_velocity(plate, {0, 12, 0});
    while (quay.world.motion(plate).angular_velocity.y() > 0.05 && stopped[which] < 10) {
      quay.world.step();
      stopped[which] += 1.0 / 60;
    }
    // Cells share the load unevenly, so that one in cells wanders.
    const Vec3 wandered = quay.world.motion(plate).pose.position - Vec3(0, 0.05, 0);
    CHECK(wandered.norm() < (cells > 1 ? 0.1 : 1e-3));
    ++which;
  }
  INFO(stopped[0] << " s whole, " << stopped[1] << " s in cells");
  CHECK(stopped[1] == Approx(stopped[0]).epsilon(0.12));
}

TEST_CASE("a stack of bodies in cells stands still", "[long]") {
  Quay quay(0.6);
  std::vector<BodyHandle> stack;
  for (int i = 0; i < 8; ++i)
    stack.push_back(quay.add(slab({1, 0.5, 1}, 4), 30, {0.05 * (i % 2), 0.25 + 0.5 * i, 0}, false));
  quay.play(5);
  std::vector<Vec3> places;
  for (const BodyHandle body : stack) places.push_back(quay.world.motion(body).pose.position);
  quay.play(10);
  for (std::size_t i = 0; i < stack.size(); ++i) {
    CHECK((quay.world.motion(stack[i]).pose.position - places[i]).norm() < 1e-3);
    CHECK(quay.world.velocity(stack[i]).norm() < 1e-3);
  }
}

TEST_CASE("feet at different heights and places all bear") {
  // A table of four legs and a fifth that is too short.
  std::vector<Part> parts{Part{Box{{2, 0.1, 1}}, {{0, 0, 0}, Quat::Identity()}}};
  for (const double x : {-0.9, 0.9})
    for (const double z : {-0.4, 0.4}) parts.push_back(Part{Box{{0.1, 0.6, 0.1}}, {{x, -0.35, z}, Quat::Identity()}});
  parts.push_back(Part{Box{{0.1, 0.55, 0.1}}, {{0, -0.325, 0}, Quat::Identity()}});
  Quay quay(0.5);
  const BodyHandle table = quay.add(make_compound(parts), 40, {0, 0.65, 0}, false);
  quay.play(3);
  CHECK(quay.world.motion(table).pose.position.y() == Approx(0.65).margin(1e-3));
  for (const double x : {-0.9, 0.9})
    for (const double z : {-0.4, 0.4}) {
      bool bears = false;
      for (const ContactEvent& contact : quay.world.contacts())
        for (const Vec3& point : contact.points) bears = bears || std::hypot(point.x() - x, point.z() - z) < 0.08;
      CHECK(bears);
    }
  for (const ContactEvent& contact : quay.world.contacts())
    for (const Vec3& point : contact.points) CHECK(std::hypot(point.x(), point.z()) > 0.5);
}
