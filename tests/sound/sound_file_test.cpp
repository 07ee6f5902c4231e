// Sound files: what is written is read, what is none is refused, and a scene's sounds are found by name.
#include "sound/sound_file.h"

#include <sndfile.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "geometry/base/error.h"

using namespace bronvel;

namespace {

namespace fs = std::filesystem;

fs::path sounds_place() {
  const fs::path path = fs::temp_directory_path() / ("bronvel_sounds_" + std::to_string(getpid()));
  fs::create_directories(path / "sounds");
  return path;
}

std::vector<float> tone(double pitch, double seconds, int channels, int rate = sound_rate) {
  std::vector<float> samples;
  for (int i = 0; i < static_cast<int>(seconds * rate); ++i)
    for (int c = 0; c < channels; ++c)
      samples.push_back(static_cast<float>(0.5 * std::sin(2 * 3.14159265358979 * pitch * i / rate)));
  return samples;
}

void write(const fs::path& file, int format, int channels, int rate, const std::vector<float>& samples) {
  SF_INFO info{};
  info.format = format;
  info.channels = channels;
  info.samplerate = rate;
  SNDFILE* out = sf_open(file.c_str(), SFM_WRITE, &info);
  REQUIRE(out);
  sf_writef_float(out, samples.data(), static_cast<sf_count_t>(samples.size()) / channels);
  sf_close(out);
}

// How often the sound goes through zero upwards, a second.
double pitch_of(const Recording& sound) {
  int times = 0;
  for (std::size_t i = 1; i < sound.samples.size(); ++i)
    times += sound.samples[i - 1] < 0 && sound.samples[i] >= 0 ? 1 : 0;
  return times * static_cast<double>(sound_rate) / static_cast<double>(sound.samples.size());
}

}  // namespace

TEST_CASE("what is written as WAV is read back, both ears in one") {
  const fs::path file = sounds_place() / "written.wav";
  const std::vector<float> stereo = tone(440, 0.5, 2);
  write_wav(file, stereo);
  const Recording sound = read_sound(file);
  REQUIRE(sound.samples.size() == stereo.size() / 2);
  double farthest = 0;
  for (std::size_t i = 0; i < sound.samples.size(); ++i)
    farthest = std::max(farthest, static_cast<double>(std::abs(sound.samples[i] - stereo[2 * i])));
  CHECK(farthest < 2.0 / 32768);
  CHECK(pitch_of(sound) == Approx(440).epsilon(0.01));
}

TEST_CASE("a recording at another rate keeps its tones, and none comes in from above what ours can hold") {
  const fs::path file = sounds_place() / "resampled.wav";
  const auto loudness = [&](double pitch, int rate) {
    write(file, SF_FORMAT_WAV | SF_FORMAT_FLOAT, 1, rate, tone(pitch, 0.5, 1, rate));
    const Recording sound = read_sound(file);
    double square = 0;
    const std::size_t edge = sound.samples.size() / 10, last = sound.samples.size() - edge;
    for (std::size_t i = edge; i < last; ++i) square += std::pow(static_cast<double>(sound.samples[i]), 2);
    return std::sqrt(square / static_cast<double>(last - edge));
  };
  const double whole = 0.5 / std::sqrt(2.0);
  for (const auto& [pitch, rate] : {std::pair{1000.0, 44100}, {10000.0, 44100}, {3000.0, 8000}, {15000.0, 96000}}) {
    INFO(pitch << " Hz at " << rate);
    CHECK(loudness(pitch, rate) == Approx(whole).epsilon(0.01));
  }
  CHECK(loudness(40000, 96000) < 1e-3 * whole);
  CHECK(loudness(30000, 192000) < 1e-3 * whole);
}

TEST_CASE("sounds of other rates and kinds keep their pitch and length") {
  const fs::path place = sounds_place();
  for (const int rate : {8000, 22050, 44100, 96000})
    for (const int format :
         {SF_FORMAT_WAV | SF_FORMAT_PCM_16, SF_FORMAT_FLAC | SF_FORMAT_PCM_16, SF_FORMAT_OGG | SF_FORMAT_VORBIS}) {
      INFO(rate << " Hz, format " << std::hex << format);
      const fs::path file = place / "other.snd";
      write(file, format, 1, rate, tone(440, 0.5, 1, rate));
      const Recording sound = read_sound(file);
      CHECK(static_cast<double>(sound.samples.size()) == Approx(0.5 * sound_rate).epsilon(0.01));
      CHECK(pitch_of(sound) == Approx(440).epsilon(0.02));
    }
}

TEST_CASE("what is no sound, or too long a one, is refused with words") {
  const fs::path place = sounds_place();
  CHECK_THROWS_AS(read_sound(place / "nothing.wav"), Error);
  std::ofstream(place / "text.wav") << "not a sound at all";
  CHECK_THROWS_AS(read_sound(place / "text.wav"), Error);
  std::ofstream(place / "empty.wav");
  CHECK_THROWS_AS(read_sound(place / "empty.wav"), Error);
  CHECK_THROWS_AS(read_sound(place), Error);
  write(place / "long.wav", SF_FORMAT_WAV | SF_FORMAT_PCM_16, 1, 8000, std::vector<float>(8000 * 61));
  CHECK_THROWS_WITH(read_sound(place / "long.wav"), Catch::Contains("minute"));
  // Cut short in any place it is read as far as it goes, or refused.
  write(place / "whole.wav", SF_FORMAT_WAV | SF_FORMAT_PCM_16, 1, 8000, tone(440, 0.1, 1, 8000));
  std::ifstream in(place / "whole.wav", std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(in), {}};
  for (std::size_t length = 0; length < bytes.size(); length += 37) {
    std::ofstream(place / "cut.wav", std::ios::binary) << bytes.substr(0, length);
    try {
      const Recording sound = read_sound(place / "cut.wav");
      for (const float sample : sound.samples) CHECK(std::isfinite(sample));
    } catch (const Error&) {
    }
  }
}

TEST_CASE("a disk that is full is said, and a folder that is gone") {
  CHECK_THROWS_AS(write_wav("/dev/full", tone(440, 1, 2)), Error);
  CHECK_THROWS_AS(write_wav("/nowhere/at/all.wav", tone(440, 0.1, 2)), Error);
}

TEST_CASE("a scene's sounds are found by name, and those that can't be read are told") {
  const fs::path place = sounds_place();
  for (const auto& entry : fs::directory_iterator(place / "sounds")) fs::remove(entry.path());
  write(place / "sounds" / "knock.wav", SF_FORMAT_WAV | SF_FORMAT_PCM_16, 1, sound_rate, tone(200, 0.1, 1));
  write(place / "sounds" / "creak.flac", SF_FORMAT_FLAC | SF_FORMAT_PCM_16, 2, sound_rate, tone(100, 0.1, 2));
  std::ofstream(place / "sounds" / "broken.wav") << "no";
  std::ofstream(place / "sounds" / "notes.txt") << "not meant as a sound";
  const SoundBank bank = SoundBank::of(place);
  CHECK(bank.has("knock"));
  CHECK(bank.has("creak"));
  CHECK_FALSE(bank.has("broken"));
  CHECK_FALSE(bank.has("notes"));
  CHECK(bank.find("knock")->samples.size() == sound_rate / 10);
  CHECK_FALSE(bank.find("no such"));
  REQUIRE(bank.faults().size() == 1);
  CHECK(bank.faults()[0].find("broken.wav") != std::string::npos);
  CHECK(SoundBank::of("").faults().empty());
  CHECK(SoundBank::of(place / "nowhere").faults().empty());
}
