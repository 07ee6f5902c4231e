// The world's life: bodies come, are pushed, and are stepped.
#include "dynamics/world/world.h"

#include <atomic>
#include <bit>
#include <cassert>
#include <chrono>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/derived.h"
#include "dynamics/bodies/integrate.h"
#include "dynamics/bodies/movers.h"
#include "dynamics/bodies/unsound.h"
#include "dynamics/books/books.h"
#include "dynamics/breaking/break_state.h"
#include "dynamics/broad_phase/overlaps.h"
#include "dynamics/fields/zones.h"
#include "dynamics/impacts/impact.h"
#include "dynamics/impacts/internal_edges.h"
#include "dynamics/islands/sleep.h"
#include "dynamics/joints/joint_solver.h"
#include "dynamics/narrow_phase/manifolds.h"
#include "dynamics/solver/contact_books.h"
#include "dynamics/solver/contact_follow.h"
#include "dynamics/solver/contact_solver.h"
#include "dynamics/solver/large_island_energy.h"
#include "dynamics/state/world_state.h"
#include "dynamics/world/contact_report.h"
#include "geometry/base/error.h"
#include "geometry/base/linear.h"
#include "geometry/shapes/parts.h"

namespace bronvel {
namespace {

void check(const Vec3& v, const char* call, const char* unit) {
  if (!finite(v)) throw Error(call, std::string("wants a vector in ") + unit + ", got one that is not a number");
}

// The vector without its parts along locked axes.
Vec3 allowed(Vec3 v, const BodyRecord& record, const std::array<bool, 3>& locked) {
  if (!record.dynamic()) return v;
  for (int i = 0; i < 3; ++i)
    if (locked[static_cast<std::size_t>(i)]) v[i] = 0;
  return v;
}

}  // namespace

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
  if (!state_->scratch.thread_pool || state_->scratch.thread_pool->workers() != threads)
    state_->scratch.thread_pool = std::make_shared<ThreadPool>(threads);
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
    if (new_planar && record.alive) take_settings(record, state_->bodies[i], record.settings, settings.planar);
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
    make_room(s.bodies);
    s.records.emplace_back();
    s.bodies.emplace_back();
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
  BodyState& body = s.bodies[index];
  body = BodyState{};
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

std::size_t World::overlap_count() const {
  return state_->overlaps.size();
}

const BodySettings& World::body_settings(BodyHandle body) const {
  return state_->records[state_->index_of(body)].settings;
}

void World::change(BodyHandle body, const BodySettings& settings) {
  const std::uint32_t i = state_->index_of(body);
  if (auto fault = body_fault(settings, motion(body))) throw Error("world", *fault);
  BodyRecord& record = state_->records[i];
  BodyState& m = state_->bodies[i];
  const Pose pose = motion(body).pose;
  const bool new_shape = !(record.settings.shape == settings.shape);
  const bool new_kind = record.settings.kind != settings.kind;
  wake_island(*state_, i);
  weigh_pieces(*state_, i, settings.mass / record.settings.mass);
  take_settings(record, m, settings, state_->settings.planar);
  if (record.kind != MotionKind::kinematic) forget_mover(*state_, i);
  m.centre = pose.to_scene(record.mass.centre);
  find_points_anew(*state_, {&i, 1});
  if (new_shape || new_kind) {
    forget_pairs(*state_, i);
    state_->broad_phase.remove(record.leaf);
    record.leaf = state_->broad_phase.add(shape_bounds(settings.shape, pose), i);
  }
  record.moved = true;
  state_->unsensed = true;
  book_act(*state_, i, Cause::placed);
}

void World::set_surfaces(std::span<const std::pair<BodyHandle, Surface>> surfaces) {
  std::vector<std::uint32_t> bodies;
  bodies.reserve(surfaces.size());
  for (const auto& [body, surface] : surfaces) {
    const std::uint32_t i = state_->index_of(body);
    BodySettings settings = state_->records[i].settings;
    settings.surface = surface;
    if (auto fault = body_fault(settings, motion(body))) throw Error("world", *fault);
    bodies.push_back(i);
  }
  for (std::size_t k = 0; k < bodies.size(); ++k) {
    state_->records[bodies[k]].settings.surface = surfaces[k].second;
    wake_island(*state_, bodies[k]);
    book_act(*state_, bodies[k], Cause::placed);
  }
  find_points_anew(*state_, bodies);
}

BodyMotion World::motion(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  const BodyState& m = state_->bodies[i];
  const BodyRecord& record = state_->records[i];
  const MoverRecord* came = came_there(*state_, i, state_->tick);
  return {{m.centre - m.orientation * record.mass.centre, m.orientation},
          came ? came->velocity : m.velocity,
          came ? came->spin : m.angular_velocity};
}

const Vec3& World::velocity(BodyHandle body) const {
  const std::uint32_t i = state_->index_of(body);
  const MoverRecord* came = came_there(*state_, i, state_->tick);
  return came ? came->velocity : state_->bodies[i].velocity;
}

Vec3 World::centre_of_mass(BodyHandle body) const {
  return state_->bodies[state_->index_of(body)].centre;
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
  BodyState& m = state_->bodies[i];
  m.orientation = pose.orientation.normalized();
  m.centre = Pose{pose.position, m.orientation}.to_scene(state_->records[i].mass.centre);
  refresh_inertia(state_->records[i], m);
  state_->records[i].placed = true;
  state_->records[i].moved = true;
  state_->unsensed = true;
  book_act(*state_, i, Cause::placed);
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
  state_->bodies[i].velocity = allowed(velocity, state_->records[i], state_->records[i].locks.move);
  book_act(*state_, i, Cause::set_velocity);
}

void World::set_angular_velocity(BodyHandle body, const Vec3& angular_velocity) {
  const std::uint32_t i = state_->index_of(body);
  check(angular_velocity, "angular_velocity", "rad/s");
  if (state_->records[i].kind == MotionKind::fixed) return;
  wake_island(*state_, i);
  if (state_->records[i].kind == MotionKind::kinematic) note_led(*state_, i);
  state_->bodies[i].angular_velocity = allowed(angular_velocity, state_->records[i], state_->records[i].locks.turn);
  book_act(*state_, i, Cause::set_velocity);
}

void World::force(BodyHandle body, const Vec3& newtons) {
  const std::uint32_t i = state_->index_of(body);
  check(newtons, "force", "newtons");
  if (!state_->records[i].dynamic() || newtons.isZero()) return;
  if (state_->records[i].asleep) wake_island(*state_, i);
  state_->records[i].force += newtons;
  book_force(*state_, i, newtons, Vec3::Zero());
}

void World::force_at(BodyHandle body, const Vec3& newtons, const Vec3& point) {
  check(point, "force", "metres");
  const ActsAt there(*state_, point);
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
  book_force(*state_, i, Vec3::Zero(), newton_metres);
}

void World::impulse(BodyHandle body, const Vec3& newton_seconds) {
  const std::uint32_t i = state_->index_of(body);
  check(newton_seconds, "impulse", "newton seconds");
  wake_island(*state_, i);
  state_->bodies[i].velocity += state_->bodies[i].inverse_mass.cwiseProduct(newton_seconds);
  book_act(*state_, i, Cause::impulse);
}

void World::impulse_at(BodyHandle body, const Vec3& newton_seconds, const Vec3& point) {
  check(point, "impulse", "metres");
  const ActsAt there(*state_, point);
  impulse(body, newton_seconds);
  bear(*state_, state_->index_of(body), newton_seconds / hit_time, point);
  angular_impulse(body, (point - centre_of_mass(body)).cross(newton_seconds));
}

void World::angular_impulse(BodyHandle body, const Vec3& newton_metre_seconds) {
  const std::uint32_t i = state_->index_of(body);
  check(newton_metre_seconds, "angular impulse", "newton metre seconds");
  wake_island(*state_, i);
  state_->bodies[i].angular_velocity += state_->bodies[i].inverse_inertia * newton_metre_seconds;
  book_act(*state_, i, Cause::impulse);
}

void World::keep_books(const std::vector<BodyHandle>& bodies) {
  begin_books(*state_, false, bodies);
}
void World::keep_all_books() {
  begin_books(*state_, true, {});
}
bool World::keeps_books() const {
  return state_->scratch.books != nullptr;
}
std::span<const BodyBooks> World::books() const {
  if (!state_->scratch.books) return {};
  return state_->scratch.books->told;
}
void World::acting(std::uint32_t act) {
  if (state_->scratch.books) state_->scratch.books->act = act;
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
      s.borne_acceleration[i] = (s.bodies[i].velocity - s.scratch.velocity_before[i]) / h;
    else
      s.borne_acceleration[i].setZero();
  }
}

// Contacts and joints agree when joints change no speed by more than this share of what gravity gives in a sub-step.
constexpr double agreement = 1e-3;

}  // namespace

namespace {

// Where bodies are at the tick's start, and what is known by body while it lasts.
void note_start(WorldState& s) {
  constexpr std::size_t worth_sharing = 2000;  // bodies
  const std::size_t count = s.bodies.size();
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
  scratch.thread_pool->each(count, worth_sharing, [&](std::size_t i) {
    s.at_start[i] = s.bodies[i];
    scratch.top_speed[i] = 0;
    scratch.steady_acceleration[i].setZero();
    scratch.expected_acceleration[i].setZero();
    scratch.moved_by_joints[i] = scratch.put_elsewhere[i] = 0;
  });
}

// Whether all bodies sleep and nothing was done to any of them: the tick only counts.
bool all_at_rest(const WorldState& s) {
  return s.quiet && !s.disturbed && s.told_advance_hits.empty();
}

void clear_events(WorldState& s) {
  s.contact_count = 0;
  s.faults.clear();
  s.snaps.clear();
  s.zone_events.clear();
  s.splashes.clear();
  s.cracks.clear();
}

// A tick on its way: its sub-step, whether joints are awake, and in how many rounds joints and contacts take turns.
struct Tick {
  WorldState& s;
  double h = s.tick_length() / s.settings.substeps;  // s
  Stopwatch watch{};
  bool jointed = false;
  int rounds = 1;
};

// Pairs, and whoever may be met in this tick awake.
void find_pairs(Tick& tick) {
  constexpr int most_wakes = 1000;  // sleepers in a row, a hair apart
  WorldState& s = tick.s;
  apply_zones(s);
  head_for_targets(s);
  s.scratch.wake_speed.clear();
  update_pairs(s);
  // What is woken may strike the next within the same tick, and so on.
  for (int round = 0; round < most_wakes && wake_met(s); ++round) update_pairs(s);
  tick.watch.lap(s.times.pairs);
}

void find_contacts(Tick& tick) {
  WorldState& s = tick.s;
  update_contacts(s);
  note_start(s);
  tick.watch.lap(s.times.contacts);
}

void begin_solvers(Tick& tick) {
  WorldState& s = tick.s;
  begin_contacts(s);
  begin_contact_books(s);
  begin_impacts(s);
  find_internal_edges(s);
  tick.jointed = begin_joints(s);
  tick.rounds = tick.jointed ? joint_rounds(s) : 1;
  tick.watch.lap(s.times.solve);
}

// What happens at a moment of its own within the sub-step, before its smooth motion.
void meet(Tick& tick, int sub) {
  WorldState& s = tick.s;
  s.scratch.sub_step_start = sub * tick.h;
  push_by_fields(s, sub * tick.h, tick.h);
  lead_movers(s, sub);
  if (sub > 0) follow_contacts(s);
  turn_at_internal_edges(s, tick.h);
  close_books(s, Interval::of_impacts, Cause::normal);
  if (tick.jointed) note_joint_energy(s);
  resolve_impacts(s, tick.h);
  close_books(s, Interval::of_impacts, Cause::solver);
  tick.watch.lap(s.times.impacts);
}

void change_velocities(Tick& tick) {
  WorldState& s = tick.s;
  integrate_velocities(s, tick.h);
  drag_by_waters(s, tick.h);
  tick.watch.lap(s.times.integrate);
  send_passing(s);
  leave_out_passed(s);
  if (tick.jointed) prepare_joints(s, tick.h);
}

// Contacts and joints, in rounds until they agree. Before the move overlap is pushed apart; after it the speed that
// this gave is taken back.
void solve(Tick& tick, bool before_move) {
  WorldState& s = tick.s;
  const double enough = agreement * tick.h * std::max(s.settings.gravity.norm(), 1.0);  // m/s
  bool agreed = false;
  for (int round = 0; round < tick.rounds; ++round) {
    const SolveStage stage = !before_move ? SolveStage::after_move
                             : round == 0 ? SolveStage::warm_start
                                          : SolveStage::push_apart;
    const bool last = !before_move && (agreed || round + 1 == tick.rounds);
    solve_contacts(s, tick.h, stage, {tick.rounds, agreed}, last);
    tick.watch.lap(s.times.solve);
    if (tick.jointed) {
      const double changed = before_move ? hold_joints(s, tick.h) : rest_joints(s, tick.h);
      agreed = changed < enough || agreed;
    }
    tick.watch.lap(s.times.joints);
    if (agreed && (before_move || last)) break;
  }
  book_contacts(s, before_move);
  close_books(s, before_move ? Interval::first_half : Interval::second_half, Cause::solver);
}

void move(Tick& tick) {
  WorldState& s = tick.s;
  if (!s.settings.half_implicit) {
    even_slides(s, tick.h);
    even_ways(s, tick.h);
  }
  integrate_positions(s, tick.h);
  close_books(s, Interval::move, Cause::solver);
  tick.watch.lap(s.times.integrate);
  if (tick.jointed) turn_joints(s);
  tick.watch.lap(s.times.joints);
}

void keep_energy(Tick& tick) {
  WorldState& s = tick.s;
  bound_large_island_energy(s);
  if (tick.jointed) keep_joint_energy(s, tick.h);
  forget_missed(s);
  if (!s.joints.empty()) note_accelerations(s, tick.h);
  close_books(s, Interval::other, Cause::solver);
}

void end_motion(Tick& tick) {
  WorldState& s = tick.s;
  if (!take_off_forces(s)) stop_the_unsound(s);
  arrive_at_targets(s);
  end_contacts(s);
  tick.watch.lap(s.times.solve);
  report_contacts(s);
  if (tick.jointed) report_joints(s);
}

}  // namespace

void World::step() {
  WorldState& s = *state_;
  s.times = {};
  if (all_at_rest(s)) {
    clear_events(s);
    tell_books(s);
    ++s.tick;
    return;
  }
  s.disturbed = false;
  s.faults.clear();
  s.snaps.clear();
  s.cracks.clear();
  Stopwatch whole;
  Tick tick{s};
  open_books(s);
  break_struck();
  close_books(s, Interval::other, Cause::breaking);
  find_pairs(tick);
  find_contacts(tick);
  begin_solvers(tick);
  for (int sub = 0; sub < s.settings.substeps; ++sub) {
    meet(tick, sub);
    change_velocities(tick);
    solve(tick, true);
    move(tick);
    solve(tick, false);
    keep_energy(tick);
  }
  end_motion(tick);
  close_books(s, Interval::other, Cause::solver);
  break_loaded();
  close_books(s, Interval::other, Cause::breaking);
  update_zones(s);
  put_to_sleep(s);
  close_books(s, Interval::other, Cause::sleep);
  tell_books(s);
  assert(sleepers_lie_still(s));
  tick.watch.lap(s.times.report);
  whole.lap(s.times.whole);
  ++s.tick;
}

double World::kinetic_energy() const {
  double energy = 0;
  for (std::uint32_t i = 0; i < state_->records.size(); ++i) {
    if (state_->records[i].alive) energy += kinetic_energy_of(state_->records[i], state_->bodies[i]);
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
    const BodyState& m = state_->bodies[i];
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
  const std::shared_ptr<ThreadPool> thread_pool = state_->scratch.thread_pool;
  const std::shared_ptr<Books> books = state_->scratch.books;
  *state_ = *snapshot.state;
  state_->scratch.thread_pool = thread_pool;
  if (books) begin_books(*state_, books->all, books->asked);
}

}  // namespace bronvel
