// Undo and redo: every edit is a named step from one scene value to the next.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "scene/document.h"

namespace bronvel {

/// The open document and the way it came to be. Unlimited; a new edit forgets what was undone.
class History {
 public:
  explicit History(Scene scene);

  const Scene& scene() const { return *steps_[at_].scene; }
  /// Makes a step called `name` ("fender: mass 4 kg"). If `change` throws or changes nothing, no step is made.
  void edit(const std::string& name, const std::function<void(Scene&)>& change);
  bool undo();  ///< false if there was nothing to undo
  bool redo();
  std::string undo_name() const;  ///< "" if there is nothing to undo
  std::string redo_name() const;
  bool saved() const { return at_ == saved_at_; }
  void mark_saved() { saved_at_ = at_; }

 private:
  struct Step {
    std::string name;
    std::shared_ptr<const Scene> scene;
  };
  std::vector<Step> steps_;
  std::size_t at_ = 0;
  std::size_t saved_at_ = 0;
};

}  // namespace bronvel
