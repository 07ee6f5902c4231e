// What slides on a flat face goes by the mean of its speeds; what a turning mover carries goes round with it.
#include <cmath>

#include "dynamics/bodies/integrate.h"
#include "dynamics/solver/contact_solver.h"
#include "dynamics/solver/contact_system.h"

namespace bronvel {
namespace {

bool turns(const WorldState& state, std::uint32_t mover) {
  return state.records[mover].kind == MotionKind::kinematic && !state.bodies[mover].angular_velocity.isZero();
}

// By how much the way of a point that the mover carries differs in h seconds from the straight one that its velocity at
// the start gives, m.
Vec3 bend_of_way(const BodyState& mover, const Vec3& point, double h) {
  const Vec3 arm = point - mover.centre, spin = mover.angular_velocity;
  return turned(Quat::Identity(), h * spin) * arm - arm - h * spin.cross(arm);
}

}  // namespace

void even_slides(WorldState& state, double h) {
  ContactSystem& sys = *state.scratch.contacts;
  if (sys.in_double.members.empty()) return;
  constexpr double just_slides = 0.999;  // of what dynamic friction gives
  constexpr double one_way = 0.9999;     // cos of the angle between normals
  constexpr int flat = 3;                // points
  constexpr double lies_still = 0.02;    // m/s: what rocks does not slide on its face
  sys.sliding.resize(state.records.size());
  for (const std::uint32_t i : sys.in_double.bodies) sys.sliding[i] = {};
  bool any = false;
  const auto meet = [&](std::uint32_t body, std::uint32_t other, const Vec3& normal, bool slides, bool both,
                        bool ends_flat) {
    ContactSystem::Slide& slide = sys.sliding[body];
    if (slide.normal.isZero()) slide.normal = normal;
    slide.held = slide.held || both || std::abs(normal.dot(slide.normal)) < one_way;
    slide.rides = slide.rides && ends_flat && (slide.on == ContactSystem::Slide::nothing || slide.on == other);
    slide.on = other;
    slide.slides = slide.slides || slides;
    any = any || slides || turns(state, other);
  };
  for (const std::uint32_t i : sys.in_double.members) {
    const ActiveEnds& ends = state.scratch.active_ends[i];
    const ContactBlock<double>& block = sys.in_double.blocks[ends.block];
    const std::size_t lane = ends.lane;
    double borne = 0;
    for (const BlockPoint<double>& point : block.points) borne += point.impulse[lane];
    if (!(borne > 0)) continue;
    const Vec3 normal(block.normal[0][lane], block.normal[1][lane], block.normal[2][lane]);
    const double across =
        std::sqrt(block.slide[0][lane] * block.slide[0][lane] + block.slide[1][lane] * block.slide[1][lane]);
    const double most = block.dynamic_friction[lane] * borne;
    const bool slides = ends.points >= flat && most > 0 && across >= just_slides * most && across <= most / just_slides;
    // Between two that move, shifting one would shift the centre of both.
    const bool both = ends.moves_a && ends.moves_b;
    if (ends.moves_a) meet(ends.a, ends.b, normal, slides, both, ends.points >= flat);
    if (ends.moves_b) meet(ends.b, ends.a, normal, slides, both, ends.points >= flat);
  }
  if (!any) return;
  for (const std::uint32_t i : sys.in_double.bodies) {
    const ContactSystem::Slide& slide = sys.sliding[i];
    if (slide.on == ContactSystem::Slide::nothing || slide.held || state.records[i].jointed) continue;
    BodyState& motion = state.bodies[i];
    if (!slide.slides) {
      if (!slide.rides || !turns(state, slide.on)) continue;
      const Vec3 further = bend_of_way(state.bodies[slide.on], motion.centre, h);
      motion.centre += further - slide.normal * slide.normal.dot(further);
      continue;
    }
    const Vec3 spin = motion.angular_velocity - slide.normal * slide.normal.dot(motion.angular_velocity);
    if (spin.norm() * state.records[i].radius > lies_still) continue;
    const Vec3 further = 0.5 * h * (state.scratch.velocity_before[i] - motion.velocity);
    motion.centre += further - slide.normal * slide.normal.dot(further);
  }
}

}  // namespace bronvel
