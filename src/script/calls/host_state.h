// What the script host holds inside. Only the script layer includes this.
#pragma once

#include <array>
#include <deque>
#include <map>
#include <unordered_map>

#include "dynamics/world/blast.h"
#include "script/calls/host.h"
#include "script/sandbox/sandbox.h"

namespace bronvel {

/// What a script may answer to, in the order of `handler_names`.
enum class Handler {
  play,
  tick,
  touch,
  part,
  enter,
  leave,
  press,
  release,
  grab,
  drop,
  arrive,
  cue,
  snap,
  splash,
  crack,
  blast,
  message
};
inline constexpr std::size_t handler_count = 17;

/// The part of a script's copy that every phase looks at, side by side in memory.
struct ScriptHead {
  BodyHandle body;
  bool stopped = false;
  bool gone = false;                          ///< its body was removed
  std::array<int, handler_count> handlers{};  ///< registry references

  ScriptHead() { handlers.fill(LUA_NOREF); }
  int& handler(Handler which) { return handlers[static_cast<std::size_t>(which)]; }
};

/// One copy of a script, on one body.
struct ScriptInstance {
  std::string body_name;
  std::string file;
  std::map<std::string, DialValue> settings;  ///< dial settings that differ from the script's own
  std::vector<Dial> dials;
  std::vector<std::string> built_from;  ///< files that it took in with require and build_on
  int environment = LUA_NOREF;          ///< registry references
  int modules = LUA_NOREF;              ///< what it required, by file; made when first needed
  bool played = false;                  ///< on.play was called
  std::uint64_t random = 0;             ///< state of its own random stream
  Spent spent{};                        ///< of this tick's budget
};

/// What a dial takes of the scripts' memory, bytes.
inline std::size_t bytes_of(const Dial& dial) {
  std::size_t words = 0;
  for (const std::string& word : dial.words) words += sizeof(std::string) + word.size();
  return sizeof dial + dial.script.size() + dial.name.size() + dial.unit.size() + dial.tip.size() + words;
}

/// A call that is due at a tick: a timer's function, or a message to bodies.
struct Due {
  std::uint64_t id = 0;
  std::int64_t due = 0;      ///< tick
  double every = 0;          ///< s; 0 for once
  std::int64_t start = 0;    ///< tick at which it was asked for
  std::int64_t times = 0;    ///< that it has come
  std::size_t instance = 0;  ///< whose it is
  int function = LUA_NOREF;  ///< of a timer; of a message: a list of its arguments
  bool message = false;
  std::string name;                  ///< of a message
  std::optional<BodyHandle> target;  ///< of a message; none: all with the tag
  std::string tag;

  std::size_t bytes() const { return sizeof *this + name.size() + tag.size(); }
};

/// A body on its way along a path.
struct Ride {
  BodyHandle body;
  std::string path;
  std::int64_t start = 0, ticks = 1;
  double from = 0, to = 1;  ///< shares of the path's length
  bool smooth = false;      ///< eases in and out
  bool face = false;        ///< turns its forward along the path
  bool release = false;     ///< becomes dynamic on arrival
  bool arrived = false;
};

/// How far along its way the ride is at the tick, 0 to 1, and how fast that grows, 1/tick.
struct RidePlace {
  double share = 0, rate = 0;
};
RidePlace ride_place(const Ride& ride, std::int64_t tick);

struct ScriptHost::State {
  State(RunningScene& running_scene, std::uint64_t the_seed, const SandboxLimits& limits);

  RunningScene& running;
  std::uint64_t seed;
  std::map<std::string, std::string> sources;  ///< every script of the scene, by file name
  Sandbox sandbox;
  std::vector<ScriptHead> heads;         ///< of each instance
  std::deque<ScriptInstance> instances;  ///< a deque: code that runs holds on to its own while others are added
  std::vector<std::vector<std::size_t>> instances_of;  ///< by body index
  std::vector<Due> due;
  std::uint64_t next_due = 1;
  int behind_environments = LUA_NOREF;  ///< registry reference of their metatable
  std::size_t current = 0;              ///< the instance whose code runs
  std::vector<LogLine> log;
  std::size_t lines_left_out = 0;  ///< printed since the log was taken, more than it takes
  bool any_error = false;
  std::map<std::string, double> actions;  ///< value of each input action
  struct Pointer {
    Vec3 eye, way;  ///< scene frame; a unit vector
  };
  std::optional<Pointer> pointer;  ///< none until it was first told of
  std::vector<Ride> rides;
  std::vector<std::vector<BodyHandle>> parted;   ///< bodies that scripts cut or shattered in this tick, whole first
  std::vector<std::pair<Vec3, BlastHit>> blown;  ///< where a blast went off, and what it pushed: still to be told
  std::vector<BodyHandle> removals;              ///< bodies that go at the end of this tick
  std::vector<Drawn> drawn;                      ///< what scripts drew since the last tick
  std::vector<Watched> watched_numbers;          ///< since they were last taken
  std::vector<Arrival> arrivals;                 ///< of this tick
  std::vector<LogLine> unmet;                    ///< expectations, since the start
  bool watched = false;
  std::vector<ScriptAct> acts;  ///< since the last tick began, when watched
  Actors actors;                ///< while books are kept
  int stamps_within = 0;        ///< copies that are being made, one within the other
  std::size_t bodies_at_start, joints_at_start;
  std::vector<std::size_t> tag_bytes;  ///< of the scripts' memory, by body index
  std::size_t made_bytes = 0;          ///< of the scripts' memory that bodies and joints made in play take
  std::int64_t ground_tick = -1;       ///< when `on_ground` was worked out
  std::vector<char> on_ground;         ///< by body index

  static State& of(lua_State* lua) { return *static_cast<State*>(Sandbox::of(lua).user); }
  ScriptInstance& now() { return instances[current]; }
  void report(LogLevel level, const ScriptInstance& instance, const std::string& text);
  /// Calls the function below its arguments as the instance's code; stops the instance if it fails.
  void run(std::size_t instance, int arguments);
  /// Pushes the instance's handler of that name; false (and nothing pushed) if it has none, is stopped or gone.
  bool push_handler(std::size_t instance, Handler which);
  /// The instances on the body, in their order.
  const std::vector<std::size_t>& on_body(BodyHandle body) const;
  void add(BodyHandle body, const ScriptUse& use);
  void play(std::size_t instance);      ///< on.play, once
  void start(std::size_t instance);     ///< runs its text from the top
  void call_off(std::size_t instance);  ///< its timers and messages
  void forget_done();                   ///< timers and messages that are over
  void forget_gone();                   ///< instances whose bodies were removed, once they are the greater part
  bool removed(BodyHandle body) const;
  /// Counts so many bodies and joints that the running script makes into the memory that scripts have. Throws
  /// ScriptFault when it is too much.
  void hold_made(std::size_t bodies, std::size_t joints);
  /// Counts tags of so many bytes that the running script gives the body, until it is removed. Throws ScriptFault when
  /// it is too much.
  void hold_tag(BodyHandle body, std::size_t bytes);
  void let_go_tag(BodyHandle body, std::size_t bytes);
  /// Counts anew what was made in play and is still there.
  void count_made();
  /// Counts one more of what the running script may do so many times in a tick. Throws ScriptFault when it is one too
  /// many.
  void count(int Spent::*what, int most, const char* told);
  /// Keeps what a blast pushed, for on.blast when the tick is over.
  void keep_blown(const Vec3& at, const std::vector<BlastHit>& hits);
  /// Keeps what the running script does to the body, when watched.
  void note(ScriptAct::Kind kind, BodyHandle body, const Vec3& vector);
  /// What is done to bodies from now on is this call of the running script's line, if books are kept.
  void act(const char* what);
  /// The running script's file and line.
  std::pair<std::string, int> line_now() const;
};

/// The names that `on` takes.
std::span<const char* const, handler_count> handler_names();

// Each registers its calls in the table of globals on top of the stack.
void open_bodies(lua_State* lua);
void open_scene(lua_State* lua);
void open_zones(lua_State* lua);
void open_joints(lua_State* lua);
void open_timers(lua_State* lua);
void open_helpers(lua_State* lua);
void open_environment(lua_State* lua);

/// Makes the instance's environment, with its own `body`.
void make_environment(ScriptHost::State& state, std::size_t instance);

/// A value of the property list in Lua and back; monostate is nil. A joint's or zone's words are texts.
void push_value(lua_State* lua, const Value& value);
Value value_at(lua_State* lua, int index);
/// Throws ScriptFault, as "body.mass wants a number above 0, got -4", if the value at `index` does not fit.
Value take_value(lua_State* lua, int index, const PropertyInfo& property, const char* owner);

/// Calls `each(name)` for every field of the table at `index`, in order of names, with the field's value on top of the
/// stack. Throws ScriptFault when it is not a table with names for keys.
void each_field(lua_State* lua, int index, const char* call, const std::function<void(const std::string&)>& each);

/// Starts a ride; what may be wrong with it throws ScriptFault. Stack: body, path's name, table of how or nil.
int ride(lua_State* lua);

}  // namespace bronvel
