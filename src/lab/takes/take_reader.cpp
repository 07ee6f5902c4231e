// Reading takes.
#include "lab/takes/take_reader.h"

#include <algorithm>
#include <limits>
#include <unordered_map>

#include "lab/readings/joint_views.h"

namespace bronvel {
namespace {

constexpr double no_number = std::numeric_limits<double>::quiet_NaN();

template <class Track>
bool there(const Track& track, std::int64_t tick) {
  return tick >= track.first && (track.end < 0 || tick < track.end) && tick - track.first < track.rows.rows();
}

// The last entry that is not after the tick; null if there is none.
template <class From>
const From* at_tick(const std::vector<From>& list, std::int64_t tick) {
  auto after =
      std::upper_bound(list.begin(), list.end(), tick, [](std::int64_t t, const From& each) { return t < each.tick; });
  return after == list.begin() ? nullptr : &*--after;
}

template <class Reading>
double component_of(std::span<const Quantity<Reading>> all, const std::string& quantity, int component,
                    const Reading& reading) {
  const Quantity<Reading>* q = find_quantity(all, quantity);
  if (!q) return no_number;
  Components out{};
  q->read(reading, out);
  return out[static_cast<std::size_t>(component)];
}

JointReading joint_reading(const double* row) {
  return {Vec3(row[0], row[1], row[2]), Vec3(row[3], row[4], row[5]), row[6], row[7]};
}

}  // namespace

void TakeReader::forget() {
  of_ = nullptr;
  for (auto& list : unpacked_) list.clear();
  contacts_.clear();
}

void TakeReader::look_at(const Take& take) {
  if (of_ == &take && take.ticks >= ticks_) {
    ticks_ = take.ticks;
    return;
  }
  of_ = &take;
  ticks_ = take.ticks;
  for (auto& list : unpacked_) list.clear();
  contacts_.clear();
}

std::span<const ContactMark> TakeReader::contacts(const Take& take, std::int64_t tick) {
  look_at(take);
  if (tick < 0 || tick >= take.contacts.ticks()) return {};
  if (tick < contacts_from_ || tick >= contacts_from_ + static_cast<std::int64_t>(contacts_.size()))
    take.contacts.unpack(tick, packer_, contacts_from_, contacts_);
  return contacts_[static_cast<std::size_t>(tick - contacts_from_)];
}

const double* TakeReader::row(const Take& take, Kind kind, std::size_t track, std::int64_t row_at) {
  const PackedRows& rows = kind == Kind::body    ? take.bodies[track].rows
                           : kind == Kind::joint ? take.joints[track].rows
                                                 : take.numbers[track].rows;
  std::vector<Unpacked>& all = unpacked_[static_cast<std::size_t>(kind)];
  if (all.size() <= track) all.resize(track + 1);
  Unpacked& kept = all[track];
  if (row_at < kept.first || row_at >= kept.first + kept.count) {
    const PackedRows::Place place = rows.place(row_at);
    rows.unpack(place, packer_, kept.rows);
    kept.first = place.first;
    kept.count = place.count;
    kept.still = place.chunk < 0;
  }
  const std::int64_t within = kept.still ? 0 : row_at - kept.first;
  return kept.rows.data() + static_cast<std::size_t>(within) * rows.columns();
}

BodyReading TakeReader::reading(const Take& take, std::size_t track, std::int64_t tick) {
  const BodyTrack& body = take.bodies[track];
  const double* r = row(take, Kind::body, track, tick - body.first);
  const SettingsFrom* settings = at_tick(body.settings, tick);
  BodyReading reading;
  reading.pose = {Vec3(r[0], r[1], r[2]), Quat(r[6], r[3], r[4], r[5]).normalized()};
  reading.velocity = {r[7], r[8], r[9]};
  reading.angular_velocity = {r[10], r[11], r[12]};
  if (settings) {
    reading.kind = settings->body->kind;
    reading.mass = settings->mass;
  }
  const GravityFrom* gravity = at_tick(take.gravity, tick);
  const double factor = settings ? settings->body->gravity_factor : 1;
  reading.gravity = factor * (gravity ? gravity->gravity : take.folder.scene.world.gravity);
  reading.asleep = r[13] != 0;
  reading.submerged = r[14];
  return reading;
}

std::optional<BodyReading> TakeReader::body(const Take& take, const std::string& name, std::int64_t tick) {
  look_at(take);
  const auto found = take.body_of.find(name);
  if (found == take.body_of.end() || !there(take.bodies[found->second], tick)) return std::nullopt;
  return reading(take, found->second, tick);
}

std::shared_ptr<const Body> TakeReader::settings(const Take& take, const std::string& name, std::int64_t tick) const {
  const auto found = take.body_of.find(name);
  if (found == take.body_of.end() || !there(take.bodies[found->second], tick)) return nullptr;
  const SettingsFrom* settings = at_tick(take.bodies[found->second].settings, tick);
  return settings ? settings->body : nullptr;
}

// In a world of its own with the waters of the moment: nothing moves there.
std::optional<FloatingReading> TakeReader::floating(const Take& take, const std::string& name, std::int64_t tick) {
  const auto then = body(take, name, tick);
  const auto its = settings(take, name, tick);
  const ZonesFrom* zones = at_tick(take.zones, tick);
  if (!then || !its || !zones || its->kind != MotionKind::dynamic) return std::nullopt;
  Scene scene;
  scene.world = take.folder.scene.world;
  if (const GravityFrom* gravity = at_tick(take.gravity, tick)) scene.world.gravity = gravity->gravity;
  scene.surfaces = take.folder.scene.surfaces;
  scene.groups = take.folder.scene.groups;
  scene.seed = take.seed;
  scene.world.first_tick = tick;
  World world(scene.world);
  bool wet = false;
  for (const SceneZone& zone : zones->zones) {
    if (!zone.water) continue;
    world.add_zone(settings_of(scene, zone));
    wet = true;
  }
  if (!wet) return std::nullopt;
  BodyMotion motion;
  motion.pose = then->pose;
  return floating_reading(world, world.create(settings_of(scene, *its), motion));
}

std::vector<BondReading> TakeReader::bonds(const Take& take, const std::string& name, std::int64_t tick) {
  const auto then = body(take, name, tick);
  if (!then) return {};
  return take.bonds.at(tick, static_cast<std::uint32_t>(take.body_of.at(name)), then->pose, packer_);
}

std::optional<JointReading> TakeReader::joint(const Take& take, const std::string& name, std::int64_t tick) {
  look_at(take);
  const auto found = take.joint_of.find(name);
  if (found == take.joint_of.end() || !there(take.joints[found->second], tick)) return std::nullopt;
  return joint_reading(row(take, Kind::joint, found->second, tick - take.joints[found->second].first));
}

namespace {

// The number's track: "BODY.dials.NAME" is that of whatever script has the dial.
std::optional<std::size_t> number_track(const Take& take, const Channel& channel) {
  if (channel.of == Channel::Of::watch || !channel.script.empty()) {
    const auto found = take.number_of.find(channel.name);
    return found == take.number_of.end() ? std::nullopt : std::optional(found->second);
  }
  const std::string begin = channel.owner + ".dials.";
  for (auto each = take.number_of.lower_bound(begin); each != take.number_of.end() && each->first.starts_with(begin);
       ++each)
    if (each->first.ends_with("/" + channel.quantity)) return each->second;
  return std::nullopt;
}

}  // namespace

double TakeReader::number(const Take& take, const Channel& channel, int component, std::int64_t tick) {
  std::vector<double> one;
  numbers(take, channel, component, tick, tick + 1, one);
  return one[0];
}

void TakeReader::numbers(const Take& take, const Channel& channel, int component, std::int64_t from, std::int64_t to,
                         std::vector<double>& out) {
  look_at(take);
  out.assign(static_cast<std::size_t>(std::max<std::int64_t>(to - from, 0)), no_number);
  const auto fill = [&](const auto& track, auto&& value) {
    const std::int64_t last = std::min(to, track.first + track.rows.rows());
    for (std::int64_t tick = std::max(from, track.first); tick < last; ++tick)
      out[static_cast<std::size_t>(tick - from)] = value(tick);
  };
  switch (channel.of) {
    case Channel::Of::body: {
      const auto found = take.body_of.find(channel.owner);
      if (found == take.body_of.end()) return;
      const auto* quantity = find_quantity(body_quantities(), channel.quantity);
      if (!quantity) return;
      fill(take.bodies[found->second], [&](std::int64_t tick) {
        Components components{};
        quantity->read(reading(take, found->second, tick), components);
        return components[static_cast<std::size_t>(component)];
      });
      return;
    }
    case Channel::Of::property: {
      const auto found = take.body_of.find(channel.owner);
      const Property* property = find_property(channel.quantity);
      if (found == take.body_of.end() || !property) return;
      const BodyTrack& track = take.bodies[found->second];
      const SettingsFrom* last = nullptr;
      double value = no_number;
      fill(track, [&](std::int64_t tick) {
        if (const SettingsFrom* now = at_tick(track.settings, tick); now && now != last) {
          last = now;
          value = property_components(*property, *now->body)[static_cast<std::size_t>(component)];
        }
        return value;
      });
      return;
    }
    case Channel::Of::joint: {
      const auto found = take.joint_of.find(channel.owner);
      if (found == take.joint_of.end()) return;
      const JointTrack& track = take.joints[found->second];
      fill(track, [&](std::int64_t tick) {
        return component_of(joint_quantities(), channel.quantity, component,
                            joint_reading(row(take, Kind::joint, found->second, tick - track.first)));
      });
      return;
    }
    case Channel::Of::dial:
    case Channel::Of::watch:
      if (const auto track = number_track(take, channel)) {
        const NumberTrack& numbers = take.numbers[*track];
        fill(numbers, [&](std::int64_t tick) { return row(take, Kind::number, *track, tick - numbers.first)[0]; });
      }
      return;
  }
}

Frame TakeReader::frame(const Take& take, std::int64_t tick) {
  look_at(take);
  tick = std::clamp<std::int64_t>(tick, 0, std::max<std::int64_t>(take.ticks - 1, 0));
  Frame frame;
  frame.tick = tick;
  std::unordered_map<std::string, Pose> poses;
  for (std::size_t i = 0; i < take.bodies.size(); ++i) {
    const BodyTrack& track = take.bodies[i];
    if (!there(track, tick)) continue;
    const SettingsFrom* settings = at_tick(track.settings, tick);
    if (!settings) continue;
    const BodyReading now = reading(take, i, tick);
    BodyView& view = frame.bodies.emplace_back(BodyView::of(*settings->body, now.pose, take.folder.scene.models));
    view.asleep = now.asleep;
    view.left = row(take, Kind::body, i, tick - track.first)[15];
    if (!take.joints.empty()) poses[track.name] = now.pose;
  }
  const auto pose_of = [&](const std::string& name) -> std::optional<Pose> {
    const auto found = poses.find(name);
    return found == poses.end() ? std::nullopt : std::optional(found->second);
  };
  for (const JointTrack& track : take.joints)
    if (there(track, tick)) {
      SceneJoint joint = track.joint;
      const JointEndsFrom ends = ends_of(track, tick);
      joint.a = ends.a, joint.b = ends.b;
      joint.anchor_a = ends.anchor_a, joint.anchor_b = ends.anchor_b;
      add_joint_views(frame.joints, joint, pose_of);
    }
  for (const ContactMark& mark : contacts(take, tick))
    if (mark.a < take.bodies.size() && mark.b < take.bodies.size())
      frame.contacts.push_back({take.bodies[mark.a].name, take.bodies[mark.b].name, mark.point, mark.normal, mark.along,
                                mark.across, mark.points});
  const auto held = std::lower_bound(take.hand.begin(), take.hand.end(), tick,
                                     [](const HandAt& each, std::int64_t t) { return each.tick < t; });
  if (held != take.hand.end() && held->tick == tick) frame.hand = held->hand;
  if (const ZonesFrom* zones = at_tick(take.zones, tick)) frame.zones = zones->zones;
  const auto lasts = static_cast<std::int64_t>(passing_time * take.tick_rate());
  for (auto at = std::lower_bound(take.drawn.begin(), take.drawn.end(), tick - lasts,
                                  [](const DrawnAt&each, std::int64_t t) { return each.tick < t; });
       at != take.drawn.end() && at->tick <= tick; ++at)
    for (const Drawn& drawn : at->drawn) {
      const bool passes = drawn.kind == Drawn::Kind::puff || drawn.kind == Drawn::Kind::sound;
      if (at->tick == tick) frame.drawn.push_back(drawn);
      if (passes) frame.passing.push_back({drawn, at->tick, static_cast<double>(tick - at->tick) / take.tick_rate()});
    }
  return frame;
}

}  // namespace bronvel
