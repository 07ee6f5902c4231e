// The ready behaviours that come with Bronvel, to be put into a scene as scripts.
#pragma once

#include <string>
#include <vector>

namespace bronvel {

struct Recipe {
  std::string file;   ///< "hop.lua"
  std::string title;  ///< "Hop"
  std::string about;  ///< the first line, whole
  std::string text;
};

/// All of them, by title. What can't be read is left out.
std::vector<Recipe> recipes();

}  // namespace bronvel
