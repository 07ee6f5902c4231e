// Drawing the shelf and dragging from it.
#include "app/stage/shelf.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>

#include "app/kit/theme.h"
#include "scene/properties/aspects.h"

namespace bronvel {
namespace {

constexpr int item_width = 48, item_height = 50, board = 34, most_stamps = 4;
constexpr double oak_density = 700;  // kg/m³

Offer single(const char* name, const Shape& shape, MotionKind kind, const char* colour) {
  Body body;
  body.name = name;
  body.shape = shape;
  body.kind = kind;
  body.colour = colour;
  body.mass = shape_volume(shape) * oak_density;
  body.position.y() = -shape_bounds(shape, {}).low.y();
  return {name, "", {body}};
}

// What stands on the board, its foot in the middle of the item.
void draw_item(QPainter& p, const Offer& offer, const QPointF& foot) {
  const QColor face(QString::fromStdString(offer.bodies.front().colour));
  p.setPen(QPen(theme::ink, 1.2));
  p.setBrush(face);
  const auto box = [&](double w, double h, double d) {
    const QRectF front(foot.x() - w / 2 - d / 2, foot.y() - h, w, h);
    QPolygonF top(
        {front.topLeft(), front.topLeft() + QPointF(d, -d), front.topRight() + QPointF(d, -d), front.topRight()});
    QPolygonF side({front.topRight(), front.topRight() + QPointF(d, -d), front.bottomRight() + QPointF(d, -d),
                    front.bottomRight()});
    p.drawRect(front);
    p.setBrush(face.lighter(115));
    p.drawPolygon(top);
    p.setBrush(face.darker(115));
    p.drawPolygon(side);
  };
  if (!offer.stamp.empty()) {
    // A stamp: a small pile under a dotted frame.
    box(9, 9, 3);
    p.translate(11, 0);
    p.setBrush(face);
    box(9, 9, 3);
    p.translate(-6, -9);
    p.setBrush(face);
    box(9, 8, 3);
    p.translate(-5, 9);
    return;
  }
  const Shape& shape = offer.bodies.front().shape;
  if (std::holds_alternative<Sphere>(shape)) {
    p.drawEllipse(QPointF(foot.x(), foot.y() - 10), 10, 10);
  } else if (std::holds_alternative<Cylinder>(shape)) {
    p.drawRect(QRectF(foot.x() - 8, foot.y() - 20, 16, 17));
    p.drawChord(QRectF(foot.x() - 8, foot.y() - 6, 16, 6), 180 * 16, 180 * 16);
    p.setBrush(face.lighter(115));
    p.drawEllipse(QPointF(foot.x(), foot.y() - 20), 8, 3);
  } else if (std::holds_alternative<Cone>(shape)) {
    QPainterPath path;
    path.moveTo(foot.x() - 10, foot.y() - 3);
    path.lineTo(foot.x(), foot.y() - 23);
    path.lineTo(foot.x() + 10, foot.y() - 3);
    path.quadTo(foot.x(), foot.y() + 3, foot.x() - 10, foot.y() - 3);
    p.drawPath(path);
  } else if (std::holds_alternative<Capsule>(shape)) {
    p.drawRoundedRect(QRectF(foot.x() - 6, foot.y() - 24, 12, 24), 6, 6);
  } else if (const auto* b = std::get_if<Box>(&shape)) {
    if (b->size.x() < 1)
      box(15, 15, 5);
    else if (b->size.x() < 4)
      box(27, 3, 5);
    else
      box(24, 6, 9);
  }
}

}  // namespace

Shelf::Shelf(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName("shelf");
  setMouseTracking(true);
  setCursor(Qt::OpenHandCursor);
  connect(&session_, &Session::document_changed, this, &Shelf::refill);
  connect(&session_, &Session::opened, this, &Shelf::refill);
  refill();
}

void Shelf::refill() {
  items_.clear();
  const auto dynamic = MotionKind::dynamic;
  items_.push_back(single("ball", Sphere{0.4}, dynamic, "#C08A4E"));
  items_.push_back(single("box", Box{{0.8, 0.8, 0.8}}, dynamic, "#B98B52"));
  items_.push_back(single("plank", Box{{2, 0.08, 0.3}}, dynamic, "#C9A36B"));
  items_.push_back(single("cask", Cylinder{0.3, 0.8}, dynamic, "#A87443"));
  items_.push_back(single("cone", Cone{0.4, 0.8}, dynamic, "#B5653A"));
  items_.push_back(single("capsule", Capsule{0.25, 0.6}, dynamic, "#8C9A6B"));
  items_.push_back(single("slab", Box{{8, 0.5, 8}}, MotionKind::fixed, "#9A9C98"));
  int stamps = 0;
  for (const Stamp& stamp : session_.scene().stamps)
    if (!stamp.bodies.empty() && stamps++ < most_stamps) items_.push_back({stamp.name, stamp.name, stamp.bodies});
  updateGeometry();
  adjustSize();
  update();
}

QSize Shelf::sizeHint() const {
  // One more place: for meshes from a file.
  return {static_cast<int>(items_.size() + 1) * item_width + 10, item_height};
}

QPoint Shelf::place_of(const std::string& label) const {
  for (std::size_t i = 0; i < items_.size(); ++i)
    if (items_[i].label == label) return {5 + static_cast<int>(i) * item_width + item_width / 2, board - 8};
  if (label == "mesh") return {5 + static_cast<int>(items_.size()) * item_width + item_width / 2, board - 8};
  return {-1, -1};
}

int Shelf::item_at(const QPoint& at) const {
  if (at.y() < 0 || at.y() >= item_height || at.x() < 5) return -1;
  const int item = (at.x() - 5) / item_width;
  return item <= static_cast<int>(items_.size()) ? item : -1;
}

void Shelf::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(theme::veil(215));
  p.drawRoundedRect(rect(), 8, 8);
  p.setPen(QPen(theme::ink, 1.6));
  p.drawLine(6, board, width() - 6, board);
  p.setFont(theme::words(10));
  for (int i = 0; i <= static_cast<int>(items_.size()); ++i) {
    const QRect place(5 + i * item_width, 0, item_width, item_height);
    const bool last = i == static_cast<int>(items_.size());
    if (i == hovered_) {
      p.setPen(Qt::NoPen);
      p.setBrush(theme::chosen_wash);
      p.drawRoundedRect(place.adjusted(1, 2, -1, board - item_height - 1), 5, 5);
    }
    p.save();
    if (last) {
      p.setPen(QPen(theme::ink, 1.1));
      p.setBrush(Qt::NoBrush);
      // Triangles, as of a mesh.
      const QPointF f(place.center().x(), board - 1);
      const QPointF a = f + QPointF(-11, 0), b = f + QPointF(11, 0), c = f + QPointF(-4, -21), d = f + QPointF(8, -14);
      for (const auto& [from, to] : {std::pair(a, b), {a, c}, {c, d}, {d, b}, {c, b}, {a, d}}) p.drawLine(from, to);
    } else {
      draw_item(p, items_[static_cast<std::size_t>(i)], QPointF(place.center().x(), board - 1));
    }
    p.restore();
    p.setPen(i == hovered_ ? theme::chosen : theme::faint_ink);
    const QString label = last ? "mesh…" : QString::fromStdString(items_[static_cast<std::size_t>(i)].label);
    p.drawText(QRect(place.x(), board + 1, item_width, item_height - board - 1), Qt::AlignCenter,
               p.fontMetrics().elidedText(label, Qt::ElideRight, item_width - 2));
  }
}

bool Shelf::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    const int item = item_at(help->pos());
    QString tip;
    if (item == static_cast<int>(items_.size()))
      tip = "a mesh from an OBJ, STL or glTF file";
    else if (item >= 0) {
      const Offer& offer = items_[static_cast<std::size_t>(item)];
      tip = offer.stamp.empty()
                ? QString::fromStdString(shape_text(offer.bodies.front().shape)) +
                      "\ndrag it onto the stage, or click to put it in the middle"
                : "stamp of " + QString::number(offer.bodies.size()) + " bodies\ndrag it onto the stage";
    }
    QToolTip::showText(help->globalPos(), tip, this);
    return true;
  }
  return QWidget::event(event);
}

void Shelf::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = item_at(event->pos());
  pressed_at_ = event->pos();
  moved_ = false;
}

void Shelf::mouseMoveEvent(QMouseEvent* event) {
  if (held_ < 0 || (event->buttons() & Qt::LeftButton) == 0) {
    const int now = item_at(event->pos());
    if (now != hovered_) {
      hovered_ = now;
      update();
    }
    return;
  }
  if (held_ >= static_cast<int>(items_.size())) return;
  if (!moved_ && (event->pos() - pressed_at_).manhattanLength() < 5) return;
  moved_ = true;
  if (rect().contains(event->pos()))
    emit put_back();
  else
    emit offered(items_[static_cast<std::size_t>(held_)], event->globalPosition().toPoint());
}

void Shelf::mouseReleaseEvent(QMouseEvent* event) {
  const int held = held_;
  held_ = -1;
  if (held < 0) return;
  if (held >= static_cast<int>(items_.size())) {
    emit mesh_asked();
    return;
  }
  const Offer offer = items_[static_cast<std::size_t>(held)];
  if (!moved_)
    emit taken(offer);
  else if (rect().contains(event->pos()))
    emit put_back();
  else
    emit dropped(offer, event->globalPosition().toPoint());
}

void Shelf::leaveEvent(QEvent*) {
  hovered_ = -1;
  update();
}

}  // namespace bronvel
