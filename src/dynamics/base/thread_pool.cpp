// Starting, meeting and stopping a thread_pool.
#include "dynamics/base/thread_pool.h"

namespace bronvel {
namespace {

// Between two parts of a job there are microseconds: look again for that long before letting others have the core.
constexpr int looks = 4000;

// Tells the processor that this is a loop that waits.
void relax() {
#if defined(__x86_64__) || defined(__i386__)
  __builtin_ia32_pause();
#endif
}

template <class Done>
void look_until(const Done& done) {
  for (int i = 0; !done(); ++i) {
    relax();
    if (i > looks) std::this_thread::yield();
  }
}

}  // namespace

ThreadPool::ThreadPool(int workers) : workers_(workers) {
  threads_.reserve(static_cast<std::size_t>(workers - 1));
  for (int worker = 1; worker < workers; ++worker) threads_.emplace_back([this, worker] { serve(worker); });
}

ThreadPool::~ThreadPool() {
  stop_ = true;
  ++round_;
  round_.notify_all();
  for (std::thread& thread : threads_) thread.join();
}

void ThreadPool::serve(int worker) {
  std::uint32_t seen = 0;
  while (true) {
    // The next job often comes at once; falling asleep and being woken takes longer than most jobs.
    for (int i = 0; i < looks && round_.load() == seen; ++i) relax();
    round_.wait(seen);
    seen = round_.load();
    if (stop_) return;
    call_(job_, worker);
    --busy_;
  }
}

void ThreadPool::start(Trampoline call, const void* job) {
  dealt_ = 0;
  if (workers_ == 1) {
    active_ = 1;
    call(job, 0);
    return;
  }
  call_ = call;
  job_ = job;
  active_ = workers_;
  busy_ = workers_ - 1;
  ++round_;
  round_.notify_all();
  call(job, 0);
  look_until([this] { return busy_.load() == 0; });
}

void ThreadPool::wait() {
  if (active_ == 1) return;
  const std::uint32_t turn = turn_.load();
  if (++waiting_ == active_) {
    waiting_ = 0;
    ++turn_;
    return;
  }
  look_until([this, turn] { return turn_.load() != turn; });
}

}  // namespace bronvel
