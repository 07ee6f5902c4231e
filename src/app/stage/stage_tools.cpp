// The strip of tools.
#include "app/stage/stage_tools.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

struct ToolWords {
  Tool tool;
  const char* name;
  const char* tip;
};
constexpr ToolWords tools[] = {
    {Tool::look, "look", "drag turns the view, as when nothing plays (1)"},
    {Tool::hand, "hand",
     "drag a body; let go in motion and it is thrown; the wheel brings it nearer or farther, Shift carries it along "
     "the floor (2)"},
    {Tool::flick, "flick", "draw an arrow from a body: an impulse at that point (3)"},
    {Tool::knife, "knife", "draw a line across bodies: they are cut along it, straight away from you (4)"},
    {Tool::blast, "blast", "click a place: everything near it is pushed away (5)"}};

}  // namespace

StageTools::StageTools(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("stage_tools");
  setStyleSheet("#stage_tools { background: " + theme::veil(235).name(QColor::HexArgb) + "; border: 1px solid " +
                theme::rule.name() +
                "; border-radius: 15px; } QToolButton { border: none; border-radius: 10px; padding: 2px 10px; } "
                "QToolButton:checked { background: " +
                theme::chosen.name() + "; color: " + theme::on_chosen.name() + "; }");
  // What a tool can be told stands above the tools: side by side they would run under the card in a small window.
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(8, 4, 8, 4);
  rows->setSpacing(3);
  auto* row = new QHBoxLayout;
  row->setSpacing(2);
  rows->addLayout(row);
  group_ = new QButtonGroup(this);
  int key = 1;
  for (const ToolWords& each : tools) {
    auto* button = new QToolButton(this);
    button->setObjectName(QString("tool_") + each.name);
    button->setText(each.name);
    button->setFont(theme::words(12, QFont::Medium));
    button->setToolTip(each.tip);
    button->setCheckable(true);
    button->setChecked(each.tool == tool_);
    button->setFocusPolicy(Qt::NoFocus);
    group_->addButton(button, key++);
    row->addWidget(button);
    connect(button, &QToolButton::clicked, this, [this, tool = each.tool] { take(tool); });
  }
  connect(&session_, &Session::play_state_changed, this, [this] { setVisible(session_.live_play()); });
  hide();
  rebuild();
}

NumberField* StageTools::number(const QString& name, const QString& unit, double* value, const QString& tip) {
  auto* row = settings_->layout();
  row->addWidget(theme::label(theme::words(11), theme::faint_ink, settings_, name));
  auto* field = new NumberField(unit, settings_);
  field->setObjectName("tool_" + name);
  field->setFixedWidth(58);
  field->setFixedHeight(20);
  field->setToolTip(tip + " [" + unit + "]");
  field->show_value(*value);
  row->addWidget(field);
  row->addWidget(theme::label(theme::words(11), theme::faint_ink, settings_, unit));
  connect(field, &NumberField::entered, this, [field, value](double entered) {
    if (entered >= 0) *value = entered;
    field->show_value(*value);
  });
  return field;
}

void StageTools::rebuild() {
  delete settings_;
  settings_ = nullptr;
  // These have nothing to be told.
  if (tool_ == Tool::look || tool_ == Tool::knife) return adjustSize();
  settings_ = new QWidget(this);
  auto* row = new QHBoxLayout(settings_);
  row->setContentsMargins(8, 1, 2, 0);
  row->setSpacing(5);
  switch (tool_) {
    case Tool::look:
    case Tool::knife:
      break;
    case Tool::hand: {
      number("at most", "N", &hand_most_, "the hand pulls with no more than this");
      auto* locked = new QToolButton(settings_);
      locked->setObjectName("tool_locked");
      locked->setText("no turning");
      locked->setFont(theme::words(11));
      locked->setToolTip("what is held is kept from turning");
      locked->setCheckable(true);
      locked->setChecked(holding_ == Holding::locked);
      locked->setFocusPolicy(Qt::NoFocus);
      connect(locked, &QToolButton::toggled, this,
              [this](bool on) { holding_ = on ? Holding::locked : Holding::free; });
      row->addWidget(locked);
      break;
    }
    case Tool::flick:
      number("each metre", "m/s", &flick_speed_, "speed given for each metre of arrow");
      break;
    case Tool::blast:
      number("radius", "m", &blast_radius_, "how far it is felt");
      number("impulse", "N·s", &blast_impulse_, "on a body at the middle");
      number("upward", "", &blast_upward_, "share of the push that goes up, 0 to 1");
      break;
  }
  row->addStretch(1);
  static_cast<QVBoxLayout*>(layout())->insertWidget(0, settings_);
  settings_->show();
  adjustSize();
}

void StageTools::take(Tool tool) {
  tool_ = tool;
  group_->buttons()[static_cast<int>(tool)]->setChecked(true);
  rebuild();
  emit taken();
}

Blast StageTools::blast_at(const Vec3& point) const {
  Blast blast;
  blast.at = point;
  blast.radius = std::max(blast_radius_, 0.01);
  blast.impulse = blast_impulse_;
  blast.upward = std::clamp(blast_upward_, 0.0, 1.0);
  return blast;
}

}  // namespace bronvel
