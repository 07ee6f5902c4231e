// The command line, run as a user runs it: exit codes, output, and a set of broken scenes and scripts.
#include <catch2/catch.hpp>
#include <filesystem>
#include <sstream>

#include "cli/run.h"
#include "folders.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

const std::string demo = in_checkout("/examples/skerrow-quay");

fs::path scene_with(const std::string& name, const std::string& json, const std::string& script = "") {
  const fs::path path = fs::temp_directory_path() / "bronvel-cli" / name;
  fs::remove_all(path);
  fs::create_directories(path / "scripts");
  write_atomically(path / "scene.json", json);
  if (!script.empty()) write_atomically(path / "scripts" / "act.lua", script);
  return path;
}

std::string scene_json(const std::string& body_extra, const std::string& top_extra = "") {
  return "{\"bronvel\": 1" + top_extra +
         ",\n \"bodies\": [\n  {\"name\": \"cask\", \"shape\": {\"sphere\": {\"radius\": 0.5}}" + body_extra +
         "}\n ]}\n";
}

}  // namespace

TEST_CASE("a play writes its channels as CSV, one row a tick") {
  const Result r = cli("play " + demo + " --seconds 0.5 --channels fender.position,net_float.speed --tick-rate 60");
  CHECK(r.code == 0);
  std::stringstream lines(r.text);
  std::string line;
  std::getline(lines, line);
  CHECK(line == "time,fender.position.x,fender.position.y,fender.position.z,net_float.speed");
  int rows = 0;
  while (std::getline(lines, line)) ++rows;
  CHECK(rows == 31);
}

TEST_CASE("digest, seed and set mean what they say") {
  const auto digest = [](const std::string& more) {
    return cli("play " + demo + " --seconds 3 --digest " + more).text;
  };
  const auto last = [](const std::string& text) { return text.substr(text.rfind('\n', text.size() - 2) + 1); };
  const std::string plain = last(digest(""));
  CHECK(plain.size() == 17);
  CHECK(plain == last(digest("--seed 7")));
  CHECK(plain == last(digest("--threads 2")));
  CHECK(plain != last(digest("--seed 8")));
  CHECK(plain != last(digest("--set fender.mass=4")));
  CHECK(plain != last(digest("--set fender.dials.push=-2")));
}

TEST_CASE("events are JSON lines") {
  const Result r = cli("play " + demo + " --seconds 1 --events -");
  CHECK(r.code == 0);
  std::stringstream lines(r.text);
  bool hit = false;
  for (std::string line; std::getline(lines, line);) {
    const Json json = Json::parse(line);
    if (json["event"] == "touch" && json["b"] == "fender") hit = json["speed"].get<double>() > 6;
  }
  CHECK(hit);
}

TEST_CASE("wrong calls exit with 2 and say why") {
  for (const char* arguments :
       {"", "fly", "play", "play nowhere --seconds 1", "play DEMO --seconds -1", "play DEMO --seconds x",
        "play DEMO --seconds 1 --set fender", "play DEMO --seconds 1 --set fender.mass=heavy",
        "play DEMO --seconds 1 --set nobody.mass=1", "play DEMO --seconds 1 --set fender.dials.pull=1",
        "play DEMO --seconds 1 --channels fender.smell", "play DEMO --seconds 1 --tick-rate 0",
        "play DEMO --seconds 1 --csv /nowhere/x.csv", "play DEMO --seconds 1 --threads 0"}) {
    CAPTURE(arguments);
    std::string call = arguments;
    if (const auto at = call.find("DEMO"); at != std::string::npos) call.replace(at, 4, demo);
    const Result r = cli(call);
    CHECK(r.code == 2);
    CHECK(r.text.size() > 10);
  }
}

TEST_CASE("the report for machines without a display says what happened") {
  const Result r = cli("report " + demo + " --seconds 2");
  CHECK(r.code == 0);
  CHECK_THAT(r.text, Catch::Contains("fender") && Catch::Contains("Skerrow quay"));
}

TEST_CASE("each of thirty broken scenes and scripts gives one clear message and the right exit code") {
  struct Broken {
    const char* name;
    std::string json;
    std::string script;
    int code;
    const char* says;
  };
  const std::string carries = ", \"scripts\": [{\"file\": \"act.lua\"}]";
  const std::vector<Broken> set{
      {"not_json", "hello", "", 2, "is not JSON"},
      {"empty", "", "", 2, "is not JSON"},
      {"cut_off", "{\"bronvel\": 1, \"bodies\": [{", "", 2, "is not JSON"},
      {"nan", scene_json(", \"mass\": NaN"), "", 2, "scene.json:3: is not JSON"},
      {"huge_number", scene_json(", \"mass\": 1e999"), "", 2, "too large"},
      {"a_list", "[1, 2]", "", 2, "wants an object"},
      {"no_version", "{\"bodies\": []}", "", 2, "not a Bronvel scene"},
      {"newer", "{\"bronvel\": 2, \"bodies\": []}", "", 2, "newer Bronvel"},
      {"no_bodies", "{\"bronvel\": 1}", "", 2, "no \"bodies\""},
      {"bodies_number", "{\"bronvel\": 1, \"bodies\": 3}", "", 2, "wants a list"},
      {"unknown_top", scene_json("", ", \"sound\": 1"), "", 2, "not a name known here"},
      {"unknown_property", scene_json(", \"wieght\": 3"), "", 2, "bodies[0].wieght (cask)"},
      {"wrong_type", scene_json(", \"mass\": \"heavy\""), "", 2, "got \"heavy\""},
      {"negative_mass", scene_json(", \"mass\": -4"), "", 2, "scene.json:3: bodies[0].mass (cask)"},
      {"zero_mass", scene_json(", \"mass\": 0"), "", 2, "above 0"},
      {"two_numbers", scene_json(", \"position\": [1, 2]"), "", 2, "wants 3 numbers"},
      {"bad_turn", scene_json(", \"orientation\": [0, 0, 0, 0]"), "", 2, "unit quaternion"},
      {"bad_kind", scene_json(", \"kind\": \"lively\""), "", 2, "static, kinematic, dynamic"},
      {"bad_surface", scene_json(", \"surface\": \"jam\""), "", 2, "not among the scene's surfaces"},
      {"bad_restitution", scene_json(", \"restitution\": 2"), "", 2, "from 0 to 1"},
      {"no_shape", "{\"bronvel\": 1, \"bodies\": [{\"name\": \"x\"}]}", "", 2, "has no shape"},
      {"two_shapes",
       "{\"bronvel\": 1, \"bodies\": [{\"name\": \"x\", \"shape\": {\"sphere\": {\"radius\": 1}, \"box\": {\"size\": "
       "[1,1,1]}}}]}",
       "", 2, "wants one shape"},
      {"flat_box", "{\"bronvel\": 1, \"bodies\": [{\"name\": \"x\", \"shape\": {\"box\": {\"size\": [1, 0, 1]}}}]}", "",
       2, "above 0"},
      {"same_name",
       "{\"bronvel\": 1, \"bodies\": [{\"name\": \"x\", \"shape\": {\"sphere\": {\"radius\": 1}}},\n{\"name\": \"x\", "
       "\"shape\": {\"sphere\": {\"radius\": 1}}}]}",
       "", 2, "names must differ"},
      {"missing_script", scene_json(", \"scripts\": [{\"file\": \"gone.lua\"}]"), "", 2, "gone.lua"},
      {"script_outside", scene_json(", \"scripts\": [{\"file\": \"../act.lua\"}]"), "", 2, "scripts/"},
      {"does_not_compile", scene_json(carries), "function on.tick( end", 1, "act.lua:1"},
      {"fails_on_play", scene_json(carries), "function on.play() body:force(1) end", 1, "wants a vector in newtons"},
      {"never_ends", scene_json(carries), "while true do end", 1, "does a loop never end"},
      {"eats_memory", scene_json(carries), "local t = {} while true do t[#t+1] = {#t} end", 1, "stopped"},
      {"no_such_handler", scene_json(carries), "function on.thick() end", 1, "did you mean on.tick"},
  };
  REQUIRE(set.size() >= 30);
  for (const Broken& broken : set) {
    CAPTURE(broken.name);
    const fs::path path = scene_with(broken.name, broken.json, broken.script);
    const Result r = cli("play " + path.string() + " --seconds 0.1");
    CHECK(r.code == broken.code);
    CHECK_THAT(r.text, Catch::Contains(broken.says));
    CHECK(std::count(r.text.begin(), r.text.end(), '\n') <= 2);
  }
}

TEST_CASE("a joint can be watched, and its breaking is an event that scripts hear") {
  const std::string crane = in_checkout("/examples/skerrow-crane");
  const Result held = cli("play " + crane + " --seconds 0.5 --channels cord.reaction,pintle.travel,cord.force.y");
  CHECK(held.code == 0);
  CHECK_THAT(held.text, Catch::StartsWith("time,cord.reaction,pintle.travel,cord.force.y\n"));
  const Result broken = cli("play " + crane + " --seconds 1 --set cask.mass=700 --events -");
  CHECK_THAT(broken.text, Catch::Contains("\"event\":\"snap\",\"joint\":\"cord\",\"a\":\"jib\",\"b\":\"cask\""));
  CHECK_THAT(broken.text, Catch::Contains("cord\\tparted at") || Catch::Contains("cord parted at"));
  const Result wrong = cli("play " + crane + " --seconds 1 --channels cord.height");
  CHECK(wrong.code == 2);
  CHECK_THAT(wrong.text, Catch::Contains("known: force, torque, reaction, travel, rate"));
}

TEST_CASE("threads do not change the digest") {
  const std::string casks = in_checkout("/examples/cask-pyramid");
  const Result one = cli("play " + casks + " --seconds 2 --digest --threads 1");
  CHECK(one.code == 0);
  CHECK(cli("play " + casks + " --seconds 2 --digest --threads 2").text == one.text);
  CHECK(cli("play " + casks + " --seconds 2 --digest --threads 0").code == 2);
}

TEST_CASE("inputs from a file play the same bits on every run, and what a press does shows in the events") {
  const std::string hoppers = in_checkout("/examples/cork-hoppers");
  const std::string plain = "play " + hoppers + " --seconds 2 --digest",
                    call = plain + " --inputs " + hoppers + "/keys.jsonl";
  const Result first = cli(call), again = cli(call + " --threads 1"), without = cli(plain);
  CHECK(first.code == 0);
  CHECK(first.text == again.text);
  CHECK(first.text != without.text);
  CHECK(cli(call + " --events -").text.find("\"part\",\"a\":\"quay\",\"b\":\"cork_1\"") != std::string::npos);
  const fs::path inputs = fs::temp_directory_path() / "bronvel-cli-inputs.jsonl";
  write_atomically(inputs, "{\"tick\": 30, \"leap\": true}\n");
  const Result wrong = cli(plain + " --inputs " + inputs.string());
  CHECK(wrong.code == 2);
  CHECK_THAT(wrong.text, Catch::Contains(":1: ") && Catch::Contains("wants one of action, grab"));
}

TEST_CASE("the handbook page in docs is what the command prints") {
  CHECK(cli("reference").text == read_file(in_checkout("/docs/scripting.md")));
}

TEST_CASE("what breaks is in the events, and its strength can be set") {
  const std::string scene = in_checkout("/examples/chandlers-window");
  const fs::path events = fs::temp_directory_path() / "bronvel-cli" / "cracks.jsonl";
  fs::create_directories(events.parent_path());
  const auto cracks = [&](const std::string& more) {
    const Result r = cli("play " + scene + " --seconds 1 --events " + events.string() + " " + more);
    REQUIRE(r.code == 0);
    std::vector<Json> found;
    std::stringstream lines(read_file(events));
    for (std::string line; std::getline(lines, line);) {
      const Json json = Json::parse(line);
      if (json["event"] == "crack") found.push_back(json);
    }
    return found;
  };
  const std::vector<Json> broken = cracks("");
  REQUIRE_FALSE(broken.empty());
  CHECK(broken[0]["body"] == "pane");
  CHECK(broken[0]["parts"][0] == "pane");
  CHECK(broken[0]["parts"].size() > 5);
  CHECK(broken[0]["use"].get<double>() > 1);
  CHECK(broken[0]["bonds"].get<int>() > 5);
  CHECK(cracks("--set pane.tension_strength=1e12 --set pane.shear_strength=1e12").empty());
  CHECK(cracks("--set pane.breaks_into=nothing").empty());
  const Result refused = cli("play " + scene + " --seconds 0.1 --set pane.pieces=0");
  CHECK(refused.code == 2);
  CHECK_THAT(refused.text, Catch::Contains("pane.pieces"));
}

TEST_CASE("a cut given as an input parts the body, the same on every run") {
  const std::string scene = in_checkout("/examples/planks-at-the-saw");
  const fs::path inputs = fs::temp_directory_path() / "bronvel-cli" / "cut.jsonl";
  fs::create_directories(inputs.parent_path());
  write_atomically(inputs,
                   "{\"tick\": 10, \"cut\": \"beam\", \"at\": [-2.2, 0.9, 0], \"normal\": [1, 0, 0]}\n"
                   "{\"tick\": 12, \"cut\": \"bench\", \"at\": [-2, 0.4, 0], \"normal\": [1, 0, 0]}\n");
  const std::string call = "play " + scene + " --seconds 0.5 --digest --inputs " + inputs.string();
  const Result once = cli(call + " --events -");
  CHECK(once.code == 1);  // an input came to nothing
  CHECK_THAT(once.text, Catch::Contains("a static body can't be cut"));
  CHECK(cli(call).text == cli(call + " --threads 2").text);
  CHECK(cli(call).text != cli("play " + scene + " --seconds 0.5 --digest").text);
  write_atomically(inputs, "{\"tick\": 10, \"cut\": \"beam\", \"at\": [0, 0, 0]}\n");
  const Result refused = cli(call);
  CHECK(refused.code == 2);
  CHECK_THAT(refused.text, Catch::Contains("cut.jsonl:1") && Catch::Contains("normal"));
}

TEST_CASE("what is set counts before anything of the play begins: a script's top level and on.play see it") {
  const fs::path scene = scene_with("set-early", scene_json(", \"scripts\": [{\"file\": \"act.lua\"}]"),
                                    "dials { n = { 6, unit = \"N\", from = 0, to = 20 } }\n"
                                    "print(\"top \" .. dials.n)\n"
                                    "function on.play() print(\"play \" .. dials.n .. \" \" .. body.mass) end\n"
                                    "function on.tick() if scene.tick == 0 then print(\"tick \" .. dials.n) end end\n");
  const Result r = cli("play " + scene.string() + " --seconds 0.1 --set cask.dials.n=12 --set cask.mass='2 t'");
  CHECK(r.code == 0);
  CHECK_THAT(r.text, Catch::Contains("top 12") && Catch::Contains("play 12") && Catch::Contains("tick 12"));
  CHECK_THAT(r.text, Catch::Contains("2000"));
  CHECK_THAT(r.text, !Catch::Contains("top 6"));
  // Asked again, likewise.
  const std::string take = (scene / "a.take").string();
  CHECK(cli("play " + scene.string() + " --seconds 0.1 --take " + take).code == 0);
  const Result again = cli("replay " + take + " --set cask.dials.n=12");
  CHECK_THAT(again.text, Catch::Contains("top 12") && Catch::Contains("tick 12"));
}

TEST_CASE(
    "joints, zones, surfaces and the world can be set too, with units, sums and vectors as the file writes them") {
  const std::string world =
      ", \"surfaces\": {\"oak\": {}}, \"joints\": [{\"name\": \"cord\", \"kind\": \"distance\", "
      "\"b\": \"cask\", \"high\": 5}], \"zones\": [{\"name\": \"draught\", \"shape\": {\"sphere\": "
      "{\"radius\": 2}}, \"position\": [0, 0, 0]}]";
  const fs::path scene = scene_with("set-all", scene_json("", world));
  const auto set = [&](const std::string& what) {
    return cli("play " + scene.string() + " --seconds 0.1 --set '" + what + "'");
  };
  for (const char* good :
       {"cask.mass=12*3", "cask.mass=2.5 t", "cask.position=[1, 2, 3]", "cask.position=1,2,3", "cord.stiffness=12*3",
        "cord.breaks_at_force=30 kN", "draught.wind=[3, 0, 0]", "surfaces.oak.restitution=0.9",
        "surfaces.oak.friction_combine=minimum", "world.gravity=[0, -1.62, 0]", "world.tick_rate=120",
        "world.planar=true", "cask.tension_strength=30 MPa"}) {
    CAPTURE(good);
    const Result r = set(good);
    CAPTURE(r.text);
    CHECK(r.code == 0);
  }
  const auto refused = [&](const std::string& what, const std::string& says) {
    const Result r = set(what);
    CAPTURE(what);
    CHECK(r.code == 2);
    CHECK_THAT(r.text, Catch::Contains(says));
  };
  refused("cord.mass=3", "is not a property of a joint");
  refused("draught.mass=3", "is not a property of a zone");
  refused("surfaces.elm.restitution=1", "no surface called");
  refused("world.colour=3", "is not a property of a world");
  refused("world.substeps=2.5", "whole number");
  refused("nobody.mass=3", "no body, joint or zone");
  refused("cask.mass=3 N", "wants a number in kg");
  refused("cask.mass=-3", "above 0");
  refused("cask.position=[1, 2]", "three numbers");
  refused("cask.dials.n=3", "no such dial");
}

TEST_CASE("what comes to be in play has channels in `play` as in `replay`; what never came is told") {
  const fs::path keys = fs::temp_directory_path() / "bronvel-spray.jsonl";
  write_atomically(keys, "{\"tick\": 5, \"action\": \"spray\", \"value\": 1}\n");
  const std::string play = "play " + in_checkout("/examples/herring-spout") + " --seconds 1 --inputs " + keys.string();
  const Result r = cli(play + " --channels herring_1.speed,herring_99.speed");
  CHECK(r.code == 0);
  std::stringstream lines(r.text);
  std::string line, last;
  while (std::getline(lines, line) && line.find("the channel") == std::string::npos) last = line;
  CHECK(std::stod(last.substr(last.find(',') + 1)) > 1);
  CHECK(line.find("is there a herring_99") != std::string::npos);
  CHECK(cli(play + " --channels herrin_1.speed").code != 0);
  CHECK(cli(play + " --channels herring_.speed").code != 0);
}

TEST_CASE("inputs may say their time instead of their tick") {
  const fs::path scene = scene_with("inputs-time", scene_json(""));
  write_atomically(scene / "keys.jsonl",
                   "{\"time\": 0.5, \"flick\": \"cask\", \"at\": [0, 0, 0], \"impulse\": [5, 0, 0]}\n");
  for (const int rate : {30, 60, 120}) {
    const Result r = cli("play " + scene.string() + " --seconds 1 --tick-rate " + std::to_string(rate) +
                         " --channels cask.velocity.x --inputs " + (scene / "keys.jsonl").string());
    CHECK(r.code == 0);
    std::stringstream lines(r.text);
    std::string line;
    double first = -1;
    while (std::getline(lines, line)) {
      const auto comma = line.find(',');
      if (comma == std::string::npos || line[0] == 't') continue;
      if (first < 0 && std::stod(line.substr(comma + 1)) > 1) first = std::stod(line.substr(0, comma));
    }
    CHECK(first == Approx(0.5 + 1.0 / rate).margin(1e-9));
  }
}
