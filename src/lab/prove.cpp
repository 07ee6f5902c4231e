// The list of subjects, and how findings are shown.
#include "lab/prove.h"

#include <cmath>
#include <cstdio>

#include "scene/json_text.h"

namespace bronvel {

double Finding::error() const {
  const double off = std::abs(got - expected);
  return relative ? off / std::abs(expected) : off;
}

// Written so that a result that is not a number is never good.
bool Finding::good() const {
  return error() <= limit;
}

void Findings::relative(const std::string& experiment, double expected, double got, double limit,
                        const std::string& unit) {
  all_.push_back({experiment, expected, got, limit, true, unit});
}

void Findings::absolute(const std::string& experiment, double expected, double got, double limit,
                        const std::string& unit) {
  all_.push_back({experiment, expected, got, limit, false, unit});
}

const std::vector<Subject>& subjects() {
  static const std::vector<Subject> all{
      {"bounce", prove_bounce},     {"friction", prove_friction},  {"motion", prove_motion},
      {"momentum", prove_momentum}, {"stacks", prove_stacks},      {"sweep", prove_sweep},
      {"joints", prove_joints},     {"water", prove_water},        {"breaking", prove_breaking},
      {"rate", prove_rate},         {"same_bits", prove_same_bits}};
  return all;
}

std::string findings_table(const std::vector<Finding>& findings) {
  std::string table;
  char row[220];
  std::snprintf(row, sizeof row, "%-62s %13s %13s %-6s %10s %10s\n", "experiment", "expected", "got", "", "error",
                "limit");
  table += row;
  for (const Finding& f : findings) {
    char error[32], limit[32];
    std::snprintf(error, sizeof error, f.relative ? "%.4f %%" : "%.3g", f.relative ? 100 * f.error() : f.error());
    std::snprintf(limit, sizeof limit, f.relative ? "%.4g %%" : "%.3g", f.relative ? 100 * f.limit : f.limit);
    std::snprintf(row, sizeof row, "%-62s %13.6g %13.6g %-6s %10s %10s%s\n", f.experiment.c_str(), f.expected, f.got,
                  f.unit.c_str(), error, limit, f.good() ? "" : "  ✗");
    table += row;
  }
  return table;
}

std::string findings_json(const std::vector<Finding>& findings) {
  Json list = Json::array();
  for (const Finding& f : findings)
    list.push_back({{"experiment", f.experiment},
                    {"expected", f.expected},
                    {"got", f.got},
                    {"error", f.error()},
                    {"limit", f.limit},
                    {"relative", f.relative},
                    {"unit", f.unit},
                    {"good", f.good()}});
  return json_text(list);
}

}  // namespace bronvel
