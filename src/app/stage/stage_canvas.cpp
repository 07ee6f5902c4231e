// Drawing off the screen and reading back.
#include "app/stage/stage_canvas.h"

#include <QOpenGLFunctions>

namespace bronvel {
namespace {

constexpr int looks_a_pixel = 4;  // with a graphics card

}  // namespace

StageCanvas::~StageCanvas() {
  // What goes now goes out of this context.
  if (started_ && context_.isValid()) context_.makeCurrent(&surface_);
}

bool StageCanvas::start() {
  if (started_) return working_;
  started_ = true;
  surface_.create();
  context_.setFormat(surface_.requestedFormat());
  if (!surface_.isValid() || !context_.create() || !context_.makeCurrent(&surface_)) {
    fault_ = "this machine offers no OpenGL";
    return false;
  }
  working_ = renderer_.start();
  fault_ = renderer_.fault();
  return working_;
}

bool StageCanvas::make_room(const QSize& pixels) {
  if (plain_ && plain_->size() == pixels) return true;
  drawn_.reset();
  QOpenGLFramebufferObjectFormat format;
  format.setInternalTextureFormat(GL_RGBA8);
  if (renderer_.plain()) format.setAttachment(QOpenGLFramebufferObject::Depth);
  plain_ = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
  if (!renderer_.plain()) {
    format.setAttachment(QOpenGLFramebufferObject::Depth);
    format.setSamples(looks_a_pixel);
    drawn_ = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
    if (!drawn_->isValid()) return false;
  }
  return plain_->isValid();
}

void StageCanvas::draw(QImage& picture, const Camera& camera, const QSize& size, double ratio,
                       const std::vector<BodyView>& bodies, const std::set<std::string>& chosen,
                       const std::vector<WaterView>& waters) {
  const QSize pixels = (QSizeF(size) * ratio).toSize();
  if (!working_ || pixels.isEmpty()) return;
  if (!context_.makeCurrent(&surface_) || !make_room(pixels)) {
    working_ = false;
    fault_ = "the graphics driver has no room for a picture of this size";
    picture = {};
    return;
  }
  if (picture.size() != pixels) picture = QImage(pixels, QImage::Format_RGBX8888);
  QOpenGLFramebufferObject& target = drawn_ ? *drawn_ : *plain_;
  target.bind();
  renderer_.draw(camera, size, pixels, bodies, chosen, waters);
  if (drawn_) QOpenGLFramebufferObject::blitFramebuffer(plain_.get(), drawn_.get());
  plain_->bind();
  context_.functions()->glReadPixels(0, 0, pixels.width(), pixels.height(), GL_RGBA, GL_UNSIGNED_BYTE, picture.bits());
  plain_->release();
  picture.setDevicePixelRatio(ratio);
}

}  // namespace bronvel
