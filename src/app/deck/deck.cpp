// Tabs and pages of the deck.
#include "app/deck/deck.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/deck/ask_page.h"
#include "app/deck/bodies_page.h"
#include "app/deck/scene_page.h"
#include "app/deck/surfaces_page.h"
#include "app/kit/theme.h"

namespace bronvel {

Deck::Deck(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("deck");
  setStyleSheet("#deck { background: " + theme::paper.name() + "; border-top: 1px solid " + theme::ink.name() + "; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 1, 0, 0);
  column->setSpacing(0);
  tabs_ = new QFrame(this);
  tabs_->setObjectName("deck_tabs");
  tabs_->setFixedHeight(31);
  tabs_->setStyleSheet(
      "#deck_tabs { border-bottom: 1px solid " + theme::rule.name() +
      "; } QToolButton { border: none; border-radius: 0; padding: 0 2px; color: " + theme::faint_ink.name() +
      "; border-bottom: 2px solid transparent; } QToolButton:hover { color: " + theme::ink.name() +
      "; background: transparent; } QToolButton:checked { color: " + theme::ink.name() +
      "; background: transparent; border-bottom: 2px solid " + theme::accent.name() +
      "; font-weight: 600; } QToolButton:focus { color: " + theme::chosen.name() + "; }");
  auto* row = new QHBoxLayout(tabs_);
  row->setContentsMargins(16, 0, 16, 0);
  row->setSpacing(20);
  group_ = new QButtonGroup(this);
  pages_ = new QStackedWidget(this);
  takes_ = new TakesPage(session_, this);
  log_ = new LogPage(session_, this);
  add_page("Takes", takes_);
  add_page("Ask", new AskPage(session_, this));
  add_page("Bodies", new BodiesPage(session_, this));
  surfaces_ = new SurfacesPage(session_, this);
  add_page("Surfaces", surfaces_);
  add_page("Scene", new ScenePage(session_, this));
  snags_ = new SnagsPage(session_, this);
  snags_tab_ = add_page("Snags", snags_);
  add_page("Inputs", new InputsPage(session_, this));
  log_tab_ = add_page("Log", log_);
  row->addStretch(1);
  note_ = new QLabel(tabs_);
  note_->setFont(theme::words(11));
  note_->setStyleSheet("color: " + theme::faint_ink.name());
  row->addWidget(note_);
  column->addWidget(tabs_);
  column->addWidget(pages_, 1);
  connect(group_, &QButtonGroup::idClicked, this, [this](int page) { show_page(page); });
  connect(&session_, &Session::chosen_changed, this, &Deck::show_note);
  connect(&session_, &Session::opened, this, &Deck::show_note);
  connect(&session_, &Session::log_added, this, [this] {
    const int faults = session_.script_faults();
    log_tab_->setText(faults > 0 ? QString("Log · %1 error%2").arg(faults).arg(faults == 1 ? "" : "s") : "Log");
  });
  connect(&session_, &Session::snags_changed, this, [this] {
    const auto count = session_.snags().size();
    snags_tab_->setText(count > 0 ? QString("Snags · %1").arg(count) : "Snags");
  });
  show_page(0);
}

QToolButton* Deck::add_page(const QString& name, QWidget* page) {
  const int id = pages_->addWidget(page);
  auto* tab = new QToolButton(tabs_);
  tab->setObjectName("tab_" + name);
  tab->setText(name);
  tab->setFont(theme::words(13));
  tab->setCheckable(true);
  tab->setAutoExclusive(true);
  tab->setFixedHeight(30);
  group_->addButton(tab, id);
  static_cast<QHBoxLayout*>(tabs_->layout())->addWidget(tab);
  return tab;
}

void Deck::show_page(int page) {
  pages_->setCurrentIndex(page);
  group_->button(page)->setChecked(true);
  show_note();
}

QStringList Deck::page_names() const {
  QStringList names;
  for (const QAbstractButton* tab : group_->buttons()) names << tab->objectName().mid(QString("tab_").size());
  return names;
}

void Deck::show_page(const QString& name) {
  const auto* tab = findChild<QToolButton*>("tab_" + name);
  for (QAbstractButton* each : group_->buttons())
    if (each == tab) show_page(group_->id(each));
}

void Deck::show_surface(const QString& surface, const QString& number) {
  show_page("Surfaces");
  surfaces_->point_at(surface.toStdString(), number.toStdString());
}

void Deck::show_note() {
  const QString body = QString::fromStdString(session_.chosen());
  note_->setText(
      pages_->currentIndex() == 0 ? (body.isEmpty() ? "" : "drag a number of " + body + " here to make it a lane")
      : pages_->currentWidget() == log_ || pages_->currentWidget() == snags_ ? "double click goes to the line"
                                                                             : "");
}

}  // namespace bronvel
