// One job at a time on a thread of its own; of those that wait, the newest alone.
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <thread>

namespace bronvel {

class LatestJob {
 public:
  /// Asked now and then by a job: false once it is no longer wanted.
  using Wanted = std::function<bool()>;
  using Job = std::function<void(const Wanted&)>;

  LatestJob();
  ~LatestJob();  ///< waits for the end of what runs
  LatestJob(const LatestJob&) = delete;
  LatestJob& operator=(const LatestJob&) = delete;

  /// Runs it next; what runs and waits is no longer wanted. It must not throw.
  void start(Job job);
  void cancel();
  bool busy() const;

 private:
  void run();

  mutable std::mutex mutex_;
  std::condition_variable changed_;
  Job next_;
  bool busy_ = false, quit_ = false, wanted_ = false;
  std::thread thread_;
};

}  // namespace bronvel
