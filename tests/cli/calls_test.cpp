// Calls that are wrong, and output that can't be written: each ends with words and an exit code, and nothing is lost
// unsaid.
#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

#include "cli/run.h"
#include "folders.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

const std::string quay = in_checkout("/examples/skerrow-quay");

fs::path scratch() {
  const fs::path path = fs::temp_directory_path() / "bronvel-calls";
  fs::create_directories(path);
  return path;
}

// DEMO and HERE stand for the demo's folder and the scratch folder.
std::string filled(std::string call) {
  for (const auto& [word, path] : {std::pair{"DEMO", quay}, std::pair{"HERE", scratch().string()}})
    for (auto at = call.find(word); at != std::string::npos; at = call.find(word)) call.replace(at, 4, path);
  return call;
}

}  // namespace

TEST_CASE("every wrong value of a call is refused with words") {
  const char* calls[] = {
      "why DEMO --body fender",
      "why DEMO --body nobody --at 1",
      "why DEMO --body quay --at 1",
      "why DEMO --body fender --at -1",
      "why DEMO --body fender --at 0",
      "why DEMO --body fender --at 1e9",
      "why HERE/nothing --body fender --at 1",
      "energy DEMO --body nobody",
      "energy DEMO --from 3 --to 2",
      "energy HERE/nothing",
      "difference HERE/no.take HERE/other.take",
      "difference DEMO DEMO",
      "difference HERE/no.take HERE/other.take --apart 0",
      "balance HERE/nothing",
      "play DEMO --seconds nan",
      "play DEMO --seconds inf",
      "play DEMO --seconds ''",
      "play DEMO --seconds -0.5",
      "play DEMO --seconds 1e7",
      "play DEMO --seconds 1s",
      "play DEMO --seconds 1 2",
      "play DEMO --seconds 1 --seed -1",
      "play DEMO --seconds 1 --seed 1.5",
      "play DEMO --seconds 1 --seed ''",
      "play DEMO --seconds 1 --seed nan",
      "play DEMO --seconds 1 --seed 99999999999999999999999",
      "play DEMO --seconds 1 --seed 18446744073709551616",
      "play DEMO --seconds 1 --tick-rate nan",
      "play DEMO --seconds 1 --tick-rate inf",
      "play DEMO --seconds 1 --tick-rate -60",
      "play DEMO --seconds 1 --tick-rate 1e9",
      "play DEMO --seconds 1 --tick-rate ''",
      "play DEMO --seconds 1 --substeps 0",
      "play DEMO --seconds 1 --substeps 65",
      "play DEMO --seconds 1 --substeps -3",
      "play DEMO --seconds 1 --substeps 2.5",
      "play DEMO --seconds 1 --substeps nan",
      "play DEMO --seconds 1 --threads -1",
      "play DEMO --seconds 1 --threads 1000",
      "play DEMO --seconds 1 --channels ''",
      "play DEMO --seconds 1 --channels fender",
      "play DEMO --seconds 1 --channels fender.",
      "play DEMO --seconds 1 --channels fender.position.",
      "play DEMO --seconds 1 --channels fender.position.q",
      "play DEMO --seconds 1 --channels .position",
      "play DEMO --seconds 1 --channels ..",
      "play DEMO --seconds 1 --channels fender.position.x.y",
      "play DEMO --seconds 1 --set ''",
      "play DEMO --seconds 1 --set fender.mass=",
      "play DEMO --seconds 1 --set fender.mass=nan",
      "play DEMO --seconds 1 --set fender.mass=-1",
      "play DEMO --seconds 1 --set fender.mass=1e300",
      "play DEMO --seconds 1 --set fender.position=1,2",
      "play DEMO --seconds 1 --set fender.position=nan,0,0",
      "play DEMO --seconds 1 --set fender.dials.=1",
      "play DEMO --seconds 1 --set fender.dials.push=many",
      "play DEMO --seconds 1 --set fender.dials.nothing.lua/push=1",
      "play DEMO --seconds 1 --set =3",
      "play DEMO --seconds 1 --csv '' --channels fender.position",
      "play DEMO --seconds 1 --csv HERE --channels fender.position",
      "play DEMO --seconds 1 --events HERE",
      "play DEMO --seconds 1 --events ''",
      "play DEMO --seconds 1 --inputs HERE",
      "play DEMO --seconds 1 --inputs HERE/missing",
      "play DEMO --seconds 1 --inputs ''",
      "play DEMO --seconds 1 --fast",
      "play HERE --seconds 1",
      "play '' --seconds 1",
      "report HERE",
      "report DEMO --seconds nan",
      "report DEMO --seconds -1",
      "prove nothing_of_the_kind",
      "prove --threads 0",
      "mesh",
      "mesh HERE/missing.obj",
      "mesh HERE",
      "mesh HERE/missing.obj --scale 0",
      "mesh HERE/missing.obj --scale -1",
      "mesh HERE/missing.obj --scale nan",
      "mesh HERE/missing.obj --scale inf",
      "mesh HERE/missing.obj --scale 1e300",
      "mesh HERE/missing.obj --scale ''",
      "schema more",
      "play play play",
  };
  for (const char* call : calls) {
    CAPTURE(call);
    const Result r = cli(filled(call));
    CHECK(r.code == 2);
    CHECK(r.text.size() > 10);
  }
}

TEST_CASE("inputs with misspelt keys, two kinds in a line or impossible values are refused") {
  const char* lines[] = {
      R"({"tick": 1, "acton": "haul"})",
      R"({"tick": 1, "action": "haul", "valeu": 1})",
      R"({"tick": 1, "action": "haul", "drop": true})",
      R"({"tick": 1, "grab": "fender", "carry": [0, 0, 0]})",
      R"({"tick": 1, "grab": "fender", "most": -5})",
      R"({"tick": 1, "grab": "fender", "turning": "loked"})",
      R"({"tick": 1, "flick": "fender", "at": [0, 0, 0]})",
      R"({"tick": 1, "flick": "fender", "at": [0, 0], "impulse": [0, 0, 0]})",
      R"({"tick": 1, "blast": [0, 0, 0], "radus": 3})",
      R"({"tick": 1, "blast": [0, 0, 0], "falloff": "cubic"})",
      R"({"tick": 1, "cut": "fender", "at": [0, 0, 0]})",
      R"({"tick": 1.5, "drop": true})",
      R"({"tick": -1, "drop": true})",
      R"({"tick": "1", "drop": true})",
      R"({"tick": 1, "tick": 2, "drop": true})",
      R"({"drop": true})",
      R"({"tick": 1})",
      R"([1, 2])",
      R"(hello)",
      "{\"tick\": 1, \"action\": \"\xff\"}",
  };
  for (const char* line : lines) {
    CAPTURE(line);
    const fs::path file = scratch() / "inputs.jsonl";
    write_atomically(file, std::string(line) + "\n");
    const Result r = cli("play " + quay + " --seconds 0.1 --inputs " + file.string());
    CHECK(r.code == 2);
    CHECK_THAT(r.text, Catch::Contains("inputs.jsonl:1"));
  }
}

TEST_CASE("what can't be written to its end is told, and is no success") {
  const std::string play = "play " + quay + " --seconds 2 --channels fender.position,fender.velocity ";
  const auto refused = [](const std::string& call) {
    CAPTURE(call);
    const Result r = shell(call);
    CHECK(r.code == 2);
    CHECK_THAT(r.text, Catch::Contains("could not be written to its end"));
  };
  refused(cli_call(play + "--csv /dev/full"));
  refused(cli_call(play + "--csv /dev/null --events /dev/full"));
  refused(cli_call(play) + " 2>&1 >/dev/full");
  refused(cli_call("schema") + " 2>&1 >/dev/full");
  refused(cli_call("reference") + " 2>&1 >/dev/full");
  refused(cli_call("report " + quay) + " 2>&1 >/dev/full");
  refused(cli_call("play " + quay + " --seconds 0.1 --digest") + " 2>&1 >/dev/full");
  // A size limit: the file stops growing in the middle.
  refused("(ulimit -f 8; " + cli_call(play + "--csv " + (scratch() / "limited.csv").string()) + ")");
  // A reader that goes away: the words are on standard error, the pipe's own status is the last command's.
  const Result gone =
      shell("(" + cli_call(play + "--seconds 20") + " 2>" + (scratch() / "said").string() + "; echo code $? >>" +
            (scratch() / "said").string() + ") | head -2 >/dev/null; cat " + (scratch() / "said").string());
  CHECK_THAT(gone.text, Catch::Contains("code 2") || Catch::Contains("--seconds"));
}

TEST_CASE("a length of time that is no whole number of ticks is said") {
  const Result r = cli("play " + quay + " --seconds 0.1234 --digest");
  CHECK(r.code == 0);
  CHECK_THAT(r.text, Catch::Contains("no whole number of ticks"));
  CHECK_THAT(cli("play " + quay + " --seconds 0.5 --digest").text, !Catch::Contains("whole number"));
}

TEST_CASE("a body that is gone leaves its columns empty") {
  const fs::path path = scratch() / "leaving";
  fs::create_directories(path / "scripts");
  write_atomically(path / "scene.json",
                   R"({"bronvel": 1, "bodies": [{"name": "cask", "shape": {"sphere": {"radius": 0.5}},
                       "scripts": [{"file": "act.lua"}]}]})");
  write_atomically(path / "scripts" / "act.lua", "function on.tick() if scene.tick == 3 then body:remove() end end\n");
  const Result r = cli("play " + path.string() + " --seconds 0.1 --tick-rate 100 --channels cask.position,cask.speed");
  CHECK(r.code == 0);
  CHECK_THAT(r.text, Catch::Contains("\n0.03,0,") && Catch::Contains("\n0.04,,,,\n") && Catch::Contains("\n0.1,,,,\n"));
}

TEST_CASE("a play is recorded, told of, and asked again, as it was and with other values") {
  const std::string take = (scratch() / "quay.take").string();
  const Result first = cli("play " + quay + " --seconds 1 --take " + take + " --digest");
  REQUIRE(first.code == 0);
  const Result told = cli("take " + take);
  CHECK(told.code == 0);
  CHECK_THAT(told.text, Catch::Contains("Skerrow quay: 1 s at 120 Hz"));
  CHECK_THAT(told.text, Catch::Contains("fender.dials.nudge.lua/push"));
  CHECK_THAT(cli("take " + take + " --json").text, Catch::Contains("\"ticks\": 121"));
  const Result again = cli("replay " + take + " --digest");
  CHECK(again.code == 0);
  CHECK(again.text == first.text);
  const Result other = cli("replay " + take + " --set fender.dials.push=9 --digest");
  CHECK(other.code == 0);
  CHECK(other.text != first.text);
  // Of the scene as it is now, for longer, into another take; with a channel of it.
  const Result now =
      cli("replay " + take + " --now " + quay + " --seconds 2 --channels fender.dials.push,fender.energy --take " +
          (scratch() / "now.take").string());
  CHECK(now.code == 0);
  CHECK_THAT(now.text, Catch::StartsWith("time,fender.dials.push,fender.energy"));
  CHECK_THAT(cli("take " + (scratch() / "now.take").string()).text, Catch::Contains(": 2 s at 120 Hz"));
  for (const char* call : {"take HERE/no.take", "take HERE", "replay HERE/no.take", "replay ", "take",
                           "play DEMO --seconds 1 --take HERE/no/x.take", "play DEMO --seconds 1 --take ''"}) {
    CAPTURE(call);
    const Result ran = cli(filled(call));
    CHECK(ran.code == 2);
    CHECK(ran.text.size() > 10);
  }
}

TEST_CASE("why, energy and difference tell what they are asked, as words and as JSON") {
  const auto told = [](const std::string& call) {
    const Result result = shell(in_build("/bronvel-cli ") + filled(call) + " 2>/dev/null");
    INFO(call << "\n" << result.text);
    CHECK(result.code == 0);
    return result.text;
  };
  CHECK(told("why DEMO --body fender --at 0.3").find("nudge.lua:21 force") != std::string::npos);
  const Json why = Json::parse(told("why DEMO --body fender --at 0.3 --json"));
  CHECK(why["causes"][0]["cause"] == "weight");
  CHECK(why["causes"][0]["force"][1].get<double>() == Approx(-88.29));
  CHECK(why["mass_times_acceleration"][0].get<double>() == Approx(2.97).margin(0.05));
  CHECK(told("energy DEMO --body fender --to 1").find("hit on quay") != std::string::npos);
  const Json energy = Json::parse(told("energy DEMO --to 1 --json"));
  CHECK(energy["causes"].size() > 2);
  told("play DEMO --seconds 1 --take HERE/why_a.take");
  told("play DEMO --seconds 1 --set fender.dials.push=9 --take HERE/why_b.take");
  CHECK(told("difference HERE/why_a.take HERE/why_b.take").find("fender departs first") != std::string::npos);
  CHECK(Json::parse(told("difference HERE/why_a.take HERE/why_b.take --json"))["departures"][0]["body"] == "fender");
  CHECK(told("why HERE/why_a.take --body fender --at 0.5").find("fender at 0.500 s") != std::string::npos);
  CHECK(told("balance DEMO --seconds 1").find("skerrow-quay") != std::string::npos);
}
