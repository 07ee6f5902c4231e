// Names for the world's books, tick by tick.
#include "lab/why/booked.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace bronvel {
namespace {

NamedCause named(const Play& play, const BookLine& line) {
  NamedCause cause;
  cause.cause = line.cause;
  if (line.by.index == CauseBy::nobody) return cause;
  switch (line.cause) {
    case Cause::normal:
    case Cause::friction:
    case Cause::rolling:
    case Cause::torsion:
    case Cause::overlap:
    case Cause::hit:
    case Cause::hit_friction:
      cause.by = play.running().name_of(BodyHandle{line.by.index, line.by.generation});
      break;
    case Cause::weight:
    case Cause::pull:
    case Cause::buoyancy:
    case Cause::water_drag:
      cause.by = play.running().name_of(ZoneHandle{line.by.index, line.by.generation});
      break;
    case Cause::joint:
    case Cause::limit:
    case Cause::motor:
    case Cause::spring:
      cause.by = play.running().name_of(JointHandle{line.by.index, line.by.generation});
      // A rope is held by its length, which is a limit; that is all it does.
      for (const SceneJoint& joint : play.running().scene.joints)
        if (joint.name == cause.by && (joint.kind == JointKind::distance || joint.kind == JointKind::pulley) &&
            cause.cause == Cause::limit)
          cause.cause = Cause::joint;
      break;
    case Cause::force:
    case Cause::impulse:
    case Cause::set_velocity:
    case Cause::placed: {
      const Actor& actor = play.scripts().actor(line.by.index);
      cause.by = actor.what;
      cause.script = actor.script;
      cause.line = actor.line;
      break;
    }
    default:
      break;
  }
  return cause;
}

std::uint32_t place_of(std::vector<NamedCause>& causes, const NamedCause& cause) {
  const auto found = std::find(causes.begin(), causes.end(), cause);
  if (found != causes.end()) return static_cast<std::uint32_t>(found - causes.begin());
  causes.push_back(cause);
  return static_cast<std::uint32_t>(causes.size() - 1);
}

}  // namespace

std::string si_text(double x, const std::string& unit) {
  struct Prefix {
    double from, factor;
    const char* letter;
  };
  constexpr std::array<Prefix, 4> prefixes{
      {{0.9995e6, 1e-6, "M"}, {0.9995e3, 1e-3, "k"}, {0.09995, 1, ""}, {1e-6, 1e3, "m"}}};
  std::array<char, 48> text{};
  for (const Prefix& prefix : prefixes) {
    if (std::abs(x) < prefix.from) continue;
    std::snprintf(text.data(), text.size(), "%.3g %s%s", x * prefix.factor, prefix.letter, unit.c_str());
    return text.data();
  }
  return "0 " + unit;
}

bool NamedCause::at_once() const {
  switch (cause) {
    case Cause::hit:
    case Cause::hit_friction:
    case Cause::impulse:
    case Cause::set_velocity:
    case Cause::placed:
    case Cause::breaking:
    case Cause::sleep:
      return true;
    default:
      return false;
  }
}

std::string NamedCause::text() const {
  if (!script.empty()) return script + ":" + std::to_string(line) + " " + by;
  switch (cause) {
    case Cause::normal:
      return by.empty() ? "contact" : "on " + by;
    case Cause::hit:
      return by.empty() ? "hit" : "hit on " + by;
    case Cause::friction:
    case Cause::rolling:
    case Cause::torsion:
    case Cause::overlap:
    case Cause::hit_friction:
      return by.empty() ? cause_word(cause) : cause_word(cause) + " on " + by;
    case Cause::weight:
      return by.empty() ? "weight" : "weight in " + by;
    case Cause::pull:
    case Cause::buoyancy:
    case Cause::water_drag:
      return by.empty() ? cause_word(cause) : cause_word(cause) + " of " + by;
    case Cause::joint:
      return by.empty() ? "joint" : by;
    case Cause::limit:
    case Cause::motor:
    case Cause::spring:
      return by.empty() ? cause_word(cause) : by + ", its " + cause_word(cause);
    case Cause::force:
    case Cause::impulse:
    case Cause::set_velocity:
    case Cause::placed:
      return by.empty() ? cause_word(cause) : by;
    default:
      return cause_word(cause);
  }
}

const BookedTick* BookedBody::at(std::int64_t tick) const {
  if (tick < first_tick || tick >= end_tick()) return nullptr;
  return &ticks[static_cast<std::size_t>(tick - first_tick)];
}

std::span<const BookedLine> BookedBody::lines_of(const BookedTick& tick) const {
  return std::span(lines).subspan(tick.first, tick.count);
}

std::size_t BookedBody::bytes() const {
  return lines.size() * sizeof(BookedLine) + ticks.size() * sizeof(BookedTick) + causes.size() * sizeof(NamedCause);
}

const BookedBody* Booked::find(const std::string& name) const {
  for (const BookedBody& body : bodies)
    if (body.name == name) return &body;
  return nullptr;
}

void BookKeeper::look_for(Play& play) {
  if (asked_.empty()) return;
  std::vector<BodyHandle> found;
  for (const std::string& name : asked_)
    if (const auto body = play.running().find(name)) found.push_back(*body);
  if (found == kept_) return;
  kept_ = std::move(found);
  play.running().world.keep_books(kept_);
}

void BookKeeper::begin(Play& play) {
  booked_.tick_rate = play.running().world.settings().tick_rate;
  if (asked_.empty()) play.running().world.keep_all_books();
  look_for(play);
}

void BookKeeper::take(Play& play) {
  for (const BodyBooks& books : play.running().world.books()) add(play, books);
  look_for(play);
}

void BookKeeper::add(const Play& play, const BodyBooks& books) {
  const std::string& name = play.running().name_of(books.body);
  if (name.empty() || !play.running().world.alive(books.body)) return;  // gone within the tick
  auto body = std::find_if(booked_.bodies.begin(), booked_.bodies.end(),
                           [&](const BookedBody& each) { return each.name == name; });
  // A body that came again under a name that was free begins anew.
  if (body != booked_.bodies.end() && body->end_tick() != play.tick()) {
    booked_.bodies.erase(body);
    body = booked_.bodies.end();
  }
  if (body == booked_.bodies.end()) {
    BookedBody& fresh = booked_.bodies.emplace_back();
    fresh.name = name;
    fresh.first_tick = play.tick();
    fresh.kinetic_before = books.kinetic_before;
    body = booked_.bodies.end() - 1;
  }
  BookedTick tick;
  tick.first = body->lines.size();
  tick.change = books.momentum - books.momentum_before;
  tick.momentum = books.momentum;
  tick.kinetic = books.kinetic;
  tick.height = (body->ticks.empty() ? 0 : body->ticks.back().height) + books.lifted;
  tick.asleep = play.running().world.asleep(books.body);
  for (const BookLine& line : books.lines) {
    BookedLine& kept = body->lines.emplace_back();
    kept.cause = place_of(body->causes, named(play, line));
    kept.impulse = line.impulse.cast<float>();
    kept.turn = line.turn.cast<float>();
    kept.at = line.at.cast<float>();
    kept.work = static_cast<float>(line.work);
    kept.has_place = line.weight > 0;
  }
  tick.count = body->lines.size() - tick.first;
  body->mass = play.running().world.mass(books.body).mass;
  body->ticks.push_back(tick);
  weigh(books, name);
}

void BookKeeper::weigh(const BodyBooks& books, const std::string& name) {
  Vec3 impulse = Vec3::Zero(), turn = Vec3::Zero();
  double sizes = 0, turns = 0, work = 0, works = 0, solver = 0, solver_work = 0;
  for (const BookLine& line : books.lines) {
    impulse += line.impulse;
    turn += line.turn;
    sizes += line.impulse.norm();
    turns += line.turn.norm();
    works += std::abs(line.work);
    if (line.cause != Cause::weight) work += line.work;
    if (line.cause != Cause::solver) continue;
    solver += line.impulse.norm();
    solver_work += std::abs(line.work);
  }
  Balance& balance = booked_.balance;
  const auto share = [](double part, double of) { return of > 0 ? part / of : 0; };
  // Against all that moved, and all that it moves with.
  const double least = 1e-9;
  balance.momentum_error =
      std::max({balance.momentum_error,
                share((books.momentum - books.momentum_before - impulse).norm(), sizes + books.momentum.norm() + least),
                share((books.turning - books.turning_before - turn).norm(), turns + books.turning.norm() + least)});
  balance.energy_error = std::max(balance.energy_error,
                                  share(std::abs(books.kinetic - books.kinetic_before + books.lifted - work),
                                        works + books.kinetic + books.kinetic_before + std::abs(books.lifted) + least));
  sums_.impulse += sizes;
  sums_.solver_impulse += solver;
  sums_.work += works;
  sums_.solver_work += solver_work;
  if (solver_work > sums_.most_solver_work) {
    sums_.most_solver_work = solver_work;
    balance.worst_body = name;
  }
  balance.solver_momentum = share(sums_.solver_impulse, sums_.impulse);
  balance.solver_energy = share(sums_.solver_work, sums_.work);
  balance.turnover = sums_.work;
}

Booked book(const Question& question, const std::vector<std::string>& bodies, const std::function<bool()>& go_on) {
  Play play(question.folder, question.seed, question.inputs);
  BookKeeper keeper(bodies);
  keeper.begin(play);
  for (std::int64_t i = 0; i < question.ticks; ++i) {
    play.step();
    play.take_log();
    keeper.take(play);
    if (go_on && !go_on()) break;
  }
  return std::move(keeper.booked());
}

}  // namespace bronvel
