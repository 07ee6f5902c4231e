// Why bodies move: names, sizes, sentences and energies, of every example and of small scenes.
#include <catch2/catch.hpp>
#include <filesystem>

#include "folders.h"
#include "geometry/base/error.h"
#include "lab/why/acting.h"
#include "lab/why/booked.h"
#include "lab/why/difference.h"
#include "lab/why/ledger.h"
#include "lab/why/reason.h"

using namespace bronvel;

namespace {

Question question_of_example(const std::string& name, double seconds) {
  Question question;
  question.folder = open_folder(in_checkout("/examples/" + name));
  question.seed = question.folder.scene.seed;
  question.ticks = std::llround(seconds * question.folder.scene.world.tick_rate);
  return question;
}

// A floor and a ball on it, which carries the script.
Question with_script(const std::string& text, double seconds) {
  Question question;
  Scene& scene = question.folder.scene;
  Body floor;
  floor.name = "floor";
  floor.kind = MotionKind::fixed;
  floor.shape = Box{{20, 1, 20}};
  floor.position = {0, -0.5, 0};
  scene.bodies.push_back(floor);
  Body ball;
  ball.name = "ball";
  ball.shape = Sphere{0.2};
  ball.mass = 2;
  ball.position = {0, 0.2, 0};
  if (!text.empty()) ball.scripts.push_back({"act.lua", {}});
  scene.bodies.push_back(ball);
  if (!text.empty()) question.folder.scripts["act.lua"] = text;
  question.ticks = std::llround(seconds * scene.world.tick_rate);
  return question;
}

WhatActs acts_of(const Booked& booked, const std::string& name, std::int64_t tick) {
  const BookedBody* body = booked.find(name);
  REQUIRE(body);
  return what_acts(std::span(&body, 1), tick, booked.tick_rate);
}

const Acting* acting_called(const WhatActs& acts, const std::string& text) {
  for (const Acting& acting : acts.causes)
    if (acting.cause.text() == text) return &acting;
  return nullptr;
}

std::string reason_at(const Question& question, double seconds) {
  const Booked booked = book(question, {"ball"});
  REQUIRE(booked.find("ball"));
  return reason_of(*booked.find("ball"), std::llround(seconds * booked.tick_rate), booked.tick_rate).text;
}

}  // namespace

TEST_CASE("the books of every example add up, and booking changes no bit") {
  for (const auto& entry : std::filesystem::directory_iterator(in_checkout("/examples"))) {
    const std::string name = entry.path().filename();
    INFO(name);
    const Question question = question_of_example(name, 2);
    const Balance balance = book(question, {}).balance;
    CHECK(balance.momentum_error < 1e-9);
    CHECK(balance.energy_error < 1e-9);
    // Where next to nothing is turned over, the give of what rests is most of it.
    constexpr double something = 1;  // J
    if (balance.turnover > something) CHECK(balance.solver_energy < 0.008);
    CHECK(balance.solver_momentum < 1e-3);
    Play plain(question.folder, question.seed), booked(question.folder, question.seed);
    BookKeeper keeper({});
    keeper.begin(booked);
    for (int i = 0; i < 60; ++i) {
      plain.step();
      booked.step();
      keeper.take(booked);
    }
    CHECK(plain.running().world.digest() == booked.running().world.digest());
  }
}

TEST_CASE("what acts is told by name: weight, contact, and the script's line with its call") {
  const Question question = with_script("function on.tick()\n  body:force(vec(3, 0, 0))\nend\n", 0.5);
  const Booked booked = book(question, {"ball"});
  const WhatActs acts = acts_of(booked, "ball", question.ticks);
  REQUIRE(acting_called(acts, "weight"));
  CHECK(acting_called(acts, "weight")->force.y() == Approx(-2 * 9.81));
  REQUIRE(acting_called(acts, "on floor"));
  CHECK(acting_called(acts, "on floor")->force.y() == Approx(2 * 9.81).epsilon(1e-3));
  CHECK(acting_called(acts, "on floor")->at.y() == Approx(0).margin(0.001));
  const Acting* line = acting_called(acts, "act.lua:2 force");
  REQUIRE(line);
  CHECK(line->force.x() == Approx(3));
  CHECK(size_text(*line) == "3 N →");
  CHECK((acts.net - acts.changing).norm() < 1e-5);  // lines are kept as floats
  CHECK(acts.causes.front().share == 1);
}

TEST_CASE("forces between two bodies are left out where both are asked about") {
  Question question = with_script("", 0.5);
  Body crate = question.folder.scene.bodies[1];
  crate.name = "crate";
  crate.shape = Box{{0.4, 0.4, 0.4}};
  crate.position = {2, 0.2, 0};
  Body top = crate;
  top.name = "top";
  top.position = {2, 0.6, 0};
  question.folder.scene.bodies.push_back(crate);
  question.folder.scene.bodies.push_back(top);
  const Booked booked = book(question, {"crate", "top"});
  const BookedBody* both[] = {booked.find("crate"), booked.find("top")};
  REQUIRE(both[0]);
  REQUIRE(both[1]);
  const WhatActs acts = what_acts(both, question.ticks, booked.tick_rate);
  CHECK_FALSE(acting_called(acts, "on top"));
  CHECK_FALSE(acting_called(acts, "on crate"));
  REQUIRE(acting_called(acts, "on floor"));
  CHECK(acting_called(acts, "on floor")->force.y() == Approx(4 * 9.81).epsilon(1e-3));
  CHECK(acting_called(acts, "weight")->force.y() == Approx(-4 * 9.81).epsilon(1e-6));
}

TEST_CASE("sentences say why: it rests, sleeps, flies, is led by a line, slows") {
  CHECK(reason_at(with_script("", 0.3), 0.3).starts_with("Rests. Its weight of 19.6 N is carried by on floor"));
  CHECK(reason_at(with_script("", 3), 3).starts_with("Asleep since "));
  Question high = with_script("", 0.3);
  high.folder.scene.bodies[1].position.y() = 5;
  CHECK(reason_at(high, 0.3) == "It flies: nothing but its weight of 19.6 N acts.");
  Question free = with_script("", 0.5);
  free.folder.scene.world.gravity.setZero();
  free.folder.scene.bodies[1].position.y() = 5;
  free.folder.scene.bodies[1].velocity = {1, 0, 0};
  CHECK(reason_at(free, 0.4) == "Nothing acts on it: it goes on as it goes.");
  CHECK(reason_at(with_script("function on.tick()\n  body.velocity = vec(1, 0, 0)\nend\n", 0.5), 0.5) ==
        "act.lua:2 velocity is set every tick, so forces never add up.");
  Question rolls = with_script("", 1);
  rolls.folder.scene.bodies[1].velocity = {3, 0, 0};
  rolls.folder.scene.bodies[1].angular_velocity = {0, 0, -15};
  Surface soft;
  soft.rolling_friction = 0.2;
  rolls.folder.scene.surfaces["soft"] = soft;
  for (Body& body : rolls.folder.scene.bodies) body.surface = "soft";
  const std::string words = reason_at(rolls, 0.5);
  INFO(words);
  CHECK(words.starts_with("Slows: rolling friction on floor takes "));
  CHECK(words.find("; so it rests in ") != std::string::npos);
}

TEST_CASE("a sentence's links are the words of their causes") {
  const Booked booked = book(question_of_example("skerrow-quay", 5), {"fender"});
  const BookedBody& fender = *booked.find("fender");
  int links = 0;
  for (std::int64_t tick = fender.first_tick; tick < fender.end_tick(); tick += 7) {
    const Reason reason = reason_of(fender, tick, booked.tick_rate);
    CHECK_FALSE(reason.text.empty());
    for (const Reason::Link& link : reason.links) {
      CHECK(reason.text.substr(link.begin, link.length) == link.cause.text());
      ++links;
    }
  }
  CHECK(links > 20);
}

TEST_CASE("a ledger closes between any two moments, and names who gave and who took") {
  const Question question = question_of_example("skerrow-quay", 4);
  const Booked booked = book(question, {});
  std::vector<const BookedBody*> all;
  for (const BookedBody& body : booked.bodies) all.push_back(&body);
  for (const auto& [from, to] : {std::pair{0, 480}, std::pair{60, 200}, std::pair{199, 200}}) {
    const Ledger ledger = ledger_of(all, from, to);
    // What is kept of each line is a float.
    CHECK(std::abs(ledger.unexplained()) < 1e-4 * (1 + ledger.kinetic_before + std::abs(ledger.lifted)));
  }
  const BookedBody* fender = booked.find("fender");
  REQUIRE(fender);
  const Ledger ledger = ledger_of(std::span(&fender, 1), 0, question.ticks);
  REQUIRE_FALSE(ledger.lines.empty());
  CHECK(ledger.lines.front().cause.text() == "hit on quay");
  CHECK(ledger.lines.front().took < -50);
  CHECK(ledger_text(ledger, booked.tick_rate).find("nudge.lua:21 force") != std::string::npos);
}

TEST_CASE("nothing is said of a moment or a body that was not booked") {
  const Booked booked = book(with_script("", 0.1), {"ball", "nobody"});
  CHECK_FALSE(booked.find("nobody"));
  const BookedBody* ball = booked.find("ball");
  CHECK(what_acts(std::span(&ball, 1), 10000, booked.tick_rate).causes.empty());
  CHECK(reason_of(*ball, -3, booked.tick_rate).text.empty());
  CHECK(ledger_of(std::span(&ball, 1), 500, 600).lines.empty());
}

TEST_CASE("of two takes that differ in one thing, that is named as the first cause") {
  struct Pair {
    const char *example, *setting, *body;
    double seconds;
    Cause cause;
  };
  const Pair pairs[] = {
      {"skerrow-quay", "fender.dials.push=9", "fender", 2, Cause::force},
      {"skerrow-quay", "fender.restitution=0.85", "fender", 2, Cause::hit},
      {"skerrow-quay", "fender.mass=4", "fender", 2, Cause::weight},
      {"skerrow-quay", "fender.drag_area=0.4", "fender", 2, Cause::air_drag},
      {"skerrow-quay", "fender.linear_damping=0.5", "fender", 2, Cause::damping},
      {"skerrow-quay", "fender.gravity_factor=0.7", "fender", 2, Cause::weight},
      {"bell-buoy", "buoy.mass=1600", "buoy", 2, Cause::weight},
      {"three-airs", "float_light.gravity_factor=0.5", "float_light", 3, Cause::weight},
      {"skerrow-crane", "cask.gravity_factor=0.8", "cask", 2, Cause::weight},
      {"ice-and-anchor", "anchor.gravity_factor=0.9", "anchor", 2, Cause::weight},
  };
  for (const Pair& pair : pairs) {
    INFO(pair.example << ", " << pair.setting);
    Question question = question_of_example(pair.example, pair.seconds);
    const auto before = ask(question);
    Input input;
    input.kind = Input::Kind::set;
    input.name = pair.setting;
    question.inputs.push_back(input);
    const auto now = ask(question);
    const Difference difference =
        before->with([&](const Take& a) { return now->with([&](const Take& b) { return difference_of(a, b); }); });
    REQUIRE_FALSE(difference.departures.empty());
    const Departure& first = difference.departures.front();
    CHECK(first.body == pair.body);
    REQUIRE(first.known);
    CHECK(cause_word(first.cause.cause) == cause_word(pair.cause));
    CHECK(first.before != Approx(first.now).epsilon(1e-6));
    CHECK(difference_lines(difference).size() >= 2);
  }
}

TEST_CASE("a take beside itself: nothing was changed, and no body goes another way") {
  const auto take = ask(question_of_example("skerrow-quay", 1));
  const Difference difference = take->with([](const Take& one) { return difference_of(one, one); });
  CHECK(difference.departures.empty());
  CHECK(difference.events.empty());
  CHECK(difference.bodies_alike > 3);
  CHECK(difference_lines(difference) ==
        std::vector<std::string>{"changed: nothing that a play depends on", "no body goes another way"});
}

TEST_CASE("sizes have three digits, the prefix that fits and a direction") {
  CHECK(si_text(2452.5, "N") == "2.45 kN");
  CHECK(si_text(999.7, "N") == "1 kN");
  CHECK(si_text(0.0123, "J") == "12.3 mJ");
  CHECK(si_text(-3.14159, "W") == "-3.14 W");
  CHECK(si_text(0, "N") == "0 N");
  CHECK(std::string(direction_glyph({1, 1, 0})) == "↗");
  CHECK(std::string(direction_glyph({0, -2, 0})) == "↓");
  CHECK(std::string(direction_glyph({0, 0, 1})) == "·");
  CHECK(std::string(direction_glyph(Vec3::Zero())).empty());
}
