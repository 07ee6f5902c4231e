// The iterations for any processor, one number after the other.
#define HWY_COMPILE_ONLY_STATIC
#define HWY_BASELINE_TARGETS HWY_SCALAR
#include "dynamics/solver/contact_iterations.h"

namespace bronvel {

const ContactKernel contact_kernel_plain = HWY_NAMESPACE::contact_kernel("plain");

}  // namespace bronvel
