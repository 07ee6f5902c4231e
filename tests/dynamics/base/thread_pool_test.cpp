// Sharing work out: each thing once, however many threads there are, and no one goes on before all have come.
#include "dynamics/base/thread_pool.h"

#include <atomic>
#include <catch2/catch.hpp>
#include <numeric>
#include <vector>

using namespace bronvel;

TEST_CASE("shares lie side by side and hold everything once") {
  for (const int workers : {1, 2, 3, 5, 8}) {
    ThreadPool pool(workers);
    CHECK(pool.workers() == workers);
    for (const std::size_t count :
         {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{7}, std::size_t{1000}}) {
      std::vector<ThreadPool::Share> shares(static_cast<std::size_t>(workers));
      pool.run([&](int worker) { shares[static_cast<std::size_t>(worker)] = pool.share(count, worker); });
      std::size_t next = 0, most = 0, least = count + 1;
      for (const ThreadPool::Share& share : shares) {
        CHECK(share.first == next);
        next = share.last;
        most = std::max(most, share.last - share.first);
        least = std::min(least, share.last - share.first);
      }
      CHECK(next == count);
      CHECK(most - least <= 1);
    }
  }
}

TEST_CASE("each thing is gone through once: in shares, dealt out, alone or together") {
  for (const int workers : {1, 2, 4}) {
    ThreadPool pool(workers);
    for (const std::size_t count :
         {std::size_t{0}, std::size_t{3}, std::size_t{31}, std::size_t{32}, std::size_t{4000}}) {
      std::vector<std::atomic<int>> seen(count);
      pool.each(count, 0, [&](std::size_t i) { ++seen[i]; });
      pool.each(count, 1'000'000, [&](std::size_t i) { ++seen[i]; });
      pool.run([&](int) { pool.deal(count, [&](std::size_t i) { ++seen[i]; }); });
      pool.run_alone([&](int worker) {
        CHECK(worker == 0);
        pool.deal(count, [&](std::size_t i) { ++seen[i]; });
      });
      for (const std::atomic<int>& times : seen) CHECK(times == 4);
    }
  }
}

TEST_CASE("at a meeting all see what all wrote before it") {
  for (const int workers : {2, 3}) {
    ThreadPool pool(workers);
    constexpr std::size_t turns = 400;
    std::vector<long> parts(static_cast<std::size_t>(workers));
    std::atomic<int> wrong{0};
    for (int round = 0; round < 5; ++round) {
      std::fill(parts.begin(), parts.end(), 0L);
      pool.run([&](int worker) {
        for (std::size_t turn = 0; turn < turns; ++turn) {
          parts[static_cast<std::size_t>(worker)] += worker + 1;
          pool.wait();
          const long sum = std::accumulate(parts.begin(), parts.end(), 0L);
          const long all = workers * (workers + 1) / 2;
          if (sum != static_cast<long>(turn + 1) * all) ++wrong;
          pool.wait();
        }
      });
    }
    CHECK(wrong == 0);
  }
}

TEST_CASE("a thread pool is made and let go at any time") {
  for (int i = 0; i < 50; ++i) {
    ThreadPool pool(1 + i % 4);
    if (i % 3 == 0) continue;
    std::atomic<int> came{0};
    pool.run([&](int) { ++came; });
    CHECK(came == pool.workers());
  }
}
