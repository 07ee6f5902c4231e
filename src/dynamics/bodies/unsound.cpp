// Telling bodies whose motion is no number, and stopping them.
#include "dynamics/bodies/unsound.h"

#include <atomic>

#include "dynamics/base/thread_pool.h"
#include "dynamics/bodies/derived.h"

namespace bronvel {

namespace {

bool is_sound(const BodyState& m) {
  constexpr double past_measure = 1e100;  // m/s and rad/s: nothing that is meant goes so fast
  return finite(m.centre) && finite(m.orientation) && finite(m.velocity) && finite(m.angular_velocity) &&
         m.velocity.cwiseAbs().maxCoeff() < past_measure && m.angular_velocity.cwiseAbs().maxCoeff() < past_measure;
}

}  // namespace

bool take_off_forces(WorldState& s) {
  constexpr std::size_t worth_sharing = 500;  // bodies
  std::atomic<bool> sound{true};
  s.scratch.thread_pool->each(s.records.size(), worth_sharing, [&](std::size_t i) {
    fetch_ahead(s.records, i);
    BodyRecord& record = s.records[i];
    if (!record.alive) return;
    if (!is_sound(s.bodies[i])) {
      sound = false;
      return;
    }
    record.force.setZero();
    record.torque.setZero();
  });
  return sound;
}

namespace {

// Whether a change that is against a speed turned it about and made it greater: a brake that is too strong for its
// tick.
bool overshot(const Vec3& before, const Vec3& change) {
  const double speed = before.stableNorm();  // their squares may be too great for a number
  return (before / speed).dot(change / speed) < 0 && change.stableNorm() > 2 * speed;
}

std::string reason_of_unsound(const BodyState& start, const BodyRecord& record, double tick) {
  const std::string end = "; it was stopped where it was";
  const auto braked = [&](const char* speed, const char* push, const char* inertia) {
    return std::string("its ") + speed + " was braked by a " + push +
           " that turned it about and made it greater, tick by tick, past all measure" + end + ". To brake, a " + push +
           " may be at most " + speed + " × " + inertia + " × ticks a second";
  };
  if (overshot(start.angular_velocity, tick * (start.inverse_inertia * record.torque)))
    return braked("spin", "torque", "inertia");
  if (overshot(start.velocity, tick * start.inverse_mass.cwiseProduct(record.force)))
    return braked("speed", "force", "mass");
  return "its motion was no longer a number, or past all measure" + end;
}

}  // namespace

void stop_the_unsound(WorldState& s) {
  for (std::uint32_t i = 0; i < s.records.size(); ++i) {
    BodyRecord& record = s.records[i];
    BodyState& m = s.bodies[i];
    if (!record.alive || is_sound(m)) continue;
    m = s.at_start[i];
    FaultEvent& fault = s.faults.emplace_back();
    fault.body = {i, record.generation};
    fault.reason = reason_of_unsound(m, record, 1 / s.settings.tick_rate);
    record.force.setZero();
    record.torque.setZero();
    m.velocity.setZero();
    m.angular_velocity.setZero();
    record.settings.kind = MotionKind::fixed;
    take_settings(record, m, record.settings, s.settings.planar);
  }
}

}  // namespace bronvel
