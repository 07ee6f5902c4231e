// Scratch of the contact solver: blocks and colours of one tick.
#pragma once

#include "dynamics/contact_blocks.h"
#include "dynamics/world_state.h"

namespace bronvel {

struct ContactSystem {
  bool small = true;  ///< few contacts: solved in double
  ContactBlocks<double> exact;
  ContactBlocks<float> wide;
  std::vector<Colour> colours;

  /// Greatest change of this pass and of the last, by worker: each worker its own cache line.
  struct alignas(64) Change {
    double speed[2] = {0, 0};  ///< m/s
  };
  std::vector<Change> changes;

  // By pair or body, for colouring.
  std::vector<std::uint64_t> taken;
  std::vector<std::uint32_t> colour_of;
  std::vector<std::uint32_t> order;
};

}  // namespace bronvel
