// What is heard of plays, of takes, and in the files that are written of them.
#include "sound/heard.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "folders.h"
#include "geometry/base/error.h"
#include "lab/ask/headless.h"
#include "lab/takes/take_heard.h"
#include "scene/document/voice.h"
#include "scene/files/fault.h"
#include "scene/files/read.h"
#include "scene/files/write.h"
#include "script/scenes.h"
#include "sound/soundtrack.h"

using namespace bronvel;

namespace {

const auto no_files = [](const std::string&) { return false; };

// A ball above a floor, both of oak.
SceneFolder drop(double height, double mass = 5) {
  SceneFolder folder;
  Scene& s = folder.scene;
  s.world.tick_rate = 100;
  s.surfaces["oak"] = Surface{};
  Body floor = fixed_floor();
  floor.surface = "oak";
  Body ball = ball_at("ball", {0, 0.5 + height, 0}, mass);
  ball.surface = "oak";
  s.bodies = {floor, ball};
  return folder;
}

// The first onset, and the tick of the first touch.
struct First {
  std::int64_t touch = -1, onset = -1;
  double loudness = 0, pitch = 0, contact = 0;
};
First first_of(const SceneFolder& folder, std::uint64_t seed = 1) {
  Play play(folder, seed);
  First first;
  for (int i = 0; i < 300 && first.onset < 0; ++i) {
    play.step();
    for (const PlayEvent& e : play.events())
      if (first.touch < 0 && e.phase == ContactPhase::touch) first.touch = e.tick;
    const Heard heard = hear(play, no_files);
    if (heard.onsets.empty()) continue;
    first.onset = heard.onsets[0].tick;
    first.loudness = heard.onsets[0].loudness;
    first.pitch = heard.onsets[0].pitch;
    first.contact = heard.onsets[0].contact;
  }
  return first;
}

std::filesystem::path fresh(const std::string& name) {
  const auto folder = std::filesystem::temp_directory_path() / ("bronvel-heard-" + name);
  std::filesystem::remove_all(folder);
  std::filesystem::create_directories(folder);
  return folder;
}

// Left ear of a WAV, −1 to 1.
std::vector<float> left_of(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary);
  const std::string bytes((std::istreambuf_iterator<char>(in)), {});
  REQUIRE(bytes.size() > 44);
  std::vector<float> left;
  for (std::size_t i = 44; i + 3 < bytes.size(); i += 4)
    left.push_back(static_cast<float>(static_cast<std::int16_t>(static_cast<std::uint8_t>(bytes[i]) |
                                                                static_cast<std::uint8_t>(bytes[i + 1]) << 8)) /
                   32768);
  return left;
}

double peak(const std::vector<float>& samples, double from, double to) {
  double most = 0;
  for (auto i = static_cast<std::size_t>(from * sound_rate);
       i < std::min(samples.size(), static_cast<std::size_t>(to * sound_rate)); ++i)
    most = std::max(most, std::abs(static_cast<double>(samples[i])));
  return most;
}

double energy(const std::vector<float>& samples, double from, double to) {
  double sum = 0;
  for (auto i = static_cast<std::size_t>(from * sound_rate); i < static_cast<std::size_t>(to * sound_rate); ++i)
    sum += static_cast<double>(samples[i]) * static_cast<double>(samples[i]);
  return sum;
}

// Times that it passes from below 0 to above it, a second.
double crossings(const std::vector<float>& samples, double from, double to) {
  int count = 0;
  for (auto i = static_cast<std::size_t>(from * sound_rate); i + 1 < static_cast<std::size_t>(to * sound_rate); ++i)
    if (samples[i] < 0 && samples[i + 1] >= 0) ++count;
  return count / (to - from);
}

std::vector<float> tone(double frequency, double seconds) {
  std::vector<float> stereo;
  for (int i = 0; i < static_cast<int>(seconds * sound_rate); ++i)
    for (int side = 0; side < 2; ++side)
      stereo.push_back(static_cast<float>(0.5 * std::sin(2 * pi * frequency * i / sound_rate)));
  return stereo;
}

}  // namespace

TEST_CASE("a hit is heard in its tick, a harder one louder and brighter, a silent body not at all") {
  const First low = first_of(drop(0.5)), high = first_of(drop(4));
  CHECK(low.onset == low.touch);
  CHECK(high.onset == high.touch);
  CHECK(high.loudness > 1.2 * low.loudness);
  CHECK(high.contact < low.contact);
  SceneFolder silent = drop(1);
  for (Body& body : silent.scene.bodies) body.silent = true;
  CHECK(first_of(silent).onset == -1);
}

TEST_CASE("chance is the take's: the same seed the same pitch, another another, within what the surface allows") {
  SceneFolder folder = drop(1);
  folder.scene.surfaces["oak"].pitch_spread = 0.2;
  const double one = first_of(folder, 1).pitch, other = first_of(folder, 2).pitch;
  CHECK(first_of(folder, 1).pitch == one);
  CHECK(one != other);
  CHECK(std::abs(one - 1) <= 0.2);
  folder.scene.surfaces["oak"].pitch_spread = 0;
  CHECK(first_of(folder, 3).pitch == 1);
}

TEST_CASE("sliding is heard while it slides, and rest is not") {
  SceneFolder folder = drop(0);
  Body& block = folder.scene.bodies[1];
  block.shape = Box{{0.5, 0.5, 0.5}};
  block.position = {0, 0.25, 0};
  block.velocity = {3, 0, 0};
  Play play(folder, 1);
  bool slid = false;
  double last = 0;
  for (int i = 0; i < 200; ++i) {
    play.step();
    const Heard heard = hear(play, no_files);
    slid = slid || !heard.slides.empty();
    if (!heard.slides.empty()) last = play.time();
  }
  CHECK(slid);
  CHECK(last > 0.3);
  CHECK(last < 1.2);  // v / (mu g) = 3 / (0.4 × 9.81) = 0.76 s
}

TEST_CASE("a take is heard as its play was") {
  SceneFolder folder = drop(1);
  folder.scene.bodies[1].scripts.push_back({"act.lua", {}});
  folder.scripts["act.lua"] = "function on.touch(hit) sound('bell', 0.5, 2) end";
  Body block = ball_at("block", {4, 0.25, 0});
  block.shape = Box{{0.5, 0.5, 0.5}};
  block.velocity = {3, 0, 0};
  folder.scene.bodies.push_back(block);
  Play play(folder, 7);
  TakeRecorder recorder(folder, play);
  std::vector<Heard> live{{}};
  for (int i = 0; i < 150; ++i) {
    play.step();
    recorder.record(play, play.take_log());
    live.push_back(hear(play, no_files));
  }
  TakeReader reader;
  std::size_t onsets = 0, slides = 0;
  for (std::int64_t tick = 1; tick <= 150; ++tick) {
    const Heard again = hear(recorder.take(), reader, tick, no_files);
    const Heard& then = live[static_cast<std::size_t>(tick)];
    REQUIRE(again.onsets.size() == then.onsets.size());
    for (std::size_t k = 0; k < then.onsets.size(); ++k, ++onsets) {
      CHECK(again.onsets[k].loudness == then.onsets[k].loudness);
      CHECK(again.onsets[k].pitch == then.onsets[k].pitch);
      CHECK(again.onsets[k].chance == then.onsets[k].chance);
      CHECK(again.onsets[k].name == then.onsets[k].name);
    }
    // Forces are kept to 1 %, so what can just be heard may be missing in one of them.
    for (const auto& [some, others] : {std::pair(&again.slides, &then.slides), std::pair(&then.slides, &again.slides)})
      for (const Slide& slide : *some) {
        if (slide.loudness < 0.01) continue;
        const auto same =
            std::find_if(others->begin(), others->end(), [&](const Slide& other) { return other.pair == slide.pair; });
        REQUIRE(same != others->end());
        CHECK(same->loudness == Approx(slide.loudness).epsilon(0.03));
        ++slides;
      }
  }
  CHECK(onsets > 2);
  CHECK(slides > 20);
}

TEST_CASE("a file of it: the hit within a tick, a harder one louder, pitch as asked, the digest the same") {
  const auto folder = fresh("file");
  const auto play_of = [&](double height, const std::string& script) {
    SceneFolder scene = drop(height);
    scene.path = folder / "scene";
    std::filesystem::remove_all(scene.path);
    scene.scene.bodies[1].scripts.push_back({"act.lua", {}});
    scene.scripts["act.lua"] = script;
    for (Body& body : scene.scene.bodies) body.silent = !script.empty();
    save_folder(scene);
    std::filesystem::create_directories(scene.path / "sounds");
    write_wav(scene.path / "sounds" / "pipe.wav", tone(440, 0.5));
    HeadlessRequest request;
    request.scene = scene.path.string();
    request.seconds = 2;
    const std::uint64_t without = play_headless(request).digest;
    request.wav_file = (folder / "heard.wav").string();
    CHECK(play_headless(request).digest == without);
    return left_of(request.wav_file);
  };
  const First soft = first_of(drop(1));
  const std::vector<float> low = play_of(1, ""), high = play_of(4, "");
  const double touch = static_cast<double>(soft.touch) / 100;
  CHECK(peak(low, 0, touch) == 0);
  CHECK(peak(low, touch, touch + 0.01) > 0.01);
  const double later = static_cast<double>(first_of(drop(4)).touch) / 100;
  CHECK(energy(high, later, later + 0.2) > 1.3 * energy(low, touch, touch + 0.2));
  const auto pitched = play_of(1, "function on.play() sound('pipe', 1, 1) end function on.cue() end");
  CHECK(crossings(pitched, 0.1, 0.4) == Approx(440).epsilon(0.02));
  const auto octave = play_of(1, "function on.play() sound('pipe', 1, 2) end");
  CHECK(crossings(octave, 0.05, 0.2) == Approx(880).epsilon(0.02));
  HeadlessRequest request;
  request.scene = (folder / "scene").string();
  request.seconds = 0.1;
  request.wav_file = (folder / "no such folder" / "heard.wav").string();
  CHECK_THROWS_WITH(play_headless(request), Catch::Contains("heard.wav"));
}

TEST_CASE("files that are no sounds are told and left out; what is not there is heard in the body's voice") {
  const auto folder = fresh("bank");
  std::filesystem::create_directories(folder / "sounds");
  std::ofstream(folder / "sounds" / "broken.ogg") << "no sound";
  std::ofstream(folder / "sounds" / "empty.wav") << "";
  write_wav(folder / "sounds" / "good.wav", tone(300, 0.1));
  const SoundBank bank = SoundBank::of(folder);
  CHECK(bank.has("good"));
  CHECK_FALSE(bank.has("broken"));
  REQUIRE(bank.faults().size() == 2);
  CHECK_THAT(bank.faults()[0], Catch::Contains("broken.ogg") && Catch::Contains("wav, ogg or flac"));
  CHECK(SoundBank::of(folder / "nowhere").faults().empty());
  CHECK_THROWS_AS(read_sound(folder), Error);
  CHECK_THROWS_AS(read_sound("/dev/zero"), Error);

  SceneFolder scene = drop(1);
  scene.scene.bodies[1].scripts.push_back({"act.lua", {}});
  scene.scripts["act.lua"] = "function on.play() sound('gone') sound('iron') end";
  Play play(scene, 1);
  play.step();
  const Heard heard = hear(play, no_files);
  REQUIRE(heard.onsets.size() == 2);
  for (const Onset& onset : heard.onsets) CHECK(onset.kind == Onset::Kind::struck);
  const double own = ring_of(Sphere{0.5}, "wood").modes[0].frequency,
               iron = ring_of(Sphere{0.5}, "iron").modes[0].frequency;
  CHECK(heard.onsets[0].ring.modes[0].frequency == own);
  CHECK(heard.onsets[1].ring.modes[0].frequency == iron);
}

TEST_CASE("voices, spreads, silence and tasks are kept with the scene, and checked") {
  Scene scene = drop(1).scene;
  scene.surfaces["oak"].voice = "glass";
  scene.surfaces["oak"].pitch_spread = 0.5;
  scene.bodies[1].silent = true;
  scene.tasks = {"drop it from higher", "make it of iron"};
  CHECK(read_scene(write_scene(scene), "scene.json") == scene);
  CHECK(voice_of(scene, "oak") == "glass");
  CHECK(voice_of(scene, "wet_rope") == "rope");
  CHECK(voice_of(scene, "granite") == "stone");
  CHECK(voice_of(scene, "") == "wood");
  scene.surfaces["oak"].voice = "trumpet";
  REQUIRE(scene_fault(scene));
  CHECK_THAT(scene_fault(scene)->what, Catch::Contains("trumpet"));
  scene.surfaces["oak"].voice.clear();
  scene.surfaces["oak"].loudness_spread = 2;
  CHECK(scene_fault(scene));
}
