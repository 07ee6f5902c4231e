// Drawing over the stage in metres: lines, arrows, dots and words, and what they cover.
#pragma once

#include <QPainter>
#include <QPainterPath>
#include <optional>
#include <vector>

#include "app/camera.h"
#include "app/theme.h"

namespace bronvel {

/// Draws if there is a painter, and remembers what it covered either way.
class Pencil {
 public:
  Pencil(QPainter* painter, const Camera& camera, const QSize& size)
      : painter_(painter), camera_(camera), size_(size) {}

  std::optional<QPointF> pixel(const Vec3& point) const {
    bool seen = false;
    const QPointF at = camera_.pixel(point, size_, &seen);
    return seen ? std::optional(at) : std::nullopt;
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

  void words(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour) {
    const auto at = pixel(point);
    if (!at || text.isEmpty()) return;
    const QFont font = theme::numbers(11);
    const QRectF box = QFontMetricsF(font).boundingRect(text).translated(*at + shift).adjusted(-4, -2, 4, 2);
    cover(box);
    if (!painter_) return;
    painter_->setFont(font);
    painter_->setPen(Qt::NoPen);
    painter_->setBrush(QColor(251, 249, 244, 225));
    painter_->drawRoundedRect(box, 3, 3);
    painter_->setPen(colour);
    painter_->drawText(*at + shift, text);
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
    cover(QRectF(middle->x() - pixels, middle->y() - pixels, 2 * pixels, 2 * pixels));
    if (!painter_) return;
    painter_->setPen(QPen(edge, 1.4));
    painter_->setBrush(fill);
    painter_->drawEllipse(*middle, pixels, pixels);
  }

  /// Words without a box under them.
  void letter(const Vec3& point, const QPointF& shift, const QString& text, const QColor& colour) {
    const auto at = pixel(point);
    if (!at) return;
    cover(QRectF(*at + shift, QSizeF(1, 1)).adjusted(-4, -14, 24, 4));
    if (!painter_) return;
    painter_->setFont(theme::numbers(11, QFont::DemiBold));
    painter_->setPen(colour);
    painter_->drawText(*at + shift, text);
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
    painter_->setBrush(QColor(251, 249, 244, 240));
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
  void cover(const QRectF& box) { covered |= box.adjusted(-6, -6, 6, 6); }

  QPainter* painter_;
  const Camera& camera_;
  QSize size_;
};

}  // namespace bronvel
