// Sharing work out: each thing once, however many threads there are, and no one goes on before all have come.
#include "dynamics/team.h"

#include <atomic>
#include <catch2/catch.hpp>
#include <numeric>
#include <vector>

using namespace bronvel;

TEST_CASE("shares lie side by side and hold everything once") {
  for (const int workers : {1, 2, 3, 5, 8}) {
    Team team(workers);
    CHECK(team.workers() == workers);
    for (const std::size_t count :
         {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{7}, std::size_t{1000}}) {
      std::vector<Team::Share> shares(static_cast<std::size_t>(workers));
      team.run([&](int worker) { shares[static_cast<std::size_t>(worker)] = team.share(count, worker); });
      std::size_t next = 0, most = 0, least = count + 1;
      for (const Team::Share& share : shares) {
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
    Team team(workers);
    for (const std::size_t count :
         {std::size_t{0}, std::size_t{3}, std::size_t{31}, std::size_t{32}, std::size_t{4000}}) {
      std::vector<std::atomic<int>> seen(count);
      team.each(count, 0, [&](std::size_t i) { ++seen[i]; });
      team.each(count, 1'000'000, [&](std::size_t i) { ++seen[i]; });
      team.run([&](int) { team.deal(count, [&](std::size_t i) { ++seen[i]; }); });
      team.run_alone([&](int worker) {
        CHECK(worker == 0);
        team.deal(count, [&](std::size_t i) { ++seen[i]; });
      });
      for (const std::atomic<int>& times : seen) CHECK(times == 4);
    }
  }
}

TEST_CASE("at a meeting all see what all wrote before it") {
  for (const int workers : {2, 3}) {
    Team team(workers);
    constexpr std::size_t turns = 400;
    std::vector<long> parts(static_cast<std::size_t>(workers));
    std::atomic<int> wrong{0};
    for (int round = 0; round < 5; ++round) {
      std::fill(parts.begin(), parts.end(), 0L);
      team.run([&](int worker) {
        for (std::size_t turn = 0; turn < turns; ++turn) {
          parts[static_cast<std::size_t>(worker)] += worker + 1;
          team.wait();
          const long sum = std::accumulate(parts.begin(), parts.end(), 0L);
          const long all = workers * (workers + 1) / 2;
          if (sum != static_cast<long>(turn + 1) * all) ++wrong;
          team.wait();
        }
      });
    }
    CHECK(wrong == 0);
  }
}

TEST_CASE("a team is made and let go at any time") {
  for (int i = 0; i < 50; ++i) {
    Team team(1 + i % 4);
    if (i % 3 == 0) continue;
    std::atomic<int> came{0};
    team.run([&](int) { ++came; });
    CHECK(came == team.workers());
  }
}
