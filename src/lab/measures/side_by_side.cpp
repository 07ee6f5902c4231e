// Handing out the work.
#include "lab/measures/side_by_side.h"

#include <algorithm>
#include <atomic>
#include <thread>
#include <vector>

namespace bronvel {

void side_by_side(std::size_t count, int threads, const std::function<void(std::size_t)>& use) {
  std::atomic<std::size_t> next = 0;
  const auto work = [&] {
    for (std::size_t i = next++; i < count; i = next++) use(i);
  };
  std::vector<std::jthread> others;
  const std::size_t wanted = std::min<std::size_t>(static_cast<std::size_t>(std::max(threads, 1)), count);
  for (std::size_t k = 1; k < wanted; ++k) others.emplace_back(work);
  work();
}

}  // namespace bronvel
