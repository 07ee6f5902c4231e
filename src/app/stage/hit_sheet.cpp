// Filling the hit sheet.
#include "app/stage/hit_sheet.h"

#include <QGridLayout>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

constexpr int sheet_width = 252;

QString number(double x) {
  return short_number(x).replace('-', "−");
}

}  // namespace

HitSheet::HitSheet(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("hit_sheet");
  setStyleSheet("#hit_sheet { background: " + theme::sheet.name() + "; border: 1.5px solid " + theme::ink.name() +
                "; border-radius: 8px; }");
  setFixedWidth(sheet_width);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  hide();
  for (const auto signal : {&Session::takes_changed, &Session::opened})
    connect(&session_, signal, this, [this] {
      if (isVisible() && hit_) show_hit(hit_->event);
    });
}

QString HitSheet::link(const QString& target, const QString& text) const {
  return QString("<a href='%1' style='color:%2; text-decoration:none'><b>%3</b></a>")
      .arg(target.toHtmlEscaped(), theme::chosen.name(), text.toHtmlEscaped());
}

void HitSheet::row(const QString& name, const QString& value, const QString& below) {
  grid_->addWidget(theme::label(theme::words(11), theme::faint_ink, inside_, name), rows_, 0);
  auto* label = theme::label(theme::numbers(12, QFont::Medium), theme::ink, inside_, value);
  // Rich text is measured a hair too narrow, and cuts its last letter.
  label->setTextFormat(value.contains('<') ? Qt::RichText : Qt::PlainText);
  label->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  connect(label, &QLabel::linkActivated, this, &HitSheet::follow_link);
  grid_->addWidget(label, rows_++, 1);
  if (below.isEmpty()) return;
  auto* more = theme::label(theme::numbers(10), theme::faint_ink, inside_, below);
  more->setTextFormat(Qt::RichText);
  more->setAlignment(Qt::AlignRight);
  more->setWordWrap(true);
  connect(more, &QLabel::linkActivated, this, &HitSheet::follow_link);
  grid_->addWidget(more, rows_++, 0, 1, 2);
}

void HitSheet::show_hit(std::size_t event) {
  hit_.reset();
  session_.with_take(
      [&](const Take& take, TakeReader& reader) { hit_ = hit_report(take, reader, event, session_.chosen()); });
  rebuild();
}

void HitSheet::rebuild() {
  if (inside_) {  // a link in it may be what asked for this
    layout()->removeWidget(inside_);
    inside_->hide();
    inside_->deleteLater();
  }
  inside_ = nullptr;
  setVisible(hit_.has_value());
  if (!hit_) return;
  const HitReport& h = *hit_;
  inside_ = new QWidget(this);
  grid_ = new QGridLayout(inside_);
  grid_->setContentsMargins(14, 9, 12, 11);
  grid_->setHorizontalSpacing(8);
  grid_->setVerticalSpacing(2);
  rows_ = 0;
  auto* head = new QHBoxLayout;
  auto* title =
      theme::label(theme::words(13, QFont::Bold), theme::ink, inside_,
                   QString("%1 on %2").arg(QString::fromStdString(h.a.body), QString::fromStdString(h.b.body)));
  title->setObjectName("hit_title");
  title->setWordWrap(true);
  head->addWidget(title, 1);
  head->addWidget(
      theme::label(theme::numbers(12, QFont::Medium), theme::accent, inside_, QString::number(h.time, 'f', 3) + " s"));
  auto* close = new QToolButton(inside_);
  close->setObjectName("hit_close");
  close->setText("✕");
  close->setToolTip("close the hit sheet");
  connect(close, &QToolButton::clicked, this, &QFrame::hide);
  head->addWidget(close);
  grid_->addLayout(head, rows_++, 0, 1, 2);

  const auto named = [](const HitSide& side, bool own, const char* what) {
    return own || side.surface.empty()
               ? QString::fromStdString(side.body) + (own ? QString("'s own ") + what : QString())
               : QString::fromStdString(side.surface);
  };
  // A body without a surface has its number from nowhere else: the link leads to where it can get one of its own.
  const auto target = [](const HitSide& side, bool own, const char* property, const char* of_surface) {
    return own || side.surface.empty() ? QString("body:%1:%2").arg(QString::fromStdString(side.body), property)
                                       : QString("surface:%1:%2").arg(QString::fromStdString(side.surface), of_surface);
  };
  row("hit", QString("%1 of %2").arg(h.number).arg(QString::fromStdString(h.a.body)));
  row("closing speed", number(h.closing_speed) + " m/s");
  row("impulse along", number(h.along) + " N·s");
  row("across", number(h.across) + " N·s" + (h.pair.dynamic_friction > 0 ? (h.slid ? ", slides" : ", holds") : ""));
  row("restitution", number(h.pair.restitution),
      QString("%1 of %2 and %3")
          .arg(QString::fromUtf8(combine_word(h.pair.restitution_rule).data()),
               link(target(h.a, h.a.own_restitution, "restitution", "restitution"),
                    named(h.a, h.a.own_restitution, "") + " " + number(h.a.values.restitution)),
               link(target(h.b, h.b.own_restitution, "restitution", "restitution"),
                    named(h.b, h.b.own_restitution, "") + " " + number(h.b.values.restitution))));
  const auto friction_of = [&](const HitSide& side) {
    return h.slid ? side.values.dynamic_friction : side.values.static_friction;
  };
  const char* const friction = h.slid ? "dynamic_friction" : "static_friction";
  row(h.slid ? "friction, sliding" : "friction, holding",
      number(h.slid ? h.pair.dynamic_friction : h.pair.static_friction),
      QString("%1 of %2 and %3")
          .arg(QString::fromUtf8(combine_word(h.pair.friction_rule).data()),
               link(target(h.a, h.a.own_friction, "friction", friction),
                    named(h.a, h.a.own_friction, "") + " " + number(friction_of(h.a))),
               link(target(h.b, h.b.own_friction, "friction", friction),
                    named(h.b, h.b.own_friction, "") + " " + number(friction_of(h.b)))));
  for (const HitSide* side : {&h.a, &h.b})
    if (side->kind == MotionKind::dynamic)
      row(QString::fromStdString(side->body).left(16),
          number(side->speed_before) + " → " + number(side->speed_after) + " m/s",
          number(side->energy_before) + " → " + number(side->energy_after) + " J");
  const auto place = [](double x) { return QString::number(x, 'f', 2).replace('-', "−"); };
  row("where", QString("(%1, %2, %3)").arg(place(h.point.x()), place(h.point.y()), place(h.point.z())),
      QString("normal (%1, %2, %3) · %4 point%5")
          .arg(number(h.normal.x()), number(h.normal.y()), number(h.normal.z()))
          .arg(h.points)
          .arg(h.points == 1 ? "" : "s"));
  grid_->setColumnStretch(1, 1);
  layout()->addWidget(inside_);
  inside_->show();
  adjustSize();
  raise();
  emit resized();
}

void HitSheet::follow_link(const QString& target) {
  const QString name = target.section(':', 1, -2), number = target.section(':', -1);
  if (target.startsWith("surface:")) {
    emit surface_asked(name, number);
    return;
  }
  session_.choose(name.toStdString());
  emit property_asked(number);
}

}  // namespace bronvel
