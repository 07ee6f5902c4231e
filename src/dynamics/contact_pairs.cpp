// Near pairs and their contacts.
#include "dynamics/contact_pairs.h"

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
  return (a.settings.groups & b.settings.meets) != 0 && (b.settings.groups & a.settings.meets) != 0;
}

// A mover that stands still is as good as fixed.
bool idle(const BodyRecord& body) {
  return body.asleep || body.settings.kind == MotionKind::fixed || (!body.dynamic() && body.heading == 0);
}

bool swept(const BodyRecord& a, const BodyRecord& b, int substeps) {
  // Pairs that move more than this share of the thinner one's half thickness in a sub-step are swept.
  constexpr double swept_share = 0.5;
  const auto either = [&](Sweeping s) { return a.settings.sweeping == s || b.settings.sweeping == s; };
  if (either(Sweeping::always)) return true;
  if (either(Sweeping::never)) return false;
  return a.heading + b.heading > swept_share * substeps * std::min(a.inner, b.inner);
}

// A resting body must be seen to touch although it floats a hair above: points this near are always kept.
constexpr double least_reach = 0.005;  // m

// Points of two ticks nearer than this share of the smaller body's radius are the same point.
constexpr double same_point = 0.1;

// Gives the row the impulse of the old point that it goes on from: the nearest one in A's own frame.
// (Features would not do: a corner just on the other shape's edge changes its feature without moving.)
void carry_over(const std::array<ContactRow, 4>& old_rows, int count, double tolerance, ContactRow& row) {
  double nearest = tolerance;
  for (int k = 0; k < count; ++k) {
    const ContactRow& old = old_rows[static_cast<std::size_t>(k)];
    const double distance = (old.local_a - row.local_a).norm();
    if (distance > nearest) continue;
    nearest = distance;
    row.impulse = old.impulse;
    row.total = old.total;
  }
}

Pair& add_pair(WorldState& state, const PairKey& key) {
  const auto [place, is_new] = state.pair_of.try_emplace(key, 0);
  if (!is_new) return state.pairs[place->second];
  std::uint32_t index;
  if (state.unused_pairs.empty()) {
    index = static_cast<std::uint32_t>(state.pairs.size());
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

void came_near(WorldState& state, std::uint32_t i, std::uint32_t j) {
  const std::uint32_t a = std::min(i, j), b = std::max(i, j);
  if (!can_meet(state, a, b)) return;
  if (!several_parts(state.records[a]) && !several_parts(state.records[b]))
    add_pair(state, {a, b, 0, 0});
  else if (state.near_of.insert(unordered_key(a, b)).second)
    state.near.push_back({a, b});
}

bool boxes_overlap(const WorldState& state, std::uint32_t a, std::uint32_t b) {
  return state.broad_phase.padded(state.records[a].leaf).overlaps(state.broad_phase.padded(state.records[b].leaf));
}

Bounds grown_bounds(const BodyRecord& record, const Part& part, const Pose& pose) {
  return shape_bounds(part.shape, pose * part.pose).grown(record.heading + 0.01);
}

// Bodies of several parts: which part is near which.
void update_parts(WorldState& state) {
  if (state.near.empty()) return;
  for (Pair& pair : state.pairs)
    if (several_parts(state.records[pair.a]) || several_parts(state.records[pair.b])) pair.seen = false;
  std::vector<std::uint32_t> parts_a, parts_b;
  std::size_t kept = 0;
  for (const NearBodies near : state.near) {
    const BodyRecord &ra = state.records[near.a], &rb = state.records[near.b];
    const bool gone =
        !ra.alive || !rb.alive || !can_meet(state, near.a, near.b) || !boxes_overlap(state, near.a, near.b);
    if (gone) {
      state.near_of.erase(unordered_key(near.a, near.b));
      continue;
    }
    state.near[kept++] = near;
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
        add_pair(state, {near.a, near.b, part_a, part_b}).seen = true;
      }
    }
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
    shape = &part.shape;
    pose = pose * part.pose;
  }
  PlacedPart(const PlacedPart&) = delete;
  PlacedPart& operator=(const PlacedPart&) = delete;
  ~PlacedPart() = default;

  Part part;
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

void set_manifold(const WorldState& state, Pair& pair, const Manifold& m) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Motion &ma = state.motions[pair.a], &mb = state.motions[pair.b];
  const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Mat3 back_a = (a0.orientation * ma.orientation.conjugate()).toRotationMatrix();
  const Mat3 back_b = (b0.orientation * mb.orientation.conjugate()).toRotationMatrix();
  const Mat3 to_local = ma.orientation.toRotationMatrix().transpose();
  const Vec3 drift = (mb.centre - b0.centre) - (ma.centre - a0.centre);
  const std::array<ContactRow, 4> old_rows = pair.rows;
  const int old_count = pair.count;
  const double tolerance = same_point * std::min(ra.radius, rb.radius);
  pair.count = m.count;
  for (int i = 0; i < m.count; ++i) {
    const ContactPoint& point = m.points[static_cast<std::size_t>(i)];
    ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    row = ContactRow{};
    const Vec3 now_a = point.point - ma.centre, now_b = point.point - mb.centre;
    row.arm_a = back_a * now_a;
    row.arm_b = back_b * now_b;
    row.local_a = to_local * now_a;
    row.gap = point.separation - m.normal.dot(drift + (now_b - row.arm_b) - (now_a - row.arm_a));
    carry_over(old_rows, old_count, tolerance, row);
  }
  if (m.count == 0) {
    pair.friction = FrictionRow{};
    return;
  }
  // The tangents turn with the normal: carry the friction over as a vector.
  FrictionRow& friction = pair.friction;
  const auto carried = [&](const std::array<double, 2>& old, const std::array<Vec3, 2>& tangents) {
    const Vec3 v = pair.tangents[0] * old[0] + pair.tangents[1] * old[1];
    return std::array<double, 2>{v.dot(tangents[0]), v.dot(tangents[1])};
  };
  const std::array<Vec3, 2> tangents{any_perpendicular(m.normal), m.normal.cross(any_perpendicular(m.normal))};
  friction.slide = carried(friction.slide, tangents);
  friction.roll = carried(friction.roll, tangents);
  friction.slide_total = carried(friction.slide_total, tangents);
  pair.normal = m.normal;
  pair.tangents = tangents;
  friction.arm_a.setZero();
  friction.arm_b.setZero();
  const double share = 1.0 / m.count;
  for (int i = 0; i < m.count; ++i) {
    friction.arm_a += share * pair.rows[static_cast<std::size_t>(i)].arm_a;
    friction.arm_b += share * pair.rows[static_cast<std::size_t>(i)].arm_b;
  }
  friction.lever = 0;
  for (int i = 0; i < m.count; ++i)
    friction.lever += share * (pair.rows[static_cast<std::size_t>(i)].arm_a - friction.arm_a).norm();
  const double arm_a = ra.dynamic() ? std::abs(friction.arm_a.dot(m.normal)) : 0;
  const double arm_b = rb.dynamic() ? std::abs(friction.arm_b.dot(m.normal)) : 0;
  friction.roll_arm = std::max(arm_a, arm_b);
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

}  // namespace

void update_pairs(WorldState& state) {
  const double dt = state.tick_length();
  constexpr std::size_t worth_sharing = 500;  // bodies
  state.team->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved)) return;
    const Motion& motion = state.motions[i];
    const double speed = (motion.velocity + state.gravity_on(i) * (record.settings.gravity_factor * dt)).norm();
    record.heading = dt * (std::max(speed, motion.velocity.norm()) + motion.angular_velocity.norm() * record.radius);
    record.bounds = shape_bounds(record.settings.shape, shape_pose(record, motion)).grown(record.heading + least_reach);
    record.left_padding = !state.broad_phase.padded(record.leaf).contains(record.bounds);
  });
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved) || !record.left_padding) continue;
    state.broad_phase.update(record.leaf, record.bounds, state.motions[i].velocity * dt);
    record.moved = true;
  }
  state.met.resize(static_cast<std::size_t>(state.team->workers()));
  for (auto& each : state.met) each.clear();
  state.team->run_if_worth(state.records.size(), worth_sharing, [&](int worker) {
    const Team::Share mine = state.team->share(state.records.size(), worker);
    auto& met = state.met[static_cast<std::size_t>(worker)];
    for (auto i = static_cast<std::uint32_t>(mine.first); i < mine.last; ++i) {
      if (!state.records[i].alive || !state.records[i].moved) continue;
      state.broad_phase.overlapping(state.broad_phase.padded(state.records[i].leaf), [&](std::uint32_t j) {
        // Where both moved, the lower one tells.
        if (j != i && (i < j || !state.records[j].moved)) met.emplace_back(i, j);
        return true;
      });
    }
  });
  for (const auto& each : state.met)
    for (const auto& [i, j] : each) came_near(state, i, j);
  for (BodyRecord& record : state.records) record.moved = false;
  update_parts(state);
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p) {
    Pair& pair = state.pairs[p];
    if (!pair.alive || pair.touching) continue;
    if (!pair.seen || !can_meet(state, pair.a, pair.b) || !boxes_overlap(state, pair.a, pair.b)) drop_pair(state, p);
  }
  list_pairs(state);
}

namespace {

// Brings one pair's contact up to date; touches nothing else.
void update_contact(const WorldState& state, Pair& pair) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  if (idle(ra) && idle(rb)) return;
  const bool may_touch = pair.seen && ra.bounds.overlaps(rb.bounds) && can_meet(state, pair.a, pair.b);
  const double reach = least_reach + ra.heading + rb.heading;
  const Manifold m =
      may_touch ? collide_parts(state, pair, state.motions[pair.a], state.motions[pair.b], reach) : Manifold{};
  pair.was_touching = pair.touching;
  pair.closing_speed = 0;
  pair.passing = false;
  pair.fast = swept(ra, rb, state.settings.substeps);
  if (m.count == 0 && pair.count == 0) return;
  set_manifold(state, pair, m);
  if (m.count == 0) return;
  for (ContactRow& row : pair.rows) row.total = 0;
  pair.friction.slide_total = {};
  pair.surface = combine(ra.settings.surface, rb.settings.surface);
}

}  // namespace

void update_contacts(WorldState& state) {
  constexpr std::size_t worth_sharing = 200;  // pairs
  state.team->run_if_worth(state.listed.size(), worth_sharing, [&](int worker) {
    // Worth of a pair differs much: deal them out in turns.
    const auto step = static_cast<std::size_t>(state.listed.size() < worth_sharing ? 1 : state.team->workers());
    for (std::size_t i = static_cast<std::size_t>(worker); i < state.listed.size(); i += step)
      update_contact(state, state.pairs[state.listed[i]]);
  });
  state.active.clear();
  state.active_ends.clear();
  for (const std::uint32_t p : state.listed) {
    const Pair& pair = state.pairs[p];
    const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (pair.count > 0 && !(idle(ra) && idle(rb)) && ra.settings.solid && rb.settings.solid) {
      double least = 1e30;
      for (int i = 0; i < pair.count; ++i) least = std::min(least, pair.rows[static_cast<std::size_t>(i)].gap);
      state.active.push_back(p);
      state.active_ends.push_back({pair.a, pair.b, static_cast<float>(least), pair.fast});
    }
  }
}

void forget_pairs(WorldState& state, std::uint32_t body) {
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p)
    if (state.pairs[p].alive && (state.pairs[p].a == body || state.pairs[p].b == body)) drop_pair(state, p);
}

namespace {

// Adds what one pair of parts did to what its bodies report: the heaviest part says the normal and the surface.
void add_to_event(const WorldState& state, const Pair& pair, ContactEvent& event, double& heaviest) {
  const Motion& a0 = state.at_start[pair.a];
  double impulse = 0, deepest = 1e300;
  const std::size_t first = event.points.size();
  for (int i = 0; i < pair.count && pair.touching; ++i) {
    const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
    if (!row.touches) continue;
    impulse += row.total;
    const Vec3 point = a0.centre + row.arm_a;
    if (row.gap < deepest) {
      deepest = row.gap;
      event.points.insert(event.points.begin() + static_cast<std::ptrdiff_t>(first), point);
    } else {
      event.points.push_back(point);
    }
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
  std::rotate(event.points.begin(), event.points.begin() + static_cast<std::ptrdiff_t>(first), event.points.end());
}

}  // namespace

void report_contacts(WorldState& state) {
  constexpr double touch_gap = 1e-6;
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
  for (const std::uint32_t p : state.listed) {
    Pair& pair = state.pairs[p];
    BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (idle(ra) && idle(rb)) continue;
    const Vec3 drift = (state.motions[pair.b].centre - state.at_start[pair.b].centre) -
                       (state.motions[pair.a].centre - state.at_start[pair.a].centre);
    pair.touching = false;
    for (int i = 0; i < pair.count; ++i) {
      ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      row.touches = row.total > 0 || row.gap + pair.normal.dot(drift) <= touch_gap;
      pair.touching = pair.touching || row.touches;
    }
    if (pair.touching && ra.settings.solid && rb.settings.solid) ra.touching = rb.touching = true;
    if (!pair.touching && !pair.was_touching) continue;
    const BodyHandle a{pair.a, ra.generation}, b{pair.b, rb.generation};
    if (a != last_a || b != last_b) {
      settle_phase();
      if (state.contacts.size() == state.contact_count) state.contacts.emplace_back();
      ContactEvent& fresh = state.contacts[state.contact_count++];
      // Whatever room its list of points has stays.
      std::vector<Vec3> points = std::move(fresh.points);
      points.clear();
      fresh = ContactEvent{};
      fresh.points = std::move(points);
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
