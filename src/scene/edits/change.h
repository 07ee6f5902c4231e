// What differs between two scenes: small enough to keep for every edit, exact enough to go either way.
#pragma once

#include <memory>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// A list's difference: entries changed in place, then one stretch put in place of another.
template <class Thing>
struct ListChange {
  struct Changed {
    std::size_t at = 0;
    Thing before, after;
  };
  std::vector<Changed> changed;  ///< only when both lists are equally long
  std::size_t first = 0;         ///< where the stretches begin
  std::vector<Thing> taken, put;
  bool empty() const { return changed.empty() && taken.empty() && put.empty(); }
};

struct SceneChange {
  ListChange<Body> bodies;
  ListChange<SceneJoint> joints;
  ListChange<SceneZone> zones;
  ListChange<ScenePath> paths;
  ListChange<Cue> cues;
  ListChange<Action> actions;
  std::shared_ptr<const Scene> rest_before, rest_after;  ///< all but the lists; null when it is the same

  bool empty() const;
  std::size_t bytes() const;  ///< about how much memory it takes
};

SceneChange change_between(const Scene& before, const Scene& after);
void apply(const SceneChange& change, Scene& scene);      ///< `scene` is as it was before
void take_back(const SceneChange& change, Scene& scene);  ///< `scene` is as it was after

}  // namespace bronvel
