// Large pages.
#include "dynamics/base/flat_array.h"

#include <sys/mman.h>
#include <unistd.h>

#include <memory>

namespace bronvel {
namespace {

constexpr std::size_t page = std::size_t{1} << 21U;  // bytes, on x86-64; elsewhere it only aligns

// How much of so many bytes, or a little more, is to lie on large pages: a last one is asked for where half of it is
// used.
std::size_t on_large_pages(std::size_t bytes) {
  return (bytes + page / 2) / page * page;
}

std::align_val_t alignment_of(std::size_t bytes, std::align_val_t least) {
  return on_large_pages(bytes) == 0 ? least : std::max(least, std::align_val_t{page});
}

}  // namespace

void* take_room(std::size_t bytes, std::align_val_t alignment) {
  const std::size_t large = on_large_pages(bytes);
  void* room = ::operator new(std::max(bytes, large), alignment_of(bytes, alignment));
  // Asked for, not needed: where there are none it goes on with small ones.
  if (large > 0) static_cast<void>(madvise(room, large, MADV_HUGEPAGE));
  return room;
}

void give_back(void* room, std::size_t bytes, std::align_val_t alignment) {
  ::operator delete(room, alignment_of(bytes, alignment));
}

void empty_room(void* first, void* last) {
  const auto small_page = static_cast<std::size_t>(sysconf(_SC_PAGESIZE));
  auto room = static_cast<std::size_t>(static_cast<char*>(last) - static_cast<char*>(first));
  if (std::align(small_page, small_page, first, room) == nullptr) return;
  static_cast<void>(madvise(first, room / small_page * small_page, MADV_DONTNEED));
}

}  // namespace bronvel
