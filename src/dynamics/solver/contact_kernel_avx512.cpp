// The iterations for processors with AVX-512 (its F, VL, DQ and BW parts).
#define HWY_COMPILE_ONLY_STATIC
#define HWY_BASELINE_TARGETS HWY_AVX3
#include "dynamics/solver/contact_iterations.h"

namespace bronvel {

const ContactKernel contact_kernel_avx512 = HWY_NAMESPACE::contact_kernel("AVX-512");

}  // namespace bronvel
