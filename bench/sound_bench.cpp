// Sound: what 32 voices and the hearing of a tick cost.
#include <chrono>
#include <cstdio>
#include <vector>

#include "play/run/play.h"
#include "scene/files/folder.h"
#include "sound/mixer.h"

using namespace bronvel;

namespace {

double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// So many boxes fall in a heap.
SceneFolder island(int count) {
  SceneFolder folder;
  Body ground;
  ground.name = "ground";
  ground.kind = MotionKind::fixed;
  ground.shape = Box{{60, 1, 60}};
  ground.position = {0, -0.5, 0};
  folder.scene.bodies.push_back(ground);
  for (int i = 0; i < count; ++i) {
    Body box;
    box.name = "box_" + std::to_string(i);
    box.shape = Box{{0.5, 0.4, 0.6}};
    box.position = {0.7 * (i % 10) - 3, 0.5 + 0.6 * (i / 100), 0.8 * (i / 10 % 10) - 3};
    box.orientation = Quat(Eigen::AngleAxisd(0.3 * i, Vec3(1, 2, 3).normalized()));
    folder.scene.bodies.push_back(box);
  }
  return folder;
}

}  // namespace

int main() {
  Mixer mixer;
  const auto strike = [&](int i) {
    Onset onset;
    onset.loudness = 0.5;
    onset.ring = ring_of(Box{{0.5 + 0.01 * i, 0.4, 0.6}}, "iron");  // rings longest
    onset.point = {0.1 * i, 1, 0};
    onset.chance = static_cast<std::uint64_t>(i);
    mixer.start(onset);
  };
  std::vector<Slide> slides(most_slides);
  for (std::size_t i = 0; i < slides.size(); ++i)
    slides[i] = {i, {0, 1, 0}, 0.2, 400.0 + 100.0 * static_cast<double>(i)};
  mixer.slide(slides);
  constexpr int seconds = 10;
  std::vector<float> stereo(2 * sound_rate / 100);
  double spent = 0;
  for (int part = 0; part < 100 * seconds; ++part) {
    if (part % 100 == 0)
      for (int i = 0; i < 40; ++i) strike(i);
    const double begin = now();
    mixer.render(stereo);
    spent += now() - begin;
  }
  std::printf("32 voices and 8 slides: %.2f %% of a core\n", 100 * spent / seconds);

  Play play(island(1000), 1);
  double ticks = 0, hearing = 0;
  for (int i = 0; i < 240; ++i) {
    double begin = now();
    play.step();
    ticks += now() - begin;
    begin = now();
    static_cast<void>(hear(play, [](const std::string&) { return false; }));
    hearing += now() - begin;
  }
  std::printf("hearing a heap of 1000 as it settles: %.3f ms a tick, %.2f %% of the tick\n", 1000 * hearing / 240,
              100 * hearing / ticks);
}
