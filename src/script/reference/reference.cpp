// The list of everything that scripts can use.
#include "script/reference/reference.h"

#include <algorithm>
#include <array>

#include "scene/document/names.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

constexpr const char* handlers = "Handlers";
constexpr const char* body = "Body: calls";
constexpr const char* reads = "Body: readings";
constexpr const char* scene = "Scene";
constexpr const char* zones = "Zones";
constexpr const char* joints = "Joints";
constexpr const char* vectors = "Vectors and turns";
constexpr const char* later = "Later, and to others";
constexpr const char* inputs = "Inputs";
constexpr const char* drawing = "Drawing and sounding";
constexpr const char* around = "Around a script";

constexpr const char* stops = "stops the script on this body with a message";
constexpr const char* only_function = "anything but a function stops the script; a misspelt handler does too";

constexpr ReferenceEntry entries[] = {
    {handlers, "on.play", "function on.play()", "Once, before the first tick.", only_function,
     "function on.play() body.velocity = vec(2, 0, 0) end"},
    {handlers, "on.tick", "function on.tick(dt)", "Every tick, before the world moves; `dt` is the tick's length, s.",
     only_function, "function on.tick(dt) body:force(vec(0, body.weight, 0)) end"},
    {handlers, "on.touch", "function on.touch(hit)",
     "A contact began. `hit.other` is the other body, `hit.point` the first point and `hit.points` all of them (m), "
     "`hit.normal` points away from the other body, `hit.speed` is the closing speed before the hit (m/s), "
     "`hit.impulse` what the two exchanged in the tick (N·s), `hit.time` when they met (s). A contact that lasts does "
     "not fire again.",
     only_function, "function on.touch(hit) print(hit.other, hit.speed) end"},
    {handlers, "on.part", "function on.part(hit)", "A contact ended; `hit.other` is the other body.", only_function,
     "function on.part(hit) print(\"left\", hit.other) end"},
    {handlers, "on.enter", "function on.enter(zone)", "The body came into a zone that senses it.", only_function,
     "function on.enter(zone) print(\"in\", zone.name) end"},
    {handlers, "on.leave", "function on.leave(zone)", "The body left a zone.", only_function,
     "function on.leave(zone) print(\"out of\", zone.name) end"},
    {handlers, "on.splash", "function on.splash(splash)",
     "The body came into water (`splash.into` is true) or out of it, faster than 0.1 m/s: `splash.zone`, `.speed` "
     "through "
     "the surface (m/s), `.volume` of the body that was under water in that tick (m³), `.point` on the surface.",
     only_function, "function on.splash(splash) if splash.into then puff(splash.point, splash.speed * 0.1) end end"},
    {handlers, "on.crack", "function on.crack(pieces, how)",
     "The body broke: `pieces` are the bodies that it is now, itself first (one only, when it cracked without coming "
     "apart). `how.point` is where it was strained most (m), `how.use` how many times its strength the load was, "
     "`how.bonds` how many bonds parted.",
     only_function, "function on.crack(pieces, how) print(#pieces, \"pieces\") puff(how.point, 0.3) end"},
    {handlers, "on.blast", "function on.blast(blast)",
     "A blast pushed this body, set off by hand or by a script: `blast.at` is its middle (m), `.point` where it "
     "pushed, "
     "`.impulse` how (N·s, a vector). It has moved by one tick already.",
     only_function, "function on.blast(blast) print(\"blown at\", blast.impulse:length()) end"},
    {handlers, "on.press", "function on.press(action)", "An input action of the scene was pressed: its value left 0.",
     only_function, "function on.press(action) if action == \"haul\" then body:impulse(vec(0, 2, 0)) end end"},
    {handlers, "on.release", "function on.release(action)", "An input action was let go: its value came back to 0.",
     only_function, "function on.release(action) body:halt() end"},
    {handlers, "on.grab", "function on.grab()", "The hand took hold of this body.", only_function,
     "function on.grab() print(\"held\") end"},
    {handlers, "on.drop", "function on.drop()", "The hand let go of this body.", only_function,
     "function on.drop() print(\"thrown at\", body.velocity:length()) end"},
    {handlers, "on.arrive", "function on.arrive(path)", "A ride ended in this tick; `path` is the path's name.",
     only_function, "function on.arrive(path) print(\"arrived\", path) end"},
    {handlers, "on.cue", "function on.cue(name)", "A cue of the scene's clock.", only_function,
     "function on.cue(name) if name == \"bell\" then body:impulse(vec(0, 1, 0)) end end"},
    {handlers, "on.snap", "function on.snap(joint)",
     "A joint of this body broke: `joint.name`, `.kind`, `.other`, and `.force` (N) and `.torque` (N·m) on this body "
     "in "
     "the tick that broke it.",
     only_function, "function on.snap(joint) print(joint.name, joint.force:length()) end"},
    {handlers, "on.message", "function on.message(name, ...)", "Another script told this body something.",
     only_function,
     "function on.message(name, share) if name == \"haul\" then body:accelerate(vec(0, share, 0)) end end"},

    {body, "body:force", "body:force(f [, point])",
     "A force in newtons over the coming tick, at the centre of mass or at a point; scene frame. Do not multiply by "
     "dt.",
     stops, "function on.tick() body:force(vec(0, body.weight * 1.1, 0)) end"},
    {body, "body:impulse", "body:impulse(j [, point])",
     "An impulse in newton seconds, at once: changes the velocity by j / mass.", stops,
     "function on.play() body:impulse(vec(0, 3 * body.mass, 0)) end"},
    {body, "body:torque", "body:torque(t)", "A torque in N·m over the coming tick, scene frame.", stops,
     "function on.tick() body:torque(vec(0, 2, 0)) end"},
    {body, "body:angular_impulse", "body:angular_impulse(l)", "An angular impulse in N·m·s, at once, scene frame.",
     stops, "function on.play() body:angular_impulse(vec(0, 1, 0)) end"},
    {body, "body:accelerate", "body:accelerate(a)",
     "The force that gives this acceleration (m/s²), whatever the mass, over the coming tick.", stops,
     "function on.tick() body:accelerate(vec(0, 9.81, 0)) end"},
    {body, "body:halt", "body:halt()", "Velocity and spin to zero, at once.", stops,
     "function on.touch() body:halt() end"},
    {body, "body:place", "body:place(point [, turn])",
     "Puts the body there (m, scene frame) at once, whatever is in the way; its velocity stays. A kinematic body that "
     "is placed (or advances, or has its `position` set) tick after tick is a mover: it goes there within the tick, "
     "carries what lies on it, pushes what it meets and has that speed. Placed once, or farther off than its own "
     "radius from where it was going, it jumps and takes nothing along.",
     stops, "function on.play() body:place(vec(0, 3, 0), turn(vec(0, 1, 0), 0.5)) end"},
    {body, "body:advance", "body:advance(way [, slide])",
     "Moves a kinematic body along `way` (m) until it hits something, sliding on along it if `slide` is true. Gives "
     "the "
     "hit (`.other`, `.point`, `.normal`, `.moved`) or nil. Both are told of it by on.touch; a dynamic body is pushed "
     "on, as by one that goes `way` in a tick.",
     "a body that is not kinematic stops the script",
     "body.kind = \"kinematic\"\nfunction on.tick(dt) local hit = body:advance(vec(2 * dt, 0, 0), true) end"},
    {body, "body:ride", "body:ride(path, { seconds = s, ... })",
     "Rides a path of the scene in exactly that time, arriving on the very tick; then comes on.arrive. `ease` is "
     "\"even\" or \"smooth\"; `from` and `to` are shares of the path (0 to 1); `face` turns the body's forward along "
     "it; "
     "`release` makes it dynamic on arrival, with the velocity it had. body:ride(nil) gets off.",
     "a body that is not kinematic, or a path that is not there, stops the script",
     "body.kind = \"kinematic\"\nfunction on.play() body:ride(\"ferry\", { seconds = 2.5, ease = \"smooth\" }) end"},
    {body, "body:slice", "body:slice(point, normal) → other",
     "Cuts the body by the plane through `point` (m) across `normal`. It goes on as the part behind the normal; the "
     "other part is new, with the surface, tags and what breaks of the first. `position` is then the middle of what is "
     "left of it (a kinematic body keeps its own).",
     "what can't be cut, or a plane that misses or only grazes it, stops the script and says why",
     "local other = body:slice(body.position, vec(1, 0, 0))\nother:impulse(vec(1, 0, 0))"},
    {body, "body:shatter", "body:shatter(point, energy) → pieces",
     "Breaks the body at once, finer near `point` (m): into as many pieces as `energy` (J) pays for, by its toughness, "
     "200 at most. "
     "Gives them all, the body itself first.",
     "what has no inside, as a mesh, stops the script and says why",
     "local pieces = body:shatter(body.position, 50)\nprint(#pieces)"},
    {body, "body:remove", "body:remove()",
     "Takes the body out of the scene at the end of this tick; until then it can still be asked.", stops,
     "function on.touch(hit) if hit.speed > 9 then body:remove() end end"},
    {body, "body:part", "body:part(name)",
     "Its fellow in the same copy of a stamp, a body or a joint by its name in the stamp; nil where there is none.",
     stops, "local frame = body:part(\"frame\") if frame then print(frame.name) end"},
    {body, "body:has", "body:has(tag)", "Whether the body has the tag.", stops,
     "function on.touch(hit) if hit.other:has(\"stone\") then print(\"stone\") end end"},
    {body, "body:tag", "body:tag(name)", "Gives the body a tag.", stops,
     "function on.touch() body:tag(\"struck\") end"},
    {body, "body:untag", "body:untag(name)", "Takes a tag away.", stops,
     "function on.part() body:untag(\"struck\") end"},
    {body, "body:velocity_at", "body:velocity_at(point)",
     "The velocity (m/s) of the body's matter at a point of the scene, turning included.", stops,
     "function on.touch(hit) print(body:velocity_at(hit.point)) end"},
    {body, "body:to_scene", "body:to_scene(point)", "A point of the body's own frame in the scene's frame, m.", stops,
     "function on.tick() body:force(vec(0, 1, 0), body:to_scene(vec(0.2, 0, 0))) end"},
    {body, "body:to_local", "body:to_local(point)", "A point of the scene in the body's own frame, m.", stops,
     "function on.touch(hit) print(body:to_local(hit.point)) end"},

    {reads, "body.name", "body.name", "The body's name.", "", "print(body.name)"},
    {reads, "body.alive", "body.alive", "False once it was removed. The only thing that a removed body can be asked.",
     "", "local other = scene:find(\"stone\")\nfunction on.tick() if other.alive then mark(other.position) end end"},
    {reads, "body.weight", "body.weight", "Mass × gravity × the body's gravity factor, N.", "",
     "function on.tick() body:force(vec(0, body.weight, 0)) end"},
    {reads, "body.grounded", "body.grounded",
     "Whether a contact of the last tick holds it up: one whose normal leans less than 60° from straight against "
     "gravity.",
     "", "function on.tick() if body.grounded then body:impulse(vec(0, 2, 0)) end end"},
    {reads, "body.submerged", "body.submerged", "Share of its volume that was in water in the last tick, 0 to 1.", "",
     "function on.tick() if body.submerged > 0.5 then body:force(vec(0, body.weight, 0)) end end"},
    {reads, "body.asleep", "body.asleep", "Whether it has come to rest and costs nothing until something stirs it.", "",
     "function on.tick() if body.asleep then print(\"at rest\") end end"},
    {reads, "body.centre", "body.centre", "Its centre of mass, m, scene frame.", "", "print(body.centre)"},
    {reads, "body.up", "body.up", "Unit vector of its own Y, scene frame.", "", "print(body.up)"},
    {reads, "body.forward", "body.forward", "Unit vector of its own −Z, in a planar scene of its own X; scene frame.",
     "", "function on.tick() body:force(body.forward * 5) end"},
    {reads, "body.left", "body.left", "Unit vector of its own −X, scene frame.", "", "print(body.left)"},
    {reads, "body.tags", "body.tags", "A list of its tags.", "", "for _, tag in ipairs(body.tags) do print(tag) end"},

    {scene, "scene:find", "scene:find(name)", "The body of that name, or nil.", stops,
     "local stone = scene:find(\"stone\")"},
    {scene, "scene:tagged", "scene:tagged(tag)", "A list of the bodies with the tag, oldest first.", stops,
     "for _, each in ipairs(scene:tagged(\"stone\")) do print(each) end"},
    {scene, "scene:bodies", "scene:bodies()", "A list of all bodies, oldest first.", "", "print(#scene:bodies())"},
    {scene, "scene:zone", "scene:zone(name)", "The zone of that name, or nil.", stops,
     "local draught = scene:zone(\"draught\")"},
    {scene, "scene:joint", "scene:joint(name)", "The joint of that name, or nil when there is none or it broke.", stops,
     "local cord = scene:joint(\"cord\")"},
    {scene, "scene:ray", "scene:ray(from, direction [, reach [, filter]])",
     "The first body that the ray meets, or nil: `.body`, `.point`, `.normal`, `.distance` (m). The filter may have "
     "`except` (a body; false for none; this script's own unless it is given), `solid = true`, and `groups` (a list of "
     "names).",
     stops, "local below = scene:ray(body.position, vec(0, -1, 0), 5)\nprint(below and below.distance)"},
    {scene, "scene:near", "scene:near(point, radius [, filter])",
     "A list of the bodies within `radius` m of the point, the nearest first.", stops,
     "for _, each in ipairs(scene:near(body.position, 3)) do print(each) end"},
    {scene, "scene:sweep", "scene:sweep(body or radius, way [, from [, filter]])",
     "The first body that the shape of a body, or a ball, would meet along `way` (m), or nil: as scene:ray gives it.",
     stops, "local ahead = scene:sweep(0.3, body.forward * 2)"},
    {scene, "scene:stamp", "scene:stamp(body or name [, { ... }])",
     "A copy of a body with its scripts, and with what the table says instead: any property of a body, or `scripts = "
     "false`. Gives the new body. The name of one of the scene's stamps makes all its bodies and joints, its frame at "
     "the table's `position` and `orientation`, and gives a list of the bodies.",
     "a property that does not fit stops the script",
     "function on.play() scene:stamp(\"stone\", { position = vec(0, 5, 0), mass = 0.5 }) end"},
    {scene, "scene:blast", "scene:blast{ at = point, radius =, impulse =, falloff =, upward =, only =, except = }",
     "Pushes every dynamic body within `radius` (m) away from the point, with `impulse` (N·s) at the middle; `falloff` "
     "is \"even\", \"linear\" (the usual) or \"square\" towards the rim; `upward` (0 to 1) is the "
     "share of the push that goes against gravity, `only` a tag that those it pushes have. "
     "Gives "
     "a list of the bodies pushed.",
     stops, "function on.play() scene:blast{ at = vec(0, 0, 0), radius = 4, impulse = 20, upward = 0.3 } end"},
    {scene, "scene:join", "scene:join{ kind =, a =, b =, at =, axis =, ... }",
     "Ties body `b` to body `a`, or to the scene without `a`; `at` (m) and `axis` are the scene's, all else is as in "
     "the "
     "scene file. Gives the joint.",
     "settings that do not fit stop the script",
     "function on.play() scene:join{ kind = \"ball\", b = body, at = body.position + vec(0, 1, 0) } end"},
    {scene, "scene.gravity", "scene.gravity", "Gravity, m/s², a vector; can be set.", stops,
     "function on.play() scene.gravity = vec(0, -1.62, 0) end"},
    {scene, "scene.state", "scene.state",
     "A table that all scripts of the scene share, empty when play begins: the score, the phase, whose turn it is.", "",
     "function on.touch() scene.state.score = (scene.state.score or 0) + 1 end"},
    {scene, "scene.up", "scene.up",
     "Unit vector against gravity. Without gravity it is Y, and in a planar scene, seen from above, Z.", "",
     "function on.tick() body:force(scene.up * body.weight) end"},
    {scene, "scene.across", "scene.across", "Unit vector to the right: X, as near as `scene.up` allows.", "",
     "function on.tick() body:force(scene.across * 5) end"},
    {scene, "scene.forward", "scene.forward",
     "Unit vector away from the one who looks: −Z; in a planar scene seen from above Y.", "",
     "function on.tick() body:force(scene.forward * 5) end"},
    {scene, "scene.tick", "scene.tick", "Ticks done.", "", "print(scene.tick)"},
    {scene, "scene.time", "scene.time", "Seconds of play: tick ÷ tick rate.", "", "print(scene.time)"},
    {scene, "scene.tick_rate", "scene.tick_rate", "Ticks a second.", "", "print(scene.tick_rate)"},

    {zones, "zone.name", "zone.name", "The zone's name.", "", "function on.enter(zone) print(zone.name) end"},
    {zones, "zone.bodies", "zone.bodies", "A list of the bodies that were in it at the end of the last tick.", "",
     "function on.tick() print(#scene:zone(\"draught\").bodies) end"},
    {zones, "zone:has", "zone:has(body)", "Whether the body was in it at the end of the last tick.", stops,
     "function on.tick() if scene:zone(\"draught\"):has(body) then body:torque(vec(0, 1, 0)) end end"},

    {zones, "zone:level_at", "zone:level_at(point)",
     "Height of the water's surface over or under the point, waves "
     "included, m.",
     stops, "print(scene:zone(\"basin\"):level_at(body.position))"},
    {zones, "zone:depth_at", "zone:depth_at(point)", "How deep the point lies under the surface, m; below 0 above it.",
     stops, "print(scene:zone(\"basin\"):depth_at(body.position))"},
    {zones, "zone:flow_at", "zone:flow_at(point)", "Velocity of the water there, the waves' own motion included, m/s.",
     stops, "function on.tick() body:force(scene:zone(\"basin\"):flow_at(body.position) * 2) end"},

    {joints, "joint.name", "joint.name", "The joint's name.", "", "print(scene:joint(\"cord\").name)"},
    {joints, "joint.kind", "joint.kind",
     "\"ball\", \"hinge\", \"slider\", \"fixed\", \"distance\", \"six_axis\" or \"pulley\".", "",
     "print(scene:joint(\"cord\").kind)"},
    {joints, "joint.alive", "joint.alive", "False once it broke or was cut.", "",
     "local cord = scene:joint(\"cord\")\nfunction on.tick() if cord.alive then print(cord.travel) end end"},
    {joints, "joint.a", "joint.a", "The body that it hangs on; nil for the scene.", "",
     "print(scene:joint(\"cord\").a)"},
    {joints, "joint.b", "joint.b", "The body that it holds.", "", "print(scene:joint(\"cord\").b)"},
    {joints, "joint.force", "joint.force", "The mean force on B over the last tick, N, scene frame.", "",
     "function on.tick() print(scene:joint(\"cord\").force:length()) end"},
    {joints, "joint.torque", "joint.torque", "The mean torque on B over the last tick, N·m, scene frame.", "",
     "print(scene:joint(\"cord\").torque)"},
    {joints, "joint.travel", "joint.travel", "Angle of a hinge (rad), travel of a slider, length of a rope (m).", "",
     "print(scene:joint(\"cord\").travel)"},
    {joints, "joint.rate", "joint.rate", "How fast its travel grows, rad/s or m/s.", "",
     "print(scene:joint(\"cord\").rate)"},
    {joints, "joint:cut", "joint:cut()", "Takes the joint away; no on.snap comes.", stops,
     "function on.play() scene:joint(\"cord\"):cut() end"},
    {joints, "joint.high",
     "joint.high, .low, .stiffness, .damping, .rest, .motor_speed, .motor_most, .pay_out, "
     ".breaks_at_force, .breaks_at_torque",
     "As in the scene file; can be read and set, and count from the next tick.", stops,
     "function on.play() scene:joint(\"cord\").high = 1.5 end"},

    {vectors, "vec", "vec(x, y, z)", "A vector: + - * /, .x .y .z. Vectors never change; sums make new ones.", stops,
     "local up = vec(0, 1, 0) * 3 + vec(1, 0, 0)"},
    {vectors, "vec:length", "v:length()", "Its length.", stops, "print(vec(3, 4, 0):length())"},
    {vectors, "vec:unit", "v:unit()", "The same direction at length 1; the zero vector stays zero.", stops,
     "print(vec(3, 4, 0):unit())"},
    {vectors, "vec:dot", "v:dot(w)", "Scalar product.", stops, "print(vec(1, 2, 3):dot(vec(1, 0, 0)))"},
    {vectors, "vec:cross", "v:cross(w)", "Vector product.", stops, "print(vec(1, 0, 0):cross(vec(0, 1, 0)))"},
    {vectors, "vec:reflect", "v:reflect(normal [, share])",
     "Thrown back by a wall with that normal, with `share` (usually 1) of its speed along it.", stops,
     "function on.touch(hit) body.velocity = body.velocity:reflect(hit.normal) end"},
    {vectors, "vec:limit", "v:limit(most)", "At its own length, or shortened to `most`.", stops,
     "function on.tick() body.velocity = body.velocity:limit(20) end"},
    {vectors, "turn", "turn(axis, angle)",
     "A rotation about an axis by an angle in radians. turn * vector turns it; turn * turn does the right one first.",
     stops, "local quarter = turn(vec(0, 1, 0), math.pi / 2)\nprint(quarter * vec(1, 0, 0))"},
    {vectors, "turn.between", "turn.between(from, to)", "The shortest turn that takes one direction to another.", stops,
     "local q = turn.between(vec(1, 0, 0), vec(0, 1, 0))"},
    {vectors, "turn.facing", "turn.facing(direction [, up])", "The turn of a body whose forward looks that way.", stops,
     "function on.play() body.orientation = turn.facing(vec(1, 0, 0)) end"},
    {vectors, "turn:inverse", "q:inverse()", "The turn back.", stops, "local back = body.orientation:inverse()"},
    {vectors, "turn:axis", "q:axis()", "Its axis, a unit vector.", stops, "print(body.orientation:axis())"},
    {vectors, "turn:angle", "q:angle()", "Its angle, rad.", stops, "print(body.orientation:angle())"},
    {vectors, "turn:blend", "q:blend(r, share)", "Part of the way from q to r, evenly.", stops,
     "local half = turn():blend(turn(vec(0, 1, 0), 1), 0.5)"},

    {later, "after", "after(seconds, f)", "Calls f once, at the tick nearest to then. Gives a timer.", stops,
     "function on.play() after(0.5, function() body:halt() end) end"},
    {later, "every", "every(seconds, f)",
     "Calls f again and again, each time at the tick nearest to its time, so that it never drifts. Gives a timer.",
     stops, "function on.play() every(1, function() body:impulse(vec(0, 1, 0)) end) end"},
    {later, "tell", "tell(body or tag, name, ...)",
     "Sends a message to a body, or to all with a tag, that arrives before the next on.tick. Numbers, texts, vectors, "
     "turns and bodies can go along.",
     stops, "function on.touch(hit) tell(hit.other, \"struck\", hit.speed) end"},
    {later, "tell_in", "tell_in(seconds, body or tag, name, ...)", "The same, with a delay.", stops,
     "function on.play() tell_in(0.2, body, \"wake\") end"},
    {later, "timer:cancel", "timer:cancel()", "Calls a timer or a message off. Once it has come, does nothing.", stops,
     "local t = after(1, function() end)\nfunction on.grab() t:cancel() end"},
    {later, "timer.waiting", "timer.waiting", "Whether it is still to come.", "",
     "local t = after(1, function() end)\nprint(t.waiting)"},

    {inputs, "held", "held(action)", "Whether an action of the scene is pressed.", "an unknown action stops the script",
     "function on.tick() if held(\"haul\") then body:force(vec(0, 50, 0)) end end"},
    {inputs, "axis", "axis(action)", "An action's value, from −1 to 1.", "an unknown action stops the script",
     "function on.tick() body:force(vec(axis(\"haul\") * 20, 0, 0)) end"},

    {drawing, "mark", "mark(point [, text])", "A cross on the stage for this tick.", stops,
     "function on.tick() mark(body.position, \"here\") end"},
    {drawing, "arrow", "arrow(from, vector [, text])", "An arrow on the stage for this tick, 1 m for each unit.", stops,
     "function on.tick() arrow(body.position, body.velocity * 0.2, \"v\") end"},
    {drawing, "puff", "puff(point [, radius])", "A ring of dust that spreads and fades.", stops,
     "function on.touch(hit) puff(hit.point, 0.4) end"},
    {drawing, "watch", "watch(name, number)",
     "A number to be seen as a lane of its own in takes, and as the channel BODY.watch.NAME. Ask for it every tick: "
     "where it was not asked for, the lane has a gap.",
     stops, "function on.tick() watch(\"climb\", body.velocity.y) end"},
    {drawing, "measure", "measure(name, number)",
     "What a play came to, by a name of your own: wishes, sweeps and checks read it as `told:BODY,NAME`, the last that "
     "was told. Tell it when it is known.",
     stops, "function on.enter(zone) goals = (goals or 0) + 1 measure(\"goals\", goals) end"},
    {drawing, "expect", "expect(condition [, words])",
     "Says in the log, once for each body, where the condition does not hold, and fails the scene's checks. Gives back "
     "whether it held.",
     stops, "function on.touch(hit) expect(hit.speed < 9, \"a soft landing\") end"},
    {drawing, "sound", "sound(name [, loudness [, pitch]])",
     "A sound where the body is: the scene's `sounds/NAME.wav`, `.ogg` or `.flac`; where there is none, the body "
     "itself "
     "is heard as if struck, in the voice of that name (wood, stone, iron, glass, rope, ice, rubber, cork, cloth, "
     "water) "
     "or else in its own. Loudness from 0 to 1; a pitch of 2 is an octave up.",
     "a pitch that is not from 0.05 to 20 stops the script",
     "function on.touch(hit) sound(\"knock\", hit.speed / 10, 1 + 0.1 * random()) end"},

    {around, "dials", "dials { name = { value, unit =, from =, to =, tip = } }",
     "Declares what can be tuned; read it as dials.name. Each body has its own setting. Beside numbers a dial may be "
     "yes "
     "or no, `{ true }`; one of some words, `{ \"soft\", one_of = { \"soft\", \"hard\" } }`; or a thing of the scene "
     "by its "
     "name: `{ tag = \"\" }`, and likewise `body`, `joint`, `zone`, `path`, `surface`, `action`, `cue`. The desk "
     "offers what "
     "the scene has. `\"\"` names none, and then dials.name is nil; a body, joint or zone is given itself, of all else "
     "the "
     "name. In a placed stamp the name of a part means that of the same copy.",
     "a dial that is not declared, or one that the script tries to set, stops the script",
     "dials { push = { 3, unit = \"N\", from = 0, to = 9, tip = \"sideways\" } }\n"
     "function on.tick() body:force(vec(dials.push, 0, 0)) end"},
    {around, "only", "only(tag, f) or only{ tag = f, ... }",
     "A handler for on.touch and on.part that hears only of bodies with the tag.", stops,
     "on.touch = only(\"stone\", function(hit) print(hit.speed) end)"},
    {around, "pointed", "pointed([reach [, filter]])",
     "What the pointer is on: a table with `body`, `point`, `normal` and `distance`, as `scene:ray` gives, and with "
     "`eye` "
     "and `way`, its ray; without `body` where it is on nothing, nil until it has moved. Recorded as an input.",
     stops, "function on.press() local p = pointed() if p and p.body then print(p.body.name, p.point) end end"},
    {around, "random", "random() or random(low, high)",
     "A number from 0 to 1, or between two; follows the take's seed.", stops, "print(random(2, 3))"},
    {around, "print", "print(...)", "A line in the log, with tick, body and script line.", "", "print(body.position)"},
    {around, "require", "require(name)",
     "What another script of the scene returns, run once for each body as a module: with globals of its own, seeing "
     "this script's.",
     "a script that is not there, or that requires itself, stops the script", "local shared = require(\"shared\")"},
    {around, "build_on", "build_on(name)",
     "Runs another script of the scene as if its text stood here, dials and all, and gives a table of its handlers, so "
     "that new ones can call them.",
     "a script that is not there stops the script",
     "local base = build_on(\"lifted\")\nfunction on.tick(dt) base.tick(dt) end"},
};

constexpr const char* opening = R"(# Scripting

Made by `bronvel-cli reference` from the list that the editor's completion and tips read too.

Scripts are Lua 5.4 files in a scene's `scripts/` folder. A script sits on a body in `scene.json` (`"scripts": [{"file":
"nudge.lua", "dials": {"push": 4}}]`); every body runs its own copy with its own globals and dials, and several scripts
on a body run in their order. SI units, radians, right-handed, Y up; vectors in the scene's frame.

## The tick

1. inputs: actions pressed and let go (`on.press`, `on.release`), the hand (`on.grab`, `on.drop`), flicks, blasts, what
   was set on the card
2. timers and messages that are due, in the order in which they were asked for; then cues
3. `on.tick` of every script: bodies in the order of the scene, a body's scripts in theirs
4. the world moves; bodies that ride are carried along
5. what happened: `on.touch` and `on.part` in the order of bodies, `on.enter` and `on.leave` in the order of zones,
   `on.splash`, `on.snap`, `on.crack`, `on.blast`, `on.arrive`
6. what fell out of the scene is put back or removed, and bodies that scripts removed go

Capsules, cylinders and cones lie along their own Y, cones with the tip up; boxes have their sizes along X, Y and Z. A
body's `position` is that of its shape's middle, and of what is left of it once it was cut or broke.

A force acts over the whole coming tick; impulses and set velocities count at once. Forces asked for in step 5 act in the
next tick.
)";

constexpr const char* closing = R"(
## Lua itself

`math`, `string`, `table`, `utf8` and `coroutine` are Lua's own, without what would reach outside or differ from run to
run: no files, processes, network, loading of code, `math.random` (use `random`, which follows the take's seed), finalizers
or weak tables; `pairs` goes in a fixed order.

## What comes from outside

Inputs, for `--inputs`, are lines of JSON in order, each at a `"tick"` or at a `"time"` in seconds:

| line | what it does |
|---|---|
| `{"tick": 12, "action": "haul", "value": 1}` | an action's value, from −1 to 1 (1 if left out) |
| `{"tick": 12, "grab": "cask", "at": [0, 0.2, 0], "most": 400, "turning": "locked"}` | the hand takes the body at a point in its frame, m, with at most so many N; `turning` is free or locked |
| `{"tick": 13, "carry": [1, 2, 0]}` | the hand goes there, scene frame, m |
| `{"tick": 14, "drop": true}` | the hand lets go |
| `{"tick": 15, "flick": "cask", "at": [0, 1, 0], "impulse": [3, 0, 0]}` | an impulse, N·s, at a point of the scene |
| `{"tick": 16, "blast": [0, 1, 0], "radius": 3, "impulse": 200, "falloff": "linear", "upward": 0.3}` | a blast goes off |
| `{"tick": 17, "eye": [0, 2, 9], "way": [0, 0, -1]}` | the pointer's ray, for `pointed` |
| `{"tick": 18, "cut": "cask", "at": [0, 1, 0], "normal": [1, 0, 0]}` | the knife's plane, scene frame |
| `{"tick": 19, "set": "cord.stiffness=2 kN"}` | a setting, as `--set` takes it |
| `{"tick": 20, "script": "nudge.lua", "text": "…"}` | the script goes on with this text |

## When something is wrong

A call that can't be met stops that script on that body and says why:

    act.lua:2: body:force wants a vector in newtons, got nil (on ball, tick 12)

All else plays on. What scripts cost is counted, and one that goes past its limits is stopped in the same way. In each tick
one script on one body may take 5 million steps, its handlers, timers and messages together, and all scripts 20 million:
a step is an instruction of Lua, 64 bytes of new text or table, a step of a pattern; a call costs 10, a ray or a sweep 300
and a sweep 100 more for each body that it measures, a property that is set 200 and more where much is near, a stamp
4,000, a slice 100,000, `body:shatter` as much and 5,000 for each part. In one tick it may print 1,000 lines (of 2,000 bytes), draw 1,000 things, start
10,000 timers and messages and join 500 times. All scripts together may hold 256 MB, a body that they make counting as 8 kB and a joint as 2; a text may have a megabyte. Saving a script puts it in place from the next tick, on
every body that carries it, requires it or builds on it; dials keep their settings, the file's top level runs again,
timers are called off, `on.play` does not come again. A file that does not compile leaves the old one running.
)";

std::string unit_text(const PropertyInfo& p) {
  return p.unit.empty() ? "" : ", " + p.unit;
}

template <class Owner>
void add_properties(std::string& page, std::span<const PropertyOf<Owner>> properties, const std::string& owner) {
  for (const auto& p : properties) page += "| `" + owner + "." + p.name + "` | " + p.tip + unit_text(p) + " |\n";
}

}  // namespace

std::span<const ReferenceEntry> reference() {
  return entries;
}

std::string nearest_handler(const std::string& word) {
  std::vector<std::string> names;
  for (const ReferenceEntry& e : entries)
    if (std::string(e.name).starts_with("on.")) names.emplace_back(e.name + 3);
  return nearest_name(word, names);
}

std::string reference_page() {
  std::string page = opening, group;
  for (const ReferenceEntry& e : entries) {
    if (group != e.group) {
      group = e.group;
      page += "\n## " + group + "\n";
    }
    page += "\n### `" + std::string(e.call) + "`\n\n" + e.meaning;
    if (e.wrong[0] != 0) page += " A bad call: " + std::string(e.wrong) + ".";
    page += "\n\n```lua\n" + std::string(e.example) + "\n```\n";
  }
  page +=
      "\n## Properties\n\nCan be read and set; what is set counts from the next tick. A value that does not fit stops "
      "the script with a message.\n\n| | meaning |\n|---|---|\n";
  add_properties(page, body_properties(), "body");
  add_properties(page, zone_properties(), "zone");
  return page + closing;
}

std::vector<Completion> completions() {
  std::vector<Completion> all;
  for (const ReferenceEntry& e : entries) {
    const std::string name = e.name;
    const auto cut = name.find_first_of(":.");
    Completion c;
    c.after = cut == std::string::npos ? "" : name.substr(0, cut);
    c.word = cut == std::string::npos ? name : name.substr(cut + 1);
    c.call = e.call;
    c.tip = e.meaning;
    all.push_back(c);
  }
  const auto add = [&](const PropertyInfo& p, const char* owner) {
    all.push_back({p.name, owner, std::string(owner) + "." + p.name, p.tip + unit_text(p)});
  };
  for (const Property& p : body_properties()) add(p, "body");
  for (const ZoneProperty& p : zone_properties()) add(p, "zone");
  return all;
}

}  // namespace bronvel
