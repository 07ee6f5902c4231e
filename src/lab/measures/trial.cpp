// Playing for measures.
#include "lab/measures/trial.h"

#include <cmath>

#include "geometry/base/error.h"
#include "lab/why/ledger.h"
#include "scene/properties/setting_place.h"
#include "script/calls/setting.h"

namespace bronvel {
namespace {

// "crate_*" fits "crate_12": any letters in place of each star.
bool fits(std::string_view pattern, std::string_view name) {
  if (pattern.empty()) return name.empty();
  if (pattern[0] != '*') return !name.empty() && name[0] == pattern[0] && fits(pattern.substr(1), name.substr(1));
  for (std::size_t skip = 0; skip <= name.size(); ++skip)
    if (fits(pattern.substr(1), name.substr(skip))) return true;
  return false;
}

constexpr std::size_t most_points = 400;  // of a way that is kept

// Keeps no more than so many points of a way: every second one goes when there are too many.
class WayKeeper {
 public:
  void add(const Vec3& place) {
    if (seen_++ % every_ != 0) {
      last_ = place;
      return;
    }
    way_.push_back(place.cast<float>());
    last_.reset();
    if (way_.size() < most_points) return;
    for (std::size_t i = 0; 2 * i < way_.size(); ++i) way_[i] = way_[2 * i];
    way_.resize((way_.size() + 1) / 2);
    every_ *= 2;
  }
  std::vector<Eigen::Vector3f> whole() {
    if (last_) way_.push_back(last_->cast<float>());
    return std::move(way_);
  }

 private:
  std::vector<Eigen::Vector3f> way_;
  std::optional<Vec3> last_;
  std::size_t seen_ = 0, every_ = 1;
};

double lost(const Measure& measure, const Booked& booked, double tick_rate, std::int64_t ticks) {
  const BookedBody* body = booked.find(measure.thing);
  if (!body) return std::numeric_limits<double>::quiet_NaN();
  const auto tick_of = [&](double time) {
    return std::isinf(time) ? ticks : std::min<std::int64_t>(std::llround(time * tick_rate), ticks);
  };
  const std::array<const BookedBody*, 1> bodies{body};
  double sum = 0;
  for (const LedgerLine& line : ledger_of(bodies, tick_of(measure.from), tick_of(measure.to)).lines)
    if (measure.other.empty() || line.cause.text().find(measure.other) != std::string::npos) sum -= line.took;
  return sum;
}

}  // namespace

Study Study::of(const SceneFolder& folder, double seconds) {
  return {folder, folder.scene.seed, {}, seconds};
}

Study Study::of(const Take& take, const SceneFolder& now) {
  Question question = question_of(take, now);
  const double seconds = static_cast<double>(question.ticks) / now.scene.world.tick_rate;
  return {std::move(question.folder), question.seed, std::move(question.inputs), seconds};
}

std::vector<std::string> targets_of(const Scene& scene, const std::string& name) {
  const auto dot = name.find('.');
  const std::string owner = name.substr(0, dot);
  if (owner.find('*') == std::string::npos) return {name};
  std::vector<std::string> all;
  for (const Body& body : scene.bodies)
    if (fits(owner, body.name)) all.push_back(body.name + (dot == std::string::npos ? "" : name.substr(dot)));
  if (all.empty()) throw Error(name, "fits the name of no body");
  return all;
}

Question question_of(const Study& study, std::span<const TrialSetting> settings) {
  if (!(study.seconds >= 0 && study.seconds <= 1e5)) throw Error("seconds", "wants 0 to 100,000 s of play");
  Question question{study.folder, study.seed, study.inputs, 0};
  std::vector<std::string> set;
  for (const TrialSetting& setting : settings) {
    if (setting.name == "seed") {
      char* end = nullptr;
      question.seed = std::strtoull(setting.value.c_str(), &end, 10);
      if (setting.value.empty() || setting.value.find_first_not_of("0123456789") != std::string::npos)
        throw Error("seed", "wants a whole number, got \"" + setting.value + "\"");
      continue;
    }
    for (const std::string& target : targets_of(question.folder.scene, setting.name)) {
      const std::string assignment = target + "=" + setting.value;
      put_setting(question.folder, assignment);
      set.push_back(assignment);
    }
  }
  question.inputs = without_settings(std::move(question.inputs), set);
  const double before = study.folder.scene.world.tick_rate, rate = question.folder.scene.world.tick_rate;
  if (rate != before) question.inputs = inputs_at_rate(std::move(question.inputs), before, rate);
  question.ticks = std::llround(study.seconds * rate);
  return question;
}

TrialAnswer try_out(const Question& question, std::span<const Measure> measures, const std::string& follow,
                    const std::atomic<bool>* stop) {
  TrialAnswer answer;
  answer.values.assign(measures.size(), std::numeric_limits<double>::quiet_NaN());
  try {
    Play play(question.folder, question.seed, question.inputs);
    std::vector<Gauge> gauges;
    std::vector<std::string> booked;
    for (const Measure& measure : measures) {
      gauges.push_back(measure.kind->gauge ? measure.kind->gauge(measure) : Gauge{});
      if (!measure.kind->gauge) booked.push_back(measure.thing);
    }
    std::optional<BookKeeper> keeper;
    if (!booked.empty()) keeper.emplace(booked);
    WayKeeper way;
    const auto look = [&] {
      constexpr double hair = 1e-9;  // s
      for (std::size_t i = 0; i < gauges.size(); ++i)
        if (gauges[i].take && play.time() >= measures[i].from - hair && play.time() <= measures[i].to + hair)
          gauges[i].take(play);
      if (!follow.empty())
        if (const auto body = play.running().find(follow)) way.add(play.running().world.motion(*body).pose.position);
      for (const LogLine& line : play.take_log())
        if (line.level == LogLevel::error && answer.fault.empty()) answer.fault = line.whole();
    };
    look();
    if (keeper) keeper->begin(play);
    answer.whole = true;
    for (std::int64_t i = 0; i < question.ticks; ++i) {
      if (stop && stop->load(std::memory_order_relaxed)) {
        answer.whole = false;
        break;
      }
      play.step();
      if (keeper) keeper->take(play);
      look();
    }
    for (std::size_t i = 0; i < gauges.size(); ++i)
      answer.values[i] = gauges[i].value
                             ? gauges[i].value()
                             : lost(measures[i], keeper->booked(), question.folder.scene.world.tick_rate, play.tick());
    answer.unmet = play.scripts().unmet();
    answer.way = way.whole();
  } catch (const Error& e) {
    answer.fault = e.what();
    answer.whole = true;
  }
  return answer;
}

}  // namespace bronvel
