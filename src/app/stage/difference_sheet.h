// What made the take that is looked at go otherwise than the compared one, on the stage, in the order of cause.
#pragma once

#include <QFrame>
#include <QLabel>

#include "app/session/latest_job.h"
#include "app/session/session.h"
#include "lab/why/difference.h"

namespace bronvel {

class DifferenceSheet : public QFrame {
  Q_OBJECT

 public:
  explicit DifferenceSheet(Session& session, QWidget* parent = nullptr);
  void open(bool on);
  const std::optional<Difference>& difference() const { return difference_; }

 signals:
  void resized();
  void closed();

 private:
  void look();
  void show_lines();
  void go_to(const QString& link);

  Session& session_;
  bool wanted_ = false;
  std::shared_ptr<SharedTake> before_, now_;  // that it is of
  std::optional<Difference> difference_;
  QLabel *title_ = nullptr, *lines_ = nullptr;
  LatestJob job_;
};

}  // namespace bronvel
