// Simulating and drawing the pair.
#include "app/deck/pair_drop.h"

#include <QPainter>

#include "app/kit/theme.h"
#include "dynamics/world/world.h"

namespace bronvel {
namespace {

constexpr double radius = 0.1, drop = 1.0, speed = 3.0;  // m, m, m/s
constexpr double rate = 120;
constexpr std::size_t ticks = 360;

BodySettings made_of(const Shape& shape, const Surface& surface, MotionKind kind) {
  BodySettings settings;
  settings.shape = shape;
  settings.surface = surface;
  settings.kind = kind;
  settings.mass = 1;
  return settings;
}

}  // namespace

PairDrop::PairDrop(QWidget* parent) : QWidget(parent) {
  setMinimumSize(250, 120);
  timer_.setInterval(33);
  connect(&timer_, &QTimer::timeout, this, [this] {
    at_ = at_ + 4 < heights_.size() + 60 ? at_ + 4 : 0;
    update();
  });
}

void PairDrop::show_pair(const QString& floor_name, const Surface& floor, const QString& body_name,
                         const Surface& body) {
  title_ = body_name + " on " + floor_name;
  WorldSettings settings;
  settings.tick_rate = rate;
  World world(settings);
  world.create(made_of(Box{{60, 1, 10}}, floor, MotionKind::fixed),
               {{Vec3(0, -0.5, 0), Quat::Identity()}, {0, 0, 0}, {0, 0, 0}});
  const BodyHandle ball = world.create(made_of(Sphere{radius}, body, MotionKind::dynamic),
                                       {{Vec3(0, drop + radius, 0), Quat::Identity()}, {0, 0, 0}, {0, 0, 0}});
  const BodyHandle block = world.create(made_of(Box{{0.3, 0.14, 0.3}}, body, MotionKind::dynamic),
                                        {{Vec3(2, 0.07, 3), Quat::Identity()}, {speed, 0, 0}, {0, 0, 0}});
  heights_.clear();
  places_.clear();
  rebound_ = 0;
  for (std::size_t i = 0; i < ticks; ++i) {
    heights_.push_back(world.motion(ball).pose.position.y() - radius);
    places_.push_back(world.motion(block).pose.position.x() - 2);
    world.step();
  }
  // Down, then up to the first top.
  std::size_t i = 1;
  while (i + 1 < ticks && heights_[i] >= heights_[i + 1]) ++i;
  while (i + 1 < ticks && heights_[i] <= heights_[i + 1]) ++i;
  rebound_ = i + 1 < ticks ? heights_[i] : 0;
  slid_ = places_.back();
  at_ = 0;
  setToolTip(QString("dropped from 1 m it bounces back to %1 m; pushed at 3 m/s it slides %2 m%3")
                 .arg(rebound_, 0, 'f', 2)
                 .arg(slid_, 0, 'f', 2)
                 .arg(world.velocity(block).norm() > 0.01 ? " in 3 s and goes on" : ""));
  update();
}

void PairDrop::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(theme::words(12, QFont::DemiBold));
  p.setPen(theme::ink);
  p.drawText(QRect(0, 2, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, title_.isEmpty() ? "choose a pair" : title_);
  if (heights_.empty()) return;
  const double floor = height() - 34, scale = (floor - 34) / (drop + 2 * radius);
  const double x = 34;
  p.setPen(QPen(theme::ink, 1.6));
  p.drawLine(QPointF(0, floor), QPointF(width(), floor));
  const std::size_t now = std::min(at_, heights_.size() - 1);
  // How high it came back.
  QPen dashed(theme::compared, 1.2);
  dashed.setDashPattern({3, 3});
  p.setPen(dashed);
  const double back = floor - rebound_ * scale;
  p.drawLine(QPointF(x - 22, back), QPointF(x + 40, back));
  p.setFont(theme::numbers(11));
  p.setPen(theme::compared);
  p.drawText(QPointF(x + 30, std::min(back - 3, floor - 6)), QString::number(rebound_, 'f', 2) + " m");
  p.setPen(QPen(theme::ink, 1.2));
  p.setBrush(QColor(0xC0, 0x8A, 0x4E));
  p.drawEllipse(QPointF(x, floor - (heights_[now] + radius) * scale), radius * scale, radius * scale);
  // The block, its way drawn behind it; as much of the way as fits.
  const double begin = 110, room = width() - begin - 26, across = room / std::max(2.0, slid_);
  p.setPen(QPen(theme::accent, 1.4));
  p.drawLine(QPointF(begin, floor + 6), QPointF(begin + places_[now] * across, floor + 6));
  p.setPen(QPen(theme::ink, 1.2));
  p.drawRect(QRectF(begin + places_[now] * across - 10, floor - 10, 20, 10));
  p.setPen(theme::accent);
  p.drawText(QPointF(begin, floor + 20), "slides " + QString::number(slid_, 'f', 2) + " m");
}

void PairDrop::showEvent(QShowEvent*) {
  timer_.start();
}

void PairDrop::hideEvent(QHideEvent*) {
  timer_.stop();
}

}  // namespace bronvel
