// Building and filling the card.
#include "app/card.h"

#include <QGridLayout>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>
#include <exception>

#include "app/theme.h"

namespace bronvel {
namespace {

QLabel* label(const QString& text, const QFont& font, const QColor& colour, QWidget* parent) {
  return theme::label(font, colour, parent, text);
}

// What the card offers to set. Everything else is in the scene file for now.
const char* const shown[] = {"mass",     "gravity_factor", "surface",        "restitution",
                             "friction", "drag_area",      "linear_damping", "angular_damping"};

// A body's value for the card: its own, or what its surface gives.
double number_of(const Property& property, const Value& value, const Surface& surface) {
  if (const auto* x = std::get_if<double>(&value)) return *x;
  return property.name == "restitution" ? surface.restitution : surface.static_friction;
}

}  // namespace

Card::Card(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("card");
  setStyleSheet("#card { background: " + theme::sheet.name() + "; border: 1px solid " + theme::rule.name() +
                "; border-radius: 8px; }");
  setFixedWidth(272);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  connect(&session_, &Session::chosen_changed, this, &Card::rebuild);
  connect(&session_, &Session::opened, this, &Card::rebuild);
  connect(&session_, &Session::values_changed, this, &Card::show_values);
  connect(&session_, &Session::document_changed, this, &Card::show_values);
  connect(&session_, &Session::play_state_changed, this, &Card::show_values);
  connect(&session_, &Session::refreshed, this, &Card::show_readings);
  rebuild();
}

int Card::add_group(QGridLayout* grid, int row, const QString& question) {
  auto* head = label(question, theme::words(11, QFont::DemiBold), theme::chosen, inside_);
  head->setContentsMargins(0, row > 2 ? 6 : 2, 0, 0);
  grid->addWidget(head, row, 0, 1, 4);
  return row + 1;
}

int Card::add_number(QGridLayout* grid, int row, const Property& property) {
  const QString unit = QString::fromStdString(property.unit);
  const QString tip = QString::fromStdString(property.tip) + (unit.isEmpty() ? "" : " [" + unit + "]");
  auto* name = label(QString::fromStdString(property.label), theme::words(12), theme::ink, inside_);
  name->setToolTip(tip);
  auto* note = label("", theme::numbers(10), theme::faint_ink, inside_);
  note->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  auto* field = new NumberField(unit, inside_);
  field->setObjectName("card_" + QString::fromStdString(property.name));
  field->setFixedWidth(62);
  field->setFixedHeight(21);
  field->setToolTip(tip + "\nSums and prefixes work: 12*3, 2.5 k" + unit);
  field->setAccessibleName(QString::fromStdString(property.label));
  connect(field, &NumberField::entered, this,
          [this, &property](double value) { attempt([&] { session_.set_value(body_, property, value); }); });
  connect(field, &NumberField::cleared, this, [this, &property] {
    if (property.kind == PropertyKind::optional_number)
      attempt([&] { session_.set_value(body_, property, Value()); });
    else
      show_values();
  });
  connect(field, &NumberField::refused, &session_, &Session::said);
  grid->addWidget(name, row, 0);
  grid->addWidget(note, row, 1);
  grid->addWidget(field, row, 2);
  grid->addWidget(label(unit, theme::words(11), theme::faint_ink, inside_), row, 3);
  fields_[QString::fromStdString(property.name)] = field;
  notes_[QString::fromStdString(property.name)] = note;
  return row + 1;
}

int Card::add_surface(QGridLayout* grid, int row) {
  auto* name = label("surface", theme::words(12), theme::ink, inside_);
  surface_ = new QToolButton(inside_);
  surface_->setObjectName("card_surface");
  surface_->setFont(theme::numbers(12));
  surface_->setIcon(theme::icon("chevron", theme::faint_ink));
  surface_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  surface_->setLayoutDirection(Qt::RightToLeft);
  surface_->setPopupMode(QToolButton::InstantPopup);
  surface_->setIconSize({12, 12});
  surface_->setToolTip("friction and restitution come from this surface of the scene");
  auto* menu = new QMenu(surface_);
  for (const auto& [word, surface] : session_.scene().surfaces) {
    const QString about = QString("%1\tμ %2  e %3")
                              .arg(QString::fromStdString(word))
                              .arg(surface.static_friction)
                              .arg(surface.restitution);
    menu->addAction(about, this, [this, choice = word] {
      attempt([&] { session_.set_value(body_, *find_property("surface"), choice); });
    });
  }
  surface_->setMenu(menu);
  grid->addWidget(name, row, 0);
  grid->addWidget(surface_, row, 1, 1, 3, Qt::AlignRight);
  return row + 1;
}

QLabel* Card::add_reading(QGridLayout* grid, int row, const QString& name, const QString& unit, const QString& tip) {
  auto* text = label(name, theme::words(12), theme::ink, inside_);
  text->setToolTip(tip);
  auto* value = label("–", theme::numbers(12, QFont::Medium), theme::ink, inside_);
  value->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  value->setContentsMargins(0, 0, 7, 0);
  grid->addWidget(text, row, 0);
  grid->addWidget(value, row, 1, 1, 2);
  grid->addWidget(label(unit, theme::words(11), theme::faint_ink, inside_), row, 3);
  return value;
}

void Card::rebuild() {
  body_ = session_.chosen();
  fields_.clear();
  notes_.clear();
  surface_ = nullptr;
  delete inside_;
  inside_ = new QWidget(this);
  layout()->addWidget(inside_);
  const Body* body = session_.scene().find(body_);
  setVisible(body != nullptr);
  if (!body) return;
  auto* grid = new QGridLayout(inside_);
  grid->setContentsMargins(13, 9, 11, 11);
  grid->setHorizontalSpacing(5);
  grid->setVerticalSpacing(2);
  grid->setColumnStretch(1, 1);
  grid->setColumnMinimumWidth(3, 34);
  name_ = label(QString::fromStdString(body->name), theme::words(14, QFont::Bold), theme::ink, inside_);
  kind_ = label(QString::fromStdString(kind_word(body->kind)), theme::words(11), theme::faint_ink, inside_);
  kind_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  grid->addWidget(name_, 0, 0, 1, 2);
  grid->addWidget(kind_, 0, 2, 1, 2);
  auto* line = new QFrame(inside_);
  line->setFixedHeight(2);
  line->setStyleSheet("background: " + theme::chosen.name());
  grid->addWidget(line, 1, 0, 1, 4);

  int row = 2;
  std::string group;
  for (const char* name : shown) {
    const Property& property = *find_property(name);
    const bool moves = body->kind == MotionKind::dynamic;
    if (!moves && property.group != "How does it meet others?") continue;
    if (property.group != group) row = add_group(grid, row, QString::fromStdString(property.group));
    group = property.group;
    row = property.name == "surface" ? add_surface(grid, row) : add_number(grid, row, property);
    if (property.name == "mass") density_ = add_reading(grid, row++, "density", "kg/m³", "mass over volume");
  }
  if (body->kind != MotionKind::dynamic) density_ = nullptr;
  row = add_group(grid, row, "Right now");
  speed_ = add_reading(grid, row++, "speed", "m/s", "of the centre of mass");
  height_ = add_reading(grid, row++, "height", "m", "of the body's middle above the floor");
  position_ = label("", theme::numbers(11), theme::faint_ink, inside_);
  position_->setToolTip("position x, y, z of the body's middle [m]");
  grid->addWidget(position_, row++, 0, 1, 4);
  state_ = label("", theme::words(11), theme::faint_ink, inside_);
  grid->addWidget(state_, row++, 0, 1, 4);
  show_values();
  show_readings();
  inside_->show();
  adjustSize();
}

void Card::attempt(const std::function<void()>& change) {
  try {
    change();
  } catch (const std::exception& e) {
    emit session_.said(e.what());
    show_values();
  }
}

void Card::show_values() {
  const Body* body = session_.scene().find(body_);
  if (!body || !name_) {
    if (isVisible() || body) rebuild();
    return;
  }
  const Surface surface = session_.surface_now(body_), surface_before = surface_of(session_.scene(), *body);
  for (auto field = fields_.begin(); field != fields_.end(); ++field) {
    const Property& property = *find_property(field.key().toStdString());
    const Value now = session_.value(body_, property);
    const Value before = property.get(*body);
    const bool changed = !same_value(now, before);
    if (const auto* x = std::get_if<double>(&now))
      field.value()->show_value(*x);
    else
      field.value()->show_none(short_number(number_of(property, now, surface)));
    field.value()->setStyleSheet(changed ? "color: " + theme::accent.name() + "; font-weight: 600;" : "");
    notes_[field.key()]->setText(changed ? "was " + short_number(number_of(property, before, surface_before))
                                 : std::holds_alternative<std::monostate>(now) ? "surface's"
                                                                               : "");
  }
  if (surface_) {
    const Value now = session_.value(body_, *find_property("surface"));
    if (const auto* word = std::get_if<std::string>(&now))
      surface_->setText(word->empty() ? "none" : QString::fromStdString(*word));
  }
  if (density_) {
    const Value mass = session_.value(body_, *find_property("mass"));
    if (const auto* kilograms = std::get_if<double>(&mass))
      density_->setText(short_number(*kilograms / shape_volume(body->shape)));
  }
}

void Card::show_readings() {
  const auto motion = session_.chosen_motion();
  if (!motion || session_.chosen() != body_ || !speed_ || !inside_ || !session_.scene().find(body_)) return;
  const auto fixed = [](double x) { return QString::number(x, 'f', 2); };
  const Vec3& at = motion->pose.position;
  speed_->setText(fixed(motion->velocity.norm()));
  height_->setText(fixed(at.y()));
  position_->setText(QString("x %1  y %2  z %3").arg(fixed(at.x()), 6).arg(fixed(at.y()), 6).arg(fixed(at.z()), 6));
  bool asleep = false;
  for (const BodyView& view : session_.bodies())
    if (view.name == body_) asleep = view.asleep;
  const bool editing = session_.play_state() == Session::PlayState::editing;
  state_->setText(editing ? "at the start of play" : asleep ? "asleep: at rest, costs nothing" : "awake");
}

}  // namespace bronvel
