// The header: which scene, play controls, time, pace.
#pragma once

#include <QFrame>
#include <QLabel>
#include <functional>

#include "app/kit/theme.h"
#include "app/session/session.h"

class QStackedWidget;
class QToolButton;

namespace bronvel {

class Header : public QFrame {
  Q_OBJECT

 public:
  explicit Header(Session& session, QWidget* parent = nullptr);

 signals:
  void open_asked();
  void save_asked();
  void new_asked();
  void save_as_asked();
  void recent_asked(const QString& path);
  void examples_asked();
  void commands_asked();
  void look_asked(theme::Sheet sheet);
  void type_asked(double scale);

 private:
  QToolButton* button(const QString& icon, const QString& tip, const QKeySequence& key, const QString& name);
  void show_state();
  void show_time();
  void show_sound();
  void try_to(const std::function<void()>& act);  ///< says what it throws

  Session& session_;
  QToolButton *seed_ = nullptr, *scene_ = nullptr, *play_ = nullptr, *pause_ = nullptr, *step_ = nullptr,
              *stop_ = nullptr, *restart_ = nullptr, *speed_ = nullptr, *back_ = nullptr, *sound_ = nullptr;
  QStackedWidget* moment_ = nullptr;
  QToolButton* live_ = nullptr;
  QLabel *saved_ = nullptr, *time_ = nullptr, *tick_ = nullptr, *rate_ = nullptr, *pace_ = nullptr;
};

}  // namespace bronvel
