// Frames: what is drawn of a scene and of a play, and when two of them look alike.
#include "lab/readings/frame.h"

#include <catch2/catch.hpp>
#include <functional>

#include "script/scenes.h"

using namespace bronvel;

namespace {

Frame small_frame() {
  Frame frame;
  BodyView cask;
  cask.name = "cask";
  cask.shape = Sphere{0.4};
  frame.bodies = {cask, cask};
  frame.bodies[1].name = "crate";
  BodyView rope;
  rope.shape = Capsule{0.02, 3};
  frame.joints = {rope};
  SceneZone basin;
  basin.name = "basin";
  frame.zones = {basin};
  return frame;
}

}  // namespace

// One for each thing that is drawn: what is left out here would not be drawn anew while it is dragged.
TEST_CASE("whatever is drawn otherwise does not look alike") {
  const Frame frame = small_frame();
  CHECK(looks_alike(frame, frame));
  const std::vector<std::pair<const char*, std::function<void(Frame&)>>> changes{
      {"tick", [](Frame& f) { f.tick = 4; }},
      {"name", [](Frame& f) { f.bodies[1].name = "tub"; }},
      {"shape", [](Frame& f) { f.bodies[1].shape = Sphere{0.5}; }},
      {"place", [](Frame& f) { f.bodies[1].pose.position.x() += 1e-12; }},
      {"turn", [](Frame& f) { f.bodies[1].pose.orientation = Quat(0, 1, 0, 0); }},
      {"colour", [](Frame& f) { f.bodies[1].colour = "#000000"; }},
      {"kind", [](Frame& f) { f.bodies[1].kind = MotionKind::fixed; }},
      {"asleep", [](Frame& f) { f.bodies[1].asleep = true; }},
      {"locked", [](Frame& f) { f.bodies[1].locked = true; }},
      {"model", [](Frame& f) { f.bodies[1].model = std::make_shared<Model>(); }},
      {"the model's place", [](Frame& f) { f.bodies[1].model_pose.position.y() = 1; }},
      {"the model's turn", [](Frame& f) { f.bodies[1].model_pose.orientation = Quat(0, 0, 1, 0); }},
      {"the model's scale", [](Frame& f) { f.bodies[1].model_scale = 2; }},
      {"piece", [](Frame& f) { f.bodies[1].piece = true; }},
      {"what is left", [](Frame& f) { f.bodies[1].left = 0.5; }},
      {"one more", [](Frame& f) { f.bodies.push_back(f.bodies[0]); }},
      {"one less", [](Frame& f) { f.bodies.pop_back(); }},
      {"a joint's place", [](Frame& f) { f.joints[0].pose.position.z() = 1; }},
      {"a joint's shape",
       [](Frame& f) {
         f.joints[0].shape = Capsule{0.02, 4};
       }},
      {"no joint", [](Frame& f) { f.joints.clear(); }},
      {"a zone", [](Frame& f) { f.zones[0].level = 2; }},
      {"no zone", [](Frame& f) { f.zones.clear(); }}};
  for (const auto& [name, change] : changes) {
    INFO(name);
    Frame other = small_frame();
    change(other);
    CHECK_FALSE(looks_alike(frame, other));
    CHECK_FALSE(looks_alike(other, frame));
  }
}

TEST_CASE("a play that has not begun shows what the scene shows") {
  const SceneFolder folder = full_scene("");
  Play play(folder, 1);
  const Frame scene = frame_of(folder.scene), begun = frame_of(play);
  CHECK(looks_alike(scene, begun));
  CHECK(scene.bodies.size() == 3);
  CHECK_FALSE(scene.joints.empty());
  CHECK(scene.zones.size() == 2);
}

TEST_CASE("a frame that is renewed is the frame as it would be anew") {
  Play play(full_scene("function on.tick()\n  if scene.tick == 20 then scene:find('stone'):remove() end\n"
                       "  mark(body.position)\nend"),
            1);
  Frame renewed = frame_of(play);
  for (int i = 0; i < 60; ++i) {
    play.step();
    renew_frame(renewed, play);
    const Frame fresh = frame_of(play);
    CHECK(looks_alike(renewed, fresh));
    CHECK(renewed.drawn.size() == fresh.drawn.size());
    CHECK(renewed.bodies.size() == (i < 20 ? 3 : 2));
    for (std::size_t b = 0; b < renewed.bodies.size(); ++b)
      CHECK(renewed.bodies[b].pose.position == motion(play, renewed.bodies[b].name).pose.position);
  }
  // The rope went with the stone.
  CHECK(renewed.joints.empty());
}

TEST_CASE("what the hand holds is shown from where it holds it") {
  Play play(full_scene(""), 1);
  CHECK_FALSE(hand_of(play));
  Input grab;
  grab.kind = Input::Kind::grab;
  grab.name = "ball";
  grab.point = {0, 0.5, 0};
  grab.value = 1000;
  play.give(grab);
  play.step();
  const auto held = hand_of(play);
  REQUIRE(held);
  CHECK(held->body == "ball");
  CHECK((held->from - motion(play, "ball").pose.to_scene({0, 0.5, 0})).norm() < 1e-12);
  CHECK((held->to - Vec3(0, 3, 0)).norm() < 1e-9);
  Input drop;
  drop.kind = Input::Kind::drop;
  play.give(drop);
  play.step();
  CHECK_FALSE(hand_of(play));
}
