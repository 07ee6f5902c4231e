// What scripts can use, said once: the handbook page, the editor's completion and its tips all read it.
#pragma once

#include <span>
#include <string>
#include <vector>

namespace bronvel {

/// One name that scripts can use.
struct ReferenceEntry {
  const char* group;    ///< heading in the handbook
  const char* name;     ///< "on.tick", "body:force", "body.mass", "vec", "vec:length"
  const char* call;     ///< how it is written: "body:force(f [, point])"
  const char* meaning;  ///< one or two sentences, with units and frame
  const char* wrong;    ///< what a bad call meets; "" if nothing can be wrong with it
  const char* example;  ///< one or two lines that run in any scene with the names they use
};

/// In the order of the handbook. Body, joint and zone properties that come from the property lists are added by
/// `reference_page` and `completions` themselves.
std::span<const ReferenceEntry> reference();

/// The handler name that is nearest to a misspelt one, by Levenshtein's distance; "" if none is near.
std::string nearest_handler(const std::string& word);

/// The handbook page, docs/scripting.md, as Markdown.
std::string reference_page();

/// A word for the editor: what is typed, and what the tip says.
struct Completion {
  std::string word;   ///< as after `body:`, `scene:`, `on.` or alone: "force"
  std::string after;  ///< "body", "scene", "on", "vec", "turn", "zone", "joint", "" alone
  std::string call;
  std::string tip;
};
std::vector<Completion> completions();

}  // namespace bronvel
