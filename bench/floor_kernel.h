// The floor under contact solving: the bare arithmetic and memory traffic of three-row contacts, eight wide.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace bronvel::bench {

/// Eight contacts of three rows each: directions, levers, masses and impulses of a normal and two frictions.
struct alignas(64) FloorBlock {
  std::int32_t a[8], b[8];
  float along[3][3][8];
  float turn_a[3][3][8], turn_b[3][3][8];
  float spin_a[3][3][8], spin_b[3][3][8];
  float mass[3][8], impulse[3][8];
  float bias[8], friction[8];
};

struct alignas(32) FloorBody {
  float velocity[4], spin[4];
};

/// One pass over all blocks: gather two bodies each, three rows, put back.
void floor_pass(std::vector<FloorBlock>& blocks, std::vector<FloorBody>& bodies, float inverse_mass);

}  // namespace bronvel::bench
