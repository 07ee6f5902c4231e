// Reading the recipes.
#include "app/desk/recipes.h"

#include <algorithm>
#include <filesystem>

#include "app/session/folders.h"
#include "scene/folder.h"

namespace bronvel {

std::vector<Recipe> recipes() {
  std::vector<Recipe> all;
  std::error_code fault;
  for (const auto& entry : std::filesystem::directory_iterator(recipes_folder(), fault)) {
    if (entry.path().extension() != ".lua") continue;
    Recipe recipe;
    recipe.file = entry.path().filename().string();
    recipe.text = read_file(entry.path());
    recipe.about = recipe.text.substr(0, recipe.text.find('\n'));
    if (recipe.about.starts_with("-- ")) recipe.about.erase(0, 3);
    recipe.title = recipe.file.substr(0, recipe.file.size() - 4);
    std::replace(recipe.title.begin(), recipe.title.end(), '_', ' ');
    all.push_back(recipe);
  }
  std::sort(all.begin(), all.end(), [](const Recipe& a, const Recipe& b) { return a.title < b.title; });
  return all;
}

}  // namespace bronvel
