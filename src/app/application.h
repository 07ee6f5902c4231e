// The application object: the last boundary for what a slot throws.
#pragma once

#include <QApplication>
#include <functional>
#include <utility>

namespace bronvel {

/// An exception that leaves a slot becomes a message to the user; the bench goes on.
class Application : public QApplication {
 public:
  using QApplication::QApplication;

  /// Who is told; the newest bench. Standard error while there is none.
  void set_listener(std::function<void(const QString& message)> listener) { listener_ = std::move(listener); }
  /// How often something left a slot since this was last asked, want of memory apart.
  int take_unexpected() { return std::exchange(unexpected_, 0); }

  bool notify(QObject* receiver, QEvent* event) override;

 private:
  std::function<void(const QString&)> listener_;
  int unexpected_ = 0;
};

}  // namespace bronvel
