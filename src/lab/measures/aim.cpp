// Searching for values.
#include "lab/measures/aim.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <nlopt.hpp>

#include "geometry/base/error.h"
#include "lab/measures/call_text.h"

namespace bronvel {
namespace {

constexpr double near_enough = 2e-4;  // of the wished value: an aim is to come out within a thousandth
constexpr double fine = 1e-7;         // of the range: nearer to each other two tries need not be

struct Stopped {};

// Plays, keeps and tells.
class Tries {
 public:
  Tries(const Aim& aim, const std::function<void(const AimTry&)>& tell, const std::atomic<bool>* stop)
      : aim_(aim), tell_(tell), stop_(stop) {
    most_ = aim.most_tries > 0       ? aim.most_tries
            : aim.turned.size() == 1 ? 15
                                     : 60 * static_cast<int>(aim.turned.size());
  }

  // What is measured with these; not a number where it never came about. Throws Stopped when there are no more tries.
  double operator()(const std::vector<double>& values) {
    if (static_cast<int>(answer.tries.size()) >= most_ || (stop_ && stop_->load())) throw Stopped();
    const AimTry one = play(values);
    answer.tries.push_back(one);
    if (tell_) tell_(one);
    return one.measured;
  }
  double operator()(double value) { return (*this)(std::vector<double>{value}); }

  AimTry play(const std::vector<double>& values) const {
    std::vector<TrialSetting> settings;
    for (std::size_t i = 0; i < values.size(); ++i) settings.push_back({aim_.turned[i].name, number_text(values[i])});
    Question question = question_of(aim_.study, settings);
    AimTry one{values, 0, ""};
    int known = 0;
    for (int seed = 0; seed < aim_.seeds; ++seed) {
      question.seed = aim_.study.seed + static_cast<std::uint64_t>(seed);
      const TrialAnswer answer_of_seed = try_out(question, std::span(&aim_.measure, 1), "", stop_);
      if (!answer_of_seed.whole) throw Stopped();
      if (one.fault.empty()) one.fault = answer_of_seed.fault;
      if (std::isnan(answer_of_seed.values[0])) continue;
      one.measured += answer_of_seed.values[0];
      ++known;
    }
    one.measured = known > 0 ? one.measured / known : std::numeric_limits<double>::quiet_NaN();
    return one;
  }

  int left() const { return most_ - static_cast<int>(answer.tries.size()); }

  AimAnswer answer;

 private:
  const Aim& aim_;
  const std::function<void(const AimTry&)>& tell_;
  const std::atomic<bool>* stop_;
  int most_ = 0;
};

bool close(double off, double wanted) {
  return std::abs(off) <= near_enough * std::max(std::abs(wanted), 1e-12);
}

// Brent's root of f between a and b, whose signs differ; ends when it is near enough, or the tries do.
template <class F>
void find_root(double a, double fa, double b, double fb, double wanted, double range, const F& f) {
  if (std::abs(fa) < std::abs(fb)) {
    std::swap(a, b);
    std::swap(fa, fb);
  }
  double c = a, fc = fa, d = b - a;
  bool halved = true;
  for (;;) {
    if (close(fb, wanted) || std::abs(b - a) <= fine * range) return;
    double s = 0;
    if (fa != fc && fb != fc)
      s = a * fb * fc / ((fa - fb) * (fa - fc)) + b * fa * fc / ((fb - fa) * (fb - fc)) +
          c * fa * fb / ((fc - fa) * (fc - fb));
    else
      s = b - fb * (b - a) / (fb - fa);
    const double low = std::min(0.25 * (3 * a + b), b), high = std::max(0.25 * (3 * a + b), b);
    const double before = halved ? std::abs(b - c) : std::abs(c - d);
    halved = !(s > low && s < high) || std::abs(s - b) >= 0.5 * before || before < fine * range;
    if (halved) s = 0.5 * (a + b);
    const double fs = f(s);
    d = c;
    c = b;
    fc = fb;
    // What never came about there counts as the end that it lies nearer to.
    const double known = std::isnan(fs) ? fa : fs;
    if ((fa < 0) != (known < 0)) {
      b = s;
      fb = known;
    } else {
      a = s;
      fa = known;
    }
    if (std::abs(fa) < std::abs(fb)) {
      std::swap(a, b);
      std::swap(fa, fb);
    }
  }
}

// Brent's least of f between a and b, without derivatives.
template <class F>
void find_least(double a, double b, const F& f) {
  const double golden = 0.5 * (3 - std::sqrt(5.0)), range = b - a;
  double x = a + golden * (b - a), w = x, v = x, step = 0, before = 0;
  double fx = f(x), fw = fx, fv = fx;
  for (;;) {
    const double middle = 0.5 * (a + b), tolerance = 1e-5 * range;
    if (std::abs(x - middle) <= 2 * tolerance - 0.5 * (b - a)) return;
    double p = 0, q = 0;
    if (std::abs(before) > tolerance) {
      const double r = (x - w) * (fx - fv);
      q = (x - v) * (fx - fw);
      p = (x - v) * q - (x - w) * r;
      q = 2 * (q - r);
      if (q > 0) p = -p;
      q = std::abs(q);
    }
    const double last = before;
    before = step;
    if (q != 0 && std::abs(p) < std::abs(0.5 * q * last) && p > q * (a - x) && p < q * (b - x)) {
      step = p / q;
      if (x + step - a < 2 * tolerance || b - x - step < 2 * tolerance) step = x < middle ? tolerance : -tolerance;
    } else {
      before = x < middle ? b - x : a - x;
      step = golden * before;
    }
    const double u = x + (std::abs(step) >= tolerance ? step : step > 0 ? tolerance : -tolerance);
    const double fu = f(u);
    if (fu <= fx) {
      (u < x ? b : a) = x;
      v = w, fv = fw, w = x, fw = fx, x = u, fx = fu;
    } else {
      (u < x ? a : b) = u;
      if (fu <= fw || w == x)
        v = w, fv = fw, w = u, fw = fu;
      else if (fu <= fv || v == x || v == w)
        v = u, fv = fu;
    }
  }
}

// One value to a wished number: the ends and the middle first, further between until the wish lies between two.
void seek_number(const Aim& aim, Tries& tries) {
  const Turned& turned = aim.turned[0];
  const double wanted = aim.wish.value, range = turned.to - turned.from;
  std::vector<std::pair<double, double>> seen;  // value, off by
  const auto off = [&](double x) {
    const double found = tries(x) - wanted;
    seen.emplace_back(x, found);
    return found;
  };
  const auto bracketed = [&]() -> bool {
    std::sort(seen.begin(), seen.end());
    for (std::size_t i = 1; i < seen.size(); ++i) {
      const auto [a, fa] = seen[i - 1];
      const auto [b, fb] = seen[i];
      if (std::isnan(fa) || std::isnan(fb) || (fa < 0) == (fb < 0)) continue;
      find_root(a, fa, b, fb, wanted, range, [&](double x) { return tries(x) - wanted; });
      return true;
    }
    return false;
  };
  if (close(off(turned.from), wanted) || close(off(turned.to), wanted) || bracketed()) return;
  if (close(off(turned.from + 0.5 * range), wanted) || bracketed()) return;
  for (const double share : {0.25, 0.75})
    if (close(off(turned.from + share * range), wanted) || bracketed()) return;
  // Nowhere on the other side: as near as it comes.
  std::sort(seen.begin(), seen.end());
  std::size_t nearest = 0;
  for (std::size_t i = 0; i < seen.size(); ++i)
    if (!(std::abs(seen[i].second) >= std::abs(seen[nearest].second))) nearest = i;
  const double low = seen[nearest > 0 ? nearest - 1 : 0].first,
               high = seen[std::min(nearest + 1, seen.size() - 1)].first;
  find_least(low, high, [&](double x) {
    const double found = tries(x) - wanted;
    return std::isnan(found) ? 1e300 : std::abs(found);
  });
}

// Where yes turns to no: the range is halved.
void seek_turn(const Aim& aim, Tries& tries) {
  const auto good = [&](double x) { return met(aim.wish, tries(x)); };
  double a = aim.turned[0].from, b = aim.turned[0].to;
  const bool at_a = good(a), at_b = good(b);
  if (at_a == at_b) {
    if (!at_a && !good(0.5 * (a + b))) return;
    if (at_a) return;
    b = 0.5 * (a + b);
  }
  while (tries.left() > 0) {
    const double middle = 0.5 * (a + b);
    if (std::abs(b - a) <= 1e-3 * std::abs(middle)) return;
    (good(middle) == at_a ? a : b) = middle;
  }
}

double cost_of(const Aim& aim, double measured) {
  if (std::isnan(measured)) return 1e30;
  switch (aim.wanted) {
    case Aim::For::least:
      return measured;
    case Aim::For::most:
      return -measured;
    case Aim::For::wish:
      break;
  }
  const double off = measured - aim.wish.value;
  if (aim.wish.is == Wish::Is::at_most) return off > 0 ? off * off : 0;
  if (aim.wish.is == Wish::Is::at_least) return off < 0 ? off * off : 0;
  return off * off;
}

void seek_several(const Aim& aim, Tries& tries) {
  const auto count = static_cast<unsigned>(aim.turned.size());
  const auto scaled = [&](const std::vector<double>& x) {
    std::vector<double> values;
    for (std::size_t i = 0; i < x.size(); ++i)
      values.push_back(aim.turned[i].from + (aim.turned[i].to - aim.turned[i].from) * std::clamp(x[i], 0.0, 1.0));
    return values;
  };
  nlopt::opt search(nlopt::LN_SBPLX, count);
  search.set_lower_bounds(0.0);
  search.set_upper_bounds(1.0);
  search.set_initial_step(0.2);
  search.set_xtol_rel(1e-6);
  if (aim.wanted == Aim::For::wish)
    search.set_stopval(std::pow(near_enough * std::max(std::abs(aim.wish.value), 1e-12), 2));
  // What is least by far needs a closer look than its size says.
  search.set_ftol_rel(1e-9);
  std::function<double(const std::vector<double>&)> cost_at = [&](const std::vector<double>& x) {
    return cost_of(aim, tries(scaled(x)));
  };
  search.set_min_objective(
      [](const std::vector<double>& x, std::vector<double>&, void* data) {
        try {
          return (*static_cast<std::function<double(const std::vector<double>&)>*>(data))(x);
        } catch (const Stopped&) {
          throw nlopt::forced_stop();
        }
      },
      &cost_at);
  std::vector<double> x(count, 0.5);
  double cost = 0;
  search.optimize(x, cost);
}

bool reached(const Aim& aim, const AimTry& best) {
  if (!best.fault.empty() || std::isnan(best.measured)) return aim.wish.is == Wish::Is::never && best.fault.empty();
  if (aim.wanted != Aim::For::wish) return true;
  if (aim.wish.is != Wish::Is::equal || aim.measure.kind->yes_no) return met(aim.wish, best.measured);
  return std::abs(best.measured - aim.wish.value) <= 1e-3 * std::max(std::abs(aim.wish.value), 1e-12);
}

void choose_best(const Aim& aim, AimAnswer& answer) {
  const bool turns = aim.wanted == Aim::For::wish && aim.turned.size() == 1 &&
                     (aim.measure.kind->yes_no || aim.wish.is != Wish::Is::equal);
  if (!turns) {
    double least = std::numeric_limits<double>::infinity();
    for (const AimTry& one : answer.tries)
      if (cost_of(aim, one.measured) < least && one.fault.empty()) {
        least = cost_of(aim, one.measured);
        answer.best = one;
      }
    return;
  }
  // The nearest pair on both sides of where it turns; of it the one that is as wished.
  double nearest = std::numeric_limits<double>::infinity();
  for (const AimTry& good : answer.tries) {
    if (!met(aim.wish, good.measured)) continue;
    if (answer.best.values.empty()) answer.best = good;
    for (const AimTry& bad : answer.tries) {
      const double apart = std::abs(good.values[0] - bad.values[0]);
      if (met(aim.wish, bad.measured) || apart >= nearest) continue;
      nearest = apart;
      answer.best = good;
      answer.holds_at = good.values[0];
      answer.fails_at = bad.values[0];
    }
  }
  if (answer.best.values.empty() && !answer.tries.empty())
    answer.best = *std::min_element(answer.tries.begin(), answer.tries.end(), [&](const AimTry& a, const AimTry& b) {
      return cost_of(aim, a.measured) < cost_of(aim, b.measured);
    });
}

std::string short_number(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.5g", x);
  return text;
}

}  // namespace

Turned turned_from_text(const std::string& text) {
  const Varied ends = varied_from_text(text + ":2");
  Turned turned{ends.name, ends.values[0], ends.values[1]};
  if (turned.from > turned.to) std::swap(turned.from, turned.to);
  return turned;
}

void wish_from_text(Aim& aim, const std::string& text) {
  // The last sign: names hold none.
  const auto at = text.find_last_of('=');
  if (at == std::string::npos || at == 0)
    throw Error("--want " + text, "wants a measure and what it shall be",
                "as apex:ball=3, rest_time:ball<=2 or way:ball=most");
  const bool bound = text[at - 1] == '<' || text[at - 1] == '>';
  aim.wish.measure = text.substr(0, bound ? at - 1 : at);
  aim.measure = measure_called(aim.wish.measure, aim.study.folder.scene, aim.study.folder.path.string());
  const std::string value = text.substr(at + 1);
  aim.wish.is = !bound ? Wish::Is::equal : text[at - 1] == '<' ? Wish::Is::at_most : Wish::Is::at_least;
  aim.wish.seconds = aim.study.seconds;
  if (!bound && (value == "least" || value == "most")) {
    aim.wanted = value == "least" ? Aim::For::least : Aim::For::most;
    return;
  }
  if (!bound && value == "never") {
    aim.wish.is = Wish::Is::never;
    return;
  }
  if (aim.measure.kind->yes_no && (value == "yes" || value == "no")) {
    aim.wish.value = value == "yes" ? 1 : 0;
    return;
  }
  aim.wish.value = number_in(value, "--want " + text);
}

AimAnswer find_aim(const Aim& aim, const std::function<void(const AimTry&)>& tell, const std::atomic<bool>* stop) {
  if (aim.turned.empty()) throw Error("aim", "wants something that may be turned", "as --move ball.dials.push=0:50");
  for (const Turned& each : aim.turned) {
    if (!(each.to > each.from)) throw Error("--move " + each.name, "has an empty range");
    for (const double end : {each.from, each.to}) {
      const TrialSetting setting{each.name, number_text(end)};
      question_of(aim.study, std::span(&setting, 1));
    }
  }
  Tries tries(aim, tell, stop);
  try {
    const bool yes_no = aim.measure.kind->yes_no || aim.wish.is == Wish::Is::never;
    if (aim.turned.size() > 1)
      seek_several(aim, tries);
    else if (aim.wanted != Aim::For::wish)
      find_least(aim.turned[0].from, aim.turned[0].to, [&](double x) { return cost_of(aim, tries(x)); });
    else if (yes_no)
      seek_turn(aim, tries);
    else
      seek_number(aim, tries);
  } catch (const Stopped&) {
  } catch (const nlopt::roundoff_limited&) {
  } catch (const nlopt::forced_stop&) {
  }
  AimAnswer answer = std::move(tries.answer);
  choose_best(aim, answer);
  if (answer.best.values.empty()) return answer;
  answer.reached = reached(aim, answer.best);
  // From the nearest other try: what a little more of the value does.
  if (aim.turned.size() == 1) {
    double nearest = std::numeric_limits<double>::infinity();
    for (const AimTry& one : answer.tries) {
      const double apart = one.values[0] - answer.best.values[0];
      if (apart == 0 || std::isnan(one.measured) || std::abs(apart) >= nearest) continue;
      nearest = std::abs(apart);
      answer.sensitivity = (one.measured - answer.best.measured) / apart;
    }
  }
  return answer;
}

std::string aim_text(const Aim& aim, const AimAnswer& answer) {
  if (answer.best.values.empty()) return "nothing was measured";
  std::string text;
  for (std::size_t i = 0; i < aim.turned.size(); ++i)
    text += (i > 0 ? ", " : "") + aim.turned[i].name + " = " + short_number(answer.best.values[i]);
  const std::string unit = aim.measure.unit.empty() ? "" : " " + aim.measure.unit;
  text +=
      ": " + measure_words(aim.measure) + " is " +
      (std::isnan(answer.best.measured) || aim.measure.kind->yes_no ? measured_text(aim.measure, answer.best.measured)
                                                                    : short_number(answer.best.measured) + unit);
  if (!answer.reached && aim.wanted != Aim::For::wish)
    text += " in every play";
  else if (!answer.reached)
    text += ", the nearest that was found: it can't be made " + wish_text(aim.wish, aim.measure.unit) +
            " within these ranges";
  if (answer.holds_at && answer.fails_at)
    text += "; met at " + short_number(*answer.holds_at) + ", not at " + short_number(*answer.fails_at);
  else if (answer.sensitivity != 0 && aim.turned.size() == 1 && aim.wanted == Aim::For::wish) {
    const double little = std::pow(10, std::floor(std::log10(std::max(std::abs(answer.best.values[0]), 1e-6))) - 1);
    text +=
        "; " + short_number(little) + " more of it moves that by " + short_number(little * answer.sensitivity) + unit;
  }
  return text + "; " + std::to_string(answer.tries.size()) + " plays";
}

}  // namespace bronvel
