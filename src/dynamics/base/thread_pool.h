// A few threads that work on the same job side by side, and wait for each other at its turns.
#pragma once

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <thread>
#include <vector>

namespace bronvel {

/// The caller is worker 0; the others sleep between jobs. How many there are never changes what a job computes, so
/// long as it shares or deals its work out and meets at `wait` where one part reads what another wrote.
class ThreadPool {
 public:
  explicit ThreadPool(int workers);
  ~ThreadPool();
  ThreadPool(const ThreadPool&) = delete;
  ThreadPool& operator=(const ThreadPool&) = delete;

  int workers() const { return workers_; }

  /// Runs job(worker) on all workers; returns when all are done. The job must not throw.
  template <class Job>
  void run(const Job& job) {
    start([](const void* each, int worker) { (*static_cast<const Job*>(each))(worker); }, &job);
  }

  /// Inside a job: goes on when all workers of the job have come here.
  void wait();

  /// The part of `count` things that falls to a worker: from first to last, last left out.
  struct Share {
    std::size_t first, last;
  };
  Share share(std::size_t count, int worker) const {
    const auto all = static_cast<std::size_t>(active_), mine = static_cast<std::size_t>(worker);
    return {count * mine / all, count * (mine + 1) / all};
  }

  /// Inside a job, once: calls f(i) for some of `count` things that are worth very different amounts. Who is free takes
  /// the next, some in a row so that workers do not write side by side: which worker has which is not the same each
  /// time.
  template <class F>
  void deal(std::size_t count, const F& f) {
    constexpr std::size_t in_a_row = 32;
    for (std::size_t first = dealt_.fetch_add(in_a_row); first < count; first = dealt_.fetch_add(in_a_row))
      for (std::size_t i = first; i < count && i < first + in_a_row; ++i) f(i);
  }

  /// Runs the job on the caller alone: better where there is little to do.
  template <class Job>
  void run_alone(const Job& job) {
    active_ = 1;
    dealt_ = 0;
    job(0);
  }

  /// On all workers if there are at least `worth` of what the job goes through, else on the caller alone.
  template <class Job>
  void run_if_worth(std::size_t count, std::size_t worth, const Job& job) {
    if (count < worth)
      run_alone(job);
    else
      run(job);
  }

  /// Calls f(i) for every i below `count`, shared out if there are at least `worth` of them. f must not throw.
  template <class F>
  void each(std::size_t count, std::size_t worth, const F& f) {
    run_if_worth(count, worth, [&](int worker) {
      const Share mine = share(count, worker);
      for (std::size_t i = mine.first; i < mine.last; ++i) f(i);
    });
  }

 private:
  using Trampoline = void (*)(const void* job, int worker);  // A plain pointer: nothing is allocated for a job.

  void start(Trampoline call, const void* job);
  void serve(int worker);

  int workers_ = 1;
  int active_ = 1;  // of the job at hand
  Trampoline call_ = nullptr;
  const void* job_ = nullptr;
  std::atomic<std::uint32_t> round_{0};  // counts jobs
  std::atomic<std::size_t> dealt_{0};    // how much of the job at hand
  std::atomic<int> busy_{0};
  std::atomic<int> waiting_{0};
  std::atomic<std::uint32_t> turn_{0};  // counts meetings
  std::atomic<bool> stop_{false};
  std::vector<std::thread> threads_;
};

}  // namespace bronvel
