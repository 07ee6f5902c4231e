// What a sweep gave, as a table: CSV, SQLite, and shares of it that are put together again.
#pragma once

#include <map>

#include "lab/measures/sweep.h"

namespace bronvel {

/// A play's row, without its way.
struct SweepRow {
  std::vector<double> values;
  std::string fault;
};

struct SweepTable {
  std::vector<std::string> columns;         ///< what is varied, "seed", the measures with their units in brackets
  std::vector<std::vector<double>> points;  ///< by play: varied values; the seed stands apart, as it may be large
  std::vector<std::uint64_t> seeds;
  std::map<std::size_t, SweepRow> rows;  ///< by play
  std::string of;                        ///< says which sweep of which scene it is, to tell others apart
};

/// Without rows.
SweepTable table_of(const Sweep& sweep);

/// One line a play, in the plays' order: the same whatever the number of threads and shares was.
std::string csv_of(const SweepTable& table);

/// A table `plays` with a column for each. Throws Error; nothing half-written is left.
void write_sqlite(const SweepTable& table, const std::string& file);

/// One of several shares, as JSON lines.
std::string share_text(const SweepTable& table, std::size_t share, std::size_t shares);

/// Puts shares together, in any order. Throws Error where they are of different sweeps, one is missing or broken, or
/// one is given twice with other numbers.
SweepTable gathered(std::span<const std::pair<std::string, std::string>> files_and_texts);

}  // namespace bronvel
