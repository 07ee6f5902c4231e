// The switches.
#include "app/stage/take_chips.h"

#include <QHBoxLayout>
#include <QToolButton>

#include "app/kit/theme.h"

namespace bronvel {

TakeChips::TakeChips(Session& session, TakeMarks& marks, QWidget* parent)
    : QFrame(parent), session_(session), marks_(marks) {
  setObjectName("take_chips");
  setStyleSheet("QToolButton { background: " + theme::veil(235).name(QColor::HexArgb) + "; border: 1px solid " +
                theme::rule.name() + "; border-radius: 12px; padding: 3px 12px; } QToolButton:hover { background: " +
                theme::well.name() + "; } QToolButton:checked { background: " + theme::chosen.name() +
                "; border-color: " + theme::chosen.name() + "; color: " + theme::on_chosen.name() +
                "; } QToolButton:focus { border-color: " + theme::ink.name() + "; }");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  const auto chip = [&](const char* name, const QString& text, const QString& tip, bool& on) {
    auto* button = new QToolButton(this);
    button->setObjectName(name);
    button->setText(text);
    button->setToolTip(tip);
    button->setFont(theme::words(11, QFont::Medium));
    button->setCheckable(true);
    button->setChecked(on);
    connect(button, &QToolButton::toggled, this, [this, &on](bool now) {
      on = now;
      emit switched();
    });
    row->addWidget(button);
    return button;
  };
  forces_ =
      chip("chip_forces", "forces",
           "what acts on what is chosen, where it acts; lengths grow with the square root of the force", marks_.forces);
  way_ = chip("chip_way", "way", "the way of what is chosen over the take: a dot is a tick, so wide apart is fast",
              marks_.way);
  shapes_ = chip("chip_shapes", "shapes", "the shape of what is chosen now and then along its way", marks_.shapes);
  contacts_ = chip("chip_contacts", "contacts",
                   "where bodies touch and with what force: of what is chosen, else of all", marks_.contacts);
  ghost_ = chip("chip_ghost", "ghost", "the compared take: its way, and its shape at the same moment", marks_.ghost);
  energy_ = chip("chip_energy", "energy",
                 "who gave energy to what is chosen and who took it: up to the play head, or in the stretch that is "
                 "marked in the lanes with Shift",
                 energy_on_);
  connect(energy_, &QToolButton::toggled, this, &TakeChips::energy_asked);
  difference_ = chip("chip_difference", "why",
                     "what made this take go otherwise than the compared one, in the order of cause", difference_on_);
  connect(difference_, &QToolButton::toggled, this, &TakeChips::difference_asked);
  for (const auto signal :
       {&Session::takes_changed, &Session::head_moved, &Session::play_state_changed, &Session::opened})
    connect(&session_, signal, this, &TakeChips::renew);
  renew();
}

void TakeChips::set_energy(bool on) {
  energy_->setChecked(on);
}

void TakeChips::set_difference(bool on) {
  difference_->setChecked(on);
}

void TakeChips::renew() {
  const KeptTake* compared = session_.compared_take();
  ghost_->setVisible(compared != nullptr);
  difference_->setVisible(compared != nullptr);
  if (compared) ghost_->setText(QString("take %1").arg(compared->label.number));
  const bool past = session_.in_past() || session_.asked_number() > 0;
  way_->setVisible(past);
  shapes_->setVisible(past);
  contacts_->setVisible(session_.in_past() || session_.live_play());
  forces_->setVisible(session_.in_past() || session_.live_play());
  energy_->setVisible(session_.in_past());
  setVisible(past || session_.live_play());
  adjustSize();
  emit resized();
}

}  // namespace bronvel
