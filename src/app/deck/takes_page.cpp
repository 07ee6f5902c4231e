// Putting the takes page together.
#include "app/deck/takes_page.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidgetAction>
#include <algorithm>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

QToolButton* pill(const QString& name, const QString& text, const QString& tip, QWidget* parent) {
  auto* button = new QToolButton(parent);
  button->setObjectName(name);
  button->setText(text);
  button->setFont(theme::words(11, QFont::Medium));
  button->setToolTip(tip);
  button->setFixedHeight(22);
  button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  button->setStyleSheet(
      "QToolButton { background: " + theme::sheet.name() + "; border: 1px solid " + theme::rule.name() +
      "; border-radius: 6px; padding: 1px 6px; } QToolButton:hover { background: " + theme::well.name() +
      "; } QToolButton:disabled { color: " + theme::faint_ink.name() +
      "; background: transparent; } QToolButton:checked { background: " + theme::chosen.name() +
      "; color: " + theme::on_chosen.name() + "; border-color: " + theme::chosen.name() +
      "; } QToolButton:focus { border-color: " + theme::chosen.name() +
      "; } QToolButton:checked:focus { border-color: " + theme::ink.name() + "; }");
  return button;
}

}  // namespace

TakesPage::TakesPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  auto* side = new QFrame(this);
  side->setObjectName("take_side");
  side->setFixedWidth(208);
  side->setStyleSheet("#take_side { border-right: 1px solid " + theme::rule.name() + "; }");
  auto* column = new QVBoxLayout(side);
  column->setContentsMargins(0, 0, 0, 6);
  column->setSpacing(4);
  list_ = new TakeList(session_, side);
  column->addWidget(list_, 1);
  auto* acts = new QVBoxLayout;
  acts->setContentsMargins(8, 0, 8, 0);
  acts->setSpacing(4);
  auto* first = new QHBoxLayout;
  first->setSpacing(4);
  go_on_ = pill("go_on", "go on from here",
                "a new take with the same past, that plays on live from where the play head stands", side);
  follow_ =
      pill("follow", "follow",
           "while nothing plays, each turn of a dial, number or saved line asks the take again at once, with the same "
           "seed and inputs; the curves follow",
           side);
  follow_->setCheckable(true);
  first->addWidget(go_on_, 3);
  first->addWidget(follow_, 2);
  acts->addLayout(first);
  auto* second = new QHBoxLayout;
  second->setSpacing(4);
  values_ = pill("values_back", "take values back",
                 "the values of this take become the scene's again, in one step that can be undone", side);
  add_ =
      pill("add_lane", "+ lane", "another number to plot: pick it here, type it, or drag it down from the card", side);
  add_->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(add_);
  menu->setObjectName("lane_menu");
  menu->setToolTipsVisible(true);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill_lane_menu(menu); });
  add_->setMenu(menu);
  second->addWidget(values_, 3);
  second->addWidget(add_, 1);
  acts->addLayout(second);
  answer_ = theme::label(theme::words(11), theme::faint_ink, side);
  answer_->setObjectName("answer");
  answer_->setFixedHeight(14);
  answer_->setToolTip("how long it took to play the take again with what was changed");
  auto* third = new QHBoxLayout;
  third->addWidget(answer_, 1);
  memory_ = new QToolButton(side);
  memory_->setObjectName("takes_memory");
  memory_->setFont(theme::numbers(10));
  memory_->setFixedHeight(14);
  memory_->setStyleSheet("QToolButton { border: none; padding: 0; color: " + theme::faint_ink.name() +
                         "; } QToolButton:hover, QToolButton:focus { color: " + theme::chosen.name() +
                         "; } QToolButton::menu-indicator { image: none; }");
  memory_->setToolTip(
      "memory that takes have, of what they may have; beyond that the oldest that is not pinned is "
      "forgotten");
  memory_->setPopupMode(QToolButton::InstantPopup);
  auto* room = new QMenu(memory_);
  auto* most = new NumberField("MiB", room);
  most->setObjectName("most_memory");
  most->setFixedSize(90, 22);
  auto* entry = new QWidgetAction(room);
  auto* line = new QWidget(room);
  auto* boxes = new QHBoxLayout(line);
  boxes->setContentsMargins(10, 6, 10, 6);
  boxes->addWidget(theme::label(theme::words(12), theme::ink, line, "all takes together"));
  boxes->addWidget(most);
  boxes->addWidget(theme::label(theme::words(11), theme::faint_ink, line, "MiB"));
  entry->setDefaultWidget(line);
  room->addAction(entry);
  memory_->setMenu(room);
  connect(room, &QMenu::aboutToShow, this,
          [this, most] { most->show_value(static_cast<double>(session_.most_takes_memory() >> 20)); });
  connect(most, &NumberField::entered, this, [this, room](double mebibytes) {
    session_.set_most_takes_memory(static_cast<std::size_t>(std::clamp(mebibytes, 0.0, 1e6)) << 20);
    room->close();
  });
  third->addWidget(memory_);
  acts->addLayout(third);
  column->addLayout(acts);
  row->addWidget(side);

  auto* scroll = new QScrollArea(this);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setWidgetResizable(true);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  plot_ = new LanePlot(session_, scroll);
  scroll->setWidget(plot_);
  row->addWidget(scroll, 1);

  connect(plot_, &LanePlot::hit_asked, this, &TakesPage::hit_asked);
  connect(plot_, &LanePlot::lane_menu_asked, this, &TakesPage::lane_menu);
  connect(go_on_, &QToolButton::clicked, this, [this] { attempt([this] { session_.go_on_from_here(); }); });
  connect(values_, &QToolButton::clicked, this, [this] {
    attempt([this] {
      if (const KeptTake* take = session_.shown_take()) session_.take_values_of(take->label.number);
    });
  });
  connect(follow_, &QToolButton::toggled, this, [this](bool on) { session_.set_follows(on); });
  for (const auto signal : {&Session::takes_changed, &Session::play_state_changed, &Session::head_moved,
                            &Session::asked_changed, &Session::opened})
    connect(&session_, signal, this, &TakesPage::show_state);
  show_state();
}

void TakesPage::attempt(const std::function<void()>& act) {
  try {
    act();
  } catch (const std::exception& e) {
    session_.report(e.what());
  }
}

void TakesPage::show_state() {
  const KeptTake* take = session_.shown_take();
  go_on_->setEnabled(take && session_.in_past());
  values_->setEnabled(take && !take->playing);
  const QSignalBlocker quiet(follow_);
  follow_->setChecked(session_.follows());
  memory_->setText(
      QString("%1 / %2 MiB").arg((session_.takes_memory() + (1 << 19)) >> 20).arg(session_.most_takes_memory() >> 20));
  memory_->setVisible(!session_.takes().empty());
  answer_->setText(session_.asking()            ? QString("asking: %1 %").arg(100 * session_.asked_share(), 0, 'f', 0)
                   : session_.last_answer() > 0 ? QString("answer in %1 ms").arg(session_.last_answer(), 0, 'f', 0)
                                                : "");
}

void TakesPage::fill_lane_menu(QMenu* menu) {
  menu->clear();
  auto* typed = new QLineEdit;
  typed->setObjectName("lane_name");
  typed->setPlaceholderText("crane_hook.velocity.y");
  typed->setFont(theme::numbers(11));
  typed->setMinimumWidth(200);
  auto* entry = new QWidgetAction(menu);
  entry->setDefaultWidget(typed);
  menu->addAction(entry);
  connect(typed, &QLineEdit::returnPressed, this, [this, typed, menu] {
    session_.add_lane(typed->text());
    menu->close();
  });
  const auto lane = [this](QMenu* to, const QString& channel, const QString& text, const QString& tip) {
    auto* action = to->addAction(text, this, [this, channel] { session_.add_lane(channel); });
    action->setObjectName("lane_" + channel);
    action->setToolTip(tip);
  };
  const std::string body = session_.chosen();
  if (!body.empty()) {
    auto* of_body = menu->addMenu("of " + QString::fromStdString(body));
    of_body->setObjectName("lanes_of_body");
    of_body->setToolTipsVisible(true);
    for (const auto& quantity : body_quantities())
      for (const std::string& component : quantity.components) {
        const QString end = component.empty() ? "" : "." + QString::fromStdString(component);
        lane(of_body, QString::fromStdString(body) + "." + quantity.name + end,
             QString(quantity.name).replace('_', ' ') + end,
             QString(quantity.about) + (*quantity.unit ? QString(" [%1]").arg(quantity.unit) : QString()));
      }
    auto* of_chosen = menu->addMenu("of whatever is chosen");
    for (const char* name : {"height", "speed", "spin", "kinetic_energy", "energy"})
      lane(of_chosen, name, QString(name).replace('_', ' '), "of the body that is chosen at the time");
  }
  if (!session_.scene().joints.empty()) {
    auto* joints = menu->addMenu("of a joint");
    int count = 0;
    for (const SceneJoint& joint : session_.scene().joints) {
      if (++count > 40) break;
      for (const auto& quantity : joint_quantities()) {
        if (quantity.components.size() > 1) continue;
        const QString name = QString::fromStdString(joint.name) + "." + quantity.name;
        lane(joints, name, name, quantity.about);
      }
    }
  }
  QStringList numbers;
  session_.with_take([&](const Take& take, TakeReader&) {
    for (const NumberTrack& track : take.numbers)
      if (numbers.size() < 60) numbers << QString::fromStdString(track.name);
  });
  if (!numbers.isEmpty()) {
    auto* scripts = menu->addMenu("of scripts: dials and watched numbers");
    for (const QString& name : numbers) lane(scripts, name, name, "");
  }
}

void TakesPage::change_lanes(const std::function<void(std::vector<std::string>&)>& change) {
  std::vector<std::string> lanes = session_.lanes();
  change(lanes);
  attempt([&] { session_.set_lanes(lanes); });
}

void TakesPage::lane_menu(const QString& lane, const QPoint& global) {
  const std::string name = lane.toStdString();
  const std::vector<std::string> lanes = session_.lanes();
  const auto at = std::find(lanes.begin(), lanes.end(), name) - lanes.begin();
  QMenu menu(this);
  const auto add = [&](const char* object, const QString& text, bool on,
                       const std::function<void(std::vector<std::string>&)>& change) {
    auto* action = menu.addAction(text, this, [this, change] { change_lanes(change); });
    action->setObjectName(object);
    action->setEnabled(on);
  };
  add("lane_up", "move up", at > 0,
      [at](auto& all) { std::swap(all[static_cast<std::size_t>(at)], all[static_cast<std::size_t>(at) - 1]); });
  add("lane_down", "move down", at + 1 < std::ssize(lanes),
      [at](auto& all) { std::swap(all[static_cast<std::size_t>(at)], all[static_cast<std::size_t>(at) + 1]); });
  add("lane_away", "take it away", lanes.size() > 1, [name](auto& all) { std::erase(all, name); });
  menu.exec(global);
}

}  // namespace bronvel
