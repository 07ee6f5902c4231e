// Measures: numbers read off a whole play, each from one list; wishes, sweeps, aims and checks name them.
#pragma once

#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lab/readings/channel.h"

namespace bronvel {

struct Track;
struct Measure;

/// Reads a measure off a play while it goes on.
struct Gauge {
  std::function<void(const Play&)> take;  ///< before the first tick and after each
  std::function<double()> value;          ///< not a number where it never came about
};

/// One that there is.
struct MeasureKind {
  const char* name;       ///< "touch_time"
  const char* arguments;  ///< what stands behind the colon, with commas between: "body", "body?": may be left out
  const char* unit;       ///< SI; "=": the channel's
  const char* about;
  Gauge (*gauge)(const Measure&);  ///< null: it is read off the books
  bool yes_no = false;             ///< 1 or 0
};
std::span<const MeasureKind> measure_kinds();

/// One that was asked for.
struct Measure {
  std::string text;  ///< as it was called: "touch_time:fender,bollard,2@0..3"
  const MeasureKind* kind = nullptr;
  std::string thing;               ///< the body, or joint
  std::string other;               ///< body, zone, path, cause or name
  std::optional<double> number{};  ///< a count, a height, a moment or a value
  std::optional<Channel> channel{};
  std::shared_ptr<const Track> track{};                           ///< what was seen elsewhere, of `fit`
  double from = 0, to = std::numeric_limits<double>::infinity();  ///< the stretch of time that counts, s
  std::string unit;
};

/// Where something was at its times, from a file: what a body is laid beside.
struct Track {
  std::vector<double> times;  ///< s, growing
  std::vector<Vec3> places;   ///< m; not a number where the file does not tell
};

/// Reads "apex:ball", "at:ball.height,2.5", "touches:ball@1..3". Of a scene in `folder`, whose files `fit` reads.
/// Throws Error, saying what is known.
Measure measure_called(const std::string& text, const Scene& scene, const std::string& folder = "");

/// "apex of ball", "touch_time of fender with bollard": to be shown.
std::string measure_words(const Measure& measure);

/// "3.02", "yes", "never".
std::string measured_text(const Measure& measure, double value);

/// Reads a CSV of `time`, `x`, `y` and `z` (any of the last three may be missing; columns that end so count too, as
/// "ball.position.y"). Throws Error.
Track read_track(const std::string& text, const std::string& file);

/// A page of the list, as Markdown.
std::string measures_page();

}  // namespace bronvel
