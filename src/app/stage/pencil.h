// Drawing over the stage in metres: lines, arrows, dots and words, and what they cover.
#pragma once

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <optional>
#include <vector>

#include "app/kit/theme.h"
#include "app/stage/camera.h"

namespace bronvel {

/// Where words stand over the stage, so that others keep clear of them.
class TakenPlaces {
 public:
  void take(const QRectF& box) { boxes_.push_back(box); }

  /// The box, or the nearest above or below it that is free; as it is where none of them is.
  QRectF free_near(const QRectF& box) const {
    for (int i = 0; i < 9; ++i) {
      const int away = (i + 1) / 2, rows = i % 2 == 0 ? -away : away;
      const QRectF tried = box.translated(0, rows * (box.height() + 2));
      if (std::none_of(boxes_.begin(), boxes_.end(), [&](const QRectF& each) { return each.intersects(tried); }))
        return tried;
    }
    return box;
  }

 private:
  std::vector<QRectF> boxes_;
};

/// Draws if there is a painter, and remembers what it covered either way.
class Pencil {
 public:
  Pencil(QPainter* painter, const Camera& camera, const QSize& size, TakenPlaces& taken)
      : painter_(painter), camera_(camera), size_(size), taken_(&taken) {}
  Pencil(QPainter* painter, const Camera& camera, const QSize& size)
      : painter_(painter), camera_(camera), size_(size) {}

  std::optional<QPointF> pixel(const Vec3& point) const {
    bool seen = false;
    const QPointF at = camera_.pixel(point, size_, &seen);
    return seen ? std::optional(at) : std::nullopt;
  }

  /// Whether the point is on the picture, clear of what covers it at the right.
  bool in_view(const Vec3& point) const {
    const auto at = pixel(point);
    return at && QRectF(0, 20, size_.width() - camera_.covered_right - 60, size_.height() - 20).contains(*at);
  }

  void line(const Vec3& from, const Vec3& to, const QPen& pen) {
    const auto a = pixel(from), b = pixel(to);
    if (!a || !b) return;
    cover(QRectF(*a, *b).normalized());
    if (!painter_) return;
    painter_->setPen(pen);
    painter_->drawLine(*a, *b);
  }

  void arrow(const Vec3& from, const Vec3& to, const QPen& pen) {
    line(from, to, pen);
    const auto a = pixel(from), b = pixel(to);
    if (!a || !b) return;
    const QPointF way = *b - *a;
    const double length = std::hypot(way.x(), way.y());
    if (length < 2 || !painter_) return;
    const QPointF along = way / length, across(-along.y(), along.x());
    QPainterPath head;
    head.moveTo(*b);
    head.lineTo(*b - along * 10 + across * 4);
    head.lineTo(*b - along * 10 - across * 4);
    head.closeSubpath();
    painter_->fillPath(head, pen.color());
  }

  void ring(const Vec3& middle, double pixels, const QPen& pen) {
    const auto at = pixel(middle);
    if (!at) return;
    cover(QRectF(at->x() - pixels, at->y() - pixels, 2 * pixels, 2 * pixels));
    if (!painter_) return;
    painter_->setPen(pen);
    painter_->setBrush(Qt::NoBrush);
    painter_->drawEllipse(*at, pixels, pixels);
  }

  /// Words in a box that stay where they are.
  void words(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour) {
    write(point, shift, text, colour, false);
  }

  /// The same, but they make room for what is there already.
  void words_aside(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour) {
    write(point, shift, text, colour, true);
  }

  /// How far apart two points are on the picture; far where one of them is not on it.
  double pixels_between(const Vec3& one, const Vec3& other) const {
    const auto a = pixel(one), b = pixel(other);
    return a && b ? std::hypot((*a - *b).x(), (*a - *b).y()) : 1e9;
  }

  double pixels_of(const Vec3& at, double metres) const {
    const auto a = pixel(at), b = pixel(at + Vec3(0, metres, 0));
    return a && b ? std::hypot((*a - *b).x(), (*a - *b).y()) : 0;
  }

  /// Metres that a length of pixels is at a point.
  double metres_of(const Vec3& at, double pixels) const {
    const Vec3 right = camera_.right();
    const auto a = pixel(at), b = pixel(at + right);
    const double one = a && b ? std::hypot((*a - *b).x(), (*a - *b).y()) : 0;
    return one > 1e-9 ? pixels / one : 0;
  }

  void dot(const Vec3& at, double pixels, const QColor& fill, const QColor& edge) {
    const auto middle = pixel(at);
    if (!middle) return;
    const QRectF box(middle->x() - pixels, middle->y() - pixels, 2 * pixels, 2 * pixels);
    take(box);
    cover(box);
    if (!painter_) return;
    painter_->setPen(QPen(edge, 1.4));
    painter_->setBrush(fill);
    painter_->drawEllipse(*middle, pixels, pixels);
  }

  /// A small filled dot that nothing has to make room for.
  void speck(const Vec3& at, double pixels, const QColor& fill) {
    const auto middle = pixel(at);
    if (!middle) return;
    cover(QRectF(middle->x() - pixels, middle->y() - pixels, 2 * pixels, 2 * pixels));
    if (!painter_) return;
    painter_->setPen(Qt::NoPen);
    painter_->setBrush(fill);
    painter_->drawEllipse(*middle, pixels, pixels);
  }

  /// A small filled triangle that stands on the point.
  void peg(const Vec3& at, double pixels, const QColor& fill, const QColor& edge) {
    const auto foot = pixel(at);
    if (!foot) return;
    cover(QRectF(foot->x() - pixels, foot->y(), 2 * pixels, 2 * pixels));
    if (!painter_) return;
    const QPointF corners[] = {*foot, *foot + QPointF(-pixels, 1.7 * pixels), *foot + QPointF(pixels, 1.7 * pixels)};
    painter_->setPen(QPen(edge, 1));
    painter_->setBrush(fill);
    painter_->drawPolygon(corners, 3);
  }

  /// Words without a box under them.
  void letter(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour) {
    const auto at = pixel(point);
    if (!at) return;
    const QFont font = theme::numbers(11, QFont::DemiBold);
    const QRectF box = QFontMetricsF(font).boundingRect(text).translated(*at + shift);
    take(box);
    cover(box);
    if (!painter_) return;
    // A rim of paper, so that they can be read on anything.
    QPainterPath outline;
    outline.addText(*at + shift, font, text);
    painter_->strokePath(outline, QPen(theme::veil(210), 3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter_->fillPath(outline, colour);
  }

  /// Words in a box at a pixel.
  void note(const QPointF& at, const QString& text, const QColor& colour) {
    if (text.isEmpty()) return;
    const QFont font = theme::numbers(12, QFont::Medium);
    const QRectF box = QFontMetricsF(font).boundingRect(text).translated(at).adjusted(-7, -4, 7, 4);
    cover(box);
    if (!painter_) return;
    painter_->setFont(font);
    painter_->setPen(QPen(colour, 1));
    painter_->setBrush(theme::veil(240));
    painter_->drawRoundedRect(box, 4, 4);
    painter_->setPen(colour);
    painter_->drawText(at, text);
  }

  /// A box being drawn.
  void frame(const QRectF& box, const QColor& colour) {
    cover(box);
    if (!painter_) return;
    QColor wash = colour;
    wash.setAlpha(30);
    painter_->setPen(QPen(colour, 1.2, Qt::DashLine));
    painter_->setBrush(wash);
    painter_->drawRect(box);
  }

  /// Points joined by lines.
  void stroke(const std::vector<Vec3>& points, const QPen& pen) {
    for (std::size_t i = 1; i < points.size(); ++i) line(points[i - 1], points[i], pen);
  }

  const Camera& camera() const { return camera_; }

  QRectF covered;

 private:
  void write(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour, bool aside) {
    const auto at = pixel(point);
    if (!at || text.isEmpty()) return;
    const QFont font = theme::numbers(11);
    const QRectF beside = QFontMetricsF(font).boundingRect(text).translated(*at + shift).adjusted(-4, -2, 4, 2);
    const QRectF wanted = kept_in_view(beside, *at);
    const QRectF box = aside && taken_ ? taken_->free_near(wanted) : wanted;
    take(box);
    cover(box);
    if (!painter_) return;
    painter_->setFont(font);
    painter_->setPen(Qt::NoPen);
    painter_->setBrush(theme::veil(225));
    painter_->drawRoundedRect(box, 3, 3);
    painter_->setPen(colour);
    painter_->drawText(*at + shift + box.topLeft() - beside.topLeft(), text);
  }
  // A box of words about what is at `at`: where it would stick out of the picture on the right it stands on the other
  // side of it, and is kept in the picture if the point is in it.
  QRectF kept_in_view(QRectF box, const QPointF& at) const {
    const QRectF view(0, 0, size_.width() - camera_.covered_right, size_.height());
    if (!view.contains(at)) return box;
    if (box.right() > view.right()) box.moveRight(2 * at.x() - box.left());
    box.moveLeft(std::clamp(box.left(), 0.0, std::max(0.0, view.right() - box.width())));
    box.moveTop(std::clamp(box.top(), 0.0, std::max(0.0, view.bottom() - box.height())));
    return box;
  }
  void take(const QRectF& box) {
    if (taken_) taken_->take(box);
  }
  void cover(const QRectF& box) { covered |= box.adjusted(-6, -6, 6, 6); }

  QPainter* painter_;
  const Camera& camera_;
  QSize size_;
  TakenPlaces* taken_ = nullptr;
};

}  // namespace bronvel
