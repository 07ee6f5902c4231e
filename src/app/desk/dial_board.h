// The dials of the chosen body, under its script: a scale for a number, a box for yes or no, a list for what is named.
#pragma once

#include <QFrame>

#include "app/session/session.h"

class QCheckBox;
class QGridLayout;
class QLabel;
class QScrollArea;
class QToolButton;

namespace bronvel {

class DialScale;
class NumberField;

class DialBoard : public QFrame {
  Q_OBJECT

 public:
  explicit DialBoard(Session& session, QWidget* parent = nullptr);
  void rebuild();
  void show_values();

 private:
  // What shows one dial: of these parts those that its kind has.
  struct Row {
    Dial dial;
    QWidget* title = nullptr;
    DialScale* scale = nullptr;
    NumberField* number = nullptr;
    QCheckBox* box = nullptr;
    QToolButton* list = nullptr;
  };
  void add_number(Row& row, const QString& name, const QString& tip, QGridLayout* grid, int at);
  void add_flag(Row& row, const QString& name, QGridLayout* grid, int at);
  void add_list(Row& row, const QString& name, QGridLayout* grid, int at);
  void fill_list(const Row& row);
  void show_value(const Row& row, const DialValue& value);
  void set(const Dial& dial, const DialValue& value);

  Session& session_;
  std::string body_;
  QLabel* of_ = nullptr;
  QScrollArea* area_ = nullptr;
  QWidget* inside_ = nullptr;
  std::vector<Row> rows_;  // as the session lists them
};

}  // namespace bronvel
