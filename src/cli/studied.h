// What is tried by the subcommands that play many times: a scene or a take, with inputs, seed and settings.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <string>
#include <vector>

#include "lab/measures/trial.h"

namespace bronvel {

struct Studied {
  std::string source;  ///< a scene's folder or a take's file
  std::optional<double> seconds;
  std::optional<std::uint64_t> seed;
  std::string inputs;
  std::vector<std::string> settings;
  int jobs = 0;  ///< 0: as many as the machine has cores

  void add_to(CLI::App& call);
  /// Throws Error.
  Study study() const;
  int threads() const;
};

}  // namespace bronvel
