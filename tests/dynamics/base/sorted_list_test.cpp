// Lists that are kept in order while things come to them.
#include "dynamics/base/sorted_list.h"

#include <rapidcheck/catch.h>

#include <catch2/catch.hpp>
#include <functional>
#include <iterator>

using namespace bronvel;

TEST_CASE("what is merged in comes where std::merge would put it") {
  rc::prop("any two lists in order", [](std::vector<int> list, std::vector<int> fresh) {
    std::sort(list.begin(), list.end());
    std::sort(fresh.begin(), fresh.end());
    std::vector<int> expected;
    std::merge(list.begin(), list.end(), fresh.begin(), fresh.end(), std::back_inserter(expected));
    merge_in(list, fresh, std::less<>());
    RC_ASSERT(list == expected);
  });
}

TEST_CASE("what is merged in is compared with few, wherever it belongs") {
  std::vector<int> list(100'000), fresh;
  for (std::size_t i = 0; i < list.size(); ++i) list[i] = static_cast<int>(2 * i);
  for (int i = 0; i < 100; ++i) fresh.push_back(1 + 2000 * i);
  std::size_t compared = 0;
  merge_in(list, fresh, [&](int x, int y) {
    ++compared;
    return x < y;
  });
  CHECK(list.size() == 100'100);
  CHECK(std::is_sorted(list.begin(), list.end()));
  CHECK(compared < 100 * 2 * 12);  // each is some 1,000 from the next: 10 doublings, and as many halvings
}
