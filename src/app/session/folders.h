// Where the examples and the ready behaviours are.
#pragma once

#include <string>

namespace bronvel {

/// BRONVEL_EXAMPLES in the environment puts others in their place.
std::string examples_folder();
std::string recipes_folder();

}  // namespace bronvel
