// Telling the contacts.
#include "dynamics/contact_report.h"

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

// Which listed pairs touch, and which of them there is something to tell of.
void find_touching(WorldState& state) {
  constexpr double touch_gap = 1e-6;
  constexpr std::size_t worth_sharing = 400;  // pairs
  state.scratch.reported.resize(state.listed.size());
  state.scratch.team->each(state.listed.size(), worth_sharing, [&](std::size_t i) {
    Pair& pair = state.pairs[state.listed[i]];
    state.scratch.reported[i] = 0;
    if (pair.count == 0 && !pair.was_touching && !pair.touching) return;
    if (state.records[pair.a].idle() && state.records[pair.b].idle()) return;
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
  constexpr std::size_t worth_sharing = 500;  // bodies
  state.scratch.team->each(state.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(state.records, i);
    if (!state.records[i].asleep) state.records[i].touching = false;
  });
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
