// A dial: a ruled scale with a pointer.
#pragma once

#include <QWidget>

namespace bronvel {

/// Drag the pointer or click on the scale; the wheel and the arrow keys move it by a small division, Home puts it back
/// to the usual value, which a hollow pointer marks.
class DialScale : public QWidget {
  Q_OBJECT

 public:
  explicit DialScale(QWidget* parent = nullptr);
  void set_range(double from, double to, double usual);
  void set_value(double value);
  bool dragged() const { return dragged_; }
  double value() const { return value_; }
  QSize sizeHint() const override { return {240, 36}; }

 signals:
  void turned(double value);
  void let_go(double value);  ///< after a drag

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  double place_of(double value) const;
  double value_at(double x) const;
  double division() const;  ///< of the fine ruling
  void turn_to(double value);

  double from_ = 0, to_ = 1, usual_ = 0, value_ = 0;
  bool dragged_ = false;
};

}  // namespace bronvel
