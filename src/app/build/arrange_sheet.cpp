// The sheet's fields and preview.
#include "app/build/arrange_sheet.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/kit/number_field.h"
#include "app/kit/theme.h"

namespace bronvel {

ArrangeSheet::ArrangeSheet(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("arrange_sheet");
  setStyleSheet("#arrange_sheet { background: " + theme::sheet.name() + "; border: 1px solid " + theme::chosen.name() +
                "; border-radius: 8px; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 10, 14, 12);
  hide();
  connect(&session_, &Session::document_changed, this, [this] {
    const bool gone = std::any_of(names_.begin(), names_.end(),
                                  [this](const std::string& name) { return !session_.scene().find(name); });
    if (gone && isVisible()) hide();
  });
}

NumberField* ArrangeSheet::number(const QString& name, const QString& unit, double* value, const QString& tip) {
  const int row = grid_->rowCount();
  auto* words = theme::label(theme::words(12), theme::ink, inside_, name);
  words->setToolTip(tip);
  grid_->addWidget(words, row, 0);
  auto* field = new NumberField(unit, inside_);
  field->setObjectName("arrange_" + QString(name).replace(' ', '_'));
  field->setFixedWidth(72);
  field->setToolTip(tip);
  field->show_value(*value);
  connect(field, &NumberField::entered, this, [this, field, value](double typed) {
    *value = typed;
    field->show_value(typed);
    show_outcome();
  });
  connect(field, &NumberField::refused, &session_, &Session::said);
  grid_->addWidget(field, row, 1);
  grid_->addWidget(theme::label(theme::words(11), theme::faint_ink, inside_, unit), row, 2);
  return field;
}

void ArrangeSheet::whole(const QString& name, int* value, const QString& tip) {
  wholes_.push_back(std::make_unique<double>(*value));
  double* held = wholes_.back().get();
  NumberField* field = number(name, "", held, tip);
  field->set_whole(true);
  field->show_value(*held);
  connect(field, &NumberField::entered, this, [this, value, held] {
    *value = static_cast<int>(std::clamp(std::round(*held), 1.0, 20000.0));
    show_outcome();
  });
}

void ArrangeSheet::open(What what) {
  names_ = session_.chosen_bodies();
  if (names_.empty()) {
    emit session_.said("choose a body first");
    return;
  }
  what_ = what;
  delete inside_;
  wholes_.clear();
  inside_ = new QWidget(this);
  layout()->addWidget(inside_);
  grid_ = new QGridLayout(inside_);
  grid_->setContentsMargins(0, 0, 0, 0);
  grid_->setHorizontalSpacing(8);
  grid_->setVerticalSpacing(4);
  const Bounds bounds = bounds_of(session_.scene(), names_);
  const Vec3 extent = bounds.high - bounds.low;
  const QString title = what == What::line   ? "In a line"
                        : what == What::grid ? "In a grid"
                        : what == What::ring ? "In a ring"
                                             : "Scattered";
  grid_->addWidget(theme::label(theme::words(13, QFont::Bold), theme::ink, inside_, title), 0, 0, 1, 3);
  array_.kind = what == What::grid   ? ArrayPlan::Kind::grid
                : what == What::ring ? ArrayPlan::Kind::ring
                                     : ArrayPlan::Kind::line;
  if (what == What::line) {
    array_.count = {5, 1, 1};
    array_.step = {std::round((extent.x() + 0.2) * 10) / 10, 0, 0};
    whole("count", &array_.count[0], "how many in all, with the one that is there");
    number("step x", "m", &array_.step.x(), "from one to the next");
    number("step y", "m", &array_.step.y(), "from one to the next, upward");
    number("step z", "m", &array_.step.z(), "from one to the next");
  } else if (what == What::grid) {
    array_.count = {4, 1, 4};
    gaps_ = Vec3::Zero();
    extent_ = extent;
    whole("along x", &array_.count[0], "how many along X");
    whole("up", &array_.count[1], "how many layers");
    whole("along z", &array_.count[2], "how many along Z");
    number("gap x", "m", &gaps_.x(), "free space from one to the next along X; below 0 they overlap");
    number("gap y", "m", &gaps_.y(), "free space from one layer to the next");
    number("gap z", "m", &gaps_.z(), "free space from one to the next along Z");
  } else if (what == What::ring) {
    array_.count = {8, 1, 1};
    array_.radius = std::round(std::max(1.0, 1.6 * extent.norm()) * 10) / 10;
    whole("count", &array_.count[0], "how many around the ring");
    number("radius", "m", &array_.radius, "of the ring; its middle lies that far along Z from the first");
  } else {
    scatter_ = {};
    scatter_.middle = 0.5 * (bounds.low + bounds.high);
    scatter_.middle.y() = bounds.low.y();
    seed_ = 1;
    whole("count", &scatter_.count, "how many; fewer if there is no room");
    number("width", "m", &scatter_.width, "of the area along X, around where the body is");
    number("depth", "m", &scatter_.depth, "of the area along Z");
    number("seed", "", &seed_, "another number gives other places");
  }
  note_ = theme::label(theme::words(11), theme::faint_ink, inside_);
  grid_->addWidget(note_, grid_->rowCount(), 0, 1, 3);
  auto* buttons = new QHBoxLayout;
  auto* make_button = new QPushButton("make", inside_);
  make_button->setObjectName("arrange_make");
  make_button->setProperty("main", true);
  make_button->setDefault(true);
  connect(make_button, &QPushButton::clicked, this, &ArrangeSheet::make);
  auto* cancel_button = new QPushButton("leave it", inside_);
  cancel_button->setObjectName("arrange_cancel");
  connect(cancel_button, &QPushButton::clicked, this, &ArrangeSheet::cancel);
  buttons->addWidget(make_button);
  buttons->addWidget(cancel_button);
  grid_->addLayout(buttons, grid_->rowCount(), 0, 1, 3);
  inside_->show();
  adjustSize();
  show();
  raise();
  show_outcome();
}

void ArrangeSheet::show_outcome() {
  std::size_t made = 0;
  if (what_ == What::grid) array_.step = extent_ + gaps_;
  scatter_.seed = static_cast<std::uint64_t>(std::clamp(std::round(seed_), 0.0, 9e15));
  session_.let_go();
  session_.try_out([&](Scene& scene) {
    made = what_ == What::scatter ? scatter(scene, names_.back(), scatter_).size()
                                  : array_of(scene, names_, array_).size();
  });
  note_->setText(made == 0 ? "nothing to make with these numbers" : QString("%1 new bodies").arg(made));
}

void ArrangeSheet::make() {
  const QString what = names_.size() == 1 ? QString::fromStdString(names_[0]) : QString("%1 bodies").arg(names_.size());
  session_.settle(what + (what_ == What::line   ? ": in a line"
                          : what_ == What::grid ? ": in a grid"
                          : what_ == What::ring ? ": in a ring"
                                                : ": scattered"));
  hide();
}

void ArrangeSheet::cancel() {
  session_.let_go();
  hide();
}

void ArrangeSheet::hideEvent(QHideEvent* event) {
  session_.let_go();
  QFrame::hideEvent(event);
}

}  // namespace bronvel
