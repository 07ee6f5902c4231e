// The world's life: bodies come, are pushed, and are stepped.
#include "dynamics/world.h"

#include <atomic>
#include <bit>
#include <cassert>
#include <chrono>

#include "dynamics/break_records.h"
#include "dynamics/contact_pairs.h"
#include "dynamics/contact_points.h"
#include "dynamics/contact_report.h"
#include "dynamics/contact_solver.h"
#include "dynamics/creases.h"
#include "dynamics/heap_energy.h"
#include "dynamics/impact.h"
#include "dynamics/integrate.h"
#include "dynamics/joint_solver.h"
#include "dynamics/movers.h"
#include "dynamics/sleep.h"
#include "dynamics/team.h"
#include "dynamics/world_state.h"
#include "dynamics/zones.h"
#include "geometry/error.h"
#include "geometry/linear.h"
#include "geometry/parts.h"

namespace bronvel {
namespace {

void check(const Vec3& v, const char* call, const char* unit) {
  if (!finite(v)) throw Error(call, std::string("wants a vector in ") + unit + ", got one that is not a number");
}

void check(const WorldSettings& s) {
  if (!finite(s.gravity)) throw Error("world", "gravity is not a number");
  if (!(s.tick_rate >= 1 && s.tick_rate <= 10000)) throw Error("world", "tick_rate must be 1 to 10,000 Hz");
  if (s.substeps < 1 || s.substeps > 64) throw Error("world", "substeps must be 1 to 64");
  if (!(s.restitution_speed >= 0)) throw Error("world", "restitution_speed must be 0 m/s or more");
  if (!(s.rest_way >= 0)) throw Error("world", "rest_way must be 0 m or more");
  if (!(s.air_density >= 0)) throw Error("world", "air_density must be 0 kg/m³ or more");
}

Symmetry symmetry_of(const Shape& shape, const Vec3& centre) {
  const double off_axis = std::hypot(centre.x(), centre.z());
  if (std::holds_alternative<Sphere>(shape)) {
    if (centre.isZero()) return Symmetry::ball;
    return off_axis == 0 ? Symmetry::axis : Symmetry::none;
  }
  const bool turned = std::holds_alternative<Capsule>(shape) || std::holds_alternative<Cylinder>(shape) ||
                      std::holds_alternative<Cone>(shape);
  return turned && off_axis == 0 ? Symmetry::axis : Symmetry::none;
}

// Settings into the derived part of the record; the motion's pose stays.
void take_settings(BodyRecord& record, Motion& motion, const BodySettings& settings, bool planar) {
  record.settings = settings;
  record.kind = settings.kind;
  record.solid = settings.solid;
  record.groups = settings.groups;
  record.meets = settings.meets;
  record.weight = settings.mass * settings.gravity_factor;
  record.gravity_factor = settings.gravity_factor;
  record.resisted =
      settings.linear_damping > 0 || settings.angular_damping > 0 || settings.linear_drag > 0 || settings.drag_area > 0;
  record.composite = is_composite(settings.shape);
  record.sweeping = settings.sweeping;
  record.cross_area.setZero();
  record.bounds_reach = -1;
  const double volume = shape_volume(settings.shape);
  record.mass = mass_properties(settings.shape, volume > 0 ? settings.mass / volume : 1);
  record.mass.mass = settings.mass;
  if (settings.centre_of_mass) record.mass.centre = *settings.centre_of_mass;
  if (settings.inertia) record.mass.inertia = *settings.inertia;
  record.locks = settings.locks;
  if (planar) record.locks.move[2] = record.locks.turn[0] = record.locks.turn[1] = true;
  const Bounds bounds = shape_bounds(settings.shape, Pose{});
  record.inner_radius = inner_radius(settings.shape);
  record.free_turning = !record.locks.any_turn();
  const double scale = record.mass.inertia.trace() / 3;
  record.round = (record.mass.inertia - scale * Mat3::Identity()).cwiseAbs().maxCoeff() <= 1e-12 * scale;
  record.symmetry = symmetry_of(settings.shape, record.mass.centre);
  const Vec3 far_side = (bounds.high - record.mass.centre).cwiseMax(record.mass.centre - bounds.low);
  record.radius = far_side.norm();
  if (record.dynamic()) {
    record.inverse_inertia = record.mass.inertia.inverse();
    motion.inverse_mass = Vec3::Constant(1 / settings.mass);
    for (int i = 0; i < 3; ++i) {
      const auto axis = static_cast<std::size_t>(i);
      if (record.locks.move[axis]) motion.inverse_mass[i] = motion.velocity[i] = 0;
      if (record.locks.turn[axis]) motion.angular_velocity[i] = 0;
    }
  } else {
    record.inverse_inertia.setZero();
    motion.inverse_mass.setZero();
    record.asleep = false;
    if (settings.kind == MotionKind::fixed) {
      motion.velocity.setZero();
      motion.angular_velocity.setZero();
    }
  }
  refresh_inertia(record, motion);
}

// The vector without its parts along locked axes.
Vec3 allowed(Vec3 v, const BodyRecord& record, const std::array<bool, 3>& locked) {
  if (!record.dynamic()) return v;
  for (int i = 0; i < 3; ++i)
    if (locked[static_cast<std::size_t>(i)]) v[i] = 0;
  return v;
}

}  // namespace

std::optional<std::string> body_fault(const BodySettings& s, const BodyMotion& m) {
  if (auto fault = shape_fault(s.shape)) return fault;
  if (s.kind == MotionKind::dynamic && !has_volume(s.shape))
    return "a dynamic body can't be a " + shape_word(s.shape) +
           ", a surface without an inside: use a hull or a compound, or make it static";
  if (!(s.mass > 0) || !finite(s.mass)) return "mass must be a number above 0 kg";
  if (s.mass < 1e-12 || s.mass > 1e15) return "mass must be from 1e-12 to 1e15 kg";
  for (const double share : {s.surface.static_friction, s.surface.dynamic_friction, s.surface.rolling_friction,
                             s.linear_damping, s.angular_damping, s.linear_drag, s.drag_area})
    if (!(share >= 0) || !finite(share)) return "friction, damping and drag must be numbers of 0 or more";
  if (!(s.surface.restitution >= 0 && s.surface.restitution <= 1)) return "restitution must be from 0 to 1";
  if (!finite(s.gravity_factor)) return "gravity_factor is not a number";
  if (s.centre_of_mass && !finite(*s.centre_of_mass)) return "centre_of_mass is not a number";
  if (s.inertia) {
    if (!s.inertia->allFinite()) return "inertia is not a number";
    if (!s.inertia->isApprox(s.inertia->transpose(), 1e-9)) return "inertia must be symmetric";
    const Vec3 principal = eigenvalues(*s.inertia);
    if (!(principal[0] > 0)) return "inertia must be above 0 kg·m² about every axis";
    if (principal[0] + principal[1] < principal[2] * (1 - 1e-9))
      return "inertia about one axis is more than about the two others together: no body has that";
  }
  if (!finite(m.pose.position)) return "position is not a number";
  if (m.pose.position.cwiseAbs().maxCoeff() > 1e7) return "position is farther than 1e7 m from the origin";
  if (!finite(m.pose.orientation) || std::abs(m.pose.orientation.norm() - 1) > 1e-3)
    return "orientation must be a unit quaternion";
  if (!finite(m.velocity) || m.velocity.norm() > 1e6) return "velocity must be a number below 1e6 m/s";
  if (!finite(m.angular_velocity) || m.angular_velocity.norm() > 1e6)
    return "angular_velocity must be a number below 1e6 rad/s";
  return std::nullopt;
}

std::uint32_t WorldState::index_of(BodyHandle body) const {
  if (body.index >= records.size() || !records[body.index].alive || records[body.index].generation != body.generation)
    throw Error("world", "the body is gone", "it was removed; look it up again");
  return body.index;
}

World::World(const WorldSettings& settings) : state_(std::make_unique<WorldState>()) {
  set_threads(1);
  set_settings(settings);
  state_->tick = settings.first_tick;
}
World::~World() = default;
World::World(World&&) noexcept = default;
World& World::operator=(World&&) noexcept = default;

std::int64_t World::tick() const {
  return state_->tick;
}
double World::time() const {
  return static_cast<double>(state_->tick) / state_->settings.tick_rate;
}
const WorldSettings& World::settings() const {
  return state_->settings;
}

void World::set_threads(int threads) {
  if (threads < 1 || threads > 64) throw Error("world", "threads must be 1 to 64");
  if (!state_->scratch.team || state_->scratch.team->workers() != threads)
    state_->scratch.team = std::make_shared<Team>(threads);
}

void World::set_settings(const WorldSettings& settings) {
  check(settings);
  const bool new_planar = settings.planar != state_->settings.planar;
  state_->settings = settings;
  state_->disturbed = state_->unsensed = true;
  for (ZoneRecord& zone : state_->zones)
    if (zone.alive) prepare_zone(*state_, zone);
  for (std::uint32_t i = 0; i < state_->records.size(); ++i) {
    BodyRecord& record = state_->records[i];
    if (new_planar && record.alive) take_settings(record, state_->motions[i], record.settings, settings.planar);
    record.asleep = false;
    record.still_for = 0;
  }
}

BodyHandle World::create(const BodySettings& settings, const BodyMotion& motion) {
  if (auto fault = body_fault(settings, motion)) throw Error("world", *fault);
  WorldState& s = *state_;
  std::uint32_t index;
  if (s.unused.empty()) {
    index = static_cast<std::uint32_t>(s.records.size());
    make_room(s.records);
    make_room(s.motions);
    s.records.emplace_back();
    s.motions.emplace_back();
  } else {
    index = s.unused.back();
    s.unused.pop_back();
  }
  s.disturbed = s.unsensed = true;
  BodyRecord& record = s.records[index];
  const std::uint32_t generation = record.generation + 1;
  record = BodyRecord{};
  record.generation = generation;
  record.alive = true;
  Motion& body = s.motions[index];
  body = Motion{};
  body.orientation = motion.pose.orientation.normalized();
  body.velocity = motion.velocity;
  body.angular_velocity = motion.angular_velocity;
  take_settings(record, body, settings, s.settings.planar);
  body.centre = motion.pose.position + body.orientation * record.mass.centre;
  record.leaf = s.broad_phase.add(shape_bounds(settings.shape, motion.pose), index);
  return {index, generation};
}

void World::remove(BodyHandle body) {
  const std::uint32_t i = state_->index_of(body);
  wake_island(*state_, i);
  forget_bonds(*state_, i);
  forget_joints(*state_, i);
  forget_mover(*state_, i);
  forget_pairs(*state_, i);
  state_->frame_shifts.erase(i);
  state_->broad_phase.remove(state_->records[i].leaf);
  state_->records[i].alive = false;
  state_->unused.push_back(i);
}

bool World::alive(BodyHandle body) const {
  return body.index < state_->records.size() && state_->records[body.index].alive &&
         state_->records[body.index].generation == body.generation;
}

std::vector<BodyHandle> World::bodies() const {
  std::vector<BodyHandle> all;
  for (std::uint32_t i = 0; i < state_->records.size(); ++i)
    if (state_->records[i].alive) all.push_back({i, state_->records[i].generation});
  return all;
}

std::size_t World::body_count() const {
  return state_->records.size() - state_->unused.size();
}

std::size_t World::near_count() const {
  return state_->near.size();
}

const BodySettings& World::body_settings(BodyHandle body) const {
  return state_->records[state_->index_of(body)].settings;
}

void World::change(BodyHandle body, const BodySettings& settings) {
  const std::uint32_t i = state_->index_of(body);
  if (auto fault = body_fault(settings, motion(body))) throw Error("world", *fault);
  BodyRecord& record = state_->records[i];
  Motion& m = state_->motions[i];
  const Pose pose = motion(body).pose;
  const bool new_shape = !(record.settings.shape == settings.shape);
  const bool new_kind = record.settings.kind != settings.kind;
  wake_island(*state_, i);
  weigh_pieces(*state_, i, settings.mass / record.settings.mass);
  take_settings(record, m, settings, state_->settings.planar);
  if (record.kind != MotionKind::kinematic) forget_mover(*state_, i);
  m.centre = pose.to_scene(record.mass.centre);
  find_points_anew(*state_, i);
  if (new_shape || new_kind) {
    forget_pairs(*state_, i);
    state_->broad_phase.remove(record.leaf);
    record.leaf = state_->broad_phase.add(shape_bounds(settings.shape, pose), i);
  }
  record.moved = true;
  state_->unsensed = true;
}

BodyMotion World::motion(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  const Motion& m = state_->motions[i];
  const BodyRecord& record = state_->records[i];
  const MoverRecord* came = came_there(*state_, i, state_->tick);
  return {{m.centre - m.orientation * record.mass.centre, m.orientation},
          came ? came->velocity : m.velocity,
          came ? came->spin : m.angular_velocity};
}

const Vec3& World::velocity(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  const MoverRecord* came = came_there(*state_, i, state_->tick);
  return came ? came->velocity : state_->motions[i].velocity;
}

Vec3 World::centre_of_mass(BodyHandle body) const {
  return state_->motions[state_->index_of(body)].centre;
}
Vec3 World::frame_shift(BodyHandle body) const {
  const auto shift = state_->frame_shifts.find(state_->index_of(body));
  return shift == state_->frame_shifts.end() ? Vec3(Vec3::Zero()) : shift->second;
}
MassProperties World::mass(BodyHandle body) const {
  return state_->records[state_->index_of(body)].mass;
}
bool World::asleep(BodyHandle body) const {
  return state_->records[state_->index_of(body)].asleep;
}
bool World::touching(BodyHandle body) const {
  return state_->records[state_->index_of(body)].touching;
}
void World::wake(BodyHandle body) {
  wake_island(*state_, state_->index_of(body));
}

void World::place(BodyHandle body, const Pose& pose) {
  const std::uint32_t i = state_->index_of(body);
  check(pose.position, "place", "metres");
  if (!finite(pose.orientation) || pose.orientation.norm() < 1e-6)
    throw Error("place", "wants a rotation that is not zero");
  wake_island(*state_, i);
  if (state_->records[i].kind == MotionKind::kinematic) note_placed(*state_, i);
  Motion& m = state_->motions[i];
  m.orientation = pose.orientation.normalized();
  m.centre = Pose{pose.position, m.orientation}.to_scene(state_->records[i].mass.centre);
  refresh_inertia(state_->records[i], m);
  state_->records[i].placed = true;
  state_->records[i].moved = true;
  state_->unsensed = true;
}

void World::move_to(BodyHandle body, const Pose& pose) {
  const std::uint32_t i = state_->index_of(body);
  check(pose.position, "move_to", "metres");
  if (!finite(pose.orientation) || pose.orientation.norm() < 1e-6)
    throw Error("move_to", "wants a rotation that is not zero");
  if (state_->records[i].kind != MotionKind::kinematic)
    throw Error("move_to", "wants a kinematic body", "make it kinematic, or use place");
  wake_island(*state_, i);
  head_for(*state_, i, {pose.position, pose.orientation.normalized()});
}

void World::set_velocity(BodyHandle body, const Vec3& velocity) {
  const std::uint32_t i = state_->index_of(body);
  check(velocity, "velocity", "m/s");
  if (state_->records[i].kind == MotionKind::fixed) return;
  wake_island(*state_, i);
  if (state_->records[i].kind == MotionKind::kinematic) note_led(*state_, i);
  state_->motions[i].velocity = allowed(velocity, state_->records[i], state_->records[i].locks.move);
}

void World::set_angular_velocity(BodyHandle body, const Vec3& angular_velocity) {
  const std::uint32_t i = state_->index_of(body);
  check(angular_velocity, "angular_velocity", "rad/s");
  if (state_->records[i].kind == MotionKind::fixed) return;
  wake_island(*state_, i);
  if (state_->records[i].kind == MotionKind::kinematic) note_led(*state_, i);
  state_->motions[i].angular_velocity = allowed(angular_velocity, state_->records[i], state_->records[i].locks.turn);
}

void World::force(BodyHandle body, const Vec3& newtons) {
  const std::uint32_t i = state_->index_of(body);
  check(newtons, "force", "newtons");
  if (!state_->records[i].dynamic() || newtons.isZero()) return;
  if (state_->records[i].asleep) wake_island(*state_, i);
  state_->records[i].force += newtons;
}

void World::force_at(BodyHandle body, const Vec3& newtons, const Vec3& point) {
  check(point, "force", "metres");
  force(body, newtons);
  bear(*state_, state_->index_of(body), newtons, point);
  torque(body, (point - centre_of_mass(body)).cross(newtons));
}

void World::torque(BodyHandle body, const Vec3& newton_metres) {
  const std::uint32_t i = state_->index_of(body);
  check(newton_metres, "torque", "newton metres");
  if (!state_->records[i].dynamic() || newton_metres.isZero()) return;
  if (state_->records[i].asleep) wake_island(*state_, i);
  state_->records[i].torque += newton_metres;
}

void World::impulse(BodyHandle body, const Vec3& newton_seconds) {
  const std::uint32_t i = state_->index_of(body);
  check(newton_seconds, "impulse", "newton seconds");
  wake_island(*state_, i);
  state_->motions[i].velocity += state_->motions[i].inverse_mass.cwiseProduct(newton_seconds);
}

void World::impulse_at(BodyHandle body, const Vec3& newton_seconds, const Vec3& point) {
  check(point, "impulse", "metres");
  impulse(body, newton_seconds);
  bear(*state_, state_->index_of(body), newton_seconds / hit_time, point);
  angular_impulse(body, (point - centre_of_mass(body)).cross(newton_seconds));
}

void World::angular_impulse(BodyHandle body, const Vec3& newton_metre_seconds) {
  const std::uint32_t i = state_->index_of(body);
  check(newton_metre_seconds, "angular impulse", "newton metre seconds");
  wake_island(*state_, i);
  state_->motions[i].angular_velocity += state_->motions[i].inverse_inertia * newton_metre_seconds;
}

std::span<const ContactEvent> World::contacts() const {
  return {state_->contacts.data(), state_->contact_count};
}
std::span<const FaultEvent> World::faults() const {
  return state_->faults;
}

namespace {

// Adds the time since it was last asked to what it is told.
class Stopwatch {
 public:
  void lap(double& into) {
    const auto now = std::chrono::steady_clock::now();
    into += std::chrono::duration<double>(now - last_).count();
    last_ = now;
  }

 private:
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

}  // namespace

const StepTimes& World::step_times() const {
  return state_->times;
}

namespace {

// What joints and what bodies rest on leave of the forces on them.
void note_accelerations(WorldState& s, double h) {
  s.borne_acceleration.resize(s.records.size(), Vec3::Zero());
  for (std::size_t i = 0; i < s.records.size(); ++i) {
    const BodyRecord& record = s.records[i];
    if (s.scratch.moving[i] != 0 && record.dynamic() && (record.jointed || record.touching))
      s.borne_acceleration[i] = (s.motions[i].velocity - s.scratch.velocity_before[i]) / h;
    else
      s.borne_acceleration[i].setZero();
  }
}

bool is_sound(const Motion& m) {
  constexpr double past_measure = 1e100;  // m/s and rad/s: nothing that is meant goes so fast
  return finite(m.centre) && finite(m.orientation) && finite(m.velocity) && finite(m.angular_velocity) &&
         m.velocity.cwiseAbs().maxCoeff() < past_measure && m.angular_velocity.cwiseAbs().maxCoeff() < past_measure;
}

// What was summed for this tick has acted. Whether all motions are still numbers; of those that are not the sums stay.
bool take_off_forces(WorldState& s) {
  constexpr std::size_t worth_sharing = 500;  // bodies
  std::atomic<bool> sound{true};
  s.scratch.team->each(s.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(s.records, i);
    BodyRecord& record = s.records[i];
    if (!record.alive) return;
    if (!is_sound(s.motions[i])) {
      sound = false;
      return;
    }
    record.force.setZero();
    record.torque.setZero();
  });
  return sound;
}

// Whether a change that is against a speed turned it about and made it greater: a brake that is too strong for its
// tick.
bool overshot(const Vec3& before, const Vec3& change) {
  const double speed = before.stableNorm();  // their squares may be too great for a number
  return (before / speed).dot(change / speed) < 0 && change.stableNorm() > 2 * speed;
}

std::string reason_of_unsound(const Motion& start, const BodyRecord& record, double tick) {
  const std::string end = "; it was stopped where it was";
  const auto braked = [&](const char* speed, const char* push, const char* inertia) {
    return std::string("its ") + speed + " was braked by a " + push +
           " that turned it about and made it greater, tick by tick, past all measure" + end + ". To brake, a " + push +
           " may be at most " + speed + " × " + inertia + " × ticks a second";
  };
  if (overshot(start.angular_velocity, tick * (start.inverse_inertia * record.torque)))
    return braked("spin", "torque", "inertia");
  if (overshot(start.velocity, tick * start.inverse_mass.cwiseProduct(record.force)))
    return braked("speed", "force", "mass");
  return "its motion was no longer a number, or past all measure" + end;
}

// Bodies whose motion is no number go back to where it last made sense, and out of the simulation.
void stop_the_unsound(WorldState& s) {
  for (std::uint32_t i = 0; i < s.records.size(); ++i) {
    BodyRecord& record = s.records[i];
    Motion& m = s.motions[i];
    if (!record.alive || is_sound(m)) continue;
    m = s.at_start[i];
    FaultEvent& fault = s.faults.emplace_back();
    fault.body = {i, record.generation};
    fault.reason = reason_of_unsound(m, record, 1 / s.settings.tick_rate);
    record.force.setZero();
    record.torque.setZero();
    m.velocity.setZero();
    m.angular_velocity.setZero();
    record.settings.kind = MotionKind::fixed;
    take_settings(record, m, record.settings, s.settings.planar);
  }
}

// Contacts and joints agree when joints change no speed by more than this share of what gravity gives in a sub-step.
constexpr double agreement = 1e-3;

}  // namespace

namespace {

// Where bodies are at the tick's start, and what is known by body while it lasts.
void note_start(WorldState& s) {
  constexpr std::size_t worth_sharing = 2000;  // bodies
  const std::size_t count = s.motions.size();
  TickScratch& scratch = s.scratch;
  s.at_start.resize(count);
  scratch.spin_before.resize(count);
  scratch.velocity_before.resize(count);
  scratch.velocity_free.resize(count);
  scratch.spin_free.resize(count);
  scratch.top_speed.resize(count);
  scratch.steady_acceleration.resize(count);
  scratch.expected_acceleration.resize(count);
  scratch.moved_by_joints.resize(count);
  scratch.put_elsewhere.resize(count);
  scratch.team->each(count, worth_sharing, [&](std::size_t i) {
    s.at_start[i] = s.motions[i];
    scratch.top_speed[i] = 0;
    scratch.steady_acceleration[i].setZero();
    scratch.expected_acceleration[i].setZero();
    scratch.moved_by_joints[i] = scratch.put_elsewhere[i] = 0;
  });
}

}  // namespace

void World::step() {
  constexpr int most_wakes = 1000;  // sleepers in a row, a hair apart
  WorldState& s = *state_;
  if (s.quiet && !s.disturbed && s.told_advance_hits.empty()) {
    // All sleep and nothing was done to them.
    s.contact_count = 0;
    s.faults.clear();
    s.snaps.clear();
    s.zone_events.clear();
    s.splashes.clear();
    s.cracks.clear();
    s.times = {};
    ++s.tick;
    return;
  }
  s.disturbed = false;
  const double h = s.tick_length() / s.settings.substeps;
  StepTimes& times = s.times = {};
  Stopwatch all, watch;
  s.faults.clear();
  s.snaps.clear();
  s.cracks.clear();
  break_struck();
  apply_zones(s);
  head_for_targets(s);
  s.scratch.wake_speed.clear();
  update_pairs(s);
  // What is woken may strike the next within the same tick, and so on.
  for (int round = 0; round < most_wakes && wake_met(s); ++round) update_pairs(s);
  watch.lap(times.pairs);
  update_contacts(s);
  note_start(s);
  watch.lap(times.contacts);
  begin_contacts(s);
  begin_impacts(s);
  find_creases(s);
  const bool jointed = begin_joints(s);
  const int rounds = jointed ? joint_rounds(s) : 1;
  watch.lap(times.solve);
  for (int sub = 0; sub < s.settings.substeps; ++sub) {
    s.scratch.sub_step_start = sub * h;
    push_by_fields(s, sub * h, h);
    lead_movers(s, sub);
    if (sub > 0) follow_contacts(s);
    turn_at_creases(s, h);
    if (jointed) note_joint_energy(s);
    resolve_impacts(s, h);
    watch.lap(times.impacts);
    integrate_velocities(s, h);
    drag_by_waters(s, h);
    watch.lap(times.integrate);
    send_passing(s);
    leave_out_passed(s);
    if (jointed) prepare_joints(s, h);
    const auto settle = [&](bool push_out, double (*solve_joints)(WorldState&, double)) {
      bool agreed = false;
      for (int round = 0; round < rounds; ++round) {
        const PassKind kind = !push_out ? PassKind::relax : round == 0 ? PassKind::push_first : PassKind::push_on;
        const bool last = !push_out && (agreed || round + 1 == rounds);
        solve_contacts(s, h, kind, {rounds, agreed}, last);
        watch.lap(times.solve);
        if (jointed) agreed = solve_joints(s, h) < agreement * h * std::max(s.settings.gravity.norm(), 1.0) || agreed;
        watch.lap(times.joints);
        if (agreed && (push_out || last)) break;
      }
    };
    settle(true, hold_joints);
    even_slides(s, h);
    even_ways(s, h);
    integrate_positions(s, h);
    watch.lap(times.integrate);
    if (jointed) turn_joints(s);
    watch.lap(times.joints);
    settle(false, rest_joints);
    keep_heap_energy(s);
    if (jointed) keep_joint_energy(s, h);
    forget_missed(s);
    if (!s.joints.empty()) note_accelerations(s, h);
  }
  if (!take_off_forces(s)) stop_the_unsound(s);
  arrive_at_targets(s);
  end_contacts(s);
  watch.lap(times.solve);
  report_contacts(s);
  if (jointed) report_joints(s);
  break_loaded();
  update_zones(s);
  put_to_sleep(s);
  assert(sleepers_lie_still(s));
  watch.lap(times.report);
  all.lap(times.whole);
  ++s.tick;
}

double World::kinetic_energy() const {
  double energy = 0;
  for (std::uint32_t i = 0; i < state_->records.size(); ++i) {
    if (state_->records[i].alive) energy += kinetic_energy_of(state_->records[i], state_->motions[i]);
  }
  return energy;
}

std::uint64_t World::digest() const {
  // FNV-1a over the bits (Fowler, Noll and Vo), body by body.
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  const auto add = [&](double value) {
    auto bits = std::bit_cast<std::uint64_t>(value);
    for (int i = 0; i < 8; ++i, bits >>= 8) hash = (hash ^ (bits & 0xFFU)) * 0x100000001b3ULL;
  };
  for (std::uint32_t i = 0; i < state_->records.size(); ++i) {
    if (!state_->records[i].alive) continue;
    const Motion& m = state_->motions[i];
    for (int k = 0; k < 3; ++k) {
      add(m.centre[k]);
      add(m.velocity[k]);
      add(m.angular_velocity[k]);
    }
    for (int k = 0; k < 4; ++k) add(m.orientation.coeffs()[k]);
  }
  return hash;
}

WorldSnapshot World::snapshot() const {
  return {std::make_shared<const WorldState>(*state_)};
}

void World::restore(const WorldSnapshot& snapshot) {
  if (!snapshot.state) throw Error("restore", "the snapshot is empty");
  const std::shared_ptr<Team> team = state_->scratch.team;
  *state_ = *snapshot.state;
  state_->scratch.team = team;
}

}  // namespace bronvel
