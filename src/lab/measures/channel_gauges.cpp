// Gauges of channels: their values at a time, extremes, means, and when they reach something.
#include <cmath>

#include "lab/measures/gauges.h"

namespace bronvel::gauges {
namespace {

double now_of(const Channel& channel, const Play& play) {
  const std::vector<double> values = read_channel(channel, play);
  return values.empty() ? never : values[0];
}

// A gauge that sees the channel at every tick at which it has a value.
template <class State, class Take, class Value>
Gauge of_channel(const Measure& measure, const State& begin, const Take& take, const Value& value) {
  const auto state = std::make_shared<State>(begin);
  const Channel channel = *measure.channel;
  return {[=](const Play& play) {
            const double x = now_of(channel, play);
            if (!std::isnan(x)) take(*state, x, play.time());
          },
          [=] { return value(*state); }};
}

struct Extreme {
  double value = never, time = never;
};

Gauge extreme(const Measure& measure, double sign, double Extreme::*which) {
  return of_channel(
      measure, Extreme{},
      [=](Extreme& most, double x, double time) {
        if (!(sign * x <= sign * most.value)) most = {x, time};
      },
      [=](const Extreme& most) { return most.*which; });
}

// The one before, to go between the two.
struct Last {
  double value = never, time = never, found = never;
};

}  // namespace

Gauge at(const Measure& measure) {
  const double moment = measure.number.value_or(0);
  return of_channel(
      measure, Last{},
      [=](Last& last, double x, double time) {
        if (std::isnan(last.found) && time >= moment - 1e-9) {
          const double share = std::isnan(last.time) ? 1 : (moment - last.time) / (time - last.time);
          last.found = std::isnan(last.time) ? x : last.value + std::fmin(share, 1) * (x - last.value);
        }
        last.value = x;
        last.time = time;
      },
      [](const Last& last) { return last.found; });
}

Gauge reaches(const Measure& measure) {
  const double wanted = measure.number.value_or(0);
  return of_channel(
      measure, Last{},
      [=](Last& last, double x, double time) {
        const double before = last.value - wanted, now = x - wanted;
        if (std::isnan(last.found)) {
          if (now == 0 || std::isnan(before))
            last.found = now == 0 ? time : never;
          else if (before * now < 0)
            last.found = last.time + (time - last.time) * before / (before - now);
        }
        last.value = x;
        last.time = time;
      },
      [](const Last& last) { return last.found; });
}

Gauge least(const Measure& measure) {
  return extreme(measure, -1, &Extreme::value);
}
Gauge greatest(const Measure& measure) {
  return extreme(measure, 1, &Extreme::value);
}
Gauge least_time(const Measure& measure) {
  return extreme(measure, -1, &Extreme::time);
}
Gauge greatest_time(const Measure& measure) {
  return extreme(measure, 1, &Extreme::time);
}

Gauge mean(const Measure& measure) {
  struct Sum {
    double sum = 0, count = 0;
  };
  return of_channel(
      measure, Sum{},
      [](Sum& sum, double x, double) {
        sum.sum += x;
        ++sum.count;
      },
      [](const Sum& sum) { return sum.sum / sum.count; });
}

Gauge final_value(const Measure& measure) {
  return of_channel(
      measure, never, [](double& last, double x, double) { last = x; }, [](double last) { return last; });
}

Gauge period(const Measure& measure) {
  // From the first time it goes up through its middle to the last; the middle is that of what was seen.
  struct Seen {
    std::vector<double> values, times;
  };
  return of_channel(
      measure, Seen{},
      [](Seen& seen, double x, double time) {
        seen.values.push_back(x);
        seen.times.push_back(time);
      },
      [](const Seen& seen) {
        double low = never, high = never;
        for (const double x : seen.values) {
          low = std::fmin(low, x);
          high = std::fmax(high, x);
        }
        const double middle = 0.5 * (low + high);
        double first = never, last = never;
        int ways = -1;
        for (std::size_t i = 1; i < seen.values.size(); ++i) {
          const double a = seen.values[i - 1] - middle, b = seen.values[i] - middle;
          if (!(a < 0 && b >= 0)) continue;
          last = seen.times[i - 1] + (seen.times[i] - seen.times[i - 1]) * a / (a - b);
          if (std::isnan(first)) first = last;
          ++ways;
        }
        return ways > 0 ? (last - first) / ways : never;
      });
}

Gauge told(const Measure& measure) {
  const auto last = std::make_shared<double>(never);
  const std::string body = measure.thing, name = measure.other;
  return {[=](const Play& play) {
            for (const Watched& each : play.watched())
              if (each.body == body && each.name == name) *last = each.value;
          },
          [=] { return *last; }};
}

}  // namespace bronvel::gauges
