// The world: bodies that move, touch and are asked about, one fixed tick at a time.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "dynamics/settings/body.h"
#include "dynamics/settings/books.h"
#include "dynamics/settings/breaking.h"
#include "dynamics/settings/events.h"
#include "dynamics/settings/joint.h"
#include "dynamics/settings/queries.h"
#include "dynamics/settings/step_times.h"
#include "dynamics/settings/world_settings.h"
#include "dynamics/settings/zone.h"

namespace bronvel {

struct WaterNow;
struct WorldState;

/// All of a world at one moment, to go back to. Cheap to keep and to copy.
struct WorldSnapshot {
  std::shared_ptr<const WorldState> state;
};

/// Bodies, contacts and time. Everything is deterministic: the same calls in the same order give the same bits.
/// A call that can't be met throws Error and leaves the world as it was.
class World {
 public:
  explicit World(const WorldSettings& settings);
  ~World();
  World(World&&) noexcept;
  World& operator=(World&&) noexcept;

  // Time
  void step();                ///< one tick
  std::int64_t tick() const;  ///< ticks done
  double time() const;        ///< tick / tick rate, s
  const WorldSettings& settings() const;
  const StepTimes& step_times() const;  ///< of the last tick; the only thing here that differs from run to run
  void set_settings(const WorldSettings& settings);
  /// How many threads a tick may use, 1 to begin with. The results are the same bits for any number.
  void set_threads(int threads);

  // Bodies
  BodyHandle create(const BodySettings& settings, const BodyMotion& motion);
  void remove(BodyHandle body);
  bool alive(BodyHandle body) const;
  std::vector<BodyHandle> bodies() const;  ///< in order of their index
  std::size_t body_count() const;
  std::size_t overlap_count() const;  ///< pairs of bodies whose boxes overlap: what a change has to look through
  const BodySettings& body_settings(BodyHandle body) const;
  void change(BodyHandle body, const BodySettings& settings);  ///< counts from the next tick; motion is kept
  /// Of many bodies at once, each its surface: as `change`, which looks through all that is near for each.
  void set_surfaces(std::span<const std::pair<BodyHandle, Surface>> surfaces);
  BodyMotion motion(BodyHandle body) const;
  const Vec3& velocity(BodyHandle body) const;  ///< of its centre of mass, m/s; motion() without the rest
  Vec3 centre_of_mass(BodyHandle body) const;   ///< scene frame, m
  MassProperties mass(BodyHandle body) const;   ///< in the body's frame
  /// Where the origin of its frame is now, in the frame that it was made with, m: what is left of a body that broke or
  /// was cut has its frame at its own middle. Zero for all others, and for kinematic ones, which are led by their
  /// frame.
  Vec3 frame_shift(BodyHandle body) const;
  bool asleep(BodyHandle body) const;
  bool touching(BodyHandle body) const;  ///< in contact with any solid body in the last tick

  // Acting on bodies. Forces act over the whole next tick; impulses and settings of motion at once.
  void place(BodyHandle body, const Pose& pose);
  /// Moves a kinematic body to `pose` within the coming tick, pushing what is in the way; then it stands still.
  void move_to(BodyHandle body, const Pose& pose);
  void set_velocity(BodyHandle body, const Vec3& velocity);                  ///< m/s
  void set_angular_velocity(BodyHandle body, const Vec3& angular_velocity);  ///< rad/s
  void force(BodyHandle body, const Vec3& newtons);                          ///< at the centre of mass
  void force_at(BodyHandle body, const Vec3& newtons, const Vec3& point);    ///< scene frame
  void torque(BodyHandle body, const Vec3& newton_metres);
  void impulse(BodyHandle body, const Vec3& newton_seconds);
  void impulse_at(BodyHandle body, const Vec3& newton_seconds, const Vec3& point);
  void angular_impulse(BodyHandle body, const Vec3& newton_metre_seconds);
  void wake(BodyHandle body);

  // Books: what changed the momentum and the energy of bodies, by cause. They change no bit of what happens.
  void keep_books(const std::vector<BodyHandle>& bodies);  ///< of these from now on; of nobody where there are none
  void keep_all_books();                                   ///< of all dynamic bodies, of those that come too
  bool keeps_books() const;
  std::span<const BodyBooks> books() const;  ///< of the last tick, with what came from outside before it; by body
  /// What comes from outside from now on (forces, impulses, velocities that are set) is booked under this number.
  void acting(std::uint32_t act);

  // Joints. They hold from the next tick on; a body's joints go with it.
  JointHandle join(const JointSettings& settings);
  void remove(JointHandle joint);
  bool alive(JointHandle joint) const;
  std::vector<JointHandle> joints() const;  ///< in order of their index
  const JointSettings& joint_settings(JointHandle joint) const;
  void change(JointHandle joint, const JointSettings& settings);
  JointReading reading(JointHandle joint) const;  ///< of the last tick

  // Zones. A new one first senses at the end of the next tick; a change counts from the next tick.
  ZoneHandle add_zone(const ZoneSettings& settings);
  void remove(ZoneHandle zone);
  bool alive(ZoneHandle zone) const;
  const ZoneSettings& zone_settings(ZoneHandle zone) const;
  void change(ZoneHandle zone, const ZoneSettings& settings);
  std::vector<BodyHandle> inside(ZoneHandle zone) const;  ///< in order of their index, as of the last tick
  /// The zone's water now. Valid until the zone changes. Throws Error when it has none.
  WaterNow water(ZoneHandle zone) const;
  /// What of the body lies in each water, where it stands now, in the order of the zones.
  std::vector<Floating> floating(BodyHandle body) const;
  double submerged(BodyHandle body) const;  ///< share of its volume in water in the last tick, 0 to 1

  // Breaking. A body with an anchored piece is held by the scene: it is made static, and what breaks off it dynamic; so
  // is a static body without one as soon as something breaks it.
  void make_breakable(BodyHandle body, const BreakSettings& settings);
  void make_unbreakable(BodyHandle body);
  bool breakable(BodyHandle body) const;
  bool whole(BodyHandle body) const;  ///< breakable, and nothing has broken off it yet
  /// Other strengths for the bonds that are left; nothing for bodies that do not break. Throws Error as make_breakable.
  void set_strength(BodyHandle body, const BondStrength& strength, double merge_below);
  std::vector<BondReading> bonds(BodyHandle body) const;     ///< none for bodies that do not break
  std::optional<BondsNow> bonds_now(BodyHandle body) const;  ///< the same without looking at each of them
  /// Loads each piece of a breakable body at once with the impulse (N·s) that `share` gives for the piece's middle
  /// (scene frame) and its share of the body's volume; counts with the next tick, for what has broken off by then.
  void strike_pieces(BodyHandle body, const std::function<Vec3(const Vec3& middle, double volume_share)>& share);
  /// Cuts the body by the plane through `point` with `normal`: the side behind the normal goes on as the body, the
  /// other is new. Convex shapes and compounds; what is round is cut by its facets. A breakable body's parts stay
  /// breakable. The frame of each is then at its centre of mass. Throws Error with the reason when it can't be cut.
  BodyHandle slice(BodyHandle body, const Vec3& point, const Vec3& normal);
  /// Breaks the body into pieces at once: all of them, the body itself first. Throws Error when it can't be broken.
  std::vector<BodyHandle> shatter(BodyHandle body, const PieceRecipe& recipe);

  // What the last tick did, in a fixed order: by the lower body index, then the higher.
  std::span<const ContactEvent> contacts() const;
  std::span<const JointBreak> snaps() const;   ///< joints that broke
  std::span<const CrackEvent> cracks() const;  ///< bodies that broke
  std::span<const FaultEvent> faults() const;
  std::span<const ZoneEvent> zone_events() const;  ///< by zone, then by body
  std::span<const SplashEvent> splashes() const;   ///< by zone, then by body

  // Questions
  std::optional<WorldRayHit> ray(const Vec3& origin, const Vec3& direction, double reach,
                                 const QueryFilter& filter = {}) const;
  /// The bodies that overlap the shape, in order of their index. `work`, if given, grows by what it took.
  std::vector<BodyHandle> overlapping(const Shape& shape, const Pose& pose, const QueryFilter& filter = {},
                                      QueryWork* work = nullptr) const;
  /// The body nearest to the point, no farther than `reach` m.
  std::optional<WorldNearest> nearest(const Vec3& point, double reach, const QueryFilter& filter = {}) const;
  /// The body's own point nearest to the point, no farther than `reach` m.
  std::optional<WorldNearest> nearest_on(BodyHandle body, const Vec3& point, double reach) const;
  /// Moves the shape along `way` without turning; the first body that it meets, `distance` being how far it came (m).
  /// `work`, if given, grows by what it took.
  std::optional<WorldNearest> sweep(const Shape& shape, const Pose& pose, const Vec3& way,
                                    const QueryFilter& filter = {}, QueryWork* work = nullptr) const;

  /// Moves a kinematic body along `way` (m) until it hits something that it collides with; sliding on along what it
  /// hits if asked to. At once, outside of any tick. What it hits is told of as a contact of the next tick; a dynamic
  /// body is pushed, as by one that goes `way` within a tick.
  WorldAdvance advance(BodyHandle body, const Vec3& way, bool slide);

  /// Everything that the next ticks depend on. After `restore` the world goes on exactly as it did from there.
  WorldSnapshot snapshot() const;
  void restore(const WorldSnapshot& snapshot);

  double kinetic_energy() const;  ///< of all dynamic bodies, J
  std::uint64_t digest() const;   ///< of the bits of every body's motion

 private:
  void strike_by_advance(std::uint32_t self, const Vec3& way, const WorldNearest& met);
  void break_struck();
  void break_loaded();
  void take_hits_back(std::uint32_t body, const std::vector<std::uint32_t>& pairs, double share, double& allowed);
  void break_apart(std::uint32_t record, std::vector<std::uint32_t> broken, const Vec3& point, double use);
  void take_apart(std::uint32_t record, std::vector<std::uint32_t> broken, const Vec3& point, double use);
  BodyHandle part_off(BodyHandle from, const BodySettings& settings, const Vec3& origin);
  void keep_part(BodyHandle body, const BodySettings& settings, const Vec3& origin);

  std::unique_ptr<WorldState> state_;
};

}  // namespace bronvel
