// The small things that the window is made of: number fields, dials, colours, and what is kept between sessions.
#include <QSettings>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <QWheelEvent>
#include <catch2/catch.hpp>
#include <cmath>
#include <limits>

#include "app/kit/dial_scale.h"
#include "app/kit/number_field.h"
#include "app/kit/theme.h"
#include "app/session/asker.h"
#include "app/session/recent.h"
#include "app/session/recovery.h"
#include "app/session_alone.h"
#include "geometry/base/random.h"
#include "lab/ask/ask.h"

using namespace bronvel;

namespace {

void turn_wheel(QWidget& on, int by) {
  QWheelEvent event({5, 5}, on.mapToGlobal(QPoint(5, 5)), {}, {0, by}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                    false);
  QApplication::sendEvent(&on, &event);
}

}  // namespace

TEST_CASE("numbers are shown short, and true") {
  CHECK(short_number(0) == "0.0");
  CHECK(short_number(1) == "1.0");
  CHECK(short_number(-2.5) == "-2.5");
  CHECK(short_number(12.3456) == "12.35");
  CHECK(short_number(123.456) == "123.5");
  CHECK(short_number(1234.56) == "1235");
  CHECK(short_number(1e-9) == "1e-09");
  CHECK(short_number(2.5e7) == "2.5e+07");
  Random random(3);
  for (int i = 0; i < 2000; ++i) {
    const double value = (random.share() < 0.5 ? -1 : 1) * std::pow(10, random.between(-12, 12));
    const QString text = short_number(value);
    INFO(value << " " << text.toStdString());
    CHECK(std::abs(text.toDouble() - value) <= 6e-4 * std::abs(value) + (std::abs(value) < 1 ? 5.1e-4 : 0));
    CHECK(text.size() <= 11);
  }
}

TEST_CASE("numbers on the scale beside a lane have room there, however small or large") {
  CHECK(lane_number(0.00024, 0.00024) == "2.40e−4");
  CHECK(lane_number(-3.529e-5, 1e-4) == "−3.5e−5");
  CHECK(lane_number(0, 2e-4) == "0");
  CHECK(lane_number(12.3456, 3) == "12.35");
  CHECK(lane_number(5, 2e6) == "5");
  for (const double size : {1e-8, 3.3333e-5, 0.00099, 0.0123, 4.5678, 77.777, 999.99, 45678.9, 9.87e5, 1.2345e6, 7e12})
    for (const double value : {size, -size}) {
      const QString text = lane_number(value, size);
      INFO(text.toStdString());
      CHECK(text.size() <= 7);
      CHECK(QString(text).replace("−", "-").toDouble() == Approx(value).epsilon(0.05));
    }
}

TEST_CASE("a number in little room keeps its sign and its size") {
  const QFontMetrics font(theme::numbers(12));
  const int room = font.horizontalAdvance("-00000");
  Random random(4);
  for (int i = 0; i < 2000; ++i) {
    const double value = (random.share() < 0.5 ? -1 : 1) * std::pow(10, random.between(-9, 12));
    const QString text = fitting_number(value, font, room);
    INFO(value << " " << text.toStdString());
    CHECK(font.horizontalAdvance(text) <= room);
    CHECK(std::signbit(text.toDouble()) == std::signbit(value));
    CHECK(std::abs(text.toDouble() - value) <= 0.5 * std::abs(value));
  }
}

TEST_CASE("a number field takes sums and units, steps, and says what it refuses") {
  NumberField field("kg");
  field.resize(90, 22);
  field.show();
  QSignalSpy entered(&field, &NumberField::entered), refused(&field, &NumberField::refused),
      cleared(&field, &NumberField::cleared);
  field.show_value(12);
  const auto type = [&](const QString& text) {
    entered.clear();
    refused.clear();
    field.setFocus();
    field.selectAll();
    if (text.isEmpty()) QTest::keyClick(&field, Qt::Key_Delete);
    QTest::keyClicks(&field, text);
    QTest::keyClick(&field, Qt::Key_Return);
  };
  type("12*3");
  REQUIRE(entered.count() == 1);
  CHECK(entered[0][0].toDouble() == 36);
  type("2 t");
  REQUIRE(entered.count() == 1);
  CHECK(entered[0][0].toDouble() == 2000);
  for (const char* wrong : {"heavy", "1/0", "2 m", "(1", "1e999", "--"}) {
    INFO(wrong);
    type(wrong);
    CHECK(entered.count() == 0);
    REQUIRE(refused.count() == 1);
    CHECK(refused[0][0].toString().contains("is not a number in kg"));
    CHECK(field.text() == "12.0");
  }
  type("");
  CHECK(cleared.count() == 1);
  // Without having been touched it tells nothing.
  field.show_value(12);
  entered.clear();
  QTest::keyClick(&field, Qt::Key_Return);
  CHECK(entered.count() == 0);
  // Steps of a tenth of its size.
  QTest::keyClick(&field, Qt::Key_Up);
  REQUIRE(entered.count() == 1);
  CHECK(entered[0][0].toDouble() == Approx(13));
  QTest::keyClick(&field, Qt::Key_Down, Qt::ShiftModifier);
  CHECK(entered[1][0].toDouble() == Approx(2));
  // What is being typed is not written over, and escape gives it up.
  field.setFocus();
  field.selectAll();
  QTest::keyClicks(&field, "77");
  field.show_value(5);
  CHECK(field.text() == "77");
  QTest::keyClick(&field, Qt::Key_Escape);
  CHECK(field.text() == "5.0");
}

TEST_CASE("a field for several takes changes of each") {
  NumberField field("m");
  field.set_several(true);
  field.show();
  QSignalSpy changed(&field, &NumberField::changed), refused(&field, &NumberField::refused);
  std::vector<NumberChange> changes;
  QObject::connect(&field, &NumberField::changed, &field, [&](const NumberChange& c) { changes.push_back(c); });
  for (const char* text : {"*2", "+1", "/4", "3"}) {
    field.setFocus();
    field.selectAll();
    QTest::keyClicks(&field, text);
    QTest::keyClick(&field, Qt::Key_Return);
  }
  REQUIRE(changes.size() == 4);
  CHECK(changes[0].of(5) == 10);
  CHECK(changes[1].of(5) == 6);
  CHECK(changes[2].of(8) == 2);
  CHECK(changes[3].of(8) == 3);
  CHECK(refused.count() == 0);
}

TEST_CASE("a dial stays within its range, and tells each turn once") {
  DialScale dial;
  dial.resize(240, 36);
  dial.set_range(-2, 8, 1);
  dial.set_value(1);
  dial.show();
  QSignalSpy turned(&dial, &DialScale::turned), let_go(&dial, &DialScale::let_go);
  dial.set_value(3);
  CHECK(turned.count() == 0);  // told, not turned
  QTest::keyClick(&dial, Qt::Key_Home);
  CHECK(dial.value() == 1);
  CHECK(turned.count() == 1);
  QTest::keyClick(&dial, Qt::Key_Right);
  const double step = dial.value() - 1;
  CHECK(step > 0);
  QTest::keyClick(&dial, Qt::Key_Right, Qt::ShiftModifier);
  CHECK(dial.value() == Approx(1 + 6 * step));
  turn_wheel(dial, -120);
  CHECK(dial.value() == Approx(1 + 5 * step));
  for (int i = 0; i < 400; ++i) QTest::keyClick(&dial, Qt::Key_Left);
  CHECK(dial.value() == -2);
  turned.clear();
  QTest::keyClick(&dial, Qt::Key_Left);
  CHECK(turned.count() == 0);
  // Anywhere the mouse goes.
  let_go.clear();
  QTest::mousePress(&dial, Qt::LeftButton, {}, {120, 20});
  CHECK(dial.dragged());
  CHECK(dial.value() == Approx(3).margin(0.3));
  for (const int x : {-500, 0, 120, 239, 5000}) {
    QMouseEvent move(QEvent::MouseMove, QPointF(x, 20), dial.mapToGlobal(QPointF(x, 20)), Qt::LeftButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(&dial, &move);
    CHECK(dial.value() >= -2);
    CHECK(dial.value() <= 8);
  }
  CHECK(dial.value() == 8);
  QTest::mouseRelease(&dial, Qt::LeftButton, {}, {120, 20});
  CHECK_FALSE(dial.dragged());
  CHECK(let_go.count() == 1);
  dial.grab();  // it can be drawn, whatever its range
  dial.set_range(0, 0, 0);
  dial.grab();
  dial.set_range(-1e300, 1e300, 0);
  dial.grab();
}

TEST_CASE("scenes that were open lately: the latest first, ten at most, only those that are there") {
  const QTemporaryDir all;
  QStringList folders;
  for (int i = 0; i < 14; ++i) {
    folders << all.path() + QString("/scene_%1").arg(i);
    REQUIRE(QDir().mkpath(folders.back()));
    QFile scene(folders.back() + "/scene.json");
    REQUIRE(scene.open(QIODevice::WriteOnly));
    remember_scene(folders.back());
  }
  QStringList recent = recent_scenes();
  REQUIRE(recent.size() == 10);
  CHECK(recent[0] == folders[13]);
  CHECK(recent[9] == folders[4]);
  remember_scene(folders[7]);
  recent = recent_scenes();
  CHECK(recent.size() == 10);
  CHECK(recent[0] == folders[7]);
  CHECK(recent.count(folders[7]) == 1);
  QDir(folders[13]).removeRecursively();
  CHECK_FALSE(recent_scenes().contains(folders[13]));
}

TEST_CASE("what was not saved is kept aside, found by the next bench, and gone after an end in order") {
  const QTemporaryDir state;
  const QByteArray before = qgetenv("BRONVEL_STATE");
  qputenv("BRONVEL_STATE", state.path().toUtf8());
  {
    Alone alone;
    Recovery recovery(alone.session, 1000);
    alone.add_box("crate", {0, 1, 0});
    recovery.keep_now();
    // Its own bench lives: nothing is left over.
    CHECK(Recovery::left_over().empty());
    CHECK_FALSE(QDir(Recovery::place()).entryList(QDir::Dirs | QDir::NoDotAndDotDot).isEmpty());
  }
  CHECK(Recovery::left_over().empty());
  CHECK(QDir(Recovery::place()).entryList(QDir::Dirs | QDir::NoDotAndDotDot).isEmpty());
  if (before.isEmpty())
    qunsetenv("BRONVEL_STATE");
  else
    qputenv("BRONVEL_STATE", before);
}

TEST_CASE("of questions asked in a row the last is answered, and one that is called off is not") {
  const SceneFolder folder = open_folder(in_checkout("/examples/skerrow-quay"));
  const auto question = [&](double mass) {
    Question asked;
    asked.folder = folder;
    asked.folder.scene.find("fender")->mass = mass;
    asked.seed = 1;
    asked.ticks = 120;
    return asked;
  };
  Asker asker;
  std::vector<double> answered;
  QObject::connect(&asker, &Asker::ended, &asker, [&](const std::shared_ptr<SharedTake>& take, double) {
    answered.push_back(take->with([](const Take& t) { return t.folder.scene.find("fender")->mass; }));
  });
  for (int i = 1; i <= 20; ++i) asker.ask(question(i));
  REQUIRE(wait_until([&] { return !asker.busy() && !answered.empty() && answered.back() == 20; }));
  CHECK(answered.size() <= 20);
  CHECK(std::is_sorted(answered.begin(), answered.end()));
  answered.clear();
  asker.ask(question(50));
  asker.cancel();
  REQUIRE(wait_until([&] { return !asker.busy(); }));
  QTest::qWait(20);
  CHECK(answered.empty());
}
