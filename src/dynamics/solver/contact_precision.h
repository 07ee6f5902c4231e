// Which contacts are solved in double and which in float, and the colours that they are solved in. For the contact
// solver only.
#pragma once

#include "dynamics/solver/contact_system.h"

namespace bronvel {

/// Colours are given in sets of as many as a word has bits. A body with more neighbours than all colours has pairs left
/// over.
inline constexpr std::uint32_t colours_in_a_set = 64, most_colours = 4 * colours_in_a_set;

/// Divides the active contacts: all in double where they are few; otherwise those of small islands, the largest first,
/// as long as they are few together, and the rest in float. Lists members, bodies and points of both parts.
void part_contacts(WorldState& state, ContactSystem& sys);

/// Fewer pairs than this are not worth waking other threads for.
inline constexpr std::size_t pairs_worth_sharing = 400;

/// Gives each member a colour such that no two of one colour move the same body (greedy), and sorts them into `order`:
/// by colour, then those between resting bodies last, then by falling number of points. Where they are few, a colour
/// has at most one block. Pairs beyond the last colour share one, each in a block of its own.
void colour_contacts(const WorldState& state, ContactSystem& sys, const std::vector<std::uint32_t>& members,
                     std::vector<std::uint32_t>& order);

}  // namespace bronvel
