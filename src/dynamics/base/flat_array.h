// Arrays that may grow to many megabytes, on large pages of memory where the system has them.
#pragma once

#include <algorithm>
#include <cstddef>
#include <new>
#include <vector>

namespace bronvel {

/// Room for so many bytes; throws std::bad_alloc. From half a large page on, the system is asked for large ones: who
/// jumps about in many small ones waits for each to be looked up.
void* take_room(std::size_t bytes, std::align_val_t alignment);
void give_back(void* room, std::size_t bytes, std::align_val_t alignment);
/// The memory between these goes back to the system, whole pages of it; the addresses stay, and what is read there is
/// 0.
void empty_room(void* first, void* last);

/// Allocates so.
template <class T>
struct LargePages {
  using value_type = T;
  LargePages() = default;
  template <class U>
  LargePages(const LargePages<U>&) {}  // NOLINT(google-explicit-constructor): allocators turn into one another

  T* allocate(std::size_t count) {
    if (count > static_cast<std::size_t>(-1) / sizeof(T)) throw std::bad_array_new_length();
    return static_cast<T*>(take_room(count * sizeof(T), std::align_val_t{alignof(T)}));
  }
  void deallocate(T* first, std::size_t count) { give_back(first, count * sizeof(T), std::align_val_t{alignof(T)}); }
  template <class U>
  bool operator==(const LargePages<U>&) const {
    return true;
  }
};

template <class T>
using FlatArray = std::vector<T, LargePages<T>>;

/// Room for so many more, and for half as many again: what is not used yet takes addresses, but no memory.
template <class List>
void make_room(List& list, std::size_t more = 1) {
  if (list.size() + more > list.capacity()) list.reserve(list.size() + std::max(more, list.size() / 2 + 16));
}

/// Gives the memory of what it could hold besides back to the system; the room stays.
template <class T>
void empty_rest(FlatArray<T>& list) {
  empty_room(list.data() + list.size(), list.data() + list.capacity());
}

/// Resizes it, and makes room so.
template <class List>
void resize_with_room(List& list, std::size_t size) {
  if (size > list.size()) make_room(list, size - list.size());
  list.resize(size);
}

}  // namespace bronvel
