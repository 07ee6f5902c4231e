// Snags: things in a scene that will not do what one thinks, found before play and while it runs.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "play/run/play.h"

namespace bronvel {

struct Snag {
  std::string kind;    ///< one word for one sort of snag: "idle_script", "lost_gravity" …
  std::string body;    ///< "" if none
  std::string script;  ///< file, "" if none
  int line = 0;        ///< in the script, 0 if none
  std::string what;    ///< what is the matter, with names and numbers
  std::string why;     ///< why it matters
  std::string mend;    ///< what one click would do; "" where none is safe
  std::function<void(SceneFolder&)> do_mend;
};

/// What can be seen without playing. In a fixed order.
std::vector<Snag> snags_before_play(const SceneFolder& folder);

/// Looks on while a play runs. Each snag is found once.
class SnagWatch {
 public:
  explicit SnagWatch(Play& play);
  void look(Play& play);  ///< after every tick
  const std::vector<Snag>& found() const { return found_; }

 private:
  struct Habit {
    std::int64_t last_tick = -1;
    int ticks_running = 0;      // in a row
    int same_height_speed = 0;  // in a row: the vertical speed was set to what it was set to before
    int same_ratio = 0;         // in a row: the velocity was multiplied by the same factor
    int same_addition = 0;      // in a row: the same was added to the velocity
    double vertical = 0, ratio = 1;
    Vec3 added = Vec3::Zero(), vector = Vec3::Zero();
  };
  struct Held {
    std::int64_t last_tick = -1;
    int ticks = 0;  // in a row: pushed, and still
  };
  void add(Snag snag);
  void look_at_acts(Play& play);
  void look_at_held_back(Play& play, const ScriptAct& act, const BodySettings& settings);
  void look_at_impulse(Play& play, const ScriptAct& act, BodyHandle body);
  void look_at_pushes(Play& play);
  void look_at_bounces(Play& play);
  void look_at_bodies(Play& play);

  std::vector<Snag> found_;
  std::map<std::string, Habit> habits_;  // by body, script, line and sort of act
  std::map<std::string, Held> held_;     // by body
  std::map<std::string, double> start_;  // height of each body when play began
};

}  // namespace bronvel
