// Channels and quantities: found by name, read of a play, and right against what they are made from.
#include "lab/readings/channel.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <set>

#include "geometry/base/error.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

constexpr const char* watching = "dials { push = 4 }\nfunction on.tick() watch('climb', body.position.y) end";

}  // namespace

TEST_CASE("every quantity of a body can be asked for whole and by its components") {
  Play play(full_scene(watching), 1);
  for (int i = 0; i < 20; ++i) play.step();
  const ChannelOwners owners = ChannelOwners::of(play.running().scene);
  for (const auto& quantity : body_quantities()) {
    INFO(quantity.name);
    const Channel whole = channel_called(std::string("ball.") + quantity.name, owners);
    CHECK(whole.unit == quantity.unit);
    CHECK(whole.columns.size() == quantity.components.size());
    const auto values = read_channel(whole, play);
    REQUIRE(values.size() == quantity.components.size());
    for (std::size_t i = 0; i < values.size(); ++i) {
      CHECK(std::isfinite(values[i]));
      if (quantity.components[i].empty()) continue;
      const Channel one = channel_called(whole.name + "." + quantity.components[i], owners);
      CHECK(one.columns == std::vector<std::string>{whole.name + "." + quantity.components[i]});
      CHECK(read_channel(one, play) == std::vector<double>{values[i]});
    }
  }
}

TEST_CASE("quantities are what the words say") {
  Play play(full_scene(watching), 1);
  for (int i = 0; i < 30; ++i) play.step();
  const ChannelOwners owners = ChannelOwners::of(play.running().scene);
  const auto number = [&](const std::string& name) { return read_channel(channel_called(name, owners), play).at(0); };
  const BodyMotion ball = motion(play, "ball");
  CHECK(number("ball.height") == ball.pose.position.y());
  CHECK(number("ball.speed") == ball.velocity.norm());
  CHECK(number("ball.momentum.y") == 2 * ball.velocity.y());
  CHECK(number("ball.kinetic_energy") == Approx(0.5 * 2 * ball.velocity.squaredNorm()));
  // It falls freely: its energy is that of the start, m g h.
  CHECK(number("ball.energy") == Approx(2 * 9.81 * 2.5).epsilon(1e-9));
  CHECK(number("ball.asleep") == 0);
  CHECK(number("ball.submerged") == 0);
  CHECK(number("ball.mass") == 2);
  CHECK(number("ball.solid") == 1);
  CHECK(std::isnan(number("ball.friction")));  // not set: its surface's
  CHECK(number("ball.restitution") == 0);
  CHECK(number("ball.dials.push") == 4);
  CHECK(number("ball.dials.act.lua/push") == 4);
  CHECK(number("ball.watch.climb") == Approx(ball.pose.position.y()).margin(0.1));
  CHECK(std::isnan(number("ball.dials.pull")));
  CHECK(std::isnan(number("ball.watch.fall")));
  // A floor has no energy however heavy.
  CHECK(number("ground.energy") == 0);
  CHECK(number("ground.momentum.y") == 0);
  // The rope is 2.5 m long and slack.
  CHECK(number("cord.travel") == Approx(2.5).margin(1e-3));
  CHECK(number("cord.reaction") == 0);
}

TEST_CASE("a joint's force is what holds its body") {
  SceneFolder folder = full_scene("");
  folder.scene.joints[0].high = 2;  // it hangs above the ground now
  Body& stone = *folder.scene.find("stone");
  stone.position = {6, 1, 0};
  Play play(folder, 1);
  for (int i = 0; i < 100; ++i) play.step();
  const ChannelOwners owners = ChannelOwners::of(play.running().scene);
  const auto force = read_channel(channel_called("cord.force", owners), play);
  REQUIRE(force.size() == 3);
  CHECK(force[1] == Approx(5 * 9.81).epsilon(1e-6));
  CHECK(read_channel(channel_called("cord.reaction", owners), play).at(0) == Approx(5 * 9.81).epsilon(1e-6));
}

TEST_CASE("a body that is gone has no numbers, not noughts") {
  Play play(full_scene("function on.tick() if scene.tick == 3 then scene:find('stone'):remove() end end"), 1);
  const ChannelOwners owners = ChannelOwners::of(play.running().scene);
  const Channel height = channel_called("stone.position", owners), mass = channel_called("stone.mass", owners),
                pull = channel_called("cord.reaction", owners);
  play.step();
  CHECK(read_channel(height, play).at(1) == Approx(0.5).margin(0.01));
  for (int i = 0; i < 10; ++i) play.step();
  REQUIRE_FALSE(play.running().find("stone"));
  for (const Channel* channel : {&height, &mass, &pull}) {
    const auto values = read_channel(*channel, play);
    CHECK(values.size() == channel->components.size());
    for (const double value : values) CHECK(std::isnan(value));
  }
}

TEST_CASE("channels that are none say what there is") {
  const SceneFolder folder = full_scene("");
  const ChannelOwners owners = ChannelOwners::of(folder.scene);
  const auto wrong = [&](const std::string& name, const std::string& said) {
    INFO(name);
    CHECK_THROWS_WITH(channel_called(name, owners), Catch::StartsWith("channel ") && Catch::Contains(said));
  };
  wrong("nobody.position", "no body or joint called \"nobody\"");
  wrong("", "no body or joint called \"\"");
  wrong("ball", "no quantity called \"\"");
  wrong("ball.", "ends with a dot");
  wrong("ball.position.", "ends with a dot");
  wrong("ball.position.q", "no component called \"q\"");
  wrong("ball.height.y", "no component called \"y\"");
  wrong("ball.mass.x", "no component called \"x\"");
  wrong("ball.colour", "known: position");
  wrong("ball.surface", "known: position");  // a property, but no number
  wrong("ball.dials", "wants a name after \"dials\"");
  wrong("ball.watch.", "ends with a dot");
  wrong("cord.position", "known: force, torque, reaction, travel, rate");
  wrong("cord.mass", "no quantity called \"mass\"");
  CHECK(channels_called("ball.height,cord.travel,,ball.velocity.x", owners).size() == 3);
  CHECK(channels_called("", owners).empty());
}

TEST_CASE("quantities have names of their own and are told with their units") {
  std::set<std::string> names;
  for (const auto& quantity : body_quantities()) {
    CHECK(names.insert(quantity.name).second);
    CHECK(std::string(quantity.about).size() > 5);
  }
  for (const auto& quantity : joint_quantities()) CHECK(std::string(quantity.about).size() > 5);
  CHECK(quantity_names().size() == body_quantities().size());
  CHECK(quantity_names().front() == "position [m]");
  CHECK(find_quantity(joint_quantities(), "travel") != nullptr);
  CHECK(find_quantity(joint_quantities(), "height") == nullptr);
}
