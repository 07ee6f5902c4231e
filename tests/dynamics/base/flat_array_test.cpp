// Arrays on large pages hold what any array holds, whatever their size.
#include "dynamics/base/flat_array.h"

#include <sys/mman.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <cstdint>

using namespace bronvel;

namespace {

constexpr std::size_t page = std::size_t{1} << 21U;

struct alignas(64) Line {
  std::uint64_t number = 0;
};

}  // namespace

TEST_CASE("what an array holds stays as it grows over pages, and is copied whole") {
  FlatArray<Line> lines;
  const std::size_t count = 3 * page / sizeof(Line) + 5;
  bool aligned = true;
  for (std::size_t i = 0; i < count; ++i) {
    make_room(lines);
    lines.push_back({i});
    aligned = aligned && reinterpret_cast<std::uintptr_t>(lines.data()) % alignof(Line) == 0;
  }
  CHECK(aligned);
  const FlatArray<Line> copy = lines;
  bool same = true;
  for (std::size_t i = 0; i < count; ++i) same = same && lines[i].number == i && copy[i].number == i;
  CHECK(same);
  CHECK(lines.capacity() < count + count / 8 + 17);
}

TEST_CASE("arrays just short of a page, of one and of half a one more can be written to their ends") {
  const std::size_t bytes = GENERATE(std::size_t{1}, page / 2 - 1, page / 2, page - 1, page, page + page / 2 - 1,
                                     page + page / 2, 2 * page + 1);
  FlatArray<char> all(bytes, 'a');
  all.back() = 'b';
  CHECK(std::count(all.begin(), all.end(), 'a') == static_cast<std::ptrdiff_t>(bytes) - 1);
  all.shrink_to_fit();
  CHECK(all.back() == 'b');
}

TEST_CASE("what lies behind an array's end can be given back, and what it holds stays") {
  const std::size_t kept = GENERATE(std::size_t{0}, std::size_t{1}, std::size_t{5000}, page / sizeof(Line) + 1);
  const std::size_t most = 4 * page / sizeof(Line);
  FlatArray<Line> lines;
  for (std::size_t i = 0; i < most; ++i) lines.push_back({i + 1});
  const std::size_t room = lines.capacity();
  lines.resize(kept);
  empty_rest(lines);
  CHECK(lines.capacity() == room);
  bool same = true;
  for (std::size_t i = 0; i < kept; ++i) same = same && lines[i].number == i + 1;
  CHECK(same);
  // The last page behind it is not the system's any more.
  std::vector<unsigned char> in_memory(1, 1);
  auto* last = reinterpret_cast<char*>(lines.data()) + (most * sizeof(Line) / page - 1) * page;
  last -= reinterpret_cast<std::uintptr_t>(last) % page;
  REQUIRE(mincore(last, 4096, in_memory.data()) == 0);
  CHECK((in_memory[0] & 1U) == 0);
  lines.resize(most);
  CHECK(lines[most - 1].number == 0);
}

TEST_CASE("more than there can be is refused") {
  FlatArray<Line> lines;
  CHECK_THROWS_AS(lines.reserve(lines.max_size() + 1), std::length_error);
  CHECK_THROWS_AS(LargePages<Line>().allocate(static_cast<std::size_t>(-1) / 2), std::bad_array_new_length);
}
