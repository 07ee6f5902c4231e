// Snags that the scene and the scripts' texts show before play.
#include "lab/snags/snags.h"

#include <algorithm>
#include <cctype>
#include <set>

#include "lab/snags/script_text.h"
#include "script/calls/reading.h"
#include "script/reference/reference.h"

namespace bronvel {
namespace {

const std::set<std::string> pushes{"force", "impulse", "torque", "angular_impulse", "accelerate"};
const std::map<std::string, std::string> opposites{{"on.grab", "on.drop"},     {"on.drop", "on.grab"},
                                                   {"on.press", "on.release"}, {"on.release", "on.press"},
                                                   {"on.enter", "on.leave"},   {"on.leave", "on.enter"}};

// Changes the body of that name, if it is still there when one mends.
std::function<void(SceneFolder&)> mend_of(const std::string& body, const std::function<void(Body&)>& change) {
  return [body, change](SceneFolder& folder) {
    if (Body* found = folder.scene.find(body)) change(*found);
  };
}

// A script's text with what is asked of it again and again.
struct Text {
  std::string file;
  std::vector<ScriptWord> words;
  std::vector<ScriptFunction> functions;

  std::string at(std::size_t i) const { return i < words.size() && !words[i].quoted ? words[i].text : ""; }
  bool method(std::size_t i, const std::string& name) const { return at(i) == ":" && at(i + 1) == name; }
  const ScriptFunction* function(const std::string& name) const {
    for (const ScriptFunction& f : functions)
      if (f.name == name) return &f;
    return nullptr;
  }
  // Whether the function, or one of the script's own that it calls, has a word that `fits`.
  bool reaches(const ScriptFunction& f, const std::function<bool(std::size_t)>& fits, int depth = 0) const {
    for (std::size_t i = f.begin; i < f.end; ++i) {
      if (fits(i)) return true;
      const ScriptFunction* called = depth < 4 && !words[i].quoted ? function(at(i)) : nullptr;
      if (called && called != &f && reaches(*called, fits, depth + 1)) return true;
    }
    return false;
  }
};

class Search {
 public:
  explicit Search(const SceneFolder& folder) : folder_(folder), scene_(folder.scene) {
    for (const auto& [file, source] : folder.scripts) {
      Text text{file, words_of(source), {}};
      text.functions = functions_of(text.words);
      texts_.push_back(std::move(text));
    }
  }

  std::vector<Snag> all() {
    for (const Text& text : texts_) {
      idle_script(text);
      misspelt_handlers(text);
      force_times_dt(text);
      forgotten_timers(text);
      lost_tags(text);
      uncalled_functions(text);
      no_handlers(text);
      for (const Body& body : scene_.bodies)
        for (const ScriptUse& use : body.scripts)
          if (use.file == text.file) {
            pushed_but_fixed(text, body);
            deaf_body(text, body);
            zero_dials(text, body);
            lost_dial_tags(use, body);
          }
    }
    for (const SceneZone& zone : scene_.zones)
      for (const std::string& tag : zone.tags)
        if (!tag_exists(tag))
          add({"lost_tag", "", "", 0, "zone " + zone.name + " senses the tag \"" + tag + "\", which no body has",
               "it will never sense anything by it", "", nullptr});
    return std::move(found_);
  }

 private:
  void add(Snag snag) { found_.push_back(std::move(snag)); }

  bool carried(const std::string& file) const {
    return std::any_of(scene_.bodies.begin(), scene_.bodies.end(), [&](const Body& body) {
      return std::any_of(body.scripts.begin(), body.scripts.end(),
                         [&](const ScriptUse& use) { return use.file == file; });
    });
  }

  void idle_script(const Text& text) {
    if (carried(text.file)) return;
    const std::string stem = text.file.substr(0, text.file.size() - 4);
    for (const Text& other : texts_)
      for (std::size_t i = 0; i + 1 < other.words.size(); ++i) {
        const bool takes_in = other.at(i) == "require" || other.at(i) == "build_on";
        if (!takes_in) continue;
        for (std::size_t k = i + 1; k < std::min(i + 3, other.words.size()); ++k)
          if (other.words[k].quoted && (other.words[k].text == stem || other.words[k].text == text.file)) return;
      }
    add({"idle_script", "", text.file, 1, text.file + " is on no body", "nothing in it will ever run", "", nullptr});
  }

  // Modules give their functions to others by fields and `return`.
  void uncalled_functions(const Text& text) {
    for (std::size_t i = 0; i < text.words.size(); ++i)
      if (text.at(i) == "return" && i + 1 < text.words.size() && text.words[i].line == text.words.back().line) return;
    for (const ScriptFunction& f : text.functions) {
      if (f.name.find_first_of(".:") != std::string::npos) continue;
      int named = 0;
      // Who builds on it may call it, too.
      for (const Text& other : texts_)
        for (const ScriptWord& word : other.words)
          if (!word.quoted && word.text == f.name) ++named;
      if (named < 2)
        add({"uncalled_function", "", text.file, f.line, "nothing calls the function " + f.name,
             "what it does will never happen; handlers are called on.tick, on.touch and so on", "", nullptr});
    }
  }

  void no_handlers(const Text& text) {
    if (!carried(text.file) || text.words.empty()) return;
    for (std::size_t i = 0; i + 1 < text.words.size(); ++i) {
      const std::string word = text.at(i);
      // Whatever it does as it is put on its body counts, too.
      const bool acts = word == ":" || word == "build_on" || word == "require" || word == "after" || word == "every" ||
                        word == "print" || (word == "on" && text.at(i + 1) == ".") ||
                        (word == "body" && text.at(i + 1) == ".");
      if (acts && !text.words[i].quoted) return;
    }
    add({"no_handlers", "", text.file, 1, text.file + " has no handlers: nothing in it is called while it plays",
         "a script acts in on.tick, on.touch and the like", "", nullptr});
  }

  void lost_dial_tags(const ScriptUse& use, const Body& body) {
    for (const auto& [dial, value] : use.dials) {
      const auto* named = std::get_if<NamedThing>(&value);
      if (!named || named->kind != NamedKind::tag || named->name.empty() || tag_exists(named->name)) continue;
      add({"lost_tag", body.name, use.file, 0,
           "dial " + dial + " of " + body.name + " names the tag \"" + named->name + "\", which no body has",
           "it will never be anyone's", "", nullptr});
    }
  }

  void misspelt_handlers(const Text& text) {
    std::set<std::string> known;
    for (const ReferenceEntry& e : reference())
      if (std::string(e.name).starts_with("on.")) known.insert(std::string(e.name).substr(3));
    for (std::size_t i = 0; i + 2 < text.words.size(); ++i) {
      if (text.at(i) != "on" || text.at(i + 1) != "." ||
          (i > 0 && (text.at(i - 1) == "." || text.at(i - 1) == "local")))
        continue;
      const std::string name = text.at(i + 2);
      if (name.empty() || known.contains(name)) continue;
      const std::string near = nearest_handler(name);
      Snag snag{"misspelt_handler",
                "",
                text.file,
                text.words[i].line,
                "on." + name + " is not a handler",
                "it would never be called; the script stops instead",
                "",
                nullptr};
      if (!near.empty()) {
        snag.mend = "write on." + near;
        snag.do_mend = [file = text.file, name, near](SceneFolder& folder) {
          std::string& source = folder.scripts[file];
          for (std::size_t at = source.find("on." + name); at != std::string::npos;
               at = source.find("on." + name, at + 1)) {
            const std::size_t end = at + 3 + name.size();
            if (end < source.size() && (std::isalnum(static_cast<unsigned char>(source[end])) != 0)) continue;
            source.replace(at, 3 + name.size(), "on." + near);
          }
        };
      }
      add(std::move(snag));
    }
  }

  void force_times_dt(const Text& text) {
    for (std::size_t i = 0; i + 2 < text.words.size(); ++i) {
      const bool steady = text.method(i, "force") || text.method(i, "torque") || text.method(i, "accelerate");
      if (!steady || text.at(i + 2) != "(") continue;
      int depth = 0;
      for (std::size_t k = i + 2; k < text.words.size(); ++k) {
        if (text.at(k) == "(") ++depth;
        if (text.at(k) == ")" && --depth == 0) break;
        if (text.at(k) != "dt" || (text.at(k - 1) != "*" && text.at(k + 1) != "*")) continue;
        add({"force_times_dt", "", text.file, text.words[i].line, text.at(i + 1) + " is multiplied by dt",
             "it acts over the whole tick by itself: times dt it is " + number_text(scene_.world.tick_rate) +
                 " times too weak, and changes with the tick rate",
             "", nullptr});
        break;
      }
    }
  }

  void forgotten_timers(const Text& text) {
    const auto calls = [&](std::size_t i, const char* name) {
      return text.at(i) == name && text.at(i + 1) == "(" && (i == 0 || text.at(i - 1) != ".");
    };
    const auto cancels = [&](std::size_t i) { return text.method(i, "cancel"); };
    for (const auto& [handler, opposite] : opposites) {
      const ScriptFunction* first = text.function(handler);
      // What comes once after a key was pressed is what one presses it for.
      const bool by_key = handler == "on.press" || handler == "on.release";
      const auto starts = [&](std::size_t i) { return calls(i, "every") || (!by_key && calls(i, "after")); };
      if (!first || !text.reaches(*first, starts)) continue;
      const ScriptFunction* second = text.function(opposite);
      if (second && text.reaches(*second, cancels)) continue;
      add({"forgotten_timer", "", text.file, first->line,
           handler + " starts a timer that " + opposite +
               (second ? " does not cancel" : " would have to cancel, but there is none"),
           "it still fires when the opposite has happened meanwhile", "", nullptr});
    }
  }

  bool tag_exists(const std::string& tag) const {
    const bool on_body = std::any_of(scene_.bodies.begin(), scene_.bodies.end(), [&](const Body& body) {
      return std::find(body.tags.begin(), body.tags.end(), tag) != body.tags.end();
    });
    if (on_body) return true;
    for (const Text& text : texts_)
      for (std::size_t i = 0; i + 3 < text.words.size(); ++i)
        if (text.method(i, "tag") && text.words[i + 3].quoted && text.words[i + 3].text == tag) return true;
    return false;
  }

  void lost_tags(const Text& text) {
    for (std::size_t i = 0; i + 2 < text.words.size(); ++i) {
      const bool asks = ((text.at(i) == "has" || text.at(i) == "tagged") && i > 0 && text.at(i - 1) == ":") ||
                        (text.at(i) == "only" && (i == 0 || text.at(i - 1) != "."));
      if (!asks || text.at(i + 1) != "(" || !text.words[i + 2].quoted) continue;
      const std::string& tag = text.words[i + 2].text;
      if (tag_exists(tag)) continue;
      add({"lost_tag", "", text.file, text.words[i].line, "no body has the tag \"" + tag + "\"",
           "what waits for it never happens", "", nullptr});
    }
  }

  void pushed_but_fixed(const Text& text, const Body& body) {
    if (body.kind == MotionKind::dynamic) return;
    for (std::size_t i = 1; i + 1 < text.words.size(); ++i) {
      if (text.at(i) != ":" || text.at(i - 1) != "body" || !pushes.contains(text.at(i + 1)) ||
          (i > 1 && text.at(i - 2) == "."))
        continue;
      // A script that makes it dynamic itself, or rides a path to be let go, knows what it does.
      for (std::size_t k = 0; k + 2 < text.words.size(); ++k)
        if (text.at(k) == "release" || (text.words[k].quoted && text.words[k].text == "dynamic")) return;
      add({"pushed_but_fixed", body.name, text.file, text.words[i].line,
           body.name + " is " + kind_word(body.kind) + ", but body:" + text.at(i + 1) + " pushes it",
           "only dynamic bodies answer to forces: nothing will happen", "make " + body.name + " dynamic",
           mend_of(body.name, [](Body& its) { its.kind = MotionKind::dynamic; })});
      return;
    }
  }

  void deaf_body(const Text& text, const Body& body) {
    if (body.reports) return;
    for (const char* handler : {"on.touch", "on.part"})
      if (const ScriptFunction* f = text.function(handler)) {
        add({"deaf_body", body.name, text.file, f->line,
             body.name + " does not report its contacts, but " + handler + " waits for them", "it will never be called",
             "let " + body.name + " report contacts", mend_of(body.name, [](Body& its) { its.reports = true; })});
        return;
      }
  }

  void zero_dials(const Text& text, const Body& body) {
    if (!dials_.contains(text.file)) dials_[text.file] = read_script(text.file, folder_.scripts).dials;
    for (const Dial& dial : dials_[text.file]) {
      const auto* declared = std::get_if<double>(&dial.default_value);
      if (!declared) continue;
      double value = *declared;
      for (const ScriptUse& use : body.scripts)
        if (use.file == text.file && use.dials.contains(dial.name)) value = number_of(use.dials.at(dial.name));
      if (value != 0) continue;
      int line = zeroed_push(text, dial.name);
      for (std::size_t i = 0; line == 0 && i + 2 < text.words.size(); ++i) {
        if (text.at(i) != "dials" || text.at(i + 1) != "." || text.at(i + 2) != dial.name) continue;
        const bool times = text.at(i + 3) == "*" || (i > 0 && text.at(i - 1) == "*");
        bool in_push = false;
        for (std::size_t k = 0; k + 1 < text.words.size(); ++k)
          in_push = in_push ||
                    (text.words[k].line == text.words[i].line && text.at(k) == ":" && pushes.contains(text.at(k + 1)));
        if (!in_push) continue;
        // Standing alone in a vector it is one part of the push; as a factor it is all of it.
        if (times) line = text.words[i].line;
      }
      if (line == 0) continue;
      add({"zero_dial", body.name, text.file, line,
           "dial " + dial.name + " of " + body.name + " is 0, and the push on this line is multiplied by it",
           "nothing will happen until it is turned up",
           *declared != 0 ? "set it to " + number_text(*declared) + ", as the script declares it" : "",
           *declared != 0 ? mend_of(body.name,
                                    [file = text.file, dial = dial.name](Body& its) {
                                      for (ScriptUse& use : its.scripts)
                                        if (use.file == file) use.dials.erase(dial);
                                    })
                          : std::function<void(SceneFolder&)>()});
    }
  }

  // Whether the words from `from` to before `to` are 0 when these names are: nothing is added to them.
  static bool all_of_it(const Text& text, std::size_t from, std::size_t to, const std::string& dial,
                        const std::set<std::string>& zero) {
    bool any = false;
    for (std::size_t i = from; i < to; ++i) {
      static const std::set<std::string> more{"+", "-", "and", "or", "not", "<", ">", "<=", ">=", "==", "~="};
      if (text.words[i].quoted || more.contains(text.at(i))) return false;
      const bool of_dial = text.at(i) == "dials" && text.at(i + 1) == "." && text.at(i + 2) == dial;
      if (of_dial || (zero.contains(text.at(i)) && (i == 0 || text.at(i - 1) != "."))) {
        any = true;
        continue;
      }
      // One part of a vector that stands for itself, and is not 0.
      const bool alone = i > from && (text.at(i - 1) == "," || text.at(i - 1) == "(") &&
                         (i + 1 >= to || text.at(i + 1) == "," || text.at(i + 1) == ")");
      if (alone && text.at(i) != "0" && text.at(i) != "dt" && !text.at(i).empty() &&
          (std::isalnum(static_cast<unsigned char>(text.at(i)[0])) != 0))
        return false;
    }
    return any;
  }

  static int times_set(const Text& text, const std::string& name) {
    int times = 0;
    for (std::size_t i = 0; i + 1 < text.words.size(); ++i)
      if (text.at(i) == name && text.at(i + 1) == "=") ++times;
    return times;
  }

  // The line of a push that is 0 as the dial is, by way of variables and functions; 0 if there is none.
  static int zeroed_push(const Text& text, const std::string& dial) {
    std::set<std::string> zero;
    const auto end_of_line = [&](std::size_t i) {
      std::size_t end = i;
      while (end < text.words.size() && text.words[end].line == text.words[i].line) ++end;
      return end;
    };
    for (std::size_t before = 1; before != zero.size();) {
      before = zero.size();
      for (std::size_t i = 1; i + 1 < text.words.size(); ++i) {
        const bool set = text.at(i) == "=" && text.at(i - 1) != "]" && (i < 2 || text.at(i - 2) == "local");
        if (set && times_set(text, text.at(i - 1)) == 1 && all_of_it(text, i + 1, end_of_line(i), dial, zero))
          zero.insert(text.at(i - 1));
      }
      for (const ScriptFunction& f : text.functions)
        for (std::size_t i = f.begin; i < f.end; ++i)
          if (text.at(i) == "return" && i + 1 < f.end &&
              all_of_it(text, i + 1, std::min(end_of_line(i), f.end), dial, zero))
            zero.insert(f.name);
    }
    if (zero.empty()) return 0;
    for (std::size_t i = 0; i + 2 < text.words.size(); ++i) {
      if (text.at(i) != ":" || !pushes.contains(text.at(i + 1)) || text.at(i + 2) != "(") continue;
      std::size_t end = i + 3;
      for (int depth = 1; end < text.words.size() && depth > 0; ++end)
        depth += text.at(end) == "(" ? 1 : text.at(end) == ")" ? -1 : 0;
      if (all_of_it(text, i + 3, end - 1, dial, zero)) return text.words[i].line;
    }
    return 0;
  }

  const SceneFolder& folder_;
  const Scene& scene_;
  std::vector<Text> texts_;
  std::map<std::string, std::vector<Dial>> dials_;  // declared, by file
  std::vector<Snag> found_;
};

}  // namespace

std::vector<Snag> snags_before_play(const SceneFolder& folder) {
  return Search(folder).all();
}

}  // namespace bronvel
