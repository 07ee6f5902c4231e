// Saving, and what counts as saved.
#include "scene/edits/open_scene.h"

#include <algorithm>

#include "geometry/base/error.h"
#include "scene/document/names.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

namespace bronvel {

namespace {

// The meshes in the scene's folder, by file.
std::map<std::string, FileStamp> mesh_stamps(const std::filesystem::path& folder) {
  std::map<std::string, FileStamp> stamps;
  std::error_code none;
  if (folder.empty()) return stamps;
  for (const auto& entry : std::filesystem::directory_iterator(folder / "meshes", none))
    if (entry.is_regular_file(none) && entry.path().extension() == ".obj")
      stamps[entry.path().filename().string()] = {entry.last_write_time(none), entry.file_size(none)};
  return stamps;
}

}  // namespace

OpenScene::OpenScene(SceneFolder folder)
    : path_(std::move(folder.path)),
      history_(std::move(folder.scene)),
      typed_(folder.scripts),
      saved_(std::move(folder.scripts)) {
  if (!path_.empty() && std::filesystem::exists(path_ / "scene.json")) on_disk_ = read_file(path_ / "scene.json");
  note_meshes();
}

void OpenScene::note_meshes() {
  meshes_on_disk_ = mesh_stamps(path_);
}

bool OpenScene::script_unsaved(const std::string& file) const {
  const auto typed = typed_.find(file), on_disk = saved_.find(file);
  return typed != typed_.end() && (on_disk == saved_.end() || on_disk->second != typed->second);
}

DiskChanges OpenScene::changes_on_disk() const {
  DiskChanges changes;
  if (path_.empty()) return changes;
  std::error_code none;
  if (!std::filesystem::is_directory(path_, none)) {
    changes.gone = true;
    return changes;
  }
  try {
    changes.scene = read_file(path_ / "scene.json") != on_disk_;
    if (changes.scene && !history_.saved()) changes.clashes.emplace_back("scene.json");
    for (const auto& entry : std::filesystem::directory_iterator(path_ / "scripts", none)) {
      const std::string name = entry.path().filename().string();
      if (!entry.is_regular_file() || entry.path().extension() != ".lua") continue;
      const std::string text = read_file(entry.path());
      const auto saved = saved_.find(name), typed = typed_.find(name), kept = scripts_kept_.find(name);
      if ((saved != saved_.end() && saved->second == text) || (kept != scripts_kept_.end() && kept->second == text))
        continue;
      changes.scripts.push_back(name);
      const bool typed_in = typed != typed_.end() && (saved == saved_.end() || saved->second != typed->second);
      if (typed_in && typed->second != text) changes.clashes.push_back(name);
    }
    std::sort(changes.scripts.begin(), changes.scripts.end());
    for (const auto& [file, stamp] : mesh_stamps(path_))
      if (const auto known = meshes_on_disk_.find(file); known == meshes_on_disk_.end() || known->second != stamp)
        changes.meshes.push_back(file);
  } catch (const std::exception&) {
    // Being written just now; the next notice of the disk looks again.
    return {};
  }
  return changes;
}

std::vector<std::string> OpenScene::take_in_from_disk(bool all) {
  const DiskChanges changes = changes_on_disk();
  const auto taken = [&](const std::string& name) {
    return all || std::find(changes.clashes.begin(), changes.clashes.end(), name) == changes.clashes.end();
  };
  std::map<std::string, std::string> texts;
  for (const std::string& name : changes.scripts)
    if (taken(name)) texts[name] = read_file(path_ / "scripts" / name);
  const auto stamps = mesh_stamps(path_);
  if (changes.scene && taken("scene.json")) {
    const std::string text = read_file(path_ / "scene.json");
    Scene scene = open_folder(path_).scene;
    history_.edit("changed outside", [&](Scene& now) { now = std::move(scene); });
    history_.mark_saved();
    on_disk_ = text;
  } else if (!changes.meshes.empty()) {
    Models models = scene().models;
    for (const auto& [name, model] : read_models(path_)) models[name] = model;
    // Read anew, so that each shape is made of the mesh as it is now.
    Scene fresh = read_scene(write_scene(scene()), (path_ / "scene.json").string(), models);
    const bool saved = history_.saved();
    if (!(fresh == scene())) history_.edit("meshes changed outside", [&](Scene& now) { now = std::move(fresh); });
    if (saved) history_.mark_saved();
  }
  meshes_on_disk_ = stamps;
  std::vector<std::string> other;
  for (auto& [name, text] : texts) {
    if (const auto typed = typed_.find(name); typed == typed_.end() || typed->second != text) other.push_back(name);
    scripts_kept_.erase(name);
    typed_[name] = saved_[name] = std::move(text);
  }
  return other;
}

void OpenScene::keep_over_disk() {
  const DiskChanges changes = changes_on_disk();
  for (const std::string& name : changes.scripts) scripts_kept_[name] = read_file(path_ / "scripts" / name);
  if (!changes.scene) return;
  on_disk_ = read_file(path_ / "scene.json");
  history_.mark_unsaved();
}

std::vector<std::string> OpenScene::save() {
  if (path_.empty()) throw Error("", "the scene has no folder yet", "choose one with Save as");
  std::error_code none;
  if (!std::filesystem::is_directory(path_, none))
    throw Error(path_.string(), "is not there any more: it was moved, renamed or removed",
                "put it back, or save the scene elsewhere");
  return write();
}

std::vector<std::string> OpenScene::write() {
  save_folder(as_typed());
  note_meshes();
  scripts_kept_.clear();
  on_disk_ = read_file(path_ / "scene.json");
  std::vector<std::string> changed;
  for (const auto& [file, text] : typed_) {
    const auto before = saved_.find(file);
    if (before == saved_.end() || before->second != text) changed.push_back(file);
  }
  saved_ = typed_;
  history_.mark_saved();
  return changed;
}

std::vector<std::string> OpenScene::save_as(const std::filesystem::path& path) {
  const std::filesystem::path before = path_;
  path_ = path;
  try {
    return write();
  } catch (...) {
    path_ = before;
    throw;
  }
}

bool OpenScene::type_script(const std::string& file, const std::string& text) {
  std::string& kept = typed_[file];
  if (kept == text) return false;
  kept = text;
  return true;
}

std::string OpenScene::new_script(const std::string& file, const std::string& text) {
  const std::string stem = file.ends_with(".lua") ? file.substr(0, file.size() - 4) : file;
  const std::string name =
      free_name(stem, [&](const std::string& each) { return typed_.contains(each + ".lua"); }) + ".lua";
  typed_[name] = text;
  saved_[name] = text;  // in play from now on; saving the scene writes it
  return name;
}

}  // namespace bronvel
