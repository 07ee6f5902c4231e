// Who acts on bodies from outside: a script's line, or a hand. The world's books know each by a number.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace bronvel {

struct Actor {
  std::string what;    ///< "force", "velocity" …; "hand", "blast", "set by hand" where no script does it
  std::string script;  ///< file; empty where no script does it
  int line = 0;

  bool operator==(const Actor&) const = default;
  std::string text() const;  ///< "nudge.lua:9 force", "hand"
};

/// All that have acted so far, by their numbers.
class Actors {
 public:
  std::uint32_t number_of(const Actor& actor);
  const Actor& operator[](std::uint32_t number) const;  ///< someone unknown where there is none of that number

 private:
  std::vector<Actor> all_;
};

}  // namespace bronvel
