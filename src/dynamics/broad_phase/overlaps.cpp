// Near pairs.
#include "dynamics/broad_phase/overlaps.h"

#include <numeric>
#include <optional>

#include "dynamics/base/sorted_list.h"
#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/integrate.h"
#include "geometry/shapes/parts.h"

namespace bronvel {

bool can_meet(const WorldState& state, std::uint32_t i, std::uint32_t j) {
  const BodyRecord &a = state.records[i], &b = state.records[j];
  if (!state.collision_exclusions.empty() && state.collision_exclusions.contains(unordered_key(i, j))) return false;
  if (!a.dynamic() && !b.dynamic()) return false;
  return (a.groups & b.meets) != 0 && (b.groups & a.meets) != 0;
}

namespace {

bool composite(const WorldState& state, const PairKey& key) {
  return state.records[key.a].composite || state.records[key.b].composite;
}

// The place of the key's pair, which may be there already.
std::uint32_t add_pair(WorldState& state, const PairKey& key) {
  const bool by_key = composite(state, key);
  if (!state.pair_of.empty()) {
    const auto known = state.pair_of.find(key);
    if (known != state.pair_of.end()) {
      const std::uint32_t index = known->second;
      if (!by_key) state.pair_of.erase(known);
      return index;
    }
  }
  std::uint32_t index;
  if (state.unused_pairs.empty()) {
    index = static_cast<std::uint32_t>(state.pairs.size());
    make_room(state.pairs);
    state.pairs.emplace_back();
  } else {
    index = state.unused_pairs.back();
    state.unused_pairs.pop_back();
    constexpr std::size_t ahead = 6;
    if (state.unused_pairs.size() >= ahead) {
      const Pair& next = state.pairs[*(state.unused_pairs.end() - ahead)];
      __builtin_prefetch(&next);
      __builtin_prefetch(&next.closing_speed);
      __builtin_prefetch(&next.friction);
    }
  }
  if (by_key) state.pair_of.emplace(key, index);
  state.pairs[index].begin_anew(key);
  state.scratch.fresh.push_back(index);
  return index;
}

void drop_pair(WorldState& state, std::uint32_t index) {
  Pair& pair = state.pairs[index];
  state.pair_of.erase(pair);
  pair.alive = false;
  state.unused_pairs.push_back(index);
}

bool known_near(const WorldState& state, const Overlap& bodies) {
  if (bodies.a + 1 >= state.first_overlap.size()) return false;
  const auto at = [&](std::uint32_t i) { return state.overlaps.begin() + static_cast<std::ptrdiff_t>(i); };
  return std::binary_search(at(state.first_overlap[bodies.a]), at(state.first_overlap[bodies.a + 1]), bodies);
}

// Those that came near in this tick go where they belong in the list.
void take_in_near(WorldState& state) {
  std::vector<Overlap>& fresh = state.scratch.met.front();
  for (std::size_t i = 1; i < state.scratch.met.size(); ++i)
    fresh.insert(fresh.end(), state.scratch.met[i].begin(), state.scratch.met[i].end());
  std::sort(fresh.begin(), fresh.end());
  fresh.erase(std::unique(fresh.begin(), fresh.end()), fresh.end());
  merge_in(state.overlaps, fresh, std::less<>());
}

bool boxes_overlap(const WorldState& state, std::uint32_t a, std::uint32_t b) {
  return state.broad_phase.padded(state.records[a].leaf).overlaps(state.broad_phase.padded(state.records[b].leaf));
}

// What has parts keeps its bounds, and which of its parts may meet others, until it has moved by as much.
constexpr double parts_slack = 0.006;  // m

// How far beyond a part that does not move it is looked for others.
constexpr double part_reach = 0.5 * (least_reach + looked_farther) + parts_slack;  // m

Bounds grown_bounds(const BodyRecord& record, const Part& part, const Pose& pose) {
  return shape_bounds(part.shape, pose * part.pose).grown(record.travel + part_reach);
}

// Which of the near bodies may meet in this tick. Boxes can only have come apart where one of them was moved.
void look_at_near(WorldState& state) {
  constexpr std::size_t worth_sharing = 1000;
  resize_with_room(state.scratch.nearness, state.overlaps.size());
  state.scratch.thread_pool->run_if_worth(state.overlaps.size(), worth_sharing, [&](int worker) {
    const ThreadPool::Share mine = state.scratch.thread_pool->share(state.overlaps.size(), worker);
    for (std::size_t i = mine.first; i < mine.last; ++i) {
      if (i + 8 < mine.last) __builtin_prefetch(&state.records[state.overlaps[i + 8].b]);
      const Overlap near = state.overlaps[i];
      const BodyRecord &a = state.records[near.a], &b = state.records[near.b];
      Nearness& found = state.scratch.nearness[i];
      if (!a.alive || !b.alive || !can_meet(state, near.a, near.b))
        found = Nearness::gone;
      else if (a.bounds.overlaps(b.bounds))
        found = a.composite || b.composite ? Nearness::meeting_in_parts : Nearness::meeting;
      else
        found = (a.moved || b.moved) && !boxes_overlap(state, near.a, near.b) ? Nearness::gone : Nearness::apart;
    }
  });
}

// Whether the pairs of the two bodies' parts are still all that may meet.
bool known_parts(const WorldState& state, const Overlap& near, PartOverlaps& parts) {
  if (parts.reach < 0) return false;
  parts.moved += way_since_last_tick(state, near.a, near.b);
  return parts.moved + least_reach + looked_farther + state.records[near.a].travel + state.records[near.b].travel <=
         parts.reach;
}

// More would take gigabytes: a wall blown apart at a million metres a second has each piece near every other.
constexpr std::size_t most_pairs = 400'000;

bool room_for_pair(const WorldState& state) {
  return state.pairs.size() - state.unused_pairs.size() < most_pairs;
}

// Leaves out those for which there is no room, and looks again in the next tick; false then.
bool find_parts(WorldState& state, const Overlap& near, PartOverlaps& parts) {
  const BodyRecord &ra = state.records[near.a], &rb = state.records[near.b];
  const Pose pose_a = shape_pose(ra, state.bodies[near.a]), pose_b = shape_pose(rb, state.bodies[near.b]);
  const auto in_frame = [](const Bounds& box, const Pose& pose) {
    const Pose back{pose.orientation.conjugate() * -pose.position, pose.orientation.conjugate()};
    return box.turned(back);
  };
  parts.reach = ra.travel + rb.travel + 2 * part_reach;
  parts.moved = 0;
  parts.pairs.clear();
  auto& [parts_a, parts_b] = state.scratch.part_overlaps;
  parts_a.clear();
  parts_near(ra.settings.shape, in_frame(rb.bounds.grown(parts.reach), pose_a), parts_a);
  for (const std::uint32_t part_a : parts_a) {
    const Bounds box = grown_bounds(ra, part_of(ra.settings.shape, part_a), pose_a);
    parts_b.clear();
    parts_near(rb.settings.shape, in_frame(box.grown(rb.travel + part_reach), pose_b), parts_b);
    for (const std::uint32_t part_b : parts_b) {
      if (!box.overlaps(grown_bounds(rb, part_of(rb.settings.shape, part_b), pose_b))) continue;
      if (!room_for_pair(state)) {
        parts.reach = -1;
        return false;
      }
      parts.pairs.push_back(add_pair(state, {near.a, near.b, part_a, part_b}));
    }
  }
  return true;
}

// A large island has some four pairs a body. Addresses for twice as many cost nothing; to move them as they become more
// does.
std::size_t usual_pairs(const WorldState& state) {
  return 8 * state.records.size();
}

// Told when it begins, not in each tick while it lasts.
void tell_of_left_out(WorldState& state, std::optional<std::uint32_t> body) {
  if (body && !state.pairs_left_out) {
    FaultEvent& fault = state.faults.emplace_back();
    fault.body = {*body, state.records[*body].generation};
    fault.reason =
        "more may meet in one tick than the world keeps count of (400,000 pairs): it, and others, go through what "
        "they would have met. Are they meant to go so fast?";
  }
  state.pairs_left_out = body.has_value();
}

void make_room_for_pairs(WorldState& state, std::size_t more) {
  if (state.pairs.size() + more <= usual_pairs(state))
    state.pairs.reserve(usual_pairs(state));
  else
    make_room(state.pairs, more);
}

// Pairs for what may meet; of bodies of several parts, for the parts that are near each other.
void update_near(WorldState& state) {
  look_at_near(state);
  const std::size_t count = state.overlaps.size();
  const Nearness* const nearness = state.scratch.nearness.data();
  Overlap* const all = state.overlaps.data();
  state.scratch.fresh.clear();
  state.scratch.seen.assign(state.pairs.size(), 0);
  const auto saw = [&](std::size_t index) {
    if (index >= state.scratch.seen.size()) state.scratch.seen.resize(state.pairs.size(), 0);
    state.scratch.seen[index] = 1;
  };
  std::size_t fresh = 0;
  for (std::size_t i = 0; i < count; ++i)
    fresh += all[i].pair == Overlap::no_pair && nearness[i] == Nearness::meeting ? 1 : 0;
  fresh = std::min(fresh, most_pairs - std::min(most_pairs, state.pairs.size() - state.unused_pairs.size()));
  if (fresh > state.unused_pairs.size()) make_room_for_pairs(state, fresh - state.unused_pairs.size());
  std::optional<std::uint32_t> left_out;
  state.first_overlap.clear();
  make_room(state.first_overlap, state.records.size() + 1);
  std::size_t kept = 0;
  const bool any_parts = !state.part_overlaps.empty();
  for (std::size_t i = 0; i < count; ++i) {
    Overlap near = all[i];
    const Nearness how_near = nearness[i];
    if (any_parts && how_near != Nearness::meeting_in_parts) state.part_overlaps.erase(unordered_key(near.a, near.b));
    if (how_near == Nearness::gone) continue;
    if (how_near == Nearness::apart) {
      near.pair = Overlap::no_pair;
    } else if (how_near == Nearness::meeting && near.pair == Overlap::no_pair && !room_for_pair(state)) {
      left_out = near.a;
    } else if (how_near == Nearness::meeting) {
      if (near.pair == Overlap::no_pair) near.pair = add_pair(state, {near.a, near.b, 0, 0});
      saw(near.pair);
    } else {
      PartOverlaps& parts = state.part_overlaps[unordered_key(near.a, near.b)];
      if (!known_parts(state, near, parts) && !find_parts(state, near, parts)) left_out = near.a;
      for (const std::uint32_t p : parts.pairs) saw(p);
    }
    if (near.a >= state.first_overlap.size()) state.first_overlap.resize(near.a + 1, static_cast<std::uint32_t>(kept));
    all[kept++] = near;
  }
  tell_of_left_out(state, left_out);
  state.overlaps.resize(kept);
  state.first_overlap.resize(state.records.size() + 1, static_cast<std::uint32_t>(kept));
}

// Takes pairs that parted off the list and puts the fresh ones in.
void list_pairs(WorldState& state) {
  state.scratch.seen.resize(state.pairs.size(), 0);
  std::erase_if(state.listed, [&](std::uint32_t p) {
    if (state.scratch.seen[p] != 0) return false;
    Pair& pair = state.pairs[p];
    // What still touched in the last tick stays for one more, to tell that it parted.
    if (pair.touching) {
      pair.apart = true;
      state.pair_of.try_emplace(pair, p);
      return false;
    }
    drop_pair(state, p);
    return true;
  });
  const auto by_key = [&](std::uint32_t x, std::uint32_t y) {
    return static_cast<const PairKey&>(state.pairs[x]) < static_cast<const PairKey&>(state.pairs[y]);
  };
  std::vector<std::uint32_t>& fresh = state.scratch.fresh;
  if (!std::is_sorted(fresh.begin(), fresh.end(), by_key)) std::sort(fresh.begin(), fresh.end(), by_key);
  merge_in(state.listed, fresh, by_key);
}

// Puts the pairs in memory in the order in which every walk goes through them.
void line_up_pairs(WorldState& state) {
  constexpr std::size_t worth = 500;       // pairs
  constexpr std::size_t most_strayed = 4;  // of which one may be out of its place
  const std::size_t count = state.listed.size();
  if (count < worth) return;
  std::size_t strayed = 0;
  for (std::size_t i = 1; i < count; ++i) strayed += state.listed[i] < state.listed[i - 1] ? 1 : 0;
  strayed += state.pairs.size() - count;
  if (strayed * most_strayed < count) return;
  // Those that are dead go to the end. In place, circle by circle: a second list would be as large, and new every time.
  std::vector<std::uint32_t>& from = state.scratch.line_up;
  std::vector<std::uint32_t> new_places(state.pairs.size(), Overlap::no_pair);
  from.assign(state.listed.begin(), state.listed.end());
  for (std::uint32_t i = 0; i < count; ++i) new_places[from[i]] = i;
  for (std::uint32_t p = 0; p < new_places.size(); ++p)
    if (new_places[p] == Overlap::no_pair) from.push_back(p);
  for (std::uint32_t first = 0; first < from.size(); ++first) {
    if (from[first] == first) continue;
    const Pair held = state.pairs[first];
    std::uint32_t to = first;
    while (from[to] != first) {
      const std::uint32_t source = from[to];
      state.pairs[to] = state.pairs[source];
      from[to] = to;
      to = source;
    }
    state.pairs[to] = held;
    from[to] = to;
  }
  std::size_t& most = state.scratch.most_pairs;
  most = std::max(most, state.pairs.size());
  state.pairs.resize(count);
  if (most > count + count / 4) {  // there were many more once
    empty_rest(state.pairs);
    most = count;
  }
  state.unused_pairs.clear();
  std::iota(state.listed.begin(), state.listed.end(), 0U);
  for (auto& [key, p] : state.pair_of) p = new_places[p];
  for (Overlap& near : state.overlaps)
    if (near.pair != Overlap::no_pair) near.pair = new_places[near.pair];
  for (auto& [bodies, parts] : state.part_overlaps)
    for (std::uint32_t& p : parts.pairs) p = new_places[p];
}

void find_bounds(BodyRecord& record, const BodyState& motion, const BodyWay& way) {
  const bool parts = record.composite;
  const double reach = record.travel + least_reach;
  if (parts) {
    record.bounds_reach -= way.shift.norm() + way.turned;
    if (record.bounds_reach >= reach) return;
    record.bounds_reach = reach + parts_slack;
  }
  record.bounds =
      shape_bounds(record.settings.shape, shape_pose(record, motion)).grown(parts ? record.bounds_reach : reach);
}

}  // namespace

BodyWay way_of(const BodyRecord& record, const BodyState& before, const BodyState& now) {
  BodyWay way;
  way.shift = now.centre - before.centre;
  if (now.orientation.coeffs() == before.orientation.coeffs()) return way;
  way.turning = surface_turn(record, before.orientation, now.orientation);
  way.turn = way.turning.toRotationMatrix();
  way.turned = 2 * way.turning.vec().norm() * record.radius;
  return way;
}

double way_between(const BodyRecord& ra, const BodyWay& of_a, const BodyRecord& rb, const BodyWay& of_b,
                   const Vec3& between) {
  const Vec3 shift = of_b.shift - of_a.shift;
  if (of_a.turned == 0 && of_b.turned == 0) return shift.norm();
  // Seen from the larger one, which may take the smaller along as it turns, the smaller goes and turns.
  const bool from_a = ra.radius > rb.radius;
  const BodyWay& larger = from_a ? of_a : of_b;
  const Vec3 gone = shift - (larger.turn * between - between);
  // A ball's surface does not turn, whatever it is seen from.
  const BodyRecord& smaller = from_a ? rb : ra;
  if (smaller.symmetry == Symmetry::ball) return gone.norm();
  return gone.norm() + 2 * (of_a.turning.conjugate() * of_b.turning).vec().norm() * smaller.radius;
}

double way_since_last_tick(const WorldState& state, std::uint32_t a, std::uint32_t b) {
  return way_between(state.records[a], state.scratch.ways[a], state.records[b], state.scratch.ways[b],
                     state.at_start[b].centre - state.at_start[a].centre);
}

void update_pairs(WorldState& state) {
  state.scratch.graph.listed = false;
  const double dt = state.tick_length();
  constexpr std::size_t worth_sharing = 500;  // bodies
  state.scratch.ways.resize(state.records.size());
  state.scratch.sleeping.resize(state.records.size());
  state.scratch.moving.resize(state.records.size());
  state.scratch.thread_pool->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    BodyRecord& record = state.records[i];
    const BodyState& motion = state.bodies[i];
    state.scratch.ways[i] = i < state.at_start.size() ? way_of(record, state.at_start[i], motion) : BodyWay{};
    state.scratch.sleeping[i] = record.asleep ? 1 : 0;
    state.scratch.moving[i] = record.alive && !record.asleep && record.kind != MotionKind::fixed ? 1 : 0;
    if (!record.alive || (record.asleep && !record.moved)) return;
    const double speed = (motion.velocity + state.gravity_on(i) * (record.gravity_factor * dt)).norm();
    const double given = i < state.scratch.wake_speed.size() ? state.scratch.wake_speed[i] : 0;
    record.travel =
        dt * (std::max({speed, motion.velocity.norm(), given}) + surface_spin(record, motion) * record.radius);
    find_bounds(record, motion, state.scratch.ways[i]);
    record.left_padding = !state.broad_phase.padded(record.leaf).contains(record.bounds);
  });
  for (std::uint32_t i = 0; i < state.records.size(); ++i) {
    fetch_ahead(state.records, i);
    BodyRecord& record = state.records[i];
    if (!record.alive || (record.asleep && !record.moved) || !record.left_padding) continue;
    state.broad_phase.update(record.leaf, record.bounds, state.bodies[i].velocity * dt);
    record.moved = true;
  }
  state.scratch.met.resize(static_cast<std::size_t>(state.scratch.thread_pool->workers()));
  for (auto& each : state.scratch.met) each.clear();
  state.scratch.thread_pool->run_if_worth(state.records.size(), worth_sharing, [&](int worker) {
    auto& met = state.scratch.met[static_cast<std::size_t>(worker)];
    state.scratch.thread_pool->deal(state.records.size(), [&](std::size_t body) {
      const auto i = static_cast<std::uint32_t>(body);
      if (!state.records[i].alive || !state.records[i].moved) return;
      state.broad_phase.overlapping(state.broad_phase.padded(state.records[i].leaf), [&](std::uint32_t j) {
        // Where both moved, the lower one tells.
        const Overlap bodies{.a = std::min(i, j), .b = std::max(i, j)};
        if (j != i && (i < j || !state.records[j].moved) && !known_near(state, bodies) &&
            can_meet(state, bodies.a, bodies.b))
          met.push_back(bodies);
        return true;
      });
    });
  });
  take_in_near(state);
  update_near(state);
  state.scratch.thread_pool->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    state.records[i].moved = false;
  });
  list_pairs(state);
  line_up_pairs(state);
}

void forget_pairs(WorldState& state, std::uint32_t body) {
  state.scratch.graph.listed = false;
  std::erase_if(state.listed, [&](std::uint32_t p) {
    const bool its = state.pairs[p].a == body || state.pairs[p].b == body;
    if (its) drop_pair(state, p);
    return its;
  });
  for (Overlap& near : state.overlaps)
    if (near.a == body || near.b == body) {
      near.pair = Overlap::no_pair;
      state.part_overlaps.erase(unordered_key(near.a, near.b));
    }
}

void find_points_anew(WorldState& state, std::span<const std::uint32_t> bodies) {
  std::vector<char> wanted(state.records.size());
  for (const std::uint32_t body : bodies) wanted[body] = 1;
  // By what is near: that list is short next to the pairs, of which each takes a kilobyte and more.
  for (const Overlap& near : state.overlaps) {
    if (wanted[near.a] == 0 && wanted[near.b] == 0) continue;
    if (near.pair != Overlap::no_pair) state.pairs[near.pair].reach = -1;
    const auto parts = state.part_overlaps.find(unordered_key(near.a, near.b));
    if (parts == state.part_overlaps.end()) continue;
    for (const std::uint32_t p : parts->second.pairs) state.pairs[p].reach = -1;
  }
}

}  // namespace bronvel
