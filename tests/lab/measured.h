// Small scenes that are measured: what they do has a closed form.
#pragma once

#include "lab/measures/trial.h"
#include "script/scenes.h"

namespace bronvel {

inline constexpr double g = 9.81;

/// A ball of 0.1 m on nothing at the origin, without drag, thrown by `velocity`.
inline SceneFolder thrown(const Vec3& velocity, double tick_rate = 60) {
  SceneFolder folder;
  folder.scene.world.tick_rate = tick_rate;
  Body ball = ball_at("ball", Vec3::Zero(), 1);
  ball.shape = Sphere{0.1};
  ball.velocity = velocity;
  folder.scene.bodies = {ball};
  return folder;
}

/// The same over a floor whose top is at `floor_top`; both give `restitution`, and no friction.
inline SceneFolder thrown_over(double floor_top, const Vec3& velocity, double restitution, double tick_rate = 60) {
  SceneFolder folder = thrown(velocity, tick_rate);
  Body floor = fixed_floor();
  floor.position.y() = floor_top - 0.5;
  floor.restitution = restitution;
  floor.friction = 0;
  folder.scene.bodies[0].restitution = restitution;
  folder.scene.bodies[0].friction = 0;
  folder.scene.bodies.push_back(floor);
  return folder;
}

inline double measured(const SceneFolder& folder, const std::string& measure, double seconds) {
  const Measure one = measure_called(measure, folder.scene, folder.path.string());
  const TrialAnswer answer = try_out(question_of(Study::of(folder, seconds), {}), std::span(&one, 1));
  return answer.values.at(0);
}

}  // namespace bronvel
