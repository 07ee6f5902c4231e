// A play without a window: as fast as it goes, with channels, events and a digest written out.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "play/run/play.h"

namespace bronvel {

/// What `bronvel-cli play` or `bronvel-cli replay` was asked for.
struct HeadlessRequest {
  std::string scene;              ///< its folder; where a take is asked again, that to ask it of, "" for its own
  std::string asked_again;        ///< a take's file: its seed and inputs
  std::optional<double> seconds;  ///< else as long as the take
  std::optional<double> tick_rate;
  std::optional<int> substeps;
  std::optional<std::uint64_t> seed;
  int threads = 1;                    ///< never changes the result
  std::vector<std::string> settings;  ///< "fender.mass=4"
  std::string channels;               ///< "a.position,b.velocity"
  std::string csv_file;               ///< "-" for standard output
  std::string events_file;            ///< "-" for standard output
  std::string inputs_file;            ///< inputs to play again; none if empty
  std::string take_file;              ///< to record into; none if empty
  std::string wav_file;               ///< what would be heard from the scene's view; none if empty
};

struct HeadlessResult {
  std::uint64_t digest = 0;
  std::int64_t ticks = 0;
  bool script_failed = false;
  bool other_than_recorded = false;  ///< a take that was asked again as it was did not give the same bits
  std::vector<LogLine> log;
};

/// Throws Error when the call or the scene is wrong.
HeadlessResult play_headless(const HeadlessRequest& request);

/// A few lines on what the scene did in that time: where each moving body went, what it hit, what scripts said.
std::string play_report(const std::string& scene, double seconds);

}  // namespace bronvel
