// The bench: the whole window.
#pragma once

#include <QWidget>

#include "app/card.h"
#include "app/deck.h"
#include "app/desk.h"
#include "app/header.h"
#include "app/keep_panel.h"
#include "app/session.h"
#include "app/stage.h"

class QToolButton;

namespace bronvel {

class ExamplesSheet;

class Bench : public QWidget {
  Q_OBJECT

 public:
  explicit Bench(Clock clock = steady_clock(), QWidget* parent = nullptr);
  ~Bench() override;

  Session& session() { return session_; }
  Stage* stage() { return stage_; }
  Desk* desk() { return desk_; }
  Deck* deck() { return deck_; }

  /// Opens the scene; a fault is shown, and what was open stays.
  bool open(const QString& path);
  bool save();

 protected:
  void closeEvent(QCloseEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void place_overlays();
  void show_fault(const QString& title, const QString& text);

  Session session_;
  Header* header_ = nullptr;
  Desk* desk_ = nullptr;
  Stage* stage_ = nullptr;
  Deck* deck_ = nullptr;
  Card* card_ = nullptr;
  KeepPanel* keep_ = nullptr;
  QFrame* notice_ = nullptr;
  QLabel* notice_text_ = nullptr;
  ExamplesSheet* examples_ = nullptr;
  QToolButton* add_ = nullptr;
  QLabel* hint_ = nullptr;
  QTimer screen_timer_;
};

}  // namespace bronvel
