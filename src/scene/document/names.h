// Names that are free.
#pragma once

#include <algorithm>
#include <functional>
#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// The names that bodies and joints of a scene have, to find free ones among: quick for many.
class Names {
 public:
  explicit Names(const Scene& scene);
  bool taken(const std::string& name) const { return all_.contains(name); }
  /// "cask", or "cask_2", "cask_3" … whichever is free first, counting on from a number at the end; taken from now on.
  std::string fresh(const std::string& like);

 private:
  std::unordered_set<std::string> all_;
  std::unordered_map<std::string, int> last_;
};

/// `like`, or it with the first number from 2 on that makes it free.
std::string free_name(const std::string& like, const std::function<bool(const std::string&)>& taken);

/// A name that none of the list's things has, made like `like`.
template <class Thing>
std::string free_name(const std::vector<Thing>& things, const std::string& like) {
  return free_name(like, [&](const std::string& name) {
    return std::any_of(things.begin(), things.end(), [&](const Thing& each) { return each.name == name; });
  });
}

/// Those of a list's things, in its order.
template <class List>
std::vector<std::string> names_of(const List& things) {
  std::vector<std::string> names;
  names.reserve(things.size());
  for (const auto& each : things) names.emplace_back(each.name);
  return names;
}

/// Why a thing can't be called that; empty if it can. Does not ask whether it is taken.
std::string name_fault(const std::string& name);

/// The text as a message can show it: not too long, and nothing that ends or breaks a line.
std::string shown(std::string text);

/// Why this can't be a tag, a group, a dial …, as "wants …"; empty if it can: up to 200 bytes of UTF-8 without control
/// characters.
std::string text_fault(const std::string& text);

/// The one of the names that the word was most likely meant to be: two letters put in, left out or changed at most;
/// empty if none is so near.
std::string nearest_name(const std::string& word, const std::vector<std::string>& names);

/// "buoy, float" as a list and back.
std::vector<std::string> names_in(const std::string& text);
std::string names_text(const std::vector<std::string>& names);

/// The nearest name that is allowed: "Wuson 2" becomes "Wuson_2".
std::string allowed_name(const std::string& text, const std::string& otherwise);

}  // namespace bronvel
