// The page of all bodies: one row each, many cells edited at once.
#pragma once

#include <QWidget>

#include "app/session/session.h"

class QLabel;
class QLineEdit;
class QSortFilterProxyModel;
class QTableView;

namespace bronvel {

class BodiesModel;

class BodiesPage : public QWidget {
  Q_OBJECT

 public:
  explicit BodiesPage(Session& session, QWidget* parent = nullptr);

 private:
  void take_over();    // what the document says
  void show_chosen();  // the stage's choice
  void choose_rows();  // ours
  void apply();        // what was typed for all chosen
  void show_target();

  Session& session_;
  BodiesModel* model_ = nullptr;
  QSortFilterProxyModel* sifted_ = nullptr;
  QTableView* table_ = nullptr;
  QLineEdit *filter_ = nullptr, *many_ = nullptr;
  QLabel *target_ = nullptr, *count_ = nullptr;
  bool following_ = false;
};

}  // namespace bronvel
