// Scene files with one wrong value, one key too few or one misspelt: read as they are meant, or refused with the line.
#include <catch2/catch.hpp>

#include "folders.h"
#include "geometry/base/error.h"
#include "geometry/base/random.h"
#include "scene/document/json_place.h"
#include "scene/files/folder.h"
#include "scene/files/json_file.h"
#include "scene/files/read.h"
#include "scene/files/write.h"

using namespace bronvel;

namespace {

// Pointers to all values of the file, the whole itself apart.
void places_of(const Json& json, const std::string& here, std::vector<std::string>& all) {
  if (json.is_object())
    for (const auto& [key, value] : json.items()) {
      all.push_back(here + "/" + key);
      places_of(value, std::string(all.back()), all);
    }
  if (json.is_array())
    for (std::size_t i = 0; i < json.size(); ++i) {
      all.push_back(here + "/" + std::to_string(i));
      places_of(json[i], std::string(all.back()), all);
    }
}

// Read, or refused with words: never anything else that is thrown, and always with the line of the wrong place or of
// what holds it.
void check_read(const Json& json, const Models& models) {
  const std::string text = json_text(json);
  try {
    const Scene scene = read_scene(text, "scene.json", models);
    // What was read is a scene like any other.
    CHECK(read_scene(write_scene(scene), "again.json", models) == scene);
  } catch (const Error& e) {
    CHECK_THAT(e.what(), Catch::StartsWith("scene.json:"));
    const std::string message = e.what();
    const std::string rest = message.substr(std::string("scene.json:").size());
    const int line = std::atoi(rest.c_str());
    CHECK(line >= 1);
    CHECK(line <= 1 + std::count(text.begin(), text.end(), '\n'));
    CHECK(rest.find(": ") != std::string::npos);
    CHECK(message.size() < 1000);
  }
}

struct Example {
  Json json;
  Models models;
  std::vector<std::string> places;
};

Example example(const std::string& name) {
  const std::string folder = in_checkout("/examples/" + name);
  Example made;
  made.models = open_folder(folder).scene.models;
  made.json = Json::parse(read_file(folder + "/scene.json"));
  places_of(made.json, "", made.places);
  return made;
}

}  // namespace

TEST_CASE("any value of a scene file may be wrong in any way") {
  const std::vector<Json> wrong{nullptr,
                                true,
                                -1,
                                0,
                                1e300,
                                "no such",
                                Json::array(),
                                Json::object(),
                                {1, 2, 3},
                                {{"size", 1}},
                                "\xC3\xBC\n",
                                {1, "x", nullptr},
                                3.5,
                                {{"name", 5}},
                                -1e-9};
  Random random(4);
  for (const char* name : {"skerrow-quay", "filling-lock", "skerrow-crane", "chandlers-window", "three-bells"}) {
    const Example from = example(name);
    for (int i = 0; i < 160; ++i) {
      const std::string& place = from.places[random.bits() % from.places.size()];
      const Json& value = wrong[random.bits() % wrong.size()];
      INFO(name << " " << place << " is " << value.dump());
      Json changed = from.json;
      changed[Json::json_pointer(place)] = value;
      check_read(changed, from.models);
    }
  }
}

TEST_CASE("any key of a scene file may be missing or misspelt") {
  Random random(5);
  for (const char* name : {"skerrow-quay", "mooring-bell", "powder-store", "rope-ferry"}) {
    const Example from = example(name);
    for (int i = 0; i < 120; ++i) {
      const std::string& place = from.places[random.bits() % from.places.size()];
      const Json::json_pointer pointer(place);
      INFO(name << " " << place);
      Json changed = from.json;
      Json& parent = changed[pointer.parent_pointer()];
      if (parent.is_array()) {
        parent.erase(static_cast<std::size_t>(std::stoul(pointer.back())));
      } else {
        const Json value = parent[pointer.back()];
        parent.erase(pointer.back());
        if (i % 2 == 0) {
          parent[pointer.back() + "x"] = value;
          // A key that is not known is refused: it would do nothing. Only names that the file itself gives may be any.
          const std::string holder = pointer.parent_pointer().to_string();
          const bool own_names = holder == "/surfaces" || holder.ends_with("/dials");
          if (!own_names) CHECK_THROWS_AS(read_scene(json_text(changed), "scene.json", from.models), Error);
        }
      }
      check_read(changed, from.models);
    }
  }
}

TEST_CASE("values of a file, each with its place") {
  const std::string text =
      "{\n \"a\": 4,\n \"list\": [1, 2, 3],\n \"turn\": [0, 0, 0, 1],\n \"on\": true,\n"
      " \"names\": [\"x\", \"y\"],\n \"name\": \"cask_1\"\n}";
  JsonFile file(text, "f.json");
  const Json json = file.root();
  CHECK(file.number(json, "", "a", 1, 0, 10) == 4);
  CHECK(file.number(json, "", "b", 1.5, 0, 10) == 1.5);
  CHECK_THROWS_WITH(file.number(json, "", "a", 1, 0, 3), Catch::StartsWith("f.json:2: a: wants a number from 0 to 3"));
  CHECK_THROWS_WITH(file.number(json, "", "list", 1, 0, 3), Catch::StartsWith("f.json:3: list: wants a number, got"));
  CHECK(file.length(json, "", "a") == 4);
  CHECK_THROWS_WITH(file.length(json, "", "radius"), Catch::Contains("has no radius"));
  CHECK(file.vector(json, "", "list", Vec3::Zero()) == Vec3(1, 2, 3));
  CHECK(file.vector(json, "", "none", Vec3::Ones()) == Vec3::Ones());
  CHECK_THROWS_WITH(file.vector(json, "", "turn", Vec3::Zero()), Catch::Contains("wants 3 numbers"));
  CHECK(file.rotation(json["turn"], "/turn").w() == 1);
  CHECK_THROWS_WITH(file.rotation(json["list"], "/list"), Catch::Contains("wants 4 numbers"));
  CHECK(file.flag(json, "", "on", false));
  CHECK_THROWS_WITH(file.flag(json, "", "a", false), Catch::Contains("true or false"));
  CHECK(file.name_list(json, "", "names") == std::vector<std::string>{"x", "y"});
  CHECK_THROWS_WITH(file.name_list(json, "", "list"), Catch::Contains("list of names"));
  CHECK(file.name_of(json, "") == "cask_1");
  CHECK(file.string(json, "", "name", "") == "cask_1");
  CHECK(file.string(json, "", "title", "none") == "none");
  CHECK_THROWS_WITH(file.string(json, "", "a", ""), Catch::Contains("text in quotes"));
  CHECK(file.whole(json["a"], "/a", 4) == 4);
  CHECK_THROWS_WITH(file.whole(json["a"], "/a", 3), Catch::Contains("whole number from 0 to 3"));
  CHECK_THROWS_WITH(file.whole(Json(1.5), "/a", 3), Catch::Contains("got 1.5"));
  CHECK_THROWS_WITH(file.object(json["a"], "/a"), Catch::Contains("wants an object"));
  CHECK_THROWS_WITH(file.only(json, "", {"a", "list"}), Catch::Contains("turn") && Catch::Contains("known: a, list"));
  file.speak_of("the crane");
  CHECK_THROWS_WITH(file.fail("/a", "is odd", "make it even"),
                    Catch::Contains("(the crane)") && Catch::Contains("make it even"));
  CHECK(got(Json(std::string(100, 'x'))).size() == 40);
}

TEST_CASE("places are found and told as users read them") {
  const std::string text =
      "{\n \"bodies\": [\n  {\"name\": \"a, {[\\\"\",\n   \"mass\": 1},\n  {\"mass\":\n   2}\n ]\n}";
  CHECK(line_of(text, "") == 1);
  CHECK(line_of(text, "/bodies") == 2);
  CHECK(line_of(text, "/bodies/0/mass") == 4);
  CHECK(line_of(text, "/bodies/1/mass") == 6);
  CHECK(line_of(text, "/bodies/1/name") == 5);  // not there: the nearest that is
  CHECK(line_of(text, "/nothing/at/all") == 1);
  CHECK(readable_place("/bodies/2/mass") == "bodies[2].mass");
  CHECK(readable_place("/world") == "world");
  CHECK(readable_place("") == "");
}
