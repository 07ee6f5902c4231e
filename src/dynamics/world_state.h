// What a world holds inside: flat arrays by body index and by pair. Only the dynamics layer includes this.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <unordered_map>
#include <vector>

#include "dynamics/broad_phase.h"
#include "dynamics/world.h"
#include "geometry/vector.h"

namespace bronvel {

/// Room for one more. Large things grow by an eighth: twice as much would be mostly empty.
template <class T>
void make_room(std::vector<T>& list) {
  if (list.size() == list.capacity()) list.reserve(list.size() + list.size() / 8 + 16);
}

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

/// Turns that leave a body's surface where it is: none, those about its own Y axis, all. What touches such a surface
/// stays where it is in the scene while the body turns under it.
enum class Symmetry : std::uint8_t { none, axis, ball };

/// The rest of a body. What every walk over bodies or pairs looks at comes first, side by side: those walks wait for
/// memory.
struct alignas(64) BodyRecord {
  bool alive = false;
  bool asleep = false;
  MotionKind kind = MotionKind::dynamic;  ///< as the settings say
  bool solid = true;                      ///< as the settings say
  bool left_padding = false;
  bool moved = true;  ///< left its padding: look for new pairs
  bool touching = false;
  bool jointed = false;                ///< some joint holds it
  bool round = false;                  ///< its inertia is the same about every axis
  Symmetry symmetry = Symmetry::none;  ///< of its surface about its centre of mass
  bool free_turning = true;            ///< no turn of it is locked
  bool driven = false;                 ///< by a motor, or by a rope that is paid out: never sleeps
  bool afloat = false;                 ///< in still water, which can hold it at rest
  bool in_moving_medium = false;       ///< by waves, a current or gusts: never sleeps
  std::uint32_t generation = 0;
  BroadPhase::Leaf leaf = -1;
  std::int32_t breaks = -1;                       ///< its place in WorldState::breakables; −1: it does not break
  std::uint32_t groups = 1, meets = 0xFFFFFFFFU;  ///< as the settings say
  double travel = 0;                              ///< how far any point may move in the coming tick, m
  double radius = 0;                              ///< of a ball about the centre of mass that holds the shape, m
  double inner_radius = 0;                        ///< radius of the largest ball inside the shape, m
  Bounds bounds;                                  ///< of the shape with all that it may reach in the coming tick
  double still_for = 0;                           ///< s, towards falling asleep
  double weight = 0;                              ///< mass × gravity factor, kg
  Mat3 inverse_inertia = Mat3::Zero();            ///< body frame, about the centre of mass
  Vec3 force = Vec3::Zero();                      ///< summed for the coming tick, N
  Vec3 torque = Vec3::Zero();                     ///< N·m
  MassProperties mass;
  BodySettings settings;
  Locks locks;                     ///< of the body and of a planar scene
  Vec3 cross_area = Vec3::Zero();  ///< what it shows along its own axes, m²; reckoned when it first meets water
  Vec3 spin_drag = Vec3::Zero();   ///< ∫ r³ dA of what stems turning about its own axes, m⁵
  std::optional<Pose> target;      ///< where a kinematic body is to be at the end of the coming tick
  // How fast a mover went that was told where to be: its own velocity is 0 again when it has arrived.
  std::int64_t moved_at = -1;                                        ///< tick at whose end it arrived
  Vec3 moved_velocity = Vec3::Zero(), moved_spin = Vec3::Zero();     ///< in the mean of the tick
  Vec3 last_change = Vec3::Zero(), last_spin_change = Vec3::Zero();  ///< of these, from the tick before
  Vec3 ramp = Vec3::Zero(), spin_ramp = Vec3::Zero();                ///< by how much it speeds up within the tick
  // Where it was when it last counted as moving, on its way to sleep.
  Vec3 rest_centre = Vec3::Zero();
  Quat rest_orientation = Quat::Identity();
  double rest_for = 0;  ///< s since then

  bool dynamic() const { return kind == MotionKind::dynamic; }
};

/// One contact point, at the tick's start.
struct ContactRow {
  Vec3 arm_a = Vec3::Zero();                          ///< from A's centre of mass, scene frame, m
  double gap = 0;                                     ///< m
  double impulse = 0;                                 ///< of one sub-step, kept as a first guess, N·s
  double total = 0;                                   ///< over the tick, N·s
  Eigen::Vector3f local_a = Eigen::Vector3f::Zero();  ///< the point in A's turning frame, to know it again next tick, m
  Eigen::Vector3f aside = Eigen::Vector3f::Zero();  ///< of the point on B from that on A: 0 unless found on the way, m
  std::uint32_t number = 0;                         ///< its name among the pair's points
};

/// Friction of a whole manifold: against sliding at its middle, against turning about the normal, against rolling.
struct FrictionRow {
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

/// Two bodies whose padded boxes overlap.
struct NearBodies {
  static constexpr std::uint32_t no_pair = 0xFFFFFFFFU;
  std::uint32_t a = 0, b = 0;    ///< a < b
  std::uint32_t pair = no_pair;  ///< theirs, if they are convex and so near that they have one

  bool operator==(const NearBodies& other) const { return a == other.a && b == other.b; }
  bool operator<(const NearBodies& other) const { return a != other.a ? a < other.a : b < other.b; }
};

/// How near two bodies are in this tick: the padded boxes apart, those of what they may reach apart, or not.
enum class Nearness : std::uint8_t { gone, apart, meeting };

/// Two convex parts of two bodies that are near each other, with the contact between them. There are many, and walks
/// over them wait for memory: what follows from the rest is worked out and not kept.
struct Pair : PairKey {
  // What every walk over the pairs looks at, side by side.
  int count = 0;
  std::uint32_t block = 0, lane = 0;  ///< where the solver has it in this tick, if it is active
  std::uint32_t numbers = 0;          ///< how many of its points have been named so far
  bool alive = false;
  bool listed = false;   ///< in WorldState::listed
  bool apart = false;    ///< no longer near, and only kept to tell so
  bool fast = false;     ///< may jump over one another in a sub-step: swept
  bool passing = false;  ///< fast, and found to stay apart in this sub-step: the solver leaves it alone
  bool creased = false;  ///< a facet beyond a gentle crease that the ball turns at: no hit in this sub-step
  bool beyond = false;   ///< a facet at whose edge the surface has bent down from its plane: it bears nothing there
  bool touching = false;
  bool was_touching = false;
  std::uint8_t touches = 0;  ///< bit by point
  double closing_speed = 0;  ///< greatest seen in this tick, m/s
  Vec3 normal = Vec3::Unit(1);
  Vec3 between = Vec3::Zero();  ///< from B's centre of mass to A's at the tick's start, m
  std::array<ContactRow, 4> rows;
  FrictionRow friction;
  SurfacePair surface;

  /// From B's centre of mass to the point on B, scene frame at the tick's start, m.
  Vec3 arm_b(const ContactRow& row) const { return row.arm_a + between + row.aside.cast<double>(); }
  std::array<Vec3, 2> tangents() const {
    const Vec3 first = any_perpendicular(normal);
    return {first, normal.cross(first)};
  }
  /// Friction's impulse on B over the tick, N·s.
  Vec3 slid() const { return friction.slide_total[0] * tangents()[0] + friction.slide_total[1] * tangents()[1]; }
};

/// What can be said of an active pair without looking at it.
struct ActiveEnds {
  std::uint32_t a = 0, b = 0;
  std::uint32_t block = 0;  ///< where the solver has it in this tick
  std::uint8_t lane = 0;
  std::uint8_t points = 0;
  bool moves_a = false, moves_b = false;  ///< dynamic
  bool rolls = false;                     ///< against rolling friction
  bool calm = false;                      ///< neither has moved for a while: a few passes do
  float least_gap = 0;                    ///< at the tick's start, m
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

/// A body in a zone's water in this sub-step.
struct Wet {
  std::uint32_t body = 0;
  double share = 0;            ///< of the body's volume
  double volume = 0;           ///< m³
  Vec3 centre = Vec3::Zero();  ///< of the submerged part, m
  Vec3 flow = Vec3::Zero();    ///< velocity of the water there, m/s
  Vec3 swell = Vec3::Zero();   ///< its acceleration, m/s²
  Vec3 surface_normal = Vec3::Unit(1);
};

/// A zone's insides.
struct ZoneRecord {
  ZoneSettings settings;
  Shape reach;  ///< what it senses in: its shape, raised to the water's surface
  Pose reach_pose;
  std::vector<Plane> sides;  ///< of the shape, scene frame; without the lid where there is water
  std::vector<WaveTrain> trains;
  double level = 0;                ///< of still water, m
  double pull_reach = 1;           ///< farthest that the shape goes from the pull's target, m
  std::vector<BodyHandle> acting;  ///< on whom it acts in this tick, sorted
  std::vector<Wet> wet;            ///< those in the water, in the same order
  std::vector<Wet> wet_before;     ///< in the tick before
  std::vector<Wet> wet_again;      ///< scratch
  std::uint32_t generation = 0;
  bool alive = false;
  std::vector<BodyHandle> inside;  ///< sorted
  std::vector<BodyHandle> sensed;  ///< scratch
};

/// What zones make of gravity and air for one body.
struct Medium {
  Vec3 gravity = Vec3::Zero();  ///< m/s²
  Vec3 wind = Vec3::Zero();     ///< of the air, m/s
  Vec3 push = Vec3::Zero();     ///< of water and pulls in this sub-step, N
  Vec3 twist = Vec3::Zero();    ///< N·m
  double dry = 1;               ///< share of the body that is out of the water
  double linear_damping = 0;    ///< added to the body's own, 1/s
  double angular_damping = 0;   ///< added to the body's own, 1/s
};

/// What loads come to in all, set's frame; size below 0: never summed.
struct LoadSum {
  double size = -1;            ///< of all forces' sizes, N
  Vec3 force = Vec3::Zero();   ///< N
  Vec3 moment = Vec3::Zero();  ///< about the frame's origin, N·m
};

/// A breakable body's insides. The set's frame is the body's frame moved by `offset`.
struct BreakRecord {
  BodyHandle body;
  BreakSettings settings;
  BondedPart part;
  Vec3 offset = Vec3::Zero();     ///< of a point: in the set's frame less in the body's, m
  double density = 1;             ///< kg/m³
  double safe_load = 0;           ///< sum of forces that surely breaks nothing, N
  LoadSum last_load;              ///< when its bonds were last worked out
  std::vector<float> use;         ///< by bond of the part, then
  std::vector<PieceLoad> struck;  ///< impulses (N·s) that are still to be given to it, set's frame
  std::vector<PieceLoad> borne;   ///< forces of scripts in this tick and impulses given already, as forces, set's frame
};

struct JointSystem;
struct ContactSystem;
struct ImpactScratch;
struct CreaseScratch;
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
  std::vector<NearBodies> near;           ///< many more than pairs, and small; in order of (a, b)
  std::vector<std::uint32_t> near_first;  ///< by body, and one more: the first of `near` whose a it is, or a later body
  std::vector<JointRecord> joints;
  std::vector<std::uint32_t> unused_joints;
  int joint_parts = 1;  ///< in how many parts the joints' bodies last had to go through a sub-step
  std::unordered_map<std::uint64_t, int> kept_apart;  ///< how many joints say that two bodies do not meet
  std::vector<ContactEvent> contacts;                 ///< the first contact_count; the rest keep their room for later
  std::size_t contact_count = 0;
  std::vector<ZoneRecord> zones;
  std::vector<ZoneEvent> zone_events;
  std::vector<Medium> media;  ///< by body; empty when no zone has a field
  std::vector<SplashEvent> splashes;
  bool unsensed = true;                 ///< something came, was moved or changed since zones last sensed
  std::vector<BreakRecord> breakables;  ///< in no order that matters, but always the same
  std::vector<CrackEvent> cracks;
  std::vector<JointBreak> snaps;
  std::vector<FaultEvent> faults;

  StepTimes times;
  /// By body: acceleration in the last sub-step, hits apart, m/s². Only in worlds with joints.
  std::vector<Vec3> borne_acceleration;
  bool disturbed = true;  ///< something was done to the world since the last tick
  bool quiet = false;     ///< after the last tick nothing moved

  // Scratch, kept to save allocation.
  std::vector<Nearness> nearness;  ///< of each of `near`
  Scratch<JointSystem> joint_scratch;
  Scratch<ContactSystem> contact_scratch;
  Scratch<ImpactScratch> impact_scratch;
  Scratch<CreaseScratch> crease_scratch;
  std::shared_ptr<Team> team;
  std::vector<std::uint32_t> active;         ///< pairs with points and a response, in order of (a, b)
  std::vector<ActiveEnds> active_ends;       ///< of each active pair
  std::vector<ActiveEnds> listed_ends;       ///< of each listed pair
  std::vector<char> seen;                    ///< by pair: near in this tick
  std::vector<char> reported;                ///< of each listed pair: there is something to report of it
  std::vector<std::vector<NearBodies>> met;  ///< by worker: bodies that came near
  std::vector<Motion> at_start;              ///< motions at the tick's start
  std::vector<std::uint32_t> movers;         ///< bodies on their way to a target in this tick
  std::vector<char> moving;                  ///< by body: alive, awake and not static in this tick
  std::vector<char> moved_by_joints;         ///< by body: joints have moved it already in this sub-step
  std::vector<Vec3> expected_acceleration;  ///< by body: what joints and what it lies on leave of that, for hits, m/s²
  std::vector<Vec3> steady_acceleration;    ///< by body: its steady acceleration in this sub-step, m/s²
  std::vector<double> top_speed;            ///< of any point of each body so far in this tick, m/s
  std::vector<std::uint32_t> island;        ///< by body: another body of its island, or itself
  std::vector<double> still;                ///< by body: of its island, s
  std::vector<char> struck;                 ///< by body: hit in this round
  std::vector<double> struck_at;            ///< moment of each body's last hit in this sub-step, s
  std::vector<Vec3> velocity_before;        ///< at the sub-step's start
  std::vector<Vec3> spin_before;            ///< angular velocity then
  std::vector<Vec3> velocity_free;          ///< as smooth forces alone would have it at the sub-step's end

  /// Gravity where the body is, zones counted, m/s².
  const Vec3& gravity_on(std::size_t body) const {
    return body < media.size() ? media[body].gravity : settings.gravity;  // made since: not looked at yet
  }
  std::uint32_t index_of(BodyHandle body) const;  ///< throws Error when the body is gone
  double tick_length() const { return 1.0 / settings.tick_rate; }
};

}  // namespace bronvel
