// Finding and applying differences.
#include "scene/edits/change.h"

#include <algorithm>

namespace bronvel {
namespace {

template <class Thing>
ListChange<Thing> list_change(const std::vector<Thing>& before, const std::vector<Thing>& after) {
  ListChange<Thing> change;
  if (before.size() == after.size()) {
    for (std::size_t i = 0; i < before.size(); ++i)
      if (!(before[i] == after[i])) change.changed.push_back({i, before[i], after[i]});
    return change;
  }
  const std::size_t most = std::min(before.size(), after.size());
  std::size_t head = 0, tail = 0;
  while (head < most && before[head] == after[head]) ++head;
  while (tail < most - head && before[before.size() - 1 - tail] == after[after.size() - 1 - tail]) ++tail;
  const auto part = [&](const std::vector<Thing>& list) {
    return std::vector<Thing>(list.begin() + static_cast<std::ptrdiff_t>(head),
                              list.end() - static_cast<std::ptrdiff_t>(tail));
  };
  change.first = head;
  change.taken = part(before);
  change.put = part(after);
  return change;
}

template <class Thing>
void swap_in(std::vector<Thing>& list, std::size_t first, std::size_t gone, const std::vector<Thing>& fresh) {
  const auto at = list.begin() + static_cast<std::ptrdiff_t>(first);
  const auto next = list.erase(at, at + static_cast<std::ptrdiff_t>(gone));
  list.insert(next, fresh.begin(), fresh.end());
}

template <class Thing>
void go(const ListChange<Thing>& change, std::vector<Thing>& list, bool forward) {
  for (const auto& each : change.changed) list[each.at] = forward ? each.after : each.before;
  if (!change.taken.empty() || !change.put.empty())
    swap_in(list, change.first, forward ? change.taken.size() : change.put.size(), forward ? change.put : change.taken);
}

// Calls with each pair of a change's list and the scene's.
template <class Change, class Document, class Use>
void each_list(Change& change, Document& scene, const Use& use) {
  use(change.bodies, scene.bodies);
  use(change.joints, scene.joints);
  use(change.zones, scene.zones);
  use(change.paths, scene.paths);
  use(change.cues, scene.cues);
  use(change.actions, scene.actions);
}

// All but the lists.
Scene rest_of(const Scene& s) {
  Scene rest;
  rest.name = s.name;
  rest.about = s.about;
  rest.tasks = s.tasks;
  rest.world = s.world;
  rest.seed = s.seed;
  rest.view = s.view;
  rest.surfaces = s.surfaces;
  rest.groups = s.groups;
  rest.sweep_away = s.sweep_away;
  rest.models = s.models;
  rest.stamps = s.stamps;
  rest.views = s.views;
  rest.lanes = s.lanes;
  rest.checks = s.checks;
  return rest;
}

void run(const SceneChange& change, Scene& scene, bool forward) {
  const auto& rest = forward ? change.rest_after : change.rest_before;
  if (rest) {
    Scene next = *rest;
    next.bodies.swap(scene.bodies);
    next.joints.swap(scene.joints);
    next.zones.swap(scene.zones);
    next.paths.swap(scene.paths);
    next.cues.swap(scene.cues);
    next.actions.swap(scene.actions);
    scene = std::move(next);
  }
  each_list(change, scene, [&](const auto& list_change, auto& list) { go(list_change, list, forward); });
}

}  // namespace

bool SceneChange::empty() const {
  return bodies.empty() && joints.empty() && zones.empty() && paths.empty() && cues.empty() && actions.empty() &&
         !rest_before;
}

std::size_t SceneChange::bytes() const {
  std::size_t sum = sizeof(SceneChange);
  const Scene none;
  each_list(*this, none, [&](const auto& list_change, const auto& list) {
    using Thing = typename std::decay_t<decltype(list)>::value_type;
    sum += (2 * list_change.changed.size() + list_change.taken.size() + list_change.put.size()) * sizeof(Thing);
  });
  return sum + (rest_before ? 2 * sizeof(Scene) : 0);
}

SceneChange change_between(const Scene& before, const Scene& after) {
  SceneChange change;
  change.bodies = list_change(before.bodies, after.bodies);
  change.joints = list_change(before.joints, after.joints);
  change.zones = list_change(before.zones, after.zones);
  change.paths = list_change(before.paths, after.paths);
  change.cues = list_change(before.cues, after.cues);
  change.actions = list_change(before.actions, after.actions);
  Scene rest_before = rest_of(before), rest_after = rest_of(after);
  if (!(rest_before == rest_after)) {
    change.rest_before = std::make_shared<const Scene>(std::move(rest_before));
    change.rest_after = std::make_shared<const Scene>(std::move(rest_after));
  }
  return change;
}

void apply(const SceneChange& change, Scene& scene) {
  run(change, scene, true);
}

void take_back(const SceneChange& change, Scene& scene) {
  run(change, scene, false);
}

}  // namespace bronvel
