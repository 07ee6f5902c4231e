// Islands, forms and colours of contacts.
#include "dynamics/solver/contact_precision.h"

#include <algorithm>
#include <array>
#include <bit>
#include <utility>

#include "dynamics/islands/sleep.h"
#include "geometry/base/disjoint_sets.h"

namespace bronvel {
namespace {

// Fewer points than this are solved in double: they have iterations enough for its digits to matter.
constexpr std::size_t few_points = 3000;

// Beside large islands, no more than this: what flies about a pile that settles needs no such care.
constexpr std::size_t few_points_beside_large_islands = 600;

// A body of the island that the contact belongs to.
std::uint32_t moved_by(const ActiveEnds& ends) {
  return ends.moves_a ? ends.a : ends.b;
}

// Tells of each active contact whether its island is solved in double: the largest first, as what stands on one another
// needs iterations most, as long as all together have few points.
void choose_islands(WorldState& state, ContactSystem& sys) {
  const auto& all = state.scratch.active_ends;
  make_sets(sys.island, state.records.size());
  for (const ActiveEnds& ends : all)
    if (ends.moves_a && ends.moves_b) join_sets(sys.island, ends.a, ends.b);
  join_by_joints(state, sys.island);
  sys.points_of.assign(state.records.size(), 0);
  sys.roots.clear();
  for (const ActiveEnds& ends : all) {
    const std::uint32_t root = find_set(sys.island, moved_by(ends));
    if (sys.points_of[root] == 0) sys.roots.push_back(root);
    sys.points_of[root] += ends.points;
  }
  std::sort(sys.roots.begin(), sys.roots.end(), [&](std::uint32_t x, std::uint32_t y) {
    return sys.points_of[x] != sys.points_of[y] ? sys.points_of[x] > sys.points_of[y] : x < y;
  });
  // From here on: 1 where the island is solved in double.
  std::size_t sum = 0;
  for (const std::uint32_t root : sys.roots) {
    const std::uint32_t points = std::exchange(sys.points_of[root], 0);
    if (sum + points >= few_points_beside_large_islands) continue;
    sum += points;
    sys.points_of[root] = 1;
  }
  for (ActiveEnds& ends : state.scratch.active_ends)
    ends.in_double = sys.points_of[find_set(sys.island, moved_by(ends))] != 0;
}

// Bodies at either end of the members.
void list_bodies(const WorldState& state, ContactSystem& sys, const std::vector<std::uint32_t>& members,
                 std::vector<std::uint32_t>& bodies) {
  bodies.clear();
  sys.is_end.assign(state.records.size(), 0);
  for (const std::uint32_t i : members)
    sys.is_end[state.scratch.active_ends[i].a] = sys.is_end[state.scratch.active_ends[i].b] = 1;
  for (std::uint32_t i = 0; i < sys.is_end.size(); ++i)
    if (sys.is_end[i] != 0) bodies.push_back(i);
}

}  // namespace

void part_contacts(WorldState& state, ContactSystem& sys) {
  auto& all = state.scratch.active_ends;
  // Those left out of patches count as well: that they are is to save time, not to spend it on more iterations.
  std::size_t points = state.scratch.points_left_out;
  for (const ActiveEnds& ends : all) points += ends.points;
  const bool few = points < few_points;
  if (few)
    for (ActiveEnds& ends : all) ends.in_double = true;
  else
    choose_islands(state, sys);
  sys.in_double.members.clear();
  sys.in_float.members.clear();
  for (std::uint32_t i = 0; i < all.size(); ++i)
    (all[i].in_double ? sys.in_double.members : sys.in_float.members).push_back(i);
  sys.in_double.points = points;
  if (!few) {
    sys.in_double.points = 0;
    for (const std::uint32_t i : sys.in_double.members)
      sys.in_double.points += state.pairs[state.scratch.active[i]].found;
  }
  sys.in_float.points = points - sys.in_double.points;
  list_bodies(state, sys, sys.in_double.members, sys.in_double.bodies);
  list_bodies(state, sys, sys.in_float.members, sys.in_float.bodies);
}

namespace {

// Blocks are even where their contacts are of one kind: calm or not, and of as many points.
constexpr std::size_t kinds = 8;
std::size_t kind_of(const ActiveEnds& ends) {
  return (ends.calm ? kinds / 2 : 0) + (kinds / 2 - ends.points);
}

// Puts the members into `order` by `place_of`, which is below `places`; those of one place stay in their order.
template <class PlaceOf>
void put_in_order(const std::vector<std::uint32_t>& members, std::size_t places, const PlaceOf& place_of,
                  std::vector<std::uint32_t>& first, std::vector<std::uint32_t>& order) {
  first.assign(places + 1, 0);
  for (const std::uint32_t i : members) ++first[place_of(i) + 1];
  for (std::size_t k = 1; k < first.size(); ++k) first[k] += first[k - 1];
  order.resize(members.size());
  for (const std::uint32_t i : members) order[first[place_of(i)]++] = i;
}

// Gives each of the members the first colour that neither of its bodies has and that has room for it. False where 64
// more would not do.
bool give_colours(const WorldState& state, ContactSystem& sys, const std::vector<std::uint32_t>& members,
                  std::uint32_t set, std::size_t most_of_a_colour) {
  bool all = true;
  std::uint64_t full = 0;
  std::array<std::size_t, colours_in_a_set> count{};
  sys.taken.assign(state.records.size(), 0);
  for (const std::uint32_t i : members) {
    if (sys.colour_of[i] != most_colours) continue;
    const ActiveEnds& ends = state.scratch.active_ends[i];
    const bool a = ends.moves_a, b = ends.moves_b;
    const std::uint64_t taken = full | (a ? sys.taken[ends.a] : 0) | (b ? sys.taken[ends.b] : 0);
    const auto colour = static_cast<std::uint32_t>(std::countr_one(taken));
    all = all && colour < colours_in_a_set;
    if (colour >= colours_in_a_set) continue;
    sys.colour_of[i] = set + colour;
    sys.colour_count = std::max(sys.colour_count, set + colour + 1);
    if (++count[colour] == most_of_a_colour) full |= 1ULL << colour;
    if (a) sys.taken[ends.a] |= 1ULL << colour;
    if (b) sys.taken[ends.b] |= 1ULL << colour;
  }
  return all;
}

}  // namespace

void colour_contacts(const WorldState& state, ContactSystem& sys, const std::vector<std::uint32_t>& members,
                     std::vector<std::uint32_t>& order) {
  const auto kind = [&](std::uint32_t i) { return kind_of(state.scratch.active_ends[i]); };
  // Of few contacts each block has a colour of its own: so they fill fewer blocks. Of many a colour has as many blocks
  // as it comes to, for threads to share.
  const bool few = members.size() < pairs_worth_sharing;
  if (few) put_in_order(members, kinds, kind, sys.first_of_kind, order);
  sys.colour_of.resize(state.scratch.active.size());
  for (const std::uint32_t i : members) sys.colour_of[i] = most_colours;
  sys.colour_count = 0;
  bool all = members.empty();
  for (std::uint32_t set = 0; !all && set < most_colours; set += colours_in_a_set)
    all = give_colours(state, sys, few ? order : members, set, few ? lanes : members.size());
  sys.without_colour = 0;
  if (!all) {
    sys.colour_count = most_colours + 1;
    for (const std::uint32_t i : members) sys.without_colour += sys.colour_of[i] == most_colours ? 1 : 0;
  }
  put_in_order(
      members, sys.colour_count * kinds, [&](std::uint32_t i) { return sys.colour_of[i] * kinds + kind(i); },
      sys.first_of_kind, order);
}

}  // namespace bronvel
