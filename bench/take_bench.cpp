// Takes: what recording costs, how much memory they take, how long a look back and asking again take.
#include <chrono>
#include <cstdio>
#include <random>

#include "lab/ask/ask.h"
#include "lab/takes/take_reader.h"

using namespace bronvel;

namespace {

double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

SceneFolder pile(int count, bool awake) {
  SceneFolder folder;
  Scene& scene = folder.scene;
  Body ground;
  ground.name = "ground";
  ground.kind = MotionKind::fixed;
  ground.shape = Box{{200, 1, 200}};
  ground.position = {0, -0.5, 0};
  scene.bodies.push_back(ground);
  std::mt19937 random(3);
  std::uniform_real_distribution<double> shift(-0.1, 0.1);
  for (int i = 0; i < count; ++i) {
    Body b;
    b.name = "cask_" + std::to_string(i);
    if (i % 2 == 0)
      b.shape = Box{{0.8, 0.6, 0.7}};
    else
      b.shape = Sphere{0.4};
    b.position = {1.0 * (i % 10) + shift(random), 1 + 0.9 * (i / 100), 1.0 * (i / 10 % 10) + shift(random)};
    b.may_sleep = !awake;
    scene.bodies.push_back(b);
  }
  return folder;
}

// Seconds a tick without and with recording, in turn, of the same play.
void recording(const char* name, const SceneFolder& folder, std::int64_t ticks) {
  double plain = 0, whole = 0;
  Play a(folder, 1), b(folder, 1);
  TakeRecorder recorder(folder, b);
  for (std::int64_t i = 0; i < ticks; ++i) {
    double start = now();
    a.step();
    plain += now() - start;
    start = now();
    b.step();
    recorder.record(b, b.take_log());
    whole += now() - start;
  }
  const Take& take = recorder.take();
  const double moving = static_cast<double>(take.bodies.size()) * take.seconds();
  std::printf("recording %-22s %8.3f ms a tick, of %8.3f (%+.1f %%), %7.0f bytes a body and second\n", name,
              1000 * (whole - plain) / static_cast<double>(ticks), 1000 * plain / static_cast<double>(ticks),
              100 * (whole / plain - 1), static_cast<double>(take.bytes()) / moving);
}

// A take as long as an hour, made of a walk instead of a play.
Take an_hour(int bodies, double rate) {
  Take take;
  take.folder.scene.world.tick_rate = rate;
  Packer packer;
  std::mt19937 random(5);
  std::normal_distribution<double> push(0, 1);
  for (int i = 0; i < bodies; ++i) {
    BodyTrack track;
    track.name = "b" + std::to_string(i);
    track.rows = PackedRows(body_columns, 1 + i % 100);
    auto settings = std::make_shared<Body>();
    settings->name = track.name;
    track.settings.push_back({0, settings, {}});
    take.body_of[track.name] = static_cast<std::size_t>(i);
    take.bodies.push_back(std::move(track));
  }
  take.ticks = static_cast<std::int64_t>(3600 * rate);
  for (BodyTrack& track : take.bodies) {
    std::array<double, 16> row{};
    row[6] = row[15] = 1;
    for (std::int64_t tick = 0; tick < take.ticks; ++tick) {
      // Hits now and then, gravity between them, rest for half of the time.
      if (tick / 1200 % 2 == 0) {
        row[8] -= 9.81 / rate;
        if (tick % 97 == 0) row[7] = push(random), row[8] = std::abs(5 * push(random)), row[9] = push(random);
      } else {
        row[7] = row[8] = row[9] = 0;
      }
      for (std::size_t k = 0; k < 3; ++k) row[k] += row[k + 7] / rate;
      track.rows.add(row.data(), packer);
    }
  }
  return take;
}

void looking(int bodies) {
  const double rate = 120;
  const Take take = an_hour(bodies, rate);
  std::mt19937_64 random(9);
  TakeReader reader;
  double jump = 0, next = 0, sum_jump = 0;
  constexpr int looks = 60;
  for (int i = 0; i < looks; ++i) {
    const auto tick = static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(take.ticks - 2));
    double start = now();
    reader.frame(take, tick);
    jump = std::max(jump, now() - start);
    sum_jump += now() - start;
    start = now();
    reader.frame(take, tick + 1);
    next = std::max(next, now() - start);
  }
  std::vector<double> values;
  Channel speed;
  speed.owner = "b0";
  speed.quantity = "speed";
  const double start = now();
  reader.numbers(take, speed, 0, 0, take.ticks, values);
  std::printf(
      "an hour of %d bodies at 120 Hz: %.0f MB; jump at most %.2f ms (mean %.2f), next tick %.2f ms, a lane of it %.0f "
      "ms\n",
      bodies, static_cast<double>(take.bytes()) / 1e6, 1000 * jump, 1000 * sum_jump / looks, 1000 * next,
      1000 * (now() - start));
}

void asking(const char* name, const SceneFolder& folder, double seconds) {
  const auto ticks = static_cast<std::int64_t>(seconds * folder.scene.world.tick_rate);
  double best = 1e9, first_second = 1e9;
  for (int i = 0; i < 5; ++i) {
    const double start = now();
    double at_first = 0;
    ask({folder, 1, {}, ticks}, nullptr, [&](Play& play) {
      if (play.tick() == static_cast<std::int64_t>(folder.scene.world.tick_rate)) at_first = now() - start;
      return true;
    });
    best = std::min(best, now() - start);
    first_second = std::min(first_second, at_first);
  }
  std::printf("asking %s again, %.0f s: %.1f ms, its first second after %.1f ms\n", name, seconds, 1000 * best,
              1000 * first_second);
}

}  // namespace

int main(int argc, char** argv) {
  const SceneFolder quay = open_folder(argc > 1 ? argv[1] : "examples/skerrow-quay");
  recording("the quay", quay, 1200);
  recording("a pile of 1,000, awake", pile(1000, true), 240);
  recording("a pile of 1,000, asleep", pile(1000, false), 600);
  looking(100);
  asking("the quay", quay, 5);
  asking("200 bodies", pile(200, false), 5);
  return 0;
}
