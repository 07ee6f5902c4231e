// Asking in the background.
#include "app/session/asker.h"

#include <sys/resource.h>
#include <unistd.h>

#include <chrono>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

// After this long (s) a take is shown while it fills, and given up when there is a newer question.
constexpr double moment = 0.1;

// The window comes first: where cores are few, what is asked waits for it, not the other way round.
void step_back() {
  constexpr int behind = 10;
  setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), behind);
}

}  // namespace

Asker::Asker(QObject* parent) : QObject(parent), thread_([this] { run(); }) {}

Asker::~Asker() {
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    quit_ = cancelled_ = true;
    next_.reset();
  }
  changed_.notify_all();
  thread_.join();
}

void Asker::ask(Question question) {
  {
    const std::lock_guard<std::mutex> lock(mutex_);
    next_ = std::move(question);
  }
  changed_.notify_all();
}

void Asker::cancel() {
  const std::lock_guard<std::mutex> lock(mutex_);
  next_.reset();
  cancelled_ = true;
  ++round_;
}

template <class Tell>
void Asker::tell(std::uint64_t round, Tell tell) {
  QMetaObject::invokeMethod(
      this,
      [this, round, tell = std::move(tell)] {
        {
          const std::lock_guard<std::mutex> lock(mutex_);
          if (round != round_) return;
        }
        tell();
      },
      Qt::QueuedConnection);
}

bool Asker::busy() const {
  const std::lock_guard<std::mutex> lock(mutex_);
  return busy_ || next_;
}

double Asker::share_done() const {
  const std::lock_guard<std::mutex> lock(mutex_);
  return ticks_ > 0 ? static_cast<double>(done_) / static_cast<double>(ticks_) : 1;
}

void Asker::run() {
  step_back();
  std::unique_lock<std::mutex> lock(mutex_);
  while (true) {
    changed_.wait(lock, [this] { return quit_ || next_; });
    if (quit_) return;
    const Question question = std::move(*next_);
    next_.reset();
    busy_ = true;
    cancelled_ = false;
    done_ = 0;
    ticks_ = question.ticks;
    const std::uint64_t round = round_;
    lock.unlock();
    answer(question, round);
    lock.lock();
    busy_ = false;
  }
}

void Asker::answer(const Question& question, std::uint64_t round) {
  const auto start = std::chrono::steady_clock::now();
  const auto gone_by = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
  std::shared_ptr<SharedTake> take;
  bool told = false, whole = true;
  try {
    take = bronvel::ask(
        question,
        [&](const std::shared_ptr<SharedTake>& begun, const Play& play) {
          take = begun;
          if (!play.load_faults().empty())
            throw Error("", play.load_faults().front().placed() + ": the script does not load");
        },
        [&](Play&) {
          const bool long_since = gone_by() > moment;
          {
            const std::lock_guard<std::mutex> lock(mutex_);
            ++done_;
            if (cancelled_ || (next_ && long_since)) return whole = false;
          }
          if (long_since && !told) {
            told = true;
            this->tell(round, [this, take] { emit shown(take); });
          }
          return true;
        });
  } catch (const std::exception& e) {
    const QString why = e.what();
    this->tell(round, [this, why] { emit failed(why); });
    return;
  }
  if (!whole) return;
  const double milliseconds = 1000 * gone_by();
  this->tell(round, [this, take, told, milliseconds] {
    if (!told) emit shown(take);
    emit ended(take, milliseconds);
  });
}

}  // namespace bronvel
