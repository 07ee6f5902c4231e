// Drawing, choosing and changing wishes.
#include "app/deck/wish_list.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/session.h"

namespace bronvel {
namespace {

constexpr int pitch = 40, reading = 68, field_width = 54;

QString sign_text(const Wish& wish) {
  switch (wish.is) {
    case Wish::Is::equal:
      return "=";
    case Wish::Is::at_most:
      return "≤";
    case Wish::Is::at_least:
      return "≥";
    case Wish::Is::never:
      break;
  }
  return "never";
}

// What else there is to know of it, in the second line.
QString about(const Wish& wish, const CheckAnswer* answer) {
  if (answer && !answer->fault.empty()) return QString::fromStdString(answer->fault);
  if (answer)
    if (const CheckPlay* worst = answer->worst(); worst && !worst->fault.empty())
      return QString::fromStdString(worst->fault);
  QStringList parts{QString("%1 s").arg(short_number(wish.seconds))};
  if (!wish.inputs.empty()) parts << "with " + QString::fromStdString(wish.inputs);
  if (wish.seeds > 1) parts << QString("%1 seeds").arg(wish.seeds);
  if (!wish.rates.empty()) {
    QStringList rates;
    for (const double rate : wish.rates) rates << short_number(rate);
    parts << "at " + rates.join(", ") + " Hz";
  }
  return parts.join(" · ");
}

}  // namespace

WishList::WishList(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("wish_list");
  setFocusPolicy(Qt::StrongFocus);
  value_ = new NumberField("", this);
  value_->setObjectName("wish_value");
  value_->hide();
  connect(value_, &NumberField::entered, this, [this](double value) {
    const auto chosen = session_.wishes().chosen();
    if (!chosen) return;
    Wish wish = session_.scene().checks[*chosen];
    wish.value = value;
    session_.wishes().change(*chosen, wish);
  });
  connect(value_, &NumberField::refused, &session_, &Session::report);
  const auto renew = [this] {
    place_field();
    update();
  };
  connect(&session_.wishes(), &Wishes::changed, this, renew);
}

QRect WishList::place_of(std::size_t wish) const {
  return {6, pitch * (static_cast<int>(wish) - first_), width() - 12, pitch - 3};
}

QRect WishList::sign_of(std::size_t wish) const {
  const QRect row = place_of(wish);
  const bool never = session_.scene().checks[wish].is == Wish::Is::never;
  const int right = row.right() - reading - (never ? 0 : field_width + 4);
  const int size = never ? 44 : 22;
  return {right - size, row.top() + 3, size, 19};
}

std::optional<std::size_t> WishList::wish_at(const QPoint& place) const {
  for (std::size_t i = 0; i < session_.wishes().count(); ++i)
    if (place_of(i).contains(place)) return i;
  return std::nullopt;
}

void WishList::place_field() {
  const auto chosen = session_.wishes().chosen();
  if (!chosen || session_.scene().checks[*chosen].is == Wish::Is::never) {
    value_->hide();
    return;
  }
  const QRect row = place_of(*chosen);
  value_->setGeometry(row.right() - reading - field_width, row.top() + 3, field_width, 20);
  value_->show_value(session_.scene().checks[*chosen].value);
  value_->setVisible(row.top() >= 0 && row.bottom() <= height());
}

void WishList::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Wishes& wishes = session_.wishes();
  if (wishes.count() == 0) {
    p.setPen(theme::faint_ink);
    p.setFont(theme::words(12));
    p.drawText(
        rect().adjusted(16, 4, -16, -8), Qt::AlignLeft | Qt::TextWordWrap,
        "Nothing is wished yet. “+ wish” lists what can be measured of the chosen body: how high it hops, how far "
        "it comes, when it rests. Wishes are kept with the scene, and checked by bronvel-cli check.");
    return;
  }
  for (std::size_t i = 0; i < wishes.count(); ++i) {
    const Wish& wish = session_.scene().checks[i];
    const CheckAnswer* answer = wishes.answer(i);
    const QRect row = place_of(i);
    if (row.bottom() < 0 || row.top() > height()) continue;
    const bool chosen = wishes.chosen() == i;
    if (chosen) {
      p.setPen(QPen(theme::rule, 1));
      p.setBrush(theme::sheet);
      p.drawRoundedRect(QRectF(row).adjusted(0.5, 0.5, -0.5, -0.5), 7, 7);
    }
    const bool failed = answer && !answer->passed();
    p.setFont(theme::words(12, QFont::DemiBold));
    p.setPen(!answer ? theme::faint_ink : failed ? theme::accent : theme::chosen);
    p.drawText(QRect(row.left() + 8, row.top() + 3, 14, 19), Qt::AlignCenter, !answer ? "·" : failed ? "✕" : "✓");
    const QRect sign = sign_of(i);
    // Spoken as one would: "farthest of fender".
    QString words = answer && !answer->words.empty() ? QString::fromStdString(answer->words)
                                                     : QString::fromStdString(wish.measure).replace('_', ' ');
    p.setFont(theme::words(12, chosen ? QFont::DemiBold : QFont::Normal));
    p.setPen(theme::ink);
    const int room = sign.left() - row.left() - 30;
    p.drawText(QRect(row.left() + 26, row.top() + 3, room, 19), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, room));
    p.setFont(theme::numbers(11.5));
    p.setPen(theme::faint_ink);
    p.drawText(sign, Qt::AlignCenter, sign_text(wish));
    if (!chosen && wish.is != Wish::Is::never)
      p.drawText(QRect(row.right() - reading - field_width, row.top() + 3, field_width - 6, 19),
                 Qt::AlignRight | Qt::AlignVCenter, short_number(wish.value));
    QString now = "…";
    if (answer) {
      const CheckPlay* worst = answer->worst();
      const QString unit = answer->unit.empty() ? "" : " " + QString::fromStdString(answer->unit);
      now = !worst || !answer->fault.empty() ? "?"
            : std::isnan(worst->value)       ? "never"
                                             : short_number(worst->value) + unit;
    }
    p.setFont(theme::numbers(12, QFont::DemiBold));
    p.setPen(!answer ? theme::faint_ink : failed ? theme::accent : theme::chosen);
    p.drawText(QRect(row.right() - reading + 4, row.top() + 3, reading - 12, 19), Qt::AlignRight | Qt::AlignVCenter,
               now);
    p.setFont(theme::words(10.5));
    p.setPen(failed && answer && (!answer->fault.empty() || (answer->worst() && !answer->worst()->fault.empty()))
                 ? theme::accent
                 : theme::faint_ink);
    p.drawText(QRect(row.left() + 26, row.top() + 20, row.width() - 36, 15), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(about(wish, answer), Qt::ElideRight, row.width() - 36));
  }
  if (hasFocus() && wishes.chosen()) {
    p.setPen(QPen(theme::chosen, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(place_of(*wishes.chosen())).adjusted(0.5, 0.5, -0.5, -0.5), 7, 7);
  }
}

void WishList::resizeEvent(QResizeEvent*) {
  place_field();
}

void WishList::mousePressEvent(QMouseEvent* event) {
  setFocus();
  const auto wish = wish_at(event->pos());
  if (!wish) return;
  const bool on_sign = session_.wishes().chosen() == *wish && sign_of(*wish).contains(event->pos());
  session_.wishes().choose(*wish);
  place_field();
  update();
  if (!on_sign || event->button() != Qt::LeftButton) return;
  // The sign turns from one to the next.
  Wish changed = session_.scene().checks[*wish];
  changed.is = changed.is == Wish::Is::equal      ? Wish::Is::at_most
               : changed.is == Wish::Is::at_most  ? Wish::Is::at_least
               : changed.is == Wish::Is::at_least ? Wish::Is::never
                                                  : Wish::Is::equal;
  session_.wishes().change(*wish, changed);
}

void WishList::contextMenuEvent(QContextMenuEvent* event) {
  const auto wish = wish_at(event->pos());
  if (!wish) return;
  QMenu menu(this);
  const Wish now = session_.scene().checks[*wish];
  const auto with = [&](const QString& text, bool on, const std::function<void(Wish&)>& change) {
    QAction* action = menu.addAction(text);
    action->setCheckable(true);
    action->setChecked(on);
    connect(action, &QAction::triggered, this, [this, wish, now, change] {
      Wish changed = now;
      change(changed);
      session_.wishes().change(*wish, changed);
    });
  };
  with("with 20 seeds", now.seeds > 1, [](Wish& w) { w.seeds = w.seeds > 1 ? 1 : 20; });
  with("at 30, 60 and 120 Hz", !now.rates.empty(), [](Wish& w) {
    w.rates = w.rates.empty() ? std::vector<double>{30, 60, 120} : std::vector<double>{};
  });
  for (const double seconds : {2.0, 5.0, 10.0, 20.0})
    with(QString("%1 s of play").arg(seconds), now.seconds == seconds, [=](Wish& w) { w.seconds = seconds; });
  menu.addSeparator();
  menu.addAction("remove", this, [this, wish] { session_.wishes().remove(*wish); });
  menu.exec(event->globalPos());
}

void WishList::keyPressEvent(QKeyEvent* event) {
  const auto chosen = session_.wishes().chosen();
  if (!chosen) return QWidget::keyPressEvent(event);
  if (event->key() == Qt::Key_Delete) return session_.wishes().remove(*chosen);
  if (event->key() == Qt::Key_Up && *chosen > 0) return session_.wishes().choose(*chosen - 1);
  if (event->key() == Qt::Key_Down && *chosen + 1 < session_.wishes().count())
    return session_.wishes().choose(*chosen + 1);
  QWidget::keyPressEvent(event);
}

void WishList::wheelEvent(QWheelEvent* event) {
  const int most = std::max(0, static_cast<int>(session_.wishes().count()) - std::max(1, height() / pitch));
  first_ = std::clamp(first_ - (event->angleDelta().y() > 0 ? 1 : -1), 0, most);
  place_field();
  update();
}

void WishList::fill_menu(QMenu& menu) {
  const Scene& scene = session_.scene();
  std::string body = session_.chosen();
  if (body.empty())
    for (const Body& each : scene.bodies)
      if (body.empty() && each.kind == MotionKind::dynamic) body = each.name;
  const QString of = QString::fromStdString(body);
  const auto add = [this](QMenu& to, const QString& words, const std::string& measure, const QString& tip) {
    QAction* action = to.addAction(words);
    action->setToolTip(tip);
    connect(action, &QAction::triggered, this, [this, measure] { session_.wishes().add(measure); });
  };
  menu.setToolTipsVisible(true);
  const auto others = [&](QMenu& to, const char* kind) {
    for (const Body& each : scene.bodies)
      if (each.name != body)
        add(to, QString::fromStdString(each.name), std::string(kind) + ":" + body + "," + each.name, "");
  };
  QMenu* channels = nullptr;
  for (const MeasureKind& kind : measure_kinds()) {
    const std::string arguments = kind.arguments, name = kind.name;
    const QString words = QString(kind.name).replace('_', ' ');
    if (arguments == "channel" || arguments == "channel, number") {
      if (arguments != "channel") continue;
      if (!channels) channels = menu.addMenu("a lane's");
      for (const std::string& lane : session_.lanes()) {
        const std::string channel = lane.find('.') == std::string::npos ? body + "." + lane : lane;
        add(*channels, words + " " + QString::fromStdString(channel), name + ":" + channel, kind.about);
      }
      continue;
    }
    if (body.empty() || name == "fit" || name == "told" || name.ends_with("_x") || name.ends_with("_y") ||
        name.ends_with("_z"))
      continue;
    if (arguments.starts_with("body, body?")) {
      QMenu* with = menu.addMenu(words + " of " + of);
      add(*with, "anything", name + ":" + body, kind.about);
      others(*with, kind.name);
    } else if (arguments == "body, zone") {
      if (scene.zones.empty()) continue;
      QMenu* zones = menu.addMenu(words + " of " + of);
      for (const SceneZone& zone : scene.zones)
        add(*zones, QString::fromStdString(zone.name), name + ":" + body + "," + zone.name, kind.about);
    } else if (!arguments.starts_with("body, path") || !scene.paths.empty()) {
      add(menu, words + " of " + of, name + ":" + body, kind.about);
    }
  }
}

}  // namespace bronvel
