// Recorded sounds: those of a scene's sounds/ folder, and files that are written of what was heard.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace bronvel {

/// Samples a second, Hz.
inline constexpr int sound_rate = 48000;

/// One sound, at `sound_rate`, both ears in one.
struct Recording {
  std::vector<float> samples;
};

/// A wav, ogg or flac file, brought to `sound_rate`. Throws Error when it is none, is longer than a minute or can't be
/// read.
Recording read_sound(const std::filesystem::path& file);

/// Writes left and right in turn as 16-bit WAV. Throws Error when it can't be written whole.
void write_wav(const std::filesystem::path& file, std::span<const float> stereo);

/// The sounds of a scene by name.
class SoundBank {
 public:
  /// Of a scene's folder; an empty path has none. What can't be read is told by `faults` and left out.
  static SoundBank of(const std::filesystem::path& scene_folder);

  bool has(const std::string& name) const { return recordings_.contains(name); }
  std::shared_ptr<const Recording> find(const std::string& name) const;
  const std::vector<std::string>& faults() const { return faults_; }

 private:
  std::map<std::string, std::shared_ptr<const Recording>> recordings_;
  std::vector<std::string> faults_;
};

}  // namespace bronvel
