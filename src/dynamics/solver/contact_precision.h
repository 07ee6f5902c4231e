// Which contacts are solved in double and which in float, and in which order. Only the contact solver includes this.
#pragma once

#include "dynamics/solver/contact_system.h"

namespace bronvel {

/// Colours are given in sets of as many as a word has bits; what touches more others than all of them has pairs left
/// over.
inline constexpr std::uint32_t colours_in_a_set = 64, most_colours = 4 * colours_in_a_set;

/// Parts the active contacts: few are solved in double; of many those of islands that are no large islands, the largest
/// first, as long as together they are few; the rest in float. Lists the members, bodies and points of both parts.
void part_contacts(WorldState& state, ContactSystem& sys);

/// Fewer pairs than this are not worth waking other threads for.
inline constexpr std::size_t pairs_worth_sharing = 400;

/// Gives each of the members a colour such that no two of one colour move the same body, and puts them into `order`: by
/// colour, then the calm ones last, then those with more points first, so that blocks are even. Where they are few, no
/// colour has more than a block takes. Pairs that find none of the colours free share one beyond them, each in a block
/// of its own.
void colour_contacts(const WorldState& state, ContactSystem& sys, const std::vector<std::uint32_t>& members,
                     std::vector<std::uint32_t>& order);

}  // namespace bronvel
