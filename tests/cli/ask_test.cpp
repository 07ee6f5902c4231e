// Sweeps, aims, what matters, rates and checks from the command line, as a user calls them.
#include <algorithm>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "cli/run.h"

using namespace bronvel;

namespace {

std::string the_quay() {
  return in_checkout("/examples/skerrow-quay");
}

struct Folder {
  std::filesystem::path path = std::filesystem::temp_directory_path() / "bronvel-ask-cli";
  Folder() {
    std::filesystem::remove_all(path);
    std::filesystem::create_directories(path);
  }
  ~Folder() { std::filesystem::remove_all(path); }
  std::string file(const std::string& name) const { return (path / name).string(); }
};

std::string text_of(const std::string& file) {
  std::ifstream stream(file);
  return {std::istreambuf_iterator<char>(stream), {}};
}

}  // namespace

TEST_CASE("a sweep in shares is gathered to the bytes of one") {
  const Folder folder;
  const std::string call =
      "sweep " + the_quay() + " --vary fender.dials.push=-5:5:7 --measure farthest:fender --quiet ";
  CHECK(cli(call + "--csv " + folder.file("one.csv")).code == 0);
  for (const std::string k : {"1", "2"})
    CHECK(cli(call + "--jobs " + k + " --share " + k + "/2 --out " + folder.file(k)).code == 0);
  CHECK(cli("gather " + folder.file("2") + " " + folder.file("1") + " --csv " + folder.file("two.csv")).code == 0);
  const std::string one = text_of(folder.file("one.csv"));
  CHECK(std::count(one.begin(), one.end(), '\n') == 8);
  CHECK(text_of(folder.file("two.csv")) == one);
  const Result missing = cli("gather " + folder.file("2"));
  CHECK(missing.code == 2);
  CHECK_THAT(missing.text, Catch::Contains("none numbered 1"));
}

TEST_CASE("bad calls say what and where, with exit code 2, and write nothing") {
  const Folder folder;
  const auto bad = [&](const std::string& arguments, const std::string& says) {
    const Result result = cli(arguments);
    CAPTURE(arguments, result.text);
    CHECK(result.code == 2);
    CHECK_THAT(result.text, Catch::Contains(says));
  };
  const std::string out = " --csv " + folder.file("x.csv");
  bad("sweep " + the_quay() + " --vary fender.dials.push=1:5:3 --measure hight:fender" + out, "no measure called");
  bad("sweep " + the_quay() + " --vary fender.dials.push=1:1:3 --measure apex:fender" + out, "empty range");
  bad("sweep " + the_quay() + " --vary fendr.mass=1:2:3 --measure apex:fender" + out, "fendr");
  bad("sweep " + the_quay() + " --vary fender.mass=1:2:3 --measure apex:fendr" + out, "perhaps fender");
  bad("sweep " + the_quay() + " --vary fender.mass=0:2:3 --measure apex:fender" + out, "mass");
  bad("sweep " + the_quay() + " --vary fender.mass=1:2:3 --measure apex:fender --share 3/2 --out x", "--share");
  bad("aim " + the_quay() + " --move fender.dials.push=0:5 --want farthest:fender=nan", "wants a number");
  bad("aim " + the_quay() + " --move fender.dials.push=0:5 --want farthest:fender", "what it shall be");
  bad("matters " + the_quay() + " --measure apex:fendr", "perhaps fender");
  bad("rates " + the_quay() + " --measure apex:fender --rates 0", "rates");
  bad("check /nowhere", "nowhere");
  CHECK(std::filesystem::is_empty(folder.path));
}

TEST_CASE("aim, matters, rates and check answer in words and as JSON") {
  const Folder folder;
  const Result aim = cli("aim " + the_quay() + " --move fender.dials.push=-10:10 --want farthest:fender=4 --json");
  REQUIRE(aim.code == 0);
  const auto found = nlohmann::json::parse(aim.text);
  CHECK(found["reached"] == true);
  CHECK(found["measured"].get<double>() == Approx(4).epsilon(1e-3));
  CHECK(found["tries"].size() <= 15);
  CHECK(cli("aim " + the_quay() + " --move fender.dials.push=-1:1 --want farthest:fender=400").code == 1);

  const Result matters = cli("matters " + the_quay() + " --measure farthest:fender --json");
  REQUIRE(matters.code == 0);
  const auto numbers = nlohmann::json::parse(matters.text)["numbers"];
  CHECK(numbers.size() > 20);
  CHECK(numbers[0]["change"].get<double>() != 0);

  const Result rates = cli("rates " + the_quay() + " --measure farthest:fender --rates 30,60 --substeps 2");
  CHECK(rates.code == 0);
  CHECK_THAT(rates.text, Catch::Contains("60 Hz, game loop") && Catch::Contains("120 Hz, 2 sub-steps"));

  const Result check = cli("check " + the_quay() + " --junit " + folder.file("r.xml"));
  CHECK(check.code == 0);
  CHECK_THAT(check.text, Catch::Contains("2 of 2 passed"));
  CHECK_THAT(text_of(folder.file("r.xml")),
             Catch::Contains("<testsuite name=\"Skerrow quay\" tests=\"2\" failures=\"0\""));
  std::filesystem::copy(the_quay(), folder.path / "quay", std::filesystem::copy_options::recursive);
  std::string scene = text_of(folder.file("quay/scene.json"));
  scene.replace(scene.find("\"equals\": 2.25"), 14, "\"equals\": 3.25");
  std::ofstream(folder.file("quay/scene.json")) << scene;
  CHECK(cli("check " + folder.file("quay")).code == 1);
  CHECK(cli("measures").text.find("touch_time") != std::string::npos);
}

TEST_CASE("the page of measures is that of the list") {
  CHECK(cli("measures --page").text == text_of(in_checkout("/docs/measures.md")));
}
