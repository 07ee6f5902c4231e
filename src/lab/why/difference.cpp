// Comparing motions, then the books of those that part, then touches.
#include "lab/why/difference.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <map>

namespace bronvel {
namespace {

constexpr std::size_t most_booked = 12;  // bodies: those that part first

std::string seconds(double time) {
  std::array<char, 32> text{};
  std::snprintf(text.data(), text.size(), "%.3f s", time);
  return text.data();
}

// The positions of the body, a row a tick.
std::vector<Vec3> way_of(const Take& take, TakeReader& reader, const std::string& body) {
  Channel channel;
  channel.owner = body;
  channel.quantity = "position";
  std::array<std::vector<double>, 3> parts;
  for (int i = 0; i < 3; ++i) reader.numbers(take, channel, i, 0, take.ticks, parts[static_cast<std::size_t>(i)]);
  std::vector<Vec3> way;
  for (std::size_t k = 0; k < parts[0].size(); ++k) way.emplace_back(parts[0][k], parts[1][k], parts[2][k]);
  return way;
}

// When the two ways have come that far apart, s; from where one of them ends, or a body is not there, nothing.
std::optional<double> parting(const std::vector<Vec3>& before, double rate_before, const std::vector<Vec3>& now,
                              double rate_now, double apart) {
  for (std::size_t k = 0; k < now.size(); ++k) {
    const double time = static_cast<double>(k) / rate_now, place = time * rate_before;
    const auto low = static_cast<std::size_t>(place + 1e-9);
    if (low >= before.size()) return std::nullopt;
    const double share = std::max(0.0, place - static_cast<double>(low));
    const Vec3 then = share > 1e-6 && low + 1 < before.size()
                          ? Vec3(before[low] + share * (before[low + 1] - before[low]))
                          : before[low];
    const bool there = std::isfinite(then.x()), here = std::isfinite(now[k].x());
    if (there != here) return time;
    if (here && (then - now[k]).norm() > apart) return time;
  }
  return std::nullopt;
}

double size_of(const BookedLine& line, double factor) {
  const double force = factor * static_cast<double>(line.impulse.norm());
  return force > 0 ? force : factor * static_cast<double>(line.turn.norm());
}

// Whether it is a reaction: a contact's or a joint's.
bool answers(Cause cause) {
  switch (cause) {
    case Cause::normal:
    case Cause::friction:
    case Cause::rolling:
    case Cause::torsion:
    case Cause::overlap:
    case Cause::joint:
    case Cause::limit:
    case Cause::lock:
      return true;
    default:
      return false;
  }
}

// The first tick in which the two books differ by more than rounding, and by which cause most.
void find_cause(const BookedBody& before, const BookedBody& now, double rate, Departure& departure) {
  const std::int64_t first = std::max(before.first_tick, now.first_tick);
  const std::int64_t end = std::min(before.end_tick(), now.end_tick());
  for (std::int64_t tick = first; tick < end; ++tick) {
    // By cause without its line: a line may stand elsewhere in the other text.
    struct Both {
      NamedCause cause;
      std::array<const BookedLine*, 2> lines{};
    };
    std::vector<Both> both;
    double most = 0;
    for (const int side : {0, 1}) {
      const BookedBody& body = side == 0 ? before : now;
      for (const BookedLine& line : body.lines_of(*body.at(tick))) {
        const NamedCause& cause = body.causes[line.cause];
        if (cause.cause == Cause::solver) continue;
        most = std::max(most, static_cast<double>(line.impulse.norm() + line.turn.norm()));
        const auto same = std::find_if(both.begin(), both.end(), [&](const Both& each) {
          return each.cause.cause == cause.cause && each.cause.by == cause.by && each.cause.script == cause.script &&
                 each.lines[static_cast<std::size_t>(side)] == nullptr;
        });
        Both& here = same != both.end() ? *same : both.emplace_back();
        here.cause = cause;
        here.lines[static_cast<std::size_t>(side)] = &line;
      }
    }
    // What only answers to other forces comes after these, unless it differs by far more.
    constexpr double far_more = 10;
    const Both* worst = nullptr;
    double apart = 0;
    for (const Both& each : both) {
      static const BookedLine none;
      const BookedLine &a = each.lines[0] ? *each.lines[0] : none, &b = each.lines[1] ? *each.lines[1] : none;
      const double differs = static_cast<double>((a.impulse - b.impulse).norm() + (a.turn - b.turn).norm());
      const double counts = answers(each.cause.cause) ? differs / far_more : differs;
      if (differs <= 1e-5 * most || counts <= apart) continue;
      apart = counts;
      worst = &each;
    }
    if (!worst) continue;
    const double factor = worst->cause.at_once() ? 1 : rate;
    departure.known = true;
    departure.first = static_cast<double>(tick) / rate;
    departure.cause = worst->cause;
    departure.before = worst->lines[0] ? size_of(*worst->lines[0], factor) : 0;
    departure.now = worst->lines[1] ? size_of(*worst->lines[1], factor) : 0;
    return;
  }
}

void find_events(const Take& before, const Take& now, Difference& difference) {
  using Key = std::pair<std::string, std::string>;
  struct Times {
    std::vector<double> before, now;
  };
  std::map<Key, Times> touches;
  for (const bool first : {true, false}) {
    const Take& take = first ? before : now;
    for (const PlayEvent& event : take.events)
      if (event.phase == ContactPhase::touch) {
        Times& times = touches[Key(event.a, event.b)];
        (first ? times.before : times.now).push_back(event.time(take.tick_rate()));
      }
  }
  const double end = std::min(before.seconds(), now.seconds());
  const double same = 0.5 / std::min(before.tick_rate(), now.tick_rate());
  for (const auto& [key, times] : touches)
    for (std::size_t k = 0; k < std::max(times.before.size(), times.now.size()); ++k) {
      EventDifference event{key.first, key.second, static_cast<int>(k) + 1, {}, {}};
      if (k < times.before.size()) event.before = times.before[k];
      if (k < times.now.size()) event.now = times.now[k];
      if (event.before && event.now && std::abs(*event.before - *event.now) <= same) continue;
      // What one of them had no time for says nothing.
      if (std::min(event.before.value_or(1e300), event.now.value_or(1e300)) > end) continue;
      difference.events.push_back(event);
    }
  std::stable_sort(difference.events.begin(), difference.events.end(),
                   [](const EventDifference& a, const EventDifference& b) {
                     return std::min(a.before.value_or(1e300), a.now.value_or(1e300)) <
                            std::min(b.before.value_or(1e300), b.now.value_or(1e300));
                   });
}

}  // namespace

Difference difference_of(const Take& before, const Take& now, double apart, const std::function<bool()>& go_on) {
  Difference difference;
  difference.changed = differences(before.folder, now.folder);
  if (before.seed != now.seed)
    difference.changed.push_back("seed " + std::to_string(before.seed) + " → " + std::to_string(now.seed));
  if (before.inputs.size() != now.inputs.size() ||
      !std::equal(before.inputs.begin(), before.inputs.end(), now.inputs.begin(), [](const Input& a, const Input& b) {
        return a.tick == b.tick && a.kind == b.kind && a.name == b.name && a.value == b.value;
      }))
    difference.changed.push_back("what was done in play");
  TakeReader reader_before, reader_now;
  for (const auto& [name, track] : now.body_of) {
    if (!before.body_of.contains(name)) continue;
    const auto when = parting(way_of(before, reader_before, name), before.tick_rate(), way_of(now, reader_now, name),
                              now.tick_rate(), apart);
    if (!when) {
      ++difference.bodies_alike;
      continue;
    }
    Departure departure;
    departure.body = name;
    departure.time = *when;
    difference.departures.push_back(departure);
  }
  std::stable_sort(difference.departures.begin(), difference.departures.end(),
                   [](const Departure& a, const Departure& b) { return a.time < b.time; });
  find_events(before, now, difference);
  // At different rates ticks are not of one length, and their books are not compared.
  if (difference.departures.empty() || before.tick_rate() != now.tick_rate()) return difference;
  std::vector<std::string> names;
  const std::size_t told = std::min(difference.departures.size(), most_booked);
  for (std::size_t k = 0; k < told; ++k) names.push_back(difference.departures[k].body);
  Question one = question_of(before), other = question_of(now);
  const auto last = static_cast<std::int64_t>(std::ceil(difference.departures[told - 1].time * now.tick_rate()) + 1);
  one.ticks = std::min(one.ticks, last);
  other.ticks = std::min(other.ticks, last);
  const Booked books_before = book(one, names, go_on), books_now = book(other, names, go_on);
  for (std::size_t k = 0; k < told; ++k) {
    Departure& departure = difference.departures[k];
    const BookedBody *a = books_before.find(departure.body), *b = books_now.find(departure.body);
    if (a && b) find_cause(*a, *b, now.tick_rate(), departure);
  }
  // Who parts for a reason of its own goes before those that only answer to it.
  std::stable_sort(difference.departures.begin(), difference.departures.begin() + static_cast<std::ptrdiff_t>(told),
                   [](const Departure& a, const Departure& b) {
                     const double sooner = a.known ? a.first : a.time, later = b.known ? b.first : b.time;
                     return sooner != later ? sooner < later : !answers(a.cause.cause) && answers(b.cause.cause);
                   });
  return difference;
}

std::vector<std::string> difference_lines(const Difference& difference) {
  std::vector<std::string> lines;
  std::string changed;
  for (const std::string& each : difference.changed) changed += (changed.empty() ? "" : ", ") + each;
  lines.push_back("changed: " + (changed.empty() ? "nothing that a play depends on" : changed));
  if (difference.departures.empty()) lines.push_back("no body goes another way");
  bool first = true;
  for (const Departure& departure : difference.departures) {
    std::string line =
        departure.body + (first ? " departs first: " : ": ") + "seen apart at " + seconds(departure.time);
    if (departure.known) {
      const std::string unit = departure.cause.at_once() ? "N·s" : "N";
      line += "; from " + seconds(departure.first) + " on by " + departure.cause.text() + ", " +
              si_text(departure.before, unit) + " → " + si_text(departure.now, unit);
    }
    lines.push_back(line);
    first = false;
  }
  for (const EventDifference& event : difference.events) {
    const std::string which =
        event.a + " and " + event.b + (event.number > 1 ? ", touch " + std::to_string(event.number) : "");
    if (event.before && event.now)
      lines.push_back(which + ": touch at " + seconds(*event.now) + " instead of " + seconds(*event.before));
    else if (event.now)
      lines.push_back(which + ": touch at " + seconds(*event.now) + ", which was not there");
    else
      lines.push_back(which + ": do not touch at " + seconds(*event.before) + " any more");
  }
  return lines;
}

}  // namespace bronvel
