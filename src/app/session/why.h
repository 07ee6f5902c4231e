// Why what is chosen moves as it does, at the moment that the bench shows: its books of the running play, or of a take
// that is played once more for them in the background.
#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <optional>

#include "app/session/latest_job.h"
#include "lab/why/acting.h"
#include "lab/why/reason.h"

namespace bronvel {

class Session;
class SharedTake;

/// The books of a running play. The runner's thread fills it and the screen reads it, both with the play held.
struct LiveBooks {
  std::vector<std::string> wanted;
  std::unique_ptr<BookKeeper> keeper;
  void after_tick(Play& play);
  /// Whose books are kept from now on.
  void want(Play& play, const std::vector<std::string>& bodies);
};

/// What a line of a script did to what is chosen.
struct LineAct {
  Acting now;                ///< at the moment; of no size where it did nothing then
  std::vector<float> sizes;  ///< over the take, evenly: the most of any tick, N·s or N·m·s; empty in play
  NamedCause cause;
};

class Why : public QObject {
  Q_OBJECT

 public:
  explicit Why(Session& session);
  ~Why() override;

  /// Whether the books of the moment are there. Without: nothing dynamic is chosen, the scene is being built, or they
  /// are on their way.
  bool known() const { return known_; }
  bool on_its_way() const { return on_its_way_; }
  const WhatActs& acts() const { return acts_; }
  const Reason& reason() const { return reason_; }
  /// Of the take that is looked at; null in play.
  const Booked* booked() const { return booked_.get(); }
  /// What the lines of this script did to what is chosen, by line.
  std::map<int, LineAct> lines_of(const std::string& script) const;

  /// One cause that is pointed at, wherever it is shown.
  void point_at(const std::optional<NamedCause>& cause);
  const std::optional<NamedCause>& pointed() const { return pointed_; }

  /// From the running play, which is held.
  void read(Play& play, LiveBooks& live);

 signals:
  void changed();
  void pointed_changed();

 private:
  void look();
  void show(const Booked& booked, std::int64_t tick);
  void show_nothing();
  std::vector<std::string> wanted() const;

  Session& session_;
  LatestJob job_;
  std::shared_ptr<const Booked> booked_;
  // What `booked_` is of, or what was asked for.
  const SharedTake* of_ = nullptr;
  std::int64_t of_ticks_ = -1;
  std::vector<std::string> of_bodies_;
  bool known_ = false, on_its_way_ = false;
  WhatActs acts_;
  Reason reason_;
  std::optional<NamedCause> pointed_;
};

}  // namespace bronvel
