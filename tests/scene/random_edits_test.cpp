// A day of edits with any value at all: what is taken is saved and opens as the same scene; what is refused says why.
#include <catch2/catch.hpp>
#include <cmath>
#include <limits>
#include <random>

#include "geometry/base/error.h"
#include "geometry/shapes/hull.h"
#include "scene/document/starting_surfaces.h"
#include "scene/edits/history.h"
#include "scene/files/fault.h"
#include "scene/files/folder.h"
#include "scene/files/read.h"
#include "scene/files/write.h"
#include "scene/properties/property.h"

using namespace bronvel;

namespace {

Scene small_quay() {
  Scene scene;
  scene.surfaces = starting_surfaces();
  for (int i = 0; i < 4; ++i) {
    Body body;
    body.name = "cask_" + std::to_string(i + 1);
    body.position = {2.0 * i, 1, 0};
    scene.bodies.push_back(body);
  }
  SceneJoint hinge;
  hinge.name = "hinge";
  hinge.kind = JointKind::hinge;
  hinge.a = "cask_1";
  hinge.b = "cask_2";
  scene.joints = {hinge};
  SceneZone basin;
  basin.name = "basin";
  basin.shape = Box{{4, 2, 4}};
  basin.water = true;
  scene.zones = {basin};
  ScenePath ferry;
  ferry.name = "ferry";
  ferry.points = {{0, 0, 0}, {1, 0, 0}, {2, 1, 0}};
  scene.paths = {ferry};
  scene.cues.push_back({"bell", 1, 0, 0});
  scene.actions = {{"haul", {"space"}, {}}};
  return scene;
}

class Wild {
 public:
  explicit Wild(std::uint64_t seed) : random_(seed) {}

  int pick(std::size_t below) { return below == 0 ? 0 : static_cast<int>(random_() % below); }

  double number() {
    constexpr double inf = std::numeric_limits<double>::infinity();
    static const double odd[] = {0,      -0.0, 1,    -1,  0.5,  1e-9, 1e9, -1e9, 1e300, -1e308, 1e-308,
                                 5e-324, inf,  -inf, 1e6, 3.25, 64,   65,  1e15, 1e16,  0.1,    -0.7};
    const int which = pick(std::size(odd) + 6);
    if (which < static_cast<int>(std::size(odd))) return odd[which];
    if (which == static_cast<int>(std::size(odd))) return std::nan("");
    return std::uniform_real_distribution<>(-20, 20)(random_);
  }
  Vec3 vector() { return {number(), number(), number()}; }
  Quat turn() {
    if (pick(3) == 0) return {number(), number(), number(), number()};
    return Quat::UnitRandom();
  }
  std::string text() {
    static const std::string odd[] = {"",
                                      "cask_1",
                                      "oak",
                                      "a b",
                                      "über",
                                      "x\ny",
                                      "1st",
                                      "\xff\xfe",
                                      "\"q\"",
                                      "a/b",
                                      "..",
                                      "nothing",
                                      "_",
                                      "ball",
                                      "dynamic",
                                      "free",
                                      std::string(5000, 'x'),
                                      "basin",
                                      "hinge",
                                      "#ffffff",
                                      "none",
                                      "static",
                                      std::string("a\0b", 3)};
    return odd[pick(std::size(odd))];
  }
  Value value(const PropertyInfo& property) {
    if (pick(12) == 0) return {};
    switch (property.kind) {
      case PropertyKind::number:
      case PropertyKind::optional_number:
        return number();
      case PropertyKind::flag:
        return pick(2) == 0;
      case PropertyKind::word:
        if (!property.words.empty() && pick(3) > 0)
          return property.words[static_cast<std::size_t>(pick(property.words.size()))];
        return text();
      case PropertyKind::text:
        return text();
      case PropertyKind::rotation:
        return turn();
      default:
        return vector();
    }
  }
  Shape shape() {
    switch (pick(7)) {
      case 0:
        return Sphere{number()};
      case 1:
        return Box{vector()};
      case 2:
        return Capsule{number(), number()};
      case 3:
        return Cylinder{number(), number()};
      case 4:
        return Cone{number(), number()};
      case 5:
        return make_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}});
      default:
        return Box{{1, 2, 0.5}};
    }
  }

  template <class Owner>
  void set_any(Owner& owner, std::span<const PropertyOf<Owner>> properties) {
    const PropertyOf<Owner>& property = properties[static_cast<std::size_t>(pick(properties.size()))];
    const Value wild = value(property);
    // As the bench does: what the property itself can't hold is refused before.
    if (const std::string fault = value_fault(property, wild); !fault.empty()) throw Error(property.name, fault);
    property.set(owner, wild);
  }

  void edit(Scene& scene) {
    const auto any = [&](auto& list) -> auto& {
      return list[static_cast<std::size_t>(pick(list.size()))];
    };
    switch (pick(16)) {
      case 0:
      case 1:
      case 2:
      case 3:
        if (!scene.bodies.empty()) set_any(any(scene.bodies), body_properties());
        break;
      case 4:
        if (!scene.joints.empty()) set_any(any(scene.joints), joint_properties());
        break;
      case 5:
        if (!scene.zones.empty()) set_any(any(scene.zones), zone_properties());
        break;
      case 6:
        if (!scene.bodies.empty()) any(scene.bodies).shape = shape();
        break;
      case 7:
        if (!scene.bodies.empty()) any(scene.bodies).name = text();
        break;
      case 8:
        if (!scene.bodies.empty()) scene.bodies.erase(scene.bodies.begin() + pick(scene.bodies.size()));
        break;
      case 9: {
        SceneJoint joint;
        joint.name = text();
        joint.kind = static_cast<JointKind>(pick(7));
        joint.a = text();
        joint.b = text();
        joint.axis = vector();
        joint.anchor_a = vector();
        scene.joints.push_back(joint);
        break;
      }
      case 10:
        scene.world.gravity = vector();
        break;
      case 11:
        if (pick(2) == 0)
          scene.world.tick_rate = number();
        else
          scene.world.substeps = pick(100) - 5;
        break;
      case 12:
        scene.actions.push_back({text(), {text()}, {text()}});
        break;
      case 13:
        if (!scene.paths.empty()) any(scene.paths).points.push_back(vector());
        break;
      case 14:
        scene.cues.push_back({text(), number(), number(), pick(5)});
        break;
      default:
        if (!scene.bodies.empty()) {
          Body& body = any(scene.bodies);
          if (pick(2) == 0)
            body.scripts.push_back({text() + (pick(2) == 0 ? ".lua" : ""), {{text(), number()}}});
          else
            body.tags.push_back(text());
        }
    }
  }

 private:
  std::mt19937_64 random_;
};

}  // namespace

TEST_CASE("days of edits with any values: what saves opens as the same, what is refused says why") {
  int taken = 0, refused = 0;
  for (std::uint64_t day = 1; day <= 2000; ++day) {
    CAPTURE(day);
    Wild wild(day);
    History history(small_quay());
    for (int i = 0; i < 12; ++i) {
      const Scene before = history.scene();
      try {
        history.edit("edit", [&](Scene& scene) { wild.edit(scene); });
        ++taken;
      } catch (const Error& e) {
        ++refused;
        if (std::string(e.what()).size() < 8) FAIL_CHECK("refused without words: " << e.what());
        if (!(history.scene() == before)) FAIL_CHECK("refused, and yet changed: " << e.what());
      }
    }
    std::string text;
    try {
      text = write_scene(history.scene());
      const Scene back = read_scene(text);
      if (!(back == history.scene())) FAIL_CHECK("opens as another scene");
      if (write_scene(back) != text) FAIL_CHECK("is written otherwise the second time");
    } catch (const std::exception& e) {
      FAIL_CHECK("was taken, but does not open: " << e.what());
    }
  }
  // Both ways were walked.
  CHECK(taken > 5000);
  CHECK(refused > 5000);
}
