// why, energy, difference, balance.
#include "cli/why.h"

#include <cstdio>
#include <iostream>
#include <memory>

#include "geometry/base/error.h"
#include "lab/takes/take_file.h"
#include "lab/why/acting.h"
#include "lab/why/difference.h"
#include "lab/why/ledger.h"
#include "lab/why/reason.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"

namespace bronvel {
namespace {

// What is played: a scene's folder with inputs, or a take's file.
struct Source {
  std::string path;
  std::string inputs;
  std::optional<std::uint64_t> seed;
};

// For so many seconds; of a take as long as it is, where none are given.
Question question_of(const Source& source, std::optional<double> seconds) {
  Question question;
  if (std::filesystem::is_regular_file(source.path)) {
    question = question_of(open_take(source.path).take);
  } else {
    question.folder = open_folder(source.path);
    question.seed = question.folder.scene.seed;
    constexpr double usual = 5;  // s
    seconds = seconds.value_or(usual);
  }
  const double rate = question.folder.scene.world.tick_rate;
  if (source.seed) question.seed = *source.seed;
  if (!source.inputs.empty()) question.inputs = read_inputs(read_file(source.inputs), source.inputs, rate);
  if (seconds) question.ticks = static_cast<std::int64_t>(std::llround(*seconds * rate));
  return question;
}

const BookedBody& find_booked(const Booked& booked, const Question& question, const std::string& name) {
  const BookedBody* body = booked.find(name);
  if (body) return *body;
  const Body* known = question.folder.scene.find(name);
  if (known && known->kind != MotionKind::dynamic)
    throw Error(name, "is not dynamic: nothing that acts on it moves it", "ask for a dynamic body");
  throw Error(name, "was not there as a dynamic body in that time");
}

Json vector_json(const Vec3& v) {
  return {v.x(), v.y(), v.z()};
}

Json cause_json(const NamedCause& cause) {
  Json json{{"cause", cause_word(cause.cause)}};
  if (!cause.by.empty()) json["by"] = cause.by;
  if (!cause.script.empty()) {
    json["script"] = cause.script;
    json["line"] = cause.line;
  }
  return json;
}

int tell_why(const Source& source, const std::string& name, double at, bool json) {
  const Question question = question_of(source, at);
  if (question.ticks < 1) throw Error("--at", "wants a moment after the start", "such as --at 1.5");
  const Booked booked = book(question, {name});
  const BookedBody& body = find_booked(booked, question, name);
  const BookedBody* one = &body;
  if (!body.at(question.ticks)) throw Error(name, "was not there at that moment");
  const WhatActs acts = what_acts(std::span(&one, 1), question.ticks, booked.tick_rate);
  const Reason reason = reason_of(body, question.ticks, booked.tick_rate);
  if (json) {
    Json causes = Json::array();
    for (const Acting& acting : acts.causes) {
      Json each = cause_json(acting.cause);
      each[acting.cause.at_once() ? "impulse" : "force"] = vector_json(acting.force);
      each[acting.cause.at_once() ? "angular_impulse" : "torque"] = vector_json(acting.torque);
      if (acting.has_place) each["at"] = vector_json(acting.at);
      each[acting.cause.at_once() ? "work" : "power"] = acting.power;
      causes.push_back(each);
    }
    std::cout << json_text(Json{{"body", name},
                                {"time", static_cast<double>(question.ticks) / booked.tick_rate},
                                {"tick", question.ticks},
                                {"asleep", acts.asleep},
                                {"forces_of_tick", acts.tick},
                                {"why", reason.text},
                                {"causes", causes},
                                {"net", vector_json(acts.net)},
                                {"mass_times_acceleration", vector_json(acts.changing)}});
    return 0;
  }
  std::printf("%s at %.3f s (tick %lld)\n%s\n", name.c_str(), static_cast<double>(question.ticks) / booked.tick_rate,
              static_cast<long long>(question.ticks), reason.text.c_str());
  for (const Acting& acting : acts.causes) {
    std::printf("  %-18s %s", size_text(acting).c_str(), acting.cause.text().c_str());
    if (acting.has_place) std::printf("  at (%.3f, %.3f, %.3f)", acting.at.x(), acting.at.y(), acting.at.z());
    std::printf("\n");
  }
  std::printf("  together (%.4g, %.4g, %.4g) N; mass × acceleration (%.4g, %.4g, %.4g) N\n", acts.net.x(), acts.net.y(),
              acts.net.z(), acts.changing.x(), acts.changing.y(), acts.changing.z());
  return 0;
}

int tell_energy(const Source& source, const std::string& name, std::optional<double> from, std::optional<double> to,
                bool json) {
  const Question question = question_of(source, to);
  const Booked booked = name.empty() ? book(question, {}) : book(question, {name});
  std::vector<const BookedBody*> bodies;
  if (name.empty())
    for (const BookedBody& body : booked.bodies) bodies.push_back(&body);
  else
    bodies.push_back(&find_booked(booked, question, name));
  const auto first = static_cast<std::int64_t>(std::llround(from.value_or(0) * booked.tick_rate));
  if (first >= question.ticks) throw Error("--from", "wants a moment before the end");
  const Ledger ledger = ledger_of(bodies, first, question.ticks);
  if (!json) {
    std::cout << ledger_text(ledger, booked.tick_rate);
    return 0;
  }
  Json lines = Json::array();
  for (const LedgerLine& line : ledger.lines) {
    Json each = cause_json(line.cause);
    each["gave"] = line.gave;
    each["took"] = line.took;
    lines.push_back(each);
  }
  std::cout << json_text(Json{{"from", static_cast<double>(ledger.from) / booked.tick_rate},
                              {"to", static_cast<double>(ledger.to) / booked.tick_rate},
                              {"kinetic_before", ledger.kinetic_before},
                              {"kinetic_after", ledger.kinetic_after},
                              {"lifted", ledger.lifted},
                              {"solver", ledger.solver},
                              {"causes", lines}});
  return 0;
}

// Its last folder or file.
std::string short_name(const std::string& scene) {
  const std::filesystem::path path(scene);
  return path.has_filename() ? path.filename().string() : path.parent_path().filename().string();
}

int tell_balance(const std::vector<std::string>& scenes, std::optional<double> seconds) {
  std::printf("%-28s %10s %10s %12s %11s %10s  %s\n", "scene", "momentum", "energy", "turnover, J", "solver, N·s",
              "solver, J", "most in");
  for (const std::string& scene : scenes) {
    const Balance balance = book(question_of(Source{scene, "", {}}, seconds), {}).balance;
    std::printf("%-28s %10.2g %10.2g %12.3g %10.2g %10.2g  %s\n", short_name(scene).c_str(), balance.momentum_error,
                balance.energy_error, balance.turnover, balance.solver_momentum, balance.solver_energy,
                balance.worst_body.c_str());
  }
  return 0;
}

int tell_difference(const std::string& before, const std::string& now, double apart, bool json) {
  const TakeFile first = open_take(before), second = open_take(now);
  const Difference difference = difference_of(first.take, second.take, apart);
  if (!json) {
    for (const std::string& line : difference_lines(difference)) std::cout << line << "\n";
    return 0;
  }
  Json departures = Json::array(), events = Json::array();
  for (const Departure& departure : difference.departures) {
    Json each{{"body", departure.body}, {"seen", departure.time}};
    if (departure.known) {
      each["from"] = departure.first;
      each["cause"] = cause_json(departure.cause);
      each["before"] = departure.before;
      each["now"] = departure.now;
    }
    departures.push_back(each);
  }
  for (const EventDifference& event : difference.events) {
    Json each{{"a", event.a}, {"b", event.b}, {"touch", event.number}};
    if (event.before) each["before"] = *event.before;
    if (event.now) each["now"] = *event.now;
    events.push_back(each);
  }
  std::cout << json_text(Json{{"changed", difference.changed},
                              {"departures", departures},
                              {"touches", events},
                              {"bodies_alike", difference.bodies_alike}});
  return 0;
}

}  // namespace

void add_why(CLI::App& app, const std::function<void(int)>& end) {
  struct Call {
    Source source;
    std::vector<std::string> scenes;
    std::string body;
    double at = 0;
    std::optional<double> from, to, seconds;
    std::string before, now;
    double apart = 1e-3;
    bool json = false;
  };
  const auto call = std::make_shared<Call>();
  const CLI::Range time(0.0, 1e6);
  auto* why = app.add_subcommand("why", "what acts on a body at a moment, by cause, and why it moves as it does");
  auto* energy =
      app.add_subcommand("energy", "who gave energy to a body or a scene between two moments, and who took it");
  for (CLI::App* each : {why, energy}) {
    each->add_option("source", call->source.path, "a scene's folder, or a take's file")->required();
    each->add_option("--inputs", call->source.inputs, "inputs to play with a scene");
    each->add_option("--seed", call->source.seed, "seed for random, instead of its own");
    each->add_flag("--json", call->json, "as JSON");
  }
  why->add_option("--body", call->body, "a dynamic body")->required();
  why->add_option("--at", call->at, "the moment, s")->required()->check(time);
  energy->add_option("--body", call->body, "one body; the whole scene if not given");
  energy->add_option("--from", call->from, "s; from the start if not given")->check(time);
  energy->add_option("--to", call->to, "s; a take's end, or 5 s, if not given")->check(time);
  why->callback([=] { end(tell_why(call->source, call->body, call->at, call->json)); });
  energy->callback([=] { end(tell_energy(call->source, call->body, call->from, call->to, call->json)); });
  auto* difference = app.add_subcommand(
      "difference", "what made two takes differ: what was changed, who departs first and by which cause");
  difference->add_option("before", call->before, "a take's file")->required();
  difference->add_option("now", call->now, "another one")->required();
  difference->add_option("--apart", call->apart, "how far apart counts, m; 0.001 if not given")
      ->check(CLI::Range(1e-9, 1e6));
  difference->add_flag("--json", call->json, "as JSON");
  difference->callback([=] { end(tell_difference(call->before, call->now, call->apart, call->json)); });
  auto* balance = app.add_subcommand(
      "balance", "how well the books of scenes add up: worst tick's error, the engine's own share; a line for each");
  balance->add_option("scenes", call->scenes, "folders of scenes, or takes")->required();
  balance->add_option("--seconds", call->seconds, "how long, s; 5, or as long as the take")->check(time);
  balance->callback([=] { end(tell_balance(call->scenes, call->seconds)); });
}

}  // namespace bronvel
