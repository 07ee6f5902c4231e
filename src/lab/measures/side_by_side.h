// Work that is done by several threads at once.
#pragma once

#include <cstddef>
#include <functional>

namespace bronvel {

/// Calls `use` for each of 0 to before `count`, on so many threads (the caller's among them), begun in order. `use`
/// must not throw.
void side_by_side(std::size_t count, int threads, const std::function<void(std::size_t)>& use);

}  // namespace bronvel
