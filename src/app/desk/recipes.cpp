// Reading the recipes.
#include "app/desk/recipes.h"

#include <algorithm>
#include <filesystem>
#include <sstream>

#include "app/session/folders.h"
#include "scene/files/folder.h"

namespace bronvel {

namespace {

// What its first comment says, in one line; what it needs is said apart.
std::string first_words(const std::string& text) {
  std::string all, line;
  std::istringstream lines(text);
  while (std::getline(lines, line) && line.starts_with("-- ") && !line.starts_with("-- needs"))
    all += (all.empty() ? "" : " ") + line.substr(3);
  return all;
}

}  // namespace

std::vector<Recipe> recipes() {
  std::vector<Recipe> all;
  std::error_code fault;
  for (const auto& entry : std::filesystem::directory_iterator(recipes_folder(), fault)) {
    if (entry.path().extension() != ".lua") continue;
    Recipe recipe;
    recipe.file = entry.path().filename().string();
    recipe.text = read_file(entry.path());
    recipe.about = first_words(recipe.text);
    recipe.title = recipe.file.substr(0, recipe.file.size() - 4);
    std::replace(recipe.title.begin(), recipe.title.end(), '_', ' ');
    all.push_back(recipe);
  }
  std::sort(all.begin(), all.end(), [](const Recipe& a, const Recipe& b) { return a.title < b.title; });
  return all;
}

}  // namespace bronvel
