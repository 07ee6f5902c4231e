// Drawing off the screen and reading back.
#include "app/stage/stage_canvas.h"

#include <QOpenGLExtraFunctions>
#include <utility>

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

bool StageCanvas::paint(const Camera& camera, const QSize& size, double ratio, const std::vector<BodyView>& bodies,
                        const std::set<std::string>& chosen, const std::vector<WaterView>& waters) {
  const QSize pixels = (QSizeF(size) * ratio).toSize();
  if (!working_ || pixels.isEmpty()) return false;
  if (!context_.makeCurrent(&surface_) || !make_room(pixels)) {
    working_ = false;
    fault_ = "the graphics driver has no room for a picture of this size";
    return false;
  }
  QOpenGLFramebufferObject& target = drawn_ ? *drawn_ : *plain_;
  target.bind();
  renderer_.draw(camera, size, pixels, bodies, chosen, waters);
  if (drawn_) QOpenGLFramebufferObject::blitFramebuffer(plain_.get(), drawn_.get());
  ratio_ = ratio;
  return true;
}

void StageCanvas::draw(QImage& picture, const Camera& camera, const QSize& size, double ratio,
                       const std::vector<BodyView>& bodies, const std::set<std::string>& chosen,
                       const std::vector<WaterView>& waters) {
  if (paint(camera, size, ratio, bodies, chosen, waters))
    read(picture);
  else if (!working_)
    picture = {};
}

bool StageCanvas::begin(const Camera& camera, const QSize& size, double ratio, const std::vector<BodyView>& bodies,
                        const std::set<std::string>& chosen, const std::vector<WaterView>& waters) {
  constexpr std::pair first_with_fences{3, 2};
  if (begun() || context_.format().version() < first_with_fences) return false;
  if (!paint(camera, size, ratio, bodies, chosen, waters)) return false;
  QOpenGLExtraFunctions* gl = context_.extraFunctions();
  fence_ = gl->glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
  gl->glFlush();
  return begun();
}

bool StageCanvas::ready() {
  if (!context_.makeCurrent(&surface_)) return true;
  return !begun() || context_.extraFunctions()->glClientWaitSync(fence_, 0, 0) != GL_TIMEOUT_EXPIRED;
}

void StageCanvas::read(QImage& picture) {
  if (!plain_ || !context_.makeCurrent(&surface_)) return;
  const QSize pixels = plain_->size();
  if (picture.size() != pixels) picture = QImage(pixels, QImage::Format_RGBX8888);
  QOpenGLExtraFunctions* gl = context_.extraFunctions();
  plain_->bind();
  gl->glReadPixels(0, 0, pixels.width(), pixels.height(), GL_RGBA, GL_UNSIGNED_BYTE, picture.bits());
  plain_->release();
  picture.setDevicePixelRatio(ratio_);
  if (begun()) gl->glDeleteSync(std::exchange(fence_, nullptr));
}

}  // namespace bronvel
