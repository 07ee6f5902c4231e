// Building on the stage: landing what the shelf offers, picking places, choosing in a box, keys.
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QPainter>
#include <set>

#include "app/kit/theme.h"
#include "app/stage/stage.h"
#include "app/stage/stage_drawings.h"
#include "geometry/base/curve.h"
#include "geometry/meshes/outline.h"
#include "geometry/queries/ray.h"
#include "scene/document/names.h"
#include "scene/document/ways.h"
#include "scene/edits/stamps.h"

namespace bronvel {

// Where the offer's frame comes to stand under the mouse: on what is there, its middle on the grid.
std::optional<Pose> Stage::landing_place(const Offer& offer, const QPointF& pixel) const {
  auto place = place_at(pixel);
  if (!place) return std::nullopt;
  if (snap_.on) {
    place->x() = to_grid(place->x(), snap_.grid);
    place->z() = to_grid(place->z(), snap_.grid);
  }
  // From a little above, down onto whatever is met first.
  Clearance clear(session_.scene(), {});
  double height = 0;
  for (const Body& body : offer.bodies)
    height = std::max(height, shape_bounds(body.shape, {body.position, body.orientation}).high.y());
  const double lift = height + 0.5;
  std::vector<std::pair<Shape, Pose>> shapes;
  for (const Body& body : offer.bodies)
    shapes.emplace_back(body.shape, Pose{*place + Vec3(0, lift, 0) + body.position, body.orientation});
  const double fall = clear.along(shapes, Vec3(0, -lift - place->y() - 1, 0));
  return Pose{*place + Vec3(0, lift - fall, 0), Quat::Identity()};
}

std::vector<BodyView> Stage::landing(const Offer& offer, const QPointF& pixel) const {
  const auto frame = landing_place(offer, pixel);
  if (!frame) return {};
  std::vector<BodyView> views;
  for (const Body& body : offer.bodies) {
    BodyView view = BodyView::of(body, *frame * Pose{body.position, body.orientation}, session_.scene().models);
    view.name.clear();
    views.push_back(view);
  }
  return views;
}

void Stage::show_offer(const Offer& offer, const QPointF& pixel) {
  offered_ = rect().contains(pixel.toPoint()) ? landing(offer, pixel) : std::vector<BodyView>{};
  redraw();
}

void Stage::show_fit(const std::optional<BodyView>& mesh, const std::optional<std::pair<Shape, Pose>>& shape) {
  offered_.clear();
  fit_lines_.clear();
  if (mesh) offered_.push_back(*mesh);
  const Model* model = mesh ? mesh->model.get() : nullptr;
  const Vec3 extent = model ? Vec3(model_bounds(*model).high - model_bounds(*model).low) : Vec3(Vec3::Zero());
  if (model && extent != framed_extent_)
    camera_.frame(model_bounds(*model).turned(mesh->pose).grown(0.1 * extent.maxCoeff()));
  framed_extent_ = extent;
  if (shape && !std::holds_alternative<Mesh>(shape->first)) {
    const Outline outline = outline_of(shape->first);
    for (std::size_t i = 0; i + 1 < outline.lines.size(); i += 2)
      fit_lines_.emplace_back(shape->second.to_scene(outline.lines[i]), shape->second.to_scene(outline.lines[i + 1]));
  }
  redraw();
}

void Stage::hide_offer() {
  offered_.clear();
  redraw();
}

void Stage::land_offer(const Offer& offer, const std::optional<QPointF>& pixel) {
  offered_.clear();
  const QPointF at = pixel.value_or(QPointF(0.5 * (width() - camera_.covered_right), 0.5 * height()));
  const auto found = landing_place(offer, at);
  const Pose frame = found.value_or(Pose{camera_.view.target, Quat::Identity()});
  BodyNames made;
  const std::string label = offer.label;
  if (!offer.stamp.empty()) {
    session_.edit(QString::fromStdString("place " + label),
                  [&](Scene& scene) { made = place_stamp(scene, offer.stamp, frame); });
  } else {
    session_.edit(QString::fromStdString("new " + label), [&](Scene& scene) {
      Names book(scene);
      for (Body body : offer.bodies) {
        body.name = book.fresh(body.name);
        const Pose pose = frame * Pose{body.position, body.orientation};
        body.position = pose.position;
        body.orientation = pose.orientation;
        if (body.surface.empty() && scene.surfaces.contains("oak")) body.surface = "oak";
        made.push_back(body.name);
        scene.bodies.push_back(std::move(body));
      }
    });
  }
  session_.choose_bodies(made);
  setFocus();
  emit landed();
}

void Stage::start_picking(Picking picking) {
  handles_.cancel();
  picking_ = std::move(picking);
  setFocus();
  setCursor(Qt::CrossCursor);
  redraw();
}

void Stage::pick(const QPointF& pixel) {
  const auto place = place_at(pixel);
  if (!place) {
    emit session_.said("there is nothing there to pick: click a body or the ground");
    return;
  }
  Vec3 point = *place;
  if (snap_.on)
    for (int axis = 0; axis < 3; ++axis) {
      // Only where the grid lies on the surface too: half the grid away would leave it.
      const double snapped = to_grid(point[axis], 0.5 * snap_.grid);
      if (std::abs(snapped - point[axis]) < 0.3 * snap_.grid) point[axis] = snapped;
    }
  if (picking_->wanted == 0 && !picking_->picks.empty() &&
      (camera_.pixel(picking_->picks.back().point, size()) - pixel).manhattanLength() < 8) {
    finish_picking();
    return;
  }
  picking_->picks.push_back({body_at(pixel), point});
  if (picking_->wanted != 0 && picking_->picks.size() >= picking_->wanted) finish_picking();
  redraw();
}

void Stage::let_go_of_what_is_gone() {
  if (handles_.active()) {
    handles_.cancel();
    emit session_.said("The drag has ended: the scene was changed meanwhile.");
  }
  if (!picking_) return;
  std::vector<std::string> needed = picking_->of;
  for (const Pick& pick : picking_->picks)
    if (!pick.body.empty()) needed.push_back(pick.body);
  for (const std::string& name : needed) {
    if (session_.scene().find(name)) continue;
    picking_.reset();
    setCursor(Qt::ArrowCursor);
    emit session_.said(QString::fromStdString(name + " is gone: what was begun on it has ended."));
    return;
  }
}

void Stage::finish_picking() {
  if (!picking_) return;
  const Picking done = std::move(*picking_);
  picking_.reset();
  setCursor(Qt::ArrowCursor);
  if (done.picks.size() >= done.least) {
    try {
      done.done(done.picks);
    } catch (const std::exception& e) {
      emit session_.said(e.what());
    }
  }
  redraw();
}

void Stage::set_measure(std::optional<std::pair<Vec3, Vec3>> line) {
  measure_ = std::move(line);
  redraw();
}

void Stage::look_from(double turn, double tilt, bool straight) {
  camera_.view.turn = turn;
  camera_.view.tilt = tilt;
  camera_.view.straight = straight;
  redraw();
}

void Stage::set_view(const View& view) {
  camera_.view = view;
  redraw();
}

void Stage::follow(const std::string& body) {
  followed_ = body;
  followed_at_.reset();
  redraw();
}

void Stage::choose_in_box(const QPointF& from, const QPointF& to) {
  const QRectF box = QRectF(from, to).normalized();
  BodyNames names = session_.chosen_bodies();
  for (const BodyView& body : session_.bodies()) {
    bool seen = false;
    const QPointF at = camera_.pixel(body.pose.position, size(), &seen);
    if (seen && box.contains(at) && !session_.is_chosen(body.name)) names.push_back(body.name);
  }
  session_.choose_bodies(names);
}

std::optional<std::pair<ThingKind, std::string>> Stage::thing_at(const QPointF& pixel) const {
  const Pencil pencil(nullptr, camera_, size());
  const Scene& scene = session_.scene();
  const auto near = [&](const Vec3& point, const QPointF& shift, double reach) {
    const auto at = pencil.pixel(point);
    return at && std::hypot((*at + shift - pixel).x(), (*at + shift - pixel).y()) < reach;
  };
  // A label is drawn to the right of its place.
  const auto on_label = [&](const Vec3& point, const QPointF& shift, const QString& text) {
    const auto at = pencil.pixel(point);
    return at && QFontMetricsF(theme::numbers(11))
                     .boundingRect(text)
                     .translated(*at + shift)
                     .adjusted(-4, -3, 4, 3)
                     .contains(pixel);
  };
  for (const SceneJoint& joint : scene.joints)
    for (const Vec3& point : joint_points(scene, joint))
      if (near(point, {}, 6)) return std::pair(ThingKind::joint, joint.name);
  for (const SceneJoint& joint : scene.joints) {
    // A rope can be taken anywhere along it.
    const std::vector<Vec3> points = joint_points(scene, joint);
    if (joint.kind != JointKind::distance || points.size() < 2) continue;
    for (int i = 1; i < 20; ++i)
      if (near(points[0] + (points[1] - points[0]) * (i / 20.0), {}, 5)) return std::pair(ThingKind::joint, joint.name);
  }
  for (const ScenePath& path : scene.paths) {
    if (on_label(path.points.front(), {6, 14}, "path " + QString::fromStdString(path.name)))
      return std::pair(ThingKind::path, path.name);
    const Curve curve(path.points, path.smooth, path.closed);
    for (int i = 0; i <= 64; ++i)
      if (near(curve.at(curve.length() * i / 64), {}, 6)) return std::pair(ThingKind::path, path.name);
  }
  for (const SceneZone& zone : scene.zones)
    if (on_label(zone_label_place(pencil, zone), zone_label_shift, "zone " + QString::fromStdString(zone.name)))
      return std::pair(ThingKind::zone, zone.name);
  return std::nullopt;
}

void Stage::contextMenuEvent(QContextMenuEvent* event) {
  // A right drag moves the view; only a click asks for the menu.
  if (session_.building() && (mouse_ - pressed_at_).manhattanLength() < 4) emit menu_asked(event->globalPos());
}

bool Stage::build_key(QKeyEvent* event) {
  if (handles_.active()) return handles_.key(event->key(), event->text());
  if (picking_) {
    if (event->key() == Qt::Key_Escape) {
      picking_.reset();
      setCursor(Qt::ArrowCursor);
      redraw();
      return true;
    }
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
      finish_picking();
      return true;
    }
    if (event->key() == Qt::Key_Backspace && !picking_->picks.empty()) {
      picking_->picks.pop_back();
      redraw();
      return true;
    }
  }
  const BodyNames names = session_.chosen_bodies();
  const std::string thing = session_.chosen_thing();
  switch (event->key()) {
    case Qt::Key_Escape:
      if (measure_)
        set_measure(std::nullopt);
      else
        session_.choose("");
      return true;
    case Qt::Key_Delete:
    case Qt::Key_Backspace: {
      if (const ScenePath* path = session_.chosen_path(); path && path->points.size() > 2) {
        const std::size_t point = std::min(handles_.path_point(), path->points.size() - 1);
        session_.edit(QString::fromStdString(thing + ": without point ") + QString::number(point + 1),
                      [&](Scene& scene) {
                        for (ScenePath& each : scene.paths)
                          if (each.name == thing)
                            each.points.erase(each.points.begin() + static_cast<std::ptrdiff_t>(point));
                      });
        return true;
      }
      const ThingKind kind = session_.chosen_kind();
      if (kind == ThingKind::body && names.empty()) return true;
      const QString what = kind != ThingKind::body ? QString::fromStdString(thing)
                           : names.size() == 1     ? QString::fromStdString(names[0])
                                                   : QString("%1 bodies").arg(names.size());
      session_.edit("remove " + what, [&](Scene& scene) {
        if (kind == ThingKind::body) remove_bodies(scene, names);
        const auto called = [&](const auto& each) { return each.name == thing; };
        if (kind == ThingKind::joint) std::erase_if(scene.joints, called);
        if (kind == ThingKind::zone) std::erase_if(scene.zones, called);
        if (kind == ThingKind::path) std::erase_if(scene.paths, called);
      });
      return true;
    }
    case Qt::Key_D:
      if ((event->modifiers() & Qt::ControlModifier) != 0 && !names.empty()) {
        BodyNames copies;
        const Bounds bounds = bounds_of(session_.scene(), names);
        const double step = bounds.high.x() - bounds.low.x() + snap_.grid;
        session_.edit(names.size() == 1 ? QString::fromStdString("copy " + names[0])
                                        : QString("copy %1 bodies").arg(names.size()),
                      [&](Scene& scene) { copies = duplicate(scene, names, Vec3(step, 0, 0)); });
        session_.choose_bodies(copies);
        return true;
      }
      return false;
    case Qt::Key_A:
      if ((event->modifiers() & Qt::ControlModifier) != 0) {
        BodyNames all;
        for (const Body& body : session_.scene().bodies) all.push_back(body.name);
        session_.choose_bodies(all);
        return true;
      }
      return false;
    case Qt::Key_End:
      if (!names.empty()) session_.edit("let down", [&](Scene& scene) { let_down(scene, names); });
      return true;
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: {
      // With Ctrl, a step of the grid along the scene's axes; alone, the arrows turn the view.
      if ((event->modifiers() & Qt::ControlModifier) == 0 || names.empty()) return false;
      const double by = snap_.grid;
      const int key = event->key();
      const Vec3 way = key == Qt::Key_Left    ? Vec3(-by, 0, 0)
                       : key == Qt::Key_Right ? Vec3(by, 0, 0)
                       : key == Qt::Key_Up    ? Vec3(0, 0, -by)
                       : key == Qt::Key_Down  ? Vec3(0, 0, by)
                                              : Vec3(0, key == Qt::Key_PageUp ? by : -by, 0);
      session_.edit("move by one step", [&](Scene& scene) { move_bodies(scene, names, way); });
      return true;
    }
    default:
      return false;
  }
}

// The chosen body's nose: which way body.forward points.
void Stage::draw_nose(Pencil& pencil) const {
  if (session_.chosen_bodies().size() != 1) return;
  for (const BodyView& body : session_.bodies()) {
    if (body.name != session_.chosen() || body.kind == MotionKind::fixed) continue;
    const Vec3 forward = ways_of_body(session_.scene().world).forward;
    const Bounds bounds = shape_bounds(body.shape, {});
    const double reach = std::max(forward.dot(bounds.high), forward.dot(bounds.low));
    const double length = std::max(0.25 * reach, 0.02 * camera_.view.distance);
    const Vec3 from = body.pose.to_scene(forward * reach), to = body.pose.to_scene(forward * (reach + length));
    QPen pen(theme::chosen, 1.5);
    pen.setDashPattern({3, 2});
    pencil.arrow(from, to, pen);
    return;
  }
}

void Stage::draw_building(Pencil& pencil) const {
  draw_nose(pencil);
  if (session_.building() && session_.pulled_apart() == 0)
    handles_.draw(pencil, handles_.active() ? handles_.grip() : hovered_);
  const QPen line(theme::accent, 1.5);
  if (handles_.active()) pencil.note(mouse_ + QPointF(16, -10), handles_.reading(), theme::accent);
  if (picking_) {
    for (std::size_t i = 0; i < picking_->picks.size(); ++i) {
      pencil.dot(picking_->picks[i].point, 4.5, theme::accent, theme::accent);
      if (i > 0) pencil.line(picking_->picks[i - 1].point, picking_->picks[i].point, line);
    }
    pencil.note({16, 62}, picking_->hint() + "  ·  Escape lets go", theme::accent);
  }
  if (measure_) {
    const Vec3 way = measure_->second - measure_->first;
    pencil.line(measure_->first, measure_->second, line);
    for (const Vec3& end : {measure_->first, measure_->second}) pencil.dot(end, 4, theme::sheet, theme::accent);
    pencil.words_aside(0.5 * (measure_->first + measure_->second), {10, -8},
                       QString("%1 m   Δ %2, %3, %4")
                           .arg(way.norm(), 0, 'f', 3)
                           .arg(way.x(), 0, 'f', 3)
                           .arg(way.y(), 0, 'f', 3)
                           .arg(way.z(), 0, 'f', 3),
                       theme::accent);
  }
  for (const auto& [from, to] : fit_lines_) pencil.line(from, to, QPen(QColor(194, 69, 45, 150), 1));
  if (box_) pencil.frame(QRectF(box_->first, box_->second).normalized(), theme::chosen);
  // A ring rides the chosen path: two metres a second, three seconds at least.
  if (const ScenePath* path = session_.chosen_path()) {
    const Curve curve(path->points, path->smooth, path->closed);
    const double seconds = std::max(3.0, 0.5 * curve.length());
    const double share = std::fmod(static_cast<double>(ride_clock_.elapsed()) / 1000.0, seconds) / seconds;
    pencil.ring(curve.at(curve.length() * share), 8, QPen(theme::accent, 2));
    pencil.words(curve.at(curve.length() * share), {12, 4}, QString::number(curve.length() * share, 'f', 2) + " m",
                 theme::accent);
  }
}

}  // namespace bronvel
