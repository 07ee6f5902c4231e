// Undo and redo: every edit is a named step, kept as what it changed.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "scene/edits/change.h"

namespace bronvel {

/// The open document and the way it came to be. Unlimited; a new edit forgets what was undone.
class History {
 public:
  explicit History(Scene scene);

  /// The document, with what is being tried on top.
  const Scene& scene() const { return tried_ ? *tried_ : scene_; }
  /// Makes a step called `name` ("fender: mass 4 kg"). If `change` throws or changes nothing, no step is
  /// made. Throws Error for what could not be saved and opened again (scene_fault).
  void edit(const std::string& name, const std::function<void(Scene&)>& change);

  /// Shows what the change would make of the document, in place of what was tried before; for drags. If it throws,
  /// or makes what could not be saved, what was tried before stays.
  void try_out(const std::function<void(Scene&)>& change);
  void settle(const std::string& name);  ///< makes what is tried a step; nothing if nothing is
  void let_go();                         ///< forgets what is tried
  bool trying() const { return tried_.has_value(); }

  /// What is plotted is part of the scene's file, but no edit: it makes no step, counts as nothing to be saved, and
  /// undoing does not touch it. It is written with the next save.
  void set_lanes(std::vector<std::string> lanes);

  bool undo();  ///< false if there was nothing to undo; forgets what is tried
  bool redo();
  std::string undo_name() const;  ///< "" if there is nothing to undo
  std::string redo_name() const;
  std::size_t steps() const { return at_; }  ///< that can be undone
  std::size_t bytes() const;                 ///< about how much memory all steps take
  bool saved() const { return at_ == saved_at_; }
  void mark_saved() { saved_at_ = at_; }
  void mark_unsaved();  ///< the file is not what it was when it was saved

 private:
  void push(const std::string& name, Scene next);

  struct Step {
    std::string name;
    SceneChange change;
  };
  Scene scene_;
  std::optional<Scene> tried_;
  std::vector<Step> steps_;
  std::size_t at_ = 0;  // steps done
  std::size_t saved_at_ = 0;
};

}  // namespace bronvel
