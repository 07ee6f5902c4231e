// A scene folder that is open: what counts as saved, what another program did, and where it is kept.
#include "scene/edits/open_scene.h"

#include <unistd.h>

#include <catch2/catch.hpp>
#include <filesystem>

#include "geometry/base/error.h"
#include "scene/files/model_text.h"

using namespace bronvel;

namespace {

std::filesystem::path empty_place(const std::string& name) {
  const std::filesystem::path path =
      std::filesystem::temp_directory_path() / ("bronvel_open_" + std::to_string(getpid()) + "_" + name);
  std::filesystem::remove_all(path);
  return path;
}

SceneFolder barge_folder(const std::filesystem::path& path) {
  SceneFolder folder;
  folder.path = path;
  folder.scene.name = "barge";
  Body barge;
  barge.name = "barge";
  barge.scripts.push_back({"steer.lua", {}});
  folder.scene.bodies.push_back(barge);
  folder.scripts["steer.lua"] = "function on.tick() end\n";
  return folder;
}

OpenScene opened(const std::string& name) {
  const auto path = empty_place(name);
  save_folder(barge_folder(path));
  return OpenScene(open_folder(path));
}

void rename_barge(OpenScene& open, const std::string& to) {
  open.history().edit("name", [&](Scene& scene) { scene.name = to; });
}

}  // namespace

TEST_CASE("a scene without a folder can't be saved, and can be once it has one") {
  OpenScene open;
  CHECK(open.path().empty());
  CHECK(open.saved());
  CHECK_FALSE(open.changes_on_disk().any());
  rename_barge(open, "new");
  CHECK_FALSE(open.saved());
  CHECK_THROWS_WITH(open.save(), Catch::Contains("Save as"));
  CHECK_FALSE(open.saved());
  const auto path = empty_place("first");
  open.save_as(path);
  CHECK(open.saved());
  CHECK(open.path() == path);
  CHECK(open_folder(path).scene == open.scene());
}

TEST_CASE("edits and typing count as not saved until they are") {
  OpenScene open = opened("edits");
  CHECK(open.saved());
  rename_barge(open, "another");
  CHECK_FALSE(open.saved());
  open.history().undo();
  CHECK(open.saved());
  open.history().redo();
  CHECK_FALSE(open.saved());
  CHECK(open.save().empty());  // no script was typed in
  CHECK(open.saved());

  CHECK(open.type_script("steer.lua", "-- straight on\n"));
  CHECK_FALSE(open.type_script("steer.lua", "-- straight on\n"));
  CHECK_FALSE(open.saved());
  CHECK(open.script_unsaved("steer.lua"));
  CHECK_FALSE(open.script_unsaved("other.lua"));
  // What plays is what was saved, not what is being typed.
  CHECK(open.as_played().scripts.at("steer.lua") == "function on.tick() end\n");
  CHECK(open.as_typed().scripts.at("steer.lua") == "-- straight on\n");
  CHECK(open.save() == std::vector<std::string>{"steer.lua"});
  CHECK(open.saved());
  CHECK(open.as_played().scripts == open.as_typed().scripts);
  CHECK(open_folder(open.path()).scripts.at("steer.lua") == "-- straight on\n");
  // Typed away and back again is as it was.
  open.type_script("steer.lua", "x");
  open.type_script("steer.lua", "-- straight on\n");
  CHECK(open.saved());
}

TEST_CASE("a new script has a name of its own, and plays before it is saved") {
  OpenScene open = opened("new_script");
  CHECK(open.new_script("steer.lua", "-- another") == "steer_2.lua");
  CHECK(open.new_script("steer", "-- a third") == "steer_3.lua");
  CHECK(open.new_script("haul.lua", "-- haul") == "haul.lua");
  CHECK(open.scripts().size() == 4);
  CHECK(open.as_played().scripts.at("haul.lua") == "-- haul");
  CHECK_FALSE(open.script_unsaved("haul.lua"));
}

TEST_CASE("what another program writes is noticed, our own saving is not") {
  OpenScene open = opened("disk");
  CHECK_FALSE(open.changes_on_disk().any());
  rename_barge(open, "mine");
  CHECK_FALSE(open.changes_on_disk().any());
  open.save();
  CHECK_FALSE(open.changes_on_disk().any());
  write_atomically(open.path() / "scripts" / "steer.lua", "-- theirs\n");
  CHECK(open.changes_on_disk().any());
  open.save();
  CHECK_FALSE(open.changes_on_disk().any());
  write_atomically(open.path() / "scene.json", read_file(open.path() / "scene.json") + " ");
  CHECK(open.changes_on_disk().any());
  // Gone for a moment, as while it is being written, is no change.
  std::filesystem::remove(open.path() / "scene.json");
  CHECK_FALSE(open.changes_on_disk().any());
  // A script that was removed is not: it comes back with the next saving.
  open.save();
  std::filesystem::remove(open.path() / "scripts" / "steer.lua");
  CHECK_FALSE(open.changes_on_disk().any());
}

TEST_CASE("saving elsewhere that fails leaves the scene where it was") {
  OpenScene open = opened("elsewhere");
  const auto before = open.path();
  rename_barge(open, "moved");
  const auto taken = empty_place("taken");
  write_atomically(taken, "a file, not a folder");
  CHECK_THROWS_WITH(open.save_as(taken), Catch::Contains("choose another folder"));
  CHECK(open.path() == before);
  CHECK_FALSE(open.saved());
  const auto elsewhere = empty_place("elsewhere_2");
  open.save_as(elsewhere);
  CHECK(open.path() == elsewhere);
  CHECK(open_folder(elsewhere).scene.name == "moved");
  CHECK(open_folder(before).scene.name == "barge");
  CHECK(open_folder(elsewhere).scripts == open.scripts());
}

TEST_CASE("what another program changed is taken in; what is changed here as well is a clash, until one is chosen") {
  OpenScene open = opened("take-in");
  write_atomically(open.path() / "scripts" / "steer.lua", "-- theirs\n");
  write_atomically(open.path() / "scripts" / "row.lua", "-- new\n");
  CHECK(open.changes_on_disk().scripts == std::vector<std::string>{"row.lua", "steer.lua"});
  CHECK(open.changes_on_disk().clashes.empty());
  CHECK(open.take_in_from_disk(false) == std::vector<std::string>{"row.lua", "steer.lua"});
  CHECK(open.scripts().at("steer.lua") == "-- theirs\n");
  CHECK(open.saved());
  CHECK_FALSE(open.changes_on_disk().any());
  // The same here and there.
  rename_barge(open, "mine");
  open.type_script("steer.lua", "-- mine\n");
  write_atomically(open.path() / "scripts" / "steer.lua", "-- theirs again\n");
  SceneFolder theirs = barge_folder(open.path());
  theirs.scene.name = "theirs";
  write_atomically(open.path() / "scene.json", [&] {
    const std::filesystem::path other = empty_place("take-in-other");
    theirs.path = other;
    save_folder(theirs);
    return read_file(other / "scene.json");
  }());
  CHECK(open.changes_on_disk().clashes == std::vector<std::string>{"scene.json", "steer.lua"});
  CHECK(open.take_in_from_disk(false).empty());
  CHECK(open.scene().name == "mine");
  SECTION("mine") {
    open.keep_over_disk();
    CHECK_FALSE(open.changes_on_disk().any());
    CHECK_FALSE(open.saved());
    open.save();
    CHECK(open_folder(open.path()).scene.name == "mine");
    CHECK(read_file(open.path() / "scripts" / "steer.lua") == "-- mine\n");
  }
  SECTION("theirs") {
    CHECK(open.take_in_from_disk(true) == std::vector<std::string>{"steer.lua"});
    CHECK(open.scene().name == "theirs");
    CHECK(open.saved());
    CHECK(open.history().undo());
    CHECK(open.scene().name == "mine");
  }
}

TEST_CASE("a mesh that another program wrote is taken in, and saving does not put the old one over it") {
  const std::string flat = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n";
  const std::string tall = "# by hand\nv 0 0 0\nv 1 0 0\nv 0 3 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n";
  const auto path = empty_place("meshes");
  SceneFolder folder = barge_folder(path);
  folder.scene.models["rock"] = std::make_shared<const Model>(read_model(flat, "rock.obj"));
  Body rock;
  rock.name = "rock";
  rock.looks.emplace();
  rock.looks->model = "rock";
  folder.scene.bodies.push_back(rock);
  save_folder(folder);
  OpenScene open(open_folder(path));
  CHECK_FALSE(open.changes_on_disk().any());
  rename_barge(open, "mine");  // is not lost
  write_atomically(path / "meshes" / "rock.obj", tall);
  CHECK(open.changes_on_disk().meshes == std::vector<std::string>{"rock.obj"});
  CHECK(open.changes_on_disk().clashes.empty());
  open.take_in_from_disk(false);
  CHECK(open.scene().name == "mine");
  CHECK_FALSE(open.saved());
  CHECK(*open.scene().models.at("rock") == read_model(tall, "rock.obj"));
  CHECK_FALSE(open.changes_on_disk().any());
  open.save();
  CHECK(open.saved());
  CHECK(read_file(path / "meshes" / "rock.obj") == tall);  // as it was written there
  CHECK(open.history().undo());
  CHECK(*open.scene().models.at("rock") == read_model(flat, "rock.obj"));
  write_atomically(path / "meshes" / "rock.obj", "v 0 0\n");
  CHECK_THROWS_AS(open.take_in_from_disk(false), Error);
}

TEST_CASE("a scene that another program broke is refused, and what is here stays") {
  OpenScene open = opened("broken");
  write_atomically(open.path() / "scene.json", "{ \"bronvel\": 1, ");
  CHECK(open.changes_on_disk().scene);
  CHECK_THROWS_AS(open.take_in_from_disk(false), Error);
  CHECK(open.scene().name == "barge");
}

TEST_CASE("a folder that is gone is not made anew by saving") {
  OpenScene open = opened("gone");
  rename_barge(open, "mine");
  std::filesystem::remove_all(open.path());
  CHECK(open.changes_on_disk().gone);
  CHECK_THROWS_WITH(open.save(), Catch::Contains("not there any more"));
  CHECK_FALSE(std::filesystem::exists(open.path()));
  CHECK(open.save_as(empty_place("gone-elsewhere")).empty());
}

TEST_CASE("which lanes there are is written with the scene, and is no edit") {
  OpenScene open = opened("lanes");
  open.history().set_lanes({"height", "barge.speed"});
  CHECK(open.saved());
  CHECK(open.history().steps() == 0);
  rename_barge(open, "mine");
  open.history().undo();
  CHECK(open.scene().lanes.size() == 2);
  open.save();
  CHECK(open_folder(open.path()).scene.lanes.size() == 2);
}
