// Which of many things hang together: sets that are joined two by two.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <numeric>
#include <vector>

namespace bronvel {

/// Each of so many things is a set of its own.
inline void make_sets(std::vector<std::uint32_t>& parent, std::size_t count) {
  parent.resize(count);
  std::iota(parent.begin(), parent.end(), 0U);
}

/// The lowest of the things in i's set. Shortens the way there by halves (van Leeuwen and van der Weide, 1977).
inline std::uint32_t find_set(std::vector<std::uint32_t>& parent, std::uint32_t i) {
  while (parent[i] != i) i = parent[i] = parent[parent[i]];
  return i;
}

inline void join_sets(std::vector<std::uint32_t>& parent, std::uint32_t i, std::uint32_t j) {
  const std::uint32_t a = find_set(parent, i), b = find_set(parent, j);
  parent[std::max(a, b)] = std::min(a, b);
}

}  // namespace bronvel
