// Scratch of the contact solver: blocks and colours of one tick.
#pragma once

#include "dynamics/solver/contact_blocks.h"
#include "dynamics/state/world_state.h"

namespace bronvel {

/// Scratch of the conjugate steps (`conjugate_steps.h`).
struct ConjugateSteps {
  /// Impulses of a block: four points, two ways of sliding, twist, two ways of rolling.
  using Impulses = std::array<Lanes8<double>, 9>;
  using Motion6 = std::array<double, 6>;
  std::vector<Impulses> impulses, impulse_way;  // before the iteration; the way so far. By block
  std::vector<Motion6> motions, motion_way;     // by body
  std::vector<double> energies;                 // of the iteration's change, by block

  void make_room(const ContactBlocks<double>& all) {
    impulses.resize(all.blocks.size());
    impulse_way.resize(all.blocks.size());
    energies.resize(all.blocks.size());
    motions.resize(all.motions.size());
    motion_way.resize(all.motions.size());
  }
};

/// The contacts of a tick that are solved in one form, and what their iterations go by.
template <class T>
struct ContactPart : ContactBlocks<T> {
  std::vector<std::uint32_t> members;  ///< places in `active`, ascending
  std::vector<std::uint32_t> bodies;   ///< that they are between, ascending
  std::size_t points = 0;              ///< those left out of patches counted in
  bool stuck = false;        ///< in this tick iterations ended without converging: they are compared sooner now
  int affordable = 1;        ///< iterations in a sub-step
  bool scarce = false;       ///< fewer than they need to converge
  bool has_anchors = false;  ///< its friction is soft, and pulled back to its anchors
  int iterations_made = 0;   ///< how many times iterations were made in this tick
  double load_ratio = 1;     ///< greatest, over high_load_ratio; above 1: conjugate steps are made
  std::vector<Colour> colours;
  std::vector<std::uint32_t> order;  ///< of the members, by colour, calmness and points
};

/// What a sub-step's contacts do to the energy of large islands (`large_island_energy.h`).
struct LargeIslandEnergies {
  static constexpr std::uint32_t none = 0xFFFFFFFFU;
  std::vector<std::uint32_t> of_body;  ///< by place in in_float.bodies: its large island; none if it is not moved
  std::vector<std::uint32_t> number_of_root;  ///< by body
  std::vector<double> mass;                   ///< by large island, kg
  std::vector<double> gain_of_body;           ///< by place in in_float.bodies, of going, J
  std::vector<double> gain;                   ///< by large island, the same
  /// How fast all goes that the large island meets from outside; or it goes at any speeds.
  struct Frame {
    Vec3 velocity = Vec3::Zero();
    bool known = false, any = false;
  };
  std::vector<Frame> frames;  ///< by large island
  /// What the change of velocity does to energy: along it at its start, and by its own square, J.
  struct Change {
    double along = 0, square = 0;
  };
  std::vector<Change> changes;  ///< by large island
};

struct ContactSystem {
  ContactPart<double> in_double;  ///< of islands of few contacts
  ContactPart<float> in_float;    ///< of large islands
  ConjugateSteps steps;
  LargeIslandEnergies large_islands;

  /// Greatest change of this iteration and of the last, by worker: each worker its own cache line.
  struct alignas(64) Change {
    double speed[2] = {0, 0};  ///< m/s
  };
  std::vector<Change> changes;

  // By body of the part in double: whether it slides on a flat face, whether it meets what moves or contacts with other
  // normals too, the normal, and whether it lies flat on one other body alone, and on which.
  struct Slide {
    static constexpr std::uint32_t nothing = 0xFFFFFFFFU;
    bool slides = false, held = false, rides = true;
    std::uint32_t on = nothing;
    Vec3 normal = Vec3::Zero();
  };
  std::vector<Slide> sliding;

  // By active pair or body, for colouring.
  std::vector<std::uint64_t> taken;
  std::vector<std::uint32_t> colour_of;
  std::uint32_t colour_count = 0;            // the last may be of those that found none free
  std::size_t without_colour = 0;            // how many found none
  std::vector<std::uint32_t> first_of_kind;  // in `order`

  // Of islands, for telling large islands from the rest: by body another of its island or itself; by its root the
  // points; roots.
  std::vector<std::uint32_t> island;
  std::vector<std::uint32_t> points_of;
  std::vector<std::uint32_t> roots;
  std::vector<char> is_end;  // by body: some member's
};

}  // namespace bronvel
