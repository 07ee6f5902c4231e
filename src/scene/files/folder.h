// A scene on disk: a folder with scene.json, scripts/ and meshes/.
#pragma once

#include <filesystem>
#include <map>
#include <string>

#include "scene/document/document.h"

namespace bronvel {

struct SceneFolder {
  std::filesystem::path path;
  Scene scene;
  std::map<std::string, std::string> scripts;  ///< text by file name, "nudge.lua"
};

/// Opens the folder (or the scene.json in it). Throws Error, with nothing half-loaded.
SceneFolder open_folder(const std::filesystem::path& path);

/// The models in a scene folder's meshes/, by name. Throws Error.
Models read_models(const std::filesystem::path& folder);

/// Writes scene.json, and every script and model that differs from what is on disk.
void save_folder(const SceneFolder& folder);

/// Replaces the file's contents whole or not at all, even if the machine stops midway: written beside it, flushed to
/// disk, then renamed over it. Throws Error.
void write_atomically(const std::filesystem::path& file, const std::string& text);

/// The file's bytes. Throws Error.
std::string read_file(const std::filesystem::path& file);

}  // namespace bronvel
