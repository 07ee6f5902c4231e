// bronvel-cli: the bench's work without the bench. Exit codes: 0 done, 1 a script or an experiment failed, 2 the call
// or the scene is wrong.
#include <CLI/CLI.hpp>
#include <algorithm>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <iostream>
#include <thread>

#include "cli/ask.h"
#include "cli/validators.h"
#include "cli/why.h"
#include "geometry/base/error.h"
#include "geometry/meshes/fit.h"
#include "lab/ask/headless.h"
#include "lab/takes/take_file.h"
#include "prove/prove.h"
#include "scene/files/model_import.h"
#include "scene/files/schema.h"
#include "script/reference/reference.h"

namespace {

using bronvel::length_of_time;
using bronvel::number_from;
using bronvel::something;
using bronvel::whole_number;

constexpr int done = 0, script_failed = 1, experiment_failed = 1, call_wrong = 2;

int play(const bronvel::HeadlessRequest& request, bool digest) {
  const bronvel::HeadlessResult result = bronvel::play_headless(request);
  for (const bronvel::LogLine& line : result.log)
    if (line.level != bronvel::LogLevel::print || request.events_file != "-") std::cerr << line.whole() << "\n";
  if (digest) std::printf("%016llx\n", static_cast<unsigned long long>(result.digest));
  return result.script_failed || result.other_than_recorded ? script_failed : done;
}

int tell_take(const std::string& file, bool json) {
  const bronvel::TakeFile take = bronvel::open_take(file);
  std::cout << (json ? bronvel::take_summary_json(take) : bronvel::take_summary(take));
  return done;
}

struct ProveCall {
  std::string only;
  bool json = false, slowest = false;
  int threads = 0;  // 0: as many as the machine has cores
};

int prove(const ProveCall& call) {
  const unsigned cores = std::max(1U, std::thread::hardware_concurrency());
  const bronvel::ProveResult result =
      bronvel::play_experiments(call.only, call.threads > 0 ? call.threads : static_cast<int>(cores));
  std::cout << (call.json ? bronvel::findings_json(result.findings) : bronvel::findings_table(result.findings));
  int bad = 0;
  for (const bronvel::Finding& f : result.findings) bad += f.good() ? 0 : 1;
  if (!call.json)
    std::cout << result.findings.size() - static_cast<std::size_t>(bad) << " within their limits, " << bad << " not\n";
  if (call.slowest) std::cout << bronvel::slowest_table(result);
  return bad == 0 ? done : experiment_failed;
}

// What could stand for a mesh in collisions, and how well; one file after another.
int fit_meshes(const std::vector<std::string>& files, double scale, bool z_up, double patience) {
  int refused = 0;
  for (const std::string& file : files) {
    const auto start = std::chrono::steady_clock::now();
    try {
      const bronvel::ImportedModel imported = bronvel::import_model(file);
      const bronvel::Model model =
          bronvel::in_metres(bronvel::joined_pieces(imported), scale, z_up ? bronvel::UpAxis::z : bronvel::UpAxis::y);
      const bronvel::Bounds bounds = bronvel::model_bounds(model);
      const bronvel::Vec3 extent = bounds.high - bounds.low;
      std::printf("%s: %zu pieces, %zu triangles, %.4g x %.4g x %.4g m, %s\n", file.c_str(), imported.pieces.size(),
                  imported.triangles, extent.x(), extent.y(), extent.z(),
                  bronvel::model_closed(model) ? "closed" : "open");
      for (int kind = 0; kind < 7; ++kind) {
        const auto began = std::chrono::steady_clock::now();
        bronvel::FitPlan plan;
        plan.go_on = [&] {
          return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count() < patience;
        };
        const bronvel::Fit fit = bronvel::fit_to(model, static_cast<bronvel::FitKind>(kind), plan);
        if (fit.fault.empty() && fit.misfit.volume_ratio == 0)
          std::printf("  %-12s  no volume (open)  greatest gap %10.3f mm  %d parts\n",
                      bronvel::fit_word(fit.kind).c_str(), 1000 * fit.misfit.gap, fit.parts);
        else if (fit.fault.empty())
          std::printf("  %-12s  volume x %6.3f  greatest gap %10.3f mm  %d part%s\n",
                      bronvel::fit_word(fit.kind).c_str(), fit.misfit.volume_ratio, 1000 * fit.misfit.gap, fit.parts,
                      fit.parts == 1 ? "" : "s");
        else
          std::printf("  %-12s  none: %s\n", bronvel::fit_word(fit.kind).c_str(), fit.fault.c_str());
      }
    } catch (const bronvel::Error& e) {
      std::printf("%s: refused: %s\n", file.c_str(), e.what());
      ++refused;
    }
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
    std::printf("  %.2f s\n", took.count());
    std::fflush(stdout);
  }
  return refused == 0 ? done : call_wrong;
}

int run(int argc, char** argv) {
  CLI::App app("Plays Bronvel scenes without a window.");
  app.require_subcommand(1);

  bronvel::HeadlessRequest request;
  bool digest = false;
  request.threads = std::clamp(static_cast<int>(std::thread::hardware_concurrency()), 1, 8);
  auto* play_call = app.add_subcommand("play", "play a scene for some seconds and write what was asked for");
  auto* replay_call =
      app.add_subcommand("replay", "ask a take again: as it was, with other values, or of a scene as it is now");
  play_call->add_option("scene", request.scene, "the scene's folder")->required();
  play_call->add_option("--seconds", request.seconds, "how long, s")->required()->check(length_of_time);
  replay_call->add_option("take", request.asked_again, "the take's file")->required();
  replay_call->add_option("--now", request.scene, "the folder of a scene to ask of it, instead of the take's own");
  replay_call->add_option("--seconds", request.seconds, "how long, s; as long as the take if not given")
      ->check(length_of_time);
  for (CLI::App* call : {play_call, replay_call}) {
    call->add_option("--tick-rate", request.tick_rate, "ticks a second, instead of the scene's")
        ->check(number_from(1, 10000, "1 to 10,000 Hz"));
    call->add_option("--substeps", request.substeps, "solver steps a tick, instead of the scene's")
        ->check(CLI::Range(1, 64));
    call->add_option("--threads", request.threads, "threads to use; the result does not depend on it")
        ->check(CLI::Range(1, 64));
    call->add_option("--seed", request.seed, "seed for random, instead of the scene's")->check(whole_number);
    call->add_option(
            "--set", request.settings,
            "THING.PROPERTY=VALUE of a body, joint or zone, surfaces.NAME.PROPERTY=VALUE, world.PROPERTY=VALUE, "
            "BODY.dials.NAME=VALUE or BODY.dials.SCRIPT/NAME=VALUE, any number of times")
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
    call->add_option("--channels", request.channels,
                     "what to write to the CSV: crane_hook.position,cord.reaction,fender.dials.push,fender.watch.climb")
        ->check(something);
    call->add_option("--csv", request.csv_file, "where to; standard output if not given")->check(something);
    call->add_option("--events", request.events_file, "write events and log as JSON lines; - for standard output")
        ->check(something);
    call->add_option("--wav", request.wav_file, "write what would be heard from where the scene is looked at")
        ->check(something);
    call->add_option("--take", request.take_file, "record the whole play into this file")->check(something);
    call->add_flag("--digest", digest, "print a hash of the bits of all body states at the end");
  }
  play_call
      ->add_option("--inputs", request.inputs_file,
                   "inputs to play: JSON lines such as {\"tick\": 12, \"action\": \"haul\", \"value\": 1}")
      ->check(something);

  std::string take_file;
  bool take_json = false;
  auto* take_call = app.add_subcommand("take", "say what is in a take");
  take_call->add_option("take", take_file, "the take's file")->required();
  take_call->add_flag("--json", take_json, "as JSON");

  std::string report_scene;
  double report_seconds = 6;
  auto* report_call = app.add_subcommand("report", "play a scene and say in a few lines what happened");
  report_call->add_option("scene", report_scene, "the scene's folder")->required();
  report_call->add_option("--seconds", report_seconds, "how long, s")->check(length_of_time);

  ProveCall prove_options;
  auto* prove_call = app.add_subcommand("prove", "compare the physics with closed forms and print a table");
  std::string subject_names;
  for (const bronvel::Subject& subject : bronvel::subjects())
    subject_names += (subject_names.empty() ? "" : ", ") + subject.name;
  prove_call->add_option("subject", prove_options.only, "one subject only: " + subject_names);
  prove_call->add_flag("--json", prove_options.json, "as JSON");
  prove_call->add_flag("--slowest", prove_options.slowest, "also the ten slowest experiments and the whole time");
  prove_call->add_option("--threads", prove_options.threads, "how many experiments side by side; as many as cores")
      ->check(CLI::Range(1, 256));

  auto* schema_call = app.add_subcommand("schema", "print the JSON Schema of scene.json");

  auto* reference_call = app.add_subcommand("reference", "print the page of all that scripts can use");

  std::vector<std::string> mesh_files;
  double mesh_scale = 1;
  bool mesh_z_up = false;
  auto* mesh_call =
      app.add_subcommand("mesh", "what shapes could stand for a mesh in collisions, and how well they fit");
  mesh_call->add_option("files", mesh_files, "OBJ, STL or glTF")->required();
  mesh_call->add_option("--scale", mesh_scale, "metres in one unit of the file")
      ->check(number_from(1e-9, 1e9, "a number above 0, 1e-9 to 1e9"));
  mesh_call->add_flag("--z-up", mesh_z_up, "the file has Z up");
  double patience = 20;
  mesh_call->add_option("--patience", patience, "so long one kind of shape is looked for, s; 20 if not given")
      ->check(length_of_time);

  int code_of_call = done;
  const auto end = [&](int code) { code_of_call = code; };
  bronvel::add_why(app, end);
  bronvel::add_ask(app, end);
  bronvel::add_sweep(app, end);

  if (argc > 1 && argv[1][0] != '-') {
    const std::string wanted = argv[1];
    std::string known;
    bool found = false;
    for (const CLI::App* call : app.get_subcommands([](CLI::App*) { return true; })) {
      found = found || call->get_name() == wanted;
      known += (known.empty() ? "" : ", ") + call->get_name();
    }
    if (!found) throw bronvel::Error(wanted, "is not a subcommand", "known: " + known);
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) {
    const int code = app.exit(e);
    return code == 0 ? done : call_wrong;
  }
  if (*play_call || *replay_call) return play(request, digest);
  if (*take_call) return tell_take(take_file, take_json);
  if (*report_call) std::cout << bronvel::play_report(report_scene, report_seconds);
  if (*prove_call) return prove(prove_options);
  if (*mesh_call) return fit_meshes(mesh_files, mesh_scale, mesh_z_up, patience);
  if (*schema_call) std::cout << bronvel::json_text(bronvel::scene_schema());
  if (*reference_call) std::cout << bronvel::reference_page();
  return code_of_call;
}

}  // namespace

int main(int argc, char** argv) {
  // A closed pipe or a size limit makes writing fail, which is told; it does not end the program unheard.
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
  try {
    const int code = run(argc, argv);
    std::cout.flush();
    if (!std::cout || std::fflush(stdout) != 0 || std::ferror(stdout) != 0)
      throw bronvel::Error("standard output", "could not be written to its end",
                           "is the disk full, or the reader gone?");
    return code;
  } catch (const std::exception& e) {
    std::fprintf(stderr, "bronvel-cli: %s\n", e.what());
  }
  return call_wrong;
}
