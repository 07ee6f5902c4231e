// Saving, and what counts as saved.
#include "scene/open_scene.h"

#include "geometry/error.h"
#include "scene/names.h"

namespace bronvel {

OpenScene::OpenScene(SceneFolder folder)
    : path_(std::move(folder.path)),
      history_(std::move(folder.scene)),
      typed_(folder.scripts),
      saved_(std::move(folder.scripts)) {
  if (!path_.empty() && std::filesystem::exists(path_ / "scene.json")) on_disk_ = read_file(path_ / "scene.json");
}

bool OpenScene::script_unsaved(const std::string& file) const {
  const auto typed = typed_.find(file), on_disk = saved_.find(file);
  return typed != typed_.end() && (on_disk == saved_.end() || on_disk->second != typed->second);
}

bool OpenScene::changed_on_disk() const {
  if (path_.empty()) return false;
  try {
    if (read_file(path_ / "scene.json") != on_disk_) return true;
    for (const auto& [name, text] : saved_) {
      const std::filesystem::path file = path_ / "scripts" / name;
      if (std::filesystem::exists(file) && read_file(file) != text) return true;
    }
  } catch (const std::exception&) {
    // Being written just now; the next notice of the disk looks again.
  }
  return false;
}

std::vector<std::string> OpenScene::save() {
  if (path_.empty()) throw Error("", "the scene has no folder yet", "choose one with Save as");
  save_folder(as_typed());
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
    return save();
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
