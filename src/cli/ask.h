// Subcommands that play a scene many times: what is it for these values, and which value makes it so?
#pragma once

#include <CLI/CLI.hpp>
#include <functional>

namespace bronvel {

/// Adds `measures`, `aim`, `matters`, `rates` and `check`; each gives its exit code to `end` when it was called.
void add_ask(CLI::App& app, const std::function<void(int)>& end);

/// Adds `sweep` and `gather`.
void add_sweep(CLI::App& app, const std::function<void(int)>& end);

}  // namespace bronvel
