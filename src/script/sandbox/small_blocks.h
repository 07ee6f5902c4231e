// Small blocks of memory for Lua, by size, from slabs: quick to take and to give back, and never a long pause.
//
// The C library's own allocator now and then joins up all the small blocks that were freed, which can take tens of
// milliseconds after a tick that made many vectors.
#pragma once

#include <array>
#include <cstddef>
#include <memory>
#include <new>
#include <vector>

namespace bronvel {

class SmallBlocks {
 public:
  static constexpr std::size_t largest = 256;  ///< bytes

  /// A block of at least `size` bytes, 1 to `largest`, aligned for anything; null when memory is out.
  void* take(std::size_t size) {
    const std::size_t at = place(size);
    if (!free_[at]) grow(at);
    Block* block = free_[at];
    if (block) free_[at] = block->next;
    return block;
  }

  /// Takes back a block that was taken with this size.
  void give(void* memory, std::size_t size) {
    auto* block = static_cast<Block*>(memory);
    Block*& first = free_[place(size)];
    block->next = first;
    first = block;
  }

 private:
  struct Block {
    Block* next;
  };
  static constexpr std::size_t grain = 16;  // bytes
  static constexpr std::size_t slab_size = std::size_t{64} << 10;

  static std::size_t place(std::size_t size) { return (size - 1) / grain; }

  void grow(std::size_t at) {
    std::unique_ptr<std::byte[]> slab(new (std::nothrow) std::byte[slab_size]);
    if (!slab) return;
    const std::size_t size = (at + 1) * grain;
    // The first in memory is the first to be taken.
    for (std::size_t from = slab_size / size; from-- > 0;) give(slab.get() + from * size, size);
    slabs_.push_back(std::move(slab));
  }

  std::array<Block*, largest / grain> free_{};
  std::vector<std::unique_ptr<std::byte[]>> slabs_;
};

}  // namespace bronvel
