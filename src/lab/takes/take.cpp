// Recording takes.
#include "lab/takes/take.h"

#include <algorithm>
#include <limits>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t most_log_lines = 100000;

// Chunks of different bodies become full in different ticks.
int first_chunk(std::size_t track) {
  constexpr std::size_t stride = 37;
  return 1 + static_cast<int>(track * stride % PackedRows::rows_a_chunk);
}

template <class Known, class Handle>
bool knows(const std::vector<Known>& tracks, const Handle& handle) {
  return handle.index < tracks.size() && tracks[handle.index].handle == handle;
}

template <class Known, class Handle>
void keep(std::vector<Known>& tracks, const Handle& handle, std::uint32_t track) {
  if (tracks.size() <= handle.index) tracks.resize(std::size_t{handle.index} + 1);
  tracks[handle.index] = {handle, track};
}

std::size_t bytes_of(const std::string& text) {
  return text.capacity() > 15 ? text.capacity() + 1 : 0;
}

}  // namespace

std::size_t Take::bytes() const {
  std::size_t sum = sizeof *this + inputs.capacity() * sizeof(Input);
  for (const Input& input : inputs) sum += bytes_of(input.name) + bytes_of(input.text);
  for (const BodyTrack& track : bodies)
    sum += sizeof track + track.rows.bytes() + track.settings.size() * (sizeof(SettingsFrom) + sizeof(Body));
  for (const JointTrack& track : joints)
    sum += sizeof track + track.rows.bytes() + track.ends.size() * sizeof(JointEndsFrom);
  for (const NumberTrack& track : numbers) sum += sizeof track + track.rows.bytes();
  sum += contacts.bytes() + bonds.bytes();
  for (const ZonesFrom& each : zones) sum += sizeof each + each.zones.size() * sizeof(SceneZone);
  sum += hand.size() * sizeof(HandAt) + gravity.size() * sizeof(GravityFrom);
  for (const DrawnAt& each : drawn) {
    sum += sizeof each + each.drawn.size() * sizeof(Drawn);
    for (const Drawn& one : each.drawn) sum += bytes_of(one.text);
  }
  sum += events.size() * sizeof(PlayEvent) + snaps.size() * sizeof(PlaySnap) + splashes.size() * sizeof(PlaySplash);
  sum += zone_events.size() * sizeof(PlayZoneEvent);
  for (const PlayCrack& crack : cracks) sum += sizeof crack + crack.parts.size() * sizeof(std::string);
  for (const LogLine& line : log) sum += sizeof line + bytes_of(line.text);
  return sum;
}

Scene settings_at(const Take& take, std::int64_t tick) {
  const Scene& start = take.folder.scene;
  Scene scene;
  scene.joints = start.joints;
  scene.surfaces = start.surfaces;
  scene.world = start.world;
  scene.seed = take.seed;
  scene.sweep_away = start.sweep_away;
  for (const Input& input : take.inputs) {
    if (input.tick >= tick) break;
    if (input.kind != Input::Kind::set) continue;
    try {
      const SettingText setting = setting_named(scene, input.name);
      if (const PropertyInfo* info = info_at(setting.place))
        set_value_at(scene, setting.place, value_from_text(*info, setting.value, ""));
    } catch (const Error&) {
      // Of a body or zone, or it came to nothing in the play too.
    }
  }
  for (const GravityFrom& from : take.gravity)
    if (from.tick <= tick) scene.world.gravity = from.gravity;
  return scene;
}

JointEndsFrom ends_of(const JointTrack& track, std::int64_t tick) {
  const auto after = std::upper_bound(track.ends.begin(), track.ends.end(), tick,
                                      [](std::int64_t t, const JointEndsFrom& each) { return t < each.tick; });
  if (after != track.ends.begin()) return *std::prev(after);
  const SceneJoint& joint = track.joint;
  return {track.first, joint.a, joint.b, joint.anchor_a, joint.anchor_b};
}

std::vector<LogLine> Take::stops() const {
  std::vector<LogLine> all;
  for (const LogLine& line : log)
    if (line.level == LogLevel::error && !line.script.empty()) all.push_back(line);
  return all;
}

ChannelOwners Take::owners() const {
  return {[this](const std::string& name) { return body_of.contains(name); },
          [this](const std::string& name) { return joint_of.contains(name); }};
}

TakeRecorder::TakeRecorder(const SceneFolder& folder, const Play& play, std::size_t most_bytes)
    : most_bytes_(most_bytes) {
  take_.folder = folder;
  take_.seed = play.seed();
  look_at_dials(play);
  record(play, {});
}

void TakeRecorder::add_log(std::span<const LogLine> log) {
  for (const LogLine& line : log)
    if (take_.log.size() < most_log_lines) take_.log.push_back(line);
}

void TakeRecorder::record(const Play& play, std::span<const LogLine> log) {
  if (take_.full) return;
  const bool first = take_.ticks == 0;
  add_log(log);
  const std::span<const Input> inputs = play.applied_inputs();
  if (inputs.size() > inputs_seen_) {
    const auto fresh = inputs.subspan(inputs_seen_);
    take_.inputs.insert(take_.inputs.end(), fresh.begin(), fresh.end());
    inputs_seen_ = inputs.size();
    const auto turns = [](const Input& i) { return i.kind == Input::Kind::set || i.kind == Input::Kind::script; };
    if (std::any_of(fresh.begin(), fresh.end(), turns)) look_at_dials(play);
  }
  record_bodies(play);
  record_joints(play);
  record_numbers(play);
  record_contacts(play.running().world);
  const RunningScene& running = play.running();
  if (first ? !running.scene.zones.empty() : running.changes_of_zones() != zone_changes_) {
    zone_changes_ = running.changes_of_zones();
    take_.zones.push_back({take_.ticks, running.scene.zones});
  }
  const Vec3& gravity = running.world.settings().gravity;
  if (take_.gravity.empty() || take_.gravity.back().gravity != gravity) take_.gravity.push_back({take_.ticks, gravity});
  if (!first) {
    if (!play.drawn().empty()) take_.drawn.push_back({take_.ticks, play.drawn()});
    const auto add = [](auto& to, const auto& from) { to.insert(to.end(), from.begin(), from.end()); };
    add(take_.events, play.events());
    add(take_.snaps, play.snaps());
    add(take_.zone_events, play.zone_events());
    add(take_.splashes, play.splashes());
    add(take_.cracks, play.cracks());
  }
  if (const auto held = hand_of(play)) take_.hand.push_back({take_.ticks, *held});
  ++take_.ticks;
  constexpr int ticks_between = 64;
  if (--until_counted_ > 0) return;
  until_counted_ = ticks_between;
  take_.full = take_.bytes() > most_bytes_;
}

void TakeRecorder::finish(const Play& play) {
  if (!take_.full && play.tick() == take_.ticks - 1) take_.digest = play.running().world.digest();
}

void TakeRecorder::record_bodies(const Play& play) {
  const RunningScene& running = play.running();
  const World& world = running.world;
  for (std::size_t place = 0; place < running.scene.bodies.size(); ++place) {  // those of the scene, and what came
    const BodyHandle handle = running.body_handles()[place];
    if (!world.alive(handle) || knows(track_of_, handle)) continue;
    const auto i = static_cast<std::uint32_t>(take_.bodies.size());
    BodyTrack track;
    track.name = running.scene.bodies[place].name;
    track.first = take_.ticks;
    track.rows = PackedRows(body_columns, first_chunk(i));
    keep(track_of_, handle, i);
    live_bodies_.push_back({handle, i, std::numeric_limits<std::uint32_t>::max()});
    take_.body_of[track.name] = i;
    take_.bodies.push_back(std::move(track));
  }
  std::map<BodyHandle, double> left;
  for (const auto& [body, share] : play.fading()) left[body] = share;
  std::erase_if(live_bodies_, [&](const auto& live) {
    if (world.alive(live.handle)) return false;
    take_.bodies[live.track].end = take_.ticks;
    return true;
  });
  for (auto& watch : live_bodies_) {
    BodyTrack& track = take_.bodies[watch.track];
    const auto bonds = world.bonds_now(watch.handle);
    take_.bonds.add(take_.ticks, watch.track, bonds ? &*bonds : nullptr, packer_);
    if (const std::uint32_t changes = running.changes_of_body(watch.handle); changes != watch.changes) {
      watch.changes = changes;
      track.settings.push_back(
          {take_.ticks, std::make_shared<const Body>(*running.body_of(watch.handle)), world.mass(watch.handle)});
    }
    const BodyMotion m = world.motion(watch.handle);
    const Vec3& p = m.pose.position;
    const Quat& q = m.pose.orientation;
    const auto fading = left.empty() ? left.end() : left.find(watch.handle);
    const std::array<double, 16> row{p.x(),
                                     p.y(),
                                     p.z(),
                                     q.x(),
                                     q.y(),
                                     q.z(),
                                     q.w(),
                                     m.velocity.x(),
                                     m.velocity.y(),
                                     m.velocity.z(),
                                     m.angular_velocity.x(),
                                     m.angular_velocity.y(),
                                     m.angular_velocity.z(),
                                     world.asleep(watch.handle) ? 1.0 : 0.0,
                                     world.submerged(watch.handle),
                                     fading == left.end() ? 1.0 : fading->second};
    track.rows.add(row.data(), packer_);
  }
}

void TakeRecorder::record_contacts(const World& world) {
  renew_touching(touching_, world);
  std::vector<ContactMark> marks;
  marks.reserve(touching_.size());
  for (const Touching& each : touching_) {
    if (!knows(track_of_, each.a) || !knows(track_of_, each.b)) continue;
    marks.push_back({track_of_[each.a.index].track, track_of_[each.b.index].track, each.point, each.normal, each.along,
                     each.across, each.points});
  }
  take_.contacts.add(std::move(marks), packer_);
}

void TakeRecorder::record_joints(const Play& play) {
  const RunningScene& running = play.running();
  const World& world = running.world;
  for (std::size_t place = 0; place < running.scene.joints.size(); ++place) {
    const JointHandle handle = running.joint_handles()[place];
    if (!world.alive(handle) || knows(track_of_joint_, handle)) continue;
    const auto i = static_cast<std::uint32_t>(take_.joints.size());
    JointTrack track;
    track.joint = running.scene.joints[place];
    track.first = take_.ticks;
    track.rows = PackedRows(joint_columns, first_chunk(i));
    keep(track_of_joint_, handle, i);
    live_joints_.push_back({handle, i});
    take_.joint_of[track.joint.name] = i;
    take_.joints.push_back(std::move(track));
  }
  std::erase_if(live_joints_, [&](const auto& live) {
    if (world.alive(live.handle)) return false;
    take_.joints[live.track].end = take_.ticks;
    return true;
  });
  if (joint_changes_ != running.changes_of_joints()) {
    joint_changes_ = running.changes_of_joints();
    for (std::size_t place = 0; place < running.scene.joints.size(); ++place) {
      const SceneJoint& now = running.scene.joints[place];
      if (!world.alive(running.joint_handles()[place])) continue;
      JointTrack& track = take_.joints[track_of_joint_[running.joint_handles()[place].index].track];
      const JointEndsFrom was = ends_of(track, take_.ticks);
      if (was.a == now.a && was.b == now.b && was.anchor_a == now.anchor_a && was.anchor_b == now.anchor_b) continue;
      track.ends.push_back({take_.ticks, now.a, now.b, now.anchor_a, now.anchor_b});
    }
  }
  for (const auto& live : live_joints_) {
    const JointReading r = world.reading(live.handle);
    const std::array<double, 8> row{r.force.x(),  r.force.y(),  r.force.z(), r.torque.x(),
                                    r.torque.y(), r.torque.z(), r.position,  r.speed};
    take_.joints[live.track].rows.add(row.data(), packer_);
  }
}

// Their settings, when something was turned or a script came anew; they stay so until the next time.
void TakeRecorder::look_at_dials(const Play& play) {
  for (const Body& body : play.running().scene.bodies) {
    if (body.scripts.empty()) continue;
    const auto handle = play.running().find(body.name);
    if (!handle) continue;
    for (const Dial& dial : play.scripts().dials(*handle)) {
      const std::string name = body.name + ".dials." + dial.script + "/" + dial.name;
      const auto known = take_.number_of.find(name);
      if (known != take_.number_of.end()) {
        number_now_[known->second] = number_of(dial.value);
        continue;
      }
      take_.number_of[name] = take_.numbers.size();
      take_.numbers.push_back({name, dial.unit, take_.ticks, PackedRows(number_columns)});
      number_now_.push_back(number_of(dial.value));
    }
  }
}

void TakeRecorder::record_numbers(const Play& play) {
  if (take_.ticks > 0) {
    // What is watched has to be told anew in each tick.
    constexpr const char* watched = ".watch.";
    for (std::size_t i = 0; i < take_.numbers.size(); ++i)
      if (take_.numbers[i].name.find(watched) != std::string::npos) number_now_[i] = nothing;
    for (const Watched& each : play.watched()) {
      const std::string name = each.body + watched + each.name;
      const auto [known, fresh] = take_.number_of.try_emplace(name, take_.numbers.size());
      if (fresh) {
        take_.numbers.push_back({name, "", take_.ticks, PackedRows(number_columns)});
        number_now_.push_back(0);
      }
      number_now_[known->second] = each.value;
    }
  }
  for (std::size_t i = 0; i < take_.numbers.size(); ++i) take_.numbers[i].rows.add(&number_now_[i], packer_);
}

}  // namespace bronvel
