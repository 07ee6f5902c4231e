// What a world holds inside: flat arrays by body index and by pair. Only the dynamics layer includes this.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "dynamics/broad_phase.h"
#include "dynamics/world.h"

namespace bronvel {

/// The moving part of a body. Vectors in the scene's frame.
struct Motion {
  Vec3 centre = Vec3::Zero();  ///< centre of mass, m
  Quat orientation = Quat::Identity();
  Vec3 velocity = Vec3::Zero();
  Vec3 angular_velocity = Vec3::Zero();
  Vec3 inverse_mass =
      Vec3::Zero();  ///< along each scene axis, 1/kg; 0 for fixed and kinematic bodies and along locked axes
  Mat3 inverse_inertia = Mat3::Zero();  ///< scene frame

  Vec3 velocity_at(const Vec3& arm) const { return velocity + angular_velocity.cross(arm); }
  void push(const Vec3& impulse, const Vec3& arm) {
    velocity += inverse_mass.cwiseProduct(impulse);
    angular_velocity += inverse_inertia * arm.cross(impulse);
  }
};

/// The rest of a body.
struct BodyRecord {
  BodySettings settings;
  MassProperties mass;
  Locks locks;                          ///< of the body and of a planar scene
  Mat3 inverse_inertia = Mat3::Zero();  ///< body frame, about the centre of mass
  Vec3 force = Vec3::Zero();            ///< summed for the coming tick, N
  Vec3 torque = Vec3::Zero();           ///< N·m
  std::uint32_t generation = 0;
  BroadPhase::Leaf leaf = -1;
  double radius = 0;     ///< of a ball about the centre of mass that holds the shape, m
  double inner = 0;      ///< radius of the largest ball inside the shape, m
  Bounds bounds;         ///< of the shape with all that it may reach in the coming tick
  double heading = 0;    ///< how far any point may move in the coming tick, m
  double still_for = 0;  ///< s
  bool alive = false;
  bool asleep = false;
  bool left_padding = false;
  bool moved = true;  ///< left its padding: look for new pairs
  bool touching = false;
  bool jointed = false;  ///< some joint holds it
  bool driven = false;   ///< by a motor, or by a rope that is paid out: never sleeps

  std::optional<Pose> target;  ///< where a kinematic body is to be at the end of the coming tick

  bool dynamic() const { return settings.kind == MotionKind::dynamic; }
};

/// One contact point. Arms are from the centres of mass, scene frame at the tick's
/// start.
struct ContactRow {
  Vec3 arm_a = Vec3::Zero(), arm_b = Vec3::Zero();
  Vec3 local_a = Vec3::Zero();  ///< the point in A's turning frame, to know it again next tick, m
  double gap = 0;               ///< at the tick's start, m
  double impulse = 0;           ///< of one sub-step, kept as a first guess, N·s
  double total = 0;             ///< over the tick, N·s
  bool touches = false;
};

/// Friction of a whole manifold: against sliding at its middle, against turning about the normal, against rolling.
struct FrictionRow {
  Vec3 arm_a = Vec3::Zero(), arm_b = Vec3::Zero();
  double lever = 0;                     ///< mean distance of the points from the middle, m
  double roll_arm = 0;                  ///< distance of the contact from the centre that rolls, m
  std::array<double, 2> slide{};        ///< impulses of one sub-step along the tangents, N·s
  double twist = 0;                     ///< N·m·s
  std::array<double, 2> roll{};         ///< N·m·s
  std::array<double, 2> slide_total{};  ///< over the tick, N·s
};

/// Which parts of which bodies make a pair; convex bodies have one part, number 0.
struct PairKey {
  std::uint32_t a = 0, b = 0;  ///< body indices, a < b
  std::uint32_t part_a = 0, part_b = 0;
  auto operator<=>(const PairKey&) const = default;
};

struct PairKeyHash {
  std::size_t operator()(const PairKey& k) const {
    std::uint64_t hash = 0x9E3779B97F4A7C15ULL;
    for (const std::uint32_t part : {k.a, k.b, k.part_a, k.part_b}) hash = (hash ^ part) * 0xFF51AFD7ED558CCDULL + 1;
    return hash ^ (hash >> 32);
  }
};

/// Two bodies, at least one of several parts, whose padded boxes overlap.
struct NearBodies {
  std::uint32_t a = 0, b = 0;  ///< a < b
};

/// Two convex parts of two bodies that are near each other, with the contact between them.
struct Pair : PairKey {
  // What every walk over the pairs looks at, side by side.
  int count = 0;
  std::uint32_t block = 0, lane = 0;  ///< where the solver has it in this tick, if it is active
  bool alive = false;
  bool listed = false;   ///< in WorldState::listed
  bool seen = true;      ///< of bodies of several parts: still near in this tick
  bool fast = false;     ///< may jump over one another in a sub-step: swept
  bool passing = false;  ///< fast, and found to stay apart in this sub-step: the solver leaves it alone
  bool touching = false;
  bool was_touching = false;
  double closing_speed = 0;  ///< greatest seen in this tick, m/s
  Vec3 normal = Vec3::Unit(1);
  std::array<Vec3, 2> tangents{Vec3::Unit(0), Vec3::Unit(2)};
  std::array<ContactRow, 4> rows;
  FrictionRow friction;
  SurfacePair surface;
};

/// What can be said of an active pair without looking at it.
struct ActiveEnds {
  std::uint32_t a = 0, b = 0;
  float least_gap = 0;  ///< at the tick's start, m
  bool fast = false;
};

/// A joint's insides.
struct JointRecord {
  JointSettings settings;
  JointReading reading;
  std::uint32_t generation = 0;
  bool alive = false;
  double angle = 0;                     ///< hinge: where it was last seen, rad, counted on over whole turns
  double paid_out = 0;                  ///< distance: what the greatest length has grown by, m
  Vec3 impulse = Vec3::Zero();          ///< on B over this tick, N·s
  Vec3 angular_impulse = Vec3::Zero();  ///< on B about its anchor, N·m·s
};

/// A zone's insides.
struct ZoneRecord {
  ZoneSettings settings;
  std::uint32_t generation = 0;
  bool alive = false;
  std::vector<BodyHandle> inside;  ///< sorted
  std::vector<BodyHandle> sensed;  ///< scratch
};

/// What zones make of gravity and air for one body.
struct Medium {
  Vec3 gravity = Vec3::Zero();  ///< m/s²
  Vec3 wind = Vec3::Zero();     ///< m/s
  double linear_damping = 0;    ///< added to the body's own, 1/s
  double angular_damping = 0;   ///< added to the body's own, 1/s
};

struct JointSystem;
struct ContactSystem;
struct ImpactScratch;
class Team;

/// A solver's scratch, made when first used. A copy starts empty: it holds nothing that the next tick depends on.
template <class T>
class Scratch {
 public:
  Scratch() = default;
  Scratch(const Scratch&) {}
  Scratch& operator=(const Scratch& other) {
    if (this == &other) return *this;
    held_.reset();
    return *this;
  }
  ~Scratch() = default;
  T& operator*() const {
    if (!held_) held_ = std::make_shared<T>();
    return *held_;
  }

 private:
  mutable std::shared_ptr<T> held_;
};

/// The world's insides.
struct WorldState {
  WorldSettings settings;
  std::int64_t tick = 0;
  std::vector<BodyRecord> records;
  std::vector<Motion> motions;
  std::vector<std::uint32_t> unused;
  BroadPhase broad_phase;
  std::vector<Pair> pairs;
  std::vector<std::uint32_t> unused_pairs;
  std::vector<std::uint32_t> listed;  ///< pairs that live, in order of their keys
  std::vector<std::uint32_t> fresh;   ///< pairs that came since `listed` was brought up to date
  std::unordered_map<PairKey, std::uint32_t, PairKeyHash> pair_of;
  std::vector<NearBodies> near;               ///< of bodies of several parts
  std::unordered_set<std::uint64_t> near_of;  ///< the same, to look up
  std::vector<JointRecord> joints;
  std::vector<std::uint32_t> unused_joints;
  std::unordered_map<std::uint64_t, int> kept_apart;  ///< how many joints say that two bodies do not meet
  std::vector<ContactEvent> contacts;                 ///< the first contact_count; the rest keep their room for later
  std::size_t contact_count = 0;
  std::vector<ZoneRecord> zones;
  std::vector<ZoneEvent> zone_events;
  std::vector<Medium> media;  ///< by body; empty when no zone has a field
  std::vector<SnapEvent> snaps;
  std::vector<FaultEvent> faults;

  StepTimes times;
  bool stirred = true;  ///< something was done to the world since the last tick
  bool quiet = false;   ///< after the last tick nothing moved

  // Scratch, kept to save allocation.
  Scratch<JointSystem> joint_scratch;
  Scratch<ContactSystem> contact_scratch;
  Scratch<ImpactScratch> impact_scratch;
  std::shared_ptr<Team> team;
  std::vector<std::uint32_t> active;    ///< pairs with points and a response, in order of (a, b)
  std::vector<ActiveEnds> active_ends;  ///< of each active pair
  std::vector<std::vector<std::pair<std::uint32_t, std::uint32_t>>> met;  ///< by worker: bodies whose boxes overlap
  std::vector<Motion> at_start;                                           ///< motions at the tick's start
  std::vector<double> top_speed;      ///< of any point of each body so far in this tick, m/s
  std::vector<std::uint32_t> island;  ///< by body: another body of its island, or itself
  std::vector<double> still;          ///< by body: of its island, s
  std::vector<char> struck;           ///< by body: hit in this round
  std::vector<double> struck_at;      ///< moment of each body's last hit in this sub-step, s
  std::vector<Vec3> velocity_before;  ///< at the sub-step's start
  std::vector<Vec3> spin_before;      ///< angular velocity then
  std::vector<Vec3> velocity_free;    ///< as smooth forces alone would have it at the sub-step's end

  /// Gravity where the body is, zones counted, m/s².
  const Vec3& gravity_on(std::size_t body) const { return media.empty() ? settings.gravity : media[body].gravity; }
  std::uint32_t index_of(BodyHandle body) const;  ///< throws Error when the body is gone
  double tick_length() const { return 1.0 / settings.tick_rate; }
};

}  // namespace bronvel
