// Telling the contacts.
#include "dynamics/contact_report.h"

#include <atomic>

#include "dynamics/team.h"

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

// Whether the pair touches, and whether there is something to tell of it.
bool find_touching(const WorldState& state, Pair& pair) {
  constexpr double touch_gap = 1e-6;
  if (pair.count == 0 && !pair.was_touching && !pair.touching) return false;
  if (state.records[pair.a].idle() && state.records[pair.b].idle()) return false;
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
  return pair.touching || pair.was_touching;
}

bool of_same_bodies(const WorldState& state, std::size_t one, std::size_t other) {
  const Pair &x = state.pairs[state.listed[one]], &y = state.pairs[state.listed[other]];
  return x.a == y.a && x.b == y.b;
}

// The worker's part of the listed pairs: all of two bodies' fall to one.
Team::Share share_of_listed(const WorldState& state, int worker) {
  const std::size_t count = state.listed.size();
  Team::Share share = state.scratch.team->share(count, worker);
  for (std::size_t* end : {&share.first, &share.last})
    while (*end > 0 && *end < count && of_same_bodies(state, *end - 1, *end)) ++*end;
  return share;
}

// Lists the first of each row of listed pairs in the share that are of the same two bodies, if there is something to
// tell of any.
void list_told(const WorldState& state, const Team::Share& share, std::vector<std::uint32_t>& told) {
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

}  // namespace

void report_contacts(WorldState& state) {
  Team& team = *state.scratch.team;
  constexpr std::size_t worth_sharing = 400;  // pairs or bodies
  state.scratch.reported.resize(state.listed.size());
  auto& told = state.scratch.told;
  told.resize(static_cast<std::size_t>(team.workers()));
  for (auto& each : told) each.clear();
  team.run_if_worth(std::max(state.listed.size(), state.records.size()), worth_sharing, [&](int worker) {
    const Team::Share bodies = team.share(state.records.size(), worker);
    for (std::size_t i = bodies.first; i < bodies.last; ++i) {
      fetch_ahead(state.records, i);
      if (!state.records[i].asleep) state.records[i].touching = false;
    }
    const Team::Share pairs = share_of_listed(state, worker);
    for (std::size_t i = pairs.first; i < pairs.last; ++i)
      state.scratch.reported[i] = find_touching(state, state.pairs[state.listed[i]]) ? 1 : 0;
    list_told(state, pairs, told[static_cast<std::size_t>(worker)]);
  });
  std::vector<std::uint32_t>& all = told.front();
  for (std::size_t i = 1; i < told.size(); ++i) all.insert(all.end(), told[i].begin(), told[i].end());
  state.contact_count = all.size();
  // Those of the ticks before stay, for the room that they have.
  if (all.size() > state.contacts.size()) resize_with_room(state.contacts, all.size());
  team.each(all.size(), worth_sharing, [&](std::size_t i) { tell(state, all[i], state.contacts[i]); });
}

}  // namespace bronvel
