// Playing checks.
#include "lab/measures/checks.h"

#include <cmath>
#include <cstdio>

#include "geometry/base/error.h"
#include "lab/measures/side_by_side.h"

namespace bronvel {
namespace {

// How far off it is, to find the worst.
double off_by(const Wish& wish, double value) {
  if (std::isnan(value)) return wish.is == Wish::Is::never ? 0 : 1e300;
  switch (wish.is) {
    case Wish::Is::equal:
      return std::abs(value - wish.value);
    case Wish::Is::at_most:
      return value - wish.value;
    case Wish::Is::at_least:
      return wish.value - value;
    case Wish::Is::never:
      break;
  }
  return 1e300;
}

// XML's five, and no control letters.
std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '&')
      out += "&amp;";
    else if (c == '<')
      out += "&lt;";
    else if (c == '>')
      out += "&gt;";
    else if (c == '"')
      out += "&quot;";
    else if (static_cast<unsigned char>(c) >= 32 || c == '\n' || c == '\t')
      out += c;
  }
  return out;
}

}  // namespace

Study study_of(const SceneFolder& folder, const Wish& wish) {
  Study study = Study::of(folder, wish.seconds);
  if (!wish.inputs.empty())
    study.inputs = read_inputs(read_file(folder.path / wish.inputs), wish.inputs, folder.scene.world.tick_rate);
  return study;
}

bool CheckAnswer::passed() const {
  if (!fault.empty()) return false;
  for (const CheckPlay& play : plays)
    if (!play.passed) return false;
  return !plays.empty();
}

const CheckPlay* CheckAnswer::worst() const {
  const CheckPlay* worst = nullptr;
  for (const CheckPlay& play : plays) {
    if (!worst || (worst->passed && !play.passed) ||
        (worst->passed == play.passed && off_by(wish, play.value) > off_by(wish, worst->value)))
      worst = &play;
  }
  return worst;
}

std::string CheckAnswer::text() const {
  if (!fault.empty()) return fault;
  const CheckPlay* play = worst();
  if (!play) return "not played";
  if (!play->fault.empty()) return play->fault;
  char number[64];
  std::snprintf(number, sizeof number, "%.5g", play->value);
  std::string text = words + " is " + (std::isnan(play->value) ? "never" : number + (unit.empty() ? "" : " " + unit));
  if (!play->passed) text += ", wanted " + wish_text(wish, unit);
  if (plays.size() > 1) {
    std::snprintf(number, sizeof number, " (seed %llu, %g Hz)", static_cast<unsigned long long>(play->seed),
                  play->tick_rate);
    text += number;
  }
  return text;
}

Question question_of(const SceneFolder& folder, const Wish& wish, const CheckPlay& play) {
  const TrialSetting setting{"world.tick_rate", number_text(play.tick_rate)};
  Question question = question_of(study_of(folder, wish), std::span(&setting, 1));
  question.seed = play.seed;
  return question;
}

std::vector<CheckAnswer> run_checks(const SceneFolder& folder, std::span<const Wish> wishes, int jobs,
                                    const std::atomic<bool>* stop) {
  std::vector<CheckAnswer> answers;
  std::vector<Measure> measures(wishes.size());
  std::vector<std::pair<std::size_t, std::size_t>> plays;
  for (std::size_t i = 0; i < wishes.size(); ++i) {
    CheckAnswer answer;
    answer.wish = wishes[i];
    try {
      measures[i] = measure_called(wishes[i].measure, folder.scene, folder.path.string());
      answer.unit = measures[i].unit;
      answer.words = measure_words(measures[i]);
      study_of(folder, wishes[i]);
      std::vector<double> rates = wishes[i].rates;
      if (rates.empty()) rates = {folder.scene.world.tick_rate};
      for (const double rate : rates)
        for (int seed = 0; seed < wishes[i].seeds; ++seed) {
          plays.emplace_back(i, answer.plays.size());
          answer.plays.push_back({folder.scene.seed + static_cast<std::uint64_t>(seed), rate, 0, false, ""});
        }
    } catch (const Error& e) {
      answer.fault = e.what();
    }
    answers.push_back(std::move(answer));
  }
  side_by_side(plays.size(), jobs, [&](std::size_t k) {
    const auto [i, place] = plays[k];
    CheckPlay& play = answers[i].plays[place];
    try {
      const TrialAnswer answer = try_out(question_of(folder, wishes[i], play), std::span(&measures[i], 1), "", stop);
      play.value = answer.values[0];
      play.fault = answer.whole ? answer.fault : "stopped";
      if (play.fault.empty() && !answer.unmet.empty()) play.fault = answer.unmet[0].whole();
      play.passed = play.fault.empty() && met(wishes[i], play.value);
    } catch (const Error& e) {
      play.fault = e.what();
    }
  });
  return answers;
}

std::string junit_of(std::span<const std::pair<std::string, std::vector<CheckAnswer>>> scenes) {
  std::string xml = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n";
  std::size_t tests = 0, failures = 0;
  std::string suites;
  for (const auto& [scene, answers] : scenes) {
    std::size_t failed = 0;
    std::string cases;
    for (const CheckAnswer& answer : answers) {
      const std::string name = answer.wish.measure + " " + wish_text(answer.wish, answer.unit);
      cases += "    <testcase classname=\"" + escaped(scene) + "\" name=\"" + escaped(name) + "\" time=\"0\"";
      if (answer.passed()) {
        cases += "/>\n";
        continue;
      }
      ++failed;
      cases += ">\n      <failure message=\"" + escaped(answer.text()) + "\" type=\"check\"/>\n    </testcase>\n";
    }
    suites += "  <testsuite name=\"" + escaped(scene) + "\" tests=\"" + std::to_string(answers.size()) +
              "\" failures=\"" + std::to_string(failed) + "\" errors=\"0\" skipped=\"0\" time=\"0\">\n" + cases +
              "  </testsuite>\n";
    tests += answers.size();
    failures += failed;
  }
  return xml + "<testsuites tests=\"" + std::to_string(tests) + "\" failures=\"" + std::to_string(failures) +
         "\" errors=\"0\" time=\"0\">\n" + suites + "</testsuites>\n";
}

}  // namespace bronvel
