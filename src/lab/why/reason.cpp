// Looks back over a quarter of a second, and says what there was most of.
#include "lab/why/reason.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

#include "lab/why/acting.h"
#include "lab/why/ledger.h"

namespace bronvel {
namespace {

std::string number(double x, const char* unit) {
  if (unit != std::string_view("s")) return si_text(x, unit);
  std::array<char, 48> text{};
  std::snprintf(text.data(), text.size(), "%.3g s", x);
  return text.data();
}

class Sentence {
 public:
  Sentence& operator<<(const std::string& text) {
    reason_.text += text;
    return *this;
  }
  Sentence& operator<<(const NamedCause& cause) {
    const std::string text = cause.text();
    reason_.links.push_back({reason_.text.size(), text.size(), cause});
    reason_.text += text;
    return *this;
  }
  Reason end() { return std::move(reason_); }

 private:
  Reason reason_;
};

bool is_contact(const NamedCause& cause) {
  return cause.cause == Cause::normal || cause.cause == Cause::friction;
}

const Acting* greatest(const WhatActs& acts, const auto& wanted) {
  for (const Acting& acting : acts.causes)
    if (wanted(acting)) return &acting;
  return nullptr;
}

// Whether a script sets the velocity in each of the last ticks.
const NamedCause* sets_velocity(const BookedBody& body, std::int64_t tick) {
  constexpr int ticks = 10;
  const NamedCause* who = nullptr;
  for (std::int64_t k = tick; k > tick - ticks; --k) {
    const BookedTick* now = body.at(k);
    if (!now) return nullptr;
    const NamedCause* here = nullptr;
    for (const BookedLine& line : body.lines_of(*now))
      if (body.causes[line.cause].cause == Cause::set_velocity && !body.causes[line.cause].script.empty())
        here = &body.causes[line.cause];
    if (!here) return nullptr;
    who = here;
  }
  return who;
}

// "Its weight of 24 N is carried by on quay (12 N), cord (12 N)."
void tell_carriers(Sentence& sentence, const WhatActs& acts) {
  const Acting* weight = greatest(acts, [](const Acting& a) { return a.cause.cause == Cause::weight; });
  if (!weight) return;
  const double heavy = weight->force.norm();
  const Vec3 up = -weight->force / heavy;
  constexpr double counts = 0.02;  // of the weight
  bool first = true;
  for (const Acting& acting : acts.causes) {
    const double carries = acting.force.dot(up);
    if (acting.cause.cause == Cause::weight || acting.cause.at_once() || carries < counts * heavy) continue;
    sentence << (first ? "Its weight of " + number(heavy, "N") + " is carried by " : ", ") << acting.cause
             << " (" + number(carries, "N") + ")";
    first = false;
  }
  if (!first) sentence << ".";
}

}  // namespace

Reason reason_of(const BookedBody& body, std::int64_t tick, double tick_rate) {
  Sentence sentence;
  const BookedTick* now = body.at(tick);
  if (!now) return sentence.end();
  const BookedBody* one = &body;
  const WhatActs acts = what_acts(std::span(&one, 1), tick, tick_rate);
  if (acts.asleep) {
    std::int64_t since = tick;
    while (body.at(since - 1) && body.at(since - 1)->asleep) --since;
    sentence << "Asleep since " + number(static_cast<double>(since) / tick_rate, "s") + ". ";
    tell_carriers(sentence, acts);
    return sentence.end();
  }
  if (const Acting* hit = greatest(acts, [](const Acting& a) { return a.cause.cause == Cause::hit; })) {
    const Ledger ledger = ledger_of(std::span(&one, 1), tick - 1, tick);
    double took = 0;
    for (const LedgerLine& line : ledger.lines)
      if (line.cause.by == hit->cause.by && (line.cause.cause == Cause::hit || line.cause.cause == Cause::hit_friction))
        took += line.net();
    sentence << hit->cause << ": " + number(hit->force.norm(), "N·s") + ", which "
             << (took < 0 ? "took " : "gave ") + energy_text(std::abs(took)) + ".";
    return sentence.end();
  }
  if (const NamedCause* who = sets_velocity(body, tick)) {
    sentence << *who << " is set every tick, so forces never add up.";
    return sentence.end();
  }
  const double speed = body.mass > 0 ? now->momentum.norm() / body.mass : 0;
  // Over the last quarter of a second.
  const auto back = std::max<std::int64_t>(1, std::llround(0.25 * tick_rate));
  const std::int64_t from = std::max(body.first_tick - 1, tick - back);
  const double seconds = static_cast<double>(tick - from) / tick_rate;
  const Ledger ledger = ledger_of(std::span(&one, 1), from, tick);
  const bool touches = greatest(acts, [](const Acting& a) { return is_contact(a.cause); }) != nullptr;
  constexpr double still = 0.01;  // m/s
  if (speed < still && ledger.kinetic_after < 1e-3 * body.mass && acts.causes.size() > 1) {
    sentence << "Rests. ";
    tell_carriers(sentence, acts);
    const Acting* friction = greatest(acts, [](const Acting& a) { return a.cause.cause == Cause::friction; });
    constexpr double counts = 0.02;
    if (friction && friction->share > counts)
      sentence << " " << friction->cause << " holds " + number(friction->force.norm(), "N") + ".";
    return sentence.end();
  }
  const Acting* weight = greatest(acts, [](const Acting& a) { return a.cause.cause == Cause::weight; });
  const bool only_weight = weight && std::all_of(acts.causes.begin(), acts.causes.end(),
                                                 [&](const Acting& a) { return &a == weight || a.share < 0.02; });
  if (acts.causes.empty()) {
    sentence << "Nothing acts on it: it goes on as it goes.";
    return sentence.end();
  }
  if (only_weight) {
    sentence << "It flies: nothing but its " << weight->cause << " of " + number(weight->force.norm(), "N") + " acts.";
    return sentence.end();
  }
  // What acts steadily; hits and acts at once were told at their moment.
  const LedgerLine *taker = nullptr, *giver = nullptr;
  double change = ledger.kinetic_after - ledger.kinetic_before;
  for (const LedgerLine& line : ledger.lines) {
    if (line.cause.at_once())
      change -= line.net();
    else if (line.net() < 0 && !taker)
      taker = &line;
    else if (line.net() > 0 && !giver)
      giver = &line;
  }
  const auto power = [&](double joules) { return number(std::abs(joules) / seconds, "W"); };
  const double usual = 0.02 * std::max(ledger.kinetic_after, ledger.kinetic_before);
  const double taken = taker ? -taker->net() : 0, given = giver ? giver->net() : 0;
  if (change < -usual) {
    if (weight && ledger.lifted > taken) {
      sentence << "Slows as it rises: its " << weight->cause << " takes " + power(ledger.lifted) + ".";
      return sentence.end();
    }
    if (taker) {
      sentence << "Slows: " << taker->cause << " takes " + power(taken);
      const bool even = taker->cause.cause == Cause::friction || taker->cause.cause == Cause::rolling;
      // A steady force takes all that is left in twice the energy over the power.
      if (even && touches) sentence << "; so it rests in " + number(-2 * ledger.kinetic_after * seconds / change, "s");
      sentence << ".";
      return sentence.end();
    }
  }
  if (change > usual) {
    if (giver && given > -ledger.lifted)
      sentence << "Speeds up: " << giver->cause << " gives " + power(given) + ".";
    else if (weight && ledger.lifted < 0)
      sentence << "Speeds up as it goes down: its " << weight->cause << " gives " + power(ledger.lifted) + ".";
    if (taker) sentence << " " << taker->cause << " takes " + power(taken) + ".";
    return sentence.end();
  }
  const double net = acts.net.norm(), most = acts.causes.front().force.norm();
  if (net < 0.02 * most && acts.causes.size() > 1) {
    sentence << "Goes on evenly: " << acts.causes[0].cause << " (" + size_text(acts.causes[0]) + ") and "
             << acts.causes[1].cause << " (" + size_text(acts.causes[1]) + ") hold each other.";
    if (taker) sentence << " " << taker->cause << " takes " + power(taken) + ".";
    return sentence.end();
  }
  const Acting& first = acts.causes.front();
  sentence << "Most of all acts " << first.cause << " (" + size_text(first) + ").";
  return sentence.end();
}

}  // namespace bronvel
