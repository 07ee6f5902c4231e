// The stage's drawing and mouse.
#include "app/stage/stage.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <set>

#include "app/kit/theme.h"
#include "app/session/why.h"
#include "app/session/wishes.h"
#include "app/stage/fan.h"
#include "geometry/queries/ray.h"

namespace bronvel {

Stage::Stage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(320, 240);
  setAttribute(Qt::WA_OpaquePaintEvent);
  setToolTip("");
  tools_ = new StageTools(session_, this);
  connect(&session_.wishes(), &Wishes::changed, this, &Stage::redraw);
  connect(&session_.wishes(), &Wishes::pointed_changed, this, &Stage::redraw);
  chips_ = new TakeChips(session_, marks_, this);
  connect(chips_, &TakeChips::switched, this, [this] { redraw(); });
  connect(&session_.why(), &Why::changed, this, &Stage::renew_notes);
  connect(&session_.why(), &Why::pointed_changed, this, &Stage::renew_notes);
  connect(&session_, &Session::takes_changed, this, [this] { take_drawing_.forget(); });
  connect(&session_, &Session::opened, this, [this] { take_drawing_.forget(); });
  connect(&session_, &Session::opened, this, [this] {
    camera_.view = session_.scene().view;
    was_planar_ = session_.scene().world.planar;
  });
  connect(&session_, &Session::refreshed, this, [this] { redraw(); });
  connect(&session_, &Session::chosen_changed, this, [this] { redraw(); });
  connect(&session_, &Session::document_changed, this, [this] {
    let_go_of_what_is_gone();
    // A scene that becomes planar is looked at straight on.
    const bool planar = session_.scene().world.planar;
    if (planar && !was_planar_) look_from(0, 0, true);
    was_planar_ = planar;
    redraw();
  });
  setMouseTracking(true);
  connect(&session_, &Session::opened, this, [this] {
    handles_.cancel();
    picking_.reset();
    measure_.reset();
    follow("");
  });
  connect(&session_, &Session::play_state_changed, this, [this] {
    if (session_.building()) return;
    handles_.cancel();
    picking_.reset();
    hovered_ = {};
    setCursor(Qt::ArrowCursor);
  });
  constexpr int look_after = 4;  // ms
  look_.setInterval(look_after);
  connect(&look_, &QTimer::timeout, this, [this] { look_for_picture(); });
  ride_clock_.start();
  ride_.setInterval(40);
  connect(&ride_, &QTimer::timeout, this, [this] { renew_notes(); });
  connect(&session_, &Session::chosen_changed, this, [this] {
    hovered_ = {};
    if (session_.chosen_path())
      ride_.start();
    else
      ride_.stop();
  });
}

Stage::~Stage() = default;

void Stage::redraw() {
  stale_ = true;
  update();
}

// A new picture only where something of it changed; notes that come and go are painted over the last one.
void Stage::paintEvent(QPaintEvent* event) {
  if (stale_) draw_picture();
  QPainter painter(this);
  if (picture_.isNull())
    painter.fillRect(event->rect(), theme::paper);
  else
    painter.drawImage(0, 0, picture_);
  painter.setRenderHint(QPainter::Antialiasing);
  noted_ = draw_notes(&painter);
}

// Names, plumb lines and arrows, in ink. Only what they cover, before and now.
void Stage::renew_notes() {
  const QRect now = draw_notes(nullptr);
  update(noted_.united(now));
  noted_ = now;
}

// While a take is asked anew, cores are few: pictures are begun, and fetched when they are done, so that the window
// answers meanwhile. One that is there before is shown until then.
void Stage::draw_picture() {
  const bool may_wait = session_.asking() && !picture_.isNull();
  if (canvas_.begun()) {
    if (may_wait) return;  // this one first
    canvas_.read(picture_);
  }
  stale_ = false;
  ++frames_drawn_;
  if (!canvas_.started()) {
    canvas_.start();
    if (canvas_.renderer().plain()) emit drawn_plainly();
  }
  if (!followed_.empty())
    for (const BodyView& body : session_.bodies())
      if (body.name == followed_) {
        if (followed_at_) camera_.view.target += body.pose.position - *followed_at_;
        followed_at_ = body.pose.position;
      }
  session_.loudspeaker().queue()->set_ear(ear_of(camera_.view));
  if (canvas_.working()) {
    std::vector<BodyView> all = session_.bodies();
    all.insert(all.end(), session_.joints().begin(), session_.joints().end());
    all.insert(all.end(), offered_.begin(), offered_.end());
    const std::set<std::string> chosen(session_.chosen_bodies().begin(), session_.chosen_bodies().end());
    const double ratio = devicePixelRatioF();
    if (may_wait && canvas_.begin(camera_, size(), ratio, all, chosen, session_.waters())) {
      look_.start();
      return;
    }
    canvas_.draw(picture_, camera_, size(), ratio, all, chosen, session_.waters());
  }
  emit drawn();
}

void Stage::look_for_picture() {
  if (!canvas_.begun()) return look_.stop();
  if (!canvas_.ready()) return;
  look_.stop();
  canvas_.read(picture_);
  emit drawn();
  update();
}

void Stage::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  stale_ = true;
}

void Stage::set_covered_right(double pixels) {
  if (camera_.covered_right == pixels) return;
  camera_.covered_right = pixels;
  redraw();
}

// Height of the highest surface straight below the point.
std::optional<double> Stage::ground_below(const Vec3& point, const std::string& except) const {
  double best = point.y() >= 0 ? point.y() : 1e300;
  for (const BodyView& body : session_.bodies()) {
    if (body.name == except) continue;
    const auto hit = cast_ray(body.shape, body.pose, point, -Vec3::Unit(1), best);
    if (hit) best = std::min(best, hit->distance);
  }
  return best < 1e299 ? std::optional(point.y() - best) : std::nullopt;
}

QRect Stage::draw_notes(QPainter* painter) const {
  if (!canvas_.working() && frames_drawn_ > 0) {
    if (painter) {
      painter->fillRect(rect(), theme::paper);
      painter->setPen(theme::ink);
      painter->drawText(rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap,
                        "The stage can't be drawn: " + canvas_.fault() + ". Everything else works.");
    }
    return rect();
  }
  TakenPlaces taken;
  Pencil pencil(painter, camera_, size(), taken);
  draw_over_stage(pencil, session_, hand_line_);
  draw_fan(pencil, session_);
  take_drawing_.draw(pencil, session_, marks_);
  if (marks_.forces) force_arrows_.draw(pencil, session_);
  QRectF covered;
  for (const BodyView& body : session_.bodies()) {
    if (body.name != session_.chosen() || body.kind == MotionKind::fixed || body.piece) continue;
    // A plumb line from the body to what is under it, with the clear height.
    const Bounds bounds = shape_bounds(body.shape, body.pose);
    const Vec3 bottom(body.pose.position.x(), bounds.low.y(), body.pose.position.z());
    const auto ground = ground_below(bottom + Vec3(0, 1e-4, 0), body.name);
    bool seen = false;
    const QPointF top = camera_.pixel(bottom, size(), &seen);
    if (!seen) continue;
    if (ground && bottom.y() - *ground > 0.02 && !session_.chosen_floating()) {
      const QPointF foot = camera_.pixel(Vec3(bottom.x(), *ground, bottom.z()), size());
      const QString text = QString::number(bottom.y() - *ground, 'f', 2) + " m";
      const QFont font = theme::numbers(11);
      const QPointF at = 0.5 * (top + foot) + QPointF(7, 4);
      const QRectF beside = QFontMetricsF(font).boundingRect(text).translated(at).adjusted(-4, -2, 4, 2);
      const QRectF box = taken.free_near(beside);
      taken.take(box);
      covered |= box | QRectF(foot - QPointF(6, 2), foot + QPointF(6, 2)) | QRectF(top, QSizeF(1, 1));
      if (painter) {
        QPen pen(theme::chosen, 1.2);
        pen.setDashPattern({2, 3});
        painter->setPen(pen);
        painter->drawLine(top, foot);
        painter->setPen(QPen(theme::chosen, 1.2));
        painter->drawLine(foot - QPointF(5, 0), foot + QPointF(5, 0));
        painter->setFont(font);
        painter->setPen(Qt::NoPen);
        painter->setBrush(theme::veil(225));
        painter->drawRoundedRect(box, 3, 3);
        painter->setPen(theme::chosen);
        painter->drawText(at + box.topLeft() - beside.topLeft(), text);
      }
    }
    // Above the arrow that points up from it.
    const bool editing = session_.building();
    const QPointF crown = camera_.pixel(Vec3(body.pose.position.x(), bounds.high.y(), body.pose.position.z()), size());
    const QFont font = theme::words(11, QFont::DemiBold);
    const QString name = QString::fromStdString(body.name);
    const double width = QFontMetricsF(font).horizontalAdvance(name);
    const QRectF tag = taken.free_near({crown.x() - width / 2 - 7, crown.y() - (editing ? 82 : 26), width + 14, 18});
    taken.take(tag);
    covered |= tag;
    if (painter) {
      painter->setFont(font);
      painter->setPen(QPen(theme::chosen, 1));
      painter->setBrush(theme::veil(235));
      painter->drawRoundedRect(tag, 9, 9);
      painter->setPen(theme::chosen);
      painter->drawText(tag, Qt::AlignCenter, name);
    }
  }
  draw_building(pencil);
  covered |= pencil.covered;
  return covered.toAlignedRect().adjusted(-2, -2, 2, 2);
}

std::string Stage::body_at(const QPointF& pixel) const {
  const ViewRay ray = camera_.ray(pixel, size());
  double nearest = 1e9;
  std::string found;
  for (const BodyView& body : session_.bodies()) {
    const auto hit = cast_ray(body.shape, body.pose, ray.origin, ray.direction, nearest);
    if (!hit || hit->distance >= nearest) continue;
    nearest = hit->distance;
    found = body.name;
  }
  return found;
}

QPointF Stage::pixel_of(const std::string& name) const {
  for (const BodyView& body : session_.bodies())
    if (body.name == name) return camera_.pixel(body.pose.position, size());
  return {-1, -1};
}

void Stage::frame_all() {
  std::optional<Bounds> all;
  for (const BodyView& body : session_.bodies()) {
    const Bounds b = shape_bounds(body.shape, body.pose);
    all = all ? all->joined(b) : b;
  }
  if (all) camera_.frame(*all);
  redraw();
}

void Stage::frame_chosen() {
  for (const BodyView& body : session_.bodies())
    if (body.name == session_.chosen()) camera_.frame(shape_bounds(body.shape, body.pose).grown(0.5));
  redraw();
}

namespace {

// What our key names call it; "" for keys that no action can have.
std::string key_name(int key) {
  if (key >= Qt::Key_A && key <= Qt::Key_Z) return std::string(1, static_cast<char>('a' + key - Qt::Key_A));
  if (key >= Qt::Key_0 && key <= Qt::Key_9) return std::string(1, static_cast<char>('0' + key - Qt::Key_0));
  switch (key) {
    case Qt::Key_Space:
      return "space";
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return "enter";
    case Qt::Key_Shift:
      return "shift";
    case Qt::Key_Control:
      return "ctrl";
    case Qt::Key_Left:
      return "left";
    case Qt::Key_Right:
      return "right";
    case Qt::Key_Up:
      return "up";
    case Qt::Key_Down:
      return "down";
    default:
      return "";
  }
}

std::string button_name(Qt::MouseButton button) {
  return button == Qt::LeftButton ? "mouse_left" : button == Qt::RightButton ? "mouse_right" : "mouse_middle";
}

}  // namespace

std::optional<Vec3> Stage::place_at(const QPointF& pixel) const {
  const ViewRay ray = camera_.ray(pixel, size());
  double nearest = 1e6;
  for (const BodyView& body : session_.bodies())
    if (const auto hit = cast_ray(body.shape, body.pose, ray.origin, ray.direction, nearest)) nearest = hit->distance;
  if (nearest < 1e6) return ray.origin + nearest * ray.direction;
  if (ray.direction.y() > -1e-6) return std::nullopt;
  return Vec3(ray.origin - ray.direction * (ray.origin.y() / ray.direction.y()));
}

void Stage::keyReleaseEvent(QKeyEvent* event) {
  const std::string name = key_name(event->key());
  if (!event->isAutoRepeat() && !name.empty() && session_.key(name, false)) return;
  QWidget::keyReleaseEvent(event);
}

void Stage::focusOutEvent(QFocusEvent* event) {
  // A key that is let go elsewhere would stay held.
  session_.release_keys();
  QWidget::focusOutEvent(event);
}

void Stage::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (session_.live_play()) session_.key(button_name(event->button()), true);
  pressed_at_ = last_ = mouse_ = event->position();
  dragging_ = false;
  if (event->button() != Qt::LeftButton) return;
  if (begin_hand(event->position())) {
    dragging_ = true;
    return;
  }
  if (!session_.building() || picking_) return;
  const std::string under = body_at(event->position());
  if ((event->modifiers() & Qt::ShiftModifier) != 0) {
    if (under.empty()) box_ = {event->position(), event->position()};
    return;
  }
  handles_.begin(handles_.at(event->position(), camera_, size(), under), event->position(), camera_, size());
}

void Stage::mouseMoveEvent(QMouseEvent* event) {
  mouse_ = event->position();
  if (session_.live_play()) {
    const ViewRay ray = camera_.ray(mouse_, size());
    session_.point(ray.origin, ray.direction);
  }
  if (event->buttons() == Qt::NoButton) {
    if (!session_.building() || picking_) {
      if (picking_)
        renew_notes();
      else
        session_.why().point_at(marks_.forces ? force_arrows_.near(event->position()) : std::nullopt);
      return;
    }
    const Grip now = handles_.at(event->position(), camera_, size(), body_at(event->position()));
    if (!(now == hovered_)) {
      hovered_ = now;
      setToolTip(Handles::about(now));
      setCursor(now.kind == Grip::Kind::none ? Qt::ArrowCursor : Qt::SizeAllCursor);
      renew_notes();
    }
    return;
  }
  if (!held_.empty()) {
    // Shift carries it along the floor; from where it is, whichever way it went before.
    const bool floor = (event->modifiers() & Qt::ShiftModifier) != 0;
    if (floor != along_floor_) hand_plane_ = hand_at_;
    along_floor_ = floor;
    move_hand(event->position());
    return;
  }
  if (blade_) {
    move_blade(event->position());
    return;
  }
  const QPointF moved = event->position() - last_;
  if (!dragging_ && (event->position() - pressed_at_).manhattanLength() < 4) return;
  dragging_ = true;
  last_ = event->position();
  if (handles_.active()) {
    handles_.move(event->position(), camera_, size(), (event->modifiers() & Qt::ControlModifier) != 0);
    return;
  }
  if (box_) {
    box_->second = event->position();
    redraw();
    return;
  }
  if ((event->buttons() & Qt::LeftButton) != 0 && (event->modifiers() & Qt::ShiftModifier) == 0)
    camera_.orbit(-0.35 * moved.x(), 0.3 * moved.y());
  else
    camera_.pan(moved, size());
  redraw();
}

void Stage::mouseReleaseEvent(QMouseEvent* event) {
  session_.key(button_name(event->button()), false);
  if (!held_.empty() && event->button() == Qt::LeftButton) {
    end_hand(event->position());
    dragging_ = false;
    return;
  }
  if (blade_ && event->button() == Qt::LeftButton) {
    end_blade(event->position());
    dragging_ = false;
    return;
  }
  const bool clicked = !dragging_ && event->button() == Qt::LeftButton;
  dragging_ = false;
  if (handles_.active() && !clicked) {
    handles_.end();
    return;
  }
  const Grip grip = handles_.grip();
  handles_.cancel();
  if (box_) {
    const auto box = *box_;
    box_.reset();
    if (!clicked) choose_in_box(box.first, box.second);
    redraw();
    return;
  }
  if (!clicked) return;
  if (picking_) {
    pick(event->position());
    return;
  }
  if (grip.kind == Grip::Kind::path_point) {
    renew_notes();
    return;
  }
  if (session_.in_past()) {
    const Pencil pencil(nullptr, camera_, size());
    if (const auto hit = TakeDrawing::hit_near(pencil, session_, marks_, event->position())) {
      emit hit_asked(*hit);
      return;
    }
  }
  const std::string under = body_at(event->position());
  if ((event->modifiers() & Qt::ShiftModifier) != 0 && !under.empty()) {
    session_.choose_also(under);
    return;
  }
  // Joints, zones and paths are drawn over bodies: their labels and points come first.
  if (const auto thing = thing_at(event->position()))
    session_.choose_thing(thing->first, thing->second);
  else
    session_.choose(under);
}

void Stage::wheelEvent(QWheelEvent* event) {
  if (!held_.empty()) {
    wheel_hand(event->angleDelta().y() / 120.0);
    move_hand(event->position());
    return;
  }
  camera_.zoom(std::pow(1.0015, -event->angleDelta().y()));
  redraw();
}

// The play head's keys; the arrows turn the view with Ctrl then.
bool Stage::head_key(QKeyEvent* event) {
  if ((event->modifiers() & Qt::ControlModifier) != 0) return false;
  constexpr std::int64_t far = std::int64_t{1} << 40;
  const std::int64_t step = (event->modifiers() & Qt::ShiftModifier) != 0 ? 10 : 1;
  switch (event->key()) {
    case Qt::Key_Left:
      session_.step_head(-step);
      return true;
    case Qt::Key_Right:
      session_.step_head(step);
      return true;
    case Qt::Key_Home:
      session_.look_at_tick(0);
      return true;
    case Qt::Key_End:
      session_.look_at_tick(far);
      return true;
    case Qt::Key_Escape:
      session_.live();
      return true;
    default:
      return false;
  }
}

void Stage::keyPressEvent(QKeyEvent* event) {
  // The scene's own actions come first while it plays; then the tools; then the view.
  const bool plays = session_.live_play();
  const std::string name = key_name(event->key());
  if (plays && !name.empty()) {
    if (event->isAutoRepeat() || session_.key(name, true)) return;
    if (name.size() == 1 && name[0] >= '1' && name[0] <= '5') {
      tools_->take(static_cast<Tool>(name[0] - '1'));
      return;
    }
  }
  if (session_.in_past() && head_key(event)) return;
  if (session_.building() && build_key(event)) return;
  switch (event->key()) {
    case Qt::Key_Left:
      camera_.orbit(-6, 0);
      break;
    case Qt::Key_Right:
      camera_.orbit(6, 0);
      break;
    case Qt::Key_Up:
      camera_.orbit(0, 4);
      break;
    case Qt::Key_Down:
      camera_.orbit(0, -4);
      break;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      camera_.zoom(0.9);
      break;
    case Qt::Key_Minus:
      camera_.zoom(1 / 0.9);
      break;
    case Qt::Key_F:
      frame_chosen();
      break;
    case Qt::Key_A:
      frame_all();
      break;
    default:
      QWidget::keyPressEvent(event);
      return;
  }
  redraw();
}

}  // namespace bronvel
