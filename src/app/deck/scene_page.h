// The page of the scene itself: gravity and rates, its cues, its stamps, and the things that are not bodies.
#pragma once

#include <QWidget>

#include "app/session/session.h"

class QCheckBox;
class QGridLayout;
class QLineEdit;
class QTreeWidget;

namespace bronvel {

class NumberField;

class ScenePage : public QWidget {
  Q_OBJECT

 public:
  explicit ScenePage(Session& session, QWidget* parent = nullptr);

 private:
  struct Setting;
  void add_setting(QGridLayout* grid, int row, int column, const Setting& setting);
  void take_over();
  void set_cue(int cue, int column, const QString& text);
  void attempt(const QString& name, const std::function<void(Scene&)>& change);

  Session& session_;
  std::vector<std::pair<NumberField*, std::function<double(const Scene&)>>> fields_;
  QLineEdit* about_ = nullptr;
  QTreeWidget *cues_ = nullptr, *stamps_ = nullptr, *things_ = nullptr;
  QCheckBox *planar_ = nullptr, *falls_ = nullptr, *back_ = nullptr;
  bool filling_ = false;
};

}  // namespace bronvel
