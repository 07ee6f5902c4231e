// Water and breaking in the real window, by mouse and keyboard.
#include <QImage>
#include <QLabel>
#include <QSlider>
#include <catch2/catch.hpp>

#include "app/window.h"

using namespace bronvel;

namespace {

void choose_word(Window& w, const QString& row, const QString& word) {
  w.choose_from(w.find<QToolButton>(row), word);
  QTest::qWait(20);  // the rows are made anew
}

}  // namespace

TEST_CASE("a pane made from a box: sized, previewed, given a strength, and broken by a body thrown by hand") {
  Window w;
  Session& session = w.bench.session();
  w.bench.stage()->look_from(0, 8, false);
  const QPoint middle = w.bench.stage()->rect().center();
  w.drop("slab", middle + QPoint(-60, 40));
  w.drop("box", middle + QPoint(60, 20));
  REQUIRE(session.chosen() == "box");
  w.type_number("card_size0", "0.04");
  w.type_number("card_size1", "2.4");
  w.type_number("card_size2", "2.4");
  w.type_number("card_position_x", "0.5");
  w.type_number("card_position_z", "0");
  QTest::keyClick(w.bench.stage(), Qt::Key_End);  // let down
  choose_word(w, "card_breaks_into", "pane");
  REQUIRE(session.scene().find("box")->breaking.into == Breaking::Into::pane);
  choose_word(w, "card_held_pieces", "rim");
  w.type_number("card_tension_strength", "2e4 Pa");
  CHECK(session.scene().find("box")->breaking.tension == 2e4);

  // The preview: pieces apart, and together again; the document knows nothing of it.
  const Scene before = session.scene();
  const std::size_t whole = session.bodies().size();
  auto* slider = w.find<QSlider>("card_pull_apart");
  slider->setFocus();
  QTest::keyClick(slider, Qt::Key_End);
  CHECK(session.bodies().size() > whole + 20);
  QTest::keyClick(slider, Qt::Key_Home);
  CHECK(session.bodies().size() == whole);
  CHECK(session.scene() == before);

  w.drop("ball", middle + QPoint(-120, 60));
  REQUIRE(session.chosen() == "ball");
  w.type_number("card_position_x", "-1.5");
  w.type_number("card_position_z", "0");
  w.type_number("card_mass", "40");
  w.click("play");
  REQUIRE(w.play(60));
  CHECK(session.bodies().size() == whole + 1);  // it stands
  w.bench.stage()->setFocus();
  QTest::keyClick(w.bench.stage(), Qt::Key_2);
  REQUIRE(w.bench.stage()->tools()->tool() == Tool::hand);
  const QPoint from = w.bench.stage()->pixel_of("ball").toPoint();
  QTest::mousePress(w.bench.stage(), Qt::LeftButton, {}, from);
  for (int i = 1; i <= 10; ++i) {
    QTest::mouseMove(w.bench.stage(), from + QPoint(0, -6 * i));
    REQUIRE(w.play(6));
  }
  REQUIRE(w.play(60));
  for (int i = 1; i <= 10; ++i) {
    QTest::mouseMove(w.bench.stage(), from + QPoint(30 * i, -60));
    REQUIRE(w.play(3));
  }
  QTest::mouseRelease(w.bench.stage(), Qt::LeftButton, {}, from + QPoint(300, -60));
  REQUIRE(w.play(60));
  CHECK(session.bodies().size() > whole + 3);
  std::size_t cracks = 0;
  session.with_take([&](const Take& take, TakeReader&) { cracks = take.cracks.size(); });
  CHECK(cracks > 0);
  session.stop();
  CHECK(session.bodies().size() == whole + 1);  // the scene is as it was
}

TEST_CASE("a plank is cut three times with the knife, and played again it is cut the same") {
  Window w;
  Session& session = w.bench.session();
  w.bench.stage()->look_from(0, 20, false);
  const QPoint middle = w.bench.stage()->rect().center();
  w.drop("slab", middle + QPoint(0, 60));
  w.drop("plank", middle + QPoint(-40, 30));
  REQUIRE(session.chosen() == "plank");
  const double mass = session.scene().find("plank")->mass;
  w.click("play");
  REQUIRE(w.play(60));
  w.bench.stage()->setFocus();
  QTest::keyClick(w.bench.stage(), Qt::Key_4);
  REQUIRE(w.bench.stage()->tools()->tool() == Tool::knife);
  const Vec3 plank = w.place("plank");
  for (const double at : {-0.5, 0.0, 0.5}) {
    const QPoint across = w.pixel(plank + Vec3(at, 0, 0));
    w.drag(across + QPoint(0, -40), across + QPoint(0, 40));
    REQUIRE(w.play(20));
  }
  CHECK(session.bodies().size() == 5);  // slab and four
  session.pause();
  std::vector<Input> inputs;
  std::uint64_t digest = 0;
  session.runner()->with([&](Play& play) {
    inputs = play.inputs();
    digest = play.running().world.digest();
    double sum = 0;
    for (const BodyHandle body : play.running().world.bodies())
      if (play.running().name_of(body).starts_with("plank")) sum += play.running().world.mass(body).mass;
    CHECK(sum == Approx(mass).epsilon(1e-9));
  });
  CHECK(std::count_if(inputs.begin(), inputs.end(), [](const Input& i) { return i.kind == Input::Kind::cut; }) == 3);
  Play again(session.folder_as_typed(), session.seed(), inputs);
  for (std::int64_t i = 0; i < session.tick(); ++i) again.step();
  CHECK(again.running().world.digest() == digest);
  // A line beside everything cuts nothing, and says so.
  session.play();
  w.drag(QPoint(40, 120), QPoint(90, 120));
  REQUIRE(w.play(5));
  CHECK(session.bodies().size() == 5);
}

TEST_CASE("the tide is raised by a dial, and the barge lifts") {
  Window w("loaded-barge");
  Session& session = w.bench.session();
  session.choose("barge");
  w.click("play");
  REQUIRE(w.play(100));
  const double low = w.place("barge").y();
  REQUIRE(session.waters().size() == 1);
  const double level = session.waters()[0].level;
  w.type_number("dial_number_tide", "0.8");
  REQUIRE(w.play(360));
  CHECK(session.waters()[0].level == Approx(level + 0.8));
  CHECK(w.place("barge").y() > low + 0.4);
  REQUIRE(session.chosen_floating());
  CHECK(session.chosen_floating()->share > 0.05);
  CHECK(session.chosen_floating()->share < 0.9);
  CHECK(session.chosen_floating()->metacentre);
}

TEST_CASE("the card asks only what the kind of breaking needs, and says what can't be") {
  Window w;
  Session& session = w.bench.session();
  w.drop("box", w.bench.stage()->rect().center());
  const auto row = [&](const char* name) { return w.bench.findChild<QWidget*>(QString("card_") + name) != nullptr; };
  CHECK_FALSE(row("pieces"));
  CHECK_FALSE(row("pull_apart"));
  choose_word(w, "card_breaks_into", "cells");
  CHECK(row("pieces"));
  CHECK(row("pull_apart"));
  CHECK_FALSE(row("brick_length"));
  CHECK(w.find<QLabel>("card_piece_count")->text().startsWith("16 pieces"));
  w.type_number("card_pieces", "9");
  CHECK(w.find<QLabel>("card_piece_count")->text().startsWith("9 pieces"));
  choose_word(w, "card_breaks_into", "bricks");
  CHECK(row("brick_length"));
  CHECK_FALSE(row("piece_seed"));
  const Scene before = session.scene();
  w.type_number("card_brick_length", "0.5 mm");
  CHECK(session.scene() == before);  // 6,400 bricks are too many
  while (session.undo_name() != "new box") session.undo();
  CHECK(session.scene().find("box")->breaking == Breaking{});
}

TEST_CASE("cuts to break along are drawn on the stage, and undone") {
  Window w;
  Session& session = w.bench.session();
  w.bench.stage()->look_from(0, 10, false);
  w.drop("box", w.bench.stage()->rect().center() + QPoint(-100, 0));
  w.type_number("card_size0", "2");
  choose_word(w, "card_breaks_into", "planes");
  const Vec3 box = w.place("box");
  for (const double at : {-0.4, 0.3}) {
    w.click("card_draw_cut");
    REQUIRE(w.bench.stage()->picking());
    w.stage_click(w.pixel(box + Vec3(at, 0.3, 0.4)));
    w.stage_click(w.pixel(box + Vec3(at, -0.3, 0.4)));
    QTest::qWait(20);
  }
  const std::vector<Plane> planes = session.scene().find("box")->breaking.planes;
  REQUIRE(planes.size() == 2);
  CHECK(std::abs(planes[0].normal.x()) > 0.9);
  REQUIRE(session.chosen_pieces());
  CHECK(session.chosen_pieces()->pieces.size() == 3);
  // Escape in the middle of it draws none.
  w.click("card_draw_cut");
  QTest::keyClick(w.bench.stage(), Qt::Key_Escape);
  CHECK_FALSE(w.bench.stage()->picking());
  session.undo();
  CHECK(session.scene().find("box")->breaking.planes.size() == 1);
  w.click("card_no_cuts");
  CHECK(session.scene().find("box")->breaking.planes.empty());
}

TEST_CASE("a click of the knife cuts a plank across its longest way, there") {
  Window w("planks-at-the-saw");
  w.click("play");
  REQUIRE(w.play(2));
  w.bench.stage()->tools()->take(Tool::knife);
  const auto dynamic = [&] {
    for (const BodyView& view : w.bench.session().bodies())
      if (view.kind == MotionKind::dynamic) return view;
    return BodyView{};
  };
  const BodyView plank = dynamic();
  REQUIRE_FALSE(plank.name.empty());
  const std::size_t before = w.bench.session().bodies().size();
  w.stage_click(w.pixel(plank.pose.position));
  REQUIRE(w.play(2));
  CHECK(w.bench.session().bodies().size() == before + 1);
  const Bounds whole = shape_bounds(plank.shape, {}), part = shape_bounds(dynamic().shape, {});
  int longest = 0;
  (whole.high - whole.low).maxCoeff(&longest);
  CHECK((part.high - part.low).maxCoeff() < 0.7 * (whole.high - whole.low)[longest]);
}

TEST_CASE("the knife says when it met nothing that can be cut") {
  Window w("ice-stones");
  QString said;
  QObject::connect(&w.bench.session(), &Session::said, &w.bench, [&](const QString& text) { said = text; });
  w.click("play");
  REQUIRE(w.play(5));
  w.bench.stage()->tools()->take(Tool::knife);
  const std::size_t bodies = w.bench.session().bodies().size();
  w.drag(QPoint(30, 90), QPoint(80, 90));
  CHECK(said.contains("nothing that can be cut"));
  // So does a click beside everything.
  said.clear();
  w.stage_click(QPoint(30, 90));
  CHECK(said.contains("nothing that can be cut"));
  REQUIRE(w.play(5));
  CHECK(w.bench.session().bodies().size() == bodies);
}

TEST_CASE("strain is read off the chosen body while it plays, and debris shrinks before it goes") {
  Window w("chandlers-window");
  Session& session = w.bench.session();
  session.edit("short debris", [](Scene& scene) {
    scene.find("pane")->breaking.debris_below = 1;
    scene.find("pane")->breaking.debris_age = 0.2;
  });
  session.choose("pane");
  w.click("play");
  REQUIRE(w.play(20));
  const std::size_t bonds = session.chosen_bonds().size();
  CHECK(bonds == session.chosen_pieces()->faces.size());
  REQUIRE(w.play(40));
  CHECK(session.chosen_bonds().size() < bonds);
  const std::size_t most = session.bodies().size();
  REQUIRE(most > 15);
  bool shrinking = false;
  for (int i = 0; i < 10 && !shrinking; ++i) {
    REQUIRE(w.play(6));
    for (const BodyView& view : session.bodies()) shrinking = shrinking || (view.left > 0 && view.left < 1);
  }
  CHECK(shrinking);
  REQUIRE(w.play(240));
  CHECK(session.bodies().size() < most);
  CHECK_THAT(w.log(), Catch::Contains("debris removed: lasted its time"));
}

TEST_CASE("waters and winds are drawn: waves, rule, strokes, and a line on what floats") {
  Window w("bell-buoy");
  Session& session = w.bench.session();
  session.edit("wind", [](Scene& scene) {
    SceneZone wind;
    wind.name = "breeze";
    wind.shape = Box{{20, 4, 20}};
    wind.position = {0, 2, 0};
    wind.wind = {8, 0, 0};
    wind.gusts = 0.5;
    scene.zones.push_back(wind);
  });
  REQUIRE(session.waters().size() == 1);
  const WaterView still = session.waters()[0];
  CHECK(still.trains.size() == 3);
  session.choose("buoy");
  w.click("play");
  REQUIRE(w.play(120));
  // The stage draws the same sum that lifts bodies.
  const WaterView moved = session.waters()[0];
  session.runner()->with([&](Play& play) {
    const World& world = play.running().world;
    const WaterNow water = world.water(*play.running().find_zone("sea"));
    for (const double x : {-7.0, 0.0, 3.3}) CHECK(moved.height(x, 2) == Approx(water.height(x, 2)).margin(1e-9));
  });
  CHECK(std::abs(moved.height(1, 1) - still.height(1, 1)) > 1e-4);
  REQUIRE(wait_until([&] { return w.bench.stage()->frames_drawn() > 3; }));
  const QImage picture = w.bench.stage()->picture();
  // A fair share of it is blue-green.
  int wet = 0;
  for (int y = 0; y < picture.height(); y += 4)
    for (int x = 0; x < picture.width(); x += 4) {
      const QColor colour = picture.pixelColor(x, y);
      wet += colour.blue() > colour.red() + 20 ? 1 : 0;
    }
  CHECK(wet > picture.width() * picture.height() / 16 / 5);
}
