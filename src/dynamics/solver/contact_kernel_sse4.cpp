// The iterations for processors with SSE4.2.
#define HWY_COMPILE_ONLY_STATIC
#define HWY_BASELINE_TARGETS HWY_SSE4
#include "dynamics/solver/contact_iterations.h"

namespace bronvel {

const ContactKernel contact_kernel_sse4 = HWY_NAMESPACE::contact_kernel("SSE4");

}  // namespace bronvel
