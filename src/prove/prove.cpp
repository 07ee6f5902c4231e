// The list of subjects, playing them side by side, and how findings are shown.
#include "prove/prove.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <exception>

#include "geometry/base/error.h"
#include "lab/measures/side_by_side.h"
#include "scene/files/json_text.h"

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
      {"bounce", list_bounce}, {"hits", list_hits},          {"struck", list_struck},     {"rolling", list_rolling},
      {"seams", list_seams},   {"movers", list_movers},      {"friction", list_friction}, {"motion", list_motion},
      {"rest", list_rest},     {"momentum", list_momentum},  {"stacks", list_stacks},     {"sweep", list_sweep},
      {"joints", list_joints}, {"water", list_water},        {"breaking", list_breaking}, {"rate", list_rate},
      {"varied", list_varied}, {"same_bits", list_same_bits}};
  return all;
}

ProveResult play_experiments(const std::string& only, int threads) {
  std::vector<Experiment> list;
  for (const Subject& subject : subjects())
    if (only.empty() || subject.name == only) subject.list(list);
  if (list.empty()) throw Error("prove", "there is no subject called \"" + only + "\"");
  std::vector<Findings> findings(list.size());
  std::vector<std::exception_ptr> thrown(list.size());
  ProveResult result;
  result.times.resize(list.size());
  side_by_side(list.size(), threads, [&](std::size_t i) {
    const auto start = std::chrono::steady_clock::now();
    try {
      list[i].run(findings[i]);
    } catch (...) {
      thrown[i] = std::current_exception();
    }
    result.times[i] = {list[i].name, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count()};
  });
  for (std::size_t i = 0; i < list.size(); ++i) {
    if (thrown[i]) std::rethrow_exception(thrown[i]);
    result.findings.insert(result.findings.end(), findings[i].all().begin(), findings[i].all().end());
  }
  std::stable_sort(result.times.begin(), result.times.end(),
                   [](const auto& a, const auto& b) { return a.seconds > b.seconds; });
  return result;
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

std::string slowest_table(const ProveResult& result) {
  std::string table = "the slowest experiments:\n";
  double all = 0;
  char row[220];
  for (std::size_t i = 0; i < result.times.size(); ++i) {
    all += result.times[i].seconds;
    if (i >= 10) continue;
    std::snprintf(row, sizeof row, "%8.1f s  %s\n", result.times[i].seconds, result.times[i].experiment.c_str());
    table += row;
  }
  std::snprintf(row, sizeof row, "%8.1f s  all %zu\n", all, result.times.size());
  return table + row;
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
