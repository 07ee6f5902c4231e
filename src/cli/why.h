// Subcommands that say why bodies moved as they did.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>

namespace bronvel {

/// Adds `why`, `energy`, `difference` and `balance`; each gives its exit code to `end` when it was called.
void add_why(CLI::App& app, const std::function<void(int)>& end);

}  // namespace bronvel
