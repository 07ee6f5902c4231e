// The energy ledger of bodies between two moments: what they had, what they have, who gave and who took.
#pragma once

#include "lab/why/booked.h"

namespace bronvel {

struct LedgerLine {
  NamedCause cause;
  double gave = 0;  ///< J, 0 or more
  double took = 0;  ///< J, 0 or less
  double net() const { return gave + took; }
};

struct Ledger {
  std::int64_t from = 0, to = 0;                 ///< moments: the ticks after `from`, up to `to`
  double kinetic_before = 0, kinetic_after = 0;  ///< J
  double lifted = 0;                             ///< by how much the energy of height grew, J
  std::vector<LedgerLine> lines;                 ///< by what they gave or took, greatest first; weight is in `lifted`
  double solver = 0;                             ///< what the engine corrected, J
  double unexplained() const;                    ///< J
};

/// Of what was booked of these bodies. What they did to one another is part of it: their contacts' losses.
Ledger ledger_of(std::span<const BookedBody* const> bodies, std::int64_t from, std::int64_t to);

/// A few lines: "energy of motion 41 → 3.2 J …", then who gave and took.
std::string ledger_text(const Ledger& ledger, double tick_rate);

/// "31 J", "0.4 mJ", "2.2 kJ".
std::string energy_text(double joules);

}  // namespace bronvel
