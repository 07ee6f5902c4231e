// Sums of work by cause.
#include "lab/why/ledger.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace bronvel {

double Ledger::unexplained() const {
  double sum = kinetic_after - kinetic_before + lifted - solver;
  for (const LedgerLine& line : lines) sum -= line.net();
  return sum;
}

Ledger ledger_of(std::span<const BookedBody* const> bodies, std::int64_t from, std::int64_t to) {
  Ledger ledger;
  ledger.from = from;
  ledger.to = to;
  for (const BookedBody* body : bodies) {
    const std::int64_t first = std::max(from + 1, body->first_tick), end = std::min(to + 1, body->end_tick());
    if (first >= end) continue;
    const BookedTick* before = body->at(first - 1);
    const BookedTick& last = *body->at(end - 1);
    ledger.kinetic_before += before ? before->kinetic : body->kinetic_before;
    ledger.kinetic_after += last.kinetic;
    ledger.lifted += last.height - (before ? before->height : 0);
    std::vector<LedgerLine> of_cause(body->causes.size());
    for (std::int64_t tick = first; tick < end; ++tick)
      for (const BookedLine& line : body->lines_of(*body->at(tick)))
        (line.work > 0 ? of_cause[line.cause].gave : of_cause[line.cause].took) += static_cast<double>(line.work);
    for (std::size_t k = 0; k < of_cause.size(); ++k) {
      const NamedCause& cause = body->causes[k];
      if (cause.cause == Cause::weight) continue;
      if (cause.cause == Cause::solver) {
        ledger.solver += of_cause[k].net();
        continue;
      }
      auto found = std::find_if(ledger.lines.begin(), ledger.lines.end(),
                                [&](const LedgerLine& line) { return line.cause == cause; });
      if (found == ledger.lines.end()) {
        ledger.lines.push_back({cause});
        found = ledger.lines.end() - 1;
      }
      found->gave += of_cause[k].gave;
      found->took += of_cause[k].took;
    }
  }
  double most = 0;
  for (const LedgerLine& line : ledger.lines) most = std::max({most, line.gave, -line.took});
  constexpr double says_nothing = 1e-6;  // of the greatest
  std::erase_if(ledger.lines, [&](const LedgerLine& line) {
    if (std::max(line.gave, -line.took) > says_nothing * most) return false;
    ledger.solver += line.net();
    return true;
  });
  std::stable_sort(ledger.lines.begin(), ledger.lines.end(),
                   [](const LedgerLine& a, const LedgerLine& b) { return std::abs(a.net()) > std::abs(b.net()); });
  return ledger;
}

std::string energy_text(double joules) {
  return si_text(joules, "J");
}

std::string ledger_text(const Ledger& ledger, double tick_rate) {
  std::array<char, 160> line{};
  std::snprintf(line.data(), line.size(), "%.3f to %.3f s: energy of motion %s → %s, of height %s%s\n",
                static_cast<double>(ledger.from) / tick_rate, static_cast<double>(ledger.to) / tick_rate,
                energy_text(ledger.kinetic_before).c_str(), energy_text(ledger.kinetic_after).c_str(),
                ledger.lifted > 0 ? "+" : "", energy_text(ledger.lifted).c_str());
  std::string text = line.data();
  const auto add = [&](const std::string& name, double gave, double took) {
    std::snprintf(line.data(), line.size(), "  %12s %12s   %s\n", gave > 0 ? ("+" + energy_text(gave)).c_str() : "",
                  took < 0 ? energy_text(took).c_str() : "", name.c_str());
    text += line.data();
  };
  for (const LedgerLine& each : ledger.lines) add(each.cause.text(), each.gave, each.took);
  add("the engine itself", std::max(0.0, ledger.solver), std::min(0.0, ledger.solver));
  return text;
}

}  // namespace bronvel
