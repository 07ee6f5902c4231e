// Takes on disk: whole or not at all, and no altered byte goes unseen.
#include "lab/takes/take_file.h"

#include <sys/resource.h>
#include <sys/stat.h>

#include <catch2/catch.hpp>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <random>

#include "folders.h"
#include "geometry/base/error.h"
#include "lab/ask/ask.h"
#include "lab/takes/take_reader.h"
#include "script/scenes.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

// Watched by the address sanitizer each takes ten times as long.
#ifdef __SANITIZE_ADDRESS__
constexpr int tries = 100;
#else
constexpr int tries = 1000;
#endif

fs::path scratch(const std::string& name) {
  const fs::path folder = fs::temp_directory_path() / "bronvel-takes";
  fs::create_directories(folder);
  return folder / name;
}

Take of_example(const std::string& name, double seconds) {
  const SceneFolder folder = open_folder(in_checkout("/examples/" + name));
  return ask({folder, 3, {}, std::llround(seconds * folder.scene.world.tick_rate)})->with([](const Take& t) {
    return t;
  });
}

void check_same(const Take& a, const Take& b) {
  CHECK(a.folder.scene == b.folder.scene);
  CHECK(a.folder.scripts == b.folder.scripts);
  CHECK(a.digest == b.digest);
  CHECK(inputs_text(a.inputs) == inputs_text(b.inputs));
  CHECK(a.events.size() == b.events.size());
  CHECK(a.cracks.size() == b.cracks.size());
  CHECK(a.log.size() == b.log.size());
  REQUIRE(a.ticks == b.ticks);
  TakeReader reads_a, reads_b;
  int unlike = 0;
  for (std::int64_t tick = 0; tick < a.ticks; tick += 29) {
    const Frame one = reads_a.frame(a, tick), other = reads_b.frame(b, tick);
    REQUIRE(one.bodies.size() == other.bodies.size());
    REQUIRE(one.joints.size() == other.joints.size());
    for (std::size_t i = 0; i < one.bodies.size(); ++i)
      if (one.bodies[i].name != other.bodies[i].name || one.bodies[i].pose.position != other.bodies[i].pose.position ||
          one.bodies[i].kind != other.bodies[i].kind)
        ++unlike;
    if (one.zones != other.zones || one.drawn.size() != other.drawn.size()) ++unlike;
  }
  CHECK(unlike == 0);
}

}  // namespace

TEST_CASE("a take comes back from its file as it was, and is asked again from it", "[long]") {
  for (const auto& entry : fs::directory_iterator(in_checkout("/examples"))) {
    const std::string name = entry.path().filename().string();
    INFO(name);
    const Take take = of_example(name, 2);
    const fs::path file = scratch("example.take");
    save_take(take, {4, "first with wind", "a \"note\"\nof two lines", true, "push 3 → 5.5"}, file);
    const TakeFile back = open_take(file);
    CHECK(back.label.number == 4);
    CHECK(back.label.name == "first with wind");
    CHECK(back.label.note == "a \"note\"\nof two lines");
    CHECK(back.label.about == "push 3 → 5.5");
    check_same(take, back.take);
    CHECK(ask(question_of(back.take))->with([](const Take& t) { return t.digest; }) == take.digest);
  }
}

TEST_CASE("what broke, came and went is in the file too") {
  const SceneFolder folder = full_scene(
      "function on.tick()\n"
      "  if scene.tick == 10 then scene:stamp('stone', {position = vec(3, 8, 0), scripts = false}) end\n"
      "  if scene.tick == 20 then body.mass = 9 end\n"
      "  if scene.tick == 30 then scene:find('stone'):remove() end\n"
      "  if scene.tick == 40 then body:slice(body.position, vec(0, 1, 0)) end\n"
      "  watch('tick', scene.tick)\n"
      "end");
  const Take take = ask({folder, 1, {}, 80})->with([](const Take& t) { return t; });
  REQUIRE(take.bodies.size() == 5);
  save_take(take, {}, scratch("broken.take"));
  const TakeFile back = open_take(scratch("broken.take"));
  check_same(take, back.take);
  TakeReader reader;
  CHECK(reader.settings(back.take, "ball", 25)->mass == 9);
  CHECK(reader.settings(back.take, "ball", 15)->mass == 2);
  CHECK(reader.settings(back.take, "ball", 25)->scripts.size() == 1);
  CHECK(reader.number(back.take, channel_called("ball.watch.tick", back.take.owners()), 0, 33) == 32);
}

TEST_CASE("a file that was cut short or altered in any byte is refused with words, or is the same take") {
  const Take take = of_example("cask-pyramid", 2);
  const fs::path file = scratch("whole.take");
  save_take(take, {}, file);
  const std::string whole = read_file(file);
  std::mt19937_64 random(11);
  const fs::path other = scratch("other.take");
  int refused = 0, same = 0;
  for (int i = 0; i < tries; ++i) {
    std::string altered = whole;
    if (i % 10 == 0)
      altered.resize(random() % whole.size());
    else
      altered[random() % whole.size()] ^= static_cast<char>(1 + random() % 255);
    std::ofstream(other, std::ios::binary) << altered;
    try {
      const TakeFile back = open_take(other);
      ++same;
      REQUIRE(back.take.digest == take.digest);
      REQUIRE(back.take.ticks == take.ticks);
      REQUIRE(back.take.folder.scene == take.folder.scene);
      // It lay in none of the parts: all is as it was.
      if (same % 20 == 1) check_same(take, back.take);
    } catch (const Error& e) {
      ++refused;
      const std::string words = e.what();
      REQUIRE(words.find("other.take") != std::string::npos);
    }
  }
  CHECK(refused > 0.7 * tries);
  CHECK(refused + same == tries);
  for (const char* text : {"", "not a take", "SQLite format 3"}) {
    std::ofstream(other, std::ios::binary) << text;
    CHECK_THROWS_AS(open_take(other), Error);
  }
  CHECK_THROWS_WITH(open_take(scratch("")), Catch::Contains("no file"));
  CHECK_THROWS_WITH(open_take(scratch("nowhere.take")), Catch::Contains("not there"));
}

TEST_CASE("a disk that is full, or a folder that is gone, leaves the file that was there") {
  const Take take = of_example("skerrow-quay", 1);
  const fs::path file = scratch("kept.take");
  save_take(take, {1, "before", "", false, ""}, file);
  rlimit before{};
  getrlimit(RLIMIT_FSIZE, &before);
  std::signal(SIGXFSZ, SIG_IGN);
  const rlimit small{8192, before.rlim_max};
  setrlimit(RLIMIT_FSIZE, &small);
  CHECK_THROWS_AS(save_take(take, {2, "after", "", false, ""}, file), Error);
  setrlimit(RLIMIT_FSIZE, &before);
  CHECK(open_take(file).label.name == "before");
  CHECK_FALSE(fs::exists(file.string() + ".new"));
  CHECK_THROWS_AS(save_take(take, {}, scratch("no") / "folder" / "x.take"), Error);
  // What is no file stays what it is.
  const fs::path pipe = scratch("pipe.take");
  fs::remove(pipe);
  REQUIRE(mkfifo(pipe.c_str(), 0600) == 0);
  CHECK_THROWS_WITH(save_take(take, {}, pipe), Catch::Contains("no file"));
  CHECK(fs::is_fifo(pipe));
}

TEST_CASE("a take of a newer version says so") {
  const Take take = of_example("skerrow-quay", 0.1);
  save_take(take, {}, scratch("newer.take"), 9);
  CHECK_THROWS_WITH(open_take(scratch("newer.take")), Catch::Contains("newer version"));
}

TEST_CASE("what is larger than the database takes at once is kept in pieces, and comes back") {
  Take take = of_example("skerrow-quay", 0.1);
  // Text that does not pack away, so that the pieces are as large as they would be of a long play.
  std::string text = "-- ";
  std::uint64_t state = 1;
  while (text.size() < (std::size_t{70} << 20)) {
    state = state * 6364136223846793005ULL + 1442695040888963407ULL;
    for (int i = 0; i < 8; ++i) text += static_cast<char>('a' + (state >> (8 * i) & 15));
  }
  take.folder.scripts["long.lua"] = text;
  save_take(take, {1, "", "", false, ""}, scratch("pieces.take"));
  const Take back = open_take(scratch("pieces.take")).take;
  CHECK(back.folder.scripts.at("long.lua") == text);
  check_same(take, back);
  fs::remove(scratch("pieces.take"));
}

TEST_CASE("a take whose number of ticks was altered is refused") {
  for (const std::int64_t ticks : {std::int64_t{0}, std::int64_t{-4}, std::int64_t{3}, std::int64_t{1} << 40,
                                   std::numeric_limits<std::int64_t>::max()}) {
    Take take = of_example("skerrow-quay", 0.2);
    take.ticks = ticks;
    save_take(take, {}, scratch("ticks.take"));
    CHECK_THROWS_WITH(open_take(scratch("ticks.take")), Catch::Contains("altered"));
  }
}

TEST_CASE("takes of every version before open, with what they had") {
  const Take take = of_example("cork-hoppers", 1);
  for (int version = 2; version <= take_version; ++version) {
    save_take(take, {}, scratch("older.take"), version);
    const Take back = open_take(scratch("older.take")).take;
    CHECK(back.ticks == take.ticks);
    REQUIRE(back.events.size() == take.events.size());
    for (std::size_t i = 0; i < take.events.size(); ++i)
      CHECK(back.events[i].time(back.tick_rate()) ==
            Approx(take.events[i].time(take.tick_rate())).margin(version < 5 ? 1 / take.tick_rate() : 1e-12));
  }
}
