// Cutting bodies by planes, and shattering them at once.
#include <set>
#include <utility>

#include "dynamics/breaking/break_state.h"
#include "dynamics/world/move_joints.h"
#include "dynamics/world/world.h"
#include "geometry/base/error.h"
#include "geometry/cutting/cut.h"
#include "geometry/shapes/compound.h"

namespace bronvel {
namespace {

constexpr double least_side = 1e-4;  // of the extent: thinner slices are none

}  // namespace

// A new body made of part of another, with the velocities that it had as a part. `origin`: of its frame in the other's.
BodyHandle World::part_off(BodyHandle from, const BodySettings& settings, const Vec3& origin) {
  const BodyMotion whole = motion(from);
  const Vec3 centre = centre_of_mass(from);
  BodyMotion m;
  m.pose = {whole.pose.to_scene(origin), whole.pose.orientation};
  m.angular_velocity = whole.angular_velocity;
  const BodyHandle made = create(settings, m);
  if (settings.kind != MotionKind::fixed)
    set_velocity(made, whole.velocity + whole.angular_velocity.cross(centre_of_mass(made) - centre));
  return made;
}

// The body goes on as a part of itself, with the velocities that it had as one. `origin`: of its new frame in the old.
void World::keep_part(BodyHandle body, const BodySettings& settings, const Vec3& origin) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  const Pose whole = motion(body).pose;
  const BodyState before = s.bodies[i];
  const Vec3 centre = s.records[i].mass.centre;
  const bool stood = s.records[i].kind == MotionKind::fixed;
  change(body, settings);
  if (!origin.isZero(0)) {
    place(body, {whole.to_scene(origin), whole.orientation});
    s.frame_shifts.try_emplace(i, Vec3::Zero()).first->second += origin;
  }
  // What looks back to the tick's start finds the part there.
  if (i < s.at_start.size())
    s.at_start[i].centre += s.at_start[i].orientation * (s.records[i].mass.centre + origin - centre);
  if (settings.kind != MotionKind::fixed && !stood)
    set_velocity(body, before.velocity + before.angular_velocity.cross(s.bodies[i].centre - before.centre));
}

BodyHandle World::slice(BodyHandle body, const Vec3& point, const Vec3& normal) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  if (!finite(point)) throw Error("slice", "wants a point in metres");
  if (!finite(normal) || normal.norm() < 1e-9) throw Error("slice", "wants a direction that is not zero");
  const BodySettings before = body_settings(body);
  const Pose pose = motion(body).pose;
  if (!has_volume(before.shape))
    throw Error("slice", "a " + shape_word(before.shape) + " has no inside to be cut", "give the body a hull");
  const bool bonded = s.records[i].breaks >= 0;
  const BreakRecord old = bonded ? s.breakables[static_cast<std::size_t>(s.records[i].breaks)] : BreakRecord{};
  if (before.kind == MotionKind::fixed && !bonded)
    throw Error("slice", "a static body can't be cut", "make it dynamic first");
  // In the body's own frame.
  const Vec3 n = pose.orientation.conjugate() * normal.normalized();
  const Plane plane{n, n.dot(pose.to_local(point))};

  // The body's convex parts, each with where it comes from.
  struct Source {
    Part part;
    std::uint32_t piece = 0;
  };
  std::vector<Source> sources;
  if (bonded) {
    for (const std::uint32_t piece : old.part.pieces)
      sources.push_back(
          {{shifted(old.settings.set->pieces[piece], -old.offset), Pose{}, old.settings.set->densities[piece]}, piece});
  } else {
    for (std::uint32_t p = 0; p < part_count(before.shape); ++p) sources.push_back({part_of(before.shape, p), p});
  }
  std::array<std::vector<Source>, 2> sides;
  const Bounds all = shape_bounds(before.shape, Pose{});
  const double thin = least_side * (all.high - all.low).maxCoeff();
  bool grazed = false;
  for (const Source& source : sources) {
    const Bounds bounds = shape_bounds(source.part.shape, source.part.pose);
    const double middle = plane.normal.dot(0.5 * (bounds.low + bounds.high)) - plane.offset;
    const double reach = plane.normal.cwiseAbs().dot(0.5 * (bounds.high - bounds.low));
    if (std::abs(middle) >= reach) {
      sides[middle > 0 ? 1 : 0].push_back(source);
      continue;
    }
    const auto hull = hull_of(moved(facets_of(source.part.shape), source.part.pose));
    if (!hull) continue;
    const auto two = cut_in_two(*hull, plane);
    if (!two) {
      grazed = true;
      sides[plane.normal.dot(hull->data->centre) > plane.offset ? 1 : 0].push_back(source);
      continue;
    }
    sides[0].push_back({{two->first, Pose{}, source.part.density}, source.piece});
    sides[1].push_back({{two->second, Pose{}, source.part.density}, source.piece});
  }
  const auto thickness = [&](const std::vector<Source>& side) {
    double most = 0;
    for (const Source& source : side) {
      const Bounds b = shape_bounds(source.part.shape, source.part.pose);
      most = std::max(most, std::abs(plane.normal.dot(0.5 * (b.low + b.high)) - plane.offset) +
                                plane.normal.cwiseAbs().dot(0.5 * (b.high - b.low)));
    }
    return most;
  };
  if ((sides[0].empty() || sides[1].empty()) && !grazed) throw Error("slice", "the cut misses the body");
  if (sides[0].empty() || sides[1].empty() || thickness(sides[0]) < thin || thickness(sides[1]) < thin)
    throw Error("slice", "the cut only grazes the body: the slice would be thinner than a ten-thousandth of it");

  std::array<double, 2> weight{};
  std::array<Vec3, 2> centre{Vec3::Zero(), Vec3::Zero()};
  for (std::size_t k = 0; k < 2; ++k) {
    for (const Source& source : sides[k]) {
      const MassProperties m = mass_properties(source.part.shape, source.part.density);
      weight[k] += m.mass;
      centre[k] += m.mass * source.part.pose.to_scene(m.centre);
    }
    centre[k] /= weight[k];
  }
  // The two sides' own pieces and bonds; what was cracked stays so.
  std::array<std::shared_ptr<const PieceSet>, 2> sets;
  if (bonded) {
    std::set<std::pair<std::uint32_t, std::uint32_t>> whole;
    for (const std::uint32_t b : old.part.bonds)
      whole.emplace(old.settings.set->faces[b].a, old.settings.set->faces[b].b);
    for (std::size_t k = 0; k < 2; ++k) {
      std::vector<Hull> pieces;
      std::vector<char> held;
      std::vector<double> densities;
      for (const Source& source : sides[k]) {
        densities.push_back(source.part.density);
        pieces.push_back(std::get<Hull>(source.part.shape));
        held.push_back(old.settings.set->anchored[source.piece]);
      }
      auto set =
          std::make_shared<PieceSet>(*make_piece_set(std::move(pieces), std::move(held), std::move(densities), 0));
      std::erase_if(set->faces, [&](const SharedFace& face) {
        const std::uint32_t a = sides[k][face.a].piece, b = sides[k][face.b].piece;
        return a != b && !whole.contains({std::min(a, b), std::max(a, b)});
      });
      sets[k] = std::move(set);
    }
  }
  const auto held_by_scene = [&](std::size_t k) {
    return sets[k] && std::any_of(sets[k]->anchored.begin(), sets[k]->anchored.end(), [](char c) { return c != 0; });
  };
  const auto settings_for = [&](std::size_t k, const Vec3& origin) {
    BodySettings settings = before;
    std::vector<Part> parts;
    for (const Source& source : sides[k]) {
      Part part = source.part;
      part.pose.position -= origin;
      parts.push_back(part);
    }
    const auto* hull = std::get_if<Hull>(&parts[0].shape);
    if (parts.size() == 1 && hull && parts[0].pose.orientation.isApprox(Quat::Identity(), 0))
      settings.shape = shifted(*hull, parts[0].pose.position);
    else
      settings.shape = make_compound(std::move(parts));
    settings.mass = before.mass * weight[k] / (weight[0] + weight[1]);
    settings.centre_of_mass.reset();
    settings.inertia.reset();
    if (held_by_scene(k))
      settings.kind = MotionKind::fixed;
    else if (k == 1 || before.kind == MotionKind::fixed)
      settings.kind = MotionKind::dynamic;
    return settings;
  };
  if (before.kind == MotionKind::kinematic) centre[0].setZero();  // led by its frame
  const std::array<BodySettings, 2> settings{settings_for(0, centre[0]), settings_for(1, centre[1])};
  for (const BodySettings& each : settings)
    if (const auto fault = body_fault(each, motion(body))) throw Error("slice", "a part would be no body: " + *fault);
  const BodyHandle other = part_off(body, settings[1], centre[1]);
  forget_bonds(s, i);
  keep_part(body, settings[0], centre[0]);
  if (bonded)
    for (std::size_t k = 0; k < 2; ++k) {
      if (sets[k]->faces.empty()) continue;
      BreakSettings again = old.settings;
      again.set = sets[k];
      make_breakable(k == 0 ? body : other, again);
      s.breakables.back().offset = centre[k];
    }
  move_joints(*this, s, body, [&](const Vec3& place) {
    const bool behind = plane.normal.dot(place) <= plane.offset;
    return NewEnd{behind ? body : other, behind ? centre[0] : centre[1]};
  });
  wake(body);
  return other;
}

std::vector<BodyHandle> World::shatter(BodyHandle body, const PieceRecipe& recipe) {
  WorldState& s = *state_;
  const std::uint32_t i = s.index_of(body);
  const BodySettings before = body_settings(body);
  auto set = std::make_shared<PieceSet>();
  set->pieces = make_pieces(before.shape, recipe, &set->densities);
  const std::vector<Hull>& pieces = set->pieces;
  if (pieces.size() < 2) return {body};
  set->anchored.assign(pieces.size(), 0);
  for (std::uint32_t p = 0; p < pieces.size(); ++p) set->weight += set->weight_of(p);
  // As a breakable body that has no bond left.
  BreakRecord record;
  record.body = body;
  record.settings.set = set;
  for (std::uint32_t p = 0; p < pieces.size(); ++p) record.part.pieces.push_back(p);
  record.density = before.mass / set->weight;
  const bool bonded = s.records[i].breaks >= 0;
  if (!bonded) {
    s.records[i].breaks = static_cast<std::int32_t>(s.breakables.size());
    s.breakables.emplace_back();
  }
  const auto r = static_cast<std::uint32_t>(s.records[i].breaks);
  BreakRecord old = std::exchange(s.breakables[r], std::move(record));
  const std::size_t known = s.cracks.size();
  try {
    take_apart(r, {}, set->pieces[0].data->centre, 1);
  } catch (const Error&) {
    if (bonded)
      s.breakables[r] = std::move(old);
    else
      forget_bonds(s, i);
    throw;
  }
  std::vector<BodyHandle> parts = s.cracks[known].parts;
  s.cracks.resize(known);  // who asked for it knows
  return parts;
}

}  // namespace bronvel
