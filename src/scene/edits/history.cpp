// The undo stack.
#include "scene/edits/history.h"

#include "scene/files/fault.h"

namespace bronvel {
namespace {
constexpr auto never = static_cast<std::size_t>(-1);
}

History::History(Scene scene) : scene_(std::move(scene)) {}

void History::push(const std::string& name, Scene next) {
  SceneChange change = change_between(scene_, next);
  if (change.empty()) return;
  steps_.resize(at_);
  if (saved_at_ != never && saved_at_ > at_) saved_at_ = never;
  steps_.push_back({name, std::move(change)});
  ++at_;
  scene_ = std::move(next);
}

void History::edit(const std::string& name, const std::function<void(Scene&)>& change) {
  Scene next = scene_;
  change(next);
  check_scene(next, &scene_);
  tried_.reset();
  push(name, std::move(next));
}

void History::try_out(const std::function<void(Scene&)>& change) {
  Scene next = scene_;
  change(next);
  check_scene(next, &scene_);
  tried_ = std::move(next);
}

void History::settle(const std::string& name) {
  if (!tried_) return;
  Scene next = std::move(*tried_);
  tried_.reset();
  push(name, std::move(next));
}

void History::let_go() {
  tried_.reset();
}

void History::set_lanes(std::vector<std::string> lanes) {
  if (tried_) tried_->lanes = lanes;
  scene_.lanes = std::move(lanes);
}

bool History::undo() {
  tried_.reset();
  if (at_ == 0) return false;
  --at_;
  const std::vector<std::string> lanes = scene_.lanes;
  take_back(steps_[at_].change, scene_);
  scene_.lanes = lanes;
  return true;
}

bool History::redo() {
  tried_.reset();
  if (at_ == steps_.size()) return false;
  const std::vector<std::string> lanes = scene_.lanes;
  apply(steps_[at_].change, scene_);
  scene_.lanes = lanes;
  ++at_;
  return true;
}

std::string History::undo_name() const {
  return at_ == 0 ? "" : steps_[at_ - 1].name;
}
std::string History::redo_name() const {
  return at_ < steps_.size() ? steps_[at_].name : "";
}

std::size_t History::bytes() const {
  std::size_t sum = 0;
  for (const Step& step : steps_) sum += step.change.bytes() + step.name.size();
  return sum;
}

void History::mark_unsaved() {
  saved_at_ = never;
}

}  // namespace bronvel
