// Why in the real window: what acts, on card, stage and script lines; the energy ledger; what made two takes differ.
#include "app/session/why.h"

#include <QLabel>
#include <catch2/catch.hpp>

#include "app/desk/script_editor.h"
#include "app/stage/difference_sheet.h"
#include "app/stage/ledger_sheet.h"
#include "app/window.h"

using namespace bronvel;

namespace {

struct WhyWindow : Window {
  using Window::Window;
  Session& session() { return bench.session(); }
  void settle() {
    for (int i = 0; i < 6; ++i) QTest::qWait(10);
  }
  bool booked() {
    return wait_until([&] { return session().why().known() && !session().why().on_its_way(); });
  }
  /// The words of a row of "What acts on it?".
  QStringList row(int which) {
    QStringList words;
    if (auto* there = bench.findChild<QWidget*>("cause_" + QString::number(which)))
      for (const QLabel* label : there->findChildren<QLabel*>()) words << label->text();
    return words;
  }
  QString reason() {
    auto* label = bench.findChild<QLabel*>("card_reason");
    QString text = label ? label->text() : QString();
    return text.remove(QRegularExpression("<[^>]*>"));
  }
  LanePlot* lanes() { return bench.deck()->takes()->plot(); }
};

}  // namespace

TEST_CASE("in play the card says what acts on the chosen body, and why it moves as it does") {
  WhyWindow w("skerrow-quay");
  CHECK(w.bench.findChild<QWidget*>("cause_0") == nullptr);  // nothing acts while the scene is built
  w.click("play");
  REQUIRE(w.play(60));
  w.click("pause");
  w.settle();
  REQUIRE(w.session().why().known());
  CHECK(w.row(0) == QStringList{"W", "weight", "88.3 N ↓"});
  CHECK(w.row(1) == QStringList{"S", "nudge.lua:21 force", "3 N →"});
  CHECK(w.row(2).value(1) == "air drag");
  CHECK(w.row(3).value(1) == "together = m · a");
  CHECK(w.reason().startsWith("Speeds up as it goes down: its weight gives "));
  // On the floor its weight is carried.
  w.click("play");
  REQUIRE(w.play(900));
  w.click("pause");
  w.settle();
  CHECK((w.row(0).value(1) == "on quay" || w.row(1).value(1) == "on quay"));
  CHECK_FALSE(w.reason().isEmpty());
}

TEST_CASE("of a take the books come by themselves, and follow the play head") {
  WhyWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(200));
  w.click("stop");
  w.session().look_at_tick(40);
  REQUIRE(w.booked());
  CHECK(w.row(1) == QStringList{"S", "nudge.lua:21 force", "3 N →"});
  // The tick of the first hit.
  std::int64_t hit = 0;
  w.session().with_take([&](const Take& take, TakeReader&) {
    for (const PlayEvent& event : take.events)
      if (hit == 0 && event.phase == ContactPhase::touch && (event.a == "fender" || event.b == "fender"))
        hit = event.tick;
  });
  REQUIRE(hit > 0);
  w.session().look_at_tick(hit);
  w.settle();
  CHECK(w.reason().startsWith("hit on quay: "));
  const auto& causes = w.session().why().acts().causes;
  CHECK(std::any_of(causes.begin(), causes.end(),
                    [](const Acting& acting) { return acting.cause.cause == Cause::hit && acting.force.y() > 90; }));
  w.session().live();
  CHECK_FALSE(w.session().why().known());
}

TEST_CASE("the script's line says what it did, and over the whole take") {
  WhyWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(400));
  w.click("stop");
  w.session().look_at_tick(100);
  REQUIRE(w.booked());
  w.settle();
  const auto notes = w.bench.desk()->editor()->notes();
  REQUIRE(notes.contains(21));
  CHECK(notes.at(21).words == "3 N →");
  REQUIRE(notes.at(21).spark.size() > 10);
  CHECK(notes.at(21).spark.front() > 0);
  CHECK(notes.at(21).spark.back() == 0);  // the breeze is over
  CHECK(notes.at(21).head == Approx(0.25).margin(0.01));
  w.session().look_at_tick(380);
  w.settle();
  CHECK(w.bench.desk()->editor()->notes().at(21).words == "–");
}

TEST_CASE("pointing at a force on the stage or on the card lights it on both") {
  WhyWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(60));
  w.click("pause");
  w.settle();
  auto* row = w.bench.findChild<QWidget*>("cause_0");
  REQUIRE(row);
  QEnterEvent enter(QPointF(5, 5), QPointF(5, 5), QPointF(5, 5));
  QApplication::sendEvent(row, &enter);
  REQUIRE(w.session().why().pointed());
  CHECK(w.session().why().pointed()->cause == Cause::weight);
  QEvent leave(QEvent::Leave);
  QApplication::sendEvent(row, &leave);
  CHECK_FALSE(w.session().why().pointed());
  // The weight's arrow goes straight down from the body's middle.
  const QPointF below = w.bench.stage()->pixel_of("fender") + QPointF(0, 40);
  QTest::mouseMove(w.bench.stage(), below.toPoint());
  w.settle();
  REQUIRE(w.session().why().pointed());
  CHECK(w.session().why().pointed()->cause == Cause::weight);
}

TEST_CASE("the ledger tells who took the energy, up to the play head or in the marked stretch") {
  WhyWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(300));
  w.click("stop");
  w.session().look_at_tick(280);
  REQUIRE(w.booked());
  w.click("chip_energy");
  w.settle();
  LedgerSheet* sheet = w.bench.ledger_sheet();
  CHECK(sheet->isVisible());
  REQUIRE(sheet->ledger());
  CHECK(sheet->ledger()->from == 0);
  CHECK(sheet->ledger()->to == 280);
  CHECK(sheet->ledger()->lines.front().cause.text() == "hit on quay");
  const auto at = [&](double seconds) {
    return QPoint(static_cast<int>(w.lanes()->pixel_of_time(seconds)), w.lanes()->height() - 40);
  };
  QTest::mousePress(w.lanes(), Qt::LeftButton, Qt::ShiftModifier, at(0.2));
  QTest::mouseMove(w.lanes(), at(0.4));
  QTest::mouseMove(w.lanes(), at(0.5));
  QTest::mouseRelease(w.lanes(), Qt::LeftButton, Qt::ShiftModifier, at(0.5));
  w.settle();
  REQUIRE(sheet->ledger());
  CHECK(std::abs(sheet->ledger()->from - 24) <= 2);
  CHECK(std::abs(sheet->ledger()->to - 60) <= 2);
  CHECK(sheet->ledger()->lines.front().cause.text() == "air drag");
  w.click("ledger_close");
  CHECK_FALSE(sheet->isVisible());
}

TEST_CASE("a turned dial is named as what made the take go another way") {
  WhyWindow w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(200));
  w.click("stop");
  w.session().look_at_tick(150);
  for (const Dial& dial : w.session().dials("fender"))
    if (dial.name == "push") w.session().set_dial("fender", dial, 9.0);
  REQUIRE(wait_until(
      [&] { return w.session().asked_number() > 0 && !w.session().asking() && w.session().last_answer() > 0; }));
  w.settle();
  w.click("chip_difference");
  DifferenceSheet* sheet = w.bench.difference_sheet();
  REQUIRE(wait_until([&] { return sheet->difference().has_value(); }));
  CHECK(sheet->isVisible());
  REQUIRE_FALSE(sheet->difference()->departures.empty());
  const Departure& first = sheet->difference()->departures.front();
  CHECK(first.body == "fender");
  CHECK(first.cause.script == "nudge.lua");
  CHECK(first.before == Approx(3).epsilon(1e-3));
  CHECK(first.now == Approx(9).epsilon(1e-3));
  w.click("difference_close");
  CHECK_FALSE(sheet->isVisible());
}

TEST_CASE("what is static has no books, and says so") {
  WhyWindow w("skerrow-quay");
  w.session().choose("quay");
  w.click("play");
  REQUIRE(w.play(20));
  w.click("pause");
  w.settle();
  CHECK_FALSE(w.session().why().known());
  CHECK(w.bench.findChild<QWidget*>("cause_0") == nullptr);
}
