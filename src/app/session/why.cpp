// Fetching books and reading them.
#include "app/session/why.h"

#include <algorithm>

#include "app/session/session.h"

namespace bronvel {
namespace {

// So many ticks of a play are kept, and then its books begin anew: enough to look back a while.
constexpr std::int64_t most_live_ticks = 20000;

}  // namespace

void LiveBooks::after_tick(Play& play) {
  if (keeper) keeper->take(play);
}

void LiveBooks::want(Play& play, const std::vector<std::string>& bodies) {
  const bool full = keeper && !keeper->booked().bodies.empty() &&
                    static_cast<std::int64_t>(keeper->booked().bodies.front().ticks.size()) > most_live_ticks;
  if (bodies == wanted && !full) return;
  wanted = bodies;
  keeper.reset();
  if (bodies.empty()) {
    play.running().world.keep_books({});
    return;
  }
  keeper = std::make_unique<BookKeeper>(bodies);
  keeper->begin(play);
}

Why::Why(Session& session) : session_(session) {
  for (const auto signal :
       {&Session::refreshed, &Session::head_moved, &Session::takes_changed, &Session::chosen_changed,
        &Session::play_state_changed, &Session::asked_changed, &Session::opened})
    connect(&session_, signal, this, &Why::look);
}

Why::~Why() = default;

// Those that are chosen; no more than can be looked at at once.
std::vector<std::string> Why::wanted() const {
  constexpr std::size_t most = 50;
  std::vector<std::string> names = session_.chosen_bodies();
  if (names.size() > most) names.resize(most);
  std::erase_if(names, [&](const std::string& name) {
    const Body* body = session_.scene().find(name);
    return body && body->kind == MotionKind::fixed;
  });
  return names;
}

void Why::show_nothing() {
  if (!known_ && !on_its_way_) return;
  known_ = on_its_way_ = false;
  acts_ = {};
  reason_ = {};
  emit changed();
}

void Why::show(const Booked& booked, std::int64_t tick) {
  std::vector<const BookedBody*> bodies;
  for (const BookedBody& body : booked.bodies)
    if (body.at(tick)) bodies.push_back(&body);
  known_ = !bodies.empty();
  on_its_way_ = false;
  acts_ = known_ ? what_acts(bodies, tick, booked.tick_rate) : WhatActs{};
  reason_ = bodies.size() == 1 ? reason_of(*bodies.front(), tick, booked.tick_rate) : Reason{};
  emit changed();
}

void Why::read(Play& play, LiveBooks& live) {
  live.want(play, wanted());
  if (!live.keeper || session_.in_past()) return;
  booked_.reset();
  of_ = nullptr;
  show(live.keeper->booked(), play.tick());
}

void Why::look() {
  if (session_.live_play()) {
    if (wanted().empty()) show_nothing();
    return;  // read with the play
  }
  const KeptTake* shown = session_.shown_take();
  const std::vector<std::string> bodies = wanted();
  if (!session_.in_past() || !shown || !shown->take || bodies.empty()) return show_nothing();
  std::int64_t ticks = 0;
  shown->take->with([&](const Take& take) { ticks = take.ticks; });
  // Of a take that grows, what was booked does as long as it goes far enough.
  if (of_ == shown->take.get() && (of_ticks_ == ticks || of_ticks_ > session_.tick()) && of_bodies_ == bodies) {
    if (booked_) show(*booked_, session_.tick());
    return;
  }
  of_ = shown->take.get();
  of_ticks_ = ticks;
  of_bodies_ = bodies;
  booked_.reset();
  known_ = false;
  on_its_way_ = true;
  emit changed();
  job_.start([this, take = shown->take, bodies, ticks](const LatestJob::Wanted& wanted) {
    auto booked = std::make_shared<Booked>();
    try {
      const Question question = take->with([](const Take& whole) { return question_of(whole); });
      *booked = book(question, bodies, wanted);
    } catch (const std::exception&) {
      // A scene that can't be played has no books: nothing is shown.
    }
    if (!wanted()) return;
    QMetaObject::invokeMethod(
        this,
        [this, take, booked, bodies, ticks] {
          if (of_ != take.get() || of_ticks_ != ticks || of_bodies_ != bodies) return;
          booked_ = booked;
          on_its_way_ = false;
          look();
        },
        Qt::QueuedConnection);
  });
}

void Why::point_at(const std::optional<NamedCause>& cause) {
  if (pointed_ == cause) return;
  pointed_ = cause;
  emit pointed_changed();
}

std::map<int, LineAct> Why::lines_of(const std::string& script) const {
  std::map<int, LineAct> lines;
  for (const Acting& acting : acts_.causes)
    if (acting.cause.script == script) {
      lines[acting.cause.line].now = acting;
      lines[acting.cause.line].cause = acting.cause;
    }
  if (!booked_) return lines;
  constexpr std::size_t places = 60;
  for (const BookedBody& body : booked_->bodies) {
    for (std::size_t k = 0; k < body.causes.size(); ++k) {
      const NamedCause& cause = body.causes[k];
      if (cause.script != script) continue;
      LineAct& line = lines[cause.line];
      line.cause = cause;
      line.sizes.resize(places, 0.0F);
    }
    const auto span = static_cast<double>(body.end_tick());
    for (std::int64_t tick = body.first_tick; tick < body.end_tick(); ++tick)
      for (const BookedLine& each : body.lines_of(*body.at(tick))) {
        const NamedCause& cause = body.causes[each.cause];
        if (cause.script != script) continue;
        const auto place = static_cast<std::size_t>(static_cast<double>(tick) / span * static_cast<double>(places));
        float& size = lines[cause.line].sizes[std::min(place, places - 1)];
        size = std::max(size, each.impulse.norm() + each.turn.norm());
      }
  }
  return lines;
}

}  // namespace bronvel
