// Asks takes again in the background: one question at a time, the newest one next.
#pragma once

#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "lab/ask/ask.h"

namespace bronvel {

class Asker : public QObject {
  Q_OBJECT

 public:
  explicit Asker(QObject* parent = nullptr);
  ~Asker() override;

  /// Plays this as soon as it can. What still waits is forgotten; what has run for longer than a moment is given up.
  void ask(Question question);
  /// Gives up what runs and waits. Of what was asked before, nothing is told any more, though it may be on its way.
  void cancel();
  bool busy() const;
  double share_done() const;  ///< of the running question, 0 to 1

 signals:
  /// There is a take to look at while it fills: after a moment, or when it is whole.
  void shown(std::shared_ptr<bronvel::SharedTake> take);
  void ended(std::shared_ptr<bronvel::SharedTake> take, double milliseconds);  ///< whole
  void failed(const QString& why);  ///< also when one of its scripts does not load

 private:
  void run();
  void answer(const Question& question, std::uint64_t round);
  /// Runs `tell` on the bench's thread, unless all was cancelled since.
  template <class Tell>
  void tell(std::uint64_t round, Tell tell);

  mutable std::mutex mutex_;
  std::condition_variable changed_;
  std::optional<Question> next_;
  bool busy_ = false, quit_ = false, cancelled_ = false;
  std::uint64_t round_ = 0;  // how often all was cancelled
  std::int64_t ticks_ = 0, done_ = 0;
  std::thread thread_;
};

}  // namespace bronvel
