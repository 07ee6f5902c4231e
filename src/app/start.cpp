// Surface format.
#include "app/start.h"

#include <QSurfaceFormat>

namespace bronvel {

void prepare_graphics() {
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  format.setDepthBufferSize(24);
  format.setSamples(0);
  format.setSwapInterval(0);
  QSurfaceFormat::setDefaultFormat(format);
}

}  // namespace bronvel
