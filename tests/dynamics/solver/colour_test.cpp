// Colours of contacts: none of one colour shares a body that moves, and few contacts fill few blocks.
#include <rapidcheck.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <numeric>
#include <set>

#include "dynamics/solver/contact_precision.h"
#include "geometry/base/random.h"

using namespace bronvel;

namespace {

struct Coloured {
  WorldState state;
  ContactSystem system;
  std::vector<std::uint32_t> members, order;
};

// Contacts of bodies some of which do not move.
Coloured coloured(Random& random, std::size_t bodies, std::size_t contacts) {
  Coloured all;
  all.state.records.resize(bodies);
  const auto any_body = [&] {
    return static_cast<std::uint32_t>(random.between(0, static_cast<double>(bodies) - 1e-9));
  };
  std::vector<char> moves(bodies);
  for (char& body : moves) body = random.share() < 0.9 ? 1 : 0;
  while (all.state.scratch.active_ends.size() < contacts) {
    ActiveEnds ends{.a = any_body(), .b = any_body()};
    ends.moves_a = moves[ends.a] != 0;
    ends.moves_b = moves[ends.b] != 0;
    if (ends.a == ends.b || (!ends.moves_a && !ends.moves_b)) continue;
    ends.points = static_cast<std::uint8_t>(random.between(1, 5));
    ends.calm = random.share() < 0.3;
    all.state.scratch.active_ends.push_back(ends);
  }
  all.state.scratch.active.resize(contacts);
  all.members.resize(contacts);
  std::iota(all.members.begin(), all.members.end(), 0U);
  colour_contacts(all.state, all.system, all.members, all.order);
  return all;
}

}  // namespace

TEST_CASE("contacts of one colour share no body that moves; of few, none has more than a block takes", "[random]") {
  CHECK(rc::check("colours", [] {
    Random random(*rc::gen::arbitrary<std::uint64_t>());
    const auto contacts = static_cast<std::size_t>(*rc::gen::inRange(1, 900));
    const Coloured all = coloured(random, static_cast<std::size_t>(*rc::gen::inRange(3, 400)), contacts);
    std::vector<std::uint32_t> sorted = all.order;
    std::sort(sorted.begin(), sorted.end());
    RC_ASSERT(sorted == all.members);
    std::set<std::pair<std::uint32_t, std::uint32_t>> moved;  // colour and body
    std::vector<std::size_t> of_colour(most_colours);
    for (const std::uint32_t i : all.order) {
      const std::uint32_t colour = all.system.colour_of[i];
      if (colour == most_colours) continue;  // in a block of its own
      const ActiveEnds& ends = all.state.scratch.active_ends[i];
      if (ends.moves_a) RC_ASSERT(moved.emplace(colour, ends.a).second);
      if (ends.moves_b) RC_ASSERT(moved.emplace(colour, ends.b).second);
      ++of_colour[colour];
    }
    if (contacts < pairs_worth_sharing) RC_ASSERT(*std::max_element(of_colour.begin(), of_colour.end()) <= lanes);
    // Side by side in the order.
    RC_ASSERT(std::is_sorted(all.order.begin(), all.order.end(), [&](std::uint32_t x, std::uint32_t y) {
      return all.system.colour_of[x] < all.system.colour_of[y];
    }));
  }));
}

TEST_CASE("120 contacts of 60 bodies fill hardly more blocks than they must") {
  for (std::uint64_t seed = 1; seed <= 20; ++seed) {
    Random random(seed);
    const Coloured all = coloured(random, 60, 120);
    INFO("seed " << seed << ": " << all.system.colour_count);
    CHECK(all.system.colour_count >= 15);
    CHECK(all.system.colour_count <= 19);
  }
}
