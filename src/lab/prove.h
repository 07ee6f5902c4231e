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

/// A group of experiments on one subject: "bounce", "friction" …
struct Subject {
  std::string name;
  std::function<void(Findings&)> run;
};

/// In the order in which they are printed.
const std::vector<Subject>& subjects();

/// The findings as a table for people, or as JSON: a list of experiment, expected, got, error, limit, unit, good.
std::string findings_table(const std::vector<Finding>& findings);
std::string findings_json(const std::vector<Finding>& findings);

void prove_bounce(Findings& findings);
void prove_friction(Findings& findings);
void prove_motion(Findings& findings);
void prove_momentum(Findings& findings);
void prove_stacks(Findings& findings);
void prove_sweep(Findings& findings);
void prove_joints(Findings& findings);
void prove_water(Findings& findings);
void prove_breaking(Findings& findings);
void prove_rate(Findings& findings);
void prove_same_bits(Findings& findings);

}  // namespace bronvel
