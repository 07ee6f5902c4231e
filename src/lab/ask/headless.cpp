// Headless plays.
#include "lab/ask/headless.h"

#include <cmath>
#include <cstdio>
#include <fstream>
#include <iostream>
#include <sstream>

#include "geometry/base/error.h"
#include "lab/ask/ask.h"
#include "lab/readings/channel.h"
#include "lab/takes/take_file.h"
#include "scene/files/fault.h"
#include "scene/files/json_text.h"
#include "script/calls/setting.h"
#include "sound/soundtrack.h"

namespace bronvel {
namespace {

Json vector(const Vec3& v) {
  return {v.x(), v.y(), v.z()};
}

std::string event_line(const PlayEvent& e, double tick_rate) {
  Json json{{"tick", e.tick},
            {"time", e.time(tick_rate)},
            {"event", e.phase == ContactPhase::touch ? "touch" : "part"},
            {"a", e.a},
            {"b", e.b}};
  if (e.phase == ContactPhase::touch) {
    json["point"] = vector(e.point);
    json["normal"] = vector(e.normal);
    json["speed"] = e.speed;
    json["impulse"] = e.impulse;
  }
  return json.dump();
}

std::string snap_line(const PlaySnap& s, double tick_rate) {
  return Json{{"tick", s.tick},   {"time", static_cast<double>(s.tick) / tick_rate},
              {"event", "snap"},  {"joint", s.joint},
              {"a", s.a},         {"b", s.b},
              {"force", s.force}, {"torque", s.torque}}
      .dump();
}

std::string zone_line(const PlayZoneEvent& z, double tick_rate) {
  return Json{{"tick", z.tick},
              {"time", static_cast<double>(z.tick) / tick_rate},
              {"event", z.entered ? "enter" : "leave"},
              {"zone", z.zone},
              {"body", z.body}}
      .dump();
}

std::string splash_line(const PlaySplash& s, double tick_rate) {
  return Json{{"tick", s.tick},          {"time", static_cast<double>(s.tick) / tick_rate},
              {"event", "splash"},       {"into", s.into},
              {"zone", s.zone},          {"body", s.body},
              {"speed", s.speed},        {"volume", s.volume},
              {"point", vector(s.point)}}
      .dump();
}

std::string crack_line(const PlayCrack& c, double tick_rate) {
  return Json{{"tick", c.tick},           {"time", static_cast<double>(c.tick) / tick_rate},
              {"event", "crack"},         {"body", c.body},
              {"parts", c.parts},         {"bonds", c.bonds},
              {"point", vector(c.point)}, {"use", c.use}}
      .dump();
}

std::string log_line(const LogLine& line, double tick_rate) {
  const char* word = line.level == LogLevel::print ? "print" : line.level == LogLevel::error ? "error" : "warning";
  return Json{{"tick", line.tick},     {"time", static_cast<double>(line.tick) / tick_rate},
              {"event", word},         {"body", line.body},
              {"script", line.script}, {"line", line.line},
              {"text", line.text}}
      .dump(-1, ' ', false, Json::error_handler_t::replace);
}

// A file or standard output; nothing when no name was given.
class Output {
 public:
  explicit Output(const std::string& name) {
    name_ = name;
    if (name.empty()) return;
    if (name == "-") {
      stream_ = &std::cout;
      return;
    }
    file_.open(name);
    if (!file_) throw Error(name, "can't be written", "is the folder there?");
    stream_ = &file_;
  }
  explicit operator bool() const { return stream_ != nullptr; }
  /// Throws Error where it can't be written: what is asked for comes whole or not at all.
  void line(const std::string& text) {
    if (!stream_) return;
    *stream_ << text << '\n';
    check();
  }
  void close() {
    if (!stream_) return;
    stream_->flush();
    check();
    if (file_.is_open()) file_.close();
    check();
  }

 private:
  void check() const {
    if (!*stream_)
      throw Error(name_ == "-" ? "standard output" : name_, "could not be written to its end",
                  "is the disk full, or the reader gone?");
  }

  std::string name_;
  std::ofstream file_;
  std::ostream* stream_ = nullptr;
};

}  // namespace

namespace {

// What is to be played, from the files that the request names; whole: it is asked as it was recorded.
Question question_of(const HeadlessRequest& request, const std::optional<TakeFile>& again, bool& whole) {
  Question question;
  if (again) {
    question = request.scene.empty() ? question_of(again->take) : question_of(again->take, open_folder(request.scene));
    whole = request.scene.empty() && request.settings.empty() && !request.seconds && !request.tick_rate &&
            !request.substeps && !request.seed && request.inputs_file.empty();
    question.inputs = without_settings(std::move(question.inputs), request.settings);
  } else {
    question.folder = open_folder(request.scene);
    question.seed = question.folder.scene.seed;
  }
  Scene& scene = question.folder.scene;
  if (request.seed) question.seed = *request.seed;
  if (request.tick_rate) scene.world.tick_rate = *request.tick_rate;
  if (request.substeps) scene.world.substeps = *request.substeps;
  check_scene(scene);
  // Before anything of the play begins: a script's top level and on.play see what was set.
  for (const std::string& setting : request.settings) put_setting(question.folder, setting);
  if (!request.inputs_file.empty())
    question.inputs = read_inputs(read_file(request.inputs_file), request.inputs_file, scene.world.tick_rate);
  if (request.seconds) question.ticks = std::llround(*request.seconds * scene.world.tick_rate);
  return question;
}

}  // namespace

HeadlessResult play_headless(const HeadlessRequest& request) {
  if (request.seconds && !(*request.seconds >= 0 && *request.seconds <= 1e6))
    throw Error("--seconds", "wants 0 to 1,000,000 s");
  std::optional<TakeFile> again;
  if (!request.asked_again.empty()) again = open_take(request.asked_again);
  bool whole = false;
  const Question question = question_of(request, again, whole);
  const SceneFolder& folder = question.folder;
  Play play(folder, question.seed, question.inputs);
  play.running().world.set_threads(request.threads);
  // What a take came to have in play has channels too.
  const ChannelOwners of_scene = ChannelOwners::that_may_come(folder.scene);
  const std::vector<Channel> channels = channels_called(request.channels, again ? again->take.owners() : of_scene);
  std::optional<TakeRecorder> recorder;
  if (!request.take_file.empty()) recorder.emplace(folder, play);
  // A take that is asked again has no folder, and so no recorded sounds.
  std::optional<Soundtrack> soundtrack;
  if (!request.wav_file.empty())
    soundtrack.emplace(ear_of(folder.scene.view), SoundBank::of(request.scene), folder.scene.world.tick_rate);
  Output csv(request.csv_file.empty() && !channels.empty() ? "-" : request.csv_file);
  Output events(request.events_file);
  const double rate = folder.scene.world.tick_rate;

  std::string header = "time";
  for (const Channel& c : channels)
    for (const std::string& column : c.columns) header += "," + column;
  csv.line(header);
  HeadlessResult result;
  std::vector<char> told(channels.size(), 0);  // something in some tick
  const auto write = [&] {
    if (csv) {
      std::string row = number_text(play.time());
      for (std::size_t i = 0; i < channels.size(); ++i)
        for (const double x : read_channel(channels[i], play)) {
          row += "," + (std::isnan(x) ? "" : number_text(x));  // not there yet, or gone
          if (!std::isnan(x)) told[i] = 1;
        }
      csv.line(row);
    }
    for (const PlayEvent& e : play.events()) events.line(event_line(e, rate));
    for (const PlaySnap& s : play.snaps()) events.line(snap_line(s, rate));
    for (const PlayZoneEvent& z : play.zone_events()) events.line(zone_line(z, rate));
    for (const PlaySplash& s : play.splashes()) events.line(splash_line(s, rate));
    for (const PlayCrack& c : play.cracks()) events.line(crack_line(c, rate));
    std::vector<LogLine> lines = play.take_log();
    if (recorder && play.tick() > 0)
      recorder->record(play, lines);
    else if (recorder)
      recorder->add_log(lines);
    for (LogLine& line : lines) {
      events.line(log_line(line, rate));
      result.log.push_back(std::move(line));
    }
  };
  write();
  const std::int64_t ticks = question.ticks;
  const double wanted = request.seconds ? *request.seconds * rate : static_cast<double>(ticks);
  if (std::abs(wanted - static_cast<double>(ticks)) > 1e-6 * std::max(1.0, wanted)) {
    LogLine note;
    note.level = LogLevel::warning;
    note.text = number_text(*request.seconds) + " s are no whole number of ticks; " + std::to_string(ticks) +
                " were played, " + number_text(static_cast<double>(ticks) / rate) + " s";
    result.log.push_back(note);
  }
  for (std::int64_t i = 0; i < ticks; ++i) {
    play.step();
    write();
    if (soundtrack) soundtrack->add(hear(play, [&](const std::string& name) { return soundtrack->bank().has(name); }));
  }
  for (std::size_t i = 0; i < channels.size(); ++i) {
    if (told[i] != 0) continue;
    LogLine note;
    note.level = LogLevel::warning;
    note.tick = play.tick();
    note.text = "the channel " + channels[i].name + " had no value in any tick: is there a " + channels[i].owner +
                ", and has it that?";
    result.log.push_back(note);
  }
  if (soundtrack) {
    soundtrack->ring_out();
    write_wav(request.wav_file, soundtrack->stereo());
    for (const std::string& fault : soundtrack->bank().faults()) {
      LogLine note;
      note.level = LogLevel::warning;
      note.text = fault;
      result.log.push_back(note);
    }
  }
  csv.close();
  events.close();
  result.digest = play.running().world.digest();
  result.ticks = ticks;
  result.script_failed = play.any_error() || play.inputs_failed() > 0;
  if (whole && again->take.digest && result.digest != *again->take.digest) {
    result.other_than_recorded = true;
    LogLine note;
    note.level = LogLevel::warning;
    note.tick = play.tick();
    note.text =
        "it no longer plays as it was recorded: another version of Bronvel made it; what it recorded can "
        "still be looked at";
    result.log.push_back(note);
  }
  if (recorder) {
    if (recorder->take().full) {
      LogLine note;
      note.level = LogLevel::warning;
      note.text = "the take is full: what came after " + number_text(recorder->take().seconds()) + " s is not in it";
      result.log.push_back(note);
    }
    recorder->finish(play);
    save_take(recorder->take(), {}, request.take_file);
  }
  return result;
}

std::string play_report(const std::string& scene, double seconds) {
  const SceneFolder folder = open_folder(scene);
  Play play(folder, folder.scene.seed);
  struct Story {
    double highest = -1e300, fastest = 0, hardest = 0;
    int hits = 0;
    Vec3 start, end;
  };
  std::map<std::string, Story> stories;
  for (const Body& body : folder.scene.bodies)
    if (body.kind != MotionKind::fixed) stories[body.name].start = stories[body.name].end = body.position;
  std::vector<LogLine> log = play.take_log();
  const auto ticks = std::llround(seconds * folder.scene.world.tick_rate);
  for (std::int64_t i = 0; i < ticks; ++i) {
    play.step();
    for (auto& [name, story] : stories) {
      const auto body = play.running().find(name);
      if (!body) continue;
      const BodyMotion m = play.running().world.motion(*body);
      story.end = m.pose.position;
      story.highest = std::max(story.highest, m.pose.position.y());
      story.fastest = std::max(story.fastest, m.velocity.norm());
    }
    for (const PlayEvent& e : play.events())
      for (const std::string& name : {e.a, e.b})
        if (e.phase == ContactPhase::touch && stories.contains(name)) {
          ++stories[name].hits;
          stories[name].hardest = std::max(stories[name].hardest, e.speed);
        }
    for (LogLine& line : play.take_log()) log.push_back(std::move(line));
  }

  std::ostringstream out;
  out << folder.scene.name << ": " << seconds << " s at " << folder.scene.world.tick_rate << " Hz, seed "
      << folder.scene.seed << "\n";
  char row[200];
  std::snprintf(row, sizeof row, "  %-16s %10s %10s %6s %12s %10s\n", "body", "fastest", "highest", "hits",
                "hardest hit", "moved");
  out << row;
  for (const auto& [name, story] : stories) {
    std::snprintf(row, sizeof row, "  %-16s %6.2f m/s %8.2f m %6d %8.2f m/s %8.2f m\n", name.c_str(), story.fastest,
                  story.highest, story.hits, story.hardest, (story.end - story.start).norm());
    out << row;
  }
  constexpr std::size_t most_lines = 10;
  for (std::size_t i = 0; i < std::min(log.size(), most_lines); ++i) out << "  log: " << log[i].whole() << "\n";
  if (log.size() > most_lines) out << "  log: and " << log.size() - most_lines << " more lines\n";
  return out.str();
}

}  // namespace bronvel
