// The stage's pictures, drawn off the screen. The window then paints them as it paints everything else: laying a
// window together in GL costs more without a graphics card than the picture itself.
#pragma once

#include <QImage>
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFramebufferObject>
#include <memory>

#include "app/stage/stage_renderer.h"

namespace bronvel {

class StageCanvas {
 public:
  StageCanvas() = default;
  ~StageCanvas();
  StageCanvas(const StageCanvas&) = delete;
  StageCanvas& operator=(const StageCanvas&) = delete;

  /// Makes what it draws with; false if this machine can't draw it, `fault` says why.
  bool start();
  bool started() const { return started_; }
  bool working() const { return working_; }
  QString fault() const { return fault_; }
  const StageRenderer& renderer() const { return renderer_; }

  /// Over what was in `picture`; null if it could not be drawn. `size` in the widget's pixels, of which one is `ratio`
  /// of the screen's.
  void draw(QImage& picture, const Camera& camera, const QSize& size, double ratio, const std::vector<BodyView>& bodies,
            const std::set<std::string>& chosen, const std::vector<WaterView>& waters);

  /// The same without waiting for it: when `ready`, `read` gives the picture. False where the driver can't tell when it
  /// is ready, or it can't be drawn. One picture at a time.
  bool begin(const Camera& camera, const QSize& size, double ratio, const std::vector<BodyView>& bodies,
             const std::set<std::string>& chosen, const std::vector<WaterView>& waters);
  bool begun() const { return fence_ != nullptr; }
  bool ready();
  void read(QImage& picture);

 private:
  bool paint(const Camera& camera, const QSize& size, double ratio, const std::vector<BodyView>& bodies,
             const std::set<std::string>& chosen, const std::vector<WaterView>& waters);
  bool make_room(const QSize& pixels);

  bool started_ = false, working_ = false;
  QString fault_;
  QOffscreenSurface surface_;
  QOpenGLContext context_;
  StageRenderer renderer_;
  std::unique_ptr<QOpenGLFramebufferObject> drawn_, plain_;  // with several looks a pixel, and with one to read from
  GLsync fence_ = nullptr;                                   // behind what was begun
  double ratio_ = 1;
};

}  // namespace bronvel
