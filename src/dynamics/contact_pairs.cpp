// Near pairs and their contacts.
#include "dynamics/contact_pairs.h"

namespace bronvel {
namespace {

std::uint64_t pair_key(std::uint32_t a, std::uint32_t b) {
  return (static_cast<std::uint64_t>(a) << 32) | b;
}

bool can_meet(const BodyRecord& a, const BodyRecord& b) {
  if (!a.dynamic() && !b.dynamic()) return false;
  return (a.settings.groups & b.settings.meets) != 0 && (b.settings.groups & a.settings.meets) != 0;
}

bool idle(const BodyRecord& body) {
  return body.asleep || !body.dynamic();
}

Pose shape_pose(const BodyRecord& record, const Motion& motion) {
  return {motion.centre - motion.orientation * record.mass.centre, motion.orientation};
}

// Gives the row the impulses of the old point that it goes on from: the nearest one in A's own frame.
// (Features would not do: a corner just on the other shape's edge changes its feature without moving.)
void carry_over(const Pair& pair, const Vec3& normal, double tolerance, ContactRow& row) {
  const ContactRow* same = nullptr;
  double nearest = tolerance;
  for (int k = 0; k < pair.count; ++k) {
    const ContactRow& old = pair.rows[static_cast<std::size_t>(k)];
    const double distance = (old.local_a - row.local_a).norm();
    if (distance > nearest) continue;
    nearest = distance;
    same = &old;
  }
  if (!same) return;
  row.normal_impulse = same->normal_impulse;
  // The tangents turn with the normal: carry the friction impulse over as a vector.
  const Vec3 friction = pair.tangents[0] * same->tangent_impulse[0] + pair.tangents[1] * same->tangent_impulse[1];
  const Vec3 t0 = any_perpendicular(normal), t1 = normal.cross(t0);
  row.tangent_impulse = {friction.dot(t0), friction.dot(t1)};
}

void add_pair(WorldState& state, std::uint32_t i, std::uint32_t j) {
  const std::uint32_t a = std::min(i, j), b = std::max(i, j);
  if (!can_meet(state.records[a], state.records[b])) return;
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
    if (!can_meet(a, b) || !state.broad_phase.padded(a.leaf).overlaps(state.broad_phase.padded(b.leaf)))
      drop_pair(state, p);
  }
}

void update_contacts(WorldState& state) {
  // A resting body must be seen to touch although it floats a hair above: points this near are always kept.
  constexpr double least_reach = 0.005;
  constexpr double same_point = 0.1;  // of the smaller body's radius
  state.active.clear();
  for (std::uint32_t p = 0; p < state.pairs.size(); ++p) {
    Pair& pair = state.pairs[p];
    if (!pair.alive) continue;
    BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
    if (idle(ra) && idle(rb)) continue;
    const Motion &ma = state.motions[pair.a], &mb = state.motions[pair.b];
    const double reach = least_reach + ra.heading + rb.heading;
    const bool may_touch = can_meet(ra, rb);
    const Manifold m =
        may_touch ? collide(ra.settings.shape, shape_pose(ra, ma), rb.settings.shape, shape_pose(rb, mb), reach)
                  : Manifold{};
    std::array<ContactRow, 4> rows;
    for (int i = 0; i < m.count; ++i) {
      const ContactPoint& point = m.points[static_cast<std::size_t>(i)];
      ContactRow& row = rows[static_cast<std::size_t>(i)];
      row.arm_a = point.point - ma.centre;
      row.arm_b = point.point - mb.centre;
      row.gap = point.separation;
      row.feature = point.feature;
      row.local_a = ma.orientation.conjugate() * row.arm_a;
      carry_over(pair, m.normal, same_point * std::min(ra.radius, rb.radius), row);
    }
    pair.rows = rows;
    pair.count = m.count;
    pair.was_touching = pair.touching;
    pair.closing_speed = 0;
    if (m.count == 0) continue;
    pair.normal = m.normal;
    pair.tangents[0] = any_perpendicular(m.normal);
    pair.tangents[1] = m.normal.cross(pair.tangents[0]);
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
    Vec3 friction = Vec3::Zero();
    double deepest = 1e300;
    pair.touching = false;
    for (int i = 0; i < pair.count; ++i) {
      const ContactRow& row = pair.rows[static_cast<std::size_t>(i)];
      const Vec3 drift = (b.centre - b0.centre) - (a.centre - a0.centre);
      const double gap = row.gap + pair.normal.dot(drift);
      if (row.normal_total <= 0 && gap > touch_gap) continue;
      pair.touching = true;
      event.normal_impulse += row.normal_total;
      friction += pair.tangents[0] * row.tangent_total[0] + pair.tangents[1] * row.tangent_total[1];
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
    event.friction_impulse = friction.norm();
    event.surface = pair.surface;
    state.contacts.push_back(std::move(event));
  }
  std::sort(state.contacts.begin(), state.contacts.end(), [](const ContactEvent& x, const ContactEvent& y) {
    return pair_key(x.a.index, x.b.index) < pair_key(y.a.index, y.b.index);
  });
}

}  // namespace bronvel
