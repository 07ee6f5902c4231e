// The iterations over blocks of contacts, compiled for several kinds of processor; the best that this machine has is
// taken.
#pragma once

#include "dynamics/solver/contact_blocks.h"

namespace bronvel {

/// Each works on `count` blocks from `first` on.
template <class T>
struct ContactIterations {
  /// Effective masses, friction radii and, unless `motions` is null, closing speeds.
  void (*prepare)(ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, const BodyMotionLane<T>* motions,
                  const BodyFrameLane<T>* frames);
  /// Bit by lane: whether some point closes faster than `least` (m/s), the bodies' margins counted in; in float also
  /// whether it may meet within `h` seconds.
  void (*closing)(const ContactBlock<T>* first, std::size_t count, const BodyMotionLane<T>* motions, T least, T h,
                  std::uint8_t* closing);
  /// The impulses of the last sub-step; first gaps and friction radii from where the bodies are, if they are not
  /// `placed` or one of their bodies is `elsewhere` (by body).
  void (*warm_start)(ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, BodyMotionLane<T>* motions,
                     const BodyFrameLane<T>* frames, const char* elsewhere);
  /// One iteration over what was stirred in the last or in this one. Gives the greatest change that it made: an impulse
  /// over the masses along the normal, m/s. `stirred` is by body: the last iteration that changed its motion by what
  /// counts.
  T(*solve)
  (ContactBlock<T>* first, std::size_t count, BlockRoll<T>* rolls, BodyMotionLane<T>* motions,
   const BodyFrameLane<T>* frames, const IterationNumbers<T>& numbers, std::int32_t* stirred);
};

/// T is float or double.
template <class T>
const ContactIterations<T>& kernel_iterations();

/// Names of the kinds of processor that this machine can play, best first; `use_target` makes the iterations take one,
/// an empty name the best again. For tests and benchmarks only: results are the same.
std::vector<const char*> kernel_targets();
void use_target(const char* name);

/// What each contact_kernel_*.cpp makes.
struct ContactKernel {
  const char* name;
  ContactIterations<float> in_float;
  ContactIterations<double> in_double;
};
extern const ContactKernel contact_kernel_avx512, contact_kernel_sse4, contact_kernel_plain;

}  // namespace bronvel
