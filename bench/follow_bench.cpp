// Following: how long it takes from a turn of a dial to the redrawn curve, and how long the window does not answer
// then.
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <cstdio>

#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/start.h"
#include "app/window_driver.h"

using namespace bronvel;

namespace {

SceneFolder two_hundred(const QString& path) {
  SceneFolder folder;
  folder.path = path.toStdString();
  folder.scene.view.distance = 22;
  Body ground;
  ground.name = "ground";
  ground.kind = MotionKind::fixed;
  ground.shape = Box{{60, 1, 60}};
  ground.position = {0, -0.5, 0};
  folder.scene.bodies.push_back(ground);
  for (int i = 0; i < 200; ++i) {
    Body b;
    b.name = "cask_" + std::to_string(i);
    b.shape = Box{{0.8, 0.6, 0.7}};
    b.position = {1.1 * (i % 10), 1 + 0.9 * (i / 50), 1.1 * (i / 10 % 5)};
    folder.scene.bodies.push_back(b);
  }
  folder.scene.bodies.back().scripts.push_back({"push.lua", {}});
  folder.scripts["push.lua"] =
      "dials { push = { 3, from = 0, to = 10 } }\nfunction on.tick() body:force(vec(dials.push, 0, 0)) end\n";
  save_folder(folder);
  return folder;
}

// Times each event that is handled: as long as one takes, the window does not answer.
class TimedApplication : public QApplication {
 public:
  using QApplication::QApplication;
  double longest = 0;  // ms
  QByteArray what;     // that took so long

 private:
  bool notify(QObject* to, QEvent* event) override {
    if (depth_ > 0) return QApplication::notify(to, event);
    ++depth_;
    const QByteArray name = QByteArray(to->metaObject()->className()) + ", event " + QByteArray::number(event->type());
    QElapsedTimer timer;
    timer.start();
    const bool taken = QApplication::notify(to, event);
    const double took = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    if (took > longest) longest = took, what = name;
    --depth_;
    return taken;
  }
  int depth_ = 0;
};

TimedApplication& timed() {
  return *static_cast<TimedApplication*>(QCoreApplication::instance());
}

struct Seen {
  double first = 0, whole = 0, longest = 0;  // ms
};

// Turns the dial of that body, and looks until the curve is drawn anew.
Seen turn(Bench& bench, const std::string& body, double value) {
  Session& session = bench.session();
  LanePlot* lanes = bench.deck()->takes()->plot();
  Seen seen;
  bool whole = false, drawn = false;
  QElapsedTimer timer, answer;
  timer.start();
  const auto ms = [&] { return static_cast<double>(timer.nsecsElapsed()) / 1e6; };
  QObject here;
  QObject::connect(&session, &Session::asked_changed, &here,
                   [&] { whole = whole || (!session.asking() && session.last_answer() > 0); });
  QObject::connect(lanes, &QCustomPlot::afterReplot, &here, [&] {
    drawn = whole;
    session.with_take([&](const Take& take, TakeReader&) {
      const bool fresh = session.shown_take()->label.number == session.asked_number() && session.asking() != whole;
      if (seen.first == 0 && fresh && take.ticks > static_cast<std::int64_t>(take.tick_rate())) seen.first = ms();
    });
  });
  answer.start();
  for (const Dial& dial : session.dials(body))
    if (dial.name == "push") session.try_dial(body, dial, value);
  seen.longest = static_cast<double>(answer.nsecsElapsed()) / 1e6;
  timed().longest = 0;
  QTimer limit;
  limit.start(100);
  while (!drawn && timer.elapsed() < 20000)
    QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents);
  seen.longest = std::max(seen.longest, timed().longest);
  seen.whole = ms();
  return seen;
}

void follow(Bench& bench, HandClock& hand, const char* name, const std::string& body) {
  Session& session = bench.session();
  session.choose(body);
  session.play();
  play_ticks(bench, hand, static_cast<std::int64_t>(5 * session.scene().world.tick_rate));
  session.stop();
  session.drop_pending();
  Seen best{1e9, 1e9, 0};
  double sum = 0;
  constexpr int turns = 8;
  for (int i = 0; i < turns; ++i) {
    const Seen seen = turn(bench, body, 3.5 + 0.5 * i);
    best.first = std::min(best.first, seen.first);
    best.whole = std::min(best.whole, seen.whole);
    best.longest = std::max(best.longest, seen.longest);
    sum += seen.whole;
  }
  std::printf(
      "following %-18s first second seen after %.0f ms, 5 s after %.0f ms (mean %.0f); the window was busy for %.0f ms "
      "at most (%s)\n",
      name, best.first, best.whole, sum / turns, best.longest, timed().what.constData());
}

}  // namespace

int main(int argc, char** argv) {
  prepare_graphics();
  TimedApplication app(argc, argv);
  theme::apply(app);
  HandClock hand;
  Bench bench(hand.clock());
  bench.show();
  if (!bench.open(QString::fromStdString(examples_folder()) + "/skerrow-quay")) return 1;
  while (bench.stage()->frames_drawn() == 0) QApplication::processEvents();
  follow(bench, hand, "the quay", "fender");
  const QTemporaryDir folder;
  two_hundred(folder.path());
  if (!bench.open(folder.path())) return 1;
  follow(bench, hand, "200 bodies", "cask_199");
  return 0;
}
