// A scene folder that is open for work: its history, and its scripts as they are typed and as they were saved.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "scene/edits/history.h"
#include "scene/files/folder.h"

namespace bronvel {

/// What another program did to the files of a scene that is open.
struct DiskChanges {
  bool gone = false;                 ///< the folder is not there any more
  bool scene = false;                ///< scene.json
  std::vector<std::string> scripts;  ///< by file: changed, or new
  std::vector<std::string> meshes;   ///< by file: changed, or new
  std::vector<std::string> clashes;  ///< of all these, what is changed here and not saved: "scene.json", "nudge.lua"
  bool any() const { return scene || !scripts.empty() || !meshes.empty(); }
};

/// Tells whether a file was written since: reading a large one each time would take too long.
struct FileStamp {
  std::filesystem::file_time_type written{};
  std::uintmax_t bytes = 0;
  bool operator==(const FileStamp&) const = default;
};

class OpenScene {
 public:
  explicit OpenScene(SceneFolder folder = {});

  const std::filesystem::path& path() const { return path_; }  ///< empty: it has no folder yet
  const Scene& scene() const { return history_.scene(); }
  History& history() { return history_; }
  const History& history() const { return history_; }
  const std::map<std::string, std::string>& scripts() const { return typed_; }  ///< as typed
  SceneFolder as_typed() const { return {path_, scene(), typed_}; }
  SceneFolder as_played() const { return {path_, scene(), saved_}; }  ///< with the scripts as last saved
  const std::map<std::string, std::string>& saved_scripts() const { return saved_; }

  bool saved() const { return history_.saved() && typed_ == saved_; }
  bool script_unsaved(const std::string& file) const;
  /// Which of the scene's files another program changed since they were opened or saved.
  DiskChanges changes_on_disk() const;
  /// Takes in what was changed there, and gives the scripts that are other ones now: scripts and scene that are not
  /// changed here as well; with `all`, those too. Meshes can't be changed here: theirs are taken. The scene becomes a
  /// step that can be undone, and counts as saved. Throws Error, taking nothing, when the scene or a mesh there can't
  /// be read.
  std::vector<std::string> take_in_from_disk(bool all);
  /// What was changed here stays, and goes over what is on disk with the next save.
  void keep_over_disk();

  /// Writes scene and scripts, and the meshes that are not there as they are here; gives the scripts that were typed in
  /// since the last time. Throws Error, also when it has no folder yet; then nothing counts as saved.
  std::vector<std::string> save();
  /// Into another folder, which is the scene's from now on. If it throws, the folder stays what it was.
  std::vector<std::string> save_as(const std::filesystem::path& path);

  /// Counts from the next save. False if that is what it says already.
  bool type_script(const std::string& file, const std::string& text);
  /// Another script, called like `file` under a name that is free; it plays from the next start. Gives the name.
  std::string new_script(const std::string& file, const std::string& text);

 private:
  std::vector<std::string> write();
  void note_meshes();

  std::filesystem::path path_;
  History history_;
  std::map<std::string, std::string> typed_, saved_;
  std::string on_disk_;                              // scene.json as it was opened or saved
  std::map<std::string, FileStamp> meshes_on_disk_;  // when they were opened or saved, by file
  std::map<std::string, std::string> scripts_kept_;  // what was on disk when what is here was to go over it
};

}  // namespace bronvel
