// The undo stack.
#include "scene/history.h"

namespace bronvel {

History::History(Scene scene) : steps_{{"", std::make_shared<const Scene>(std::move(scene))}} {}

void History::edit(const std::string& name, const std::function<void(Scene&)>& change) {
  Scene next = scene();
  change(next);
  if (next == scene()) return;
  steps_.resize(at_ + 1);
  if (saved_at_ > at_) saved_at_ = std::string::npos;
  steps_.push_back({name, std::make_shared<const Scene>(std::move(next))});
  ++at_;
}

bool History::undo() {
  if (at_ == 0) return false;
  --at_;
  return true;
}

bool History::redo() {
  if (at_ + 1 >= steps_.size()) return false;
  ++at_;
  return true;
}

std::string History::undo_name() const {
  return at_ == 0 ? "" : steps_[at_].name;
}
std::string History::redo_name() const {
  return at_ + 1 < steps_.size() ? steps_[at_ + 1].name : "";
}

}  // namespace bronvel
