// Switches for what of takes is drawn on the stage.
#pragma once

#include <QFrame>

#include "app/session/session.h"
#include "app/stage/take_marks.h"

class QToolButton;

namespace bronvel {

/// Seen while a play runs, another moment than now is looked at, or a take that was asked again.
class TakeChips : public QFrame {
  Q_OBJECT

 public:
  TakeChips(Session& session, TakeMarks& marks, QWidget* parent);

 signals:
  void switched();
  void resized();

 private:
  void renew();

  Session& session_;
  TakeMarks& marks_;
  QToolButton *way_ = nullptr, *shapes_ = nullptr, *ghost_ = nullptr, *contacts_ = nullptr, *forces_ = nullptr;
};

}  // namespace bronvel
