// Draws bodies on the stage: flat light, inked edges, soft shadows straight below.
#pragma once

#include <QColor>
#include <QOpenGLBuffer>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <map>
#include <memory>
#include <vector>

#include "app/camera.h"
#include "app/session.h"

namespace bronvel {

/// All GL of the stage. Needs a current context of GL 3.3 or better in every call.
class StageRenderer : protected QOpenGLFunctions_3_3_Core {
 public:
  /// False, with `fault` saying why, if the context can't do it.
  bool start();
  /// `size` is the widget's, `pixels` the picture's.
  void draw(const Camera& camera, const QSize& size, const QSize& pixels, const std::vector<BodyView>& bodies,
            const std::string& chosen);
  QString fault() const { return fault_; }
  QString renderer() const { return renderer_; }
  /// Drawn by the processor alone: shadows are plainer.
  bool plain() const { return plain_; }

 private:
  struct Mesh {
    GLuint vertices = 0, array = 0;
    int count = 0;
    GLenum kind = GL_TRIANGLES;
  };
  struct Instance {
    float place[16];
    float colour[4];  // the last: 1 for the chosen body
  };

  Mesh make_mesh(const std::vector<float>& positions_and_normals, GLenum kind);
  void draw_mesh(const Mesh& mesh, const std::vector<Instance>& instances);
  bool link(QOpenGLShaderProgram& program, const char* vertex, const char* fragment);
  QMatrix4x4 shadow_matrix(const std::vector<BodyView>& bodies, const Camera& camera) const;

  QString fault_, renderer_;
  bool plain_ = false;
  int shadow_size_ = 0;
  QOpenGLShaderProgram body_, line_, floor_, depth_;
  struct Drawn {
    Shape shape;
    Mesh faces, lines;
    std::vector<Instance> instances;  // of this picture
  };
  Drawn& drawn(const Shape& shape);

  Mesh plane_;
  std::vector<std::unique_ptr<Drawn>> shapes_;  // one a shape that occurs, kept for the next picture
  GLuint instance_buffer_ = 0;
  GLuint shadow_texture_ = 0, shadow_frame_ = 0;
};

}  // namespace bronvel
