// The floor kernel, compiled for each kind of processor.
#include "floor_kernel.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "floor_kernel.cpp"
#include <hwy/foreach_target.h>  // Includes this file again for each target.
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bronvel::bench::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

void run(FloorBlock* first, std::size_t count, FloorBody* bodies, float inverse_mass) {
  const hn::CappedTag<float, 8> tag;
  const hn::RebindToSigned<decltype(tag)> index_tag;
  const std::size_t in_float = hn::Lanes(tag);
  const auto light = hn::Set(tag, inverse_mass);
  const auto zero = hn::Zero(tag);
  for (FloorBlock* block = first; block != first + count; ++block) {
    alignas(64) float out_a[6][8], out_b[6][8];
    for (std::size_t l = 0; l < 8; l += in_float) {
      const auto at_a = hn::ShiftLeft<3>(hn::Load(index_tag, block->a + l));
      const auto at_b = hn::ShiftLeft<3>(hn::Load(index_tag, block->b + l));
      const float* base = bodies->velocity;
      hn::Vec<decltype(tag)> va[3], wa[3], vb[3], wb[3];
      for (std::size_t k = 0; k < 3; ++k) {
        va[k] = hn::GatherIndex(tag, base + k, at_a);
        wa[k] = hn::GatherIndex(tag, base + 4 + k, at_a);
        vb[k] = hn::GatherIndex(tag, base + k, at_b);
        wb[k] = hn::GatherIndex(tag, base + 4 + k, at_b);
      }
      auto most = zero;
      for (std::size_t row = 0; row < 3; ++row) {
        auto speed = hn::Load(tag, block->bias + l);
        for (std::size_t k = 0; k < 3; ++k) {
          speed = speed + hn::Load(tag, block->along[row][k] + l) * (vb[k] - va[k]);
          speed = speed + hn::Load(tag, block->turn_b[row][k] + l) * wb[k];
          speed = speed - hn::Load(tag, block->turn_a[row][k] + l) * wa[k];
        }
        const auto before = hn::Load(tag, block->impulse[row] + l);
        auto after = before - hn::Load(tag, block->mass[row] + l) * speed;
        if (row == 0) {
          after = hn::Max(after, zero);
          most = after * hn::Load(tag, block->friction + l);
        } else {
          after = hn::Max(hn::Min(after, most), zero - most);
        }
        hn::Store(after, tag, block->impulse[row] + l);
        const auto change = after - before, push = change * light;
        for (std::size_t k = 0; k < 3; ++k) {
          const auto along = hn::Load(tag, block->along[row][k] + l);
          va[k] = va[k] - push * along;
          vb[k] = vb[k] + push * along;
          wa[k] = wa[k] - change * hn::Load(tag, block->spin_a[row][k] + l);
          wb[k] = wb[k] + change * hn::Load(tag, block->spin_b[row][k] + l);
        }
      }
      for (std::size_t k = 0; k < 3; ++k) {
        hn::Store(va[k], tag, out_a[k] + l);
        hn::Store(wa[k], tag, out_a[3 + k] + l);
        hn::Store(vb[k], tag, out_b[k] + l);
        hn::Store(wb[k], tag, out_b[3 + k] + l);
      }
    }
    for (std::size_t lane = 0; lane < 8; ++lane) {
      FloorBody &a = bodies[block->a[lane]], &b = bodies[block->b[lane]];
      for (std::size_t k = 0; k < 3; ++k) {
        a.velocity[k] = out_a[k][lane];
        a.spin[k] = out_a[3 + k][lane];
        b.velocity[k] = out_b[k][lane];
        b.spin[k] = out_b[3 + k][lane];
      }
    }
  }
}

}  // namespace bronvel::bench::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bronvel::bench {

HWY_EXPORT(run);

void floor_pass(std::vector<FloorBlock>& blocks, std::vector<FloorBody>& bodies, float inverse_mass) {
  HWY_DYNAMIC_DISPATCH(run)(blocks.data(), blocks.size(), bodies.data(), inverse_mass);
}

}  // namespace bronvel::bench
#endif
