// The deck: pages along the bottom.
#pragma once

#include <QFrame>

#include "app/deck/inputs_page.h"
#include "app/deck/log_page.h"
#include "app/deck/snags_page.h"
#include "app/deck/takes_page.h"
#include "app/session/session.h"

class QButtonGroup;
class QLabel;
class QStackedWidget;
class QToolButton;

namespace bronvel {

class SurfacesPage;

class Deck : public QFrame {
  Q_OBJECT

 public:
  explicit Deck(Session& session, QWidget* parent = nullptr);
  void show_page(int page);
  void show_page(const QString& name);                               ///< "Takes", "Bodies" …
  void show_surface(const QString& surface, const QString& number);  ///< on its page, ready to be changed
  QStringList page_names() const;
  TakesPage* takes() { return takes_; }
  LogPage* log() { return log_; }
  SnagsPage* snags() { return snags_; }

 private:
  QToolButton* add_page(const QString& name, QWidget* page);
  void show_note();

  Session& session_;
  QFrame* tabs_ = nullptr;
  QStackedWidget* pages_ = nullptr;
  QButtonGroup* group_ = nullptr;
  QToolButton *log_tab_ = nullptr, *snags_tab_ = nullptr;
  QLabel* note_ = nullptr;
  TakesPage* takes_ = nullptr;
  LogPage* log_ = nullptr;
  SnagsPage* snags_ = nullptr;
  SurfacesPage* surfaces_ = nullptr;
};

}  // namespace bronvel
