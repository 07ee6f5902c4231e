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
#include <set>
#include <vector>

#include "app/session/session.h"
#include "app/stage/camera.h"
#include "geometry/meshes/outline.h"

namespace bronvel {

/// All GL of the stage. Needs a current context of GL 3.3 or better in every call.
class StageRenderer : protected QOpenGLFunctions_3_3_Core {
 public:
  /// False, with `fault` saying why, if the context can't do it.
  bool start();
  /// Into the framebuffer that is bound, its first row the picture's top. `size` is the widget's, `pixels` the
  /// picture's.
  void draw(const Camera& camera, const QSize& size, const QSize& pixels, const std::vector<BodyView>& bodies,
            const std::set<std::string>& chosen, const std::vector<WaterView>& waters = {});
  QString fault() const { return fault_; }
  QString renderer() const { return renderer_; }
  /// Drawn by the processor alone: shadows are plainer.
  bool plain() const { return plain_; }

 private:
  struct Mesh {
    GLuint vertices = 0, corners = 0, array = 0;
    int count = 0;  // of corners
    GLenum kind = GL_TRIANGLES;
  };
  struct Instance {
    float place[16];
    float colour[4];  // the last: 1 for the chosen body
  };

  Mesh make_mesh(const std::vector<float>& positions_and_normals, GLenum kind);
  void draw_mesh(const Mesh& mesh, std::size_t first_instance, std::size_t count);
  bool link(QOpenGLShaderProgram& program, const char* vertex, const char* fragment);
  QMatrix4x4 shadow_matrix(const std::vector<BodyView>& bodies, const Camera& camera) const;

  QString fault_, renderer_;
  bool plain_ = false;
  int shadow_size_ = 0;
  void tell_waters(QOpenGLShaderProgram& program, const std::vector<WaterView>& waters);
  void draw_waters(const QMatrix4x4& clip, const Vec3& eye, const std::vector<WaterView>& waters);

  QOpenGLShaderProgram body_, line_, floor_, depth_, water_;
  struct Drawn {
    Shape shape;
    std::shared_ptr<const Model> model;  // instead of the shape
    bool coarse = false;
    Mesh faces, lines;
    std::vector<Instance> instances;  // of this picture
    std::size_t first = 0;            // where they are in the buffer
  };
  Drawn& drawn(const Shape& shape, bool coarsely);
  Drawn& drawn(const std::shared_ptr<const Model>& model);

  void forget_unseen();
  Drawn& add_drawn(const Shape& shape, const std::shared_ptr<const Model>& model, bool coarsely,
                   const Outline& outline);

  std::vector<Instance> all_instances_;         // of this picture, shape after shape
  Mesh plane_, sheet_;                          // sheet_: a square of many small ones, for waters
  std::vector<std::unique_ptr<Drawn>> shapes_;  // one a shape that occurs, kept for the next picture
  std::map<const void*, Drawn*> known_;         // those of hulls and compounds by their data, which are many
  GLuint instance_buffer_ = 0;
  GLuint shadow_texture_ = 0, shadow_frame_ = 0;
};

}  // namespace bronvel
