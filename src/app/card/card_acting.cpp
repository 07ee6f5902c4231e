// The card's answer to "What acts on it?": causes at the moment, greatest first, and why it moves as it does.
#include <QGridLayout>
#include <QVBoxLayout>
#include <algorithm>

#include "app/card/card.h"
#include "app/kit/cause_look.h"
#include "app/kit/theme.h"
#include "app/session/why.h"

namespace bronvel {

/// A row of causes.
class CauseRow : public QWidget {
 public:
  CauseRow(Why& why, QWidget* parent) : QWidget(parent), why_(why) {
    auto* row = new QGridLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setHorizontalSpacing(6);
    letter_ = theme::label(theme::numbers(11, QFont::DemiBold), theme::ink, this);
    letter_->setFixedWidth(QFontMetrics(letter_->font()).horizontalAdvance("HF"));
    name_ = theme::label(theme::words(12), theme::ink, this);
    name_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    size_ = theme::label(theme::numbers(12, QFont::Medium), theme::ink, this);
    size_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    row->addWidget(letter_, 0, 0);
    row->addWidget(name_, 0, 1);
    row->addWidget(size_, 0, 2);
    row->setColumnStretch(1, 1);
  }

  void show_nothing() {
    cause_.reset();
    for (QLabel* label : {letter_, name_, size_}) label->clear();
    setToolTip("");
  }

  void show_cause(const Acting& acting, bool pointed) {
    cause_ = acting.cause;
    const QString colour = "color: " + cause_colour(acting.cause).name();
    QFont words = theme::words(12, pointed ? QFont::DemiBold : QFont::Normal);
    name_->setFont(words);
    for (QLabel* label : {letter_, name_, size_})
      if (label->styleSheet() != colour) label->setStyleSheet(colour);
    letter_->setText(cause_letter(acting.cause));
    name_->setText(QString::fromStdString(acting.cause.text()));
    size_->setText(QString::fromStdString(size_text(acting)));
    const QString gives = QString::number(acting.power, 'g', 3) + (acting.cause.at_once() ? " J" : " W");
    setToolTip(QString::fromStdString(cause_word(acting.cause.cause)) + ": (" +
               QString::number(acting.force.x(), 'g', 3) + ", " + QString::number(acting.force.y(), 'g', 3) + ", " +
               QString::number(acting.force.z(), 'g', 3) + ")" + (acting.cause.at_once() ? " N·s" : " N") +
               "; it gives " + gives);
  }

  void show_words(const QString& name, const QString& size) {
    cause_.reset();
    const QString colour = "color: " + theme::faint_ink.name();
    name_->setFont(theme::words(12));
    for (QLabel* label : {letter_, name_, size_})
      if (label->styleSheet() != colour) label->setStyleSheet(colour);
    letter_->clear();
    name_->setText(name);
    size_->setText(size);
    setToolTip("");
  }

 protected:
  void enterEvent(QEnterEvent*) override { why_.point_at(cause_); }
  void leaveEvent(QEvent*) override { why_.point_at(std::nullopt); }

 private:
  Why& why_;
  std::optional<NamedCause> cause_;
  QLabel *letter_ = nullptr, *name_ = nullptr, *size_ = nullptr;
};

namespace {

constexpr std::size_t cause_rows = 5;
constexpr int reason_lines = 3;

// With the words that stand for causes as links.
QString linked(const Reason& reason) {
  QString html;
  std::size_t at = 0;
  const std::string& text = reason.text;
  const auto plain = [&](std::size_t begin, std::size_t end) {
    return QString::fromStdString(text.substr(begin, end - begin)).toHtmlEscaped();
  };
  for (std::size_t k = 0; k < reason.links.size(); ++k) {
    const Reason::Link& link = reason.links[k];
    html += plain(at, link.begin) + "<a style=\"color:" + cause_colour(link.cause).name() + "\" href=\"" +
            QString::number(k) + "\">" + plain(link.begin, link.begin + link.length) + "</a>";
    at = link.begin + link.length;
  }
  return html + plain(at, text.size());
}

}  // namespace

void Card::add_acting() {
  if (session_.building()) return;
  rows_->add_question("What acts on it?");
  // Of one height, whatever it says: nothing below moves.
  auto* block = new QWidget(rows_->inside());
  auto* column = new QVBoxLayout(block);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  reason_ = theme::label(theme::words(12), theme::ink, block);
  reason_->setObjectName("card_reason");
  reason_->setWordWrap(true);
  reason_->setAlignment(Qt::AlignTop);
  reason_->setTextFormat(Qt::RichText);
  connect(reason_, &QLabel::linkActivated, this, [this](const QString& which) {
    const Reason& reason = session_.why().reason();
    const auto k = which.toUInt();
    if (k < reason.links.size()) go_to_cause(reason.links[k].cause);
  });
  column->addWidget(reason_);
  column->addSpacing(3);
  const int tall = std::max(QFontMetrics(theme::numbers(12)).height(), QFontMetrics(theme::words(12)).height()) + 2;
  for (std::size_t k = 0; k <= cause_rows; ++k) {
    causes_.push_back(new CauseRow(session_.why(), block));
    causes_.back()->setFixedHeight(tall);
    causes_.back()->setObjectName("cause_" + QString::number(k));
    column->addWidget(causes_.back());
  }
  column->addStretch(1);
  block->setFixedHeight(QFontMetrics(reason_->font()).lineSpacing() * reason_lines + 3 +
                        tall * static_cast<int>(causes_.size()));
  rows_->add_wide(block);
}

// Where what the cause is made of is tuned: a line, a field of this card, or the thing that it acts through.
void Card::go_to_cause(const NamedCause& cause) {
  if (!cause.script.empty()) {
    emit line_asked(QString::fromStdString(cause.script), cause.line);
    return;
  }
  switch (cause.cause) {
    case Cause::weight:
      return point_at("mass");
    case Cause::air_drag:
      return point_at("drag_area");
    case Cause::damping:
      return point_at("linear_damping");
    case Cause::friction:
    case Cause::hit_friction:
    case Cause::rolling:
    case Cause::torsion:
      return point_at("friction");
    case Cause::hit:
      return point_at("restitution");
    case Cause::joint:
    case Cause::limit:
    case Cause::motor:
    case Cause::spring:
      return session_.choose_thing(ThingKind::joint, cause.by);
    case Cause::pull:
    case Cause::buoyancy:
    case Cause::water_drag:
      return session_.choose_thing(ThingKind::zone, cause.by);
    default:
      if (session_.scene().find(cause.by)) session_.choose(cause.by);
  }
}

void Card::show_acting() {
  if (!reason_) return;
  const Why& why = session_.why();
  if (!why.known()) {
    for (CauseRow* row : causes_) row->show_nothing();
    const Body* body = session_.scene().find(session_.chosen());
    const bool dynamic = !body || body->kind == MotionKind::dynamic;
    reason_->setText(why.on_its_way() ? "played once more for its books…"
                     : dynamic        ? "at the start nothing has acted on it yet"
                                      : "it is not dynamic: what acts on it does not move it");
    return;
  }
  const WhatActs& acts = why.acts();
  const QString words = linked(why.reason());
  if (reason_->text() != words) reason_->setText(words);
  const std::size_t count = acts.causes.size();
  // The last row speaks for those that have none.
  const std::size_t told = count > cause_rows ? cause_rows - 1 : count;
  Acting net;
  net.force = acts.changing;
  std::size_t row = 0;
  for (; row < told; ++row) causes_[row]->show_cause(acts.causes[row], why.pointed() == acts.causes[row].cause);
  if (count > told) causes_[row++]->show_words(QString("and %1 smaller").arg(count - told), "");
  causes_[row++]->show_words(acts.asleep ? "as it was last awake" : "together = m · a",
                             QString::fromStdString(size_text(net)));
  for (; row < causes_.size(); ++row) causes_[row]->show_nothing();
}

}  // namespace bronvel
