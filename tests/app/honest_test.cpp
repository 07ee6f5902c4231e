// What the bench says is so; what one points at stays; keys go where one looks.
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <catch2/catch.hpp>

#include "app/kit/number_field.h"
#include "app/stage/stage_drawings.h"
#include "app/window.h"

using namespace bronvel;

namespace {

QString said(Window& w) {
  auto* frame = w.find<QFrame>("said");
  return frame->isVisible() ? w.find<QLabel>("said_text")->text() : QString();
}

}  // namespace

TEST_CASE("choosing and letting go moves nothing on the stage: the card has a place of its own") {
  Window w("skerrow-quay");
  const QPoint crate = w.bench.stage()->pixel_of("fender").toPoint();
  const QSize stage = w.bench.stage()->size();
  w.bench.session().choose("");
  CHECK(w.bench.stage()->size() == stage);
  CHECK(w.bench.stage()->pixel_of("fender").toPoint() == crate);
  w.stage_click(crate);
  CHECK(w.bench.session().chosen() == "fender");
  CHECK(w.bench.stage()->pixel_of("fender").toPoint() == crate);
  CHECK_FALSE(w.bench.stage()->isAncestorOf(w.bench.card()));
  // Folding it away is one's own act.
  QTest::keyClick(&w.bench, Qt::Key_F9);
  CHECK_FALSE(w.bench.card()->isVisible());
  CHECK(wait_until([&] { return w.bench.stage()->width() > stage.width(); }));
  QTest::keyClick(&w.bench, Qt::Key_F9);
  CHECK(w.bench.card()->isVisible());
  QTest::keyClick(&w.bench, Qt::Key_F11);
  CHECK_FALSE((w.bench.card()->isVisible() || w.bench.desk()->isVisible() || w.bench.deck()->isVisible()));
  QTest::keyClick(&w.bench, Qt::Key_F11);
  CHECK((w.bench.card()->isVisible() && w.bench.desk()->isVisible() && w.bench.deck()->isVisible()));
}

TEST_CASE("fields of the card move as the body moves, and keep their sign") {
  Window w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(60));
  for (int i = 0; i < 8; ++i) w.bench.session().refresh();
  std::vector<QString> shown;
  for (NumberField* field : w.bench.card()->findChildren<NumberField*>())
    if (field->objectName().startsWith("card_position")) shown.push_back(field->text());
  REQUIRE(shown.size() == 3);
  CHECK(shown[0].toDouble() == Approx(w.place("fender").x()).margin(0.02));
  CHECK(shown[1].toDouble() == Approx(w.place("fender").y()).margin(0.1));
}

TEST_CASE("what the bench has to say is whole, near the act, and in the log") {
  Window w("skerrow-quay");
  w.type_number("card_mass", "nine and a half");
  const QString message = said(w);
  CHECK(message.contains("is not a number"));
  CHECK(message.contains("sums and prefixes work: 12*3, 2.5 kkg"));
  auto* label = w.find<QLabel>("said_text");
  CHECK(label->fontMetrics().boundingRect(0, 0, label->width(), 400, Qt::TextWordWrap, message).height() <=
        label->height() + 1);
  CHECK(w.bench.stage()->rect().contains(w.find<QFrame>("said")->geometry()));
  CHECK_THAT(w.log(), Catch::Contains("nine and a half"));
}

TEST_CASE("a mark of an error goes when it is mended, and does not come back with another") {
  Window w("cork-hoppers");
  w.bench.session().choose("cork_1");
  w.choose_from(w.find<QToolButton>("script_picker"), "New script on cork_1");
  w.type_script("function on.tick()\n  body:force(5)\nend");
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
  w.click("play");
  REQUIRE(w.play(5));
  ScriptEditor* editor = w.bench.desk()->editor();
  CHECK(editor->annotation(1).contains("got 5"));
  w.type_script("function on.tick()\n  body:force(vec(0, 1, 0))\nend");
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
  REQUIRE(w.play(5));
  CHECK(editor->annotation(1).isEmpty());
  w.type_script("function on.tick()\n  body:impulse(7)\nend");
  QTest::keyClick(&w.bench, Qt::Key_S, Qt::ControlModifier);
  REQUIRE(w.play(5));
  CHECK(editor->annotation(1).contains("got 7"));
  CHECK_FALSE(editor->annotation(1).contains("got 5"));
}

TEST_CASE("where there is no script nothing can be typed, and nothing says that it is saved") {
  Window w;
  ScriptEditor* editor = w.bench.desk()->editor();
  editor->setFocus();
  QTest::keyClicks(editor, "function");
  CHECK(editor->text().isEmpty());
  CHECK(w.bench.session().scripts().empty());
}

TEST_CASE("play gives the stage the keys and says so; a field that is done with gives them back") {
  Window w("cork-hoppers");
  w.bench.desk()->editor()->setFocus();
  w.click("play");
  CHECK(w.bench.stage()->hasFocus());
  CHECK(said(w).contains("hop"));
  w.click("stop");
  w.bench.session().choose("cork_1");
  auto* mass = w.find<QLineEdit>("card_mass");
  mass->setFocus();
  mass->selectAll();
  QTest::keyClicks(mass, "3");
  QTest::keyClick(mass, Qt::Key_Return);
  CHECK(w.bench.session().scene().find("cork_1")->mass == 3);
  CHECK(w.bench.stage()->hasFocus());
  mass->setFocus();
  QTest::keyClick(mass, Qt::Key_Escape);
  CHECK(w.bench.stage()->hasFocus());
}

TEST_CASE("Ctrl+Z after a drop from the shelf takes the drop back") {
  Window w;
  w.drop("box", w.bench.stage()->rect().center());
  REQUIRE(w.bench.session().scene().bodies.size() == 1);
  QWidget* focus = QApplication::focusWidget();
  REQUIRE(qobject_cast<NumberField*>(focus));
  QTest::keyClick(focus, Qt::Key_Z, Qt::ControlModifier);
  CHECK(w.bench.session().scene().bodies.empty());
}

TEST_CASE("in straight views hand and flick act where the pointer is") {
  Window w("ice-stones");
  w.bench.stage()->look_from(0, 90, true);
  w.click("play");
  REQUIRE(w.play(2));
  w.bench.stage()->tools()->take(Tool::flick);
  const QPoint from = w.bench.stage()->pixel_of("stone_3").toPoint();
  const Vec3 before = w.place("stone_3");
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  QTest::mouseMove(w.bench.stage(), from + QPoint(13, 0));
  QTest::mouseMove(w.bench.stage(), from + QPoint(26, 0));
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, from + QPoint(26, 0));
  REQUIRE(w.play(30));
  const Vec3 after = w.place("stone_3");
  CHECK((after - before).norm() > 0.02);
  CHECK((after - before).norm() < 5);
  CHECK(std::abs(after.y() - before.y()) < 0.1);  // along the ice, not into the sky
  // The hand carries it by as much as the pointer moves.
  w.bench.stage()->tools()->take(Tool::hand);
  const QPoint at = w.bench.stage()->pixel_of("stone_2").toPoint();
  const Vec3 begin = w.place("stone_2");
  const double metre = std::hypot((w.pixel(begin + Vec3(1, 0, 0)) - w.pixel(begin)).x(),
                                  (w.pixel(begin + Vec3(1, 0, 0)) - w.pixel(begin)).y());
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, at);
  for (int i = 1; i <= 10; ++i) {
    QTest::mouseMove(w.bench.stage(), at + QPoint(-4 * i, 0));
    REQUIRE(w.play(4));
  }
  REQUIRE(w.play(60));
  const Vec3 end = w.place("stone_2");
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, at + QPoint(-40, 0));
  CHECK((end - begin).norm() == Approx(40 / metre).epsilon(0.35));
  CHECK(std::abs(end.y() - begin.y()) < 0.3);
}

TEST_CASE("a scene from nothing brings back what falls out, and says so") {
  Window w;
  REQUIRE(w.bench.session().scene().sweep_away);
  w.drop("ball", w.bench.stage()->rect().center());
  w.click("play");
  REQUIRE(w.play(260));
  CHECK_THAT(w.log(), Catch::Contains("fell out of the scene and was put back"));
}

TEST_CASE("a new seed starts no play; saving elsewhere is said; what sifted one scene does not sift the next") {
  Window w("cork-hoppers");
  const std::uint64_t before = w.bench.session().seed();
  w.click("seed");
  CHECK(w.bench.session().seed() == before + 1);
  CHECK(w.bench.session().play_state() == Session::PlayState::editing);
  CHECK(said(w).contains(QString::number(before + 1)));
  CHECK(w.find<QToolButton>("seed")->text().contains(QString::number(before + 1)));

  w.bench.deck()->show_page("Bodies");
  auto* sifted = w.find<QLineEdit>("bodies_filter");
  QTest::keyClicks(sifted, "cork_1");
  const QString other = w.copy.path() + "/another";
  REQUIRE(w.bench.save_as(other));
  CHECK(said(w).contains(other));
  CHECK(w.bench.session().path() == other);
  w.bench.open_new();
  CHECK(sifted->text().isEmpty());
}

TEST_CASE("the card stays where it was when a choice brings other rows, and its lists begin at what is set") {
  Window w("skerrow-quay");
  std::string crate;
  for (const Body& body : w.bench.session().scene().bodies)
    if (body.kind == MotionKind::dynamic && std::holds_alternative<Box>(body.shape)) crate = body.name;
  w.bench.session().choose(crate);
  QTest::qWait(20);
  auto* scroll = w.bench.card()->findChild<QScrollArea*>();
  scroll->verticalScrollBar()->setValue(scroll->verticalScrollBar()->maximum());
  const int before = scroll->verticalScrollBar()->value();
  REQUIRE(before > 50);
  w.bench.session().set_value(crate, *find_property("breaks_into"), std::string("bricks"));
  QTest::qWait(60);
  CHECK(std::abs(scroll->verticalScrollBar()->value() - before) < 30);
  auto* choice = w.find<QToolButton>("card_breaks_into");
  emit choice->menu()->aboutToShow();
  REQUIRE(choice->menu()->activeAction());
  CHECK(choice->menu()->activeAction()->text().startsWith("bricks"));
}

TEST_CASE("a gap in a grid is the free space between two") {
  Window w("skerrow-quay");
  std::string crate;
  for (const Body& body : w.bench.session().scene().bodies)
    if (body.kind == MotionKind::dynamic && std::holds_alternative<Box>(body.shape)) crate = body.name;
  const std::size_t bodies = w.bench.session().scene().bodies.size();
  w.bench.session().choose(crate);
  w.choose_from(w.find<QToolButton>("build_arrange"), "In a grid");
  w.type_number("arrange_along_x", "2");
  w.type_number("arrange_along_z", "1");
  w.type_number("arrange_gap_x", "0.5");
  w.click("arrange_make");
  const auto& all = w.bench.session().scene().bodies;
  REQUIRE(all.size() == bodies + 1);
  const Body& first = *w.bench.session().scene().find(crate);
  const auto bounds = [](const Body& b) { return shape_bounds(b.shape, {b.position, b.orientation}); };
  CHECK(bounds(all.back()).low.x() - bounds(first).high.x() == Approx(0.5));
}

TEST_CASE("while a flick is drawn, the way that the body will fly is dotted; it is the way that it flies") {
  Window w("skerrow-quay");
  w.click("play");
  REQUIRE(w.play(2));
  w.find<StageTools>("stage_tools")->take(Tool::flick);
  const std::vector<BodyView>& bodies = w.bench.session().bodies();
  const Vec3 from = w.place("fender"), velocity(3, 4, 0), gravity(0, -9.81, 0);
  const std::vector<Vec3> flight = free_flight(bodies, "fender", from, velocity, gravity);
  REQUIRE(flight.size() > 10);
  // v t + g t² / 2 at half a second.
  CHECK((flight[9] - (from + velocity * 0.5 + gravity * 0.125)).norm() < 1e-9);
  // It ends at what it meets: nothing of it is under the quay.
  double lowest = 1e9;
  for (const BodyView& body : bodies)
    if (body.kind == MotionKind::fixed) lowest = std::min(lowest, shape_bounds(body.shape, body.pose).low.y());
  for (const Vec3& at : flight) CHECK(at.y() > lowest);
  const QPoint on = w.bench.stage()->pixel_of("fender").toPoint();
  const QImage before = w.bench.stage()->grab().toImage();
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, on);
  QTest::mouseMove(w.bench.stage(), on + QPoint(60, -50));
  QTest::qWait(30);
  CHECK(w.bench.stage()->grab().toImage() != before);
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, on + QPoint(60, -50));
}
