// The scene as a plain value: what is saved, and what a world is made from.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "dynamics/settings/body.h"
#include "dynamics/settings/joint.h"
#include "dynamics/settings/world_settings.h"
#include "dynamics/settings/zone.h"
#include "geometry/meshes/model.h"
#include "scene/document/breaking.h"
#include "scene/document/dial_value.h"
#include "scene/document/wish.h"

namespace bronvel {

/// A script on a body, with this body's own settings of its dials.
struct ScriptUse {
  std::string file;                        ///< within the scene's scripts/ folder, "nudge.lua"
  std::map<std::string, DialValue> dials;  ///< only those that differ from the script's own values
  bool operator==(const ScriptUse&) const = default;
};

/// How a body is drawn if not as its shape: a model of the scene, somewhere in the body's frame.
struct Looks {
  std::string model{};  ///< a name in Scene::models
  Pose pose{};
  double scale = 1;
};
bool operator==(const Looks& a, const Looks& b);

/// Which part of which placed stamp something is; empty names: of none.
struct StampedFrom {
  std::string stamp{}, copy{}, part{};
  bool operator==(const StampedFrom&) const = default;
};

/// A surface of the scene: what the dynamics asks of it, and how what has it sounds.
struct SceneSurface : Surface {
  SceneSurface(const Surface& surface = {}) : Surface(surface) {}
  std::string voice{};           ///< one of `voice_names()`; "": the one that goes with the surface's own name
  double pitch_spread = 0.03;    ///< each hit's pitch differs by up to this share
  double loudness_spread = 0.1;  ///< likewise its loudness
  bool operator==(const SceneSurface&) const = default;
};

/// A body of the scene. Angles in radians, SI units, scene frame.
struct Body {
  std::string name{};
  MotionKind kind = MotionKind::dynamic;
  Shape shape = Box{};
  Vec3 position = Vec3::Zero();
  Quat orientation = Quat::Identity();
  Vec3 velocity = Vec3::Zero();
  Vec3 angular_velocity = Vec3::Zero();
  double mass = 1;
  std::string surface{};                ///< a name in Scene::surfaces
  std::optional<double> restitution{};  ///< instead of the surface's
  std::optional<double> friction{};     ///< instead of the surface's, static and dynamic alike
  double gravity_factor = 1;
  double linear_damping = 0;
  double angular_damping = 0;
  double linear_drag = 0;
  double drag_area = 0;
  bool solid = true;
  bool reports = true;  ///< its scripts are told of its contacts
  bool may_sleep = true;
  bool silent = false;                   ///< its hits, slides and splashes are not heard
  std::optional<Vec3> centre_of_mass{};  ///< body frame, m
  std::optional<Vec3> inertia{};         ///< about the body's axes, kg·m²
  Sweeping sweeping = Sweeping::automatic;
  std::array<bool, 3> locked_moves{};
  std::array<bool, 3> locked_turns{};
  std::vector<std::string> groups{};  ///< of Scene::groups; none: the nameless group of all others
  std::vector<std::string> meets{};   ///< groups that it collides with; none named: all
  std::string colour = "#B98B52";     ///< "#RRGGBB"
  std::vector<std::string> tags{};
  std::vector<ScriptUse> scripts{};
  std::optional<Looks> looks{};
  bool locked = false;  ///< handles on the stage leave it where it is
  Breaking breaking{};
  StampedFrom stamped{};
};
bool operator==(const Body& a, const Body& b);

/// More, and working out what they bear would take longer than a tick has.
inline constexpr int most_joints_of_a_body = 64;

/// A joint of the scene. Angles in radians, SI units.
struct SceneJoint {
  std::string name{};
  JointKind kind = JointKind::ball;
  std::string a{}, b{};          ///< names of bodies; no A: the scene itself
  Vec3 anchor_a = Vec3::Zero();  ///< in A's frame, or the scene's
  Vec3 anchor_b = Vec3::Zero();  ///< in B's frame
  Vec3 axis = Vec3::Unit(0);     ///< X of the joint's frame, in A's frame
  std::optional<double> low{}, high{};
  std::optional<double> cone{};
  double stiffness = 0, damping = 0, rest = 0;
  double motor_speed = 0, motor_most = 0;
  double pay_out = 0;
  Vec3 support_a = Vec3::Zero(), support_b = Vec3::Zero();
  double ratio = 1;
  bool bodies_meet = false;
  double breaks_at_force = 0, breaks_at_torque = 0;
  std::array<JointAxis, 6> axes = all_locked();  ///< six_axis: moves along X, Y, Z, turns about them

  StampedFrom stamped{};

  static std::array<JointAxis, 6> all_locked();
};
bool operator==(const SceneJoint& a, const SceneJoint& b);

/// A zone of the scene: senses bodies with one of its tags (all, if it names none) and may change gravity and air, hold
/// water or pull.
struct SceneZone {
  std::string name{};
  Shape shape = Box{};
  Vec3 position = Vec3::Zero();
  Quat orientation = Quat::Identity();
  std::vector<std::string> tags{};
  std::optional<Vec3> gravity{};  ///< instead of the world's, m/s²
  double gravity_factor = 1;
  Vec3 wind = Vec3::Zero();                        ///< velocity of the air, m/s
  double gusts = 0, gust_time = 4;                 ///< share of the wind; s
  double linear_damping = 0, angular_damping = 0;  ///< added to the body's own, 1/s
  bool water = false;                              ///< holds water, as the following say
  double density = 1000;                           ///< kg/m³
  std::optional<double> level{};                   ///< height of the surface, m; else the zone's top
  Vec3 current = Vec3::Zero();                     ///< m/s
  double water_drag = 1;
  double wave_height = 0, wave_length = 12, wave_heading = 0;  ///< m, m, rad about Y from X
  double wave_trains = 1;                                      ///< a whole number
  double pull = 0;                                             ///< m/s²
  Pull::Target pull_to = Pull::Target::point;
  Pull::Falloff pull_falloff = Pull::Falloff::even;
};
bool operator==(const SceneZone& a, const SceneZone& b);

/// A curve that kinematic bodies can ride.
struct ScenePath {
  std::string name{};
  std::vector<Vec3> points{};  ///< at least two, scene frame, m
  bool smooth = true;
  bool closed = false;
  bool operator==(const ScenePath&) const = default;
};

/// A named moment on the scene's clock, once or again and again.
struct Cue {
  std::string name{};
  double at = 0;     ///< s
  double every = 0;  ///< s; 0: once. The n-th comes at the tick nearest to at + n × every, so that it never drifts
  int times = 0;     ///< how often in all; 0: for ever
  bool operator==(const Cue&) const = default;
};

/// An input by name: pressed by keys, or pushed one way by keys and the other way by others.
struct Action {
  std::string name{};
  std::vector<std::string> keys{};     ///< "space", "w", "left", "mouse_left" …: value +1
  std::vector<std::string> against{};  ///< value −1
  bool operator==(const Action&) const = default;
};

/// What becomes of bodies that fall out of the scene.
struct SweepAway {
  double below = -50;      ///< height of the body's middle, m
  bool bring_back = true;  ///< to where it started; else it is removed
  bool operator==(const SweepAway&) const = default;
};

/// From where the stage looks when the scene opens.
struct View {
  Vec3 target{0, 1, 0};
  double distance = 9;    ///< m
  double turn = 30;       ///< degrees about the vertical
  double tilt = 14;       ///< degrees above the horizontal
  bool straight = false;  ///< straight on, without perspective
};
bool operator==(const View& a, const View& b);

/// A view to come back to.
struct NamedView {
  std::string name{};
  View view{};
  bool operator==(const NamedView&) const = default;
};

/// A reusable assembly, in a frame of its own. Copies of it are bodies and joints of the scene that say where they come
/// from; a value follows the stamp's as long as it equals it.
struct Stamp {
  std::string name{};
  std::vector<Body> bodies{};
  std::vector<SceneJoint> joints{};  ///< between its bodies, or the scene (then in the stamp's frame)
  bool operator==(const Stamp&) const = default;
};

/// The models of a scene by name. Never null.
using Models = std::map<std::string, std::shared_ptr<const Model>>;

struct Scene {
  std::string name = "untitled";
  std::string about;
  std::vector<std::string> tasks;  ///< what one may try in it, told when it opens
  WorldSettings world;
  std::uint64_t seed = 1;
  View view;
  std::map<std::string, SceneSurface> surfaces;
  std::vector<std::string> groups;  ///< names of collision groups, at most 31
  std::vector<Body> bodies;
  std::vector<SceneJoint> joints;
  std::vector<SceneZone> zones;  ///< in the order in which they act
  std::vector<ScenePath> paths;
  std::vector<Cue> cues;
  std::vector<Action> actions;
  std::optional<SweepAway> sweep_away;
  Models models;  ///< kept beside scene.json, in meshes/
  std::vector<Stamp> stamps;
  std::vector<NamedView> views;
  /// What is plotted of takes: channels ("cord.reaction"), or quantities of whatever body is chosen ("height"). None:
  /// height and speed.
  std::vector<std::string> lanes;
  std::vector<Wish> checks;  ///< wishes kept with the scene

  Body* find(const std::string& body_name);
  const Body* find(const std::string& body_name) const;
};
bool operator==(const Scene& a, const Scene& b);

/// The surface that the body really has: its named one, with its own values over it.
Surface surface_of(const Scene& scene, const Body& body);

/// What the world needs to know of the body.
BodySettings settings_of(const Scene& scene, const Body& body);
BodyMotion motion_of(const Body& body);

/// What the world needs to know of the joint, its bodies standing where the scene has them; the handles are left to the
/// caller. Throws Error when it names a body that is not there.
JointSettings settings_of(const Scene& scene, const SceneJoint& joint);
/// The same with the bodies standing as given; where there is no A, `a` is the scene's frame.
JointSettings settings_of(const SceneJoint& joint, const Pose& a, const Pose& b);
ZoneSettings settings_of(const Scene& scene, const SceneZone& zone);

/// The tags that zones sense by, in order; at most 32.
std::vector<std::string> zone_tags(const Scene& scene);

/// What an action's keys may be called.
const std::vector<std::string>& key_names();

}  // namespace bronvel
