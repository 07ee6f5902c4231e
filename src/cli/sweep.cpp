// sweep, gather.
#include <chrono>
#include <cstdio>
#include <iostream>
#include <memory>

#include "cli/ask.h"
#include "cli/studied.h"
#include "geometry/base/error.h"
#include "lab/measures/sweep_table.h"
#include "scene/files/folder.h"
#include "scene/files/json_text.h"

namespace bronvel {
namespace {

struct Call {
  Studied studied;
  std::vector<std::string> vary, measures, shares;
  int seeds = 1;
  std::string csv, sqlite, share, share_file;
  bool quiet = false;
};

void write_out(const SweepTable& table, const Call& call) {
  if (!call.sqlite.empty()) write_sqlite(table, call.sqlite);
  if (!call.csv.empty() && call.csv != "-") write_atomically(call.csv, csv_of(table));
  if (call.csv == "-" || (call.csv.empty() && call.sqlite.empty())) std::cout << csv_of(table);
  if (!std::cout.flush()) throw Error("standard output", "could not be written to its end");
}

// "2/8": the second of eight.
std::pair<std::size_t, std::size_t> share_of(const std::string& text) {
  unsigned share = 0, shares = 0;
  int read = 0;
  if (std::sscanf(text.c_str(), "%u/%u%n", &share, &shares, &read) != 2 ||
      static_cast<std::size_t>(read) != text.size() || share < 1 || share > shares || shares > 100000)
    throw Error("--share", "wants which of how many, from 1 up, got \"" + text + "\"", "as 1/8");
  return {share, shares};
}

int sweep(const Call& call) {
  Sweep sweep;
  sweep.study = call.studied.study();
  for (const std::string& text : call.vary) sweep.varied.push_back(varied_from_text(text));
  const SceneFolder& folder = sweep.study.folder;
  for (const std::string& text : call.measures)
    sweep.measures.push_back(measure_called(text, folder.scene, folder.path.string()));
  sweep.seeds = call.seeds;
  check(sweep);
  SweepTable table = table_of(sweep);
  std::vector<std::size_t> plays = coarse_first(sweep);
  std::pair<std::size_t, std::size_t> share{1, 1};
  if (!call.share.empty()) {
    share = share_of(call.share);
    if (call.share_file.empty()) throw Error("--share", "wants --out with the file for the share");
    std::erase_if(plays, [&](std::size_t play) { return play % share.second != share.first - 1; });
  }
  const auto begin = std::chrono::steady_clock::now();
  auto told = begin;
  std::size_t done = 0, faults = 0;
  run_sweep(sweep, plays, call.studied.threads(), [&](std::size_t play, TrialAnswer&& answer) {
    faults += answer.fault.empty() ? 0 : 1;
    table.rows[play] = {std::move(answer.values), std::move(answer.fault)};
    ++done;
    const auto now = std::chrono::steady_clock::now();
    if (call.quiet || (now - told < std::chrono::seconds(1) && done < plays.size())) return;
    told = now;
    const double spent = std::chrono::duration<double>(now - begin).count();
    std::fprintf(stderr, "%zu of %zu plays in %.1f s, %.1f s to go\n", done, plays.size(), spent,
                 spent / static_cast<double>(done) * static_cast<double>(plays.size() - done));
  });
  if (!call.share.empty())
    write_atomically(call.share_file, share_text(table, share.first, share.second));
  else
    write_out(table, call);
  return faults > 0 ? 1 : 0;
}

int gather(const Call& call) {
  std::vector<std::pair<std::string, std::string>> texts;
  for (const std::string& file : call.shares) texts.emplace_back(file, read_file(file));
  const SweepTable table = gathered(texts);
  write_out(table, call);
  for (const auto& [play, row] : table.rows)
    if (!row.fault.empty()) return 1;
  return 0;
}

}  // namespace

void add_sweep(CLI::App& app, const std::function<void(int)>& end) {
  const auto call = std::make_shared<Call>();
  auto* sweep_call = app.add_subcommand("sweep", "play a scene for each of many values, and measure each play");
  call->studied.add_to(*sweep_call);
  sweep_call
      ->add_option("--vary", call->vary,
                   "THING.PROPERTY=FROM:TO:COUNT, FROM:TO:COUNT:ratio or A,B,C; crate_*.mass is each crate's; seed; "
                   "once or twice")
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  sweep_call->add_option("--measure", call->measures, "what to measure, any number of times: apex:ball")
      ->required()
      ->expected(1)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  sweep_call->add_option("--seeds", call->seeds, "each with so many seeds")->check(CLI::Range(1, 100000));
  sweep_call->add_option("--share", call->share, "only the K-th of N shares, as 2/8, into --out");
  sweep_call->add_option("--out", call->share_file, "the share's file, for gather");
  sweep_call->add_flag("--quiet", call->quiet, "say nothing of how far it is");
  auto* gather_call = app.add_subcommand("gather", "put the shares of a sweep together");
  gather_call->add_option("shares", call->shares, "their files, in any order")->required();
  for (CLI::App* each : {sweep_call, gather_call}) {
    each->add_option("--csv", call->csv, "where to; standard output if not given");
    each->add_option("--sqlite", call->sqlite, "an SQLite file to make, with one table, plays");
  }
  sweep_call->callback([=] { end(sweep(*call)); });
  gather_call->callback([=] { end(gather(*call)); });
}

}  // namespace bronvel
