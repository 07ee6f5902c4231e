// Killed while it saves: the file on disk is always whole.
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <filesystem>

#include "scene/files/folder.h"

using namespace bronvel;
namespace fs = std::filesystem;

TEST_CASE("a scene killed in the middle of saving, forty times, opens as one of the two that were saved") {
  const fs::path path = fs::temp_directory_path() / ("bronvel-kill-" + std::to_string(getpid()));
  Scene scene;
  for (int i = 0; i < 400; ++i) {
    Body body;
    body.name = "crate_" + std::to_string(i);
    body.position.x() = i;
    scene.bodies.push_back(body);
  }
  Scene other = scene;
  other.name = "other";
  other.bodies.resize(150);
  save_folder({path, scene, {}});
  int first = 0, second = 0;
  for (int trial = 0; trial < 40; ++trial) {
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
      for (;;) {
        save_folder({path, other, {}});
        save_folder({path, scene, {}});
      }
    }
    usleep(static_cast<useconds_t>(3000 + 700 * trial));
    kill(child, SIGKILL);
    int status = 0;
    waitpid(child, &status, 0);
    REQUIRE(WIFSIGNALED(status));
    const Scene found = open_folder(path).scene;
    REQUIRE((found == scene || found == other));
    (found == scene ? first : second) += 1;
  }
  CHECK(first + second == 40);
  fs::remove_all(path);
}
