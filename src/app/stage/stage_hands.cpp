// The stage's hands in play: carrying, flicking, cutting and blasting by the mouse.
#include <cmath>
#include <set>

#include "app/stage/stage.h"
#include "geometry/queries/ray.h"

namespace bronvel {

Vec3 Stage::hand_point(const QPointF& pixel) const {
  const ViewRay ray = camera_.ray(pixel, size());
  const Vec3 forward = camera_.forward();
  if (along_floor_) {
    // As far as the floor is seen; level with the eye it is nowhere.
    constexpr double furthest = 20;  // times as far as what is looked at
    const double down = hand_plane_.y() - ray.origin.y();
    const double way = std::abs(ray.direction.y()) > 1e-3 ? down / ray.direction.y() : -1;
    if (way > 0) return ray.origin + ray.direction * std::min(way, furthest * camera_.view.distance);
  }
  const double away = (hand_plane_ - ray.origin).dot(forward);
  return ray.origin + ray.direction * (away / std::max(ray.direction.dot(forward), 1e-3));
}

// Whether a tool took the press, so that the view does not turn.
bool Stage::begin_hand(const QPointF& pixel) {
  if (!session_.live_play() || tools_->tool() == Tool::look) return false;
  if (tools_->tool() == Tool::blast) {
    const auto place = place_at(pixel);
    if (!place) return false;
    Input input;
    input.kind = Input::Kind::blast;
    input.blast = tools_->blast_at(*place);
    session_.give(input);
    hand_line_.reset();
    return true;
  }
  if (tools_->tool() == Tool::knife) {
    blade_ = pixel;
    return true;
  }
  const std::string body = body_at(pixel);
  const auto place = place_at(pixel);
  for (const BodyView& view : session_.bodies()) {
    if (view.name != body || view.kind != MotionKind::dynamic || !place) continue;
    held_ = body;
    session_.choose(body);
    grip_ = view.pose.to_local(*place);
    hand_plane_ = hand_at_ = *place;
    if (tools_->tool() == Tool::hand) {
      Input input;
      input.kind = Input::Kind::grab;
      input.name = body;
      input.point = grip_;
      input.value = tools_->hand_most();
      input.holding = tools_->holding();
      session_.give(input);
    }
    return true;
  }
  return false;
}

void Stage::move_hand(const QPointF& pixel) {
  const Vec3 to = hand_point(pixel);
  hand_at_ = to;
  for (const BodyView& view : session_.bodies()) {
    if (view.name != held_) continue;
    const Vec3 from = view.pose.to_scene(grip_);
    if (tools_->tool() == Tool::hand) {
      Input input;
      input.kind = Input::Kind::carry;
      input.point = to;
      session_.give(input);
      const double away = (to - camera_.eye()).dot(camera_.forward());
      hand_line_ = HandLine{from, to, QString("%1 m away").arg(away, 0, 'f', 1), false};
    } else {
      const Value mass = session_.value(held_, *find_property("mass"));
      const auto* kilograms = std::get_if<double>(&mass);
      const double size = tools_->flick_impulse((to - from).norm(), kilograms ? *kilograms : 1);
      hand_line_ = HandLine{from, to, QString::number(size, 'g', 3) + " N·s", true};
      const auto reading = session_.chosen_reading();
      if (reading && kilograms && *kilograms > 0 && (to - from).norm() > 0) {
        const Value factor = session_.value(held_, *find_property("gravity_factor"));
        const auto* times = std::get_if<double>(&factor);
        const Vec3 velocity = reading->velocity + (to - from).normalized() * (size / *kilograms);
        hand_line_->flight = free_flight(session_.bodies(), held_, reading->pose.position, velocity,
                                         session_.scene().world.gravity * (times ? *times : 1));
      }
    }
  }
  redraw();
}

namespace {

// A point in the picture's middle depth, to draw the blade through.
Vec3 at_depth(const ViewRay& ray, double depth) {
  return ray.origin + depth * ray.direction;
}

}  // namespace

void Stage::move_blade(const QPointF& pixel) {
  const double depth = 0.2 * camera_.view.distance;
  HandLine line;
  line.from = at_depth(camera_.ray(*blade_, size()), depth);
  line.to = at_depth(camera_.ray(pixel, size()), depth);
  line.blade = true;
  hand_line_ = line;
  redraw();
}

// A click of the knife: across the body's longest way, where it was clicked.
void Stage::cut_across(const QPointF& pixel) {
  const std::string name = body_at(pixel);
  const auto place = place_at(pixel);
  for (const BodyView& view : session_.bodies()) {
    if (view.name != name || !place || !can_be_cut(view)) continue;
    const Bounds bounds = shape_bounds(view.shape, {});
    int longest = 0;
    (bounds.high - bounds.low).maxCoeff(&longest);
    Input input;
    input.kind = Input::Kind::cut;
    input.name = name;
    input.point = *place;
    input.vector = view.pose.orientation * Vec3::Unit(longest);
    session_.give(input);
    return;
  }
  emit session_.said("the knife met nothing that can be cut: static bodies can't, unless they break");
}

bool Stage::can_be_cut(const BodyView& view) const {
  const Body* body = session_.scene().find(view.name);
  const bool breaks = body && body->breaking.into != Breaking::Into::nothing;
  return view.kind != MotionKind::fixed || breaks;
}

// Cuts what the line crosses, by the plane that holds the line and the way one looks along it.
void Stage::end_blade(const QPointF& pixel) {
  const QPointF from = *blade_;
  blade_.reset();
  hand_line_.reset();
  redraw();
  constexpr double no_line = 8;  // pixels
  if ((pixel - from).manhattanLength() < no_line) return cut_across(from);
  const ViewRay first = camera_.ray(from, size()), last = camera_.ray(pixel, size());
  const Vec3 along = at_depth(last, camera_.view.distance) - at_depth(first, camera_.view.distance);
  Input input;
  input.kind = Input::Kind::cut;
  input.point = first.origin;
  input.vector = along.cross(first.direction).normalized();
  constexpr int looks = 64;
  std::set<std::string> crossed;
  for (int i = 0; i <= looks; ++i) crossed.insert(body_at(from + (pixel - from) * (static_cast<double>(i) / looks)));
  bool any = false;
  for (const BodyView& view : session_.bodies()) {
    if (!crossed.contains(view.name) || !can_be_cut(view)) continue;
    any = true;
    input.name = view.name;
    session_.give(input);
  }
  if (!any) emit session_.said("the knife met nothing that can be cut: static bodies can't, unless they break");
}

void Stage::end_hand(const QPointF& pixel) {
  Input input;
  if (tools_->tool() == Tool::hand) {
    input.kind = Input::Kind::drop;
    session_.give(input);
  } else if (hand_line_) {
    move_hand(pixel);
    const Vec3 way = hand_line_->to - hand_line_->from;
    const Value mass = session_.value(held_, *find_property("mass"));
    const auto* kilograms = std::get_if<double>(&mass);
    input.kind = Input::Kind::flick;
    input.name = held_;
    input.point = hand_line_->from;
    if (way.norm() > 1e-9)
      input.vector = way.normalized() * tools_->flick_impulse(way.norm(), kilograms ? *kilograms : 1);
    session_.give(input);
  }
  held_.clear();
  hand_line_.reset();
  redraw();
}

// Nearer or farther by a tenth a notch.
void Stage::wheel_hand(double notches) {
  const double depth = (hand_plane_ - camera_.eye()).dot(camera_.forward());
  hand_plane_ += camera_.forward() * (std::max(depth, 0.1) * (std::pow(1.1, notches) - 1));
}

}  // namespace bronvel
