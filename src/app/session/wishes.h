// What plays shall do: the scene's wishes with their answers, the sweep of one number, its spread over seeds and rates,
// and what matters. Played in the background while somebody looks.
#pragma once

#include <QObject>
#include <QTimer>
#include <chrono>
#include <memory>
#include <optional>

#include "app/session/latest_job.h"
#include "lab/measures/aim.h"
#include "lab/measures/checks.h"
#include "lab/measures/matters.h"
#include "lab/measures/rates.h"

namespace bronvel {

class Session;

class Wishes : public QObject {
  Q_OBJECT

 public:
  /// One play of the sweep.
  struct Point {
    double value = 0, measured = 0;
    std::string fault;
    std::vector<Eigen::Vector3f> way;  ///< of the measured body
    bool tried = false;                ///< by an aim
  };

  explicit Wishes(Session& session);
  ~Wishes() override;

  /// Whether anybody looks: only then is anything played.
  void set_watched(bool watched);
  bool watched() const { return watched_; }

  // The wishes: the scene's checks
  std::size_t count() const;
  /// The answer to one; null while it is on its way.
  const CheckAnswer* answer(std::size_t wish) const;
  std::optional<std::size_t> chosen() const;
  void choose(std::size_t wish);
  /// Adds "apex:fender", wished to be as it is now; with the keys of the take that is looked at.
  void add(const std::string& measure);
  void change(std::size_t wish, const Wish& to);  ///< an edit of the scene
  void remove(std::size_t wish);
  QString fault() const { return fault_; }  ///< why the last could not be added, or the chosen one not be played

  // The number that is turned
  const std::vector<Matter>& numbers() const { return numbers_; }  ///< those that can be
  const std::string& number() const { return number_; }            ///< "fender.dials.nudge.lua/push"; "" if none
  const Matter* number_now() const;
  void set_number(const std::string& name);
  double from() const { return from_; }
  double to() const { return to_; }
  void set_range(double from, double to);
  const std::vector<Point>& points() const { return points_; }  ///< by value
  void point_at(std::optional<std::size_t> point);              ///< one that is pointed at, wherever it is shown
  std::optional<std::size_t> pointed() const { return pointed_; }
  void make_take(std::size_t point);
  void keep(double value);  ///< puts it into the scene
  void aim();
  bool aiming() const { return aiming_; }
  const std::optional<AimAnswer>& found() const { return found_; }
  QString found_text() const { return found_text_; }

  // Beside it
  const std::vector<double>& seeds() const { return seeds_; }  ///< what so many seeds gave
  const std::vector<RateAnswer>& rates() const { return rates_; }
  const std::vector<RateLine>& rate_lines() const { return rate_lines_; }
  const Matters& matters() const { return matters_; }
  const std::optional<Measure>& measure() const { return measure_; }
  /// Whether all that is shown is of the scene as it is now: something may have changed that is still to be played.
  bool current() const { return current_; }
  bool busy() const { return job_.busy(); }
  int plays() const { return plays_; }       ///< of the last round
  double seconds() const { return spent_; }  ///< that they took
  void cancel();

 signals:
  void changed();  ///< wishes, answers or points
  void pointed_changed();

 private:
  /// What one round plays, with the scene that it plays it of.
  struct Round {
    std::uint64_t number = 0;
    std::shared_ptr<std::atomic<bool>> stop;
    SceneFolder folder;
    std::size_t wish = 0;
    std::optional<Measure> measure;
    std::string turned;
    double from = 0, to = 1;
    std::chrono::steady_clock::time_point begin = std::chrono::steady_clock::now();
    double spent() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count(); }
  };
  void refuse(const QString& why);
  void edit(const std::function<void(std::vector<Wish>&)>& change);
  void document_changed();
  void start();  ///< plays what is wanted anew
  void forget_answers();
  std::optional<Round> begin_round();  ///< none where nothing is wished
  // On the job's thread: the wishes, the sweep, seeds and rates, what matters; the search for a value.
  void play(const Round& round);
  void play_sweep(const Round& round, const Study& study);
  void play_beside(const Round& round, const Study& study);
  void search(const Round& round, const Aim& aim);
  void count_plays(const Round& round, int plays);
  void add_point(Point point);
  void read_wish();
  void read_numbers();
  template <class Use>
  void later(std::uint64_t round, Use use);  ///< on the bench's thread, unless another round began

  Session& session_;
  bool watched_ = false, current_ = false;
  bool complete_ = false;  // the round came to its end
  QTimer soon_;
  LatestJob job_, aside_;
  std::shared_ptr<std::atomic<bool>> stop_, stop_aside_ = std::make_shared<std::atomic<bool>>(false);
  std::uint64_t round_ = 0;
  std::vector<CheckAnswer> answers_;
  std::size_t chosen_ = 0;
  std::optional<Measure> measure_;
  QString fault_;
  std::vector<Matter> numbers_;
  std::string number_;
  double from_ = 0, to_ = 1;
  bool own_range_ = false;
  std::vector<Point> points_;
  std::optional<std::size_t> pointed_;
  bool aiming_ = false;
  std::optional<AimAnswer> found_;
  QString found_text_;
  std::vector<double> seeds_;
  std::vector<RateAnswer> rates_;
  std::vector<RateLine> rate_lines_;
  Matters matters_;
  int plays_ = 0;
  double spent_ = 0;
};

}  // namespace bronvel
