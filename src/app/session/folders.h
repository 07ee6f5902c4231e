// Where the examples and the ready behaviours are.
#pragma once

#include <string>

namespace bronvel {

std::string examples_folder();
std::string recipes_folder();

}  // namespace bronvel
