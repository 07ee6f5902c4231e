// Where tests find the checkout and the programs under test.
#pragma once

#include <string>

namespace bronvel {

/// The path of something in the checkout: in_checkout("/examples/skerrow-quay").
std::string in_checkout(const std::string& path);

/// The path of a program of this build.
std::string in_build(const std::string& path);

}  // namespace bronvel
