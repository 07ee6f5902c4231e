// Scripts cut into words, levels and functions before they run.
#include "lab/snags/script_text.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "folders.h"
#include "scene/files/folder.h"

using namespace bronvel;

namespace {

std::vector<std::string> texts_of(const std::string& source) {
  std::vector<std::string> all;
  for (const ScriptWord& word : words_of(source)) all.push_back(word.quoted ? "'" + word.text : word.text);
  return all;
}

int lines_in(const std::string& text) {
  return 1 + static_cast<int>(std::count(text.begin(), text.end(), '\n'));
}

}  // namespace

TEST_CASE("names, numbers, signs and texts in quotes are words; comments are none") {
  using Words = std::vector<std::string>;
  CHECK(texts_of("local a_1 = b.c + 2").size() == 8);
  CHECK(texts_of("x = 'a b' .. \"c\"") == Words{"x", "=", "'a b", ".", ".", "'c"});
  CHECK(texts_of("x -- y z\nw") == Words{"x", "w"});
  CHECK(texts_of("x --[[ y\nz ]] w") == Words{"x", "w"});
  CHECK(texts_of("x --[==[ y ]] z ]==] w") == Words{"x", "w"});
  CHECK(texts_of("s = [[ a\nb ]] t") == Words{"s", "=", "'", "t"});
  CHECK(texts_of("'it\\'s' x") == Words{"'it's", "x"});
  CHECK(texts_of("a[1] = b[c[2]]") == Words{"a", "[", "1", "]", "=", "b", "[", "c", "[", "2", "]", "]"});
  CHECK(texts_of("").empty());
  CHECK(texts_of("--") == Words{});
  CHECK(texts_of("--[[ never ends") == Words{});
  CHECK(texts_of("'never ends") == Words{"'never ends"});
  CHECK(texts_of("'ends with the line\nx") == Words{"'ends with the line", "x"});
}

TEST_CASE("each word knows its line") {
  const auto words = words_of("a\n\nb --[[\n\n]] c\n[[\n]] d\n'e\\\nf' g");
  const std::vector<std::pair<std::string, int>> wanted{{"a", 1}, {"b", 3},    {"c", 5}, {"", 6},
                                                        {"d", 7}, {"e\nf", 8}, {"g", 9}};
  REQUIRE(words.size() == wanted.size());
  for (std::size_t i = 0; i < words.size(); ++i) {
    INFO(i);
    CHECK(words[i].text == wanted[i].first);
    CHECK(words[i].line == wanted[i].second);
  }
}

TEST_CASE("any text at all can be cut into words") {
  CHECK(rc::check("lines ascend and stay within the text", [](const std::string& text) {
    int line = 1;
    for (const ScriptWord& word : words_of(text)) {
      RC_ASSERT(word.line >= line);
      line = word.line;
    }
    RC_ASSERT(line <= lines_in(text));
    const auto levels = levels_of(text);
    RC_ASSERT(static_cast<int>(levels.size()) == lines_in(text));
    for (const int level : levels) RC_ASSERT(level >= 0);
    const auto words = words_of(text);
    for (const ScriptFunction& f : functions_of(words)) {
      RC_ASSERT(f.begin <= f.end + 1);
      RC_ASSERT(f.end <= words.size());
    }
  }));
  // Made of what matters to it.
  CHECK(rc::check("signs of Lua in any order", [] {
    static const std::vector<std::string> pieces{"function", "end", "if", "do",  "repeat", "until", "else",  "(",  ")",
                                                 "{",        "}",   "'",  "\"",  "[[",     "]]",    "--",    "\n", " ",
                                                 "on.tick",  "=",   "\\", "[=[", "]=]",    "--[[",  "elseif"};
    std::string text;
    for (int i = *rc::gen::inRange(0, 40); i > 0; --i)
      text += pieces[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(pieces.size())))] + " ";
    RC_ASSERT(static_cast<int>(levels_of(text).size()) == lines_in(text));
    for (const int level : levels_of(text)) RC_ASSERT(level >= 0);
    const auto words = words_of(text);
    for (const ScriptFunction& f : functions_of(words)) RC_ASSERT(f.end <= words.size());
  }));
}

TEST_CASE("levels of lines: what is open above, less what the line closes first") {
  const std::string source =
      "function on.tick(dt)\n"        // 0
      "  if dt > 0 then\n"            // 1
      "    push(1)\n"                 // 2
      "  elseif x then\n"             // 1
      "    y()\n"                     // 2
      "  else\n"                      // 1
      "    z()\n"                     // 2
      "  end\n"                       // 1
      "  for i = 1, 3 do\n"           // 1
      "    call({\n"                  // 2
      "      a = 1,\n"                // 3
      "    })\n"                      // 2
      "  end\n"                       // 1
      "  repeat\n"                    // 1
      "    w = w + 1\n"               // 2
      "  until w > 3\n"               // 1
      "  local t = { 'end', -- if\n"  // 1
      "    2 }\n"                     // 2
      "end\n";                        // 0
  CHECK(levels_of(source) == std::vector<int>{0, 1, 2, 1, 2, 1, 2, 1, 1, 2, 3, 2, 1, 1, 2, 1, 1, 2, 0, 0});
  CHECK(levels_of("end\nend\nx") == std::vector<int>{0, 0, 0});
  CHECK(levels_of("") == std::vector<int>{0});
}

TEST_CASE("the shipped scripts stand at the levels that they are written at") {
  int looked_at = 0;
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/recipes"))) {
    if (entry.path().extension() != ".lua") continue;
    INFO(entry.path().filename().string());
    const std::string source = read_file(entry.path());
    const auto levels = levels_of(source);
    std::istringstream lines(source);
    std::size_t at = 0;
    for (std::string line; std::getline(lines, line); ++at) {
      const auto first = line.find_first_not_of(' ');
      if (first == std::string::npos || line.compare(first, 2, "--") == 0) continue;
      // What goes on from the line above may stand farther in.
      if (static_cast<int>(first) != 2 * levels[at]) CHECK(static_cast<int>(first) > 2 * levels[at]);
    }
    ++looked_at;
  }
  CHECK(looked_at >= 20);
}

TEST_CASE("functions that have a name, and where their words are") {
  const auto words = words_of(
      "function on.touch(other)\n  local f = function() return 1 end\n  if other then f() end\nend\n"
      "local function start_waiting() wait(1) end\n"
      "on.part = function(other) x() end\n"
      "after(1, function() y() end)\n"
      "helper = function() end\n"
      "function t.a.b() while true do z() end end\n");
  const auto functions = functions_of(words);
  REQUIRE(functions.size() == 6);
  CHECK(functions[0].name == "on.touch");
  CHECK(functions[0].line == 1);
  CHECK(words[functions[0].begin].text == "local");
  CHECK(words[functions[0].end].text == "end");
  CHECK(words[functions[0].end].line == 4);
  CHECK(functions[1].name == "f");
  CHECK(functions[2].name == "start_waiting");
  CHECK(functions[3].name == "on.part");
  CHECK(functions[4].name == "helper");
  CHECK(functions[5].name == "t.a.b");
  CHECK(words[functions[5].end].line == 9);
}

TEST_CASE("lines that name something in quotes") {
  const std::string source = "scene.find('pier')\nx = \"pier\" .. 'pier'\n-- 'pier'\npier = 1\nreturn 'Pier', 'pier'";
  CHECK(lines_naming(source, "pier") == std::vector<int>{1, 2, 5});
  CHECK(lines_naming(source, "quay").empty());
}
