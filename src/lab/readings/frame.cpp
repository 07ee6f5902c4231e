// Frames of scenes and of running plays.
#include "lab/readings/frame.h"

#include "lab/readings/joint_views.h"

namespace bronvel {

BodyView BodyView::of(const Body& body, const Pose& pose, const Models& models) {
  BodyView view{body.name, body.shape, pose, body.colour, body.kind, false, body.locked, nullptr, {}, 1};
  if (body.looks) {
    const auto model = models.find(body.looks->model);
    if (model != models.end()) view.model = model->second;
    view.model_pose = body.looks->pose;
    view.model_scale = body.looks->scale;
  }
  return view;
}

std::optional<HandHold> hand_of(const Play& play) {
  const Hand& hand = play.hand();
  if (!hand.held || !play.running().world.alive(*hand.held)) return std::nullopt;
  return HandHold{play.running().name_of(*hand.held), grip_point(play.running().world, hand), hand.at};
}

bool looks_alike(const Frame& a, const Frame& b) {
  const auto same_pose = [](const Pose& v, const Pose& w) {
    return v.position == w.position && v.orientation.coeffs() == w.orientation.coeffs();
  };
  const auto same = [&](const BodyView& v, const BodyView& w) {
    return v.name == w.name && same_pose(v.pose, w.pose) && v.shape == w.shape && v.colour == w.colour &&
           v.kind == w.kind && v.asleep == w.asleep && v.locked == w.locked && v.model == w.model &&
           same_pose(v.model_pose, w.model_pose) && v.model_scale == w.model_scale && v.piece == w.piece &&
           v.left == w.left;
  };
  const auto same_joint = [&](const BodyView& v, const BodyView& w) {
    return same_pose(v.pose, w.pose) && v.shape == w.shape;
  };
  return a.tick == b.tick && std::equal(a.bodies.begin(), a.bodies.end(), b.bodies.begin(), b.bodies.end(), same) &&
         std::equal(a.joints.begin(), a.joints.end(), b.joints.begin(), b.joints.end(), same_joint) &&
         a.zones == b.zones;
}

Frame frame_of(const Scene& scene) {
  Frame frame;
  for (const Body& body : scene.bodies)
    frame.bodies.push_back(BodyView::of(body, {body.position, body.orientation}, scene.models));
  const auto pose_of = [&](const std::string& name) -> std::optional<Pose> {
    const Body* body = scene.find(name);
    return body ? std::optional(Pose{body->position, body->orientation}) : std::nullopt;
  };
  for (const SceneJoint& joint : scene.joints) add_joint_views(frame.joints, joint, pose_of);
  frame.zones = scene.zones;
  return frame;
}

Frame frame_of(const Play& play) {
  Frame frame;
  renew_frame(frame, play);
  return frame;
}

void renew_frame(Frame& frame, const Play& play) {
  const RunningScene& running = play.running();
  frame.tick = play.tick();
  frame.bodies.resize(running.scene.bodies.size());
  std::size_t count = 0;
  for (const Body& body : running.scene.bodies) {
    const auto handle = running.find(body.name);
    if (!handle) continue;
    BodyView& view = frame.bodies[count++];
    view = BodyView::of(body, running.world.motion(*handle).pose, running.scene.models);
    view.asleep = running.world.asleep(*handle);
  }
  frame.bodies.resize(count);
  for (const auto& [body, left] : play.fading()) {
    const std::string& name = running.name_of(body);
    for (auto view = frame.bodies.rbegin(); view != frame.bodies.rend(); ++view)
      if (view->name == name) view->left = left;
  }
  frame.joints.clear();
  const auto pose_of = [&](const std::string& name) -> std::optional<Pose> {
    const auto body = running.find(name);
    return body ? std::optional(running.world.motion(*body).pose) : std::nullopt;
  };
  for (const SceneJoint& joint : running.scene.joints)
    if (running.find_joint(joint.name)) add_joint_views(frame.joints, joint, pose_of);
  frame.zones = running.scene.zones;
  frame.drawn = play.drawn();
  frame.hand = hand_of(play);
}

void renew_contacts(Frame& frame, std::span<const Touching> touching, const RunningScene& running) {
  frame.contacts.clear();
  for (const Touching& each : touching)
    if (running.world.alive(each.a) && running.world.alive(each.b))
      frame.contacts.push_back({running.name_of(each.a), running.name_of(each.b), each.point, each.normal, each.along,
                                each.across, each.points});
}

}  // namespace bronvel
