// What touches: of a running world, and tick by tick in a take.
#include "lab/tracks/contact_track.h"

#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <cmath>

#include "geometry/base/error.h"
#include "lab/ask/ask.h"
#include "lab/takes/take_reader.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

using Ticks = std::vector<std::vector<ContactMark>>;

// Pairs that come, stay and go.
Ticks contacts_of(std::size_t length) {
  Ticks ticks;
  std::vector<ContactMark> now;
  while (ticks.size() < length) {
    const int kind = *rc::gen::inRange(0, 4);
    if (kind == 0) now.clear();
    if (kind == 1 && now.size() < 6) {
      const auto a = *rc::gen::inRange<std::uint32_t>(0, 9), b = *rc::gen::inRange<std::uint32_t>(10, 40);
      const bool known =
          std::any_of(now.begin(), now.end(), [&](const ContactMark& m) { return m.a == a && m.b == b; });
      if (!known) now.push_back({a, b, Vec3(a, 1, -2), Vec3::Unit(1), *rc::gen::inRange(0, 1000) * 3.7, 0.5, 1});
    }
    if (kind == 2)
      for (ContactMark& mark : now) mark.point.x() += *rc::gen::inRange(-9, 9) * 0.01, mark.along *= 1.5;
    for (int n = *rc::gen::inRange(1, 40); n > 0 && ticks.size() < length; --n) ticks.push_back(now);
  }
  return ticks;
}

const ContactMark* between(const std::vector<ContactMark>& marks, std::uint32_t a, std::uint32_t b) {
  for (const ContactMark& mark : marks)
    if (mark.a == a && mark.b == b) return &mark;
  return nullptr;
}

}  // namespace

TEST_CASE("contacts come back as they were, from memory and from bytes") {
  CHECK(rc::check([] {
    const Ticks ticks = contacts_of(static_cast<std::size_t>(*rc::gen::inRange(1, 300)));
    Packer packer;
    ContactTrack track;
    for (const auto& marks : ticks) track.add(marks, packer);
    RC_ASSERT(track.ticks() == static_cast<std::int64_t>(ticks.size()));
    std::vector<std::uint8_t> bytes;
    track.write(bytes);
    std::span<const std::uint8_t> from(bytes);
    const ContactTrack again = ContactTrack::read(from);
    RC_ASSERT(from.empty());
    const auto at = *rc::gen::inRange<std::int64_t>(0, track.ticks());
    for (const ContactTrack& each : {track, again}) {
      std::int64_t first = 0;
      Ticks chunk;
      each.unpack(at, packer, first, chunk);
      const auto& found = chunk.at(static_cast<std::size_t>(at - first));
      const auto& wanted = ticks[static_cast<std::size_t>(at)];
      RC_ASSERT(found.size() == wanted.size());
      for (const ContactMark& mark : wanted) {
        const ContactMark* same = between(found, mark.a, mark.b);
        RC_ASSERT(same != nullptr);
        RC_ASSERT((same->point - mark.point).norm() < 2e-3);
        RC_ASSERT((same->normal - mark.normal).norm() < 4e-3);
        RC_ASSERT(std::abs(same->along - mark.along) <= 0.01 * mark.along + 1e-4);
        RC_ASSERT(same->points == mark.points);
      }
    }
  }));
}

TEST_CASE("bytes that are no contacts are refused, whichever is another") {
  Packer packer;
  ContactTrack track;
  for (int i = 0; i < 100; ++i)
    track.add(
        {{1, 2, Vec3(0.1 * i, 0, 0), Vec3::Unit(1), 10.0 + i, 1, 4}, {1, 7, Vec3::Zero(), Vec3::Unit(0), 5, 0, 1}},
        packer);
  std::vector<std::uint8_t> bytes;
  track.write(bytes);
  int refused = 0;
  for (std::size_t i = 0; i < bytes.size(); ++i) {
    std::vector<std::uint8_t> altered = bytes;
    altered[i] ^= 0x5A;
    try {
      std::span<const std::uint8_t> from(altered);
      const ContactTrack read = ContactTrack::read(from);
      std::int64_t first = 0;
      Ticks chunk;
      for (const std::int64_t tick : {0, 70}) read.unpack(tick, packer, first, chunk);
    } catch (const Error&) {
      ++refused;
    }
  }
  CHECK(refused > 10);
}

TEST_CASE("what a body bears is its weight, awake and asleep, and its friction what holds it") {
  SceneFolder folder = full_scene("function on.tick() if scene.tick == 300 then scene:find('stone'):wake() end end");
  Body crate = ball_at("crate", {3, 0.5, 3}, 40);
  crate.shape = Box{{1, 1, 1}};
  folder.scene.bodies.push_back(crate);
  const Take take = ask({folder, 1, {}, 320})->with([](const Take& t) { return t; });
  TakeReader reader;
  int seen = 0;
  bool slept = false;
  for (const int tick : {40, 100, 200, 310}) {
    INFO(tick);
    const Frame frame = reader.frame(take, tick);
    for (const ContactView& each : frame.contacts) {
      if (each.a != "crate" && each.b != "crate") continue;
      ++seen;
      CHECK(each.along == Approx(40 * 9.81).epsilon(0.02));
      CHECK(each.across < 1);
      CHECK(each.points == 4);
      CHECK((each.point - Vec3(3, 0, 3)).norm() < 0.02);
      CHECK(std::abs(each.normal.y()) == Approx(1).epsilon(1e-3));
    }
    slept = slept || reader.body(take, "crate", tick)->asleep;
  }
  CHECK(seen == 4);
  CHECK(slept);
}

TEST_CASE("more pairs than are kept: those that bear most") {
  World world({});
  BodySettings floor;
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{200, 1, 200}};
  world.create(floor, {{{0, -0.5, 0}}});
  BodySettings ball;
  ball.shape = Sphere{0.5};
  ball.may_sleep = false;
  for (int i = 0; i < 600; ++i) {
    ball.mass = 1 + i;
    world.create(ball, {{{1.5 * (i % 30) - 20, 0.5, 1.5 * (i / 30) - 20}}});
  }
  for (int i = 0; i < 3; ++i) world.step();
  std::vector<Touching> touching;
  renew_touching(touching, world);
  REQUIRE(touching.size() == most_touching);
  for (const Touching& each : touching) CHECK(each.along > 80 * 9.81);
}
