// Dragging numbers.
#include "app/kit/lane_drag.h"

#include <QApplication>
#include <QDrag>
#include <QMimeData>
#include <QMouseEvent>

#include "app/kit/theme.h"

namespace bronvel {
namespace {

class LaneSource : public QObject {
 public:
  LaneSource(QWidget* widget, std::function<QString()> channel)
      : QObject(widget), widget_(widget), channel_(std::move(channel)) {
    widget->installEventFilter(this);
    widget->setCursor(Qt::OpenHandCursor);
  }

 private:
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (event->type() == QEvent::MouseButtonPress) {
      pressed_ = static_cast<QMouseEvent*>(event)->position().toPoint();
      return true;  // or the moves would go to what lies under it
    }
    if (event->type() == QEvent::MouseMove) {
      auto* moved = static_cast<QMouseEvent*>(event);
      const bool far = (moved->position().toPoint() - pressed_).manhattanLength() >= QApplication::startDragDistance();
      if ((moved->buttons() & Qt::LeftButton) != 0 && far) begin();
      return true;
    }
    return QObject::eventFilter(watched, event);
  }

  void begin() {
    const QString channel = channel_();
    if (channel.isEmpty()) return;
    auto* drag = new QDrag(widget_);
    auto* data = new QMimeData;
    data->setData(lane_mime, channel.toUtf8());
    data->setText(channel);
    drag->setMimeData(data);
    QLabel shown(channel);
    shown.setFont(theme::numbers(11, QFont::Medium));
    shown.setStyleSheet("background: " + theme::sheet.name() + "; color: " + theme::chosen.name() +
                        "; border: 1px solid " + theme::chosen.name() + "; padding: 2px 6px");
    shown.adjustSize();
    drag->setPixmap(shown.grab());
    drag->exec(Qt::CopyAction);
  }

  QWidget* widget_;
  std::function<QString()> channel_;
  QPoint pressed_;
};

}  // namespace

void make_lane_source(QWidget* widget, const std::function<QString()>& channel) {
  new LaneSource(widget, channel);
}

}  // namespace bronvel
