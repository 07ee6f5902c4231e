// Near pairs and their contacts.
#include "dynamics/contact_pairs.h"

#include <optional>

#include "dynamics/contact_patches.h"
#include "dynamics/contact_solver.h"
#include "dynamics/integrate.h"
#include "dynamics/joint_solver.h"
#include "dynamics/team.h"
#include "geometry/distance.h"
#include "geometry/parts.h"

namespace bronvel {
namespace {

bool can_meet(const WorldState& state, std::uint32_t i, std::uint32_t j) {
  const BodyRecord &a = state.records[i], &b = state.records[j];
  if (!state.kept_apart.empty() && state.kept_apart.contains(unordered_key(i, j))) return false;
  if (!a.dynamic() && !b.dynamic()) return false;
  return (a.groups & b.meets) != 0 && (b.groups & a.meets) != 0;
}

// A mover that stands still is as good as fixed.
bool idle(const BodyRecord& body) {
  return body.asleep || body.kind == MotionKind::fixed || (!body.dynamic() && body.travel == 0);
}

bool swept(const BodyRecord& a, const BodyRecord& b, int substeps) {
  // Pairs that move more than this share of the thinner one's half thickness in a sub-step are swept.
  constexpr double swept_share = 0.5;
  const auto either = [&](Sweeping s) { return a.settings.sweeping == s || b.settings.sweeping == s; };
  if (either(Sweeping::always)) return true;
  if (either(Sweeping::never)) return false;
  return a.travel + b.travel > swept_share * substeps * std::min(a.inner_radius, b.inner_radius);
}

// A resting body must be seen to touch although it floats a hair above: points this near are always kept.
constexpr double least_reach = 0.005;  // m

// Points of two ticks nearer than this share of the smaller body's radius are the same point.
constexpr double same_point = 0.1;

// Gives the row the impulse and the name of the old point that it goes on from: the nearest one in A's own frame. A
// name that went to another row is taken off the old point. (Features would not do: a corner just on the other shape's
// edge changes its feature without moving.)
void carry_over(std::array<ContactRow, 4>& old_rows, int count, double tolerance, ContactRow& row) {
  ContactRow* from = nullptr;
  double nearest = tolerance;
  for (int k = 0; k < count; ++k) {
    ContactRow& old = old_rows[static_cast<std::size_t>(k)];
    const double distance = (old.local_a - row.local_a).cast<double>().norm();
    if (distance > nearest) continue;
    nearest = distance;
    from = &old;
  }
  if (!from) return;
  row.impulse = from->impulse;
  row.total = from->total;
  row.number = std::exchange(from->number, 0);
}

Pair& add_pair(WorldState& state, const PairKey& key) {
  const auto [place, is_new] = state.pair_of.try_emplace(key, 0);
  if (!is_new) return state.pairs[place->second];
  std::uint32_t index;
  if (state.unused_pairs.empty()) {
    index = static_cast<std::uint32_t>(state.pairs.size());
    make_room(state.pairs);
    state.pairs.emplace_back();
  } else {
    index = state.unused_pairs.back();
    state.unused_pairs.pop_back();
    state.pairs[index] = Pair{};
  }
  place->second = index;
  Pair& pair = state.pairs[index];
  static_cast<PairKey&>(pair) = key;
  pair.alive = true;
  state.fresh.push_back(index);
  return pair;
}

void drop_pair(WorldState& state, std::uint32_t index) {
  Pair& pair = state.pairs[index];
  state.pair_of.erase(pair);
  pair.alive = false;
  state.unused_pairs.push_back(index);
}

bool several_parts(const BodyRecord& record) {
  return is_composite(record.settings.shape);
}

bool known_near(const WorldState& state, const NearBodies& bodies) {
  if (bodies.a + 1 >= state.near_first.size()) return false;
  const auto at = [&](std::uint32_t i) { return state.near.begin() + static_cast<std::ptrdiff_t>(i); };
  return std::binary_search(at(state.near_first[bodies.a]), at(state.near_first[bodies.a + 1]), bodies);
}

// Those that came near in this tick go where they belong in the list.
void take_in_near(WorldState& state) {
  std::vector<NearBodies>& fresh = state.scratch.met.front();
  for (std::size_t i = 1; i < state.scratch.met.size(); ++i)
    fresh.insert(fresh.end(), state.scratch.met[i].begin(), state.scratch.met[i].end());
  std::sort(fresh.begin(), fresh.end());
  fresh.erase(std::unique(fresh.begin(), fresh.end()), fresh.end());
  // From the back, so that nothing is moved twice.
  std::size_t from = state.near.size(), to = from + fresh.size();
  if (to > state.near.capacity()) state.near.reserve(to + to / 8);
  state.near.resize(to);
  for (; !fresh.empty(); --to) {
    const bool old_is_later = from > 0 && fresh.back() < state.near[from - 1];
    state.near[to - 1] = old_is_later ? state.near[--from] : fresh.back();
    if (!old_is_later) fresh.pop_back();
  }
}

void find_firsts(WorldState& state) {
  state.near_first.assign(state.records.size() + 1, 0);
  for (const NearBodies& near : state.near) ++state.near_first[near.a + 1];
  for (std::size_t i = 1; i < state.near_first.size(); ++i) state.near_first[i] += state.near_first[i - 1];
}

bool boxes_overlap(const WorldState& state, std::uint32_t a, std::uint32_t b) {
  return state.broad_phase.padded(state.records[a].leaf).overlaps(state.broad_phase.padded(state.records[b].leaf));
}

Bounds grown_bounds(const BodyRecord& record, const Part& part, const Pose& pose) {
  return shape_bounds(part.shape, pose * part.pose).grown(record.travel + 0.01);
}

// Which of the near bodies may meet in this tick. Boxes can only have come apart where one of them was moved.
void look_at_near(WorldState& state) {
  constexpr std::size_t worth_sharing = 1000;
  state.scratch.nearness.resize(state.near.size());
  state.scratch.team->run_if_worth(state.near.size(), worth_sharing, [&](int worker) {
    const Team::Share mine = state.scratch.team->share(state.near.size(), worker);
    for (std::size_t i = mine.first; i < mine.last; ++i) {
      if (i + 8 < mine.last) __builtin_prefetch(&state.records[state.near[i + 8].b]);
      const NearBodies near = state.near[i];
      const BodyRecord &a = state.records[near.a], &b = state.records[near.b];
      Nearness& found = state.scratch.nearness[i];
      if (!a.alive || !b.alive || !can_meet(state, near.a, near.b))
        found = Nearness::gone;
      else if (a.bounds.overlaps(b.bounds))
        found = Nearness::meeting;
      else
        found = (a.moved || b.moved) && !boxes_overlap(state, near.a, near.b) ? Nearness::gone : Nearness::apart;
    }
  });
}

// Pairs for what may meet; of bodies of several parts, for the parts that are near each other.
void update_near(WorldState& state) {
  look_at_near(state);
  state.scratch.seen.assign(state.pairs.size(), 0);
  const auto saw = [&](const Pair& pair) {
    const auto index = static_cast<std::size_t>(&pair - state.pairs.data());
    if (index >= state.scratch.seen.size()) state.scratch.seen.resize(state.pairs.size(), 0);
    state.scratch.seen[index] = 1;
  };
  std::vector<std::uint32_t> parts_a, parts_b;
  std::size_t kept = 0;
  for (std::size_t i = 0; i < state.near.size(); ++i) {
    NearBodies near = state.near[i];
    if (state.scratch.nearness[i] == Nearness::gone) continue;
    const BodyRecord &ra = state.records[near.a], &rb = state.records[near.b];
    if (state.scratch.nearness[i] == Nearness::apart) {
      near.pair = NearBodies::no_pair;
    } else if (!several_parts(ra) && !several_parts(rb)) {
      if (near.pair == NearBodies::no_pair) {
        const Pair& added = add_pair(state, {near.a, near.b, 0, 0});  // may move them all
        near.pair = static_cast<std::uint32_t>(&added - state.pairs.data());
      }
      saw(state.pairs[near.pair]);
    } else {
      const Pose pose_a = shape_pose(ra, state.motions[near.a]), pose_b = shape_pose(rb, state.motions[near.b]);
      const auto in_frame = [](const Bounds& box, const Pose& pose) {
        const Pose back{pose.orientation.conjugate() * -pose.position, pose.orientation.conjugate()};
        return box.turned(back);
      };
      parts_a.clear();
      parts_near(ra.settings.shape, in_frame(state.broad_phase.padded(rb.leaf), pose_a), parts_a);
      for (const std::uint32_t part_a : parts_a) {
        const Bounds box = grown_bounds(ra, part_of(ra.settings.shape, part_a), pose_a);
        parts_b.clear();
        parts_near(rb.settings.shape, in_frame(box, pose_b), parts_b);
        for (const std::uint32_t part_b : parts_b) {
          if (!box.overlaps(grown_bounds(rb, part_of(rb.settings.shape, part_b), pose_b))) continue;
          saw(add_pair(state, {near.a, near.b, part_a, part_b}));
        }
      }
    }
    state.near[kept++] = near;
  }
  state.near.resize(kept);
}

// A part in the scene, without copying it where the shape is its own only part.
struct PlacedPart {
  PlacedPart(const BodyRecord& record, const Motion& motion, std::uint32_t index) : pose(shape_pose(record, motion)) {
    if (!is_composite(record.settings.shape)) {
      shape = &record.settings.shape;
      return;
    }
    part = part_of(record.settings.shape, index);
    shape = &part->shape;
    pose = pose * part->pose;
  }
  PlacedPart(const PlacedPart&) = delete;
  PlacedPart& operator=(const PlacedPart&) = delete;
  ~PlacedPart() = default;

  std::optional<Part> part;
  const Shape* shape = nullptr;
  Pose pose;
};

}  // namespace

Manifold collide_parts(const WorldState& state, const Pair& pair, const Motion& a, const Motion& b, double reach) {
  const PlacedPart on_a(state.records[pair.a], a, pair.part_a), on_b(state.records[pair.b], b, pair.part_b);
  return collide(*on_a.shape, on_a.pose, *on_b.shape, on_b.pose, reach);
}

PartGap part_gap(const WorldState& state, const Pair& pair, const Motion& a, const Motion& b) {
  const PlacedPart on_a(state.records[pair.a], a, pair.part_a), on_b(state.records[pair.b], b, pair.part_b);
  const Convex convex_a(*on_a.shape, on_a.pose), convex_b(*on_b.shape, on_b.pose);
  const Separation apart = separation_of(convex_a, convex_b);
  return {apart.distance - convex_a.radius() - convex_b.radius(), apart.normal};
}

Pose shape_pose(const BodyRecord& record, const Motion& motion) {
  return {motion.centre - motion.orientation * record.mass.centre, motion.orientation};
}

namespace {

// What takes arms and gaps at the bodies' present poses back to those of the tick's start.
struct WayBack {
  WayBack(const BodyRecord& record, const Motion& now, const Motion& start)
      : turn(surface_turn(record, now.orientation, start.orientation).toRotationMatrix()),
        drift(now.centre - start.centre) {}
  Mat3 turn;
  Vec3 drift;  // m
};

// The tangents turn with the normal: friction is carried over as a vector.
void turn_normal(Pair& pair, const Vec3& normal) {
  const std::array<Vec3, 2> old_tangents = pair.tangents();
  pair.normal = normal;
  const std::array<Vec3, 2> tangents = pair.tangents();
  for (std::array<double, 2>* each : {&pair.friction.slide, &pair.friction.roll, &pair.friction.slide_total}) {
    const Vec3 carried = old_tangents[0] * (*each)[0] + old_tangents[1] * (*each)[1];
    *each = {carried.dot(tangents[0]), carried.dot(tangents[1])};
  }
}

void set_manifold(const WorldState& state, Pair& pair, const Manifold& m, const WayBack* back_a,
                  const WayBack* back_b) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Motion &ma = state.motions[pair.a], &mb = state.motions[pair.b];
  // A surface that does not turn with its body is known again by where it is in the scene.
  const Mat3 to_local =
      ra.symmetry == Symmetry::none ? Mat3(ma.orientation.toRotationMatrix().transpose()) : Mat3(Mat3::Identity());
  std::array<ContactRow, 4> old_rows = pair.rows;
  const int old_count = pair.found;
  // A ball touches at one place, however far it has rolled since.
  const bool one_place =
      old_count == 1 && m.count == 1 && (ra.symmetry == Symmetry::ball || rb.symmetry == Symmetry::ball);
  const double tolerance = one_place ? 1e30 : same_point * std::min(ra.radius, rb.radius);
  pair.count = m.count;
  pair.found = static_cast<std::uint8_t>(m.count);
  pair.reach = -1;
  pair.face_of = m.face_of;
  pair.between = ma.centre - mb.centre;
  if (back_a) pair.between -= back_a->drift - back_b->drift;
  for (int i = 0; i < m.count; ++i) {
    const ContactPoint& point = m.points[static_cast<std::size_t>(i)];
    ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    row = ContactRow{};
    row.arm_a = point.point - ma.centre;
    row.local_a = (to_local * row.arm_a).cast<float>();
    row.gap = point.separation;
    if (back_a) {
      const Vec3 arm_b = point.point - mb.centre;
      const Vec3 then_a = back_a->turn * row.arm_a, then_b = back_b->turn * arm_b;
      row.gap -= m.normal.dot(back_b->drift - back_a->drift + (arm_b - then_b) - (row.arm_a - then_a));
      row.arm_a = then_a;
      row.aside = (then_b - then_a - pair.between).cast<float>();
    }
    carry_over(old_rows, old_count, tolerance, row);
    if (row.number == 0) row.number = ++pair.numbers;
  }
  if (m.count == 0) {
    pair.friction = FrictionRow{};
    return;
  }
  turn_normal(pair, m.normal);
}

}  // namespace

FrictionPlace::FrictionPlace(const Pair& pair) {
  const double share = 1.0 / std::max(pair.count, 1);
  const auto count = static_cast<std::size_t>(pair.count);
  for (std::size_t i = 0; i < count; ++i) {
    arm_a += share * pair.rows[i].arm_a;
    arm_b += share * pair.arm_b(pair.rows[i]);
  }
}

namespace {

// A round face seen from above: a cylinder's or a cone's, whose four points stand on its rim.
bool on_round_face(const WorldState& state, const Pair& pair, std::uint32_t body) {
  constexpr double upright = 0.999;
  return pair.count == 4 && state.records[body].symmetry == Symmetry::axis &&
         std::abs(pair.normal.dot(state.motions[body].orientation * Vec3::Unit(1))) > upright;
}

}  // namespace

double twist_lever(const WorldState& state, const Pair& pair) {
  if (pair.count < 2) return 0;
  const auto count = static_cast<std::size_t>(pair.count);
  std::array<Vec3, 4> points;
  Vec3 middle = Vec3::Zero();
  for (std::size_t i = 0; i < count; ++i) middle += pair.rows[i].arm_a / pair.count;
  double mean = 0, farthest = 0;
  for (std::size_t i = 0; i < count; ++i) {
    points[i] = pair.rows[i].arm_a - middle;
    mean += points[i].norm() / pair.count;
    farthest = std::max(farthest, points[i].norm());
  }
  // What rocks bears on its corners.
  constexpr double rocks = 0.1;  // m/s
  const Vec3 turning = state.motions[pair.b].angular_velocity - state.motions[pair.a].angular_velocity;
  const double rocking = farthest * (turning - pair.normal * pair.normal.dot(turning)).norm();
  const auto unless_it_rocks = [&](double lever) { return lever + std::min(1.0, rocking / rocks) * (mean - lever); };
  if (on_round_face(state, pair, pair.a) || on_round_face(state, pair, pair.b)) return unless_it_rocks(mean * 2 / 3);
  // Second moment of the face about the middle, over its area, by triangles on both sides of a diagonal.
  double area = 0, moment = 0;
  const auto add = [&](std::size_t i, std::size_t j, std::size_t k) {
    const double part = 0.5 * std::abs(pair.normal.dot((points[j] - points[i]).cross(points[k] - points[i])));
    area += part;
    moment += part / 12 *
              (points[i].squaredNorm() + points[j].squaredNorm() + points[k].squaredNorm() +
               (points[i] + points[j] + points[k]).squaredNorm());
  };
  if (count == 3) add(0, 1, 2);
  if (count == 4) {
    const auto side = [&](std::size_t end, std::size_t of) {
      return pair.normal.dot((points[end] - points[0]).cross(points[of] - points[0]));
    };
    std::array<std::size_t, 3> others{1, 2, 3};  // first the one across from point 0
    if (side(1, 2) * side(1, 3) > 0)
      others = side(2, 1) * side(2, 3) < 0 ? std::array<std::size_t, 3>{2, 1, 3} : std::array<std::size_t, 3>{3, 1, 2};
    add(0, others[0], others[1]);
    add(0, others[0], others[2]);
  }
  // From the root of the mean square to the mean: 0.94 for what is about as wide as long, 0.87 for an edge.
  constexpr double edge = 0.866, broad = 0.074, square = 6;
  if (!(area > 1e-6 * farthest * farthest)) return unless_it_rocks(0.5 * farthest);
  const double mean_square = moment / area;
  return unless_it_rocks(std::sqrt(mean_square) * (edge + broad * std::min(1.0, area / (square * mean_square))));
}

void set_manifold_on_the_way(const WorldState& state, Pair& pair, const Manifold& m) {
  const WayBack back_a(state.records[pair.a], state.motions[pair.a], state.at_start[pair.a]);
  const WayBack back_b(state.records[pair.b], state.motions[pair.b], state.at_start[pair.b]);
  set_manifold(state, pair, m, &back_a, &back_b);
}

void follow_contacts(WorldState& state) {
  constexpr double moved_on = 2e-3;   // of the smaller body's radius
  constexpr double same_way = 1e-10;  // 1 − cos of the angle between normals
  if (!solved_in_double(state)) return;
  for (const std::uint32_t p : state.scratch.active) {
    Pair& pair = state.pairs[p];
    const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (ra.symmetry == Symmetry::none && rb.symmetry == Symmetry::none) continue;
    const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
    const auto turned_by = [](const BodyRecord& record, const Motion& from, const Motion& to) {
      return 2 * surface_turn(record, from.orientation, to.orientation).vec().norm() * record.radius;
    };
    const double moved =
        ((b.centre - b0.centre) - (a.centre - a0.centre)).norm() + turned_by(ra, a0, a) + turned_by(rb, b0, b);
    if (moved < moved_on * std::min(ra.radius, rb.radius)) continue;
    const Manifold m = collide_parts(state, pair, a, b, least_reach + ra.travel + rb.travel);
    if (m.count == 0 || m.normal.dot(pair.normal) > 1 - same_way) continue;
    fetch_pair(state, pair);
    set_manifold_on_the_way(state, pair, m);
    send_pair(state, pair);
  }
}

namespace {

// Takes dead pairs off the list and merges the fresh ones in.
void list_pairs(WorldState& state) {
  const auto by_key = [&](std::uint32_t x, std::uint32_t y) {
    return static_cast<const PairKey&>(state.pairs[x]) < static_cast<const PairKey&>(state.pairs[y]);
  };
  std::erase_if(state.listed, [&](std::uint32_t p) { return !state.pairs[p].alive || !state.pairs[p].listed; });
  std::erase_if(state.fresh, [&](std::uint32_t p) { return !state.pairs[p].alive || state.pairs[p].listed; });
  std::sort(state.fresh.begin(), state.fresh.end(), by_key);
  state.fresh.erase(std::unique(state.fresh.begin(), state.fresh.end()), state.fresh.end());
  for (const std::uint32_t p : state.fresh) state.pairs[p].listed = true;
  const auto middle = static_cast<std::ptrdiff_t>(state.listed.size());
  state.listed.insert(state.listed.end(), state.fresh.begin(), state.fresh.end());
  std::inplace_merge(state.listed.begin(), state.listed.begin() + middle, state.listed.end(), by_key);
  state.fresh.clear();
}

// Puts the pairs in memory in the order in which every walk goes through them.
void line_up_pairs(WorldState& state) {
  constexpr std::size_t worth = 500;       // pairs
  constexpr std::size_t most_strayed = 4;  // of which one may be out of its place
  const std::size_t count = state.listed.size();
  if (count < worth || !state.fresh.empty()) return;
  std::size_t strayed = 0;
  for (std::size_t i = 1; i < count; ++i) strayed += state.listed[i] < state.listed[i - 1] ? 1 : 0;
  strayed += state.pairs.size() - count;
  if (strayed * most_strayed < count) return;
  std::vector<Pair> lined;
  lined.reserve(state.pairs.size());
  std::vector<std::uint32_t> new_places(state.pairs.size(), NearBodies::no_pair);
  for (std::uint32_t i = 0; i < count; ++i) {
    lined.push_back(state.pairs[state.listed[i]]);
    state.pair_of[lined.back()] = i;
    new_places[state.listed[i]] = i;
    state.listed[i] = i;
  }
  for (NearBodies& near : state.near)
    if (near.pair != NearBodies::no_pair) near.pair = new_places[near.pair];
  state.pairs.swap(lined);
  state.unused_pairs.clear();
}

}  // namespace

void update_pairs(WorldState& state) {
  const double dt = state.tick_length();
  constexpr std::size_t worth_sharing = 500;  // bodies
  state.scratch.team->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved)) return;
    const Motion& motion = state.motions[i];
    const double speed = (motion.velocity + state.gravity_on(i) * (record.settings.gravity_factor * dt)).norm();
    record.travel = dt * (std::max(speed, motion.velocity.norm()) + surface_spin(record, motion) * record.radius);
    record.bounds = shape_bounds(record.settings.shape, shape_pose(record, motion)).grown(record.travel + least_reach);
    record.left_padding = !state.broad_phase.padded(record.leaf).contains(record.bounds);
  });
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved) || !record.left_padding) continue;
    state.broad_phase.update(record.leaf, record.bounds, state.motions[i].velocity * dt);
    record.moved = true;
  }
  state.scratch.met.resize(static_cast<std::size_t>(state.scratch.team->workers()));
  for (auto& each : state.scratch.met) each.clear();
  state.scratch.team->run_if_worth(state.records.size(), worth_sharing, [&](int worker) {
    const Team::Share mine = state.scratch.team->share(state.records.size(), worker);
    auto& met = state.scratch.met[static_cast<std::size_t>(worker)];
    for (auto i = static_cast<std::uint32_t>(mine.first); i < mine.last; ++i) {
      if (!state.records[i].alive || !state.records[i].moved) continue;
      state.broad_phase.overlapping(state.broad_phase.padded(state.records[i].leaf), [&](std::uint32_t j) {
        // Where both moved, the lower one tells.
        const NearBodies bodies{.a = std::min(i, j), .b = std::max(i, j)};
        if (j != i && (i < j || !state.records[j].moved) && !known_near(state, bodies) &&
            can_meet(state, bodies.a, bodies.b))
          met.push_back(bodies);
        return true;
      });
    }
  });
  take_in_near(state);
  update_near(state);
  find_firsts(state);
  for (BodyRecord& record : state.records) record.moved = false;
  // What still touched in the last tick stays for one more, to tell that it parted.
  state.scratch.seen.resize(state.pairs.size(), 0);
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p) {
    if (state.scratch.seen[p] != 0 || !state.pairs[p].alive) continue;
    if (state.pairs[p].touching)
      state.pairs[p].apart = true;
    else
      drop_pair(state, p);
  }
  list_pairs(state);
  line_up_pairs(state);
}

namespace {

// How a body has moved since the last tick's start.
struct Moved {
  Moved(const WorldState& state, std::uint32_t body)
      : record(state.records[body]),
        shift(state.motions[body].centre - state.at_start[body].centre),
        turn(surface_turn(record, state.at_start[body].orientation, state.motions[body].orientation)) {}
  double way_of_turning() const { return 2 * turn.vec().norm() * record.radius; }
  const BodyRecord& record;
  Vec3 shift;
  Quat turn;
};

// Points are found anew when surfaces have moved against one another by this share of the smaller body's radius: what
// is wrong with those that go along is second to that.
constexpr double found_anew = 5e-4;
constexpr double found_anew_round = 5e-5;  // the same where neither face is flat: how the normal turns is not known

// All that can meet is found at least `least_reach` ahead: a little less matters to none.
constexpr double still_as_near = 0.1 * least_reach;

// Where nothing was found, it was looked so much farther than need be: nothing will be until they come so much nearer.
constexpr double looked_farther = 0.002;  // m

// Takes the pair's points along with its bodies. False if they must be found anew: the bodies have moved too far
// against one another, or points farther apart matter now.
bool take_along(const WorldState& state, Pair& pair, double reach) {
  if (pair.reach < 0 || std::max(pair.a, pair.b) >= state.at_start.size()) return false;
  const Moved a(state, pair.a), b(state, pair.b);
  const double way = (b.shift - a.shift).norm() + a.way_of_turning() + b.way_of_turning();
  pair.moved += static_cast<float>(way);
  if (pair.found == 0) return pair.moved + reach < pair.reach;
  const double most =
      (pair.face_of == FaceOf::neither ? found_anew_round : found_anew) * std::min(a.record.radius, b.record.radius);
  if (!(pair.moved < most) || reach > pair.reach + still_as_near) return false;
  pair.count = pair.found;
  const Vec3 between = state.motions[pair.a].centre - state.motions[pair.b].centre;
  const Mat3 turn_a = a.turn.toRotationMatrix(), turn_b = b.turn.toRotationMatrix();
  // The plane goes with the body whose face it is, what bears on it with the other; where none is flat, with the
  // smaller.
  const bool b_smaller = !a.record.dynamic() || (b.record.dynamic() && b.record.radius < a.record.radius);
  const bool with_b = pair.face_of == FaceOf::a || (pair.face_of == FaceOf::neither && b_smaller);
  for (std::size_t i = 0; i < pair.found; ++i) {
    ContactRow& row = pair.rows[i];
    const Vec3 arm_b = pair.arm_b(row), to_a = turn_a * row.arm_a, to_b = turn_b * arm_b;
    row.gap += pair.normal.dot(b.shift - a.shift + (to_b - arm_b) - (to_a - row.arm_a));
    row.arm_a = with_b ? Vec3(to_b - between) : to_a;
    row.aside.setZero();
  }
  pair.between = between;
  turn_normal(pair, ((with_b ? turn_a : turn_b) * pair.normal).normalized());
  return true;
}

// Finds the pair's points, or takes them along. Returns false if it has none and had none.
bool find_points(const WorldState& state, Pair& pair, bool may_touch, double reach) {
  if (may_touch && take_along(state, pair, reach)) return pair.found > 0;
  const bool had_points = pair.found > 0;
  const auto look = [&](double far) {
    return collide_parts(state, pair, state.motions[pair.a], state.motions[pair.b], far);
  };
  Manifold m;
  double looked = reach;
  if (may_touch && !had_points) m = look(looked = reach + looked_farther);
  if (may_touch && (had_points || m.count > 0)) m = look(looked = reach);
  set_manifold(state, pair, m, nullptr, nullptr);
  pair.moved = 0;
  pair.reach = may_touch ? static_cast<float>(looked) : -1.0F;
  return had_points || m.count > 0;
}

// Brings one pair's contact up to date; touches nothing else. Returns what the solver must know of it: no points if it
// is not to be solved.
ActiveEnds update_contact(const WorldState& state, Pair& pair) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  ActiveEnds ends{.a = pair.a, .b = pair.b, .moves_a = ra.dynamic(), .moves_b = rb.dynamic()};
  const bool near = !std::exchange(pair.apart, false);
  if (idle(ra) && idle(rb)) return ends;
  const bool may_touch = near && ra.bounds.overlaps(rb.bounds) && can_meet(state, pair.a, pair.b);
  const double reach = least_reach + ra.travel + rb.travel;
  pair.was_touching = pair.touching;
  pair.closing_speed = 0;
  pair.passing = false;
  pair.creased = pair.beyond = false;
  pair.fast = swept(ra, rb, state.settings.substeps);
  if (!find_points(state, pair, may_touch, reach) || pair.found == 0) return ends;
  for (ContactRow& row : pair.rows) row.total = 0;
  pair.friction.slide_total = {};
  pair.surface = combine(ra.settings.surface, rb.settings.surface);
  if (!ra.solid || !rb.solid) return ends;
  double least = 1e30;
  for (int i = 0; i < pair.count; ++i) least = std::min(least, pair.rows[static_cast<std::size_t>(i)].gap);
  ends.points = static_cast<std::uint8_t>(pair.count);
  ends.rolls = pair.surface.rolling_friction > 0;
  // Longer than it takes to fall asleep: it is only kept awake by others.
  constexpr double calm_time = 0.6;  // s
  const auto calm = [&](std::uint32_t body) {
    return !state.records[body].dynamic() || state.records[body].still_for > calm_time;
  };
  ends.calm = calm(pair.a) && calm(pair.b);
  ends.least_gap = static_cast<float>(least);
  ends.fast = pair.fast;
  return ends;
}

}  // namespace

void update_contacts(WorldState& state) {
  constexpr std::size_t worth_sharing = 200;  // pairs
  const std::size_t count = state.listed.size();
  state.scratch.listed_ends.resize(count);
  state.scratch.team->run_if_worth(count, worth_sharing, [&](int worker) {
    state.scratch.team->deal(count, worker, [&](std::size_t i) {
      // The second bodies of the pairs to come lie anywhere: have them fetched.
      if (i + 8 < count) {
        const Pair& next = state.pairs[state.listed[i + 8]];
        __builtin_prefetch(&state.records[next.b]);
        __builtin_prefetch(&state.records[next.b].bounds);
        __builtin_prefetch(&state.motions[next.b]);
      }
      state.scratch.listed_ends[i] = update_contact(state, state.pairs[state.listed[i]]);
    });
  });
  thin_patches(state);
  state.scratch.active.clear();
  state.scratch.active_ends.clear();
  for (std::size_t i = 0; i < count; ++i) {
    if (state.scratch.listed_ends[i].points == 0) continue;
    state.scratch.active.push_back(state.listed[i]);
    state.scratch.active_ends.push_back(state.scratch.listed_ends[i]);
  }
}

void forget_pairs(WorldState& state, std::uint32_t body) {
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p)
    if (state.pairs[p].alive && (state.pairs[p].a == body || state.pairs[p].b == body)) drop_pair(state, p);
  for (NearBodies& near : state.near)
    if (near.a == body || near.b == body) near.pair = NearBodies::no_pair;
}

namespace {

// Moves the points from `first` on, with their names, to `place` in front of them.
void to_place(ContactEvent& event, std::size_t first, std::size_t place) {
  const auto move = [&](auto& list) {
    const auto begin = list.begin();
    std::rotate(begin + static_cast<std::ptrdiff_t>(place), begin + static_cast<std::ptrdiff_t>(first), list.end());
  };
  move(event.points);
  move(event.names);
}

// Adds what one pair of parts did to what its bodies report: the heaviest part says the normal and the surface.
void add_to_event(const WorldState& state, const Pair& pair, ContactEvent& event, double& heaviest) {
  const Motion& a0 = state.at_start[pair.a];
  double impulse = 0, deepest = 1e300;
  const std::size_t first = event.points.size();
  for (int i = 0; i < pair.count && pair.touching; ++i) {
    const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    if ((pair.touches >> i & 1) == 0) continue;
    impulse += row.total;
    event.points.push_back(a0.centre + row.arm_a);
    event.names.push_back({pair.part_a, pair.part_b, row.number});
    if (row.gap >= deepest) continue;
    deepest = row.gap;
    to_place(event, event.points.size() - 1, first);
  }
  event.normal_impulse += impulse;
  event.friction_impulse += std::hypot(pair.friction.slide_total[0], pair.friction.slide_total[1]);
  event.closing_speed = std::max(event.closing_speed, pair.closing_speed);
  const double weight = (pair.touching ? 1 : 0) + impulse;
  if (weight <= heaviest) return;
  heaviest = weight;
  event.normal = pair.normal;
  event.surface = pair.surface;
  event.part_a = pair.part_a;
  event.part_b = pair.part_b;
  // Its points go first.
  to_place(event, first, 0);
}

// How fast the pair's first point closes as the bodies move now, m/s.
double closing_now(const WorldState& state, const Pair& pair) {
  const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
  const ContactRow& row = pair.rows[0];
  const Vec3 of_a = a.velocity + a.angular_velocity.cross(row.arm_a),
             of_b = b.velocity + b.angular_velocity.cross(pair.arm_b(row));
  return pair.normal.dot(of_a - of_b);
}

// Which listed pairs touch, and which of them there is something to tell of.
void find_touching(WorldState& state) {
  constexpr double touch_gap = 1e-6;
  constexpr std::size_t worth_sharing = 400;  // pairs
  state.scratch.reported.resize(state.listed.size());
  state.scratch.team->each(state.listed.size(), worth_sharing, [&](std::size_t i) {
    Pair& pair = state.pairs[state.listed[i]];
    state.scratch.reported[i] = 0;
    if (pair.count == 0 && !pair.was_touching && !pair.touching) return;
    if (idle(state.records[pair.a]) && idle(state.records[pair.b])) return;
    const Vec3 drift = (state.motions[pair.b].centre - state.at_start[pair.b].centre) -
                       (state.motions[pair.a].centre - state.at_start[pair.a].centre);
    // What closes so fast is hit in the next tick: its touch is told then, with all that the hit did. What was in the
    // other at the tick's start is being pushed out of it.
    const bool to_be_hit = !pair.was_touching && state.records[pair.a].solid && state.records[pair.b].solid &&
                           pair.count > 0 && closing_now(state, pair) > state.settings.restitution_speed;
    unsigned touches = 0;
    for (int k = 0; k < pair.count; ++k) {
      const ContactRow& row = pair.rows[static_cast<std::size_t>(k)];
      if (row.total <= 0 && ((to_be_hit && row.gap > 0) || pair.beyond)) continue;
      if (row.total > 0 || row.gap + pair.normal.dot(drift) <= touch_gap) touches |= 1U << k;
    }
    pair.touches = static_cast<std::uint8_t>(touches);
    pair.touching = touches != 0;
    state.scratch.reported[i] = pair.touching || pair.was_touching ? 1 : 0;
  });
}

}  // namespace

void report_contacts(WorldState& state) {
  find_touching(state);
  state.contact_count = 0;
  for (BodyRecord& record : state.records)
    if (!record.asleep) record.touching = false;
  double heaviest = -1;
  bool touching = false, was_touching = false;
  const auto settle_phase = [&] {
    if (state.contact_count == 0) return;
    state.contacts[state.contact_count - 1].phase = !touching      ? ContactPhase::part
                                                    : was_touching ? ContactPhase::stay
                                                                   : ContactPhase::touch;
  };
  BodyHandle last_a, last_b;
  for (std::size_t i = 0; i < state.listed.size(); ++i) {
    if (state.scratch.reported[i] == 0) continue;
    const Pair& pair = state.pairs[state.listed[i]];
    BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (pair.touching && ra.solid && rb.solid) ra.touching = rb.touching = true;
    const BodyHandle a{pair.a, ra.generation}, b{pair.b, rb.generation};
    if (a != last_a || b != last_b) {
      settle_phase();
      if (state.contacts.size() == state.contact_count) {
        make_room(state.contacts);
        state.contacts.emplace_back();
      }
      ContactEvent& fresh = state.contacts[state.contact_count++];
      // Whatever room its lists have stays.
      std::vector<Vec3> points = std::move(fresh.points);
      std::vector<PointName> names = std::move(fresh.names);
      points.clear();
      names.clear();
      fresh = ContactEvent{};
      fresh.points = std::move(points);
      fresh.names = std::move(names);
      fresh.a = last_a = a;
      fresh.b = last_b = b;
      heaviest = -1;
      touching = was_touching = false;
    }
    touching = touching || pair.touching;
    was_touching = was_touching || pair.was_touching;
    add_to_event(state, pair, state.contacts[state.contact_count - 1], heaviest);
  }
  settle_phase();
}

}  // namespace bronvel
