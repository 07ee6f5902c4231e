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
  void set_energy(bool on);      ///< whether the energy ledger is seen
  void set_difference(bool on);  ///< and what made the two takes differ

 signals:
  void switched();
  void resized();
  void energy_asked(bool on);
  void difference_asked(bool on);

 private:
  void renew();

  Session& session_;
  TakeMarks& marks_;
  bool energy_on_ = false, difference_on_ = false;
  QToolButton *way_ = nullptr, *shapes_ = nullptr, *ghost_ = nullptr, *contacts_ = nullptr, *forces_ = nullptr,
              *energy_ = nullptr, *difference_ = nullptr;
};

}  // namespace bronvel
