// What a tick works in. Only the dynamics layer includes this.
#pragma once

#include <memory>
#include <vector>

#include "dynamics/state/body_record.h"
#include "dynamics/state/pair.h"

namespace bronvel {

struct JointSystem;
struct ContactSystem;
struct ImpactScratch;
struct InternalEdgeScratch;
struct BreakScratch;
struct WaterScratch;
struct Books;
class ThreadPool;

/// A solver's scratch, made when first used.
template <class T>
class Scratch {
 public:
  T& operator*() const {
    if (!held_) held_ = std::make_shared<T>();
    return *held_;
  }

 private:
  mutable std::shared_ptr<T> held_;
};

/// A T of which copies start anew.
template <class T>
struct NotCopied : T {
  NotCopied() = default;
  NotCopied(const NotCopied&) : T() {}
  NotCopied& operator=(const NotCopied& other) {
    if (this != &other) static_cast<T&>(*this) = T();
    return *this;
  }
  ~NotCopied() = default;
};

/// What hits gave a body in a sub-step.
struct HitImpulses {
  double work = 0;              ///< J
  Vec3 impulse = Vec3::Zero();  ///< N·s
  Vec3 moment = Vec3::Zero();   ///< about the scene's origin, N·m·s
  Vec3 late = Vec3::Zero();     ///< impulses times half the square of what was left of the sub-step, N·s³

  void add(const Vec3& given, const Vec3& place, const Vec3& mean_velocity, double left) {
    work += given.dot(mean_velocity);
    impulse += given;
    moment += place.cross(given);
    late += 0.5 * left * left * given;
  }
};

/// How a body's surface has moved since the last tick's start.
struct BodyWay {
  Vec3 shift = Vec3::Zero();        ///< of its centre, m
  Quat turning = Quat::Identity();  ///< of its surface
  Mat3 turn = Mat3::Identity();     ///< the same
  double turned = 0;                ///< how far any of its points has gone by that, m
};

/// A ball that was put where it would have been had it always gone along its last facet, and how far from where it was.
struct PutElsewhere {
  std::uint32_t ball = 0;
  double by = 0;  ///< m
};

/// Which bodies each body touches: those of body i are `others` from starts[i] to starts[i + 1]. Listed when first
/// asked for (`wake_island`), and good until pairs come, go, or are told anew.
struct ContactGraph {
  bool listed = false;
  std::vector<std::uint32_t> starts, others;
};

/// What a tick works in, kept to save allocation. Nothing that a later tick depends on.
struct TickScratch {
  FlatArray<BodyWay> ways;         ///< by body
  std::vector<Nearness> nearness;  ///< of each of `near`
  Scratch<JointSystem> joints;
  Scratch<ContactSystem> contacts;
  Scratch<ImpactScratch> impacts;
  Scratch<InternalEdgeScratch> internal_edges;
  Scratch<BreakScratch> breaking;
  Scratch<WaterScratch> waters;
  std::shared_ptr<ThreadPool> thread_pool;
  std::shared_ptr<Books> books;                   ///< null while nobody's books are kept
  std::vector<PatchPoint> patch_points;           ///< of two bodies
  std::size_t points_left_out = 0;                ///< of patches, in this tick
  std::vector<std::uint32_t> active;              ///< pairs with points and a response, in order of (a, b)
  std::vector<std::uint32_t> fast;                ///< those of the active pairs that are swept
  FlatArray<ActiveEnds> active_ends;              ///< of each active pair
  FlatArray<ActiveEnds> listed_ends;              ///< of each listed pair
  std::size_t most_pairs = 0;                     ///< that there were since memory of their list was last given back
  std::vector<std::uint32_t> line_up;             ///< by pair: which comes there when they are lined up
  std::vector<char> seen;                         ///< by pair: near in this tick
  std::vector<std::uint32_t> fresh;               ///< pairs that came in this tick
  std::vector<char> reported;                     ///< of each listed pair: there is something to report of it
  std::vector<std::vector<std::uint32_t>> told;   ///< by worker: listed pairs, the first of bodies that it tells of
  double sub_step_start = 0;                      ///< s into the tick
  std::vector<std::vector<HitPlace>> hit_places;  ///< by worker; all in the first once the tick is played, by pair
  std::vector<std::vector<Overlap>> met;          ///< by worker: bodies that came near
  std::array<std::vector<std::uint32_t>, 2> part_overlaps;  ///< of two bodies that are near each other
  /// By body: how fast it may be going within this tick since something that moves so fast may strike it, m/s; 0 for
  /// what has only its own speed. Empty while nothing was woken in this tick.
  std::vector<double> wake_speed;
  std::vector<PutElsewhere> put_at_edges;  ///< at internal edges, in this sub-step
  ContactGraph graph;
  std::vector<char> sleeping;             ///< by body
  std::vector<char> moving;               ///< by body: alive, awake and not static in this tick
  std::vector<char> put_elsewhere;        ///< by body: since the iterations last looked where it is, not by its motion
  std::vector<char> moved_by_joints;      ///< by body: joints have moved it already in this sub-step
  FlatArray<Vec3> expected_acceleration;  ///< by body: what joints and what it lies on leave of that, for hits, m/s²
  FlatArray<Vec3> steady_acceleration;    ///< by body: its steady acceleration in this sub-step, m/s²
  std::vector<double> top_speed;          ///< of any point of each body so far in this tick, m/s
  std::vector<std::uint32_t> island;      ///< by body: another body of its island, or itself
  std::vector<double> still;              ///< by body: of its island, s
  std::vector<char> struck;               ///< by body: hit in this round
  std::vector<double> struck_at;          ///< moment of each body's last hit in this sub-step, s
  FlatArray<HitImpulses> hit_impulses;    ///< on each body in this sub-step, where joints hold any
  FlatArray<Vec3> velocity_before;        ///< at the sub-step's start
  FlatArray<Vec3> spin_before;            ///< angular velocity then
  FlatArray<Vec3> velocity_free;          ///< as smooth forces alone would have it at the sub-step's end
  FlatArray<Vec3> spin_free;              ///< the same
};

}  // namespace bronvel
