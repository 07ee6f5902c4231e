// The row of words on the stage while nothing plays: tying, zones, paths, arranging, snapping, views, measuring.
#pragma once

#include <QFrame>

#include "app/session/session.h"
#include "app/stage/stage.h"

class QMenu;
class QToolButton;

namespace bronvel {

class ArrangeSheet;

class BuildBar : public QFrame {
  Q_OBJECT

 public:
  BuildBar(Session& session, Stage* stage, ArrangeSheet* arrange, QWidget* parent = nullptr);
  QMenu* arrange_menu() { return arrange_menu_; }
  /// Asks for the places of a joint of that kind and makes it.
  void start_joint(JointKind kind);
  void start_path();
  void start_measure();
  void start_cut();  ///< a plane for the chosen body to break along
  void add_zone(const bronvel::Shape& shape);

 private:
  QToolButton* word(const QString& name, const QString& text, const QString& tip, QMenu* menu);
  void fill_arrange(QMenu* menu);
  void fill_view(QMenu* menu);
  void fill_snap(QMenu* menu);
  void show_snap();
  void attempt(const QString& name, const std::function<void(Scene&)>& change,
               const std::function<BodyNames()>& then = {});

  Session& session_;
  Stage* stage_;
  ArrangeSheet* arrange_;
  QMenu* arrange_menu_ = nullptr;
  QToolButton* snap_ = nullptr;
};

}  // namespace bronvel
