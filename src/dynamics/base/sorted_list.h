// Keeping a long list in order while a few things come to it.
#pragma once

#include <algorithm>
#include <cstddef>

#include "dynamics/base/flat_array.h"

namespace bronvel {

/// Puts `fresh` where it belongs in `list`, both in the order that `less` says. From the back, so that nothing is moved
/// twice, and looking near the last place first: what is compared may lie anywhere in memory.
template <class List, class Fresh, class Less>
void merge_in(List& list, const Fresh& fresh, const Less& less) {
  std::size_t from = list.size();
  resize_with_room(list, from + fresh.size());
  const auto at = [&](std::size_t i) { return list.begin() + static_cast<std::ptrdiff_t>(i); };
  for (std::size_t left = fresh.size(); left-- > 0;) {
    std::size_t step = 1;
    while (step < from && less(fresh[left], list[from - step])) step *= 2;
    const auto after = std::upper_bound(at(from - std::min(step, from)), at(from), fresh[left], less);
    // So many of `fresh` are still to come before what stands here.
    std::move_backward(after, at(from), at(from + left + 1));
    from = static_cast<std::size_t>(after - list.begin());
    list[from + left] = fresh[left];
  }
}

}  // namespace bronvel
