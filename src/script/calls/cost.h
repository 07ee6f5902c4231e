// What calls cost a script, in steps of its budget (SandboxLimits). Measured by bench_worst_calls: a step is 5 to 15
// ns.
#pragma once

#include <cstddef>
#include <cstdint>

#include "script/calls/host_state.h"

namespace bronvel::cost {

using Steps = std::int64_t;

inline Steps steps(std::size_t count) {
  return static_cast<Steps>(count);
}

// A call itself is charged by `lua_guarded`; what follows is for what it does.

inline constexpr Steps of_query = 300;       ///< a ray, a sweep, what is near: before anything is looked at
inline constexpr Steps of_found = 100;       ///< a body that it lists
inline constexpr Steps of_wet = 60;          ///< how much of a body is under water, for each zone
inline constexpr Steps of_cut = 100'000;     ///< parting a body
inline constexpr Steps of_cut_part = 3'000;  ///< and each of its parts and bonds
inline constexpr Steps of_new_piece = 5'000;
inline constexpr Steps of_stamp = 4'000;
inline constexpr Steps of_blast = 500;
inline constexpr Steps of_blown = 200;  ///< a body, or a piece of one, that it pushes

/// What a query went through.
inline Steps of_work(const QueryWork& work) {
  constexpr Steps of_measuring = 100, of_visit = 10;
  return of_measuring * steps(work.measured) + of_visit * steps(work.visited);
}

/// Finding a joint or zone by its name, or its name.
inline Steps of_name(std::size_t names) {
  return 10 + steps(names);
}

/// Waking a body and what lies on it. In a tick's first call all that touches is gone through, once.
inline Steps of_waking(const ScriptHost::State& state) {
  return 60 + steps(state.running.scene.joints.size() / 4);
}

/// A body or joint that is another from now on: all that is near is looked through for what it may touch.
inline Steps of_change(const ScriptHost::State& state) {
  return 200 + steps(state.running.world.overlap_count() / 4) + 4 * steps(state.running.scene.joints.size());
}

/// A shape weighed anew.
inline Steps of_weighing(std::size_t parts) {
  return 40 * steps(parts);
}

}  // namespace bronvel::cost
