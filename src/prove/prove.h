// The physics against closed forms: experiments with what should come out, what did, and how far off that may be.
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace bronvel {

/// One measured number. `error` is relative to `expected` when `relative`, else |got − expected|.
struct Finding {
  std::string experiment;
  double expected = 0;
  double got = 0;
  double limit = 0;
  bool relative = true;
  std::string unit;

  double error() const;
  bool good() const;
};

/// Collects what an experiment finds.
class Findings {
 public:
  void relative(const std::string& experiment, double expected, double got, double limit, const std::string& unit);
  void absolute(const std::string& experiment, double expected, double got, double limit, const std::string& unit);
  const std::vector<Finding>& all() const { return all_; }

 private:
  std::vector<Finding> all_;
};

/// What can be played by itself, beside others: worlds of its own, and nothing shared.
struct Experiment {
  std::string name;
  std::function<void(Findings&)> run;
};

/// A group of experiments: "bounce", "friction" …
struct Subject {
  std::string name;
  std::function<void(std::vector<Experiment>&)> list;
};

/// In the order in which they are printed.
const std::vector<Subject>& subjects();

struct ProveResult {
  std::vector<Finding> findings;
  struct Time {
    std::string experiment;
    double seconds = 0;  ///< of wall time
  };
  std::vector<Time> times;  ///< of each experiment, the slowest first
};

/// Plays the experiments of one subject, or of all where `only` is empty, shared out over `threads`; the findings come
/// in the order of the subjects. Throws Error where there is no such subject, and what an experiment throws.
ProveResult play_experiments(const std::string& only, int threads);

/// The findings as a table for people, or as JSON: a list of experiment, expected, got, error, limit, unit, good.
std::string findings_table(const std::vector<Finding>& findings);
std::string findings_json(const std::vector<Finding>& findings);

/// The ten slowest experiments, and the time of all together.
std::string slowest_table(const ProveResult& result);

void list_bounce(std::vector<Experiment>& list);
void list_hits(std::vector<Experiment>& list);
void list_struck(std::vector<Experiment>& list);
void list_rolling(std::vector<Experiment>& list);
void list_seams(std::vector<Experiment>& list);
void list_movers(std::vector<Experiment>& list);
void list_friction(std::vector<Experiment>& list);
void list_motion(std::vector<Experiment>& list);
void list_rest(std::vector<Experiment>& list);
void list_momentum(std::vector<Experiment>& list);
void list_stacks(std::vector<Experiment>& list);
void list_sweep(std::vector<Experiment>& list);
void list_joints(std::vector<Experiment>& list);
void list_water(std::vector<Experiment>& list);
void list_breaking(std::vector<Experiment>& list);
void list_rate(std::vector<Experiment>& list);
void list_varied(std::vector<Experiment>& list);
void list_same_bits(std::vector<Experiment>& list);

}  // namespace bronvel
