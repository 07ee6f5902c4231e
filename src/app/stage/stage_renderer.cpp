// GL drawing.
#include "app/stage/stage_renderer.h"

#include <QOpenGLContext>
#include <QtMath>
#include <array>
#include <limits>

#include "app/kit/theme.h"
#include "geometry/meshes/outline.h"

namespace bronvel {
namespace {

// With graphics hardware; without, a quarter of it and one look a pixel.
constexpr int fine_shadow = 1024, plain_shadow = 512;

constexpr const char* body_vertex = R"(#version 330 core
layout(location = 0) in vec3 point;
layout(location = 1) in vec3 normal;
layout(location = 2) in mat4 place;
layout(location = 6) in vec4 colour;
uniform mat4 clip;
uniform mat4 shadow;
out vec3 scene_point; out vec3 scene_normal; out vec4 tint; out vec4 in_shadow;
void main() {
  vec4 p = place * vec4(point, 1.0);
  scene_point = p.xyz;
  // Stretched along its own axes only: a normal shrinks where the point grows.
  mat3 m = mat3(place);
  scene_normal = normalize(m * (normal / vec3(dot(m[0], m[0]), dot(m[1], m[1]), dot(m[2], m[2]))));
  tint = colour;
  in_shadow = shadow * vec4(p.xyz + scene_normal * 0.01, 1.0);
  gl_Position = clip * p;
})";

constexpr const char* shade_functions = R"(
uniform sampler2DShadow shadow_map;
float lit(vec4 where) {
  vec3 p = where.xyz / where.w * 0.5 + 0.5;
  if (any(lessThan(p, vec3(0.0))) || any(greaterThan(p, vec3(1.0)))) return 1.0;
#ifdef PLAIN
  return texture(shadow_map, vec3(p.xy, p.z - 0.0020));
#else
  float sum = 0.0;
  for (int i = 0; i < 4; ++i) {
    vec2 d = (vec2(i & 1, i >> 1) - 0.5) * 1.6 / 1024.0;
    sum += texture(shadow_map, vec3(p.xy + d, p.z - 0.0012));
  }
  return sum * 0.25;
#endif
})";

// Of a water's surface: only the largest trains of a broken sea are drawn.
constexpr int most_waters = 4, most_drawn_trains = 8;

constexpr const char* water_functions = R"(
uniform int waters;
uniform vec4 water_low[4];   // the last: level
uniform vec3 water_high[4];
uniform int water_trains[4];
uniform vec4 train[32];      // amplitude, wave numbers along x and z, phase now
float surface(int i, vec2 p) {
  float y = water_low[i].w;
  for (int k = 0; k < water_trains[i]; ++k) {
    vec4 t = train[8 * i + k];
    y += t.x * sin(dot(t.yz, p) + t.w);
  }
  return y;
}
bool over(int i, vec2 p) {
  return p.x > water_low[i].x && p.x < water_high[i].x && p.y > water_low[i].z && p.y < water_high[i].z;
})";

// The sea as a sheet: fine lines along it, darker where one looks along it.
constexpr const char* water_vertex = R"(
layout(location = 0) in vec3 point;
uniform mat4 clip;
uniform int which;
out vec3 scene_point;
void main() {
  vec2 p = mix(water_low[which].xz, water_high[which].xz, point.xz);
  scene_point = vec3(p.x, max(surface(which, p), water_low[which].y), p.y);
  gl_Position = clip * vec4(scene_point, 1.0);
})";

constexpr const char* water_fragment = R"(
in vec3 scene_point;
uniform vec3 eye;
uniform int which;
uniform vec2 carried;
out vec4 paint;
void main() {
  vec3 v = normalize(eye - scene_point);
  vec2 p = scene_point.xz - carried;
  float rise = surface(which, scene_point.xz) - water_low[which].w;
  vec3 n = normalize(cross(dFdx(scene_point), dFdy(scene_point)));
  float along = 1.0 - abs(dot(n, v));
  vec3 c = mix(vec3(0.52, 0.71, 0.72), vec3(0.62, 0.78, 0.78), clamp(0.5 + 1.5 * rise, 0.0, 1.0));
  float q = p.y * 1.6 + 0.16 * sin(p.x * 1.9) + 0.10 * sin(p.x * 4.3 + 1.0);
  float broken = step(0.35, fract(0.21 * p.x + 0.37 * floor(q) * 1.7));
  float line = (1.0 - clamp(abs(fract(q) - 0.5) / max(fwidth(q), 1e-4), 0.0, 1.0)) * broken;
  line *= clamp(0.30 / max(fwidth(q), 1e-4), 0.0, 1.0);
  c = mix(c, vec3(0.11, 0.42, 0.46), 0.55 * line);
  paint = vec4(c, 0.40 + 0.28 * along + 0.25 * line);
})";

constexpr const char* body_fragment = R"(
in vec3 scene_point; in vec3 scene_normal; in vec4 tint; in vec4 in_shadow;
uniform vec3 eye;
out vec4 paint;
void main() {
  vec3 n = normalize(scene_normal);
  vec3 v = normalize(eye - scene_point);
  float key = dot(n, normalize(vec3(-0.35, 0.85, 0.42)));
  float light = 0.74 + 0.30 * max(key, 0.0) - 0.16 * max(-key, 0.0);
  light *= mix(0.72, 1.0, n.y > 0.05 ? lit(in_shadow) : 1.0);
  vec3 c = tint.rgb * light;
  c = mix(c, vec3(0.984, 0.976, 0.957), 0.05);
  float rim = 1.0 - abs(dot(n, v));
  c = mix(c, EDGE, smoothstep(0.86, 0.97, rim) * 0.75);
  if (tint.a > 0.5) c = mix(c, vec3(0.055, 0.431, 0.455), 0.10 + 0.5 * smoothstep(0.6, 0.9, rim));
  // Under water it fades into it; where the surface stands on it there is a line.
  for (int i = 0; i < waters; ++i) {
    if (!over(i, scene_point.xz) || scene_point.y < water_low[i].y) continue;
    float deep = surface(i, scene_point.xz) - scene_point.y;
    float width = 1.4 * (abs(dFdx(scene_point.y)) + abs(dFdy(scene_point.y))) + 1e-4;
    if (deep > 0.0) c = mix(c, vec3(0.36, 0.60, 0.63), 0.25 + 0.5 * (1.0 - exp(-0.55 * deep)));
    if (n.y < 0.95) c = mix(c, vec3(0.05, 0.32, 0.36), 0.85 * (1.0 - smoothstep(0.6, 1.0, abs(deep) / width)));
  }
  paint = vec4(c, 1.0);
})";

constexpr const char* line_fragment = R"(#version 330 core
in vec4 tint;
out vec4 paint;
void main() { paint = tint.a > 0.5 ? vec4(0.055, 0.431, 0.455, 1.0) : vec4(tint.rgb * 0.35 + vec3(0.06, 0.08, 0.10), 1.0); })";

constexpr const char* depth_vertex = R"(#version 330 core
layout(location = 0) in vec3 point;
layout(location = 2) in mat4 place;
uniform mat4 clip;
void main() { gl_Position = clip * place * vec4(point, 1.0); })";

constexpr const char* depth_fragment = R"(#version 330 core
void main() {})";

constexpr const char* floor_vertex = R"(#version 330 core
layout(location = 0) in vec3 point;
uniform mat4 clip;
uniform mat4 shadow;
uniform vec3 middle;
uniform float size;
out vec3 scene_point; out vec4 in_shadow;
void main() {
  scene_point = vec3(point.x * size + middle.x, 0.0, point.z * size + middle.z);
  in_shadow = shadow * vec4(scene_point, 1.0);
  gl_Position = clip * vec4(scene_point, 1.0);
})";

// A ruled floor: a line a metre, a stronger one every five, fading into the paper.
constexpr const char* floor_fragment = R"(
in vec3 scene_point; in vec4 in_shadow;
uniform float fade;
uniform float step_size;
out vec4 paint;
float ruled(vec2 p, vec2 wide, float gap) {
  vec2 q = p / gap, w = wide / gap;
  vec2 d = abs(fract(q - 0.5) - 0.5) / w;
  return (1.0 - min(min(d.x, d.y), 1.0)) * clamp(0.35 / max(w.x, w.y), 0.0, 1.0);
}
void main() {
  for (int i = 0; i < waters; ++i)
    if (over(i, scene_point.xz) && water_low[i].y < 0.0) discard;
  float near = exp(-dot(scene_point.xz, scene_point.xz) / (fade * fade));
  if (near < 0.004) {  // far out it is the paper
    paint = vec4(FAR_GROUND, 1.0);
    return;
  }
  vec2 wide = fwidth(scene_point.xz);
  vec3 c = GROUND;
  c *= mix(0.80, 1.0, lit(in_shadow));
  c = mix(c, GROUND_LINE, 0.55 * ruled(scene_point.xz, wide, step_size));
  c = mix(c, GROUND_BOLD_LINE, 0.60 * ruled(scene_point.xz, wide, step_size * 5.0));
  paint = vec4(mix(FAR_GROUND, c, near), 1.0);
})";

// Of an Instance: the place's four, and the colour.
constexpr GLuint instance_columns = 5;

// GL takes an offset into the bound buffer in the guise of a pointer.
const void* buffer_offset(std::size_t floats) {
  return static_cast<const char*>(nullptr) + floats * sizeof(float);
}

void add(std::vector<float>& out, const Vec3& p, const Vec3& n) {
  for (const Vec3& v : {p, n})
    for (int i = 0; i < 3; ++i) out.push_back(static_cast<float>(v[i]));
}

// Bodies of one kind and unlike size share a mesh, stretched: a hundred casks are two meshes.
std::pair<Shape, Vec3> unit_shape(const Shape& shape) {
  if (const auto* s = std::get_if<Sphere>(&shape)) return {Sphere{1}, Vec3::Constant(s->radius)};
  if (const auto* b = std::get_if<Box>(&shape)) return {Box{}, b->size};
  if (const auto* c = std::get_if<Cylinder>(&shape)) return {Cylinder{1, 1}, {c->radius, c->height, c->radius}};
  if (const auto* c = std::get_if<Cone>(&shape)) return {Cone{1, 1}, {c->radius, c->height, c->radius}};
  return {shape, Vec3::Ones()};
}

// Of what has round sides, m; infinite for what has none.
double round_radius(const Shape& shape) {
  if (const auto* s = std::get_if<Sphere>(&shape)) return s->radius;
  if (const auto* c = std::get_if<Capsule>(&shape)) return c->radius;
  if (const auto* c = std::get_if<Cylinder>(&shape)) return c->radius;
  if (const auto* c = std::get_if<Cone>(&shape)) return c->radius;
  return std::numeric_limits<double>::infinity();
}

double pixels_of_a_metre(const Camera& camera, const QSize& size, const Vec3& at) {
  const double away = camera.view.straight ? camera.view.distance : (at - camera.eye()).dot(camera.forward());
  return 0.5 * size.height() / std::tan(0.5 * qDegreesToRadians(double{Camera::opening})) / std::max(away, 0.05);
}

QMatrix4x4 matrix_of(const Pose& pose, const Vec3& scale) {
  const Mat3 r = pose.orientation.toRotationMatrix();
  QMatrix4x4 m;
  for (int row = 0; row < 3; ++row) {
    for (int column = 0; column < 3; ++column) m(row, column) = static_cast<float>(r(row, column) * scale[column]);
    m(row, 3) = static_cast<float>(pose.position[row]);
  }
  return m;
}

}  // namespace

bool StageRenderer::link(QOpenGLShaderProgram& program, const char* vertex, const char* fragment) {
  QByteArray colours;
  const std::pair<const char*, QColor> named[] = {{"GROUND", theme::ground},
                                                  {"FAR_GROUND", theme::far_ground},
                                                  {"GROUND_LINE", theme::ground_line},
                                                  {"GROUND_BOLD_LINE", theme::ground_bold_line},
                                                  {"EDGE", theme::edge}};
  for (const auto& [name, colour] : named)
    colours += QString("#define %1 vec3(%2, %3, %4)\n")
                   .arg(name)
                   .arg(colour.redF(), 0, 'f', 4)
                   .arg(colour.greenF(), 0, 'f', 4)
                   .arg(colour.blueF(), 0, 'f', 4)
                   .toUtf8();
  const QByteArray with_shade = QByteArray("#version 330 core\n") + (plain_ ? "#define PLAIN\n" : "") + colours +
                                shade_functions + water_functions + fragment;
  const bool whole = QByteArray(fragment).startsWith("#version");
  const QByteArray above = QByteArray(vertex).startsWith("#version")
                               ? QByteArray(vertex)
                               : QByteArray("#version 330 core\n") + water_functions + vertex;
  if (program.addShaderFromSourceCode(QOpenGLShader::Vertex, above) &&
      program.addShaderFromSourceCode(QOpenGLShader::Fragment, whole ? QByteArray(fragment) : with_shade) &&
      program.link())
    return true;
  fault_ = "the graphics driver refused a shader: " + program.log();
  return false;
}

StageRenderer::Mesh StageRenderer::make_mesh(const std::vector<float>& data, GLenum kind) {
  // Each corner is worked out once, however many triangles meet there.
  constexpr std::size_t floats = 6;
  std::map<std::array<float, floats>, GLuint> known;
  std::vector<float> vertices;
  std::vector<GLuint> corners;
  for (std::size_t i = 0; i + floats <= data.size(); i += floats) {
    std::array<float, floats> vertex;
    std::copy_n(data.begin() + static_cast<std::ptrdiff_t>(i), floats, vertex.begin());
    const auto [at, fresh] = known.try_emplace(vertex, static_cast<GLuint>(known.size()));
    if (fresh) vertices.insert(vertices.end(), vertex.begin(), vertex.end());
    corners.push_back(at->second);
  }
  Mesh mesh;
  mesh.kind = kind;
  mesh.count = static_cast<int>(corners.size());
  glGenVertexArrays(1, &mesh.array);
  glBindVertexArray(mesh.array);
  const auto bytes = [](const auto& list) { return static_cast<GLsizeiptr>(list.size() * sizeof list[0]); };
  glGenBuffers(1, &mesh.corners);
  glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, mesh.corners);
  glBufferData(GL_ELEMENT_ARRAY_BUFFER, bytes(corners), corners.data(), GL_STATIC_DRAW);
  glGenBuffers(1, &mesh.vertices);
  glBindBuffer(GL_ARRAY_BUFFER, mesh.vertices);
  glBufferData(GL_ARRAY_BUFFER, bytes(vertices), vertices.data(), GL_STATIC_DRAW);
  const auto stride = static_cast<GLsizei>(6 * sizeof(float));
  glEnableVertexAttribArray(0);
  glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, stride, nullptr);
  glEnableVertexAttribArray(1);
  glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, stride, buffer_offset(3));
  glBindVertexArray(0);
  return mesh;
}

bool StageRenderer::start() {
  if (!initializeOpenGLFunctions()) {
    fault_ = "the stage needs OpenGL 3.3, which this machine's driver does not offer";
    return false;
  }
  renderer_ = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
  plain_ = renderer_.contains("llvmpipe") || renderer_.contains("softpipe");
  shadow_size_ = plain_ ? plain_shadow : fine_shadow;
  if (!link(body_, body_vertex, body_fragment) || !link(line_, body_vertex, line_fragment) ||
      !link(floor_, floor_vertex, floor_fragment) || !link(depth_, depth_vertex, depth_fragment) ||
      !link(water_, water_vertex, water_fragment))
    return false;
  glGenBuffers(1, &instance_buffer_);
  std::vector<float> plane;
  for (const Vec3& p : {Vec3(-1, 0, -1), Vec3(1, 0, 1), Vec3(1, 0, -1), Vec3(-1, 0, -1), Vec3(-1, 0, 1), Vec3(1, 0, 1)})
    add(plane, p, Vec3::Unit(1));
  plane_ = make_mesh(plane, GL_TRIANGLES);
  std::vector<float> sheet;
  const int squares = plain_ ? 48 : 96;
  for (int x = 0; x < squares; ++x)
    for (int z = 0; z < squares; ++z)
      for (const auto& [i, k] : {std::pair{0, 0}, {1, 1}, {1, 0}, {0, 0}, {0, 1}, {1, 1}})
        add(sheet, Vec3(x + i, 0, z + k) / squares, Vec3::Unit(1));
  sheet_ = make_mesh(sheet, GL_TRIANGLES);

  glGenTextures(1, &shadow_texture_);
  glBindTexture(GL_TEXTURE_2D, shadow_texture_);
  glTexImage2D(GL_TEXTURE_2D, 0, GL_DEPTH_COMPONENT24, shadow_size_, shadow_size_, 0, GL_DEPTH_COMPONENT, GL_FLOAT,
               nullptr);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
  glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
  glGenFramebuffers(1, &shadow_frame_);
  GLint before = 0;
  glGetIntegerv(GL_FRAMEBUFFER_BINDING, &before);
  glBindFramebuffer(GL_FRAMEBUFFER, shadow_frame_);
  glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, shadow_texture_, 0);
  glDrawBuffer(GL_NONE);
  glReadBuffer(GL_NONE);
  glBindFramebuffer(GL_FRAMEBUFFER, static_cast<GLuint>(before));
  return true;
}

// Pieces of broken bodies come by the hundred: they are found by their data, and dropped once too many are unseen.
StageRenderer::Drawn& StageRenderer::drawn(const Shape& shape, bool coarsely) {
  const void* data = nullptr;
  if (const auto* hull = std::get_if<Hull>(&shape)) data = hull->data.get();
  if (const auto* compound = std::get_if<Compound>(&shape)) data = compound->data.get();
  if (data) {
    const auto found = known_.find(data);
    if (found != known_.end()) return *found->second;
    Drawn& made = add_drawn(shape, nullptr, false, outline_of(shape));
    known_[data] = &made;
    return made;
  }
  for (const auto& known : shapes_)
    if (!known->model && known->coarse == coarsely && known->shape == shape) return *known;
  return add_drawn(shape, nullptr, coarsely, outline_of(shape, coarsely));
}

StageRenderer::Drawn& StageRenderer::drawn(const std::shared_ptr<const Model>& model) {
  for (const auto& known : shapes_)
    if (known->model == model) return *known;
  return add_drawn(Sphere{}, model, false, outline_of(*model));
}

StageRenderer::Drawn& StageRenderer::add_drawn(const Shape& shape, const std::shared_ptr<const Model>& model,
                                               bool coarsely, const Outline& outline) {
  std::vector<float> faces, lines;
  for (std::size_t i = 0; i < outline.triangles.size(); ++i) add(faces, outline.triangles[i], outline.normals[i]);
  for (const Vec3& point : outline.lines) add(lines, point, point);
  shapes_.push_back(std::make_unique<Drawn>(
      Drawn{shape, model, coarsely, make_mesh(faces, GL_TRIANGLES), make_mesh(lines, GL_LINES), {}}));
  return *shapes_.back();
}

void StageRenderer::draw_mesh(const Mesh& mesh, std::size_t first_instance, std::size_t count) {
  if (count == 0 || mesh.count == 0) return;
  glBindVertexArray(mesh.array);
  glBindBuffer(GL_ARRAY_BUFFER, instance_buffer_);
  constexpr std::size_t floats = sizeof(Instance) / sizeof(float);
  for (GLuint i = 0; i < instance_columns; ++i) {
    glEnableVertexAttribArray(2 + i);
    glVertexAttribPointer(2 + i, 4, GL_FLOAT, GL_FALSE, sizeof(Instance),
                          buffer_offset(floats * first_instance + std::size_t{4} * i));
    glVertexAttribDivisor(2 + i, 1);
  }
  glDrawElementsInstanced(mesh.kind, mesh.count, GL_UNSIGNED_INT, nullptr, static_cast<GLsizei>(count));
  glBindVertexArray(0);
}

// Light from nearly straight above, so that a shadow lies under its body and tells its height; around what is seen.
QMatrix4x4 StageRenderer::shadow_matrix(const std::vector<BodyView>& bodies, const Camera& camera) const {
  Bounds all{camera.view.target, camera.view.target};
  const double reach = 4 * camera.view.distance;
  for (const BodyView& body : bodies) {
    const Bounds b = shape_bounds(body.shape, body.pose);
    if ((body.pose.position - camera.view.target).norm() < reach) all = all.joined(b);
  }
  all.low.y() = std::min(all.low.y(), 0.0);
  const Vec3 middle = 0.5 * (all.low + all.high);
  const auto radius = static_cast<float>(std::min(reach, 0.5 * (all.high - all.low).norm()) * 1.05 + 0.1);
  const QVector3D centre(static_cast<float>(middle.x()), static_cast<float>(middle.y()),
                         static_cast<float>(middle.z()));
  QMatrix4x4 light;
  light.ortho(-radius, radius, -radius, radius, 0, 4 * radius);
  light.lookAt(centre + QVector3D(-0.10F, 1, 0.12F).normalized() * 2 * radius, centre, {0, 0, -1});
  return light;
}

void StageRenderer::forget_unseen() {
  constexpr std::size_t most = 3000;
  if (shapes_.size() < most) return;
  std::erase_if(shapes_, [&](const auto& each) {
    if (!each->instances.empty()) return false;
    std::erase_if(known_, [&](const auto& entry) { return entry.second == each.get(); });
    for (const Mesh& mesh : {each->faces, each->lines}) {
      glDeleteVertexArrays(1, &mesh.array);
      glDeleteBuffers(1, &mesh.vertices);
      glDeleteBuffers(1, &mesh.corners);
    }
    return true;
  });
}

void StageRenderer::tell_waters(QOpenGLShaderProgram& program, const std::vector<WaterView>& waters) {
  const int count = std::min(static_cast<int>(waters.size()), most_waters);
  QVector4D low[most_waters], train[most_waters * most_drawn_trains];
  QVector3D high[most_waters];
  GLint trains[most_waters] = {};
  for (int i = 0; i < count; ++i) {
    const WaterView& water = waters[static_cast<std::size_t>(i)];
    const auto f = [](double x) { return static_cast<float>(x); };
    low[i] = QVector4D(f(water.box.low.x()), f(water.box.low.y()), f(water.box.low.z()), f(water.level));
    high[i] = QVector3D(f(water.box.high.x()), f(water.box.high.y()), f(water.box.high.z()));
    std::vector<WaveTrain> largest = water.trains;
    std::stable_sort(largest.begin(), largest.end(),
                     [](const WaveTrain& a, const WaveTrain& b) { return a.amplitude > b.amplitude; });
    trains[i] = std::min(static_cast<int>(largest.size()), most_drawn_trains);
    for (int k = 0; k < trains[i]; ++k) {
      const WaveTrain& w = largest[static_cast<std::size_t>(k)];
      const double phase =
          w.phase - (w.rate + w.number * (w.along_x * water.current.x() + w.along_z * water.current.z())) * water.time;
      train[i * most_drawn_trains + k] =
          QVector4D(f(w.amplitude), f(w.number * w.along_x), f(w.number * w.along_z), f(std::remainder(phase, 2 * pi)));
    }
  }
  program.setUniformValue("waters", count);
  program.setUniformValueArray("water_low", low, most_waters);
  program.setUniformValueArray("water_high", high, most_waters);
  program.setUniformValueArray("water_trains", trains, most_waters);
  program.setUniformValueArray("train", train, most_waters * most_drawn_trains);
}

void StageRenderer::draw_waters(const QMatrix4x4& clip, const Vec3& eye, const std::vector<WaterView>& waters) {
  if (waters.empty()) return;
  water_.bind();
  water_.setUniformValue("clip", clip);
  water_.setUniformValue("eye", static_cast<float>(eye.x()), static_cast<float>(eye.y()), static_cast<float>(eye.z()));
  tell_waters(water_, waters);
  glEnable(GL_BLEND);
  glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE);
  glDepthMask(GL_FALSE);
  glBindVertexArray(sheet_.array);
  for (int i = 0; i < std::min(static_cast<int>(waters.size()), most_waters); ++i) {
    const WaterView& water = waters[static_cast<std::size_t>(i)];
    water_.setUniformValue("which", i);
    water_.setUniformValue("carried", static_cast<float>(water.current.x() * water.time),
                           static_cast<float>(water.current.z() * water.time));
    glDrawElements(GL_TRIANGLES, sheet_.count, GL_UNSIGNED_INT, nullptr);
  }
  glBindVertexArray(0);
  glDepthMask(GL_TRUE);
  glDisable(GL_BLEND);
}

void StageRenderer::draw(const Camera& camera, const QSize& size, const QSize& pixels,
                         const std::vector<BodyView>& bodies, const std::set<std::string>& chosen,
                         const std::vector<WaterView>& waters) {
  forget_unseen();
  for (const auto& shape : shapes_) shape->instances.clear();
  for (const BodyView& body : bodies) {
    const auto [shape, scale] = unit_shape(body.shape);
    Instance instance{};
    const QMatrix4x4 place = body.model ? matrix_of(body.pose * body.model_pose, Vec3::Constant(body.model_scale))
                                        : matrix_of(body.pose, body.left * scale);
    std::copy(place.constData(), place.constData() + 16, instance.place);
    const QColor colour(QString::fromStdString(body.colour));
    instance.colour[0] = static_cast<float>(colour.redF());
    instance.colour[1] = static_cast<float>(colour.greenF());
    instance.colour[2] = static_cast<float>(colour.blueF());
    instance.colour[3] = chosen.contains(body.name) ? 1 : 0;
    const bool coarsely = plain_ && round_radius(body.shape) * pixels_of_a_metre(camera, size, body.pose.position) < 36;
    (body.model ? drawn(body.model) : drawn(shape, coarsely)).instances.push_back(instance);
  }
  all_instances_.clear();
  for (const auto& shape : shapes_) {
    shape->first = all_instances_.size();
    all_instances_.insert(all_instances_.end(), shape->instances.begin(), shape->instances.end());
  }
  glBindBuffer(GL_ARRAY_BUFFER, instance_buffer_);
  glBufferData(GL_ARRAY_BUFFER, static_cast<GLsizeiptr>(all_instances_.size() * sizeof(Instance)),
               all_instances_.data(), GL_STREAM_DRAW);
  const QMatrix4x4 shadow = shadow_matrix(bodies, camera);
  QMatrix4x4 clip;
  clip.scale(1, -1, 1);  // GL's first row is the lowest
  clip *= camera.projection(size) * camera.looking();
  const Vec3 eye = camera.eye();

  GLint target = 0;
  glGetIntegerv(GL_FRAMEBUFFER_BINDING, &target);
  glEnable(GL_DEPTH_TEST);
  glDisable(GL_BLEND);
  glDisable(GL_SCISSOR_TEST);

  glBindFramebuffer(GL_FRAMEBUFFER, shadow_frame_);
  glViewport(0, 0, shadow_size_, shadow_size_);
  glClear(GL_DEPTH_BUFFER_BIT);
  depth_.bind();
  depth_.setUniformValue("clip", shadow);
  for (const auto& shape : shapes_) draw_mesh(shape->faces, shape->first, shape->instances.size());

  glBindFramebuffer(GL_FRAMEBUFFER, static_cast<GLuint>(target));
  glViewport(0, 0, pixels.width(), pixels.height());
  glClearColor(static_cast<float>(theme::far_ground.redF()), static_cast<float>(theme::far_ground.greenF()),
               static_cast<float>(theme::far_ground.blueF()), 1);
  glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  glActiveTexture(GL_TEXTURE0);
  glBindTexture(GL_TEXTURE_2D, shadow_texture_);

  glEnable(GL_POLYGON_OFFSET_FILL);
  glPolygonOffset(1, 1);
  body_.bind();
  body_.setUniformValue("clip", clip);
  body_.setUniformValue("shadow", shadow);
  body_.setUniformValue("shadow_map", 0);
  body_.setUniformValue("eye", static_cast<float>(eye.x()), static_cast<float>(eye.y()), static_cast<float>(eye.z()));
  tell_waters(body_, waters);
  for (const auto& shape : shapes_) draw_mesh(shape->faces, shape->first, shape->instances.size());
  // After the bodies: what they hide of it need not be painted.
  floor_.bind();
  floor_.setUniformValue("clip", clip);
  floor_.setUniformValue("shadow", shadow);
  floor_.setUniformValue("shadow_map", 0);
  floor_.setUniformValue(
      "middle", QVector3D(static_cast<float>(camera.view.target.x()), 0, static_cast<float>(camera.view.target.z())));
  const auto reach = static_cast<float>(camera.view.distance * 12);
  // The ruling follows the zoom in steps of ten, so that there are always lines to read sizes from.
  const double decade = std::pow(10.0, std::floor(std::log10(std::max(camera.view.distance, 1e-3) / 4)));
  floor_.setUniformValue("step_size", static_cast<float>(decade));
  floor_.setUniformValue("size", reach);
  floor_.setUniformValue("fade", reach * 0.26F);
  tell_waters(floor_, waters);
  glPolygonOffset(2, 2);
  glBindVertexArray(plane_.array);
  glDrawElements(GL_TRIANGLES, plane_.count, GL_UNSIGNED_INT, nullptr);
  glBindVertexArray(0);

  glDisable(GL_POLYGON_OFFSET_FILL);

  line_.bind();
  line_.setUniformValue("clip", clip);
  line_.setUniformValue("shadow", shadow);
  glLineWidth(1);
  for (const auto& shape : shapes_) draw_mesh(shape->lines, shape->first, shape->instances.size());
  line_.release();
  draw_waters(clip, eye, waters);
  glDisable(GL_DEPTH_TEST);
}

}  // namespace bronvel
