// Bonds in takes: of each body and part, at each tick, what the world had; from memory and from a file.
#include "lab/tracks/bond_track.h"

#include <catch2/catch.hpp>

#include "folders.h"
#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "lab/takes/take_reader.h"
#include "script/scenes.h"

using namespace bronvel;

namespace {

struct Seen {
  std::int64_t tick;
  std::string body;
  std::vector<BondReading> bonds;
};

}  // namespace

TEST_CASE("in a take a wall's bonds are where they were and as strained as they were, until they broke") {
  const SceneFolder folder = open_folder(in_checkout("/examples/ice-dam"));
  Play play(folder, 1);
  TakeRecorder recorder(folder, play);
  std::vector<Seen> seen;
  std::size_t most = 0, least = 1000000;
  const int ticks = static_cast<int>(4 * folder.scene.world.tick_rate);
  for (int i = 1; i <= ticks; ++i) {
    play.step();
    recorder.record(play, play.take_log());
    const RunningScene& running = play.running();
    std::size_t bonds = 0;
    for (const BodyHandle body : running.world.bodies()) {
      const std::vector<BondReading> now = running.world.bonds(body);
      bonds += now.size();
      if (i % 20 == 0) seen.push_back({i, running.name_of(body), now});
    }
    most = std::max(most, bonds);
    least = std::min(least, bonds);
  }
  REQUIRE(least < most);  // something broke
  Take take = recorder.take();
  std::vector<std::uint8_t> bytes;
  take.bonds.write(bytes);
  for (const bool from_file : {false, true}) {
    if (from_file) {
      std::span<const std::uint8_t> from(bytes);
      take.bonds = BondTrack::read(from);
      REQUIRE(from.empty());
    }
    TakeReader reader;
    double farthest = 0, turned = 0, off = 0;
    std::size_t strained = 0;
    for (auto each = seen.rbegin(); each != seen.rend(); ++each) {
      const auto found = reader.bonds(take, each->body, each->tick);
      REQUIRE(found.size() == each->bonds.size());
      for (std::size_t k = 0; k < found.size(); ++k) {
        farthest = std::max(farthest, (found[k].point - each->bonds[k].point).norm());
        turned = std::max(turned, (found[k].normal - each->bonds[k].normal).norm());
        off = std::max(off, std::abs(found[k].use - std::min(each->bonds[k].use, 255 / 200.0)));
        CHECK(found[k].area == each->bonds[k].area);
        strained += found[k].use > 0.05 ? 1 : 0;
      }
    }
    CHECK(farthest < 1e-5);
    CHECK(turned < 1e-5);
    CHECK(off <= 0.5 / 200 + 1e-6);
    CHECK(strained > 0);
  }

  // Bytes that are not what was written are refused, or read as something else: nothing worse.
  Random random(7);
  for (int i = 0; i < 300; ++i) {
    std::vector<std::uint8_t> altered = bytes;
    altered[random.bits() % altered.size()] = static_cast<std::uint8_t>(random.bits() % 256);
    if (i % 3 == 0) altered.resize(random.bits() % altered.size());
    std::span<const std::uint8_t> from(altered);
    try {
      const BondTrack track = BondTrack::read(from);
      Packer packer;
      for (std::uint32_t body = 0; body < 40; ++body) track.at(100, body, Pose{}, packer);
    } catch (const Error& error) {
      CHECK(std::string(error.what()).find("take") != std::string::npos);
    }
  }
}
