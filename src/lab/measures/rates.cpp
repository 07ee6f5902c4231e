// Playing at other rates.
#include "lab/measures/rates.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>
#include <tuple>

#include "geometry/base/error.h"
#include "lab/measures/side_by_side.h"

namespace bronvel {
namespace {

Question question_at(const Study& study, const Rate& rate) {
  const std::array<TrialSetting, 2> settings{TrialSetting{"world.tick_rate", number_text(rate.tick_rate)},
                                             TrialSetting{"world.substeps", std::to_string(rate.substeps)}};
  Question question = question_of(study, settings);
  question.folder.scene.world.half_implicit = rate.game_loop;
  return question;
}

// What a line of a script did in a play.
struct LineSum {
  int acts = 0;
  std::int64_t last_tick = -2;
  int in_a_row = 0, longest_row = 0;                    // ticks
  double sum = 0;                                       // N·s of impulses, N·s of forces, or m/s of velocities
  double least_share = 1e300, greatest_share = -1e300;  // of the velocity before that it left
};
using LineKey = std::tuple<std::string, int, std::string, ScriptAct::Kind>;

std::map<LineKey, LineSum> lines_at(const Study& study, double tick_rate) {
  const TrialSetting setting{"world.tick_rate", number_text(tick_rate)};
  const Question question = question_of(study, std::span(&setting, 1));
  Play play(question.folder, question.seed, question.inputs);
  play.scripts().watch(true);
  std::map<LineKey, LineSum> lines;
  for (std::int64_t i = 0; i < question.ticks; ++i) {
    play.step();
    for (const ScriptAct& act : play.scripts().acts()) {
      if (act.script.empty() || act.kind == ScriptAct::Kind::place) continue;
      LineSum& line = lines[{act.script, act.line, act.body, act.kind}];
      ++line.acts;
      if (act.tick != line.last_tick) line.in_a_row = act.tick == line.last_tick + 1 ? line.in_a_row + 1 : 1;
      line.last_tick = act.tick;
      line.longest_row = std::max(line.longest_row, line.in_a_row);
      const double step = 1 / tick_rate;
      if (act.kind == ScriptAct::Kind::force) line.sum += act.vector.norm() * step;
      if (act.kind == ScriptAct::Kind::impulse) line.sum += act.vector.norm();
      if (act.kind != ScriptAct::Kind::velocity) continue;
      line.sum += (act.vector - act.before).norm();
      constexpr double moving = 0.01;  // m/s
      if (act.before.norm() < moving) continue;
      const double along = act.vector.dot(act.before) / act.before.squaredNorm();
      const bool scaled = (act.vector - along * act.before).norm() < 1e-6 * act.before.norm();
      line.least_share = scaled ? std::min(line.least_share, along) : -1e300;
      line.greatest_share = scaled ? std::max(line.greatest_share, along) : 1e300;
    }
  }
  return lines;
}

}  // namespace

std::string rate_text(const Rate& rate, int usual_substeps) {
  char text[64];
  std::snprintf(text, sizeof text, "%g Hz", rate.tick_rate);
  if (rate.game_loop) return text + std::string(", game loop");
  return rate.substeps == usual_substeps ? text
                                         : text + std::string(", ") + std::to_string(rate.substeps) + " sub-steps";
}

std::vector<Rate> rates_of(const SceneFolder& folder, std::span<const double> tick_rates, std::span<const int> substeps,
                           bool game_loop) {
  const WorldSettings& world = folder.scene.world;
  std::vector<Rate> rates;
  for (const double rate : tick_rates) rates.push_back({rate, world.substeps, false});
  for (const int each : substeps)
    if (each != world.substeps) rates.push_back({world.tick_rate, each, false});
  if (game_loop)
    for (const double rate : tick_rates) rates.push_back({rate, 1, true});
  return rates;
}

Rates play_at_rates(const Study& study, std::span<const Measure> measures, std::span<const Rate> rates, int jobs,
                    const std::atomic<bool>* stop) {
  Rates answer;
  for (const Rate& rate : rates) {
    question_at(study, rate);  // throws for what does not fit
    answer.rates.push_back({rate, {}});
  }
  side_by_side(rates.size(), jobs, [&](std::size_t i) {
    if (stop && stop->load()) return;
    answer.rates[i].answer = try_out(question_at(study, rates[i]), measures, "", stop);
  });
  double low = 1e300, high = 0;
  for (const Rate& rate : rates) {
    low = std::min(low, rate.tick_rate);
    high = std::max(high, rate.tick_rate);
  }
  if (high > low && !(stop && stop->load())) answer.lines = lines_by_rate(study, low, high);
  return answer;
}

std::vector<RateLine> lines_by_rate(const Study& study, double tick_rate, double other_rate) {
  constexpr int steady = 5;      // ticks in a row: it is no single push
  constexpr double other = 0.1;  // of the sum
  const auto slow = lines_at(study, tick_rate), fast = lines_at(study, other_rate);
  std::vector<RateLine> all;
  for (const auto& [key, line] : slow) {
    const auto found = fast.find(key);
    if (found == fast.end() || line.longest_row < steady || found->second.longest_row < steady) continue;
    const LineSum& then = found->second;
    const std::string& script = std::get<0>(key);
    const int number = std::get<1>(key);
    const std::string& body = std::get<2>(key);
    const ScriptAct::Kind kind = std::get<3>(key);
    const double grows = then.sum / std::max(line.sum, 1e-300), rates = other_rate / tick_rate;
    const bool by_rate = std::abs(grows - 1) > other;
    const auto near = [&](double x) {
      return std::abs(grows / x - 1) < 0.5 * std::abs(rates - 1) * std::min(1.0, 1 / rates);
    };
    const auto say = [&](const std::string& why) { all.push_back({script, number, body, why}); };
    if (kind == ScriptAct::Kind::velocity) {
      const bool times = line.greatest_share - line.least_share < 1e-3 && line.least_share > -1e299 &&
                         std::abs(line.least_share - 1) > 1e-6 &&
                         std::abs(then.least_share - line.least_share) < 1e-3 &&
                         then.greatest_share - then.least_share < 1e-3;
      if (times)
        say("multiplies its velocity by " + number_text(std::round(1e4 * line.least_share) / 1e4) +
            " each tick: the more ticks, the more of it; use damping, or a share for each second");
      else if (by_rate && near(rates))
        say("adds to its velocity each tick: the more ticks, the more of it; use accelerate");
    } else if (kind == ScriptAct::Kind::impulse && by_rate && near(rates)) {
      say("gives an impulse each tick: the more ticks, the more of it; use a force");
    } else if (kind == ScriptAct::Kind::force && by_rate && near(1 / rates)) {
      say("gives a force that is times the time step: the more ticks, the less of it; a force needs no time step");
    }
  }
  return all;
}

}  // namespace bronvel
