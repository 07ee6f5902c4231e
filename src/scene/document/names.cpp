// Keeping names apart.
#include "scene/document/names.h"

#include <cctype>

#include "scene/document/json_place.h"

namespace bronvel {
namespace {
constexpr const char* allowed = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789_";
}

Names::Names(const Scene& scene) {
  for (const Body& body : scene.bodies) all_.insert(body.name);
  for (const SceneJoint& joint : scene.joints) all_.insert(joint.name);
}

std::string Names::fresh(const std::string& like) {
  if (all_.insert(like).second) return like;
  // "cask_7" counts on as "cask".
  std::string stem = like;
  const std::size_t end = like.find_last_not_of("0123456789");
  if (end != std::string::npos && end > 0 && end + 1 < like.size() && like[end] == '_') stem = like.substr(0, end);
  int& last = last_[stem];
  last = std::max(last, 1);
  std::string name;
  do name = stem + "_" + std::to_string(++last);
  while (!all_.insert(name).second);
  return name;
}

std::string free_name(const std::string& like, const std::function<bool(const std::string&)>& taken) {
  std::string name = like;
  for (int n = 2; taken(name); ++n) name = like + "_" + std::to_string(n);
  return name;
}

std::string shown(std::string text) {
  constexpr std::size_t longest = 60;
  if (text.size() > longest) text.replace(longest, std::string::npos, " …");
  for (char& c : text)
    if (static_cast<unsigned char>(c) < 0x20) c = '?';
  return text;
}

std::string name_fault(const std::string& name) {
  if (name.empty() || std::isdigit(static_cast<unsigned char>(name[0])) != 0 ||
      name.find_first_not_of(allowed) != std::string::npos)
    return "wants letters, digits and _, not starting with a digit, got \"" + shown(name) + "\"";
  return "";
}

std::string text_fault(const std::string& text) {
  constexpr std::size_t longest = 200;
  if (text.size() > longest) return "wants no more than 200 letters, got " + std::to_string(text.size());
  if (std::any_of(text.begin(), text.end(), [](unsigned char c) { return c < 0x20 || c == 0x7F; }))
    return "wants a text without control characters";
  const auto fault = json_text_fault(text);
  if (fault && fault->what.find("UTF-8") != std::string::npos) return "wants a text in UTF-8";
  return "";
}

std::string nearest_name(const std::string& word, const std::vector<std::string>& names) {
  std::string best;
  // Of a short word little may be wrong, or it could have been meant to be anything.
  std::size_t least = std::min<std::size_t>(3, 1 + word.size() / 2);
  std::vector<std::size_t> row;  // of the table of Wagner and Fischer (1974)
  for (const std::string& name : names) {
    row.resize(name.size() + 1);
    for (std::size_t j = 0; j <= name.size(); ++j) row[j] = j;
    for (std::size_t i = 1; i <= word.size(); ++i) {
      std::size_t corner = row[0];
      row[0] = i;
      for (std::size_t j = 1; j <= name.size(); ++j) {
        const std::size_t above = row[j];
        row[j] = std::min({row[j] + 1, row[j - 1] + 1, corner + (word[i - 1] == name[j - 1] ? 0 : 1)});
        corner = above;
      }
    }
    if (row.back() >= least) continue;
    least = row.back();
    best = name;
  }
  return best;
}

std::string allowed_name(const std::string& text, const std::string& otherwise) {
  std::string name;
  for (const char letter : text) {
    const bool good = std::string_view(allowed).find(letter) != std::string_view::npos;
    if (good)
      name += letter;
    else if (!name.empty() && name.back() != '_')
      name += '_';
  }
  while (!name.empty() && name.back() == '_') name.pop_back();
  if (name.empty()) return otherwise;
  if (std::isdigit(static_cast<unsigned char>(name[0])) != 0) name = otherwise + "_" + name;
  return name;
}

std::vector<std::string> names_in(const std::string& text) {
  std::vector<std::string> names;
  std::size_t at = 0;
  while (at <= text.size()) {
    const std::size_t comma = std::min(text.find(',', at), text.size());
    const std::size_t first = text.find_first_not_of(" \t", at);
    if (first < comma) names.push_back(text.substr(first, text.find_last_not_of(" \t", comma - 1) + 1 - first));
    at = comma + 1;
  }
  return names;
}

std::string names_text(const std::vector<std::string>& names) {
  std::string all;
  for (const std::string& name : names) all += (all.empty() ? "" : ", ") + name;
  return all;
}

}  // namespace bronvel
