// measures, aim, matters, rates, check.
#include "cli/ask.h"

#include <cmath>
#include <cstdio>
#include <iostream>
#include <memory>

#include "cli/studied.h"
#include "cli/validators.h"
#include "geometry/base/error.h"
#include "lab/measures/aim.h"
#include "lab/measures/checks.h"
#include "lab/measures/matters.h"
#include "lab/measures/rates.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"

namespace bronvel {
namespace {

struct Call {
  Studied studied;
  std::vector<std::string> measures, turned, scenes;
  std::string want, junit;
  std::vector<double> rates{30, 50, 60, 120, 240};
  std::vector<int> substeps{1, 2, 4, 8};
  int seeds = 1, tries = 0;
  bool json = false, page = false;
};

std::vector<Measure> measures_of(const Call& call, const Study& study) {
  std::vector<Measure> measures;
  for (const std::string& text : call.measures)
    measures.push_back(measure_called(text, study.folder.scene, study.folder.path.string()));
  return measures;
}

Json number(double x) {
  if (std::isnan(x)) return nullptr;
  return x;
}

int tell_measures(bool page) {
  if (page) {
    std::cout << measures_page();
    return 0;
  }
  for (const MeasureKind& kind : measure_kinds())
    std::printf("%-14s %-22s %-5s %s\n", kind.name, kind.arguments, kind.yes_no ? "" : kind.unit, kind.about);
  return 0;
}

int tell_aim(const Call& call) {
  Aim aim;
  aim.study = call.studied.study();
  wish_from_text(aim, call.want);
  for (const std::string& text : call.turned) aim.turned.push_back(turned_from_text(text));
  aim.seeds = call.seeds;
  aim.most_tries = call.tries;
  const AimAnswer answer = find_aim(aim, [&](const AimTry& one) {
    if (call.json) return;
    for (std::size_t i = 0; i < one.values.size(); ++i)
      std::fprintf(stderr, "%s%s = %.6g", i > 0 ? ", " : "", aim.turned[i].name.c_str(), one.values[i]);
    std::fprintf(stderr, ": %s%s\n", measured_text(aim.measure, one.measured).c_str(),
                 one.fault.empty() ? "" : (" (" + one.fault + ")").c_str());
  });
  if (!call.json) {
    std::cout << aim_text(aim, answer) << "\n";
    return answer.reached ? 0 : 1;
  }
  Json values = Json::object(), tries = Json::array();
  for (std::size_t i = 0; i < answer.best.values.size(); ++i) values[aim.turned[i].name] = answer.best.values[i];
  for (const AimTry& one : answer.tries) tries.push_back({{"values", one.values}, {"measured", number(one.measured)}});
  Json json{{"reached", answer.reached},
            {"values", values},
            {"measured", number(answer.best.measured)},
            {"unit", aim.measure.unit},
            {"sensitivity", answer.sensitivity},
            {"tries", tries}};
  if (answer.holds_at) json["met_at"] = *answer.holds_at;
  if (answer.fails_at) json["not_at"] = *answer.fails_at;
  std::cout << json_text(json);
  return answer.reached ? 0 : 1;
}

int tell_matters(const Call& call) {
  const Study study = call.studied.study();
  const Measure measure = measures_of(call, study).at(0);
  const Matters matters = what_matters(study, measure, call.studied.threads());
  if (call.json) {
    Json all = Json::array();
    for (const Matter& each : matters.all) {
      Json json{{"name", each.name},
                {"value", each.value},
                {"low", each.low},
                {"high", each.high},
                {"at_low", number(each.at_low)},
                {"at_high", number(each.at_high)},
                {"change", number(each.change())}};
      if (!each.fault.empty()) json["fault"] = each.fault;
      all.push_back(json);
    }
    std::cout << json_text(Json{{"measure", measure.text}, {"as_it_is", number(matters.as_it_is)}, {"numbers", all}});
    return 0;
  }
  std::printf("%s: %s %s; a tenth of each number moves it by\n", measure_words(measure).c_str(),
              measured_text(measure, matters.as_it_is).c_str(), measure.unit.c_str());
  std::size_t nothing = 0;
  for (const Matter& each : matters.all) {
    const bool changes = each.at_low != matters.as_it_is || each.at_high != matters.as_it_is;
    const bool never = std::isnan(each.at_low) && std::isnan(each.at_high) && std::isnan(matters.as_it_is);
    if (each.fault.empty() && (!changes || never)) {
      ++nothing;
      continue;
    }
    if (!each.fault.empty())
      std::printf("  %-44s %s\n", each.name.c_str(), each.fault.c_str());
    else if (std::isnan(each.change()))
      std::printf("  %-44s %s … %s\n", each.name.c_str(), measured_text(measure, each.at_low).c_str(),
                  measured_text(measure, each.at_high).c_str());
    else
      std::printf("  %-44s %+.4g %s\n", each.name.c_str(), each.change(), measure.unit.c_str());
  }
  std::printf("  %zu others change nothing; %zu are nought and were left as they are\n", nothing, matters.left_out);
  return 0;
}

int tell_rates(const Call& call) {
  const Study study = call.studied.study();
  const std::vector<Measure> measures = measures_of(call, study);
  const std::vector<Rate> wanted = rates_of(study.folder, call.rates, call.substeps, true);
  const Rates rates = play_at_rates(study, measures, wanted, call.studied.threads());
  const int usual = study.folder.scene.world.substeps;
  if (call.json) {
    Json all = Json::array(), lines = Json::array();
    for (const RateAnswer& each : rates.rates) {
      Json values = Json::object();
      for (std::size_t i = 0; i < measures.size(); ++i)
        values[measures[i].text] = each.answer.values.empty() ? Json(nullptr) : number(each.answer.values[i]);
      all.push_back({{"tick_rate", each.rate.tick_rate},
                     {"substeps", each.rate.substeps},
                     {"game_loop", each.rate.game_loop},
                     {"values", values},
                     {"fault", each.answer.fault}});
    }
    for (const RateLine& line : rates.lines)
      lines.push_back({{"script", line.script}, {"line", line.line}, {"body", line.body}, {"why", line.why}});
    std::cout << json_text(Json{{"rates", all}, {"lines", lines}});
    return 0;
  }
  std::printf("%-24s", "");
  for (const Measure& measure : measures)
    std::printf(" %16s", (measure.text + (measure.unit.empty() ? "" : ", " + measure.unit)).c_str());
  std::printf("\n");
  for (const RateAnswer& each : rates.rates) {
    std::printf("%-24s", rate_text(each.rate, usual).c_str());
    for (std::size_t i = 0; i < measures.size(); ++i)
      std::printf(" %16s", measured_text(measures[i], each.answer.values[i]).c_str());
    std::printf("%s\n", each.answer.fault.empty() ? "" : ("  " + each.answer.fault).c_str());
  }
  for (const RateLine& line : rates.lines)
    std::printf("%s:%d (on %s) %s\n", line.script.c_str(), line.line, line.body.c_str(), line.why.c_str());
  return 0;
}

int tell_checks(const Call& call) {
  std::vector<std::pair<std::string, std::vector<CheckAnswer>>> all;
  std::size_t failed = 0, count = 0;
  for (const std::string& scene : call.scenes) {
    const SceneFolder folder = open_folder(scene);
    all.emplace_back(folder.scene.name, run_checks(folder, folder.scene.checks, call.studied.threads()));
    if (folder.scene.checks.empty()) std::fprintf(stderr, "%s has no checks\n", folder.scene.name.c_str());
    for (const CheckAnswer& answer : all.back().second) {
      ++count;
      failed += answer.passed() ? 0 : 1;
      std::printf("%s %s: %s\n", answer.passed() ? "passed" : "FAILED", folder.scene.name.c_str(),
                  answer.text().c_str());
    }
  }
  if (!call.junit.empty()) write_atomically(call.junit, junit_of(all));
  std::printf("%zu of %zu passed\n", count - failed, count);
  return failed > 0 ? 1 : 0;
}

}  // namespace

void add_ask(CLI::App& app, const std::function<void(int)>& end) {
  const auto call = std::make_shared<Call>();
  const auto many = CLI::MultiOptionPolicy::TakeAll;
  auto* measures = app.add_subcommand("measures", "list what can be measured of a play");
  measures->add_flag("--page", call->page, "as the page of the handbook");
  measures->callback([=] { end(tell_measures(call->page)); });
  auto* aim = app.add_subcommand("aim", "find the values that make a measure what is wished");
  auto* matters = app.add_subcommand("matters", "what a tenth of each number of the scene changes, greatest first");
  auto* rates = app.add_subcommand("rates", "measure at other tick rates and sub-steps, and as a plain game loop");
  for (CLI::App* each : {aim, matters, rates}) {
    call->studied.add_to(*each);
    each->add_flag("--json", call->json, "as JSON");
  }
  aim->add_option("--move", call->turned, "THING.PROPERTY=LOW:HIGH that may be turned, once or more")
      ->required()
      ->expected(1)
      ->multi_option_policy(many);
  aim->add_option("--want", call->want,
                  "what the measure shall be: apex:ball=3, rest_time:ball<=2, holds:plank=yes, way:ball=most, "
                  "fit:ball,film.csv=least")
      ->required();
  aim->add_option("--seeds", call->seeds, "the mean over so many seeds")->check(CLI::Range(1, 10000));
  aim->add_option("--tries", call->tries, "no more than so many; 15 for one value, 60 for each of several")
      ->check(CLI::Range(1, 100000));
  matters->add_option("--measure", call->measures, "what to measure: apex:ball")
      ->required()
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeLast);
  rates->add_option("--measure", call->measures, "what to measure, any number of times")
      ->required()
      ->expected(1)
      ->multi_option_policy(many);
  rates->add_option("--rates", call->rates, "tick rates, as 30,60,120")
      ->delimiter(',')
      ->check(number_from(1, 1e4, "1 to 10,000 Hz"));
  rates->add_option("--substeps", call->substeps, "sub-steps, as 1,2,4")->delimiter(',')->check(CLI::Range(1, 64));
  aim->callback([=] { end(tell_aim(*call)); });
  matters->callback([=] { end(tell_matters(*call)); });
  rates->callback([=] { end(tell_rates(*call)); });
  auto* check = app.add_subcommand("check", "play the checks of scenes; exit code 1 when one fails");
  check->add_option("scenes", call->scenes, "folders of scenes")->required();
  check->add_option("--junit", call->junit, "write the results as JUnit XML");
  check->add_option("--jobs", call->studied.jobs, "plays side by side")->check(CLI::Range(1, 256));
  check->callback([=] { end(tell_checks(*call)); });
}

}  // namespace bronvel
