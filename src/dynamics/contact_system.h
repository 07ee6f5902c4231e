// Scratch of the contact solver: blocks and colours of one tick.
#pragma once

#include "dynamics/contact_blocks.h"
#include "dynamics/world_state.h"

namespace bronvel {

/// Scratch of the conjugate steps (`conjugate_steps.h`).
struct ConjugateSteps {
  /// Impulses of a block: four points, two ways of sliding, twist, two ways of rolling.
  using Impulses = std::array<Lanes8<double>, 9>;
  using Motion6 = std::array<double, 6>;
  std::vector<Impulses> impulses, impulse_way;  // before the pass; the way so far. By block
  std::vector<Motion6> motions, motion_way;     // by body
  std::vector<double> energies;                 // of the pass's change, by block

  void make_room(const ContactBlocks<double>& all) {
    impulses.resize(all.blocks.size());
    impulse_way.resize(all.blocks.size());
    energies.resize(all.blocks.size());
    motions.resize(all.motions.size());
    motion_way.resize(all.motions.size());
  }
};

struct ContactSystem {
  bool small = true;      ///< few contacts: solved in double
  bool stuck = false;     ///< in this tick passes ended as no better than some before: they will again, and sooner
  double unevenness = 1;  ///< above 1 where some body bears far more than it weighs: solved by conjugate steps
  ContactBlocks<double> exact;
  ContactBlocks<float> wide;
  std::vector<Colour> colours;
  ConjugateSteps steps;

  /// Greatest change of this pass and of the last, by worker: each worker its own cache line.
  struct alignas(64) Change {
    double speed[2] = {0, 0};  ///< m/s
  };
  std::vector<Change> changes;

  // By body: whether it slides on a flat face, whether it meets what moves or contacts with other normals too, and the
  // normal.
  struct Slide {
    bool slides = false, held = false;
    Vec3 normal = Vec3::Zero();
  };
  std::vector<Slide> sliding;

  // By pair or body, for colouring.
  std::vector<std::uint64_t> taken;
  std::vector<std::uint32_t> colour_of;
  std::uint32_t colour_count = 0;            // the last may be of those that found none free
  std::size_t without_colour = 0;            // how many found none
  std::vector<std::uint32_t> first_of_kind;  // in `order`, by colour, calmness and points
  std::vector<std::uint32_t> order;
};

}  // namespace bronvel
