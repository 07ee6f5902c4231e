// A take's events and contacts, as hearing asks for them.
#include "lab/takes/take_heard.h"

#include <algorithm>

namespace bronvel {
namespace {

// Those of the tick, of a list in their order.
template <class Item>
std::span<const Item> of_tick(const std::vector<Item>& all, std::int64_t tick) {
  const auto earlier = [](const Item& item, std::int64_t t) { return item.tick < t; };
  const auto from = std::lower_bound(all.begin(), all.end(), tick, earlier);
  const auto to = std::lower_bound(from, all.end(), tick + 1, earlier);
  return {from, to};
}

BodyMotion motion_of(const BodyReading& reading) {
  BodyMotion motion;
  motion.pose = reading.pose;
  motion.velocity = reading.velocity;
  motion.angular_velocity = reading.angular_velocity;
  return motion;
}

}  // namespace

Heard hear(const Take& take, TakeReader& reader, std::int64_t tick,
           const std::function<bool(const std::string&)>& has_file) {
  std::vector<Rubbing> rubbing;
  const std::span<const ContactMark> found = reader.contacts(take, tick);
  // Reading the bodies unpacks more, which may move these.
  const std::vector<ContactMark> marks(found.begin(), found.end());
  for (const ContactMark& mark : marks) {
    if (mark.a >= take.bodies.size() || mark.b >= take.bodies.size()) continue;
    const std::string &a = take.bodies[mark.a].name, &b = take.bodies[mark.b].name;
    const auto now_a = reader.body(take, a, tick), now_b = reader.body(take, b, tick);
    if (!now_a || !now_b || (now_a->asleep && now_b->asleep)) continue;
    Rubbing r = rubbing_of({mark.point, mark.normal, mark.along, mark.across}, motion_of(*now_a), motion_of(*now_b));
    r.a = a;
    r.b = b;
    rubbing.push_back(std::move(r));
  }
  // Settings live as long as they are held.
  std::vector<std::shared_ptr<const Body>> held;
  TickSource source;
  source.scene = &take.folder.scene;
  source.seed = take.seed;
  source.tick = tick;
  source.events = of_tick(take.events, tick);
  source.splashes = of_tick(take.splashes, tick);
  source.cracks = of_tick(take.cracks, tick);
  const auto drawn = of_tick(take.drawn, tick);
  if (!drawn.empty()) source.drawn = drawn.front().drawn;
  source.rubbing = rubbing;
  source.body = [&](const std::string& name) -> const Body* {
    held.push_back(reader.settings(take, name, tick));
    return held.back().get();
  };
  source.has_file = has_file;
  return hear(source);
}

}  // namespace bronvel
