// Playing a sweep.
#include "lab/measures/sweep.h"

#include <algorithm>
#include <cmath>
#include <mutex>

#include "geometry/base/error.h"
#include "lab/measures/call_text.h"
#include "lab/measures/side_by_side.h"

namespace bronvel {
namespace {

constexpr std::size_t most_plays = 1'000'000;

// The number whose bits, of so many, are those of `i` from the other end.
std::size_t turned_bits(std::size_t i, int bits) {
  std::size_t turned = 0;
  for (int k = 0; k < bits; ++k) turned |= ((i >> k) & 1) << (bits - 1 - k);
  return turned;
}

// 0 and the last, then halves, quarters …
std::vector<std::size_t> coarse_order(std::size_t count) {
  std::vector<std::size_t> order;
  int bits = 0;
  while ((std::size_t{1} << bits) < count) ++bits;
  if (count > 1) order.push_back(count - 1);
  for (std::size_t i = 0; i < (std::size_t{1} << bits); ++i) {
    const std::size_t k = turned_bits(i, bits);
    if (k + 1 < count || count == 1) order.push_back(k);
  }
  return order;
}

}  // namespace

std::vector<double> even_values(double from, double to, int count) {
  std::vector<double> values;
  for (int i = 0; i < count; ++i) {
    const double share = count > 1 ? static_cast<double>(i) / (count - 1) : 0;
    values.push_back(i + 1 == count && count > 1 ? to : from + (to - from) * share);
  }
  return values;
}

std::vector<double> ratio_values(double from, double to, int count) {
  std::vector<double> values;
  for (int i = 0; i < count; ++i) {
    const double share = count > 1 ? static_cast<double>(i) / (count - 1) : 0;
    values.push_back(i + 1 == count && count > 1 ? to : from * std::pow(to / from, share));
  }
  return values;
}

Varied varied_from_text(const std::string& text) {
  const auto equals = text.find('=');
  if (equals == std::string::npos || equals == 0)
    throw Error("--vary " + text, "wants what is varied, and its values", "as ball.dials.push=1:20:40");
  Varied varied;
  varied.name = text.substr(0, equals);
  const std::string values = text.substr(equals + 1), where = "--vary " + varied.name;
  if (values.find(':') == std::string::npos) {
    for (const std::string& part : parts_of(values, ',')) varied.values.push_back(number_in(part, where));
    if (varied.values.empty()) throw Error(where, "wants values", "as 1:20:40 or 1,2,5");
    return varied;
  }
  const std::vector<std::string> parts = parts_of(values, ':');
  if (parts.size() < 3 || parts.size() > 4)
    throw Error(where, "wants from, to and how many, got " + values, "as 1:20:40");
  const double from = number_in(parts[0], where), to = number_in(parts[1], where), count = number_in(parts[2], where);
  if (!(count >= 1 && count <= static_cast<double>(most_plays) && count == std::floor(count)))
    throw Error(where, "wants a whole number of values from 1 up, got " + parts[2]);
  if (count > 1 && from == to) throw Error(where, "has an empty range, from " + parts[0] + " to " + parts[1]);
  const bool ratio = parts.size() == 4;
  if (ratio && parts[3] != "ratio") throw Error(where, "knows \"ratio\" at the end, got \"" + parts[3] + "\"");
  if (ratio && !(from * to > 0)) throw Error(where, "by ratio wants both ends above 0, or both below");
  varied.values = (ratio ? ratio_values : even_values)(from, to, static_cast<int>(count));
  return varied;
}

std::size_t plays_of(const Sweep& sweep) {
  std::size_t count = static_cast<std::size_t>(sweep.seeds);
  for (const Varied& varied : sweep.varied) count *= varied.values.size();
  return count;
}

void check(const Sweep& sweep) {
  if (sweep.measures.empty()) throw Error("sweep", "has nothing to measure", "as --measure apex:ball");
  if (sweep.varied.size() > 2) throw Error("sweep", "varies no more than two things");
  if (sweep.seeds < 1) throw Error("sweep", "wants one seed or more");
  double count = sweep.seeds;
  for (const Varied& varied : sweep.varied) count *= static_cast<double>(varied.values.size());
  if (count > static_cast<double>(most_plays)) throw Error("sweep", "would be more than a million plays");
  // Each value by itself: what does not fit is said before anything is played.
  for (const Varied& varied : sweep.varied)
    for (const double value : varied.values) {
      const TrialSetting setting{varied.name, number_text(value)};
      question_of(sweep.study, std::span(&setting, 1));
      if (varied.name == "seed" && sweep.seeds > 1) throw Error("sweep", "varies the seed twice");
    }
}

SweepPoint point_of(const Sweep& sweep, std::size_t index) {
  SweepPoint point;
  const auto seeds = static_cast<std::size_t>(sweep.seeds);
  point.seed = sweep.study.seed + index % seeds;
  index /= seeds;
  point.values.resize(sweep.varied.size());
  for (std::size_t k = sweep.varied.size(); k-- > 0;) {
    const std::vector<double>& values = sweep.varied[k].values;
    point.values[k] = values[index % values.size()];
    index /= values.size();
    if (sweep.varied[k].name == "seed") point.seed = static_cast<std::uint64_t>(point.values[k]);
  }
  return point;
}

Question question_of(const Sweep& sweep, std::size_t index) {
  const SweepPoint point = point_of(sweep, index);
  std::vector<TrialSetting> settings;
  for (std::size_t k = 0; k < sweep.varied.size(); ++k)
    settings.push_back({sweep.varied[k].name, number_text(point.values[k])});
  Question question = question_of(sweep.study, settings);
  question.seed = point.seed;
  return question;
}

std::vector<std::size_t> coarse_first(const Sweep& sweep) {
  const auto seeds = static_cast<std::size_t>(sweep.seeds);
  std::vector<std::size_t> order;
  const auto add = [&](std::size_t place) {
    for (std::size_t seed = 0; seed < seeds; ++seed) order.push_back(place * seeds + seed);
  };
  if (sweep.varied.empty()) add(0);
  if (sweep.varied.size() == 1)
    for (const std::size_t i : coarse_order(sweep.varied[0].values.size())) add(i);
  if (sweep.varied.size() == 2) {
    // Coarse in both at once: by the later of the two places in their orders.
    const auto first = coarse_order(sweep.varied[0].values.size()),
               second = coarse_order(sweep.varied[1].values.size());
    for (std::size_t round = 0; round < std::max(first.size(), second.size()); ++round) {
      for (std::size_t i = 0; i < std::min(round, first.size()); ++i)
        if (round < second.size()) add(first[i] * second.size() + second[round]);
      for (std::size_t i = 0; i <= round && i < second.size(); ++i)
        if (round < first.size()) add(first[round] * second.size() + second[i]);
    }
  }
  return order;
}

void run_sweep(const Sweep& sweep, std::span<const std::size_t> plays, int jobs,
               const std::function<void(std::size_t, TrialAnswer&&)>& tell, const std::atomic<bool>* stop) {
  std::mutex telling;
  side_by_side(plays.size(), jobs, [&](std::size_t k) {
    if (stop && stop->load(std::memory_order_relaxed)) return;
    TrialAnswer answer;
    try {
      answer = try_out(question_of(sweep, plays[k]), sweep.measures, sweep.follow, stop);
    } catch (const Error& e) {
      answer.values.assign(sweep.measures.size(), std::numeric_limits<double>::quiet_NaN());
      answer.fault = e.what();
      answer.whole = true;
    }
    if (!answer.whole) return;
    const std::lock_guard<std::mutex> lock(telling);
    tell(plays[k], std::move(answer));
  });
}

Spread spread_of(std::vector<double> values) {
  std::erase_if(values, [](double x) { return std::isnan(x); });
  Spread spread;
  spread.count = values.size();
  if (values.empty()) return spread;
  std::sort(values.begin(), values.end());
  const auto at = [&](double share) {
    const double place = share * static_cast<double>(values.size() - 1);
    const auto low = static_cast<std::size_t>(place);
    const double rest = place - static_cast<double>(low);
    return rest > 0 ? values[low] + rest * (values[low + 1] - values[low]) : values[low];
  };
  spread.least = at(0);
  spread.low = at(0.25);
  spread.middle = at(0.5);
  spread.high = at(0.75);
  spread.greatest = at(1);
  return spread;
}

}  // namespace bronvel
