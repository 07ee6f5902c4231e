// Takes on disk: one SQLite file each, with the scene, scripts, seed and inputs as they were, and all that was
// recorded.
#pragma once

#include <filesystem>

#include "lab/takes/take.h"

namespace bronvel {

/// What is said of a take beside what is in it.
struct TakeLabel {
  int number = 1;
  std::string name, note;
  bool pinned = false;
  std::string about;  ///< what was different from the take before
};

struct TakeFile {
  TakeLabel label;
  Take take;
};

/// Of the file's form. A newer one is refused.
inline constexpr int take_version = 6;

/// Whole or not at all: written beside the file and renamed over it. Throws Error.
void save_take(const Take& take, const TakeLabel& label, const std::filesystem::path& file, int version = take_version);

/// Throws Error when it is no take, is of a newer version, was cut short or altered.
TakeFile open_take(const std::filesystem::path& file);

/// What is said of it, without reading the rest. Throws Error likewise.
TakeLabel read_take_label(const std::filesystem::path& file);

/// What is in it, as lines or as JSON.
std::string take_summary(const TakeFile& file);
std::string take_summary_json(const TakeFile& file);

}  // namespace bronvel
