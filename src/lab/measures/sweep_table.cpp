// Tables of sweeps.
#include "lab/measures/sweep_table.h"

#include <sqlite3.h>

#include <cmath>
#include <cstdio>
#include <filesystem>
#include <memory>
#include <set>
#include <sstream>

#include "geometry/base/error.h"
#include "scene/files/json_text.h"
#include "scene/files/write.h"

namespace bronvel {
namespace {

// A cell of a CSV: what holds a comma, a quote or a line's end is quoted.
std::string cell(const std::string& text) {
  if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) quoted += c == '"' ? "\"\"" : std::string(1, c);
  return quoted + "\"";
}

std::string number_or_nothing(double x) {
  return std::isnan(x) ? "" : number_text(x);
}

// Fowler, Noll and Vo's hash of 64 bits, FNV-1a: it only tells sweeps apart.
std::uint64_t hash_of(const std::string& text) {
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  return hash;
}

Json json_number(double x) {
  if (std::isnan(x)) return nullptr;
  return x;
}

double number_of(const Json& json) {
  return json.is_null() ? std::numeric_limits<double>::quiet_NaN() : json.get<double>();
}

class Database {
 public:
  explicit Database(const std::string& file) : file_(file) {
    sqlite3* opened = nullptr;
    const int result = sqlite3_open(file.c_str(), &opened);
    db_.reset(opened);
    check(result);
  }
  void run(const std::string& text) { check(sqlite3_exec(db_.get(), text.c_str(), nullptr, nullptr, nullptr)); }
  void check(int result) const {
    if (result != SQLITE_OK && result != SQLITE_DONE && result != SQLITE_ROW)
      throw Error(file_, std::string("can't be written: ") + sqlite3_errmsg(db_.get()), "is there room on the disk?");
  }
  sqlite3* get() const { return db_.get(); }

 private:
  struct Close {
    void operator()(sqlite3* db) const { sqlite3_close(db); }
  };
  std::string file_;
  std::unique_ptr<sqlite3, Close> db_;
};

std::string quoted_name(const std::string& name) {
  std::string quoted = "\"";
  for (const char c : name) quoted += c == '"' ? "\"\"" : std::string(1, c);
  return quoted + "\"";
}

}  // namespace

SweepTable table_of(const Sweep& sweep) {
  SweepTable table;
  for (const Varied& varied : sweep.varied)
    if (varied.name != "seed") table.columns.push_back(varied.name);
  table.columns.emplace_back("seed");
  for (const Measure& measure : sweep.measures)
    table.columns.push_back(measure.text + (measure.unit.empty() ? "" : " [" + measure.unit + "]"));
  const std::size_t plays = plays_of(sweep);
  std::string what = write_scene(sweep.study.folder.scene);
  for (const auto& [file, text] : sweep.study.folder.scripts) what += file + "\n" + text;
  what += number_text(sweep.study.seconds);
  what += inputs_text(sweep.study.inputs);
  for (std::size_t i = 0; i < plays; ++i) {
    const SweepPoint point = point_of(sweep, i);
    std::vector<double> values;
    for (std::size_t k = 0; k < sweep.varied.size(); ++k)
      if (sweep.varied[k].name != "seed") values.push_back(point.values[k]);
    for (const double value : values) what += number_text(value) + ",";
    what += std::to_string(point.seed) + ";";
    table.points.push_back(std::move(values));
    table.seeds.push_back(point.seed);
  }
  for (const std::string& column : table.columns) what += column + "\n";
  char hash[20];
  std::snprintf(hash, sizeof hash, "%016llx", static_cast<unsigned long long>(hash_of(what)));
  table.of = hash;
  return table;
}

std::string csv_of(const SweepTable& table) {
  std::string csv;
  for (const std::string& column : table.columns) csv += cell(column) + ",";
  csv += "fault\n";
  for (const auto& [play, row] : table.rows) {
    for (const double value : table.points[play]) csv += number_text(value) + ",";
    csv += std::to_string(table.seeds[play]) + ",";
    for (const double value : row.values) csv += number_or_nothing(value) + ",";
    csv += cell(row.fault) + "\n";
  }
  return csv;
}

void write_sqlite(const SweepTable& table, const std::string& file) {
  const std::string beside = file + ".part";
  std::error_code none;
  std::filesystem::remove(beside, none);
  try {
    Database database(beside);
    std::string columns, marks;
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      columns += quoted_name(table.columns[i]) + (table.columns[i] == "seed" ? " TEXT, " : " REAL, ");
      marks += "?, ";
    }
    database.run("CREATE TABLE plays (" + columns + "fault TEXT)");
    database.run("BEGIN");
    sqlite3_stmt* made = nullptr;
    database.check(
        sqlite3_prepare_v2(database.get(), ("INSERT INTO plays VALUES (" + marks + "?)").c_str(), -1, &made, nullptr));
    const std::unique_ptr<sqlite3_stmt, int (*)(sqlite3_stmt*)> insert(made, sqlite3_finalize);
    for (const auto& [play, row] : table.rows) {
      int at = 0;
      const auto put = [&](double x) {
        database.check(std::isnan(x) ? sqlite3_bind_null(insert.get(), ++at)
                                     : sqlite3_bind_double(insert.get(), ++at, x));
      };
      const auto put_text = [&](const std::string& text) {
        database.check(sqlite3_bind_text(insert.get(), ++at, text.c_str(), -1, SQLITE_TRANSIENT));
      };
      for (const double value : table.points[play]) put(value);
      put_text(std::to_string(table.seeds[play]));
      for (const double value : row.values) put(value);
      put_text(row.fault);
      database.check(sqlite3_step(insert.get()));
      database.check(sqlite3_reset(insert.get()));
    }
    database.run("COMMIT");
  } catch (const Error&) {
    std::filesystem::remove(beside, none);
    throw;
  }
  std::filesystem::rename(beside, file, none);
  if (none) throw Error(file, "can't be written: " + none.message());
}

std::string share_text(const SweepTable& table, std::size_t share, std::size_t shares) {
  Json head{{"bronvel_sweep", 1}, {"of", table.of},           {"share", share},
            {"shares", shares},   {"columns", table.columns}, {"plays", table.points.size()}};
  std::string text = head.dump() + "\n";
  for (const auto& [play, row] : table.rows) {
    Json values = Json::array(), points = Json::array();
    for (const double value : row.values) values.push_back(json_number(value));
    for (const double value : table.points[play]) points.push_back(json_number(value));
    Json line{{"play", play}, {"at", points}, {"seed", table.seeds[play]}, {"values", values}};
    if (!row.fault.empty()) line["fault"] = row.fault;
    text += line.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
  }
  return text + Json{{"end", share}}.dump() + "\n";
}

SweepTable gathered(std::span<const std::pair<std::string, std::string>> files_and_texts) {
  SweepTable table;
  std::set<std::size_t> there;
  std::size_t shares = 0;
  for (const auto& named : files_and_texts) {
    const std::string& file = named.first;
    std::stringstream lines(named.second);
    std::string line;
    int number = 0;
    bool ended = false;
    const auto where = [&] { return file + ":" + std::to_string(number); };
    try {
      while (std::getline(lines, line)) {
        ++number;
        const Json json = Json::parse(line);
        if (number == 1) {
          if (json.value("bronvel_sweep", 0) != 1) throw Error(file, "is no share of a sweep");
          const std::string of = json.at("of");
          if (!table.of.empty() && of != table.of)
            throw Error(file, "is a share of another sweep", "gather shares of one call, of one scene");
          table.of = of;
          table.columns = json.at("columns").get<std::vector<std::string>>();
          const std::size_t plays = json.at("plays");
          constexpr std::size_t most = 1'000'000;
          if (plays > most) throw Error(where(), "tells of more than a million plays");
          table.points.resize(plays);
          table.seeds.resize(plays);
          shares = json.at("shares");
          there.insert(json.at("share").get<std::size_t>());
          continue;
        }
        if (json.contains("end")) {
          ended = true;
          continue;
        }
        const std::size_t play = json.at("play");
        if (play >= table.points.size()) throw Error(where(), "is of a play that the sweep has not");
        SweepRow row;
        for (const Json& value : json.at("values")) row.values.push_back(number_of(value));
        row.fault = json.value("fault", "");
        const std::size_t varied = json.at("at").size();
        if (varied + 1 + row.values.size() != table.columns.size()) throw Error(where(), "has too few or many numbers");
        const auto known = table.rows.find(play);
        const auto same = [](const std::vector<double>& a, const std::vector<double>& b) {
          return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                            [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); });
        };
        if (known != table.rows.end() && !(same(known->second.values, row.values) && known->second.fault == row.fault))
          throw Error(where(), "play " + std::to_string(play) + " is there twice, with other numbers",
                      "one of the two was made by another version");
        std::vector<double> at;
        for (const Json& value : json.at("at")) at.push_back(number_of(value));
        table.points[play] = at;
        table.seeds[play] = json.at("seed");
        table.rows[play] = std::move(row);
      }
    } catch (const Json::exception& e) {
      throw Error(where(), std::string("can't be read: ") + e.what());
    }
    if (!ended) throw Error(file, "was not written to its end", "run that share again");
  }
  std::string missing;
  for (std::size_t k = 1; k <= shares; ++k)
    if (!there.contains(k)) missing += (missing.empty() ? "" : ", ") + std::to_string(k);
  if (!missing.empty())
    throw Error("gather", "of " + std::to_string(shares) + " shares there is none numbered " + missing);
  if (table.rows.size() != table.points.size())
    throw Error("gather", std::to_string(table.points.size() - table.rows.size()) + " plays are in none of the shares");
  return table;
}

}  // namespace bronvel
