// What loads a breakable body in a tick, and what that does to its bonds. Only the dynamics layer includes this.
#pragma once

#include <span>

#include "dynamics/breaking/bonds.h"
#include "dynamics/breaking/break_state.h"

namespace bronvel {

/// A contact that loads a breakable body.
struct Bearing {
  std::uint32_t record = 0;  ///< the body's among the breakables
  std::uint32_t pair = 0;
  bool is_a = false;
  bool hit = false;
};

/// The contacts of a tick that bear on breakable bodies that have bonds, by record.
struct Bearings {
  std::vector<Bearing> all;
  std::vector<std::size_t> first;  ///< of `all`, by record, and one more
  std::vector<Bearing> as_listed;  ///< the same in the order of their pairs

  std::size_t records() const { return first.size() - 1; }
  std::span<const Bearing> on(std::uint32_t record) const {
    return std::span(all).subspan(first[record], first[record + 1] - first[record]);
  }
};
void find_bearings(const WorldState& state, Bearings& bearings);

/// Loads of one contact, among all: what a flat face bears is shared by the pieces that lie there.
struct Patch {
  std::size_t first = 0, count = 0;
  Vec3 normal = Vec3::Unit(1);  ///< towards the other body, set's frame
};

/// All that loads a body in a tick. Kept from body to body for its room.
struct BodyLoads {
  std::vector<PieceLoad> loads;
  std::vector<Patch> patches;
  LoadSum sum;
  bool hit = false;  ///< some of them are hits, or given by scripts
};

/// Contacts, joints, scripts' forces (which are taken off the record), the weight of what is held, and turning.
void gather_loads(WorldState& state, std::uint32_t record, std::span<const Bearing> bearings, BodyLoads& into);

/// Scratch of a tick's breaking.
struct BreakScratch {
  Bearings bearings;
  BodyLoads loads;
  BondSolver solver;
};

/// Whether `now` could do anything to bonds that `before` did not do: it differs by more than a few percent in size, in
/// direction or in place. `radius` is the body's, m.
bool differs(const LoadSum& now, const LoadSum& before, double radius);

/// The bond that is used most.
struct Verdict {
  double worst = 0;
  std::uint32_t bond = 0;
};

/// Works the bonds out under these loads, into record.use. Loads by place are told their pieces.
Verdict judge(BreakRecord& record, std::vector<PieceLoad>& loads, BondSolver& solver);

/// How dear that is: pieces × rounds of the solver.
std::size_t cost_of_judging(const BreakRecord& record);

/// A body that lies on its face meets the other at four points at most; what they carry is borne by all pieces with a
/// face there, as by a pressure that changes linearly over them and has the points' sum and moments (Navier, 1826).
void spread(const BreakRecord& record, const Patch& patch, std::vector<PieceLoad>& loads);

/// The bonds that break when the worst is used so much: those beyond their strength and not far behind it.
std::vector<std::uint32_t> overloaded(const BreakRecord& record, double worst);

}  // namespace bronvel
