// What is tried.
#include "cli/studied.h"

#include <cmath>
#include <filesystem>
#include <thread>

#include "cli/validators.h"
#include "geometry/base/error.h"
#include "lab/takes/take_file.h"
#include "script/calls/setting.h"

namespace bronvel {

void Studied::add_to(CLI::App& call) {
  call.add_option("source", source, "a scene's folder, or a take's file: its seed, inputs and length")->required();
  call.add_option("--seconds", seconds, "how long each play is, s; 5, or as long as the take, if not given")
      ->check(number_from(0, 1e5, "0 to 100,000 s"));
  call.add_option("--seed", seed, "seed for random, instead of its own")->check(whole_number);
  call.add_option("--inputs", inputs, "inputs to play, as JSON lines");
  call.add_option("--set", settings, "THING.PROPERTY=VALUE before anything is played, any number of times")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  call.add_option("--jobs", jobs, "plays side by side; as many as the machine has cores if not given")
      ->check(CLI::Range(1, 256));
}

Study Studied::study() const {
  Study study;
  if (std::filesystem::is_regular_file(source)) {
    const Take take = open_take(source).take;
    study = Study::of(take, take.folder);
  } else {
    constexpr double usual = 5;  // s
    study = Study::of(open_folder(source), usual);
  }
  for (const std::string& setting : settings) put_setting(study.folder, setting);
  study.inputs = without_settings(std::move(study.inputs), settings);
  if (seconds) study.seconds = *seconds;
  if (seed) study.seed = *seed;
  if (!inputs.empty()) study.inputs = read_inputs(read_file(inputs), inputs, study.folder.scene.world.tick_rate);
  return study;
}

int Studied::threads() const {
  return jobs > 0 ? jobs : static_cast<int>(std::max(1U, std::thread::hardware_concurrency()));
}

}  // namespace bronvel
