// Filling and painting the list of takes.
#include "app/deck/take_list.h"

#include <QContextMenuEvent>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "app/kit/theme.h"

namespace bronvel {
namespace {

enum Role { number_role = Qt::UserRole, name_role, state_role, about_role, line_role };
enum class Line { none, shown, compared };

// A line as in the lanes, the number, what it is, and below what was different.
class TakeRow : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;

  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
    return {100, index.data(about_role).toString().isEmpty() ? 24 : 38};
  }

  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(option.rect).adjusted(2, 1, -2, -1);
    const auto line = static_cast<Line>(index.data(line_role).toInt());
    const bool over = (option.state & QStyle::State_MouseOver) != 0,
               focused = (option.state & QStyle::State_HasFocus) != 0;
    if (line == Line::shown || over) {
      p->setPen(QPen(line == Line::shown ? theme::rule : QColor(Qt::transparent), 1));
      p->setBrush(line == Line::shown ? theme::sheet : theme::well);
      p->drawRoundedRect(box, 6, 6);
    }
    if (focused) {
      p->setPen(QPen(theme::chosen, 1));
      p->setBrush(Qt::NoBrush);
      p->drawRoundedRect(box, 6, 6);
    }
    const double middle = box.top() + 12;
    if (line != Line::none) {
      QPen pen(line == Line::shown ? theme::ink : theme::compared, 2);
      if (line == Line::compared) pen.setDashPattern({3, 2});
      p->setPen(pen);
      p->drawLine(QPointF(box.left() + 8, middle), QPointF(box.left() + 22, middle));
    }
    const QString state = index.data(state_role).toString();
    p->setFont(theme::words(11));
    const double state_width = p->fontMetrics().horizontalAdvance(state);
    p->setPen(line == Line::compared ? theme::compared : theme::faint_ink);
    p->drawText(QRectF(box.right() - 8 - state_width, box.top(), state_width + 2, 24), Qt::AlignVCenter, state);
    p->setPen(theme::ink);
    p->setFont(theme::words(12, QFont::DemiBold));
    const QRectF name_box(box.left() + 29, box.top(), box.width() - 29 - state_width - 14, 24);
    p->drawText(name_box, Qt::AlignVCenter,
                p->fontMetrics().elidedText(index.data(name_role).toString(), Qt::ElideRight,
                                            static_cast<int>(name_box.width())));
    const QString about = index.data(about_role).toString();
    if (!about.isEmpty()) {
      p->setPen(theme::faint_ink);
      p->setFont(theme::words(11));
      const QRectF about_box(box.left() + 29, box.top() + 19, box.width() - 37, 16);
      p->drawText(about_box, Qt::AlignVCenter,
                  p->fontMetrics().elidedText(about, Qt::ElideRight, static_cast<int>(about_box.width())));
    }
    p->restore();
  }
};

}  // namespace

TakeList::TakeList(Session& session, QWidget* parent) : QListWidget(parent), session_(session) {
  setObjectName("take_list");
  setItemDelegate(new TakeRow(this));
  setMouseTracking(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setStyleSheet("QListWidget { border: none; background: transparent; padding: 3px; }");
  setAccessibleName("takes");
  connect(&session_, &Session::takes_changed, this, &TakeList::fill);
  connect(&session_, &Session::play_state_changed, this, &TakeList::fill);
  connect(this, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
    const int number = item->data(number_role).toInt();
    const KeptTake* shown = session_.shown_take();
    attempt([&] {
      if (!shown)
        session_.show_take(number);
      else if (shown->label.number != number)
        session_.compare_take(number);
    });
  });
  connect(this, &QListWidget::itemDoubleClicked, this, [this](QListWidgetItem* item) {
    const int number = item->data(number_role).toInt();
    attempt([&] { session_.show_take(number); });
  });
  fill();
}

void TakeList::attempt(const std::function<void()>& act) {
  try {
    act();
  } catch (const std::exception& e) {
    session_.report(e.what());
  }
}

void TakeList::fill() {
  const int at = currentItem() ? currentItem()->data(number_role).toInt() : 0;
  clear();
  const KeptTake* shown = session_.shown_take();
  const KeptTake* compared = session_.compared_take();
  const auto& takes = session_.takes();
  for (auto take = takes.rbegin(); take != takes.rend(); ++take) {
    auto* item = new QListWidgetItem(this);
    const TakeLabel& label = take->label;
    QString name = QString("take %1").arg(label.number);
    if (!label.name.empty()) name += " · " + QString::fromStdString(label.name);
    item->setData(number_role, label.number);
    item->setData(name_role, name);
    item->setData(Qt::AccessibleTextRole, name);
    item->setData(line_role, static_cast<int>(&*take == shown      ? Line::shown
                                              : &*take == compared ? Line::compared
                                                                   : Line::none));
    QString state = take->playing        ? (session_.play_state() == Session::PlayState::paused ? "paused" : "playing")
                    : &*take == compared ? "compared"
                    : take->asked        ? "asked again"
                    : label.pinned       ? (take->file.empty() ? "pinned" : "kept")
                                         : "";
    item->setData(state_role, state);
    item->setData(about_role, QString::fromStdString(label.about));
    QString tip = QString::fromStdString(label.about);
    if (!label.note.empty()) tip += (tip.isEmpty() ? "" : "\n") + QString::fromStdString(label.note);
    if (!tip.isEmpty()) tip += "\n";
    item->setToolTip(tip + (&*take == shown ? "looked at: press in the lanes to go back in it"
                                            : "click: lay it under · double click: look at it · right click: more"));
    if (label.number == at) setCurrentItem(item);
  }
}

void TakeList::show_menu(int number, const QPoint& global) {
  const KeptTake* take = nullptr;
  for (const KeptTake& each : session_.takes())
    if (each.label.number == number) take = &each;
  if (!take) return;
  QMenu menu(this);
  const auto add = [&](const char* name, const QString& text, const std::function<void()>& act, bool on = true) {
    auto* action = menu.addAction(text, this, [this, act] { attempt(act); });
    action->setObjectName(name);
    action->setEnabled(on);
  };
  const bool shown = session_.shown_take() == take, compared = session_.compared_take() == take;
  add(
      "take_look", "look at it", [this, number] { session_.show_take(number); }, !shown);
  add(
      "take_compare", compared ? "take it from under" : "lay it under",
      [this, number] { session_.compare_take(number); }, !shown);
  menu.addSeparator();
  add(
      "take_pin", take->label.pinned ? "no longer keep it" : "keep it with the scene",
      [this, number, pinned = take->label.pinned] { session_.pin_take(number, !pinned); }, !take->playing);
  add("take_words", "name and note", [this, number] { ask_words(number); });
  add(
      "take_values", "take these values back", [this, number] { session_.take_values_of(number); }, !take->playing);
  if (!take->dropped.empty())
    add("take_dropped",
        take->ask_dropped ? "ask it again without what was dropped" : "ask it again with what was dropped",
        [this, number, on = !take->ask_dropped] { session_.ask_with_dropped(number, on); });
  menu.addSeparator();
  add(
      "take_forget", "forget it", [this, number] { session_.forget_take(number); }, !take->playing);
  menu.exec(global);
}

// Two fields over the list; Enter in either keeps them, Escape does not.
void TakeList::ask_words(int number) {
  TakeLabel label;
  for (const KeptTake& each : session_.takes())
    if (each.label.number == number) label = each.label;
  auto* words = new QFrame(this, Qt::Popup);
  words->setObjectName("take_words");
  words->setAttribute(Qt::WA_DeleteOnClose);
  words->setStyleSheet("#take_words { background: " + theme::sheet.name() + "; border: 1px solid " +
                       theme::rule.name() + "; }");
  auto* column = new QVBoxLayout(words);
  column->setContentsMargins(10, 8, 10, 10);
  column->addWidget(theme::label(theme::words(12, QFont::DemiBold), theme::ink, words, QString("take %1").arg(number)));
  auto* name = new QLineEdit(QString::fromStdString(label.name), words);
  name->setObjectName("take_name");
  name->setPlaceholderText("name");
  auto* note = new QLineEdit(QString::fromStdString(label.note), words);
  note->setObjectName("take_note");
  note->setPlaceholderText("note");
  note->setMinimumWidth(260);
  for (QLineEdit* field : {name, note}) {
    field->setMaxLength(200);
    column->addWidget(field);
    connect(field, &QLineEdit::returnPressed, words, [this, number, words, name, note] {
      attempt([&] { session_.label_take(number, name->text(), note->text()); });
      words->close();
    });
  }
  words->adjustSize();
  words->move(mapToGlobal(QPoint(8, 8)));
  words->show();
  name->setFocus();
}

void TakeList::contextMenuEvent(QContextMenuEvent* event) {
  if (const QListWidgetItem* item = itemAt(event->pos()))
    show_menu(item->data(number_role).toInt(), event->globalPos());
}

void TakeList::keyPressEvent(QKeyEvent* event) {
  if (QListWidgetItem* item = currentItem();
      item && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
    emit itemDoubleClicked(item);
    return;
  }
  if (const QListWidgetItem* item = currentItem(); item && event->key() == Qt::Key_Menu) {
    show_menu(item->data(number_role).toInt(), mapToGlobal(visualItemRect(item).center()));
    return;
  }
  QListWidget::keyPressEvent(event);
}

}  // namespace bronvel
