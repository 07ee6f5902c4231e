// Edits of a scene: arrays, scatter, aligning, grouping, stamps; and that anything can be undone and saved.
#include "scene/edits/edits.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "geometry/base/error.h"
#include "geometry/shapes/compound.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"
#include "scene/document/names.h"
#include "scene/document/starting_surfaces.h"
#include "scene/edits/history.h"
#include "scene/edits/stamps.h"
#include "scene/files/read.h"
#include "scene/files/write.h"
#include "scene/properties/aspects.h"

using namespace bronvel;

namespace {

// Under the sanitizers everything takes ten times as long.
#ifdef __SANITIZE_ADDRESS__
constexpr int edits_in_a_row = 60;
#else
constexpr int edits_in_a_row = 500;
#endif

Body body(const std::string& name, const Shape& shape, const Vec3& at, double mass = 1) {
  Body made;
  made.name = name;
  made.shape = shape;
  made.position = at;
  made.mass = mass;
  return made;
}

Scene pair_with_hinge() {
  Scene scene;
  scene.surfaces = starting_surfaces();
  scene.bodies = {body("post", Box{{0.2, 2, 0.2}}, {0, 1, 0}, 50), body("arm", Box{{2, 0.2, 0.2}}, {1, 2, 0}, 20)};
  SceneJoint hinge;
  hinge.name = "pivot";
  hinge.kind = JointKind::hinge;
  hinge.a = "post";
  hinge.b = "arm";
  hinge.anchor_a = {0, 1, 0};
  hinge.anchor_b = {-1, 0, 0};
  hinge.axis = Vec3::Unit(2);
  scene.joints = {hinge};
  return scene;
}

Vec3 end_a(const Scene& scene, const SceneJoint& joint) {
  if (joint.a.empty()) return joint.anchor_a;
  const Body* a = scene.find(joint.a);
  return Pose{a->position, a->orientation}.to_scene(joint.anchor_a);
}

Vec3 end_b(const Scene& scene, const SceneJoint& joint) {
  const Body* b = scene.find(joint.b);
  return Pose{b->position, b->orientation}.to_scene(joint.anchor_b);
}

// One edit of those that the bench offers, picked at random.
void any_edit(Scene& scene, std::mt19937_64& random) {
  const auto pick = [&](int most) { return static_cast<int>(random() % static_cast<std::uint64_t>(most)); };
  const auto number = [&](double low, double high) {
    return low + (high - low) * static_cast<double>(random() >> 11U) * 0x1p-53;
  };
  const auto any_name = [&]() -> std::string {
    return scene.bodies.empty() ? "" : scene.bodies[random() % scene.bodies.size()].name;
  };
  const auto some_names = [&] {
    BodyNames names;
    for (int i = 0; i < 3; ++i) names.push_back(any_name());
    return names;
  };
  const auto vector = [&](double most) { return Vec3(number(-most, most), number(-most, most), number(-most, most)); };
  switch (scene.bodies.size() > 40 ? 1 : pick(18)) {
    case 0:
      scene.bodies.push_back(body(Names(scene).fresh("crate"), Box{{1, number(0.1, 3), 1}}, vector(5), number(0.1, 9)));
      return;
    case 1:
      return remove_bodies(scene, some_names());
    case 2:
      return rename_body(scene, any_name(), Names(scene).fresh("spar"));
    case 3:
      duplicate(scene, some_names(), vector(2));
      return;
    case 4:
      return move_bodies(scene, some_names(), vector(1));
    case 5:
      return turn_bodies(scene, some_names(), Quat(Eigen::AngleAxisd(number(0, 6), vector(1).normalized())), vector(1));
    case 6:
      return resize_body(scene, any_name(), Vec3(number(0.5, 2), number(0.5, 2), number(0.5, 2)));
    case 7: {
      ArrayPlan plan;
      plan.kind = static_cast<ArrayPlan::Kind>(pick(3));
      plan.count = {pick(3) + 1, pick(2) + 1, pick(2) + 1};
      array_of(scene, {any_name()}, plan);
      return;
    }
    case 8: {
      ScatterPlan plan;
      plan.count = 3;
      plan.seed = random();
      scatter(scene, any_name(), plan);
      return;
    }
    case 9:
      return let_down(scene, some_names());
    case 10:
      return align(scene, some_names(), pick(3), static_cast<Side>(pick(3)));
    case 11:
      return space_out(scene, some_names(), pick(3));
    case 12:
      group_bodies(scene, some_names());
      return;
    case 13:
      split_body(scene, any_name());
      return;
    case 14:
      return make_stamp(scene, some_names(), free_name(scene.stamps, "kit"));
    case 15:
      if (!scene.stamps.empty())
        place_stamp(scene, scene.stamps[random() % scene.stamps.size()].name, {vector(3), Quat::Identity()});
      return;
    case 16: {
      SceneJoint joint;
      joint.name = Names(scene).fresh("tie");
      joint.kind = static_cast<JointKind>(pick(5));
      joint.b = any_name();
      if (!joint.b.empty()) scene.joints.push_back(joint);
      return;
    }
    default:
      scene.world.gravity = vector(20);
      scene.cues.push_back({free_name(scene.cues, "bell"), number(0, 5), 0, 0});
  }
}

}  // namespace

TEST_CASE("500 random edits and their undo return the same document; it saves and loads as it is", "[random]") {
  CHECK(rc::check("edits", [] {
    const auto seed = *rc::gen::arbitrary<std::uint64_t>();
    std::mt19937_64 random(seed);
    const Scene begin = pair_with_hinge();
    History history(begin);
    for (int i = 0; i < edits_in_a_row; ++i) {
      try {
        history.edit("edit", [&](Scene& scene) { any_edit(scene, random); });
      } catch (const Error&) {
        // Refused (nothing to split, a single body to group): the document is as it was.
      }
      if (i % (edits_in_a_row / 5) == 0) {
        const std::string text = write_scene(history.scene());
        const Scene back = read_scene(text);
        RC_ASSERT(back == history.scene());
        RC_ASSERT(write_scene(back) == text);
      }
    }
    const Scene end = history.scene();
    while (history.undo()) continue;
    RC_ASSERT(history.scene() == begin);
    while (history.redo()) continue;
    RC_ASSERT(history.scene() == end);
    RC_ASSERT(write_scene(history.scene()) == write_scene(end));
  }));
}

TEST_CASE("arrays stand where the plan says, and carry their joints") {
  Scene scene = pair_with_hinge();
  ArrayPlan line;
  line.count = {4, 1, 1};
  line.step = {0, 0, 1.5};
  CHECK(array_of(scene, {"post", "arm"}, line).size() == 6);
  REQUIRE(scene.joints.size() == 4);
  for (const SceneJoint& joint : scene.joints) CHECK((end_a(scene, joint) - end_b(scene, joint)).norm() < 1e-12);
  CHECK(scene.find("post_4")->position.isApprox(Vec3(0, 1, 4.5)));

  Scene around;
  around.bodies = {body("stone", Box{}, {0, 0.5, 0})};
  ArrayPlan ring;
  ring.kind = ArrayPlan::Kind::ring;
  ring.count = {8, 1, 1};
  ring.radius = 3;
  array_of(around, {"stone"}, ring);
  REQUIRE(around.bodies.size() == 8);
  for (const Body& stone : around.bodies) {
    CHECK((stone.position - Vec3(0, 0.5, 3)).norm() == Approx(3));
    // Each faces the middle as the first does.
    CHECK((stone.orientation * Vec3(0, 0, 1)).dot((Vec3(0, 0.5, 3) - stone.position).normalized()) == Approx(1));
  }
  ArrayPlan grid;
  grid.kind = ArrayPlan::Kind::grid;
  grid.count = {3, 2, 4};
  CHECK(array_of(around, {"stone"}, grid).size() == 23);
  grid.count = {1000, 1000, 1};
  CHECK_THROWS_AS(array_of(around, {"stone"}, grid), Error);
}

TEST_CASE("scattered bodies rest on what is under them, apart, and the seed decides") {
  Scene scene;
  scene.bodies = {body("quay", Box{{10, 1, 10}}, {0, 0.5, 0}), body("ball", Sphere{0.2}, {20, 0.2, 0})};
  ScatterPlan plan;
  plan.count = 60;
  plan.width = plan.depth = 8;
  plan.middle = {0, 1, 0};
  plan.seed = 7;
  Scene again = scene;
  const BodyNames made = scatter(scene, "ball", plan);
  CHECK(made.size() == 60);
  for (std::size_t i = 0; i < made.size(); ++i) {
    const Body* a = scene.find(made[i]);
    CHECK(a->position.y() == Approx(1.2).margin(1e-3));
    CHECK(std::abs(a->position.x()) <= 4);
    for (std::size_t j = 0; j < i; ++j) CHECK((a->position - scene.find(made[j])->position).norm() > 0.4 - 1e-6);
  }
  scatter(again, "ball", plan);
  CHECK(again == scene);
}

TEST_CASE("let down rests on what is under it, lowest first") {
  Scene scene;
  scene.bodies = {body("quay", Box{{4, 1, 4}}, {0, 0.5, 0}), body("upper", Box{}, {0.2, 9, 0}),
                  body("lower", Cylinder{0.4, 0.8}, {0, 5, 0}), body("beside", Sphere{0.3}, {8, 3, 0}),
                  body("sunk", Box{}, {-9, -3, 0})};
  let_down(scene, {"upper", "lower", "beside", "sunk"});
  CHECK(scene.find("lower")->position.y() == Approx(1.4).margin(1e-4));
  CHECK(scene.find("upper")->position.y() == Approx(2.3).margin(1e-4));
  CHECK(scene.find("beside")->position.y() == Approx(0.3).margin(1e-6));
  CHECK(scene.find("sunk")->position.y() == Approx(0.5));
}

TEST_CASE("what is made of several parts, or is only a surface, comes to rest like anything else") {
  Scene scene;
  Body floor;
  floor.name = "floor";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{20, 1, 20}};
  floor.position = {0, 0.5, 0};
  scene.bodies = {floor};
  const Clearance clearance(scene, {});
  const Shape stool = make_compound(
      {{Box{{1, 0.1, 1}}, {{0, 0.5, 0}, Quat::Identity()}}, {Box{{0.1, 0.5, 0.1}}, {{0.4, 0.2, 0}, Quat::Identity()}}});
  CHECK(clearance.along(stool, {{0, 4, 0}, Quat::Identity()}, {0, -10, 0}) == Approx(4 - 0.05 - 1).margin(1e-6));
  const Shape sail =
      make_mesh({{0, 0, 0}, {1, 0, 0}, {0, 0, 1}, {0, 1, 0}}, {{0, 1, 2}, {0, 2, 3}, {0, 3, 1}, {1, 3, 2}});
  CHECK(clearance.along(sail, {{0, 4, 0}, Quat::Identity()}, {0, -10, 0}) == Approx(3).margin(1e-6));
}

TEST_CASE("aligned and spaced by their bounds") {
  Scene scene;
  scene.bodies = {body("a", Box{}, {0, 0.5, 0}), body("b", Box{{2, 2, 2}}, {1.7, 1, 3}), body("c", Box{}, {8, 0.5, 1})};
  space_out(scene, {"a", "b", "c"}, 0);
  CHECK(scene.find("b")->position.x() == Approx(4));
  align(scene, {"a", "b", "c"}, 2, Side::low);
  CHECK(scene.find("a")->position.z() == Approx(1));
  CHECK(scene.find("b")->position.z() == Approx(1.5));
}

TEST_CASE("a joint stays one point when a body is moved, turned or sized") {
  Scene scene = pair_with_hinge();
  move_bodies(scene, {"arm"}, {0.3, 0.4, 0});
  CHECK(end_b(scene, scene.joints[0]).isApprox(Vec3(0, 2, 0)));
  move_bodies(scene, {"post"}, {0, 0, 5});
  CHECK(end_b(scene, scene.joints[0]).isApprox(Vec3(0, 2, 5)));
  turn_bodies(scene, {"post"}, Quat(Eigen::AngleAxisd(1, Vec3::Unit(1))), {3, 0, 0});
  CHECK((end_a(scene, scene.joints[0]) - end_b(scene, scene.joints[0])).norm() < 1e-9);
  resize_body(scene, "post", {1, 2, 1});
  CHECK(scene.joints[0].anchor_a.isApprox(Vec3(0, 2, 0)));
  CHECK(scene.find("post")->mass == Approx(100));
  CHECK((end_a(scene, scene.joints[0]) - end_b(scene, scene.joints[0])).norm() < 1e-9);
}

TEST_CASE("grouping keeps mass and centre; splitting gives the bodies back") {
  Scene scene;
  scene.bodies = {body("head", Box{{0.4, 0.2, 0.2}}, {1, 3, 0}, 8), body("shaft", Cylinder{0.05, 1}, {1, 2.4, 0}, 2)};
  scene.bodies[1].orientation = Quat(Eigen::AngleAxisd(0.3, Vec3::Unit(0)));
  const Scene before = scene;
  const std::string name = group_bodies(scene, {"head", "shaft"});
  CHECK(name == "shaft");
  REQUIRE(scene.bodies.size() == 1);
  CHECK(scene.bodies[0].mass == Approx(10));
  const Compound compound = std::get<Compound>(scene.bodies[0].shape);
  CHECK((scene.bodies[0].position + compound.data->centre).isApprox(Vec3(1, 0.8 * 3 + 0.2 * 2.4, 0)));
  const BodyNames parts = split_body(scene, name);
  REQUIRE(parts.size() == 2);
  for (std::size_t i = 0; i < 2; ++i) {
    CHECK(scene.bodies[i].mass == Approx(before.bodies[i].mass));
    CHECK(scene.bodies[i].position.isApprox(before.bodies[i].position));
    CHECK(scene.bodies[i].orientation.angularDistance(before.bodies[i].orientation) < 1e-9);
  }
  CHECK_THROWS_AS(split_body(scene, parts[0]), Error);
  CHECK_THROWS_AS(group_bodies(scene, {parts[0]}), Error);
}

TEST_CASE("a stamp's copies follow it but where they differ, and give and take values") {
  Scene scene = pair_with_hinge();
  make_stamp(scene, {"post", "arm"}, "davit");
  place_stamp(scene, "davit", {{5, 0, 0}, Quat(Eigen::AngleAxisd(0.7, Vec3::Unit(1)))});
  place_stamp(scene, "davit", {{9, 0, 0}, Quat::Identity()});
  REQUIRE(scene.joints.size() == 3);
  for (const SceneJoint& joint : scene.joints) CHECK((end_a(scene, joint) - end_b(scene, joint)).norm() < 1e-9);
  for (const char* copy : {"davit_1", "davit_2", "davit_3"}) CHECK(stamp_differences(scene, copy).empty());

  scene.find("arm_2")->mass = 30;
  scene.find("arm_3")->mass = 99;
  move_bodies(scene, {"arm_3"}, {0, 0.5, 0});
  const auto second = stamp_differences(scene, "davit_2");
  REQUIRE(second.size() == 1);
  CHECK(second[0].label == "mass");
  CHECK(second[0].here == "30 kg");
  CHECK(second[0].in_stamp == "20 kg");
  CHECK(stamp_differences(scene, "davit_3").size() == 2);

  give_to_stamp(scene, "davit_2", second[0]);
  CHECK(scene.find("arm")->mass == 30);
  CHECK(scene.find("arm_3")->mass == 99);  // it said otherwise
  for (const StampDifference& each : stamp_differences(scene, "davit_3")) take_stamps_value(scene, "davit_3", each);
  CHECK(stamp_differences(scene, "davit_3").empty());
  CHECK(scene.find("arm_3")->mass == 30);

  // A moved copy is no different; a lacking part is, and can be had back.
  move_bodies(scene, {"post_2", "arm_2"}, {1, 0, 1});
  CHECK(stamp_differences(scene, "davit_2").empty());
  remove_bodies(scene, {"arm_2"});
  const auto lacking = stamp_differences(scene, "davit_2");
  REQUIRE(lacking.size() == 1);
  take_stamps_value(scene, "davit_2", lacking[0]);
  CHECK(stamp_differences(scene, "davit_2").empty());
  CHECK(read_scene(write_scene(scene)) == scene);
}

TEST_CASE("a placed stamp that is copied as a whole follows the stamp; a part of one does not") {
  Scene scene = pair_with_hinge();
  make_stamp(scene, {"post", "arm"}, "davit");
  const BodyNames whole = duplicate(scene, {"post", "arm"}, {5, 0, 0});
  REQUIRE(whole.size() == 2);
  CHECK(scene.find(whole[0])->stamped.copy == "davit_2");
  CHECK(scene.find(whole[0])->stamped.copy == scene.find(whole[1])->stamped.copy);
  CHECK(stamp_differences(scene, "davit_2").empty());
  CHECK(scene.joints.back().stamped.copy == "davit_2");
  ArrayPlan plan;
  plan.count = {3, 1, 1};
  plan.step = {0, 0, 4};
  array_of(scene, {"post", "arm"}, plan);
  for (const char* copy : {"davit_3", "davit_4"}) CHECK(stamp_differences(scene, copy).empty());
  scene.find("arm")->mass = 31;
  give_to_stamp(scene, "davit_1", stamp_differences(scene, "davit_1").at(0));
  int followed = 0;
  for (const Body& body : scene.bodies)
    if (body.stamped.part == "arm" && body.mass == 31) ++followed;
  CHECK(followed == 4);
  const BodyNames part = duplicate(scene, {"arm"}, {0, 3, 0});
  CHECK(scene.find(part[0])->stamped == StampedFrom{});
  CHECK(read_scene(write_scene(scene)) == scene);
}

TEST_CASE("names count on, and what is not allowed is refused") {
  Scene scene = pair_with_hinge();
  Names book(scene);
  CHECK(book.fresh("post") == "post_2");
  CHECK(book.fresh("post_2") == "post_3");
  CHECK(book.fresh("mast") == "mast");
  CHECK(allowed_name("Wuson 2.obj", "model") == "Wuson_2_obj");
  CHECK(allowed_name("3rd", "model") == "model_3rd");
  CHECK(allowed_name("", "model") == "model");
  CHECK_THROWS_WITH(rename_body(scene, "post", "arm"), Catch::Contains("taken"));
  CHECK_THROWS_WITH(rename_body(scene, "post", "2nd"), Catch::Contains("letters, digits"));
  rename_body(scene, "post", "mast");
  CHECK(scene.joints[0].a == "mast");
}

TEST_CASE("looks, locks and models come back as they were written") {
  Scene scene;
  auto model = std::make_shared<Model>();
  model->points = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1.0 / 3}};
  model->triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}};
  scene.models["wedge"] = model;
  Body plain = body("wedge", Box{}, {1, 2, 3});
  plain.looks = Looks{"wedge", {{0.1, 0.2, 0.3}, Quat(Eigen::AngleAxisd(0.4, Vec3::Unit(2)))}, 0.5};
  plain.locked = true;
  scene.bodies = {plain};
  scene.views = {{"from the quay", {{1, 2, 3}, 4, 5, 6, true}}};
  const std::string text = write_scene(scene);
  CHECK(read_scene(text, "scene.json", scene.models) == scene);
  CHECK_THROWS_WITH(read_scene(text), Catch::Contains("meshes/wedge.obj"));
}
