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

  // By pair or body, for colouring.
  std::vector<std::uint64_t> taken;
  std::vector<std::uint32_t> colour_of;
  std::vector<std::uint32_t> order;
};

}  // namespace bronvel
