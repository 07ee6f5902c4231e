// Questions to the world: rays, overlaps, nearest points, sweeps.
#include "dynamics/bodies/integrate.h"
#include "dynamics/bodies/movers.h"
#include "dynamics/narrow_phase/body_distance.h"
#include "dynamics/state/world_state.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"
#include "geometry/shapes/parts.h"

namespace bronvel {
namespace {

void check(const Vec3& v, const char* call) {
  if (!finite(v)) throw Error(call, "wants vectors in metres, got one that is not a number");
}

void check(const Shape& shape, const Pose& pose, const char* call) {
  if (const auto fault = shape_fault(shape)) throw Error(call, *fault);
  if (is_composite(shape)) throw Error(call, "wants a convex shape, not a " + shape_word(shape));
  if (!finite(pose.position) || !finite(pose.orientation)) throw Error(call, "wants a pose of numbers");
}

bool asked(const WorldState& state, std::uint32_t i, const QueryFilter& filter) {
  const BodyRecord& record = state.records[i];
  return (record.settings.groups & filter.groups) != 0 && (record.solid || !filter.solid_only) &&
         BodyHandle{i, record.generation} != filter.except;
}

Pose pose_of(const WorldState& state, std::uint32_t i) {
  return shape_pose(state.records[i], state.bodies[i]);
}

}  // namespace

std::optional<WorldRayHit> World::ray(const Vec3& origin, const Vec3& direction, double reach,
                                      const QueryFilter& filter) const {
  check(origin, "ray");
  check(direction, "ray");
  const double length = direction.norm();
  if (length < 1e-12) throw Error("ray", "wants a direction that is not zero");
  const Vec3 unit = direction / length;
  std::optional<WorldRayHit> best;
  double left = reach;  // no farther than the best hit so far
  state_->broad_phase.along(origin, unit, left, [&](std::uint32_t i) {
    const BodyRecord& record = state_->records[i];
    if (!asked(*state_, i, filter)) return true;
    const auto hit = cast_ray(record.settings.shape, pose_of(*state_, i), origin, unit, left);
    const bool nearer = hit && (!best || hit->distance < best->hit.distance ||
                                (hit->distance == best->hit.distance && i < best->body.index));
    if (nearer) {
      best = WorldRayHit{{i, record.generation}, *hit};
      left = hit->distance;
    }
    return true;
  });
  return best;
}

std::vector<BodyHandle> World::overlapping(const Shape& shape, const Pose& pose, const QueryFilter& filter,
                                           QueryWork* work) const {
  check(shape, pose, "overlapping");
  std::vector<BodyHandle> found;
  QueryWork own;
  QueryWork& took = work ? *work : own;
  state_->broad_phase.overlapping(shape_bounds(shape, pose), [&](std::uint32_t i) {
    ++took.visited;
    if (!asked(*state_, i, filter)) return true;
    ++took.measured;
    if (distance_to_body(*state_, i, shape, pose, 0).distance <= 0) found.push_back({i, state_->records[i].generation});
    return true;
  });
  std::sort(found.begin(), found.end());
  return found;
}

std::optional<WorldNearest> World::nearest(const Vec3& point, double reach, const QueryFilter& filter) const {
  check(point, "nearest");
  const Shape dot = Sphere{1e-6};
  std::optional<WorldNearest> best;
  state_->broad_phase.overlapping(Bounds{point, point}.grown(std::max(reach, 0.0)), [&](std::uint32_t i) {
    if (!asked(*state_, i, filter)) return true;
    const WorldNearest here = distance_to_body(*state_, i, dot, {point, Quat::Identity()}, reach);
    if (here.distance > reach) return true;
    if (!best || here.distance < best->distance || (here.distance == best->distance && i < best->body.index))
      best = here;
    return true;
  });
  return best;
}

std::optional<WorldNearest> World::nearest_on(BodyHandle body, const Vec3& point, double reach) const {
  check(point, "nearest");
  const std::uint32_t i = state_->index_of(body);
  const WorldNearest near = distance_to_body(*state_, i, Sphere{1e-6}, {point, Quat::Identity()}, reach);
  return near.distance <= reach ? std::optional(near) : std::nullopt;
}

namespace {

// How far the shape comes until it meets the part: conservative advancement, never farther than the gap allows at the
// speed of closing. Each part by itself: the nearest of several says nothing of one that lies ahead.
std::optional<WorldNearest> met_on_the_way(const WorldState& state, std::uint32_t body, const Part& part,
                                           const Shape& shape, const Pose& pose, const Vec3& direction, double length) {
  double travelled = 0;
  for (int step = 0; step < 64; ++step) {
    const Pose here{pose.position + direction * travelled, pose.orientation};
    WorldNearest near = distance_to_part(state, body, part, shape, here);
    const double closing = -near.normal.dot(direction);
    if (closing <= 1e-9) return std::nullopt;
    if (near.distance <= 1e-6) {
      near.distance = travelled;
      return near;
    }
    travelled += near.distance / closing;
    if (travelled > length) return std::nullopt;
  }
  return std::nullopt;
}

// The first body that takes part and that the shape meets on its way; `work` grows by what that took.
template <class TakesPart>
std::optional<WorldNearest> first_met(const WorldState& state, const Shape& shape, const Pose& pose, const Vec3& way,
                                      const TakesPart& takes_part, QueryWork& work) {
  const double length = way.norm();
  const Vec3 direction = length > 0 ? Vec3(way / length) : Vec3(Vec3::Unit(1));
  const Bounds on_the_way = shape_bounds(shape, pose).swept(way);
  std::optional<WorldNearest> best;
  state.broad_phase.overlapping(on_the_way, [&](std::uint32_t i) {
    ++work.visited;
    if (!takes_part(i)) return true;
    for (const Part& part : parts_within(state, i, on_the_way)) {
      ++work.measured;
      const auto met = met_on_the_way(state, i, part, shape, pose, direction, best ? best->distance : length);
      if (met && (!best || met->distance < best->distance || (met->distance == best->distance && i < best->body.index)))
        best = met;
    }
    return true;
  });
  return best;
}

}  // namespace

std::optional<WorldNearest> World::sweep(const Shape& shape, const Pose& pose, const Vec3& way,
                                         const QueryFilter& filter, QueryWork* work) const {
  check(shape, pose, "sweep");
  check(way, "sweep");
  QueryWork own;
  return first_met(
      *state_, shape, pose, way, [&](std::uint32_t i) { return asked(*state_, i, filter); }, work ? *work : own);
}

WorldAdvance World::advance(BodyHandle body, const Vec3& way, bool slide) {
  check(way, "advance");
  const std::uint32_t self = state_->index_of(body);
  const BodySettings& own = state_->records[self].settings;
  if (own.kind != MotionKind::kinematic)
    throw Error("advance", "wants a kinematic body", "forces and contacts move dynamic ones");
  constexpr double skin = 1e-4;  // m left between the surfaces, so that the next step does not begin inside
  constexpr int most_slides = 4;
  const auto takes_part = [&](std::uint32_t i) {
    const BodySettings& other = state_->records[i].settings;
    return i != self && other.solid && (own.groups & other.meets) != 0 && (other.groups & own.meets) != 0;
  };
  Pose pose = pose_of(*state_, self);
  const Vec3 start = pose.position;
  WorldAdvance result;
  Vec3 left = way;
  std::vector<Vec3> walls;
  for (int turn = 0; turn < (slide ? most_slides : 1) && left.norm() > 1e-9; ++turn) {
    std::optional<WorldNearest> first;
    for (std::uint32_t p = 0; p < part_count(own.shape); ++p) {
      const Part part = part_of(own.shape, p);
      const auto met = first_met(*state_, part.shape, pose * part.pose, left, takes_part, result.work);
      if (met && (!first || met->distance < first->distance)) first = met;
    }
    if (!first) {
      pose.position += left;
      break;
    }
    const Vec3 direction = left.normalized();
    const double closing = -first->normal.dot(direction);
    const double go = std::max(first->distance - skin / std::max(closing, 0.01), 0.0);
    pose.position += go * direction;
    if (!result.hit) result.hit = first;
    left -= go * direction;
    walls.push_back(first->normal);
    // On along the wall, or along the edge between the last two.
    left -= std::min(left.dot(first->normal), 0.0) * first->normal;
    if (walls.size() > 1 && left.dot(walls[walls.size() - 2]) < 0) {
      const Vec3 crease = walls[walls.size() - 2].cross(walls.back());
      left = crease.squaredNorm() > 1e-12 ? Vec3(crease * (left.dot(crease) / crease.squaredNorm())) : Vec3::Zero();
    }
  }
  place(body, pose);
  result.moved = pose.position - start;
  note_moved(*state_, self, result.moved);
  if (result.hit) strike_by_advance(self, way, *result.hit);
  return result;
}

namespace {

// Where two bodies meet that are a hair apart: the middle of all their points, where both are convex.
Vec3 middle_of_contact(const WorldState& s, std::uint32_t a, std::uint32_t b, const Vec3& otherwise) {
  const Shape &shape_a = s.records[a].settings.shape, &shape_b = s.records[b].settings.shape;
  if (part_count(shape_a) != 1 || part_count(shape_b) != 1) return otherwise;
  constexpr double reach = 1e-3;  // m, more than the hair
  const Manifold manifold = collide(shape_a, pose_of(s, a), shape_b, pose_of(s, b), reach);
  if (manifold.count == 0) return otherwise;
  Vec3 sum = Vec3::Zero();
  for (int i = 0; i < manifold.count; ++i) sum += manifold.points[static_cast<std::size_t>(i)].point;
  return sum / manifold.count;
}

}  // namespace

// It goes as fast as would take it its whole way within a tick: what it meets is struck by that, and what can be moved
// goes on before it, by Newton's restitution (the mover's mass counts for infinite).
void World::strike_by_advance(std::uint32_t self, const Vec3& way, const WorldNearest& met) {
  WorldState& s = *state_;
  const std::uint32_t other = s.index_of(met.body);
  const BodyState& motion = s.bodies[other];
  const Vec3 point = middle_of_contact(s, self, other, met.point);
  const Vec3 arm = point - motion.centre;
  const double closing = -met.normal.dot(way / s.tick_length() - motion.velocity_at(arm));
  if (closing <= 0) return;
  AdvanceHit hit{self, other, point, met.normal, closing, 0};
  if (s.records[other].dynamic()) {
    const SurfacePair surface = combine(s.records[self].settings.surface, s.records[other].settings.surface);
    const double bounce = closing > s.settings.restitution_speed ? surface.restitution : 0;
    const Vec3 lever = arm.cross(met.normal);
    const double mobility =
        met.normal.dot(motion.inverse_mass.cwiseProduct(met.normal)) + lever.dot(motion.inverse_inertia * lever);
    if (!(mobility > 0)) return;  // locked that way
    hit.impulse = (1 + bounce) * closing / mobility;
    impulse_at(met.body, -hit.impulse * met.normal, point);
  }
  for (AdvanceHit& known : s.advance_hits) {
    if (known.body != self || known.other != other) continue;
    known.impulse += hit.impulse;
    known.speed = std::max(known.speed, hit.speed);
    return;
  }
  s.advance_hits.push_back(hit);
}

}  // namespace bronvel
