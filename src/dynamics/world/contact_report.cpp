// Telling the contacts.
#include "dynamics/world/contact_report.h"

#include <algorithm>
#include <atomic>
#include <utility>

#include "dynamics/base/thread_pool.h"
#include "dynamics/impacts/time_of_impact.h"
#include "dynamics/solver/contact_solver.h"

namespace bronvel {
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

// The place where the pair was first hit in this tick; null if it was not, or touched before.
const HitPlace* hit_place(const WorldState& state, const Pair& pair) {
  if (state.scratch.hit_places.empty()) return nullptr;
  const std::vector<HitPlace>& all = state.scratch.hit_places.front();
  const auto index = static_cast<std::uint32_t>(&pair - state.pairs.data());
  const auto found = std::lower_bound(all.begin(), all.end(), index,
                                      [](const HitPlace& each, std::uint32_t wanted) { return each.pair < wanted; });
  return found != all.end() && found->pair == index ? &*found : nullptr;
}

// All workers' hits into the first list: of each pair the first.
void gather_hit_places(WorldState& state) {
  auto& lists = state.scratch.hit_places;
  if (lists.empty()) return;
  std::vector<HitPlace>& all = lists.front();
  for (std::size_t i = 1; i < lists.size(); ++i) all.insert(all.end(), lists[i].begin(), lists[i].end());
  std::sort(all.begin(), all.end(), [](const HitPlace& x, const HitPlace& y) {
    if (x.pair != y.pair) return x.pair < y.pair;
    if (x.moment != y.moment) return x.moment < y.moment;
    // Struck twice at one moment: the same of both first, whichever worker it was.
    return std::lexicographical_compare(x.points[0].begin(), x.points[0].end(), y.points[0].begin(), y.points[0].end());
  });
  all.erase(std::unique(all.begin(), all.end(), [](const HitPlace& x, const HitPlace& y) { return x.pair == y.pair; }),
            all.end());
}

// A point of a pair that touches without a hit, and when.
struct Touch {
  Vec3 point;     // scene frame, m
  double moment;  // s into the tick
};

// What touched before is told of at the tick's end: the place goes with the body that carries it.
Touch lasting_touch(const WorldState& state, const Pair& pair, const ManifoldPoint& row) {
  const auto shift = [&](std::uint32_t body) { return state.bodies[body].centre - state.at_start[body].centre; };
  const double towards_b = anchor_share_of_b(state.records[pair.a], state.records[pair.b]);
  return {state.at_start[pair.a].centre + row.arm_a + (1 - towards_b) * shift(pair.a) + towards_b * shift(pair.b),
          state.tick_length()};
}

// What came near slowly touches when its gap has closed. Until then the bodies go on as at the tick's start.
Touch slow_touch(const WorldState& state, const Pair& pair, const ManifoldPoint& row) {
  const BodyState &a = state.at_start[pair.a], &b = state.at_start[pair.b];
  const BodyRecord &ra = state.records[pair.a], &rb = state.records[pair.b];
  const Vec3& normal = pair.normal;
  const Vec3 arm_b = pair.arm_b(row);
  const Vec3 velocity_a = a.velocity_at(row.arm_a), velocity_b = b.velocity_at(arm_b);
  const Vec3 pull_a = ra.dynamic() ? state.gravity_on(pair.a) : Vec3(Vec3::Zero()),
             pull_b = rb.dynamic() ? state.gravity_on(pair.b) : Vec3(Vec3::Zero());
  const double tick = state.tick_length();
  const double t = std::clamp(
      time_to_close(row.gap, normal.dot(velocity_a - velocity_b), normal.dot(pull_a - pull_b), tick), 0.0, tick);
  // The pair's point lies midway in the gap.
  const Vec3 on_a = a.centre + row.arm_a - 0.5 * row.gap * normal + t * velocity_a,
             on_b = b.centre + arm_b + 0.5 * row.gap * normal + t * velocity_b;
  // Along the normal it lies on the surface that does not move by forces; across it, it goes with what carries it.
  const Vec3 along = !ra.dynamic() ? on_a : !rb.dynamic() ? on_b : Vec3(0.5 * (on_a + on_b));
  const double towards_b = anchor_share_of_b(ra, rb);
  const Vec3 place = (1 - towards_b) * on_a + towards_b * on_b;
  return {place + normal * normal.dot(along - place), t};
}

// Adds what one pair of parts did to what its bodies report: the heaviest part says the normal and the surface.
void add_to_event(const WorldState& state, const Pair& pair, ContactEvent& event, double& heaviest) {
  double impulse = 0, deepest = 1e300;
  const std::size_t first = event.points.size();
  const HitPlace* const hit = hit_place(state, pair);
  double moment = hit ? hit->moment : state.tick_length();
  for (int i = 0; i < pair.count && pair.touching; ++i) {
    const ManifoldPoint& row = pair.points[static_cast<std::size_t>(i)];
    if ((pair.touches >> i & 1) == 0) continue;
    impulse += row.total;
    if (hit) continue;
    const Touch touch = pair.was_touching ? lasting_touch(state, pair, row) : slow_touch(state, pair, row);
    moment = std::min(moment, touch.moment);
    event.points.push_back(touch.point);
    event.names.push_back({pair.part_a, pair.part_b, row.number});
    if (row.gap >= deepest) continue;
    deepest = row.gap;
    to_place(event, event.points.size() - 1, first);
  }
  for (int i = 0; hit && pair.touching && i < hit->count; ++i) {
    const auto at = static_cast<std::size_t>(i);
    event.points.push_back(hit->points[at]);
    event.names.push_back({pair.part_a, pair.part_b, pair.points[static_cast<std::size_t>(hit->rows[at])].number});
  }
  event.moment = std::min(event.moment, moment);
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
  const BodyState &a = state.bodies[pair.a], &b = state.bodies[pair.b];
  const ManifoldPoint& row = pair.points[0];
  const Vec3 of_a = a.velocity + a.angular_velocity.cross(row.arm_a),
             of_b = b.velocity + b.angular_velocity.cross(pair.arm_b(row));
  return pair.normal.dot(of_a - of_b);
}

// Whether the pair touches, and whether there is something to tell of it.
bool find_touching(const WorldState& state, Pair& pair) {
  constexpr double touch_gap = 1e-6;
  if (pair.count == 0 && !pair.was_touching && !pair.touching) return false;
  if (state.records[pair.a].idle() && state.records[pair.b].idle()) return false;
  const Vec3 drift = (state.bodies[pair.b].centre - state.at_start[pair.b].centre) -
                     (state.bodies[pair.a].centre - state.at_start[pair.a].centre);
  // What closes so fast is hit in the next tick: its touch is told then, with all that the hit did. What was in the
  // other at the tick's start is being pushed out of it.
  const bool to_be_hit = !pair.was_touching && state.records[pair.a].solid && state.records[pair.b].solid &&
                         pair.count > 0 && closing_now(state, pair) > state.settings.restitution_speed;
  unsigned touches = 0;
  for (int k = 0; k < pair.count; ++k) {
    const ManifoldPoint& row = pair.points[static_cast<std::size_t>(k)];
    if (row.total <= 0 && ((to_be_hit && row.gap > 0) || pair.beyond)) continue;
    if (row.total > 0 || row.gap + pair.normal.dot(drift) <= touch_gap) touches |= 1U << k;
  }
  pair.touches = static_cast<std::uint8_t>(touches);
  pair.touching = touches != 0;
  return pair.touching || pair.was_touching;
}

bool of_same_bodies(const WorldState& state, std::size_t one, std::size_t other) {
  const Pair &x = state.pairs[state.listed[one]], &y = state.pairs[state.listed[other]];
  return x.a == y.a && x.b == y.b;
}

// The worker's part of the listed pairs: all of two bodies' fall to one.
ThreadPool::Share share_of_listed(const WorldState& state, int worker) {
  const std::size_t count = state.listed.size();
  ThreadPool::Share share = state.scratch.thread_pool->share(count, worker);
  for (std::size_t* end : {&share.first, &share.last})
    while (*end > 0 && *end < count && of_same_bodies(state, *end - 1, *end)) ++*end;
  return share;
}

// Lists the first of each row of listed pairs in the share that are of the same two bodies, if there is something to
// tell of any.
void list_told(const WorldState& state, const ThreadPool::Share& share, std::vector<std::uint32_t>& told) {
  const auto reported = state.scratch.reported.begin();
  for (std::size_t i = share.first; i < share.last;) {
    const std::size_t first = i;
    bool any = false;
    do any = any || reported[static_cast<std::ptrdiff_t>(i)] != 0;
    while (++i < share.last && of_same_bodies(state, first, i));
    if (any) told.push_back(static_cast<std::uint32_t>(first));
  }
}

// Tells of the bodies of this listed pair and of those after it.
void tell(WorldState& state, std::size_t first, ContactEvent& event) {
  // Whatever room its lists have stays.
  std::vector<Vec3> points = std::move(event.points);
  std::vector<PointName> names = std::move(event.names);
  points.clear();
  names.clear();
  event = ContactEvent{};
  event.points = std::move(points);
  event.names = std::move(names);
  const Pair& any = state.pairs[state.listed[first]];
  BodyRecord &a = state.records[any.a], &b = state.records[any.b];
  event.a = {any.a, a.generation};
  event.b = {any.b, b.generation};
  event.moment = state.tick_length();
  double heaviest = -1;
  bool touching = false, was_touching = false;
  for (std::size_t i = first; i < state.listed.size() && (i == first || of_same_bodies(state, first, i)); ++i) {
    if (state.scratch.reported[i] == 0) continue;
    const Pair& pair = state.pairs[state.listed[i]];
    touching = touching || pair.touching;
    was_touching = was_touching || pair.was_touching;
    add_to_event(state, pair, event, heaviest);
  }
  event.phase = !touching ? ContactPhase::part : was_touching ? ContactPhase::stay : ContactPhase::touch;
  if (!touching || !a.solid || !b.solid) return;
  // Other workers may say the same of a body at this very moment.
  for (BodyRecord* body : {&a, &b}) std::atomic_ref(body->touching).store(true, std::memory_order_relaxed);
}

// The event of these two bodies, b's index above a's; null if there is none. They are in the order of the two.
ContactEvent* event_of(WorldState& state, std::uint32_t a, std::uint32_t b) {
  ContactEvent* const begin = state.contacts.data();
  ContactEvent* const end = begin + state.contact_count;
  const auto key = [](const ContactEvent& each) { return std::pair(each.a.index, each.b.index); };
  ContactEvent* const found = std::lower_bound(
      begin, end, std::pair(a, b), [&](const ContactEvent& each, const auto& wanted) { return key(each) < wanted; });
  return found != end && key(*found) == std::pair(a, b) ? found : nullptr;
}

// What kinematic bodies came up against as they were advanced touches too, though they stop a hair in front of it.
void tell_advance_hits(WorldState& state) {
  if (state.advance_hits.empty() && state.told_advance_hits.empty()) return;
  const auto told_of = [](const std::vector<AdvanceHit>& list, const AdvanceHit& hit) {
    return std::any_of(list.begin(), list.end(),
                       [&](const AdvanceHit& each) { return each.body == hit.body && each.other == hit.other; });
  };
  const auto tell_of = [&](const AdvanceHit& hit, ContactPhase phase) {
    const bool turned = hit.other < hit.body;
    const std::uint32_t a = std::min(hit.body, hit.other), b = std::max(hit.body, hit.other);
    const BodyRecord &ra = state.records[a], &rb = state.records[b];
    if (!ra.alive || !rb.alive) return;
    ContactEvent* event = event_of(state, a, b);
    if (phase == ContactPhase::part && event) return;
    if (event && event->phase == ContactPhase::stay && phase == ContactPhase::stay) return;
    ContactEvent own;
    if (!event) event = &own;
    event->phase = phase;
    event->a = {a, ra.generation};
    event->b = {b, rb.generation};
    event->surface = combine(ra.settings.surface, rb.settings.surface);
    event->points.clear();
    event->names.clear();
    event->normal = turned ? hit.normal : Vec3(-hit.normal);
    event->closing_speed = std::max(event->closing_speed, phase == ContactPhase::part ? 0.0 : hit.speed);
    event->normal_impulse += phase == ContactPhase::part ? 0.0 : hit.impulse;
    if (phase != ContactPhase::part) {
      event->points.push_back(hit.point);
      event->names.push_back({});
    }
    if (event != &own) return;
    // Into its place in the order.
    if (state.contact_count == state.contacts.size()) resize_with_room(state.contacts, state.contact_count + 1);
    ContactEvent* const begin = state.contacts.data();
    ContactEvent* const end = begin + state.contact_count;
    *end = std::move(own);
    ++state.contact_count;
    ContactEvent* const place = std::lower_bound(
        begin, end, std::pair(a, b),
        [](const ContactEvent& each, const auto& wanted) { return std::pair(each.a.index, each.b.index) < wanted; });
    std::rotate(place, end, end + 1);
  };
  for (const AdvanceHit& hit : state.advance_hits)
    tell_of(hit, told_of(state.told_advance_hits, hit) ? ContactPhase::stay : ContactPhase::touch);
  for (const AdvanceHit& hit : state.told_advance_hits)
    if (!told_of(state.advance_hits, hit)) tell_of(hit, ContactPhase::part);
  state.told_advance_hits = std::exchange(state.advance_hits, {});
}

}  // namespace

void report_contacts(WorldState& state) {
  state.scratch.graph.listed = false;
  gather_hit_places(state);
  ThreadPool& thread_pool = *state.scratch.thread_pool;
  constexpr std::size_t worth_sharing = 400;  // pairs or bodies
  state.scratch.reported.resize(state.listed.size());
  auto& told = state.scratch.told;
  told.resize(static_cast<std::size_t>(thread_pool.workers()));
  for (auto& each : told) each.clear();
  thread_pool.run_if_worth(std::max(state.listed.size(), state.records.size()), worth_sharing, [&](int worker) {
    const ThreadPool::Share bodies = thread_pool.share(state.records.size(), worker);
    for (std::size_t i = bodies.first; i < bodies.last; ++i) {
      fetch_ahead(state.records, i);
      state.records[i].placed = false;
      if (!state.records[i].asleep) state.records[i].touching = false;
    }
    const ThreadPool::Share pairs = share_of_listed(state, worker);
    for (std::size_t i = pairs.first; i < pairs.last; ++i)
      state.scratch.reported[i] = find_touching(state, state.pairs[state.listed[i]]) ? 1 : 0;
    list_told(state, pairs, told[static_cast<std::size_t>(worker)]);
  });
  std::vector<std::uint32_t>& all = told.front();
  for (std::size_t i = 1; i < told.size(); ++i) all.insert(all.end(), told[i].begin(), told[i].end());
  state.contact_count = all.size();
  // Those of the ticks before stay, for the room that they have.
  if (all.size() > state.contacts.size()) resize_with_room(state.contacts, all.size());
  thread_pool.each(all.size(), worth_sharing, [&](std::size_t i) { tell(state, all[i], state.contacts[i]); });
  tell_advance_hits(state);
}

}  // namespace bronvel
