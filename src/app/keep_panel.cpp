// The list of changes.
#include "app/keep_panel.h"

#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

QString shown(const Value& value) {
  if (const auto* x = std::get_if<double>(&value)) return short_number(*x);
  if (const auto* word = std::get_if<std::string>(&value)) return QString::fromStdString(*word);
  if (std::holds_alternative<std::monostate>(value)) return "surface's";
  return QString::fromStdString(value_text(value));
}

}  // namespace

KeepPanel::KeepPanel(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("keep_panel");
  setStyleSheet("#keep_panel { background: " + theme::sheet.name() + "; border: 1px solid " + theme::rule.name() +
                "; border-left: 3px solid " + theme::accent.name() + "; border-radius: 8px; }");
  setFixedWidth(330);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  hide();
  connect(&session_, &Session::pending_changed, this, &KeepPanel::rebuild);
}

void KeepPanel::rebuild() {
  delete inside_;
  inside_ = nullptr;
  boxes_.clear();
  const std::vector<Change>& pending = session_.pending();
  setVisible(!pending.empty());
  if (pending.empty()) return;
  inside_ = new QWidget(this);
  layout()->addWidget(inside_);
  auto* column = new QVBoxLayout(inside_);
  column->setContentsMargins(14, 11, 14, 12);
  column->setSpacing(7);
  auto* title = new QLabel(pending.size() == 1 ? QString("You changed a value while it played")
                                               : QString("You changed %1 values while it played").arg(pending.size()),
                           inside_);
  title->setFont(theme::words(13, QFont::Bold));
  column->addWidget(title);

  auto* rows = new QWidget;
  auto* grid = new QGridLayout(rows);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(8);
  grid->setColumnStretch(0, 1);
  for (std::size_t i = 0; i < pending.size(); ++i) {
    const Change& change = pending[i];
    auto* box = new QCheckBox(QString::fromStdString(shown_name(change.place)), rows);
    box->setObjectName(QString("keep_%1").arg(i));
    box->setChecked(true);
    boxes_.push_back(box);
    auto* before = new QLabel(shown(change.before) + "  →", rows);
    before->setFont(theme::numbers(12));
    before->setStyleSheet("color: " + theme::faint_ink.name());
    auto* after = new QLabel(shown(change.after), rows);
    after->setFont(theme::numbers(12, QFont::DemiBold));
    after->setStyleSheet("color: " + theme::accent.name());
    after->setAlignment(Qt::AlignRight);
    const int row = static_cast<int>(i);
    grid->addWidget(box, row, 0);
    grid->addWidget(before, row, 1, Qt::AlignRight);
    grid->addWidget(after, row, 2);
  }
  if (pending.size() <= 8) {
    column->addWidget(rows);
  } else {
    auto* area = new QScrollArea(inside_);
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setWidget(rows);
    area->setFixedHeight(210);
    column->addWidget(area);
  }

  auto* buttons = new QHBoxLayout;
  auto* keep = new QPushButton("Keep ticked", inside_);
  keep->setObjectName("keep");
  keep->setProperty("main", true);
  keep->setToolTip("writes the ticked values into the scene, as one step that can be undone; the others are dropped");
  auto* drop = new QPushButton("Drop all", inside_);
  drop->setObjectName("drop");
  drop->setToolTip("the scene stays as it was before play");
  buttons->addWidget(keep);
  buttons->addWidget(drop);
  buttons->addStretch(1);
  column->addLayout(buttons);
  connect(keep, &QPushButton::clicked, this, [this] {
    std::vector<Change> kept;
    for (std::size_t i = 0; i < boxes_.size(); ++i)
      if (boxes_[i]->isChecked()) kept.push_back(session_.pending()[i]);
    // This panel's inside goes away with the list: leave the button's click first.
    QTimer::singleShot(0, this, [this, kept] { session_.keep(kept); });
  });
  connect(drop, &QPushButton::clicked, this,
          [this] { QTimer::singleShot(0, this, [this] { session_.drop_pending(); }); });
  inside_->show();
  adjustSize();
  raise();
}

}  // namespace bronvel
