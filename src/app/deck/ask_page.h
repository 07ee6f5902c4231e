// The page Ask: what shall it do, what does a number make of that, and what matters?
#pragma once

#include <QWidget>

#include "app/session/wishes.h"

class QToolButton;

namespace bronvel {

class MatterBars;
class NumberField;
class SweepPlot;
class WishList;

class AskPage : public QWidget {
  Q_OBJECT

 public:
  explicit AskPage(Session& session, QWidget* parent = nullptr);

 private:
  QWidget* make_wishes();
  QWidget* make_sweep();
  QWidget* make_aside();
  void show_all();
  void choose_number();
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

  Session& session_;
  WishList* list_ = nullptr;
  SweepPlot* plot_ = nullptr;
  MatterBars* bars_ = nullptr;
  QToolButton *add_ = nullptr, *remove_ = nullptr, *aim_ = nullptr, *keep_ = nullptr, *number_ = nullptr;
  NumberField *from_ = nullptr, *to_ = nullptr;
  QWidget* beside_ = nullptr;
};

}  // namespace bronvel
