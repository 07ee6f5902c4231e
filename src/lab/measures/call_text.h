// Reading what is asked for as text: parts between signs, and numbers.
#pragma once

#include <string>
#include <vector>

namespace bronvel {

/// "a,b,c" at the commas.
std::vector<std::string> parts_of(const std::string& text, char at);

/// Throws Error, placed at `where`, when it is no finite number.
double number_in(const std::string& text, const std::string& where);

}  // namespace bronvel
