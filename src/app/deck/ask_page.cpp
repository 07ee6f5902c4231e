// Putting the page together.
#include "app/deck/ask_page.h"

#include <QHBoxLayout>
#include <QMenu>
#include <QVBoxLayout>

#include "app/deck/matter_bars.h"
#include "app/deck/rate_list.h"
#include "app/deck/sweep_plot.h"
#include "app/deck/wish_list.h"
#include "app/kit/deck_table.h"
#include "app/kit/number_field.h"
#include "app/session/session.h"

namespace bronvel {

AskPage::AskPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("ask_page");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  const auto rule = [&] {
    auto* line = new QFrame(this);
    line->setFixedWidth(1);
    line->setStyleSheet("background: " + theme::rule.name());
    row->addWidget(line);
  };
  row->addWidget(make_wishes(), 10);
  rule();
  row->addWidget(make_sweep(), 12);
  row->addWidget(make_aside());
  rule();
  bars_ = new MatterBars(session_, this);
  bars_->setMaximumWidth(static_cast<int>(316 * theme::type_scale));
  row->addWidget(bars_, 9);
  connect(&session_.wishes(), &Wishes::changed, this, &AskPage::show_all);
  show_all();
}

QWidget* AskPage::make_wishes() {
  auto* part = new QWidget(this);
  part->setMinimumWidth(250);
  part->setMaximumWidth(static_cast<int>(334 * theme::type_scale));
  auto* column = new QVBoxLayout(part);
  column->setContentsMargins(8, 6, 8, 8);
  column->setSpacing(4);
  auto* title = theme::label(theme::words(12, QFont::DemiBold), theme::chosen, part, "What shall it do?");
  title->setContentsMargins(6, 0, 0, 0);
  column->addWidget(title);
  list_ = new WishList(session_, part);
  column->addWidget(list_, 1);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  add_ = deck_button(part, "add_wish", "+ wish", "something that can be measured of the chosen body", [this] {
    QMenu menu(this);
    list_->fill_menu(menu);
    menu.exec(add_->mapToGlobal(QPoint(0, 0)));
  });
  buttons->addWidget(add_);
  aim_ = deck_button(part, "aim", "find the value",
                     "turns the number until the wish is met: by bracketing, at most 15 plays",
                     [this] { session_.wishes().aim(); });
  buttons->addWidget(aim_);
  remove_ = deck_button(part, "remove_wish", "remove", "takes the chosen wish out of the scene", [this] {
    if (const auto chosen = session_.wishes().chosen()) session_.wishes().remove(*chosen);
  });
  buttons->addWidget(remove_);
  buttons->addStretch(1);
  column->addLayout(buttons);
  return part;
}

QWidget* AskPage::make_sweep() {
  auto* part = new QWidget(this);
  auto* column = new QVBoxLayout(part);
  column->setContentsMargins(0, 2, 0, 6);
  column->setSpacing(0);
  plot_ = new SweepPlot(session_, part);
  column->addWidget(plot_, 1);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(16, 0, 16, 0);
  row->setSpacing(6);
  number_ = deck_button(part, "turned_number", "", "the number that is turned: choose another one",
                        [this] { choose_number(); });
  row->addWidget(number_);
  const auto field = [&](const char* name, NumberField*& made, const QString& word) {
    row->addWidget(theme::label(theme::words(11), theme::faint_ink, part, word));
    made = new NumberField("", part);
    made->setObjectName(name);
    made->setFixedSize(64, 22);
    row->addWidget(made);
    connect(made, &NumberField::refused, &session_, &Session::report);
  };
  field("sweep_from", from_, "from");
  field("sweep_to", to_, "to");
  connect(from_, &NumberField::entered, this,
          [this](double x) { session_.wishes().set_range(x, session_.wishes().to()); });
  connect(to_, &NumberField::entered, this,
          [this](double x) { session_.wishes().set_range(session_.wishes().from(), x); });
  row->addStretch(1);
  column->addLayout(row);
  return part;
}

QWidget* AskPage::make_aside() {
  beside_ = new QWidget(this);
  beside_->setFixedWidth(static_cast<int>(142 * theme::type_scale));
  auto* column = new QVBoxLayout(beside_);
  column->setContentsMargins(4, 8, 12, 6);
  column->setSpacing(6);
  keep_ = deck_button(beside_, "keep_value", "keep", "puts the value into the scene, in one step that can be undone",
                      [this] {
                        Wishes& wishes = session_.wishes();
                        if (wishes.found() && !wishes.found()->best.values.empty())
                          wishes.keep(wishes.found()->best.values[0]);
                      });
  keep_->setStyleSheet("QToolButton { background: " + theme::chosen.name() + "; color: " + theme::on_chosen.name() +
                       "; border: none; border-radius: 11px; padding: 3px 14px; font-weight: 600; }");
  column->addWidget(keep_, 0, Qt::AlignLeft);
  column->addWidget(new RateList(session_, beside_), 1);
  return beside_;
}

void AskPage::choose_number() {
  QMenu menu(this);
  const std::vector<Matter> numbers = session_.wishes().numbers();
  std::map<std::string, QMenu*> owners;
  for (const Matter& each : numbers) {
    const std::string words = number_words(each.name);
    const auto of = words.rfind(" of ");
    const std::string owner = of == std::string::npos ? "the whole scene" : words.substr(of + 4);
    QMenu*& list = owners[owner];
    if (!list) list = menu.addMenu(QString::fromStdString(owner));
    QAction* action = list->addAction(QString::fromStdString(words.substr(0, of)) + "   " + short_number(each.value) +
                                      " " + QString::fromStdString(each.unit));
    connect(action, &QAction::triggered, this, [this, name = each.name] { session_.wishes().set_number(name); });
  }
  menu.exec(number_->mapToGlobal(QPoint(0, 0)));
}

void AskPage::show_all() {
  const Wishes& wishes = session_.wishes();
  const bool any = wishes.chosen().has_value();
  const Matter* number = wishes.number_now();
  remove_->setEnabled(any);
  aim_->setEnabled(any && number && !wishes.aiming());
  aim_->setText(wishes.aiming() ? "searching …" : "find the value");
  for (QWidget* each : {static_cast<QWidget*>(number_), static_cast<QWidget*>(from_), static_cast<QWidget*>(to_)})
    each->setEnabled(number != nullptr);
  number_->setText(number ? QString::fromStdString(number_words(number->name)) + "  ▾" : "no number");
  from_->show_value(wishes.from());
  to_->show_value(wishes.to());
  const bool found = wishes.found() && !wishes.found()->best.values.empty();
  keep_->setVisible(found);
  if (found)
    keep_->setText("keep " + short_number(wishes.found()->best.values[0]) +
                   (number && !number->unit.empty() ? " " + QString::fromStdString(number->unit) : ""));
}

void AskPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  session_.wishes().set_watched(true);
}

void AskPage::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  session_.wishes().set_watched(false);
}

}  // namespace bronvel
