// The stage's drawing and mouse.
#include "app/stage.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>

#include "app/theme.h"
#include "geometry/ray.h"

namespace bronvel {

// Names, plumb lines and arrows over the picture, in ink.
class Stage::Notes : public QWidget {
 public:
  explicit Notes(Stage& stage) : QWidget(&stage), stage_(stage) { setAttribute(Qt::WA_TransparentForMouseEvents); }

  // Only what the notes cover, before and now: repainting the whole stage is dear without graphics hardware.
  void renew() {
    const QRect now = stage_.draw_notes(nullptr);
    update(covered_.united(now));
    covered_ = now;
  }

 private:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    stage_.draw_notes(&painter);
  }
  Stage& stage_;
  QRect covered_;
};

Stage::Stage(Session& session, QWidget* parent) : QOpenGLWidget(parent), session_(session), notes_(new Notes(*this)) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(320, 240);
  setToolTip("");
  connect(&session_, &Session::opened, this, [this] { camera_.view = session_.scene().view; });
  connect(&session_, &Session::refreshed, this, [this] { update(); });
  connect(&session_, &Session::chosen_changed, this, [this] { update(); });
  connect(&session_, &Session::document_changed, this, [this] { update(); });
}

Stage::~Stage() = default;

void Stage::initializeGL() {
  working_ = renderer_.start();
  if (renderer_.plain()) emit drawn_plainly();
}

void Stage::paintGL() {
  ++frames_drawn_;
  if (working_) {
    std::vector<BodyView> all = session_.bodies();
    all.insert(all.end(), session_.joints().begin(), session_.joints().end());
    renderer_.draw(camera_, size(), size() * devicePixelRatio(), all, session_.chosen());
  }
  notes_->renew();
}

void Stage::resizeEvent(QResizeEvent* event) {
  QOpenGLWidget::resizeEvent(event);
  notes_->setGeometry(rect());
}

void Stage::set_covered_right(double pixels) {
  if (camera_.covered_right == pixels) return;
  camera_.covered_right = pixels;
  update();
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
  if (!working_ && frames_drawn_ > 0) {
    if (painter) {
      painter->fillRect(rect(), theme::paper);
      painter->setPen(theme::ink);
      painter->drawText(rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap,
                        "The stage can't be drawn: " + renderer_.fault() + ". Everything else works.");
    }
    return rect();
  }
  QRectF covered;
  for (const BodyView& body : session_.bodies()) {
    if (body.name != session_.chosen() || body.kind == MotionKind::fixed) continue;
    // A plumb line from the body to what is under it, with the clear height.
    const Bounds bounds = shape_bounds(body.shape, body.pose);
    const Vec3 bottom(body.pose.position.x(), bounds.low.y(), body.pose.position.z());
    const auto ground = ground_below(bottom + Vec3(0, 1e-4, 0), body.name);
    bool seen = false;
    const QPointF top = camera_.pixel(bottom, size(), &seen);
    if (!seen) continue;
    if (ground && bottom.y() - *ground > 0.02) {
      const QPointF foot = camera_.pixel(Vec3(bottom.x(), *ground, bottom.z()), size());
      const QString text = QString::number(bottom.y() - *ground, 'f', 2) + " m";
      const QFont font = theme::numbers(11);
      const QPointF at = 0.5 * (top + foot) + QPointF(7, 4);
      const QRectF box = QFontMetricsF(font).boundingRect(text).translated(at).adjusted(-4, -2, 4, 2);
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
        painter->setBrush(QColor(251, 249, 244, 225));
        painter->drawRoundedRect(box, 3, 3);
        painter->setPen(theme::chosen);
        painter->drawText(at, text);
      }
    }
    const QPointF crown = camera_.pixel(Vec3(body.pose.position.x(), bounds.high.y(), body.pose.position.z()), size());
    const QFont font = theme::words(11, QFont::DemiBold);
    const QString name = QString::fromStdString(body.name);
    const double width = QFontMetricsF(font).horizontalAdvance(name);
    const QRectF tag(crown.x() - width / 2 - 7, crown.y() - 26, width + 14, 18);
    covered |= tag;
    if (painter) {
      painter->setFont(font);
      painter->setPen(QPen(theme::chosen, 1));
      painter->setBrush(QColor(251, 249, 244, 235));
      painter->drawRoundedRect(tag, 9, 9);
      painter->setPen(theme::chosen);
      painter->drawText(tag, Qt::AlignCenter, name);
    }
  }
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
  update();
}

void Stage::frame_chosen() {
  for (const BodyView& body : session_.bodies())
    if (body.name == session_.chosen()) camera_.frame(shape_bounds(body.shape, body.pose).grown(0.5));
  update();
}

void Stage::mousePressEvent(QMouseEvent* event) {
  pressed_at_ = last_ = event->position();
  dragging_ = false;
}

void Stage::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() == Qt::NoButton) return;
  const QPointF moved = event->position() - last_;
  if (!dragging_ && (event->position() - pressed_at_).manhattanLength() < 4) return;
  dragging_ = true;
  last_ = event->position();
  if ((event->buttons() & Qt::LeftButton) != 0 && (event->modifiers() & Qt::ShiftModifier) == 0)
    camera_.orbit(-0.35 * moved.x(), 0.3 * moved.y());
  else
    camera_.pan(moved, size());
  update();
}

void Stage::mouseReleaseEvent(QMouseEvent* event) {
  if (!dragging_ && event->button() == Qt::LeftButton) session_.choose(body_at(event->position()));
  dragging_ = false;
}

void Stage::wheelEvent(QWheelEvent* event) {
  camera_.zoom(std::pow(1.0015, -event->angleDelta().y()));
  update();
}

void Stage::keyPressEvent(QKeyEvent* event) {
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
      QOpenGLWidget::keyPressEvent(event);
      return;
  }
  update();
}

}  // namespace bronvel
