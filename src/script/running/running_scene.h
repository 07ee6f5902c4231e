// A world made from a scene: the scene's bodies with their handles, and properties that can be changed while it runs.
#pragma once

#include <span>
#include <unordered_map>

#include "dynamics/world/world.h"
#include "geometry/base/curve.h"
#include "scene/document/document.h"
#include "scene/properties/setting_place.h"

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
  const Body* body_of(BodyHandle body) const;

  std::optional<ZoneHandle> find_zone(const std::string& name) const;
  const std::string& name_of(ZoneHandle zone) const;  ///< "" for a zone that is not of the scene
  Value value(ZoneHandle zone, const ZoneProperty& property) const;
  /// Counts from the next tick. Throws Error when the value does not fit.
  void set(ZoneHandle zone, const ZoneProperty& property, const Value& value);
  /// The same of a joint; not of what is settled as it is tied (`counts_in_play`).
  void set(JointHandle joint, const JointProperty& property, const Value& value);
  /// A path's curve; null if there is no path of that name.
  const Curve* find_path(const std::string& name) const;

  /// A copy of a body of the scene, with a name of its own made from `name`. Throws Error when it does not fit.
  BodyHandle create(const Body& like, const std::string& name);
  void remove(BodyHandle body);
  /// After the world broke or cut `parts[0]` into these: they become bodies of the scene, called after it, and it is
  /// from now on what is left of it.
  void take_parts(const std::vector<BodyHandle>& parts);
  /// Cuts it as World::slice does; gives the new body. Throws Error with the reason when it can't be cut.
  BodyHandle slice(BodyHandle body, const Vec3& point, const Vec3& normal);
  /// Breaks it at once into as many cells as the energy (J) pays for, finer near the point (scene frame). All the
  /// parts, itself first. Throws Error when it can't be broken.
  std::vector<BodyHandle> shatter(BodyHandle body, const Vec3& point, double energy);
  /// How many pieces such a shattering would make at most. Throws nothing; 0 where it can't be broken.
  int pieces_of_shatter(BodyHandle body, double energy) const;
  /// A joint between bodies that live, tied as they stand now. Throws Error when it does not fit.
  JointHandle join(SceneJoint joint);

  /// Of the scene's bodies and joints, in its order. Those that are gone may be among them.
  std::span<const BodyHandle> body_handles() const { return handles_; }
  std::span<const JointHandle> joint_handles() const { return joints_; }
  /// Takes bodies and joints that are gone out of the scene's lists once they are the greater part: places and pointers
  /// to bodies are others then.
  void forget_removed();

  /// How often the settings of the body were changed, its motion not counted; those of any zone; and what joints hold.
  /// Who keeps what they were sees by it when to look again.
  std::uint32_t changes_of_body(BodyHandle body) const { return changes_[index_of_handle_[body.index]]; }
  std::uint32_t changes_of_zones() const { return zone_changes_; }
  std::uint32_t changes_of_joints() const { return joint_changes_; }

  /// The value now: position and motion from the world, the rest from the scene's copy.
  Value value(BodyHandle body, const Property& property);
  /// Counts from the next tick. Throws Error when the value does not fit.
  void set(BodyHandle body, const Property& property, const Value& value);

  /// Of whatever the place names but dials, which scripts have. Nothing where the thing is gone.
  Value value(const SettingPlace& place);
  /// Counts from the next tick. Throws Error when the thing is gone, the value does not fit, or a running play can't
  /// take it over.
  void set(const SettingPlace& place, const Value& value);

 private:
  void set_surface(const SettingPlace& place, const Value& value);
  void set_world(const SettingPlace& place, const Value& value);
  void enter(BodyHandle handle, std::size_t place);  // the body at this place of the scene
  void make_breakable(BodyHandle handle);            // if the scene says so
  void change_breaking(BodyHandle handle, const Body& changed);
  void follow_joints();  // to the parts that they hold by now

  void count_change(BodyHandle handle) { ++changes_[index_of_handle_[handle.index]]; }

  std::vector<BodyHandle> handles_;
  std::vector<std::uint32_t> changes_;  // of each body, in the scene's order
  std::uint32_t zone_changes_ = 0, joint_changes_ = 0;
  std::unordered_map<std::string, std::size_t> index_of_name_;
  std::vector<JointHandle> joints_;  // in the scene's order
  std::vector<ZoneHandle> zones_;    // in the scene's order
  std::unordered_map<std::string, Curve> paths_;
  std::unordered_map<std::string, int> copies_;  // how many were made of each name
  std::vector<std::size_t> index_of_handle_;     // by BodyHandle::index
};

}  // namespace bronvel
