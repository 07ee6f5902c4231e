// What the card says of the moment: readings above all else, live or of a take.
#include "app/card/card.h"
#include "app/kit/lane_drag.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "scene/document/ways.h"

namespace bronvel {
namespace {

// "−Z", or "near −Z" where it only leans that way.
QString nearest_axis(const Vec3& direction) {
  int axis = 0;
  direction.cwiseAbs().maxCoeff(&axis);
  constexpr double straight = 1 - 1e-6;
  return QString(std::abs(direction[axis]) > straight ? "" : "near ") + (direction[axis] < 0 ? "−" : "+") + "XYZ"[axis];
}

}  // namespace

// A number of the moment that can be dragged down to become a lane.
QLabel* Card::add_lane_reading(const char* name, const char* unit, const char* channel, const QString& tip) {
  QLabel* label = rows_->add_reading(name, unit, tip + "; drag it down to make it a lane");
  label->setObjectName(QString("now_") + channel);
  make_lane_source(label, [this, channel] { return QString::fromStdString(session_.chosen_thing()) + "." + channel; });
  return label;
}

// Readings of the moment, above all else.
void Card::add_now() {
  rows_->add_question("Right now");
  speed_ = add_lane_reading("speed", "m/s", "speed", "of the centre of mass");
  height_ = add_lane_reading("height", "m", "height", "of the body's middle above the floor");
  energy_ = add_lane_reading("energy", "J", "kinetic_energy", "of its moving and turning");
  weight_ =
      rows_->add_reading("weight", "N", "mass × gravity × its gravity factor: a steady force of that size holds it up");
  weight_->setObjectName("now_weight");
  place_ = theme::label(theme::numbers(11), theme::faint_ink, rows_->inside());
  place_->setToolTip("position x, y, z of the body's middle [m]; drag it down for three lanes");
  make_lane_source(place_, [this] { return QString::fromStdString(session_.chosen()) + ".position"; });
  rows_->add_wide(place_);
  state_ = theme::label(theme::words(11), theme::faint_ink, rows_->inside());
  state_->setWordWrap(true);
  rows_->add_wide(state_);
}

void Card::show_readings() {
  // What play made comes and goes with it.
  if (rows_ && session_.chosen_kind() == ThingKind::body && session_.chosen_in_document().empty() &&
      structure() != built_for_)
    return rebuild();
  const auto reading = session_.chosen_reading();
  // One moment for all of the card: fields that move by themselves are read with the readings above them.
  if (session_.live_play() && rows_ && isVisible()) rows_->renew();
  // While a take is looked at, what is set is the scene's: where it starts from.
  if (where_)
    where_->setText(session_.in_past() && session_.play_state() == Session::PlayState::editing ? "Where does it start?"
                                                                                               : "Where is it?");
  if (holds_) {
    const auto joint = session_.joint_reading();
    holds_->setText(joint ? short_number(joint->force.norm()) : "–");
    travel_->setText(joint ? short_number(joint->position) : "–");
    rate_->setText(joint ? short_number(joint->speed) : "–");
  }
  if (!speed_) return;
  const EntryNames names = session_.entry_names();
  const auto weight = names.find("weight");
  const Body* body = session_.scene().find(session_.chosen());
  const bool weighs = weight != names.end() && body && body->kind == MotionKind::dynamic;
  weight_->setText(weighs ? short_number(weight->second) : "–");
  if (reading && session_.chosen_in_document().size() == 1) show_kind(reading->kind);
  if (!reading) {
    for (QLabel* label : {speed_, height_, energy_, place_}) label->setText("");
    state_->setText(session_.in_past() ? "not there at this moment" : "");
    return;
  }
  const auto fixed = [](double x) { return QString::number(x, 'f', 2); };
  const Vec3& at = reading->pose.position;
  speed_->setText(fixed(reading->velocity.norm()));
  height_->setText(fixed(at.y()));
  energy_->setText(short_number(kinetic_energy(*reading)));
  place_->setText(QString("x %1  y %2  z %3").arg(fixed(at.x()), 6).arg(fixed(at.y()), 6).arg(fixed(at.z()), 6));
  bool asleep = false;
  for (const BodyView& view : session_.bodies())
    if (view.name == session_.chosen()) asleep = view.asleep;
  // Where its nose points, as body.forward gives it.
  const Vec3 nose = reading->pose.orientation * ways_of_body(session_.scene().world).forward;
  state_->setText((session_.building() ? QString("at the start of play")
                   : asleep            ? "asleep: at rest, costs nothing"
                                       : "awake") +
                  " · forward " + nearest_axis(nose));
}

// A script may have made something else of it since the scene said what it is.
void Card::show_kind(MotionKind kind) {
  const QString shape = kind_->text().section(" · ", 1);
  const QString words = QString::fromStdString(kind_word(kind)) + " · " + shape;
  if (!shape.isEmpty() && kind_->text() != words) kind_->setText(words);
}

}  // namespace bronvel
