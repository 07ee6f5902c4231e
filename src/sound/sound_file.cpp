// Reading and writing sounds with libsndfile.
#include "sound/sound_file.h"

#include <samplerate.h>
#include <sndfile.h>

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

struct Closed {
  void operator()(SNDFILE* file) const { sf_close(file); }
};
using File = std::unique_ptr<SNDFILE, Closed>;

constexpr double longest = 60;  // s
constexpr const char* remedy = "wav, ogg or flac of up to a minute";

// By a windowed sinc, which lets nothing through that our rate can't hold.
std::vector<float> at_our_rate(const std::vector<float>& from, int its_rate) {
  if (its_rate == sound_rate || from.empty()) return from;
  const double ratio = static_cast<double>(sound_rate) / its_rate;
  std::vector<float> made(static_cast<std::size_t>(static_cast<double>(from.size()) * ratio));
  SRC_DATA data{};
  data.data_in = from.data();
  data.input_frames = static_cast<long>(from.size());
  data.data_out = made.data();
  data.output_frames = static_cast<long>(made.size());
  data.src_ratio = ratio;
  if (const int fault = src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1); fault != 0)
    throw Error("sound", std::string("can't be brought to our rate: ") + src_strerror(fault));
  for (float& sample : made) sample = std::clamp(sample, -1.0F, 1.0F);
  return made;
}

}  // namespace

Recording read_sound(const std::filesystem::path& path) {
  const std::string name = path.string();
  if (!std::filesystem::is_regular_file(path)) throw Error(name, "is no file", remedy);
  SF_INFO info{};
  const File file(sf_open(name.c_str(), SFM_READ, &info));
  if (!file) throw Error(name, std::string("is no sound that can be read: ") + sf_strerror(nullptr), remedy);
  if (info.channels < 1 || info.channels > 8 || info.samplerate < 1000 || info.samplerate > 400000)
    throw Error(name,
                "has " + std::to_string(info.channels) + " channels at " + std::to_string(info.samplerate) + " Hz",
                remedy);
  if (static_cast<double>(info.frames) > longest * info.samplerate)
    throw Error(name, "is longer than a minute", remedy);
  const auto channels = static_cast<std::size_t>(info.channels);
  std::vector<float> both(static_cast<std::size_t>(info.frames) * channels);
  const sf_count_t frames = sf_readf_float(file.get(), both.data(), info.frames);
  if (frames <= 0) throw Error(name, "has no sound in it", remedy);
  std::vector<float> one(static_cast<std::size_t>(frames));
  for (std::size_t i = 0; i < one.size(); ++i) {
    float sum = 0;
    for (std::size_t c = 0; c < channels; ++c) sum += both[i * channels + c];
    one[i] = std::isfinite(sum) ? std::clamp(sum / static_cast<float>(channels), -1.0F, 1.0F) : 0;
  }
  return {at_our_rate(one, info.samplerate)};
}

void write_wav(const std::filesystem::path& path, std::span<const float> stereo) {
  SF_INFO info{};
  info.channels = 2;
  info.samplerate = sound_rate;
  info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
  const std::string name = path.string();
  File file(sf_open(name.c_str(), SFM_WRITE, &info));
  if (!file) throw Error(name, "can't be written", "is the folder there?");
  const auto frames = static_cast<sf_count_t>(stereo.size() / 2);
  const bool whole = sf_writef_float(file.get(), stereo.data(), frames) == frames;
  if (sf_close(file.release()) != 0 || !whole)
    throw Error(name, "could not be written to its end", "is the disk full?");
}

SoundBank SoundBank::of(const std::filesystem::path& scene_folder) {
  SoundBank bank;
  std::error_code none;
  const std::filesystem::path folder = scene_folder / "sounds";
  if (scene_folder.empty() || !std::filesystem::is_directory(folder, none)) return bank;
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(folder, none)) files.push_back(entry.path());
  std::sort(files.begin(), files.end());  // of two of one name the first
  constexpr std::size_t most = 200;
  for (const std::filesystem::path& file : files) {
    const std::string kind = file.extension().string(), name = file.stem().string();
    if ((kind != ".wav" && kind != ".ogg" && kind != ".flac") || bank.has(name)) continue;
    if (bank.recordings_.size() >= most) {
      bank.faults_.push_back(folder.string() + ": only the first 200 sounds are taken");
      break;
    }
    try {
      bank.recordings_[name] = std::make_shared<const Recording>(read_sound(file));
    } catch (const Error& e) {
      bank.faults_.emplace_back(e.what());
    }
  }
  return bank;
}

std::shared_ptr<const Recording> SoundBank::find(const std::string& name) const {
  const auto found = recordings_.find(name);
  return found == recordings_.end() ? nullptr : found->second;
}

}  // namespace bronvel
