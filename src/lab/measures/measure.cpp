// The list of measures, and reading what was asked for.
#include "lab/measures/measure.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <sstream>

#include "geometry/base/error.h"
#include "lab/measures/call_text.h"
#include "lab/measures/gauges.h"
#include "scene/document/names.h"
#include "scene/files/folder.h"

namespace bronvel {
namespace {

void want_known(const std::string& name, const std::vector<std::string>& known, const std::string& what,
                const std::string& where) {
  if (std::find(known.begin(), known.end(), name) != known.end()) return;
  const std::string near = nearest_name(name, known);
  throw Error(where, "there is no " + what + " called \"" + name + "\"", near.empty() ? "" : "perhaps " + near);
}

// One argument, by what the list says of it.
void take_argument(Measure& measure, const std::string& what, const std::string& text, const Scene& scene,
                   const std::string& folder) {
  const std::string where = "measure " + measure.text;
  const ChannelOwners owners = ChannelOwners::that_may_come(scene);
  const auto want_body = [&] {
    if (!owners.is_body(text)) want_known(text, names_of(scene.bodies), "body", where);
  };
  if (what == "body") {
    want_body();
    (measure.thing.empty() ? measure.thing : measure.other) = text;
  } else if (what == "thing") {
    if (!owners.is_joint(text)) want_body();
    measure.thing = text;
  } else if (what == "zone") {
    want_known(text, names_of(scene.zones), "zone", where);
    measure.other = text;
  } else if (what == "path") {
    want_known(text, names_of(scene.paths), "path", where);
    measure.other = text;
  } else if (what == "channel") {
    measure.channel = channel_called(text, owners);
    if (measure.channel->columns.size() != 1)
      throw Error(where, text + " is several numbers", "say which: " + measure.channel->columns[0]);
    measure.thing = measure.channel->owner;
  } else if (what == "file") {
    const std::filesystem::path file = std::filesystem::path(folder) / text;
    measure.track = std::make_shared<const Track>(read_track(read_file(file), text));
    measure.other = text;
  } else if (what == "count") {
    measure.number = number_in(text, where);
    if (!(*measure.number >= 1 && *measure.number <= 1e6 && *measure.number == std::floor(*measure.number)))
      throw Error(where, "wants a whole number from 1 up, got " + text);
  } else if (what == "number") {
    measure.number = number_in(text, where);
  } else {
    measure.other = text;  // a name or a cause
  }
}

// "1..3", "2..", "..4"
void take_stretch(Measure& measure, const std::string& text) {
  const std::string where = "measure " + measure.text;
  const auto dots = text.find("..");
  if (dots == std::string::npos) throw Error(where, "wants a stretch of time as @1..3, got @" + text);
  if (dots > 0) measure.from = number_in(text.substr(0, dots), where);
  if (dots + 2 < text.size()) measure.to = number_in(text.substr(dots + 2), where);
  if (!(measure.from < measure.to)) throw Error(where, "has an empty stretch of time");
}

}  // namespace

std::span<const MeasureKind> measure_kinds() {
  namespace g = gauges;
  static const std::vector<MeasureKind> all{
      {"apex", "body", "m", "how high it comes", g::apex},
      {"apex_time", "body", "s", "when it is highest", g::apex_time},
      {"lowest", "body", "m", "how low it comes", g::lowest},
      {"farthest", "body", "m", "how far it comes from where it was first, on the level", g::farthest},
      {"way", "body", "m", "length of the way that it goes", g::way},
      {"top_speed", "body", "m/s", "its greatest speed", g::top_speed},
      {"mean_speed", "body", "m/s", "the mean of its speed", g::mean_speed},
      {"rest_time", "body", "s", "when it comes to rest, and rests until the end", g::rest_time},
      {"bounce", "body, count?", "m", "how high it rises after its first (or n-th) touch, from where it touched",
       g::bounce},
      {"bounces", "body, number?", "", "how often it rises by more than that (1 cm if not given) after a touch",
       g::bounces},
      {"fit", "body, file", "m", "how far it is from where the CSV file saw it, as the root of the mean square",
       g::fit},
      {"touch_time", "body, body?, count?", "s", "when it first (or for the n-th time) touches anything (or the other)",
       g::touch_time},
      {"touch_x", "body, body?, count?", "m", "where that is, x", g::touch_x},
      {"touch_y", "body, body?, count?", "m", "where that is, y", g::touch_y},
      {"touch_z", "body, body?, count?", "m", "where that is, z", g::touch_z},
      {"touch_range", "body, body?, count?", "m", "how far that is from where it was first, on the level",
       g::touch_range},
      {"touches", "body, body?", "", "how often it touches anything (or the other)", g::touches},
      {"hardest_hit", "body, body?", "N·s", "the greatest impulse along the normal of any of its touches",
       g::hardest_hit},
      {"hit_speed", "body, body?", "m/s", "the greatest closing speed of any of its touches", g::hit_speed},
      {"enter_time", "body, zone", "s", "when it first comes into the zone", g::enter_time},
      {"stay", "body, zone", "s", "how long it is in the zone, all in all", g::stay},
      {"arrive_time", "body, path?", "s", "when its first ride (or that on the path) ends", g::arrive_time},
      {"arrive_x", "body, path?", "m", "where that is, x", g::arrive_x},
      {"arrive_y", "body, path?", "m", "where that is, y", g::arrive_y},
      {"arrive_z", "body, path?", "m", "where that is, z", g::arrive_z},
      {"pieces", "body", "", "how many pieces break off it, those of its pieces too", g::pieces},
      {"strain", "body", "", "the greatest use of any of its bonds: 1 breaks", g::strain},
      {"holds", "thing", "", "whether the body or joint does not break", g::holds, true},
      {"lost", "body, cause?", "J",
       "the energy that was taken from it, by a cause (\"drag\", \"friction\", \"hit\") or by all", nullptr},
      {"at", "channel, number", "=", "the channel's value at that moment, s", g::at},
      {"least", "channel", "=", "its least value", g::least},
      {"greatest", "channel", "=", "its greatest value", g::greatest},
      {"mean", "channel", "=", "the mean of its values", g::mean},
      {"final", "channel", "=", "its last value", g::final_value},
      {"least_time", "channel", "s", "when it is least", g::least_time},
      {"greatest_time", "channel", "s", "when it is greatest", g::greatest_time},
      {"reaches", "channel, number", "s", "when it first reaches that value", g::reaches},
      {"period", "channel", "s", "how long one of its swings about its middle takes", g::period},
      {"told", "body, name", "", "what a script of the body told last by `measure(name, value)`", g::told},
  };
  return all;
}

Measure measure_called(const std::string& text, const Scene& scene, const std::string& folder) {
  Measure measure;
  measure.text = text;
  const auto stretch = text.rfind('@');
  const std::string call = text.substr(0, stretch);
  const auto colon = call.find(':');
  const std::string name = call.substr(0, colon);
  for (const MeasureKind& kind : measure_kinds())
    if (name == kind.name) measure.kind = &kind;
  const std::string where = "measure " + (text.empty() ? "\"\"" : text);
  if (!measure.kind) {
    const std::string near = nearest_name(name, names_of(measure_kinds()));
    throw Error(where, "there is no measure called \"" + name + "\"",
                near.empty() ? "bronvel-cli measures lists them" : "perhaps " + near);
  }
  std::vector<std::string> given;
  if (colon != std::string::npos) given = parts_of(call.substr(colon + 1), ',');
  std::vector<std::string> wanted = parts_of(measure.kind->arguments, ',');
  if (given.size() > wanted.size())
    throw Error(where, "wants no more than " + std::string(name) + ":" + measure.kind->arguments);
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    std::string what = wanted[i].substr(wanted[i].find_first_not_of(' '));
    const bool may_lack = what.back() == '?';
    if (may_lack) what.pop_back();
    const std::string argument = i < given.size() ? given[i] : "";
    if (!argument.empty())
      take_argument(measure, what, argument, scene, folder);
    else if (!may_lack)
      throw Error(where, "wants a " + what, "write it as " + name + ":" + measure.kind->arguments);
  }
  if (stretch != std::string::npos) take_stretch(measure, text.substr(stretch + 1));
  measure.unit = std::string(measure.kind->unit) == "=" ? measure.channel->unit : measure.kind->unit;
  return measure;
}

std::string measure_words(const Measure& measure) {
  std::string kind = measure.kind->name;
  std::replace(kind.begin(), kind.end(), '_', ' ');
  std::string words = kind + " of " + (measure.channel ? measure.channel->columns[0] : measure.thing);
  if (!measure.other.empty())
    words += std::string(measure.kind->arguments).starts_with("body, body") ? " with " + measure.other
                                                                            : ", " + measure.other;
  char number[32];
  if (measure.number) {
    std::snprintf(number, sizeof number, ", %g", *measure.number);
    words += number;
  }
  if (const auto at = measure.text.rfind('@'); at != std::string::npos)
    words += ", " + measure.text.substr(at + 1) + " s";
  return words;
}

std::string measured_text(const Measure& measure, double value) {
  if (std::isnan(value)) return "never";
  if (measure.kind->yes_no) return value != 0 ? "yes" : "no";
  char text[40];
  std::snprintf(text, sizeof text, "%.4g", value);
  return text;
}

Track read_track(const std::string& text, const std::string& file) {
  std::stringstream lines(text);
  std::string line;
  const auto cells_of = [](std::string row) {
    while (!row.empty() && (row.back() == '\r' || row.back() == ' ')) row.pop_back();
    std::vector<std::string> cells = parts_of(row, ',');
    for (std::string& cell : cells) {
      cell.erase(0, cell.find_first_not_of(" \""));
      while (!cell.empty() && (cell.back() == ' ' || cell.back() == '"')) cell.pop_back();
    }
    return cells;
  };
  if (!std::getline(lines, line)) throw Error(file, "is empty", "a first line as time,x,y,z");
  int time = -1;
  std::array<int, 3> axis{-1, -1, -1};
  const std::vector<std::string> header = cells_of(line);
  for (std::size_t i = 0; i < header.size(); ++i) {
    const int column = static_cast<int>(i);
    if (header[i] == "time" || header[i] == "t") time = column;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::string name(1, static_cast<char>('x' + k));
      if (axis[k] < 0 && (header[i] == name || header[i].ends_with("." + name))) axis[k] = column;
    }
  }
  if (time < 0) throw Error(file, "has no column \"time\"", "a first line as time,x,y,z");
  if (std::all_of(axis.begin(), axis.end(), [](int column) { return column < 0; }))
    throw Error(file, "has none of the columns x, y, z", "a first line as time,x,y,z");
  Track track;
  for (int number = 2; std::getline(lines, line); ++number) {
    const std::vector<std::string> cells = cells_of(line);
    if (cells.empty()) continue;
    const auto cell = [&](int column) -> std::optional<double> {
      if (column < 0 || static_cast<std::size_t>(column) >= cells.size()) return std::nullopt;
      const std::string& found = cells[static_cast<std::size_t>(column)];
      if (found.empty()) return std::nullopt;
      return number_in(found, file + ":" + std::to_string(number));
    };
    const auto when = cell(time);
    if (!when || (!track.times.empty() && *when <= track.times.back()))
      throw Error(file + ":" + std::to_string(number), "wants a time later than the one before");
    track.times.push_back(*when);
    Vec3 place;
    for (int k = 0; k < 3; ++k)
      place[k] = cell(axis[static_cast<std::size_t>(k)]).value_or(std::numeric_limits<double>::quiet_NaN());
    track.places.push_back(place);
  }
  if (track.times.empty()) throw Error(file, "has no line of numbers");
  return track;
}

std::string measures_page() {
  std::string page =
      "# Measures\n\nNumbers read off a whole play. They are written as `apex:buoy`, with what they are of behind the\n"
      "colon; `?` may be left out. Behind an `@` stands the stretch of time that counts: `touches:buoy@1..3`. What\n"
      "never comes about is *never*, and met by no bound. This page is made by `bronvel-cli measures --page`.\n\n"
      "| measure | unit | what it is |\n|---|---|---|\n";
  for (const MeasureKind& kind : measure_kinds()) {
    const std::string unit = std::string(kind.unit) == "=" ? "the channel's" : kind.yes_no ? "yes or no" : kind.unit;
    page += "| `" + std::string(kind.name) + ":" + kind.arguments + "` | " + unit + " | " + kind.about + " |\n";
  }
  return page;
}

}  // namespace bronvel
