// A world made from a scene: the scene's bodies with their handles, and properties that can be changed while it runs.
#pragma once

#include <unordered_map>

#include "scene/document.h"
#include "scene/property.h"

namespace bronvel {

/// One running scene. `scene` is its own copy: changes in play are made here and never reach the document by
/// themselves.
class RunningScene {
 public:
  explicit RunningScene(const Scene& scene);

  Scene scene;
  World world;

  std::optional<BodyHandle> find(const std::string& name) const;
  std::optional<JointHandle> find_joint(const std::string& name) const;  ///< none when it snapped
  const std::string& name_of(JointHandle joint) const;                   ///< "" for a joint that is not of the scene
  const std::string& name_of(BodyHandle body) const;                     ///< "" for a body that is not of the scene
  Body* body_of(BodyHandle body);                                        ///< null for a body that is not of the scene

  /// The value now: position and motion from the world, the rest from the scene's copy.
  Value value(BodyHandle body, const Property& property);
  /// Counts from the next tick. Throws Error when the value does not fit.
  void set(BodyHandle body, const Property& property, const Value& value);

 private:
  std::vector<BodyHandle> handles_;
  std::unordered_map<std::string, std::size_t> index_of_name_;
  std::vector<JointHandle> joints_;           // in the scene's order
  std::vector<std::size_t> index_of_handle_;  // by BodyHandle::index
};

}  // namespace bronvel
