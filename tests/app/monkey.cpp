// A monkey at the bench: seeded random clicks, drags, keys and typed words over everything, in edit and in play.
//   bronvel-monkey --seconds 1200 --seed 1 [--examples a,b,…]
// Ends with 1 where an action took over a second (or --longest ms, for machines that do other work beside it), the
// toolkit warned, a scene that was saved does not open, or undoing to the start does not give what was opened. A crash
// ends it by itself; the last lines say what was being done.
#include <QAbstractButton>
#include <QCommandLineParser>
#include <QDrag>
#include <QElapsedTimer>
#include <QMenu>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <filesystem>
#include <random>
#include <thread>

#include "app/application.h"
#include "app/bench.h"
#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "app/start.h"
#include "geometry/base/error.h"
#include "scene/document/names.h"

using namespace bronvel;
namespace fs = std::filesystem;

namespace {

int longest_action = 1000;  // ms

int faults = 0;
QString doing = "starting";
std::atomic<long> acts{0};

// Looks on from outside: what stands still for so long will not come back.
void watch_for_standstill() {
  constexpr int most_seconds = 20;
  std::thread([] {
    long before = -1;
    for (int still = 0; still < most_seconds; ++still) {
      std::this_thread::sleep_for(std::chrono::seconds(1));
      if (acts != before) still = 0;
      before = acts;
    }
    std::printf("FAULT: stands still for %d s while %s\n", most_seconds, qPrintable(doing));
    std::fflush(stdout);
    std::_Exit(3);
  }).detach();
}

QStringList done;  // the last acts

void complain(const QString& what) {
  ++faults;
  std::printf("FAULT: %s (while %s; before: %s)\n", qPrintable(what), qPrintable(doing), qPrintable(done.join(" | ")));
  done.clear();
  std::fflush(stdout);
}

void hear(QtMsgType type, const QMessageLogContext&, const QString& message) {
  if (type == QtDebugMsg || type == QtInfoMsg) return;
  complain("the toolkit warned: " + message);
}

class Monkey {
 public:
  Monkey(Bench& bench, std::uint64_t seed) : bench_(bench), random_(seed) {
    // What opened is what undoing must lead back to.
    QObject::connect(&bench_.session(), &Session::opened, &bench_, [this] { opened_ = bench_.session().scene(); });
    answer_later();
  }

  void open(const std::string& scene) {
    doing = "opening " + QString::fromStdString(scene);
    if (!bench_.open(QString::fromStdString(scene))) complain("does not open");
    opened_ = bench_.session().scene();
  }

  void act() {
    QElapsedTimer took;
    took.start();
    switch (pick(13)) {
      case 0:
      case 1:
      case 2:
      case 3:
        click();
        break;
      case 4:
      case 5:
        drag();
        break;
      case 6:
        wheel();
        break;
      case 7:
        type_words();
        break;
      case 8:
        press_a_button();
        break;
      case 9:
        half_done();
        break;
      default:
        press_a_key();
    }
    QTest::qWait(pick(30));
    constexpr int of_the_monkey = 400;  // ms: its wait, and until it answers a menu or lets go of what it drags
    if (took.elapsed() > longest_action + of_the_monkey) complain(QString("took %1 ms").arg(took.elapsed()));
  }

  // Saves, opens what was saved, and undoes all.
  void settle_accounts() {
    doing = "settling accounts";
    Session& session = bench_.session();
    session.stop();
    for (int i = 0; i < 200 && session.stopping(); ++i) QTest::qWait(10);
    session.drop_pending();
    if (session.trying()) session.let_go();
    if (session.has_folder()) {
      try {
        session.save();
        const SceneFolder back = open_folder(session.path().toStdString());
        if (!(back.scene == session.scene())) complain("what was saved is not what is opened");
      } catch (const std::exception& e) {
        complain(QString("what was saved does not open: ") + e.what());
      }
    }
    const Scene end = session.scene();
    const std::size_t steps = session.history().steps();  // some may be undone already
    while (!session.undo_name().isEmpty()) session.undo();
    opened_.lanes = end.lanes;  // which lanes there are is no edit
    if (!(session.scene() == opened_)) complain("undoing to the start does not give what was opened");
    while (session.history().steps() < steps) session.redo();
    if (!(session.scene() == end)) complain("doing again does not give what was undone");
  }

 private:
  int pick(int below) { return below <= 0 ? 0 : static_cast<int>(random_() % static_cast<std::uint64_t>(below)); }

  // Dialogs and menus wait for an answer: dialogs get none, menus some entry or none, after a moment. An answer may
  // open the next dialog and not come back before that is gone, so each has a timer of its own.
  void answer_later() {
    QTimer::singleShot(150, &bench_, [this] {
      answer_later();
      if (QWidget* popup = QApplication::activePopupWidget()) {
        for (int i = pick(6); i > 0; --i) QTest::keyClick(popup, Qt::Key_Down);
        QTest::keyClick(popup, pick(3) == 0 ? Qt::Key_Escape : Qt::Key_Return);
      } else if (QWidget* modal = QApplication::activeModalWidget()) {
        modal->close();
      } else if (acts == acts_seen_) {
        QDrag::cancel();  // dragging text waits for a real mouse to let go
      }
      acts_seen_ = acts;
    });
  }

  // The window or what has popped up over it, and a place in it.
  std::pair<QWidget*, QPoint> anywhere() {
    QWidget* top = QApplication::activePopupWidget();
    if (!top) top = QApplication::activeModalWidget();
    if (!top) top = &bench_;
    const QPoint at(pick(top->width()), pick(top->height()));
    QWidget* under = top->childAt(at);
    return under ? std::pair(under, under->mapFrom(top, at)) : std::pair(top, at);
  }
  Qt::KeyboardModifiers modifiers() {
    const int which = pick(10);
    return which == 0   ? Qt::ShiftModifier
           : which == 1 ? Qt::ControlModifier
           : which == 2 ? Qt::AltModifier
                        : Qt::NoModifier;
  }
  void say(const QString& what, const QWidget* on) {
    constexpr int kept = 8;
    done << doing;
    if (done.size() > kept) done.removeFirst();
    doing = what + " on " + on->metaObject()->className() + " " + on->objectName();
  }

  void click() {
    const auto [on, at] = anywhere();
    const bool right = pick(8) == 0;
    say(right ? "a right click" : "a click", on);
    if (pick(10) == 0)
      QTest::mouseDClick(on, Qt::LeftButton, modifiers(), at);
    else
      QTest::mouseClick(on, right ? Qt::RightButton : Qt::LeftButton, modifiers(), at);
  }

  void drag() {
    const auto [on, from] = anywhere();
    say("a drag", on);
    const QPointer<QWidget> still = on;
    const Qt::KeyboardModifiers keys = modifiers();
    QTest::mousePress(on, Qt::LeftButton, keys, from);
    QPoint at = from;
    // What was dragged away waited until it was let go: there is nothing left in the hand then.
    constexpr int waited = 100;  // ms
    QElapsedTimer took;
    for (int i = 0; i < 4 && still; ++i) {
      at += QPoint(pick(241) - 120, pick(161) - 80);
      took.start();
      QTest::mouseMove(on, at, pick(8));
      if (took.elapsed() > waited) break;
    }
    if (still) QTest::mouseRelease(on, Qt::LeftButton, keys, at);
  }

  // Begins something on the stage, takes away what it is about, and ends it.
  void half_done() {
    QWidget* stage = bench_.stage();
    const auto place = [&] { return QPoint(pick(stage->width()), pick(stage->height())); };
    const QPoint from = place();
    const bool drag = pick(2) == 0;
    if (drag) {
      say("a drag that is half done", stage);
      QTest::mousePress(stage, Qt::LeftButton, modifiers(), from);
      QTest::mouseMove(stage, from + QPoint(pick(61) - 30, pick(61) - 30));
    } else {
      static const char* tools[] = {"build_tie", "build_path", "build_measure"};
      auto* button = bench_.findChild<QToolButton*>(tools[pick(std::size(tools))]);
      if (!button || !button->isVisible()) return;
      say("a tool that is half done: " + button->text(), stage);
      if (QMenu* menu = button->menu(); menu && !menu->actions().isEmpty()) {
        menu->actions()[pick(static_cast<int>(menu->actions().size()))]->trigger();
      } else {
        button->click();
      }
      QTest::mouseClick(stage, Qt::LeftButton, {}, from);
    }
    for (int i = pick(3); i >= 0; --i) take_away(stage);
    if (drag)
      QTest::mouseRelease(stage, Qt::LeftButton, {}, place());
    else
      QTest::mouseClick(stage, Qt::LeftButton, {}, place());
    if (pick(2) == 0) QTest::keyClick(stage, pick(2) == 0 ? Qt::Key_Return : Qt::Key_Escape);
  }

  void take_away(QWidget* stage) {
    Session& session = bench_.session();
    switch (pick(7)) {
      case 0:
      case 1:
        session.undo();
        break;
      case 2:
        QTest::keyClick(stage, Qt::Key_Delete);
        break;
      case 3:
        session.redo();
        break;
      case 4:
        session.stop();
        break;
      case 5:
        if (const Body* body = session.scene().find(session.chosen()); body && session.building()) try {
            session.edit("monkey: another name",
                         [name = body->name](Scene& scene) { rename_body(scene, name, Names(scene).fresh("monkey")); });
          } catch (const std::exception&) {
            // Names that scripts need can't be changed.
          }
        break;
      default:
        session.choose(std::string());
        break;
    }
  }

  void wheel() {
    const auto [on, at] = anywhere();
    say("a turn of the wheel", on);
    QWheelEvent event(at, on->mapToGlobal(at), {}, {0, pick(2) == 0 ? 120 : -120}, Qt::NoButton, modifiers(),
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(on, &event);
  }

  void type_words() {
    static const char* words[] = {"12",
                                  "-3.5",
                                  "1e9",
                                  "nan",
                                  "body:force(vec(0, 9, 0))",
                                  "function on.tick()",
                                  "end",
                                  "cask_1",
                                  "oak",
                                  "2 k",
                                  "while true do end",
                                  "",
                                  "push = 3",
                                  "1/0",
                                  "x0.1",
                                  "90 * 2",
                                  "Kahn",
                                  "a_b c"};
    QWidget* on = QApplication::focusWidget();
    if (!on) return;
    say("typing", on);
    const QPointer<QWidget> still = on;
    QTest::keyClicks(on, QString::fromUtf8(words[pick(std::size(words))]));
    if (still && pick(2) == 0) QTest::keyClick(still, Qt::Key_Return);
  }

  void press_a_button() {
    const QList<QAbstractButton*> all = bench_.findChildren<QAbstractButton*>();
    QAbstractButton* button = all.isEmpty() ? nullptr : all[pick(static_cast<int>(all.size()))];
    if (!button || !button->isVisible() || !button->isEnabled()) return;
    say("pressing the button \"" + button->text() + "\"", button);
    QTest::mouseClick(button, Qt::LeftButton);
  }

  void press_a_key() {
    static const std::pair<Qt::Key, Qt::KeyboardModifiers> keys[] = {
        {Qt::Key_F5, Qt::NoModifier},     {Qt::Key_F6, Qt::NoModifier},
        {Qt::Key_F7, Qt::NoModifier},     {Qt::Key_F5, Qt::ShiftModifier},
        {Qt::Key_Z, Qt::ControlModifier}, {Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier},
        {Qt::Key_S, Qt::ControlModifier}, {Qt::Key_D, Qt::ControlModifier},
        {Qt::Key_C, Qt::ControlModifier}, {Qt::Key_V, Qt::ControlModifier},
        {Qt::Key_G, Qt::ControlModifier}, {Qt::Key_A, Qt::ControlModifier},
        {Qt::Key_F, Qt::ControlModifier}, {Qt::Key_N, Qt::ControlModifier},
        {Qt::Key_Delete, Qt::NoModifier}, {Qt::Key_Escape, Qt::NoModifier},
        {Qt::Key_Return, Qt::NoModifier}, {Qt::Key_Tab, Qt::NoModifier},
        {Qt::Key_Up, Qt::NoModifier},     {Qt::Key_Down, Qt::NoModifier},
        {Qt::Key_Left, Qt::NoModifier},   {Qt::Key_Right, Qt::NoModifier},
        {Qt::Key_Space, Qt::NoModifier},  {Qt::Key_Home, Qt::NoModifier},
        {Qt::Key_W, Qt::NoModifier},      {Qt::Key_R, Qt::NoModifier},
        {Qt::Key_1, Qt::NoModifier}};
    const auto& [key, with] = keys[pick(std::size(keys))];
    QWidget* on = QApplication::focusWidget();
    if (!on || pick(3) == 0) on = &bench_;
    say(QString("the key %1").arg(QKeySequence(QKeyCombination(with, key)).toString()), on);
    QTest::keyClick(on, key, with);
  }

  Bench& bench_;
  std::mt19937_64 random_;
  long acts_seen_ = 0;
  Scene opened_;
};

int run(int argc, char** argv) {
  qInstallMessageHandler(hear);
  watch_for_standstill();
  prepare_graphics();
  Application app(argc, argv);
  theme::apply(app);
  QCommandLineParser parser;
  const QCommandLineOption seconds("seconds", "how long", "s", "60"), seed("seed", "of the random acts", "n", "1"),
      longest("longest", "an act may take, ms", "ms", "1000"),
      examples("examples", "which scenes, one after another", "names",
               "skerrow-quay,cask-pyramid,rope-ferry,chandlers-window,mooring-bell,herring-spout,harbour-cart,"
               "filling-lock,skerrow-crane,three-bells");
  for (const QCommandLineOption& option : {seconds, seed, longest, examples}) parser.addOption(option);
  parser.process(app);
  longest_action = parser.value(longest).toInt();
  const QStringList names = parser.value(examples).split(',');

  const QTemporaryDir copies;
  // Whatever it opens by itself and saves over, it has copies of its own.
  const std::string all_examples = copies.path().toStdString() + "/all";
  fs::copy(examples_folder(), all_examples, fs::copy_options::recursive);
  qputenv("BRONVEL_EXAMPLES", all_examples.c_str());
  qputenv("HOME", copies.path().toUtf8());
  fs::current_path(copies.path().toStdString());
  Bench bench;
  bench.resize(1280, 800);
  bench.show();
  Monkey monkey(bench, parser.value(seed).toULongLong());
  app.set_listener([](const QString& message) { complain("an exception left a slot: " + message); });
  QElapsedTimer time;
  time.start();
  const double all = 1000 * parser.value(seconds).toDouble();
  for (int i = 0; i < names.size(); ++i) {
    const std::string scene = copies.path().toStdString() + "/" + names[i].toStdString();
    fs::copy(examples_folder() + "/" + names[i].toStdString(), scene, fs::copy_options::recursive);
    monkey.open(scene);
    for (; static_cast<double>(time.elapsed()) < all * (i + 1) / static_cast<double>(names.size()); ++acts)
      monkey.act();
    monkey.settle_accounts();
  }
  std::printf("%ld acts in %.0f s over %d scenes: %d faults\n", acts.load(), static_cast<double>(time.elapsed()) / 1000,
              static_cast<int>(names.size()), faults);
  return faults == 0 ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
  try {
    return run(argc, argv);
  } catch (const std::exception& e) {
    std::printf("monkey: %s (while %s)\n", e.what(), qPrintable(doing));
    return 2;
  }
}
