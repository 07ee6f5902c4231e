// Choosing among the kinds of processor that the iterations are compiled for.
#include "dynamics/solver/contact_kernel.h"

#include <hwy/targets.h>

#include <atomic>
#include <cstring>

namespace bronvel {
namespace {

struct Kind {
  const ContactKernel* kernel;
  std::int64_t needs;  // of hwy::SupportedTargets, or 0
};

// Best first. A build for one machine leaves out what another would run.
constexpr Kind kinds[] = {
#ifdef BRONVEL_KERNEL_AVX512
    {&contact_kernel_avx512, HWY_AVX3},
#endif
#ifdef BRONVEL_KERNEL_SSE4
    {&contact_kernel_sse4, HWY_SSE4},
#endif
    {&contact_kernel_plain, 0}};

bool runs_here(const Kind& kind) {
  return kind.needs == 0 || (static_cast<std::int64_t>(hwy::SupportedTargets()) & kind.needs) != 0;
}

const ContactKernel* best() {
  for (const Kind& kind : kinds)
    if (runs_here(kind)) return kind.kernel;
  return &contact_kernel_plain;
}

// Read at every iteration, changed by tests alone.
std::atomic<const ContactKernel*>& chosen() {
  static std::atomic<const ContactKernel*> kernel{best()};
  return kernel;
}

}  // namespace

template <>
const ContactIterations<float>& kernel_iterations() {
  return chosen().load(std::memory_order_relaxed)->in_float;
}

template <>
const ContactIterations<double>& kernel_iterations() {
  return chosen().load(std::memory_order_relaxed)->in_double;
}

std::vector<const char*> kernel_targets() {
  std::vector<const char*> names;
  for (const Kind& kind : kinds)
    if (runs_here(kind)) names.push_back(kind.kernel->name);
  return names;
}

void use_target(const char* name) {
  chosen() = best();
  for (const Kind& kind : kinds)
    if (runs_here(kind) && std::strcmp(kind.kernel->name, name) == 0) chosen() = kind.kernel;
}

}  // namespace bronvel
