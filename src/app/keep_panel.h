// At stop: what was changed in play, to keep or to drop.
#pragma once

#include <QCheckBox>
#include <QFrame>

#include "app/session/session.h"

class QVBoxLayout;

namespace bronvel {

/// A sheet on the stage; nothing waits for it. It goes when all is kept or dropped, or when play starts again.
class KeepPanel : public QFrame {
  Q_OBJECT

 public:
  explicit KeepPanel(Session& session, QWidget* parent = nullptr);

 private:
  void rebuild();

  Session& session_;
  QWidget* inside_ = nullptr;
  std::vector<QCheckBox*> boxes_;
};

}  // namespace bronvel
