// The thread of a LatestJob.
#include "app/session/latest_job.h"

#include <sys/resource.h>
#include <unistd.h>

#include <utility>

namespace bronvel {

LatestJob::LatestJob() : thread_([this] { run(); }) {}

LatestJob::~LatestJob() {
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    quit_ = true;
    wanted_ = false;
    next_ = nullptr;
  }
  changed_.notify_all();
  thread_.join();
}

void LatestJob::start(Job job) {
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    next_ = std::move(job);
    wanted_ = false;
  }
  changed_.notify_all();
}

void LatestJob::cancel() {
  const std::lock_guard<std::mutex> lock(mutex_);
  next_ = nullptr;
  wanted_ = false;
}

bool LatestJob::busy() const {
  const std::lock_guard<std::mutex> lock(mutex_);
  return busy_ || next_;
}

void LatestJob::run() {
  // Whatever else the program does comes first.
  constexpr int behind = 12;
  setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), behind);
  std::unique_lock<std::mutex> lock(mutex_);
  while (true) {
    changed_.wait(lock, [this] { return quit_ || next_; });
    if (quit_) return;
    const Job job = std::exchange(next_, nullptr);
    busy_ = wanted_ = true;
    lock.unlock();
    job([this] {
      const std::lock_guard<std::mutex> look(mutex_);
      return wanted_;
    });
    lock.lock();
    busy_ = false;
  }
}

}  // namespace bronvel
