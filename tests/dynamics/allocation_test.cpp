// A settled tick takes no memory from the heap.
#include <atomic>
#include <catch2/catch.hpp>
#include <cstdlib>
#include <new>

#include "dynamics/world.h"

namespace {
std::atomic<long> allocations{0};
}

// The sanitizers bring their own.
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
void* operator new(std::size_t size) {
  ++allocations;
  if (void* memory = std::malloc(size == 0 ? 1 : size)) return memory;
  throw std::bad_alloc();
}
void* operator new(std::size_t size, std::align_val_t align) {
  ++allocations;
  const auto step = static_cast<std::size_t>(align);
  if (void* memory = std::aligned_alloc(step, (size + step - 1) / step * step)) return memory;
  throw std::bad_alloc();
}
void operator delete(void* memory) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept {
  std::free(memory);
}

using namespace bronvel;

TEST_CASE("a settled tick allocates nothing") {
  for (const int threads : {1, 2}) {
    World world({});
    world.set_threads(threads);
    world.create({.kind = MotionKind::fixed, .shape = Box{{20, 1, 20}}}, {{{0, -0.5, 0}}});
    for (int i = 0; i < 600; ++i)
      world.create({.shape = Box{{0.5, 0.5, 0.5}}, .may_sleep = false},
                   {{{0.6 * (i % 10) - 3, 0.25 + 0.5 * (i / 100), 0.6 * (i / 10 % 10) - 3}}});
    for (int i = 0; i < 180; ++i) world.step();
    const long before = allocations;
    for (int i = 0; i < 30; ++i) world.step();
    CHECK(allocations == before);
    CHECK(world.contacts().size() >= 600);
  }
}
#endif
