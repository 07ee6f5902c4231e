// Near pairs and their contacts.
#include "dynamics/contact_pairs.h"

#include "dynamics/joint_solver.h"

namespace bronvel {
namespace {

std::uint64_t pair_key(std::uint32_t a, std::uint32_t b) {
  return (static_cast<std::uint64_t>(a) << 32) | b;
}

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

void add_pair(WorldState& state, std::uint32_t i, std::uint32_t j) {
  const std::uint32_t a = std::min(i, j), b = std::max(i, j);
  if (!can_meet(state, a, b)) return;
  const auto [place, is_new] = state.pair_of.try_emplace(pair_key(a, b), 0);
  if (!is_new) return;
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
  pair.a = a;
  pair.b = b;
  pair.alive = true;
}

void drop_pair(WorldState& state, std::uint32_t index) {
  Pair& pair = state.pairs[index];
  state.pair_of.erase(pair_key(pair.a, pair.b));
  pair.alive = false;
  state.unused_pairs.push_back(index);
}

}  // namespace

Pose shape_pose(const BodyRecord& record, const Motion& motion) {
  return {motion.centre - motion.orientation * record.mass.centre, motion.orientation};
}

void set_manifold(const WorldState& state, Pair& pair, const Manifold& m) {
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Motion &ma = state.motions[pair.a], &mb = state.motions[pair.b];
  const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
  const Quat back_a = a0.orientation * ma.orientation.conjugate(), back_b = b0.orientation * mb.orientation.conjugate();
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
    row.local_a = ma.orientation.conjugate() * now_a;
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

void update_pairs(WorldState& state) {
  const double dt = state.tick_length();
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved)) continue;
    const Motion& motion = state.motions[i];
    const double speed = (motion.velocity + state.settings.gravity * (record.settings.gravity_factor * dt)).norm();
    record.heading = dt * (std::max(speed, motion.velocity.norm()) + motion.angular_velocity.norm() * record.radius);
    const Bounds bounds = shape_bounds(record.settings.shape, shape_pose(record, motion)).grown(record.heading);
    if (state.broad_phase.update(record.leaf, bounds, motion.velocity * dt)) record.moved = true;
  }
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    BodyRecord& record = state.records[i];
    if (!record.alive || !record.moved) continue;
    record.moved = false;
    state.broad_phase.overlapping(state.broad_phase.padded(record.leaf), [&](std::uint32_t j) {
      if (j != i) add_pair(state, i, j);
      return true;
    });
  }
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p) {
    Pair& pair = state.pairs[p];
    if (!pair.alive || pair.touching) continue;
    const BodyRecord &a = state.records[pair.a], &b = state.records[pair.b];
    if (!can_meet(state, pair.a, pair.b) ||
        !state.broad_phase.padded(a.leaf).overlaps(state.broad_phase.padded(b.leaf)))
      drop_pair(state, p);
  }
}

void update_contacts(WorldState& state) {
  // A resting body must be seen to touch although it floats a hair above: points this near are always kept.
  constexpr double least_reach = 0.005;
  state.active.clear();
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p) {
    Pair& pair = state.pairs[p];
    if (!pair.alive) continue;
    BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (idle(ra) && idle(rb)) continue;
    const Motion &ma = state.motions[pair.a], &mb = state.motions[pair.b];
    const double reach = least_reach + ra.heading + rb.heading;
    const bool may_touch = can_meet(state, pair.a, pair.b);
    const Manifold m =
        may_touch ? collide(ra.settings.shape, shape_pose(ra, ma), rb.settings.shape, shape_pose(rb, mb), reach)
                  : Manifold{};
    pair.was_touching = pair.touching;
    pair.closing_speed = 0;
    pair.passing = false;
    pair.fast = swept(ra, rb, state.settings.substeps);
    set_manifold(state, pair, m);
    if (m.count == 0) continue;
    for (ContactRow& row : pair.rows) row.total = 0;
    pair.friction.slide_total = {};
    pair.surface = combine(ra.settings.surface, rb.settings.surface);
    if (ra.settings.solid && rb.settings.solid) state.active.push_back(p);
  }
  std::sort(state.active.begin(), state.active.end(), [&](std::uint32_t x, std::uint32_t y) {
    return pair_key(state.pairs[x].a, state.pairs[x].b) < pair_key(state.pairs[y].a, state.pairs[y].b);
  });
}

void forget_pairs(WorldState& state, std::uint32_t body) {
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p)
    if (state.pairs[p].alive && (state.pairs[p].a == body || state.pairs[p].b == body)) drop_pair(state, p);
}

void report_contacts(WorldState& state) {
  constexpr double touch_gap = 1e-6;
  state.contacts.clear();
  for (BodyRecord& record : state.records)
    if (!record.asleep) record.touching = false;
  for (Pair& pair : state.pairs) {
    if (!pair.alive) continue;
    BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    const bool solid = ra.settings.solid && rb.settings.solid;
    if (idle(ra) && idle(rb)) {
      continue;
    }
    const Motion &a = state.motions[pair.a], &b = state.motions[pair.b];
    const Motion &a0 = state.at_start[pair.a], &b0 = state.at_start[pair.b];
    ContactEvent event;
    double deepest = 1e300;
    pair.touching = false;
    for (int i = 0; i < pair.count; ++i) {
      const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
      const double gap = row.gap + pair.normal.dot(drift);
      if (row.total <= 0 && gap > touch_gap) continue;
      pair.touching = true;
      event.normal_impulse += row.total;
      const Vec3 point = a0.centre + row.arm_a;
      if (row.gap < deepest) {
        deepest = row.gap;
        event.points.insert(event.points.begin(), point);
      } else {
        event.points.push_back(point);
      }
    }
    if (pair.touching && solid) ra.touching = rb.touching = true;
    if (!pair.touching && !pair.was_touching) continue;
    event.phase = !pair.touching ? ContactPhase::part : pair.was_touching ? ContactPhase::stay : ContactPhase::touch;
    event.a = {pair.a, ra.generation};
    event.b = {pair.b, rb.generation};
    event.normal = pair.normal;
    event.closing_speed = pair.closing_speed;
    event.friction_impulse = std::hypot(pair.friction.slide_total[0], pair.friction.slide_total[1]);
    event.surface = pair.surface;
    state.contacts.push_back(std::move(event));
  }
  std::sort(state.contacts.begin(), state.contacts.end(), [](const ContactEvent& x, const ContactEvent& y) {
    return pair_key(x.a.index, x.b.index) < pair_key(y.a.index, y.b.index);
  });
}

}  // namespace bronvel
